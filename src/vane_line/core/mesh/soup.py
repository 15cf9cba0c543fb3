"""What a scan file holds before anything is judged, and what all readers ask of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import AnyArray, Floats, Ints
from vane_line.errors import ScanTooLarge, UnreadableScan

MAX_TRIANGLES = 4_000_000  # beyond this the measurement would need more than 8 GB
MAX_CORNERS = 64  # of one face: more is a drawing, not a scan
MAX_UNUSED_SHARE = 0.01  # of the points that no triangle uses


@dataclass(frozen=True, eq=False)
class Soup:
    """Corners (V, 3), faces (F, 3), colours (V, 3) or None, in the file's own units."""

    corners: Floats
    faces: Ints
    colours: AnyArray | None
    format: str


def too_many(name: str, count: int, limit: int) -> ScanTooLarge:
    """The refusal of a file with over `limit` triangles."""
    return ScanTooLarge(
        f"{name}: {count} triangles are over the limit of {limit}; export a lighter scan or raise the limit."
    )


def cut_short(name: str, what: str) -> UnreadableScan:
    """The refusal of a file that ends before it should."""
    return UnreadableScan(f"{name}: {what}: it is cut short; export or copy it again.")


def numbers(words: Sequence[bytes], name: str, what: str = "a coordinate") -> Floats:
    """(N,) the numbers that `words` spell. Raises UnreadableScan."""
    try:
        return np.array(words, dtype="S").astype(np.float64) if len(words) else np.zeros(0)
    except ValueError as error:
        raise UnreadableScan(f"{name}: {what} is not a number; export the scan again.") from error


def whole_numbers(words: Sequence[bytes], name: str) -> Ints:
    """As `numbers`, for the numbers of points."""
    try:
        return np.array(words, dtype="S").astype(np.int64) if len(words) else np.zeros(0, dtype=np.int64)
    except (ValueError, OverflowError) as error:
        raise not_whole(name) from error


def not_whole(name: str) -> UnreadableScan:
    """What is said of a file whose points are numbered by what is no number of one."""
    return UnreadableScan(f"{name}: the number of a point is not a whole number; export the scan again.")


def fans(corner: Ints, sizes: Ints, name: str) -> Ints:
    """(F, 3) the triangles of polygons, given as their corners one after the other and their sizes (P,)."""
    if len(sizes) and sizes.max() > MAX_CORNERS:
        raise UnreadableScan(f"{name}: a face has {sizes.max()} corners; export the scan as triangles.")
    if len(sizes) and sizes.min() < 3:
        raise UnreadableScan(f"{name}: a face has fewer than three corners; export the scan again.")
    start = np.cumsum(sizes) - sizes
    count = sizes - 2
    which = np.repeat(np.arange(len(sizes)), count)
    nth = np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)
    first = start[which]
    return np.stack([corner[first], corner[first + nth + 1], corner[first + nth + 2]], axis=1)


def check_used(faces: Ints, points: int, name: str) -> None:
    """Raises UnreadableScan when points are left over: the triangles that used them are missing."""
    inside = faces[(faces >= 0) & (faces < points)]
    unused = points - int(np.count_nonzero(np.bincount(inside, minlength=points)))
    if unused > MAX_UNUSED_SHARE * points:
        raise cut_short(name, f"{unused} of its {points} points belong to no triangle")
