"""A rigid fit with what supports it: residuals by patch, trust, and the standard uncertainty at the tooth."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.align.crowns import Crowns
from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.mesh.surface import Surface
from vane_line.core.rigid import move
from vane_line.core.spread import cells
from vane_line.core.vectors import unit

PATCH_MM = 1.0  # neighbouring vertices share their error: one independent sample per square patch of this side
NEAR_MM = 0.30  # further off than this is change, not error
STABLE_MM = 0.10  # "within 0.1 mm": the definition of a stable overlap
STABLE_SHARE = 0.60
OVERLAP_MM = 1.0  # further off, the scans do not cover the same surface
U_ALIGN_LIMIT_UM = 30.0
DISTORTION_UM_PER_MM = 0.5  # growth of scan distortion with distance (order of published arch scans; memory)
ABSORBED_UM = (
    4.0  # slow scan distortion that a rigid fit absorbs unseen: 10 to 20 µm of it make 1 to 7 (docs/uncertainty)
)
MIN_PATCHES = 12
MIN_POINTS = 50
PATCH_SPREADS = 3.0  # a patch further off than this many robust spreads has changed
PATCH_LIMITS_MM = (0.012, 0.06)


@dataclass(frozen=True, eq=False)
class Samples:
    """Points of the source (N, 3) on their way to the target: signed distance, nearest face and place, and flags.

    own: the points moved, in the target's own axes.
    """

    points: Floats
    moved: Floats
    own: Floats
    signed: Floats
    face: Ints
    place: Floats
    crown: Bools
    off_border: Bools

    @classmethod
    def take(cls, points: Floats, target: Surface, matrix: Floats, crowns: Crowns) -> Samples:
        """Measure `points` under `matrix`."""
        moved = move(matrix, points)
        signed, face, place = target.signed_distance(moved)
        off_border = ~target.border_faces[face]
        return cls(
            points=points,
            moved=moved,
            own=target.at_home(moved),
            signed=signed,
            face=face,
            place=place,
            crown=crowns.hold(moved),
            off_border=off_border,
        )

    def stable(self, away_from: Floats | None = None, radius_mm: float = 0.0) -> Bools:
        """(N,) points in patches that did not change: the cut tooth and gingiva, which moves as a whole, are out."""
        near = (np.abs(self.signed) < NEAR_MM) & self.off_border
        if (near & self.crown).sum() > 10 * MIN_POINTS:
            near &= self.crown
        near &= self.far_from(away_from, radius_mm)
        stable = np.zeros(len(self.points), dtype=bool)
        if near.sum() < MIN_POINTS:
            return stable
        cell, mean, count = patches(self.own[near], self.signed[near])
        spread = 1.4826 * np.median(np.abs(mean - np.median(mean)))
        limit = float(np.clip(PATCH_SPREADS * spread, *PATCH_LIMITS_MM))
        stable[near] = (np.abs(mean) < limit)[cell] & (count >= 3)[cell] & (np.abs(self.signed[near]) < NEAR_MM / 2)
        return stable

    def far_from(self, place: Floats | None, radius_mm: float) -> Bools:
        """(N,) points outside a sphere, or all of them."""
        if place is None:
            return np.ones(len(self.points), dtype=bool)
        return np.asarray(np.linalg.norm(self.moved - place, axis=1) > radius_mm)


def patches(points: Floats, values: Floats) -> tuple[Ints, Floats, Ints]:
    """Patch number of each point, mean value of each patch, and its count."""
    _, cell = np.unique(cells(points, PATCH_MM), return_inverse=True)
    count = np.bincount(cell)
    return cell, np.bincount(cell, weights=values) / count, count


@dataclass(frozen=True, eq=False)
class Fit:
    """A rigid fit of a source onto a target.

    matrix: (4, 4) mm, column vectors, source to target. residuals: (P,) mean signed distance of each stable
    patch, mm; centres, normals: (P, 3) of these patches. stable_share: of the overlap within STABLE_MM.
    """

    matrix: Floats
    samples: Samples
    rms_mm: float
    p95_mm: float
    stable_area_mm2: float
    stable_share: float
    residuals: Floats
    centres: Floats
    normals: Floats

    @classmethod
    def of(
        cls,
        matrix: Floats,
        samples: Samples,
        target: Surface,
        area_per_point_mm2: float,
        away_from: Floats | None = None,
        radius_mm: float = 0.0,
    ) -> Fit:
        """What supports a position; what lies within `radius_mm` of `away_from` (the cut tooth) does not count."""
        overlap = (np.abs(samples.signed) < OVERLAP_MM) & samples.off_border & samples.far_from(away_from, radius_mm)
        # Soft tissue moves between scans: trust is judged on the crowns.
        judged = overlap & samples.crown
        judged = judged if judged.sum() > 4 * MIN_POINTS else overlap
        share = float((judged & (np.abs(samples.signed) < STABLE_MM)).sum() / max(judged.sum(), 1))
        stable = samples.stable(away_from, radius_mm)
        if stable.sum() < MIN_POINTS:
            nothing = np.zeros((0, 3))
            nan = float("nan")
            return cls(
                matrix=matrix,
                samples=samples,
                rms_mm=nan,
                p95_mm=nan,
                stable_area_mm2=0.0,
                stable_share=share,
                residuals=np.zeros(0),
                centres=nothing,
                normals=nothing,
            )
        residual = samples.signed[stable]
        cell, mean, count = patches(samples.own[stable], residual)
        normal = target.normals_at(samples.face[stable], samples.place[stable])
        centres = np.stack([np.bincount(cell, weights=samples.place[stable][:, k]) / count for k in range(3)], axis=1)
        normals = unit(np.stack([np.bincount(cell, weights=normal[:, k]) for k in range(3)], axis=1).astype(np.float64))
        full = count >= 3
        return cls(
            matrix=matrix,
            samples=samples,
            rms_mm=float(np.sqrt((residual**2).mean())),
            p95_mm=float(np.quantile(np.abs(residual), 0.95)),
            stable_area_mm2=float(stable.sum()) * area_per_point_mm2,
            stable_share=share,
            residuals=mean[full],
            centres=np.asarray(centres[full], dtype=np.float64),
            normals=np.asarray(normals[full], dtype=np.float64),
        )

    def without(self, target: Surface, away_from: Floats, radius_mm: float) -> Fit:
        """The same position judged without what lies round the cut tooth."""
        per_point = self.stable_area_mm2 / max(int(self.samples.stable().sum()), 1)
        return Fit.of(self.matrix, self.samples, target, per_point, away_from, radius_mm)

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
        return float(np.sqrt((1000 * worst) ** 2 + distortion**2 + ABSORBED_UM**2))
