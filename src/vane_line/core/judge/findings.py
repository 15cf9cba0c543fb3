"""Verdicts as a person reads them: sorted, worded, each with what to do, and when to stop."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from vane_line.core.judge import criteria
from vane_line.core.judge.criteria.space import told_by_depth
from vane_line.core.judge.lenses import RECORD, concern, concerns
from vane_line.core.judge.verdicts import FAULTS, IN_MM
from vane_line.core.judge.work import HAND_MM

SHOWN = (*FAULTS, "within-uncertainty")
DOUBT = "It cannot be told from the limit: scan again, or leave it."
TOLD_MM = 0.05  # less than this reads as 0.0
STOP = "Stop: it meets."
PAST = "No stroke mends it"
DOUBTFUL = "Doubtful: too near a limit to say"


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
class Place:
    """One row of the list: a place on the tooth with all that is found there, by number among the findings.

    The first is the gravest: its amount is the row's. concern: the heading that it stands under.
    """

    where: str
    concern: str
    findings: tuple[int, ...]


@dataclass(frozen=True)
class Answer:
    """The one line at the chair. state: not-yet, cut-no-more (what is left cannot be put
    back), stop, cannot-say, or nothing (nothing could be judged)."""

    state: str
    text: str
    counts: str


NO_NEARER_MM = 0.02  # of a movement: hardly more than what a least value gains by being looked for in many steps


@dataclass(frozen=True)
class Report:
    """What the list shows. stop: said where the first finding would stand, once everything proven is met."""

    answer: Answer
    places: tuple[Place, ...]
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
    places, stop = _places(found, verdicts), _stop(verdicts)
    return Report(
        answer=_answer(document, places, found, unmeasured, stop), places=places, findings=tuple(found),
        unmeasured=tuple(unmeasured), cautions=_cautions(verdicts), meets=meets, stop=stop,
    )  # fmt: skip


def _places(found: list[Finding], verdicts: list[dict[str, Any]]) -> tuple[Place, ...]:
    """A row a place, under headings in the order in which they matter, the gravest first under each.

    What cannot be put back, and what is only doubtful, stand under headings of their own at the end.
    """
    at: dict[str, list[int]] = {}
    for number, finding in enumerate(found):
        at.setdefault(_place_of(finding, verdicts[finding.verdict]), []).append(number)
    order = (*concerns(), PAST, DOUBTFUL)

    def rank(number: int) -> tuple[int, float]:
        v = verdicts[found[number].verdict]
        criterion = criteria.of(v["criterion"])
        return order.index(_heading(found[number], v)), -in_hand_mm(v, criterion.weight if criterion else 1.0)

    rows = []
    for where, numbers in at.items():
        numbers.sort(key=rank)
        rows.append((rank(numbers[0]), Place(where, order[rank(numbers[0])[0]], tuple(numbers))))
    rows.sort(key=lambda row: row[0])
    return tuple(place for _, place in rows)


def _place_of(finding: Finding, v: dict[str, Any]) -> str:
    """Where it is; of the whole preparation each criterion is a matter of its own."""
    return finding.title if v["zone"] == "overall" else str(v["where"])


def _heading(finding: Finding, v: dict[str, Any]) -> str:
    if v["status"] not in FAULTS:
        return DOUBTFUL
    criterion = criteria.of(v["criterion"])
    beyond = criterion is not None and v["bound"] not in criterion.correct
    return PAST if beyond and finding.lens is not None else concern(finding.lens)


def in_hand_mm(v: dict[str, Any], weight: float) -> float:
    """How grave a verdict is: its amount as a hand's millimetres would have it."""
    return abs(v["missing"] or 0.0) * IN_MM.get(v["unit"], 1.0) * weight


