"""The lowest straight run of each profile's wall: where it starts, ends, and how it leans."""

from __future__ import annotations

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

    @property
    def past_foot(self) -> Floats:
        """(A,) how much further than the foot's own sample, in samples (0..1), the wall is steep; nan where something
        else ends it."""
        rows = np.arange(len(self.foot))
        here, below = (self.angle[rows, self.foot + k] - STEEP_DEG for k in (0, 1))
        ends = self.found & (here < 0) & (below > 0)
        return np.asarray(np.where(ends, here / np.where(ends, here - below, 1.0), np.nan))

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
    runs = _falling_runs(angle, profiles.height)
    begin = runs.begin(len(angle))
    chosen = one_course(np.split(profiles.height[runs.row, runs.foot], begin[1:-1]))
    top, foot = np.full(len(chosen), -1, dtype=np.int64), np.full(len(chosen), -1, dtype=np.int64)
    found = np.flatnonzero(chosen >= 0)
    at = begin[found] + chosen[found]
    top[found], foot[found] = runs.top[at], runs.foot[at]
    for k in np.flatnonzero(chosen > 0):
        above = slice(begin[k], begin[k] + chosen[k])
        top[k] = _over_steps(int(top[k]), runs.top[above], runs.foot[above], profiles.radius[k])
    return WallRuns(top, foot, angle)


def _over_steps(top: int, tops: Ints, feet: Ints, radius: Floats) -> int:
    """Where a run that begins at `top` begins with those above it, from which only a narrow step parts it."""
    for above, end in zip(tops[::-1].tolist(), feet[::-1].tolist(), strict=True):
        if top - end > round(STEP_LONG_MM / STEP_MM) or abs(radius[top] - radius[end]) > STEP_WIDE_MM:
            break
        top = above
    return top


def below_hollow(profiles: Profiles, runs: WallRuns, where: Bools) -> WallRuns:
    """The same walls, and `where` (A,) a hollow interrupts one, what goes on below it: there the tooth's neck is.

    In a hollow the surface goes on falling; where a tooth ends, it lies level or rises.
    """
    falling = _falling_runs(runs.angle, profiles.height)
    last = falling.begin(len(runs.top))[1:] - 1
    there = np.flatnonzero(where & runs.found)
    top, foot = runs.top.copy(), runs.foot.copy()
    top[there], foot[there] = falling.top[last[there]], falling.foot[last[there]]
    return WallRuns(top, foot, runs.angle)


@dataclass(frozen=True, eq=False)
class _Steep:
    """Steep runs of all profiles: whose (R,), and first and last arc index (R,); by profile, from the top on."""

    row: Ints
    top: Ints
    foot: Ints

    def only(self, mask: Bools) -> _Steep:
        """Those of a mask (R,)."""
        return _Steep(self.row[mask], self.top[mask], self.foot[mask])

    def begin(self, rows: int) -> Ints:
        """(rows + 1,) number of the first run of each profile, or of the next one that has any."""
        return np.asarray(np.searchsorted(self.row, np.arange(rows + 1)))


def _falling_runs(angle: Floats, height: Floats) -> _Steep:
    """The steep runs of profiles (A, M) that drop by at least MIN_DROP_MM, as far as each falls all the way from one to
    the next."""
    row, column = np.nonzero((angle < STEEP_DEG) & (angle > OVERHANG_DEG))
    if len(row) == 0:
        return _Steep(row, column, column)
    parted = (np.diff(row) > 0) | (np.diff(column) > round(GAP_MM / STEP_MM))
    first, last = np.flatnonzero(np.r_[True, parted]), np.flatnonzero(np.r_[parted, True])
    runs = _Steep(row[first], column[first], column[last])
    runs = runs.only(height[runs.row, runs.top] - height[runs.row, runs.foot] >= MIN_DROP_MM)
    if len(runs.row) == 0:
        return runs
    level = np.cumsum(np.pad(~(angle < FALLING_DEG), ((0, 0), (1, 0))), axis=1)  # samples before that do not fall
    after = np.r_[0, runs.foot[:-1] + 1]
    begins = np.r_[True, np.diff(runs.row) > 0]
    halts = np.cumsum(~begins & (level[runs.row, runs.top] > level[runs.row, after]))
    return runs.only(halts == halts[np.flatnonzero(begins)[np.cumsum(begins) - 1]])
