"""A planned bridge as plain data, with what is to be said of it."""

from __future__ import annotations

from typing import Any

import numpy as np

from vane_line.core.contract.bridge_plan import (
    SCHEMA,
    BridgePlanDocument,
    LostRow,
    PlannedAbutmentRow,
    WayRow,
)
from vane_line.core.judge.bridge import U_ANGLE_DEG, UPRIGHT, bounds, verdict_of_bridge
from vane_line.core.judge.record import verdicts
from vane_line.core.judge.verdicts import FAULTS
from vane_line.core.plan.decide import as_row
from vane_line.core.span.least import BLOCKED_MM, Way
from vane_line.core.span.planned import PlannedBridge
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import degrees_between

REMINDER = (
    "By the teeth's form and one standard alone: decay, the pulp and what the bone carries count as well; "
    "the dentist decides."
)
U_OWN_DEG = 5.0  # of a path that is best for one tooth: many are nearly as good


def bridge_plan_document(bridge: PlannedBridge, pontics: list[ToothNumber]) -> dict[str, Any]:
    """Plain data for JSON, `vane-line/bridge-plan/1`."""
    teeth = [a.plan.options.case.tooth.fdi for a in bridge.abutments]
    angle = verdicts("abutment-angle", "-".join((teeth[0], teeth[-1])), bridge.angle_deg, "deg",
                     float((U_ANGLE_DEG**2 + U_OWN_DEG**2) ** 0.5), bounds()["abutment-angle"], UPRIGHT)  # fmt: skip
    return BridgePlanDocument(
        schema=SCHEMA, direction=bridge.direction, ways=[_way(w, bridge) for w in bridge.ways],
        abutments=[
            PlannedAbutmentRow(
                tooth=a.plan.options.case.tooth.fdi, centre=a.plan.axes.origin, facial=a.plan.frame.facial,
                mesial=a.plan.frame.mesial, own_direction=a.own,
                own_to_path_deg=float(degrees_between(a.own, bridge.direction)), plan=as_row(a.row),
            )
            for a in bridge.abutments
        ],
        pontics=[t.fdi for t in pontics], own_angle_deg=bridge.angle_deg,
        verdicts=[verdict_of_bridge(v) for v in angle], warnings=_said(bridge, [v.status in FAULTS for v in angle]),
        has_target=bridge.target is not None, reminder=REMINDER,
    ).model_dump(by_alias=True)  # fmt: skip


def _way(way: Way, bridge: PlannedBridge) -> WayRow:
    return WayRow(
        name=way.name, direction=list(way.direction),
        lean_deg=float(degrees_between(bridge.direction, np.array(way.direction))), blocked_mm=way.blocked_mm,
        teeth=[LostRow(tooth=t, cut_mm3=v.mm3, deepest_mm=v.deepest_mm) for t, v in way.lost.items()],
    )  # fmt: skip


def _said(bridge: PlannedBridge, faults: list[bool]) -> list[str]:
    said = []
    most = bounds()["abutment-angle"]
    if not any(faults) and most.target is not None and bridge.angle_deg > most.target:
        said.append(
            f"The abutments' own paths lie {bridge.angle_deg:.0f} degrees apart, over {most.target:g}: {UPRIGHT}."
        )
    blocked = bridge.ways[0].blocked_mm
    if blocked > BLOCKED_MM:
        said.append(
            f"Along this path another tooth stands over a finish line by {blocked:.1f} mm: reshape its side by "
            "polishing, or set that finish line further in."
        )
    for a in bridge.abutments:
        said += [f"{a.plan.options.case.tooth.fdi}: {w}" for w in a.plan.warnings]
    return said
