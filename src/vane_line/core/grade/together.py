"""A class of preparations together: where they all fall short, and who stands far from the rest."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from vane_line.core.judge import criteria
from vane_line.core.judge.verdicts import FAULTS

OUTLIER = 1.5  # times the middle half's width beyond it (J. W. Tukey, Exploratory data analysis, 1977)
LEAST_FOR_OUTLIERS = 5


@dataclass(frozen=True)
class Shared:
    """One criterion at one place over the class: how many were judged there and how many failed, and their amounts:
    the median of what lacks (or is too much), and the range of the middle half, in `unit`."""

    criterion: str
    title: str
    where: str
    bound: str
    judged: int
    failed: int
    median: float
    low: float
    high: float
    unit: str


def where_all_fall_short(everyone: list[list[dict[str, Any]]]) -> list[Shared]:
    """Of the verdicts of each: places where at least one fails, those where most of the class do first."""
    places: dict[tuple[str, str, str], list[dict[str, Any]]] = {}
    for verdicts in everyone:
        mine: dict[tuple[str, str, str], dict[str, Any]] = {}
        for v in verdicts:
            if v["missing"] is None:
                continue
            key = (v["criterion"], v["where"], v["bound"])
            if key not in mine or abs(v["missing"]) > abs(mine[key]["missing"]):
                mine[key] = v
        for key, v in mine.items():
            places.setdefault(key, []).append(v)
    rows = []
    for (criterion, where, bound), found in places.items():
        failed = [v for v in found if v["status"] in FAULTS]
        if not failed:
            continue
        sign = 1.0 if bound == "min" else -1.0
        low, median, high = np.quantile([sign * v["missing"] for v in found], [0.25, 0.5, 0.75])
        rows.append(
            Shared(criterion, criteria.title(criterion), where, bound, judged=len(found), failed=len(failed),
                   median=float(median), low=float(low), high=float(high), unit=found[0]["unit"])
        )  # fmt: skip
    return sorted(rows, key=lambda r: (-r.failed, r.judged, -r.median))


def outliers(marks: list[float | None]) -> list[bool]:
    """Which marks lie far from the rest; none of few."""
    known = [m for m in marks if m is not None]
    if len(known) < LEAST_FOR_OUTLIERS:
        return [False] * len(marks)
    low, high = np.quantile(known, [0.25, 0.75])
    width = OUTLIER * (high - low)
    return [m is not None and bool(m < low - width or m > high + width) for m in marks]
