"""The occlusal direction of a scan: from where the greatest area is visible, set level by the tops of the teeth.

An area-weighted normal depends only on how the border was trimmed (the vector area of an open surface is that
of its border), so visibility decides instead. Every step is a mean over many places, never a winner among ties: the
same surface meshed, turned or ordered otherwise gives the same direction.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.pictures import highest_within
from vane_line.core.spread import cells, graded
from vane_line.core.vectors import degrees_between, perpendicular, unit

PATCH_MM = 0.8  # vertices this near are one patch with their common area and normal
CELL_MM = 0.5  # of the depth picture
DEPTH_TOLERANCE_MM = 0.8  # within a cell, deeper than this is hidden
HIDING_MM = 0.4  # from seen to hidden: a threshold would make the area jump
PLATEAU_DEG = 42.0  # the middle of the plateau is looked for this far round the best direction
PLATEAU_SHARE = 0.88  # of the greatest visible area: from here on a direction has a say
FADE_DEG = 8.0  # over so much more its say runs out
COARSE, FINE = 60, 700  # directions over the whole sphere
LOOKED_AT_DEG = 66.0  # from the coarse best
TOP_FEW = 5  # whose mean is the greatest visible area
GRAZING = 0.12  # cosine below which area counts less, so that the optimum does not hang on edge-on walls
MOST_ROUNDS, STILL = 60, 1e-13
REGIONS_MM = (5.0, 6.0, 7.0)  # round a place, where the highest one is looked for
GRID_SHIFTS = tuple(product(np.arange(4) / 4, repeat=2))  # of the grids it is looked for in, in cells
CROWN_DROP_MM, CROWN_FADE_MM = 2.5, 1.5  # what stands so far under the highest around is no top
ASYMMETRY = 0.95  # of the plane laid on the tops: what lies above it weighs so much, what lies below the rest
PLANE_ROUNDS, SWITCHES = 2, 30
ROW_MM = 5.0  # rms spread over which tops tell a tilt at all; at twice that they tell it alone
ROW_SHARE = 0.5  # of the tops' say along one row: tops follow the arch's own curve, visibility the scan's trimming


@dataclass(frozen=True, eq=False)
class Patches:
    """A surface in patches: places (P, 3), area-weighted normals (P, 3), areas (P,), and its own axes (3, 3 rows)."""

    places: Floats
    normals: Floats
    areas: Floats
    axes: Floats

    @classmethod
    def of(cls, surface: Surface) -> Patches:
        """The sums over all vertices in each cube of PATCH_MM that face alike."""
        own, (middle, axes) = surface.at_home(surface.vertices), surface.home
        octant = (surface.vertex_normals @ axes.T > 0) @ np.array([1, 2, 4])  # both sides of a thin edge stay apart
        _, patch = np.unique(cells(own, PATCH_MM) * 8 + octant, return_inverse=True)
        area = np.bincount(patch, surface.vertex_areas)

        def mean(values: Floats) -> Floats:
            columns = [np.bincount(patch, surface.vertex_areas * c) / np.maximum(area, 1e-12) for c in values.T]
            return np.stack(columns, axis=1)

        places = mean(surface.vertices) - middle
        return cls(places, unit(mean(surface.vertex_normals)), area.astype(np.float64), axes)

    def across(self, direction: Floats) -> Floats:
        """A unit vector (3,) across `direction`, by the surface's own axes."""
        return perpendicular(self.axes[0] if abs(self.axes[0] @ direction) < 0.8 else self.axes[1], direction)


def guess_occlusal(surface: Surface) -> tuple[Floats, float]:
    """Unit direction (3,) out of the teeth, and a confidence 0..1.

    The middle of the plateau from which nearly as much is seen as from anywhere: along a row of teeth, leaning either
    way shows more wall, so the peak itself lies off the axis on one side or the other. Where the tops spread far they
    are level. The confidence is how much more area is seen from there than from the opposite side.
    """
    patches = Patches.of(surface)
    coarse = _sphere(COARSE) @ patches.axes
    best = coarse[np.argmax([visible_area(patches, d) for d in coarse])]
    fine = _sphere(FINE) @ patches.axes
    fine = fine[fine @ best > np.cos(np.radians(LOOKED_AT_DEG))]
    best = levelled(patches, _plateau(fine, np.array([visible_area(patches, d) for d in fine]), best))
    top = visible_area(patches, best)
    back = visible_area(patches, -best)
    return best, float(np.clip(1 - back / max(top, 1e-9), 0, 1))


def _plateau(directions: Floats, seen: Floats, start: Floats) -> Floats:
    """The mean direction of those within PLATEAU_DEG of itself, by how much is seen from them: (D, 3) and (D,).

    The directions stay where they are while the middle is looked for, so that it moves evenly with what they see.
    """
    top = np.sort(seen)[-TOP_FEW:].mean()
    weight = np.clip((seen / top - PLATEAU_SHARE) / (1 - PLATEAU_SHARE), 0, None)
    middle = start
    for _ in range(MOST_ROUNDS):
        before = middle
        off = degrees_between(directions, middle)
        near = weight * np.clip((PLATEAU_DEG + FADE_DEG - off) / FADE_DEG, 0, 1)
        if near.sum() <= 0:
            return start
        middle = unit((directions * near[:, None]).sum(axis=0))
        if before @ middle > 1 - STILL:
            break
    return middle


