"""The cut surface told apart: pulpal floor, walls, boxes with their gingival floors, cusps that are covered.

Told by slope to the path and by what stands round about. A floor has walls that rise from it; a box's floor runs out to
the cavity's outline between the teeth and lies lower; a covered cusp has no walls but falls off, inward to the cavity
and outward down the tooth, or to a ledge about it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.curve import Outline
from vane_line.core.outline.plan import plan_of
from vane_line.core.spread import thinned_index
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import degrees_between, unit

FLAT_DEG = 32.0  # less steep to the path's plane is a floor: a gingival floor may fall by 15 and more
STEEP_DEG, OVERHANG_DEG = 62.0, 115.0  # between them, to the path, a wall
SLOPE_MM = 0.14  # over which a slope is told
LEAST_FLOOR_MM2, LEAST_BOX_MM2 = 0.7, 0.3  # of a coarse scan's box little is seen beside the neighbour
CENTRAL_SHARE = 0.25  # of the outline's breadth, off the middle: further out it is a ledge about a cusp
BESIDE_MM = 0.8  # from the outline
ROUND_MM = 0.55  # round a floor, what rises from it
RISES_MM = 0.15
FLOOR_RISING, BOX_OPEN = 0.38, 0.10  # shares of a floor's rim that rise, and that run out to the outline
RUNS_OUT_MM = 0.40
BOX_LOWER_MM = 0.35
SAME_LEVEL_MM = 0.6  # parts of one floor
WALLED_IN = 0.6  # share of the rim of a part that lies higher over which walls stand: from there it is floor too
FILLET_MM = 0.28  # of a floor's rim that belongs to the corner round it
BENT_MM = 0.18  # of a wall's border: it bends into the floor there, or over an edge
EDGE_MM = 0.14  # a wall's rim, which a scan rounds
PATCH_MM, PATCH_EVERY_MM, LEAST_PATCH = 0.60, 0.40, 9
LEAST_RISE = 0.3  # of a wall's plane along the path: flatter it has no foot
PATCH_TURN = 0.90  # cosine: what turns more than this is another wall or a corner


@dataclass(frozen=True, eq=False)
class Patches:
    """Plane pieces of the walls: middle and unit normal out of the tooth (P, 3), area (P,) mm²."""

    place: Floats
    normal: Floats
    area: Floats


@dataclass(frozen=True, eq=False)
class Box:
    """One proximal box: its side, which inside vertices are its gingival floor (N,), and where it begins: the plan
    coordinate, outward positive, of its axial wall at the floor's level."""

    side: str
    floor: Bools
    begins_mm: float
    sign: float  # +1 where mesial, -1 where distal: plan's first coordinate times it grows outward


@dataclass(frozen=True, eq=False)
class Parts:
    """Of the inside vertices (N,): pulpal floor without its fillet, walls, surface over covered cusps."""

    floor: Bools
    wall: Bools
    cover: Bools
    boxes: list[Box]
    plan: Floats  # (N, 2) mesial, facial
    level: Floats  # (N,) along the path

    def in_box(self, plan: Floats) -> Bools:
        """(M,) whether places in plan (M, 2) lie in one of the boxes."""
        return np.asarray(self.box_of(plan) >= 0)

    def nearest(self, tips: Floats) -> Ints:
        """(N,) which of the cusp tips in plan (M, 2) is nearest."""
        return np.asarray(np.argmin(np.linalg.norm(self.plan[:, None] - tips[None], axis=2), axis=1))

    def box_of(self, plan: Floats) -> Ints:
        """(M,) the number of the box in which places in plan lie, -1 outside."""
        number = np.full(len(plan), -1, dtype=np.int64)
        for k, box in enumerate(self.boxes):
            number[plan[:, 0] * box.sign > box.begins_mm] = k
        return number


def wall_mask(surface: Surface, outline: Outline, up: Floats) -> Bools:
    """(N,) the steep part of the cut surface, without the rim that a scan rounds."""
    slope = slope_deg(surface, up)
    away, _ = cKDTree(outline.points).query(surface.vertices)
    return np.asarray((slope > STEEP_DEG) & (slope < OVERHANG_DEG) & (away > EDGE_MM))


def slope_deg(surface: Surface, up: Floats) -> Floats:
    """(N,) angle between the path and the surface's normal, noise averaged a little."""
    return degrees_between(surface.normals_over(SLOPE_MM, least=1), up)


