"""The cusps beside a cavity: covered or standing, and how thick they stand."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.cavity.parts import Parts, Patches, feet
from vane_line.core.cavity.walls import WallFace, of_side
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.plan import plan_of
from vane_line.core.tooth.anatomy import Anatomy
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import perpendicular, unit, xyz

LEVEL_MM = 0.25  # round the floor's level, where the base is read
FOOT_MM, PIECE_MM, LEAST_FOOT = 2.0, 0.5, 8  # of a wall over the floor, and from the piece that tells its plane
LOW_SHARE = 0.03  # of the wall's points there: the least of a noisy surface is its noise
BELOW_TIP_MM = 1.0
TIP_MM, TOP_COSINE = 0.8, 0.3  # round the tip's place in plan, where the highest point is looked for
COVERED_MM = 0.6  # so far under the tip before, a cusp was covered
FACES, START_MM = 0.7, 0.05  # cosine of a wall's facing to facial or lingual; a ray starts behind the wall
SLOPE_COSINE, TALL_MM = 0.5, 3.0  # a cusp's slopes, and how far under its tip they reach
OUT = 0.5  # cosine of an outer surface's facing to its side


@dataclass(frozen=True)
class CuspForm:
    """One cusp. base_mm: at the floor's level from wall to outer surface; under_tip_mm: 1 mm under the tip; whole_mm:
    from outer surface to the central groove at the base's level, before anything was cut. None where not told."""

    cusp: str
    covered: bool
    base_mm: float | None
    under_tip_mm: float | None
    whole_mm: float | None
    top_mm2: float  # of its standing slopes, seen along the path: what covering it would lower
    at: tuple[float, float, float]
    by_box: bool = False  # its wall ends at a box, where a round corner leaves open how far the wall goes


def cusp_forms(
    crop: Surface, cut: Bools, surface: Surface, parts: Parts, patches: Patches, walls: list[WallFace],
    anatomy: Anatomy, earlier: Surface | None, axes: Axes, floor_mm: float | None, reach_mm: float,
) -> list[CuspForm]:  # fmt: skip
    """crop: the scan round the tooth, freed of noise, `cut` (V,) its cut surface, which is `surface`.

    earlier: the tooth before. reach_mm: radius within which a surface is this tooth's."""
    if not anatomy.cusps:
        return []
    names = list(anatomy.cusps)
    tips = np.array([anatomy.cusps[n] for n in names])
    plan, level = plan_of(axes, crop.vertices), (crop.vertices - axes.origin) @ axes.up
    own = np.linalg.norm(plan - anatomy.centre, axis=1) < reach_mm
    out = []
    nearest_tip = cKDTree(tips)
    cusp_of, wall_of = nearest_tip.query(plan)[1], nearest_tip.query(parts.plan)[1]
    for k, name in enumerate(names):
        side = "lingual" if "lingual" in name else "facial"
        sign = -1.0 if side == "lingual" else 1.0
        # A tip near to the tooth's side has much of that side about it, far down.
        near = own & (np.linalg.norm(plan - tips[k], axis=1) < TIP_MM) & (crop.vertex_normals @ axes.up > TOP_COSINE)
        if not near.any():
            continue
        top = int(np.flatnonzero(near)[np.argmax(level[near])])
        covered = _covered(crop, cut, near, tips[k], earlier, axes, level)
        place = crop.vertices[top]
        if covered:
            out.append(CuspForm(name, True, None, None, None, 0.0, xyz(place)))
            continue
        outer = own & ~cut & (sign * (plan[:, 1] - tips[k, 1]) > 0)
        outer &= sign * (crop.vertex_normals @ axes.zero) > OUT
        wall = of_side(walls, "occlusal", side)
        base = whole = None
        at = xyz(place)
        if wall is not None and floor_mm is not None:
            base, at = _base(crop, outer, surface, parts, patches, walls, side=side, mine=wall_of == k,
                             floor_mm=floor_mm, axes=axes, at=at)  # fmt: skip
            whole = _whole(outer, anatomy, tips[k], sign, floor_mm, plan, level)
        under = None
        if wall is not None:
            under = _under_tip(crop, cut, patches, wall, place, axes)
        upright = np.clip(crop.vertex_normals @ axes.up, 0, 1)
        slopes = own & ~cut & (cusp_of == k) & (upright > SLOPE_COSINE) & (level > level[top] - TALL_MM)
        size = float((crop.vertex_areas * upright)[slopes].sum())
        by_box = bool((parts.wall & parts.in_box(parts.plan) & (wall_of == k)).any())
        out.append(CuspForm(name, False, base, under, whole, size, at, by_box=by_box))
    return out


