"""What goes over the wire."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from vane_line.api.described import DescribedBy
from vane_line.api.plan_schemas import PlanIn
from vane_line.core.contract.measurement import MeasurementDocument
from vane_line.core.contract.row import Vector

Role = Literal["prep", "preop", "mockup", "opposing", "opposing_before"]
Unit = Literal["mm", "cm", "m", "in"]

Vector2 = Annotated[list[float], Field(min_length=2, max_length=2)]
EditKind = Literal["axes", "pairs", "path", "line", "gingiva", "core"]
Meaning = Literal["natural", "old-crown", "copied-crown", "short"]
Side = Literal["facial", "lingual"]


class ErrorOut(BaseModel):
    error: str


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


class StepModel(BaseModel):
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
    steps: list[StepModel]


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
    steps: Annotated[list[StepModel], Field(min_length=1, max_length=30)]


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


class PairsIn(BaseModel):
    """The same places on an earlier scan (its own coordinates) and on the preparation's, mm."""

    theirs: Annotated[list[Vector], Field(max_length=20)]
    ours: Annotated[list[Vector], Field(max_length=20)]


class Pin(BaseModel):
    """A place on the preparation that somebody marked; it reads whatever lens is chosen."""

    place: Vector
    name: Annotated[str, Field(max_length=60)] = ""


class PinsIn(BaseModel):
    pins: Annotated[list[Pin], Field(max_length=40)]


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


class TicksIn(BaseModel):
    keys: Annotated[list[str], Field(max_length=200)]


class StrokeOfBur(BaseModel):
    """One stroke of a bur on the sheet: points on the tooth, how deep it takes, how wide it is."""

    points: Annotated[list[Vector], Field(min_length=1, max_length=2000)]
    depth_mm: float = Field(gt=0, le=3)
    diameter_mm: float = Field(gt=0.2, le=6)


class PredictIn(BaseModel):
    strokes: Annotated[list[StrokeOfBur], Field(min_length=1, max_length=50)]


class AxesIn(BaseModel):
    occlusal: Vector
    facial: Vector
    near: Vector | None = None


class StrokeIn(BaseModel):
    points: Annotated[list[Vector], Field(min_length=2, max_length=5000)]
    snap: bool = True
    closed: bool = False


class CurveIn(BaseModel):
    points: Annotated[list[Vector], Field(min_length=6, max_length=5000)] | None


class EditOut(BaseModel):
    kind: EditKind
    revision: int
    created_at: str
    returns_to: int | None
    actor: str


class TriedPathOut(BaseModel):
    """Undercuts along a path that is only tried."""

    max_depth_mm: float
    area_mm2: float
    least_draft_deg: float | None
    sectors: list[str]


class PathIn(BaseModel):
    direction: Vector | None


class AxesGuess(BaseModel):
    centre: Vector
    occlusal: Vector
    facial: Vector
    mesial: Vector
    confidence: float
    sure: bool
    warnings: list[str]


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
