"""Weighted values, and points by the cube they fall into."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.vectors import dot

MIDDLE_SHARE = 0.4  # of values, that stands for all of them: three tenths of them may lie astray to one side


def weighted_quantile(values: Floats, weights: Floats, q: float, blur: float = 0.0) -> float:
    """The value below which the share `q` (0..1) of the weight lies; nan when empty.

    blur: with a share of the weight, the mean of the quantiles within it to either side of `q`, which moves evenly when
    values change places: a single quantile jumps from one value to the next.
    """
    order = np.argsort(values)
    return ordered_quantile(values[order], weights[order], q, blur)


def ordered_quantile(values: Floats, weights: Floats, q: float, blur: float = 0.0) -> float:
    """As `weighted_quantile`, of values that rise already."""
    if len(values) == 0:
        return float("nan")
    cumulated = np.cumsum(weights)
    whole = cumulated[-1]
    if blur <= 0 or whole <= 0:
        return float(values[min(int(np.searchsorted(cumulated, q * whole)), len(values) - 1)])
    low, high = max(q - blur, 0.0) * whole, min(q + blur, 1.0) * whole
    # Only from where the share begins to where it ends does a value count.
    first, last = np.searchsorted(cumulated, low), min(int(np.searchsorted(cumulated, high)) + 1, len(values))
    upto, part = cumulated[first:last], weights[first:last]
    within = np.clip(np.minimum(upto, high) - np.maximum(upto - part, low), 0, None)
    return float(values[first:last] @ within / within.sum())


def middling(values: Floats) -> float:
    """The mean of the middle two fifths of values, nan when empty: what most of them agree on, as a median is, but that
    it moves evenly where they lie apart: a median jumps from one to the next as soon as two change places.
    """
    return weighted_quantile(values, np.ones(len(values)), 0.5, MIDDLE_SHARE / 2)


def graded(excess: Floats, over: float) -> Floats:
    """How much counts of what lies past a limit by an `excess`: 0 well short of it, 1 well past it, half on it.

    Over `over` about it the one gives way to the other: what counts at once or not at all jumps on the limit.
    """
    return np.asarray(np.clip(excess / over + 0.5, 0, 1))


def cells(points: Floats, size_mm: float) -> Ints:
    """(N,) one number per cube of `size_mm` that `points` (N, 2 or 3) fall into."""
    code = np.zeros(len(points), dtype=np.int64)
    for column in points.T:
        key = np.floor(column / size_mm).astype(np.int64)
        key -= key.min()
        code = code * (key.max() + 1) + key
    return code


def near_cells(points: Floats, others: Floats, size_mm: float) -> Bools:
    """(N,) whether a point lies in a cube of `size_mm` that holds one of `others` (M, 3), or next to one."""
    low = np.minimum(points.min(axis=0), others.min(axis=0)) - 2 * size_mm
    size = ((np.maximum(points.max(axis=0), others.max(axis=0)) - low) / size_mm).astype(np.int64) + 3
    near = np.zeros(size, dtype=bool)
    near[tuple(((others - low) / size_mm).astype(np.int64).T)] = True
    for axis in range(3):  # what lies next to one along each, one after the other: all that lies round it
        along, wider = near.swapaxes(0, axis), near.copy().swapaxes(0, axis)
        wider[1:] |= along[:-1]
        wider[:-1] |= along[1:]
        near = wider.swapaxes(0, axis)
    return np.asarray(near[tuple(((points - low) / size_mm).astype(np.int64).T)])


def thinned_index(points: Floats, size_mm: float) -> Ints:
    """Indices, in order, of one of `points` (N, 3) per cube of `size_mm` about nought: the nearest to its middle.

    Which one does not hang on the points' order, and hardly on the last digit of where they lie.
    """
    if len(points) == 0:
        return np.zeros(0, dtype=np.int64)
    code = cells(points, size_mm)
    off = points / size_mm - np.floor(points / size_mm) - 0.5
    order = np.lexsort((dot(off, off), code))
    first = np.r_[True, np.diff(code[order]) != 0]
    return np.sort(order[first])