def wall_patches(surface: Surface, wall: Bools) -> Patches:
    """Planes laid through pieces of the walls: a vertex' own normal is mostly noise."""
    index = np.flatnonzero(_straight(surface, wall))
    if len(index) == 0:
        return Patches(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0))
    points, normals = surface.vertices[index], surface.even_normals[index]
    areas = surface.vertex_areas[index]
    seeds = thinned_index(surface.at_home(points), PATCH_EVERY_MM)  # in its own axes, wherever the scan lies
    tree = cKDTree(points)
    owner = cKDTree(points[seeds]).query(points)[1] if len(seeds) else np.zeros(0, dtype=np.int64)
    area = np.bincount(owner, weights=areas, minlength=len(seeds))
    place, normal, kept = [], [], []
    for k, near in enumerate(tree.query_ball_point(points[seeds], PATCH_MM)):
        here = np.array(near, dtype=np.int64)
        here = here[normals[here] @ normals[seeds[k]] > PATCH_TURN]
        if len(here) < LEAST_PATCH:
            continue
        middle = points[here].mean(axis=0)
        _, size, rows = np.linalg.svd(points[here] - middle, full_matrices=False)
        if size[1] < 0.25 * size[0]:  # a strip: it turns about its length
            continue
        out = rows[2] if rows[2] @ normals[seeds[k]] > 0 else -rows[2]
        place.append(middle)
        normal.append(out)
        kept.append(k)
    return Patches(np.array(place).reshape(-1, 3), np.array(normal).reshape(-1, 3), np.asarray(area[kept], dtype=float))


def feet(points: Floats, normals: Floats, heights: Floats, up: Floats) -> Floats:
    """(M, 3) where points (M, 3) of walls come down by `heights` (M,) along the planes of their unit normals (M, 3)."""
    rise = unit(up - (normals @ up)[:, None] * normals)
    return np.asarray(points - (heights / np.maximum(rise @ up, LEAST_RISE))[:, None] * rise)


def _straight(surface: Surface, wall: Bools) -> Bools:
    """The walls without what bends into a floor below or over an edge above."""
    if not wall.any() or wall.all():
        return wall
    away, _ = cKDTree(surface.vertices[~wall]).query(surface.vertices)
    return np.asarray(wall & (away > BENT_MM))


