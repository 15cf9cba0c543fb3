"""How far two places on a surface lie apart: straight, and along the surface as a tape laid on it would go."""

from __future__ import annotations

from dataclasses import dataclass

import igl
import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.errors import InputError

OFF_MM = 0.5  # a place further from the surface is not on it
DETOURS = (1.6, 3.2, 6.4)  # how much longer than straight the way may be, tried in turn
SAME_MM = 1e-6
HAIR = 1e-4  # of a face
_NONE = np.zeros(0, np.int64)


@dataclass(frozen=True)
class Tape:
    """mm. along_mm: None where no way leads over the surface from one place to the other."""

    straight_mm: float
    along_mm: float | None


def tape(surface: Surface, one: Floats, other: Floats) -> Tape:
    """Distance between two places (3,) on the surface, straight and along it (Mitchell, Mount, Papadimitriou 1987).

    Raises InputError for a place that does not lie on the surface.
    """
    off, _, place = surface.closest(np.stack([one, other]))
    if float(off.max()) > OFF_MM:
        raise InputError(f"A place lies {off.max():.1f} mm off the surface; press on the tooth.")
    straight = float(np.linalg.norm(place[1] - place[0]))
    if straight < SAME_MM:
        return Tape(straight, 0.0)
    ways = np.linalg.norm(surface.vertices[:, None] - place[None], axis=2).sum(axis=1)
    for detour in DETOURS:
        # No way of a length leaves the ellipsoid of that length round both ends: what lies outside is not asked.
        most = detour * straight
        within = (ways <= most + 4 * surface.usual_edge_mm)[surface.faces].any(axis=1)
        part, first = _with_corner(surface.keep_faces(within)[0], place[0])
        part, last = _with_corner(part, place[1])
        ends = np.array([first]), np.array([last])
        along = float(igl.exact_geodesic(part.vertices, part.faces, ends[0], _NONE, ends[1], _NONE)[0])
        if np.isfinite(along) and straight * (1 - 1e-9) <= along <= most:
            return Tape(straight, max(along, straight))
    return Tape(straight, None)


def _with_corner(surface: Surface, place: Floats) -> tuple[Surface, int]:
    """The surface with its face at `place` split in three that meet there, and the new corner's number.

    A place on a side or corner is taken a hair inside the face: the library never ends on triangles without area.
    """
    _, face, nearest = surface.closest(place[None])
    share = np.maximum(surface.barycentric(face, nearest)[0], HAIR)
    a, b, c = surface.faces[face[0]]
    place = (share / share.sum()) @ surface.vertices[[a, b, c]]
    new = surface.n_vertices
    faces = np.concatenate([np.delete(surface.faces, face[0], axis=0), [[a, b, new], [b, c, new], [c, a, new]]])
    return Surface(np.concatenate([surface.vertices, place[None]]), faces), new
