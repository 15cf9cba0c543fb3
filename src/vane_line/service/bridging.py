"""The teeth of a case as the abutments of one bridge."""

from __future__ import annotations

import hashlib
import json
from functools import partial
from typing import Any

from vane_line.core.bridge.whole import missing_between
from vane_line.core.case import ALGORITHM_VERSION
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import InputError
from vane_line.service.kept_plans import Kept, make, newest
from vane_line.service.requests import request_of
from vane_line.store import cases
from vane_line.store.database import Database

BRIDGE_VERSION = 2
ALONE = "A bridge stands on two teeth or more: add the other abutment to this case first."
TOGETHER = "No tooth is missing between these: they are crowns beside each other, not a bridge."


def bridge_request(db: Database, reading_id: str) -> dict[str, Any]:
    """Everything a worker needs to know of all the teeth of an attempt. Raises NotFound, InputError."""
    reading = cases.get_reading(db, reading_id)
    sites = cases.sites_of(db, reading.case_id)
    if len(sites) < 2:
        raise InputError(ALONE)
    pontics = missing_between([ToothNumber(s.tooth) for s in sites])
    if not pontics:
        raise InputError(TOGETHER)
    each = []
    for site in sites:
        mine = next(r for r in cases.readings_of(db, site.id) if r.attempt_id == reading.attempt_id)
        each.append(request_of(db, mine.id))
    return {"abutments": each, "pontics": [t.fdi for t in pontics]}


def bridge_key(request: dict[str, Any]) -> str:
    """Same scans, options, standard and algorithm: same bridge."""
    parts = {"bridge": BRIDGE_VERSION, "algorithm": ALGORITHM_VERSION, "pontics": request["pontics"], "abutments": [
        {k: v for k, v in one.items() if k not in ("scans", "tray")}
        | {"scans": {r: [s["raw_hash"], s["unit"]] for r, s in one["scans"].items()}}
        for one in request["abutments"]
    ]}  # fmt: skip
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()


BRIDGE = Kept(
    "bridge", bridge_request, bridge_key,
    "The teeth were not measured as a bridge yet; measure them together first.",
)  # fmt: skip
bridge_reading, bridge_of = partial(make, BRIDGE), partial(newest, BRIDGE)
