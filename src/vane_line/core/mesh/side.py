"""On which side of an open surface a point lies.

The nearest place lies in a face, on an edge or at a corner, and each has a normal that tells the side truly: the
face's own, the sum of the two faces', the angle-weighted sum of all round the corner (J. A. Bærentzen, H. Aanæs, Signed
distance computation using the angle weighted pseudonormal, IEEE TVCG 2005;11:243-253). That holds for a surface that
does not pass through itself. Scans have folds and spikes; where the surface at large says otherwise, the solid angle
under which the surface round the place is seen decides (as A. Jacobson, L. Kavan, O. Sorkine-Hornung, Robust
inside-outside segmentation using generalized winding numbers, ACM TOG 2013;32:33, but of that part alone: the whole of
an open surface would mislead).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.mesh.keys import edge_keys
from vane_line.core.vectors import dot, lengths

if TYPE_CHECKING:
    from vane_line.core.mesh.surface import Surface

ON_EDGE = 1e-6  # of a barycentric weight: less is nought
DOUBT_MM = 0.02  # nearer to the surface its own normal is taken at its word
AGAINST = 0.25  # cosine from which the surface at large contradicts
SEEN_TIMES, SEEN_MM = 3.0, 0.8  # of the distance, and at least: the part of the surface that is asked
MOST_ASKED = 4000  # points whose surroundings are looked at; of more, the surface is no scan and its word is taken


def is_behind(surface: Surface, points: Floats, distance: Floats, face: Ints, place: Floats) -> Bools:
    """(N,) whether `points` (N, 3) lie behind the surface, from their nearest places (as `Surface.closest` gives)."""
    away = points - place
    weights = surface.barycentric(face, place)
    behind = _by_normal(surface, away, face, weights)
    broad = dot(away, np.einsum(
        "nck,nc->nk", surface.broad_normals[surface.faces[face]], weights))  # fmt: skip
    # Past the border of what was scanned no side is told: asking round would tell none either.
    doubt = (np.abs(broad) > AGAINST * distance) & ((broad < 0) != behind) & (distance > DOUBT_MM)
    asked = np.flatnonzero(doubt)
    asked = asked[~surface.at_rim(face[asked], place[asked])]
    if 0 < len(asked) <= MOST_ASKED:
        behind[asked] = _solid_angles(surface, points[asked], distance[asked], place[asked]) < 0
    return np.asarray(behind)


def _by_normal(surface: Surface, away: Floats, face: Ints, weights: Floats) -> Bools:
    """(N,) the side by the normal of the face, edge or corner that holds the nearest place, as the weights have it."""
    behind = dot(away, surface.face_normals[face]) < 0
    first, second, third = (weights < ON_EDGE).T
    gone = first.astype(np.int8) + second + third
    corner = np.flatnonzero(gone >= 2)
    normals = surface.vertex_normals[surface.faces[face[corner], weights[corner].argmax(axis=1)]]
    behind[corner] = dot(away[corner], normals) < 0
    edge = np.flatnonzero(gone == 1)
    if len(edge):
        opposite = np.where(first, 0, np.where(second, 1, 2))[edge]
        ends = np.stack([surface.faces[face[edge], (opposite + k) % 3] for k in (1, 2)], axis=1)
        behind[edge] = dot(away[edge], _edge_normals(surface, ends)) < 0
    return behind


def _edge_normals(surface: Surface, ends: Ints) -> Floats:
    """(N, 3) the sums of the normals of the faces on both sides of edges, given by their ends (N, 2)."""
    unique, which = np.unique(edge_keys(ends[:, 0], ends[:, 1], surface.n_vertices), return_inverse=True)
    named = np.zeros(surface.n_vertices, dtype=np.int8)
    named[ends] = 1
    corners = surface.faces.T
    near = np.flatnonzero(sum(named[c] for c in corners) >= 2)
    corners = corners[:, near]
    out = np.zeros((len(unique), 3))
    for one, other in ((0, 1), (1, 2), (2, 0)):
        side = edge_keys(corners[one], corners[other], surface.n_vertices)
        at = np.minimum(np.searchsorted(unique, side), len(unique) - 1)
        hit = np.flatnonzero(unique[at] == side)
        np.add.at(out, at[hit], surface.face_normals[near[hit]])
    return np.asarray(out[which])


def _solid_angles(surface: Surface, points: Floats, distance: Floats, place: Floats) -> Floats:
    """(N,) solid angle of the surface near each place, positive where it is seen from in front.

    A. van Oosterom, J. Strackee, The solid angle of a plane triangle, IEEE Trans Biomed Eng 1983;30:125-126.
    """
    out = np.zeros(len(points))
    near = surface.face_tree.query_ball_point(place, np.maximum(SEEN_TIMES * distance, SEEN_MM))
    for k, some in enumerate(near):
        a, b, c = (surface.vertices[surface.faces[some, j]] - points[k] for j in range(3))
        la, lb, lc = lengths(a), lengths(b), lengths(c)
        volume = np.einsum("fk,fk->f", a, np.cross(b, c))
        beside = la * lb * lc + (a * b).sum(1) * lc + (b * c).sum(1) * la + (c * a).sum(1) * lb
        # Corners run round so that the normal points at who stands in front: seen from there they turn left.
        out[k] = -2 * np.arctan2(volume, beside).sum()
    return out
