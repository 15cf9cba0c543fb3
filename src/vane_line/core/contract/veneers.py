"""Several veneers of one case seen together: `vane-line/veneers/1`."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from vane_line.core.contract.row import Row

SCHEMA: Literal["vane-line/veneers/1"] = "vane-line/veneers/1"
Compared = Literal["thickness", "tooth-removed", "room-at-edge", "longer", "planned-edge"]


class ThirdRow(Row):
    zone: str = Field(description="facial/incisal, facial/middle or facial/cervical")
    thickness_mm: float | None = Field(description="median room for the veneer, to the planned surface")
    least_mm: float | None
    thickness_u_mm: float | None
    removed_mm: float | None = Field(description="median of what was taken off the tooth")
    removed_u_mm: float | None
    status: str = Field(description="gravest of the room's and the removed tooth's verdicts here")


class ToothRow(Row):
    tooth: str
    thirds: list[ThirdRow]
    longer_mm: float | None = Field(description="by which the planned edge stands over the one before cutting")
    room_mm: float | None = Field(description="from the cut edge to the planned one")
    level_mm: float | None = Field(description="of the planned edge below the highest, along the mean occlusal axis")
    u_mm: float | None = Field(description="of the edge's figures, expanded, k = 2; a level's without the axis's")


class UnlikeRow(Row):
    """One figure of two teeth that mirror each other."""

    right: str
    left: str
    what: Compared
    zone: str | None
    right_mm: float
    left_mm: float
    difference_mm: float = Field(description="right less left")
    u_mm: float | None = Field(description="expanded, k = 2; null where either figure's is not known")
    proven: bool = Field(description="the difference is greater than that")


class VeneersDocument(Row):
    """In the order of the arch, from the patient's right. unlike: every figure of both sides, the proven ones first."""

    schema_: Literal["vane-line/veneers/1"] = Field(alias="schema")
    to: str | None = Field(description="what the room is measured to: preop or mockup; null where teeth differ in that")
    teeth: list[ToothRow]
    unlike: list[UnlikeRow]
    missing: list[str] = Field(description="veneers of the case that are not measured yet")
