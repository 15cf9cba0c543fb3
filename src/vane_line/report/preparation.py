"""The record of one measured preparation on one A4 page, made from the result alone: as HTML and as PDF.

Nothing here measures or judges: the document's numbers, the surfaces they were taken from, and what the person did.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry
from vane_line.core.fields import inside_fields
from vane_line.core.judge.findings import Finding, report
from vane_line.core.judge.judgement import Judgement
from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import plane_section
from vane_line.report.sheet import (
    HEIGHT_MM,
    WIDTH_MM,
    PdfSheet,
    Sheet,
    SvgSheet,
    clipped,
    printed_page,
    text_mm,
    wrapped,
)
from vane_line.report.views import HALF_MM, Judged, View, view
from vane_line.report.words import DECIDES

LEFT, RIGHT = 12.0, WIDTH_MM - 12.0
VIEW_MM = 44.0
CONTOUR_MM = 0.5
ROW_MM, MOST_LINES = 4.1, 5
SECTION_MM = 8.2  # half of a section's side
ROSE_DEG = 16.0  # taper at the rose's rim
DASH = [(0.9, 0.6)]


@dataclass(frozen=True)
class About:
    """What the result does not know. scans: role, file's name and the first of its hash. by_hand: what was drawn,
    chosen or corrected, in words. made_at: as it shall be printed; version: of the program."""

    code: str
    version: str
    made_at: str
    scans: tuple[tuple[str, str, str], ...] = ()
    by_hand: tuple[str, ...] = ()
    signed: str = ""


@dataclass(frozen=True, eq=False)
class Record:
    """All that the page shows. sections: by title, outlines by role in mm, the plane's own coordinates."""

    document: dict[str, Any]
    about: About
    views: dict[str, View]
    sections: dict[str, dict[str, list[Floats]]]


def record_of(
    document: dict[str, Any], geometry: Geometry, judgement: Judgement, surfaces: dict[str, Surface], about: About
) -> Record:
    """surfaces: prep, and the others by role, in the preparation scan's coordinates."""
    frame, line = geometry.frame, geometry.line.points
    values = inside_fields(geometry, judgement)
    with np.errstate(invalid="ignore"):
        judged = Judged(geometry.inside, values["depth"], values["depth"] < values["depth_min"],
                        values["depth"] > values["depth_max"])  # fmt: skip
    facing = {
        "occlusal": (frame.occlusal, frame.facial), "facial": (frame.facial, frame.occlusal),
        geometry.options.tooth.lingual_word: (-frame.facial, frame.occlusal), "mesial": (frame.mesial, frame.occlusal),
    }  # fmt: skip
    prep = surfaces["prep"]
    views = {name: view(prep, judged, line, toward, up, CONTOUR_MM) for name, (toward, up) in facing.items()}
    middle = line.mean(axis=0)
    sections = {
        "faciolingual": _section(surfaces, middle, frame.mesial, (frame.facial, frame.occlusal)),
        "mesiodistal": _section(surfaces, middle, frame.facial, (frame.mesial, frame.occlusal)),
    }
    return Record(document, about, views, sections)


def as_pdf(record: Record) -> bytes:
    """The page as PDF; equal records give equal bytes."""
    return _drawn(PdfSheet(_title(record)), record)


def as_html(record: Record) -> bytes:
    """The page as HTML that fetches nothing and prints on one sheet."""
    return printed_page(_title(record), _drawn(SvgSheet(_title(record)), record))


def _title(record: Record) -> str:
    return f"Preparation {record.about.code}, tooth {record.document['tooth']}"


def _drawn(sheet: Sheet, record: Record) -> bytes:
    found = report(record.document)
    y = _head(sheet, record)
    y = _answer(sheet, found.answer.text, found.answer.counts, y)
    y = _views(sheet, record, y)
    y = _figures(sheet, record, y)
    y = _strip(sheet, record.document, y)
    low = _foot(sheet, record)
    said = (f"{f.title}: {record.document['verdicts'][f.verdict]['why']}" for f in found.unmeasured)
    unmeasured = list(dict.fromkeys(said))
    low = _listed(sheet, "Not measured", unmeasured, low)
    _findings(sheet, record, _in_order(found), y, low)
    return sheet.bytes()


