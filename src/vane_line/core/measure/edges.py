"""Convex edges that a milling bur cannot follow, and the milled fit: what is cut away beside them.

The inside of a milled crown is a union of balls of the bur's radius. Each point of the preparation must lie in one of
them, else material is left that keeps the crown off. The best ball for a point is the one that stands out of the
preparation least: its centre is the deepest place within a radius of the point, and the overcut is the radius less that
depth. Closed form on an edge of interior angle 2a: r (1 - sin a); with the edge rounded to R: (r - R)(1 - sin a).
A somewhat smaller bur tells the two apart: by as much as its overcut is less, 1 - sin a; no normal is asked, which on a
ridge turns with the last digit of a place.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np
from scipy.sparse.csgraph import minimum_spanning_tree
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.mesh.points import groups, near_pairs
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import dot, lengths, unit, xyz

TOLD_MM = 0.03  # less overcut than this is the mesh's
PLAIN_MM = 0.05  # no mesh makes so much of nothing
# Of the radius: steps towards the deepest place, roughly and then to 2 µm.
ROUGH, FINE = [0.30 * 0.72**k for k in range(9)], [0.09 * 0.58**k for k in range(8)]
NEIGHBOURS = 7  # of a place, itself among them, whose balls are tried for it
LESSER = 0.8  # of the bur's radius: the smaller one; an edge rounded to more cuts away less than is told
STARTS = (1.0, 0.5)  # how far under the point it begins, of the radius
TURN = 0.05  # 1 - cosine of the half turn that makes an edge: 18 degrees
# A blunter edge tells its radius badly, and none turns by more than a right angle: from none of its say to all of it.
TELLING_TURN, TELLING = (0.08, 0.12, 1.0, 1.1), (0, 1, 1, 0)
LEAST_TOLD = 2.0  # places in all that tell it
RIDGE_MM, RIDGE_SHARE = 0.35, 0.92  # an edge runs where the overcut is greatest within this
CREST_SHARE = (0.95, 1.0)  # beside its very crest an edge does not tell its angle, hence not its radius either
LINK_MM, THIN_MM = 0.7, 0.30
LEAST_RUN_MM = 0.5
OFF_LINE_MM = 0.3  # nearer to the finish line it is the margin

# Depth (N,) of ball centres (N, 3) under the surface, negative outside, with the nearest place (N, 3).
DepthAt = Callable[[Floats], tuple[Floats, Floats]]


@dataclass(frozen=True)
class Run:
    """One edge: where it is sharpest, how long, the least radius (robust), the overcut beside it, and 1 - cosine of its
    half turn."""

    at: tuple[float, float, float]
    azimuth_deg: float
    length_mm: float
    radius_mm: float
    overcut_mm: float
    turn: float


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
    distance, _ = cKDTree(line.points).query(inside.vertices)
    overcut, centre = _overcut(inside, distance > OFF_LINE_MM, bur_radius_mm)
    told = np.flatnonzero(overcut > TOLD_MM)
    turn = np.zeros(len(overcut))
    turn[told] = _turn(inside, inside.vertices[told], centre[told], overcut[told], bur_radius_mm)
    sharp = told[turn[told] > TURN]
    # Where the bur plainly does not fit, no edge at all would be too much said.
    open_mm = THIN_MM if (overcut > PLAIN_MM).any() else 0.0
    if len(sharp) == 0:
        return Edges(bur_radius_mm, overcut, [], open_mm)
    near = cKDTree(inside.vertices[sharp])
    around = near.query_ball_point(inside.vertices[sharp], RIDGE_MM)
    share = overcut[sharp] / np.array([overcut[sharp[k]].max() for k in around])
    say = np.zeros(len(overcut))
    say[sharp] = np.interp(share, CREST_SHARE, (0, 1)) * np.interp(turn[sharp], TELLING_TURN, TELLING)
    chosen = sharp[share >= RIDGE_SHARE]
    points = inside.vertices[chosen]
    count, label = groups(points, LINK_MM)
    runs, untold = [], 0.0
    for number in range(count):
        part = chosen[label == number]
        length = _length(inside.vertices[part])
        if length < LEAST_RUN_MM:
            untold = max(untold, length)  # too short to be read
            continue
        if say[part].sum() < LEAST_TOLD:
            untold = max(untold, length)
            continue
        # Of the sums, not of each place: two overcuts that differ by little tell a place's turn badly.
        radius = bur_radius_mm - float(say[part] @ overcut[part] / (say[part] @ turn[part]))
        worst = int(part[np.argmax(overcut[part])])
        azimuth, _, _ = axes.cylinder(inside.vertices[worst][None])
        runs.append(Run(
            xyz(inside.vertices[worst]), float(azimuth[0]), length, max(radius, 0.0),
            float(np.quantile(overcut[part], 0.8)), float(say[part] @ turn[part] / say[part].sum()),
        ))  # fmt: skip
    runs.sort(key=lambda r: -r.overcut_mm)
    return Edges(bur_radius_mm, overcut, runs, untold if runs else max(untold, open_mm))


def _overcut(surface: Surface, asked: Bools, r: float) -> tuple[Floats, Floats]:
    """Overcut (N,) of the best ball through each vertex that is asked (N,), 0 elsewhere and where the ball under it
    fits; with the balls' centres (N, 3)."""
    points, normals = surface.vertices, surface.vertex_normals
    overcut, centre = np.zeros(len(points)), points - r * normals
    index = np.flatnonzero(asked)
    depth, _ = _depth(surface, centre[index])
    index = index[depth < r - TOLD_MM]  # elsewhere the ball under the point fits already
    if len(index) == 0:
        return overcut, centre
    # Where two ways lead inward, as beside a hole, which one is taken must not hang on a rounding: both are tried.
    rough, asking = partial(_rough_depth, surface), points[index]
    begun = [_climbed(rough, asking, asking - k * r * normals[index], r, ROUGH) for k in STARTS]
    better = begun[1][0] > begun[0][0]
    found = np.where(better[:, None], begun[1][1], begun[0][1])
    found = _best_of_neighbours(rough, asking, found, r)
    depth, centre[index] = _climbed(partial(_depth, surface), asking, found, r, FINE)
    overcut[index] = np.maximum(r - depth, 0.0)
    return overcut, centre


