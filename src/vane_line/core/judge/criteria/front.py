"""A front tooth under a crown: how far its edge is taken down, and where its face tells what was cut.

The least distance at the edge is the face's or the back's, and is judged as theirs (`Standard.limits_for_zone`). Off
the middle of the face, round its line angles, and over its neck the tooth bulges over a stump that stands as it should:
there the ideal wall tells over-cutting, as on all walls.
"""

from __future__ import annotations

from math import hypot

import numpy as np

from vane_line.core.arrays import Bools
from vane_line.core.case import Geometry
from vane_line.core.judge.limits import Bounds
from vane_line.core.judge.record import Held, verdicts
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import HAND_MM, Correction, Job
from vane_line.core.measure.zones import Zones

EDGE = "incisal-edge"
NECK = "facial/cervical"
MIDDLE = (0.25, 0.75)  # of a face from side to side: there depth tells what was cut
CREST_SHARE = 0.4  # of the scan's edges, by which a sharp crest is missed
BUR, HOLD = "depth-cutter, then a straight bur with a rounded end", "across the edge, level, and along all of it"
SHORT = "the edge was not taken down as far as the restoration's own edge needs"
TOO_MUCH = "more of the edge was taken than the material needs: the walls lose their height"
NOT_OVER = "the scan before does not show the tooth over the preparation's edge"


def of_ring(geometry: Geometry) -> bool:
    """Whether this is a front tooth under a crown."""
    return geometry.options.tooth.front and geometry.kind.reader.name == "ring"


def middle_of_face(geometry: Geometry, zones: Zones) -> Bools:
    """(N,) of the vertices inside, which tell over-cutting by depth as far as the face decides: all but the sides of a
    crown's facial zones."""
    tells = np.ones(len(zones.index), dtype=bool)
    if not of_ring(geometry):
        return tells
    across = geometry.axes.local(geometry.inside.vertices)[:, 0]
    for name in zones.names:
        here = zones.mask(name)
        if name.startswith("facial/") and here.any():
            low, high = np.quantile(across[here], MIDDLE)
            tells[here] = (across[here] >= low) & (across[here] <= high)
    return tells


def incisal_reduction(held: Held) -> list[Verdict]:
    """Of a front tooth: its least against what the material needs, its greatest where that was the natural tooth."""
    geometry = held.geometry
    if not geometry.options.tooth.front:
        return []
    edge, limits = geometry.ring.edge, held.standard.edge_limits
    if edge is None or geometry.space is None:
        return [not_measured("incisal-reduction", EDGE, geometry.reasons.get("reduction", NOT_OVER))]
    u = _u(held)
    rows = verdicts("incisal-reduction", EDGE, edge.least_mm + geometry.lift_mm, "mm", u, limits.least, SHORT,
                    at=edge.least_at)  # fmt: skip
    if geometry.reference == "preop" and geometry.options.meaning.natural:
        rows += verdicts("incisal-reduction", EDGE, edge.most_mm, "mm", u, limits.most, TOO_MUCH, at=edge.most_at)
    return rows


def edge_removed(held: Held) -> list[Verdict]:
    """What a crown's edge lost of the natural tooth."""
    geometry = held.geometry
    if not of_ring(geometry):
        return []
    limits: Bounds = held.standard.edge_limits.most
    off = geometry.ring.edge_off
    if off is None:
        return [not_measured("tooth-removed", EDGE, NOT_OVER, "max")]
    return verdicts("tooth-removed", EDGE, off.most_mm, "mm", _u(held), limits, TOO_MUCH, at=off.most_at)


def shorten(job: Job, v: Verdict) -> Correction | None:
    """Off a crown's edge, where a hand can do it."""
    return shorten_by(job, v, BUR, HOLD, "face and back stay as they are; the walls lose as much height")


def shorten_by(job: Job, v: Verdict, bur: str, hold: str, beware: str) -> Correction | None:
    """Off an edge, with what and how; None where it is too little for a hand."""
    amount, full = v.missing or 0.0, v.to_target or 0.0
    if max(amount, full) < HAND_MM:
        return None
    do = f"shorten the edge by {amount:.1f} mm to reach the minimum, {full:.1f} mm to the target"
    return job.row(v, "occlusal", do, bur=bur, hold=hold, to_min_mm=amount, to_target_mm=full, beware=beware)


def _u(held: Held) -> float:
    """Expanded, mm: where the old edge stood is known as well as the earlier scan lies; and a thin edge stands higher
    than the scan's nearest points to it."""
    return held.budget.of("incisal-reduction", further=hypot(held.budget.align_mm, crest_mm(held, EDGE)))


def crest_mm(held: Held, zone: str) -> float:
    """Standard uncertainty of where a thin edge under a crown stands, which the scan's triangles cut off; nought in
    other zones."""
    thin = held.geometry.options.tooth.front and held.geometry.kind.reader.name in ("ring", "child")
    return CREST_SHARE * held.budget.edge_mm if thin and zone == EDGE else 0.0