# --- head and foot -------------------------------------------------------------------------------------------------


def _head(sheet: Sheet, record: Record) -> float:
    d, about = record.document, record.about
    tooth = ToothNumber(d["tooth"])
    sheet.text(LEFT, 17, f"{about.code}", 15, bold=True)
    after = LEFT + text_mm(about.code, 15, bold=True) + 4
    kind, material = (d[name].replace("-", " ") for name in ("restoration", "material"))
    what = f"tooth {d['tooth']} (Universal {tooth.universal}), {kind}, {material}"
    sheet.text(after, 17, clipped(what, RIGHT - after, 11), 11)
    standard = f"standard {d['standard']['id']}, version {d['standard']['version']}"
    how = f"Vane Line {about.version}, algorithm {d['algorithm_version']}; {standard}; lengths in mm, angles in degrees"
    sheet.text(LEFT, 22, how, 7.5, grey=0.25)
    sheet.text(RIGHT, 22, about.made_at, 7.5, anchor="end")
    sheet.rule(LEFT, RIGHT, 24, 0.5)
    return 24


def _answer(sheet: Sheet, answer: str, counts: str, y: float) -> float:
    sheet.text(LEFT, y + 7, clipped(answer, RIGHT - LEFT, 15, bold=True), 15, bold=True)
    sheet.text(LEFT, y + 11.6, counts, 8.5, grey=0.2)
    return y + 14


def _foot(sheet: Sheet, record: Record) -> float:
    """From the lower edge upward; the height that is left for what stands above it."""
    about, y = record.about, HEIGHT_MM - 9
    sheet.text(LEFT, y, DECIDES, 6.6)
    y -= 4.2
    sheet.rule(LEFT, RIGHT, y + 1.0, 0.2)
    signed = f"checked by {about.signed}" if about.signed else "checked by ____________________   date ______________"
    sheet.text(LEFT, y, signed, 8)
    scans = "; ".join(f"{role} {name} (SHA-256 {digest}…)" for role, name, digest in about.scans)
    y = _listed(sheet, "By hand", list(about.by_hand) or ["nothing: as the program found it"], y - 4.5)
    return _listed(sheet, "Scans", [scans] if scans else ["not named"], y)


def _listed(sheet: Sheet, title: str, rows: list[str], low: float) -> float:
    """A titled paragraph that ends at `low`; the height above it."""
    if not rows:
        return low
    head = f"{title}: "
    lines = wrapped(head + "; ".join(rows), RIGHT - LEFT, 6.8, MOST_LINES)
    for k, line in enumerate(reversed(lines)):
        sheet.text(LEFT, low - k * 3.1, line, 6.8, grey=0.15)
    return low - len(lines) * 3.1 - 0.9


# --- pictures ------------------------------------------------------------------------------------------------------


def _views(sheet: Sheet, record: Record, y: float) -> float:
    apart = (RIGHT - LEFT - 4 * VIEW_MM) / 3
    scale = VIEW_MM / (2 * HALF_MM)
    for k, (name, shown) in enumerate(record.views.items()):
        x = LEFT + k * (VIEW_MM + apart)
        sheet.image(x, y, VIEW_MM, VIEW_MM, shown.png)

        def put(chains: list[list[tuple[float, float]]], width: float, x: float = x) -> None:
            for chain in chains:
                sheet.line([(x + scale * a, y + scale * b) for a, b in chain], width)

        put(shown.contours, 0.09)
        put(shown.finish_line, 0.35)
        sheet.text(x + 0.5, y + VIEW_MM - 1, name, 7.5)
    sheet.line([(RIGHT - 5 * scale, y + VIEW_MM - 0.8), (RIGHT, y + VIEW_MM - 0.8)], 0.3)
    sheet.text(RIGHT, y + VIEW_MM - 1.6, "5 mm", 6.5, anchor="end")
    told = (
        f"hatched: short of the minimum; dotted: over-cut; a line every {CONTOUR_MM} of depth; thick: the finish line"
    )
    sheet.text(LEFT, y + VIEW_MM + 3, told, 6.8, grey=0.2)
    return y + VIEW_MM + 5


