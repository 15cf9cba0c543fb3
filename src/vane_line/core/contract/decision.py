"""`vane-line/decision/1`: which material a tooth can take, one row a standard."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from vane_line.core.contract.plan import StandardTitle
from vane_line.core.contract.row import Row

SCHEMA: Literal["vane-line/decision/1"] = "vane-line/decision/1"


class UnmetRow(Row):
    criterion: str
    zone: str
    missing: float | None
    unit: str
    words: str


class DecisionRow(Row):
    standard: StandardTitle
    material: str
    way: Literal["as-it-is", "raised"] = Field(description="the bite as it is, or raised")
    raise_text: str | None = Field(description="by how much and where, such as 1@molar")
    meets: bool
    cut_mm3: float | None = Field(description="tooth over the planned finish line that is cut")
    cut_share: float | None = Field(description="of all the tooth over it")
    left_mm: float | None = Field(description="least width of tooth that stays at the finish line")
    wall_height_mm: float | None
    resists: bool | None
    unmet: list[UnmetRow]
    why_no_target: str
    caution: str


class DecisionDocument(Row):
    """The least tooth cut first."""

    schema_: Literal["vane-line/decision/1"] = Field(alias="schema")
    tooth: str
    restoration: str
    rows: list[DecisionRow]
    reminder: str
