"""Weighted values, and points by the cube they fall into."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats, Ints


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