def _section(
    surfaces: dict[str, Surface], at: Floats, normal: Floats, across: tuple[Floats, Floats]
) -> dict[str, list[Floats]]:
    out = {}
    for role, surface in surfaces.items():
        near, _ = surface.keep_vertices(np.linalg.norm(surface.vertices - at, axis=1) < 2 * SECTION_MM)
        if near.n_faces == 0:
            continue
        chains = [chain - at for chain in plane_section(near, at, normal)]
        out[role] = [np.stack([chain @ across[0], chain @ across[1]], axis=1) for chain in chains]
    return out


def _figures(sheet: Sheet, record: Record, y: float) -> float:
    side, x = 38.0, LEFT
    for title, outlines in record.sections.items():
        _outlines(sheet, outlines, x, y, side)
        sheet.text(x + 0.5, y + side - 1, f"section {title}", 7)
        x += side + 3
    if record.document["convergence"]:
        _rose(sheet, record.document, x + side / 2, y + side / 2, side / 2 - 3)
        x += side + 3
    _numbers(sheet, record.document, x, y, RIGHT - x)
    return y + side + 2


LOOKS: dict[str, dict[str, Any]] = {
    "opposing": {"width": 0.15, "grey": 0.45}, "preop": {"width": 0.2, "grey": 0.35, "dash": DASH},
    "mockup": {"width": 0.2, "grey": 0.2, "dash": [(0.35, 0.5)]}, "prep": {"width": 0.4},
}  # fmt: skip


def _outlines(sheet: Sheet, outlines: dict[str, list[Floats]], x: float, y: float, side: float) -> None:
    """Facial or mesial to the right, occlusal up; cut off at the square's rim."""
    scale, half = side / (2 * SECTION_MM), SECTION_MM
    sheet.line([(x, y), (x + side, y), (x + side, y + side), (x, y + side), (x, y)], 0.1, 0.6)
    lift = 2.2  # the preparation stands over the finish line, in the middle of which the plane's origin lies
    for role, look in LOOKS.items():
        for chain in outlines.get(role, []):
            shown = chain - [0, lift]
            inside = np.asarray((np.abs(shown) < half).all(axis=1))
            for run in np.split(np.arange(len(shown)), np.flatnonzero(np.diff(inside.astype(int))) + 1):
                if inside[run[0]] and len(run) > 1:
                    sheet.line([(x + scale * (half + p), y + scale * (half - q)) for p, q in shown[run]], **look)


def _rose(sheet: Sheet, d: dict[str, Any], x: float, y: float, radius: float) -> None:
    """Taper of the walls by azimuth: facial up, mesial to the right; outward is more."""

    def ring(degrees: float, width: float, grey: float) -> None:
        turn = np.radians(np.arange(0, 361, 5))
        r = radius * degrees / ROSE_DEG
        sheet.line([(x + r * np.sin(t), y - r * np.cos(t)) for t in turn], width, grey)

    for degrees in (4, 8, 16):
        ring(degrees, 0.1, 0.6)
        sheet.text(x + 0.4, y - radius * degrees / ROSE_DEG - 0.4, f"{degrees}", 5.5, grey=0.4)
    chain: list[tuple[float, float]] = []
    for row in [*d["convergence"]["by_azimuth"], None]:
        taper = None if row is None else row["taper_deg"]
        if taper is None:
            if len(chain) > 1:
                sheet.line(chain, 0.4)
            chain = []
            continue
        r, t = radius * float(np.clip(taper, 0, ROSE_DEG)) / ROSE_DEG, np.radians(row["azimuth_deg"])
        chain.append((x + r * np.sin(t), y - r * np.cos(t)))
    lingual = ToothNumber(d["tooth"]).lingual_word
    for name, dx, dy, anchor in (("facial", 0, -1, "middle"), (lingual, 0, 1, "middle"), ("mesial", 1, 0, "end"),
                                 ("distal", -1, 0, "start")):  # fmt: skip
        sheet.text(
            x + dx * (radius + 3), y + dy * (radius + 2) + (0.8 if dy >= 0 else 0), name, 6, anchor=anchor, grey=0.2
        )