def _turn(surface: Surface, points: Floats, centre: Floats, overcut: Floats, r: float) -> Floats:
    """1 - cosine of the half turn (N,) of the edge at points (N, 3), by how much less a smaller bur cuts away; its
    centre is sought about the way to the bur's own."""
    begun = points + LESSER * (centre - points)
    depth, _ = _climbed(partial(_depth, surface), points, begun, LESSER * r, FINE)
    return np.asarray(np.maximum(overcut - np.maximum(LESSER * r - depth, 0), 0) / ((1 - LESSER) * r))


def _best_of_neighbours(depth_at: DepthAt, points: Floats, centre: Floats, r: float) -> Floats:
    """For each of points (N, 3) the centre (N, 3) that is deepest of those found for it and for the points beside it:
    what one climb has missed, another may have met."""
    _, near = cKDTree(points).query(points, k=min(NEIGHBOURS, len(points)))
    near = near.reshape(len(points), -1)
    tried = _held(points[:, None], centre[near], r)
    depth, _ = depth_at(tried.reshape(-1, 3))
    return np.asarray(tried[np.arange(len(points)), depth.reshape(near.shape).argmax(axis=1)])


def _held(points: Floats, centre: Floats, r: float) -> Floats:
    """Centres (..., 3) drawn to points (..., 3) until they are within `r`."""
    off = centre - points
    size = np.maximum(lengths(off), 1e-12)
    return np.asarray(points + off * np.minimum(1.0, r / size)[..., None])


def _climbed(depth_at: DepthAt, points: Floats, centre: Floats, r: float, steps: list[float]) -> tuple[Floats, Floats]:
    """The greatest depth (N,) of centres within `r` of points (N, 3), and those centres (N, 3): sought from `centre`
    (N, 3) on, away from the nearest surface, step by step (of the radius)."""
    depth, place = depth_at(centre)
    best, best_at = depth.copy(), centre.copy()
    for step in (r * share for share in steps):
        centre = _held(points, centre + step * np.sign(depth)[:, None] * unit(centre - place), r)
        depth, place = depth_at(centre)
        better = depth > best
        best[better], best_at[better] = depth[better], centre[better]
    return best, best_at


def _rough_depth(surface: Surface, centre: Floats) -> tuple[Floats, Floats]:
    """As `_depth`, by the nearest vertex: quickly had, and good enough to find the way."""
    distance, nearest = surface.corner_tree.query(centre)
    place = surface.vertices[nearest]
    return np.where(dot(centre - place, surface.vertex_normals[nearest]) < 0, distance, -distance), place


def _depth(surface: Surface, centre: Floats) -> tuple[Floats, Floats]:
    """Depth (N,) of ball centres under the surface, negative outside, with the nearest place: past a thin edge's far
    side a ball has room again, but not in the tooth."""
    signed, _, place = surface.signed_distance(centre)
    return -signed, place


def _length(points: Floats) -> float:
    """Length of the course through scattered points along an edge: their spanning tree, thinned first, from one end on,
    in whatever order the file has them."""
    end = points[np.argmax(lengths(points - points.mean(axis=0)))]
    points = points[np.argsort(lengths(points - end), kind="stable")]
    free, kept = np.ones(len(points), dtype=bool), []
    for k in range(len(points)):
        if free[k]:
            kept.append(k)
            free &= lengths(points - points[k]) > THIN_MM
    some = points[kept]
    if len(some) < 2:
        return 0.0
    return float(minimum_spanning_tree(near_pairs(some, 2 * LINK_MM)).sum())
