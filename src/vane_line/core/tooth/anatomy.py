"""Cusps, grooves and ridges in plan: found on the reference tooth, or from the template of its class.

Plan coordinates are mm along mesial (x) and facial (y) from the middle of the finish line, seen along the path.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter, map_coordinates, maximum_filter

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import lengths

# Cusps by class and jaw: (mesial, facial) as shares of the crown's mesiodistal and faciolingual size
# (drawn after M. M. Ash, S. J. Nelson, Wheeler's Dental Anatomy; shares from memory).
TEMPLATES: dict[tuple[bool, str], dict[str, tuple[float, float]]] = {
    (True, "first-premolar"): {"facial": (0.0, 0.27), "lingual": (0.03, -0.27)},
    (True, "second-premolar"): {"facial": (0.0, 0.27), "lingual": (0.03, -0.27)},
    (False, "first-premolar"): {"facial": (0.0, 0.14), "lingual": (0.04, -0.30)},
    (False, "second-premolar"): {"facial": (0.0, 0.20), "lingual": (0.05, -0.28)},
    (True, "first-molar"): {"mesiofacial": (0.22, 0.28), "distofacial": (-0.23, 0.27),
                            "mesiolingual": (0.13, -0.27), "distolingual": (-0.29, -0.28)},
    (True, "second-molar"): {"mesiofacial": (0.22, 0.28), "distofacial": (-0.23, 0.26),
                             "mesiolingual": (0.12, -0.27), "distolingual": (-0.29, -0.26)},
    (False, "first-molar"): {"mesiofacial": (0.24, 0.26), "distofacial": (-0.10, 0.28), "distal": (-0.37, 0.14),
                             "mesiolingual": (0.22, -0.29), "distolingual": (-0.20, -0.29)},
    (False, "second-molar"): {"mesiofacial": (0.23, 0.26), "distofacial": (-0.23, 0.26),
                              "mesiolingual": (0.23, -0.28), "distolingual": (-0.23, -0.28)},
    # An upper first primary molar is like a premolar with a little distal cusp; a second one like a first permanent
    # molar of its jaw.
    (True, "primary-first-molar"): {"mesiofacial": (0.08, 0.26), "distofacial": (-0.26, 0.24),
                                    "mesiolingual": (0.08, -0.28)},
    (True, "primary-second-molar"): {"mesiofacial": (0.22, 0.28), "distofacial": (-0.23, 0.27),
                                     "mesiolingual": (0.13, -0.27), "distolingual": (-0.29, -0.28)},
    (False, "primary-first-molar"): {"mesiofacial": (0.18, 0.20), "distofacial": (-0.24, 0.22),
                                     "mesiolingual": (0.16, -0.26), "distolingual": (-0.24, -0.26)},
    (False, "primary-second-molar"): {"mesiofacial": (0.24, 0.26), "distofacial": (-0.08, 0.28),
                                      "distal": (-0.34, 0.18),
                                      "mesiolingual": (0.22, -0.29), "distolingual": (-0.20, -0.29)},
}  # fmt: skip
# Crown length, mesiodistal, at the neck, faciolingual, at the neck (Wheeler, from memory), upper then lower.
SIZES: dict[tuple[bool, str], tuple[float, float, float, float, float]] = {
    (True, "central-incisor"): (10.5, 8.5, 7.0, 7.0, 6.0), (True, "lateral-incisor"): (9.0, 6.5, 5.0, 6.0, 5.0),
    (True, "canine"): (10.0, 7.5, 5.5, 8.0, 7.0), (True, "first-premolar"): (8.5, 7.0, 5.0, 9.0, 8.0),
    (True, "second-premolar"): (8.5, 7.0, 5.0, 9.0, 8.0), (True, "first-molar"): (7.5, 10.0, 8.0, 11.0, 10.0),
    (True, "second-molar"): (7.0, 9.0, 7.0, 11.0, 10.0), (True, "third-molar"): (6.5, 8.5, 6.5, 10.0, 9.5),
    (False, "central-incisor"): (9.0, 5.0, 3.5, 6.0, 5.3), (False, "lateral-incisor"): (9.5, 5.5, 4.0, 6.5, 5.8),
    (False, "canine"): (11.0, 7.0, 5.5, 7.5, 7.0), (False, "first-premolar"): (8.5, 7.0, 5.0, 7.5, 6.5),
    (False, "second-premolar"): (8.0, 7.0, 5.0, 8.0, 7.0), (False, "first-molar"): (7.5, 11.0, 9.0, 10.5, 9.0),
    (False, "second-molar"): (7.0, 10.5, 8.0, 10.0, 9.0), (False, "third-molar"): (7.0, 10.0, 7.5, 9.5, 9.0),
    # Primary teeth (G. V. Black's figures as Wheeler gives them, from memory).
    (True, "primary-central-incisor"): (6.0, 6.5, 4.5, 5.0, 4.0),
    (True, "primary-lateral-incisor"): (5.6, 5.1, 3.7, 4.0, 3.7),
    (True, "primary-canine"): (6.5, 7.0, 5.1, 7.0, 5.5), (True, "primary-first-molar"): (5.1, 7.3, 5.2, 8.5, 6.9),
    (True, "primary-second-molar"): (5.7, 8.2, 6.4, 10.0, 8.3),
    (False, "primary-central-incisor"): (5.0, 4.2, 3.0, 4.0, 3.5),
    (False, "primary-lateral-incisor"): (5.2, 4.1, 3.0, 4.0, 3.5),
    (False, "primary-canine"): (6.0, 5.0, 3.7, 4.8, 4.0), (False, "primary-first-molar"): (6.0, 7.7, 6.5, 7.0, 5.3),
    (False, "primary-second-molar"): (5.5, 9.9, 7.2, 8.7, 6.4),
}  # fmt: skip
CELL_MM = 0.15
TIP_MM, TOP_MM, TIP_ROUNDS = 0.6, 0.05, 8  # round a tip, what tells where it is; and how far down with a third of a say
TIP_SEPARATION_MM = 1.5
WORN_MM = 0.3  # cusps that stand no higher over their groove are worn flat: what is found there is noise
MATCH_SHARE = 0.24  # a tip further from its template place than this share of the tooth's size is not that cusp


@dataclass(frozen=True, eq=False)
class Anatomy:
    """Plan positions (mm): cusp tips (2,) by name, the central groove's course, facial and lingual groove.

    source: 'reference' when found on the earlier surface, 'template' when laid on the preparation.
    """

    cusps: dict[str, Floats]
    groove_x: Floats
    groove_y: Floats
    facial_groove_x: float | None
    lingual_groove_x: float | None
    centre: Floats
    size: Floats  # mesiodistal, faciolingual
    source: str

    @property
    def parted_y(self) -> float:
        """How far facial of the axis the facial cusps end and the lingual ones begin: along the central groove."""
        return float(np.median(self.groove_y))


def template(tooth: ToothNumber) -> dict[str, tuple[float, float]]:
    """Cusp places of the tooth's class; a third molar is drawn as a second."""
    key = (tooth.upper, "second-molar" if tooth.tooth_class == "third-molar" else tooth.tooth_class)
    return TEMPLATES.get(key, {})


