"""Exercises, and the cases that were handed in for them."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from vane_line.errors import NotFound
from vane_line.store.database import Database, new_id, now


@dataclass(frozen=True)
class Exercise:
    """case_id: the case whose scan before cutting is handed out; rubric: as data, in the version it was begun with."""

    id: str
    title: str
    case_id: str
    rubric: dict[str, Any]
    look_first: bool
    created_at: str


def add_exercise(db: Database, title: str, case_id: str, rubric: dict[str, Any], look_first: bool) -> Exercise:
    """A new exercise of a case."""
    made = Exercise(new_id(), title, case_id, rubric, look_first, now())
    db.run(
        "INSERT INTO exercises VALUES (?, ?, ?, ?, ?, ?)",
        made.id, title, case_id, json.dumps(rubric), int(look_first), made.created_at,
    )  # fmt: skip
    return made


def _exercise(row: object) -> Exercise:
    values = dict(row)  # type: ignore[call-overload]
    return Exercise(**{**values, "rubric": json.loads(values["rubric"]), "look_first": bool(values["look_first"])})


def list_exercises(db: Database) -> list[Exercise]:
    """Of cases that are not put away, newest first."""
    rows = db.rows(
        "SELECT e.* FROM exercises e JOIN cases c ON c.id = e.case_id WHERE c.put_away_at IS NULL "
        "ORDER BY e.created_at DESC, e.id DESC"
    )
    return [_exercise(row) for row in rows]


def get_exercise(db: Database, exercise_id: str) -> Exercise:
    """Raises NotFound."""
    row = db.row("SELECT * FROM exercises WHERE id = ?", exercise_id)
    if row is None:
        raise NotFound("There is no such exercise.")
    return _exercise(row)


def delete_exercise(db: Database, exercise_id: str) -> None:
    """What was handed in stays, as cases. Raises NotFound."""
    if db.run("DELETE FROM exercises WHERE id = ?", exercise_id) == 0:
        raise NotFound("There is no such exercise.")


def add_hand_in(db: Database, exercise_id: str, case_id: str) -> None:
    """A case is what somebody handed in."""
    db.run("INSERT INTO hand_ins VALUES (?, ?, ?)", case_id, exercise_id, now())


def handed_in(db: Database, exercise_id: str) -> list[str]:
    """Cases handed in and not put away, by code."""
    rows = db.rows(
        "SELECT h.case_id FROM hand_ins h JOIN cases c ON c.id = h.case_id "
        "WHERE h.exercise_id = ? AND c.put_away_at IS NULL ORDER BY c.code, c.created_at",
        exercise_id,
    )
    return [str(row["case_id"]) for row in rows]


def exercise_of(db: Database, case_id: str) -> Exercise | None:
    """The exercise that a case was handed in for."""
    row = db.row(
        "SELECT e.* FROM exercises e JOIN hand_ins h ON h.exercise_id = e.id WHERE h.case_id = ?", case_id
    )  # fmt: skip
    return None if row is None else _exercise(row)


def hand_ins(db: Database) -> set[str]:
    """All cases that were handed in for an exercise that still is one."""
    return {str(row["case_id"]) for row in db.rows("SELECT case_id FROM hand_ins")}
