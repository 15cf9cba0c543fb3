"""Exercises: handed out, handed in, looked at first, marked, overruled, and seen together as a class."""

from __future__ import annotations

import csv
import io
from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np

from vane_line.core.contract.look import LookDocument
from vane_line.core.contract.mark import MarkDocument
from vane_line.core.grade.agreement import Agreement, intraclass, limits_of_agreement
from vane_line.core.grade.look import Mark, compare_look
from vane_line.core.grade.mark import mark
from vane_line.core.grade.rubric import Rubric, as_data, parse_rubric
from vane_line.core.grade.together import Shared, outliers, where_all_fall_short
from vane_line.errors import BadOption, InputError
from vane_line.service import rubrics
from vane_line.service.import_scan import ReadScan, keep, read
from vane_line.service.surgery import Surgery
from vane_line.store import cases, edits, exercises, jobs, results, scans
from vane_line.store.database import Database
from vane_line.store.exercises import Exercise

LOOK, OVERRULE = "look", "overrule"  # kinds of edits
MOST_CODE, MOST_TEXT = 40, 300


@dataclass(frozen=True)
class Overrule:
    """An instructor's mark beside the tool's, and why."""

    mark: float
    why: str


@dataclass(frozen=True)
class Taught:
    """exercise: None where an attempt was not handed in for one; looked: whether its look was taken already."""

    exercise: Exercise | None
    looked: bool
    mark: MarkDocument | None
    look: LookDocument | None
    overrule: Overrule | None


@dataclass(frozen=True)
class HandedIn:
    """One student's newest measured attempt, or the newest where none is. attempts: how many there are."""

    case_id: str
    code: str
    reading_id: str
    attempt: int
    attempts: int
    state: str
    answer: str
    picture: str | None
    mark: MarkDocument | None
    look: LookDocument | None
    overrule: Overrule | None
    outlier: bool


@dataclass(frozen=True)
class ClassView:
    """median: of the marks; agreement: of instructor and tool, where there are enough of both."""

    exercise: Exercise
    rows: list[HandedIn]
    shared: list[Shared]
    median: float | None
    agreement: Agreement | None
    intraclass: float | None


def start_exercise(db: Database, title: str, case_id: str, rubric_id: str, look_first: bool) -> Exercise:
    """Hand out a case's scan before cutting. Raises NotFound, BadOption, InputError without such a scan."""
    title = title.strip()
    if not title or len(title) > MOST_TEXT:
        raise BadOption(f"title: give the exercise a name of up to {MOST_TEXT} letters.")
    rubric = rubrics.find(db, rubric_id)
    with db.atomic():
        site = _site(db, case_id)
        if site.restoration not in rubric.restorations:
            raise BadOption(f"rubric {rubric.id}: it does not mark this kind of restoration.")
        if not any(s.role == "preop" for s in scans.scans_of(db, case_id, None)):
            raise InputError("The case has no scan before cutting; an exercise begins with one.")
        return exercises.add_exercise(db, title, case_id, as_data(rubric), look_first)


def _site(db: Database, case_id: str) -> cases.Site:
    cases.get_case(db, case_id)
    found = cases.sites_of(db, case_id)
    if len(found) != 1:
        raise BadOption("An exercise is of one tooth; this case has several.")
    return found[0]


def _rubric(exercise: Exercise) -> Rubric:
    """In the version that the exercise was begun with."""
    return parse_rubric(exercise.rubric, exercise.rubric["id"])


def code_of(name: str) -> str:
    """A student's code out of a file's name: what stands before the first underscore or dot."""
    return name.replace("\\", "/").rpartition("/")[2].split(".")[0].split("_")[0].strip()


def hand_in(
    surgery: Surgery, exercise_id: str, name: str, data: bytes, code: str = "", unit: str = "auto"
) -> str:  # fmt: skip
    """Take a scan as a student's next attempt, and queue it; returns the reading's id. code: as `code_of` tells unless
    given. Raises NotFound, BadOption, UnreadableScan, ScanTooLarge; then nothing has changed."""
    code = code.strip() or code_of(name)
    if not code or len(code) > MOST_CODE:
        raise BadOption("code: name the file like S-014_prep.stl, or give the student's code.")
    exercises.get_exercise(surgery.db, exercise_id)
    found = read(surgery, name, data, "prep", unit)
    db = surgery.db
    with db.atomic():
        exercise = exercises.get_exercise(db, exercise_id)  # it may have been deleted while the file was read
        reading = _reading_for(db, exercise, code, found)
        jobs.add_job(db, reading.id, actor=surgery.actor)
    return reading.id


