"""Signing in: passwords hashed with argon2, sessions that end, guessing that gets slower."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from functools import cache

from pwdlib import PasswordHash

from vane_line.errors import BadOption, NotFound, NotSignedIn
from vane_line.store import people
from vane_line.store.database import Database
from vane_line.store.people import ROLES, Person, Role

LEAST_PASSWORD, MOST_PASSWORD, MOST_NAME = 12, 200, 40
IDLE, LONGEST = timedelta(hours=12), timedelta(days=7)  # a session unused, and in all
TOUCH = timedelta(minutes=1)  # how exactly the last use is kept
FREE_TRIES = 5
FIRST_WAIT, LONGEST_WAIT = timedelta(seconds=15), timedelta(minutes=15)
FORGET = timedelta(days=1)  # failures of a name

Clock = Callable[[], datetime]


def _now() -> datetime:
    return datetime.now(UTC)


@cache
def _hasher() -> PasswordHash:
    return PasswordHash.recommended()


@cache
def _nobody() -> str:
    """A hash that is compared with where there is nobody of a name: the answer takes as long."""
    return _hasher().hash(secrets.token_urlsafe())


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def add(db: Database, name: str, role: str, password: str) -> Person:
    """Raises BadOption, Conflict."""
    name = name.strip()
    if not name or len(name) > MOST_NAME or not name.isprintable():
        raise BadOption(f"name: 1 to {MOST_NAME} letters, figures and signs.")
    return people.add_person(db, name, _role(role), _hashed(password))


def _role(role: str) -> Role:
    for known in ROLES:
        if role == known:
            return known
    raise BadOption(f"role {role}: use one of {', '.join(ROLES)}.")


def _hashed(password: str) -> str:
    if not LEAST_PASSWORD <= len(password) <= MOST_PASSWORD:
        raise BadOption(
            f"password: {LEAST_PASSWORD} to {MOST_PASSWORD} characters; a sentence is easy to keep in mind."
        )
    return _hasher().hash(password)


def change_password(db: Database, person_id: str, password: str) -> None:
    """By the owner or oneself; signs the person out everywhere. Raises BadOption, NotFound."""
    person = people.get_person(db, person_id)
    hashed = _hashed(password)
    with db.atomic():
        people.set_password_hash(db, person.id, hashed)
        people.end_sessions(db, person.id)
        people.clear_failures(db, person.name)


def remove(db: Database, person_id: str) -> None:
    """Raises NotFound, BadOption for the last owner."""
    person = people.get_person(db, person_id)
    owners = [p for p in people.list_people(db) if p.role == "owner"]
    if person.role == "owner" and len(owners) == 1:
        raise BadOption("The last owner stays: nobody else could add people.")
    people.delete_person(db, person_id)


def sign_in(db: Database, name: str, password: str, clock: Clock = _now) -> tuple[Person, str]:
    """The person, and the session's token. Raises NotSignedIn, in the same words whichever of both is wrong."""
    name = name.strip()[:MOST_NAME]
    wait = _wait(db, name, clock())
    if wait > timedelta(0):
        raise NotSignedIn(f"Too many tries; wait {max(int(wait.total_seconds()), 1)} seconds.")
    person = people.named(db, name)
    right, newer = _hasher().verify_and_update(password[:MOST_PASSWORD], person.password_hash if person else _nobody())
    if person is None or not right:
        people.add_failure(db, name, (clock() - FORGET).isoformat(timespec="milliseconds"))
        raise NotSignedIn("Name and password do not belong together.")
    token = secrets.token_urlsafe(32)
    with db.atomic():
        people.clear_failures(db, name)
        if newer is not None:
            people.set_password_hash(db, person.id, newer)
        people.add_session(db, _digest(token), person.id)
    return person, token


def _wait(db: Database, name: str, at: datetime) -> timedelta:
    """How long a name has still to wait."""
    count, last = people.failures(db, name)
    if count < FREE_TRIES:
        return timedelta(0)
    wait = min(FIRST_WAIT * 2 ** min(count - FREE_TRIES, 20), LONGEST_WAIT)
    return datetime.fromisoformat(last) + wait - at


def who(db: Database, token: str | None, clock: Clock = _now) -> Person | None:
    """Of a session's token; None where it has ended."""
    if not token:
        return None
    digest = _digest(token)
    session = people.get_session(db, digest)
    if session is None:
        return None
    seen, begun, at = datetime.fromisoformat(session.seen_at), datetime.fromisoformat(session.created_at), clock()
    if at - seen > IDLE or at - begun > LONGEST:
        people.end_session(db, digest)
        return None
    if at - seen > TOUCH:
        people.touch_session(db, digest)
    try:
        return people.get_person(db, session.person_id)
    except NotFound:
        return None


def sign_out(db: Database, token: str | None) -> None:
    """Here."""
    if token:
        people.end_session(db, _digest(token))


def share(db: Database, case_id: str, laboratories: list[str]) -> None:
    """A case with just these. Raises NotFound, BadOption."""
    for person_id in laboratories:
        if people.get_person(db, person_id).role != "laboratory":
            raise BadOption("A case is shared with laboratories.")
    people.share(db, case_id, laboratories)


def first_owner(db: Database, password: str | None) -> str | None:
    """Where there is nobody yet, an owner; the password that was made up, None where one was given or somebody is."""
    if people.list_people(db):
        return None
    made = password or secrets.token_urlsafe(12)
    add(db, "owner", "owner", made)
    return None if password else made
