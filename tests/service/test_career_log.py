"""The log of a career out of a store: whose cases, which of them, and as a table."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from vane_line.core.tooth.notation import ToothNumber
from vane_line.service.career import Asked, career_csv, career_of
from vane_line.service.overview import start_case
from vane_line.store import blobs, cases, exercises, jobs, results
from vane_line.store.database import Database


@pytest.fixture
def db(tmp_path: Path) -> Iterator[Database]:
    store = Database(tmp_path / "v.sqlite")
    yield store
    store.close()


def measured(db: Database, code: str, material: str, *statuses: str, hand: str = "") -> str:
    """A case with so many attempts, each with one verdict of that status; its id."""
    view = start_case(db, code, ToothNumber("36"), "full-crown", material, None)
    for _ in statuses[1:]:
        cases.add_attempt(db, view.case.id)
    site = cases.sites_of(db, view.case.id)[0]
    for reading, status in zip(cases.readings_of(db, site.id), statuses, strict=True):
        key = f"{code}-{reading.number}"
        row: dict[str, Any] = {
            "criterion": "reduction", "where": "lingual cusp", "bound": "min", "status": status, "value": 0.8,
            "unit": "mm", "limit": 1.0, "target": 1.5, "missing": 0.2, "U": 0.05,
        }  # fmt: skip
        results.add_geometry(db, key, 1, blobs.put(db, key.encode()))
        results.add_judgement(db, key, key, "s", {"verdicts": [row]}, {}, {})
        jobs.add_done(db, reading.id, key, hand)
    return view.case.id


def test_measured_cases_together(db: Database) -> None:
    """All of them, by material, and what there is to choose from; a case without a measurement is none."""
    for k in range(3):
        measured(db, f"Z{k}", "zirconia", "short", "meets")
    measured(db, "M0", "full-metal", "meets")
    start_case(db, "X0", ToothNumber("14"), "full-crown", "zirconia", None)
    found, choices = career_of(db, Asked(), None)
    assert found.teeth == 4
    assert [(r.at_fault, r.seen) for r in found.again] == [(3, 4)]
    assert choices.materials == ["full-metal", "zirconia"]
    assert choices.teeth == ["36"]
    assert sorted(w.met_after or 0 for w in found.ways) == [1, 2, 2, 2]
    only, _ = career_of(db, Asked(material="full-metal"), None)
    assert only.teeth == 1
    none, _ = career_of(db, Asked(tooth="14"), None)
    assert none.teeth == 0


def test_nobody_else_s_cases_count(db: Database) -> None:
    """What students handed in, what another hand had measured, what may not be seen, what was put away."""
    own = measured(db, "A", "zirconia", "short", hand="me")
    measured(db, "B", "zirconia", "short", hand="you")
    taught = measured(db, "C", "zirconia", "short", hand="me")
    away = measured(db, "D", "zirconia", "short", hand="me")
    exercise = exercises.add_exercise(db, "E", own, {"id": "crown"}, look_first=False)
    exercises.add_hand_in(db, exercise.id, taught)
    cases.put_case(db, away, away=True)
    assert career_of(db, Asked(), None)[0].teeth == 2
    mine = career_of(db, Asked(hand="me"), None)[0]
    assert [w.code for w in mine.ways] == ["A"]
    assert career_of(db, Asked(), set())[0].teeth == 0
    assert career_of(db, Asked(), {own})[0].teeth == 1


def test_the_table_has_a_row_a_fault(db: Database) -> None:
    measured(db, "A", "zirconia", "short", "meets")
    rows = list(csv.DictReader(io.StringIO(career_csv(db, Asked(), None))))
    assert len(rows) == 1
    assert (rows[0]["code"], rows[0]["attempt"], rows[0]["where"], rows[0]["value"]) == (
        "A",
        "1",
        "lingual cusp",
        "0.8",
    )
