"""Steps and timers of a visit: what is left, and when it is over."""

from __future__ import annotations

from itertools import pairwise

import pytest

from vane_line.core.visit.steps import schedule, seating_order, steps, timers, usual_minutes


def minutes(step: str) -> float:
    return next(s.minutes for s in steps() if s.id == step)


def test_a_crown_s_visit_is_its_steps_one_after_the_other() -> None:
    """Each begins where the one before ends; cutting takes 5 to 15 minutes (common practice, no source)."""
    planned = schedule(1, {}, {}, {})
    assert [p.step.id for p in planned] == [s.id for s in steps()]
    assert planned[0].begins_min == 0
    for one, following in pairwise(planned):
        assert following.begins_min == one.ends_min
    assert planned[-1].ends_min == sum(s.minutes for s in steps())
    assert 5 <= minutes("cut") <= 15
    assert minutes("anaesthetic") == 15
    assert {p.state for p in planned} == {"ahead"}


def test_a_small_bridge_takes_about_three_hours() -> None:
    """Two abutments (common practice, no source): what is done for each tooth counts twice."""
    once, twice = schedule(1, {}, {}, {})[-1].ends_min, schedule(2, {}, {}, {})[-1].ends_min
    assert twice - once == sum(s.minutes for s in steps() if s.each)
    assert 150 <= twice <= 270


def test_what_is_done_takes_no_more_and_what_runs_what_is_left_of_it() -> None:
    """Of two teeth one is cut; the second has been under way for five minutes."""
    planned = {p.step.id: p for p in schedule(2, {}, {"bite-and-shade": 1, "cut": 1}, {"cut": 300.0})}
    assert planned["bite-and-shade"].state == "done"
    assert planned["bite-and-shade"].ends_min == 0
    assert planned["cut"].state == "running"
    assert planned["cut"].ends_min - planned["cut"].begins_min == pytest.approx(minutes("cut") - 5)
    late = {p.step.id: p for p in schedule(1, {}, {}, {"cut": 7200.0})}["cut"]
    assert late.ends_min == late.begins_min  # overrun: it is nearly done, not less than that


def test_the_surgery_s_own_log_takes_the_place_of_the_usual_minutes() -> None:
    """The median of the last ten; two tell nothing yet."""
    assert usual_minutes([600, 600]) is None
    assert usual_minutes([600, 1200, 660]) == 11
    assert usual_minutes([600] * 10 + [6000] * 50) == 10
    cut = next(p for p in schedule(1, {"cut": [600, 660, 1200]}, {}, {}) if p.step.id == "cut")
    assert cut.by_log
    assert cut.minutes == 11


def test_timers_are_not_shortened_and_not_overrun() -> None:
    """Figures of `visit.md`: common practice, no source."""
    by_name = {t.id: t for t in timers()}
    assert by_name["cord"].least_s == 5 * 60
    assert (by_name["pressure"].least_s, by_name["pressure"].most_s) == (480, 600)
    assert by_name["impression"].least_s == 600
    assert (by_name["light"].least_s, by_name["light-thin"].least_s) == (20, 10)
    primer = by_name["primer"]
    assert [primer.state(s) for s in (19.9, 20, 30, 30.1)] == ["waiting", "ready", "ready", "over"]
    assert by_name["light"].state(1e6) == "ready"  # longer does no harm
    assert all(t.source for t in timers())


def test_the_smallest_is_seated_first_and_of_six_front_teeth_the_canines_last() -> None:
    """Common practice, no source."""
    assert seating_order([("16", 10.0), ("15", 7.0)]) == ["15", "16"]
    front = [("13", 7.5), ("12", 6.5), ("11", 8.5), ("21", 8.5), ("22", 6.5), ("23", 7.5)]
    assert seating_order(front)[-2:] == ["13", "23"]
    assert seating_order(front)[:2] == ["12", "22"]
