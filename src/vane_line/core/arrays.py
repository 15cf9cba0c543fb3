"""Names for the array types used throughout the core."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
AnyArray = NDArray[Any]


def unit(vectors: Floats) -> Floats:
    """Vectors `(..., 3)` scaled to length one; a null vector stays null."""
    length = lengths(vectors)[..., None]
    return np.asarray(np.divide(vectors, length, out=np.zeros_like(vectors), where=length > 0))


def lengths(vectors: Floats) -> Floats:
    """(...,) of vectors `(..., 3)`: several times the speed of numpy's norm along short axes."""
    return np.asarray(np.sqrt(np.einsum("...k,...k->...", vectors, vectors)))


def cross(a: Floats, b: Floats) -> Floats:
    """Cross products of vectors (N, 3): twice the speed of numpy's, for the many faces of a scan."""
    (ax, ay, az), (bx, by, bz) = a.T, b.T
    return np.stack([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx], axis=1)


def bounds(points: Floats) -> tuple[Floats, Floats]:
    """Least and greatest coordinates (k,) of `points` (N, k): column by column, ten times numpy's speed on rows."""
    return np.array([c.min() for c in points.T]), np.array([c.max() for c in points.T])


def perpendicular(vector: Floats, axis: Floats) -> Floats:
    """The part of `vector` (3,) across the unit `axis` (3,), scaled to length one."""
    return unit(vector - (vector @ axis) * axis)


def any_across(axis: Floats) -> Floats:
    """A unit vector (3,) across the unit `axis` (3,); which one does not matter, the same for the same axis."""
    return unit(np.cross(axis, [1.0, 0, 0] if abs(axis[0]) < 0.8 else [0, 1.0, 0]))


def degrees_apart(azimuth_deg: Any, other_deg: Any) -> Any:
    """How far azimuths lie apart round the circle, 0 to 180; numbers or arrays."""
    return np.abs((azimuth_deg - other_deg + 180) % 360 - 180)


def xyz(point: Floats) -> tuple[float, float, float]:
    """A point (3,) as plain numbers."""
    return float(point[0]), float(point[1]), float(point[2])


def weighted_quantile(values: Floats, weights: Floats, q: float, blur: float = 0.0) -> float:
    """The value below which the share `q` (0..1) of the weight lies; nan when empty.

    blur: with a share of the weight, the mean of the quantiles within it to either side of `q`, which moves evenly when
    values change places: a single quantile jumps from one value to the next.
    """
    if len(values) == 0:
        return float("nan")
    order = np.argsort(values)
    cumulated = np.cumsum(weights[order])
    whole = cumulated[-1]
    if blur <= 0 or whole <= 0:
        place = int(np.searchsorted(cumulated, q * whole))
        return float(values[order[min(place, len(order) - 1)]])
    low, high = max(q - blur, 0.0) * whole, min(q + blur, 1.0) * whole
    within = np.clip(np.minimum(cumulated, high) - np.maximum(cumulated - weights[order], low), 0, None)
    return float(values[order] @ within / within.sum())


def cells(points: Floats, size_mm: float) -> Ints:
    """(N,) one number per cube of `size_mm` that `points` (N, 2 or 3) fall into."""
    code = np.zeros(len(points), dtype=np.int64)
    for column in points.T:
        key = np.floor(column / size_mm).astype(np.int64)
        key -= key.min()
        code = code * (key.max() + 1) + key
    return code


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


def running_median(values: Floats, half: int, least: int = 1) -> Floats:
    """(N,) median over `half` places to either side of a ring; nan where fewer than `least` of them are known."""
    stack = np.stack([np.roll(values, k) for k in range(-half, half + 1)])
    known = np.isfinite(stack).sum(axis=0) >= least
    out = np.full(len(values), np.nan)
    out[known] = np.nanmedian(stack[:, known], axis=0)
    return out


def thinned_index(points: Floats, size_mm: float) -> Ints:
    """Indices, in order, of one of `points` (N, 3) per cube of `size_mm` about nought: the nearest to its middle.

    Which one does not hang on the points' order, and hardly on the last digit of where they lie.
    """
    if len(points) == 0:
        return np.zeros(0, dtype=np.int64)
    code = cells(points, size_mm)
    off = points / size_mm - np.floor(points / size_mm) - 0.5
    order = np.lexsort(((off**2).sum(axis=1), code))
    first = np.r_[True, np.diff(code[order]) != 0]
    return np.sort(order[first])
