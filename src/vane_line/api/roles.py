"""Which role may call what. Where nobody signs in (this machine alone), everybody may everything.

Owners may everything; dentists and instructors everything but people. Students and laboratories have a list each, and
of that only what belongs to their own cases. What is on no list is forbidden.
"""

from __future__ import annotations

from fastapi import Request
from fastapi.routing import APIRoute

from vane_line.api.context import Context, Ctx
from vane_line.errors import NotAllowed, NotFound, NotSignedIn
from vane_line.store import cases, jobs, people, scans
from vane_line.store.people import Person

OPEN = {"signIn", "signOut", "whoIsHere", "health"}  # also to nobody
OWNERS = {"listPeople", "addPerson", "changePassword", "removePerson"}
SHELVES = {
    "getVocabulary", "listStandards", "getStandard", "listSequences", "listSequenceWords", "listGenericBurs", "getTray",
    "getMill", "getBlob", "getPicture", "signOutEverywhere", "changeOwnPassword",
}  # fmt: skip
LOOKING = {
    "listCases", "getCase", "getReading", "getResult", "getSection", "getSectionSvg", "getDraw", "tryPath", "layTape",
    "getDifference", "getRecordPdf", "getRecordPage", "getChanges", "getTimeline", "getJob", "watchJob", "whatIf",
    "makeReady", "getPlan", "getTarget", "getPlanPage", "getBridge",
    "getBridgePlan", "getBridgeTarget",
}  # fmt: skip
STUDENT = SHELVES | LOOKING | {
    "listRubrics", "listExercises", "handIn", "getTaught", "addLook", "predictStrokes", "setPins", "setTicks",
}  # fmt: skip
LABORATORY = SHELVES | LOOKING | {"getPackage", "getCaseFile", "setPins", "getAnswer"}
LISTS = {"student": STUDENT, "laboratory": LABORATORY}


def may(request: Request, ctx: Ctx) -> None:
    """Raises NotSignedIn, NotAllowed where the role may not, NotFound where a case is another's."""
    if not ctx.signing_in:
        return
    route = request.scope.get("route")
    called = route.operation_id if isinstance(route, APIRoute) else None
    if called in OPEN:
        return
    person = ctx.person
    if person is None:
        raise NotSignedIn("Sign in first.")
    allowed = LISTS.get(person.role)
    owners = called in OWNERS and person.role != "owner"
    if owners if allowed is None else called not in allowed:
        raise NotAllowed(f"As {person.role} you cannot do this; ask the owner of this server.")
    if allowed is not None:
        _own(ctx, person, request.path_params)


def _own(ctx: Context, person: Person, asked: dict[str, str]) -> None:
    """Raises NotFound where a path speaks of a case that is none of the person's."""
    case = _case_of(ctx, asked)
    if case is not None and case not in people.cases_of(ctx.db, person):
        raise NotFound("There is no such case.")


def _case_of(ctx: Context, asked: dict[str, str]) -> str | None:
    """The case that a path's parts belong to; None where it speaks of none."""
    if "case_id" in asked:
        return asked["case_id"]
    if "reading_id" in asked:
        return cases.get_reading(ctx.db, asked["reading_id"]).case_id
    if "job_id" in asked:
        return cases.get_reading(ctx.db, jobs.get_job(ctx.db, asked["job_id"]).reading_id).case_id
    if "site_id" in asked:
        return cases.get_site(ctx.db, asked["site_id"]).case_id
    if "attempt_id" in asked:
        return cases.get_attempt(ctx.db, asked["attempt_id"]).case_id
    if "scan_id" in asked:
        return scans.get_scan(ctx.db, asked["scan_id"]).case_id
    return None


def own_cases(ctx: Context) -> set[str] | None:
    """Ids of the only cases that the caller may see; None where that is all of them."""
    person = ctx.person
    return None if person is None or person.role not in LISTS else people.cases_of(ctx.db, person)
