"""Undercuts inside an outline: cut surface that something of the tooth hangs over along the path.

From each place a ray is sent up the path. Where it meets the tooth, the place is hidden, and its depth is how far it
would have to move away from its wall to be seen.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from vane_line.core.arrays import Floats, Ints
from vane_line.core.measure.undercut import LEAST_AREA_MM2, LEAST_MM, MAX_TILT_DEG, NOISE_SHARE, Region
from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import weighted_quantile
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import dot, unit, xyz

SIDES = {"facial": (0, 1.0), "mesial": (1, 1.0), "lingual": (0, -1.0), "distal": (1, -1.0)}  # by axis and way along it
DEEPEST_MM = 1.5
HALVINGS = 8
FLOOR_COSINE = 0.64  # 50 degrees
OFF_MM = 0.02  # a ray starts so far off the surface
DEEP_SHARE = 0.03


def hidden_depth(crop: Surface, surface: Surface, axes: Axes) -> tuple[Floats, Floats]:
    """(N,) sideways depth of each place of `surface` under what hangs over it, nought where it is free; and the unit
    direction (N, 3) across the path out of its wall. crop: the scan round the tooth, freed of noise."""
    normals = surface.even_normals
    across = unit(normals - (normals @ axes.up)[:, None] * axes.up)
    # Off the surface along its own normal: across, a floor's foot would begin within the wall that stands on it.
    out = surface.vertex_normals
    start, aside = surface.vertices + OFF_MM * out, OFF_MM * dot(out, across)
    depth = np.zeros(surface.n_vertices)
    # What faces up is a floor: the way out of its wall is only noise.
    standing = np.abs(normals @ axes.up) < FLOOR_COSINE
    index = np.flatnonzero(standing)
    index = index[crop.first_hit(start[index], axes.up)[0] >= 0]
    low, high = np.zeros(len(index)), np.full(len(index), DEEPEST_MM)
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        hit = crop.first_hit(start[index] + middle[:, None] * across[index], axes.up)[0] >= 0
        low, high = np.where(hit, middle, low), np.where(hit, high, middle)
    depth[index] = np.maximum((low + high) / 2 + aside[index], 0.0)
    # What is never free lies under a fold, or a neighbour: no wall of this cavity hangs there.
    depth[index[low > 0.9 * DEEPEST_MM]] = 0.0
    return depth, across


def undercut_regions(
    surface: Surface,
    depth: Floats,
    across: Floats,
    level: Floats,
    axes: Axes,
    noise_um: float,
    spare_deg: Callable[[str], float | None],
) -> tuple[Floats, list[Region]]:
    """Depth freed of noise (N,), and the undercuts, deepest first.

    level: (N,) along the path.
    spare_deg: of a side, the draft of the wall that faces it, by which the path may lean.
    """
    least = max(LEAST_MM, NOISE_SHARE * noise_um / 1000)
    smooth = surface.spread(depth, 2)
    smooth = np.where(smooth > least, smooth, 0.0)
    label = surface.parts(smooth > 0)
    found = []
    kept = np.zeros(len(depth), dtype=bool)
    for number in np.unique(label[smooth > 0]):
        index = np.flatnonzero((label == number) & (smooth > 0))
        area = float(surface.vertex_areas[index].sum())
        if area >= LEAST_AREA_MM2:
            kept[index] = True
            found.append(_region(surface, smooth, across, level, axes, index=index, area=area,
                                 spare_deg=spare_deg))  # fmt: skip
    found.sort(key=lambda r: -r.max_depth_mm)
    return np.where(kept, smooth, 0.0), found


def _region(
    surface: Surface, smooth: Floats, across: Floats, level: Floats, axes: Axes, index: Ints, area: float,
    spare_deg: Callable[[str], float | None],
) -> Region:  # fmt: skip
    areas = surface.vertex_areas[index]
    deepest = int(index[np.argmax(smooth[index])])
    value = weighted_quantile(smooth[index], areas, 1 - DEEP_SHARE, DEEP_SHARE)
    # Its wall lies on the side away from which it faces.
    facing = (across[index] * (areas * smooth[index])[:, None]).sum(axis=0)
    side = min(SIDES, key=lambda s: SIDES[s][1] * float(facing @ (axes.zero if SIDES[s][0] == 0 else axes.quarter)))
    upright = np.sqrt(np.clip(1 - (surface.vertex_normals[index] @ axes.up) ** 2, 0, 1))
    azimuth = float(axes.cylinder(surface.vertices[deepest][None])[0][0])
    levels = level[index]
    lean = float(np.degrees(np.arctan2(value, max(float(np.ptp(levels)), 0.3))))
    spare = spare_deg(side)
    tilt = lean if lean <= MAX_TILT_DEG and (spare is None or spare > lean) else None
    overhang = surface.vertices[deepest] + smooth[deepest] * across[deepest]
    overhang = overhang + (float(levels.max()) - level[deepest]) * axes.up
    return Region(
        sector=side, azimuth_deg=azimuth, from_deg=azimuth, to_deg=azimuth, max_depth_mm=value, area_mm2=area,
        blockout_mm3=float((smooth[index] * areas * upright).sum()), at=xyz(surface.vertices[deepest]),
        overhang=xyz(overhang), remove_mm=value, tilt_deg=tilt,
    )  # fmt: skip
