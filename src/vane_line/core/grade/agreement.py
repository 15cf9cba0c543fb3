"""How far two markers agree, or one with itself: limits of agreement and the intraclass correlation.

J. M. Bland and D. G. Altman, Lancet 1986 (327: 307-310); P. E. Shrout and J. L. Fleiss, Psychological Bulletin 1979
(86: 420-428).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats

LEAST = 3  # preparations, below which nothing is said
Z = 1.96


@dataclass(frozen=True)
class Agreement:
    """Mean difference (second less first) and the limits within which 95 % of differences are expected."""

    count: int
    bias: float
    low: float
    high: float


def limits_of_agreement(first: Floats, second: Floats) -> Agreement | None:
    """Of paired marks (N,); None of fewer than LEAST."""
    off = np.asarray(second, dtype=np.float64) - np.asarray(first, dtype=np.float64)
    if len(off) < LEAST:
        return None
    bias, spread = float(off.mean()), float(off.std(ddof=1))
    return Agreement(len(off), bias, bias - Z * spread, bias + Z * spread)


def intraclass(marks: Floats) -> float | None:
    """ICC(2,1), two-way random, absolute agreement, single marks: marks (N, K) of N preparations by K markers.

    None of fewer than LEAST preparations, of one marker, or where nothing differs.
    """
    x = np.asarray(marks, dtype=np.float64)
    n, k = x.shape
    if n < LEAST or k < 2:
        return None
    grand, rows, columns = x.mean(), x.mean(axis=1), x.mean(axis=0)
    between = k * ((rows - grand) ** 2).sum() / (n - 1)
    markers = n * ((columns - grand) ** 2).sum() / (k - 1)
    rest = ((x - rows[:, None] - columns[None] + grand) ** 2).sum() / ((n - 1) * (k - 1))
    below = between + (k - 1) * rest + k * (markers - rest) / n
    return float((between - rest) / below) if below > 0 else None
