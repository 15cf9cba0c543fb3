"""Simulated rotary instruments: what strokes of a bur of true dimensions take off a tooth.

A stroke is described by where the bur's centre surface runs. The bur removes everything nearer to that
surface than its radius, and what stands outside it (cut away by earlier, coarser strokes). So inner corners
get the bur's own radius, and edges where two strokes meet stay as sharp as they come.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import degrees_apart
from vane_line.demo.anatomy import Tooth, polar
from vane_line.demo.scanner import surface_of

AZIMUTH_STEP_DEG = 1.5
LIP_WIDTH_MM = 0.28
UNDER_MM, FOLLOWS_MM = 0.28, 0.45
INCLINE_FACTOR = 1.08  # a depth across an incline of about 22 degrees, measured along z
Profile = Callable[[Floats], Floats]  # of azimuth in degrees


def constant(value: float) -> Profile:
    """The same everywhere."""
    return lambda azimuth: np.full(len(azimuth), value)


def bump(base: Profile, centre_deg: float, half_width_deg: float, amount: float) -> Profile:
    """`base` with `amount` added over a stretch, fading in and out smoothly."""

    def profile(azimuth: Floats) -> Floats:
        off = degrees_apart(azimuth, centre_deg) / half_width_deg
        return base(azimuth) + amount * np.where(off < 1, 0.5 + 0.5 * np.cos(np.pi * off), 0.0)

    return profile


def step(base: Profile, from_deg: float, to_deg: float, amount: float) -> Profile:
    """`base` raised by `amount` between two azimuths, with abrupt ends over 4 degrees at the first."""

    def profile(azimuth: Floats) -> Floats:
        inside = np.clip(((azimuth - from_deg) % 360) / 4.0, 0, 1)
        fade = np.clip(((to_deg - azimuth) % 360) / 35.0, 0, 1)
        on = ((azimuth - from_deg) % 360) < ((to_deg - from_deg) % 360)
        return base(azimuth) + amount * np.where(on, inside * fade, 0.0)

    return profile


def chatter(base: Profile, from_deg: float, to_deg: float, amount: float, period_deg: float = 7.0) -> Profile:
    """`base` with the scallops of a bur set down again and again between two azimuths."""

    def profile(azimuth: Floats) -> Floats:
        on = ((azimuth - from_deg) % 360) < ((to_deg - from_deg) % 360)
        return base(azimuth) + np.where(on, amount * np.sin(2 * np.pi * (azimuth - from_deg) / period_deg), 0.0)

    return profile


@dataclass(frozen=True, eq=False)
class AxialCut:
    """A bur with an end of `tip_radius_mm`, led round the tooth with its axis along z plus the wall's taper."""

    height_mm: Profile  # of the finish line over the neck
    depth_mm: Profile  # of the finish line, sideways
    taper_deg: Profile  # of the wall
    tip_radius_mm: float  # corner radius of the bur: small for a shoulder, half the tip for a chamfer
    floor_slope_deg: float = 0.0  # the floor falls outwards by this much
    lip_mm: Profile | None = None  # height of the rim that a bur leaves when it is sunk past the middle of its tip

    def sheet(self, tooth: Tooth) -> Surface:
        """The surface that the tip's corner centre and the flank's axis run along, normals outward."""
        azimuth = np.arange(0, 360, AZIMUTH_STEP_DEG)
        a = np.radians(azimuth)
        z0, depth = self.height_mm(azimuth), self.depth_mm(azimuth)
        tilt = np.radians(self.taper_deg(azimuth))
        centre = np.zeros(2)
        outer = tooth.surface_radius(a, z0, centre)
        base, rc = outer - depth, self.tip_radius_mm
        top = tooth.size[0] + 3.0
        rows = []
        for z in np.linspace(top, 0.0, 24)[:-1]:
            height = rc + (top - rc) * z / top
            rows.append(
                polar(a, np.maximum(base + rc / np.cos(tilt) - height * np.tan(tilt), 0.2), z0 + height, centre)
            )
        corner = base + rc / np.cos(tilt) - rc * np.tan(tilt)
        fall = np.tan(np.radians(self.floor_slope_deg))
        rim = np.zeros_like(z0) if self.lip_mm is None else self.lip_mm(azimuth)
        inner = np.maximum(outer - LIP_WIDTH_MM - rc - corner, 0.02)  # from the corner to where the tip stops
        for out, raised in (
            (0.0 * inner, 0.0), (0.5 * inner, 0.0), (inner, 0.0), (inner + 0.07, 1.0), (inner + 0.6, 1.0),
            (inner + 1.5, 1.0), (inner + 3.0, 1.0),
        ):  # fmt: skip
            rows.append(polar(a, np.maximum(corner, 0.2) + out, z0 + rc - out * fall + raised * rim, centre))
        return _tube(np.stack(rows))

    def __call__(self, tooth: Tooth) -> Callable[[Floats], Floats]:
        sheet, rc = self.sheet(tooth), self.tip_radius_mm
        return lambda local: sheet.signed_distance(local)[0] + rc


