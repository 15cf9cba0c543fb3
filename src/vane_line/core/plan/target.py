"""The target surface: the shape that meets every target with the chosen taper and finish line, trimmed like a die.

Kept is what lies deep enough under the earlier surface and inside the wall that rises from the finish line; below the
ledge a plain root follows the line, so that its edge is as sharp as a trimmed die's. The body is an implicit function,
surfaced on a grid.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.interpolate import RegularGridInterpolator

from vane_line.core.arrays import Floats
from vane_line.core.judge.standards import Standard
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.depths import Site
from vane_line.core.plan.line import PlannedLine
from vane_line.core.rings import degrees_apart
from vane_line.core.tooth.anatomy import plan
from vane_line.core.trace.section import Axes

GRID_MM = 0.16
ROUND_MM, ROUND_ABOVE_MM = 0.55, 1.3  # radius of convex edges, a little over a mill's bur; not by the finish line
SPARE_MM = 0.15  # that rounding keeps from the greatest depth
EASE_MM = 0.35  # edges between faces are rounded over about this
OCCLUSAL_COSINE = 0.22  # of a face's normal to the path: steeper is a side, whose depth follows from the finish line
UPPER_SHARE = 0.30  # of the crown over the line, under which no face is occlusal
FRONT_RAMP = (0.05, 0.22)  # share of a front tooth's height over which its depth takes hold
ROOT_SLOPE, ROOT_MM = 0.12, 0.7  # of the die under the ledge, and how far it goes down: lower than any wall
RAMP_SLOPE = 0.6  # mm of depth per mm, from a deep site to a shallow one
GROOVE_REACH_MM = 0.7
WIDTH_BLEND_DEG = 14.0  # over which the finish line's width passes from side to side
WING_BLEND_DEG = 4.0


@dataclass(frozen=True, eq=False)
class TargetPlan:
    """What the target is made of. taper_deg: of each wall; width_mm, fillet_mm: per azimuth (A,)."""

    line: PlannedLine
    taper_deg: float
    width_mm: Floats
    fillet_mm: Floats
    sites: list[Site]


def widths(line: PlannedLine, standard: Standard) -> Floats:
    """(A,) target width of the finish line, passing smoothly from stretch to stretch, at a wing too."""
    sides = {"facial": 0.0, "mesial": 90.0, "lingual": 180.0, "distal": 270.0}
    weight, total = np.zeros(len(line.azimuth_deg)), np.zeros(len(line.azimuth_deg))
    for side, middle in sides.items():
        past = (line.azimuth_deg - middle + 180) % 360 - 180  # towards lingual
        past = -past if side == "distal" else past
        here = degrees_apart(line.azimuth_deg, middle) <= 10
        for _, low, high, limits in standard.sectors(side, float(np.median(line.radius[here]))):
            off = np.maximum(np.maximum(low - past, past - high), 0.0)
            # Sides pass into each other slowly, but for the wing's two stretches, which meet there.
            w = np.exp(-((off / (WING_BLEND_DEG if side in standard.wing else WIDTH_BLEND_DEG)) ** 2))
            weight, total = weight + w, total + w * limits.target
    return np.asarray(total / weight)


def target_die(tooth: Surface, axes: Axes, target: TargetPlan, front: bool) -> Surface:
    """The target as a trimmed die. tooth: the earlier tooth, eased."""
    line = target.line
    low, high = _box(line, tooth, axes)
    grid = [np.arange(a, b + GRID_MM, GRID_MM) for a, b in zip(low, high, strict=True)]
    block = np.meshgrid(*grid, indexing="ij")
    local = np.stack([g.ravel() for g in block], axis=1)
    shape = block[0].shape
    value = _outside(local, tooth, axes, target, front)
    # Rounding may not cut deeper than the standard allows.
    deepest = replace(target, sites=[
        replace(s, depth_mm=max(s.most_mm - SPARE_MM, s.depth_mm))
        for s in target.sites if s.depth_mm is not None and s.most_mm is not None
    ])  # fmt: skip
    limit = _outside(local, tooth, axes, deepest, front)
    rounded = np.maximum(value, np.minimum(_rounded(value.reshape(shape), grid, local, axes, line).ravel(), limit))
    return _surfaced(rounded.reshape(shape), grid, axes)


def _rounded(value: Floats, grid: list[Floats], local: Floats, axes: Axes, line: PlannedLine) -> Floats:
    """Convex edges well above the ledge rounded to ROUND_MM: shrunk by it and grown again, which only takes away."""
    sharp = _surfaced(value, grid, axes)
    flat = value.ravel()
    near = (flat > -2 * ROUND_MM - 0.3) & (flat < 0.5)
    inner = np.where(flat < 0, -9.0, 9.0)
    inner[near] = sharp.signed_distance(_out(local[near], axes))[0]
    core = _surfaced((inner + ROUND_MM).reshape(value.shape), grid, axes)
    band = (inner > -0.4) & (inner < 0.4)
    grown = np.where(inner < 0, -9.0, 9.0)
    grown[band] = core.signed_distance(_out(local[band], axes))[0] - ROUND_MM
    azimuth = np.degrees(np.arctan2(local[:, 0], local[:, 1])) % 360
    level = np.interp(azimuth, line.azimuth_deg, line.height, period=360)
    return np.where(local[:, 2] > level + ROUND_ABOVE_MM, np.maximum(flat, grown), flat).reshape(value.shape)


def _box(line: PlannedLine, tooth: Surface, axes: Axes) -> tuple[Floats, Floats]:
    points = np.concatenate([tooth.vertices, line.points()])  # the tooth may lack a side that was never seen
    local = np.stack([*plan(axes, points).T, (points - axes.origin) @ axes.up], axis=1)
    low, high = local.min(axis=0) - 0.5, local.max(axis=0) + 0.3
    low[2] = line.height.min() - ROOT_MM  # the die stays open below: what the scanner would not see either
    return low, high


def _out(local: Floats, axes: Axes) -> Floats:
    """(N, 3) points from mesial, facial, occlusal coordinates."""
    return np.asarray(axes.origin + local[:, :1] * axes.quarter + local[:, 1:2] * axes.zero + local[:, 2:] * axes.up)


def _outside(local: Floats, tooth: Surface, axes: Axes, target: TargetPlan, front: bool) -> Floats:
    """(N,) how far points (mesial, facial, occlusal) lie outside the target; negative within."""
    line = target.line
    x, y, height = local.T
    azimuth, radius = np.degrees(np.arctan2(x, y)) % 360, np.hypot(x, y)

    def at(field: Floats) -> Floats:
        return np.asarray(np.interp(azimuth, line.azimuth_deg, field, period=360))

    edge, level, fillet = at(line.radius), at(line.height), at(target.fillet_mm)
    slope = np.tan(np.radians(target.taper_deg))
    # The width is measured along the line's normal, the profile runs along the radius.
    cosine = 1 / np.hypot(1, np.gradient(line.radius, np.radians(line.azimuth_deg)) / line.radius)
    foot = edge - at(target.width_mm / cosine)
    wall = (radius - (foot - (height - level) * slope)) * np.cos(np.radians(target.taper_deg))
    ledge = height - level
    corner = fillet - np.hypot(np.maximum(fillet - wall, 0), np.maximum(fillet - ledge, 0))
    axial = np.where((wall < fillet) & (ledge < fillet), corner, np.minimum(wall, ledge))
    root = radius - (edge + ROOT_SLOPE * np.minimum(ledge, 0.0))
    die = np.maximum(axial, root)
    top = float(np.quantile((tooth.vertices - axes.origin) @ axes.up, 0.995))
    share = (height - level) / np.maximum(top - level, 0.5)
    skin = tooth if front else _occlusal_part(tooth, axes, float(line.height.mean()), top)
    near = (die < 0.6) & (ledge > -0.1) & (share < 1.15)
    points = _out(local[near], axes)
    signed, face, place = skin.signed_distance(points)
    hold = np.clip((share[near] - FRONT_RAMP[0]) / (FRONT_RAMP[1] - FRONT_RAMP[0]), 0, 1) if front else 1.0
    wanted = _depth_field(local[near], axes, target.sites, front, share[near])
    # Beyond its border the occlusal part says nothing of the sign: what is far from it is deep.
    depth = np.where(skin.at_rim(face, place), np.abs(signed), -signed)
    inset = wanted - depth - (1 - hold) * 3.0
    die[near] = _smooth_max(die[near], inset, EASE_MM)
    die[~near & (share >= 1.0)] = 1.0
    return die


def _occlusal_part(tooth: Surface, axes: Axes, level: float, top: float) -> Surface:
    """The faces of a back tooth that look up the path."""
    height = (tooth.face_centres - axes.origin) @ axes.up
    part, _ = tooth.keep_faces(
        (tooth.face_normals @ axes.up > OCCLUSAL_COSINE) & (height > level + UPPER_SHARE * (top - level))
    )
    return part


def _depth_field(local: Floats, axes: Axes, sites: list[Site], front: bool, share: Floats) -> Floats:
    """(N,) depth wanted at points: of the sites, blended by plan distance; by height on a front tooth's face."""
    known = [s for s in sites if s.depth_mm is not None]
    if not known:
        return np.zeros(len(local))
    if front:
        return _front_depth(local, {s.zone: float(s.depth_mm or 0.0) for s in known}, share)
    return back_depth(local[:, :2], known, axes)


