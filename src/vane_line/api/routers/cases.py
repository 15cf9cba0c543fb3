"""Cases, sites, standards."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter, Header, Response

from vane_line.api.context import Ctx
from vane_line.api.schemas import (
    AttemptOut,
    CaseChange,
    CaseIn,
    CaseOut,
    JobOut,
    LimitsOut,
    SiteOut,
    StandardChoice,
    StandardOut,
)
from vane_line.core.judge.standards import Limits, built_in, choose
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption
from vane_line.service import overview
from vane_line.store import blobs, cases, jobs

router = APIRouter(prefix="/api", tags=["cases"])


def job_out(job: jobs.Job | None) -> JobOut | None:
    """A job as the browser sees it."""
    return None if job is None else JobOut.model_validate(asdict(job))


def case_out(view: overview.CaseView) -> CaseOut:
    """A case as the browser sees it."""
    sites = [
        SiteOut(
            **{k: getattr(s.site, k) for k in ("id", "tooth", "restoration", "material", "standard_id")},
            universal=s.tooth.universal,
            lingual_word=s.tooth.lingual_word,
            attempts=[
                AttemptOut(
                    id=a.attempt.id, number=a.attempt.number, created_at=a.attempt.created_at, job=job_out(a.job)
                )
                for a in s.attempts
            ],
        )
        for s in view.sites
    ]
    return CaseOut.model_validate(asdict(view.case) | {"sites": sites})


def _limits(rows: dict[str, Limits]) -> dict[str, LimitsOut]:
    return {k: LimitsOut(**asdict(v)) for k, v in rows.items()}


@router.get("/standards", operation_id="listStandards")
def list_standards() -> list[StandardOut]:
    """Every built-in standard, with the source of each value."""
    return [
        StandardOut(
            id=s.id, version=s.version, title=s.title, material=s.material, restoration=s.restoration,
            protocol=s.protocol, reason=s.reason, caution=s.caution, reduction=_limits(s.reduction),
            finish_line_width=_limits(s.finish_line_width),
        )
        for s in built_in().values()
    ]  # fmt: skip


@router.get("/cases", operation_id="listCases")
def list_cases(ctx: Ctx) -> list[CaseOut]:
    """All cases, newest first."""
    return [case_out(overview.view(ctx.db, c.id)) for c in cases.list_cases(ctx.db)]


@router.post("/cases", operation_id="addCase", status_code=201)
def add_case(ctx: Ctx, body: CaseIn) -> CaseOut:
    """A new case with one site and its first attempt."""
    tooth = ToothNumber.parse(body.tooth, body.notation)
    view = overview.start_case(
        ctx.db, body.code.strip(), tooth, body.restoration, body.material, body.standard_id, body.surface_meaning,
        body.opposing_frame, body.notes,
    )  # fmt: skip
    return case_out(view)


@router.get("/cases/{case_id}", operation_id="getCase")
def get_case(ctx: Ctx, case_id: str) -> CaseOut:
    """One case."""
    return case_out(overview.view(ctx.db, case_id))


@router.patch("/cases/{case_id}", operation_id="changeCase")
def change_case(ctx: Ctx, case_id: str, body: CaseChange, if_match: str = Header()) -> CaseOut:
    """Change notes or the opposing scan's frame; `If-Match` carries the revision that was read."""
    if not if_match.strip('"').isdigit():
        raise BadOption("If-Match: give the revision of the case that was read.")
    cases.change_case(ctx.db, case_id, int(if_match.strip('"')), body.notes, body.opposing_frame)
    return case_out(overview.view(ctx.db, case_id))


@router.delete("/cases/{case_id}", operation_id="deleteCase", status_code=204)
def delete_case(ctx: Ctx, case_id: str) -> Response:
    """Delete a case, its scans and results."""
    cases.delete_case(ctx.db, case_id)
    blobs.sweep(ctx.db)
    return Response(status_code=204)


@router.put("/sites/{site_id}/standard", operation_id="setStandard")
def set_standard(ctx: Ctx, site_id: str, body: StandardChoice) -> CaseOut:
    """Judge a site by another standard from now on; measured attempts are judged again without measuring."""
    site = cases.get_site(ctx.db, site_id)
    standard = choose(body.material, site.restoration, body.standard_id)
    cases.set_standard(ctx.db, site_id, body.material, standard.id)
    for attempt in cases.attempts_of(ctx.db, site_id):
        if jobs.newest_done(ctx.db, attempt.id):
            ctx.runner.submit(attempt.id)
    return case_out(overview.view(ctx.db, site.case_id))


@router.post("/sites/{site_id}/attempts", operation_id="addAttempt", status_code=201)
def add_attempt(ctx: Ctx, site_id: str) -> CaseOut:
    """The next attempt at a site."""
    site = cases.get_site(ctx.db, site_id)
    cases.add_attempt(ctx.db, site_id)
    return case_out(overview.view(ctx.db, site.case_id))
