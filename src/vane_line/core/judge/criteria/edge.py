"""A front tooth's edge under a crown: how far it is taken down.

The least distance at the edge is the face's or the back's, and is judged as theirs (`Standard.limits_for_zone`).
"""

from __future__ import annotations

from math import hypot

from vane_line.core.judge.record import Held, verdicts
from vane_line.core.judge.standards import Bounds
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import HAND_MM, Correction, Job

EDGE = "incisal-edge"
CREST_SHARE = 0.2  # of the scan's edges, by which a sharp crest is missed
BUR, HOLD = "depth-cutter, then a straight bur with a rounded end", "across the edge, level, and along all of it"
SHORT = "the edge was not taken down as far as the restoration's own edge needs"
TOO_MUCH = "more of the edge was taken than the material needs: the walls lose their height"
NOT_OVER = "the scan before does not show the tooth over the preparation's edge"


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
    if not geometry.options.tooth.front or geometry.kind.reader.name != "ring":
        return []
    limits: Bounds = held.standard.edge_limits.most
    off = geometry.ring.edge_off
    if off is None:
        return [not_measured("tooth-removed", EDGE, NOT_OVER, "max")]
    return verdicts("tooth-removed", EDGE, off.most_mm, "mm", _u(held), limits, TOO_MUCH, at=off.most_at)


def shorten(job: Job, v: Verdict) -> Correction | None:
    """Off the edge, where a hand can do it."""
    amount, full = v.missing or 0.0, v.to_target or 0.0
    if max(amount, full) < HAND_MM:
        return None
    do = f"shorten the edge by {amount:.1f} mm to reach the minimum, {full:.1f} mm to the target"
    return job.row(v, "occlusal", do, bur=BUR, hold=HOLD, to_min_mm=amount, to_target_mm=full,
                   beware="face and back stay as they are; the walls lose as much height")  # fmt: skip


def _u(held: Held) -> float:
    """Expanded, mm: where the old edge stood is known as well as the earlier scan lies; and a thin edge stands higher
    than the scan's nearest points to it."""
    return held.budget.of("incisal-reduction", further=hypot(held.budget.align_mm, CREST_SHARE * held.budget.edge_mm))