def _reading_for(db: Database, exercise: Exercise, code: str, found: ReadScan) -> cases.Reading:
    theirs = [c for c in exercises.handed_in(db, exercise.id) if cases.get_case(db, c).code == code]
    if theirs:
        case_id = theirs[0]
        attempt = cases.add_attempt(db, case_id)
    else:
        case_id = _copy(db, exercise, code)
        attempt = cases.attempts_of(db, case_id)[0]
    keep(db, case_id, attempt.id, found)
    return cases.readings_in(db, attempt.id)[0]


def _copy(db: Database, exercise: Exercise, code: str) -> str:
    """A case of the student's own that shares the exercise's scans."""
    master, site = cases.get_case(db, exercise.case_id), _site(db, exercise.case_id)
    case = cases.add_case(db, code, "", master.surface_meaning, master.opposing_frame, master.demo)
    cases.add_site(db, case.id, site.tooth, site.restoration, site.material, site.standard_id, site.standard_version)
    cases.add_attempt(db, case.id)
    for scan in scans.scans_of(db, master.id, None):
        scans.add_scan(
            db=db, case_id=case.id, attempt_id=None, role=scan.role, name=scan.name, unit=scan.unit,
            unit_sure=scan.unit_sure, hashes=(scan.raw_hash, scan.rest_hash, scan.light_hash), facts=scan.facts,
        )  # fmt: skip
    exercises.add_hand_in(db, exercise.id, case.id)
    return case.id


def taught(db: Database, reading_id: str) -> Taught:
    """How a hand-in was looked at and marked. Before a look that is asked for is taken, no mark. Raises NotFound."""
    exercise = exercises.exercise_of(db, cases.get_reading(db, reading_id).case_id)
    looked = edits.latest(db, reading_id, LOOK)[0] > 0
    verdicts = _verdicts(db, reading_id)
    shown = exercise is not None and (looked or not exercise.look_first)
    return Taught(
        exercise=exercise, looked=looked,
        mark=mark(verdicts, _rubric(exercise)) if exercise and shown and verdicts is not None else None,
        look=_look(db, reading_id, verdicts), overrule=_overrule(db, reading_id),
    )  # fmt: skip


def _verdicts(db: Database, reading_id: str) -> list[dict[str, Any]] | None:
    job = jobs.newest_done(db, reading_id)
    return results.verdicts_of(db, job.judgement_key) if job and job.judgement_key else None


def _look(db: Database, reading_id: str, verdicts: list[dict[str, Any]] | None) -> LookDocument | None:
    """What was marked before the verdict, against it; None where nobody looked or nothing is measured."""
    _, given = edits.latest(db, reading_id, LOOK)
    if given is None or verdicts is None:
        return None
    return compare_look([Mark(tuple(m["at"]), m["said"], m["amount_mm"]) for m in given], verdicts)


def _overrule(db: Database, reading_id: str) -> Overrule | None:
    """The newest."""
    _, given = edits.latest(db, reading_id, OVERRULE)
    return None if given is None else Overrule(**given)


def add_look(db: Database, reading_id: str, marks: list[Mark], actor: str = "") -> None:
    """Keep what was seen before the verdict: once, it cannot be looked at first again. Raises Conflict, NotFound."""
    cases.get_reading(db, reading_id)
    compare_look(marks, [])  # raises for too many
    edits.append(db, reading_id, LOOK, [asdict(m) for m in marks], 0, actor=actor)


def add_overrule(db: Database, reading_id: str, value: float, why: str, actor: str = "") -> None:
    """An instructor's own mark with a reason; the tool's stays beside it. Raises BadOption, NotFound."""
    cases.get_reading(db, reading_id)
    if not 0 <= value <= 100:
        raise BadOption("mark: give it from 0 to 100.")
    if not why.strip() or len(why) > MOST_TEXT:
        raise BadOption(f"why: give a reason of up to {MOST_TEXT} letters; it stands beside the mark.")
    with db.atomic():
        revision, _ = edits.latest(db, reading_id, OVERRULE)
        edits.append(db, reading_id, OVERRULE, {"mark": value, "why": why.strip()}, revision, actor=actor)


