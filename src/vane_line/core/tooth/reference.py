"""The reference tooth on the earlier scan: parted from its neighbours, from gingiva and from invented bridges.

Three kinds of seeds grow over the earlier surface at once, and crossing a valley costs much more than following
a hill, so the kinds meet in the valleys: sulcus, embrasures, the webs a scanner spans over closed contacts.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.growth import concavity, grow
from vane_line.core.mesh.keys import edge_keys
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import dot

CROP_MM = 9.5
REMOVED_MM = 0.35  # seeds of the tooth stand this far outside the preparation
UNCHANGED_MM = 0.10
# Radians by which a hollow turns from triangle to triangle: from `HOLLOW` on part of it, from `FISSURE` on it may all
# be a fissure that lies between them, which hides more the longer their edges: fitted on made-up molars.
HOLLOW, FISSURE = 0.6, 1.0
UNRESOLVED, SEEN_MM, MOST_UNRESOLVED_MM = 1.0, 0.07, 0.18
PAPILLA_MM = 2.0  # over the line a papilla stands no higher
ROOF_MM, OFF_MM, FACES_UP = 1.0, 0.05, 0.3  # so far over it; past its own faces; cosine
ROUND_ABOUT = 2  # edges from a fissure, within which it may be the nearest place


@dataclass(frozen=True, eq=False)
class ReferenceTooth:
    """The part of the earlier scan that is this tooth; its border is where the scan stopped seeing it."""

    surface: Surface
    gingiva: Floats = field(default_factory=lambda: np.zeros((0, 3)))  # (G, 3) points where it meets the gingiva

    def eased(self, steps: int) -> ReferenceTooth:
        """Freed of the scan's noise, to which every distance is biased low; not in a fissure, which that would fill."""
        smooth = self.surface.smoothed(steps)
        sharp = fissured(self.surface.smoothed(1))[:, None]
        blended = sharp * self.surface.vertices + (1 - sharp) * smooth.vertices
        return ReferenceTooth(smooth.with_vertices(blended), self.gingiva)

    def kept(self, mine: Bools) -> ReferenceTooth:
        """Of its surface the vertices in `mine` (V,) alone."""
        return ReferenceTooth(self.surface.keep_vertices(mine)[0], self.gingiva)

    def depth(self, points: Floats) -> tuple[Floats, Bools]:
        """Signed distance (N,) of preparation `points` (N, 3) below this surface (positive: removed), and whether the
        nearest place lies on the border (N,)."""
        signed, face, place = self.surface.signed_distance(points)
        return -signed, self.surface.at_rim(face, place)

    def distance(self, points: Floats) -> tuple[Floats, Bools, Floats]:
        """As `depth`, and the standard uncertainty (N,) of each distance that the scan's resolution leaves."""
        signed, face, place = self.surface.signed_distance(points)
        return -signed, self.surface.at_rim(face, place), self.surface.interpolate(self.unresolved, face, place)

    @cached_property
    def unresolved(self) -> Floats:
        """(V,) mm by which a hollow may be deeper than triangles of the size they have here tell: a fissure between
        two of them is not seen, and the tooth is nearer there than it reads."""
        surface = self.surface
        deep = np.minimum(UNRESOLVED * np.maximum(_edges(surface) - SEEN_MM, 0.0), MOST_UNRESOLVED_MM)
        deep = deep * fissured(surface)
        i, j = surface.edges.T
        for _ in range(ROUND_ABOUT):
            wider = deep.copy()
            np.maximum.at(wider, i, deep[j])
            np.maximum.at(wider, j, deep[i])
            deep = wider
        return deep


