"""Stretches of the finish line that pass each other: two ledges, one above the other, on the same half-planes.

They are looked for only beside a step of the line: elsewhere a second flat place below the first is gingiva.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.rings import degrees_apart, ring_runs
from vane_line.core.trace.section import STEP_MM, Profiles, tangent_angle
from vane_line.core.trace.wall import WallRuns

WINDOW_MM = 0.25
FLAT_DEG, STEEP_DEG = (-38.0, 20.0), -58.0
LEAST_FLAT_MM, LEAST_FALL_MM = 0.15, 0.15
DROP_MM = (0.15, 1.2)  # between the ledges: they are said to miss each other by up to a millimetre
BEYOND_MM = 1.6  # of arc past the line that is looked at
LEAST_DEG, JOIN_DEG = 6, 4
BESIDE_STEP_DEG = 14.0


@dataclass(frozen=True)
class Passing:
    """Two ledges over each other from one azimuth to another, and the height between them."""

    from_deg: float
    to_deg: float
    height_mm: float


def find_passing(rings: Profiles, walls: WallRuns, line: FinishLine, steps_deg: list[float]) -> list[Passing]:
    """Of each step (azimuths) the stretch over which both ledges are there."""
    if not steps_deg:
        return []
    angle = tangent_angle(rings, WINDOW_MM)
    drop = np.full(len(line.azimuth_deg), np.nan)
    for k in np.flatnonzero(walls.found):
        last = min(int(line.index[k]) + round(BEYOND_MM / STEP_MM), angle.shape[1] - 1)
        first = int(walls.foot[k])
        if last > first:
            drop[k] = _between(angle[k, first:last], rings.height[k, first:last])
    found = []
    per_degree = len(drop) / 360
    for run in ring_runs(np.isfinite(drop), round(JOIN_DEG * per_degree)):
        if len(run) < LEAST_DEG * per_degree:
            continue
        azimuth = line.azimuth_deg[run]
        if min(float(degrees_apart(azimuth, s).min()) for s in steps_deg) <= BESIDE_STEP_DEG:
            found.append(Passing(float(azimuth[0]), float(azimuth[-1]), float(np.nanmedian(drop[run]))))
    return found


def _between(angle: Floats, height: Floats) -> float:
    """Height between the first ledge and one below it that ends in an edge of its own; nan where there is none."""
    flats = _runs((angle > FLAT_DEG[0]) & (angle < FLAT_DEG[1]), LEAST_FLAT_MM)
    steep = angle < STEEP_DEG
    for (a0, a1), (b0, b1) in pairwise(flats):
        fall = float(np.nanmedian(height[a0:a1]) - np.nanmedian(height[b0:b1]))
        between, after = steep[a1:b0], steep[b1 : b1 + round(0.5 / STEP_MM)]
        if DROP_MM[0] <= fall <= DROP_MM[1] and between.any() and after.sum() * STEP_MM >= LEAST_FALL_MM:
            return fall
    return float("nan")


def _runs(mask: Bools, least_mm: float) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.r_[False, mask, False].astype(int)))
    pairs = zip(edges[::2], edges[1::2], strict=True)
    return [(int(a), int(b)) for a, b in pairs if (b - a) * STEP_MM >= least_mm]
