"""The visit of a case: its chair log, what still has to be done, and when that will be over."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta, tzinfo
from itertools import count
from typing import Any

from vane_line import __version__
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.visit.steps import (
    Planned,
    Step,
    Timer,
    parse_steps,
    parse_timers,
    schedule,
    seating_order,
    steps,
    timers,
)
from vane_line.errors import InputError
from vane_line.report.chair_log import ChairLog, Line, Written, as_html, as_pdf, lasted_text
from vane_line.service.recording import Form
from vane_line.service.standards import plain_name
from vane_line.store import cases, own, visits
from vane_line.store.database import Database, text_of
from vane_line.store.visits import Entry

PAUSE = timedelta(hours=6)  # after one as long another visit has begun
LONGEST_ID = 30
SLIP_S = 30.0  # a step this short was started by mistake: it tells nothing of how long it takes
LOG = 2000  # of the newest ended steps that durations are told by
STEPS, TIMERS = "visit-steps", "visit-timers"
OWN_SOURCE = "the surgery's own"


def steps_of(db: Database) -> tuple[int, tuple[Step, ...]]:
    """Revision and the surgery's list of steps; the one that ships until they make their own."""
    revision, rows = own.setting(db, STEPS)
    return revision, steps() if rows is None else parse_steps(rows)


def set_steps(db: Database, rows: list[dict[str, Any]] | None, expected_revision: int) -> int:
    """Keep a list of one's own; None: the one that ships again. Raises BadOption, Conflict; then nothing is kept."""
    return _keep(db, STEPS, rows, steps(), parse_steps, expected_revision)


def timers_of(db: Database) -> tuple[int, tuple[Timer, ...]]:
    """Revision and the surgery's timers; those that ship until they make their own."""
    revision, rows = own.setting(db, TIMERS)
    return revision, timers() if rows is None else parse_timers(rows)


def set_timers(db: Database, rows: list[dict[str, Any]] | None, expected_revision: int) -> int:
    """The same of the timers. Raises InputError too where one that runs would be left out: nobody would ring for it."""
    with db.atomic():
        offered = timers_of(db)[1]
        revision = _keep(db, TIMERS, rows, timers(), parse_timers, expected_revision)
        stay, running = {t.id for t in timers_of(db)[1]}, visits.running_timers(db)
        lost = [t.title for t in offered if t.id in running and t.id not in stay]
        if lost:
            raise InputError(f"{', '.join(lost)}: still running in a visit; stop it first, then leave it out.")
    return revision


def _keep(
    db: Database, name: str, rows: list[dict[str, Any]] | None, shipped: Sequence[Step] | Sequence[Timer],
    parse: Callable[[list[dict[str, Any]]], Sequence[Step] | Sequence[Timer]], expected_revision: int,
) -> int:  # fmt: skip
    kept = None
    if rows is not None:
        sources = {one.id: one.source for one in shipped}
        taken = {str(row.get("id")) for row in rows if row.get("id")}
        named = [{**row, "id": row.get("id") or _free_id(row, taken)} for row in rows]
        kept = [asdict(one) | {"source": sources.get(one.id, OWN_SOURCE)} for one in parse(named)]
    return own.set_setting(db, name, kept, expected_revision)


def _free_id(row: dict[str, Any], taken: set[str]) -> str:
    """An id that no other step or timer has; the log goes by it."""
    plain = plain_name(str(row.get("title", "")), LONGEST_ID) or "unnamed"
    found = next(name for k in count() if (name := f"own-{plain}" + (f"-{k}" if k else "")) not in taken)
    taken.add(found)
    return found


@dataclass(frozen=True)
class Visit:
    """entries: of the visit that is under way, or of the last one; now: the server's clock."""

    now: str
    entries: list[Entry]
    planned: list[Planned]
    timers: tuple[Timer, ...]
    seating: list[str]
    notes: dict[str, Any]
    notes_revision: int

    @property
    def minutes_left(self) -> float:
        """Until all is done."""
        return self.planned[-1].ends_min if self.planned else 0.0


def visit_of(db: Database, case_id: str, at: datetime | None = None) -> Visit:
    """Raises NotFound."""
    cases.get_case(db, case_id)
    clock = at or datetime.now(UTC)
    entries = this_visit(visits.entries_of(db, case_id), clock)
    taken = [e for e in entries if e.kind == "step"]
    done = Counter(e.name for e in taken if e.stopped_at is not None and _lasted_s(e, clock) >= SLIP_S)
    running = {e.name: _lasted_s(e, clock) for e in taken if e.stopped_at is None}
    log: dict[str, list[float]] = {}
    for entry in visits.ended_steps(db, LOG):
        if (lasted := _lasted_s(entry, clock)) >= SLIP_S:
            log.setdefault(entry.name, []).append(lasted)
    sites = cases.sites_of(db, case_id)
    revision, notes = visits.notes_of(db, case_id)
    return Visit(
        now=text_of(clock), entries=entries,
        planned=schedule(max(len(sites), 1), log, done, running, steps_of(db)[1]),
        timers=timers_of(db)[1],
        seating=seating_order([(s.tooth, size_of(ToothNumber(s.tooth))[1]) for s in sites]),
        notes=notes, notes_revision=revision,
    )  # fmt: skip


