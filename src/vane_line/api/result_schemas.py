"""What goes over the wire of a measured tooth: findings, changes, sections."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from vane_line.api.described import DescribedBy
from vane_line.core.contract.measurement import MeasurementDocument
from vane_line.core.contract.row import Vector

Vector2 = Annotated[list[float], Field(min_length=2, max_length=2)]


class FindingOut(BaseModel):
    """One line of the findings; `verdict` is its place among the document's verdicts."""

    verdict: int
    title: str
    lens: str | None
    amount: str
    says: str
    advice: str


class CautionOut(BaseModel):
    where: str
    text: str


class PlaceOut(BaseModel):
    """One row: a place with all that is found there, by number among the findings, the gravest first."""

    where: str
    concern: str
    findings: list[int]


class AnswerOut(BaseModel):
    state: Literal["not-yet", "cut-no-more", "stop", "cannot-say", "nothing"]
    text: str
    counts: str


class PatchOut(BaseModel):
    look: Literal[
        "short", "over", "doubt", "unseen", "meets", "gap", "contact", "taken", "line", "dashed", "shadow", "lozenge"
    ]
    text: str


class LensOut(BaseModel):
    """One way to look at the tooth, with its own scale, legend and words."""

    name: str
    title: str
    says: str
    concern: str
    legend: list[PatchOut]
    field: str | None
    reads: str
    contour_mm: float
    best_view: str | None
    readers: list[str]  # of the kinds that it serves


class ChoiceOut(BaseModel):
    """One of the values that a field takes, in words."""

    value: str
    label: str
    hint: str = ""


class KindOut(ChoiceOut):
    """A kind of restoration: how its cut surface is read, whether it can be planned before cutting, and whether it is
    for primary teeth alone."""

    reader: str
    planned: bool
    primary: bool


class VocabularyOut(BaseModel):
    """All that a page offers to choose from, and every way to look; the pages keep no lists of their own."""

    lenses: list[LensOut]
    kinds: list[KindOut]
    meanings: list[ChoiceOut]
    openings: list[ChoiceOut]
    bur_tips: list[str]
    bur_grits: list[str]
    facts: list[ChoiceOut]
    glossary: dict[str, str]


class ReportOut(BaseModel):
    """The findings as a person reads them; `stop` once everything proven is met."""

    answer: AnswerOut
    places: list[PlaceOut]
    findings: list[FindingOut]
    unmeasured: list[FindingOut]
    cautions: list[CautionOut]
    meets: int
    stop: str


class ResultOut(BaseModel):
    document: Annotated[dict[str, Any], DescribedBy(MeasurementDocument)]
    fields: dict[str, str]  # hashes by mesh and name: light/depth
    report: ReportOut
    meshes: dict[str, str]  # hashes of the meshes that the fields belong to: rest, light
    stale: bool
    measured_at: str


class ChangeOut(BaseModel):
    title: str
    criterion: str
    zone: str
    bound: str
    where: str
    unit: str
    before: float | None
    after: float | None
    change: float | None
    U: float
    limit: float | None
    missing: float | None
    at: Vector | None
    state: Literal["new", "worse", "still", "better", "mended", "changed"]


class ChangesOut(BaseModel):
    since: int | None
    rows: list[ChangeOut]


class TimelineRow(BaseModel):
    title: str
    criterion: str
    bound: str
    unit: str
    limit: float | None
    values: list[float | None]
    where: list[str]
    status: list[str]


class TimelineOut(BaseModel):
    """The numbers over the attempts: one row for each criterion that was ever at fault, its worst place each time."""

    attempts: list[int]
    rows: list[TimelineRow]


class PredictedOut(BaseModel):
    """What strokes on the sheet would change; nothing is kept."""

    rows: list[ChangeOut]
    removed_mm3: float
    warnings: list[str]


class ThicknessOut(BaseModel):
    """How thick the cut is at a place of a section, within its plane: plane coordinates, mm."""

    at: Literal["cusp", "groove", "wall", "side"]
    place: Vector2
    to: Vector2
    mm: float


class SectionOut(BaseModel):
    """Outlines by role in plane coordinates (mm); `crossings`: where the finish line goes through, if it does."""

    lines: dict[str, list[list[list[float]]]]
    crossings: list[Vector2]
    thickness: list[ThicknessOut]
    across: Vector
    up: Vector


class TapeOut(BaseModel):
    """mm between two places; `along_mm` as a tape on the surface, null where no way leads over it."""

    straight_mm: float
    along_mm: float | None
