"""Where an edge lies on each profile: where straight fits of its two sides meet, kept near the surface."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats, Ints
from vane_line.core.spread import graded
from vane_line.core.trace.fits import Lines, straight_fits, stretches
from vane_line.core.trace.section import STEP_MM
from vane_line.core.vectors import dot, unit

FIT_NEAR_MM, FIT_INSIDE_MM, FIT_OUTSIDE_MM = 0.06, 0.36, 0.46
LOWEST_MM = 0.8  # past an edge, within which the sulcus is looked for
NEAR_MM = 0.4  # to either side: the surface that a place is kept near
SHORT_MM = 0.20  # of the fit inside where a rim or a bevel bends the longer one …
BENT_MM = 0.03  # … by this much
MAX_SHIFT_MM = 0.22  # a fit may move the point by no more than this from the crease …
MAX_OFF_MM = 0.10  # … and by this much off the surface: a scan rounds an edge by less
MAX_SUNK_MM = 0.03  # … nor so far into the tooth: where two straight sides meet, the scan's edge is cut off
FADES = 0.2  # over so much of each of these limits one answer gives way to the other: none jumps on a limit


def edges_at(radius: Floats, height: Floats, crease: Ints, off: float) -> Floats:
    """(A, 2) radius and height of the edge whose crease is arc sample `crease` (A,) of each profile (A, M): where
    straight fits of its two sides meet.

    off: mm by which coarse triangles cut the edge off; the fits begin beyond. Where they meet far off or within the
    tooth, or a side is too short, the crease itself.
    """
    near, inside, outside, short = (
        round((v + off) / STEP_MM) for v in (FIT_NEAR_MM, FIT_INSIDE_MM, FIT_OUTSIDE_MM, SHORT_MM)
    )
    begin, end = crease - inside, crease - near
    before = straight_fits(radius, height, begin, end)
    strays = before.off(stretches(radius, begin, end), stretches(height, begin, end))
    bent = 1 - _below(np.nan_to_num(strays).max(axis=1), BENT_MM)[:, None]
    after = straight_fits(radius, height, crease + near, np.minimum(crease + outside, _valley(height, crease)))
    edge = _Edge(radius, height, crease, after, off)
    place = edge.where_meets(before)
    if bent.any():
        place = (1 - bent) * place + bent * edge.where_meets(straight_fits(radius, height, crease - short, end))
    return place


@dataclass(frozen=True, eq=False)
class _Edge:
    """The edges that creases (A,) stand for, with the line along each one's outer side; off: as of `edges_at`."""

    radius: Floats
    height: Floats
    crease: Ints
    after: Lines
    off: float

    def where_meets(self, before: Lines) -> Floats:
        """(A, 2) where the inner side's line meets the outer one's; the crease where that cannot be the edge."""
        rows = np.arange(len(self.crease))
        raw = np.stack([self.radius[rows, self.crease], self.height[rows, self.crease]], axis=1)
        meet = before.meet(self.after)
        shift = meet - raw
        around = round(NEAR_MM / STEP_MM)
        r, h = (stretches(v, self.crease - around, self.crease + around) for v in (self.radius, self.height))
        gap = np.hypot(r - meet[:, :1], h - meet[:, 1:])
        away = np.where(np.isfinite(gap), gap, np.inf).min(axis=1)
        sunk = dot(shift, _inward(before.direction, self.after.direction))
        kept = _below(np.hypot(*shift.T), MAX_SHIFT_MM + self.off) * _below(away, MAX_OFF_MM + self.off)
        kept *= _below(sunk, MAX_SUNK_MM)
        return raw + np.where(kept > 0, kept, 0.0)[:, None] * np.where(np.isfinite(shift), shift, 0.0)


def _below(values: Floats, limit: float) -> Floats:
    """(A,) 1 well below a limit, 0 well above it or where there is no value."""
    return np.nan_to_num(graded(limit - values, FADES * limit))


def _valley(height: Floats, index: Ints) -> Ints:
    """(A,) arc sample of the lowest ground past `index`: beyond it the sulcus' far side rises."""
    ahead = stretches(height, index, index + round(LOWEST_MM / STEP_MM) - 1)
    return np.asarray(index + np.argmin(np.where(np.isfinite(ahead), ahead, np.inf), axis=1))


def _inward(before: Floats, after: Floats) -> Floats:
    """(A, 2) into the tooth at an edge, of the directions (A, 2) of the profile's two sides."""
    out = np.where(before[:, :1] < 0, -before, before) + np.where(after[:, 1:] > 0, -after, after)
    outward = unit(out)
    return np.stack([outward[:, 1], -outward[:, 0]], axis=1)
