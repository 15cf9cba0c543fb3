"""How far the outline keeps from the contacts of the opposing teeth."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface

CONTACT_MM = 0.06  # teeth that meet in a scanned bite stand so near
SPREAD_MM = 0.03  # of a bite record: what stands nearer or further by this may meet, or may not


@dataclass(frozen=True, eq=False)
class ToContacts:
    """Distances (mm) of an outline's points (K,) to the nearest contact, nan where none is told; and the least of them
    were everything within the bite's spread a contact, and were only what lies closer by it."""

    away: Floats
    least_mm: float
    most_mm: float

    @classmethod
    def none(cls, count: int) -> ToContacts:
        """Where no contact is told."""
        return cls(np.full(count, np.nan), np.nan, np.nan)


def to_contacts(points: Floats, tooth: Surface, opposing: Surface) -> ToContacts:
    """Of `points` (K, 3) to where `tooth`, as it was before cutting, meets the opposing teeth."""
    if tooth.n_vertices == 0 or len(points) == 0:
        return ToContacts.none(len(points))
    gap = np.abs(opposing.signed_distance(tooth.vertices)[0])
    usual, near, far = (_away(points, tooth.vertices[gap < CONTACT_MM + more]) for more in (0.0, SPREAD_MM, -SPREAD_MM))
    return ToContacts(usual, float(near.min()), float(far.min()))


def _away(points: Floats, meeting: Floats) -> Floats:
    return np.asarray(cKDTree(meeting).query(points)[0]) if len(meeting) else np.full(len(points), np.nan)
