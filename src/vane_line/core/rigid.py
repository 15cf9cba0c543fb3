"""Rigid motions as matrices (4, 4) that act on column vectors."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats


def turn_about(vector: Floats, place: Floats) -> Floats:
    """(4, 4) the rotation by a `vector` (3,), its length in radians, about a place (3,)."""
    from scipy.spatial.transform import Rotation  # options need this file, and scipy takes longer than the rest of it

    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.from_rotvec(vector).as_matrix()
    matrix[:3, 3] = place - matrix[:3, :3] @ place
    return matrix
