"""The outline to both sides of a groove at one level: its lips, and the wall that is prolonged over it.

Beside a partial crown's groove the uncut face stands, or what flares out to it: neither is its wall.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.trace.dents import LEAST_DENT_MM, WIDEST_MM

SIGNS = (-1.0, 1.0)
WALL_MM, LIP_MM = 1.3, 0.15  # of the wall to either side that is prolonged over it, and what a lip is rounded by
LEAST_WALL = 4  # points of it on a side
REACH_MM = 3.0  # to either side that is looked at
FIRST_MM, STEP_MM = 0.5, 0.15  # of the wall, by which it is told where a step leaves it
STEEPER = 0.5  # than the wall: a groove's side
LEAST_SPAN_MM = 0.5  # of a wall beside the standing face
TO_FACE = 1.0  # by which what lies beside a dent rises outward where it flares out to a face that is not in reach
FLARE = 0.27  # by which two walls turn outward, as one wall does not: 15 degrees


@dataclass(frozen=True, eq=False)
class Side:
    """What lies to one side (`sign`) of a dent: where its lip stands (None: not seen), the wall from there on (W,), how
    it rises as it goes away, and how far off the uncut face stands."""

    sign: float
    lip: float | None
    x: Floats
    out: Floats
    rise: float
    uncut: float

    @classmethod
    def of(cls, sign: float, x: Floats, out: Floats, uncut: float, lip: float | None) -> Side:
        """x, out: (P,) of what lies to that side, by `x`: how far from the middle, and how far out of the tooth."""
        if lip is None:
            return cls(sign, None, x[:0], out[:0], np.inf, uncut)
        beside = (x > lip + LIP_MM) & (x < min(lip + WALL_MM, uncut))
        x, out = x[beside], out[beside]
        if np.isfinite(uncut) and len(x) >= LEAST_WALL:
            # Where the standing face's own step begins the wall is at its end.
            first = x < x[0] + FIRST_MM
            over = out - _slope(x[first], out[first]) * x
            step = over - np.minimum.accumulate(over) > STEP_MM
            end = int(np.argmax(step)) if step.any() else len(x)
            x, out = x[:end], out[:end]
        return cls(sign, lip, x, out, _slope(x, out) if len(x) >= LEAST_WALL else np.inf, uncut)


def _slope(x: Floats, out: Floats) -> float:
    return float(np.polyfit(x, out, 1)[0]) if len(x) >= LEAST_WALL else 0.0


def sides_of(x: Floats, out: Floats, standing: Bools, usual_rise: float) -> list[Side]:
    """Both sides of a dent. x, out: (P,) from its middle, along the outline and out of the tooth; standing: not cut;
    usual_rise: of the wall away from the standing face, where it is not seen."""
    parts = []
    for sign in SIGNS:
        here = (sign * x >= 0) & (sign * x < REACH_MM)
        order = np.argsort(sign * x[here])
        away, high, still = sign * x[here][order], out[here][order], standing[here][order]
        parts.append((away, high, float(away[still].min()) if still.any() else np.inf))
    sides = [Side.of(sign, *part, _lip(*part[:2])) for sign, part in zip(SIGNS, parts, strict=True)]
    near = int(parts[1][2] < parts[0][2])  # the one where the uncut face stands, if any does
    away, high, uncut = parts[near]
    if not np.isfinite(uncut):
        steep = [bool(np.isfinite(side.rise)) and side.rise > TO_FACE for side in sides]
        if sum(steep) != 1:
            return sides
        near = steep.index(True)
        away, high, _ = parts[near]
        uncut = float(away[-1])  # the flare goes on to the face
    far = sides[1 - near]
    wall = -far.rise if np.isfinite(far.rise) else -usual_rise
    sides[near] = Side.of(SIGNS[near], away, high, uncut, _lip_before(away, high, wall))
    return sides


def walls_of(both: list[Side]) -> list[Side]:
    """Those of both sides that are the wall: beside the standing face it flares outward, or there is none."""
    one, other = sorted(both, key=lambda s: s.uncut)
    if one.uncut == other.uncut:  # nothing stands beside it
        return both
    wall = len(one.x) >= LEAST_WALL and float(np.ptp(one.x)) > LEAST_SPAN_MM
    return both if wall and one.rise + other.rise < FLARE else [other]


def _lip(x: Floats, out: Floats) -> float | None:
    """How far off the lip stands: up to it the outline, sorted by `x` (P,), rises from the middle."""
    here = x < WIDEST_MM * 0.75
    if here.sum() < LEAST_WALL:
        return None
    x, out = x[here], out[here]
    # The wall goes on about as it leaves the lip: the lip lies furthest out over the chord from the middle to it.
    chord = out[0] + (out[-1] - out[0]) * (x - x[0]) / max(x[-1] - x[0], 1e-6)
    return float(x[int(np.argmax(out - chord))])


def _lip_before(x: Floats, out: Floats, rise: float) -> float | None:
    """As `_lip`, where a face stands behind the wall and the chord would end on it: where the outline has risen and
    begins to go as the wall does, which rises by `rise`."""
    if len(x) < LEAST_WALL:
        return None
    up = out - (rise + STEEPER) * x
    rising = np.flatnonzero(up > np.minimum.accumulate(up) + LEAST_DENT_MM / 2)
    if not len(rising):
        return None
    first = int(rising[0])
    highest = np.maximum.accumulate(up[first:])
    past = up[first:] < highest - LIP_MM
    end = first + (int(np.argmax(past)) if past.any() else len(past))
    return float(x[first + int(np.argmax(up[first:end]))])
