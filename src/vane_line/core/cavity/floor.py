"""How deep the cavity is: along the path from its level floor up to the finished surface."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.reduction import averaged
from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import weighted_quantile
from vane_line.core.vectors import xyz

WORST_AREA_MM2, WORST_SHARE, BLUR_VERTICES = 0.10, 0.01, 3.0  # as of the reduction's low
REACH_MM = 12.0
LEAST_FLOOR_MM2 = 1.5  # of level floor, that its least depth is told by: what is left between wide fillets is chance
LEAST_SEEN_SHARE = 2 / 3
SHY_MM, LEAST_INNER_SHARE = (0.12, 0.25), 0.4  # off the floor's rim: where a scan ends it is not sure to that


@dataclass(frozen=True)
class Floor:
    """Depths (mm, None without a surface to measure to), area, the shallowest place, the level along the path.

    low_moves_mm, median_moves_mm: half of what the depths change by where the floor is told a little smaller; the low's
    also half of what lies between the depth of half its worst place and of twice as much.
    """

    depth_low_mm: float | None
    depth_median_mm: float | None
    area_mm2: float
    at: tuple[float, float, float]
    level_mm: float
    low_moves_mm: float = 0.0
    median_moves_mm: float = 0.0


def floor_depth(
    surface: Surface, floor: Bools, level: Floats, up: Floats, finished: Surface | None, opposing: Surface | None
) -> tuple[Floor | None, Floats]:
    """The floor's depth, and the depth along the path at every inside vertex (N,), nan where nothing stands over it.

    finished: what is measured to; opposing: as far as which at most.
    """
    depth = np.full(surface.n_vertices, np.nan)
    if finished is not None:
        depth = along(finished, surface.vertices, up)
        if opposing is not None:
            depth = np.fmin(depth, along(opposing, surface.vertices, up)) + 0 * depth
    if not floor.any():
        return None, depth
    area = surface.vertex_areas
    total = float(area[floor].sum())
    middle = xyz(surface.vertices[floor].mean(axis=0))
    height = float(np.median(level[floor]))
    seen = floor & np.isfinite(depth)
    if total < LEAST_FLOOR_MM2 or area[seen].sum() < LEAST_SEEN_SHARE * total:
        return Floor(None, None, total, middle, height), depth
    smooth = averaged(surface, np.nan_to_num(depth), np.isfinite(depth))
    low, median = _depths(seen, smooth, depth, area)
    index = np.flatnonzero(seen)
    at = xyz(surface.vertices[index[np.argmin(smooth[seen])]])
    moves = np.zeros(2)
    away, _ = cKDTree(surface.vertices[~floor]).query(surface.vertices) if not floor.all() else (np.inf * area, None)
    for shy in SHY_MM:
        inner = seen & (away > shy)
        if area[inner].sum() > LEAST_INNER_SHARE * area[seen].sum():
            moves = np.maximum(moves, np.abs(np.subtract(_depths(inner, smooth, depth, area), (low, median))))
    low_moves, median_moves = (moves / 2).tolist()
    steep = (_low(seen, smooth, area, 2 * WORST_AREA_MM2) - _low(seen, smooth, area, WORST_AREA_MM2 / 2)) / 2
    return Floor(low, median, total, at, height, float(np.hypot(low_moves, steep)), median_moves), depth


def _depths(seen: Bools, smooth: Floats, depth: Floats, area: Floats) -> tuple[float, float]:
    """Low and median over the vertices `seen` (N,)."""
    worst = max(WORST_AREA_MM2, WORST_SHARE * float(area[seen].sum()))
    blur = min(0.25, BLUR_VERTICES / int(seen.sum()))
    return _low(seen, smooth, area, worst), weighted_quantile(depth[seen], area[seen], 0.5, blur)


def _low(seen: Bools, smooth: Floats, area: Floats, worst_mm2: float) -> float:
    """The depth that `worst_mm2` of the vertices `seen` (N,) stay under."""
    share = min(0.5, worst_mm2 / float(area[seen].sum()))
    return weighted_quantile(smooth[seen], area[seen], share, min(share / 2, BLUR_VERTICES / int(seen.sum())))


def along(surface: Surface, points: Floats, direction: Floats) -> Floats:
    """(N,) how far from points (N, 3) along a unit direction (3,) the surface is met first; nan where it is not."""
    face, t = surface.first_hit(points, direction)
    return np.asarray(np.where((face >= 0) & (t < REACH_MM), t, np.nan))
