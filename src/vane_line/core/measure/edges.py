"""Convex edges that a milling bur cannot follow, and the milled fit: what is cut away beside them.

The inside of a milled crown is a union of balls of the bur's radius. Each point of the preparation must lie in one of
them, else material is left that keeps the crown off. The best ball for a point is the one that stands out of the
preparation least: its centre is the deepest place within a radius of the point, and the overcut is the radius less that
depth. Closed form on an edge of interior angle 2a: r (1 - sin a); with the edge rounded to R: (r - R)(1 - sin a).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse.csgraph import minimum_spanning_tree
from scipy.spatial import cKDTree

from vane_line.core.arrays import Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.mesh.points import groups, near_pairs
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import lengths, unit, xyz

TOLD_MM = 0.03  # less overcut than this is the mesh's
ROUNDS = 14
FIRST_STEP, SHRINK = 0.30, 0.74  # of the radius; steps towards the deepest place
TURN = 0.05  # 1 - cosine of the half turn that makes an edge: 18 degrees
TELLING_TURN, LEAST_TOLD = 0.10, 2
RIDGE_MM, RIDGE_SHARE, CREST_SHARE = 0.35, 0.92, 0.995  # an edge runs where the overcut is greatest within this
LINK_MM, THIN_MM = 0.7, 0.30
LEAST_RUN_MM = 0.5
OFF_LINE_MM = 0.3  # nearer to the finish line it is the margin


@dataclass(frozen=True)
class Run:
    """One edge: where it is sharpest, how long, the least radius (robust), and the overcut beside it."""

    at: tuple[float, float, float]
    azimuth_deg: float
    length_mm: float
    radius_mm: float
    overcut_mm: float


@dataclass(frozen=True, eq=False)
class Edges:
    """Edges under the bur's radius; overcut_mm (N,) at every vertex inside the finish line; untold_mm: the longest
    stretch of an edge that looks sharp, but whose radius the scan does not tell; 0 where there is none."""

    bur_radius_mm: float
    overcut_mm: Floats
    runs: list[Run]
    untold_mm: float = 0.0

    @property
    def length_mm(self) -> float:
        return sum(r.length_mm for r in self.runs)

    @property
    def sharpest_mm(self) -> float | None:
        return min((r.radius_mm for r in self.runs), default=None)


def find_edges(inside: Surface, line: FinishLine, axes: Axes, bur_radius_mm: float) -> Edges:
    """inside: the preparation within the finish line, freed of noise."""
    overcut, turn = _overcut(inside, bur_radius_mm)
    distance, _ = cKDTree(line.points).query(inside.vertices)
    overcut = np.where(distance > OFF_LINE_MM, overcut, 0.0)
    sharp = np.flatnonzero((overcut > TOLD_MM) & (turn > TURN))
    if len(sharp) == 0:
        return Edges(bur_radius_mm, overcut, [])
    # A blunt edge tells its radius badly: a small overcut over a small turn.
    radius = np.where(turn > TELLING_TURN, bur_radius_mm - overcut / np.maximum(turn, TURN), np.nan)
    radius = np.clip(radius, 0.0, bur_radius_mm)
    near = cKDTree(inside.vertices[sharp])
    around = near.query_ball_point(inside.vertices[sharp], RIDGE_MM)
    share = overcut[sharp] / np.array([overcut[sharp[k]].max() for k in around])
    # Beside its very crest an edge does not tell its angle, hence not its radius either.
    radius[sharp[share < CREST_SHARE]] = np.nan
    chosen = sharp[share >= RIDGE_SHARE]
    points = inside.vertices[chosen]
    count, label = groups(points, LINK_MM)
    runs, untold = [], 0.0
    for number in range(count):
        part = chosen[label == number]
        length = _length(inside.vertices[part])
        told = radius[part][np.isfinite(radius[part])]
        if length < LEAST_RUN_MM:
            continue
        if len(told) < LEAST_TOLD:
            untold = max(untold, length)
            continue
        worst = int(part[np.argmax(overcut[part])])
        azimuth, _, _ = axes.cylinder(inside.vertices[worst][None])
        runs.append(Run(
            xyz(inside.vertices[worst]), float(azimuth[0]), length, float(np.median(told)),
            float(np.quantile(overcut[part], 0.8)),
        ))  # fmt: skip
    return Edges(bur_radius_mm, overcut, sorted(runs, key=lambda r: -r.overcut_mm), untold)


def _overcut(surface: Surface, r: float) -> tuple[Floats, Floats]:
    """Overcut (N,) of the best ball through each vertex, and 1 - cosine of the half turn of the surface there."""
    points, normals = surface.vertices, surface.vertex_normals
    overcut, turn = np.zeros(len(points)), np.zeros(len(points))
    centre = points - r * normals
    depth, face, place = surface.closest(centre)
    index = np.flatnonzero(depth < r - TOLD_MM)  # elsewhere the ball under the point fits already
    centre, depth, face, place = centre[index], depth[index], face[index], place[index]
    best, step = depth.copy(), FIRST_STEP * r
    wall, towards = surface.face_normals[face], normals[index].copy()  # at the best centre so far
    for _ in range(ROUNDS):
        centre = centre + step * unit(centre - place)
        off = centre - points[index]
        size = np.maximum(lengths(off), 1e-12)
        centre = points[index] + off * np.minimum(1.0, r / size)[:, None]
        depth, face, place = surface.closest(centre)
        better = depth > best
        best, wall[better] = np.maximum(best, depth), surface.face_normals[face[better]]
        towards[better] = unit(points[index] - centre)[better]
        step *= SHRINK
    overcut[index] = np.maximum(r - best, 0.0)
    turn[index] = 1 - np.einsum("nk,nk->n", wall, towards)
    return overcut, turn


def _length(points: Floats) -> float:
    """Length of the course through scattered points along an edge: their spanning tree, thinned first."""
    free, kept = np.ones(len(points), dtype=bool), []
    for k in range(len(points)):
        if free[k]:
            kept.append(k)
            free &= lengths(points - points[k]) > THIN_MM
    some = points[kept]
    if len(some) < 2:
        return 0.0
    return float(minimum_spanning_tree(near_pairs(some, 2 * LINK_MM)).sum())
