"""The isthmus: where the cavity is narrowest between the cusps, and what share of the cusps' distance it takes."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.cavity.parts import Parts, Patches
from vane_line.core.cavity.walls import WallFace, of_side
from vane_line.core.outline.curve import Outline
from vane_line.core.outline.plan import plan_of
from vane_line.core.tooth.anatomy import Anatomy
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import unit, xyz

BESIDE_MM = 0.9  # of the outline: the wall under it
LEAST_POINTS = 4
# Cosine of the outline's facing, seen along the path, to facial or lingual: at its ends it turns round to the next
# wall, and no scan tells just where.
FACES, FACES_EITHER = 0.85, (0.80, 0.90)
HIGH_SHARE = 0.5  # of a stretch's middle height over the floor: what lies lower runs down a box


@dataclass(frozen=True)
class Isthmus:
    """Width in mm, its share of the distance of the cusp tips beside it (None where they are not known), its ends.

    moves_mm: half of what the width changes by where the outline's ends are told otherwise.
    """

    width_mm: float
    share: float | None
    at: tuple[tuple[float, float, float], tuple[float, float, float]]
    moves_mm: float = 0.0


def _facing(outline: Outline, patches: Patches, wall: WallFace | None, parts: Parts, axes: Axes) -> Floats:
    """(K,) how squarely (cosine) the outline faces to a side over a wall of the occlusal part; nought elsewhere and in
    boxes."""
    if wall is None:
        return np.zeros(len(outline.points))
    mine = np.zeros(len(patches.area), dtype=bool)
    mine[list(wall.patches)] = True
    # Across the path: a wall lies under its outline, however high it stands.
    plan = plan_of(axes, outline.points)
    away, nearest = cKDTree(plan_of(axes, patches.place)).query(plan)
    flat = unit(outline.outward - (outline.outward @ axes.up)[:, None] * axes.up)
    over = (away < BESIDE_MM) & mine[nearest] & ~parts.in_box(plan)
    return np.where(over, np.abs(flat @ axes.zero), 0.0)


def _high(over: Bools, outline: Outline, parts: Parts, axes: Axes) -> Bools:
    """(K,) of a stretch of the outline what stands high over the floor: a box may be too small to be told."""
    if not over.any() or not parts.floor.any():
        return over
    high = (outline.points - axes.origin) @ axes.up - float(np.median(parts.level[parts.floor]))
    return np.asarray(over & (high > HIGH_SHARE * float(np.median(high[over]))))


def find_isthmus(
    outline: Outline, patches: Patches, walls: list[WallFace], parts: Parts, axes: Axes, anatomy: Anatomy
) -> Isthmus | None:
    """Shortest distance between the facial and the lingual outline; None where one of them is open."""
    facing = [
        _facing(outline, patches, of_side(walls, "occlusal", side), parts, axes) for side in ("facial", "lingual")
    ]

    def narrowest(faces: float) -> tuple[float, Floats] | None:
        ours, theirs = (outline.points[_high(cosine > faces, outline, parts, axes)] for cosine in facing)
        if min(len(ours), len(theirs)) < LEAST_POINTS:
            return None
        away, nearest = cKDTree(theirs).query(ours)
        k = int(np.argmin(away))
        return float(away[k]), np.stack([ours[k], theirs[nearest[k]]])

    found = narrowest(FACES)
    if found is None:
        return None
    width, ends = found
    either = [other[0] for other in map(narrowest, FACES_EITHER) if other is not None]
    middle = plan_of(axes, ends.mean(axis=0)[None])[0]
    tips = _tips_beside(middle, anatomy)
    return Isthmus(
        width, None if tips is None else width / tips, (xyz(ends[0]), xyz(ends[1])),
        moves_mm=(max([width, *either]) - min([width, *either])) / 2,
    )  # fmt: skip


def _tips_beside(place: Floats, anatomy: Anatomy) -> float | None:
    """Distance across the path of the facial and the lingual cusp tip nearest to a place in plan. Half way between two
    pairs those count that face each other, not across the corner."""
    by_side = [[c for n, c in anatomy.cusps.items() if ("lingual" in n) == lingual] for lingual in (False, True)]
    if not by_side[0] or not by_side[1]:
        return None

    def length(a: Floats, b: Floats) -> float:
        return float(np.linalg.norm(a - b))

    pairs = product(*by_side)
    a, b = min(pairs, key=lambda ab: length(ab[0], place) + length(ab[1], place) + length(*ab))
    return length(a, b)
