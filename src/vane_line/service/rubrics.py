"""Rubrics, those that ship and the school's own. An exercise keeps the version that it was begun with."""

from __future__ import annotations

from typing import Any

from vane_line.core.grade.rubric import Rubric, as_data, every_rubric, parse_rubric
from vane_line.errors import BadOption
from vane_line.service.standards import own_id_of
from vane_line.store import own
from vane_line.store.database import Database

RUBRIC = "rubric"


def all_rubrics(db: Database) -> list[Rubric]:
    """Those that ship first, then the newest version of each of the school's own."""
    return [*every_rubric(), *(parse_rubric(o.data, o.id) for o in own.newest(db, RUBRIC))]


def find(db: Database, rubric_id: str) -> Rubric:
    """The newest version. Raises BadOption where there is none of that name."""
    known = {r.id: r for r in all_rubrics(db)}
    if rubric_id not in known:
        raise BadOption(f"rubric {rubric_id}: use {' or '.join(known)}.")
    return known[rubric_id]


def save(db: Database, data: dict[str, Any], expected_version: int) -> Rubric:
    """A new own rubric (version 0), or the next version of one. Raises BadOption, Conflict; then nothing is kept."""
    given = dict(data)
    own_id = own_id_of(given, {r.id for r in every_rubric()})
    found = parse_rubric({**given, "version": expected_version + 1}, str(given.get("title") or own_id))
    made = own.add(db, RUBRIC, own_id, as_data(found), expected_version)
    return parse_rubric(made.data, own_id)
