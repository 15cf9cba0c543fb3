"""What holds for the whole surgery: standards, sequences, the tray of burs, the mill."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from vane_line.api.context import Ctx
from vane_line.api.practice_schemas import (
    BoundsOut,
    BurModel,
    ForeseenOut,
    LimitsOut,
    MillModel,
    SequenceIn,
    SequenceOut,
    SequenceStepModel,
    SequenceWords,
    StandardIn,
    StandardOut,
    StandardTriedOut,
    StandardTryIn,
    TrayModel,
)
from vane_line.api.result_schemas import ChoiceOut, KindOut, LensOut, VocabularyOut
from vane_line.core import kinds
from vane_line.core.burs import GRITS, TIPS, as_row, generic
from vane_line.core.facts import FACTS
from vane_line.core.jaw.hinge import Raise
from vane_line.core.jaw.pose import OFFERED, pose_of
from vane_line.core.judge.glossary import GLOSSARY
from vane_line.core.judge.lenses import LENSES
from vane_line.core.judge.limits import Bounds, Limits, general
from vane_line.core.judge.standard_files import built_in as built_in_standards
from vane_line.core.judge.standards import Standard
from vane_line.core.plan.sequence import BURS, DEPTHS, Sequence
from vane_line.core.plan.sequence import built_in as built_in_sequences
from vane_line.core.tooth.earlier import MEANINGS
from vane_line.core.tooth.notation import ToothNumber
from vane_line.service import over_time, standards

router = APIRouter(prefix="/api", tags=["library"])


def _fits(s: Standard) -> list[str]:
    return [tooth.fdi for tooth in ToothNumber.every() if s.may_serve(tooth)]


def standard_out(s: Standard) -> StandardOut:
    """A standard as the browser sees it."""
    return StandardOut(
        id=s.id, version=s.version, title=s.title, material=s.material, restoration=s.restoration,
        also_restorations=list(s.also_restorations),
        protocol=s.protocol, reason=s.reason, caution=s.caution, reduction=_limits(s.reduction),
        finish_line_width=_limits(s.finish_line_width), teeth=s.teeth, fits=_fits(s), also_for=list(s.also_for),
        finish_line_form={k: list(v) for k, v in s.finish_line_form.items()}, clearance=_limits(s.clearance),
        cement_space_mm=s.cement_space_mm, general=_bounds(s.general),
        bounds=_bounds({name: s.bounds(name) for name in general()}), wing=s.wing, own=s.id not in built_in_standards(),
    )  # fmt: skip


def _limits(rows: dict[str, Limits]) -> dict[str, LimitsOut]:
    return {k: LimitsOut(**asdict(v)) for k, v in rows.items()}


def _bounds(rows: dict[str, Bounds]) -> dict[str, BoundsOut]:
    return {k: BoundsOut(**asdict(v)) for k, v in rows.items()}


def _sequence_out(s: Sequence) -> SequenceOut:
    steps = [SequenceStepModel(**asdict(step)) for step in s.steps]
    return SequenceOut.model_validate(
        {k: getattr(s, k) for k in ("id", "version", "title", "teeth", "reason", "source")}
        | {
            "restorations": list(s.restorations),
            "own": s.id not in built_in_sequences(),
            "steps": [step.model_dump() for step in steps],
        }
    )


@router.get("/standards", operation_id="listStandards")
def list_standards(ctx: Ctx) -> list[StandardOut]:
    """Every built-in standard and the newest version of each own one, with the source of each value."""
    return [standard_out(s) for s in standards.all_standards(ctx.db)]


@router.get("/standards/{standard_id}", operation_id="getStandard")
def get_standard(ctx: Ctx, standard_id: str, version: int | None = None) -> StandardOut:
    """One standard, an earlier version of an own one too."""
    return standard_out(standards.find(ctx.db, standard_id, version))


@router.post("/standards", operation_id="saveStandard", status_code=201)
def save_standard(ctx: Ctx, body: StandardIn) -> StandardOut:
    """A copy of one's own, or the next version of it. What is wrong in it is said, and nothing is then kept."""
    return standard_out(standards.save_standard(ctx.db, dict(body.data), body.expected_version))


