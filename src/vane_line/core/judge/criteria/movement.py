"""Room while the lower jaw moves: what suffices with the teeth together may run out in protrusion or sideways."""

from __future__ import annotations

from dataclasses import replace

from vane_line.core.burs import for_depth
from vane_line.core.case import Geometry
from vane_line.core.judge.criteria.space import meets_opposing
from vane_line.core.judge.record import EVERY_KIND, Criterion, Held, Judge, verdicts
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import AGREED, HAND_MM, Correction, Job, said
from vane_line.core.measure.moving import Moving
from vane_line.core.measure.zones import is_functional

# The contract's names of the movements, and what a dentist calls them.
TITLES = {
    "protrusive": "clearance in protrusion",
    "laterotrusive": "clearance when the jaw moves to this side",
    "mediotrusive": "clearance when the jaw moves to the other side",
}
BY_TEETH = "the teeth on the scans guide, average joint"
BY_ENTERED = "by the entered guidance"
HOLD_INCLINE = "bur laid along the incline that the opposing cusp slides on; the cusp's tip keeps its height"


def name_of(movement: str) -> str:
    """A movement's criterion in the contract."""
    return f"clearance/{movement}"


def guides_there(geometry: Geometry, zone: str) -> bool:
    """Whether opposing teeth slide there: functional cusps with their bevel; of front teeth what bites."""
    if geometry.options.tooth.front:
        return meets_opposing(geometry, zone)
    head = zone.split("/")[0]
    plain = zone in geometry.anatomy.cusps and is_functional(zone, geometry.functional.side)
    return plain or head in ("functional-cusp", "functional-cusp-bevel")


def _judge(movement: str) -> Judge:
    def judge(held: Held) -> list[Verdict]:
        geometry = held.geometry
        if geometry.options.movements is None:
            return []
        name, field = name_of(movement), held.moving.get(movement)
        if field is None:
            missing = geometry.reasons.get("clearance", "no opposing scan was given")
            return [not_measured(name, "overall", geometry.reasons.get("moving", missing))]
        moving = next(m for m in geometry.moving if m.movement == movement)
        rows: list[Verdict] = []
        for zone in field.zones:
            limits = held.limits_of(zone.zone, clearance=True)
            if limits is None or zone.low_mm is None or zone.worst is None or not guides_there(geometry, zone.zone):
                continue
            if held.side_unknown:
                rows.append(not_measured(name, zone.zone, held.side_unknown))
                continue
            k = geometry.inside.vertex_at(zone.worst)
            why = f"least {moving.step_mm[k]:.2g} mm into the movement, {BY_TEETH if moving.by_teeth else BY_ENTERED}"
            rows += verdicts(name, zone.zone, zone.low_mm, "mm", _u(held, moving, zone.zone, k), limits.least, why,
                             at=zone.worst)  # fmt: skip
        return [replace(v, pose=movement) for v in rows]

    return judge


def _u(held: Held, moving: Moving, zone: str, vertex: int) -> float:
    """Of a zone's least distance: what the bite and the alignment leave, and all that was not entered."""
    border = held.clearance.u_low(zone) if held.clearance is not None else 0.0
    return held.budget.moving(held.opposing_align_mm, border, float(moving.spread_mm[vertex]))


def _room(job: Job, v: Verdict) -> Correction | None:
    """Off the incline, unless the room with the teeth together says that the tip is too high as well."""
    low, full = v.missing or 0.0, v.to_target or 0.0
    if max(low, full) < HAND_MM:
        return None
    closed = job.find("clearance", v.zone)
    if closed is not None and closed.status == "short":
        return job.row(v, "other", "first the room with the teeth together, then look at this movement again")
    use = for_depth(max(full, HAND_MM), job.tray)
    do = (
        f"take {low:.1f} mm off the incline to reach the minimum, {full:.1f} to the target; or take the contact in "
        f"this movement off the opposing incline, {AGREED}"
    )
    return job.row(v, "occlusal", do, bur=said(use), hold=HOLD_INCLINE, to_min_mm=low, to_target_mm=full,
                   beware="the tip already has its room: only where the paths of the opposing cusp run")  # fmt: skip


CRITERIA = tuple(
    Criterion(
        name_of(movement), title, _judge(movement), lens="space", by_attempt=True, weight=0.8, correct={"min": _room},
        kinds=EVERY_KIND,
        way_out="the jaw's movement leaves too little: a flatter incline, the opposing one adjusted, or a material "
        "that can be thinner",
        doubtful="move the jaw with foil between the teeth and look: the joint was not measured here",
    )
    for movement, title in TITLES.items()
)  # fmt: skip
