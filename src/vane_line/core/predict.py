"""What strokes of a bur on the sheet would take off: the scan round the tooth with the cut made, nothing else changed.

A stroke is depth-limited: along its course it takes `depth_mm` under the surface as it stands, flat over the bur's
middle and running out at its rim. Where strokes overlap the deeper one counts, as with a stop on the bur.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.placed import Placed
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.tooth.notation import ToothNumber

FLAT_SHARE = 0.6  # of the bur's radius that cuts to full depth
STEP_MM = 0.1
BEYOND_MM = 0.2  # half the tooth's width and this much: a stroke there meets the next tooth
TURNED_AWAY = 0.2  # cosine: surface on the other side of a thin wall is not cut by a stroke on this side


@dataclass(frozen=True, eq=False)
class Stroke:
    """points (N, 3) on the preparation in its scan's coordinates, mm."""

    points: Floats
    depth_mm: float
    diameter_mm: float


@dataclass(frozen=True, eq=False)
class Cut:
    """The placed scans as they would be, the volume taken off and what to beware of."""

    placed: Placed
    removed_mm3: float
    warnings: list[str]


def cut_by(placed: Placed, strokes: list[Stroke], tooth: ToothNumber) -> Cut:
    """The scan round the tooth lowered by `strokes`."""
    depth = np.zeros(placed.eased.n_vertices)
    for stroke in strokes:
        depth = np.maximum(depth, _depth(placed.eased, stroke))
    inward = depth[:, None] * placed.eased.vertex_normals
    crop = placed.crop.with_vertices(placed.crop.vertices - inward)
    eased = placed.eased.with_vertices(placed.eased.vertices - inward).smoothed(1)
    removed = float((depth * placed.eased.vertex_areas).sum())
    warnings = []
    if removed == 0.0:
        warnings.append("The strokes do not touch the tooth.")
    if _near_others(placed, depth, tooth):
        warnings.append("A stroke comes near the next tooth: protect it, or do not cut there.")
    prep = _laid_in(placed, crop)
    return Cut(
        replace(placed, scans=replace(placed.scans, prep=prep), crop=crop, eased=eased, spent_s=0.0), removed, warnings
    )


def _depth(surface: Surface, stroke: Stroke) -> Floats:
    """(V,) how deep a stroke takes each vertex."""
    course = _filled(stroke.points)
    tree = cKDTree(course)
    radius = stroke.diameter_mm / 2
    off, nearest = tree.query(surface.vertices, distance_upper_bound=radius)
    hit = np.isfinite(off)
    out = np.zeros(surface.n_vertices)
    if not hit.any():
        return out
    # The side that the stroke runs on, by the surface's own direction under each of its points.
    _, under = cKDTree(surface.vertices).query(course)
    facing = surface.vertex_normals[under]
    same = np.einsum("ij,ij->i", surface.vertex_normals[hit], facing[nearest[hit]]) > TURNED_AWAY
    edge = np.clip((radius - off[hit]) / (radius * (1 - FLAT_SHARE)), 0, 1)
    out[hit] = np.where(same, stroke.depth_mm * edge * edge * (3 - 2 * edge), 0.0)
    return out


def _filled(points: Floats) -> Floats:
    """Points every STEP_MM along a course."""
    parts = [points[:1]]
    for a, b in pairwise(points):
        count = max(1, int(np.ceil(np.linalg.norm(b - a) / STEP_MM)))
        parts.append(a + (np.arange(1, count + 1) / count)[:, None] * (b - a))
    return np.concatenate(parts)


def _near_others(placed: Placed, depth: Floats, tooth: ToothNumber) -> bool:
    """Whether what is cut lies further to mesial or distal than this tooth is wide: then it is the next tooth."""
    cut = placed.eased.vertices[depth > 0]
    across = np.abs((cut - placed.centre) @ placed.frame.mesial)
    return bool((across > size_of(tooth)[1] / 2 + BEYOND_MM).any())


def _laid_in(placed: Placed, crop: Surface) -> Surface:
    """The whole scan with the cut part's vertices moved, so that gaps to the neighbours are measured on it too."""
    prep = placed.scans.prep
    tree = cKDTree(placed.crop.vertices)
    off, index = tree.query(prep.vertices, distance_upper_bound=1e-6)
    found = np.isfinite(off)
    vertices = prep.vertices.copy()
    vertices[found] = crop.vertices[index[found]]
    return prep.with_vertices(vertices)