def back_depth(places: Floats, sites: list[Site], axes: Axes) -> Floats:
    """(N,) depth at plan places (N, 2) of a back tooth: each cusp's own over all its ground, ramping down beyond it.

    So a shallower neighbour is cut a little deeper where it begins, and none of a deep one's ground too little.
    """
    at = plan(axes, np.array([s.at for s in sites]))
    depth = np.array([float(s.depth_mm or 0.0) for s in sites])
    cusp = np.array(["cusp/" in s.zone for s in sites])
    tips = at[cusp] if cusp.any() else at
    square = ((places[:, None] - tips[None]) ** 2).sum(axis=2)
    nearest = square.argmin(axis=1)
    # Beyond its own ground a deep cusp cuts no deeper than the shallowest site may be cut.
    spare = min((s.most_mm for s in sites if s.most_mm is not None), default=9.0) - SPARE_MM
    out = np.zeros(len(places))
    for j, own in enumerate(depth[cusp] if cusp.any() else depth):
        apart = np.linalg.norm(tips[nearest] - tips[j], axis=1)
        # Distance to the line half way between the nearest tip and this one: nought on this one's own ground.
        beyond = (square[:, j] - square[np.arange(len(places)), nearest]) / np.maximum(2 * apart, 1e-9)
        out = np.maximum(out, np.where(nearest == j, own, np.minimum(own - RAMP_SLOPE * beyond, spare)))
    for place, own in zip(at[~cusp], depth[~cusp], strict=True):
        off = np.maximum(np.linalg.norm(places - place, axis=1) - GROOVE_REACH_MM, 0.0)
        out = np.maximum(out, own - RAMP_SLOPE * off)
    return out


def _front_depth(local: Floats, depth: dict[str, float], share: Floats) -> Floats:
    face = np.interp(share, [0.17, 0.5, 0.83],
                     [depth.get(f"facial/{k}", 0.0) for k in ("cervical", "middle", "incisal")])  # fmt: skip
    back = np.full(len(share), depth.get("lingual-fossa", 0.0))
    edge = depth.get("incisal-edge", 0.0)
    side = 1 / (1 + np.exp(-local[:, 1] / 0.25))
    sides = side * face + (1 - side) * back
    # Right under the edge its own depth counts, which is taken from the top down.
    at_edge = np.clip((share - 0.86) / 0.08, 0, 1)
    return np.asarray(sides * (1 - at_edge) + np.maximum(sides, edge) * at_edge)


def _smooth_max(a: Floats, b: Floats, k: float) -> Floats:
    h = np.clip(0.5 + 0.5 * (a - b) / k, 0, 1)
    # Rounding takes away, it never leaves less than either asks.
    return np.asarray(b + (a - b) * h + k * h * (1 - h))


def _surfaced(value: Floats, grid: list[Floats], axes: Axes) -> Surface:
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
    placed = Surface(_out(surface.vertices, axes), faces)
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
