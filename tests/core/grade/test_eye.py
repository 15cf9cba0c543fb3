"""What an eye saw against made-up verdicts at known places."""

from __future__ import annotations

from typing import Any

import pytest

from vane_line.core.grade.look import MOST_MARKS, REACH_MM, SAID, Mark, compare_look
from vane_line.core.judge import criteria
from vane_line.errors import BadOption


def fault(criterion: str, at: tuple[float, float, float] | None, missing: float, **more: Any) -> dict[str, Any]:
    return {
        "criterion": criterion, "zone": "overall", "where": "here", "at": at, "missing": missing, "unit": "mm",
        "bound": "min", "status": "short", **more,
    }  # fmt: skip


def test_seen_missed_and_imagined() -> None:
    verdicts = [fault("reduction", (0, 0, 5), 0.4), fault("undercut", (4, 0, 2), -0.1, bound="max", status="over")]
    marks = [Mark((0.5, 0.5, 5), "short", 0.6), Mark((-4, 0, 2), "line")]
    found = compare_look(marks, verdicts)
    assert [(s.criterion, s.amount) for s in found.seen] == [("reduction", 0.4)]
    assert found.seen[0].off_mm == pytest.approx(0.2)
    assert [m.criterion for m in found.missed] == ["undercut"]
    assert [(i.said, i.doubtful) for i in found.imagined] == [("line", False)]
    assert found.says == "Seen 1 of 2, imagined 1; amounts guessed 0.2 mm too great on average."


def test_only_what_was_said_and_near_counts() -> None:
    verdicts = [fault("reduction", (0, 0, 5), 0.4)]
    assert not compare_look([Mark((0, 0, 5), "undercut")], verdicts).seen
    assert not compare_look([Mark((REACH_MM + 0.1, 0, 5), "short")], verdicts).seen
    assert compare_look([Mark((REACH_MM - 0.1, 0, 5), "short")], verdicts).seen
    over = fault("reduction", (0, 0, 5), -0.4, bound="max", status="over")
    assert not compare_look([Mark((0, 0, 5), "short")], [over]).seen
    assert compare_look([Mark((0, 0, 5), "over")], [over]).seen


def test_one_mark_sees_one_fault_and_the_nearest_pairs_first() -> None:
    verdicts = [fault("reduction", (0, 0, 5), 0.4), fault("reduction", (4, 0, 5), 0.3)]
    found = compare_look([Mark((2, 0, 5), "short"), Mark((0.2, 0, 5), "short")], verdicts)
    assert len(found.seen) == 2
    assert not found.missed
    alone = compare_look([Mark((2, 0, 5), "short")], verdicts)
    assert (len(alone.seen), len(alone.missed)) == (1, 1)


def test_a_second_mark_on_what_was_seen_is_no_imagination() -> None:
    found = compare_look([Mark((0, 0, 5), "short"), Mark((0.4, 0, 5), "short")], [fault("reduction", (0, 0, 5), 0.4)])
    assert (len(found.seen), found.imagined) == (1, [])


def test_faults_of_one_kind_at_one_place_are_one() -> None:
    verdicts = [fault("finish-line-width", (4, 0, 1), 0.2), fault("finish-line-step", (4.5, 0, 1), -0.3, status="over")]
    found = compare_look([Mark((4, 0, 1), "line")], verdicts)
    assert (len(found.seen), found.missed) == (1, [])


def test_what_is_too_near_to_say_is_neither_missed_nor_imagined() -> None:
    near = fault("reduction", (0, 0, 5), 0.02, status="within-uncertainty")
    assert not compare_look([], [near]).missed
    found = compare_look([Mark((0, 0, 5), "short")], [near])
    assert [i.doubtful for i in found.imagined] == [True]
    assert "imagined" not in found.says


def test_a_fault_without_a_place_cannot_be_missed() -> None:
    found = compare_look([], [fault("resistance", None, 1.0)])
    assert (found.missed, found.says) == ([], "Seen 0 of 0.")


def test_what_no_mark_can_be_is_said() -> None:
    with pytest.raises(BadOption, match="use one of short"):
        Mark((0, 0, 0), "ugly")
    with pytest.raises(BadOption, match="three numbers"):
        Mark((0, float("nan"), 0), "short")
    with pytest.raises(BadOption, match="0 to 5 mm"):
        Mark((0, 0, 0), "short", 9)
    with pytest.raises(BadOption, match="60 marks"):
        compare_look([Mark((0, 0, 0), "short")] * (MOST_MARKS + 1), [])


def test_every_criterion_that_an_eye_can_name_exists() -> None:
    names = {c.name for c in criteria.every()}
    assert {c for group in SAID.values() for c in group} <= names
