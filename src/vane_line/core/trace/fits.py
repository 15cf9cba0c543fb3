"""Straight lines through stretches of many profiles at once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.vectors import dot

LEAST_CROSSING = 0.2  # sine of the angle between two lines that still tells where they meet


@dataclass(frozen=True, eq=False)
class Lines:
    """A line in each profile: its `middle` (A, 2) and unit `direction` (A, 2), radius and height; nan where none is."""

    middle: Floats
    direction: Floats

    def where(self, mask: Bools, other: Lines) -> Lines:
        """These, and `other`'s where `mask` (A,) says so."""
        pick = mask[:, None]
        return Lines(np.where(pick, other.middle, self.middle), np.where(pick, other.direction, self.direction))

    def off(self, radius: Floats, height: Floats) -> Floats:
        """(A, W) distance of each profile's places from its line."""
        r, h = radius - self.middle[:, :1], height - self.middle[:, 1:]
        return np.asarray(np.abs(r * self.direction[:, 1:] - h * self.direction[:, :1]))

    def meet(self, other: Lines) -> Floats:
        """(A, 2) where they meet another's; nan where they are nearly parallel: there is no crease to speak of."""
        (a, b), (c, d) = self.direction.T, other.direction.T
        sine = b * c - a * d
        x, y = (other.middle - self.middle).T
        with np.errstate(all="ignore"):
            along = np.where(np.abs(sine) >= LEAST_CROSSING, (y * c - x * d) / sine, np.nan)
        return np.asarray(self.middle + along[:, None] * self.direction)


def stretches(grid: Floats, first: Ints, last: Ints) -> Floats:
    """(A, W) samples first..last (A,) of each profile of a `grid` (A, M), nan past the last and off the grid."""
    index = first[:, None] + np.arange(max(int((last - first).max(initial=0)) + 1, 1))
    inside = (index <= last[:, None]) & (index >= 0) & (index < grid.shape[1])
    rows = np.arange(len(grid))[:, None]
    return np.where(inside, grid[rows, np.clip(index, 0, grid.shape[1] - 1)], np.nan)


def straight_fits(radius: Floats, height: Floats, first: Ints, last: Ints) -> Lines:
    """The straight line through samples first..last (A,) of each profile (A, M), by total least squares; none where
    fewer than three are seen, or not all of them."""
    count = np.asarray(last - first + 1)
    usable = (first >= 0) & (last < radius.shape[1]) & (count >= 3)
    first, last = np.where(usable, first, 0), np.where(usable, last, 0)
    r, h = stretches(radius, first, last), stretches(height, first, last)
    # What is asked for and was not seen stays nan; what lies past the last does not count.
    past = np.arange(r.shape[1]) > (last - first)[:, None]
    count = np.where(usable, count, 1)
    middle = np.stack([np.where(past, 0.0, v).sum(axis=1) / count for v in (r, h)], axis=1)
    middle[~usable] = np.nan
    r, h = (np.where(past, 0.0, v - middle[:, k : k + 1]) for k, v in enumerate((r, h)))
    turn = np.arctan2(2 * dot(r, h), dot(r, r) - dot(h, h)) / 2  # of the greater principal axis
    middle[~np.isfinite(middle).all(axis=1)] = np.nan
    return Lines(middle, np.stack([np.cos(turn), np.sin(turn)], axis=1) + 0 * middle)
