"""The school's own rubrics: copied, kept by version, refused in words."""

from __future__ import annotations

from typing import Any

import pytest

from vane_line.core.grade.mark import mark
from vane_line.core.grade.rubric import as_data, find_rubric
from vane_line.errors import BadOption, Conflict
from vane_line.service import rubrics
from vane_line.store.database import Database


@pytest.fixture
def db() -> Database:
    return Database(":memory:")


def copy(**changes: Any) -> dict[str, Any]:
    """The rubric that ships as a school's own."""
    return as_data(find_rubric("crown")) | {"id": "", "title": "Crown, ours"} | changes


def test_a_copy_is_kept_and_its_next_version_stands_beside_the_first(db: Database) -> None:
    """The one that ships stays as it is; the newest own version is the one that is found."""
    first = rubrics.save(db, copy(), 0)
    assert (first.id, first.version) == ("own-crown-ours", 1)
    rows = [row | {"weight": 2 * row["weight"]} for row in as_data(first)["row"]]
    second = rubrics.save(db, as_data(first) | {"row": rows}, 1)
    assert second.version == 2
    assert [r.id for r in rubrics.all_rubrics(db)] == ["crown", "own-crown-ours"]
    assert rubrics.find(db, "own-crown-ours").rows[0].weight == 2 * first.rows[0].weight
    assert rubrics.find(db, "crown") == find_rubric("crown")


def test_of_two_who_edit_the_second_is_told(db: Database) -> None:
    first = rubrics.save(db, copy(), 0)
    rubrics.save(db, as_data(first), 1)
    with pytest.raises(Conflict, match="nothing was overwritten"):
        rubrics.save(db, as_data(first), 1)
    assert rubrics.find(db, first.id).version == 2


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"row": []}, "1 to 40 rows"),
        ({"row": [{"title": "R", "criteria": ["beauty"], "weight": 1, "fall": 1}]}, "marks beauty"),
        ({"row": [{"title": "R", "criteria": ["reduction"], "weight": 0, "fall": 1}]}, "weight and a fall"),
        ({"step": [{"name": "good", "least": 50}]}, "the last begins at 0"),
        ({"cap": [{"criterion": "undercut", "most": 140, "says": "x"}]}, "0 to 100"),
        ({"restorations": ["hat"]}, "hat"),
        ({"title": "…"}, "title of its own"),
    ],
)
def test_what_is_wrong_in_it_is_said_and_nothing_is_kept(db: Database, changes: dict[str, Any], says: str) -> None:
    with pytest.raises(BadOption, match=says):
        rubrics.save(db, copy(**changes), 0)
    assert [r.id for r in rubrics.all_rubrics(db)] == ["crown"]


def test_an_unknown_one_is_named_with_those_there_are(db: Database) -> None:
    rubrics.save(db, copy(), 0)
    with pytest.raises(BadOption, match="crown or own-crown-ours"):
        rubrics.find(db, "none")


def test_weights_and_caps_are_the_school_s(db: Database) -> None:
    """One row alone, short by half of its fall: a quarter of what is left at the limit, in plain arithmetic."""
    row = {"title": "Reduction", "criteria": ["reduction"], "weight": 7, "at_limit": 0.5, "fall": 0.4}
    made = rubrics.save(db, copy(row=[row], cap=[]), 0)
    verdict = {
        "criterion": "reduction", "zone": "overall", "bound": "min", "value": 0.8, "unit": "mm", "U": 0.0, "limit": 1.0,
        "target": 1.5, "status": "short", "why": "", "where": "overall", "missing": 0.2, "title": "reduction",
    }  # fmt: skip
    assert mark([verdict], made).mark == pytest.approx(25.0)