def size_of(tooth: ToothNumber) -> tuple[float, float, float, float, float]:
    """Published size of the tooth's class."""
    return SIZES[(tooth.upper, tooth.tooth_class)]


def plan(axes: Axes, points: Floats) -> Floats:
    """(N, 2) mesial and facial coordinates of `points` (N, 3)."""
    return np.ascontiguousarray(axes.local(points)[:, :2])


def find_anatomy(tooth: ToothNumber, reference: Surface | None, outline: Floats, axes: Axes) -> Anatomy:
    """Cusps and grooves of a back tooth.

    reference: the reference tooth's surface or None. outline: (A, 3) the finish line, used for the size when
    there is no reference.
    """
    places = template(tooth)
    if reference is None:
        points = plan(axes, outline)
        low, high = points.min(axis=0), points.max(axis=0)
        centre, size = (low + high) / 2, (high - low) * 1.04
        return _from_template(places, centre, size)
    points = plan(axes, reference.vertices)
    # The widest outline of the crown, without the few vertices that run out into a contact.
    low, high = np.quantile(points, 0.004, axis=0), np.quantile(points, 0.996, axis=0)
    centre, size = (low + high) / 2, high - low
    relief, origin = height_picture(reference, points, axes)
    tips = tips_of(reference, points, axes, (relief, origin))
    expected = {name: centre + size * np.array(share) for name, share in places.items()}
    if len(expected) == 0:
        return _from_template(places, centre, size)
    cusps, found = dict(expected), 0
    if len(tips):
        names = list(expected)
        gap = np.array([[np.linalg.norm((expected[n] - t) / size) for t in tips] for n in names])
        # Nearest pairs first; tips and cusps stand apart by more than they stray, so no better swap is left.
        while gap.size and gap.min() < MATCH_SHARE:
            i, j = (int(k) for k in np.unravel_index(np.argmin(gap), gap.shape))
            cusps[names[i]], found = tips[j], found + 1
            gap[i, :] = gap[:, j] = np.inf
    if found < max(1, len(expected) - 2):
        return _from_template(places, centre, size)
    groove_x, groove_y = _central_groove(relief, origin, cusps, centre, size)
    tops = np.array(list(cusps.values()))
    rise = np.nanmean(_sample(relief, origin, tops[:, 0], tops[:, 1]))
    rise -= np.nanmedian(_sample(relief, origin, groove_x, groove_y))
    if not rise > WORN_MM:
        return _from_template(places, centre, size)
    return Anatomy(
        cusps=cusps, groove_x=groove_x, groove_y=groove_y,
        facial_groove_x=_side_groove(relief, origin, cusps, ("mesiofacial", "distofacial")),
        lingual_groove_x=_side_groove(relief, origin, cusps, ("mesiolingual", "distolingual")),
        centre=centre, size=size, source="reference",
    )  # fmt: skip


