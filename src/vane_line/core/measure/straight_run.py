"""The straight run of a wall on a profile: where it begins over the fillet, where it bends, and what a step is in it.

Heights and radii are counted from the wall's foot, sample by sample up the profile.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.spread import graded
from vane_line.core.trace.section import STEP_MM

RUN_MM = 1.0  # a straight run is at least this long, unless asked otherwise
SHORT_RUN_MM = 0.6  # of a wall too short for that
FILLET_MM = 1.3  # a fillet ends within this much arc above the foot
CLEAR_MM = 0.10  # of the fillet's end
SPLIT_SHARE = 0.5  # two lines must halve the residual, more or less …
SPLIT_EASE = 0.1
SPLIT_DEG, SPLIT_EASE_DEG = 8.0, 2.0  # … and differ by more than this to be two planes, unless asked otherwise
SECOND_MM = 0.5  # a second plane is at least this long
EVEN_SHARE = 0.05  # of the least sum of squares, by which a place where two lines part is worse with a third of the say
NOTHING = 1e-12
LOW_STEP_MM = 1.5  # what of a step or a fillet looks like a plane at the wall's foot is no higher
LONGER_EASE_MM = 0.1  # to either side of equal lengths, over which one part of a wall comes to be the longer
BESIDE_STEP_MM = 0.2  # of a step's own slope, to either side of where two lines meet
STEP_MM_FROM, STEP_MM_TO = 0.03, 0.08  # two lines further apart where they meet stand on either side of a step …
STEP_DEG_FROM, STEP_DEG_TO = 6.0, 10.0  # … and so where the lower leans further in by so much


@dataclass(frozen=True)
class Asked:
    """What a wall's straight run must be: how long at least, by how much two planes differ and what share of one line's
    residual they leave; and how far above its lower end it is read from."""

    run_mm: float = RUN_MM
    split_deg: float = SPLIT_DEG
    split_share: float = SPLIT_SHARE
    higher_mm: float = 0.0


AS_DEFINED = Asked()
# As well might be asked: a wall of no one slope, or of two planes that are hardly two, is told otherwise then.
ASKED_OTHERWISE = (
    Asked(run_mm=0.8, split_deg=6.8, split_share=0.6),
    Asked(run_mm=1.25, split_deg=9.2, split_share=0.4),
    Asked(higher_mm=0.5),
)


@dataclass(frozen=True, eq=False)
class Line:
    """What may be each wall's lowest plane (A,): radius = at_foot + slope * height, up to `end` in samples above foot,
    and its say."""

    at_foot: Floats
    slope: Floats
    end: Ints
    say: Floats


@dataclass(frozen=True, eq=False)
class StraightRun:
    """Of each wall's lowest plane: begin in samples above the foot (A,), the slope of the plane above it (nan where
    there is none), whether there is one at all, and the lines it is made of: one has all the say but where a step or a
    bend is slight."""

    begin: Ints
    second: Floats
    found: Bools
    lines: list[Line]

    @property
    def at_foot(self) -> Floats:
        return self.mean([line.at_foot for line in self.lines])

    @property
    def slope(self) -> Floats:
        return self.mean([line.slope for line in self.lines])

    def mean(self, values: Sequence[Floats]) -> Floats:
        """(A,) of a value (A,) for each line, by its say; nan where there is no run."""
        parts = [np.where(m.say > 0, m.say * v, 0.0) for m, v in zip(self.lines, values, strict=True)]
        return np.where(self.found, np.sum(parts, axis=0), np.nan)


def straight_runs(
    height: Floats, radius: Floats, length: Ints, straight_mm: float, asked: Asked = AS_DEFINED
) -> StraightRun:
    """height, radius: (A, K) over the foot and outward of it, nan where nothing is; length: (A,) samples of the wall;
    straight_mm: rms by which a straight run may wander.

    Strokes that meet badly leave a step in a wall. One line over both its sides leans by what the step is wide, and at
    the foot a coarse scan smooths it, or a wide fillet's end, to a short plane that leans further in than the wall: the
    wall is its longer part. Of a slight step there is something of both, so that none tips the figure over, and of a
    slight bend something of the lower plane and of the whole wall.
    """
    sums = _Sums(height, radius)
    start, found = _above_fillet(sums, length, straight_mm, asked)
    bend = _bend(sums, start, length, asked)
    share, up, at = _past_step(bend, start)
    lines, second = _planes(sums, start, bend, bend.end, 1 - share)
    if (share > 0).any():
        clear, least = (round(v / STEP_MM) for v in (BESIDE_STEP_MM, RUN_MM))
        under, under_second = _planes(sums, start, bend, np.maximum(at - clear, start + least), share * (1 - up))
        first = np.where(up > 0, at + clear, start)
        over, over_second = _planes(sums, first, _bend(sums, first, length, asked), bend.end, share * up)
        lines += under + over
        most, above = share > 0.5, up > 0.5
        second = np.where(most, np.where(above, over_second, under_second), second)
        start = np.where(most & above, first, start)
    return StraightRun(start, second, found, lines)


class _Sums:
    """Straight-line fits r = a + b h over any stretch of every row, in constant time from running sums."""

    def __init__(self, h: Floats, r: Floats) -> None:
        rows = len(h)
        known = np.isfinite(h) & np.isfinite(r)
        h, r = np.where(known, h, 0.0), np.where(known, r, 0.0)
        terms = (known.astype(float), h, r, h * h, h * r, r * r)
        self._sums = [np.concatenate([np.zeros((rows, 1)), np.cumsum(t, axis=1)], axis=1) for t in terms]
        self._height, self._rows = h, np.arange(rows)

    def height_at(self, index: Ints) -> Floats:
        """(A,) of a sample of every row."""
        return np.asarray(self._height[self._rows, np.minimum(index, self._height.shape[1] - 1)])

    def fit(self, first: Ints, last: Ints) -> tuple[Floats, Floats, Floats, Floats]:
        """Intercept, slope, sum of squares and count of samples first..last-1 (..., A) of every row."""
        n, h, r, hh, hr, rr = (s[self._rows, last] - s[self._rows, first] for s in self._sums)
        with np.errstate(all="ignore"):
            shh, shr, srr = hh - h * h / n, hr - h * r / n, rr - r * r / n
            slope = np.where(shh > 1e-9, shr / shh, np.nan)
            return (r - slope * h) / n, slope, np.maximum(srr - slope * shr, 0.0), n


def _above_fillet(sums: _Sums, length: Ints, straight_mm: float, asked: Asked) -> tuple[Ints, Bools]:
    """Where the straight run begins, in samples above the foot, and whether there is one."""
    start = np.full(len(length), -1, dtype=np.int64)
    begin = np.arange(round(FILLET_MM / STEP_MM) + 1)[:, None]
    for run_mm in (asked.run_mm, SHORT_RUN_MM):
        run = round(run_mm / STEP_MM)
        first = np.minimum(begin, np.maximum(length - run, 0))
        _, _, squares, count = sums.fit(first, np.minimum(first + run, np.maximum(length, 0)))
        rms = np.where(length >= begin + run, np.sqrt(squares / np.maximum(count, 1)), np.nan)
        rms = np.where(np.isfinite(rms), rms, np.inf)
        straight = rms < straight_mm
        # Nothing quite straight: the straightest stretch there is.
        best = np.where(straight.any(axis=0), straight.argmax(axis=0), rms.argmin(axis=0))
        start = np.where((start < 0) & np.isfinite(rms).any(axis=0), best, start)
    usable = start >= 0
    above = round((CLEAR_MM + asked.higher_mm) / STEP_MM)
    clear = np.minimum(above, np.maximum(length - start - round(SHORT_RUN_MM / STEP_MM), 0))
    return np.where(usable, start + clear, 0), usable


@dataclass(frozen=True, eq=False)
class _Bend:
    """How two lines tell each run best: samples above the foot (A,) at which the upper one begins and where the run
    ends, the lines' slopes, by how much the lower one lies further out there (mm), what share of one line's sum of
    squares they leave; and every place at which they may part, with its say (K, A)."""

    at: Floats
    end: Ints
    lower: Floats
    upper: Floats
    jump: Floats
    residual: Floats
    places: Ints
    say: Floats
    asked: Asked

    @property
    def told(self) -> Floats:
        """(A,) how surely two lines tell the run better than one."""
        return np.clip((self.asked.split_share + SPLIT_EASE - self.residual) / (2 * SPLIT_EASE), 0, 1)

    @property
    def leans_in(self) -> Floats:
        """(A,) by how many degrees the upper line leans further in."""
        return np.asarray(np.degrees(np.arctan(self.lower) - np.arctan(self.upper)))


def _past_step(bend: _Bend, start: Ints) -> tuple[Floats, Floats, Ints]:
    """(A,) how surely the run leads over a step, how surely the part above it is the longer, and the step's sample."""
    at = np.rint(bend.at).astype(np.int64)
    below, above = (bend.at - start) * STEP_MM, (bend.end - bend.at) * STEP_MM
    up = graded(above - below, 2 * LONGER_EASE_MM) * graded(above - (RUN_MM + BESIDE_STEP_MM), 2 * LONGER_EASE_MM)
    aside = np.clip((bend.jump - STEP_MM_FROM) / (STEP_MM_TO - STEP_MM_FROM), 0, 1)
    low = up * graded(LOW_STEP_MM - below, 2 * LONGER_EASE_MM)
    leaning = np.clip((-bend.leans_in - STEP_DEG_FROM) / (STEP_DEG_TO - STEP_DEG_FROM), 0, 1)
    one = graded(bend.asked.split_deg - bend.leans_in, 2 * SPLIT_EASE_DEG)
    return np.nan_to_num(bend.told * np.maximum(aside, low * leaning) * one), np.nan_to_num(up), at


