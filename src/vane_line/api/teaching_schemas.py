"""What the endpoints of exercises and classes take and give."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from vane_line.core.contract.look import LookDocument
from vane_line.core.contract.mark import MarkDocument
from vane_line.core.grade.agreement import Agreement
from vane_line.core.grade.together import Shared
from vane_line.service.teaching import HandedIn, Overrule

Place = Annotated[list[float], Field(min_length=3, max_length=3)]


class RubricOut(BaseModel):
    id: str
    version: int
    title: str
    restorations: list[str]


class ExerciseIn(BaseModel):
    title: str = Field(max_length=300)
    case_id: str
    rubric_id: str
    look_first: bool = True


class ExerciseOut(BaseModel):
    """handed_in: how many students have handed in."""

    id: str
    title: str
    case_id: str
    tooth: str
    restoration: str
    rubric: RubricOut
    look_first: bool
    created_at: str
    handed_in: int


class HandedInOut(BaseModel):
    reading_id: str
    case_id: str


class OverruleIn(BaseModel):
    """An instructor's mark; the tool's stays beside it."""

    mark: float = Field(ge=0, le=100)
    why: str = Field(max_length=300)


class LookMarkIn(BaseModel):
    at: Place
    said: str
    amount_mm: float | None = None


class LookIn(BaseModel):
    """What was seen before the verdict was shown."""

    marks: list[LookMarkIn]


class TaughtOut(BaseModel):
    """An attempt's exercise, null where it was not handed in for one; looked: whether its look was taken already."""

    exercise: ExerciseOut | None
    looked: bool
    mark: MarkDocument | None
    look: LookDocument | None
    overrule: Overrule | None


class ClassReliefOut(BaseModel):
    """mesh: hash of the display mesh; cuts: preparations that it tells of; left_out: those whose scans do not fit."""

    mesh: str
    cuts: int
    left_out: int


class ClassOut(BaseModel):
    exercise: ExerciseOut
    rows: list[HandedIn]
    shared: list[Shared]
    median: float | None
    agreement: Agreement | None
    intraclass: float | None