def _from_template(places: dict[str, tuple[float, float]], centre: Floats, size: Floats) -> Anatomy:
    cusps = {name: centre + size * np.array(share) for name, share in places.items()}
    x = np.linspace(-0.36, 0.36, 13) * size[0] + centre[0]

    def middle(a: str, b: str) -> float | None:
        return float((cusps[a][0] + cusps[b][0]) / 2) if a in cusps and b in cusps else None

    return Anatomy(
        cusps=cusps,
        groove_x=x,
        groove_y=np.full(len(x), _row_middle(cusps, centre)),
        facial_groove_x=middle("mesiofacial", "distofacial"),
        lingual_groove_x=middle("mesiolingual", "distolingual"),
        centre=centre,
        size=size,
        source="template",
    )


def _row_middle(cusps: dict[str, Floats], centre: Floats) -> float:
    """Between the facial and lingual cusp rows."""
    facial = [c[1] for n, c in cusps.items() if "lingual" not in n]
    lingual = [c[1] for n, c in cusps.items() if "lingual" in n]
    return float((np.mean(facial) + np.mean(lingual)) / 2) if facial and lingual else float(centre[1])


def height_picture(surface: Surface, points: Floats, axes: Axes) -> tuple[Floats, Floats]:
    """Height picture of the highest surface over the plan, nan outside; and the plan place of its corner."""
    height = (surface.vertices - axes.origin) @ axes.up
    origin = points.min(axis=0) - 2 * CELL_MM
    cell = np.floor((points - origin) / CELL_MM).astype(int)
    shape = cell.max(axis=0) + 3
    top = np.full(shape, -np.inf)
    np.maximum.at(top, (cell[:, 0], cell[:, 1]), height)
    known = np.isfinite(top)
    weight = gaussian_filter(known.astype(float), 1.6)
    smooth = gaussian_filter(np.where(known, top, 0.0), 1.6) / np.maximum(weight, 1e-9)
    return np.where(weight > 0.2, smooth, np.nan), origin


def tips_of(surface: Surface, points: Floats, axes: Axes, picture: tuple[Floats, Floats]) -> list[Floats]:
    """Plan places that stand highest within TIP_SEPARATION_MM, in the upper half of the crown; picture: its
    `height_picture`."""
    relief, origin = picture
    filled = np.nan_to_num(relief, nan=-99)
    size = 2 * round(TIP_SEPARATION_MM / CELL_MM / 1.4) + 1
    peak = (maximum_filter(filled, size) == filled) & (filled > np.nanmax(relief) - 3.2)
    height, facing = (surface.vertices - axes.origin) @ axes.up, surface.vertex_normals @ axes.up
    say = surface.vertex_areas * np.clip(facing, 0, 1)
    return [_settled(origin + (np.array(p) + 0.5) * CELL_MM, points, height, say) for p in np.argwhere(peak)]


