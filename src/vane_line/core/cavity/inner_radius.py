"""The radius of a cavity's inner corners, where walls meet floors.

Two planes that meet at an inner angle t, with a corner of radius r between them: the surface passes the planes' line at
a distance of r (1 / sin(t / 2) - 1).
"""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.cavity.parts import Parts, Patches, feet
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.plan import plan_of
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import dot

FOOT_MM, LEAST_FOOT_MM = 1.3, 0.2  # a patch so high over the floor tells of the corner under it
BESIDE_MM = 1.0  # of the floor, in plan
FLOOR_POINTS = 12
LOW_SHARE, LEAST_TOLD = 0.1, 6
MOST_MM = 1.5


def inner_radius(surface: Surface, patches: Patches, parts: Parts, axes: Axes) -> float | None:
    """The least radius (mm) between walls and floors, over a tenth of their length; None where too little is seen."""
    radii = [
        corner_radii(surface, patches, floor, parts, axes)
        for floor in (parts.floor, *(b.floor for b in parts.boxes))
        if floor.sum() >= FLOOR_POINTS
    ]
    told = np.concatenate(radii) if radii else np.zeros(0)
    return None if len(told) < LEAST_TOLD else float(np.quantile(told, LOW_SHARE))


def corner_radii(surface: Surface, patches: Patches, floor: Bools, parts: Parts, axes: Axes) -> Floats:
    """(R,) radius of the corner under each wall patch that stands beside one floor."""
    if len(patches.area) == 0:
        return np.zeros(0)
    plan, level = plan_of(axes, patches.place), (patches.place - axes.origin) @ axes.up
    away, nearest = cKDTree(parts.plan[floor]).query(plan, k=min(FLOOR_POINTS, int(floor.sum())))
    under = parts.level[floor][nearest].mean(axis=1)
    height = level - under
    here = (height < FOOT_MM) & (height > LEAST_FOOT_MM) & (away[:, 0] < BESIDE_MM)
    # The wall must look at the floor: the other side of an axial wall does not stand on this one.
    towards = parts.plan[floor][nearest[:, 0]] - plan
    flat = np.stack([patches.normal @ axes.quarter, patches.normal @ axes.zero], axis=1)
    here &= dot(towards, flat) > 0
    if not here.any():
        return np.zeros(0)
    foot = feet(patches.place[here], patches.normal[here], height[here], axes.up)
    off, _, _ = surface.closest(foot)
    angle = np.arccos(np.clip(-(patches.normal @ axes.up)[here], -1, 1))  # between wall and floor, through the hollow
    radius = off / np.maximum(1 / np.sin(angle / 2) - 1, 0.15)
    return np.asarray(np.clip(radius, 0.0, MOST_MM))
