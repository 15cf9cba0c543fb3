"""Marks on made-up verdicts whose answer is plain arithmetic."""

from __future__ import annotations

import copy
import tomllib
from typing import Any

import pytest

from vane_line.core.grade.mark import mark, share_of
from vane_line.core.grade.rubric import FOLDER, MarkRow, Rubric, every_rubric, find_rubric, parse_rubric
from vane_line.errors import BadOption

DATA: dict[str, Any] = {
    "id": "two", "version": 1, "title": "Two rows", "restorations": ["full-crown"],
    "step": [{"name": "A", "least": 80}, {"name": "B", "least": 50}, {"name": "C", "least": 0}],
    "row": [
        {"title": "Reduction", "criteria": ["reduction"], "weight": 3, "at_limit": 0.5, "fall": 0.5},
        {"title": "Step", "criteria": ["finish-line-step"], "weight": 1, "fall": 0.4},
    ],
    "cap": [{"criterion": "undercut", "most": 40, "says": "it would not seat"}],
}  # fmt: skip


def rubric(**more: Any) -> Rubric:
    return parse_rubric({**copy.deepcopy(DATA), **more}, "test")


def verdict(criterion: str, value: float | None, zone: str = "overall", **more: Any) -> dict[str, Any]:
    limits = {"reduction": ("min", 1.0, 1.5), "finish-line-step": ("max", 0.2, None), "undercut": ("max", 0.0, None)}
    bound, limit, target = limits[criterion]
    return {
        "criterion": criterion, "zone": zone, "bound": bound, "value": value, "unit": "mm", "U": 0.0, "limit": limit,
        "target": target, "status": "meets" if value is not None else "not-measured", "why": "no scan", "where": zone,
        **more,
    }  # fmt: skip


def marked(*verdicts: dict[str, Any], by: Rubric | None = None) -> Any:
    return mark(list(verdicts), by or rubric())


@pytest.mark.parametrize(
    ("value", "share"),
    [(1.7, 1.0), (1.5, 1.0), (1.25, 0.75), (1.0, 0.5), (0.75, 0.25), (0.5, 0.0), (0.1, 0.0)],
)
def test_the_slope_to_a_target(value: float, share: float) -> None:
    row = MarkRow("Reduction", ("reduction",), 1.0, 0.5, 0.5)
    assert share_of(value, "min", 1.0, 1.5, row) == pytest.approx(share)
    assert share_of(-value, "max", -1.0, -1.5, row) == pytest.approx(share)  # mirrored


@pytest.mark.parametrize(("value", "share"), [(0.1, 1.0), (0.2, 1.0), (0.3, 0.75), (0.6, 0.0), (2.0, 0.0)])
def test_without_a_target_all_is_kept_up_to_the_limit(value: float, share: float) -> None:
    assert share_of(value, "max", 0.2, None, MarkRow("Step", ("finish-line-step",), 1.0, 0.4)) == pytest.approx(share)


def test_weights_places_and_the_place_that_cost_most() -> None:
    found = marked(
        verdict("reduction", 1.5, "facial"), verdict("reduction", 1.0, "lingual"), verdict("finish-line-step", 0.4)
    )
    assert found.rows[0].share == pytest.approx(0.75)
    assert "lingual: 1.00 mm, target 1.50" in found.rows[0].why
    assert found.mark == pytest.approx(100 * (3 * 0.75 + 1 * 0.5) / 4)
    assert (found.grade, found.could_be) == ("B", ["B"])


def test_the_worst_place_alone_where_the_rubric_says_so() -> None:
    rows = copy.deepcopy(DATA["row"])
    rows[0]["gather"] = "worst"
    found = marked(verdict("reduction", 1.5, "facial"), verdict("reduction", 1.0, "lingual"), by=rubric(row=rows))
    assert found.rows[0].share == pytest.approx(0.5)


def test_of_a_place_that_is_bounded_both_ways_the_worse_counts() -> None:
    over = verdict("reduction", 2.5, bound="max", limit=2.0, target=1.5)
    assert marked(verdict("reduction", 2.5), over).rows[0].share == 0.0


