"""Proximal boxes: how deep, wide and low, how their floor falls, and how far they stand from the neighbour."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.cavity.parts import Box, Parts, Patches, feet
from vane_line.core.cavity.walls import WallFace, of_side
from vane_line.core.measure.retention import OPPOSITE
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.curve import Outline
from vane_line.core.outline.plan import plan_of
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import degrees_between, unit, xyz

FLOOR_EDGE_MM = 0.45  # the outline so near to the floor's level is its outer edge
MIDDLE_HALF = 0.25  # of the width to either side: where depth is read
LEAST_PIECES, LEAST_EDGE, LEAST_CLEAR = 2, 3, 0.5
BESIDE_MM = 0.8  # along a wall, within which its pieces tell where it stands
PROXIMAL = 0.6  # cosine
BESIDE_POINTS, WALL_DEG = 10, 58.0  # of the cut surface beside the outline: steeper to the path it is a wall
LEAST_WIDE_MM = 0.35  # of a floor's level part, to tell how it falls
FILLED_MM = 0.5  # to the neighbour
RUNS_ON_MM = 0.05  # nearer to it an outline lies on it
PLANE_ROUNDS, ON_PLANE_MM, FLAT_SHARE = 12, 0.06, 0.6  # of a floor, that must lie on one plane to have a slope


@dataclass(frozen=True)
class BoxForm:
    """One box, lengths in mm, slope in degrees; None where it could not be told. at: on its floor's outer edge."""

    side: str
    depth_mm: float | None
    width_mm: float | None
    below_floor_mm: float | None
    slope_deg: float | None
    contact_clearance_mm: float | None
    at: tuple[float, float, float]
    nearest: tuple[float, float, float] | None  # where it comes nearest to the neighbour
    nearest_clear: bool  # whether an edge is seen there
    edge: tuple[int, ...]  # which points of the outline are its proximal and gingival edge, where it is clear
    edge_points: int  # how many it has, clear or not


def box_form(
    surface: Surface, outline: Outline, patches: Patches, walls: list[WallFace], parts: Parts, box: Box, axes: Axes,
    pulpal_mm: float | None, neighbour: Surface | None, as_scanned: Floats,
) -> BoxForm:  # fmt: skip
    """surface: the cut surface freed of noise; as_scanned: (N, 3) its vertices with it, for what frees them rounds a
    floor hardly wider than a triangle down to its edge and up to its wall. pulpal_mm: level of the pulpal floor.
    neighbour: the tooth beside."""

    # A frame of the box: x outward, y facial, z along the path.
    def frame(points: Floats) -> Floats:
        xy = plan_of(axes, points)
        return np.stack([xy[:, 0] * box.sign, xy[:, 1], (points - axes.origin) @ axes.up], axis=1)

    floor = frame(surface.vertices[box.floor])
    scanned = frame(as_scanned[box.floor])
    plane, flat = _plane(np.stack([np.ones(len(floor)), scanned[:, 0], scanned[:, 1]], axis=1), scanned[:, 2])
    wide = min(np.ptp(floor[:, 0]), np.ptp(floor[:, 1])) > LEAST_WIDE_MM
    slope = float(np.degrees(np.arctan(np.hypot(*plane[1:])))) if wide and flat > FLAT_SHARE else None
    level = float(np.median(floor[:, 2]))
    edge = frame(outline.points)
    mine = edge[:, 0] > box.begins_mm
    part = f"box-{box.side}"
    # Higher up the walls are the occlusal part's, which may be wider.
    below = np.inf if pulpal_mm is None else pulpal_mm
    axial = _feet(frame, patches, of_side(walls, part, OPPOSITE[box.side]), axes, level, below)
    facial, lingual = (
        _feet(frame, patches, of_side(walls, part, s), axes, level, below) for s in ("facial", "lingual")
    )
    mid_x = float(np.median(floor[:, 0]))
    middle = float(np.median(floor[:, 1]))
    sides = [_beside(feet, 0, mid_x, BESIDE_MM) for feet in (facial, lingual)]
    width = None
    if sides[0] is not None and sides[1] is not None:
        width, middle = sides[0] - sides[1], (sides[0] + sides[1]) / 2
    low = mine & (np.abs(edge[:, 2] - plane[0] - edge[:, :2] @ plane[1:]) < FLOOR_EDGE_MM)
    low &= edge[:, 0] > mid_x
    depth = depth_of_box(
        edge, low, outline.clear, axial, middle, MIDDLE_HALF * (width if width else float(np.ptp(floor[:, 1])))
    )
    beside = nearest_to(outline.points[mine], outline.clear[mine], neighbour)
    place = outline.points[np.flatnonzero(low)[np.argmin(np.abs(edge[low, 1] - middle))]] if low.any() else (
        surface.vertices[box.floor].mean(axis=0)
    )  # fmt: skip
    drop = None if pulpal_mm is None else pulpal_mm - level
    proximal = mine & _proximal(surface, outline, parts, box, axes)
    told = proximal & outline.clear & ~_filled(outline.points, neighbour)
    return BoxForm(
        side=box.side, depth_mm=depth, width_mm=width, below_floor_mm=drop, slope_deg=slope,
        contact_clearance_mm=beside.away_mm, at=xyz(place), nearest=beside.at, nearest_clear=beside.clear,
        edge=tuple(np.flatnonzero(told).tolist()), edge_points=int(proximal.sum()),
    )  # fmt: skip


