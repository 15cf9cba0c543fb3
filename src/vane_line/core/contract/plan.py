"""`vane-line/plan/1`: what is to be cut, from the scan before cutting; places in that scan's coordinates."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from vane_line.core.contract.kind_rows import BudgetRow, ChannelRow
from vane_line.core.contract.measurement import FunctionalRow, VerdictRow
from vane_line.core.contract.row import Row, Vector

SCHEMA: Literal["vane-line/plan/1"] = "vane-line/plan/1"


class StandardTitle(Row):
    id: str
    version: int
    title: str


class Earlier(Row):
    name: str
    title: str
    space_to: str


class PlanFrame(Row):
    occlusal: Vector
    facial: Vector
    mesial: Vector
    centre: Vector
    path: Vector


class Hinge(Row):
    back_mm: float
    up_mm: float
    entered: bool


class PlanRaise(Row):
    asked_mm: float
    asked_at: Literal["molar", "incisor"]
    first_molar_mm: float
    incisor_mm: float
    tooth_mm: float
    u_mm: float
    by_place_mm: dict[str, float]
    hinge: Hinge
    rule_of_thumb_incisor_mm: float
    why_they_differ: str


class BurUse(Row):
    """A bur, and how much of it is sunk: `sink_mm` of `of_mm`, in words."""

    id: str
    title: str
    shape: str
    diameter_mm: float
    tip_mm: float
    length_mm: float
    taper_deg: float
    tip: str
    grit: str
    size: str
    sink_mm: float
    of_mm: float
    words: str
    beyond: str


class DepthSite(Row):
    """One place to mark for depth. depth_mm: null where it is not known; most_mm: more over-cuts."""

    zone: str
    where: str
    at: Vector
    min_mm: float
    target_mm: float
    max_mm: float
    source: str
    gap_mm: float
    depth_mm: float | None
    most_mm: float | None
    nothing_to_cut: bool
    bur: BurUse | None
    why: str


class Ledge(Row):
    side: str
    width_mm: float
    min_mm: float
    max_mm: float
    forms: list[str]
    bur: BurUse | None


class PlanLine(Row):
    points: list[Vector]
    above_gingiva_mm: float
    seen: list[bool]
    sides: list[Ledge]


class Capture(Row):
    where: str
    why: str
    do: str


class Predicted(Row):
    faciolingual_deg: float | None
    mesiodistal_deg: float | None
    wall_height_mm: float | None
    remaining_mm: float | None
    neck_mm: float | None
    resists: bool | None


class PlannedCusp(Row):
    """One cusp beside a planned cavity. base_mm, needed_mm: its thickness at the floor's level, null where it is
    covered; cover_mm3: of tooth that covering it takes."""

    cusp: str
    covered: bool
    base_mm: float | None
    needed_mm: float | None
    cover_mm3: float


class PlannedBox(Row):
    side: str
    depth_mm: float | None
    width_mm: float | None
    below_floor_mm: float | None
    contact_clearance_mm: float | None


class PlannedCavity(Row):
    """What would be measured on a planned cavity. drawn: whether a hand drew its outline."""

    drawn: bool
    depth_low_mm: float | None
    depth_median_mm: float | None
    isthmus_mm: float | None
    isthmus_share: float | None
    divergence_deg: float
    boxes: list[PlannedBox]
    cusps: list[PlannedCusp]


class PlannedChild(Row):
    """What a set's crowns would do on a child's target. first_try: the size of the tooth's own width, goes_on: whether
    it does; size: the smallest that goes on, null where none does. slice_mm: off each side between the teeth;
    around_mm: off all sides at their contour; face_mm: off face and back over their contour. below_gingiva_mm: how deep
    the walls go on, unseen."""

    first_try: str | None
    mesiodistal_mm: float | None
    goes_on: bool
    size: str | None
    slice_mm: float | None
    around_mm: float | None
    face_mm: float | None
    edge_lowered_mm: float | None
    below_gingiva_mm: float


class WayOut(Row):
    criterion: str
    where: str
    missing: float | None
    unit: str
    value: float | None
    limit: float | None
    do: str


class StepOfWork(Row):
    title: str
    view: str
    depth: str
    bur: str
    check: str
    caution: str


class OrderOfWork(Row):
    id: str
    version: int
    title: str
    reason: str
    steps: list[StepOfWork]


class PlanDocument(Row):
    """What to cut, how deep and with what, and what the target would be worth."""

    schema_: Literal["vane-line/plan/1"] = Field(alias="schema")
    tooth: str
    restoration: str
    material: str
    standard: StandardTitle
    earlier: Earlier
    frame: PlanFrame
    functional_side: FunctionalRow
    lift_mm: float
    raise_: PlanRaise | None = Field(alias="raise")
    sites: list[DepthSite]
    finish_line: PlanLine
    taper_deg: float
    incisal: Literal["butt", "window"] | None = Field(description="how a veneer ends at the edge; null for a crown")
    capture: list[Capture]
    predicted: Predicted | None
    cavity: PlannedCavity | None = Field(description="null for what is no cavity, or has no target")
    child: PlannedChild | None = Field(description="null for what is no child's crown, or has no target")
    channels: list[ChannelRow] | None = Field(
        description="grooves and pin holes as they are read on the target; null without one, and for what has none"
    )
    budget: BudgetRow | None = Field(description="tooth left over a pin's ledge; null for what is not held by pins")
    verdicts: list[VerdictRow]
    ways_out: list[WayOut]
    why_no_target: str
    sequence: OrderOfWork
    reminder: str
    warnings: list[str]