def part(surface: Surface, outline: Outline, axes: Axes) -> Parts:
    """The cut surface (freed of noise, N vertices) by its parts."""
    slope = slope_deg(surface, axes.up)
    plan, level = plan_of(axes, surface.vertices), (surface.vertices - axes.origin) @ axes.up
    wall = wall_mask(surface, outline, axes.up)
    flat = slope < FLAT_DEG
    label = surface.parts(flat)
    cover, pieces = np.zeros(len(flat), dtype=bool), list[_Piece]()
    edge = cKDTree(outline.points)
    breadth = float(np.ptp(plan_of(axes, outline.points)[:, 1]))
    for number in np.unique(label[flat]):
        here = flat & (label == number)
        area = float(surface.vertex_areas[here].sum())
        if area < LEAST_BOX_MM2:
            continue
        rising, walled, open_share = _surroundings(surface, here, slope > STEEP_DEG, edge)
        if rising >= FLOOR_RISING:
            pieces.append(_Piece.of(here, walled, area, open_share, plan, level, breadth))
        elif area >= LEAST_FLOOR_MM2:
            cover |= here
    floor, raised, low = _sorted(pieces, surface, edge)
    cover |= raised
    boxes = _boxes(surface, low, floor, wall, plan, level, axes)
    named = np.zeros(len(flat), dtype=bool)
    for box in boxes:
        named |= box.floor
    # Run out to the outline, and are no boxes.
    ledges = [h for h in low if not (h & named).any() and surface.vertex_areas[h].sum() >= LEAST_FLOOR_MM2]
    if floor.any():  # round a covered cusp
        for here in ledges:
            cover |= here
    elif ledges:  # a cavity open at its end: its floor is what lies low
        lowest = min(float(np.median(level[here])) for here in ledges)
        for here in ledges:
            (floor if np.median(level[here]) < lowest + SAME_LEVEL_MM else cover)[here] = True
    return Parts(
        floor=_without_rim(surface, floor, edge), wall=wall, cover=cover & ~floor,
        boxes=[Box(b.side, _without_rim(surface, b.floor), b.begins_mm, b.sign) for b in boxes],
        plan=plan, level=level,
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class _Piece:
    """A flat part that other surface rises from: its vertices (N,), the share of its rim that walls stand over, its
    area; whether it runs out to the outline, and whether it lies in the tooth's middle, as no box does; its level."""

    here: Bools
    walled: float
    area_mm2: float
    runs_out: bool
    central: bool
    level_mm: float

    @classmethod
    def of(
        cls, here: Bools, walled: float, area: float, open_share: float, plan: Floats, level: Floats, breadth: float
    ) -> _Piece:
        low, high = np.quantile(plan[here, 0], (0.1, 0.9))
        central = low < 0 < high and abs(float(np.median(plan[here, 1]))) < CENTRAL_SHARE * breadth
        return cls(here, walled, area, open_share > BOX_OPEN, bool(central), float(np.median(level[here])))


def _sorted(pieces: list[_Piece], surface: Surface, edge: cKDTree) -> tuple[Bools, Bools, list[Bools]]:
    """(N,) the floor, and what stands over it beside a wall, as a covered cusp does next to one that stands; and what
    may be floors of boxes."""
    floor, raised, low = np.zeros(surface.n_vertices, dtype=bool), np.zeros(surface.n_vertices, dtype=bool), []
    able = [p for p in pieces if p.area_mm2 >= LEAST_FLOOR_MM2 and (p.central or not p.runs_out)]
    middle = max(able, key=lambda p: p.walled * p.area_mm2).level_mm if able else np.inf
    for piece in pieces:
        if piece.runs_out and not piece.central:
            low.append(piece.here)
        elif piece.area_mm2 < LEAST_FLOOR_MM2:
            continue
        elif piece.level_mm < middle - BOX_LOWER_MM and not piece.central and _by(edge, surface.vertices[piece.here]):
            low.append(piece.here)  # its end is hidden: a scanner fills what is narrow between it and the neighbour
        else:
            stands = piece.level_mm > middle + SAME_LEVEL_MM and piece.walled < WALLED_IN
            (raised if stands else floor)[piece.here] = True
    return floor, raised, low


def _by(edge: cKDTree, points: Floats) -> bool:
    """Whether some of `points` (N, 3) lie beside the outline's."""
    return float(np.quantile(edge.query(points)[0], 0.1)) < BESIDE_MM


def _surroundings(surface: Surface, here: Bools, steep: Bools, edge: cKDTree) -> tuple[float, float, float]:
    """Shares of a flat part's rim: where other surface rises from it, where what rises is `steep` (N,) and no cusp's
    incline, and where it runs out to the outline."""
    index = np.flatnonzero(here)
    rim = np.flatnonzero(here & (surface.adjacency @ (~here).astype(np.float64) > 0) | (here & surface.on_border))
    if len(rim) == 0:
        return 0.0, 0.0, 0.0
    others = np.flatnonzero(~here)
    if len(others) == 0:
        return 0.0, 0.0, 1.0
    # The floor's own slope is no rise: heights are over the plane through it.
    middle = surface.vertices[index].mean(axis=0)
    rows = np.linalg.svd(surface.vertices[index] - middle, full_matrices=False)[2]
    up = rows[2] if rows[2] @ surface.vertex_normals[index].mean(axis=0) > 0 else -rows[2]
    tree = cKDTree(surface.vertices[others])
    rises, walled = np.zeros(len(rim), dtype=bool), np.zeros(len(rim), dtype=bool)
    for k, near in enumerate(tree.query_ball_point(surface.vertices[rim], ROUND_MM)):
        over = (surface.vertices[others[near]] - surface.vertices[rim[k]]) @ up > RISES_MM
        rises[k], walled[k] = over.any(), (over & steep[others[near]]).any()
    away, _ = edge.query(surface.vertices[rim])
    runs_out = (away < RUNS_OUT_MM) & ~rises
    return float(rises.mean()), float(walled.mean()), float(runs_out.mean())


def _boxes(
    surface: Surface, low: list[Bools], floor: Bools, wall: Bools, plan: Floats, level: Floats, axes: Axes
) -> list[Box]:
    """Those of the floors that run out to the outline which lie to one side, and lower than the pulpal floor."""
    boxes: dict[str, Box] = {}
    pulpal = float(np.median(level[floor])) if floor.any() else np.inf
    middle = float(np.median(plan[floor, 1])) if floor.any() else 0.0
    normals = surface.even_normals
    for here in sorted(low, key=lambda h: -float(surface.vertex_areas[h].sum())):
        at = float(np.median(plan[here, 0]))
        if abs(at) < abs(float(np.median(plan[here, 1])) - middle):  # beside a cusp, not between the teeth
            continue
        side, sign = ("mesial", 1.0) if at > 0 else ("distal", -1.0)
        mine = float(np.median(level[here]))
        if floor.any() and mine > pulpal - BOX_LOWER_MM:
            continue
        if side in boxes:  # in pieces
            if abs(mine - float(np.median(level[boxes[side].floor]))) < SAME_LEVEL_MM:
                boxes[side] = replace(boxes[side], floor=boxes[side].floor | here)
            continue
        # Its axial wall looks outward; at its foot the box begins.
        outward = (normals @ axes.quarter) * sign > 0.7
        top = pulpal if floor.any() else mine + 1.5
        axial = wall & outward & (level > mine) & (level < top) & (np.abs(plan[:, 0] * sign - at * sign) < 2.5)
        begins = float(np.quantile(plan[here, 0] * sign, 0.02))
        if axial.sum() > LEAST_PATCH:
            begins = float(np.quantile(plan[axial, 0] * sign, 0.05)) - 0.05
        boxes[side] = Box(side, here, begins, sign)
    return list(boxes.values())


def _without_rim(surface: Surface, mask: Bools, edge: cKDTree | None = None) -> Bools:
    """What keeps FILLET_MM off the end of a floor, and off the outline's points `edge`, which no scan goes beyond."""
    if not mask.any() or mask.all():
        return mask
    away, _ = cKDTree(surface.vertices[~mask]).query(surface.vertices)
    inner = mask & (away > FILLET_MM)
    if edge is not None:
        inner &= edge.query(surface.vertices)[0] > FILLET_MM
    return inner if inner.any() else mask
