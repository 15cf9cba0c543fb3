"""The chair log with a clock of the test's own: nothing waits."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from vane_line.core.visit.steps import steps, timers
from vane_line.errors import BadOption, Conflict, InputError, NotFound
from vane_line.service import visiting
from vane_line.store import cases, visits
from vane_line.store.database import Database, text_of

NINE = datetime(2026, 11, 27, 9, 0, tzinfo=UTC)


@pytest.fixture
def db() -> Database:
    return Database(":memory:")


@pytest.fixture
def case_id(db: Database) -> str:
    return cases.add_case(db, "SM-0500").id


def after(minutes: float) -> datetime:
    return NINE + timedelta(minutes=minutes)


def test_a_step_ends_the_one_before_but_not_the_mill(db: Database, case_id: str) -> None:
    """One key a step; what runs while the patient is away goes on beside."""
    visiting.start(db, case_id, "step", "anaesthetic", NINE)
    visiting.start(db, case_id, "step", "make", after(10))
    visiting.start(db, case_id, "step", "cut", after(15))
    visiting.start(db, case_id, "step", "check", after(27))
    found = visiting.visit_of(db, case_id, after(30))
    running = [e.name for e in found.entries if e.stopped_at is None]
    assert running == ["make", "check"]
    lasted = {e.name: (e.started_at, e.stopped_at) for e in found.entries}
    assert lasted["anaesthetic"] == (text_of(NINE), text_of(after(15)))
    state = {p.step.id: p.state for p in found.planned}
    assert (state["anaesthetic"], state["cut"], state["check"], state["seat"]) == ("done", "done", "running", "ahead")
    assert found.minutes_left > 0


def test_timers_run_side_by_side_and_are_logged(db: Database, case_id: str) -> None:
    """Started and stopped when they were; stopping again changes nothing."""
    cord = visiting.start(db, case_id, "timer", "cord", NINE)
    light = visiting.start(db, case_id, "timer", "light", after(1))
    visiting.stop(db, case_id, light.id, after(1.5))
    assert visiting.stop(db, case_id, light.id, after(9)).stopped_at == text_of(after(1.5))
    found = visiting.visit_of(db, case_id, after(2))
    assert [e.id for e in found.entries if e.stopped_at is None] == [cord.id]


def test_what_runs_survives_a_restart(tmp_path: Path) -> None:
    """The clock goes on while nobody serves it."""
    path = tmp_path / "store.db"
    first = Database(path)
    case_id = cases.add_case(first, "SM-0501").id
    visiting.start(first, case_id, "timer", "impression", NINE)
    first.connection.close()
    again = visiting.visit_of(Database(path), case_id, after(8))
    assert [(e.name, e.started_at, e.stopped_at) for e in again.entries] == [("impression", text_of(NINE), None)]


def test_another_day_is_another_visit(db: Database, case_id: str) -> None:
    """What was done then is not done now; what still runs is not forgotten."""
    visiting.start(db, case_id, "step", "cut", NINE)
    visiting.start(db, case_id, "step", "check", after(20))
    visiting.stop(db, case_id, visits.entries_of(db, case_id)[-1].id, after(30))
    assert len(visiting.visit_of(db, case_id, after(60)).entries) == 2
    assert visiting.visit_of(db, case_id, after(60 * 24)).entries == []
    visiting.start(db, case_id, "timer", "cord", after(60 * 24))
    assert [e.name for e in visiting.visit_of(db, case_id, after(60 * 30 + 1)).entries] == ["cord"]


def test_durations_come_from_the_surgery_s_own_cases_and_slips_do_not_count(db: Database, case_id: str) -> None:
    """Three cuts of nine minutes in other cases; one of ten seconds was a slip; the demo's are nobody's."""
    for number in range(3):
        other = cases.add_case(db, f"SM-06{number}").id
        visiting.stop(db, other, visiting.start(db, other, "step", "cut", NINE).id, after(9))
        visiting.stop(db, other, visiting.start(db, other, "step", "cut", after(20)).id, after(20.1))
    made_up = cases.add_case(db, "SM-0699", demo=True).id
    visiting.stop(db, made_up, visiting.start(db, made_up, "step", "cut", NINE).id, after(55))
    cut = next(p for p in visiting.visit_of(db, case_id, after(90)).planned if p.step.id == "cut")
    assert cut.by_log
    assert cut.minutes == pytest.approx(9)


def test_notes_are_revisions_and_nothing_is_overwritten(db: Database, case_id: str) -> None:
    """Two who write at once: the second is told."""
    assert visits.add_notes(db, case_id, {"shade": "A2"}, 0) == 1
    with pytest.raises(Conflict, match="elsewhere"):
        visits.add_notes(db, case_id, {"shade": "A3"}, 0)
    assert visits.notes_of(db, case_id) == (1, {"shade": "A2"})


def test_what_there_is_none_of_is_refused(db: Database, case_id: str) -> None:
    """A step, a timer, an entry, a case."""
    with pytest.raises(InputError, match="no step polka"):
        visiting.start(db, case_id, "step", "polka", NINE)
    with pytest.raises(NotFound):
        visiting.stop(db, case_id, "nothing", NINE)
    with pytest.raises(NotFound):
        visiting.start(db, "nobody", "timer", "cord", NINE)


def test_a_case_deleted_for_good_takes_its_log_along(db: Database, case_id: str) -> None:
    """No row is left of it."""
    visiting.start(db, case_id, "timer", "cord", NINE)
    visits.add_notes(db, case_id, {"shade": "A2"}, 0)
    cases.put_case(db, case_id, True)
    cases.delete_case(db, case_id)
    for table in ("visit_entries", "visit_notes"):
        assert db.row(f"SELECT count(*) AS n FROM {table}")["n"] == 0  # type: ignore[index]


def written(page: bytes) -> list[str]:
    """The lines of text on a page, in the order in which they are drawn."""
    return re.findall(r"<text [^>]*>([^<]*)</text>", page.decode())


def test_the_chair_log_on_paper_says_what_was_done_timed_and_written(db: Database, case_id: str) -> None:
    """Each visit under its day; a timer that was shortened or overrun is said, one that was kept is not."""
    cases.add_site(db, case_id, "36", "full-crown", "zirconia", "zirconia-adhesive")
    step = visiting.start(db, case_id, "step", "cut", NINE)
    visiting.stop(db, case_id, step.id, after(18))
    for name, lasted in (("cord", 3.0), ("pressure", 9.0), ("primer", 1.0)):
        timer = visiting.start(db, case_id, "timer", name, after(20))
        visiting.stop(db, case_id, timer.id, after(20 + lasted))
    visiting.start(db, case_id, "step", "seat", after(26 * 60))
    visits.add_notes(db, case_id, {"ticked": ["isolation"], "materials": [{"what": "R-1", "lot": ""}], "shade": "B"}, 0)
    lines = written(visiting.chair_log(db, case_id, "html", UTC))
    assert "2026-11-27, 09:00 to 09:29 (29:00)" in lines
    assert "2026-11-28, 11:00 to 11:00 (0:00)" in lines
    assert lines[lines.index("Cut") - 3 : lines.index("Cut")] == ["09:00", "09:18", "18:00"]
    assert "Cord in the sulcus: shorter than 5:00" in lines
    assert "Pressure on the cord" in lines
    assert "Primer: longer than 0:30" in lines
    seat = next(s.title for s in steps() if s.id == "seat")
    assert lines[lines.index(seat) - 3 : lines.index(seat)] == ["11:00", "runs", ""]
    assert {"isolation on", "R-1, no lot written down", "B"} <= set(lines)
    assert any("The dentist decides" in line for line in lines)


def test_the_chair_log_goes_on_over_pages_and_is_the_same_again(db: Database, case_id: str) -> None:
    """No line is drawn below the sheet; equal logs give equal bytes; a case without a log says so."""
    assert any("Nothing was started" in line for line in written(visiting.chair_log(db, case_id, "html", UTC)))
    for k in range(60):
        timer = visiting.start(db, case_id, "timer", "light", after(k))
        visiting.stop(db, case_id, timer.id, after(k + 0.4))
    page = visiting.chair_log(db, case_id, "html", UTC)
    assert page.count(b"<svg") == 2
    heights = [float(y) for y in re.findall(r'<text x="[^"]*" y="([^"]*)"', page.decode())]
    assert max(heights) < 297
    assert sum("Light" in line for line in written(page)) == 60
    pdf = visiting.chair_log(db, case_id, "pdf", UTC)
    assert len(re.findall(rb"/Type /Page\b", pdf)) == 2
    assert pdf == visiting.chair_log(db, case_id, "pdf", UTC)
    with pytest.raises(NotFound):
        visiting.chair_log(db, "none", "pdf", UTC)


def own_list(*rows: dict[str, object]) -> list[dict[str, object]]:
    """Steps with what every step needs."""
    usual = {"minutes": 5.0, "hands": 1, "away": False, "each": False, "reminders": []}
    return [usual | row for row in rows]


def test_a_surgery_s_own_steps_take_the_place_of_those_that_ship(db: Database, case_id: str) -> None:
    """In their order, with their minutes; one that is new has a name in the log, and the old log keeps its titles."""
    logged = visiting.start(db, case_id, "step", "anaesthetic", NINE)
    visiting.stop(db, case_id, logged.id, after(12))
    rows = own_list({"id": "cut", "title": "Cut", "minutes": 20.0}, {"title": "Photograph"}, {"title": "Photograph"})
    assert visiting.set_steps(db, rows, 0) == 1
    found = visiting.visit_of(db, case_id, after(13))
    assert [p.step.id for p in found.planned] == ["cut", "own-photograph", "own-photograph-1"]
    assert found.minutes_left == 30.0
    visiting.start(db, case_id, "step", "own-photograph", after(14))
    lines = written(visiting.chair_log(db, case_id, "html", UTC))
    assert "Anaesthetic, and wait" in lines
    assert "Photograph" in lines
    with pytest.raises(InputError, match="no step anaesthetic"):
        visiting.start(db, case_id, "step", "anaesthetic", after(15))
    assert visiting.set_steps(db, None, 1) == 2
    assert visiting.steps_of(db)[1] == steps()


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        ([], "1 to 40"),
        (own_list({"title": "Cut", "minutes": 0.0}), "0.5 to 600 minutes"),
        (own_list({"title": "Cut", "hands": 9}), "1 to 4 people"),
        (own_list({"title": " "}), "a title"),
        (own_list({"id": "a", "title": "A"}, {"id": "a", "title": "B"}), "same id"),
        ([{"title": "Cut"}], "its minutes"),
    ],
)
def test_a_list_that_cannot_be_is_refused_in_words(db: Database, rows: list[dict[str, object]], says: str) -> None:
    with pytest.raises(BadOption, match=says):
        visiting.set_steps(db, rows, 0)
    assert visiting.steps_of(db) == (0, steps())


def test_of_two_who_edit_the_list_the_second_is_told(db: Database) -> None:
    visiting.set_steps(db, own_list({"title": "Cut"}), 0)
    with pytest.raises(Conflict):
        visiting.set_steps(db, own_list({"title": "Seat"}), 0)


def own_timers(*rows: dict[str, object]) -> list[dict[str, object]]:
    """Timers with what every timer needs."""
    return [{"least_s": 60, "most_s": 0} | row for row in rows]


def test_a_surgery_s_own_timers_ring_by_its_own_seconds(db: Database, case_id: str) -> None:
    """One that ships is changed, one is new, the rest is no longer offered; the old log keeps its words."""
    old = visiting.start(db, case_id, "timer", "cord", NINE)
    visiting.stop(db, case_id, old.id, after(1))
    rows = own_timers({"id": "primer", "title": "Primer", "least_s": 40}, {"title": "Haemostatic", "most_s": 120})
    assert visiting.set_timers(db, rows, 0) == 1
    offered = visiting.visit_of(db, case_id, after(2)).timers
    assert [(t.id, t.least_s, t.most_s, t.source) for t in offered] == [
        ("primer", 40, 0, "common practice, no source"), ("own-haemostatic", 60, 120, "the surgery's own"),
    ]  # fmt: skip
    mine = visiting.start(db, case_id, "timer", "own-haemostatic", after(2))
    visiting.stop(db, case_id, mine.id, after(5))
    page = visiting.chair_log(db, case_id, "html", UTC).decode()
    for words in ("Haemostatic", "longer than 2:00", "Cord in the sulcus", "shorter than 5:00"):
        assert words in page, words
    with pytest.raises(InputError, match="no timer cord"):
        visiting.start(db, case_id, "timer", "cord", after(6))


def test_a_timer_that_runs_is_not_left_out(db: Database, case_id: str) -> None:
    """Nobody would ring for it; nothing of the list is kept then."""
    running = visiting.start(db, case_id, "timer", "primer", NINE)
    with pytest.raises(InputError, match="Primer: still running"):
        visiting.set_timers(db, own_timers({"title": "Cord"}), 0)
    assert visiting.timers_of(db) == (0, timers())
    visiting.stop(db, case_id, running.id, after(1))
    assert visiting.set_timers(db, [], 0) == 1
    assert visiting.visit_of(db, case_id, after(2)).timers == ()
    assert visiting.set_timers(db, None, 1) == 2
    assert visiting.timers_of(db)[1] == timers()


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        (own_timers({"title": "Cord", "least_s": 0}), "1 to 14400 seconds"),
        (own_timers({"title": "Cord", "most_s": 30}), "at most no less than at least"),
        (own_timers({"title": ""}), "a title"),
        (own_timers({"id": "a", "title": "A"}, {"id": "a", "title": "B"}), "same id"),
        (own_timers(*({"title": f"T{k}"} for k in range(31))), "at most 30"),
        ([{"title": "Cord"}], "its seconds"),
    ],
)
def test_timers_that_cannot_be_are_refused_in_words(db: Database, rows: list[dict[str, object]], says: str) -> None:
    with pytest.raises(BadOption, match=says):
        visiting.set_timers(db, rows, 0)
    assert visiting.timers_of(db) == (0, timers())