def _tube(rows: Floats) -> Surface:
    """A surface through rings (R, A, 3), top first, closed round; normals away from the axis."""
    n_rows, n_around = rows.shape[:2]
    i, j = np.meshgrid(np.arange(n_rows - 1), np.arange(n_around), indexing="ij")
    k = (j + 1) % n_around
    p, q, r, s = i * n_around + j, i * n_around + k, (i + 1) * n_around + j, (i + 1) * n_around + k
    faces = np.concatenate([np.stack([p, q, r], -1).reshape(-1, 3), np.stack([q, s, r], -1).reshape(-1, 3)])
    surface = Surface(rows.reshape(-1, 3), faces.astype(np.int64))
    outward = (surface.face_normals[:, :2] * surface.face_centres[:, :2]).sum()
    return surface if outward > 0 else Surface(surface.vertices, faces[:, ::-1].astype(np.int64))


@dataclass(frozen=True, eq=False)
class OcclusalCut:
    """Flat strokes from groove to cusp along each incline, and a bevel over the functional cusps.

    `depth_mm` gives the depth wanted at each cusp tip, at 'central-groove', 'facial-groove', 'lingual-groove'
    and 'marginal-ridge'; it is blended over the plan by distance.
    """

    depth_mm: dict[str, float]
    bur_radius_mm: float = 0.6
    station_mm: float = 0.5
    bevel_deg: float = 45.0

    def sites(self, tooth: Tooth) -> dict[str, Floats]:
        """Plan position (2,) of every site that has a depth."""
        sites = {name: np.array(tip[:2]) for name, tip in tooth.cusps.items()}
        length, md, _, fl, _ = tooth.size
        lean = float(tooth.lean(length))
        sites["central-groove"] = np.array([0.0, lean])
        for side, sign in (("mesial", 1), ("distal", -1)):
            sites[f"marginal-ridge/{side}"] = np.array([sign * 0.42 * md, lean])
        for gx, sign, _ in tooth._body_grooves()[:2]:
            sites["facial-groove" if sign > 0 else "lingual-groove"] = np.array([gx * md, lean + sign * 0.27 * fl])
        return sites

    def depth_at(self, tooth: Tooth, x: Floats, y: Floats) -> Floats:
        """Depth wanted over the plan: inverse-distance blend of the sites."""
        total, weight = np.zeros_like(x), np.zeros_like(x)
        for name, (sx, sy) in self.sites(tooth).items():
            depth = self.depth_mm.get(name, self.depth_mm.get(name.split("/")[0], self.depth_mm["other"]))
            w = 1 / (((x - sx) ** 2 + (y - sy) ** 2) ** 2 + 0.15)
            total, weight = total + w * depth, weight + w
        return total / weight

    def sheet(self, tooth: Tooth) -> Surface:
        length, md, *_ = tooth.size
        lean = float(tooth.lean(length))
        stations = np.arange(-md / 2 - 1.5, md / 2 + 1.5 + 1e-9, self.station_mm)
        facial = [t for n, t in tooth.cusps.items() if t[1] > lean]
        lingual = [t for n, t in tooth.cusps.items() if t[1] <= lean]
        y_f = np.interp(stations, *_by_x(facial))
        y_l = np.interp(stations, *_by_x(lingual))
        functional_facial = not tooth.upper
        ys = np.stack([y_f + 2.6, y_f + 0.25, y_f - 0.3, (y_f + lean) / 2, np.full_like(y_f, lean),
                       (y_l + lean) / 2, y_l + 0.3, y_l - 0.25, y_l - 2.6])  # fmt: skip
        xs = np.broadcast_to(stations, ys.shape)
        inner_x = np.clip(xs, -0.44 * md, 0.44 * md)
        # Led from the bottoms of the furrows within its own width, a bur rides over what is narrower than itself.
        ring = [(0.0, 0.0), *((UNDER_MM * np.sin(a), UNDER_MM * np.cos(a)) for a in np.arange(8) * np.pi / 4)]
        z = np.min([tooth.occlusal_height(inner_x + dx, ys + dy) for dx, dy in ring], axis=0)
        z = gaussian_filter1d(z, FOLLOWS_MM / self.station_mm, axis=1, mode="nearest")
        # Strokes are straight from the groove to the tip, and end in the bevel or the rounded shoulder of the cusp.
        z[3], z[5] = np.minimum(z[3], (z[2] + z[4]) / 2), np.minimum(z[5], (z[4] + z[6]) / 2)
        z = z - self.depth_at(tooth, xs, ys) * INCLINE_FACTOR
        bevel = np.tan(np.radians(self.bevel_deg))
        z[0] = z[1] - 2.35 * (bevel if functional_facial else 0.5)
        z[-1] = z[-2] - 2.35 * (bevel if not functional_facial else 0.5)
        grid = np.stack([xs, ys, z], -1)
        n_rows, n_cols = z.shape
        i, j = np.meshgrid(np.arange(n_rows - 1), np.arange(n_cols - 1), indexing="ij")
        p, q, r, s = i * n_cols + j, i * n_cols + j + 1, (i + 1) * n_cols + j, (i + 1) * n_cols + j + 1
        faces = np.concatenate([np.stack([p, r, q], -1).reshape(-1, 3), np.stack([q, r, s], -1).reshape(-1, 3)])
        surface = Surface(grid.reshape(-1, 3), faces.astype(np.int64))
        if surface.face_normals[:, 2].sum() < 0:
            surface = Surface(surface.vertices, faces[:, ::-1].astype(np.int64))
        return _offset(surface, self.bur_radius_mm)

    def __call__(self, tooth: Tooth) -> Callable[[Floats], Floats]:
        sheet, radius = self.sheet(tooth), self.bur_radius_mm
        return lambda local: sheet.signed_distance(local)[0] + radius


