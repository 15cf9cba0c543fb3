"""One number for what lies between two vertices."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Ints


def edge_keys(end: Ints, other: Ints, n_vertices: int) -> Ints:
    """(...) a number for each edge from `end` to `other`, shapes that go together, the same from either of its ends;
    it rises with the lower vertex, then with the higher."""
    return np.asarray(np.minimum(end, other) * np.int64(n_vertices) + np.maximum(end, other))
