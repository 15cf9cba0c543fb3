"""Cases, sites, standards."""

from __future__ import annotations

from dataclasses import asdict, replace
from typing import Annotated

from fastapi import APIRouter, File, Header, Response, UploadFile

from vane_line.api.case_schemas import (
    CaseChange,
    CaseIn,
    CaseOut,
    CaseRow,
    FactsIn,
    FunctionalIn,
    JobOut,
    PutAwayOut,
    ReadingOut,
    SiteOut,
    StandardChoice,
    StandingOut,
    ToothIn,
)
from vane_line.api.context import Context, Ctx
from vane_line.api.handed import handed
from vane_line.api.result_schemas import TimelineOut
from vane_line.api.roles import own_cases
from vane_line.core.facts import known
from vane_line.core.jaw.articulator import Articulator
from vane_line.core.jaw.hinge import Raise
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption, ScanTooLarge
from vane_line.report.zips import MOST_BYTES
from vane_line.service import case_file, over_time, overview, put_away, standards
from vane_line.service.standing import standing
from vane_line.store import cases, exercises, jobs

router = APIRouter(prefix="/api", tags=["cases"])
SITE_KEYS = (
    "id", "tooth", "restoration", "material", "standard_id", "standard_version", "functional_side", "root_filled",
    "dark", "guide_pins", "gauge", "facts",
)  # fmt: skip


def job_out(job: jobs.Job | None) -> JobOut | None:
    """A job as the browser sees it."""
    return None if job is None else JobOut.model_validate(asdict(job))


def case_out(view: overview.CaseView) -> CaseOut:
    """A case as the browser sees it."""
    sites = [
        SiteOut(
            **{k: getattr(s.site, k) for k in SITE_KEYS},
            universal=s.tooth.universal,
            lingual_word=s.tooth.lingual_word,
            readings=[
                ReadingOut(
                    id=r.reading.id,
                    attempt_id=r.reading.attempt_id,
                    number=r.reading.number,
                    created_at=r.reading.created_at,
                    job=job_out(r.job),
                )
                for r in s.readings
            ],
            put_away=[
                PutAwayOut(id=r.attempt_id, number=r.number, put_away_at=r.put_away_at or "") for r in s.put_away
            ],
        )
        for s in view.sites
    ]
    return CaseOut.model_validate(asdict(view.case) | {"sites": sites, "missing": view.missing})


@router.get("/cases", operation_id="listCases")
def list_cases(ctx: Ctx, put_away: bool = False) -> list[CaseRow]:
    """All cases, the one last worked on first, but what was handed in for an exercise; or those that were put away. A
    student's own hand-ins, a laboratory's shared cases."""
    changed = cases.last_changes(ctx.db)
    own = own_cases(ctx)
    taught = set() if put_away or own is not None else exercises.hand_ins(ctx.db)
    shown = [c.id for c in cases.list_cases(ctx.db, put_away) if c.id not in taught and (own is None or c.id in own)]
    views = [overview.view(ctx.db, case_id) for case_id in shown]
    rows = [
        CaseRow(
            case=case_out(view), standing=StandingOut.model_validate(asdict(standing(ctx.db, view))),
            changed_at=changed[view.case.id],
        )
        for view in views
    ]  # fmt: skip
    return sorted(rows, key=lambda row: row.changed_at, reverse=True)


@router.post("/cases", operation_id="addCase", status_code=201)
def add_case(ctx: Ctx, body: CaseIn) -> CaseOut:
    """A new case with one site and its first attempt."""
    tooth = ToothNumber.parse(body.tooth, body.notation)
    view = overview.start_case(
        db=ctx.db,
        code=body.code.strip(),
        tooth=tooth,
        restoration=body.restoration,
        material=body.material,
        standard_id=body.standard_id,
        meaning=body.surface_meaning,
        opposing_frame=body.opposing_frame,
        notes=body.notes,
    )
    return case_out(view)


@router.post("/cases/file", operation_id="bringCase", status_code=201)
def bring_case(ctx: Ctx, file: Annotated[UploadFile, File()]) -> CaseOut:
    """A whole case out of a file that `getCaseFile` made, here or elsewhere, or a laboratory's package as a case; its
    teeth are measured again."""
    data = file.file.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise ScanTooLarge(f"case file: over the limit of {MOST_BYTES / 1e9:.0f} GB.")
    made = case_file.bring(ctx.surgery, data)
    ctx.runner.wake()
    return case_out(made)


@router.get("/cases/{case_id}/case.zip", operation_id="getCaseFile", response_class=Response)
def get_case_file(ctx: Ctx, case_id: str) -> Response:
    """The whole case as one file: scans, teeth, standards, every edit."""
    name = "".join(c if c.isalnum() or c in "-_" else "_" for c in cases.get_case(ctx.db, case_id).code)
    return handed(case_file.export(ctx.db, case_id), "application/zip", f"{name or 'case'}_case.zip")


@router.get("/cases/{case_id}", operation_id="getCase")
def get_case(ctx: Ctx, case_id: str) -> CaseOut:
    """One case."""
    return case_out(overview.view(ctx.db, case_id))


