"""Edits by hand: kept together with the judgement that follows, or not at all; and what is only tried."""

from __future__ import annotations

from typing import Any

from vane_line.core.judge.compare import compare
from vane_line.errors import BadOption, Conflict
from vane_line.service import measuring
from vane_line.service.requests import judgement_key, request_of
from vane_line.service.surgery import Surgery
from vane_line.store import cases, edits, jobs, scans
from vane_line.work.task import Task


def draw_line(
    surgery: Surgery, reading_id: str, stroke: list[list[float]], snap: bool, closed: bool, revision: int
) -> int:
    """Put a stretch of the finish line along a hand's stroke, and judge again; returns the edit's revision.

    Raises BadOption for a stroke that cannot be read, Conflict when somebody else drew meanwhile; nothing is then kept.
    """
    edits.check(surgery.db, reading_id, "line", revision)
    request = request_of(surgery.db, reading_id)
    value = surgery.hand.run(Task("redraw", request | {"stroke": stroke, "snap": snap, "closed": closed}))
    return edit(surgery, reading_id, "line", value, revision)


def edit(surgery: Surgery, reading_id: str, kind: str, value: Any, revision: int, returns_to: int | None = None) -> int:
    """Keep a hand's edit together with the judgement that follows from it, or neither.

    Raises Conflict where the attempt was changed by somebody else while its judgement was computed.
    """
    db = surgery.db
    edits.check(db, reading_id, kind, revision)
    if jobs.newest_done(db, reading_id) is None:  # before the first measurement there is nothing to judge
        return edits.append(db, reading_id, kind, value, revision, returns_to, surgery.actor)
    request = request_of(db, reading_id)
    options = {k: v for k, v in request["options"].items() if k != kind} | ({} if value is None else {kind: value})
    judged = measuring.compute(db, surgery.hand, request | {"options": options})
    with db.atomic():
        made = edits.append(db, reading_id, kind, value, revision, returns_to, surgery.actor)
        if judgement_key(request_of(db, reading_id)) != judged.key:
            raise Conflict("This was changed elsewhere meanwhile; load it again, nothing was overwritten.")
        jobs.add_done(db, reading_id, measuring.keep(db, reading_id, judged), surgery.actor)
    return made


def undo(surgery: Surgery, reading_id: str, kind: str, revision: int) -> int:
    """Go back to what was before the newest edit of a kind that is in force."""
    to, value = edits.before(surgery.db, reading_id, kind)
    return edit(surgery, reading_id, kind, value, revision, to)


def point_out(
    surgery: Surgery, reading_id: str, role: str, theirs: list[list[float]], ours: list[list[float]], revision: int
) -> int:
    """Keep the places that a person pointed at on an earlier scan and on the preparation's; none: forget them."""
    from vane_line.core.options import PAIRED, Pairs

    if role not in PAIRED:
        raise BadOption(f"{role} is no earlier scan; use {' or '.join(PAIRED)}.")
    db = surgery.db
    reading = cases.get_reading(db, reading_id)
    found = {s.role: s for s in scans.scans_of(db, reading.case_id, reading.attempt_id)}
    if role not in found or "prep" not in found:
        raise BadOption("Both scans are needed to point out the same places on them; add them first.")
    with db.atomic():
        kept = {r: p for r, p in (edits.latest(db, reading_id, "pairs")[1] or {}).items() if r != role}
        if theirs or ours:
            Pairs(theirs, ours)  # type: ignore[arg-type]  # refuses what fixes no position
            kept[role] = {"theirs": theirs, "ours": ours, "on": [found[role].raw_hash, found["prep"].raw_hash]}
        return edits.append(db, reading_id, "pairs", kept or None, revision, actor=surgery.actor)


def undercut_along(surgery: Surgery, reading_id: str, direction: list[float]) -> dict[str, Any]:
    """Undercuts along a path that is only tried: what a hand sees on letting the rose go, before the judgement."""
    request = request_of(surgery.db, reading_id)
    return dict(surgery.hand.run(Task("try-path", request | {"direction": direction})))


def warm(surgery: Surgery, reading_id: str) -> bool:
    """Load the case into the worker for edits."""
    return bool(surgery.hand.run(Task("warm", request_of(surgery.db, reading_id))))


def predict(surgery: Surgery, reading_id: str, strokes: list[dict[str, Any]]) -> dict[str, Any]:
    """What strokes would change: rows against the present judgement, volume, warnings; nothing is stored."""
    now, _ = measuring.result_of(surgery.db, reading_id)
    answer = surgery.hand.run(Task("predict", request_of(surgery.db, reading_id) | {"strokes": strokes}))
    rows = compare(now.document, answer["document"])
    return {"rows": rows, "removed_mm3": answer["removed_mm3"], "warnings": answer["warnings"]}
