"""How much tooth is left round a hole: its nearest way out.

Outside is what was left of the tooth as it was: towards the cut itself a hole in a ledge is always near, and the
casting lies on it.
"""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.mesh.surface import Surface

FUNNEL_MM = 0.5  # under the rim the hole opens by itself
STEP_MM = 0.1
SAME_MM = 1e-6


def of_cut(tooth: Surface, inside: Surface) -> Bools:
    """(N,) which of the tooth's vertices are the cut's. inside: the cut of it, vertex by vertex the same."""
    return np.asarray(cKDTree(inside.vertices).query(tooth.vertices)[0] < SAME_MM)


def outside_of(tooth: Surface, cut: Bools, earlier: Surface | None) -> list[Surface]:
    """The tooth's outer surface as far as it stands. tooth: as it is cut; cut: (N,) which of its vertices are the
    cut's; earlier: before cutting, where known: it shows what the later scan did not."""
    found = [tooth.keep_vertices(~cut)[0]]
    if earlier is not None:
        _, nearest = cKDTree(tooth.vertices).query(earlier.vertices)
        found.append(earlier.keep_vertices(~cut[nearest])[0])
    return [s for s in found if s.n_faces]


def cover(rim: Floats, bottom: Floats, radius_mm: float, outside: list[Surface]) -> tuple[float, Floats] | None:
    """Least distance from a hole's wall to the outside of the tooth, and the place (3,) there; None where it is not
    deep enough to tell, or nothing of the outside is seen. rim, bottom: (3,) on its axis."""
    length = float(np.linalg.norm(rim - bottom))
    if length <= FUNNEL_MM:
        return None
    along = np.arange(FUNNEL_MM, length + STEP_MM / 2, STEP_MM)
    places = rim - along[:, None] * (rim - bottom) / length
    found = []
    for surface in outside:
        distance, _, place = surface.closest(places)
        k = int(np.argmin(distance))
        found.append((float(distance[k]) - radius_mm, place[k]))
    return min(found, key=lambda f: f[0]) if found else None
