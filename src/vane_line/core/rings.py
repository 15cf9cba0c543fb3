"""Values round a circle."""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy.ndimage import binary_closing

from vane_line.core.arrays import Bools, Floats, Ints


def degrees_past(azimuth_deg: Any, other_deg: Any) -> Any:
    """How far azimuths lie past another round the circle, -180 to 180; numbers or arrays."""
    return (azimuth_deg - other_deg + 180) % 360 - 180


def degrees_apart(azimuth_deg: Any, other_deg: Any) -> Any:
    """How far azimuths lie apart round the circle, 0 to 180; numbers or arrays."""
    return np.abs(degrees_past(azimuth_deg, other_deg))


def ring_runs(mask: Bools, join: int) -> list[Ints]:
    """Stretches of true in a ring as arrays of indices; gaps up to `join` are bridged."""
    n = len(mask)
    index = np.flatnonzero(mask)
    if len(index) == 0:
        return []
    gaps = np.diff(np.r_[index, index[0] + n])
    breaks = np.flatnonzero(gaps > join)
    if len(breaks) == 0:
        return [index]
    rolled = np.roll(index, -(breaks[-1] + 1))
    gaps = np.diff(np.where(rolled < rolled[0], rolled + n, rolled))
    return np.split(rolled, np.flatnonzero(gaps > join) + 1)


def longest_run(mask: Bools) -> int:
    """Of true in a ring."""
    return max(map(len, ring_runs(mask, 1)), default=0)


def in_runs(mask: Bools, least: int) -> Bools:
    """(N,) of a ring, without the runs of true that are shorter than `least`."""
    out = np.zeros(len(mask), dtype=bool)
    for run in ring_runs(mask, 1):
        out[run] = len(run) >= least
    return out


def true_about(mask: Bools, half: int) -> Bools:
    """(N,) where a ring is true, and for `half` places to either side as well."""
    return np.asarray(np.all([np.roll(mask, k) for k in range(-half, half + 1)], axis=0))


def without_gaps(mask: Bools, points: int) -> Bools:
    """(N,) of a ring, with the gaps of fewer than `points` between two that are true."""
    return np.asarray(binary_closing(np.tile(mask, 3), np.ones(points))[len(mask) : 2 * len(mask)])


def running_median(values: Floats, half: int, least: int = 1) -> Floats:
    """(N,) median over `half` places to either side of a ring; nan where fewer than `least` of them are known."""
    around = (np.arange(len(values))[:, None] + np.arange(-half, half + 1)) % max(len(values), 1)
    rising = np.sort(values[around], axis=1)  # nan comes last
    known = np.flatnonzero(np.isfinite(rising).sum(axis=1) >= max(least, 1))
    count = (~np.isnan(rising[known])).sum(axis=1)
    out = np.full(len(values), np.nan)
    out[known] = (rising[known, (count - 1) // 2] + rising[known, count // 2]) / 2
    return out
