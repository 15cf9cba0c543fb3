"""A visit's steps and timers as data, and what follows from a log of them: what is left, and when all will be done.

Times are seconds on one clock; who calls says what time it is.
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from statistics import median
from typing import Any

from vane_line.errors import BadOption

FILE = Path(__file__).resolve().parents[2] / "visits" / "usual.toml"
OF_LOG = 10  # the newest of a step that its usual duration is told by
MOST_STEPS, MOST_TEXT, MOST_HANDS = 40, 200, 4
MINUTES = (0.5, 600.0)
MOST_TIMERS, LONGEST_S = 30, 4 * 3600
LEAST_OF_LOG = 3  # fewer tell nothing yet


@dataclass(frozen=True)
class Step:
    """minutes: usual duration; hands: people it takes; away: the patient may leave meanwhile; each: once a tooth."""

    id: str
    title: str
    minutes: float
    hands: int
    away: bool
    each: bool
    reminders: tuple[str, ...]
    source: str


@dataclass(frozen=True)
class Timer:
    """What must not be shortened (least_s) or overrun (most_s; 0 where that does no harm), seconds."""

    id: str
    title: str
    least_s: int
    most_s: int
    source: str

    def state(self, elapsed_s: float) -> str:
        """waiting until it may be ended, ready from then on, over where it has run too long."""
        if elapsed_s < self.least_s:
            return "waiting"
        return "over" if self.most_s and elapsed_s > self.most_s else "ready"


@dataclass(frozen=True)
class Planned:
    """A step in a schedule: from when to when, minutes from now; by_log: whether the duration is the surgery's own.

    state: done, running or ahead.
    """

    step: Step
    minutes: float
    begins_min: float
    ends_min: float
    by_log: bool
    state: str


@cache
def _data() -> dict[str, Any]:
    return tomllib.loads(FILE.read_text(encoding="utf-8"))


@cache
def steps() -> tuple[Step, ...]:
    """In the order of the work, as they ship."""
    return parse_steps(_data()["step"])


def parse_steps(rows: Sequence[Mapping[str, Any]]) -> tuple[Step, ...]:
    """A list of steps from plain data. Raises BadOption with a sentence that says what is wrong."""
    try:
        out = tuple(
            Step(
                id=str(row["id"]), title=str(row["title"]).strip(), minutes=float(row["minutes"]),
                hands=int(row["hands"]), away=bool(row.get("away", False)), each=bool(row.get("each", False)),
                reminders=tuple(str(r).strip() for r in row["reminders"] if str(r).strip()),
                source=str(row.get("source", "")),
            )
            for row in rows
        )  # fmt: skip
    except (KeyError, TypeError, ValueError) as error:
        raise BadOption("steps: give each a name, its minutes, how many people it takes, and its reminders.") from error
    if not 1 <= len(out) <= MOST_STEPS:
        raise BadOption(f"steps: keep 1 to {MOST_STEPS} of them.")
    if len({s.id for s in out}) < len(out):
        raise BadOption("steps: two have the same id.")
    for step in out:
        if not step.title or len(step.title) > MOST_TEXT or any(len(r) > MOST_TEXT for r in step.reminders):
            raise BadOption(f"steps: give each a title, and keep it and reminders to {MOST_TEXT} letters.")
        low, high = MINUTES
        if not low <= step.minutes <= high or not 1 <= step.hands <= MOST_HANDS:
            raise BadOption(
                f"steps: {step.title} takes {step.minutes:g} minutes and {step.hands} people; give {low:g} to {high:g} "
                f"minutes and 1 to {MOST_HANDS} people."
            )
    return out


@cache
def timers() -> tuple[Timer, ...]:
    """As they are offered, as they ship."""
    return parse_timers(_data()["timer"])


def parse_timers(rows: Sequence[Mapping[str, Any]]) -> tuple[Timer, ...]:
    """A list of timers from plain data. Raises BadOption with a sentence that says what is wrong."""
    try:
        out = tuple(
            Timer(str(row["id"]), str(row["title"]).strip(), int(row["least_s"]), int(row["most_s"]),
                  str(row.get("source", "")))
            for row in rows
        )  # fmt: skip
    except (KeyError, TypeError, ValueError) as error:
        raise BadOption("timers: give each a name and its seconds, at least and at most.") from error
    if len(out) > MOST_TIMERS:
        raise BadOption(f"timers: keep at most {MOST_TIMERS} of them.")
    if len({t.id for t in out}) < len(out):
        raise BadOption("timers: two have the same id.")
    for timer in out:
        if not timer.title or len(timer.title) > MOST_TEXT:
            raise BadOption(f"timers: give each a title of at most {MOST_TEXT} letters.")
        if not 1 <= timer.least_s <= LONGEST_S or not (timer.most_s == 0 or timer.least_s <= timer.most_s <= LONGEST_S):
            raise BadOption(
                f"timers: {timer.title} runs {timer.least_s} seconds at least and {timer.most_s} at most; give 1 to "
                f"{LONGEST_S} seconds, and at most no less than at least, or 0 where longer does no harm."
            )
    return out


def usual_minutes(lasted_s: Sequence[float]) -> float | None:
    """Median of the newest OF_LOG durations (newest first), minutes; None where there are too few."""
    newest = list(lasted_s)[:OF_LOG]
    return None if len(newest) < LEAST_OF_LOG else median(newest) / 60


def schedule(
    teeth: int, log: Mapping[str, Sequence[float]], done: Mapping[str, int], running: Mapping[str, float],
    own: Sequence[Step] | None = None,
) -> list[Planned]:  # fmt: skip
    """What a visit for so many teeth still takes, from now on.

    log: by step the durations of earlier ones, seconds a tooth, newest first. done: by step how often it was ended in
    this visit. running: by step for how long it has been under way, seconds. own: the surgery's list, else that which
    ships.
    """
    now, out = 0.0, []
    for step in steps() if own is None else own:
        usual = usual_minutes(log.get(step.id, ()))
        one = step.minutes if usual is None else usual
        times = teeth if step.each else 1
        left = max(times - done.get(step.id, 0), 0)
        under_way = step.id in running
        if under_way:
            left = max(left, 1)
        minutes = one * left - min(running.get(step.id, 0.0) / 60, one)
        state = "running" if under_way else "ahead" if left else "done"
        ends = now + max(minutes, 0.0)
        out.append(Planned(step, one, now, ends, usual is not None, state))
        now = ends
    return out


def seating_order(teeth: Sequence[tuple[str, float]]) -> list[str]:
    """FDI numbers in the order of seating (common practice, no source): the smallest first; where all six upper or
    lower front teeth are restored, the incisors before the canines, which are the stops.

    teeth: number and size, mm.
    """
    front = [n for n, _ in teeth if n[1] in "123"]
    late = {n for n in front if n[1] == "3"} if len(front) >= 6 else set()
    return [n for n, _ in sorted(teeth, key=lambda t: (t[0] in late, t[1], t[0]))]
