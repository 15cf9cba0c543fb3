"""Meshes for the screen: fewer triangles, made once at import."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import AnyArray
from vane_line.core.mesh.surface import Surface

REST_TRIANGLES = 130_000  # a scan at rest; the others on the sheet are shown light, 150 000 in all
MOVING_TRIANGLES = 12_000
HASTE = 7  # of the library's ten


def lightened(surface: Surface, triangles: int, hasty: bool = False) -> Surface:
    """The surface with at most `triangles` faces (open borders may move by about an edge); hasty: to be looked at by
    the program alone, in half the time."""
    if surface.n_faces <= triangles:
        return surface
    import fast_simplification

    vertices, faces = surface.vertices.astype(np.float32), surface.faces.astype(np.int32)
    for haste in (HASTE, HASTE) if hasty else (3, HASTE, HASTE):  # a gentle pass may stop early on an even mesh
        vertices, faces = fast_simplification.simplify(vertices, faces, target_count=triangles, agg=haste)
        if len(faces) <= triangles:
            break
    return Surface(np.asarray(vertices, dtype=np.float64), np.asarray(faces, dtype=np.int64))


def mesh_blob(surface: Surface) -> bytes:
    """For the browser: uint32 vertex and face counts, float32 positions, float32 normals, uint32 indices."""
    head = np.array([surface.n_vertices, surface.n_faces], dtype="<u4").tobytes()
    return (
        head
        + surface.vertices.astype("<f4").tobytes()
        + surface.vertex_normals.astype("<f4").tobytes()
        + surface.faces.astype("<u4").tobytes()
    )


def mesh_normals(blob: bytes) -> AnyArray:
    """(V, 3) float32 normals out of a `mesh_blob`."""
    vertices = int(np.frombuffer(blob, "<u4", 1)[0])
    return np.frombuffer(blob, "<f4", 3 * vertices, 8 + 12 * vertices).reshape(-1, 3)


def mesh_vertices(blob: bytes) -> AnyArray:
    """(V, 3) float32 positions out of a `mesh_blob`."""
    vertices = int(np.frombuffer(blob, "<u4", 1)[0])
    return np.frombuffer(blob, "<f4", 3 * vertices, 8).reshape(-1, 3)


def mesh_surface(blob: bytes) -> Surface:
    """The surface out of a `mesh_blob`."""
    vertices, faces = (int(n) for n in np.frombuffer(blob, "<u4", 2))
    index = np.frombuffer(blob, "<u4", 3 * faces, 8 + 24 * vertices).reshape(-1, 3)
    return Surface(mesh_vertices(blob).astype(np.float64), index.astype(np.int64))
