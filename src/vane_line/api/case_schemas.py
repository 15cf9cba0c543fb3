"""What goes over the wire of cases, their teeth, scans and jobs."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from vane_line.api.edit_schemas import EditKind, PairsIn, Pin
from vane_line.api.plan_schemas import PlanIn
from vane_line.core.contract.row import Vector

Role = Literal["prep", "preop", "mockup", "opposing", "opposing_before"]
Unit = Literal["mm", "cm", "m", "in"]
Meaning = Literal["natural", "old-crown", "copied-crown", "short"]
Side = Literal["facial", "lingual"]


class ErrorOut(BaseModel):
    error: str


class FunctionalIn(BaseModel):
    side: Side | None


class FactsIn(BaseModel):
    root_filled: bool | None = None
    dark: bool | None = Field(None, description="its colour would show through")
    guide_pins: bool | None = Field(None, description="pins stand in the holes")
    gauge: dict[Literal["mesial", "lingual", "distal"], Annotated[float, Field(gt=0, le=5)]] | None = Field(
        None, description="depths of pin holes as a gauge told them, mm by side"
    )
    facts: list[str] | None = Field(None, max_length=20, description="what is known and no scan shows, by name")


class CaseIn(BaseModel):
    code: str = Field(min_length=1, max_length=40)
    tooth: str = Field(min_length=1, max_length=2)
    notation: Literal["fdi", "universal"] = "fdi"
    restoration: str = "full-crown"
    material: str
    standard_id: str | None = None
    surface_meaning: Meaning = "natural"
    opposing_frame: Literal["prep", "preop"] = "prep"
    notes: str = Field(default="", max_length=4000)


class CaseChange(BaseModel):
    notes: str = Field(max_length=4000)
    opposing_frame: Literal["prep", "preop"]
    surface_meaning: Meaning | None = None  # left out: as it is
    opening: str | None = None  # 0.5@molar, 2@incisor; "" for none; left out: as it is
    movements: str | None = None  # "30,15,-": condylar path, Bennett, guidance in front; "" for none; left out: as is


class ScanOut(BaseModel):
    id: str
    role: Role
    name: str
    unit: Unit
    unit_sure: bool
    rest_hash: str
    light_hash: str
    facts: dict[str, Any]


class JobOut(BaseModel):
    id: str
    reading_id: str
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    text: str
    share: float
    error: str


class ReadingOut(BaseModel):
    """A tooth in one attempt of its case."""

    id: str
    attempt_id: str
    number: int
    created_at: str
    job: JobOut | None


class ToothIn(BaseModel):
    tooth: str = Field(min_length=1, max_length=2)
    notation: Literal["fdi", "universal"] = "fdi"
    restoration: str = "full-crown"
    material: str
    standard_id: str | None = None


class PutAwayOut(BaseModel):
    """An attempt, of all teeth of its case."""

    id: str
    number: int
    put_away_at: str


class SiteOut(BaseModel):
    id: str
    tooth: str
    universal: str
    lingual_word: str
    restoration: str
    material: str
    standard_id: str
    standard_version: int
    functional_side: Side | None
    root_filled: bool
    dark: bool
    guide_pins: bool
    gauge: dict[str, float]
    facts: list[str]
    readings: list[ReadingOut]
    put_away: list[PutAwayOut]  # attempts that can be taken back


class CaseOut(BaseModel):
    id: str
    code: str
    notes: str
    surface_meaning: Meaning
    opening: str | None
    movements: str | None
    opposing_frame: Literal["prep", "preop"]
    demo: bool
    put_away_at: str | None
    revision: int
    created_at: str
    sites: list[SiteOut]
    missing: list[str]  # teeth between them: what a bridge would replace


class StandingOut(BaseModel):
    """How a case stands: a word to filter by, a line to read, a small picture where it was measured."""

    state: Literal[
        "measuring", "failed", "not-yet", "cut-no-more", "stop", "cannot-say", "nothing", "unmeasured", "planned",
        "waiting",
    ]  # fmt: skip
    text: str
    picture: str | None


class CaseRow(BaseModel):
    """A case in the list."""

    case: CaseOut
    standing: StandingOut
    changed_at: str


class TakenOut(BaseModel):
    """How many marks of an answer were new."""

    taken: int


class ReadingDetail(BaseModel):
    id: str
    attempt_id: str
    number: int
    scans: list[ScanOut]
    axes: dict[str, Any] | None
    path: Vector | None
    gingiva: list[Vector] | None
    core: list[Vector] | None
    line_drawn: bool
    pairs: dict[str, PairsIn]
    revisions: dict[EditKind, int]
    job: JobOut | None
    plan: PlanIn
    plan_revision: int
    plan_job: JobOut | None
    decision_job: JobOut | None
    bridge_job: JobOut | None
    bridge_plan_job: JobOut | None
    ticks: list[str]
    ticks_revision: int
    pins: list[Pin]
    pins_revision: int


class ArrivalOut(BaseModel):
    """A file that came through the watched folder."""

    id: str
    name: str
    case_id: str | None
    case_code: str | None
    reading_id: str | None
    attempt_number: int | None
    state: Literal["waiting", "running", "done", "failed", "cancelled", "not-taken"]
    error: str


class RevisionOut(BaseModel):
    revision: int


class ScanChange(BaseModel):
    attempt_id: str
    role: Role
    unit: Unit


class StandardChoice(BaseModel):
    material: str
    standard_id: str | None = None
    version: int | None = None  # of a standard of one's own; the newest when left out
