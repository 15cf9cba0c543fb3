"""The tooth seen from one side, in grey: lit so that its form reads, what is short hatched, what is over dotted."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image

from vane_line.core.arrays import AnyArray, Bools, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import unit

MM_PER_PIXEL, HALF_MM = 0.05, 7.2
LAMP, FILL = unit(np.array([-0.5, 0.62, 0.6])), unit(np.array([0.7, -0.1, 0.5]))
NEARER_MM = 0.06  # the judged part is laid over the scan it was taken from
HIDDEN_MM = 0.25  # a line's point that lies so far behind what is seen is hidden
HATCH, DOT = 5, 6  # pixels from one stroke to the next
GROUND = 255
BEFORE_MM = 0.2
MOST_POINTS = 8  # along a triangle's edge


@dataclass(frozen=True, eq=False)
class View:
    """A square picture `side_mm` wide, and lines on it: chains of (x, y) in mm from its upper left corner."""

    png: bytes
    side_mm: float
    finish_line: list[list[tuple[float, float]]]
    contours: list[list[tuple[float, float]]]


@dataclass(frozen=True, eq=False)
class Judged:
    """Of the vertices inside the line: (N,) depth, nan where it is not known, what is short and what is over of it."""

    surface: Surface
    depth: Floats
    short: Bools
    over: Bools


def view(around: Surface, judged: Judged, line: Floats, toward: Floats, up: Floats, step_mm: float = 0.5) -> View:
    """around: the preparation's scan near the tooth. line: (A, 3) closed. toward: to the viewer; up: on the picture.

    step_mm: from one contour of the depth to the next.
    """
    back = unit(toward)
    right = unit(np.cross(up, back))
    axes = np.stack([right, np.cross(back, right), back])
    points = judged.surface.vertices
    centre = (points.min(axis=0) + points.max(axis=0)) / 2  # of what stands over the line
    pixels = round(2 * HALF_MM / MM_PER_PIXEL)
    shade, depth = np.full((pixels, pixels), float(GROUND)), np.full((pixels, pixels), -np.inf)
    off = around.vertices - centre
    nearest = float(((points - centre) @ back).max()) + BEFORE_MM  # a neighbour in the way is left out
    near, _ = around.keep_vertices((np.linalg.norm(off, axis=1) < 1.6 * HALF_MM) & (off @ back < nearest))
    _lay(shade, depth, near, axes, centre, 0.0)
    marks = np.stack([judged.short, judged.over], axis=1).astype(np.float64)
    _lay(shade, depth, judged.surface, axes, centre, NEARER_MM, marks)
    out = io.BytesIO()
    Image.fromarray(np.clip(shade, 0, 255).astype(np.uint8)).save(out, format="PNG", optimize=False)
    ring = np.concatenate([line, line[:1]])
    contours = _pieces_seen(_contours(judged.surface, judged.depth, step_mm), axes, centre, depth)
    return View(out.getvalue(), 2 * HALF_MM, _seen(ring, axes, centre, depth), contours)


def _lay(
    shade: Floats,
    depth: Floats,
    surface: Surface,
    axes: Floats,
    centre: Floats,
    nearer: float,
    marks: Floats | None = None,
) -> None:
    """Every triangle that faces the viewer as dots closer than pixels, the nearest in front."""
    normals = (axes @ surface.face_normals.T)[2]
    faces = surface.faces[normals > 0]
    at = (surface.vertices - centre) @ axes.T
    light = surface.vertex_normals @ axes.T
    longest = np.linalg.norm(at[faces] - at[np.roll(faces, 1, axis=1)], axis=2).max(axis=1, initial=0.0)
    count = np.clip(np.ceil(longest / (0.8 * MM_PER_PIXEL)), 1, MOST_POINTS).astype(int)
    for k in np.unique(count):
        some = faces[count == k]
        for w in _weights(int(k)):
            place, normal = (np.einsum("c,fcj->fj", w, field[some]) for field in (at, light))
            mark = None if marks is None else np.einsum("c,fcj->fj", w, marks[some]) > 0.5
            _dots(shade, depth, place + [0, 0, nearer], unit(normal), mark)


def _weights(k: int) -> list[Floats]:
    """Barycentric weights of the points of a triangle whose edges are parted in k."""
    return [np.array([i, j, k - i - j]) / k for i in range(k + 1) for j in range(k + 1 - i)]


def _dots(shade: Floats, depth: Floats, place: Floats, normal: Floats, mark: Bools | None) -> None:
    size = len(shade)
    row = np.floor((HALF_MM - place[:, 1]) / MM_PER_PIXEL).astype(int)
    column = np.floor((HALF_MM + place[:, 0]) / MM_PER_PIXEL).astype(int)
    seen = (row >= 0) & (row < size) & (column >= 0) & (column < size)
    order = np.flatnonzero(seen)[np.argsort(place[seen, 2], kind="stable")]
    order = order[place[order, 2] > depth[row[order], column[order]]]
    r, c = row[order], column[order]
    value = _lit(normal[order])
    if mark is not None:
        stroke = mark[order, 0] & ((r + c) % HATCH < 1)
        dot = mark[order, 1] & (r % DOT < 2) & (c % DOT < 2)
        value = np.where(stroke | dot, 40.0, value)
    shade[r, c] = value
    depth[r, c] = place[order, 2]


def _lit(normal: Floats) -> Floats:
    key, fill = (np.clip(normal @ lamp, 0, 1) for lamp in (LAMP, FILL))
    rim = (1 - np.clip(normal[:, 2], 0, 1)) ** 2
    return np.asarray(255 * np.clip(0.30 + 0.55 * key + 0.14 * fill - 0.22 * rim, 0, 0.97) ** (1 / 1.8))


def _on_picture(points: Floats, axes: Floats, centre: Floats) -> tuple[Floats, Floats, Floats]:
    """Of points (..., 3): mm from the left and from the upper edge, and towards the viewer."""
    at = (points - centre) @ axes.T
    return HALF_MM + at[..., 0], HALF_MM - at[..., 1], at[..., 2]


def _in_front(x: Floats, y: Floats, toward: Floats, depth: Floats) -> Bools:
    """(N,) which places on the picture nothing hides."""
    row, column = ((v / MM_PER_PIXEL).astype(int) for v in (y, x))
    front: Bools = (row >= 0) & (row < len(depth)) & (column >= 0) & (column < len(depth))
    front[front] = toward[front] + HIDDEN_MM > depth[row[front], column[front]]
    return front


def _seen(chain: Floats, axes: Floats, centre: Floats, depth: Floats) -> list[list[tuple[float, float]]]:
    """The stretches of a chain (N, 3) that nothing hides, on the picture."""
    x, y, toward = _on_picture(chain, axes, centre)
    front = _in_front(x, y, toward, depth)
    runs = np.split(np.arange(len(x)), np.flatnonzero(np.diff(front)) + 1)
    return [[(float(x[k]), float(y[k])) for k in run] for run in runs if front[run[0]] and len(run) > 1]


def _pieces_seen(pieces: Floats, axes: Floats, centre: Floats, depth: Floats) -> list[list[tuple[float, float]]]:
    """Of pieces (P, 2, 3), those whose middle nothing hides, on the picture."""
    x, y, toward = _on_picture(pieces, axes, centre)
    front = _in_front(x.mean(axis=1), y.mean(axis=1), toward.mean(axis=1), depth)
    return [[(float(a), float(b)) for a, b in zip(p, q, strict=True)] for p, q in zip(x[front], y[front], strict=True)]


def _contours(surface: Surface, depth: Floats, step_mm: float) -> Floats:
    """(P, 2, 3) short pieces of the lines where the depth is a whole number of steps."""
    known = np.isfinite(depth)
    faces = surface.faces[known[surface.faces].all(axis=1)]
    if len(faces) == 0:
        return np.zeros((0, 2, 3))
    values, corners = depth[faces], surface.vertices[faces]
    pieces: list[AnyArray] = []
    for level in np.arange(np.ceil(values.min() / step_mm), np.floor(values.max() / step_mm) + 1) * step_mm:
        above = values > level
        some = above.any(axis=1) & ~above.all(axis=1)
        v, p, high = values[some], corners[some], above[some]
        # The corner that stands alone on its side: the line runs between the two edges that meet in it.
        alone = np.where(high.sum(axis=1) == 1, high.argmax(axis=1), (~high).argmax(axis=1))
        rows, ends = np.arange(len(v)), []
        for k in (1, 2):
            other = (alone + k) % 3
            t = (level - v[rows, alone]) / (v[rows, other] - v[rows, alone])
            ends.append(p[rows, alone] + t[:, None] * (p[rows, other] - p[rows, alone]))
        pieces.append(np.stack(ends, axis=1))
    return np.concatenate(pieces) if pieces else np.zeros((0, 2, 3))
