"""Measure an attempt, keep the result, judge it again by another standard, cut sections through it."""

from __future__ import annotations

import hashlib
import json
from functools import lru_cache
from typing import Any

import numpy as np

from vane_line.core.arrays import AnyArray
from vane_line.core.case import ALGORITHM_VERSION
from vane_line.core.judge.compare import compare
from vane_line.core.judge.standards import as_data, parse_standard
from vane_line.core.mesh.light import mesh_normals
from vane_line.core.plan.burs import as_row
from vane_line.errors import InputError, NotFound
from vane_line.service import standards
from vane_line.service.worker import Progress, Task, Worker
from vane_line.store import blobs, cases, edits, jobs, results, scans
from vane_line.store.database import Database

KEPT_NORMALS = 4


def request_of(db: Database, db_path: str, attempt_id: str) -> dict[str, Any]:
    """Everything a worker needs to know of an attempt. Raises NotFound, InputError when the prep is missing."""
    attempt = cases.get_attempt(db, attempt_id)
    site = cases.get_site(db, attempt.site_id)
    case = cases.get_case(db, site.case_id)
    found = {s.role: s for s in scans.scans_of(db, case.id, attempt_id)}
    if "prep" not in found:
        raise InputError("There is no scan of the preparation yet; add it first.")
    _, axes = edits.latest(db, attempt_id, "axes")
    drawn = {kind: edits.latest(db, attempt_id, kind)[1] for kind in edits.HAND_KINDS}
    return {
        "db": db_path,
        "scans": {r: {"raw_hash": s.raw_hash, "unit": s.unit, "name": s.name} for r, s in found.items()},
        "options": {
            "tooth": site.tooth,
            "occlusal": (axes or {}).get("occlusal"),
            "facial": (axes or {}).get("facial"),
            "near": (axes or {}).get("near"),
            **{kind: value for kind, value in drawn.items() if value is not None},
            "meaning": case.surface_meaning,
            "opposing_frame": case.opposing_frame,
            **({"opening": case.opening} if case.opening else {}),
            **({"functional_side": site.functional_side} if site.functional_side else {}),
            "bur_radius_mm": standards.mill(db)[1].bur_radius_mm,
        },
        "restoration": site.restoration,
        "material": site.material,
        "standard": as_data(standards.find(db, site.standard_id, site.standard_version)),
        "tray": [as_row(b) for b in standards.tray(db)[1]],
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
    """Same measurement, standard, burs and material asked for: same judgement."""
    standard = parse_standard(request["standard"], request["standard"]["id"])
    tray = json.dumps(request["tray"], sort_keys=True)  # corrections name its burs
    parts = (geometry_key(request), standard.digest, tray, request["material"])
    return hashlib.sha256(":".join(parts).encode()).hexdigest()


def measure_attempt(
    db: Database, db_path: str, worker: Worker, attempt_id: str, progress: Progress = lambda _t, _s: None
) -> str:
    """Measure and judge, or find that it was done before; returns the judgement's key."""
    return _measured(db, worker, attempt_id, request_of(db, db_path, attempt_id), progress)


def _measured(db: Database, worker: Worker, attempt_id: str, request: dict[str, Any], progress: Progress) -> str:
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


def draw_line(
    db: Database, db_path: str, hand: Worker, attempt_id: str, stroke: list[list[float]], snap: bool, closed: bool,
    revision: int,
) -> int:  # fmt: skip
    """Put a stretch of the finish line along a hand's stroke, and judge again; returns the edit's revision.

    Raises BadOption for a stroke that cannot be read, Conflict when somebody else drew meanwhile; nothing is then kept.
    """
    request = request_of(db, db_path, attempt_id)
    value = hand.run(Task("redraw", request | {"stroke": stroke, "snap": snap, "closed": closed}))
    return edit(db, db_path, hand, attempt_id, "line", value, revision)


def edit(
    db: Database, db_path: str, hand: Worker, attempt_id: str, kind: str, value: Any, revision: int,
    returns_to: int | None = None,
) -> int:  # fmt: skip
    """Keep a hand's edit together with the judgement that follows from it, or neither."""
    request = request_of(db, db_path, attempt_id)
    options = {k: v for k, v in request["options"].items() if k != kind} | ({} if value is None else {kind: value})
    with db.atomic():
        made = edits.append(db, attempt_id, kind, value, revision, returns_to)
        if jobs.newest_done(db, attempt_id) is not None:  # before the first measurement there is nothing to judge
            judged = _measured(db, hand, attempt_id, request | {"options": options}, lambda _t, _s: None)
            jobs.add_done(db, attempt_id, judged)
    return made


def undo(db: Database, db_path: str, hand: Worker, attempt_id: str, kind: str, revision: int) -> int:
    """Go back to what was before the newest edit of a kind that is in force."""
    to, value = edits.before(db, attempt_id, kind)
    return edit(db, db_path, hand, attempt_id, kind, value, revision, to)


def draft_along(db: Database, attempt_id: str, direction: list[float], detail: str) -> bytes:
    """Draft (float32, degrees) of every vertex of a shown mesh along a path: its normal's angle over the side."""
    attempt = cases.get_attempt(db, attempt_id)
    case_id = cases.get_site(db, attempt.site_id).case_id
    prep = next((s for s in scans.scans_of(db, case_id, attempt_id) if s.role == "prep"), None)
    if prep is None:
        raise NotFound("There is no scan of the preparation yet; add it first.")
    d = np.array(direction, dtype=np.float32)
    d /= np.linalg.norm(d)
    normals = _normals(db, prep.light_hash if detail == "light" else prep.rest_hash)
    return np.degrees(np.arcsin(np.clip(normals @ d, -1, 1))).astype("<f4").tobytes()


def undercut_along(db: Database, db_path: str, hand: Worker, attempt_id: str, direction: list[float]) -> dict[str, Any]:
    """Undercuts along a path that is only tried: what a hand sees on letting the rose go, before the judgement."""
    request = request_of(db, db_path, attempt_id)
    return dict(hand.run(Task("try-path", request | {"direction": direction})))


@lru_cache(maxsize=KEPT_NORMALS)
def _normals(db: Database, digest: str) -> AnyArray:
    """(V, 3) normals of a stored display mesh; the last few stay in memory."""
    return mesh_normals(blobs.get(db, digest))


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


def changes(db: Database, db_path: str, attempt_id: str) -> tuple[int | None, list[dict[str, Any]]]:
    """Number of the measured attempt before this one, and what changed since; (None, []) where there is none.

    Raises InputError when the two were judged by different standards.
    """
    attempt = cases.get_attempt(db, attempt_id)
    now, _ = result_of(db, db_path, attempt_id)
    for earlier in sorted(cases.attempts_of(db, attempt.site_id), key=lambda a: -a.number):
        if earlier.number < attempt.number and jobs.newest_done(db, earlier.id) is not None:
            then, _ = result_of(db, db_path, earlier.id)
            try:
                return earlier.number, compare(then.document, now.document)
            except ValueError as error:
                raise InputError(f"{error}".capitalize()) from error
    return None, []


def predict(db: Database, db_path: str, hand: Worker, attempt_id: str, strokes: list[dict[str, Any]]) -> dict[str, Any]:
    """What strokes would change: rows against the present judgement, volume, warnings; nothing is stored."""
    now, _ = result_of(db, db_path, attempt_id)
    answer = hand.run(Task("predict", request_of(db, db_path, attempt_id) | {"strokes": strokes}))
    rows = compare(now.document, answer["document"])
    return {"rows": rows, "removed_mm3": answer["removed_mm3"], "warnings": answer["warnings"]}


TIMELINE = (
    "reduction", "clearance", "convergence", "wall-height", "undercut", "finish-line-width", "finish-line-step",
    "finish-line-lip", "remaining-width", "ferrule", "edge-radius", "neighbour-nick", "tooth-removed",
)  # fmt: skip


def timeline(db: Database, db_path: str, site_id: str) -> dict[str, Any]:
    """The numbers of every measured attempt of a site: one row for each criterion and bound that was ever at fault.

    Of each the worst place then. `values` run with `attempts`; None where it was not measured.
    """
    documents = []
    for attempt in cases.attempts_of(db, site_id):
        if jobs.newest_done(db, attempt.id) is not None:
            documents.append((attempt.number, result_of(db, db_path, attempt.id)[0].document))
    rows = []
    for criterion in TIMELINE:
        for bound in ("min", "max"):
            found = [
                [v for v in d["verdicts"] if v["criterion"] == criterion and v["bound"] == bound] for _, d in documents
            ]
            if not any(v["status"] in ("short", "over") for verdicts in found for v in verdicts):
                continue
            worst = [_worst(verdicts) for verdicts in found]
            known = next(w for w in worst if w is not None)
            rows.append({
                "criterion": criterion, "bound": bound, "unit": known["unit"], "limit": known["limit"],
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


def difference(db: Database, db_path: str, worker: Worker, attempt_id: str, against: str, detail: str) -> bytes:
    """How far each shown vertex lies under the last attempt's scan ('previous') or the scan before cutting ('before').

    Raises NotFound where there is nothing to compare with, UnfitScans where the scans do not fit.
    """
    request = request_of(db, db_path, attempt_id)
    document = result_of(db, db_path, attempt_id)[0].document
    attempt = cases.get_attempt(db, attempt_id)
    case_id = cases.get_site(db, attempt.site_id).case_id
    prep = next(s for s in scans.scans_of(db, case_id, attempt_id) if s.role == "prep")
    shown = prep.light_hash if detail == "light" else prep.rest_hash
    points = np.array(document["finish_line"]["points"])
    more: dict[str, Any] = {"shown": shown, "centre": points.mean(axis=0).tolist()}
    if against == "before":
        aligned = document["alignment"]["preop"]
        if aligned is None or not aligned["trusted"]:
            raise NotFound("There is no trusted scan from before cutting to compare with.")
        more |= {"other": request["scans"]["preop"], "matrix": aligned["matrix"]}
    else:
        earlier = [a for a in cases.attempts_of(db, attempt.site_id) if a.number < attempt.number]
        found = [s for a in reversed(earlier) for s in scans.scans_of(db, case_id, a.id) if s.role == "prep"]
        if not found:
            raise NotFound("There is no earlier attempt to compare with.")
        other = found[0]
        more |= {"other": {"raw_hash": other.raw_hash, "unit": other.unit, "name": other.name}, "matrix": None}
    answer: bytes = worker.run(Task("difference", request | more))
    return answer


def what_if(
    db: Database, db_path: str, worker: Worker, attempt_id: str, standard_id: str, version: int | None
) -> list[dict[str, Any]]:
    """What another standard would say of the same measurement, against what is said now; nothing is stored."""
    now, _ = result_of(db, db_path, attempt_id)
    stored = results.geometry_blob(db, now.geometry_key)
    if stored is None:
        raise NotFound("This attempt has not been measured yet; press measure.")
    request = request_of(db, db_path, attempt_id)
    other = standards.find(db, standard_id, version)
    answer = worker.run(Task("judge", request | {"geometry_hash": stored, "standard": as_data(other)}))
    return compare(now.document, answer["document"], same_standard=False)


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
