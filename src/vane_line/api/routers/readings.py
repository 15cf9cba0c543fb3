"""Readings, each a tooth in an attempt: axes, edits by hand, measuring, results, sections."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from dataclasses import asdict
from typing import Annotated, Any, Literal, get_args

from fastapi import APIRouter, Depends, File, Header, Query, Response, UploadFile
from fastapi.responses import HTMLResponse, StreamingResponse

from vane_line.api.case_schemas import ArrivalOut, JobOut, ReadingDetail, RevisionOut, TakenOut
from vane_line.api.context import Context, Ctx
from vane_line.api.edit_schemas import (
    AxesGuess,
    AxesIn,
    CurveIn,
    EditKind,
    EditOut,
    PairsIn,
    PathIn,
    PinsIn,
    PredictIn,
    StrokeIn,
    TicksIn,
    TriedPathOut,
)
from vane_line.api.handed import handed
from vane_line.api.plan_schemas import PlanIn
from vane_line.api.result_schemas import ChangeOut, ChangesOut, PredictedOut, ReportOut, ResultOut, SectionOut, TapeOut
from vane_line.api.routers.cases import job_out
from vane_line.api.routers.scans import scan_out
from vane_line.core.contract.veneers import VeneersDocument
from vane_line.core.judge.findings import report
from vane_line.core.options import HAND_KINDS
from vane_line.errors import BadOption, NotFound
from vane_line.report.section_svg import section_svg
from vane_line.service import answers, by_hand, looking, measuring, over_time, planning, recording, veneers
from vane_line.service.put_away import put_attempt_away
from vane_line.service.requests import request_of
from vane_line.store import arrivals, cases, edits, jobs, scans

router = APIRouter(prefix="/api", tags=["attempts"])
Triple = Annotated[list[float], Query(min_length=3, max_length=3)]
EVENT_PERIOD_S = 0.3
NULL_LENGTH = 1e-12
SVG_REACH_MM = 11.0


def revision_of(if_match: str) -> int:
    text = if_match.strip('"')
    if not text.isdigit():
        raise BadOption("If-Match: give the revision that was read.")
    return int(text)


@router.get("/readings/{reading_id}", operation_id="getReading")
def get_reading(ctx: Ctx, reading_id: str) -> ReadingDetail:
    """A tooth in an attempt, with its scans, confirmed axes and newest job."""
    reading = cases.get_reading(ctx.db, reading_id)
    kinds: tuple[EditKind, ...] = ("axes", "pairs", *HAND_KINDS)
    newest = {kind: edits.latest(ctx.db, reading_id, kind) for kind in kinds}
    plan_revision, plan = edits.latest(ctx.db, reading_id, "plan")
    ticks_revision, ticks = edits.latest(ctx.db, reading_id, "ticks")
    pins_revision, pins = edits.latest(ctx.db, reading_id, "pins")
    return ReadingDetail(
        id=reading.id,
        attempt_id=reading.attempt_id,
        number=reading.number,
        scans=[scan_out(s) for s in scans.scans_of(ctx.db, reading.case_id, reading.attempt_id)],
        axes=newest["axes"][1],
        path=newest["path"][1],
        gingiva=newest["gingiva"][1],
        core=newest["core"][1],
        line_drawn=newest["line"][1] is not None,
        pairs={role: PairsIn(theirs=p["theirs"], ours=p["ours"]) for role, p in (newest["pairs"][1] or {}).items()},
        revisions={kind: revision for kind, (revision, _) in newest.items()},
        job=job_out(jobs.newest_job(ctx.db, reading_id)),
        plan=PlanIn.model_validate(planning.DEFAULTS | (plan or {})),
        plan_revision=plan_revision,
        plan_job=job_out(jobs.newest_job(ctx.db, reading_id, "plan")),
        bridge_job=job_out(jobs.newest_job(ctx.db, reading_id, "bridge")),
        bridge_plan_job=job_out(jobs.newest_job(ctx.db, reading_id, "bridge-plan")),
        decision_job=job_out(jobs.newest_job(ctx.db, reading_id, "decide")),
        ticks=ticks or [],
        ticks_revision=ticks_revision,
        pins=pins or [],
        pins_revision=pins_revision,
    )


@router.post("/readings/{reading_id}/axes/guess", operation_id="guessAxes")
def guess_axes(ctx: Ctx, reading_id: str) -> AxesGuess:
    """Where the cut tooth is and how it stands, as a guess to confirm."""
    return AxesGuess.model_validate(looking.guess_axes(ctx.surgery, reading_id))


@router.put("/readings/{reading_id}/axes", operation_id="setAxes")
def set_axes(ctx: Ctx, reading_id: str, body: AxesIn, if_match: str = Header()) -> RevisionOut:
    """Confirm or correct the axes; `If-Match` carries the revision that was read."""
    cases.get_reading(ctx.db, reading_id)
    revision = edits.append(
        ctx.db, reading_id, "axes", body.model_dump(), revision_of(if_match), actor=ctx.surgery.actor
    )
    return RevisionOut(revision=revision)


@router.put("/readings/{reading_id}/path", operation_id="setPath")
def set_path(ctx: Ctx, reading_id: str, body: PathIn, if_match: str = Header()) -> RevisionOut:
    """Lock a path of insertion (prep scan's coordinates), or null for the best one; judged again at once."""
    if body.direction is not None and sum(v * v for v in body.direction) < NULL_LENGTH:
        raise BadOption("path: a direction cannot be null; give three numbers.")
    return _edited(ctx, reading_id, "path", body.direction, if_match)


@router.post("/readings/{reading_id}/line/strokes", operation_id="drawLine")
def draw_line(ctx: Ctx, reading_id: str, body: StrokeIn, if_match: str = Header()) -> RevisionOut:
    """Put a stretch of the finish line along a stroke (it snaps to the edge unless told not to); judged at once."""
    revision = by_hand.draw_line(ctx.surgery, reading_id, body.points, body.snap, body.closed, revision_of(if_match))
    return RevisionOut(revision=revision)


@router.delete("/readings/{reading_id}/line", operation_id="forgetLine")
def forget_line(ctx: Ctx, reading_id: str, if_match: str = Header()) -> RevisionOut:
    """Go back to the finish line as it is found; the drawn one stays in the history."""
    return _edited(ctx, reading_id, "line", None, if_match)


@router.put("/readings/{reading_id}/curves/{kind}", operation_id="setCurve")
def set_curve(
    ctx: Ctx, reading_id: str, kind: Literal["gingiva", "core"], body: CurveIn, if_match: str = Header()
) -> RevisionOut:
    """Draw the gingiva's line or a core's border as a closed curve, or null to forget it; judged at once."""
    return _edited(ctx, reading_id, kind, body.points, if_match)


@router.post("/readings/{reading_id}/edits/{kind}/undo", operation_id="undoEdit")
def undo_edit(ctx: Ctx, reading_id: str, kind: EditKind, if_match: str = Header()) -> RevisionOut:
    """Undo the newest edit of a kind that is in force; nothing is deleted, and undoing again goes further back."""
    if kind in ("axes", "pairs"):  # what they change is measured anew on request
        return RevisionOut(revision=edits.undo(ctx.db, reading_id, kind, revision_of(if_match)))
    revision = by_hand.undo(ctx.surgery, reading_id, kind, revision_of(if_match))
    return RevisionOut(revision=revision)


@router.get("/readings/{reading_id}/edits", operation_id="listEdits")
def list_edits(ctx: Ctx, reading_id: str) -> list[EditOut]:
    """The history of what was edited by hand."""
    cases.get_reading(ctx.db, reading_id)
    return [EditOut(**row) for row in edits.history(ctx.db, reading_id) if row["kind"] in get_args(EditKind)]


@router.post("/readings/{reading_id}/ready", operation_id="makeReady")
def make_ready(ctx: Ctx, reading_id: str) -> dict[str, bool]:
    """Load the case into the worker for edits, so that the first edit by hand is judged as fast as the next ones."""
    return {"ready": by_hand.warm(ctx.surgery, reading_id)}


@router.get("/readings/{reading_id}/draw", operation_id="getDraw", response_class=Response)
def get_draw(
    ctx: Ctx,
    reading_id: str,
    direction: Triple,
    detail: Literal["light", "rest"] = "light",
) -> Response:
    """Draft along a path at every vertex of a shown mesh, float32 degrees: for tilting by hand."""
    _no_null(direction)
    data = looking.draft_along(ctx.db, reading_id, direction, detail)
    return Response(data, media_type="application/octet-stream")


@router.get("/readings/{reading_id}/crowns/{size}", operation_id="getLaidCrown", response_class=Response)
def get_laid_crown(ctx: Ctx, reading_id: str, size: str) -> Response:
    """A child's crown of one size of the set, as it was laid over the tooth: a display mesh."""
    return Response(looking.laid_crown(ctx.db, reading_id, size), media_type="application/octet-stream")


@router.get("/readings/{reading_id}/undercut", operation_id="tryPath")
def try_path(ctx: Ctx, reading_id: str, direction: Triple) -> TriedPathOut:
    """Undercuts along a path that is only tried; nothing is kept."""
    _no_null(direction)
    return TriedPathOut.model_validate(by_hand.undercut_along(ctx.surgery, reading_id, direction))


@router.put("/readings/{reading_id}/ticks", operation_id="setTicks")
def set_ticks(ctx: Ctx, reading_id: str, body: TicksIn, if_match: str = Header()) -> RevisionOut:
    """Which corrections the hand has ticked off; the next scan tells whether they are done."""
    cases.get_reading(ctx.db, reading_id)
    return RevisionOut(revision=edits.append(ctx.db, reading_id, "ticks", body.keys, revision_of(if_match)))


@router.put("/readings/{reading_id}/pins", operation_id="setPins")
def set_pins(ctx: Ctx, reading_id: str, body: PinsIn, if_match: str = Header()) -> RevisionOut:
    """The places that are marked on the preparation, in the order in which they are listed."""
    cases.get_reading(ctx.db, reading_id)
    value = [pin.model_dump() for pin in body.pins]
    revision = edits.append(ctx.db, reading_id, "pins", value, revision_of(if_match), actor=ctx.surgery.actor)
    return RevisionOut(revision=revision)


@router.get("/readings/{reading_id}/tape", operation_id="layTape")
def lay_tape(ctx: Ctx, reading_id: str, one: Triple, other: Triple) -> TapeOut:
    """Distance between two places of the preparation's scan, straight and along its surface."""
    return TapeOut.model_validate(looking.tape(ctx.surgery, reading_id, one, other))


@router.post("/readings/{reading_id}/predict", operation_id="predictStrokes")
def predict(ctx: Ctx, reading_id: str, body: PredictIn) -> PredictedOut:
    """The verdicts that would follow from strokes on the sheet, without touching the tooth."""
    strokes = [s.model_dump() for s in body.strokes]
    return PredictedOut.model_validate(by_hand.predict(ctx.surgery, reading_id, strokes))


@router.put("/readings/{reading_id}/pairs/{role}", operation_id="setPairs")
def set_pairs(
    ctx: Ctx, reading_id: str, role: Literal["preop", "mockup"], body: PairsIn, if_match: str = Header()
) -> RevisionOut:
    """The same places, pointed at on an earlier scan and on the preparation's, from where aligning begins.

    Empty lists forget them. The attempt is measured anew on request.
    """
    revision = by_hand.point_out(ctx.surgery, reading_id, role, body.theirs, body.ours, revision_of(if_match))
    return RevisionOut(revision=revision)


@router.delete("/attempts/{attempt_id}", operation_id="putAttemptAway", status_code=204)
def put_away(ctx: Ctx, attempt_id: str) -> Response:
    """Put an attempt away; it can be taken back for thirty days."""
    put_attempt_away(ctx.surgery, ctx.runner, attempt_id)
    return Response(status_code=204)


@router.post("/attempts/{attempt_id}/restore", operation_id="takeAttemptBack", status_code=204)
def take_back(ctx: Ctx, attempt_id: str) -> Response:
    """Take back an attempt that was put away."""
    cases.put_attempt(ctx.db, attempt_id, away=False)
    return Response(status_code=204)


@router.get("/arrivals", operation_id="listArrivals")
def list_arrivals(ctx: Ctx, after: str = "") -> list[ArrivalOut]:
    """What came through the watched folder since the arrival named, oldest first."""
    rows = []
    for a in arrivals.since(ctx.db, after):
        attempt = cases.get_attempt(ctx.db, a.attempt_id) if a.attempt_id else None
        job = jobs.get_job(ctx.db, a.job_id) if a.job_id else None
        rows.append(ArrivalOut.model_validate({
            "id": a.id, "name": a.name, "case_id": a.case_id, "reading_id": job.reading_id if job else None,
            "state": job.state if job else "not-taken",
            "case_code": cases.get_case(ctx.db, a.case_id).code if a.case_id else None,
            "attempt_number": attempt.number if attempt else None, "error": a.error}))  # fmt: skip
    return rows


@router.get("/readings/{reading_id}/difference", operation_id="getDifference", response_class=Response)
def get_difference(
    ctx: Ctx,
    reading_id: str,
    against: Literal["previous", "before"] = "previous",
    detail: Literal["light", "rest"] = "light",
) -> Response:
    """What was taken off since another scan, at every vertex of a shown mesh: float32 mm, nan where not known."""
    data = looking.difference(ctx.surgery, reading_id, against, detail)
    return Response(data, media_type="application/octet-stream")


def plane_of(origin: Triple, normal: Triple, up: Triple) -> looking.Plane:
    """A plane through `origin` with `normal`; `up` points up in the drawing. Prep scan's coordinates."""
    return looking.Plane(origin, normal, up)


@router.get("/readings/{reading_id}/section", operation_id="getSection")
def get_section(
    ctx: Ctx,
    reading_id: str,
    plane: Annotated[looking.Plane, Depends(plane_of)],
    reach_mm: Annotated[float, Query(gt=0, le=60)] = 11.0,
    last: bool = False,
) -> SectionOut:
    """Outlines of all scans in a plane, with thickness told at cusps, grooves and walls; `last`: the attempt before."""
    return SectionOut.model_validate(looking.section(ctx.surgery, reading_id, plane, reach_mm, last))


@router.get("/readings/{reading_id}/section.svg", operation_id="getSectionSvg", response_class=Response)
def get_section_svg(
    ctx: Ctx,
    reading_id: str,
    plane: Annotated[looking.Plane, Depends(plane_of)],
    minimum_mm: Annotated[float | None, Query(gt=0, le=4)] = None,
) -> Response:
    """The section as SVG to scale, with the material's minimum as a ribbon where it is given."""
    cut = looking.section(ctx.surgery, reading_id, plane, SVG_REACH_MM)
    reading = cases.get_reading(ctx.db, reading_id)
    tooth = cases.get_site(ctx.db, reading.site_id).tooth
    title = f"{cases.get_case(ctx.db, reading.case_id).code}, tooth {tooth}, attempt {reading.number}"
    head = {"Content-Disposition": f'attachment; filename="section_{reading_id}.svg"'}
    return Response(section_svg(cut, title, minimum_mm), media_type="image/svg+xml", headers=head)


def _no_null(direction: list[float]) -> None:
    if not sum(v * v for v in direction) > NULL_LENGTH:
        raise BadOption("direction: a direction cannot be null; give three numbers.")


def _edited(ctx: Context, reading_id: str, kind: str, value: Any, if_match: str) -> RevisionOut:
    cases.get_reading(ctx.db, reading_id)
    revision = by_hand.edit(ctx.surgery, reading_id, kind, value, revision_of(if_match))
    return RevisionOut(revision=revision)


@router.post("/readings/{reading_id}/measure", operation_id="measureReading", status_code=202)
def measure(ctx: Ctx, reading_id: str) -> JobOut:
    """Queue the attempt for measuring."""
    request_of(ctx.db, reading_id)  # says at once what is missing
    return JobOut.model_validate(job_out(ctx.runner.submit(reading_id, actor=ctx.surgery.actor)))


@router.get("/jobs/{job_id}", operation_id="getJob")
def get_job(ctx: Ctx, job_id: str) -> JobOut:
    """How a job goes."""
    return JobOut.model_validate(job_out(jobs.get_job(ctx.db, job_id)))


@router.post("/jobs/{job_id}/cancel", operation_id="cancelJob")
def cancel_job(ctx: Ctx, job_id: str) -> JobOut:
    """Stop a job."""
    jobs.get_job(ctx.db, job_id)
    return JobOut.model_validate(job_out(ctx.runner.cancel(job_id)))


@router.get("/jobs/{job_id}/events", operation_id="watchJob", response_class=StreamingResponse)
def watch_job(ctx: Ctx, job_id: str) -> StreamingResponse:
    """Server-sent events with the job's state until it ends; connecting again resumes."""
    jobs.get_job(ctx.db, job_id)
    return StreamingResponse(_events(ctx, job_id), media_type="text/event-stream")


async def _events(ctx: Context, job_id: str) -> AsyncIterator[str]:
    last = ""
    while True:
        try:
            job = job_out(await asyncio.to_thread(jobs.get_job, ctx.db, job_id))
        except NotFound:
            return  # its case was deleted
        assert job is not None
        text = json.dumps(job.model_dump())
        if text != last:
            yield f"data: {text}\n\n"
            last = text
        if job.state in ("done", "failed", "cancelled"):
            return
        await asyncio.sleep(EVENT_PERIOD_S)


@router.get("/readings/{reading_id}/result", operation_id="getResult")
def get_result(ctx: Ctx, reading_id: str) -> ResultOut:
    """The newest measurement of an attempt."""
    stored, stale = measuring.result_of(ctx.db, reading_id)
    return ResultOut(
        document=stored.document, report=ReportOut.model_validate(asdict(report(stored.document))),
        fields=stored.fields, meshes=stored.meshes, stale=stale,
        measured_at=stored.created_at,
    )  # fmt: skip


@router.get("/readings/{reading_id}/veneers", operation_id="getVeneers")
def get_veneers(ctx: Ctx, reading_id: str) -> VeneersDocument:
    """The veneers of the attempt seen together: thickness along the row, edges, left against right."""
    return veneers.veneers_of(ctx.db, reading_id)


@router.get("/readings/{reading_id}/record.pdf", operation_id="getRecordPdf", response_class=Response)
def get_record_pdf(ctx: Ctx, reading_id: str) -> Response:
    """The record of a measured attempt on one A4 page, as PDF."""
    data = recording.record(ctx.surgery, reading_id, "pdf")
    return handed(data, "application/pdf", f"record_{reading_id}.pdf", shown=True)


@router.get("/readings/{reading_id}/record.html", operation_id="getRecordPage", response_class=HTMLResponse)
def get_record_page(ctx: Ctx, reading_id: str) -> Response:
    """The same as a page."""
    return Response(recording.record(ctx.surgery, reading_id, "html"), media_type="text/html; charset=utf-8")


@router.get("/readings/{reading_id}/package.zip", operation_id="getPackage", response_class=Response)
def get_package(ctx: Ctx, reading_id: str, wishes: Annotated[str, Query(max_length=2000)] = "") -> Response:
    """For the laboratory: scans in one frame, finish line, path, figures, record and prescription."""
    data = recording.package(ctx.surgery, reading_id, wishes)
    return handed(data, "application/zip", f"package_{reading_id}.zip")


@router.get("/readings/{reading_id}/answer.json", operation_id="getAnswer", response_class=Response)
def get_answer(ctx: Ctx, reading_id: str) -> Response:
    """The marks on the preparation as a file, for the side that sent the package."""
    return handed(answers.answer_of(ctx.db, reading_id), "application/json", f"answer_{reading_id}.json")


@router.post("/readings/{reading_id}/answer", operation_id="takeAnswer")
def take_answer(ctx: Ctx, reading_id: str, file: Annotated[UploadFile, File()]) -> TakenOut:
    """Set the marks of such a file beside those that are there; refused where they belong to another scan."""
    data = file.file.read(answers.MOST_BYTES + 1)
    return TakenOut(taken=answers.take_answer(ctx.db, reading_id, data, ctx.surgery.actor))


@router.get("/readings/{reading_id}/changes", operation_id="getChanges")
def get_changes(ctx: Ctx, reading_id: str) -> ChangesOut:
    """What the last pass changed: this attempt's verdicts against those of the measured attempt before it."""
    since, rows = over_time.changes(ctx.db, reading_id)
    return ChangesOut(since=since, rows=[ChangeOut(**row) for row in rows])
