"""Which vertices of the preparation scan lie inside the finish line."""

from __future__ import annotations

import numpy as np
import scipy.sparse as sp
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats, unit
from vane_line.core.mesh.surface import Surface

BARRIER_MM = 0.6  # around the line the side is told by the line's own frame; beyond, by connection


def inside_line(surface: Surface, line: Floats, axis: Floats, middle: Floats) -> Bools:
    """(V,) whether a vertex lies inside the closed curve `line` (A, 3), seen along `axis` from `middle` (3,).

    Near the line a vertex is inside when it lies towards the axis and above rather than outward and below.
    Everything connected to the top without crossing the outer side of that band is inside.
    """
    tangent = unit(np.roll(line, -1, axis=0) - np.roll(line, 1, axis=0))
    outward = np.cross(tangent, axis)
    outward *= np.sign(((line - middle) * outward).sum(axis=1, keepdims=True))
    outward = unit(outward)
    # Outside a margin the surface falls; inside it is level or rises. The bisector parts them.
    parting = unit(outward - 0.6 * axis)
    distance, nearest = cKDTree(line).query(surface.vertices, distance_upper_bound=BARRIER_MM)
    near = np.isfinite(distance)
    beyond = np.zeros(surface.n_vertices, dtype=bool)
    index = nearest[near]
    beyond[near] = ((surface.vertices[near] - line[index]) * parting[index]).sum(axis=1) > 0
    i, j = surface.edges.T
    free = ~beyond
    both = free[i] & free[j]
    graph = sp.coo_matrix((np.ones(both.sum()), (i[both], j[both])), shape=(surface.n_vertices,) * 2)
    _, label = connected_components(graph, directed=False)
    off = surface.vertices - middle
    height = off @ axis
    plan = np.linalg.norm(off - height[:, None] * axis, axis=1)
    reach = np.median(np.linalg.norm(line - middle - ((line - middle) @ axis)[:, None] * axis, axis=1))
    top_candidates = np.flatnonzero(free & (plan < 0.5 * reach))
    if len(top_candidates) == 0:
        return np.zeros(surface.n_vertices, dtype=bool)
    # The part that holds most of what stands over the middle of the line.
    chosen = np.bincount(label[top_candidates], weights=surface.vertex_areas[top_candidates]).argmax()
    return np.asarray(label == chosen)
