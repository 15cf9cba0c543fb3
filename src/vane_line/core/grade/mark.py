"""A measurement marked by a rubric. A mark is told with what it could be within the measurement's uncertainty.

Between target and limit the marks of a place fall in a line, and on from there to none. Errors of one row may be one
and the same (an alignment, a path), so they add up within it; those of different rows are taken as independent.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from statistics import fmean
from typing import Any

from vane_line.core.contract.mark import MARK_SCHEMA, CapRow, MarkDocument, MarkedRow, RubricName
from vane_line.core.grade.rubric import FULL, MarkRow, Rubric
from vane_line.core.judge.verdicts import FAULTS

LEAST_MARKED = 0.6  # of the weight: with less of it measured there is no mark
NOTHING = "nothing of it was measured"


@dataclass(frozen=True)
class _Place:
    """One place's share of its marks, and what it could be within U."""

    share: float
    low: float
    high: float
    where: str
    why: str


def share_of(value: float, bound: str, limit: float, target: float | None, row: MarkRow) -> float:
    """Share (0..1) of its marks that a value keeps: all from the target on, `at_limit` at the limit, and on to none."""
    sign = 1.0 if bound == "min" else -1.0
    past = sign * (value - limit)
    width = 0.0 if target is None else max(sign * (target - limit), 0.0)
    at_limit = row.at_limit if width > 0 else 1.0
    if past >= width:
        return 1.0
    if past >= 0:
        return at_limit + (1 - at_limit) * past / width
    return max(at_limit * (1 + past / row.fall), 0.0)


def mark(verdicts: list[dict[str, Any]], rubric: Rubric) -> MarkDocument:
    """Of the verdicts of a measurement's document (`vane-line/measurement/1`)."""
    rows = [_row(row, [v for v in verdicts if v["criterion"] in row.criteria]) for row in rubric.rows]
    marked = [(t.weight, t.share, t.low or 0.0, t.high or 0.0) for t in rows if t.share is not None]
    weight = sum(w for w, *_ in marked)
    caps = _caps(verdicts, rubric)
    name = RubricName(id=rubric.id, version=rubric.version, title=rubric.title)
    if weight < LEAST_MARKED * sum(row.weight for row in rubric.rows):
        return MarkDocument(
            schema=MARK_SCHEMA, rubric=name, mark=None, low=None, high=None, grade=None, could_be=[], rows=rows,
            caps=caps, says="No mark: too little of the preparation was measured.",
        )  # fmt: skip
    whole = FULL * sum(w * share for w, share, _, _ in marked) / weight
    down = FULL * math.hypot(*(w * (share - low) for w, share, low, _ in marked)) / weight
    up = FULL * math.hypot(*(w * (high - share) for w, share, _, high in marked)) / weight
    proven = min((c.most for c in caps if c.proven), default=FULL)
    doubtful = min((c.most for c in caps), default=FULL)
    value, high = min(whole, proven), min(whole + up, proven)
    low = min(whole - down, doubtful)
    could_be = [
        s.name for k, s in enumerate(rubric.steps)
        if high >= s.least and (k == 0 or low < rubric.steps[k - 1].least)
    ]  # fmt: skip
    return MarkDocument(
        schema=MARK_SCHEMA, rubric=name, mark=value, low=low, high=high, grade=rubric.grade(value), could_be=could_be,
        rows=rows, caps=caps, says=_says(value, rubric.grade(value), could_be, caps),
    )  # fmt: skip


def _row(row: MarkRow, verdicts: list[dict[str, Any]]) -> MarkedRow:
    places: dict[str, _Place] = {}
    for v in verdicts:
        if v["value"] is None or v["limit"] is None:
            continue
        place = _place(v, row)
        known = places.get(f"{v['criterion']}|{v['zone']}")
        if known is None or place.share < known.share:  # short and over of one place: the worse
            places[f"{v['criterion']}|{v['zone']}"] = place
    if not places:
        reasons = [v["why"] for v in verdicts if v["status"] == "not-measured" and v["why"]]
        return MarkedRow(
            title=row.title, weight=row.weight, share=None, low=None, high=None, why=reasons[0] if reasons else NOTHING
        )
    found = list(places.values())
    worst = min(found, key=lambda p: p.share)
    if row.gather == "worst":
        share, low, high = worst.share, min(p.low for p in found), min(p.high for p in found)
    else:
        share, low, high = (fmean(getattr(p, name) for p in found) for name in ("share", "low", "high"))
    why = "all of it within the target" if worst.share >= 1.0 else f"{worst.where}: {worst.why}"
    return MarkedRow(title=row.title, weight=row.weight, share=share, low=low, high=high, why=why)


def _place(v: dict[str, Any], row: MarkRow) -> _Place:
    value, limit, target, u = v["value"], v["limit"], v["target"], v["U"] or 0.0
    share, one, other = (share_of(x, v["bound"], limit, target, row) for x in (value, value - u, value + u))
    unit = "°" if v["unit"] == "deg" else f" {v['unit']}"
    aim = target if target is not None else limit
    why = f"{value:.2f}{unit}, {'target' if target is not None else 'limit'} {aim:.2f}"
    return _Place(share, min(one, other, share), max(one, other, share), v["where"], why)


def _caps(verdicts: list[dict[str, Any]], rubric: Rubric) -> list[CapRow]:
    """The gravest of each: proven before doubtful."""
    out = []
    for cap in rubric.caps:
        mine = [v for v in verdicts if v["criterion"] == cap.criterion]
        proven = [v for v in mine if v["status"] in FAULTS]
        doubtful = [v for v in mine if v["status"] == "within-uncertainty"]
        for v in (proven or doubtful)[:1]:
            out.append(
                CapRow(criterion=cap.criterion, where=v["where"], most=cap.most, proven=bool(proven), says=cap.says)
            )
    return out


def _says(value: float, grade: str, could_be: list[str], caps: list[CapRow]) -> str:
    said = f"{value:.0f} of 100, {grade}"
    others = [name for name in could_be if name != grade]
    if others:
        said += f"; within the measurement's uncertainty it could be {' or '.join(others)}"
    proven = [c for c in caps if c.proven]
    if proven and min(c.most for c in proven) <= value + 1e-9:
        gravest = min(proven, key=lambda c: c.most)
        said += f"; no more than {gravest.most:.0f}, since {gravest.says}"
    return f"{said}."