def behind(crop: Surface, cut: Bools, surface: Surface, parts: Parts, axes: Axes) -> Floats:
    """(N,) how much tooth stands behind each place of a facial or lingual wall, across the path; nan elsewhere.

    crop: the scan round the tooth, `cut` (V,) its cut surface, of which `surface` is the part.
    """
    normals = surface.even_normals
    across = unit(normals - (normals @ axes.up)[:, None] * axes.up)
    index = np.flatnonzero(parts.wall & (np.abs(across @ axes.zero) > FACES) & ~parts.in_box(parts.plan))
    out = np.full(surface.n_vertices, np.nan)
    if len(index) == 0:
        return out
    ray = -across[index]
    face, t = crop.first_hit(surface.vertices[index] + START_MM * ray, ray)
    outer = (face >= 0) & ~cut[crop.faces[np.maximum(face, 0)]].any(axis=1)
    out[index] = np.where(outer, t + START_MM, np.nan)
    return out


def _covered(
    crop: Surface, cut: Bools, near: Bools, tip: Floats, earlier: Surface | None, axes: Axes, level: Floats
) -> bool:
    """Whether the surface under the tip's place was cut, and not only grazed."""
    if cut[near].mean() < 0.6:
        return False
    if earlier is None:
        return True
    plan = plan_of(axes, earlier.vertices)
    before = np.linalg.norm(plan - tip, axis=1) < TIP_MM
    if not before.any():
        return True
    tall = float(((earlier.vertices[before] - axes.origin) @ axes.up).max())
    return tall - float(level[near].max()) > COVERED_MM


def _base(
    crop: Surface, outer: Bools, surface: Surface, parts: Parts, patches: Patches, walls: list[WallFace], side: str,
    mine: Bools, floor_mm: float, axes: Axes, at: tuple[float, float, float],
) -> tuple[float | None, tuple[float, float, float]]:  # fmt: skip
    """Least thickness at the floor's level over the cusp's sector: wall prolonged through its fillet."""
    own = np.zeros(len(patches.area), dtype=bool)
    for face in walls:  # of this side: near a box the nearest piece may be the box's
        if face.side == side:
            own[list(face.patches)] = True
    points = surface.vertices[parts.wall & ~parts.in_box(parts.plan) & mine]
    skin, _ = crop.keep_vertices(outer)
    if len(points) == 0 or skin.n_faces == 0:
        return None, at
    # Every place of the wall prolonged along the plane through its piece to the floor's level.
    away, piece = cKDTree(patches.place).query(points)
    height = (points - axes.origin) @ axes.up - floor_mm
    here = own[piece] & (away < PIECE_MM) & (height < FOOT_MM)
    if here.sum() < LEAST_FOOT:
        return None, at
    normal = patches.normal[piece[here]]
    foot = feet(points[here], normal, height[here], axes.up)
    away, _, place = skin.closest(foot)
    k = int(np.argsort(away)[int(LOW_SHARE * len(away))])
    return float(away[k]), xyz((foot[k] + place[k]) / 2)


def _whole(
    outer: Bools, anatomy: Anatomy, tip: Floats, sign: float, floor_mm: float, plan: Floats, level: Floats,
) -> float | None:  # fmt: skip
    """From the outer surface to the central groove's place, at the base's level."""
    here = outer & (np.abs(level - floor_mm) < LEVEL_MM) & (np.abs(plan[:, 0] - tip[0]) < TIP_MM)
    if not here.any():
        return None
    groove = float(np.interp(tip[0], anatomy.groove_x, anatomy.groove_y))
    return float(sign * (np.median(plan[here, 1]) - groove))


def _under_tip(crop: Surface, cut: Bools, patches: Patches, wall: WallFace, tip: Floats, axes: Axes) -> float | None:
    """Thickness square to the wall, 1 mm under the tip; None where the wall ends lower."""
    index = list(wall.patches)
    nearest = index[int(np.argmin(np.linalg.norm(patches.place[index] - tip, axis=1)))]
    inward = perpendicular(patches.normal[nearest], axes.up)
    start = (tip - BELOW_TIP_MM * axes.up)[None]
    found = []
    for direction in (inward, -inward):
        face, t = crop.first_hit(start, direction)
        if face[0] < 0:
            return None
        found.append((int(face[0]), float(t[0])))
    (wall_face, inner), (skin_face, outward) = found
    if cut[crop.faces[wall_face]].sum() < 2 or cut[crop.faces[skin_face]].any():
        return None
    return inner + outward
