"""Small faults of a triangulation, put right before anything is measured: fins taken off, pinholes closed.

A profile that is walked over the surface ends at a hole; one lost triangle on a wall must not end it.
"""

from __future__ import annotations

import igl
import numpy as np

from vane_line.core.arrays import Bools, Ints
from vane_line.core.mesh.keys import edge_keys
from vane_line.core.mesh.points import joined
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import lengths

PINHOLE_MM = 1.2  # round its border: some 0.4 mm across, no more than a few triangles of a usual scan


def whole_faces(faces: Ints) -> Bools:
    """(F,) false where a triangle repeats an earlier one; where two lie back to back, a fin, false for both."""
    ordered = np.sort(faces, axis=1)
    n = int(faces.max(initial=0)) + 1
    if n >= 2_000_000:  # one key would overflow 63 bits
        _, group = np.unique(ordered, axis=0, return_inverse=True)
        key = group.ravel().astype(np.int64)
    else:
        key = (ordered[:, 0] * n + ordered[:, 1]) * n + ordered[:, 2]
    order = np.argsort(key, kind="stable")
    repeats = np.flatnonzero(key[order][1:] == key[order][:-1]) + 1
    mask = np.ones(len(faces), dtype=bool)
    if len(repeats) == 0:
        return mask
    one, other = order[repeats - 1], order[repeats]
    mask[other] = False
    mask[one[_turn(faces[one]) != _turn(faces[other])]] = False
    return mask


def consistent(surface: Surface) -> tuple[Surface, int]:
    """The surface with all triangles of a piece the same way round, as most of its area lies; and how many were turned.

    Two triangles that run along a common side in the same direction disagree.
    """
    start, end = surface.faces.ravel(), surface.faces[:, [1, 2, 0]].ravel()
    key = start * np.int64(surface.n_vertices) + end
    ordered = np.sort(key)
    if not (ordered[1:] == ordered[:-1]).any():
        return surface, 0
    faces, piece = igl.bfs_orient(surface.faces)
    faces, piece = np.asarray(faces, dtype=np.int64), np.ravel(np.asarray(piece, dtype=np.int64))
    kept = _turn(faces) == _turn(surface.faces)
    area = surface.face_areas
    wrong = np.bincount(piece, area * ~kept) > np.bincount(piece, area * kept)
    faces[wrong[piece]] = faces[wrong[piece]][:, ::-1]
    turned = int((_turn(faces) != _turn(surface.faces)).sum())
    return Surface(surface.vertices, faces, surface.colours), turned


def _turn(faces: Ints) -> Bools:
    """(F,) which way round the corners of each triangle run, told from their numbers' order."""
    a, b, c = faces.T
    return np.asarray(((a < b).astype(int) + (b < c) + (c < a)) == 2)


def without_pinholes(surface: Surface) -> tuple[Surface, int]:
    """The surface with every hole up to PINHOLE_MM round closed flat, and how many there were."""
    start, end = _open_sides(surface)
    start, end = _of_small_holes(surface, start, end)
    loops = _loops(start.tolist(), end.tolist())
    if not loops:
        return surface, 0
    vertices, faces = [surface.vertices], [surface.faces]
    colours = [] if surface.colours is None else [surface.colours]
    for number, loop in enumerate(loops):
        middle = surface.n_vertices + number
        # A triangle to the hole's middle on each side, its corners against the direction of the open side.
        faces.append(np.array([[b, a, middle] for a, b in zip(loop, loop[1:] + loop[:1], strict=True)], dtype=np.int64))
        vertices.append(surface.vertices[loop].mean(axis=0)[None])
        if surface.colours is not None:
            mean = surface.colours[loop].astype(float).mean(axis=0)[None]
            colours.append(np.rint(mean).astype(surface.colours.dtype))
    closed = Surface(np.concatenate(vertices), np.concatenate(faces), np.concatenate(colours) if colours else None)
    if "vertex_normals" in surface.__dict__:
        changed = np.zeros(closed.n_vertices, dtype=bool)
        changed[np.concatenate(faces[1:])] = True
        closed.take_normals(np.concatenate([surface.vertex_normals, *[np.zeros((1, 3))] * len(loops)]), changed)
    return closed, len(loops)


def _of_small_holes(surface: Surface, start: Ints, end: Ints) -> tuple[Ints, Ints]:
    """Those of the open sides (B,) whose whole border is no longer than a pinhole's."""
    if len(start) == 0:
        return start, end
    used, local = np.unique(np.concatenate([start, end]), return_inverse=True)
    a, b = local[: len(start)], local[len(start) :]
    number, border = joined(a, b, len(used))
    side = lengths(surface.vertices[end] - surface.vertices[start])
    # Where as many sides do not leave a point as reach it, a triangle lies the wrong way: nothing goes round.
    uneven = np.bincount(a, minlength=len(used)) != np.bincount(b, minlength=len(used))
    small = (np.bincount(border[a], side, number) <= PINHOLE_MM) & (np.bincount(border[a], minlength=number) >= 3)
    small &= np.bincount(border, uneven, number) == 0
    return start[small[border[a]]], end[small[border[a]]]


def _loops(start: list[int], end: list[int]) -> list[list[int]]:
    """Simple loops that together go along every side once; where holes meet in a point, each is a loop of its own."""
    onward: dict[int, list[int]] = {}
    for a, b in zip(start, end, strict=True):
        onward.setdefault(a, []).append(b)
    loops = []
    for first in onward:
        while onward[first]:
            walk = [first]
            while True:
                ahead = onward[walk[-1]].pop()
                if ahead not in walk:
                    walk.append(ahead)
                    continue
                at = walk.index(ahead)
                loops.append(walk[at:])
                walk = walk[: at + 1]
                if at == 0:
                    break
    return loops


def _open_sides(surface: Surface) -> tuple[Ints, Ints]:
    """Start and end (B,) of every triangle's side that no other triangle shares, as it runs round its triangle."""
    start, end = surface.faces.ravel(), surface.faces[:, [1, 2, 0]].ravel()
    # Few sides have both ends on a border: among those the open ones are looked for.
    likely = surface.on_border[start] & surface.on_border[end]
    start, end = start[likely], end[likely]
    i, j = surface.border_edges.T
    alone = np.isin(edge_keys(start, end, surface.n_vertices), edge_keys(i, j, surface.n_vertices))
    return start[alone], end[alone]
