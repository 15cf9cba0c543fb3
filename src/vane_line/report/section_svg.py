"""A section as SVG to scale: one user unit is a millimetre, outlines as drawn on the screen, nothing fetched."""

from __future__ import annotations

from html import escape
from typing import Any

WIDTH_MM, HEIGHT_MM = 18.0, 20.0
STYLE = {
    "prep": ("now", 'stroke="#111" stroke-width="0.12"'),
    "preop": ("before", 'stroke="#555" stroke-width="0.08" stroke-dasharray="0.28 0.16"'),
    "mockup": ("mock-up", 'stroke="#7a5a1a" stroke-width="0.08" stroke-dasharray="0.1 0.14"'),
    "opposing": ("opposing", 'stroke="#1f4e8c" stroke-width="0.09"'),
}
BESIDE_MM, ABOVE_MM = 1.6, 14.0  # of the finish line, where the planned crown may stand
SCALE_MM = 2.0


def section_svg(cut: dict[str, Any], title: str, minimum_mm: float | None) -> str:
    """cut: outlines by role in plane coordinates (mm, y up), where the finish line crosses, and thicknesses.

    minimum_mm: drawn as a ribbon inside the earlier outline, over the finish line.
    """
    lines = cut["lines"]
    half_w, half_h = WIDTH_MM / 2, HEIGHT_MM / 2
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH_MM:g}mm" height="{HEIGHT_MM:g}mm" '
        f'viewBox="{-half_w:g} {-half_h:g} {WIDTH_MM:g} {HEIGHT_MM:g}">',
        f"<title>{escape(title)}</title>",
        f'<rect x="{-half_w:g}" y="{-half_h:g}" width="{WIDTH_MM:g}" height="{HEIGHT_MM:g}" fill="#fff"/>',
    ]
    before = _path(lines.get("preop", []))
    if minimum_mm and before:
        parts.append(f'<clipPath id="crown"><path d="{_crown(cut["crossings"])}"/></clipPath>')
        parts.append(f'<clipPath id="tooth" clip-path="url(#crown)"><path d="{before}"/></clipPath>')
        parts.append(
            f'<path id="minimum" d="{before}" clip-path="url(#tooth)" fill="none" stroke="#9fc4b4" '
            f'stroke-width="{2 * minimum_mm:g}" stroke-linejoin="round"/>'
        )
    for role, (name, look) in STYLE.items():
        path = _path(lines.get(role, []))
        if path:
            parts.append(f'<path id="{role}" d="{path}" fill="none" {look}><title>{name}</title></path>')
    parts += [_told(row) for row in cut["thickness"]]
    x, y = -half_w + 0.5, half_h - 0.6
    parts.append(f'<line x1="{x:g}" x2="{x + SCALE_MM:g}" y1="{y:g}" y2="{y:g}" stroke="#111" stroke-width="0.08"/>')
    parts.append(f'<text x="{x + SCALE_MM + 0.3:g}" y="{y + 0.2:g}" font-size="0.6">{SCALE_MM:g} mm</text>')
    parts.append(f'<text x="{x:g}" y="{-half_h + 0.9:g}" font-size="0.7">{escape(title)}</text></svg>')
    return "\n".join(parts)


def _crown(ends: list[list[float]]) -> str:
    """The part of the drawing over the finish line: gingiva and root lie outside it. All of it where none crosses."""
    if len(ends) < 2:
        return _path([[[-99, -99], [99, -99], [99, 99], [-99, 99]]]) + "Z"
    (x1, y1), (x2, y2) = ends
    corners = [
        [x1 - BESIDE_MM, y1], [x1, y1], [x2, y2], [x2 + BESIDE_MM, y2],
        [x2 + BESIDE_MM, ABOVE_MM], [x1 - BESIDE_MM, ABOVE_MM],
    ]  # fmt: skip
    return _path([corners]) + "Z"


def _told(row: dict[str, Any]) -> str:
    """A thickness between the two outlines, with its figure."""
    (x, y), (x2, y2) = row["place"], row["to"]
    line = f'<line x1="{x:.3f}" y1="{-y:.3f}" x2="{x2:.3f}" y2="{-y2:.3f}" stroke="#8c2a0c" stroke-width="0.06"/>'
    return f'{line}<text x="{x2 + 0.15:.3f}" y="{-y2 - 0.1:.3f}" font-size="0.6" fill="#8c2a0c">{row["mm"]:.2f}</text>'


def _path(chains: list[list[list[float]]]) -> str:
    return "".join(
        "".join(f"{'L' if k else 'M'}{x:.3f} {-y:.3f}" for k, (x, y) in enumerate(chain)) for chain in chains
    )