def _answer(
    document: dict[str, Any], places: tuple[Place, ...], found: list[Finding], unmeasured: list[Finding], stop: str
) -> Answer:
    """The only question at the chair, in one line."""
    verdicts = document["verdicts"]
    counts = _counts(places, found, unmeasured, verdicts)
    untrusted = any(a is not None and not a["trusted"] for a in document["alignment"].values())
    lacking = [p for p in places if p.concern not in (RECORD, PAST, DOUBTFUL)]
    past = [p for p in places if p.concern == PAST]
    if untrusted and not lacking:
        return Answer("cannot-say", "Cannot say: the scans do not fit together.", counts)
    if lacking:
        return Answer("not-yet", f"Not yet: {_headline(lacking[0], found, verdicts)}", counts)
    if document["clearance"] and not document["clearance"]["bite"]["ok"]:
        return Answer("cannot-say", "Cannot say: the recorded bite does not close.", counts)
    if past:
        return Answer("cut-no-more", f"Cut no more: {_headline(past[0], found, verdicts)}", counts)
    if stop:
        return Answer("stop", STOP, counts)
    return Answer("nothing", "Nothing could be judged.", counts)


def _headline(place: Place, found: list[Finding], verdicts: list[dict[str, Any]]) -> str:
    """A place's gravest, in a line that is read at arm's length."""
    first = found[place.findings[0]]
    v = verdicts[first.verdict]
    if v["zone"] == "overall":
        apart = "," if first.says[:1].isdigit() else ""  # "0.36 mm, 0.1 mm allowed"
        return f"{first.title}, {first.amount}{apart} {first.says}"
    over = " too much" if v["status"] == "over" and v["bound"] == "max" and _heading(first, v) == PAST else ""
    if v["criterion"] in ("reduction", "tooth-removed", "clearance"):
        return f"{first.amount}{over} at the {place.where}"
    return f"{first.title} {first.amount}".rstrip() + f", {place.where}"


def _counts(
    places: tuple[Place, ...], found: list[Finding], unmeasured: list[Finding], verdicts: list[dict[str, Any]]
) -> str:
    """How many places are short, over, doubtful, and how much is not measured."""

    def states(place: Place) -> set[str]:
        return {verdicts[found[k].verdict]["status"] for k in place.findings}

    short = sum("short" in states(p) for p in places)
    over = sum("over" in states(p) for p in places)
    doubtful = sum(not states(p) & set(FAULTS) for p in places)
    unseen = len({f.title for f in unmeasured})
    parts = [
        f"{short} {'place' if short == 1 else 'places'} short" if short else "",
        f"{over} over" if over else "",
        f"{doubtful} doubtful" if doubtful else "",
        f"{unseen} not measured" if unseen else "",
    ]
    return ", ".join(p for p in parts if p)


def repeated(v: dict[str, Any], verdicts: list[dict[str, Any]]) -> bool:
    """Whether another verdict says the same already.

    With the natural tooth as reference, tooth removed repeats the reduction's upper bound; where all walls together are
    too short, each of them alone is no finding of its own; a movement that comes no nearer than the teeth together do
    says what the clearance says.
    """
    if v["criterion"] == "tooth-removed" and v["status"] != "not-measured":
        return any(w["criterion"] == "reduction" and w["bound"] == "max" and w["zone"] == v["zone"] for w in verdicts)
    if v["criterion"] == "wall-height" and v["zone"] != "overall":
        return any(w["criterion"] == "wall-height" and w["zone"] == "overall" and w["status"] != "meets"
                   for w in verdicts)  # fmt: skip
    if v["criterion"].startswith("clearance/") and v["value"] is not None:
        return any(w["criterion"] == "clearance" and w["zone"] == v["zone"] and w["status"] == v["status"]
                   and w["value"] - v["value"] < NO_NEARER_MM for w in verdicts)  # fmt: skip
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
    if unit == "count":
        return "" if v["value"] is None else f"{v['value']:.0f} of {v['limit']:.0f}"
    return f"{size:.0f} {unit}"


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
        known = criteria.of(v["criterion"])
        return _sentence(known.doubtful) if known and known.doubtful else DOUBT
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
        if v["criterion"] in ("reduction", "tooth-removed") and v["bound"] == "max" and v["missing"] is not None
        and told_by_depth(v["zone"])
    ]  # fmt: skip
    if not spare:
        return f"{STOP} A further stroke takes sound tooth for nothing."
    least, where = min(spare)
    stroke = "Any further stroke" if least < TOLD_MM else f"A further stroke of {least:.1f} mm"
    return f"{STOP} {stroke} would over-cut the {where}; all of it is sound tooth."
