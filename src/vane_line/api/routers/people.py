"""Signing in and out, and the people of this server."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field

from vane_line.api.context import COOKIE, Ctx
from vane_line.errors import NotSignedIn
from vane_line.service import people as signing
from vane_line.store import cases, people
from vane_line.store.people import Person, Role

router = APIRouter(prefix="/api", tags=["people"])
Password = Annotated[str, Field(max_length=signing.MOST_PASSWORD)]


class PersonOut(BaseModel):
    id: str
    name: str
    role: Role


class HereOut(BaseModel):
    """Whether this server asks people to sign in, and who has."""

    signing_in: bool
    person: PersonOut | None


class SignIn(BaseModel):
    name: Annotated[str, Field(max_length=signing.MOST_NAME)]
    password: Password


class PersonIn(BaseModel):
    name: Annotated[str, Field(max_length=signing.MOST_NAME)]
    role: Role
    password: Password


class PasswordIn(BaseModel):
    password: Password


class OwnPasswordIn(BaseModel):
    now: Password
    password: Password


class SharedIn(BaseModel):
    people: Annotated[list[str], Field(max_length=50)]


class SharedOut(BaseModel):
    """laboratories: all there are; people: ids of those that the case is shared with."""

    laboratories: list[PersonOut]
    people: list[str]


def person_out(person: Person) -> PersonOut:
    """Without the password's hash."""
    return PersonOut(id=person.id, name=person.name, role=person.role)


@router.get("/session", operation_id="whoIsHere")
def who_is_here(ctx: Ctx) -> HereOut:
    """Who is signed in."""
    return HereOut(signing_in=ctx.signing_in, person=None if ctx.person is None else person_out(ctx.person))


@router.post("/session", operation_id="signIn")
def sign_in(ctx: Ctx, request: Request, response: Response, body: SignIn) -> HereOut:
    """Sign in; the session is kept in a cookie that no script reads and no other site sends."""
    person, token = signing.sign_in(ctx.db, body.name, body.password)
    response.set_cookie(
        COOKIE, token, max_age=int(signing.LONGEST.total_seconds()), httponly=True, samesite="strict", path="/",
        secure=request.url.scheme == "https",
    )  # fmt: skip
    return HereOut(signing_in=True, person=person_out(person))


@router.delete("/session", operation_id="signOut", status_code=204)
def sign_out(ctx: Ctx, request: Request) -> Response:
    """Sign out here."""
    signing.sign_out(ctx.db, request.cookies.get(COOKIE))
    return _gone()


@router.delete("/sessions", operation_id="signOutEverywhere", status_code=204)
def sign_out_everywhere(ctx: Ctx) -> Response:
    """Sign out on every machine."""
    if ctx.person is not None:
        people.end_sessions(ctx.db, ctx.person.id)
    return _gone()


def _gone() -> Response:
    response = Response(status_code=204)
    response.delete_cookie(COOKIE, path="/", httponly=True, samesite="strict")
    return response


@router.put("/session/password", operation_id="changeOwnPassword", status_code=204)
def change_own_password(ctx: Ctx, body: OwnPasswordIn) -> Response:
    """Give the password that holds now and another; signs out everywhere."""
    if ctx.person is None:
        raise NotSignedIn("Sign in first.")
    signing.sign_in(ctx.db, ctx.person.name, body.now)
    signing.change_password(ctx.db, ctx.person.id, body.password)
    return _gone()


@router.get("/people", operation_id="listPeople")
def list_people(ctx: Ctx) -> list[PersonOut]:
    """By name."""
    return [person_out(p) for p in people.list_people(ctx.db)]


@router.post("/people", operation_id="addPerson", status_code=201)
def add_person(ctx: Ctx, body: PersonIn) -> PersonOut:
    """A student's name is the code that the student hands in by."""
    return person_out(signing.add(ctx.db, body.name, body.role, body.password))


@router.put("/people/{person_id}/password", operation_id="changePassword", status_code=204)
def change_password(ctx: Ctx, person_id: str, body: PasswordIn) -> Response:
    """A new password, where the old one is lost; signs that person out everywhere."""
    signing.change_password(ctx.db, person_id, body.password)
    return Response(status_code=204)


@router.delete("/people/{person_id}", operation_id="removePerson", status_code=204)
def remove_person(ctx: Ctx, person_id: str) -> Response:
    """What the person made stays."""
    signing.remove(ctx.db, person_id)
    return Response(status_code=204)


@router.get("/cases/{case_id}/shared", operation_id="getShared")
def get_shared(ctx: Ctx, case_id: str) -> SharedOut:
    """Which laboratories see a case."""
    cases.get_case(ctx.db, case_id)
    laboratories = [person_out(p) for p in people.list_people(ctx.db) if p.role == "laboratory"]
    return SharedOut(laboratories=laboratories, people=people.shared_with(ctx.db, case_id))


@router.put("/cases/{case_id}/shared", operation_id="setShared", status_code=204)
def set_shared(ctx: Ctx, case_id: str, body: SharedIn) -> Response:
    """Share a case with just these laboratories: they look at it, take its package and answer with pins."""
    cases.get_case(ctx.db, case_id)
    signing.share(ctx.db, case_id, body.people)
    return Response(status_code=204)