@router.post("/standards/try", operation_id="tryStandard")
def try_standard(ctx: Ctx, body: StandardTryIn) -> StandardTriedOut:
    """What an edited standard would change in open cases, before it is kept; nothing is stored."""
    count, rows = over_time.foresee(ctx.surgery, dict(body.data), body.against)
    return StandardTriedOut(count=count, rows=[ForeseenOut.model_validate(asdict(row)) for row in rows])


@router.get("/sequences", operation_id="listSequences")
def list_sequences(ctx: Ctx) -> list[SequenceOut]:
    """Orders of work, built in and own."""
    return [_sequence_out(s) for s in standards.all_sequences(ctx.db)]


@router.get("/sequence-words", operation_id="listSequenceWords")
def list_sequence_words() -> SequenceWords:
    """What a step of an order of work can be about: the plan's depths, and the parts of the tray."""
    return SequenceWords(depths=list(DEPTHS), burs=list(BURS))


@router.post("/sequences", operation_id="saveSequence", status_code=201)
def save_sequence(ctx: Ctx, body: SequenceIn) -> SequenceOut:
    """A copy of one's own, or the next version of it."""
    data = body.model_dump(exclude={"expected_version", "steps"})
    data["step"] = [s.model_dump() for s in body.steps]
    return _sequence_out(standards.save_sequence(ctx.db, data, body.expected_version))


@router.get("/burs/generic", operation_id="listGenericBurs")
def list_generic_burs() -> list[BurModel]:
    """The set that ships with the program."""
    return [BurModel(**as_row(b)) for b in generic()]


@router.get("/tray", operation_id="getTray")
def get_tray(ctx: Ctx) -> TrayModel:
    """The surgery's burs; the generic set until a tray is made."""
    revision, burs = standards.tray(ctx.db)
    return TrayModel(revision=revision, burs=[BurModel(**as_row(b)) for b in burs])


@router.put("/tray", operation_id="setTray")
def set_tray(ctx: Ctx, body: TrayModel) -> TrayModel:
    """Replace the tray; `revision` is the one that was read."""
    standards.set_tray(ctx.db, [b.model_dump() for b in body.burs], body.revision)
    return get_tray(ctx)


@router.get("/mill", operation_id="getMill")
def get_mill(ctx: Ctx) -> MillModel:
    """The mill and its finest bur's radius; a simulated mill ships with the program."""
    revision, mill = standards.mill(ctx.db)
    return MillModel(revision=revision, title=mill.title, bur_radius_mm=mill.bur_radius_mm)


@router.put("/mill", operation_id="setMill")
def set_mill(ctx: Ctx, body: MillModel) -> MillModel:
    """Set the mill; what was measured with another bur is marked as such."""
    standards.set_mill(ctx.db, body.title, body.bur_radius_mm, body.revision)
    return get_mill(ctx)


def _choice(value: str, words: str, hint: str = "") -> ChoiceOut:
    return ChoiceOut(value=value, label=words[:1].upper() + words[1:], hint=hint)


@router.get("/vocabulary", operation_id="getVocabulary")
def get_vocabulary() -> VocabularyOut:
    """What can be chosen, and how the tooth can be looked at, in the order in which it is offered."""
    raised = [_choice(text, pose_of(Raise.parse(text)).title) for text in OFFERED]
    return VocabularyOut(
        lenses=[LensOut.model_validate(asdict(one)) for one in LENSES],
        kinds=[
            KindOut(
                **_choice(k.name, k.title, k.caution).model_dump(),
                reader=k.reader.name,
                planned=k.plan is not None,
                primary=k.primary,
            )
            for k in kinds.every()
        ],
        meanings=[_choice(m.name, m.title, m.hint) for m in MEANINGS.values()],
        openings=[_choice("", "bite as it is"), *raised],
        bur_tips=list(TIPS),
        bur_grits=list(GRITS),
        facts=[_choice(name, one.title, one.changes) for name, one in FACTS.items()],
        glossary=GLOSSARY,
    )
