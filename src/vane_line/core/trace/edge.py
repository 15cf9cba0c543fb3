"""Where an edge lies on one profile: where straight fits of its two sides meet, kept near the surface."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.trace.section import STEP_MM, Profiles, straight_fit
from vane_line.core.vectors import unit

FIT_NEAR_MM, FIT_INSIDE_MM, FIT_OUTSIDE_MM = 0.06, 0.36, 0.46
LOWEST_MM = 0.8  # past an edge, within which the sulcus is looked for
SHORT_MM = 0.20  # of the fit inside where a rim or a bevel bends the longer one …
BENT_MM = 0.03  # … by this much
MAX_SHIFT_MM = 0.22  # a fit may move the point by no more than this from the crease …
MAX_OFF_MM = 0.10  # … and by this much off the surface: a scan rounds an edge by less
MAX_SUNK_MM = 0.03  # … nor so far into the tooth: where two straight sides meet, the scan's edge is cut off


def edge_at(profiles: Profiles, row: int, i: int, off: float) -> tuple[float, float]:
    """Radius and height of an edge whose crease is arc sample `i`: where straight fits of its two sides meet.

    off: mm by which coarse triangles cut the edge off; the fits begin beyond. Where they meet far off or within the
    tooth, or a side is too short, the crease itself.
    """
    radius, height = profiles.radius[row], profiles.height[row]
    near, inside, outside, short = (
        round((v + off) / STEP_MM) for v in (FIT_NEAR_MM, FIT_INSIDE_MM, FIT_OUTSIDE_MM, SHORT_MM)
    )
    before = straight_fit(radius, height, i - inside, i - near)
    if before is not None and _bend(profiles, row, i - inside, i - near, before) > BENT_MM:
        before = straight_fit(radius, height, i - short, i - near)
    after = straight_fit(radius, height, i + near, min(i + outside, _valley(profiles, row, i)))
    raw = np.array([radius[i], height[i]])
    meet = None if before is None or after is None else _meet(before, after)
    if before is None or after is None or meet is None:
        return float(raw[0]), float(raw[1])
    shift = meet - raw
    far = np.hypot(*shift) >= MAX_SHIFT_MM + off or _off(profiles, row, i, meet) >= MAX_OFF_MM + off
    sunk = shift @ _inward(before[1], after[1]) >= MAX_SUNK_MM
    place = raw if far or sunk else meet
    return float(place[0]), float(place[1])


def _valley(profiles: Profiles, row: int, index: int) -> int:
    """Arc sample of the lowest ground past `index`: beyond it the sulcus' far side rises."""
    ahead = profiles.height[row, index : index + round(LOWEST_MM / STEP_MM)]
    return index + int(np.argmin(np.where(np.isfinite(ahead), ahead, np.inf)))


def _bend(profiles: Profiles, row: int, first: int, last: int, fit: tuple[Floats, Floats]) -> float:
    """How far arc samples first..last stray from their straight fit, mm."""
    points = np.stack([profiles.radius[row, first : last + 1], profiles.height[row, first : last + 1]], axis=1)
    off = points - fit[0]
    return float(np.abs(off[:, 0] * fit[1][1] - off[:, 1] * fit[1][0]).max())


def _off(profiles: Profiles, row: int, index: int, place: Floats) -> float:
    """Distance of a place from the profile near arc sample `index`, mm."""
    near = slice(max(index - 8, 0), index + 9)
    return float(np.nanmin(np.hypot(profiles.radius[row, near] - place[0], profiles.height[row, near] - place[1])))


def _meet(a: tuple[Floats, Floats], b: tuple[Floats, Floats]) -> Floats | None:
    matrix = np.stack([a[1], -b[1]], axis=1)
    if abs(np.linalg.det(matrix)) < 0.2:  # nearly parallel: no crease to speak of
        return None
    t = np.linalg.solve(matrix, b[0] - a[0])
    return np.asarray(a[0] + t[0] * a[1])


def _inward(before: Floats, after: Floats) -> Floats:
    """(2,) into the tooth at an edge, of the directions (2,) of the profile's two sides."""
    outward = unit(before * np.sign(before[0] or 1.0) + after * -np.sign(after[1] or -1.0))
    return np.array([outward[1], -outward[0]])
