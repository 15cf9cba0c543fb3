"""Taper of the walls by azimuth, total occlusal convergence, second planes and wall heights.

The taper of a wall is the angle between the path and the wall in the plane of the path and the wall's own normal. A
half-plane through the axis reads tan(taper)/cos(phi) where the wall's outline runs at phi to the tangent of a circle,
so the reading is set right by the outline's own direction.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.straight_run import AS_DEFINED, SHORT_RUN_MM, Asked, Line, straight_runs
from vane_line.core.rings import degrees_past, in_runs, running_median, true_about
from vane_line.core.spread import graded, middling
from vane_line.core.trace.section import STEP_MM, Axes, Profiles
from vane_line.core.trace.wall import LEAST_HEIGHT_MM, WallRuns
from vane_line.core.vectors import unit

TOP_EASE_MM = 0.20  # the top is found from a window half as wide
STRAIGHT_MM = 0.010  # rms by which a noiseless straight run may wander
NOISE_FACTOR = 1.6  # of the scan's noise: what a profile of a straight wall shows at most
ON_TOP_MM = 0.5  # beyond the place where the wall's line is left the profile runs on the top
EDGE_BACK_MM, EDGE_ON_MM = 0.25, 0.4  # the middle of the edge lies this far from that place at most
TURN_SHARE, LEAST_TURN_DEG = 0.3, 4.0  # of an edge's whole turn, over which wall gives way to top
ON_LINE_MM = 0.05  # the wall ends where the surface leaves its line by this much
OUTLINE_DEG = 7  # half-width of the smoothing of the outline
SMOOTH_DEG = 15  # half-width of the robust fit at an azimuth
LEAST_ROWS = 6  # for a robust fit
GAP_DEG, BESIDE_DEG = 3, 4  # from so wide on, a stretch that was not seen spoils the rows so far beside it
MOST_PROLONGED = 10.0  # times a robust fit's scatter with all rows; from one side alone it has far more
MOST_ROUNDS, STILL_DEG = 60, 1e-6  # of a robust fit: stopped before it stands still, it tells where it began
# Times the median, and the mean, distance from the middle: the standard deviation, with normal noise.
MEDIAN_APART, MEAN_APART = 1.4826, 1.2533
OPEN_MM = 0.10  # heights that scatter by more, by and by, do not agree on where the wall ends
TUKEY = 4.685  # 95 % efficiency with normal noise
EASE_DEG = 3  # to either side: of the lean that decides the path
ROWS_DEG = 2  # spacing of the rows that are reported


@dataclass(frozen=True, eq=False)
class Walls:
    """Per azimuth (A,), nan where no wall was fitted. The wall's line is radius = at_zero + slope * height.

    taper_deg: of the lowest straight run, in its own plane. second_deg: of the plane above it, nan where there is none.
    foot, top: heights (mm) of the run's lower end and of the wall's upper edge. height_mm: top above the finish line.
    cosine: of the angle between the outline's normal and the half-plane; way: 1 where the outline goes out, else -1.
    """

    azimuth_deg: Floats
    taper_deg: Floats
    second_deg: Floats
    at_zero: Floats
    slope: Floats
    foot: Floats
    top: Floats
    height_mm: Floats
    cosine: Floats
    way: Floats

    @property
    def found(self) -> Bools:
        return np.isfinite(self.taper_deg)

    def radius_at(self, height: Floats) -> Floats:
        """The wall's line at a height for each azimuth."""
        return self.at_zero + self.slope * height

    def over(self, line: FinishLine) -> Walls:
        """The same walls with their heights over a finish line."""
        return replace(self, height_mm=self.top - line.height)

    def samples(self, axes: Axes) -> tuple[Floats, Floats]:
        """Unit normals (N, 3) of the fitted walls and the area (N,) mm² that each stands for.

        From straight fits, each the median of its neighbourhood: single normals of a noisy scan scatter by degrees, and
        a quantile of them reads low.
        """
        told = self.found & (self.top > self.foot)
        lean = running_median(np.where(told, self.slope, np.nan), EASE_DEG)[told]
        turn = np.arccos(np.clip(self.cosine[told], 0, 1)) * self.way[told]
        out, along = (axes.outward(self.azimuth_deg[told] + further) for further in (0.0, 90.0))
        normals = unit(out - np.tan(turn)[:, None] * along - lean[:, None] * axes.up)
        middle = self.radius_at((self.foot + self.top) / 2)[told]
        wide = np.radians(360 / len(told)) * middle / np.maximum(self.cosine[told], 0.3)
        return normals, np.maximum(wide, 0) * (self.top - self.foot)[told]

    @cached_property
    def surely(self) -> Bools:
        """(A,) where a wall was fitted, and not right beside a stretch in which none was: there the rim of what the
        scan saw is read."""
        per_deg = len(self.taper_deg) / 360
        unseen = in_runs(~self.found, max(round(GAP_DEG * per_deg), 1))
        return self.found & true_about(~unseen, round(BESIDE_DEG * per_deg))

    @cached_property
    def leaning(self) -> Floats:
        """(A,) taper of what is surely seen and high enough over the finish line to lean at all; else nan."""
        told = self.surely & ~(self.height_mm < LEAST_HEIGHT_MM)
        return np.asarray(np.where(told, self.taper_deg, np.nan))

    def convergence_at(self, azimuth_deg: float) -> float:
        """Both walls' tapers there added; nan where what is seen of one lies so far to one side that its curve would
        have to be prolonged."""
        here, opposite = azimuth_deg, azimuth_deg + 180
        if any(not self._share_of_rows(a) <= MOST_PROLONGED**2 for a in (here, opposite)):
            return float("nan")
        return self.taper_at(here) + self.taper_at(opposite)

    def convergence_hangs(self, azimuth_deg: float) -> float:
        """By how many times more a convergence scatters there than the taper of a wall 1 mm high, seen all over
        ±SMOOTH_DEG: short runs lean with the noise, and where rows are missing the rest must do. nan: none is told.
        """
        return float(np.hypot(self._hangs(azimuth_deg), self._hangs(azimuth_deg + 180)))

    def _hangs(self, azimuth_deg: float) -> float:
        """Of one wall."""
        share = self._share_of_rows(azimuth_deg)
        if not np.isfinite(share):
            return float("nan")
        _, near = _near(self.azimuth_deg, self.leaning, azimuth_deg)
        run = float(np.nanmedian(np.maximum(self.top - self.foot, SHORT_RUN_MM)[near]))
        return float(np.sqrt(share * run**-3))

    def _share_of_rows(self, azimuth_deg: float) -> float:
        """By how many times the variance of a quadratic's middle is greater than with every row seen; nan where too few
        are for one."""
        off, near = _near(self.azimuth_deg, self.leaning, azimuth_deg)
        if near.sum() < LEAST_ROWS:
            return float("nan")
        terms = np.vander(off, 3, increasing=True)
        seen, every = terms[near], terms[np.abs(off) <= 1]
        return float(np.linalg.pinv(seen.T @ seen)[0, 0] / np.linalg.inv(every.T @ every)[0, 0])

    def taper_at(self, azimuth_deg: float) -> float:
        """Of one wall, by a robust quadratic over ±SMOOTH_DEG, so that a groove does not decide."""
        return robust_at(self.azimuth_deg, self.leaning, azimuth_deg)

    def height_at(self, azimuth_deg: float) -> float:
        """Wall height there, what most profiles within ±SMOOTH_DEG agree on."""
        return middling(self._heights_near(azimuth_deg)[1])

    def height_open_mm(self, azimuth_deg: float) -> float:
        """Standard uncertainty of `height_at` where the profiles do not agree: a wall that bends slightly ends at the
        bend on one of them and at its top on the next. Nought where heights change evenly along the wall."""
        x, y = self._heights_near(azimuth_deg)
        if len(x) < LEAST_ROWS:
            return 0.0
        apart = y - np.polyval(np.polyfit(x, y, 2), x)
        scatter = MEAN_APART * float(np.abs(apart - np.median(apart)).mean())
        return scatter * float(graded(np.array(scatter - OPEN_MM), OPEN_MM))

    def _heights_near(self, azimuth_deg: float) -> tuple[Floats, Floats]:
        """Of the rows (N,) within ±SMOOTH_DEG that are surely seen: how far past, in SMOOTH_DEG, and how high."""
        off, near = _near(self.azimuth_deg, np.where(self.surely, self.height_mm, np.nan), azimuth_deg)
        return off[near], self.height_mm[near]


