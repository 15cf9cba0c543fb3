"""The chewing surface of a back tooth, drawn with ridges and grooves as anatomists describe them.

A cusp is four ridges that meet at its tip: a triangular ridge towards the middle, one along the arch to either side and
one down its outer face. Marginal ridges close the ends. Valleys arise where ridges meet; fissures follow the lines
between the cusps and end in pits. No line of a tooth is straight: the plan is bent a little before it is drawn on, but
not at the tips of the cusps. Plan coordinates are a tooth's own: x mesial, y facial, mm; heights from its neck.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import map_coordinates, spline_filter

from vane_line.core.arrays import Floats

STEP_MM = 0.06
BEYOND_MM = 2.6  # of the map past the tooth's outline
BLEND_MM = 0.12  # over which two ridges flow into one
FALL_POWER, FALL_AT_MM = 1.35, 1.2  # ridges are convex across; so far off its crest one has fallen by its slope
BENT_MM, CALM_MM = 0.18, 0.7  # how far the plan is bent, and how far round a tip it is not
WAVES, WAVES_MM = 10, (1.8, 5.0)  # of which that is made, and their lengths
FURROW_ENDS = 4.0  # times its half-width, from its middle
NARROW_MM, BROAD_MM, BROAD_SHARE = 0.15, 0.48, 0.42  # half-widths of a fissure and of the furrow that it lies in


@dataclass(frozen=True, eq=False)
class Ridge:
    """A crest along `path` (P, 2) at `height` (P,), falling off to its sides by `slope`, rounded over `round_mm`."""

    path: Floats
    height: Floats
    slope: float = 0.78
    round_mm: float = 0.55


@dataclass(frozen=True, eq=False)
class Groove:
    """A fissure along `path` (P, 2), `depth` (P,) deep."""

    path: Floats
    depth: Floats


def curve(*points: tuple[float, float], count: int = 9) -> Floats:
    """(count, 2) a smooth way through two or three places: straight, or the parabola through all three."""
    p = np.array(points, dtype=float)
    t = np.linspace(0, 1, count)[:, None]
    if len(p) == 2:
        return np.asarray(p[0] + t * (p[1] - p[0]))
    a, b, c = p
    return np.asarray((1 - t) * (1 - 2 * t) * a + 4 * t * (1 - t) * b + t * (2 * t - 1) * c)


@dataclass(frozen=True, eq=False)
class Bent:
    """A plan bent by waves drawn from `seed`, never at `still` (P, 2)."""

    seed: int
    still: Floats

    def __call__(self, plan: Floats) -> Floats:
        """(N, 2) where each place of the plan is drawn."""
        rng = np.random.default_rng(self.seed)
        off = np.zeros_like(plan)
        for _ in range(WAVES):
            long, angle = rng.uniform(*WAVES_MM), rng.uniform(0, 2 * np.pi)
            phase = 2 * np.pi / long * (plan @ [np.cos(angle), np.sin(angle)])
            off += long / np.mean(WAVES_MM) * np.sin(phase[:, None] + rng.uniform(0, 2 * np.pi, 2))
        near = ((plan[:, None] - self.still) ** 2).sum(axis=2).min(axis=1)
        held = 1 - np.exp(-near / CALM_MM**2)
        return np.asarray(plan + BENT_MM * (2 / WAVES) ** 0.5 * off * held[:, None])


class HeightMap:
    """Heights over the plan, between the drawn points by cubic splines."""

    def __init__(self, low: Floats, values: Floats) -> None:
        self._low, self._coefficients = low, spline_filter(values, order=3)
        self.lowest = float(self._coefficients.min())  # mm: no spline goes under the least of its coefficients

    def __call__(self, x: Floats, y: Floats) -> Floats:
        """(N,) mm; beyond the map its border's height."""
        at = np.stack([(x - self._low[0]) / STEP_MM, (y - self._low[1]) / STEP_MM])
        return np.asarray(map_coordinates(self._coefficients, at, order=3, prefilter=False, mode="nearest"))


def heights(
    half: tuple[float, float], middle: float, ridges: list[Ridge], grooves: list[Groove], bent: Bent | None = None
) -> HeightMap:
    """The relief over a plan of half-widths `half` round (0, middle), bent where it is told how."""
    low = np.array([-half[0] - BEYOND_MM, middle - half[1] - BEYOND_MM])
    count = np.ceil(2 * (np.array(half) + BEYOND_MM) / STEP_MM).astype(int) + 1
    x, y = np.meshgrid(*(low[k] + STEP_MM * np.arange(count[k]) for k in (0, 1)), indexing="ij")
    plan = np.stack([x.ravel(), y.ravel()], axis=1)
    plan = bent(plan) if bent else plan
    crests = np.stack([_crest(plan, ridge) for ridge in ridges])
    top = crests.max(axis=0)
    value = top + BLEND_MM * np.log(np.exp((crests - top) / BLEND_MM).sum(axis=0))
    for groove in grooves:
        # Further off a furrow is less than a nanometre deep.
        box = groove.path.min(axis=0) - FURROW_ENDS * BROAD_MM, groove.path.max(axis=0) + FURROW_ENDS * BROAD_MM
        near = ((plan > box[0]) & (plan < box[1])).all(axis=1)
        off, t = _nearest(plan[near], groove.path)
        depth = np.interp(t, np.linspace(0, 1, len(groove.depth)), groove.depth)
        furrow = np.exp(-((off / NARROW_MM) ** 2)) + BROAD_SHARE * np.exp(-((off / BROAD_MM) ** 2))
        value[near] -= depth * furrow / (1 + BROAD_SHARE)
    return HeightMap(low, value.reshape(x.shape))


def _crest(plan: Floats, ridge: Ridge) -> Floats:
    off, t = _nearest(plan, ridge.path)
    height = PchipInterpolator(np.linspace(0, 1, len(ridge.height)), ridge.height)(t)
    r, p = ridge.round_mm, FALL_POWER
    usual = np.hypot(FALL_AT_MM, r) - r
    share = ((off**2 + r**2) ** (p / 2) - r**p) / ((FALL_AT_MM**2 + r**2) ** (p / 2) - r**p)
    return np.asarray(height - ridge.slope * usual * share)


def _nearest(plan: Floats, path: Floats) -> tuple[Floats, Floats]:
    """Distance (N,) of each place to a path, and the share of its length at which it is nearest."""
    x, y = np.ascontiguousarray(plan.T)
    best, share = np.full(len(plan), np.inf), np.zeros(len(plan))
    pieces = len(path) - 1
    for k in range(pieces):
        a, step = path[k], path[k + 1] - path[k]
        from_x, from_y = x - a[0], y - a[1]
        t = np.clip((from_x * step[0] + from_y * step[1]) / max(float(step @ step), 1e-12), 0, 1)
        off = (from_x - t * step[0]) ** 2 + (from_y - t * step[1]) ** 2
        nearer = off < best
        np.minimum(best, off, out=best)
        np.copyto(share, (k + t) / pieces, where=nearer)
    return np.sqrt(best), share
