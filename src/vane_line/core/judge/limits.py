"""Minimum, target and maximum of one quantity; the general standard, which every other inherits."""

from __future__ import annotations

import hashlib
import tomllib
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from vane_line.errors import BadStandard

FOLDER = Path(__file__).resolve().parents[2] / "standards"
GENERAL = "general.toml"


@dataclass(frozen=True)
class Bounds:
    """What no material sets: each bound is judged where it is given."""

    min: float | None
    target: float | None
    max: float | None
    source: str

    @property
    def least(self) -> Bounds:
        """Without the maximum."""
        return Bounds(self.min, self.target, None, self.source)

    @property
    def most(self) -> Bounds:
        """Without the minimum."""
        return Bounds(None, self.target, self.max, self.source)


@dataclass(frozen=True)
class Limits(Bounds):
    """Minimum, target and maximum of one quantity in mm, with the source of the figures."""

    min: float
    target: float
    max: float


def bounds_of(row: Any, place: str, name: str) -> Bounds:
    """Raises BadStandard."""
    if place.partition(": ")[0] != GENERAL and name not in general():
        raise BadStandard(f"{place}: there is no such row; use one of {', '.join(general())}.")
    try:
        low, target, high = (None if row.get(k) is None else float(row[k]) for k in ("min", "target", "max"))
        source = str(row["source"]).strip()
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise BadStandard(f"{place}: give numbers for min, target or max, and a source.") from error
    if not source:
        raise BadStandard(f"{place}: a value needs its source.")
    if low is not None and high is not None and low >= high:
        raise BadStandard(f"{place}: it must hold that min < max.")
    return Bounds(low, target, high, source)


@cache
def general() -> dict[str, Bounds]:
    """The general standard: what every other inherits."""
    rows = tomllib.loads((FOLDER / GENERAL).read_text(encoding="utf-8"))
    return {name: bounds_of(row, f"{GENERAL}: {name}", name) for name, row in rows.items()}


@cache
def general_digest() -> str:
    """Of the general standard's figures: another digest, other judgements."""
    return hashlib.sha256((FOLDER / GENERAL).read_bytes()).hexdigest()