@router.patch("/cases/{case_id}", operation_id="changeCase")
def change_case(ctx: Ctx, case_id: str, body: CaseChange, if_match: str = Header()) -> CaseOut:
    """Change notes, frame, what the earlier surface means, the opening, or how the jaw moves; `If-Match` carries the
    revision read. Measured attempts are measured again where the jaw moves otherwise."""
    if not if_match.strip('"').isdigit():
        raise BadOption("If-Match: give the revision of the case that was read.")
    case = cases.get_case(ctx.db, case_id)
    opening = case.opening if body.opening is None else (body.opening or None)
    if opening:
        Raise.parse(opening)
    movements = case.movements if body.movements is None else (body.movements or None)
    if movements:
        Articulator.parse(movements)
    changed = replace(
        case, notes=body.notes, opposing_frame=body.opposing_frame, opening=opening, movements=movements,
        surface_meaning=body.surface_meaning or case.surface_meaning,
    )  # fmt: skip
    cases.change_case(ctx.db, changed, int(if_match.strip('"')))
    if movements != case.movements:
        for site in cases.sites_of(ctx.db, case_id):
            _judge_again(ctx, site.id)
    return case_out(overview.view(ctx.db, case_id))


@router.delete("/cases/{case_id}", operation_id="deleteCase", status_code=204)
def delete_case(ctx: Ctx, case_id: str, for_good: bool = False) -> Response:
    """Put a case away, from where it can be taken back for thirty days; or delete one that was put away, for good."""
    if for_good:
        put_away.delete_case(ctx.surgery, case_id)
    else:
        put_away.put_case_away(ctx.surgery, ctx.runner, case_id)
    return Response(status_code=204)


@router.post("/cases/{case_id}/restore", operation_id="takeCaseBack")
def take_case_back(ctx: Ctx, case_id: str) -> CaseOut:
    """Take back a case that was put away."""
    cases.put_case(ctx.db, case_id, away=False)
    return case_out(overview.view(ctx.db, case_id))


@router.put("/sites/{site_id}/standard", operation_id="setStandard")
def set_standard(ctx: Ctx, site_id: str, body: StandardChoice) -> CaseOut:
    """Judge a site by another standard from now on; measured attempts are judged again without measuring."""
    site = cases.get_site(ctx.db, site_id)
    standard = standards.choose(ctx.db, body.material, site.restoration, body.standard_id, ToothNumber(site.tooth))
    if body.version is not None:
        standard = standards.find(ctx.db, standard.id, body.version)
    cases.set_standard(ctx.db, site_id, body.material, standard.id, standard.version)
    _judge_again(ctx, site_id)
    return case_out(overview.view(ctx.db, site.case_id))


@router.put("/sites/{site_id}/functional-side", operation_id="setFunctionalSide")
def set_functional_side(ctx: Ctx, site_id: str, body: FunctionalIn) -> CaseOut:
    """Say which cusps work (crossbite), or null to tell it from jaw and bite; measured attempts are measured again."""
    site = cases.get_site(ctx.db, site_id)
    cases.set_functional_side(ctx.db, site_id, body.side)
    _judge_again(ctx, site_id)
    return case_out(overview.view(ctx.db, site.case_id))


@router.put("/sites/{site_id}/facts", operation_id="setFacts")
def set_facts(ctx: Ctx, site_id: str, body: FactsIn) -> CaseOut:
    """Say what no scan shows of the tooth, as far as it is given; measured attempts are measured again."""
    site = cases.get_site(ctx.db, site_id)
    given = body.model_dump(exclude_none=True)
    if body.facts is not None:
        given["facts"] = list(known(tuple(body.facts)))
    cases.set_facts(ctx.db, site_id, given)
    _judge_again(ctx, site_id)
    return case_out(overview.view(ctx.db, site.case_id))


def _judge_again(ctx: Context, site_id: str) -> None:
    for reading in cases.readings_of(ctx.db, site_id):
        if jobs.newest_done(ctx.db, reading.id):
            ctx.runner.submit(reading.id, actor=ctx.surgery.actor)


@router.get("/sites/{site_id}/timeline", operation_id="getTimeline")
def get_timeline(ctx: Ctx, site_id: str) -> TimelineOut:
    """The numbers of all measured attempts, criterion by criterion."""
    return TimelineOut.model_validate(over_time.timeline(ctx.db, site_id))


@router.post("/cases/{case_id}/attempts", operation_id="addAttempt", status_code=201)
def add_attempt(ctx: Ctx, case_id: str) -> CaseOut:
    """The next attempt of a case, of all its teeth."""
    cases.get_case(ctx.db, case_id)
    cases.add_attempt(ctx.db, case_id)
    return case_out(overview.view(ctx.db, case_id))


@router.post("/cases/{case_id}/sites", operation_id="addTooth", status_code=201)
def add_tooth(ctx: Ctx, case_id: str, body: ToothIn) -> CaseOut:
    """Another tooth of the same scans, read in every attempt of the case."""
    tooth = ToothNumber.parse(body.tooth, body.notation)
    made = overview.add_tooth(ctx.db, case_id, tooth, body.restoration, body.material, body.standard_id)
    return case_out(made)
