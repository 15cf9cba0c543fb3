"""Cases, their sites and attempts."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass, field
from typing import Any

from vane_line.errors import Conflict, NotFound
from vane_line.store.database import Database, new_id, now


@dataclass(frozen=True)
class Case:
    """A coded patient's case and what the earlier surface means."""

    id: str
    code: str
    notes: str
    surface_meaning: str
    opposing_frame: str
    demo: bool
    revision: int
    created_at: str
    opening: str | None = None  # an increased vertical dimension, as 0.5@molar
    put_away_at: str | None = None  # it lies among the cases that were put away, from where it can be taken back
    movements: str | None = None  # how the lower jaw moves: condylar path, Bennett's angle, guidance in front


TOLD = ("gauge", "facts")  # the same, that is more than yes or no
FLAGS = ("root_filled", "dark", "guide_pins")  # what is said of a tooth that no scan shows


@dataclass(frozen=True)
class Site:
    """One tooth of a case and what it is prepared for."""

    id: str
    case_id: str
    tooth: str
    kind: str
    restoration: str
    material: str
    standard_id: str
    created_at: str
    standard_version: int = 1
    functional_side: str | None = None  # said by hand, for a crossbite
    root_filled: bool = False
    dark: bool = False
    guide_pins: bool = False
    gauge: dict[str, float] = field(default_factory=dict)  # of pin holes, mm by side
    facts: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Attempt:
    """One pass of cutting and scanning in a case, of all its teeth at once."""

    id: str
    case_id: str
    number: int
    created_at: str
    put_away_at: str | None = None


@dataclass(frozen=True)
class Reading:
    """One tooth of a case in one attempt: edited by hand, measured and judged. Number and dates are the attempt's."""

    id: str
    attempt_id: str
    site_id: str
    case_id: str
    number: int
    created_at: str
    put_away_at: str | None


def add_case(
    db: Database, code: str, notes: str = "", meaning: str = "natural", opposing_frame: str = "prep", demo: bool = False
) -> Case:
    """A new case."""
    case = Case(
        id=new_id(),
        code=code,
        notes=notes,
        surface_meaning=meaning,
        opposing_frame=opposing_frame,
        demo=demo,
        revision=1,
        created_at=now(),
    )
    db.run(
        "INSERT INTO cases (id, code, notes, surface_meaning, opposing_frame, demo, revision, created_at) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        case.id, case.code, case.notes, case.surface_meaning, case.opposing_frame, int(case.demo), case.revision,
        case.created_at,
    )  # fmt: skip
    return case


def _case(row: object) -> Case:
    values = dict(row)  # type: ignore[call-overload]
    return Case(**{**values, "demo": bool(values["demo"])})


def get_case(db: Database, case_id: str) -> Case:
    """Raises NotFound."""
    row = db.row("SELECT * FROM cases WHERE id = ?", case_id)
    if row is None:
        raise NotFound("There is no such case.")
    return _case(row)


def list_cases(db: Database, put_away: bool = False) -> list[Case]:
    """Newest first; those that were put away, or the others."""
    rows = db.rows(
        "SELECT * FROM cases WHERE (put_away_at IS NOT NULL) = ? ORDER BY created_at DESC, id DESC", int(put_away)
    )
    return [_case(r) for r in rows]


def last_changes(db: Database) -> dict[str, str]:
    """When each case was last worked on, by its id: a scan, an edit, a job, or that it was made."""
    rows = db.rows(
        "SELECT c.id, MAX(c.created_at, "
        "COALESCE((SELECT MAX(s.created_at) FROM scans s WHERE s.case_id = c.id), ''), "
        "COALESCE((SELECT MAX(e.created_at) FROM edits e JOIN readings r ON r.id = e.reading_id "
        "JOIN attempts a ON a.id = r.attempt_id WHERE a.case_id = c.id), ''), "
        "COALESCE((SELECT MAX(j.updated_at) FROM jobs j JOIN readings r ON r.id = j.reading_id "
        "JOIN attempts a ON a.id = r.attempt_id WHERE a.case_id = c.id), '')) AS changed FROM cases c"
    )
    return {str(row["id"]): str(row["changed"]) for row in rows}


