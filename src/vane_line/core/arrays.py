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
    length = np.linalg.norm(vectors, axis=-1, keepdims=True)
    return np.asarray(np.divide(vectors, length, out=np.zeros_like(vectors), where=length > 0))


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


def weighted_quantile(values: Floats, weights: Floats, q: float) -> float:
    """The value below which the share `q` (0..1) of the weight lies; nan when empty."""
    if len(values) == 0:
        return float("nan")
    order = np.argsort(values)
    cumulated = np.cumsum(weights[order])
    place = int(np.searchsorted(cumulated, q * cumulated[-1]))
    return float(values[order[min(place, len(order) - 1)]])


def cells(points: Floats, size_mm: float) -> Ints:
    """(N,) one number per cube of `size_mm` that `points` (N, 2 or 3) fall into."""
    key = np.floor(points / size_mm).astype(np.int64)
    key -= key.min(axis=0)
    code = key[:, 0]
    for column in range(1, key.shape[1]):
        code = code * (key[:, column].max() + 1) + key[:, column]
    return np.asarray(code)


def highest_per_cell(points: Floats, up: Floats, size_mm: float) -> Ints:
    """Indices of the point standing highest along `up` in every square of plan, `size_mm` wide."""
    height = points @ up
    order = np.argsort(-height)
    _, first = np.unique(cells((points - height[:, None] * up)[order], size_mm), return_index=True)
    return np.asarray(order[first])
