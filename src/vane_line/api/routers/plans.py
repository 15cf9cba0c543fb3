"""Plans: choices, making, the target surface, the page for the chair."""

from __future__ import annotations

from fastapi import APIRouter, Header, Response
from fastapi.responses import HTMLResponse

from vane_line.api.case_schemas import JobOut, RevisionOut
from vane_line.api.context import Context, Ctx
from vane_line.api.handed import handed
from vane_line.api.plan_schemas import BridgeOut, BridgePlanOut, CommonPathIn, DecisionOut, PlanIn, PlanOut
from vane_line.api.result_schemas import ChangeOut
from vane_line.api.routers.cases import job_out
from vane_line.api.routers.readings import revision_of
from vane_line.report.plan_page import plan_page
from vane_line.service import bridging, over_time, planning
from vane_line.store import cases, edits

router = APIRouter(prefix="/api", tags=["plans"])


def _queued(ctx: Context, reading_id: str, kind: str) -> JobOut:
    return JobOut.model_validate(job_out(ctx.runner.submit(reading_id, kind, ctx.surgery.actor)))


@router.put("/readings/{reading_id}/plan", operation_id="setPlan")
def set_plan(ctx: Ctx, reading_id: str, body: PlanIn, if_match: str = Header()) -> RevisionOut:
    """Choose finish line, taper, sequence and the point on the tooth; `If-Match` carries the revision that was read."""
    cases.get_reading(ctx.db, reading_id)
    return RevisionOut(revision=edits.append(ctx.db, reading_id, "plan", body.model_dump(), revision_of(if_match)))


@router.post("/readings/{reading_id}/plan", operation_id="makePlan", status_code=202)
def make_plan(ctx: Ctx, reading_id: str) -> JobOut:
    """Queue the plan for making."""
    planning.plan_request(ctx.db, reading_id)  # says at once what is missing
    return _queued(ctx, reading_id, "plan")


@router.get("/readings/{reading_id}/plan", operation_id="getPlan")
def get_plan(ctx: Ctx, reading_id: str) -> PlanOut:
    """The newest plan."""
    stored, stale = planning.plan_of(ctx.db, reading_id)
    return PlanOut(document=stored.document, target_hash=stored.light_hash, stale=stale, made_at=stored.created_at)


@router.post("/readings/{reading_id}/decision", operation_id="makeDecision", status_code=202)
def make_decision(ctx: Ctx, reading_id: str) -> JobOut:
    """Queue the table of materials: one plan by each standard that the tooth may be judged by."""
    planning.decide_request(ctx.db, reading_id)  # says at once what is missing
    return _queued(ctx, reading_id, "decide")


@router.get("/readings/{reading_id}/decision", operation_id="getDecision")
def get_decision(ctx: Ctx, reading_id: str) -> DecisionOut:
    """The newest table of materials."""
    stored, stale = planning.decision_of(ctx.db, reading_id)
    return DecisionOut(document=stored.document, stale=stale, made_at=stored.created_at)


@router.post("/readings/{reading_id}/bridge", operation_id="makeBridge", status_code=202)
def make_bridge(ctx: Ctx, reading_id: str) -> JobOut:
    """Queue the attempt's teeth for measuring as one bridge."""
    bridging.bridge_request(ctx.db, reading_id)  # says at once what is missing
    return _queued(ctx, reading_id, "bridge")


@router.get("/readings/{reading_id}/bridge", operation_id="getBridge")
def get_bridge(ctx: Ctx, reading_id: str) -> BridgeOut:
    """The newest bridge of the attempt."""
    stored, stale = bridging.bridge_of(ctx.db, reading_id)
    return BridgeOut(document=stored.document, stale=stale, made_at=stored.created_at)


@router.post("/readings/{reading_id}/bridge/plan", operation_id="makeBridgePlan", status_code=202)
def make_bridge_plan(ctx: Ctx, reading_id: str) -> JobOut:
    """Queue the attempt's teeth for planning as one bridge, along one path."""
    bridging.bridge_plan_request(ctx.db, reading_id)  # says at once what is missing
    return _queued(ctx, reading_id, "bridge-plan")


@router.put("/readings/{reading_id}/bridge/plan/path", operation_id="setBridgePath")
def set_bridge_path(ctx: Ctx, reading_id: str, body: CommonPathIn, if_match: str = Header()) -> RevisionOut:
    """Choose the one path for all abutments before cutting; `If-Match` carries the revision of this tooth's plan."""
    path = None if body.direction is None else list(body.direction)
    revision = bridging.choose_path(ctx.db, reading_id, path, revision_of(if_match), ctx.surgery.actor)
    return RevisionOut(revision=revision)


@router.get("/readings/{reading_id}/bridge/plan", operation_id="getBridgePlan")
def get_bridge_plan(ctx: Ctx, reading_id: str) -> BridgePlanOut:
    """The newest plan of the bridge."""
    stored, stale = bridging.bridge_plan_of(ctx.db, reading_id)
    return BridgePlanOut(
        document=stored.document, target_hash=stored.light_hash, stale=stale, made_at=stored.created_at
    )


@router.get(
    "/readings/{reading_id}/bridge/plan/target.stl", operation_id="getBridgeTarget", response_class=Response
)  # fmt: skip
def get_bridge_target(ctx: Ctx, reading_id: str) -> Response:
    """All abutments' target surfaces in one body, mm, in the earlier scan's coordinates."""
    return handed(bridging.bridge_target_stl(ctx.db, reading_id), "model/stl", f"bridge_target_{reading_id}.stl")


@router.get("/readings/{reading_id}/plan/target.stl", operation_id="getTarget", response_class=Response)
def get_target(ctx: Ctx, reading_id: str) -> Response:
    """The target surface, mm, in the earlier scan's coordinates."""
    return handed(planning.target_stl(ctx.db, reading_id), "model/stl", f"target_{reading_id}.stl")


@router.get("/readings/{reading_id}/plan/page", operation_id="getPlanPage", response_class=HTMLResponse)
def get_plan_page(ctx: Ctx, reading_id: str) -> HTMLResponse:
    """One page for the chair, readable at a metre, to print."""
    stored, _ = planning.plan_of(ctx.db, reading_id)
    site = cases.site_of(ctx.db, reading_id)
    return HTMLResponse(plan_page(stored.document, cases.get_case(ctx.db, site.case_id).code, stored.created_at))


@router.get("/readings/{reading_id}/what-if", operation_id="whatIf")
def what_if(ctx: Ctx, reading_id: str, standard_id: str, version: int | None = None) -> list[ChangeOut]:
    """What another standard would say of the same measurement."""
    rows = over_time.what_if(ctx.surgery, reading_id, standard_id, version)
    return [ChangeOut(**row) for row in rows]
