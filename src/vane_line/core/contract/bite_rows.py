"""What a measurement says of the teeth that meet: the bite's record, clearance, contacts, movements, what is raised."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from vane_line.core.contract.row import Matrix, Row, Vector
from vane_line.core.measure.contacts import Change


class ShiftRow(Row):
    by: Vector = Field(description="mm, of the opposing teeth from where they were recorded")
    deeper_mm: float = Field(description="by how much deeper the other teeth would close there")


class SupportRow(Row):
    places: int = Field(description="contacts of the other teeth")
    span_mm: float = Field(description="longest way between two of them")
    across_mm: float = Field(description="how far they spread across that")
    stands: bool = Field(description="whether the jaw cannot tip on them")


class BiteRow(Row):
    ok: bool
    note: str
    gap_mm: float | None
    shift: ShiftRow | None = Field(
        description="where the other teeth close deepest; null of front teeth, and where too little meets"
    )
    support: SupportRow


class AreaRow(Row):
    mm2: float = Field(description="nearer than 0.1 mm to the opposing teeth")
    least_mm2: float = Field(description="for all that the bite record leaves open")
    most_mm2: float


class ContactRow(Row):
    at: Vector
    tooth: str | None = Field(description="about which tooth, FDI, by an average arch")
    own: bool = Field(description="of the prepared tooth, before cutting")
    change: Change
    before: AreaRow | None
    after: AreaRow | None
    gap_mm: float


class GapRow(Row):
    tooth: str = Field(description="about which tooth, FDI, by an average arch")
    gap_mm: float = Field(description="to the opposing teeth, raised, along the occlusal direction, where it is least")
    opening_mm: float = Field(description="of the jaw there, by average or entered geometry")
    at: Vector


class ClearanceLow(Row):
    low_mm: float | None
    at: Vector | None


class ClearanceZone(Row):
    zone: str
    low_mm: float | None
    at: Vector | None
    area_mm2: float
    area_short_mm2: float | None


class ClearanceRow(Row):
    bite: BiteRow
    overall: ClearanceLow
    zones: list[ClearanceZone]


class RaiseRow(Row):
    asked_mm: float
    asked_at: Literal["molar", "incisor"]
    angle_deg: float
    first_molar_mm: float
    incisor_mm: float
    tooth_mm: float
    u_mm: float
    rule_of_thumb_incisor_mm: float
    others: list[GapRow] = Field(description="the other teeth: by how much each would have to be built up to meet")


class MovementLow(Row):
    low_mm: float | None
    at: Vector | None
    step_mm: float | None = Field(description="how far into the movement the least distance is; 0: teeth together")


class MovementZone(MovementLow):
    zone: str


class MovementPose(Row):
    step_mm: float
    opposing: Matrix = Field(description="what moves the opposing teeth, in the prep scan's coordinates")


class GuideRow(Row):
    step_mm: float
    at: Vector = Field(description="as these teeth stand with the teeth together")
    tooth: str | None = Field(description="about which tooth, FDI, by an average arch")
    own: bool = Field(description="of the earlier tooth")
    before: bool = Field(description="with the earlier tooth in place, else with what is left without it")


class MovementRow(Row):
    movement: Literal["protrusive", "laterotrusive", "mediotrusive"] = Field(
        description="the lower jaw moves forward, to the tooth's own side, to the other side"
    )
    by_teeth: bool = Field(description="the teeth on the scans guided it; false: the entered incisal guidance")
    leads_mm: float | None = Field(
        description="by how much further the jaw would close at this tooth without the earlier one to guide it, at most"
    )
    overall: MovementLow
    zones: list[MovementZone]
    guides: list[GuideRow] = Field(description="what holds the jaws apart 1, 2 and 3 mm into it, where teeth guide")
    poses: list[MovementPose]
