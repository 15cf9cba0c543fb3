"""A simulated intraoral scanner: sees from outside only, adds noise, triangulates its own way.

It sees what a wand held over the teeth and tilted round them can see; what lies deep between teeth stays open.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import fast_simplification
import numpy as np
from scipy.ndimage import maximum_filter, minimum_filter
from scipy.spatial.transform import Rotation
from skimage.measure import marching_cubes

from vane_line.core.arrays import AnyArray, Bools, Floats
from vane_line.core.mesh.surface import Surface, merge
from vane_line.core.rigid import move

SLIVER_SHARE = 0.22  # of the grid: nearer values are pushed off, then mended
BLOCK, USUALLY_STEEP = 3, 1.5  # grid points a side; hardly a shape rises faster than this where its surface is near
SLAB_POINTS = 400_000  # grid points evaluated at once, to bound memory


@dataclass(frozen=True)
class ScanSettings:
    """How a scan is taken. Lengths in mm, noise in µm."""

    grid_mm: float = 0.16
    noise_um: float = 8.0
    wave_um: float = 6.0  # slow distortion over the scan, amplitude
    triangles: int | None = None
    tilt_deg: float = 52.0  # how far the wand is tilted round the teeth …
    tilts: tuple[float, ...] = (0.5, 1.0)  # … and by which shares of it
    see_all: bool = False  # a laboratory scanner turning a die sees everything
    seed: int = 1


def surface_of(shape: Callable[[Floats], Floats], low: Floats, high: Floats, grid_mm: float) -> Surface:
    """The zero surface of an implicit `shape` within a box, by marching cubes, normals outward."""
    axes = [np.arange(a, b + grid_mm, grid_mm) for a, b in zip(low, high, strict=True)]
    values = _sampled(shape, axes, grid_mm)
    # No grid point may lie almost on the surface: it would make slivers. The step after puts this right again.
    least = np.float32(SLIVER_SHARE * grid_mm)
    values = np.where(np.abs(values) < least, np.where(values < 0, -least, least), values)
    vertices, faces, _, _ = marching_cubes(  # type: ignore[no-untyped-call]
        values, 0.0, spacing=(grid_mm,) * 3, gradient_direction="ascent"
    )
    surface = Surface(vertices.astype(np.float64) + [a[0] for a in axes], faces.astype(np.int64))
    # Inside is negative: outward normals must follow the gradient.
    probe = surface.face_centres[::97]
    rise = shape(probe + 0.05 * surface.face_normals[::97]) - shape(probe - 0.05 * surface.face_normals[::97])
    surface = surface if rise.sum() > 0 else Surface(surface.vertices, surface.faces[:, ::-1].copy())
    return _onto_zero(surface, shape, grid_mm)


def _sampled(shape: Callable[[Floats], Floats], axes: list[Floats], grid_mm: float) -> AnyArray:
    """(I, J, K) the shape's values on a grid; far from its surface, the value in the middle of a block stands for all.

    Near is where the value is small for the block's size, the sign differs from a block beside it, or the surface turns
    out to run on into it.
    """
    middles = [np.array([part.mean() for part in np.split(a, range(BLOCK, len(a), BLOCK))]) for a in axes]
    rough = _evaluated(shape, np.array([m.ravel() for m in np.meshgrid(*middles, indexing="ij")]).T)
    rough = rough.reshape([len(m) for m in middles])
    reach = USUALLY_STEEP * np.sqrt(3) * grid_mm * (BLOCK - 1) / 2
    inside = rough < 0
    near = (np.abs(rough) < reach) | (maximum_filter(inside, 3) & ~minimum_filter(inside, 3))
    blocks = np.ix_(*(np.arange(len(a)) // BLOCK for a in axes))
    values, known = rough[blocks], np.zeros_like(near)
    while near.any():
        known |= near
        index = np.nonzero(near[blocks])
        values[index] = _evaluated(shape, np.array([a[i] for a, i in zip(axes, index, strict=True)]).T)
        near = _run_into(values < 0, known[blocks], near.shape)
    return values


def _run_into(inside: Bools, known: Bools, shape: tuple[int, ...]) -> Bools:
    """(blocks) that the surface runs into though their points are not known yet: a side of the grid crosses it there,
    one end of which is known."""
    found = np.zeros(shape, dtype=bool)
    for axis in range(3):
        low, high = (
            tuple(slice(a, b) if k == axis else slice(None) for k in range(3)) for a, b in ((0, -1), (1, None))
        )
        for here, there in ((low, high), (high, low)):
            crossed = np.argwhere((inside[here] != inside[there]) & known[there] & ~known[here])
            crossed[:, axis] += here == high
            found[tuple((crossed // BLOCK).T)] = True
    return found


def _evaluated(shape: Callable[[Floats], Floats], points: Floats) -> AnyArray:
    """(N,) float32 values of `shape` at points (N, 3), so many at once that memory holds them."""
    out = np.empty(len(points), dtype=np.float32)
    for start in range(0, len(points), SLAB_POINTS):
        out[start : start + SLAB_POINTS] = shape(points[start : start + SLAB_POINTS])
    return out


def _onto_zero(surface: Surface, shape: Callable[[Floats], Floats], grid_mm: float) -> Surface:
    """Every vertex moved along its normal to where the shape is zero, by two secant steps."""
    vertices, normals = surface.vertices, surface.vertex_normals
    probe = 0.1 * grid_mm
    for _ in range(2):
        here = shape(vertices)
        slope = (shape(vertices + probe * normals) - here) / probe
        step = np.clip(-here / np.clip(slope, 0.4, 2.0), -0.35 * grid_mm, 0.35 * grid_mm)
        vertices = vertices + step[:, None] * normals
    return surface.with_vertices(vertices)


def seen_from_above(surface: Surface, up: Floats, tilt_deg: float, tilts: tuple[float, ...] = (0.5, 1.0)) -> Bools:
    """(V,) whether a vertex is seen from `up` or from one of four or eight directions round it at each tilt."""
    side = np.array([1.0, 0, 0])
    other = np.cross(up, side)
    seen = np.zeros(surface.n_vertices, dtype=bool)
    directions = [up]
    for share in tilts:
        tilt, count = share * tilt_deg, 8 if share == 1.0 else 4
        for a in np.arange(count) * 2 * np.pi / count:
            around = np.cos(a) * side + np.sin(a) * other
            directions.append(np.cos(np.radians(tilt)) * up + np.sin(np.radians(tilt)) * around)
    for d in directions:
        facing = np.flatnonzero(~seen & (surface.vertex_normals @ d > 0.2))
        origin = surface.vertices[facing] + 0.05 * surface.vertex_normals[facing]
        ray = np.broadcast_to(d, origin.shape)
        hit, _, _ = surface.tree.intersect_ray_first(
            surface.vertices, surface.faces, np.ascontiguousarray(origin), np.ascontiguousarray(ray)
        )
        seen[facing[np.ravel(hit) < 0]] = True
    return seen


def scan(
    shape: Callable[[Floats], Floats],
    low: Floats,
    high: Floats,
    up: Floats,
    settings: ScanSettings,
    trim: Callable[[Floats], Bools] | None = None,
) -> Surface:
    """The surface a scanner would give of `shape`, in arch coordinates.

    `trim` tells which points (N, 3) lie within the scanned field.
    """
    random = np.random.default_rng(settings.seed)
    surface = surface_of(shape, low, high, settings.grid_mm)
    if trim is not None:
        surface, _ = surface.keep_vertices(trim(surface.vertices))
    if not settings.see_all:
        seen = seen_from_above(surface, up, settings.tilt_deg, settings.tilts)
        # A scanner's border is no saw: what is barely seen comes and goes in patches.
        seen = surface.spread(seen.astype(float), 3) > 0.5
        surface, _ = surface.keep_vertices(seen)
    surface = _largest_piece(surface)
    if settings.triangles and surface.n_faces > settings.triangles:
        vertices, faces = fast_simplification.simplify(
            surface.vertices.astype(np.float32),
            surface.faces.astype(np.int32),
            target_count=settings.triangles,
            agg=3,
        )
        surface = Surface(vertices.astype(np.float64), faces.astype(np.int64))
    return with_noise(surface, settings, random)


def with_noise(surface: Surface, settings: ScanSettings, random: np.random.Generator) -> Surface:
    """Noise along the normal: white, and a slow wave over the scan."""
    p = surface.vertices
    phase = random.uniform(0, 2 * np.pi, 3)
    slow = sum(np.sin(p[:, k] / 7.0 + phase[k]) for k in range(3)) / 3
    offset = (settings.noise_um * random.standard_normal(len(p)) + settings.wave_um * slow) / 1000
    return surface.with_vertices(p + offset[:, None] * surface.vertex_normals)


def _largest_piece(surface: Surface) -> Surface:
    piece = surface.pieces[surface.faces[:, 0]]
    keep = np.argmax(np.bincount(piece))
    return surface.keep_faces(piece == keep)[0]


def stray_piece(centre: Floats, random: np.random.Generator) -> Surface:
    """A fold of glove scanned in by mistake: a small wavy sheet."""
    n = 22
    u, v = np.meshgrid(np.linspace(-1.6, 1.6, n), np.linspace(-1.0, 1.0, n), indexing="ij")
    w = 0.4 * np.sin(2.2 * u + 1) + 0.25 * v**2
    points = np.stack([u, v, w], -1).reshape(-1, 3)
    i, j = np.meshgrid(np.arange(n - 1), np.arange(n - 1), indexing="ij")
    p, q, r, s = i * n + j, i * n + j + 1, (i + 1) * n + j, (i + 1) * n + j + 1
    faces = np.concatenate([np.stack([p, r, q], -1).reshape(-1, 3), np.stack([q, r, s], -1).reshape(-1, 3)])
    turn = Rotation.random(random_state=int(random.integers(1 << 30)))
    return Surface(turn.apply(points) + centre, faces.astype(np.int64))


def with_stray(surface: Surface, random: np.random.Generator) -> Surface:
    """The scan with a stray piece beside it."""
    corner = surface.vertices.max(axis=0) + [2.0, 3.0, 2.0]
    return merge([surface, stray_piece(corner, random)])


def placed(surface: Surface, matrix: Floats) -> Surface:
    """The scan in another coordinate system; a mirroring matrix turns the faces round."""
    vertices = move(matrix, surface.vertices)
    faces = surface.faces if np.linalg.det(matrix[:3, :3]) > 0 else surface.faces[:, ::-1].copy()
    return Surface(vertices, faces, surface.colours)


def random_frame(random: np.random.Generator, mirror: bool) -> Floats:
    """A (4, 4) matrix into a scanner's own coordinates."""
    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.random(random_state=int(random.integers(1 << 30))).as_matrix()
    if mirror:
        matrix[:3, :3] = matrix[:3, :3] @ np.diag([-1.0, 1, 1])
    matrix[:3, 3] = random.uniform(-40, 40, 3)
    return matrix
