"""The teeth beside the preparation: nicks that a bur left in them, and the gap at contact level.

A nick is where the neighbour lies deeper than on the earlier scan, by more than the noise. What a closed contact hid
from the earlier scan cannot be compared: a scanner spans a web there, and below it any surface would look cut.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.align.crowns import Crowns
from vane_line.core.arrays import Bools, Floats, xyz
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.reduction import averaged
from vane_line.core.measure.section import Axes
from vane_line.core.mesh.surface import Surface

REACH_MM = 12.0
BESIDE_MM = 0.3
NEAR_GAP_MM = 4.0  # a tooth further off is no neighbour
LEAST_DEPTH_MM = 0.04  # of what is looked at as a nick: above noise eased over a spot
LEAST_AREA_MM2 = 0.10
WEB_COSINE = 0.5  # the earlier surface turned away by more than 60 degrees is a web, not the tooth
WEB_NEAR_MM = 0.6  # round a web the earlier scan bends towards it
FACING_SHARE = 0.5  # of the side facing the preparation that a web may hide before nothing can be said
EASE_MM = 0.25  # over which depths are averaged, crests given back
LEAST_POINTS = 100
CLOSED = "the earlier scan never saw the side that faces the preparation: the contact was closed"
DEEPEST_SHARE = 0.9


@dataclass(frozen=True)
class Neighbour:
    """One side. nick_depth_mm None: not compared, and `why`; gap_mm None: no tooth there."""

    side: str
    gap_mm: float | None
    nick_depth_mm: float | None
    area_mm2: float
    at: tuple[float, float, float] | None
    hidden_mm2: float  # of the neighbour's near side that the earlier scan never saw
    why: str


def find_neighbours(
    prep: Surface, inside: Surface, base: Surface | None, crowns: Crowns, line: FinishLine, axes: Axes
) -> list[Neighbour]:
    """Mesial and distal. prep: the scan round the tooth. base: the earlier scan in its frame where trusted."""
    azimuth, radius, height = axes.cylinder(prep.vertices)
    beyond = (radius > line.at(azimuth, line.radius) + BESIDE_MM) & (radius < REACH_MM) & crowns.hold(prep.vertices)
    beyond &= height > line.at(azimuth, line.height) + BESIDE_MM
    side_of = np.cos(np.radians(azimuth - 90))
    return [
        compare_side(side, prep, inside, base, beyond & (sign * side_of > 0.5))
        for side, sign in (("mesial", 1), ("distal", -1))
    ]


def compare_side(side: str, prep: Surface, inside: Surface, base: Surface | None, mask: Bools) -> Neighbour:
    part, index = prep.keep_vertices(mask)
    if part.n_vertices < LEAST_POINTS:
        return Neighbour(side, None, None, 0.0, None, 0.0, "no tooth stands on this side of the scan")
    away = inside.closest(part.vertices)[0]
    gap = float(away.min())
    if gap > NEAR_GAP_MM:
        return Neighbour(side, None, None, 0.0, None, 0.0, "no tooth stands near on this side")
    if base is None:
        return Neighbour(side, gap, None, 0.0, None, 0.0, "there is no trusted earlier scan to compare with")
    removed, face, place = base.signed_distance(prep.vertices[index])
    facing = np.einsum("nk,nk->n", base.normals_at(face, place), prep.vertex_normals[index])
    hidden = (facing < WEB_COSINE) | base.at_rim(face, place)
    area = part.vertex_areas
    hidden_area = float(area[hidden].sum())
    if hidden.any():
        from_web, _ = cKDTree(part.vertices[hidden]).query(part.vertices, distance_upper_bound=WEB_NEAR_MM)
        hidden |= from_web < WEB_NEAR_MM
    near = away < gap + 1.5
    closed = bool(area[hidden & near].sum() > FACING_SHARE * area[near].sum())
    why = CLOSED if closed else ""
    depth = averaged(part, -removed, ~hidden, EASE_MM)
    found = _deepest(part, depth, (depth > LEAST_DEPTH_MM) & ~hidden)
    if found is None:
        return Neighbour(side, gap, None if closed else 0.0, 0.0, None, hidden_area, why)
    value, size, at = found
    return Neighbour(side, gap, value, size, at, hidden_area, why)


def _deepest(part: Surface, depth: Floats, deep: Bools) -> tuple[float, float, tuple[float, float, float]] | None:
    label = part.parts(deep)
    best = None
    for number in np.unique(label[deep]):
        spot = np.flatnonzero((label == number) & deep)
        size = float(part.vertex_areas[spot].sum())
        if size < LEAST_AREA_MM2:
            continue
        value = float(np.quantile(depth[spot], DEEPEST_SHARE))
        if best is None or value > best[0]:
            best = (value, size, xyz(part.vertices[spot[np.argmax(depth[spot])]]))
    return best
