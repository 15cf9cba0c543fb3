"""Solids whose answers are known in closed form: a stump of straight walls between two plain teeth.

Coordinates: x mesial, y facial, z occlusal, which is the handedness of quadrants 1 and 3. The tooth before cutting is
an elliptical cylinder with a flat top; cut, it is an elliptical frustum standing on a flat ledge.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface, merge
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import STEP_MM, Axes, Profiles
from vane_line.demo.scanner import placed, surface_of

Shape = Callable[[Floats], Floats]


@lru_cache(maxsize=16)
def _scan(stump: Stump, role: str) -> Surface:
    """Scans of equal stumps are the same: made once."""
    if role == "prep":
        return stump.scanned(lambda p: np.minimum(stump.cut(p), stump.surroundings(p, stump.gingiva_mm - 0.1)), seed=1)
    return stump.noisy(_uncut(stump.whole()), seed=2)


@lru_cache(maxsize=32)
def _uncut(whole: Stump) -> Surface:
    """The tooth before cutting: many stumps were cut from one."""

    def shape(p: Floats) -> Floats:
        return np.minimum(whole.tooth(p), whole.surroundings(p, whole.gingiva_mm))

    return whole.exact(shape, whole.before_mm, seed=2)


@dataclass(frozen=True)
class Stump:
    """Lengths in mm, angles in degrees; functions of azimuth (degrees, 0 facial, 90 mesial) where a wall may vary."""

    facial_mm: float = 5.0  # half-widths of the uncut tooth
    mesial_mm: float = 5.0
    top_mm: float = 7.0
    occlusal_mm: float = 1.5  # taken off the flat top
    line_mm: Callable[[Floats], Floats] | float = 1.6  # height of the ledge
    width_mm: Callable[[Floats], Floats] | float = 1.0
    taper_deg: Callable[[Floats], Floats] | float = 6.0
    fillet_mm: float = 0.0  # radius between wall and ledge
    ledge_slope_deg: float = 0.0  # the ledge falls outward
    edge_mm: float = 0.0  # radius between wall and top
    gingiva_mm: float = 0.3
    neighbours: bool = True
    gap_mm: float = 1.2  # between this tooth and its neighbours
    seed: int = 1
    noise_um: float = 0.0
    grid_mm: float = 0.2
    before_mm: float = 0.24  # grid of the scan before; calibrations have it finer, and more of the neighbours
    beside_mm: float = 5.0  # of the neighbours that is scanned
    extra: Shape | None = field(default=None)  # a further cut, negative where material is taken away

    def azimuth(self, p: Floats) -> Floats:
        return np.degrees(np.arctan2(p[:, 0], p[:, 1])) % 360

    def outline(self, p: Floats) -> tuple[Floats, Floats]:
        """Radius of each point, and of the uncut tooth in its direction."""
        r = np.hypot(p[:, 0], p[:, 1])
        a = np.radians(self.azimuth(p))
        return r, 1 / np.sqrt((np.cos(a) / self.facial_mm) ** 2 + (np.sin(a) / self.mesial_mm) ** 2)

    def tooth(self, p: Floats) -> Floats:
        r, whole = self.outline(p)
        return np.maximum(r - whole, p[:, 2] - self.top_mm)

    def cut(self, p: Floats) -> Floats:
        """The tooth with frustum and ledge; negative inside."""
        r, whole = self.outline(p)
        azimuth, z = self.azimuth(p), p[:, 2]
        line, width, taper = (_value(v, azimuth) for v in (self.line_mm, self.width_mm, self.taper_deg))
        wall = r - (whole - width - (z - line) * np.tan(np.radians(taper)))
        ledge = z - line + (r - (whole - width)) * np.tan(np.radians(self.ledge_slope_deg))
        if self.fillet_mm:  # a quarter circle fills the corner of wall and ledge
            k = self.fillet_mm
            corner = k - np.hypot(np.maximum(k - wall, 0), np.maximum(k - ledge, 0))
            stump = np.where((wall < k) & (ledge < k), corner, np.minimum(wall, ledge))
        else:
            stump = np.minimum(wall, ledge)
        top = z - (self.top_mm - self.occlusal_mm)
        if self.edge_mm:  # a quarter circle rounds the edge of wall and top
            k = self.edge_mm
            rounded = np.hypot(np.maximum(stump + k, 0), np.maximum(top + k, 0)) - k
            stump = np.where((stump > -k) & (top > -k), rounded, np.maximum(stump, top))
        value = np.maximum.reduce([r - whole, top, stump])
        return value if self.extra is None else np.maximum(value, -self.extra(p))

    def surroundings(self, p: Floats, gingiva_mm: float) -> Floats:
        value = p[:, 2] - gingiva_mm
        for side in (1, -1) if self.neighbours else ():
            at = side * (self.mesial_mm + self.gap_mm + 4.5)
            x, y, z = p[:, 0] - at, p[:, 1] + 0.35, p[:, 2]  # a row that bends towards the tongue
            body = (np.hypot(x / 4.5, y / (4.7 + 0.3 * (side < 0))) - 1) * 4.5
            crown = np.maximum(body, z - 6.2)
            for cx, cy, r in ((2.0, 2.2, 2.1), (-1.9, 2.3, 1.9), (1.8, -2.2, 2.0), (-2.1, -2.0, 1.8)):
                crown = np.minimum(crown, np.sqrt((x - cx) ** 2 + (y - cy) ** 2 + (z - 5.6) ** 2) - r)
            value = np.minimum(value, crown)
        return value

    def box(self) -> tuple[Floats, Floats]:
        reach = self.mesial_mm + (self.gap_mm + self.beside_mm if self.neighbours else 3.5)
        return np.array([-reach, -self.facial_mm - 3.0, -1.0]), np.array([reach, self.facial_mm + 3.0, 8.6])

    def scanned(self, shape: Shape, grid: float | None = None, seed: int = 0) -> Surface:
        return self.noisy(self.exact(shape, grid or self.grid_mm, seed), seed)

    def exact(self, shape: Shape, grid: float, seed: int) -> Surface:
        """Without noise."""
        low, high = self.box()
        return surface_of(shape, low - 0.013 * seed, high, grid)

    def whole(self) -> Stump:
        """As it stood before it was cut: what is alike for many."""
        if any(getattr(type(self), name) is not getattr(Stump, name) for name in ("tooth", "surroundings", "box")):
            return self
        same = ("facial_mm", "mesial_mm", "top_mm", "gingiva_mm", "neighbours", "gap_mm", "before_mm", "beside_mm")
        return Stump(**{name: getattr(self, name) for name in same})

    def noisy(self, surface: Surface, seed: int) -> Surface:
        noise = self.noise_um / 1000 * np.random.default_rng(self.seed + seed).standard_normal(surface.n_vertices)
        return surface.with_vertices(surface.vertices + noise[:, None] * surface.vertex_normals)

    def prep(self) -> Surface:
        return _scan(self, "prep")

    def preop(self) -> Surface:
        return _scan(self, "preop")

    def opposing(self, clearance_mm: float = 1.0) -> Surface:
        """A flat plate `clearance_mm` above the stump, and lower over the neighbours so that they meet it."""
        level = self.top_mm - self.occlusal_mm + clearance_mm
        own = plate(-self.mesial_mm - 0.5, self.mesial_mm + 0.5, -8, 8, level, down=True)
        near = self.mesial_mm + self.gap_mm + 0.3
        left = plate(near, near + 9, -8, 8, 7.7, down=True)
        right = plate(-near - 9, -near, -8, 8, 7.7, down=True)
        return merge([own, left, right])

    def scans(self, reference: bool = True, clearance_mm: float | None = None, matrix: Floats | None = None) -> Scans:
        """Surfaces ready for `measure`; `matrix` (4, 4) moves the earlier scan elsewhere."""
        preop = self.preop() if reference else None
        if preop is not None and matrix is not None:
            preop = placed(preop, matrix)
        opposing = None if clearance_mm is None else self.opposing(clearance_mm)
        return Scans(self.prep(), preop, None, opposing)


def _value(value: Callable[[Floats], Floats] | float, azimuth: Floats) -> Floats:
    return np.asarray(value(azimuth)) if callable(value) else np.full(len(azimuth), float(value))


def plate(x0: float, x1: float, y0: float, y1: float, z: float, step: float = 0.25, down: bool = False) -> Surface:
    """A flat rectangle of triangles at height z, facing up or down."""
    x, y = np.meshgrid(np.arange(x0, x1 + 1e-9, step), np.arange(y0, y1 + 1e-9, step), indexing="ij")
    points = np.stack([x, y, np.full_like(x, z)], -1).reshape(-1, 3)
    n = x.shape[1]
    i, j = np.meshgrid(np.arange(x.shape[0] - 1), np.arange(n - 1), indexing="ij")
    p, q, r, s = i * n + j, (i + 1) * n + j, (i + 1) * n + j + 1, i * n + j + 1
    faces = np.concatenate([np.stack([p, q, r], -1).reshape(-1, 3), np.stack([p, r, s], -1).reshape(-1, 3)])
    return Surface(points, (faces[:, ::-1] if down else faces).astype(np.int64).copy())


def sphere(radius: float, centre: tuple[float, float, float] = (0, 0, 0), grid: float = 0.2) -> Surface:
    """A ball's surface by marching cubes, vertices on the sphere."""
    c = np.array(centre)
    return surface_of(lambda p: np.linalg.norm(p - c, axis=1) - radius, c - radius - 0.5, c + radius + 0.5, grid)


