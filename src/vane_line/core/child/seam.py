"""Where a cut without a ledge ends: at its edge where one is seen, else where the tooth goes under the gingiva.

A crown's finish line looks for the first convex edge beyond the foot of the wall. A child's crown has none: the cut
runs out on the tooth, or goes on below what the scanner sees.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from vane_line.core.arrays import Bools, Ints
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.rings import running_median
from vane_line.core.survey import RingSurvey
from vane_line.core.trace.section import STEP_MM, Profiles
from vane_line.core.trace.wall import WallRuns

LEVELLED_DEG = -30.0  # flatter than this below the wall it is the gingiva, or a ledge
REACH_MM = 1.5  # below the wall's foot, within which the tooth goes under
EASE_DEG, LEAST_FEET = 6, 4


def ended(found: RingSurvey) -> RingSurvey:
    """The survey with its line brought to the seam wherever no edge is seen and no cut runs out."""
    rings, runs, line = found.rings, found.runs, found.found
    index, seen = seam(rings, runs)
    untold = ~line.told & seen
    if not untold.any():
        return found
    radius, height = line.radius.copy(), line.height.copy()
    rows = np.flatnonzero(untold)
    smooth = [running_median(np.where(seen, f[np.arange(len(index)), index], np.nan), EASE_DEG, LEAST_FEET)
              for f in (rings.radius, rings.height)]  # fmt: skip
    for own, there in zip((radius, height), smooth, strict=True):
        own[rows] = np.where(np.isfinite(there[rows]), there[rows], own[rows])
    points = rings.axes.places(rings.azimuth_deg, radius, height)
    moved: FinishLine = replace(
        line, radius=radius, height=height, points=points, index=np.where(untold, index, line.index)
    )
    return replace(found, found=moved)


def seam(rings: Profiles, runs: WallRuns) -> tuple[Ints, Bools]:
    """(A,) arc index at which the surface below each wall turns level, and whether it does (A,)."""
    arc = np.arange(rings.radius.shape[1])[None]
    foot = runs.foot[:, None]
    level = np.isfinite(rings.radius) & (runs.angle > LEVELLED_DEG) & (arc >= foot)
    level &= arc <= foot + round(REACH_MM / STEP_MM)
    seen = runs.found & level.any(axis=1)
    last = np.isfinite(rings.radius).sum(axis=1) - 1
    index = np.where(seen, np.argmax(level, axis=1), np.minimum(runs.foot, last))
    return np.maximum(index, 0), np.asarray(runs.found & (index >= 0))
