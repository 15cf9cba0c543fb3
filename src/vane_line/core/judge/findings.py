"""Verdicts as a person reads them: sorted, worded, each with what to do, and when to stop."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from vane_line.core.judge import criteria
from vane_line.core.judge.criteria.space import by_depth
from vane_line.core.judge.verdicts import FAULTS
from vane_line.core.judge.work import HAND_MM

SHOWN = (*FAULTS, "within-uncertainty")
DOUBT = "It cannot be told from the limit: scan again, or leave it."
STOP = "Stop: it meets."


@dataclass(frozen=True)
class Finding:
    """One line of the list of findings; `verdict` is its place among the document's verdicts."""

    verdict: int
    title: str
    lens: str | None
    amount: str
    says: str
    advice: str


@dataclass(frozen=True)
class Caution:
    """Not a fault, and no stroke: what to know."""

    where: str
    text: str


@dataclass(frozen=True)
class Report:
    """What the list shows. stop: said where the first finding would stand, once everything proven is met."""

    findings: tuple[Finding, ...]
    unmeasured: tuple[Finding, ...]
    cautions: tuple[Caution, ...]
    meets: int
    stop: str


def report(document: dict[str, Any]) -> Report:
    """The findings of a measurement's document."""
    verdicts = document["verdicts"]
    lines = document["corrections"]
    found, unmeasured, seen = [], [], set()
    for k, v in enumerate(verdicts):
        place = (v["criterion"], v["zone"], v["bound"])
        if place in seen or repeated(v, verdicts):
            continue
        seen.add(place)
        if v["status"] in SHOWN:
            found.append(_finding(k, v, _line(v, lines)))
        elif v["status"] == "not-measured":
            unmeasured.append(_finding(k, v, None))
    meets = sum(v["status"] == "meets" and v["criterion"] != "alignment" for v in verdicts)
    return Report(tuple(found), tuple(unmeasured), _cautions(verdicts), meets, _stop(verdicts))


def repeated(v: dict[str, Any], verdicts: list[dict[str, Any]]) -> bool:
    """Whether another verdict says the same already.

    With the natural tooth as reference, tooth removed repeats the reduction's upper bound; where all walls together are
    too short, each of them alone is no finding of its own.
    """
    if v["criterion"] == "tooth-removed" and v["status"] != "not-measured":
        return any(w["criterion"] == "reduction" and w["bound"] == "max" and w["zone"] == v["zone"] for w in verdicts)
    if v["criterion"] == "wall-height" and v["zone"] != "overall":
        return any(w["criterion"] == "wall-height" and w["zone"] == "overall" and w["status"] != "meets"
                   for w in verdicts)  # fmt: skip
    return False


def _line(v: dict[str, Any], lines: list[dict[str, Any]]) -> dict[str, Any] | None:
    """The worklist's line for a verdict: its own, or that of the same place which mends it too."""
    criterion = criteria.of(v["criterion"])
    if criterion is None or v["bound"] not in criterion.correct:
        return None
    own = next((c for c in lines if c["key"] == f"{v['criterion']}|{v['zone']}"), None)
    return own or next((c for c in lines if c["where"] == v["where"]), None)


def _finding(k: int, v: dict[str, Any], correction: dict[str, Any] | None) -> Finding:
    criterion = criteria.of(v["criterion"])
    title = criteria.title(v["criterion"])
    return Finding(k, title, criterion.lens if criterion else None, amount(v), says(v), advice(v, correction))