def start(db: Database, case_id: str, kind: str, name: str, at: datetime | None = None) -> Entry:
    """Start a step or a timer. A step ends the one before it, but for those that run while the patient is away.

    Raises NotFound, InputError for a name that there is none of.
    """
    cases.get_case(db, case_id)
    mine = steps_of(db)[1]
    names = {s.id for s in mine} if kind == "step" else {t.id for t in timers_of(db)[1]}
    if name not in names:
        raise InputError(f"There is no {kind} {name}; use one of {', '.join(sorted(names))}.")
    when = text_of(at or datetime.now(UTC))
    away = {s.id for s in mine if s.away}
    with db.atomic():
        if kind == "step" and name not in away:
            for entry in visits.entries_of(db, case_id):
                if entry.kind == "step" and entry.stopped_at is None and entry.name not in away:
                    visits.stop_entry(db, case_id, entry.id, when)
        return visits.add_entry(db, case_id, kind, name, when)


def stop(db: Database, case_id: str, entry_id: str, at: datetime | None = None) -> Entry:
    """Stop a step or a timer; one that is stopped stays as it was. Raises NotFound."""
    return visits.stop_entry(db, case_id, entry_id, text_of(at or datetime.now(UTC)))


def this_visit(entries: list[Entry], clock: datetime) -> list[Entry]:
    """Those since the last long pause, oldest first; what runs belongs to it however long ago it was started."""
    out: list[Entry] = []
    later = clock
    for entry in sorted(entries, key=lambda e: _ended(e, clock), reverse=True):
        if later - _ended(entry, clock) > PAUSE:
            break
        out.append(entry)
        later = min(later, datetime.fromisoformat(entry.started_at))
    return sorted(out, key=lambda e: (e.started_at, e.id))


def chair_log(db: Database, case_id: str, form: Form, zone: tzinfo | None = None) -> bytes:
    """All visits of a case on paper, by the surgery's own clock (`zone`, this machine's unless given).

    Raises NotFound.
    """
    case = cases.get_case(db, case_id)
    _, notes = visits.notes_of(db, case_id)
    titles = {s.id: s.title for s in (*steps(), *steps_of(db)[1])}
    known = {t.id: t for t in (*timers(), *timers_of(db)[1])}
    log = ChairLog(
        code=case.code, teeth=tuple(s.tooth for s in cases.sites_of(db, case_id)), version=__version__,
        visits=tuple(
            (tuple(Line(titles.get(e.name, e.name), *_local(e, zone)) for e in one if e.kind == "step"),
             tuple(_timer_line(e, known.get(e.name), zone) for e in one if e.kind == "timer"))
            for one in by_visit(visits.entries_of(db, case_id))
        ),
        written=Written(
            ticked=tuple(notes.get("ticked", ())), shade=notes.get("shade", ""), adjusted=notes.get("adjusted", ""),
            materials=tuple((m["what"], m.get("lot", "")) for m in notes.get("materials", ())),
            agreed_by=notes.get("agreed_by", ""),
        ),
    )  # fmt: skip
    return as_pdf(log) if form == "pdf" else as_html(log)


def by_visit(entries: list[Entry]) -> list[list[Entry]]:
    """Entries by visit, oldest first: between two of them nothing ran for as long as PAUSE."""
    out: list[list[Entry]] = []
    last: datetime | None = None
    for entry in sorted(entries, key=lambda e: (e.started_at, e.id)):
        began = datetime.fromisoformat(entry.started_at)
        if last is None or began - last > PAUSE:
            out.append([])
        out[-1].append(entry)
        last = max(last or began, _ended(entry, began))
    return out


def _timer_line(entry: Entry, timer: Timer | None, zone: tzinfo | None) -> Line:
    """With what is to be said where it was shortened or overrun."""
    began, ended = _local(entry, zone)
    if timer is None or ended is None:
        return Line(entry.name if timer is None else timer.title, began, ended)
    state = timer.state((ended - began).total_seconds())
    said = {
        "waiting": f"shorter than {lasted_text(timer.least_s)}", "over": f"longer than {lasted_text(timer.most_s)}",
    }  # fmt: skip
    return Line(timer.title, began, ended, said.get(state, ""))


def _local(entry: Entry, zone: tzinfo | None) -> tuple[datetime, datetime | None]:
    ended = None if entry.stopped_at is None else datetime.fromisoformat(entry.stopped_at).astimezone(zone)
    return datetime.fromisoformat(entry.started_at).astimezone(zone), ended


def _ended(entry: Entry, clock: datetime) -> datetime:
    return clock if entry.stopped_at is None else datetime.fromisoformat(entry.stopped_at)


def _lasted_s(entry: Entry, clock: datetime) -> float:
    return max((_ended(entry, clock) - datetime.fromisoformat(entry.started_at)).total_seconds(), 0.0)