def change_case(db: Database, case: Case, revision: int) -> Case:
    """Keep what may change of a case, if nobody else did since `revision`. Raises Conflict, NotFound."""
    changed = db.run(
        "UPDATE cases SET notes = ?, opposing_frame = ?, surface_meaning = ?, opening = ?, movements = ?, "
        "revision = revision + 1 WHERE id = ? AND revision = ?",
        case.notes, case.opposing_frame, case.surface_meaning, case.opening, case.movements, case.id, revision,
    )  # fmt: skip
    case = get_case(db, case.id)
    if changed == 0:
        raise Conflict("The case has been changed elsewhere meanwhile; load it again, nothing was overwritten.")
    return case


def put_case(db: Database, case_id: str, away: bool) -> None:
    """Put a case away, or take it back. Raises NotFound."""
    if db.run("UPDATE cases SET put_away_at = ? WHERE id = ?", now() if away else None, case_id) == 0:
        raise NotFound("There is no such case.")


def put_attempt(db: Database, attempt_id: str, away: bool) -> None:
    """Put an attempt away, or take it back. Raises NotFound."""
    if db.run("UPDATE attempts SET put_away_at = ? WHERE id = ?", now() if away else None, attempt_id) == 0:
        raise NotFound("There is no such attempt.")


def delete_put_away(db: Database, before: str) -> int:
    """Delete for good what was put away before a time (ISO 8601); returns how many."""
    with db.atomic():
        return sum(
            db.run(f"DELETE FROM {table} WHERE put_away_at IS NOT NULL AND put_away_at < ?", before)
            for table in ("attempts", "cases")
        )


def delete_case(db: Database, case_id: str) -> None:
    """For good, with all that belongs to it. Raises NotFound."""
    if db.run("DELETE FROM cases WHERE id = ?", case_id) == 0:
        raise NotFound("There is no such case.")


def add_site(
    db: Database, case_id: str, tooth: str, restoration: str, material: str, standard_id: str, standard_version: int = 1
) -> Site:
    """A new site of a case, to be read in all its attempts."""
    site = Site(
        new_id(), case_id, tooth, "crown-abutment", restoration, material, standard_id=standard_id, created_at=now(),
        standard_version=standard_version,
    )  # fmt: skip
    with db.atomic():
        db.run(
            "INSERT INTO sites VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            site.id, site.case_id, site.tooth, site.kind, site.restoration, site.material, site.standard_id,
            site.created_at, site.standard_version, site.functional_side, site.root_filled,
            site.dark, site.guide_pins, json.dumps(site.gauge),
            json.dumps(site.facts),
        )  # fmt: skip
        for attempt in (*attempts_of(db, case_id), *attempts_of(db, case_id, put_away=True)):
            _add_reading(db, attempt.id, site.id)
    return site


def sites_of(db: Database, case_id: str) -> list[Site]:
    """In the order they were made."""
    return [_site(r) for r in db.rows("SELECT * FROM sites WHERE case_id = ? ORDER BY id", case_id)]


def sites_judged_by(db: Database, standard_id: str) -> list[Site]:
    """Of cases that are not put away, the newest case first."""
    rows = db.rows(
        "SELECT s.* FROM sites s JOIN cases c ON c.id = s.case_id WHERE s.standard_id = ? AND c.put_away_at IS NULL "
        "ORDER BY c.created_at DESC, c.id DESC, s.id",
        standard_id,
    )
    return [_site(r) for r in rows]


def get_site(db: Database, site_id: str) -> Site:
    """Raises NotFound."""
    row = db.row("SELECT * FROM sites WHERE id = ?", site_id)
    if row is None:
        raise NotFound("There is no such site.")
    return _site(row)


def _site(row: sqlite3.Row) -> Site:
    found = dict(row)
    return Site(
        **{**found, **{name: bool(found[name]) for name in FLAGS}, **{name: json.loads(found[name]) for name in TOLD}}
    )


