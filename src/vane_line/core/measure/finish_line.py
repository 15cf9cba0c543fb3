"""The finish line: the outer (cavosurface) edge of the preparation, as a closed curve.

On the profiles round the preparation it is the first convex crease outward from the foot of the wall, before
the valley of the sulcus. All profiles together are one strip of surface; the line is the closed path of least
cost along that crease. The difference to the earlier scan helps where the crease is weak, and never moves the
line off a clear one. Each point is then placed where straight fits of the ledge and of the uncut surface meet.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.ndimage import median_filter

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.line_window import CUT_MM, RUN_OUT_MM, search_windows, taken
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import longest_run
from vane_line.core.spread import graded
from vane_line.core.trace.crease import CLEAR_TURN_DEG, crease_turn
from vane_line.core.trace.edge import FIT_OUTSIDE_MM, edges_at
from vane_line.core.trace.fits import stretches
from vane_line.core.trace.section import STEP_MM, Axes, Profiles
from vane_line.core.trace.strip import Strip, closed_path, even_course
from vane_line.core.trace.wall import WallRuns

DOUBTFUL_MM = 0.4  # by which a line that is doubtful may run further in or out (set by hand)
TURN_NEAR = 3  # samples to either side of the path, among which its crease is
EVEN_DEG, LEAST_SAY = 3.0, 0.05  # of turn that is less than the sharpest by so much, a third of its say; and none
CREASED_DEG = 10.0  # about CLEAR_TURN_DEG, over which the place goes over from the course to the crease
SPIKE_MM, SPIKE_FADE_MM = 0.08, 0.04  # off the median of its neighbourhood a point is put back, over so much by and by
FINE_MM, CUT_SHARE = 0.12, 0.8  # edges up to this blunt nothing; of what is longer, how far a blunted edge reaches
SAME_MM = 0.05
LENGTH_HALF = 3  # points to either side that are averaged for the length
RUN_IN_MM = 1.0  # of the cut whose course tells where it ends
LEAST_SLOPE = 0.04  # a cut that runs out flatter than this (2 degrees) tells no place
BAND_AWAY_MM = 0.2
OWN_MM = 0.3  # beyond a tooth's greatest girth: what is its own surface
MAX_GAP_DEG = 25  # a longer stretch without evidence leaves the line open


@dataclass(frozen=True, eq=False)
class FinishLine:
    """The line's points (A, 3) by azimuth, its cylinder coordinates, and per point whether it is told clearly."""

    points: Floats
    azimuth_deg: Floats
    radius: Floats
    height: Floats
    turn_deg: Floats
    clear: Bools
    index: Ints  # arc index on the profiles
    gap_deg: float  # the longest stretch without any evidence
    drawn: Bools  # by hand
    band_mm: Floats  # where no edge is told: how wide the stretch is in which it must lie; nan elsewhere

    @property
    def closed(self) -> bool:
        """Whether it could be followed all the way round."""
        return self.gap_deg < MAX_GAP_DEG

    @property
    def told(self) -> Bools:
        """(A,) where an edge is seen, or where the cut is seen to run out."""
        return np.asarray(self.clear | np.isfinite(self.band_mm))

    @property
    def untold_deg(self) -> float:
        """The longest stretch in which no edge is told."""
        return longest_run(~self.told) * 360 / len(self.told)

    @property
    def smooth_points(self) -> Floats:
        """(A, 3) the points averaged with LENGTH_HALF neighbours to either side."""
        wide = np.concatenate([self.points[-LENGTH_HALF:], self.points, self.points[:LENGTH_HALF]])
        return np.asarray(np.lib.stride_tricks.sliding_window_view(wide, 2 * LENGTH_HALF + 1, axis=0).mean(axis=2))

    @property
    def steps_mm(self) -> Floats:
        """(A,) from each point to the next on the smooth course."""
        smooth = self.smooth_points
        return np.asarray(np.linalg.norm(np.diff(smooth, axis=0, append=smooth[:1]), axis=1))

    @property
    def length_mm(self) -> float:
        """Of the smooth course: the scatter of single points would lengthen it by a few per cent."""
        return float(self.steps_mm.sum())

    @property
    def doubtful_share(self) -> float:
        return float(1 - self.clear.mean())

    def at(self, azimuth_deg: Floats, field: Floats) -> Floats:
        """A field (A,) of the line interpolated at azimuths."""
        return np.asarray(np.interp(azimuth_deg % 360, np.r_[self.azimuth_deg, 360.0], np.r_[field, field[0]]))

    def holds(self, surface: Surface, axes: Axes) -> Bools:
        """(V,) what of a surface may be the tooth's own, where this is the line of its greatest girth."""
        azimuth, radius, _ = axes.cylinder(surface.vertices)
        return np.asarray(radius < self.at(azimuth, self.radius) + OWN_MM)