def levelled(patches: Patches, up: Floats) -> Floats:
    """`up` turned so that the teeth's tops stand level along every plan direction in which they spread far.

    Along a row of teeth the visible area hardly changes with tilt, but the tops make a line; across one row
    they stand too near each other to say, and the visible area decides. Over a whole arch the tops alone decide.
    """
    turned, turn, share = up, np.zeros(3), 1.0
    for _ in range(PLANE_ROUNDS):
        plane, spread, axes = _plane_of_tops(patches, turned)
        say = np.clip((spread - ROW_MM) / ROW_MM, 0, 1)
        # The plane's slope as seen along `up`, by the axes in which the tops spread.
        slope = plane / (plane @ up) - up
        turn = np.asarray(sum(s * (slope @ axis) * axis for s, axis in zip(say, axes, strict=True)))
        turned = unit(up + turn)
        # One row tells its own curve too; tops that spread both ways tell the plane.
        share = ROW_SHARE + (1 - ROW_SHARE) * float(say.min())
    return unit(up + share * turn)


def _plane_of_tops(patches: Patches, up: Floats) -> tuple[Floats, Floats, Floats]:
    """Normal (3,) of the plane through the tops as seen along `up`, their rms spread (2,) mm, along axes (2, 3)."""
    side = patches.across(up)
    other = np.cross(up, side)
    plan = np.stack([patches.places @ side, patches.places @ other], axis=1)
    height = patches.places @ up
    weight = patches.areas * np.clip(patches.normals @ up, 0, 1)
    weight = weight * np.clip((height - _highest_around(plan, height) + CROWN_DROP_MM) / CROWN_FADE_MM, 0, 1)
    if weight.sum() <= 0:
        return up, np.zeros(2), np.stack([side, other])
    plan = plan - weight @ plan / weight.sum()
    variance, axes = np.linalg.eigh((plan * weight[:, None]).T @ plan / weight.sum())
    slope = _plane_on_top(plan, height, weight)
    across = np.stack([side, other])
    return unit(up - slope @ across), np.sqrt(np.maximum(variance, 0)), axes.T @ across


def _plane_on_top(plan: Floats, height: Floats, weight: Floats) -> Floats:
    """(2,) slope of the plane through which little stands out: an expectile, which one cut tooth hardly lowers.

    W. K. Newey, J. L. Powell, Asymmetric least squares estimation and testing, Econometrica 1987;55:819-847.
    """
    design = np.concatenate([np.ones((len(plan), 1)), plan], axis=1)
    side = np.full(len(plan), 0.5)
    fit = np.zeros(3)
    for _ in range(SWITCHES):
        w = weight * side
        fit = np.linalg.lstsq((design.T * w) @ design, (design.T * w) @ height, rcond=None)[0]
        now = np.where(height > design @ fit, ASYMMETRY, 1 - ASYMMETRY)
        if (now == side).all():
            break
        side = now
    return fit[1:]


def _highest_around(plan: Floats, height: Floats) -> Floats:
    """(P,) height of the highest patch around: the mean over three distances and many grids, for a patch that leaves
    a cell of one grid, or a distance, would lift or lower all of a tooth at once."""
    out = np.zeros(len(plan))
    for shift in GRID_SHIFTS:
        # Of the grids through the scan's middle: one that began at its outermost patch would shift with that.
        cell = np.floor(plan / PATCH_MM + shift).astype(np.int64)
        cell -= cell.min(axis=0)
        shape = cell.max(axis=0) + 1
        code = cell[:, 0] * shape[1] + cell[:, 1]
        picture = np.full(shape.prod(), -np.inf)
        np.maximum.at(picture, code, height)
        for radius in REGIONS_MM:
            out += highest_within(picture.reshape(shape), int(radius / PATCH_MM)).ravel()[code]
    return out / (len(GRID_SHIFTS) * len(REGIONS_MM))


def visible_area(patches: Patches, direction: Floats) -> float:
    """Area (mm²) that faces `direction` and is not hidden by something nearer to it."""
    facing = patches.normals @ direction
    front = facing > 0
    if not front.any():
        return 0.0
    side = patches.across(direction)
    other = np.cross(direction, side)
    # Column by column: a least value along rows of two takes ten times as long.
    row, column = (
        np.floor((x - x.min()) / CELL_MM).astype(np.int64) for x in (patches.places @ side, patches.places @ other)
    )
    key = row * (column.max() + 1) + column
    height = patches.places @ direction
    top = np.full(key.max() + 1, -np.inf)
    np.maximum.at(top, key, height)  # back faces hide too
    slack = DEPTH_TOLERANCE_MM + CELL_MM * np.sqrt(1 / np.maximum(facing, 0.1) ** 2 - 1)
    seen = graded(height - top[key] + slack, HIDING_MM)
    return float((patches.areas * seen * np.clip(facing / GRAZING, 0, 1))[front].sum())


def _sphere(count: int) -> Floats:
    """Evenly spread directions (count, 3)."""
    k = np.arange(count) + 0.5
    polar, turn = np.arccos(1 - 2 * k / count), np.pi * (1 + 5**0.5) * k
    return np.stack([np.cos(turn) * np.sin(polar), np.sin(turn) * np.sin(polar), np.cos(polar)], axis=1)
