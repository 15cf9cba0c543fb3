"""The occlusal direction of a scan: from where the greatest area is visible.

An area-weighted normal depends only on how the border was trimmed (the vector area of an open surface is that
of its border), so visibility decides instead.
"""

from __future__ import annotations

import numpy as np
from scipy.ndimage import maximum_filter

from vane_line.core.arrays import Bools, Floats, any_across, highest_per_cell, unit
from vane_line.core.mesh.surface import Surface

CELL_MM = 0.5  # of the depth picture
DEPTH_TOLERANCE_MM = 0.8  # within a cell, deeper than this is hidden
MAX_POINTS = 4_000
FAR_APART_MM = 12.0  # tips this far apart tell a tilt better than a degree or two per cusp height
TIP_RADIUS_MM = 2.0
TIP_REGION_MM = 8.0
TIP_DROP_MM = 3.5  # a tip this far below the highest around is no cusp of a standing tooth
TIP_CELL_MM = 0.6
PLATEAU_DEG = 42.0  # the middle of the plateau is looked for this far round the best direction
PLATEAU_SHARE = 0.88  # of the greatest visible area: from here on a direction has a say
PLATEAU_ROUNDS = 2
CONE_RINGS = 3
GRAZING = 0.12  # cosine below which area counts less, so that the optimum does not hang on edge-on walls


def guess_occlusal(surface: Surface) -> tuple[Floats, float]:
    """Unit direction (3,) out of the teeth, and a confidence 0..1.

    A coarse sphere of directions, then the middle of the plateau from which nearly as much is seen: along a row
    of teeth, leaning either way shows more wall, so the peak itself lies off the axis on one side or the other.
    The confidence is how much more area is seen from there than from the opposite side.
    """
    step = max(1, surface.n_vertices // MAX_POINTS)
    points = surface.vertices[::step] - surface.vertices.mean(axis=0)
    normals, areas = surface.vertex_normals[::step], surface.vertex_areas[::step]
    directions = _sphere(60)
    seen = np.array([visible_area(points, normals, areas, d) for d in directions])
    best = directions[np.argmax(seen)]
    for _ in range(PLATEAU_ROUNDS):
        around = _cone(best, PLATEAU_DEG)
        values = np.array([visible_area(points, normals, areas, d) for d in around])
        weight = np.clip((values / values.max() - PLATEAU_SHARE) / (1 - PLATEAU_SHARE), 0, 1)
        best = unit((around * weight[:, None]).sum(axis=0))
    # Tips follow the arch's own curve, visibility the trimming of the scan: neither is better, their mean is.
    best = unit(best + _level(points, best))
    top = visible_area(points, normals, areas, best)
    back = visible_area(points, normals, areas, -best)
    return best, float(np.clip(1 - back / max(top, 1e-9), 0, 1))


def _level(points: Floats, up: Floats) -> Floats:
    """`up` turned so that the cusp tips stand level along every plan direction in which they spread far.

    Along a row of teeth the visible area hardly changes with tilt, but the tips make a line; across the row
    the tips of one tooth stand too near each other to say, and the visible area decides. Theil and Sen's
    slope (median over pairs) keeps a cut, hence lower, tooth from tilting the line.
    """
    for _ in range(4):
        tips = cusp_tips(points, up)
        if len(tips) < 3:
            return up
        height = tips @ up
        flat = tips - height[:, None] * up
        _, _, axes = np.linalg.svd(flat - flat.mean(axis=0))
        tilt = np.zeros(3)
        for axis in axes[:2]:
            u = flat @ axis
            i, j = np.triu_indices(len(u), 1)
            far = np.abs(u[i] - u[j]) > FAR_APART_MM
            if far.sum() >= 3:
                tilt -= np.median((height[i] - height[j])[far] / (u[i] - u[j])[far]) * axis
        up = unit(up + tilt)
    return up


def cusp_tips(points: Floats, up: Floats) -> Floats:
    """(T, 3) points of `points` (N, 3) that stand highest within TIP_RADIUS_MM, near the top of the scan there."""
    side = any_across(up)
    plan = np.stack([points @ side, points @ np.cross(up, side)], axis=1)
    top = highest_per_cell(points, up, TIP_CELL_MM)
    cell = np.floor((plan[top] - plan.min(axis=0)) / TIP_CELL_MM).astype(np.int64)
    picture = np.full(cell.max(axis=0) + 2, -np.inf)
    height = points[top] @ up
    np.maximum.at(picture, (cell[:, 0], cell[:, 1]), height)
    near = maximum_filter(picture, footprint=_disc(TIP_RADIUS_MM))[cell[:, 0], cell[:, 1]]
    wide = maximum_filter(picture, footprint=_disc(TIP_REGION_MM))[cell[:, 0], cell[:, 1]]
    return points[top[(height >= near) & (height > wide - TIP_DROP_MM)]]


def _disc(radius_mm: float) -> Bools:
    reach = int(radius_mm / TIP_CELL_MM)
    i, j = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    return np.asarray(i**2 + j**2 <= reach**2)


def visible_area(points: Floats, normals: Floats, areas: Floats, direction: Floats) -> float:
    """Area (mm²) that faces `direction` and is not hidden by something nearer to it."""
    facing = normals @ direction
    front = facing > 0
    if not front.any():
        return 0.0
    side = any_across(direction)
    other = np.cross(direction, side)
    plan = np.stack([points @ side, points @ other], axis=1)
    cell = np.floor((plan - plan.min(axis=0)) / CELL_MM).astype(np.int64)
    key = cell[:, 0] * (cell[:, 1].max() + 1) + cell[:, 1]
    height = points @ direction
    top = np.full(key.max() + 1, -np.inf)
    np.maximum.at(top, key, height)  # back faces hide too
    seen = front & (height > top[key] - DEPTH_TOLERANCE_MM - CELL_MM * np.sqrt(1 / np.maximum(facing, 0.1) ** 2 - 1))
    return float((areas[seen] * np.clip(facing[seen] / GRAZING, 0, 1)).sum())


def _sphere(count: int) -> Floats:
    """Evenly spread directions (count, 3)."""
    k = np.arange(count) + 0.5
    polar, turn = np.arccos(1 - 2 * k / count), np.pi * (1 + 5**0.5) * k
    return np.stack([np.cos(turn) * np.sin(polar), np.sin(turn) * np.sin(polar), np.cos(polar)], axis=1)


def _cone(centre: Floats, reach_deg: float) -> Floats:
    """Directions (D, 3) in even rings round `centre` out to `reach_deg`."""
    side = any_across(centre)
    other = np.cross(centre, side)
    out = [centre]
    for ring in range(1, CONE_RINGS + 1):
        tilt = np.radians(reach_deg) * ring / CONE_RINGS
        for a in np.arange(6 * ring) * 2 * np.pi / (6 * ring):
            out.append(np.cos(tilt) * centre + np.sin(tilt) * (np.cos(a) * side + np.sin(a) * other))
    return np.stack(out)
