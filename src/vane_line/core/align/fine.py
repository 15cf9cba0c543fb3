"""Fine rigid registration on what did not change, and its standard uncertainty at the tooth."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import small_gicp
from scipy.spatial import cKDTree

from vane_line.core.align.coarse import candidates, inlier_share
from vane_line.core.arrays import Bools, Floats, Ints, cells, highest_per_cell, unit
from vane_line.core.mesh.surface import Surface, move
from vane_line.core.tooth.occlusal import guess_occlusal

START_SHARE = 0.35  # share of points within START_WITHIN_MM that makes the given position good enough
START_WITHIN_MM = 0.25
STAGES_MM = (1.5, 0.6, 0.25)
CLOUD_MM = 0.30  # spacing of the points that are matched
FINE_CLOUD_MM = 0.18
PATCH_MM = 1.0  # neighbouring vertices share their error: one independent sample per square patch of this side
STABLE_MM = 0.10  # "within 0.1 mm": the definition of a stable overlap
STABLE_SHARE = 0.60
OVERLAP_MM = 1.0  # further off, the scans do not cover the same surface
U_ALIGN_LIMIT_UM = 30.0
DISTORTION_UM_PER_MM = 0.4  # growth of scan distortion with distance (order of published arch scans; memory)
LATERAL_FLOOR_UM = 1.0  # what remains of a perfect fit: numbers in float32 files, meshing
MIN_PATCHES = 12
CROWN_BELOW_TOP_MM = 4.5  # from the highest point within reach: hard tissue on any erupted tooth (common practice)
CROWN_REACH_MM = 6.0


@dataclass(frozen=True, eq=False)
class Fit:
    """A rigid fit of `source` onto `target`, and what supports it.

    matrix: (4, 4) mm, column vectors, source to target. residuals: (P,) mean signed distance of each stable
    patch, mm; centres, normals: (P, 3) of these patches on the target. stable_share: of the overlap outside
    the changed region.
    """

    matrix: Floats
    rms_mm: float
    p95_mm: float
    stable_area_mm2: float
    stable_share: float
    residuals: Floats
    centres: Floats
    normals: Floats

    def u_align_um(self, places: Floats) -> float:
        """Standard uncertainty (µm) of the position that the fit gives to `places` (N, 3), the worst direction.

        The covariance of the six parameters from one sample per patch, carried to the places (JCGM 100,
        5.2), plus scan distortion growing with the distance from the middle of the stable surface.
        """
        if len(self.residuals) < MIN_PATCHES:
            return float("inf")
        middle = self.centres.mean(axis=0)
        arm = self.centres - middle
        jacobian = np.concatenate([np.cross(arm, self.normals), self.normals], axis=1)
        information = jacobian.T @ jacobian
        scatter = max(float(np.sqrt((self.residuals**2).sum() / max(len(self.residuals) - 6, 1))), 1e-4)
        if np.linalg.cond(information) > 1e9:
            return float("inf")
        covariance = scatter**2 * np.linalg.inv(information)
        worst = 0.0
        for place in places:
            x, y, z = place - middle
            carry = np.array([[0, z, -y, 1, 0, 0], [-z, 0, x, 0, 1, 0], [y, -x, 0, 0, 0, 1]], dtype=float)
            at = carry @ covariance @ carry.T
            worst = max(worst, float(np.sqrt(np.linalg.eigvalsh(at)[-1])))
        reach = float(np.median(np.linalg.norm(places - middle, axis=1)))
        distortion = DISTORTION_UM_PER_MM * reach
        return float(np.sqrt((1000 * worst) ** 2 + distortion**2 + LATERAL_FLOOR_UM**2))


def register(
    source: Surface,
    target: Surface,
    target_up: Floats | None = None,
    away_from: Floats | None = None,
    radius_mm: float = 0.0,
) -> Fit:
    """Bring `source` onto `target` by the surfaces that did not change.

    target_up: (3,) the target's occlusal direction where known. away_from: (3,) a place on the target known to be
    cut, kept out of the fit within `radius_mm`. Starts from the given position when it is roughly right, else
    searches all positions.
    """
    if target_up is None:
        target_up, _ = guess_occlusal(target)
    start = _start(source, target, target_up)
    points_t, points_s = _thin(target.vertices, CLOUD_MM), _thin(source.vertices, CLOUD_MM)
    matrix = start
    for limit in STAGES_MM:
        # What lies further off than the stage's reach is changed or not in the other scan.
        distance, _, _ = target.closest(move(matrix, points_s))
        chosen = points_s[distance < limit]
        if away_from is not None:
            chosen = chosen[np.linalg.norm(move(matrix, chosen) - away_from, axis=1) > radius_mm]
        matrix = _gicp(points_t, chosen, matrix, limit)
    fine_s = _thin(source.vertices, FINE_CLOUD_MM)
    fine_t = _thin(target.vertices, FINE_CLOUD_MM)
    crowns = Crowns.of(target, target_up)
    for _ in range(2):
        stable = _stable_points(fine_s, target, matrix, crowns, away_from, radius_mm)
        if stable.sum() < 50:
            break
        matrix = _gicp(fine_t, fine_s[stable], matrix, STAGES_MM[-1])
    return assess(source, target, matrix, away_from, radius_mm, crowns)


def _start(source: Surface, target: Surface, target_up: Floats) -> Floats:
    some = source.vertices[:: max(1, source.n_vertices // 3000)]
    identity = np.eye(4)
    if inlier_share(some, target, identity, START_WITHIN_MM) >= START_SHARE:
        return identity
    source_up, _ = guess_occlusal(source)
    points_t, points_s = _thin(target.vertices, 0.6), _thin(source.vertices, 0.6)
    best, best_share = identity, -1.0
    for start in [identity, *candidates(source, target, source_up, target_up)]:
        matrix = start
        for reach in (3.0, 1.2, 0.6):
            matrix = _gicp(points_t, points_s, matrix, reach)
        share = inlier_share(some, target, matrix, START_WITHIN_MM)
        if share > best_share:
            best, best_share = matrix, share
        if best_share > 0.7:
            break
    return best


def _thin(points: Floats, cell_mm: float) -> Floats:
    """One point per cube of `cell_mm`: the first of each, so that it stays a measured point."""
    _, first = np.unique(cells(points, cell_mm), return_index=True)
    return points[np.sort(first)]


def _gicp(target: Floats, source: Floats, start: Floats, reach_mm: float) -> Floats:
    """One generalised ICP (A. Segal et al., RSS 2009); falls back to `start` when nothing matches."""
    if len(source) < 20 or len(target) < 20:
        return start
    centre = target.mean(axis=0)
    shift = np.eye(4)
    shift[:3, 3] = -centre
    back = np.eye(4)
    back[:3, 3] = centre
    to, to_tree = small_gicp.preprocess_points(target - centre, 0.01, 12, 2)
    moved = move(start, source) - centre
    of, _ = small_gicp.preprocess_points(moved, 0.01, 12, 2)
    result = small_gicp.align(
        to,
        of,
        to_tree,
        np.eye(4),
        "GICP",
        max_correspondence_distance=reach_mm,
        num_threads=2,
        max_iterations=40,
        rotation_epsilon=1e-6,
        translation_epsilon=1e-6,
    )
    # The library reports convergence even when no pair was found.
    if result.num_inliers < 20:
        return start
    return np.asarray(back @ result.T_target_source @ shift @ start)


def _patches(points: Floats, values: Floats, cell_mm: float) -> tuple[Ints, Floats, Ints]:
    """Cell number of each point, mean value of each cell, and count of each cell."""
    _, cell = np.unique(cells(points, cell_mm), return_inverse=True)
    count = np.bincount(cell)
    return cell, np.bincount(cell, weights=values) / count, count


def _stable_points(
    points: Floats, target: Surface, matrix: Floats, crowns: Crowns, away_from: Floats | None, radius_mm: float
) -> Bools:
    """Which source points lie in patches that did not change: gingiva moves as a whole and is left out."""
    moved = move(matrix, points)
    signed, _, _ = target.signed_distance(moved)
    near = np.abs(signed) < STAGES_MM[-1] * 1.2
    hard = crowns.holds(moved)
    if (near & hard).sum() > 500:
        near &= hard
    if away_from is not None:
        near &= np.linalg.norm(moved - away_from, axis=1) > radius_mm
    stable = np.zeros(len(points), dtype=bool)
    if near.sum() < 50:
        return stable
    cell, mean, count = _patches(moved[near], signed[near], PATCH_MM)
    spread = 1.4826 * np.median(np.abs(mean - np.median(mean)))
    limit = float(np.clip(3 * spread, 0.012, 0.06))
    stable[near] = (np.abs(mean) < limit)[cell] & (count >= 3)[cell] & (np.abs(signed[near]) < 0.15)
    return stable


def assess(
    source: Surface,
    target: Surface,
    matrix: Floats,
    away_from: Floats | None,
    radius_mm: float,
    crowns: Crowns,
) -> Fit:
    """What supports a known position of `source` on `target`; what lies round `away_from` does not count."""
    points = _thin(source.vertices, FINE_CLOUD_MM)
    moved = move(matrix, points)
    signed, face, place = target.signed_distance(moved)
    off_border = ~target.on_border[target.faces[face]].any(axis=1)
    overlap = (np.abs(signed) < OVERLAP_MM) & off_border
    if away_from is not None:
        overlap &= np.linalg.norm(moved - away_from, axis=1) > radius_mm
    # Soft tissue moves between scans: trust is judged on the crowns.
    crown = crowns.holds(moved)
    judged = overlap & crown if (overlap & crown).sum() > 200 else overlap
    within = judged & (np.abs(signed) < STABLE_MM)
    share = float(within.sum() / max(judged.sum(), 1))
    stable = _stable_points(points, target, matrix, crowns, away_from, radius_mm) & off_border
    if stable.sum() < 50:
        nothing = np.zeros((0, 3))
        return Fit(matrix, float("nan"), float("nan"), 0.0, share, np.zeros(0), nothing, nothing)
    cell, mean, count = _patches(moved[stable], signed[stable], PATCH_MM)
    centres = np.stack([np.bincount(cell, weights=place[stable][:, k]) / count for k in range(3)], axis=1)
    normals_all = target.normals_at(face[stable], place[stable])
    summed = np.stack([np.bincount(cell, weights=normals_all[:, k]) for k in range(3)], axis=1)
    normals: Floats = unit(np.asarray(summed, dtype=np.float64))
    residual = signed[stable]
    # Patch areas: the thinned points stand for about one cell face each.
    area = float(stable.sum()) * FINE_CLOUD_MM**2 * 0.85
    return Fit(
        matrix,
        float(np.sqrt((residual**2).mean())),
        float(np.quantile(np.abs(residual), 0.95)),
        area,
        share,
        mean[count >= 3],
        centres[count >= 3],
        normals[count >= 3],
    )


@dataclass(frozen=True, eq=False)
class Crowns:
    """Tells which points stand high enough, seen from the occlusal side, to be tooth rather than gingiva."""

    up: Floats
    tree: cKDTree
    heights: Floats

    @classmethod
    def of(cls, surface: Surface, up: Floats) -> Crowns:
        """The tops of `surface` per square millimetre of plan, seen along `up` (3,)."""
        tops = surface.vertices[highest_per_cell(surface.vertices, up, 1.0)]
        return cls(up, cKDTree(tops - (tops @ up)[:, None] * up), tops @ up)

    def holds(self, points: Floats) -> Bools:
        """(N,) whether each of `points` (N, 3) belongs to a crown."""
        _, index, inverse = np.unique(cells(points, 0.7), return_index=True, return_inverse=True)
        some = points[index]
        near = self.tree.query_ball_point(some - (some @ self.up)[:, None] * self.up, CROWN_REACH_MM)
        top = np.array([self.heights[n].max() if n else np.inf for n in near])
        return np.asarray((points @ self.up) > top[np.ravel(inverse)] - CROWN_BELOW_TOP_MM)