def _numbers(sheet: Sheet, d: dict[str, Any], x: float, y: float, width: float) -> None:
    rows = [(name, value) for name, value in _key_figures(d) if value]
    for k, (name, value) in enumerate(rows[:9]):
        at = y + 3 + k * 4.1
        sheet.text(x, at, clipped(name, width - 24, 7.5), 7.5, grey=0.2)
        sheet.text(x + width, at, value, 7.5, anchor="end")


def _key_figures(d: dict[str, Any]) -> list[tuple[str, str]]:
    """Name and value of what every record carries, '' where it was not told."""

    def n(value: Any, digits: int = 2) -> str:
        return "" if value is None else f"{value:.{digits}f}"

    def of(key: str, *names: str) -> Any:
        found = d.get(key)
        for name in names:
            found = None if found is None else found.get(name)
        return found

    widths = [n(of("finish_line", "width_mm", k)) for k in ("low", "median", "high")]
    return [
        ("least reduction", n(of("reduction", "overall", "low_mm"))),
        ("least clearance", n(of("clearance", "overall", "low_mm"))),
        ("convergence faciolingual", n(of("convergence", "faciolingual_deg"), 1)),
        ("convergence mesiodistal", n(of("convergence", "mesiodistal_deg"), 1)),
        ("least draft on the path", n(of("path", "least_draft_deg"), 1)),
        ("wall height", n(of("resistance", "height_mm"), 1)),
        ("finish line, width", " / ".join(widths) if all(widths) else ""),
        ("undercut, deepest", n(of("undercut", "max_depth_mm"))),
        ("cavity, depth of the floor", n(of("cavity", "floor", "depth_median_mm"))),
        ("isthmus", n(of("cavity", "isthmus", "width_mm"))),
        ("incisal reduction", n(of("veneer", "incisal", "reduction_mm"))),
        ("ledge", n(of("child", "ledge_mm"))), ("bulge", n(of("child", "cervical_undercut_mm"))),
        ("crown, size", of("child", "size") or ""),
        ("U of a reduction", n(of("uncertainty", "U_mm"))),
    ]  # fmt: skip


