"""Points without a surface: which lie together, and how they are joined."""

from __future__ import annotations

import numpy as np
import scipy.sparse as sp
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.vectors import lengths


def any_within(points: Floats, others: Floats, reach_mm: float) -> Bools:
    """(N,) whether any of `others` (M, 3) comes nearer than `reach_mm` to each of `points` (N, 3)."""
    away, _ = cKDTree(others).query(points, distance_upper_bound=reach_mm)
    return np.asarray(away < reach_mm)


def near_pairs(points: Floats, reach_mm: float) -> sp.csr_matrix:
    """(N, N) the distance (mm) of every two of `points` (N, 3) that lie within `reach_mm`, each pair once."""
    i, j = cKDTree(points).query_pairs(reach_mm, output_type="ndarray").T
    return sp.coo_matrix((lengths(points[i] - points[j]), (i, j)), shape=(len(points),) * 2).tocsr()


def joined(i: Ints, j: Ints, count: int) -> tuple[int, Ints]:
    """How many pieces `count` nodes hang together in, each `i` (E,) with its `j` (E,), and each node's (count,)."""
    number, label = connected_components(sp.coo_matrix((np.ones(len(i)), (i, j)), shape=(count, count)), directed=False)
    return int(number), np.asarray(label, dtype=np.int64)


def groups(points: Floats, reach_mm: float) -> tuple[int, Ints]:
    """How many groups `points` (N, 3) fall into when those within `reach_mm` belong together, and each one's (N,)."""
    number, label = connected_components(near_pairs(points, reach_mm), directed=False)
    return int(number), np.asarray(label, dtype=np.int64)
