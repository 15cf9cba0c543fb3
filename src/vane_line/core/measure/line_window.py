"""Where on each profile the finish line is looked for: from a little above the wall's foot to where tissue rises.

The foot is not always the wall's: where a ledge is too narrow or a wall too low to be told as such, the root below
passes for the wall. Root is what the earlier scan shows to be uncut, and what ends suddenly lower than the feet on
either side, past an edge as high as they are.
"""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.rings import ring_runs, running_median
from vane_line.core.trace.crease import CLEAR_TURN_DEG
from vane_line.core.trace.section import STEP_MM, Profiles
from vane_line.core.trace.wall import WallRuns

BEFORE_FOOT_MM = 0.1  # the search starts this far above the detected foot
AFTER_FOOT_MM = 3.0  # and ends this far beyond it: no ledge is wider
RISE_DEG = 15.0  # the ground rises again …
LIP_MM = 0.45  # … by more than any raised lip: it is gingiva or a neighbour
RISE_MM, EDGE_DEG = 0.10, 35.0  # … or by so much past an edge that turns so much: a rim has none within it
SAME_TISSUE_DEG, SAME_VALLEY_MM = 40.0, 0.3  # a gap in a valley is no wider; and it goes on so evenly
FLOOR_MM, RIM_MM = 0.25, 0.45  # … or past so much of a floor, broader at half its height than any rim
CUT_MM = 0.10  # deeper than this under the earlier surface counts as cut
ROOT_DROP_MM, ROOT_BEFORE_MM = 0.6, 1.0  # by which feet on the root lie lower than those beside; searched above them
ROOT_INSIDE_MM, ROOT_LEDGE_MM, ROOT_LEVEL_MM = 0.3, 1.3, 0.45  # from a foot to the edge beside it: in, out, up or down
ROOT_UNCUT, MOST_ROOT = 0.8, 0.6  # of a run's upper half that is uncut on the root, and of profiles that run there
TORN_MM, TORN_PAST_FOOT_MM = 0.5, 1.5  # a profile that ends so much sooner, no further past its foot, met a hole
FOOTED_MM = 0.4  # of ledge past a foot, which is then no hole's edge
HOLE_DEG = 18  # no hole that is gone over is wider
TORN_DEG = 45  # to either side: further than any hole reaches that leaves a preparation to be judged
FEET_DEG, LEAST_FEET = 15, 5  # feet are compared with those to either side, where so many are known
RUN_OUT_MM = 0.4
FOLD_DEG, FOLD_MM = 150.0, 0.2  # a profile that turns back so far, and then runs inward across the path for so long


def search_windows(
    profiles: Profiles, walls: WallRuns, turn: Floats, depth: Floats | None, cut_all_round: bool
) -> tuple[Ints, Ints, Bools]:
    """First and last arc index of the search on each profile, -1 where it has no wall; and whether tissue or
    the border of the scan shuts it.

    turn (A, M): of the profiles' creases; the rest as `find_finish_line` has it. Feet are compared with their
    neighbours first: a single profile that ran on down the root is put right, and so is what is known to have.
    """
    fallen = _below_neighbours(profiles, walls, turn)
    root = fallen if depth is None or not cut_all_round else fallen | _on_root(walls, depth)
    own = walls.found & ~root
    foot_r = np.where(own, taken(profiles.radius, walls.foot), np.nan)
    foot_h = np.where(own, taken(profiles.height, walls.foot), np.nan)
    smooth_r, smooth_h = (running_median(foot, FEET_DEG, LEAST_FEET) for foot in (foot_r, foot_h))
    n = len(foot_r)
    there, known = np.flatnonzero(root), np.flatnonzero(np.isfinite(smooth_h))
    if len(there) and len(known):
        for smooth in (smooth_r, smooth_h):
            smooth[there] = np.interp(there, known, smooth[known], period=n)
    first, last = np.full(n, -1, dtype=np.int64), np.full(n, -1, dtype=np.int64)
    shut = np.zeros(n, dtype=bool)
    valley = np.full(n, -1, dtype=np.int64)
    torn = _torn(profiles, walls)
    for row in range(n):
        if not np.isfinite(smooth_h[row]) or torn[row]:
            continue
        start = int(walls.foot[row])
        if not own[row] or abs(foot_h[row] - smooth_h[row]) > 0.6 or abs(foot_r[row] - smooth_r[row]) > 0.8:
            gap = np.hypot(profiles.radius[row] - smooth_r[row], profiles.height[row] - smooth_h[row])
            if not np.isfinite(gap).any():
                continue
            start = int(np.nanargmin(gap))
        before = ROOT_BEFORE_MM if fallen[row] else BEFORE_FOOT_MM
        begin = max(start - round(before / STEP_MM), 0)
        if depth is not None:
            begin = min(begin, _uncut_above(depth[row], start))
        end, shut[row], valley[row] = _sulcus(profiles, walls, turn, row, start, cut_all_round)
        last[row] = max(min(start + round(AFTER_FOOT_MM / STEP_MM), end), begin + 2)
        if not (cut_all_round and _folded(profiles, turn, row, start, int(last[row]))):
            first[row] = begin
    return first, _with_neighbours(profiles, last, valley) if cut_all_round else last, shut


