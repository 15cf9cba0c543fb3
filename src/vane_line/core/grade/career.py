"""Over the cases of one hand: what falls short again and again, how the depths move, how many passes it takes.

Counted on first attempts, which no list of corrections has helped yet. A share of few is not told as if it were of
many: rows stand in the order of the least share that is likely (E. B. Wilson, Journal of the American Statistical
Association 1927, 22: 209-212).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from vane_line.core.judge.verdicts import FAULTS

Z = 1.96
LEAST_SEEN, LEAST_AT_FAULT = 3, 2  # of a row
MOST_ROWS = 12
DEPTHS = ("reduction", "cavity-depth", "incisal-reduction")
CUT_TOO_MUCH = ("reduction", "tooth-removed", "cavity-depth", "finish-line-width", "incisal-reduction")
BLOCK = 5  # cases that are compared with as many before them


@dataclass(frozen=True)
class Pass:
    """One measured attempt of a tooth: number from 1, the day (ISO), and its verdicts as the contract has them."""

    code: str
    tooth: str
    restoration: str
    material: str
    number: int
    at: str
    verdicts: Sequence[dict[str, Any]]


@dataclass(frozen=True)
class Again:
    """One place and criterion: at fault so often of so many first attempts; likely: the least share at 95 %; amount:
    the median by which, in the criterion's unit."""

    criterion: str
    where: str
    bound: str
    unit: str
    at_fault: int
    seen: int
    likely: float
    amount: float | None


@dataclass(frozen=True)
class Depth:
    """How far a first attempt's depths lie from their targets, mm: median and quartiles over its zones."""

    code: str
    tooth: str
    at: str
    median_mm: float
    low_mm: float
    high_mm: float


@dataclass(frozen=True)
class Way:
    """How many passes a tooth has taken, and after which nothing was proven short or over; None: not yet."""

    code: str
    tooth: str
    passes: int
    met_after: int | None


@dataclass(frozen=True)
class Over:
    """By how much a first attempt was cut too deep where it was worst, mm; 0 where nothing was proven."""

    code: str
    tooth: str
    at: str
    worst_mm: float


@dataclass(frozen=True)
class Career:
    """depths, over: in time. recent_mm, before_mm: medians of the last BLOCK first attempts' depths and of those before
    them; None of too few."""

    teeth: int
    again: tuple[Again, ...]
    depths: tuple[Depth, ...]
    ways: tuple[Way, ...]
    over: tuple[Over, ...]
    recent_mm: float | None
    before_mm: float | None


def career(passes: Sequence[Pass]) -> Career:
    """Of measured attempts in any order."""
    teeth: dict[tuple[str, str], list[Pass]] = defaultdict(list)
    for one in passes:
        teeth[(one.code, one.tooth)].append(one)
    each = [sorted(mine, key=lambda p: p.number) for mine in teeth.values()]
    each.sort(key=lambda mine: mine[0].at)
    firsts = [mine[0] for mine in each]
    depths = tuple(d for d in map(_depth, firsts) if d is not None)
    medians = [d.median_mm for d in depths]
    enough = len(medians) >= 2 * BLOCK
    return Career(
        teeth=len(each),
        again=again(firsts),
        depths=depths,
        ways=tuple(_way(mine) for mine in each),
        over=tuple(_over(first) for first in firsts),
        recent_mm=float(np.median(medians[-BLOCK:])) if enough else None,
        before_mm=float(np.median(medians[-2 * BLOCK : -BLOCK])) if enough else None,
    )


def again(firsts: Sequence[Pass]) -> tuple[Again, ...]:
    """What is at fault in more than one, the likeliest first."""
    seen: dict[tuple[str, str, str], list[dict[str, Any]]] = defaultdict(list)
    for one in firsts:
        for v in one.verdicts:
            if v["status"] != "not-measured":
                seen[(v["criterion"], v["where"], v["bound"])].append(v)
    rows = []
    for (criterion, where, bound), mine in seen.items():
        bad = [v for v in mine if v["status"] in FAULTS]
        if len(mine) < LEAST_SEEN or len(bad) < LEAST_AT_FAULT:
            continue
        amounts = [abs(v["missing"]) for v in bad if v["missing"] is not None]
        amount = float(np.median(amounts)) if amounts else None
        rows.append(Again(
            criterion, where, bound, unit=mine[0]["unit"], at_fault=len(bad), seen=len(mine),
            likely=least_share(len(bad), len(mine)), amount=amount,
        ))  # fmt: skip
    return tuple(sorted(rows, key=lambda r: (-r.likely, -r.at_fault, r.criterion, r.where))[:MOST_ROWS])


def least_share(count: int, of: int) -> float:
    """The lower end of Wilson's interval for a share."""
    p, n = count / of, of
    middle = p + Z * Z / (2 * n)
    off = Z * np.sqrt(p * (1 - p) / n + Z * Z / (4 * n * n))
    return float(max((middle - off) / (1 + Z * Z / n), 0.0))


def _depth(first: Pass) -> Depth | None:
    """None where no depth has a target, or too few of them."""
    off = [
        v["value"] - v["target"]
        for v in first.verdicts
        if v["criterion"] in DEPTHS and v["bound"] == "min" and v["value"] is not None and v["target"] is not None
    ]
    if len(off) < LEAST_SEEN:
        return None
    low, median, high = (float(q) for q in np.quantile(off, [0.25, 0.5, 0.75]))
    return Depth(first.code, first.tooth, first.at, median, low, high)


def _way(mine: Sequence[Pass]) -> Way:
    met = [p.number for p in mine if not any(v["status"] in FAULTS for v in p.verdicts)]
    return Way(mine[0].code, mine[0].tooth, len(mine), min(met, default=None))


def _over(first: Pass) -> Over:
    worst = [
        abs(v["missing"])
        for v in first.verdicts
        if v["status"] == "over" and v["criterion"] in CUT_TOO_MUCH and v["missing"] is not None
    ]
    return Over(first.code, first.tooth, first.at, max(worst, default=0.0))
