"""What the visit's endpoints take and give."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

Kind = Literal["step", "timer"]
State = Literal["done", "running", "ahead"]
Tick = Literal["allergies-asked", "medicines-looked-at", "isolation", "eye-shields", "consent"]


class EntryIn(BaseModel):
    kind: Kind
    name: str = Field(max_length=40)


class EntryOut(BaseModel):
    """A step or timer of the log; stopped_at null while it runs."""

    id: str
    case_id: str
    kind: Kind
    name: str
    started_at: str
    stopped_at: str | None


class PlannedOut(BaseModel):
    """A step and when its turn comes, minutes from now; by_log: its duration is the surgery's own median."""

    id: str
    title: str
    minutes: float
    hands: int
    away: bool
    each: bool
    reminders: list[str]
    source: str
    lasts_min: float
    begins_min: float
    ends_min: float
    by_log: bool
    state: State


class VisitStepModel(BaseModel):
    """id: by which the log goes, empty for a new one; away: the patient may leave meanwhile; each: once a tooth."""

    id: str = Field(default="", max_length=40)
    title: str = Field(max_length=200)
    minutes: float
    hands: int
    away: bool = False
    each: bool = False
    reminders: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=10)] = []


class StepsModel(BaseModel):
    """The surgery's list of steps; revision: the one that was read. own: whether it is not the one that ships."""

    revision: int = Field(ge=0)
    own: bool = False
    steps: Annotated[list[VisitStepModel], Field(max_length=40)]


class TimerOut(BaseModel):
    """least_s: not shortened; most_s: not overrun, 0 where that does no harm."""

    id: str
    title: str
    least_s: int
    most_s: int
    source: str


class TimerModel(BaseModel):
    """id: by which the log goes, empty for a new one; least_s: not shortened; most_s: not overrun, 0: no harm."""

    id: str = Field(default="", max_length=40)
    title: str = Field(max_length=200)
    least_s: int
    most_s: int = 0


class TimersModel(BaseModel):
    """The surgery's timers; revision: the one that was read. own: whether they are not those that ship."""

    revision: int = Field(ge=0)
    own: bool = False
    timers: Annotated[list[TimerModel], Field(max_length=30)]


class Used(BaseModel):
    """A material and its lot, as free codes."""

    what: str = Field(max_length=60)
    lot: str = Field(default="", max_length=40)


class NotesModel(BaseModel):
    """What is written down beside the steps: codes, no names."""

    materials: Annotated[list[Used], Field(max_length=30)] = []
    shade: str = Field(default="", max_length=40)
    ticked: Annotated[list[Tick], Field(max_length=10)] = []
    adjusted: str = Field(default="", max_length=300)
    agreed_by: str = Field(default="", max_length=40)


class VisitOut(BaseModel):
    """now: the server's clock, by which timers run; seating: FDI numbers in the order in which they are seated."""

    now: str
    entries: list[EntryOut]
    planned: list[PlannedOut]
    timers: list[TimerOut]
    seating: list[str]
    minutes_left: float
    notes: NotesModel
    notes_revision: int
