"""A planned body: an implicit function on a grid of mesial, facial and occlusal coordinates, and the surface of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.interpolate import RegularGridInterpolator
from scipy.ndimage import gaussian_filter

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.line import PlannedLine
from vane_line.core.trace.section import Axes

GRID_MM = 0.16
ROOT_SLOPE, ROOT_MM = 0.12, 0.7  # of the body under the line, and how far it goes down: lower than any wall
SPARE_MM = (0.5, 0.3)  # of the grid round the body, below and above
REACH_MM, FAR_MM = 2.5, 1.0  # beyond the line, within which a tooth's body is told; what lies further is without
GIRTH_DEG, GIRTH_MM = 3.0, 0.2  # cells in which the radius of a tooth's sides is told
LEAST_GIRTH = 0.7  # of the line's radius: what lies further in is no side
CLOSED_ABOVE_MM, ON_GIRTH_MM = 0.1, 0.12
SEAM_MM = 0.4  # over which the tooth passes into the root below the gingiva


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


@dataclass(frozen=True, eq=False)
class Standing:
    """A tooth as it stands, on the grid round it. near: (M,) of the grid's points, those where it is told; of these:
    local (N, 3), ledge (N,) height over the line, body (N,) how far outside the tooth and the root under it, own (N,)
    how far outside the tooth's surface alone, foot (N, 3) the nearest place on it, local."""

    axes: Axes
    grid: list[Floats]
    near: Bools
    local: Floats
    ledge: Floats
    body: Floats
    own: Floats
    foot: Floats

    @classmethod
    def of(cls, tooth: Surface, axes: Axes, line: PlannedLine) -> Standing:
        """tooth: eased, open at the gingiva; line: under which it passes into a plain root."""
        points = np.concatenate([tooth.vertices, line.points()])
        grid, local = grid_about(axes.local(points), float(line.height.min()))
        azimuth, radius = axes.azimuth_of(local), np.hypot(local[:, 0], local[:, 1])
        near = radius < line.at(azimuth, line.radius) + REACH_MM
        here, azimuth = local[near], azimuth[near]
        ledge = here[:, 2] - line.at(azimuth, line.height)
        signed, face, place = tooth.signed_distance(axes.world(here))
        rim = tooth.at_rim(face, place)
        # The scan ends at the gingiva: below the line the tooth passes into a plain root.
        told = np.clip(1 + ledge / SEAM_MM, 0, 1)
        told[rim & (ledge < 0)] = 0
        # What lies nearest to the border of a contact that was never seen is told by the tooth round about it.
        bridged = rim & (ledge >= 0)
        outside = signed.copy()
        outside[bridged] = radius[near][bridged] - girth_over(axes.local(tooth.vertices), line)(
            azimuth[bridged], here[bridged, 2]
        )
        body = told * outside + (1 - told) * root_of(azimuth, radius[near], ledge, line)
        own = np.where(rim, -np.abs(signed), signed)  # beyond its border a surface tells no side: that is deep
        return cls(axes, grid, near, local=here, ledge=ledge, body=body, own=own, foot=axes.local(place))

    def surfaced(self, value: Floats) -> Surface:
        """The body where `value` (N,) at the near places is negative."""
        whole = np.full(len(self.near), FAR_MM)
        whole[self.near] = value
        return surfaced(whole.reshape([len(g) for g in self.grid]), self.grid, self.axes)


def seen_part(body: Surface, tooth: Surface, axes: Axes, line: PlannedLine) -> Surface:
    """A body without what closes a contact that no scan saw: a scan of it would not see that either."""
    local = axes.local(body.vertices)
    azimuth, radius = axes.azimuth_of(local), np.hypot(local[:, 0], local[:, 1])
    _, face, place = tooth.closest(body.vertices)
    closing = tooth.at_rim(face, place) & (local[:, 2] > line.at(azimuth, line.height) + CLOSED_ABOVE_MM)
    if not closing.any():
        return body
    off = radius[closing] - girth_over(axes.local(tooth.vertices), line)(azimuth[closing], local[closing, 2])
    closing[closing] = np.abs(off) < ON_GIRTH_MM
    return body.keep_vertices(~closing)[0]


def girth_over(local: Floats, line: PlannedLine) -> Callable[[Floats, Floats], Floats]:
    """Radius of the tooth's sides over azimuth (degrees) and height, passing over what was not seen. local: (N, 3) its
    vertices; line: where it ends below, which is known all round."""
    azimuth, radius = Axes.azimuth_of(local), np.hypot(local[:, 0], local[:, 1])
    low, high = float(line.height.min()), float(local[:, 2].max())
    shape = (round(360 / GIRTH_DEG), max(int((high - low) / GIRTH_MM) + 1, 2))
    most = np.zeros(shape)
    across = (azimuth // GIRTH_DEG).astype(int) % shape[0]
    up = ((local[:, 2] - low) / GIRTH_MM).astype(int)
    held = (up >= 0) & (up < shape[1])
    np.maximum.at(most, (across[held], up[held]), radius[held])
    rows = np.arange(shape[0])
    middles = np.asarray((rows + 0.5) * GIRTH_DEG, dtype=np.float64)
    at_line = line.at(middles, line.radius)
    level = np.clip(((line.at(middles, line.height) - low) / GIRTH_MM).astype(int), 0, shape[1] - 1)
    most[rows, level] = np.maximum(most[rows, level], at_line)
    known = (most > LEAST_GIRTH * at_line[:, None]).astype(float)
    value, weight = most * known, known
    for sigma in (0.8, 2.0, 5.0):  # near what is known by that alone, far from it by what lies round about
        spread = [gaussian_filter(f, sigma, mode=("wrap", "nearest")) for f in (most * known, known)]
        value, weight = value + 0.01**sigma * spread[0], weight + 0.01**sigma * spread[1]
    grid = value / np.maximum(weight, 1e-30)
    centres = (np.arange(-1, shape[0] + 1) + 0.5) * GIRTH_DEG, low + (np.arange(shape[1]) + 0.5) * GIRTH_MM
    read = RegularGridInterpolator(centres, grid[np.arange(-1, shape[0] + 1) % shape[0]], bounds_error=False,
                                   fill_value=None)  # fmt: skip
    return lambda a, z: np.asarray(read(np.stack([a, np.clip(z, low, high)], axis=1)))


def rounded_max(fields: list[Floats], k: float) -> Floats:
    """The greatest of signed distances (N,), their corner rounded to radius `k` mm on the inner side."""
    every = np.stack(fields)
    greatest = every.max(axis=0)
    return np.asarray(np.where(greatest > -k, np.linalg.norm(np.maximum(every + k, 0), axis=0) - k, greatest))


def filleted_min(a: Floats, b: Floats, radius: Floats | float) -> Floats:
    """The lesser of two signed distances (N,), their inner corner filled to `radius` mm, as a round-ended bur leaves
    it."""
    corner = radius - np.hypot(np.maximum(radius - a, 0), np.maximum(radius - b, 0))
    return np.asarray(np.where((a < radius) & (b < radius), corner, np.minimum(a, b)))


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
