"""Measure an attempt, keep the result, judge it again by another standard, cut sections through it."""

from __future__ import annotations

import hashlib
import json
from typing import Any

import numpy as np

from vane_line.core.case import ALGORITHM_VERSION
from vane_line.core.judge.standards import choose
from vane_line.errors import InputError, NotFound
from vane_line.service.worker import Progress, Task, Worker
from vane_line.store import blobs, cases, edits, jobs, results, scans
from vane_line.store.database import Database


def request_of(db: Database, db_path: str, attempt_id: str) -> dict[str, Any]:
    """Everything a worker needs to know of an attempt. Raises NotFound, InputError when the prep is missing."""
    attempt = cases.get_attempt(db, attempt_id)
    site = cases.get_site(db, attempt.site_id)
    case = cases.get_case(db, site.case_id)
    found = {s.role: s for s in scans.scans_of(db, case.id, attempt_id)}
    if "prep" not in found:
        raise InputError("There is no scan of the preparation yet; add it first.")
    _, axes = edits.latest(db, attempt_id, "axes")
    _, path = edits.latest(db, attempt_id, "path")
    return {
        "db": db_path,
        "scans": {r: {"raw_hash": s.raw_hash, "unit": s.unit, "name": s.name} for r, s in found.items()},
        "options": {
            "tooth": site.tooth,
            "occlusal": (axes or {}).get("occlusal"),
            "facial": (axes or {}).get("facial"),
            "near": (axes or {}).get("near"),
            "path": path,
            "meaning": case.surface_meaning,
            "opposing_frame": case.opposing_frame,
        },
        "restoration": site.restoration,
        "material": site.material,
        "standard_id": site.standard_id,
    }


def geometry_key(request: dict[str, Any]) -> str:
    """Same scans, options and algorithm: same measurement."""
    parts = {
        "scans": {r: [s["raw_hash"], s["unit"]] for r, s in request["scans"].items()},
        "options": request["options"],
        "algorithm": ALGORITHM_VERSION,
    }
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()


def judgement_key(request: dict[str, Any]) -> str:
    """Same measurement and standard: same judgement."""
    standard = choose(request["material"], request["restoration"], request["standard_id"])
    return hashlib.sha256(f"{geometry_key(request)}:{standard.digest}".encode()).hexdigest()


def measure_attempt(
    db: Database, db_path: str, worker: Worker, attempt_id: str, progress: Progress = lambda _t, _s: None
) -> str:
    """Measure and judge, or find that it was done before; returns the judgement's key."""
    request = request_of(db, db_path, attempt_id)
    key, judged = geometry_key(request), judgement_key(request)
    if results.get_judgement(db, judged) is not None:
        return judged
    stored = results.geometry_blob(db, key)
    if stored is not None:
        answer = worker.run(Task("judge", request | {"geometry_hash": stored}), progress)
    else:
        answer = worker.run(Task("measure", request), progress)
    with db.atomic():
        if stored is None:
            results.add_geometry(db, key, answer["algorithm_version"], blobs.put(db, answer["geometry"]))
            attempt = cases.get_attempt(db, attempt_id)
            site = cases.get_site(db, attempt.site_id)
            for scan in scans.scans_of(db, site.case_id, attempt_id):
                if scan.role in answer["matrices"]:
                    matrix, u = answer["matrices"][scan.role]
                    scans.add_transform(db, scan.id, matrix, u, f"algorithm {ALGORITHM_VERSION}")
        fields = {name: blobs.put(db, data) for name, data in answer["fields"].items()}
        results.add_judgement(db, judged, key, answer["standard_hash"], answer["document"], fields)
    return judged


def result_of(db: Database, db_path: str, attempt_id: str) -> tuple[results.StoredJudgement, bool]:
    """The newest judgement of an attempt, and whether scans, axes or standard have changed since."""
    job = jobs.newest_done(db, attempt_id)
    stored = results.get_judgement(db, job.judgement_key) if job and job.judgement_key else None
    if stored is None:
        raise NotFound("This attempt has not been measured yet; press measure.")
    try:
        stale = judgement_key(request_of(db, db_path, attempt_id)) != stored.key
    except InputError:
        stale = True
    return stored, stale


def section(
    db: Database, db_path: str, worker: Worker, attempt_id: str, origin: list[float], normal: list[float],
    up: list[float], reach_mm: float,
) -> dict[str, Any]:  # fmt: skip
    """Outlines in a plane through `origin` with `normal`; `up` points up in the drawing."""
    request = request_of(db, db_path, attempt_id)
    stored, _ = result_of(db, db_path, attempt_id)
    alignment = stored.document["alignment"]
    matrices = {r: a["matrix"] for r, a in alignment.items() if a is not None and a["trusted"]}
    n = np.array(normal, float)
    if np.linalg.norm(n) < 1e-9 or np.linalg.norm(np.cross(n, up)) < 1e-9:
        raise InputError("A section needs a normal, and an upward direction that is not along it.")
    n = n / np.linalg.norm(n)
    u = np.array(up, float)
    u = u - (u @ n) * n
    u /= np.linalg.norm(u)
    across = np.cross(u, n)
    lines = worker.run(
        Task("section", request | {
            "origin": origin, "normal": n.tolist(), "up": u.tolist(), "across": across.tolist(),
            "matrices": matrices, "reach_mm": reach_mm,
        })
    )  # fmt: skip
    return {"lines": lines, "across": across.tolist(), "up": u.tolist()}