def _folded(profiles: Profiles, turn: Floats, row: int, start: int, last: int) -> bool:
    """Whether a profile goes to and fro between two samples: it runs in the side of a step that stands along it, and
    what turns on it is no edge. The crest of a lip turns as far, but what comes after goes down."""
    part = slice(start, last + 1)
    if not (turn[row, part] > FOLD_DEG).any():  # nan compares as false
        return False
    out, down = np.diff(profiles.radius[row, part]), np.abs(np.diff(profiles.height[row, part]))
    return bool(-out[(out < 0) & (down < -out)].sum() > FOLD_MM)


def _with_neighbours(profiles: Profiles, last: Ints, valley: Ints) -> Ints:
    """(A,) last index of the search, at the valley too where tissue rises too little to tell it from a lip: what goes
    on from valleys that end the search on either side is the same tissue."""
    ends = (valley >= 0) & (last == valley)
    open_still = (valley >= 0) & (last > valley)
    known = np.flatnonzero(ends)
    if not open_still.any() or len(known) < 2:
        return last
    n = len(last)
    rows = np.flatnonzero(open_still)
    before = (rows - known[np.searchsorted(known, rows) - 1]) % n
    after = (known[np.searchsorted(known, rows) % len(known)] - rows) % n
    off = [
        taken(grid, valley)[rows] - np.interp(rows, known, taken(grid, valley)[known], period=n)
        for grid in (profiles.radius, profiles.height)
    ]
    same = (before + after <= SAME_TISSUE_DEG * n / 360) & (np.hypot(*off) < SAME_VALLEY_MM)
    out = last.copy()
    out[rows[same]] = valley[rows[same]]
    return out


def begun_uncut(walls: WallRuns, depth: Floats) -> Bools:
    """(A,) where what was taken for a profile's wall is uncut from its upper end on."""
    middle = (walls.top + walls.foot) // 2
    return np.array([
        walls.found[row] and (np.abs(depth[row, walls.top[row] : middle[row] + 1]) < CUT_MM).mean() > ROOT_UNCUT
        for row in range(len(middle))
    ])  # fmt: skip


def _on_root(walls: WallRuns, depth: Floats) -> Bools:
    """(A,) where what was taken for the wall is the root below one that is too low to be a wall: uncut under a cut.

    None at all where most is: then that is how the tooth was cut.
    """
    root = begun_uncut(walls, depth)
    for row in np.flatnonzero(root):
        root[row] = (depth[row, : walls.top[row]] < -CUT_MM).sum() > round(RUN_OUT_MM / STEP_MM)
    return root if root.sum() < MOST_ROOT * walls.found.sum() else np.zeros_like(root)


def _below_neighbours(profiles: Profiles, walls: WallRuns, turn: Floats) -> Bools:
    """(A,) where what was taken for the wall ends on the root, though its line goes on from the walls on either side.

    A stretch whose feet lie suddenly lower, at both of its ends, while an edge stands on its profiles where the feet
    beside it are. At a step in the line there is none: the wall goes straight on down.
    """
    held = np.flatnonzero(walls.found)
    out = np.zeros(len(walls.foot), dtype=bool)
    if len(held) < 2:
        return out
    height, radius = (taken(v, walls.foot) for v in (profiles.height, profiles.radius))

    def falls(high: int, low: int) -> bool:
        """Whether the foot falls from one profile to another past an edge as high as the former."""
        if height[high] - height[low] < ROOT_DROP_MM:
            return False
        part = slice(0, max(int(walls.foot[low]) - round(ROOT_DROP_MM / 2 / STEP_MM), 0))
        out_by, up_by = profiles.radius[low, part] - radius[high], profiles.height[low, part] - height[high]
        beside = (out_by > -ROOT_INSIDE_MM) & (out_by < ROOT_LEDGE_MM) & (np.abs(up_by) < ROOT_LEVEL_MM)
        return bool((turn[low, part][beside] > CLEAR_TURN_DEG).any())

    pairs = list(enumerate(zip(held.tolist(), np.roll(held, -1).tolist(), strict=True)))
    begins = [k for k, (a, b) in pairs if falls(a, b)]
    ends = np.array([k for k, (a, b) in pairs if falls(b, a)])
    for k in begins:
        if not len(ends):
            break
        length = int(((ends - k) % len(held)).min())
        if length < MOST_ROOT * len(held):
            out[held[(k + 1 + np.arange(length)) % len(held)]] = True
    return out


