"""The record of an attempt, and what goes to the laboratory: made from what is stored, changing nothing."""

from __future__ import annotations

from typing import Any, Literal

from vane_line import __version__
from vane_line.errors import Conflict, NotFound
from vane_line.report.words import SHOWN
from vane_line.service.measuring import result_of
from vane_line.service.requests import request_of
from vane_line.service.surgery import Surgery
from vane_line.store import cases, edits, results, scans
from vane_line.work.task import Task

HANDS = {"axes": "axes confirmed", "ticks": "corrections ticked off", "pins": "pins set"}
Form = Literal["pdf", "html"]


def record(surgery: Surgery, reading_id: str, form: Form) -> bytes:
    """One A4 page. Raises NotFound before it was measured, Conflict where something has changed since."""
    answer: bytes = surgery.live.run(Task("record", _payload(surgery, reading_id) | {"form": form}))
    return answer


def package(surgery: Surgery, reading_id: str, wishes: str = "") -> bytes:
    """A zip for the laboratory; `wishes`: free words of the prescription."""
    payload = _payload(surgery, reading_id)
    site = cases.site_of(surgery.db, reading_id)
    case = cases.get_case(surgery.db, site.case_id)
    prescription = {
        "schema": "vane-line/prescription/1", "case": case.code, "tooth": site.tooth, "restoration": site.restoration,
        "material": site.material, "standard": payload["document"]["standard"],
        "cement_space_mm": payload["standard"]["cement_space_mm"], "wishes": wishes,
        "cautions": payload["document"]["warnings"], "prep_sha256": payload["scans"]["prep"]["raw_hash"],
    }  # fmt: skip
    answer: bytes = surgery.live.run(Task("package", payload | {"prescription": prescription}))
    return answer


def _payload(surgery: Surgery, reading_id: str) -> dict[str, Any]:
    db = surgery.db
    stored, stale = result_of(db, reading_id)
    if stale:
        raise Conflict("Scans, axes or the standard have changed since this was measured: measure again first.")
    blob = results.geometry_blob(db, stored.geometry_key)
    if blob is None:
        raise NotFound("This attempt has not been measured yet; press measure.")
    reading = cases.get_reading(db, reading_id)
    case = cases.get_case(db, reading.case_id)
    known = scans.scans_of(db, case.id, reading.attempt_id)
    done = [words for kind, words in HANDS.items() if edits.latest(db, reading_id, kind)[1]]
    about = {
        "code": f"{case.code}, attempt {reading.number}", "version": __version__,
        "made_at": stored.created_at[:16].replace("T", " "), "by_hand": done,
        "scans": [[s.role, s.name, s.raw_hash[:SHOWN]] for s in known],
    }  # fmt: skip
    return request_of(db, reading_id) | {"geometry_hash": blob, "document": stored.document, "about": about}
