"""A planned body: an implicit function on a grid of mesial, facial and occlusal coordinates, and the surface of it."""

from __future__ import annotations

import numpy as np
from scipy.interpolate import RegularGridInterpolator

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.line import PlannedLine
from vane_line.core.trace.section import Axes

GRID_MM = 0.16
ROOT_SLOPE, ROOT_MM = 0.12, 0.7  # of the body under the line, and how far it goes down: lower than any wall
SPARE_MM = (0.5, 0.3)  # of the grid round the body, below and above


def grid_about(local: Floats, low_mm: float) -> tuple[list[Floats], Floats]:
    """The grid's three axes round places (N, 3), and its points (M, 3); low_mm: of the lowest point of the line, under
    which the body stays open: what a scanner would not see either."""
    low, high = local.min(axis=0) - SPARE_MM[0], local.max(axis=0) + SPARE_MM[1]
    low[2] = low_mm - ROOT_MM
    grid = [np.arange(a, b + GRID_MM, GRID_MM) for a, b in zip(low, high, strict=True)]
    return grid, np.stack([g.ravel() for g in np.meshgrid(*grid, indexing="ij")], axis=1)


def root_of(azimuth_deg: Floats, radius: Floats, ledge: Floats, line: PlannedLine) -> Floats:
    """(N,) how far places lie outside the plain root that follows the line, `ledge` over it."""
    return np.asarray(radius - (line.at(azimuth_deg, line.radius) + ROOT_SLOPE * np.minimum(ledge, 0.0)))


def smooth_max(a: Floats, b: Floats, k: float) -> Floats:
    """The greater, its corner rounded over about `k` mm."""
    h = np.clip(0.5 + 0.5 * (a - b) / k, 0, 1)
    # Rounding takes away, it never leaves less than either asks.
    return np.asarray(b + (a - b) * h + k * h * (1 - h))


def surfaced(value: Floats, grid: list[Floats], axes: Axes) -> Surface:
    """The largest piece of where `value` (grid's shape), negative within, is nought."""
    from skimage.measure import marching_cubes  # half a second to import: only where a plan is made

    # No grid point may lie almost on the surface: it would make slivers. The steps after put this right again.
    least = 0.2 * GRID_MM
    pushed = np.where(np.abs(value) < least, np.where(value < 0, -least, least), value)
    vertices, faces, _, _ = marching_cubes(  # type: ignore[no-untyped-call]
        pushed, 0.0, spacing=(GRID_MM,) * 3, gradient_direction="ascent"
    )
    local = vertices.astype(np.float64) + [g[0] for g in grid]
    surface = Surface(local, faces.astype(np.int64))
    read = RegularGridInterpolator(grid, value, bounds_error=False, fill_value=None)
    probe, normal = surface.face_centres[::97], surface.face_normals[::97]
    if (read(probe + 0.05 * normal) - read(probe - 0.05 * normal)).sum() < 0:
        surface = Surface(local, faces[:, ::-1].astype(np.int64))
    surface = _onto_zero(surface, read)
    mirrored = np.linalg.det(np.stack([axes.quarter, axes.zero, axes.up])) < 0
    faces = surface.faces[:, ::-1].copy() if mirrored else surface.faces
    placed = Surface(axes.world(surface.vertices), faces)
    piece = placed.pieces[placed.faces[:, 0]]
    return placed.keep_faces(piece == np.bincount(piece).argmax())[0]


def _onto_zero(surface: Surface, read: RegularGridInterpolator) -> Surface:
    """Every vertex moved along its normal to where the field is nought, by two secant steps."""
    vertices, normals, step = surface.vertices, surface.vertex_normals, 0.25 * GRID_MM
    for _ in range(2):
        here = read(vertices)
        slope = (read(vertices + step * normals) - here) / step
        move = np.clip(-here / np.clip(slope, 0.3, 2.0), -0.3 * GRID_MM, 0.3 * GRID_MM)
        vertices = vertices + move[:, None] * normals
    return surface.with_vertices(vertices)