def set_standard(db: Database, site_id: str, material: str, standard_id: str, version: int = 1) -> None:
    """What the site is judged by from now on."""
    db.run(
        "UPDATE sites SET material = ?, standard_id = ?, standard_version = ? WHERE id = ?",
        material, standard_id, version, site_id,
    )  # fmt: skip


def set_facts(db: Database, site_id: str, facts: dict[str, Any]) -> None:
    """Say what no scan shows of the tooth: any of FLAGS and TOLD. Raises KeyError for anything else."""
    with db.atomic():
        for name, value in facts.items():
            if name not in (*FLAGS, *TOLD):
                raise KeyError(name)
            kept = json.dumps(value) if name in TOLD else bool(value)
            db.run(f"UPDATE sites SET {name} = ? WHERE id = ?", kept, site_id)


def set_functional_side(db: Database, site_id: str, side: str | None) -> None:
    """Say which cusps work, or None to tell it from jaw and bite."""
    db.run("UPDATE sites SET functional_side = ? WHERE id = ?", side, site_id)


def add_attempt(db: Database, case_id: str) -> Attempt:
    """The next attempt of a case, with a reading of each of its teeth."""
    with db.atomic():
        row = db.row("SELECT COALESCE(MAX(number), 0) AS last FROM attempts WHERE case_id = ?", case_id)
        assert row is not None
        attempt = Attempt(new_id(), case_id, int(row["last"]) + 1, now())
        db.run(
            "INSERT INTO attempts (id, case_id, number, created_at) VALUES (?, ?, ?, ?)",
            attempt.id, attempt.case_id, attempt.number, attempt.created_at,
        )  # fmt: skip
        for site in sites_of(db, case_id):
            _add_reading(db, attempt.id, site.id)
    return attempt


def attempts_of(db: Database, case_id: str, put_away: bool = False) -> list[Attempt]:
    """In order of number; those that were put away, or the others."""
    rows = db.rows(
        "SELECT * FROM attempts WHERE case_id = ? AND (put_away_at IS NOT NULL) = ? ORDER BY number",
        case_id, int(put_away),
    )  # fmt: skip
    return [Attempt(**dict(r)) for r in rows]


def get_attempt(db: Database, attempt_id: str) -> Attempt:
    """Raises NotFound."""
    row = db.row("SELECT * FROM attempts WHERE id = ?", attempt_id)
    if row is None:
        raise NotFound("There is no such attempt.")
    return Attempt(**dict(row))


_READINGS = (
    "SELECT r.id, r.attempt_id, r.site_id, a.case_id, a.number, a.created_at, a.put_away_at "
    "FROM readings r JOIN attempts a ON a.id = r.attempt_id"
)


def _add_reading(db: Database, attempt_id: str, site_id: str) -> None:
    db.run("INSERT INTO readings VALUES (?, ?, ?)", new_id(), attempt_id, site_id)


def readings_of(db: Database, site_id: str, put_away: bool = False) -> list[Reading]:
    """A tooth in every attempt, in order of number; those that were put away, or the others."""
    rows = db.rows(
        f"{_READINGS} WHERE r.site_id = ? AND (a.put_away_at IS NOT NULL) = ? ORDER BY a.number",
        site_id, int(put_away),
    )  # fmt: skip
    return [Reading(**dict(r)) for r in rows]


def readings_in(db: Database, attempt_id: str) -> list[Reading]:
    """Every tooth of one attempt, in the order in which the sites were made."""
    rows = db.rows(f"{_READINGS} WHERE r.attempt_id = ? ORDER BY r.site_id", attempt_id)
    return [Reading(**dict(r)) for r in rows]


def get_reading(db: Database, reading_id: str) -> Reading:
    """Raises NotFound."""
    row = db.row(f"{_READINGS} WHERE r.id = ?", reading_id)
    if row is None:
        raise NotFound("There is no such attempt at this tooth.")
    return Reading(**dict(row))


def site_of(db: Database, reading_id: str) -> Site:
    """The tooth of a reading. Raises NotFound."""
    return get_site(db, get_reading(db, reading_id).site_id)
