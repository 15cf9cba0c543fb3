"""Which part of the preparation scan is cut: seeded by the difference to the tooth before, parted along creases.

Two kinds of seeds grow over the scan at once: surface that lies well under the tooth before, and surface that is still
what it was. Crossing a convex crease costs much more than following a wall or a slope, so they meet on the cavosurface
edge, which a shallow difference alone would put down the wall.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import ConvexHull, cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.growth import reached, sharpest_bend
from vane_line.core.mesh.points import any_within
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.plan import plan_of
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.trace.section import Axes

CUT_MM = 0.35  # so far under the tooth before, surface was cut for certain
SAME_MM = 0.06  # so near to it, it is the same
FAR_MM = 1.5  # outside the tooth before, wherever its border lies: beside it, not under its greatest girth
OFF_CUT_MM = 0.35  # by which what is the same keeps off what was cut, and off the earlier scan's border
CREASE_MM = 0.16  # over which noise is taken off before creases are told
CREASE_FLOOR = 1.2  # 1/mm: gentler ridges are anatomy
CREASE_COST = 1.4
SEED_MM, TOOTH_MM, BELOW_MM = 0.8, 8.0, 4.0  # round a place in the cavity; and what is certainly outside of it
LEAST_AREA_MM2 = 4.0
LEAST_FACES = 40
DOWN = -0.3  # cosine: surface that looks down is no cavity's
HANDS_MM, BARRIER_MM, WALL_COST = 0.25, 0.1, 60.0  # round a line drawn by hand, which hardly anything grows across
EDGE_ON_MM = 0.15  # of it in plan


@dataclass(frozen=True, eq=False)
class CutRegion:
    """What of a surface was cut: mask (V,); level: (V,) by how much less the way there costs from what was cut for
    certain than from what was not: nought on the border, where it crosses the edges."""

    mask: Bools
    level: Floats


def cut_region(
    crop: Surface, tooth: ReferenceTooth, base: Surface, up: Floats, mine: Bools, *, cut_mm: float = CUT_MM,
    down: float = DOWN,
) -> CutRegion | None:  # fmt: skip
    """What was cut of `crop` (V vertices, freed of noise), by the tooth before and the whole scan before; None where
    nothing was.

    up: (3,) occlusal. mine: (V,) what may be this tooth's: one beside it may have been cut too, and the tooth before
    reach over to it where they touched. cut_mm: so far under the tooth before, surface was cut for certain. down: the
    least cosine of a cut surface to `up`.
    """
    depth, unseen = tooth.depth(crop.vertices)
    apart, face, place = base.signed_distance(crop.vertices)
    facing = crop.vertex_normals @ up > down
    cut = (depth > cut_mm) & facing & ~unseen & mine
    label = crop.parts(cut)
    if not cut.any():
        return None
    largest = np.bincount(label[cut], weights=crop.vertex_areas[cut]).argmax()
    cut &= label == largest
    rim = base.at_rim(face, place)
    same = (np.abs(apart) < SAME_MM) & ~rim
    # It keeps off what was cut, but not off what stands outside the tooth before, as gingiva does that was pressed
    # aside: between that and the cut's edge no more than a narrow strip may be left.
    other = rim | (~same & (depth > SAME_MM))
    same &= ~any_within(crop.vertices, crop.vertices[other], OFF_CUT_MM) & ~cut
    # What stands outside the tooth before is gingiva or a neighbour: not this cavity.
    beside = unseen & (depth < -FAR_MM)
    beside[beside] = ~under(crop.vertices[beside], tooth.surface, up)
    same |= ((depth < -CUT_MM) & ~unseen | beside) & ~cut
    return _grown(crop, cut, same | ~mine)


def under(points: Floats, tooth: Surface, up: Floats) -> Bools:
    """(N,) whether points (N, 3) lie within the outline of a tooth, seen along `up` (3,). Of its side below a
    closed contact no scan saw anything: to which side of what was seen above it a place there lies, says nothing."""
    side = tooth.across(up)
    plane = np.stack([side, np.cross(up, side)], axis=1)
    hull = ConvexHull(tooth.vertices @ plane).equations
    return np.asarray((points @ plane @ hull[:, :2].T + hull[:, 2] < 0).all(axis=1))


def region_by_crease(crop: Surface, inside: Floats, up: Floats) -> CutRegion | None:
    """What was cut, told without the tooth before: round a place `inside` (3,) the surface as far as the first
    convex crease. Doubtful where there is none; None where nothing is found."""
    off = crop.vertices - inside
    height = off @ up
    across = np.linalg.norm(off - height[:, None] * up, axis=1)
    facing = crop.vertex_normals @ up
    seed = (np.linalg.norm(off, axis=1) < SEED_MM) & (facing > DOWN)
    outside = (across > TOOTH_MM) | (height < -BELOW_MM)
    return _grown(crop, seed, outside & ~seed)


def bounded_region(crop: Surface, line: Floats, axes: Axes) -> CutRegion | None:
    """The surface inside a closed curve `line` (N, 3) on it, seen along the path; None where it holds next to
    nothing."""
    plan, course = plan_of(axes, crop.vertices), plan_of(axes, line)
    inside = in_polygon(plan, course)
    away, _ = cKDTree(line).query(crop.vertices)
    # A wall that is seen edge-on lies on the curve all over: to which side it belongs, others must say.
    certain = (away > HANDS_MM) & (cKDTree(course).query(plan)[0] > EDGE_ON_MM)
    facing = crop.vertex_normals @ axes.up > DOWN
    level = (crop.vertices - axes.origin) @ axes.up
    low = float(((line - axes.origin) @ axes.up).min()) - BELOW_MM
    seed = inside & certain & facing & (level > low)
    return _grown(crop, seed, (~inside | (level < low)) & certain, np.where(away < BARRIER_MM, WALL_COST, 0.0))


def in_polygon(points: Floats, corners: Floats) -> Bools:
    """(N,) whether points (N, 2) lie within a closed polygon (K, 2), by how often a ray leaves it."""
    inside = np.zeros(len(points), dtype=bool)
    x, y = points.T
    for (ax, ay), (bx, by) in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        if ay != by:
            crosses = (ay > y) != (by > y)
            inside ^= crosses & (x < (bx - ax) * (y - ay) / (by - ay) + ax)
    return inside


def _grown(crop: Surface, cut: Bools, same: Bools, barrier: Floats | None = None) -> CutRegion | None:
    """The seeds grown until they meet; barrier: (V,) a further cost, 1/mm."""
    if crop.vertex_areas[cut].sum() < 0.1 or not same.any():
        return None
    convex = sharpest_bend(crop, 1.0, crop.passes(CREASE_MM, least=1))
    cost = np.maximum(convex - CREASE_FLOOR, 0) * CREASE_COST + 0.25
    if barrier is not None:
        cost = cost + barrier
    from_cut, from_same = reached(crop, cost, [cut, same])
    with np.errstate(invalid="ignore"):  # where no way leads there is no level
        level = from_same - from_cut
    mask = whole(crop, level > 0, cut)  # nan compares as false
    if mask is None or crop.vertex_areas[mask].sum() < LEAST_AREA_MM2:
        return None
    return CutRegion(mask, level)


def whole(surface: Surface, mask: Bools, seeds: Bools) -> Bools | None:
    """The part of `mask` that holds the seeds, without islands in it; None where it is next to nothing."""
    label = surface.parts(mask)
    here = mask & seeds
    if not here.any():
        return None
    mask = mask & (label == np.bincount(label[here], weights=surface.vertex_areas[here]).argmax())
    outside = surface.parts(~mask)
    area = np.bincount(outside[~mask], weights=surface.vertex_areas[~mask])
    # A scrap of the scan that hangs on nothing, as beside a contact, is no island in the cut.
    touching = ~mask & (np.asarray(surface.adjacency @ mask.astype(np.float64)) > 0)
    enclosed = np.bincount(outside[touching], minlength=len(area)) > 0
    enclosed &= area < LEAST_AREA_MM2 / 4
    enclosed[area.argmax()] = False
    mask = mask | (~mask & enclosed[np.clip(outside, 0, len(area) - 1)])
    if surface.keep_vertices(mask)[0].n_faces < LEAST_FACES:
        return None
    return mask
