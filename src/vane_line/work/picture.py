"""A small picture of a judged preparation from its occlusal side, as a PNG: how a case looks in a list."""

from __future__ import annotations

import struct
import zlib

import numpy as np

from vane_line.core.arrays import AnyArray, Bools, Floats
from vane_line.core.case import Geometry
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import unit

WIDTH, HEIGHT, MM_PER_PIXEL = 160, 120, 0.115
LAMP, FILL = np.array([-0.5, 0.62, 0.6]), np.array([0.7, -0.1, 0.5])
GROUND, STONE = np.array([243, 240, 231]), np.array([0.93, 0.90, 0.83])
SHORT, OVER, LINE = np.array([0.72, 0.28, 0.12]), np.array([0.30, 0.47, 0.72]), np.array([15, 61, 56])


def picture(prep: Surface, geometry: Geometry, fields: dict[str, Floats]) -> bytes:
    """prep: the shown mesh; fields: of the inside vertices. Facial is up, as on the sheet."""
    frame = geometry.frame
    right = np.cross(frame.facial, frame.occlusal)
    axes = np.stack([right, frame.facial, frame.occlusal])
    centre = geometry.line.points.mean(axis=0)
    out = np.broadcast_to(GROUND, (HEIGHT, WIDTH, 3)).astype(np.float64)
    depth = np.full((HEIGHT, WIDTH), -np.inf)
    _lay(out, depth, prep, axes @ (prep.vertices - centre).T, axes, np.broadcast_to(STONE, (prep.n_vertices, 3)))
    inside = geometry.inside
    _lay(out, depth, inside, axes @ (inside.vertices - centre).T + [[0], [0], [0.05]], axes, _judged(fields))
    for x, y, _ in (axes @ (geometry.line.points - centre).T).T:
        row, column = _pixel(np.array([x]), np.array([y]))
        if 0 <= row[0] < HEIGHT and 0 <= column[0] < WIDTH:
            out[row[0], column[0]] = LINE
    return _png(np.clip(out, 0, 255).astype(np.uint8))


def _judged(fields: dict[str, Floats]) -> Floats:
    """(N, 3) colour of each inside vertex: what is short, what is over, the rest as it is."""
    colour = np.broadcast_to(STONE, (len(fields["depth"]), 3)).copy()
    with np.errstate(invalid="ignore"):
        colour[fields["depth"] < fields["depth_min"]] = SHORT
        colour[fields["depth"] > fields["depth_max"]] = OVER
    return colour


def _lay(out: Floats, depth: Floats, surface: Surface, at: Floats, axes: Floats, colour: Floats) -> None:
    """Dots of a surface's vertices and triangles' middles onto the picture, the nearest in front; at: (3, V)."""
    faces = surface.faces
    at = np.concatenate([at, at[:, faces].mean(axis=2)], axis=1)
    normal = axes @ np.concatenate([surface.vertex_normals, surface.face_normals]).T
    shown = np.concatenate([colour, colour[faces[:, 0]]])
    row, column = _pixel(at[0], at[1])
    seen: Bools = (row >= 0) & (row < HEIGHT) & (column >= 0) & (column < WIDTH) & (normal[2] > 0)
    lit = [np.clip(unit(lamp) @ normal, 0, 1) for lamp in (LAMP, FILL)]
    shade = 1.18 * (0.26 + 0.6 * lit[0] + 0.14 * lit[1] - 0.16 * (1 - np.clip(normal[2], 0, 1)) ** 2)
    bytes_ = 255 * np.clip(shade[:, None] * shown, 0, 1) ** (1 / 2.2)
    order = np.flatnonzero(seen)[np.argsort(at[2, seen], kind="stable")]
    nearer = order[at[2, order] > depth[row[order], column[order]]]
    out[row[nearer], column[nearer]] = bytes_[nearer]
    depth[row[nearer], column[nearer]] = at[2, nearer]


def _pixel(x: Floats, y: Floats) -> tuple[AnyArray, AnyArray]:
    return (HEIGHT / 2 - y / MM_PER_PIXEL).astype(int), (WIDTH / 2 + x / MM_PER_PIXEL).astype(int)


def _png(pixels: AnyArray) -> bytes:
    """An image (H, W, 3) of bytes in the format of ISO/IEC 15948: one strip, no filter."""
    height, width, _ = pixels.shape

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    rows = np.concatenate([np.zeros((height, 1), dtype=np.uint8), pixels.reshape(height, -1)], axis=1)
    head = struct.pack(">II", width, height) + bytes([8, 2, 0, 0, 0])  # eight bits a colour, three colours
    data = zlib.compress(rows.tobytes(), 9)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", data) + chunk(b"IEND", b"")