def depth_of_box(
    edge: Floats, low: Bools, clear: Bools, axial: Floats | None, middle: float, reach: float
) -> float | None:  # fmt: skip
    """From the axial wall's foot to the floor's outer edge, along the row, in the middle of the box; None where most of
    the edge is not clear there: level with the gingiva, or filled by the scanner, it runs on to the neighbour."""
    if axial is None or low.sum() < LEAST_EDGE:
        return None
    here = low & (np.abs(edge[:, 1] - middle) < reach)
    if here.any() and clear[here].mean() < LEAST_CLEAR:
        return None
    here &= clear
    foot = _beside(axial, 1, middle, max(reach, BESIDE_MM))
    return None if foot is None or not here.any() else float(np.median(edge[here, 0])) - foot


def _plane(terms: Floats, level: Floats) -> tuple[Floats, float]:
    """Coefficients (3,) of the plane through most of a floor's points, and the share of them that lie on it: what a
    scanner filled beside it rises from it."""
    fit = np.linalg.lstsq(terms, level, rcond=None)[0]
    for _ in range(PLANE_ROUNDS):
        say = np.sqrt(1 / np.maximum(np.abs(level - terms @ fit), ON_PLANE_MM / 4))
        fit = np.linalg.lstsq(terms * say[:, None], level * say, rcond=None)[0]
    return np.asarray(fit), float((np.abs(level - terms @ fit) < ON_PLANE_MM).mean())


def _filled(points: Floats, neighbour: Surface | None) -> Bools:
    """(K,) where a scanner fills what is so narrow: an edge there is no edge."""
    if neighbour is None:
        return np.zeros(len(points), dtype=bool)
    return np.asarray(neighbour.closest(points)[0] < FILLED_MM)


def _proximal(surface: Surface, outline: Outline, parts: Parts, box: Box, axes: Axes) -> Bools:
    """(K,) where the tooth beside the outline looks to the neighbour, and no covered cusp runs out."""
    facing = (outline.skin @ axes.quarter) * box.sign > PROXIMAL
    # Inside of it a wall of the box goes down, or its floor begins: elsewhere a covered cusp runs out.
    _, near = cKDTree(surface.vertices).query(outline.points, k=BESIDE_POINTS)
    normal = unit(surface.vertex_normals[near].sum(axis=1))
    slope = degrees_between(normal, axes.up)
    height = (outline.points - axes.origin) @ axes.up - float(np.median(parts.level[box.floor]))
    return np.asarray(facing & ((slope > WALL_DEG) | (height < FLOOR_EDGE_MM)))


def _feet(frame, patches: Patches, wall: WallFace | None, axes: Axes, level: float, below_mm: float) -> Floats | None:  # type: ignore[no-untyped-def]
    """(M, 3) in the box's frame: where the pieces of a wall under `below_mm` come down to its floor's level, each along
    its own plane: a bur leaves round corners, through which no one plane is laid."""
    if wall is None:
        return None
    index = np.array(wall.patches, dtype=np.int64)
    height = frame(patches.place[index])[:, 2]
    index, height = index[height < below_mm], height[height < below_mm]
    if len(index) < LEAST_PIECES:
        return None
    return np.asarray(frame(feet(patches.place[index], patches.normal[index], height - level, axes.up)))


def _beside(feet: Floats | None, along: int, at: float, reach_mm: float) -> float | None:
    """Where a wall's feet (M, 3) stand across `along` (0 outward, 1 facial), near to a place along it; None without."""
    if feet is None:
        return None
    near = np.abs(feet[:, along] - at) < reach_mm
    chosen = feet[near] if near.sum() >= LEAST_PIECES else None
    return None if chosen is None else float(np.median(chosen[:, 1 - along]))


@dataclass(frozen=True)
class Nearest:
    """How far an outline stays off the neighbour and where, None without one, and whether an edge is seen there."""

    away_mm: float | None
    at: tuple[float, float, float] | None
    clear: bool


def nearest_to(points: Floats, clear: Bools, neighbour: Surface | None) -> Nearest:
    """Of an outline (K, 3), `clear` (K,) where an edge is seen. What runs on to the neighbour is no edge: there the
    contact stands, or the scanner filled the gap."""
    if neighbour is None or len(points) == 0 or neighbour.n_faces == 0:
        return Nearest(None, None, True)
    away, _, _ = neighbour.closest(points)
    k = int(np.argmin(away))
    return Nearest(float(away[k]), xyz(points[k]), bool(clear[k]) and float(away[k]) > RUNS_ON_MM)


def neighbour_beside(prep: Surface, teeth: Bools, axes: Axes, side: str) -> Surface | None:
    """The neighbour on one side, of the vertices `teeth` (V,) of the scan; None where none stands there."""
    sign = 1.0 if side == "mesial" else -1.0
    there = plan_of(axes, prep.vertices)[:, 0] * sign > 0
    part, _ = prep.keep_vertices(teeth & there)
    return part if part.n_faces > 0 else None
