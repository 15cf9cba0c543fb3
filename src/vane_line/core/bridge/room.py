"""The room between the abutments of a bridge: for pontics, for connectors, and what grew down into it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry
from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import perpendicular, unit

RIDGE_HALF_MM = 1.0  # across the span, to either side of its middle
MIDDLE_SHARE = 0.4  # of a pontic's width: where its ridge and what bites on it are read
LEAST_POINTS = 12
EMBRASURE_MM = 0.5  # beside a connector, on the facial and on the lingual side
OVER_GINGIVA_MM = 1.0  # a connector stands so far off it
CELL_MM = 0.25
TOP_SHARE = 0.98
REACH_MM = 6.0  # across the span
# The nearest top of the opposing teeth beside a gap: steps in which it is looked for, from past what the tooth over the
# gap may reach out to, on to where it says nothing of this gap; about it nothing stands higher.
STEP_MM, PAST_END_MM, BESIDE_MM, ABOUT_MM = 0.25, 2.0, 14.0, 2.0
CROWN_MM = 4.0  # so far under the tooth over the gap there is gingiva


@dataclass(frozen=True, eq=False)
class Stand:
    """Where something stands in the gap: its middle (3,), None where its height is not known; which way the span runs
    there and which way is occlusal, unit (3,)."""

    at: Floats | None
    along: Floats
    up: Floats


@dataclass(frozen=True)
class Pontic:
    """width_mm: of its share of the least distance between the facing finish lines; height_mm: from the ridge to the
    opposing teeth; ridge_gap_mm: by which the ridge lies under the line between the facing finish lines; across_mm:
    between its neighbours' finish lines, facial to lingual."""

    tooth: str
    width_mm: float
    height_mm: float | None
    ridge_gap_mm: float | None
    across_mm: float
    stand: Stand


@dataclass(frozen=True)
class Connector:
    """The greatest ellipse that has room at a joint."""

    between: tuple[str, str]
    height_mm: float | None
    width_mm: float
    area_mm2: float | None
    stand: Stand


@dataclass(frozen=True, eq=False)
class Gap:
    """One toothless stretch: the abutments' geometries on either side, and what is to stand in it, in order."""

    before: Geometry
    after: Geometry
    pontics: tuple[ToothNumber, ...]

    @cached_property
    def facing(self) -> tuple[Floats, Floats]:
        """(3,) each: the places of the two finish lines that come nearest to each other."""
        away, which = cKDTree(self.after.line.points).query(self.before.line.points)
        k = int(np.argmin(away))
        return self.before.line.points[k], self.after.line.points[which[k]]

    @cached_property
    def breadths(self) -> Floats:
        """(2,) of the facing finish lines across the span."""
        a, b = self.facing
        return np.array([_across(self.before, a, b - a), _across(self.after, b, b - a)])

    @cached_property
    def ends(self) -> Floats:
        """(P + 1,) where the pontics begin and end, as shares of the gap by the published widths of such teeth."""
        usual = np.array([size_of(t)[1] for t in self.pontics])
        return np.r_[0.0, np.cumsum(usual / usual.sum())]


def pontics_of(gap: Gap, prep: Surface, opposing: Surface | None, up: Floats) -> list[Pontic]:
    """Their shares of the gap by the published widths of such teeth."""
    a, b = gap.facing
    length = float(np.linalg.norm(b - a))
    ends, along = gap.ends, perpendicular(b - a, up)
    rows = []
    for k, tooth in enumerate(gap.pontics):
        middle = (ends[k] + ends[k + 1]) / 2
        width = length * float(ends[k + 1] - ends[k])
        at = a + middle * (b - a)
        half = MIDDLE_SHARE * width / 2
        ridge = _level(prep, at, b - a, up, half, top=True)
        over = None if opposing is None else _level(opposing, at, b - a, up, half, top=False)
        base = float(at @ up)
        height = None if ridge is None or over is None else over - ridge
        centre = None if ridge is None or over is None else at + ((ridge + over) / 2 - base) * up
        rows.append(Pontic(
            tooth.fdi, width, height, None if ridge is None else base - ridge,
            across_mm=float(np.interp(middle, [0, 1], gap.breadths)), stand=Stand(centre, along, up),
        ))  # fmt: skip
    return rows


