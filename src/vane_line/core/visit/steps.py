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

FILE = Path(__file__).resolve().parents[2] / "visits" / "usual.toml"
OF_LOG = 10  # the newest of a step that its usual duration is told by
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
    """In the order of the work."""
    return tuple(
        Step(
            id=row["id"], title=row["title"], minutes=float(row["minutes"]), hands=int(row["hands"]),
            away=bool(row.get("away", False)), each=bool(row.get("each", False)), reminders=tuple(row["reminders"]),
            source=row["source"],
        )
        for row in _data()["step"]
    )  # fmt: skip


@cache
def timers() -> tuple[Timer, ...]:
    """As they are offered."""
    return tuple(Timer(**row) for row in _data()["timer"])


def usual_minutes(lasted_s: Sequence[float]) -> float | None:
    """Median of the newest OF_LOG durations (newest first), minutes; None where there are too few."""
    newest = list(lasted_s)[:OF_LOG]
    return None if len(newest) < LEAST_OF_LOG else median(newest) / 60


def schedule(
    teeth: int, log: Mapping[str, Sequence[float]], done: Mapping[str, int], running: Mapping[str, float]
) -> list[Planned]:
    """What a visit for so many teeth still takes, from now on.

    log: by step the durations of earlier ones, seconds a tooth, newest first. done: by step how often it was ended in
    this visit. running: by step for how long it has been under way, seconds.
    """
    now, out = 0.0, []
    for step in steps():
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
