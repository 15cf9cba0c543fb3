"""`vane-line/look/1`: what an eye marked before the verdict, against what was measured. Keys may be added."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from vane_line.core.contract.row import Row, Vector

LOOK_SCHEMA: Literal["vane-line/look/1"] = "vane-line/look/1"


class MissedRow(Row):
    criterion: str
    title: str
    where: str
    at: Vector
    amount: float = Field(description="by how much it is short or over")
    unit: str


class SeenRow(MissedRow):
    guessed_mm: float | None
    off_mm: float | None = Field(description="guess less measured")


class ImaginedRow(Row):
    at: Vector
    said: str
    doubtful: bool = Field(description="the measurement is too near the limit there to say")


class LookDocument(Row):
    """All that was seen, missed and imagined."""

    schema_: Literal["vane-line/look/1"] = Field(alias="schema")
    seen: list[SeenRow]
    missed: list[MissedRow]
    imagined: list[ImaginedRow]
    off_mm: float | None = Field(description="mean of what guesses were off by")
    says: str
