"""How sharply a profile turns."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.trace.section import STEP_MM, Profiles, tangent_angle

CLEAR_TURN_DEG = 25.0  # an edge that turns less is doubtful
TURN_WINDOW_MM = 0.30  # of the tangents whose difference is the crease's turn


def crease_turn(profiles: Profiles) -> Floats:
    """(A, M) convex turn in degrees: tangent over a window before less tangent over a window after.

    Past a half turn it goes on: under an overhang the surface leads back inward.
    """
    angle = tangent_angle(profiles, TURN_WINDOW_MM)
    shift = round(TURN_WINDOW_MM / STEP_MM / 2) + 1
    turn = np.full_like(angle, np.nan)
    turn[:, shift:-shift] = angle[:, : -2 * shift] - angle[:, 2 * shift :]
    return turn
