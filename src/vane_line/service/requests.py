"""All that a worker needs to know of a tooth in an attempt, and the keys under which its answers are kept."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from vane_line.core.burs import as_row
from vane_line.core.case import ALGORITHM_VERSION
from vane_line.core.judge.standard_files import as_data, parse_standard
from vane_line.core.options import HAND_KINDS
from vane_line.errors import InputError
from vane_line.service import standards
from vane_line.store import cases, edits, scans
from vane_line.store.database import Database
from vane_line.work.records import FORMAT


def request_of(db: Database, reading_id: str) -> dict[str, Any]:
    """Everything a worker needs to know of a tooth in an attempt. Raises NotFound, InputError without its scan."""
    reading = cases.get_reading(db, reading_id)
    site, case = cases.get_site(db, reading.site_id), cases.get_case(db, reading.case_id)
    found = {s.role: s for s in scans.scans_of(db, case.id, reading.attempt_id)}
    if "prep" not in found:
        raise InputError("There is no scan of the preparation yet; add it first.")
    _, axes = edits.latest(db, reading_id, "axes")
    drawn = {kind: edits.latest(db, reading_id, kind)[1] for kind in HAND_KINDS}
    return {
        "scans": {role: scan_row(s) for role, s in found.items()},
        "options": {
            "tooth": site.tooth,
            "occlusal": (axes or {}).get("occlusal"),
            "facial": (axes or {}).get("facial"),
            "near": (axes or {}).get("near"),
            **{kind: value for kind, value in drawn.items() if value is not None},
            **_pairs(db, reading_id, found),
            **_others(db, site),
            "meaning": case.surface_meaning,
            "opposing_frame": case.opposing_frame,
            **({"opening": case.opening} if case.opening else {}),
            **({"movements": case.movements} if case.movements else {}),
            **({"functional_side": site.functional_side} if site.functional_side else {}),
            **{name: True for name in cases.FLAGS if getattr(site, name)},
            **{name: getattr(site, name) for name in cases.TOLD if getattr(site, name)},
            "bur_radius_mm": standards.mill(db)[1].bur_radius_mm,
        },
        "restoration": site.restoration,
        "material": site.material,
        "standard": as_data(standards.find(db, site.standard_id, site.standard_version)),
        "tray": [as_row(b) for b in standards.tray(db)[1]],
    }


def scan_row(scan: scans.Scan) -> dict[str, str]:
    """What a worker needs to know of one scan."""
    return {
        "raw_hash": scan.raw_hash, "unit": scan.unit, "name": scan.name, "rest_hash": scan.rest_hash,
        "light_hash": scan.light_hash,
    }  # fmt: skip


def _pairs(db: Database, reading_id: str, found: dict[str, scans.Scan]) -> dict[str, Any]:
    """Places that were pointed at, as long as both scans are those that they were pointed at on."""
    _, given = edits.latest(db, reading_id, "pairs")
    kept = {
        role: {"theirs": p["theirs"], "ours": p["ours"]}
        for role, p in (given or {}).items()
        if role in found and p["on"] == [found[role].raw_hash, found["prep"].raw_hash]
    }
    return {"pairs": kept} if kept else {}


def _others(db: Database, site: cases.Site) -> dict[str, list[str]]:
    """The case's other teeth, which the same scans show."""
    teeth = [s.tooth for s in cases.sites_of(db, site.case_id) if s.id != site.id]
    return {"others": teeth} if teeth else {}


def geometry_key(request: dict[str, Any]) -> str:
    """Same scans, options and algorithm: same measurement."""
    parts = {
        "scans": {r: [s["raw_hash"], s["unit"]] for r, s in request["scans"].items()},
        "options": request["options"],
        "algorithm": ALGORITHM_VERSION,
        "format": FORMAT,
    }
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()


def judgement_key(request: dict[str, Any]) -> str:
    """Same measurement, standard, burs, material asked for and meshes to paint: same judgement."""
    standard = parse_standard(request["standard"], request["standard"]["id"])
    tray = json.dumps(request["tray"], sort_keys=True)  # corrections name its burs
    prep = request["scans"]["prep"]
    shown = (prep["rest_hash"], prep["light_hash"])
    parts = (geometry_key(request), standard.digest, tray, request["material"], *shown)
    return hashlib.sha256(":".join(parts).encode()).hexdigest()
