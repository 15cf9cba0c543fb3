"""Whether the planned crown can go down its path past the neighbours, and which path is free.

The crown is the earlier tooth's surface above the finish line (or, without it, the preparation's own envelope). Seen
in a cylinder frame about the path, everything it sweeps while coming down lies within its furthest radius at or below
each level; a neighbour that reaches further in than that is in the way, by the difference.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.align.crowns import Crowns
from vane_line.core.arrays import Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import unit, xyz

STEP_DEG = 1.0
STEP_MM = 0.10
FREE_MM = 0.10  # teeth that touch, and the grid of the sweep, give up to this much overlap where nothing is in the way
REACH_MM = 11.0
ABOVE_LINE_MM = 1.2  # lower than this the papilla stands, which gives way
TILT_STEP_DEG = 1.0
MAX_TILT_DEG = 30.0


@dataclass(frozen=True)
class Insertion:
    """blocked_by: mesial, distal or None. amount_mm: by how much, at `at`. free_tilt_deg: the smallest tilt of the path
    towards `free_towards` that is free, None where none within MAX_TILT_DEG is."""

    blocked_by: str | None
    amount_mm: float
    at: tuple[float, float, float] | None
    free_tilt_deg: float | None
    free_towards: str | None
    free_direction: tuple[float, float, float] | None


def check_insertion(crown: Floats, neighbours: Floats, axes: Axes, line: FinishLine) -> Insertion:
    """crown: (N, 3) points of what goes in; neighbours: (M, 3) points of the other teeth."""
    base = float(np.median(line.height)) + ABOVE_LINE_MM
    amount, place = _overlap(crown, neighbours, axes, base)
    if amount <= FREE_MM or place is None:
        return Insertion(None, max(amount, 0.0), None, None, None, None)
    side = "mesial" if (place - axes.origin) @ axes.quarter > 0 else "distal"
    for tilt in np.arange(TILT_STEP_DEG, MAX_TILT_DEG + 1e-9, TILT_STEP_DEG):
        for towards, sign in (("mesial", 1.0), ("distal", -1.0)):
            direction = unit(axes.up + sign * np.tan(np.radians(tilt)) * axes.quarter)
            tilted = Axes.make(axes.origin, direction, axes.zero, axes.quarter)
            if _overlap(crown, neighbours, tilted, base)[0] <= FREE_MM:
                return Insertion(side, amount, xyz(place), float(tilt), towards, xyz(direction))
    return Insertion(side, amount, xyz(place), None, None, None)


def _overlap(crown: Floats, neighbours: Floats, axes: Axes, base: float) -> tuple[float, Floats | None]:
    """Greatest sideways overlap of what the crown sweeps with the neighbours, and where."""
    azimuth, radius, height = axes.cylinder(crown)
    n_azimuth = round(360 / STEP_DEG)
    low = float(height.min())
    levels = int((float(height.max()) - low) / STEP_MM) + 2
    reach = np.full((n_azimuth, levels), -np.inf)
    a = (azimuth / STEP_DEG).astype(int) % n_azimuth
    z = ((height - low) / STEP_MM).astype(int)
    np.maximum.at(reach, (a, z), radius)
    # What has passed a level is everything that ends up below it.
    reach = np.maximum.accumulate(reach, axis=1)
    azimuth, radius, height = axes.cylinder(neighbours)
    near = (radius < REACH_MM) & (height > base)
    if not near.any():
        return 0.0, None
    a = (azimuth[near] / STEP_DEG).astype(int) % n_azimuth
    z = np.clip(((height[near] - low) / STEP_MM).astype(int), 0, levels - 1)
    overlap = reach[a, z] - radius[near]
    worst = int(np.argmax(overlap))
    return float(overlap[worst]), neighbours[np.flatnonzero(near)[worst]]


def neighbour_points(prep: Surface, crowns: Crowns, line: FinishLine, axes: Axes) -> Floats:
    """(M, 3) points on the crowns of the other teeth: gingiva gives way, and the tooth's own root is no neighbour."""
    azimuth, radius, height = axes.cylinder(prep.vertices)
    beyond = (radius > line.at(azimuth, line.radius) + 0.3) & (radius < REACH_MM)
    beyond &= (height > line.at(azimuth, line.height) + ABOVE_LINE_MM) & crowns.hold(prep.vertices)
    return np.asarray(prep.vertices[beyond])
