"""Fine rigid registration on what did not change."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import small_gicp
from scipy.spatial import cKDTree
from scipy.spatial.transform import Rotation

from vane_line.core.align.crowns import Crowns
from vane_line.core.align.fit import Fit, Samples
from vane_line.core.apart import free_cores
from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.rigid import move, turn_about
from vane_line.core.tooth.occlusal import guess_occlusal
from vane_line.core.vectors import lengths

START_SHARE = 0.35  # share of points within START_WITHIN_MM that makes the given position good enough
START_WITHIN_MM = 0.25
NEAR_SHARE = 0.6  # from here on the widest stage has nothing to do
STARTS_MM = (3.0, 1.2, 0.6)  # reach of the fits from a position that is only guessed
THIN_MM, START_CLOUD_MM = 1.0, 0.6  # spacing of the points for the first of them, and for the others
CLOSER_ROUNDS = 20  # of those that look closer: the fine fit goes on from there
FIRST_ROUNDS = 12  # of the first of them: enough to tell which position is worth more
LOOKED_INTO, LOOKED_AT_LEAST, SURELY_SHARE = 4, 2, 0.7  # of the guessed positions; one that fits so well is it
# Scores of guessed positions: of pairs that belong together the right one had 0.57 and more, with an eighth of the arch
# shared and a hole in it; wrong ones, and pairs that do not belong together, up to 0.48.
# From PROMISING on one is looked into before the others are tried; with none over UNPROMISING only the best few are.
PROMISING, UNPROMISING = 0.55, 0.5
SAME_MM, NO_RIVAL = 0.5, 0.8  # positions so near are one; what scores less of the best one's score is no rival
HOPELESS_SHARE = 0.55  # of the points that lie over the other scan: with less near it these are not the same teeth
STAGES_MM = (1.5, 0.6, 0.25)
CLOUD_MM = 0.35  # spacing of the points that are matched
FINE_CLOUD_MM = 0.25
FINE_ROUNDS = 2
MIN_CROWN_POINTS = 2000
MIN_MATCHED = 20
SOME_MM = 1.0  # spacing of the points that tell how well a position fits
NEIGHBOURS = 12  # that make a point's covariance
THREADS = 2  # for what is told of each point by itself; a sum is taken by one, for its last digit hangs on the order
TURNED_DEG = (0.0, 25.0, -25.0, 50.0, -50.0, 80.0, -80.0)
SURFACE_SHARE = 0.85  # of a thinning cube's face that a surface through it covers, on average


@dataclass(frozen=True, eq=False)
class Cloud:
    """Points prepared for matching: about their own `centre` (3,), with local covariances and a search tree."""

    centre: Floats
    size: int
    points: Any
    tree: Any

    @classmethod
    def of(cls, points: Floats) -> Cloud:
        """Prepare `points` (N, 3), mm."""
        centre = points.mean(axis=0) if len(points) else np.zeros(3)
        if len(points) < MIN_MATCHED:
            return cls(centre, len(points), None, None)
        cloud = small_gicp.PointCloud(points - centre)
        threads = min(THREADS, free_cores())
        tree = small_gicp.KdTree(cloud, threads)
        small_gicp.estimate_covariances(cloud, tree, NEIGHBOURS, threads)
        return cls(centre, len(points), cloud, tree)

    def fit(self, source: Cloud, start: Floats, reach_mm: float, rounds: int = 40) -> Floats:
        """The matrix (4, 4) that brings `source` onto this cloud, by generalised ICP from `start`.

        A. Segal et al., RSS 2009. Pairs further apart than `reach_mm` do not count; `start` when nothing matches.
        """
        if min(self.size, source.size) < MIN_MATCHED:
            return start
        result = small_gicp.align(
            self.points,
            source.points,
            self.tree,
            _shift(-self.centre) @ start @ _shift(source.centre),
            "GICP",
            max_correspondence_distance=reach_mm,
            max_iterations=rounds,
            rotation_epsilon=1e-6,
            translation_epsilon=1e-6,
        )
        # The library reports convergence even when no pair was found.
        if result.num_inliers < MIN_MATCHED:
            return start
        return np.asarray(_shift(self.centre) @ result.T_target_source @ _shift(-source.centre))


def _shift(by: Floats) -> Floats:
    matrix = np.eye(4)
    matrix[:3, 3] = by
    return matrix


def register(
    source: Surface, target: Surface, target_up: Floats | None = None, crowns: Crowns | None = None,
    starts: list[Floats] | None = None, given: float | None = None,
) -> Fit:  # fmt: skip
    """Bring `source` onto `target` by the surfaces that did not change.

    target_up: (3,) the target's occlusal direction, and its crowns, where known. starts: (4, 4) about where it lies, as
    a person pointed it out; without them, the position it comes in when that is roughly right (`given`: its
    `given_share`, where known), else all are searched.
    """
    if target_up is None:
        target_up, _ = guess_occlusal(target)
    crowns = crowns or Crowns.of(target, target_up)
    if starts is None:
        share = given_share(source, target) if given is None else given
        matrix, near, searched = _start(source, target, target_up, share)
    else:
        (matrix, _), near, searched = _likeliest(source, target, starts), False, False
    if searched and _hopeless(source, target, matrix):
        points = source.thinned(CLOUD_MM)
        return Fit.of(matrix, Samples.take(points, target, matrix, crowns), target, SURFACE_SHARE * CLOUD_MM**2)
    coarse_t, coarse_s = Cloud.of(target.thinned(CLOUD_MM)), Cloud.of(source.thinned(CLOUD_MM))
    for limit in STAGES_MM[1:] if near else STAGES_MM:
        matrix = coarse_t.fit(coarse_s, matrix, limit)
    fine_s, fine_t = source.thinned(FINE_CLOUD_MM), target.thinned(FINE_CLOUD_MM)
    # Crowns alone decide where there are enough of them: gingiva only costs time.
    hard, theirs = crowns.hold(move(matrix, fine_s)), crowns.hold(fine_t)
    if hard.sum() > MIN_CROWN_POINTS:
        fine_s, fine_t = fine_s[hard], fine_t[theirs]
    cloud = Cloud.of(fine_t)
    samples = Samples.take(fine_s, target, matrix, crowns)
    for _ in range(FINE_ROUNDS):
        matrix = cloud.fit(Cloud.of(fine_s[samples.stable()]), matrix, STAGES_MM[-1])
        samples = Samples.take(fine_s, target, matrix, crowns)
    return Fit.of(matrix, samples, target, SURFACE_SHARE * FINE_CLOUD_MM**2)


def by_pairs(theirs: Floats, ours: Floats) -> Floats:
    """The matrix (4, 4) that brings points `theirs` (N, 3) nearest to `ours`, least squares (Kabsch 1976)."""
    a, b = theirs.mean(axis=0), ours.mean(axis=0)
    turn, _ = Rotation.align_vectors(ours - b, theirs - a)
    matrix = np.eye(4)
    matrix[:3, :3] = turn.as_matrix()
    matrix[:3, 3] = b - matrix[:3, :3] @ a
    return matrix


def near_pairs(theirs: Floats, ours: Floats) -> list[Floats]:
    """Positions (4, 4) to begin from: `by_pairs`, and turned from it about the places' longest direction, which places
    that lie nearly along a line hardly fix."""
    matrix = by_pairs(theirs, ours)
    middle = ours.mean(axis=0)
    along = np.linalg.svd(ours - middle, full_matrices=False)[2][0]
    out = []
    for turn_deg in TURNED_DEG:
        out.append(turn_about(np.radians(turn_deg) * along, middle) @ matrix)
    return out


def _likeliest(source: Surface, target: Surface, starts: list[Floats]) -> tuple[Floats, float]:
    """The position that fits best of those that `starts` lead to, and the share of points that then come near."""
    some = source.thinned(SOME_MM)
    thin_t, thin_s = Cloud.of(target.thinned(THIN_MM)), Cloud.of(source.thinned(THIN_MM))
    tree = cKDTree(target.thinned(THIN_MM / 2))
    closer = _Closer(source, target, some)
    tried = []
    for start in starts:
        matrix = thin_t.fit(thin_s, start, STARTS_MM[0], FIRST_ROUNDS)
        near, _ = tree.query(move(matrix, some), distance_upper_bound=THIN_MM)
        score = float(np.clip(1 - near / THIN_MM, 0, 1).mean())
        if score > PROMISING:
            closer.look(matrix)
            if closer.sure:
                return closer.best, closer.share
        tried.append((score, matrix))
    tried.sort(key=lambda t: -t[0])
    most = LOOKED_INTO if tried[0][0] > UNPROMISING else LOOKED_AT_LEAST
    for score, begun in tried:
        if closer.count and (closer.count >= most or score < NO_RIVAL * tried[0][0]):
            break
        closer.look(begun)
        if closer.sure:
            break
    return closer.best, closer.share


class _Closer:
    """Looks closer into positions, each once, and keeps the `best` with the `share` of points that come near there."""

    def __init__(self, source: Surface, target: Surface, some: Floats) -> None:
        self._target, self._some = target, some
        self._cloud, self._theirs = (Cloud.of(s.thinned(START_CLOUD_MM)) for s in (target, source))
        self._seen: list[Floats] = []
        self.best, self.share = np.eye(4), -1.0

    @property
    def count(self) -> int:
        """Positions that were looked into."""
        return len(self._seen)

    @property
    def sure(self) -> bool:
        """Whether the best fits so well that it is the one."""
        return self.share > SURELY_SHARE

    def look(self, begun: Floats) -> None:
        """Look into the position `begun` (4, 4), unless it is one of those that were."""
        there = move(begun, self._some)
        if any(lengths(there - other).max() < SAME_MM for other in self._seen):
            return
        self._seen.append(there)
        matrix = begun
        for reach in STARTS_MM[1:]:
            matrix = self._cloud.fit(self._theirs, matrix, reach, CLOSER_ROUNDS)
        share = inlier_share(self._some, self._target, matrix, START_WITHIN_MM)
        if share > self.share:
            self.best, self.share = matrix, share


def given_share(source: Surface, target: Surface) -> float:
    """Share of `source` that comes near `target` in the position that it comes in."""
    return inlier_share(source.thinned(SOME_MM), target, np.eye(4), START_WITHIN_MM)


def _start(source: Surface, target: Surface, target_up: Floats, given: float) -> tuple[Floats, bool, bool]:
    """A position to begin from, whether it is the given one and near already, and whether all were searched; given: the
    `given_share`."""
    identity = np.eye(4)
    if given >= START_SHARE:
        return identity, given >= NEAR_SHARE, False
    from vane_line.core.align.coarse import candidates  # its transforms take a tenth of a second to import

    source_up, _ = guess_occlusal(source)
    best, _ = _likeliest(source, target, [identity, *candidates(source, target, source_up, target_up)])
    return best, False, True


def _hopeless(source: Surface, target: Surface, matrix: Floats) -> bool:
    """Whether what lies over the target under `matrix` lies off it so often that no finer fit can mend it."""
    distance, _, _ = target.closest(move(matrix, source.thinned(SOME_MM)))
    over = distance < THIN_MM
    return bool((distance < START_WITHIN_MM).sum() < HOPELESS_SHARE * max(int(over.sum()), 1))


def inlier_share(source_points: Floats, target: Surface, matrix: Floats, within_mm: float) -> float:
    """Share of `source_points` (N, 3) that come within a distance of the target under `matrix`."""
    distance, _, _ = target.closest(move(matrix, source_points))
    return float((distance < within_mm).mean())