def class_of(db: Database, exercise_id: str) -> ClassView:
    """All that was handed in. Raises NotFound."""
    exercise = exercises.get_exercise(db, exercise_id)
    rubric = _rubric(exercise)
    rows, everyone = [], []
    for case_id in exercises.handed_in(db, exercise_id):
        row, verdicts = _handed_in(db, case_id, rubric)
        rows.append(row)
        everyone += [verdicts] if verdicts is not None else []
    marks = [r.mark.mark if r.mark else None for r in rows]
    far = outliers(marks)
    known = [m for m in marks if m is not None]
    both = np.array(
        [(r.mark.mark, r.overrule.mark) for r in rows if r.mark and r.mark.mark is not None and r.overrule]
    ).reshape(-1, 2)
    return ClassView(
        exercise=exercise, rows=[replace(r, outlier=o) for r, o in zip(rows, far, strict=True)],
        shared=where_all_fall_short(everyone), median=float(np.median(known)) if known else None,
        agreement=limits_of_agreement(both[:, 0], both[:, 1]), intraclass=intraclass(both),
    )  # fmt: skip


def newest_judged(db: Database, case_id: str) -> str | None:
    """Key of the judgement of a student's newest measured attempt; None where none is measured."""
    newest = _newest_judged(db, cases.readings_of(db, cases.sites_of(db, case_id)[0].id))
    return None if newest is None else newest[1]


def _newest_judged(db: Database, readings: list[cases.Reading]) -> tuple[cases.Reading, str] | None:
    """The last of them that is measured, and the key of its judgement."""
    for reading in reversed(readings):
        job = jobs.newest_done(db, reading.id)
        if job and job.judgement_key:
            return reading, job.judgement_key
    return None


def _handed_in(db: Database, case_id: str, rubric: Rubric) -> tuple[HandedIn, list[dict[str, Any]] | None]:
    case, site = cases.get_case(db, case_id), cases.sites_of(db, case_id)[0]
    readings = cases.readings_of(db, site.id)
    reading, key = _newest_judged(db, readings) or (readings[-1], "")
    verdicts, (summary, picture) = results.verdicts_of(db, key), results.summary_of(db, key)
    newest = jobs.newest_job(db, readings[-1].id)
    row = HandedIn(
        case_id=case_id, code=case.code, reading_id=reading.id, attempt=reading.number, attempts=len(readings),
        state=newest.state if newest else "waiting", answer=summary.get("text", ""), picture=picture,
        mark=None if verdicts is None else mark(verdicts, rubric), look=_look(db, reading.id, verdicts),
        overrule=_overrule(db, reading.id), outlier=False,
    )  # fmt: skip
    return row, verdicts


def class_csv(view: ClassView) -> str:
    """For the school's books: a line a student, a column a row of the rubric."""
    out = io.StringIO()
    rubric = _rubric(view.exercise)
    titles = [row.title for row in rubric.rows]
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(
        ["code", "attempt", "mark", "from", "to", "grade", "instructor", "instructor's reason", "seen", "missed",
         "imagined", *titles]
    )  # fmt: skip
    for r in view.rows:
        m, look = r.mark, r.look
        shares = [row.share for row in m.rows] if m else [None] * len(titles)
        numbers = [m.mark, m.low, m.high] if m else [None] * 3
        cells = [
            r.code, r.attempt, *(_number(n) for n in numbers), (m.grade if m else "") or "",
            _number(r.overrule.mark) if r.overrule else "", r.overrule.why if r.overrule else "",
            *([len(look.seen), len(look.missed), len(look.imagined)] if look else ["", "", ""]),
            *("" if s is None else f"{100 * s:.0f}" for s in shares),
        ]  # fmt: skip
        table.writerow([_plain(c) for c in cells])
    return out.getvalue()


def _number(value: float | None) -> str:
    return "" if value is None else f"{value:.1f}"


def _plain(cell: object) -> object:
    """A spreadsheet takes what begins like a formula for one."""
    return f"'{cell}" if isinstance(cell, str) and cell[:1] in "=+-@\t" and cell else cell
