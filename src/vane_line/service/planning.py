"""Plan an attempt's tooth from the scans before cutting, and keep the plan."""

from __future__ import annotations

import hashlib
import json
from functools import partial
from typing import Any

from vane_line.core.burs import as_row
from vane_line.core.judge.standard_files import as_data, parse_standard
from vane_line.core.plan.makers import mocked
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import InputError, NotFound
from vane_line.service import standards
from vane_line.service.kept_plans import Kept, Made, make, newest
from vane_line.service.requests import scan_row
from vane_line.store import blobs, cases, edits, scans
from vane_line.store.database import Database

PLAN_VERSION = 6
DEFAULTS: dict[str, Any] = {"above_gingiva_mm": 0.5, "taper_deg": 5.0, "incisal": "butt", "sequence": None,
                            "near": None, "facial": None, "path": None, "cavity": None, "holes": None}  # fmt: skip


def plan_request(db: Database, reading_id: str) -> dict[str, Any]:
    """Everything a worker needs to plan. Raises NotFound, InputError when there is no scan from before cutting."""
    reading = cases.get_reading(db, reading_id)
    site, case = cases.get_site(db, reading.site_id), cases.get_case(db, reading.case_id)
    roles = ("preop", "opposing", *(("mockup",) if site.restoration in mocked() else ()))
    found = {s.role: s for s in scans.scans_of(db, case.id, reading.attempt_id) if s.role in roles}
    if "preop" not in found:
        raise InputError("There is no scan from before the preparation yet; add it first, the plan is made on it.")
    if "opposing" in found and case.opposing_frame == "prep" and _has_prep(db, reading):
        found.pop("opposing")  # it lies in another scan's frame
    wanted = DEFAULTS | (edits.latest(db, reading_id, "plan")[1] or {})
    tooth = ToothNumber(site.tooth)
    standard = standards.find(db, site.standard_id, site.standard_version)
    sequence = standards.find_sequence(db, wanted["sequence"], tooth, site.restoration, standard.material)
    return {
        "scans": {role: scan_row(s) for role, s in found.items()},
        "options": {
            "tooth": site.tooth, "meaning": case.surface_meaning, "opening": case.opening,
            "functional_side": site.functional_side, "facts": site.facts, "near": wanted["near"],
            "facial": wanted["facial"], **({} if wanted["path"] is None else {"path": wanted["path"]}),
        },
        "above_gingiva_mm": wanted["above_gingiva_mm"],
        "taper_deg": wanted["taper_deg"],
        "incisal": wanted["incisal"],
        "cavity": wanted["cavity"],
        "holes": wanted["holes"],
        "sequence": {"id": sequence.id, "version": sequence.version},
        "sequence_steps": [vars(s) for s in sequence.steps],
        "sequence_head": {"title": sequence.title, "teeth": sequence.teeth, "reason": sequence.reason,
                          "restorations": sequence.restorations},
        "tray": [as_row(b) for b in standards.tray(db)[1]],
        "restoration": site.restoration,
        "standard": as_data(standard),
    }  # fmt: skip


def decide_request(db: Database, reading_id: str) -> dict[str, Any]:
    """The same for each material's usual standard, the surgery's own, and the one that the tooth is judged by. Raises
    NotFound, InputError."""
    request = plan_request(db, reading_id)
    tooth, kind = ToothNumber(request["options"]["tooth"]), request["restoration"]
    every = standards.serving(db, tooth, kind)
    chosen = parse_standard(request["standard"], request["standard"]["id"])
    if chosen.id not in {s.id for s in every}:
        every = [*every, chosen]
    for name in ("standard", "sequence", "sequence_steps", "sequence_head"):
        request.pop(name)
    return request | {"standards": [as_data(s) for s in every]}


def _has_prep(db: Database, reading: cases.Reading) -> bool:
    return any(s.role == "prep" for s in scans.scans_of(db, reading.case_id, reading.attempt_id))


def plan_key(request: dict[str, Any]) -> str:
    """Same scans, choices, standard, tray and sequence: same plan."""
    parts = {k: v for k, v in request.items() if k != "scans"}
    parts["scans"] = {r: [s["raw_hash"], s["unit"]] for r, s in request["scans"].items()}
    parts["plan"] = PLAN_VERSION
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()


PLAN = Kept(
    "plan", plan_request, plan_key, "There is no plan yet; make it first.",
    lambda answer: Made(answer["document"], answer["target"], answer["light"]),
)  # fmt: skip
DECISION = Kept(
    "decide", decide_request, plan_key, "The materials were not compared yet; compare them first."
)  # fmt: skip
plan_reading, decide_reading = partial(make, PLAN), partial(make, DECISION)
plan_of, decision_of = partial(newest, PLAN), partial(newest, DECISION)


def target_stl(db: Database, reading_id: str) -> bytes:
    """The target surface as binary STL. Raises NotFound."""
    stored, _ = plan_of(db, reading_id)
    if stored.target_hash is None:
        raise NotFound("This plan has no target surface: " + stored.document["why_no_target"])
    return blobs.get(db, stored.target_hash)
