"""The tooth below its greatest contour: the bulge that holds a metal crown, and the ledge that would stop one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import uniform_filter1d

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.convergence import Walls, outline_cosine, robust_at
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.trace.section import STEP_MM, Profiles, tangent_angle
from vane_line.core.trace.wall import WallRuns
from vane_line.core.vectors import xyz

EASE_MM = 0.15  # along a profile, over which its noise is averaged
BELOW_FOOT_MM = 0.6  # the wall's foot is told up to so much too high where a bulge leans back over it
CORNER_MM = 0.30  # of the profile nearest to where the tooth goes under, which scan and gingiva round off
LEVEL_DEG, LEVEL_WINDOW_MM = -45.0, 0.15  # what is flatter than this is level
EASED_MM = 0.8  # of the line's course, over which a ledge's width is a median
OVER_MM, BELOW_MM, LEAVE_MM = 0.6, 0.5, 0.1  # of wall over a ledge and of tooth below it that tell its width
DROP_MM = 0.12  # by which the tooth goes on down below a ledge
WALL_MM, LEAST_WALL_MM = 1.5, 0.6  # of the wall over it that tells how it goes on
HELD_SIDES = {"facial": 0.0, "lingual": 180.0}  # where a metal crown is sprung over the tooth
ACROSS = {"faciolingual": 0.0, "mesiodistal": 90.0}

Place = tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Neck:
    """bulge_mm: (A,) greatest contour less the neck below it, across the path, nan where no wall is seen.

    undercut_mm: of each side that holds a crown; at: the neck there. taper_deg: lean of the facing walls' lowest run
    to each other. ledge_mm: the widest that is seen along the line, nought where there is none; ledge_at: its place.
    """

    bulge_mm: Floats
    undercut_mm: dict[str, float]
    at: dict[str, Place]
    taper_deg: dict[str, float]
    ledge_mm: float
    ledge_at: Place | None

    @property
    def least_undercut_mm(self) -> float | None:
        """The lesser of the two sides, None where one is not seen."""
        return min(self.undercut_mm.values()) if len(self.undercut_mm) == len(HELD_SIDES) else None

    @property
    def greatest_taper_deg(self) -> float | None:
        return max(self.taper_deg.values(), default=None)


def find_neck(rings: Profiles, runs: WallRuns, walls: Walls, line: FinishLine) -> Neck:
    """walls: over the line."""
    bulge, at_neck = _bulges(rings, runs, line)
    undercut, at = {}, {}
    for side, azimuth in HELD_SIDES.items():
        value = robust_at(rings.azimuth_deg, bulge, azimuth)
        if np.isfinite(value):
            row = round(azimuth * len(bulge) / 360) % len(bulge)
            undercut[side] = max(value, 0.0)
            at[side] = xyz(rings.places(at_neck)[row])
    told = {zone: walls.convergence_at(azimuth) for zone, azimuth in ACROSS.items()}
    ledge, where = widest_ledge(rings, runs, line)
    return Neck(bulge, undercut, at, {z: v for z, v in told.items() if np.isfinite(v)}, ledge, where)


def _bulges(rings: Profiles, runs: WallRuns, line: FinishLine) -> tuple[Floats, Ints]:
    """(A,) greatest radius of each wall less the least below it, and the arc index of the latter.

    Scan and gingiva round the corner in which the tooth goes under, or meets a ledge: the wall is prolonged into it.
    """
    rows = np.arange(len(rings.azimuth_deg))
    arc = np.arange(rings.radius.shape[1])[None]
    end = np.where(runs.found, np.clip(line.index, runs.foot, runs.foot + round(BELOW_FOOT_MM / STEP_MM)), -1)
    seen = np.isfinite(rings.radius)
    radius = uniform_filter1d(np.where(seen, rings.radius, 0.0), round(EASE_MM / STEP_MM), axis=1, mode="nearest")
    wall = seen & (arc >= np.maximum(runs.top, 0)[:, None])
    widest = np.argmax(np.where(wall & (arc <= runs.foot[:, None]), radius, -np.inf), axis=1)
    below = wall & (arc >= widest[:, None]) & (arc <= (end - round(CORNER_MM / STEP_MM))[:, None])
    narrow = np.argmin(np.where(below, radius, np.inf), axis=1)
    lowest = np.where(below.any(axis=1), radius[rows, narrow], np.inf)
    neck = np.minimum(np.minimum(lowest, _prolonged(rings, runs, below, end)), radius[rows, widest])
    bulge = (radius[rows, widest] - neck) * outline_cosine(line.radius)
    return np.where(runs.found, bulge, np.nan), narrow


def _prolonged(rings: Profiles, runs: WallRuns, below: Bools, end: Ints) -> Floats:
    """(A,) radius of each wall's lowest stretch carried on to the level at which it ends; inf where it is too short.

    A parabola over WALL_MM of it; below: (A, M) the samples that the corner does not bend.
    """
    out = np.full(len(end), np.inf)
    for k in np.flatnonzero(runs.found):
        here = np.flatnonzero(below[k])[-round(WALL_MM / STEP_MM) :]
        last = rings.height[k, end[k]]
        if len(here) < round(LEAST_WALL_MM / STEP_MM) or not np.isfinite(last):
            continue
        middle = rings.height[k, here].mean()
        fit = np.polyfit(rings.height[k, here] - middle, rings.radius[k, here], 2)
        out[k] = np.polyval(fit, last - middle)
    return out


def widest_ledge(rings: Profiles, runs: WallRuns, line: FinishLine) -> tuple[float, Place | None]:
    """The widest ledge on the way down from the greatest contour to the line or seam, over EASED_MM of its course, and
    its place; nought and None where there is none.

    A ledge is a level stretch with the tooth going on below it: where the tooth goes under the gingiva is none. What
    counts is how far the wall over it, prolonged, stands inside the one below it, at the ledge's level.
    """
    angle = tangent_angle(rings, LEVEL_WINDOW_MM)
    width, index = np.zeros(len(runs.foot)), np.full(len(runs.foot), -1, dtype=np.int64)
    for k in np.flatnonzero(runs.found):
        found = _ledge(rings.radius[k], rings.height[k], angle[k], int(runs.top[k]), int(line.index[k]))
        if found is not None:
            width[k], index[k] = found
    width *= outline_cosine(line.radius)
    step = np.radians(360 / len(width)) * line.radius
    half = np.maximum(np.round(EASED_MM / 2 / step).astype(int), 1)
    rows = np.arange(len(width))
    eased = np.array(
        [np.median(width[np.arange(k - h, k + h + 1) % len(width)]) for k, h in zip(rows, half, strict=True)]
    )
    widest = int(np.argmax(eased))
    if eased[widest] <= 0:
        return 0.0, None
    like = int(rows[index >= 0][np.argmin(np.abs(width[index >= 0] - eased[widest]))])
    return float(eased[widest]), xyz(rings.places(np.maximum(index, 0))[like])


def _ledge(r: Floats, h: Floats, angle: Floats, top: int, end: int) -> tuple[float, int] | None:
    """Width of the widest ledge on one profile between two arc indices, and its middle's index."""
    last = int(np.isfinite(r).sum()) - 1
    out = None
    level = np.flatnonzero(angle[top : min(end, last) + 1] > LEVEL_DEG) + top
    for run in np.split(level, np.flatnonzero(np.diff(level) > 2) + 1):
        if len(run) == 0 or run[0] <= top + round(OVER_MM / STEP_MM) or h[run[0]] > h[top] - OVER_MM:
            continue
        first, then = int(run[0]), int(run[-1])
        over = np.arange(max(first - round((OVER_MM + LEAVE_MM) / STEP_MM), top), first - round(LEAVE_MM / STEP_MM))
        below = np.arange(then + round(LEAVE_MM / STEP_MM), min(then + round(BELOW_MM / STEP_MM), last) + 1)
        if len(below) < 5 or len(over) < 5 or h[below[0]] - h[below].min() < DROP_MM:
            continue  # it ends in rising ground, or with the scan
        below = below[: int(np.argmin(h[below])) + 1]
        if len(below) < 5:
            continue
        at = (h[first] + h[then]) / 2
        outer = np.polyval(np.polyfit(h[below], r[below], 1), h[then])
        inner = np.polyval(np.polyfit(h[over], r[over], 1), at)
        if out is None or outer - inner > out[0]:
            out = float(outer - inner), (first + then) // 2
    return out