def _planes(sums: _Sums, first: Ints, bend: _Bend, last: Ints, say: Floats) -> tuple[list[Line], Floats]:
    """The whole wall from `first` on as one line and its lower plane, fitted up to `last` at most, with what they have
    of `say` (A,), and the slope of the plane above (nan where there is none)."""
    bent = np.clip((np.abs(bend.leans_in) - bend.asked.split_deg + SPLIT_EASE_DEG) / (2 * SPLIT_EASE_DEG), 0, 1)
    share = np.nan_to_num(np.minimum(bend.told, bent))
    low_end = np.minimum(np.rint(bend.at).astype(np.int64), last)
    whole = sums.fit(first, np.minimum(bend.end, last))[:2]
    parts = sums.fit(first, np.minimum(bend.places, last))[:2]
    low_at, low_slope = (_by_say(bend.say, v) for v in parts)
    lines = [Line(*whole, bend.end, say * (1 - share)), Line(low_at, low_slope, low_end, say * share)]
    return lines, np.where(share > 0.5, bend.upper, np.nan)


def _bend(sums: _Sums, start: Ints, length: Ints, asked: Asked) -> _Bend:
    """Where two lines part, by all places at which they leave nearly as little of squares as at the best: the best
    alone jumps from one to the next, and on a wall of three planes from one bend to the other."""
    end = np.maximum(length, start + 2)
    low, high = round(asked.run_mm / STEP_MM), round(SECOND_MM / STEP_MM)
    middle = start + np.arange(low, max(int((end - start).max(initial=0)) - high, low) + 1)[:, None]
    possible = middle + high <= end
    middle = np.where(possible, middle, start)
    (a, lower, below, _), (b, upper, above, _) = sums.fit(start, middle), sums.fit(middle, end)
    total = np.where(possible & np.isfinite(below + above), below + above, np.inf)
    best = total.min(axis=0)
    with np.errstate(all="ignore"):
        say = np.exp(-np.nan_to_num((total - best) / (EVEN_SHARE * np.maximum(best, NOTHING)), nan=np.inf))
        residual = np.where(np.isfinite(best), best / sums.fit(start, end)[2], np.inf)
    say /= np.maximum(say.sum(axis=0), NOTHING)

    jump = a - b + (lower - upper) * sums.height_at(middle)
    at = np.where(np.isfinite(best), _by_say(say, middle), start)
    lower, upper, jump = (_by_say(say, v) for v in (lower, upper, jump))
    return _Bend(
        at=at, end=end, lower=lower, upper=upper, jump=jump, residual=residual, places=middle, say=say, asked=asked
    )


def _by_say(say: Floats, values: Floats | Ints) -> Floats:
    """(A,) of values (K, A) the mean by their say, which sums up to one or nought; what has none may be nan."""
    return np.asarray(np.where(say > 0, say * values, 0.0).sum(axis=0))
