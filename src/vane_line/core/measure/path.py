"""Path of insertion: the direction with the greatest 5 %-by-area quantile of draft over the axial walls."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.spread import weighted_quantile
from vane_line.core.vectors import unit

NO_ONE_SLOPE = "The walls have no one slope"
LEANING_REACH_DEG = 5.0  # of the closer grid where every degree of tilt must win something: the best lies near
QUANTILE, SPREAD = 0.05, 0.3  # the mean of the quantiles this share about it: one alone jumps
ROBUST = 0.17  # of the path that walls leaning back shall not tilt
MOST_UNDERCUT, UNDERCUT_DEG = 0.15, 2.0  # of the walls by area; from level to so far back a wall's say runs out
REACH_DEG = 25.0
COARSE_DEG, CLOSER_DEG, CLOSER_REACH_DEG = 3.0, 0.5, 8.0  # of the grids of tilts; the last halves the closer one
TIE_LEAN, TIED = 0.0, 0.002  # of draft a degree of tilt: none for walls all round, but for the coarse search's ties
NEARLY_DEG = 0.15  # a direction whose draft is less than the best by this has a third of its say
NO_SAY_DEG = 1.25  # … and by this, none
ROUGHLY_DEG = 0.4  # the same on the coarse grid, for where the closer ones lie


@dataclass(frozen=True, eq=False)
class Path:
    """Unit direction (3,) out of the tooth, the draft quantile it gives, and where it came from.

    settled: whether walls and path agree; where they do not, it is the tooth's own axis. loose: (3, 3) covariance in
    degrees² of the directions that are nearly as good: the walls of a front tooth's sides leave the path free to face
    and back. open: (3, 3) in degrees² of what it may as well be where the walls do not tell it; why_open: in words.
    """

    direction: Floats
    least_draft_deg: float
    source: str  # best | given
    settled: bool = True
    loose: Floats = field(default_factory=lambda: np.zeros((3, 3)))
    open: Floats = field(default_factory=lambda: np.zeros((3, 3)))
    why_open: str = NO_ONE_SLOPE

    def loose_deg(self, way: Floats) -> float:
        """Standard deviation, along `way` (3,), of the directions that are nearly as good."""
        return float(np.sqrt(np.maximum(way @ self.loose @ way, 0.0)))

    def open_deg(self, way: Floats | None = None) -> float:
        """Standard uncertainty, along `way` (3,) or wherever it is greatest, by what the path may as well be."""
        squared = np.linalg.eigvalsh(self.open)[-1] if way is None else way @ self.open @ way
        return float(np.sqrt(np.maximum(squared, 0.0)))

    def or_else(self, others: Sequence[Floats]) -> Path:
        """The same path, open as far as others (3,): the furthest is at the end of its range."""
        off = np.degrees(np.reshape(others, (-1, 3)) - self.direction)
        return replace(self, open=self.open + off.T @ off / 4)


def draft_deg(normals: Floats, direction: Floats) -> Floats:
    """(N,) angle between wall and path, positive where the wall is seen from above."""
    return np.asarray(np.degrees(np.arcsin(np.clip(normals @ direction, -1, 1))))


def least_draft(normals: Floats, areas: Floats, direction: Floats) -> float:
    """The draft below which 5 % of the wall area lies."""
    return weighted_quantile(draft_deg(normals, direction), areas, QUANTILE)


def best_path(normals: Floats, areas: Floats, axis: Floats, side: Floats, lean: float = TIE_LEAN) -> Path:
    """The best direction within REACH_DEG of `axis`: the middle of those that are nearly the best.

    normals: (N, 3) unit of the walls; areas: (N,). side: (3,) across `axis`, by which tilts are counted. lean: draft
    that a degree of tilt must win: walls that stand on three sides only leave one way open. The quantile
    has ridges and nearly equal peaks; their middle moves evenly with the walls, a winner would jump. Walls that lean
    back along a path found without their say are undercuts: they are said as such, and do not tilt it.
    """
    if len(normals) == 0:
        return Path(axis, float("nan"), "best")
    frame = np.stack([side, np.cross(axis, side), axis])
    without, _ = middle_of_best(normals, areas, frame, ROBUST, lean)
    say = np.clip(draft_deg(normals, without) / UNDERCUT_DEG + 1, 0, 1)
    if 1 - (say @ areas) / areas.sum() > MOST_UNDERCUT:  # so much of the walls is no local fault
        say = np.ones(len(say))
    best, loose = middle_of_best(normals, areas * say, frame, QUANTILE, lean)
    return Path(best, least_draft(normals, areas, best), "best", loose=loose)


def middle_of_best(
    normals: Floats, areas: Floats, frame: Floats, quantile: float, lean: float
) -> tuple[Floats, Floats]:
    """The mean (3,) of the directions about the third row of `frame` (3, 3), by how near the best their draft is; and
    their covariance (3, 3), degrees²."""

    def directions(tilts: Floats) -> Floats:
        t = np.tan(np.radians(tilts))
        return unit(frame[2] + t[:, :1] * frame[0] + t[:, 1:] * frame[1])

    def worth(tilts: Floats) -> Floats:
        return quantiles_about(normals, areas, directions(tilts), quantile) - lean * np.hypot(*tilts.T)

    coarse = _tilts(COARSE_DEG, REACH_DEG)
    drafts = worth(coarse)
    first = coarse[np.argmax(drafts - max(TIED - lean, 0) * np.hypot(*coarse.T))]
    reach = CLOSER_REACH_DEG if lean == TIE_LEAN else LEANING_REACH_DEG
    about = np.hypot(*(coarse - first).T) <= reach
    start = np.average(coarse[about], axis=0, weights=np.exp((drafts[about] - drafts.max()) / ROUGHLY_DEG))
    # The closer grids' places do not hang on where the coarse search ended; all that is nearly as good has its say.
    closer = np.round(start / CLOSER_DEG) * CLOSER_DEG + _tilts(CLOSER_DEG, reach)
    drafts = worth(closer)
    quarters = np.stack(np.meshgrid(*[[-CLOSER_DEG / 4, CLOSER_DEG / 4]] * 2), axis=-1).reshape(-1, 2)
    fine = (closer[drafts > drafts.max() - NO_SAY_DEG][:, None] + quarters).reshape(-1, 2)
    drafts = worth(fine)
    tilt = np.hypot(*fine.T)  # where even the nearest lies beyond the reach, that one is the path
    say = np.where(tilt <= max(REACH_DEG, tilt.min()), np.exp((drafts - drafts.max()) / NEARLY_DEG), 0.0)
    say /= say.sum()
    middle = say @ fine
    off = (fine - middle) @ frame[:2]
    return np.asarray(directions(middle[None])[0]), np.asarray((off * say[:, None]).T @ off)


def _tilts(step_deg: float, reach_deg: float) -> Floats:
    """(T, 2) tilts on a square grid within a circle."""
    line = np.arange(-np.floor(reach_deg / step_deg), np.floor(reach_deg / step_deg) + 1) * step_deg
    grid = np.stack(np.meshgrid(line, line, indexing="ij"), axis=-1).reshape(-1, 2)
    return np.asarray(grid[np.hypot(*grid.T) <= reach_deg + 1e-9])


def quantiles_about(normals: Floats, areas: Floats, directions: Floats, quantile: float = QUANTILE) -> Floats:
    """(D,) the least draft along each of `directions` (D, 3): the mean of the quantiles about `quantile`."""
    weight = areas / areas.sum()
    low, high = (1 - SPREAD) * quantile, (1 + SPREAD) * quantile
    # No more than so many lie lowest, however little each weighs: the others need not be put in order.
    count = min(int(np.searchsorted(np.cumsum(np.sort(weight)), high)) + 1, len(weight))
    sine = directions @ normals.T
    lowest = np.argpartition(sine, count - 1, axis=1)[:, :count]
    sine = np.take_along_axis(sine, lowest, axis=1)
    order = np.argsort(sine, axis=1)
    ranked = np.degrees(np.arcsin(np.clip(np.take_along_axis(sine, order, axis=1), -1, 1)))
    weight = weight[np.take_along_axis(lowest, order, axis=1)]
    upto = np.cumsum(weight, axis=1)
    within = np.clip(np.minimum(upto, high) - np.maximum(upto - weight, low), 0, None)
    return np.asarray((ranked * within).sum(axis=1) / within.sum(axis=1))
