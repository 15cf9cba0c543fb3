"""What the endpoints of exercises and classes take and give."""

from __future__ import annotations

from typing import Annotated, Literal

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


class MarkRowModel(BaseModel):
    """at_limit: share (0..1) of the marks left at the limit; fall: beyond it, in the criterion's unit, to none."""

    title: str = Field(max_length=200)
    criteria: Annotated[list[str], Field(max_length=40)]
    weight: float
    fall: float
    at_limit: float = 0.0
    gather: Literal["mean", "worst"] = "mean"


class CapModel(BaseModel):
    """A proven fault that leaves no more than `most` of 100."""

    criterion: str = Field(max_length=60)
    most: float
    says: str = Field(max_length=200)


class GradeStepModel(BaseModel):
    """From `least` of 100 on."""

    name: str = Field(max_length=200)
    least: float


class RubricModel(RubricOut):
    """A rubric whole; own: the school's. Steps run from the best down, the last from nought."""

    source: str = ""
    rows: list[MarkRowModel]
    caps: list[CapModel]
    steps: list[GradeStepModel]
    own: bool


class RubricIn(BaseModel):
    """expected_version: the one that was edited, 0 for a new one."""

    expected_version: int = Field(ge=0, le=1_000_000)
    id: str = Field(default="", max_length=70)
    title: str = Field(max_length=200)
    restorations: Annotated[list[str], Field(max_length=20)]
    source: str = Field(default="", max_length=200)
    rows: Annotated[list[MarkRowModel], Field(max_length=40)]
    caps: Annotated[list[CapModel], Field(max_length=40)]
    steps: Annotated[list[GradeStepModel], Field(max_length=20)]


class MarkedOut(BaseModel):
    """What a row can mark."""

    name: str
    title: str


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