def find_finish_line(
    profiles: Profiles, walls: WallRuns, depth: Floats | None, cut_all_round: bool = True
) -> FinishLine:
    """Trace the line. `depth` (A, M) is the signed distance of each profile sample to the earlier surface.

    cut_all_round: the tooth is, so that a wall without any cut is the root below one too low to be seen as such.
    """
    turn = crease_turn(profiles)
    first, last, shut = search_windows(profiles, walls, turn, depth, cut_all_round)
    width = int((last - first).max(initial=0)) + 1
    columns = first[:, None] + np.arange(width)[None]
    valid = (columns <= last[:, None]) & (columns < profiles.radius.shape[1])
    columns = np.minimum(columns, profiles.radius.shape[1] - 1)
    rows = np.arange(len(first))[:, None]
    valid &= np.isfinite(profiles.radius[rows, columns]) & (first >= 0)[:, None]
    strip_turn = np.nan_to_num(turn[rows, columns])
    cost = -np.clip(strip_turn, 0, 80) / 80.0
    # A clear edge right after the foot beats one farther out: the first convex crease.
    cost = cost + 0.05 * np.maximum(columns - walls.foot[:, None], 0) * STEP_MM
    if depth is not None:
        cost = cost + _difference_cost(depth, columns, rows)
    # Where the ledge runs straight into rising tissue there is no edge to see: the line lies at most there.
    weak = np.where(valid, strip_turn, 0).max(axis=1) < CLEAR_TURN_DEG
    nowhere = np.full(len(first), -1.0), np.full(len(first), np.nan)
    end, band = nowhere if depth is None else _runs_out(depth, first, last)
    at_run_out = np.clip(1.5 - np.abs(columns - end[:, None]), 0, 1) * (weak & (end >= 0))[:, None]
    # What ends with the profile ends between two samples of it.
    beyond = np.where((last >= np.floor(profiles.end)) & np.isfinite(profiles.end), profiles.end, last + 1.0)[:, None]
    at_end = np.clip(columns - beyond + 1 + round(0.15 / STEP_MM), 0, 1) * (weak & shut & (end < 0))[:, None]
    cost = cost - 0.6 * np.maximum(at_end, at_run_out)
    cost = np.where(valid, cost, 4.0)
    r = np.nan_to_num(profiles.radius[rows, columns], nan=99.0)
    h = np.nan_to_num(profiles.height[rows, columns], nan=99.0)
    seeing = np.flatnonzero(valid.any(axis=1))
    say = np.clip(beyond - columns, 0, 1)
    strip = Strip(cost[seeing], r[seeing], h[seeing], np.diff(seeing, prepend=seeing[-1] - len(first)), say[seeing])
    path = closed_path(strip)
    index, evident = first.copy(), np.zeros(len(first), dtype=bool)
    index[seeing], evident[seeing] = columns[seeing, path], valid[seeing, path]
    course = np.full((len(first), 2), np.nan)
    course[seeing] = even_course(strip, path)
    line = placed_on(profiles, index, turn, evident, course)
    told = ~line.clear & (np.abs(line.index - end) <= round(BAND_AWAY_MM / STEP_MM)) & (end >= 0)
    return replace(line, band_mm=np.where(told, band, np.nan))


def turn_near(turn: Floats, index: Ints) -> Floats:
    """(A,) greatest turn within TURN_NEAR samples of an arc index; nought where none turns outward."""
    return np.asarray(_turns(turn, index).max(axis=1))


def _turns(turn: Floats, index: Ints) -> Floats:
    """(A, W) turns of the samples within TURN_NEAR of an arc index; nought where they do not turn outward."""
    near = stretches(turn, index - TURN_NEAR, index + TURN_NEAR)
    return np.where(near > 0, near, 0.0)  # nan compares as false


def nearest_sample(profiles: Profiles, radius: Floats, height: Floats, rows: Ints | None = None) -> Ints:
    """(R,) arc index of the profile sample nearest to each place."""
    rows = np.arange(len(radius)) if rows is None else rows
    gap = (profiles.radius[rows] - radius[:, None]) ** 2 + (profiles.height[rows] - height[:, None]) ** 2
    gap = np.where(np.isfinite(gap), gap, np.inf)
    return np.asarray(np.argmin(gap, axis=1))


def _runs_out(depth: Floats, first: Ints, last: Ints) -> tuple[Floats, Floats]:
    """Where along each profile (A,), in samples, the cut runs out, and how wide (mm) the band is in which it does: a
    feather edge.

    From where on the surface is uncut for RUN_OUT_MM within what can be told, the last of the cut is prolonged to
    nought; -1 where the surface tells no such place.
    """
    out, band = np.full(len(first), -1.0), np.full(len(first), np.nan)
    span, back = round(RUN_OUT_MM / STEP_MM), round(RUN_IN_MM / STEP_MM)
    same = np.abs(depth) < SAME_MM
    for row in np.flatnonzero(first >= 0):
        here = same[row, first[row] : last[row] + span]
        if len(here) < span:
            continue
        whole = np.flatnonzero(np.convolve(here, np.ones(span), "valid") > span - 0.5)
        if len(whole) == 0:
            continue
        start = int(first[row] + whole[0])
        before = np.arange(max(start - back, 0), start)
        before = before[depth[row, before] < -SAME_MM]  # nan compares as false
        if len(before) < span // 2:
            continue
        slope, level = np.polyfit(before, depth[row, before], 1)
        if slope < LEAST_SLOPE * STEP_MM:
            continue
        reach = int(np.argmin(np.r_[same[row, start:], False]))  # as far as it stays uncut
        out[row] = start + min(max(-level / slope - start, 0.0), reach)
        band[row] = 2 * SAME_MM / (slope / STEP_MM)
    return out, band


