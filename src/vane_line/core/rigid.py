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


def move(matrix: Floats, points: Floats) -> Floats:
    """`points` (N, 3) under a rigid `matrix` (4, 4), column vectors."""
    return np.asarray(points @ matrix[:3, :3].T + matrix[:3, 3])


def move_back(matrix: Floats, points: Floats) -> Floats:
    """`points` (N, 3) under the inverse of a rigid `matrix` (4, 4)."""
    return np.asarray((points - matrix[:3, 3]) @ matrix[:3, :3])
