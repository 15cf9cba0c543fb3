"""The target surface: the shape that meets every target with the chosen taper and finish line, trimmed like a die.

Kept is what lies deep enough under the earlier surface and inside the wall that rises from the finish line; below the
ledge a plain root follows the line, so that its edge is as sharp as a trimmed die's. The body is an implicit function,
surfaced on a grid.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.judge.standards import Standard
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.body import filleted_min, grid_about, root_of, smooth_max, surfaced
from vane_line.core.plan.depths import Site
from vane_line.core.plan.line import PlannedLine
from vane_line.core.rings import degrees_apart, degrees_past
from vane_line.core.tooth.anatomy import plan
from vane_line.core.trace.section import Axes

ROUND_MM, ROUND_ABOVE_MM = 0.55, 1.3  # radius of convex edges, a little over a mill's bur; not by the finish line
SPARE_MM = 0.15  # that rounding keeps from the greatest depth
EASE_MM = 0.35  # edges between faces are rounded over about this
OCCLUSAL_COSINE = 0.22  # of a face's normal to the path: steeper is a side, whose depth follows from the finish line
PLAIN_COSINE, ABOUT_MM = 0.5, 1.5  # what looks up plainly, and how far from it another face is still occlusal
UPPER_SHARE = 0.30  # of the crown over the line, under which no face is occlusal
EDGE_TOP_MM, EDGE_MIDDLE, EDGE_PLACES = 0.6, (0.25, 0.75), 8  # of a front tooth, and where its height is told
FRONT_RAMP = (0.05, 0.22)  # share of a front tooth's height over which its depth takes hold
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
        past = degrees_past(line.azimuth_deg, middle)  # towards lingual
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
    points = np.concatenate([tooth.vertices, line.points()])  # the tooth may lack a side that was never seen
    grid, local = grid_about(axes.local(points), float(line.height.min()))
    shape = tuple(len(g) for g in grid)
    value = outside_die(local, tooth, axes, target, front)
    # Rounding may not cut deeper than the standard allows.
    deepest = replace(target, sites=[
        replace(s, depth_mm=max(s.most_mm - SPARE_MM, s.depth_mm))
        for s in target.sites if s.depth_mm is not None and s.most_mm is not None
    ])  # fmt: skip
    limit = outside_die(local, tooth, axes, deepest, front)
    rounded = np.maximum(value, np.minimum(_rounded(value.reshape(shape), grid, local, axes, line).ravel(), limit))
    return surfaced(rounded.reshape(shape), grid, axes)


def _rounded(value: Floats, grid: list[Floats], local: Floats, axes: Axes, line: PlannedLine) -> Floats:
    """Convex edges well above the ledge rounded to ROUND_MM: shrunk by it and grown again, which only takes away."""
    sharp = surfaced(value, grid, axes)
    flat = value.ravel()
    near = (flat > -2 * ROUND_MM - 0.3) & (flat < 0.5)
    inner = np.where(flat < 0, -9.0, 9.0)
    inner[near] = sharp.signed_distance(axes.world(local[near]))[0]
    core = surfaced((inner + ROUND_MM).reshape(value.shape), grid, axes)
    band = (inner > -0.4) & (inner < 0.4)
    grown = np.where(inner < 0, -9.0, 9.0)
    grown[band] = core.signed_distance(axes.world(local[band]))[0] - ROUND_MM
    level = line.at(axes.azimuth_of(local), line.height)
    return np.where(local[:, 2] > level + ROUND_ABOVE_MM, np.maximum(flat, grown), flat).reshape(value.shape)


def outside_die(local: Floats, tooth: Surface, axes: Axes, target: TargetPlan, front: bool) -> Floats:
    """(N,) how far points (mesial, facial, occlusal) lie outside the target; negative within."""
    line = target.line
    x, y, height = local.T
    azimuth, radius = axes.azimuth_of(local), np.hypot(x, y)
    edge, level, fillet = (line.at(azimuth, field) for field in (line.radius, line.height, target.fillet_mm))
    slope = np.tan(np.radians(target.taper_deg))
    # The width is measured along the line's normal, the profile runs along the radius.
    cosine = 1 / np.hypot(1, np.gradient(line.radius, np.radians(line.azimuth_deg)) / line.radius)
    foot = edge - line.at(azimuth, target.width_mm / cosine)
    wall = (radius - (foot - (height - level) * slope)) * np.cos(np.radians(target.taper_deg))
    ledge = height - level
    die = np.maximum(filleted_min(wall, ledge, fillet), root_of(azimuth, radius, ledge, line))
    top = float(np.quantile((tooth.vertices - axes.origin) @ axes.up, 0.995))
    share = (height - level) / np.maximum(top - level, 0.5)
    skin = tooth if front else occlusal_part(tooth, axes, float(line.height.mean()), top)
    near = (die < 0.6) & (ledge > -0.1) & (share < 1.15)
    hold = np.clip((share[near] - FRONT_RAMP[0]) / (FRONT_RAMP[1] - FRONT_RAMP[0]), 0, 1) if front else 1.0
    wanted = _depth_field(local[near], axes, target.sites, front, share[near])
    inset = wanted - depth_under(skin, axes.world(local[near])) - (1 - hold) * 3.0
    die[near] = smooth_max(die[near], inset, EASE_MM)
    off_edge = next((s.depth_mm for s in target.sites if s.zone == "incisal-edge"), None)
    if front and off_edge is not None:
        die[near] = smooth_max(die[near], height[near] - edge_height(tooth, axes, x[near]) + off_edge, EASE_MM)
    die[~near & (share >= 1.0)] = 1.0
    return die


def edge_height(tooth: Surface, axes: Axes, x: Floats) -> Floats:
    """(N,) height of a front tooth's edge at mesial places (N,): a straight line along the middle of it, from which its
    depth is cut down. Its rounded corners lie lower, and lose as much less."""
    at, _, height = axes.local(tooth.vertices).T
    top = at[height > height.max() - EDGE_TOP_MM]
    low, high = (float(np.quantile(top, share)) for share in EDGE_MIDDLE)
    places = np.linspace(low, high, EDGE_PLACES)
    highest = [height[np.abs(at - place) < EDGE_TOP_MM / 2].max() for place in places]
    return np.asarray(np.polyval(np.polyfit(places, highest, 1), x))


def depth_under(skin: Surface, points: Floats) -> Floats:
    """(N,) how deep points (N, 3) lie under a part of the tooth. Beyond its border it says nothing of the sign: what is
    far from it is deep."""
    signed, face, place = skin.signed_distance(points)
    return np.where(skin.at_rim(face, place), np.abs(signed), -signed)


def occlusal_part(tooth: Surface, axes: Axes, level: float, top: float) -> Surface:
    """The faces of a back tooth that look up the path."""
    height = (tooth.face_centres - axes.origin) @ axes.up
    part, _ = tooth.keep_faces(occlusal_faces(tooth, axes.up) & (height > level + UPPER_SHARE * (top - level)))
    return part


def occlusal_faces(tooth: Surface, up: Floats) -> Bools:
    """(F,) the faces that look up the path, near to where the tooth plainly does: the side of a tipped tooth, which
    looks up a little too, is none far down."""
    cosine = tooth.face_normals @ up
    plainly = tooth.face_centres[cosine > PLAIN_COSINE]
    away = cKDTree(plainly).query(tooth.face_centres)[0] if len(plainly) else np.full(tooth.n_faces, np.inf)
    return np.asarray((cosine > OCCLUSAL_COSINE) & (away < ABOUT_MM))


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


def face_depth(depth: dict[str, float], share: Floats) -> Floats:
    """(N,) depth on a front tooth's face at shares of its height, between the depths of its thirds."""
    thirds = [depth.get(f"facial/{k}", 0.0) for k in ("cervical", "middle", "incisal")]
    return np.interp(share, [0.17, 0.5, 0.83], thirds)


def _front_depth(local: Floats, depth: dict[str, float], share: Floats) -> Floats:
    face = face_depth(depth, share)
    back = np.full(len(share), depth.get("lingual-fossa", 0.0))
    side = 1 / (1 + np.exp(-local[:, 1] / 0.25))
    return np.asarray(side * face + (1 - side) * back)