def amount(v: dict[str, Any]) -> str:
    """How much, to the last digit that a hand can use; '?' within the uncertainty, '' where there is none."""
    if v["missing"] is None:
        return ""
    if v["status"] == "within-uncertainty":
        return "?"  # less than the uncertainty is no amount: a figure here would be taken for one
    criterion, size, unit = criteria.of(v["criterion"]), abs(v["missing"]), v["unit"]
    if criterion is not None and criterion.own_size and v["value"] is not None:
        return f"{v['value']:.2f} mm" if unit == "mm" else f"{v['value']:.0f} {unit}"
    if unit == "deg":
        return f"{size:.1f}°" if size < 9.5 else f"{size:.0f}°"
    if unit == "ratio":
        return f"{size:.2f}"
    if unit == "mm":
        return f"{size:.2f} mm" if size < 0.095 else f"{size:.1f} mm"
    return "" if unit == "count" else f"{size:.0f} {unit}"


def says(v: dict[str, Any]) -> str:
    """What the amount is of."""
    criterion = criteria.of(v["criterion"])
    own = criterion.says.get(v["bound"]) if criterion else None
    if v["status"] == "short":
        return own or "short of minimum"
    if v["status"] == "over":
        if criterion is not None and criterion.own_size:
            return f"{v['limit']:g} {v['unit']} allowed"
        return own or "over maximum"
    if v["status"] == "within-uncertainty":
        near = "minimum" if v["bound"] == "min" else "maximum"
        beyond = ((v["missing"] or 0.0) > 0) == (v["bound"] == "min")
        return f"doubtful: near {near}" if beyond else f"just within {near}"
    return "meets" if v["status"] == "meets" else "not measured"


def advice(v: dict[str, Any], correction: dict[str, Any] | None) -> str:
    """What to do about it: the worklist's own line where there is one, else why no stroke is asked."""
    if v["status"] == "within-uncertainty":
        return DOUBT
    if v["status"] not in FAULTS:
        return str(v["why"])
    if v["criterion"] in ("bite", "alignment"):
        return _sentence(v["why"])
    if correction is not None:
        text = _sentence(correction["do"])
        return f"Not: {correction['do']}. {_sentence(correction['refused'])}" if correction["refused"] else text
    criterion = criteria.of(v["criterion"])
    leave = criterion.leave.get(v["bound"]) if criterion else None
    if leave:
        return _sentence(leave)
    if abs(v["to_target"] or v["missing"] or 0.0) < HAND_MM:
        return "Less than a hand can take off with certainty: round and polish only."
    return "Its place is mended with another line of the worklist."


def _sentence(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}." if text and text[-1] not in ".!?" else f"{text[:1].upper()}{text[1:]}"


def _cautions(verdicts: list[dict[str, Any]]) -> tuple[Caution, ...]:
    """What meets its limit and stays short of the target that is a caution: draft, edges of a cast crown."""
    out = []
    for v in verdicts:
        if v["status"] != "meets" or v["target"] is None or v["bound"] != "min" or v["value"] is None:
            continue
        if v["criterion"] == "draft" and v["value"] < v["target"]:
            out.append(Caution(v["where"], f"draft {v['value']:.1f}° along the path, {v['target']:.0f}° are wanted for "
                               "milled ceramic; no fault, and no stroke"))  # fmt: skip
        if v["criterion"] == "edge-radius" and v["value"] < v["target"]:
            out.append(Caution(v["where"], "a sharp edge: a cast crown follows it, with care at the die"))
    return tuple(out)


def _stop(verdicts: list[dict[str, Any]]) -> str:
    """Once everything proven is met: that it is so, and what a further stroke would cost. '' before."""
    judged = [v for v in verdicts if v["criterion"] not in ("alignment", "bite")]
    if any(v["status"] in FAULTS for v in verdicts) or not any(v["status"] == "meets" for v in judged):
        return ""
    spare = [
        (v["missing"], v["where"]) for v in judged
        if v["criterion"] in ("reduction", "tooth-removed") and v["bound"] == "max" and by_depth(v["zone"])
        and v["missing"] is not None
    ]  # fmt: skip
    if not spare:
        return f"{STOP} A further stroke takes sound tooth for nothing."
    least, where = min(spare)
    return f"{STOP} A further stroke of {max(least, 0.0):.1f} mm would over-cut the {where}; all of it is sound tooth."
