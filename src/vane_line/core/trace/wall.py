"""The lowest straight run of each profile's wall: where it starts, ends, and how it leans."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.trace.course import one_course
from vane_line.core.trace.section import STEP_MM, Profiles, tangent_angle

STEEP_DEG = -55.0  # steeper than this runs along the path: walls taper up to 35 degrees before they are roofs
OVERHANG_DEG = -135.0  # an undercut may lean back this far
MIN_DROP_MM = 0.8  # a wall is at least this high
GAP_MM = 0.25  # noise may interrupt a run for so long
WINDOW_MM = 0.4
STEP_LONG_MM, STEP_WIDE_MM = 0.6, 0.35  # a step in a wall is no longer, along the profile and sideways
FALLING_DEG = -12.0  # steeper than this a hollow falls all the way
BELOW_LINE_MM = 0.1  # a foot no further below the line is the line's own edge
LEAST_HEIGHT_MM = 0.5  # over the finish line: what is lower is a rim, and no wall


@dataclass(frozen=True, eq=False)
class WallRuns:
    """Per profile (A,): arc index of the wall's upper and lower end (the foot), -1 where there is none."""

    top: Ints
    foot: Ints
    angle: Floats  # (A, M) tangent angle over the detection window

    @property
    def found(self) -> Bools:
        return self.foot >= 0

    def above(self, index: Ints, known: Bools) -> WallRuns:
        """The walls no lower than the finish line, at arc `index` (A,), told by an edge where `known` (A,).

        Where the cut runs out on the root, the root goes straight on from the wall and is none. Where the wall itself
        is too low or was not scanned, as beside a contact, what is steep is the root below the line: there is none.
        """
        lower = self.found & (index < self.foot - round(BELOW_LINE_MM / STEP_MM))
        root = lower & (index - self.top < round(LEAST_HEIGHT_MM / STEP_MM))
        lower &= known & (index - self.top > round(MIN_DROP_MM / STEP_MM))
        top, foot = np.where(root, -1, self.top), np.where(lower, index, self.foot)
        return WallRuns(top, np.where(root, -1, foot), self.angle)


def find_walls(profiles: Profiles) -> WallRuns:
    """The first steep run from the axis outward that drops by at least MIN_DROP_MM, or one below it where the surface
    falls on to it and its foot goes on from the neighbours': the wall under a front tooth's hollow back."""
    angle = tangent_angle(profiles, WINDOW_MM)
    runs = [list(_falling(a, h)) for a, h in zip(angle, profiles.height, strict=True)]
    chosen = one_course([h[[b for _, b in r]] for h, r in zip(profiles.height, runs, strict=True)])
    walls = [_over_steps(*row) for row in zip(runs, chosen.tolist(), profiles.radius, strict=True)]
    top, foot = np.array(walls, dtype=np.int64).reshape(-1, 2).T
    return WallRuns(top, foot, angle)


def _over_steps(runs: list[tuple[int, int]], chosen: int, radius: Floats) -> tuple[int, int]:
    """The chosen one of a profile's runs, with those above it from which only a narrow step parts it."""
    if chosen < 0:
        return -1, -1
    top, foot = runs[chosen]
    for above, end in reversed(runs[:chosen]):
        if top - end > round(STEP_LONG_MM / STEP_MM) or abs(radius[top] - radius[end]) > STEP_WIDE_MM:
            break
        top = above
    return top, foot


def _falling(angle: Floats, height: Floats) -> Iterator[tuple[int, int]]:
    """The steep runs of one profile (M,), from the top on, as far as it falls all the way from one to the next."""
    end = -1
    for a, b in _steep_runs(angle, height):
        if end >= 0 and not (angle[end + 1 : a] < FALLING_DEG).all():
            return
        end = b
        yield a, b


def below_hollow(profiles: Profiles, runs: WallRuns, where: Bools) -> WallRuns:
    """The same walls, and `where` (A,) a hollow interrupts one, what goes on below it: there the tooth's neck is.

    In a hollow the surface goes on falling; where a tooth ends, it lies level or rises.
    """
    top, foot = runs.top.copy(), runs.foot.copy()
    for k in np.flatnonzero(where & runs.found):
        *_, (top[k], foot[k]) = _falling(runs.angle[k], profiles.height[k])
    return WallRuns(top, foot, runs.angle)


def _steep_runs(angle: Floats, height: Floats) -> Iterator[tuple[int, int]]:
    """First and last arc index of the runs of one profile (M,) that drop by at least MIN_DROP_MM, from the top on."""
    index = np.flatnonzero((angle < STEEP_DEG) & (angle > OVERHANG_DEG))
    if len(index) == 0:
        return
    breaks = np.flatnonzero(np.diff(index) > round(GAP_MM / STEP_MM))
    starts, ends = np.r_[index[0], index[breaks + 1]], np.r_[index[breaks], index[-1]]
    for a, b in zip(starts, ends, strict=True):
        if height[a] - height[b] >= MIN_DROP_MM:
            yield int(a), int(b)
