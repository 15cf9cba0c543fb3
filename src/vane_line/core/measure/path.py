"""Path of insertion: the direction with the greatest 5 %-by-area quantile of draft over the axial walls."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats, any_across, unit, weighted_quantile

QUANTILE = 0.05
REACH_DEG = 25.0
MAX_SAMPLES = 6000
START_STEP_DEG = 3.0
STEP_END_DEG = 0.02


@dataclass(frozen=True, eq=False)
class Path:
    """Unit direction (3,) out of the tooth, the draft quantile it gives, and where it came from."""

    direction: Floats
    least_draft_deg: float
    source: str  # best | given


def draft_deg(normals: Floats, direction: Floats) -> Floats:
    """(N,) angle between wall and path, positive where the wall is seen from above."""
    return np.asarray(np.degrees(np.arcsin(np.clip(normals @ direction, -1, 1))))


def least_draft(normals: Floats, areas: Floats, direction: Floats) -> float:
    """The draft below which 5 % of the wall area lies."""
    return weighted_quantile(draft_deg(normals, direction), areas, QUANTILE)


def best_path(normals: Floats, areas: Floats, axis: Floats) -> Path:
    """The best direction within REACH_DEG of `axis`; on a tie the one nearest to it.

    normals: (N, 3) unit of the wall; areas: (N,). A grid of tilts, then a compass search from the best: the
    quantile is not smooth, so derivatives would not help.
    """
    if len(normals) == 0:
        return Path(axis, float("nan"), "best")
    if len(normals) > MAX_SAMPLES:
        every = len(normals) // MAX_SAMPLES + 1
        normals, areas = normals[::every], areas[::every]
    side = any_across(axis)
    other = np.cross(axis, side)

    def direction(tilt: Floats) -> Floats:
        return unit(axis + np.tan(np.radians(tilt[0])) * side + np.tan(np.radians(tilt[1])) * other)

    def cost(tilt: Floats) -> float:
        size = float(np.hypot(*tilt))
        over = max(0.0, size - REACH_DEG)
        return -least_draft(normals, areas, direction(tilt)) + 0.002 * size + over

    grid = [np.array([a, b]) for a in np.arange(-24, 25, 6.0) for b in np.arange(-24, 25, 6.0)]
    tilt = min((t for t in grid if np.hypot(*t) <= REACH_DEG), key=cost)
    value, step = cost(tilt), START_STEP_DEG
    while step > STEP_END_DEG:
        around = [tilt + step * np.array([np.cos(a), np.sin(a)]) for a in np.arange(8) * np.pi / 4]
        trial = min(around, key=cost)
        if cost(trial) < value - 1e-6:
            tilt, value = trial, cost(trial)
        else:
            step /= 2
    best = direction(tilt)
    return Path(best, least_draft(normals, areas, best), "best")
