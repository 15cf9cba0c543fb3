"""What goes over the wire of a practice's own: standards, orders of work, burs, the mill."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field


class LimitsOut(BaseModel):
    min: float
    target: float
    max: float
    source: str


class BoundsOut(BaseModel):
    """What no material sets; a bound that is null is not judged."""

    min: float | None
    target: float | None
    max: float | None
    source: str


class StandardOut(BaseModel):
    id: str
    version: int
    title: str
    material: str
    restoration: str
    also_restorations: list[str]
    protocol: str
    reason: str
    caution: str
    reduction: dict[str, LimitsOut]
    finish_line_width: dict[str, LimitsOut]
    teeth: Literal["back", "front", "canine"]
    fits: list[str]  # FDI numbers of the teeth that it may be chosen for
    also_for: list[str]
    finish_line_form: dict[str, list[str]]
    clearance: dict[str, LimitsOut]
    cement_space_mm: float
    general: dict[str, BoundsOut]  # what this one overrules of the general standard
    bounds: dict[str, BoundsOut]  # all that no material sets, as it holds for this one
    wing: dict[str, float]
    own: bool


class StandardIn(BaseModel):
    """A user's own standard; version 0 for a new one, else the version that was edited."""

    expected_version: int = Field(ge=0)
    data: dict[str, Any]


class StandardTryIn(BaseModel):
    """An edited standard that is not kept yet, and the one whose cases it is tried on."""

    data: dict[str, Any]
    against: str


class ForeseenOut(BaseModel):
    """What an edited standard would say of a case: the answer line now and then, and how many verdicts turn."""

    case_id: str
    case_code: str
    tooth: str
    attempt: int
    now: str
    then: str
    turned: int


class StandardTriedOut(BaseModel):
    """`count`: measured teeth judged by the standard; `rows`: the newest of them."""

    count: int
    rows: list[ForeseenOut]


class SequenceStepModel(BaseModel):
    title: str
    depth: str = "none"
    bur: str = "none"
    view: str = ""
    check: str = ""
    caution: str = ""


class SequenceOut(BaseModel):
    id: str
    version: int
    title: str
    teeth: Literal["back", "front", "all"]
    restorations: list[str]
    reason: str
    source: str
    own: bool
    steps: list[SequenceStepModel]


class SequenceWords(BaseModel):
    """What a step can be about."""

    depths: list[str]
    burs: list[str]


class SequenceIn(BaseModel):
    expected_version: int = Field(ge=0)
    id: str = ""
    title: str
    teeth: Literal["back", "front", "all"]
    restorations: Annotated[list[str], Field(min_length=1, max_length=12)] = ["full-crown"]
    reason: str = ""
    source: str = ""
    steps: Annotated[list[SequenceStepModel], Field(min_length=1, max_length=30)]


class BurModel(BaseModel):
    id: str = Field(min_length=1, max_length=60)
    title: str = Field(min_length=1, max_length=80)
    shape: str = ""
    diameter_mm: float
    tip_mm: float
    length_mm: float
    taper_deg: float = 0.0
    tip: str
    grit: str = "medium"


class TrayModel(BaseModel):
    revision: int
    burs: Annotated[list[BurModel], Field(min_length=1, max_length=80)]


class MillModel(BaseModel):
    revision: int
    title: str = Field(max_length=80)
    bur_radius_mm: float
