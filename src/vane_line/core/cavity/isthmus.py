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
FACES = 0.75  # cosine of the outline's facing, seen along the path, to facial or lingual


@dataclass(frozen=True)
class Isthmus:
    """Width in mm, its share of the distance of the cusp tips beside it (None where they are not known), its ends."""

    width_mm: float
    share: float | None
    at: tuple[tuple[float, float, float], tuple[float, float, float]]


def stretch(outline: Outline, patches: Patches, wall: WallFace | None, parts: Parts, axes: Axes) -> Bools:
    """(K,) the outline over a wall of the occlusal part, boxes left out."""
    if wall is None:
        return np.zeros(len(outline.points), dtype=bool)
    mine = np.zeros(len(patches.area), dtype=bool)
    mine[list(wall.patches)] = True
    # Across the path: a wall lies under its outline, however high it stands.
    away, nearest = cKDTree(plan_of(axes, patches.place)).query(plan_of(axes, outline.points))
    # At its ends the outline turns round to the next wall.
    flat = unit(outline.outward - (outline.outward @ axes.up)[:, None] * axes.up)
    across = np.abs(flat @ axes.zero) > FACES
    return np.asarray((away < BESIDE_MM) & mine[nearest] & across & ~parts.in_box(plan_of(axes, outline.points)))


def find_isthmus(
    outline: Outline, patches: Patches, walls: list[WallFace], parts: Parts, axes: Axes, anatomy: Anatomy
) -> Isthmus | None:
    """Shortest distance between the facial and the lingual outline; None where one of them is open."""
    sides = [stretch(outline, patches, of_side(walls, "occlusal", s), parts, axes) for s in ("facial", "lingual")]
    if min(s.sum() for s in sides) < LEAST_POINTS:
        return None
    facial, lingual = (outline.points[s] for s in sides)
    away, nearest = cKDTree(lingual).query(facial)
    k = int(np.argmin(away))
    ends = facial[k], lingual[nearest[k]]
    middle = plan_of(axes, np.array([(ends[0] + ends[1]) / 2]))[0]
    tips = _tips_beside(middle, anatomy)
    share = None if tips is None else float(away[k]) / tips
    return Isthmus(float(away[k]), share, (xyz(ends[0]), xyz(ends[1])))


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