def _difference_cost(depth: Floats, columns: Ints, rows: Ints) -> Floats:
    """Small where the surface is cut before a sample and uncut after it."""
    m = depth.shape[1]
    cut = np.nan_to_num((depth < -CUT_MM).astype(float))
    same = np.nan_to_num((np.abs(depth) < SAME_MM).astype(float))
    cut_sum = np.concatenate([np.zeros((len(depth), 1)), np.cumsum(cut, axis=1)], axis=1)
    same_sum = np.concatenate([np.zeros((len(depth), 1)), np.cumsum(same, axis=1)], axis=1)
    span = round(0.5 / STEP_MM)
    after = np.minimum(columns + span, m)
    before = np.maximum(columns - span, 0)
    cut_after = (cut_sum[rows, after] - cut_sum[rows, columns]) / span
    same_before = (same_sum[rows, columns] - same_sum[rows, before]) / span
    return np.asarray(0.25 * cut_after + 0.5 * same_before)


def placed_on(
    profiles: Profiles, index: Ints, turn: Floats, evident: Bools, course: Floats | None = None
) -> FinishLine:
    """Points where fits on both sides of the crease meet, kept near the surface; where there is none, on the `course`
    (A, 2), at the sample `index` (A,) unless given."""
    n = len(index)
    radius, height = taken(profiles.radius, index), taken(profiles.height, index)
    if course is not None:
        radius, height = (np.where(np.isfinite(c), c, v) for c, v in zip(course.T, (radius, height), strict=True))
    if not evident.all() and evident.any():  # a hole, or no wall: the course goes straight over it
        here, rows = np.flatnonzero(evident), np.flatnonzero(~evident)
        radius[rows], height[rows] = (np.interp(rows, here, v[here], period=n) for v in (radius, height))
        index = index.copy()
        index[rows] = nearest_sample(profiles, radius[rows], height[rows], rows)
    off = max(profiles.edge_mm - FINE_MM, 0.0) * CUT_SHARE
    turn_at = turn_near(turn, index)
    fitted = np.stack([radius, height], axis=1)
    creased = (turn_at >= CLEAR_TURN_DEG) & evident
    share = graded(turn_at - CLEAR_TURN_DEG, CREASED_DEG)[:, None]
    here = np.flatnonzero(evident & (share[:, 0] > 0))
    if len(here):
        fitted[here] += share[here] * (_creases(profiles, index, turn, here, off) - fitted[here])
    clear = creased & _goes_on(profiles, index, round((FIT_OUTSIDE_MM + off) / STEP_MM))
    fitted_r, fitted_h = (_despiked(v) for v in fitted.T)
    points = profiles.axes.places(profiles.azimuth_deg, fitted_r, fitted_h)
    gap = longest_run(~evident) * 360 / n
    by_hand = np.zeros(n, dtype=bool)
    return FinishLine(
        points=points,
        azimuth_deg=profiles.azimuth_deg,
        radius=fitted_r,
        height=fitted_h,
        turn_deg=turn_at,
        clear=clear,
        index=index,
        gap_deg=gap,
        drawn=by_hand,
        band_mm=np.full(n, np.nan),
    )


def _creases(profiles: Profiles, index: Ints, turn: Floats, rows: Ints, off: float) -> Floats:
    """(R, 2) where the edge lies on each of `rows` (R,), by the creases near arc `index` (A,): of those that turn
    nearly as much as the sharpest one the mean, that it may not jump from one to the next."""
    near = _turns(turn[rows], index[rows])
    say = np.clip(np.exp((near - near.max(axis=1, keepdims=True)) / EVEN_DEG) - LEAST_SAY, 0, None)
    row, k = np.nonzero(say)
    places = edges_at(profiles.radius[rows[row]], profiles.height[rows[row]], index[rows[row]] - TURN_NEAR + k, off)
    weight = say[row, k]
    total = np.bincount(row, weight)
    return np.stack([np.bincount(row, weight * v) / total for v in places.T], axis=1)


def _goes_on(profiles: Profiles, index: Ints, samples: int) -> Bools:
    """(A,) whether so much is seen past arc `index`: near a scan's border triangles bend as if there were an edge."""
    past = np.minimum(index + samples, profiles.radius.shape[1] - 1)
    return np.isfinite(taken(profiles.radius, past))


def _despiked(values: Floats) -> Floats:
    """Single points that leave both neighbourhoods replaced by the median: a step keeps its two levels."""
    n = len(values)
    wide = np.r_[values[-4:], values, values[:4]]
    median = median_filter(wide, 5)[4 : n + 4]
    return values + graded(np.abs(values - median) - SPIKE_MM, SPIKE_FADE_MM) * (median - values)
