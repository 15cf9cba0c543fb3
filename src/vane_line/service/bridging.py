"""The teeth of a case as the abutments of one bridge."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from functools import partial
from typing import Any

from vane_line.core.bridge.whole import missing_between
from vane_line.core.case import ALGORITHM_VERSION
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import InputError, NotFound
from vane_line.service.kept_plans import Kept, Made, make, newest
from vane_line.service.planning import DEFAULTS, plan_key, plan_request
from vane_line.service.requests import request_of
from vane_line.store import blobs, cases, edits
from vane_line.store.database import Database

BRIDGE_VERSION, BRIDGE_PLAN_VERSION = 3, 3
ALONE = "A bridge stands on two teeth or more: add the other abutment to this case first."
TOGETHER = "No tooth is missing between these: they are crowns beside each other, not a bridge."


def bridge_request(db: Database, reading_id: str) -> dict[str, Any]:
    """Everything a worker needs to know of all the teeth of an attempt. Raises NotFound, InputError."""
    return _of_all(db, reading_id, request_of)


def bridge_plan_request(db: Database, reading_id: str) -> dict[str, Any]:
    """The same for a plan before cutting: every tooth as it would be planned by itself. Raises NotFound, InputError."""
    request = _of_all(db, reading_id, plan_request)
    unknown = [one["options"]["tooth"] for one in request["abutments"] if one["options"]["near"] is None]
    if unknown:
        raise InputError(f"Show where {unknown[0]} is first: open its own plan and press on the tooth.")
    return request


def choose_path(db: Database, reading_id: str, path: list[float] | None, revision: int, actor: str) -> int:
    """The path that all abutments' plans follow, in the earlier scan's coordinates; None: the one along which the least
    tooth goes. Gives the new revision of this reading's plan. Raises NotFound, and Conflict where the plan of this
    reading has been edited since `revision`."""
    reading = cases.get_reading(db, reading_id)
    with db.atomic():
        edits.check(db, reading_id, "plan", revision)
        for abutment in cases.readings_in(db, reading.attempt_id):
            seen, chosen = edits.latest(db, abutment.id, "plan")
            edits.append(db, abutment.id, "plan", DEFAULTS | (chosen or {}) | {"path": path}, seen, actor=actor)
    return revision + 1


def _of_all(db: Database, reading_id: str, of: Callable[[Database, str], dict[str, Any]]) -> dict[str, Any]:
    """What is asked of each tooth of a reading's attempt, and the teeth that are missing between them."""
    reading = cases.get_reading(db, reading_id)
    sites = cases.sites_of(db, reading.case_id)
    if len(sites) < 2:
        raise InputError(ALONE)
    pontics = missing_between([ToothNumber(s.tooth) for s in sites])
    if not pontics:
        raise InputError(TOGETHER)
    mine = {r.site_id: r.id for r in cases.readings_in(db, reading.attempt_id)}
    each = [of(db, mine[site.id]) for site in sites]
    return {"abutments": each, "pontics": [t.fdi for t in pontics]}


def bridge_key(request: dict[str, Any]) -> str:
    """Same scans, options, standard and algorithm: same bridge."""
    parts = {"bridge": BRIDGE_VERSION, "algorithm": ALGORITHM_VERSION, "pontics": request["pontics"], "abutments": [
        {k: v for k, v in one.items() if k not in ("scans", "tray")}
        | {"scans": {r: [s["raw_hash"], s["unit"]] for r, s in one["scans"].items()}}
        for one in request["abutments"]
    ]}  # fmt: skip
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()


def bridge_plan_key(request: dict[str, Any]) -> str:
    """Same scans, choices, standard and tray: same plan."""
    keys = [plan_key(one) for one in request["abutments"]]
    parts = {"bridge-plan": BRIDGE_PLAN_VERSION, "pontics": request["pontics"], "abutments": keys}
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()


BRIDGE_PLAN = Kept(
    "bridge-plan", bridge_plan_request, bridge_plan_key, "The bridge was not planned yet; plan it first.",
    lambda answer: Made(answer["document"], answer["target"], answer["light"]),
)  # fmt: skip
BRIDGE = Kept(
    "bridge", bridge_request, bridge_key,
    "The teeth were not measured as a bridge yet; measure them together first.",
)  # fmt: skip
bridge_reading, bridge_of = partial(make, BRIDGE), partial(newest, BRIDGE)
bridge_plan_reading, bridge_plan_of = partial(make, BRIDGE_PLAN), partial(newest, BRIDGE_PLAN)


def bridge_target_stl(db: Database, reading_id: str) -> bytes:
    """All abutments' target surfaces in one binary STL. Raises NotFound."""
    stored, _ = bridge_plan_of(db, reading_id)
    if stored.target_hash is None:
        raise NotFound("This plan has no target surface for every abutment; the plan says why.")
    return blobs.get(db, stored.target_hash)
