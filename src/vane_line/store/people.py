"""People, their sessions, and what was shared with them."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal, get_args

from vane_line.errors import Conflict, NotFound
from vane_line.store.database import Database, new_id, now

Role = Literal["owner", "dentist", "instructor", "student", "laboratory"]
ROLES: tuple[Role, ...] = get_args(Role)


@dataclass(frozen=True)
class Person:
    """name: as it is signed in with; a student's is the code that the student hands in by."""

    id: str
    name: str
    role: Role
    password_hash: str
    created_at: str


@dataclass(frozen=True)
class Session:
    """Times as `database.now` writes them."""

    person_id: str
    created_at: str
    seen_at: str


def add_person(db: Database, name: str, role: Role, password_hash: str) -> Person:
    """Raises Conflict where the name is taken."""
    made = Person(new_id(), name, role, password_hash, now())
    try:
        db.run("INSERT INTO people VALUES (?, ?, ?, ?, ?)", made.id, name, role, password_hash, made.created_at)
    except sqlite3.IntegrityError as error:
        raise Conflict(f"There is somebody called {name} already; choose another name.") from error
    return made


def list_people(db: Database) -> list[Person]:
    """By name."""
    return [Person(**dict(row)) for row in db.rows("SELECT * FROM people ORDER BY name")]


def get_person(db: Database, person_id: str) -> Person:
    """Raises NotFound."""
    row = db.row("SELECT * FROM people WHERE id = ?", person_id)
    if row is None:
        raise NotFound("There is no such person.")
    return Person(**dict(row))


def named(db: Database, name: str) -> Person | None:
    """The person of a name, in capitals or not."""
    row = db.row("SELECT * FROM people WHERE name = ?", name)
    return None if row is None else Person(**dict(row))


def set_password_hash(db: Database, person_id: str, password_hash: str) -> None:
    """A new password."""
    db.run("UPDATE people SET password_hash = ? WHERE id = ?", password_hash, person_id)


def delete_person(db: Database, person_id: str) -> None:
    """With the sessions; what they made stays."""
    db.run("DELETE FROM people WHERE id = ?", person_id)


def add_session(db: Database, token_hash: str, person_id: str) -> None:
    """Somebody signed in."""
    at = now()
    db.run("INSERT INTO sessions VALUES (?, ?, ?, ?)", token_hash, person_id, at, at)


def get_session(db: Database, token_hash: str) -> Session | None:
    """None where there is none."""
    row = db.row("SELECT person_id, created_at, seen_at FROM sessions WHERE token_hash = ?", token_hash)
    return None if row is None else Session(**dict(row))


def touch_session(db: Database, token_hash: str) -> None:
    """It was used just now."""
    db.run("UPDATE sessions SET seen_at = ? WHERE token_hash = ?", now(), token_hash)


def end_session(db: Database, token_hash: str) -> None:
    """Signed out here."""
    db.run("DELETE FROM sessions WHERE token_hash = ?", token_hash)


def end_sessions(db: Database, person_id: str) -> None:
    """Signed out everywhere."""
    db.run("DELETE FROM sessions WHERE person_id = ?", person_id)


def failures(db: Database, name: str) -> tuple[int, str]:
    """How often signing in failed in a row, and when last."""
    row = db.row("SELECT count, last_at FROM failed_sign_ins WHERE name = ?", name)
    return (0, "") if row is None else (int(row["count"]), str(row["last_at"]))


def add_failure(db: Database, name: str, forget_before: str) -> None:
    """Once more; what is older than `forget_before` is forgotten, so that the table stays small."""
    with db.atomic():
        db.run("DELETE FROM failed_sign_ins WHERE last_at < ?", forget_before)
        db.run(
            "INSERT INTO failed_sign_ins VALUES (?, 1, ?) ON CONFLICT (name) DO UPDATE "
            "SET count = count + 1, last_at = excluded.last_at",
            name, now(),
        )  # fmt: skip


def clear_failures(db: Database, name: str) -> None:
    """Signed in."""
    db.run("DELETE FROM failed_sign_ins WHERE name = ?", name)


def share(db: Database, case_id: str, people: list[str]) -> None:
    """A case is shared with just these."""
    with db.atomic():
        db.run("DELETE FROM shared_cases WHERE case_id = ?", case_id)
        for person_id in people:
            db.run("INSERT INTO shared_cases VALUES (?, ?)", case_id, person_id)


def shared_with(db: Database, case_id: str) -> list[str]:
    """Ids of the people that a case is shared with."""
    rows = db.rows("SELECT person_id FROM shared_cases WHERE case_id = ? ORDER BY person_id", case_id)
    return [str(r["person_id"]) for r in rows]


def cases_of(db: Database, person: Person) -> set[str]:
    """Ids of the cases that a student handed in, or that were shared with a laboratory."""
    if person.role == "student":
        rows = db.rows(
            "SELECT c.id FROM cases c JOIN hand_ins h ON h.case_id = c.id WHERE c.code = ? COLLATE NOCASE", person.name
        )
    else:
        rows = db.rows("SELECT case_id AS id FROM shared_cases WHERE person_id = ?", person.id)
    return {str(r["id"]) for r in rows}