def _level(surface: Surface, at: Floats, along: Floats, up: Floats, half_mm: float, top: bool) -> float | None:
    """Height along `up` of a ridge's crest (top), or of the lowest of what stands over it, at a pontic's middle."""
    off = surface.vertices - at
    way = perpendicular(unit(along), up)
    across = np.cross(up, way)
    # The crest runs along the middle; what bites on it may stand a little to either side.
    side = RIDGE_HALF_MM if top else 2 * RIDGE_HALF_MM
    here = (np.abs(off @ way) < half_mm) & (np.abs(off @ across) < side)
    height = off[here] @ up
    here_up = surface.vertex_normals[here] @ up
    facing = here_up > 0.3 if top else here_up < -0.3
    if facing.sum() < LEAST_POINTS:
        return None
    level = np.quantile(height[facing], TOP_SHARE if top else 1 - TOP_SHARE)
    return float(level + at @ up)


def connectors_of(gap: Gap, opposing: Surface | None, up: Floats) -> list[Connector]:
    """At every joint of the gap: abutment and pontic, pontic and pontic, pontic and abutment."""
    a, b = gap.facing
    names = [gap.before.options.tooth.fdi, *(t.fdi for t in gap.pontics), gap.after.options.tooth.fdi]
    ends, along = gap.ends, perpendicular(b - a, up)
    rows = []
    for k in range(len(names) - 1):
        share = float(ends[k])
        at = a + share * (b - a)
        width = float(np.interp(share, [0, 1], gap.breadths)) - 2 * EMBRASURE_MM
        floor = float(at @ up) + OVER_GINGIVA_MM
        over = None if opposing is None else _level(opposing, at, b - a, up, RIDGE_HALF_MM, top=False)
        height = None if over is None else over - floor
        area = None if height is None else float(np.pi / 4 * max(height, 0.0) * max(width, 0.0))
        centre = None if height is None else at + (OVER_GINGIVA_MM + height / 2) * up
        rows.append(Connector((names[k], names[k + 1]), height, width, area, Stand(centre, along, up)))
    return rows


def _across(geometry: Geometry, at: Floats, along: Floats) -> float:
    """Width of a finish line across the span, near the place that faces the gap."""
    axes = geometry.axes
    way = perpendicular(unit(along), axes.up)
    across = np.cross(axes.up, way)
    points = geometry.line.points - at
    near = np.abs(points @ way) < np.ptp(points @ way) / 3
    return float(np.ptp(points[near] @ across)) if near.sum() > 2 else float(np.ptp(points @ across))


def beyond_beside_mm(gap: Gap, opposing: Surface, up: Floats) -> dict[str, float]:
    """By how much the opposing tooth over each pontic stands beyond the opposing teeth on either side of the gap.

    Beyond the line from the nearest top on one side to that on the other. Nothing where no tooth stands on either side.
    """
    a, b = gap.facing
    way = perpendicular(unit(b - a), up)
    off = opposing.vertices[opposing.highest(-up, CELL_MM)] - a
    x, y, z = off @ way, off @ np.cross(up, way), -(off @ up)
    length = float((b - a) @ way)
    over = (np.abs(y) < REACH_MM) & (x > 0) & (x < length)
    if over.sum() < LEAST_POINTS:
        return {}
    low = float(np.quantile(z[over], TOP_SHARE)) - CROWN_MM
    before, after = (_top_beside(out, z, low) for out in (-x, x - length))
    if before is None or after is None:
        return {}
    ends, beyond = length * gap.ends, {}
    line = np.interp(x, [-before[0], length + after[0]], [before[1], after[1]])
    for k, tooth in enumerate(gap.pontics):
        mine = over & (x > ends[k]) & (x < ends[k + 1])
        if mine.sum() >= LEAST_POINTS:
            beyond[tooth.fdi] = float(np.quantile((z - line)[mine], TOP_SHARE))
    return beyond


def _top_beside(out: Floats, z: Floats, low_mm: float) -> tuple[float, float] | None:
    """How far out of the gap the nearest top stands, and how high: a place about which nothing stands higher, and as
    high as a crown's. out, z: (N,) of the opposing teeth. The tooth over the gap may itself reach past its end."""
    at = np.arange(PAST_END_MM - ABOUT_MM, BESIDE_MM + ABOUT_MM, STEP_MM)
    order = np.argsort(out)
    low, high = (np.searchsorted(out[order], at + side * STEP_MM) for side in (-1, 1))
    height = np.array([z[order[i:j]].max(initial=-np.inf) for i, j in zip(low, high, strict=True)])
    for k in np.flatnonzero((at >= PAST_END_MM) & (at <= BESIDE_MM)):
        about = np.abs(at - at[k]) <= ABOUT_MM
        if height[k] > low_mm and height[k] >= height[about].max():
            own = order[low[k] : high[k]]
            top = own[np.argmax(z[own])]
            return float(out[top]), float(z[top])
    return None
