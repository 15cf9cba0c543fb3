"""The visit at the chair: steps, timers, notes, and when all will be over."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter, Header, Response
from fastapi.responses import HTMLResponse

from vane_line.api.case_schemas import RevisionOut
from vane_line.api.context import Ctx
from vane_line.api.handed import handed
from vane_line.api.routers.readings import revision_of
from vane_line.api.visit_schemas import (
    EntryIn,
    EntryOut,
    NotesModel,
    PlannedOut,
    StepsModel,
    TimerModel,
    TimerOut,
    TimersModel,
    VisitOut,
    VisitStepModel,
)
from vane_line.core.visit.steps import steps, timers
from vane_line.service import visiting
from vane_line.store import cases, visits

router = APIRouter(prefix="/api/cases/{case_id}/visit", tags=["visit"])
lists = APIRouter(prefix="/api", tags=["visit"])


@lists.get("/visit-steps", operation_id="getVisitSteps")
def get_steps(ctx: Ctx) -> StepsModel:
    """The steps of a visit in their order: the surgery's list, or the one that ships."""
    revision, found = visiting.steps_of(ctx.db)
    listed = [VisitStepModel.model_validate(asdict(step)) for step in found]
    return StepsModel(revision=revision, own=found != steps(), steps=listed)


@lists.put("/visit-steps", operation_id="setVisitSteps")
def set_steps(ctx: Ctx, body: StepsModel) -> StepsModel:
    """Keep a list of one's own. What runs and what was logged stays; a step that is left out is no longer offered."""
    visiting.set_steps(ctx.db, [s.model_dump() for s in body.steps], body.revision)
    return get_steps(ctx)


@lists.delete("/visit-steps", operation_id="forgetVisitSteps")
def forget_steps(ctx: Ctx, revision: int) -> StepsModel:
    """The list that ships again."""
    visiting.set_steps(ctx.db, None, revision)
    return get_steps(ctx)


@lists.get("/visit-timers", operation_id="getVisitTimers")
def get_timers(ctx: Ctx) -> TimersModel:
    """The timers that are offered beside the steps: the surgery's, or those that ship."""
    revision, found = visiting.timers_of(ctx.db)
    listed = [TimerModel.model_validate(asdict(timer)) for timer in found]
    return TimersModel(revision=revision, own=found != timers(), timers=listed)


@lists.put("/visit-timers", operation_id="setVisitTimers")
def set_timers(ctx: Ctx, body: TimersModel) -> TimersModel:
    """Keep timers of one's own. What runs and what was logged stays; one that is left out is no longer offered."""
    visiting.set_timers(ctx.db, [t.model_dump() for t in body.timers], body.revision)
    return get_timers(ctx)


@lists.delete("/visit-timers", operation_id="forgetVisitTimers")
def forget_timers(ctx: Ctx, revision: int) -> TimersModel:
    """Those that ship again."""
    visiting.set_timers(ctx.db, None, revision)
    return get_timers(ctx)


@router.get("", operation_id="getVisit")
def get_visit(ctx: Ctx, case_id: str) -> VisitOut:
    """What was started and stopped in this visit, what still has to be done, and how long that takes."""
    found = visiting.visit_of(ctx.db, case_id)
    return VisitOut(
        now=found.now, entries=[EntryOut(**asdict(e)) for e in found.entries],
        planned=[
            PlannedOut(**asdict(p.step), lasts_min=p.minutes, begins_min=p.begins_min, ends_min=p.ends_min,
                       by_log=p.by_log, state=p.state)
            for p in found.planned
        ],
        timers=[TimerOut(**asdict(t)) for t in found.timers], seating=found.seating, minutes_left=found.minutes_left,
        notes=NotesModel.model_validate(found.notes), notes_revision=found.notes_revision,
    )  # fmt: skip


@router.get("/log.pdf", operation_id="getChairLogPdf", response_class=Response)
def get_log_pdf(ctx: Ctx, case_id: str) -> Response:
    """All visits of the case on paper, as PDF."""
    data = visiting.chair_log(ctx.db, case_id, "pdf")
    return handed(data, "application/pdf", f"chair_log_{case_id}.pdf", shown=True)


@router.get("/log.html", operation_id="getChairLogPage", response_class=HTMLResponse)
def get_log_page(ctx: Ctx, case_id: str) -> Response:
    """The same as a page that prints."""
    return Response(visiting.chair_log(ctx.db, case_id, "html"), media_type="text/html; charset=utf-8")


@router.post("/entries", operation_id="startEntry", status_code=201)
def start_entry(ctx: Ctx, case_id: str, body: EntryIn) -> EntryOut:
    """Start a step or a timer."""
    return EntryOut(**asdict(visiting.start(ctx.db, case_id, body.kind, body.name)))


@router.post("/entries/{entry_id}/stop", operation_id="stopEntry")
def stop_entry(ctx: Ctx, case_id: str, entry_id: str) -> EntryOut:
    """Stop a step or a timer; one that is stopped stays as it was."""
    return EntryOut(**asdict(visiting.stop(ctx.db, case_id, entry_id)))


@router.put("/notes", operation_id="setVisitNotes")
def set_notes(ctx: Ctx, case_id: str, body: NotesModel, if_match: str = Header()) -> RevisionOut:
    """Write down materials, shade, ticks and what was adjusted; `If-Match` carries the revision that was read."""
    cases.get_case(ctx.db, case_id)
    return RevisionOut(revision=visits.add_notes(ctx.db, case_id, body.model_dump(), revision_of(if_match)))
