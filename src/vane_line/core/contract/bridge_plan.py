"""`vane-line/bridge-plan/1`: a bridge before cutting; directions in the earlier scan's coordinates."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from vane_line.core.contract.decision import DecisionRow
from vane_line.core.contract.measurement import VerdictRow
from vane_line.core.contract.row import Row, Vector

SCHEMA: Literal["vane-line/bridge-plan/1"] = "vane-line/bridge-plan/1"


class LostRow(Row):
    """What goes of one tooth along a path, counted on a grid before any target is shaped."""

    tooth: str
    cut_mm3: float
    deepest_mm: float = Field(description="how far under the uncut surface the deepest 2 % of it lie")


class WayRow(Row):
    name: str = Field(description="`least tooth`, `along <tooth>`, `half way between`, or `as chosen`")
    direction: Vector
    lean_deg: float = Field(description="from the chosen path")
    teeth: list[LostRow]
    blocked_mm: float = Field(description="by which other teeth stand over a finish line, seen along it")


class PlannedAbutmentRow(Row):
    tooth: str
    centre: Vector
    facial: Vector
    mesial: Vector
    own_direction: Vector = Field(description="the best path for this tooth alone")
    own_to_path_deg: float
    plan: DecisionRow = Field(description="its target along the chosen path, measured and judged like a preparation")


class BridgePlanDocument(Row):
    """One path for all abutments, chosen so that the least tooth goes and the least of it deep."""

    schema_: Literal["vane-line/bridge-plan/1"] = Field(alias="schema")
    direction: Vector
    ways: list[WayRow] = Field(description="the chosen one first")
    abutments: list[PlannedAbutmentRow]
    pontics: list[str]
    own_angle_deg: float = Field(description="the greatest between two abutments' own paths")
    verdicts: list[VerdictRow]
    warnings: list[str]
    has_target: bool
    reminder: str