@dataclass(frozen=True)
class Spared:
    """A place behind a front tooth that the bur passed over: where (mm to mesial, and over the neck), how wide, by
    how much."""

    mesial_mm: float
    height_mm: float
    radius_mm: float
    by_mm: float

    def left(self, local: Floats) -> Floats:
        """(N,) how much more is left at places of the tooth (N, 3)."""
        off = np.hypot(local[:, 0] - self.mesial_mm, local[:, 2] - self.height_mm) / self.radius_mm
        return np.asarray(self.by_mm * np.exp(-(off**4)))


@dataclass(frozen=True, eq=False)
class FrontCut:
    """Depth-limited strokes over a front tooth's face, edge and back: each takes its depth under the surface.

    `depth_mm` gives 'incisal-edge', 'facial/incisal', 'facial/middle', 'facial/cervical' and 'lingual-fossa'.
    """

    depth_mm: dict[str, float]
    holds_from: tuple[float, float] = (0.10, 0.28)  # share of the crown over which the depth takes hold
    edge_mm: float = 0.0  # radius to which the edge is rounded; 0: face and back are cut deeper towards it instead
    spared: tuple[Spared, ...] = ()

    def sites(self, tooth: Tooth) -> dict[str, Floats]:
        """Plan position (2,) of the edge."""
        return {"incisal-edge": np.array([0.0, 0.12 * tooth.size[3]])}

    def __call__(self, tooth: Tooth) -> Callable[[Floats], Floats]:
        length, md, _, fl, _ = tooth.size
        reach = np.array([md / 2 + 1.0, fl / 2 + 1.5])
        low, high = np.r_[-reach, -0.5], np.r_[reach, length + 0.6]
        skin = surface_of(tooth, low, high, 0.2)

        def cut(local: Floats) -> Floats:
            share = np.clip(local[:, 2] / length, 0, 1)
            thirds = [self.depth_mm[f"facial/{k}"] for k in ("cervical", "middle", "incisal")]
            face = np.interp(share, [0.22, 0.5, 0.8], thirds)
            # Face and back part at the middle of the edge's thickness.
            side = 1 / (1 + np.exp(-(local[:, 1] - 0.10 * fl) / 0.22))
            depth = side * face + (1 - side) * self.depth_mm["lingual-fossa"]
            depth = depth - sum(s.left(local) for s in self.spared) * (local[:, 1] < 0.10 * fl)
            at_edge = 0.0 if self.edge_mm else np.clip((share - 0.80) / 0.10, 0, 1)
            depth = depth * (1 - at_edge) + np.maximum(depth, self.depth_mm["incisal-edge"]) * at_edge
            hold = np.clip((share - self.holds_from[0]) / (self.holds_from[1] - self.holds_from[0]), 0, 1)
            top = local[:, 2] - (length - self.depth_mm["incisal-edge"])
            return np.maximum(skin.signed_distance(local)[0] + depth - (1 - hold) * 3.0, top)

        if not self.edge_mm:
            return cut
        # What a ball of that radius can roll over from within: the stump without its skin of that thickness, and on it.
        core = surface_of(lambda local: cut(local) + self.edge_mm, low, high, 0.2)
        return lambda local: core.signed_distance(local)[0] - self.edge_mm


def _offset(surface: Surface, distance_mm: float) -> Surface:
    """Every vertex moved out so that the faces round it, not only its own normal, move by the distance."""
    corner_cosine = (surface.vertex_normals[surface.faces] * surface.face_normals[:, None]).sum(-1)
    total = np.bincount(surface.faces.ravel(), weights=corner_cosine.ravel(), minlength=surface.n_vertices)
    count = np.bincount(surface.faces.ravel(), minlength=surface.n_vertices)
    factor = distance_mm / np.clip(total / count, 0.5, 1)
    return surface.with_vertices(surface.vertices + factor[:, None] * surface.vertex_normals)


def _by_x(tips: list[tuple[float, float, float]]) -> tuple[Floats, Floats]:
    ordered = np.array(sorted((t[0], t[1]) for t in tips))
    return ordered[:, 0], ordered[:, 1]


def ball_stroke(start: Floats, end: Floats, radius_mm: float) -> Callable[[Floats], Floats]:
    """A round bur drawn from `start` to `end` (3,): negative where it cuts."""

    def cut(points: Floats) -> Floats:
        axis = end - start
        t = np.clip(((points - start) @ axis) / max(float(axis @ axis), 1e-12), 0, 1)
        return np.linalg.norm(points - start - t[:, None] * axis, axis=1) - radius_mm

    return cut
