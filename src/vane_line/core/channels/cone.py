"""A straight round body fitted to points on it: the axis of a bur, a pin or a hole."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import about_axis, perpendicular, unit

ROUNDS = 3  # the axis is told anew about the one before, along which heights are counted
SOFT_MM = 0.03  # a point that lies further off says less
LEAST_POINTS = 12
ON_MM = 0.08  # off it: by so much the say of a place wanes
ROUND_COSINE = 0.4  # to the bottom's middle: what lies further round wanes, for there straight walls begin
REFINE_ROUNDS, LEAST_SAY = 6, 0.1
SECTORS = 12  # a coarse scan shows each at least once


@dataclass(frozen=True, eq=False)
class Cone:
    """middle: (3,) on the axis, amid the points; direction: unit (3,). radius_mm: at the middle; widens: radius gained
    for each mm along the direction. rms_mm: of the points' distance to it; seen_deg: how much of its round they show.
    """

    middle: Floats
    direction: Floats
    radius_mm: float
    widens: float
    rms_mm: float
    seen_deg: float

    def off(self, points: Floats) -> tuple[Floats, Floats]:
        """(N,) distance to the axis, and height along it over the middle."""
        return about_axis(points, self.middle, self.direction)


def fit_cone(points: Floats, axis: Floats) -> Cone | None:
    """The cone, a cylinder where it does not widen, through points (N, 3) about an axis (3,) near its own.

    None where the points do not tell one.
    """
    if len(points) < LEAST_POINTS:
        return None
    up, middle = unit(axis), points.mean(axis=0)
    for _ in range(ROUNDS):
        fitted = _about(points, middle, up)
        if fitted is None:
            return None
        middle, up = fitted.middle, fitted.direction
    return fitted


def refined(cone: Cone, surface: Surface, up: Floats, level: Floats, counts: Floats) -> Cone:
    """The cone fitted to all of a surface that lies on its round bottom, at levels (L,) along `up` (3,) of which each
    `counts` (L,) from 0 to 1, and nothing beyond them.

    What lies off it or further round says less and less: what is told moves evenly with the surface, and not with where
    it was looked for. As it was, where that shows too little of it.
    """
    away, _ = cone.off(surface.vertices)
    share = np.interp(surface.vertices @ up, level, counts, left=0.0, right=0.0)
    near = (away < cone.radius_mm + 2 * ON_MM) & (share > 0)
    points, normals, areas = (v[near] for v in (surface.vertices, surface.vertex_normals, surface.vertex_areas))
    areas = areas * share[near]
    found = cone
    for _ in range(REFINE_ROUNDS):
        away, along = found.off(points)
        out = (points - found.middle - along[:, None] * found.direction) / np.maximum(away, 1e-6)[:, None]
        off = (away - found.radius_mm - found.widens * along) / ON_MM
        say = areas * np.clip(-np.einsum("ij,ij->i", normals, out), 0, 1) * np.exp(-(off**2))
        # The walls beside the bottom look at each other: on the whole a groove looks out of where it is open.
        bottom = perpendicular(-(say @ normals), found.direction)
        say *= np.clip(out @ bottom / ROUND_COSINE, 0, 1)
        if (say > LEAST_SAY * areas).sum() < LEAST_POINTS:
            return cone
        fitted = _about(points, points.T @ say / say.sum(), found.direction, say)
        if fitted is None:
            return cone
        found = fitted
    return found


def _about(points: Floats, middle: Floats, up: Floats, say: Floats | None = None) -> Cone | None:
    """say: (N,) of each point; of all as much unless given."""
    from scipy.optimize import least_squares  # a tenth of a second to import, for what is round alone

    x_axis = perpendicular(np.eye(3)[int(np.argmin(np.abs(up)))], up)
    y_axis = np.cross(up, x_axis)
    off = points - middle
    root = np.ones(len(points)) if say is None else np.sqrt(say / say.max())
    x, y, z = off @ x_axis, off @ y_axis, off @ up

    def residual(p: Floats) -> Floats:
        return np.asarray(root * (np.hypot(x - p[0] - p[1] * z, y - p[2] - p[3] * z) - p[4] - p[5] * z))

    # A circle through all of them seen along the axis is where it begins (Kåsa 1976).
    a = np.stack([2 * x, 2 * y, np.ones_like(x)], axis=1)
    centre, *_ = np.linalg.lstsq(root[:, None] * a, root * (x**2 + y**2), rcond=None)
    radius = float(np.sqrt(max(centre[2] + centre[0] ** 2 + centre[1] ** 2, 1e-4)))
    found = least_squares(residual, [centre[0], 0.0, centre[1], 0.0, radius, 0.0], loss="soft_l1", f_scale=SOFT_MM)
    p = found.x
    if not np.isfinite(p).all() or p[4] <= 0:
        return None
    around = np.degrees(np.arctan2(y - p[2] - p[3] * z, x - p[0] - p[1] * z))[root > LEAST_SAY] % 360
    seen = len(np.unique((around / (360 / SECTORS)).astype(int) % SECTORS)) * 360 / SECTORS
    direction = unit(up + p[1] * x_axis + p[3] * y_axis)
    rms = float(np.sqrt(np.sum(residual(p) ** 2) / np.sum(root**2)))
    # In the fit lengths run along the old axis, and distances across it: the same within the square of a small tilt.
    at = middle + p[0] * x_axis + p[2] * y_axis
    return Cone(at, np.asarray(direction), float(p[4]), float(p[5]), rms, float(seen))
