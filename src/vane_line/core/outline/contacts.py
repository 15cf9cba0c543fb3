"""How far the outline keeps from the contacts of the opposing teeth."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface

CONTACT_MM = 0.06  # teeth that meet in a scanned bite stand so near


def to_contacts(points: Floats, tooth: Surface, opposing: Surface) -> Floats:
    """(K,) distance (mm) of `points` (K, 3) to the nearest place where `tooth`, as it was before cutting, meets the
    opposing teeth; nan where nothing meets."""
    gap = opposing.signed_distance(tooth.vertices)[0]
    meeting = tooth.vertices[np.abs(gap) < CONTACT_MM] if len(gap) else tooth.vertices[:0]
    if len(meeting) == 0:
        return np.full(len(points), np.nan)
    return np.asarray(cKDTree(meeting).query(points)[0])
