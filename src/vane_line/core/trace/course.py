"""Which of a profile's steep runs is the wall: the one whose foot goes on from its neighbours' all round the tooth.

Behind a thin front tooth the surface drops from the edge, lies flatter in the hollow, and drops once more to the neck:
the wall there is the lower run, though the upper one comes first. Where the lower one is too low to be a run, there is
none. A ledge with steep root below it looks alike in one profile; but its feet go on from both sides.
"""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.rings import ring_runs

EASY_MM_PER_DEG, EASY_MM = 0.15, 1.6  # by which a foot's height may change round the tooth: a papilla's flank
LOWER_PER_DEG, NONE_PER_DEG = 0.02, 0.04  # mm of jump that one degree of a lower run, or of none, must spare …
NONE_MM = 1.0  # … and each stretch of none besides
JUMP_MM = 2.0  # less is the line's own course, or a step in it
MOST_NONE_DEG = 150.0


def one_course(feet: list[Floats]) -> Ints:
    """(A,) which of each profile's runs is its wall, -1 where none is.

    feet: heights (C,) of the runs' lower ends by profile, evenly all round, from the top on, empty where none is; each
    but the first is reached by falling all the way. The cheapest closed course: jumps of height cost, and so does
    leaving out a first run.
    """
    rows = max(len(feet), 1)
    chosen = np.array([0 if len(f) else -1 for f in feet], dtype=np.int64)
    held = np.flatnonzero(chosen >= 0)
    step = 360.0 / rows
    first = np.array([feet[k][0] for k in held])
    apart = np.diff(np.r_[held, held[0] + rows]) * step if len(held) else np.zeros(0)
    jumps = np.abs(np.roll(first, -1) - first) - _easy(apart)
    if len(held) < 2 or jumps.max() < JUMP_MM:
        return chosen
    # Begun and closed where the first run is surest to be the wall: no higher than most, far from a jump or a choice.
    single = np.array([len(feet[k]) == 1 for k in held])
    start = int(held[_surest((jumps < JUMP_MM / 2) & (first <= np.median(first)), single)])
    order = [(int(k) - start) % rows for k in held]
    held = held[np.argsort(order)]
    course = _cheapest(feet, np.r_[held, start], np.r_[np.sort(order), rows] * step, chosen)
    known = np.flatnonzero(course >= 0)
    level = np.interp(np.arange(rows), known, [feet[k][course[k]] for k in known], period=rows)
    high = np.array([len(f) > 0 and f[0] > at + JUMP_MM for f, at in zip(feet, level, strict=True)])
    return np.where(high, course, chosen)


def _cheapest(feet: list[Floats], held: Ints, degrees: Floats, chosen: Ints) -> Ints:
    """`chosen` with the course of least cost through profiles `held` (K,), which ends where it begins.

    degrees: (K,) of azimuth from the first. All courses to a profile's run come from one of a profile before it: what
    lies between is without a wall.
    """
    most = max(len(feet[k]) for k in held)
    level = np.array([np.r_[feet[k], np.zeros(most - len(feet[k]))] for k in held])
    cost = np.full(level.shape, np.inf)
    cost[0, 0] = 0.0
    came = np.zeros((*level.shape, 2), dtype=np.int64)
    for k in range(1, len(held)):
        since = min(int(np.searchsorted(degrees, degrees[k] - MOST_NONE_DEG)), k - 1)
        between = degrees[k] - degrees[since:k, None]
        so_far = cost[since:k] + np.where(between > between[-1], NONE_MM + NONE_PER_DEG * between, 0.0)
        for run in range(len(feet[held[k]]) if k < len(held) - 1 else 1):
            jump = np.abs(level[k, run] - level[since:k]) - _easy(between)
            total = so_far + np.maximum(jump, 0.0)
            at = np.unravel_index(np.argmin(total[::-1]), total.shape)  # of equals the nearest
            came[k, run] = k - 1 - at[0], at[1]
            cost[k, run] = total[came[k, run, 0] - since, at[1]] + LOWER_PER_DEG * run * between[-1, 0]
    out = np.full_like(chosen, -1)
    k, run = came[-1, 0]
    while k > 0:
        out[held[k]] = run
        k, run = came[k, run]
    out[held[0]] = 0
    return out


def _easy(degrees: Floats) -> Floats:
    """mm by which feet so far apart may differ at no cost."""
    return np.minimum(EASY_MM_PER_DEG * degrees, EASY_MM)


def _surest(calm: Bools, single: Bools) -> int:
    """The middle of the longest stretch, all round, of those (K,) that are calm and single, or calm."""
    run = max(ring_runs(calm & single, 1) or ring_runs(calm, 1) or [np.zeros(1, dtype=np.int64)], key=len)
    return int(run[(len(run) - 1) // 2])