def segment(
    preop: Surface,
    prep: Surface,
    inside: Bools,
    line: Floats,
    axes: Axes,
    crown_height_mm: float,
    spare_mm: float = 0.0,
    removed_mm: float = REMOVED_MM,
    outside_mm: float = np.inf,
) -> ReferenceTooth | None:
    """The reference tooth, or None where nothing of it is found.

    preop: the earlier scan, moved onto `prep`. inside: (V,) of prep. line: (A, 3) finish line. axes: the
    preparation's cylinder frame. crown_height_mm: typical for the class, bounds the search. spare_mm: by which other
    teeth are looked for further out, where the line is no more than about where the tooth ends. removed_mm: by how much
    seeds of the tooth stand outside the preparation. outside_mm: so far outside the line nothing is this tooth's, where
    the line is its greatest girth.
    """
    middle = line.mean(axis=0)
    off = preop.vertices - middle
    height = off @ axes.up
    plan = np.linalg.norm(off - height[:, None] * axes.up, axis=1)
    part, _ = preop.keep_vertices((plan < CROP_MM) & (np.abs(height) < 2 * crown_height_mm))
    if part.n_faces < 50:
        return None
    azimuth, radius, level = axes.cylinder(part.vertices)
    line_azimuth, line_radius, line_level = axes.cylinder(line)
    order = np.argsort(line_azimuth)
    ring = np.r_[line_azimuth[order] - 360, line_azimuth[order], line_azimuth[order] + 360]
    at_radius = np.interp(azimuth, ring, np.tile(line_radius[order], 3))
    above = level - np.interp(azimuth, ring, np.tile(line_level[order], 3))

    gap, face, _ = prep.signed_distance(part.vertices)
    over_cut = prep.any_corner(inside)[face]
    concave = concavity(part)
    tooth_seed = over_cut & (gap > removed_mm) & (concave < 0.6) & (above > 0.8) & (radius < at_radius + 2.2 + spare_mm)
    unchanged = (np.abs(gap) < UNCHANGED_MM) & ~over_cut
    neighbour_seed = unchanged & (radius > at_radius + 0.7 + spare_mm) & (above > 1.0)
    neighbour_seed |= (radius > at_radius + outside_mm) & (above > 0.6)
    gingiva_seed = ~over_cut & (radius > at_radius + 0.9 + spare_mm / 2) & (above < 0.6)
    gingiva_seed |= ~tooth_seed & _roofed(part, axes.up, above < PAPILLA_MM)
    if tooth_seed.sum() < 20:
        return None
    grown = grow(part, concave, [tooth_seed, neighbour_seed, gingiva_seed])
    # Uncut tooth just below the line belongs to the tooth: else the line itself would look like a border.
    mine = (grown.kind == 0) & (radius < at_radius + 3.0 + spare_mm)
    tooth, _ = part.keep_vertices(mine)
    if tooth.n_faces < 50:
        return None
    piece = tooth.pieces[tooth.faces[:, 0]]
    tooth, _ = tooth.keep_faces(piece == np.bincount(piece, weights=tooth.face_areas).argmax())
    return ReferenceTooth(tooth, grown.valley(0, 2))


def _roofed(part: Surface, up: Floats, low: Bools) -> Bools:
    """(V,) whether each of the vertices in `low` (V,) faces up and has another surface that does right over it: a
    papilla under a contact, where the scan did not see the side between. In a notch the side over it is seen."""
    asked = np.flatnonzero(low & (part.vertex_normals @ up > FACES_UP))
    face, high = part.first_hit(part.vertices[asked] + OFF_MM * up, up)
    roofed = np.zeros(part.n_vertices, dtype=bool)
    roofed[asked] = (face >= 0) & (part.face_normals[face] @ up > 0) & (high > ROOF_MM)
    return roofed


def _edges(surface: Surface) -> Floats:
    """(V,) mean length of the edges that end in each vertex."""
    ends = surface.edges.T.ravel()
    count = np.bincount(ends, minlength=surface.n_vertices)
    total = np.bincount(ends, np.tile(surface.edge_lengths, 2), surface.n_vertices)
    return np.asarray(total / np.maximum(count, 1))


def fissured(surface: Surface) -> Floats:
    """(V,) from 0 to 1: whether the faces about a vertex turn inward so much that a fissure may lie between them."""
    return np.clip((deepest_fold(surface) - HOLLOW) / (FISSURE - HOLLOW), 0, 1)


def deepest_fold(surface: Surface) -> Floats:
    """(V,) greatest angle (radians) by which two faces that meet in an edge of the vertex turn inward; else nought."""
    a, b = surface.faces.T.ravel(), surface.faces[:, [1, 2, 0]].T.ravel()
    key = edge_keys(a, b, surface.n_vertices)
    order = np.argsort(key, kind="stable")
    meet = np.flatnonzero(key[order[1:]] == key[order[:-1]])
    one, other, normals = order[meet] % surface.n_faces, order[meet + 1] % surface.n_faces, surface.face_normals
    turn = np.arccos(np.clip(dot(normals[one], normals[other]), -1, 1))
    across = surface.face_centres[other] - surface.face_centres[one]
    turn[dot(across, normals[one]) <= 0] = 0.0  # outward
    deepest = np.zeros(surface.n_vertices)
    for end in (a, b):
        np.maximum.at(deepest, end[order[meet]], turn)
    return deepest