def _settled(tip: Floats, points: Floats, height: Floats, say: Floats) -> Floats:
    """The middle of the cusp's top about `tip` (2,): of places (V, 2), by their height (V,) and `say` (V,).

    A cell of a picture takes one of a few vertices; this moves evenly with all of them.
    """
    near = np.flatnonzero(lengths(points - tip) < 2 * TIP_MM)
    if len(near) == 0:
        return tip
    points, level = points[near], np.exp((height[near] - height[near].max()) / TOP_MM) * say[near]
    for _ in range(TIP_ROUNDS):
        weight = level * np.clip(2 - 2 * lengths(points - tip) / TIP_MM, 0, 1)
        if weight.sum() <= 0:
            return tip
        tip = weight @ points / weight.sum()
    return tip


def _off_top(three: Floats) -> float:
    """How far from the middle one of `three` equidistant values a parabola through them is at its top or bottom, in
    their distances; nought where there is none."""
    if len(three) < 3 or not np.isfinite(three).all():
        return 0.0
    before, here, after = three
    bend = before - 2 * here + after
    return float(np.clip((before - after) / (2 * bend), -0.5, 0.5)) if bend else 0.0


def _lowest(values: Floats) -> float:
    """Where along `values` the least one lies, in steps and parts of one."""
    k = int(np.nanargmin(values))
    return k + (_off_top(values[k - 1 : k + 2]) if k > 0 else 0.0)


def _sample(relief: Floats, origin: Floats, x: Floats, y: Floats) -> Floats:
    """Heights at places, between the cells; next to where nothing is known, of the nearest."""
    at = np.stack([(x - origin[0]) / CELL_MM - 0.5, (y - origin[1]) / CELL_MM - 0.5])
    i, j = (np.clip(np.round(c).astype(int), 0, n - 1) for c, n in zip(at, relief.shape, strict=True))
    between = map_coordinates(relief, at, order=1, mode="nearest")
    return np.where(np.isfinite(between), between, relief[i, j])


def _central_groove(
    relief: Floats, origin: Floats, cusps: dict[str, Floats], centre: Floats, size: Floats
) -> tuple[Floats, Floats]:
    """Course of the lowest line between the facial and the lingual cusp row."""
    facial = np.array(sorted([tuple(c) for n, c in cusps.items() if "lingual" not in n]))
    lingual = np.array(sorted([tuple(c) for n, c in cusps.items() if "lingual" in n]))
    xs = np.linspace(-0.36, 0.36, 25) * size[0] + centre[0]
    ys = np.full(len(xs), _row_middle(cusps, centre))
    if len(facial) and len(lingual):
        for k, x in enumerate(xs):
            y0 = np.interp(x, lingual[:, 0], lingual[:, 1])
            y1 = np.interp(x, facial[:, 0], facial[:, 1])
            y = np.linspace(y0 + 0.2 * (y1 - y0), y1 - 0.2 * (y1 - y0), 30)
            z = _sample(relief, origin, np.full(30, x), y)
            if np.isfinite(z).any():
                ys[k] = y[0] + _lowest(z) * (y[1] - y[0])
        window = np.lib.stride_tricks.sliding_window_view(np.r_[[ys[0]] * 3, ys, [ys[-1]] * 3], 7)
        ys = np.median(window, axis=1)
    return xs, ys


def _side_groove(relief: Floats, origin: Floats, cusps: dict[str, Floats], pair: tuple[str, str]) -> float | None:
    """Mesial coordinate of the lowest point of the ridge between two cusps of a side."""
    if pair[0] not in cusps or pair[1] not in cusps:
        return None
    a, b = cusps[pair[0]], cusps[pair[1]]
    t = np.linspace(0.15, 0.85, 41)
    line = a[None] + t[:, None] * (b - a)[None]
    z = _sample(relief, origin, line[:, 0], line[:, 1])
    if not np.isfinite(z).any():
        return float((a[0] + b[0]) / 2)
    return float(line[0, 0] + _lowest(z) * (line[1, 0] - line[0, 0]))
