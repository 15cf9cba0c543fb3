"""How the teeth meet, under the contract's keys: the bite's check, contacts, movements, a raised bite."""

from __future__ import annotations

import math
from dataclasses import asdict
from typing import Any

from vane_line.core.case import Geometry
from vane_line.core.contract.bite_rows import (
    BiteRow,
    ContactRow,
    GapRow,
    GuideRow,
    MovementLow,
    MovementPose,
    MovementRow,
    MovementZone,
    RaiseRow,
    ShiftRow,
    SupportRow,
)
from vane_line.core.jaw.hinge import RULE_OF_THUMB
from vane_line.core.measure.moving import STEPS_MM, Moving
from vane_line.core.measure.reduction import DistanceField, ZoneValue


def bite_row(geometry: Geometry) -> BiteRow | None:
    """The check of the recorded bite on the other teeth."""
    bite, contacts, closing = geometry.bite, geometry.meeting.contacts, geometry.meeting.closing
    if bite is None or contacts is None:
        return None
    support = contacts.support
    return BiteRow(
        ok=bite.ok, note=bite.note, gap_mm=bite.gap_mm,
        shift=None if closing is None else ShiftRow(by=closing.shift, deeper_mm=closing.deeper_mm),
        support=SupportRow(**asdict(support), stands=support.stands),
    )  # fmt: skip


def contact_rows(geometry: Geometry) -> list[ContactRow] | None:
    """Of the other teeth, and of this one before cutting."""
    if geometry.meeting.contacts is None:
        return None
    return [ContactRow(**asdict(c)) for c in geometry.meeting.contacts.rows]


def raise_row(geometry: Geometry) -> RaiseRow | None:
    """What the opening is at the first molars, at the incisors and at this tooth, and what it asks of the others."""
    opening, place = geometry.options.opening, geometry.options.tooth.fdi[1]
    if opening is None:
        return None
    return RaiseRow(
        asked_mm=opening.mm, asked_at=opening.at, angle_deg=math.degrees(opening.angle_rad),
        first_molar_mm=opening.opening_mm("6"), incisor_mm=opening.opening_mm("1"),
        tooth_mm=opening.opening_mm(place), u_mm=opening.u_mm(place),
        rule_of_thumb_incisor_mm=RULE_OF_THUMB * opening.opening_mm("6"),
        others=[GapRow(**asdict(g), opening_mm=opening.opening_mm(g.tooth[1])) for g in geometry.meeting.raised],
    )  # fmt: skip


def movement_row(geometry: Geometry, moving: Moving, field: DistanceField) -> MovementRow:
    """Clearance in one movement, and what guides it."""

    def low(zone: ZoneValue) -> dict[str, Any]:
        if zone.worst is None:
            return {"low_mm": zone.low_mm, "at": None, "step_mm": None}
        step = float(moving.step_mm[geometry.inside.vertex_at(zone.worst)])
        return {"low_mm": zone.low_mm, "at": zone.worst, "step_mm": step}

    return MovementRow(
        movement=moving.movement, by_teeth=moving.by_teeth, leads_mm=moving.leads_mm,
        overall=MovementLow(**low(least_zone(field))),
        zones=[MovementZone(zone=z.zone, **low(z)) for z in field.zones],
        guides=[GuideRow(**asdict(g)) for g in moving.guides],
        poses=[
            MovementPose(step_mm=float(step), opposing=pose)
            for step, pose in zip(STEPS_MM, moving.poses, strict=True)
        ],
    )  # fmt: skip


def least_zone(field: DistanceField) -> ZoneValue:
    """The zone with the least low, the finish line's band among them."""
    lows = [z for z in field.zones if z.low_mm is not None]
    return min(lows, key=lambda z: z.low_mm or 0.0) if lows else field.overall