def _torn(profiles: Profiles, walls: WallRuns) -> Bools:
    """(A,) where a profile ends at a hole in wall or ledge: far sooner than those beside it, and not past its foot.

    A wide stretch that ends on the ledge is no hole but the scan's border at a contact, also where a hole in the wall
    above parts it in two.
    """
    end = np.isfinite(profiles.radius).sum(axis=1).astype(float)
    own = np.where(walls.found, walls.foot, np.nan).astype(float)
    foot = running_median(own, TORN_DEG, LEAST_FEET)
    low_wall = end >= own + FOOTED_MM / STEP_MM  # beside high ones: it has a foot of its own
    foot = np.where(low_wall, own, foot)
    early = end < running_median(end, TORN_DEG) - TORN_MM / STEP_MM
    on_wall, on_ledge = early & (end < foot), early & (end >= foot) & (end < foot + TORN_PAST_FOOT_MM / STEP_MM)
    for run in ring_runs(on_ledge | on_wall, 2):
        if on_ledge[run].sum() > HOLE_DEG:
            on_ledge[run] = False
    return np.asarray(on_wall | on_ledge)


def _uncut_above(depth: Floats, foot: int) -> int:
    """Where the search begins when the lower wall is uncut surface: a feather edge lies above the foot, and so does a
    ledge too narrow to part the wall from the root."""
    span = round(RUN_OUT_MM / STEP_MM)
    cut = np.flatnonzero(depth[: foot + 1] < -CUT_MM)
    begin = foot if len(cut) == 0 or foot - cut[-1] < span else int(cut[-1])
    uncut = np.convolve(np.abs(depth[: begin + 1]) < CUT_MM, np.ones(span), "valid") > span - 0.5  # nan is none
    after = np.flatnonzero(uncut[1:] & ~uncut[:-1]) + 1
    if len(after) and (cut < after[-1]).sum() > span:  # deeper again below it: gingiva that went back
        begin = min(begin, int(after[-1]))
    return begin if begin == foot else max(begin - span, 0)


def _sulcus(
    profiles: Profiles, walls: WallRuns, turn: Floats, row: int, start: int, ledged: bool
) -> tuple[int, bool, int]:
    """Arc index where the ground turns upward for good, past the foot, or at all past an edge; true when no drop came
    before it; and where it first rises by more than RISE_MM at all, -1 where it does not. ledged: there ought to be a
    floor before it."""
    from_here = min(start + 4, profiles.radius.shape[1] - 1)
    height = profiles.height[row, from_here:]
    finite = np.isfinite(height)
    limit = from_here + (int(np.argmin(finite)) if not finite.all() else len(height)) - 1
    if limit <= from_here:  # the profile ends at the foot
        return max(limit, start), True, -1
    valley = -1
    rising = walls.angle[row, from_here:] > RISE_DEG
    for k in np.flatnonzero(rising[:-3] & rising[1:-2] & rising[2:-1]):
        ahead = height[k : k + round(1.5 / STEP_MM)]
        ahead = ahead[np.isfinite(ahead)]
        top = int(np.argmax(ahead)) if len(ahead) else 0
        climb = ahead[top] - ahead[0] if len(ahead) else 0.0
        tissue = bool(climb > LIP_MM)
        if climb > RISE_MM:
            valley = from_here + int(k) if valley < 0 else valley
            edge = bool(np.nanmax(turn[row, start : from_here + k + 1], initial=0.0) > EDGE_DEG)
            past_floor = ledged and bool(k + 4 >= round(FLOOR_MM / STEP_MM))
            tissue |= edge or (past_floor and _broad(profiles.radius[row, from_here + k :], height[k:], top))
        if tissue or from_here + k + len(ahead) > limit:
            dropped = profiles.height[row, start] - height[k]
            return min(limit, from_here + int(k)), bool(dropped < 0.35), valley
    # The scan itself ends on the ledge: its border is the last that was seen.
    return limit, bool(profiles.height[row, start] - profiles.height[row, limit] < 0.35), valley


def _broad(radius: Floats, height: Floats, top: int) -> bool:
    """Whether what rises from a profile's first sample (M,) to its `top` is broader at half its height than any rim."""
    half = (height[0] + height[top]) / 2
    inner = int(np.argmax(height >= half))
    fallen = np.flatnonzero(height[top:] < half)  # nan compares as false
    if len(fallen):
        return bool(radius[top + fallen[0]] - radius[inner] > RIM_MM)
    return bool(np.nanmax(radius) - radius[inner] > RIM_MM)


def taken(grid: Floats, index: Ints) -> Floats:
    """(A,) of each profile's samples (A, M) the one at `index` (A,)."""
    return grid[np.arange(len(index)), np.maximum(index, 0)]
