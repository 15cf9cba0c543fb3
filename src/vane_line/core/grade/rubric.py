"""Rubrics as data: rows with weights and slopes, and faults that cap the mark."""

from __future__ import annotations

import tomllib
from dataclasses import asdict, dataclass
from functools import cache
from pathlib import Path
from typing import Any

from vane_line.core import kinds
from vane_line.core.judge import criteria
from vane_line.errors import BadOption

FOLDER = Path(__file__).resolve().parents[2] / "rubrics"
GATHER = ("mean", "worst")
FULL = 100.0
MOST_ROWS, MOST_TEXT = 40, 200


@dataclass(frozen=True)
class MarkRow:
    """criteria: which verdicts it marks; at_limit: share of the marks left at the limit; fall: beyond it, in the
    criterion's unit, until none are left; gather: the mean of all places or the worst."""

    title: str
    criteria: tuple[str, ...]
    weight: float
    fall: float
    at_limit: float = 0.0
    gather: str = "mean"


@dataclass(frozen=True)
class Cap:
    """A fault that leaves no more than `most` of 100."""

    criterion: str
    most: float
    says: str


@dataclass(frozen=True)
class GradeStep:
    """From `least` of 100 on."""

    name: str
    least: float


@dataclass(frozen=True)
class Rubric:
    """A named, versioned way to mark; steps: the best first, the last from nought."""

    id: str
    version: int
    title: str
    restorations: tuple[str, ...]
    source: str
    rows: tuple[MarkRow, ...]
    caps: tuple[Cap, ...]
    steps: tuple[GradeStep, ...]

    def grade(self, mark: float) -> str:
        """Of a mark out of 100."""
        return next(s.name for s in self.steps if mark >= s.least)


def parse_rubric(data: dict[str, Any], name: str) -> Rubric:
    """Raises BadOption with a sentence that says what is wrong."""
    known = {c.name for c in criteria.every()}
    try:
        rows = tuple(
            MarkRow(
                _text(r["title"]), tuple(r["criteria"]), _number(r["weight"]), _number(r["fall"]),
                _number(r.get("at_limit", 0.0)), str(r.get("gather", "mean")),
            )
            for r in data["row"]
        )  # fmt: skip
        caps = tuple(Cap(str(c["criterion"]), _number(c["most"]), _text(c["says"])) for c in data.get("cap", []))
        steps = tuple(GradeStep(_text(s["name"]), _number(s["least"])) for s in data["step"])
        rubric = Rubric(
            str(data["id"]), int(data["version"]), _text(data["title"]), tuple(data["restorations"]),
            _text(data.get("source", "")), rows=rows, caps=caps, steps=steps,
        )  # fmt: skip
    except (KeyError, TypeError, ValueError) as error:
        raise BadOption(f"rubric {name}: {_missing(error)}") from error
    for row in rows:
        strange = [c for c in row.criteria if c not in known]
        if strange or not row.criteria:
            raise BadOption(f"rubric {name}: {row.title} marks {', '.join(strange) or 'nothing'}, which is not judged.")
        if row.weight <= 0 or row.fall <= 0 or not 0 <= row.at_limit <= 1 or row.gather not in GATHER:
            raise BadOption(
                f"rubric {name}: {row.title} needs a weight and a fall above nought, at_limit from 0 to 1, and gather "
                f"as {' or '.join(GATHER)}."
            )
    for cap in caps:
        if cap.criterion not in known or not 0 <= cap.most <= FULL:
            raise BadOption(f"rubric {name}: the cap on {cap.criterion} has to name what is judged, and 0 to 100.")
    if not rows or len(rows) > MOST_ROWS:
        raise BadOption(f"rubric {name}: give 1 to {MOST_ROWS} rows.")
    least = [s.least for s in steps]
    if not steps or least != sorted(least, reverse=True) or least[-1] != 0 or least[0] > FULL:
        raise BadOption(f"rubric {name}: give the steps from the best down; the last begins at 0.")
    for kind in rubric.restorations:
        kinds.of(kind)
    return rubric


def as_data(rubric: Rubric) -> dict[str, Any]:
    """The plain data that `parse_rubric` reads."""
    data = asdict(rubric)
    return data | {"row": data.pop("rows"), "cap": data.pop("caps"), "step": data.pop("steps")}


def _missing(error: Exception) -> str:
    return f"{error.args[0]} is missing." if isinstance(error, KeyError) else "give numbers and texts as in the others."


def _text(value: Any) -> str:
    text = str(value)
    if len(text) > MOST_TEXT:
        raise ValueError(text)
    return text


def _number(value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise ValueError(value)
    return float(value)


@cache
def every_rubric() -> tuple[Rubric, ...]:
    """Those that ship with the program."""
    return tuple(
        parse_rubric(tomllib.loads(path.read_text(encoding="utf-8")), path.stem)
        for path in sorted(FOLDER.glob("*.toml"))
    )


def find_rubric(name: str) -> Rubric:
    """Raises BadOption where there is none of that name."""
    for rubric in every_rubric():
        if rubric.id == name:
            return rubric
    raise BadOption(f"rubric {name}: use {' or '.join(r.id for r in every_rubric())}.")