def fit_walls(rings: Profiles, runs: WallRuns, noise_um: float, asked: Asked = AS_DEFINED) -> Walls:
    """Fit the lowest straight run of every profile between its foot and its upper end; asked: what it must be."""
    n = len(rings.azimuth_deg)
    reach = int(np.where(runs.found, runs.foot - runs.top + 1, 0).max(initial=1)) + round(1.0 / STEP_MM)
    k = np.arange(reach)
    index = np.maximum(runs.foot, 0)[:, None] - k[None]
    valid = (index >= 0) & runs.found[:, None]
    rows = np.arange(n)[:, None]
    r = np.where(valid, rings.radius[rows, np.maximum(index, 0)], np.nan)
    h = np.where(valid, rings.height[rows, np.maximum(index, 0)], np.nan)
    r0, h0 = r[:, :1], h[:, :1]
    length = np.where(runs.found, runs.foot - runs.top + 1 - round(TOP_EASE_MM / STEP_MM), 0)
    up, out = h - h0, r - r0
    run = straight_runs(up, out, length, STRAIGHT_MM + NOISE_FACTOR * noise_um / 1000, asked)
    b = run.slope
    at_zero = (run.at_foot + r0[:, 0]) - b * h0[:, 0]
    turn = outline_slope(at_zero + b * np.nanmedian(h[:, len(k) // 4]) if run.found.any() else at_zero)
    cosine = np.asarray(1 / np.hypot(1, turn))
    angle = np.where(valid, runs.angle[rows, np.maximum(index, 0)], np.nan)
    tops = [_upper_edge(up, out, line, angle) for line in run.lines]
    foot = h[np.arange(n), np.minimum(run.begin, reach - 1)]
    return Walls(
        azimuth_deg=rings.azimuth_deg,
        taper_deg=np.degrees(np.arctan(-b * cosine)),
        second_deg=np.degrees(np.arctan(-run.second * cosine)),
        at_zero=at_zero,
        slope=b,
        foot=np.where(run.found, foot, np.nan),
        top=run.mean(tops) + h0[:, 0],
        height_mm=np.full(n, np.nan),
        cosine=cosine,
        way=np.where(turn < 0, -1.0, 1.0),
    )


def outline_cosine(outline: Floats) -> Floats:
    """(A,) cosine of the angle between the outline's normal and the radius, from the outline's smooth course."""
    return np.asarray(1 / np.hypot(1, outline_slope(outline)))


def outline_slope(outline: Floats) -> Floats:
    """(A,) how fast the outline goes outward with the azimuth, for its radius; 0 where too little is known."""
    n = len(outline)
    half = max(1, round(OUTLINE_DEG * n / 360))
    known = np.isfinite(outline)
    if known.sum() < n // 2:
        return np.zeros(n)
    filled = np.interp(np.arange(n), np.flatnonzero(known), outline[known], period=n)
    wide = np.r_[filled[-half:], filled, filled[:half]]
    offsets = np.radians(np.arange(-half, half + 1) * 360 / n)
    slope = np.lib.stride_tricks.sliding_window_view(wide, 2 * half + 1) @ offsets / (offsets @ offsets)
    return np.asarray(slope / np.maximum(filled, 0.3))


def _upper_edge(h: Floats, r: Floats, line: Line, angle: Floats) -> Floats:
    """Height over the foot of the middle of the rounded upper edge: where the profile has turned half way from wall to
    top.

    It is looked for round the place where the surface leaves the wall's line, going up from the run's end. angle:
    (A, K) of the profile's tangent.
    """
    off, end = np.abs(r - (line.at_foot[:, None] + line.slope[:, None] * h)), line.end
    k = np.arange(h.shape[1])[None]
    left = (k >= end[:, None] - 1) & ~(off < ON_LINE_MM)
    last = np.where(left.any(axis=1), left.argmax(axis=1) - 1, h.shape[1] - 1)
    last = np.minimum(np.maximum(last, np.maximum(end - 1, 0)), h.shape[1] - 1)
    rows = np.arange(len(h))
    wall = np.degrees(np.arctan2(-1.0, -line.slope))
    beyond = angle[rows, np.minimum(last + round(ON_TOP_MM / STEP_MM), h.shape[1] - 1)]
    half = ((wall + beyond) / 2)[:, None]
    near, far = round(EDGE_BACK_MM / STEP_MM), round(EDGE_ON_MM / STEP_MM)
    k = np.clip(last[:, None] + np.arange(-near, far + 1), 0, h.shape[1] - 1)
    around = angle[rows[:, None], k]
    turned = around > half
    # Where half a turn is crossed more than once the first place would jump: as far as it is not turned, all counted.
    width = np.maximum(TURN_SHARE * (beyond - wall), LEAST_TURN_DEG)[:, None]
    with np.errstate(all="ignore"):
        straight = np.clip(0.5 - (around - half) / width, 0, 1)
    at = np.clip(np.where(np.isfinite(straight), straight, 0.0).sum(axis=1) - 0.5, 0, near + far)
    before, share = np.floor(at).astype(int), at % 1
    after = np.minimum(before + 1, near + far)
    edge = h[rows, k[rows, before]] + share * (h[rows, k[rows, after]] - h[rows, k[rows, before]])
    told = turned.any(axis=1) & ~turned[:, 0] & np.isfinite(edge)
    return np.where(told, edge, h[rows, last])


def _near(azimuth_deg: Floats, values: Floats, at_deg: float) -> tuple[Floats, Bools]:
    """(A,) how far each row lies past an azimuth, in SMOOTH_DEG, and which of those within one of it are known."""
    off = degrees_past(azimuth_deg, at_deg)
    return off / SMOOTH_DEG, (np.abs(off) <= SMOOTH_DEG) & np.isfinite(values)


def robust_at(azimuth_deg: Floats, values: Floats, at_deg: float) -> float:
    """A quadratic through the values within ±SMOOTH_DEG, far ones with little say (Tukey's biweight), at its middle;
    nan where too few agree."""
    off, near = _near(azimuth_deg, values, at_deg)
    if near.sum() < LEAST_ROWS:
        return float("nan")
    x, y = off[near], values[near]
    weight = np.ones(len(x))
    # Begun from the median, which a groove of less than half the width does not move.
    residual = y - np.median(y)
    coefficients = np.full(3, np.nan)
    for _ in range(MOST_ROUNDS):
        scale = max(MEDIAN_APART * float(np.median(np.abs(residual))), 0.02)
        weight = np.clip(1 - (residual / (TUKEY * scale)) ** 2, 0, 1) ** 2
        if (weight > 0.1).sum() < LEAST_ROWS:
            break
        coefficients = np.polyfit(x, y, 2, w=np.sqrt(weight))
        before, residual = residual, y - np.polyval(coefficients, x)
        if np.abs(residual - before).max() < STILL_DEG:
            break
    return float(np.polyval(coefficients, 0.0))