def turned(axis: tuple[float, float, float], angle_deg: float, shift: tuple[float, float, float]) -> Floats:
    """A rigid (4, 4) matrix."""
    from scipy.spatial.transform import Rotation

    matrix = np.eye(4)
    direction = np.array(axis) / np.linalg.norm(axis)
    matrix[:3, :3] = Rotation.from_rotvec(np.radians(angle_deg) * direction).as_matrix()
    matrix[:3, 3] = shift
    return matrix


def facing(tooth: ToothNumber, **more: object) -> Options:
    """Options with the solids' own axes."""
    return Options(tooth, occlusal=np.array([0.0, 0, 1]), facial=np.array([0.0, 1, 0]), **more)  # type: ignore[arg-type]


def course(*places: tuple[float, float], edge_mm: float = 0.1) -> Profiles:
    """One profile through places (radius, height), walked in equal steps of arc."""
    radius, height = np.array(places, dtype=float).T
    arc = np.r_[0.0, np.cumsum(np.hypot(np.diff(radius), np.diff(height)))]
    at = np.arange(0, arc[-1], STEP_MM)
    mesial, facial, up = np.eye(3)
    r, h = (np.interp(at, arc, x)[None] for x in (radius, height))
    return Profiles(Axes.make(np.zeros(3), up, facial, mesial), np.zeros(1), r, h, edge_mm)