def test_a_mark_that_could_be_another_says_so() -> None:
    """U of 0.1 on a slope of one in the target's half millimetre: a tenth of the row's marks either way."""
    found = marked(verdict("reduction", 1.3, U=0.1), verdict("finish-line-step", 0.1))
    assert found.mark == pytest.approx(100 * (3 * 0.8 + 1) / 4)
    assert (found.high - found.mark, found.mark - found.low) == (pytest.approx(7.5), pytest.approx(7.5))
    assert found.could_be == ["A", "B"]
    near = marked(verdict("reduction", 1.25, U=0.1), verdict("finish-line-step", 0.1))
    assert near.grade == "A"
    assert near.could_be == ["A", "B"]
    assert "it could be B" in near.says


def test_errors_of_rows_are_independent_those_within_one_are_not() -> None:
    one = marked(*(verdict("reduction", 1.25, zone, U=0.1) for zone in "abcd"), verdict("finish-line-step", 0.4, U=0.1))
    reduction, step = 100 * 3 * 0.1 / 4, 100 * 1 * 0.25 / 4
    assert one.mark - one.low == pytest.approx((reduction**2 + step**2) ** 0.5)


def test_a_proven_fault_caps_the_mark_and_a_doubtful_one_may() -> None:
    sound = (verdict("reduction", 1.5), verdict("finish-line-step", 0.1))
    proven = marked(*sound, verdict("undercut", 0.3, status="over"))
    assert (proven.mark, proven.high, proven.grade) == (40.0, 40.0, "C")
    assert "no more than 40, since it would not seat" in proven.says
    doubtful = marked(*sound, verdict("undercut", 0.05, status="within-uncertainty"))
    assert (doubtful.mark, doubtful.low, doubtful.high) == (100.0, 40.0, 100.0)
    assert doubtful.could_be == ["A", "B", "C"]
    assert marked(*sound, verdict("undercut", 0.0)).could_be == ["A"]


def test_what_was_not_measured_is_not_marked() -> None:
    little = marked(verdict("reduction", 1.5), verdict("finish-line-step", None))
    assert little.rows[1].share is None
    assert little.rows[1].why == "no scan"
    assert little.mark == 100.0  # three quarters of the weight
    none = marked(verdict("reduction", None), verdict("finish-line-step", 0.1))
    assert (none.mark, none.grade, none.could_be) == (None, None, [])
    assert "too little" in none.says


def test_every_rubric_that_ships_is_sound() -> None:
    assert {p.stem for p in FOLDER.glob("*.toml")} == {r.id for r in every_rubric()}
    assert sum(row.weight for row in find_rubric("crown").rows) == 100
    with pytest.raises(BadOption, match="use crown"):
        find_rubric("none")


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"row": []}, "1 to 40 rows"),
        ({"row": [{**DATA["row"][0], "criteria": ["beauty"]}]}, "beauty"),
        ({"row": [{**DATA["row"][0], "weight": 0}]}, "above nought"),
        ({"row": [{**DATA["row"][0], "fall": "much"}]}, "numbers"),
        ({"row": [{"title": "x"}]}, "criteria is missing"),
        ({"cap": [{"criterion": "undercut", "most": 400, "says": ""}]}, "0 to 100"),
        ({"step": [{"name": "B", "least": 50}, {"name": "A", "least": 80}]}, "from the best down"),
        ({"step": [{"name": "A", "least": 80}]}, "last begins at 0"),
        ({"restorations": ["statue"]}, "statue"),
    ],
)
def test_what_is_wrong_with_a_rubric_is_said(change: dict[str, Any], says: str) -> None:
    with pytest.raises(BadOption, match=says):
        rubric(**change)


def test_the_shipped_rubric_marks_a_measurement(demo_measured: Any) -> None:
    """The demo's first attempt: short, undercut and a nicked neighbour, so a capped mark and reasons for every row."""
    found = mark(demo_measured.document["verdicts"], find_rubric("crown"))
    assert found.mark is not None
    assert found.mark <= 55
    assert {c.criterion for c in found.caps if c.proven} >= {"undercut"}
    assert all(row.why for row in found.rows)
    assert tomllib.loads((FOLDER / "crown.toml").read_text())["id"] == found.rubric.id
