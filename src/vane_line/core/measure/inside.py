"""Which vertices of the preparation scan lie inside the finish line."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import dot, unit

BARRIER_MM = 0.6  # around the line the side is told by the line's own frame; beyond, by connection
ROOT_BELOW_MM = 0.08
FACING, ON_LINE_MM = 0.25, 0.05
OVERHANG_MM, OVERHANG_SLOPE = 0.3, 0.45  # a wall undercut along a tilted path may stand out by this, and more higher up
FAR_OUT_MM = 1.0  # no preparation reaches this far out over its own finish line: it is the neighbour


def inside_line(surface: Surface, line: Floats, axis: Floats, middle: Floats, girth: Floats | None = None) -> Bools:
    """(V,) whether a vertex lies inside the closed curve `line` (A, 3), seen along `axis` from `middle` (3,).

    Near the line a vertex is inside when it lies towards the axis and above rather than outward and below.
    Everything connected to the top without crossing the outer side of that band is inside. girth: (A, 3), where the
    tooth bulges over its line, what it reaches out to at each place of the line.
    """

    def flat(points: Floats) -> Floats:
        """From the middle, across the axis."""
        off = points - middle
        return np.asarray(off - (off @ axis)[:, None] * axis)

    height = (surface.vertices - middle) @ axis
    across, ring = flat(surface.vertices), flat(line)
    plan = np.linalg.norm(across, axis=1)
    # The tangent over a few degrees and across the axis only: a step in the line must not turn its outward side.
    tangent = sum(np.roll(ring, -k, axis=0) - np.roll(ring, k, axis=0) for k in range(1, 5))
    outward = np.cross(tangent, axis)
    outward = unit(outward * np.sign((ring * outward).sum(axis=1, keepdims=True)))
    # Outside a margin the surface falls; inside it is level or rises. The bisector parts them.
    parting = unit(outward - 0.6 * axis)
    distance, nearest = cKDTree(line).query(surface.vertices, distance_upper_bound=BARRIER_MM)
    near = np.isfinite(distance)
    index = nearest[near]
    beyond = np.zeros(surface.n_vertices, dtype=bool)
    off_line = surface.vertices[near] - line[index]
    normal = surface.vertex_normals[near]
    # Root that tapers in under the edge lies on the inner side of the bisector, but below, facing out and not up.
    root = (off_line @ axis < -ROOT_BELOW_MM) & (normal @ axis < 0.3)
    root &= (dot(normal, outward[index]) > 0) | (normal @ axis < -0.3)
    # Where tissue or a neighbour rises straight from the line there is no falling side: it faces the preparation.
    facing = dot(normal, outward[index]) < -FACING
    rising = (dot(off_line, outward[index]) > ON_LINE_MM) & facing
    past = dot(off_line, parting[index]) > 0
    _, direction = cKDTree(unit(ring)).query(unit(across))
    above = np.maximum(height - ((line - middle) @ axis)[direction], 0.0)
    allowed = np.linalg.norm(ring, axis=1)[direction] + np.minimum(OVERHANG_MM + OVERHANG_SLOPE * above, FAR_OUT_MM)
    if girth is not None:
        # A bulge faces down and out over the line that it comes down to; no gingiva there does.
        past &= (off_line @ axis < 0) | (normal @ axis > 0) | (dot(normal, outward[index]) < 0)
        allowed = np.maximum(allowed, np.linalg.norm(flat(girth), axis=1)[direction] + OVERHANG_MM)
    beyond[near] = past | root | rising
    beyond |= plan > allowed
    free = ~beyond
    label = surface.parts(free)
    reach = np.median(np.linalg.norm(ring, axis=1))
    top_candidates = np.flatnonzero(free & (plan < 0.5 * reach))
    if len(top_candidates) == 0:
        return np.zeros(surface.n_vertices, dtype=bool)
    # The part that holds most of what stands over the middle of the line.
    chosen = np.bincount(label[top_candidates], weights=surface.vertex_areas[top_candidates]).argmax()
    return np.asarray(label == chosen)