def _strip(sheet: Sheet, d: dict[str, Any], y: float) -> float:
    """Width of the ledge along the line, unrolled; nothing where it has none."""
    samples = [s for s in d["finish_line"]["samples"] if s["width_mm"] is not None]
    if len(samples) < 20 or d["finish_line"]["width_mm"] is None:
        return y
    high, wide = 12.0, RIGHT - LEFT - 8
    top = max(1.6, 1.1 * max(s["width_mm"] for s in samples))
    length = max(s["s_mm"] for s in d["finish_line"]["samples"]) or 1.0

    def at(s: dict[str, Any]) -> tuple[float, float]:
        return LEFT + 8 + wide * s["s_mm"] / length, y + high * (1 - np.clip(s["width_mm"] / top, 0, 1))

    sheet.rule(LEFT + 8, RIGHT, y + high, 0.2)
    limits = {v["limit"] for v in d["verdicts"] if v["criterion"] == "finish-line-width" and v["bound"] == "min"}
    for limit in sorted(v for v in limits if v is not None and v < top):
        level = y + high * (1 - limit / top)
        sheet.line([(LEFT + 8, level), (RIGHT, level)], 0.15, 0.3, DASH)
        sheet.text(LEFT + 7.5, level + 0.8, f"{limit:.1f}", 6, anchor="end")
    run: list[dict[str, Any]] = []
    for s in [*samples, None]:
        if s is not None and (not run or (s["s_mm"] - run[-1]["s_mm"] < 0.35 and s["defined"] == run[-1]["defined"])):
            run.append(s)
            continue
        if len(run) > 1:
            sheet.line([at(r) for r in run], 0.35 if run[0]["defined"] else 0.2, 0.0 if run[0]["defined"] else 0.4,
                       None if run[0]["defined"] else DASH)  # fmt: skip
        run = [] if s is None else [s]
    sheet.text(LEFT, y + 2.4, "width", 6.5)
    sheet.text(
        LEFT,
        y + high + 3,
        "of the finish line, unrolled from facial by mesial; dashed: not clearly seen",
        6.8,
        grey=0.2,
    )
    return y + high + 6


# --- findings ------------------------------------------------------------------------------------------------------


def _in_order(found: Any) -> list[Finding]:
    """As the list on the screen shows them: place by place."""
    return [found.findings[k] for place in found.places for k in place.findings]


def _findings(sheet: Sheet, record: Record, rows: list[Finding], y: float, low: float) -> None:
    """As many as there is room for; how many more there are is said."""
    verdicts = record.document["verdicts"]
    columns: list[tuple[str, float, Callable[[Finding, dict[str, Any]], str]]] = [
        ("where", 42, lambda _f, v: v["where"]), ("finding", 40, lambda f, _v: f.title),
        ("is", 15, lambda _f, v: _value(v)), ("± U", 11, lambda _f, v: "" if v["U"] is None else f"{v['U']:.2f}"),
        ("limit", 16, lambda _f, v: _limit(v)), ("says", 62, lambda f, _v: _says(f)),
    ]  # fmt: skip
    x = LEFT
    for title, width, _ in columns:
        sheet.text(x, y + 3, title, 6.8, grey=0.3)
        x += width
    sheet.rule(LEFT, RIGHT, y + 4, 0.3)
    room = max(int((low - y - 5) / ROW_MM), 1)
    shown = rows if len(rows) <= room else rows[: room - 1]
    if not rows:
        sheet.text(LEFT, y + 8, "Nothing is short, over, or too near a limit to say.", 8.5)
    for k, f in enumerate(shown):
        x, at = LEFT, y + 8 + k * ROW_MM
        bold = verdicts[f.verdict]["status"] in ("short", "over")
        for _, width, told in columns:
            text = told(f, verdicts[f.verdict])
            sheet.text(x, at, clipped(text, width - 1.5, 7.3, bold), 7.3, bold=bold)
            x += width
    if len(shown) < len(rows):
        sheet.text(
            LEFT, y + 8 + len(shown) * ROW_MM, f"and {len(rows) - len(shown)} more, on the screen and in the JSON", 7.3
        )


def _says(f: Finding) -> str:
    return f"{f.amount}{', ' if f.says[:1].isdigit() and f.amount else ' '}{f.says}".strip()


def _value(v: dict[str, Any]) -> str:
    if v["value"] is None:
        return "–"
    unit = {"mm": "", "deg": "°", "µm": " µm", "%": " %"}.get(v["unit"], "")
    return f"{v['value']:.{0 if v['unit'] in ('µm', '%', 'count') else 1 if v['unit'] == 'deg' else 2}f}{unit}"


def _limit(v: dict[str, Any]) -> str:
    if v["limit"] is None:
        return ""
    return f"{'≥' if v['bound'] == 'min' else '≤'} {v['limit']:.{0 if v['unit'] in ('µm', '%', 'count') else 2}f}"
