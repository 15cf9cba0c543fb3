"""What the passes changed: an attempt against the one before, the numbers of all, another standard tried."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from vane_line.core.judge import criteria
from vane_line.core.judge.compare import compare
from vane_line.core.judge.findings import report
from vane_line.core.judge.standard_files import as_data
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.verdicts import FAULTS
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import InputError, NotFound
from vane_line.service import standards
from vane_line.service.measuring import result_of
from vane_line.service.requests import request_of
from vane_line.service.surgery import Surgery
from vane_line.store import cases, jobs, results
from vane_line.store.database import Database
from vane_line.work.task import Task

MOST_FORESEEN = 12  # teeth that an edited standard is tried on before it is kept
TURNED = ("new", "mended", "worse", "better", "changed")


def changes(db: Database, reading_id: str) -> tuple[int | None, list[dict[str, Any]]]:
    """Number of the measured attempt before this one, and what changed since; (None, []) where there is none.

    Raises InputError when the two were judged by different standards.
    """
    reading = cases.get_reading(db, reading_id)
    now, _ = result_of(db, reading_id)
    for earlier in sorted(cases.readings_of(db, reading.site_id), key=lambda a: -a.number):
        if earlier.number < reading.number and jobs.newest_done(db, earlier.id) is not None:
            then, _ = result_of(db, earlier.id)
            try:
                return earlier.number, compare(then.document, now.document)
            except ValueError as error:
                raise InputError(f"{error}".capitalize()) from error
    return None, []


def timeline(db: Database, site_id: str) -> dict[str, Any]:
    """The numbers of every measured attempt of a site: one row for each criterion and bound that was ever at fault.

    Of each the worst place then. `values` run with `attempts`; None where it was not measured.
    """
    cases.get_site(db, site_id)
    documents = []
    for reading in cases.readings_of(db, site_id):
        if jobs.newest_done(db, reading.id) is not None:
            documents.append((reading.number, result_of(db, reading.id)[0].document))
    rows = []
    for criterion in (c for c in criteria.every() if c.by_attempt):
        for bound in ("min", "max"):
            found = [
                [v for v in d["verdicts"] if (v["criterion"], v["bound"]) == (criterion.name, bound)]
                for _, d in documents
            ]
            if not any(v["status"] in FAULTS for verdicts in found for v in verdicts):
                continue
            worst = [_worst(verdicts) for verdicts in found]
            known = next(w for w in worst if w is not None)
            rows.append({
                "criterion": criterion.name, "title": criterion.title, "bound": bound,
                "unit": known["unit"], "limit": known["limit"],
                "values": [None if w is None else w["value"] for w in worst],
                "where": ["" if w is None else w["where"] for w in worst],
                "status": ["not-measured" if w is None else w["status"] for w in worst],
            })  # fmt: skip
    return {"attempts": [number for number, _ in documents], "rows": rows}


def _worst(verdicts: list[dict[str, Any]]) -> dict[str, Any] | None:
    """The verdict furthest on the wrong side of its limit."""
    known = [v for v in verdicts if v["value"] is not None and v["missing"] is not None]
    if not known:
        return None
    return max(known, key=lambda v: v["missing"] if v["bound"] == "min" else -v["missing"])


def what_if(surgery: Surgery, reading_id: str, standard_id: str, version: int | None) -> list[dict[str, Any]]:
    """What another standard would say of the same measurement, against what is said now; nothing is stored."""
    now, _ = result_of(surgery.db, reading_id)
    other = standards.find(surgery.db, standard_id, version)
    return compare(now.document, _judged_by(surgery, reading_id, now, other), same_standard=False)


@dataclass(frozen=True)
class Foreseen:
    """What an edited standard would say of a case: the answer line now and then, and how many verdicts turn."""

    case_id: str
    case_code: str
    tooth: str
    attempt: int
    now: str
    then: str
    turned: int


def foresee(surgery: Surgery, data: dict[str, Any], against: str) -> tuple[int, list[Foreseen]]:
    """How many measured teeth are judged by the standard `against`, and what the edited one would say of the newest.

    Nothing is stored. Raises BadStandard where the edited one cannot be.
    """
    db = surgery.db
    edited = standards.checked(data)
    found = []
    for site in cases.sites_judged_by(db, against):
        measured = [r for r in cases.readings_of(db, site.id) if jobs.newest_done(db, r.id) is not None]
        if measured and edited.may_serve(ToothNumber(site.tooth)):
            found.append((site, max(measured, key=lambda r: r.number)))
    rows = []
    for site, reading in found[:MOST_FORESEEN]:
        now, _ = result_of(db, reading.id)
        then = _judged_by(surgery, reading.id, now, edited)
        turned = [row for row in compare(now.document, then, same_standard=False) if row["state"] in TURNED]
        before, after = (report(document).answer.text for document in (now.document, then))
        code = cases.get_case(db, site.case_id).code
        rows.append(Foreseen(site.case_id, code, site.tooth, reading.number, before, after, len(turned)))
    return len(found), rows


def _judged_by(surgery: Surgery, reading_id: str, now: results.StoredJudgement, other: Standard) -> dict[str, Any]:
    stored = results.geometry_blob(surgery.db, now.geometry_key)
    if stored is None:
        raise NotFound("This attempt has not been measured yet; press measure.")
    request = request_of(surgery.db, reading_id) | {"geometry_hash": stored, "standard": as_data(other)}
    return dict(surgery.live.run(Task("judge", request))["document"])
