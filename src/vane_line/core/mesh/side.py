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

from vane_line.core.arrays import Bools, Floats, Ints, lengths

if TYPE_CHECKING:
    from vane_line.core.mesh.surface import Surface

ON_EDGE = 1e-6  # of a barycentric weight: less is nought
DOUBT_MM = 0.02  # nearer to the surface its own normal is taken at its word
SEEN_TIMES, SEEN_MM = 3.0, 0.8  # of the distance, and at least: the part of the surface that is asked
MOST_ASKED = 4000  # points whose surroundings are looked at; of more, the surface is no scan and its word is taken


def is_behind(surface: Surface, points: Floats, distance: Floats, face: Ints, place: Floats) -> Bools:
    """(N,) whether `points` (N, 3) lie behind the surface, from their nearest places (as `Surface.closest` gives)."""
    away = points - place
    weights = surface.barycentric(face, place)
    behind = np.einsum("nk,nk->n", away, _normals(surface, face, weights)) < 0
    broad = np.einsum("nck,nc->nk", surface.broad_normals[surface.faces[face]], weights)
    doubt = np.flatnonzero(((np.einsum("nk,nk->n", away, broad) < 0) != behind) & (distance > DOUBT_MM))
    if 0 < len(doubt) <= MOST_ASKED:
        behind[doubt] = _solid_angles(surface, points[doubt], distance[doubt], place[doubt]) < 0
    return np.asarray(behind)


def _normals(surface: Surface, face: Ints, weights: Floats) -> Floats:
    """(N, 3) the normals that tell the side, of faces, edges or corners as the weights (N, 3) have it."""
    out = surface.face_normals[face].copy()
    gone = weights < ON_EDGE
    corner = gone.sum(axis=1) >= 2
    out[corner] = surface.vertex_normals[surface.faces[face[corner], weights[corner].argmax(axis=1)]]
    edge = gone.sum(axis=1) == 1
    opposite = gone[edge].argmax(axis=1)
    a, b = (surface.faces[face[edge], (opposite + k) % 3] for k in (1, 2))
    out[edge] = surface.edge_normals[surface.edge_index(np.minimum(a, b), np.maximum(a, b))]
    return out


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
