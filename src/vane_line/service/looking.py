"""What is looked at beside the judgement: the guessed axes, draft along a path, a section, the difference to a scan."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from vane_line.core.arrays import AnyArray
from vane_line.core.child.shell import crown_body
from vane_line.core.child.sizes import sets
from vane_line.core.mesh.light import mesh_blob, mesh_normals
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import InputError, NotFound
from vane_line.service.measuring import result_of
from vane_line.service.requests import request_of, scan_row
from vane_line.service.surgery import Surgery
from vane_line.store import blobs, cases, scans
from vane_line.store.database import Database
from vane_line.work.task import Task

KEPT_NORMALS = 4


def guess_axes(surgery: Surgery, reading_id: str) -> dict[str, Any]:
    """Where the cut tooth is and how it stands, as a guess to confirm."""
    return dict(surgery.live.run(Task("axes", request_of(surgery.db, reading_id))))


def draft_along(db: Database, reading_id: str, direction: list[float], detail: str) -> bytes:
    """Draft (float32, degrees) of every vertex of a shown mesh along a path: its normal's angle over the side."""
    prep = _prep(db, reading_id)
    d = np.array(direction, dtype=np.float32)
    d /= np.linalg.norm(d)
    normals = _normals(db, prep.light_hash if detail == "light" else prep.rest_hash)
    return np.degrees(np.arcsin(np.clip(normals @ d, -1, 1))).astype("<f4").tobytes()


def _prep(db: Database, reading_id: str) -> scans.Scan:
    reading = cases.get_reading(db, reading_id)
    prep = next((s for s in scans.scans_of(db, reading.case_id, reading.attempt_id) if s.role == "prep"), None)
    if prep is None:
        raise NotFound("There is no scan of the preparation yet; add it first.")
    return prep


@lru_cache(maxsize=KEPT_NORMALS)
def _normals(db: Database, digest: str) -> AnyArray:
    """(V, 3) normals of a stored display mesh; the last few stay in memory."""
    return mesh_normals(blobs.get(db, digest))


def laid_crown(db: Database, reading_id: str, size: str) -> bytes:
    """One size of the set as it was laid over a child's tooth, a display mesh in the preparation's coordinates.

    Raises NotFound where this tooth has no such size.
    """
    document = result_of(db, reading_id)[0].document
    row = next((f for f in (document["child"] or {}).get("fits", []) if f["size"] == size), None)
    if row is None:
        raise NotFound("No crown of that size was laid over this tooth.")
    if "seat" not in row:
        raise NotFound("An earlier version measured this tooth and kept no crown's place; measure again.")
    crowns = sets()[document["material"]].sizes(ToothNumber(document["tooth"]))
    body = crown_body(next(s for s in crowns if s.name == size))
    return mesh_blob(body.moved(np.array(row["seat"])))


def difference(surgery: Surgery, reading_id: str, against: str, detail: str) -> bytes:
    """How far each shown vertex lies under the last attempt's scan ('previous') or the scan before cutting ('before').

    Raises NotFound where there is nothing to compare with, UnfitScans where the scans do not fit.
    """
    db = surgery.db
    request = request_of(db, reading_id)
    document = result_of(db, reading_id)[0].document
    prep = _prep(db, reading_id)
    shown = prep.light_hash if detail == "light" else prep.rest_hash
    points = np.array(document["finish_line"]["points"])
    more: dict[str, Any] = {"shown": shown, "centre": points.mean(axis=0).tolist()}
    if against == "before":
        aligned = document["alignment"]["preop"]
        if aligned is None or not aligned["trusted"]:
            raise NotFound("There is no trusted scan from before cutting to compare with.")
        more |= {"other": request["scans"]["preop"], "matrix": aligned["matrix"]}
    else:
        found = _last_scan(db, reading_id)
        if found is None:
            raise NotFound("There is no earlier attempt to compare with.")
        more |= {"other": found, "matrix": None}
    answer: bytes = surgery.live.run(Task("difference", request | more))
    return answer


def _last_scan(db: Database, reading_id: str) -> dict[str, Any] | None:
    """The preparation's scan of the newest attempt before this one, as a worker reads it; None where there is none."""
    attempt = cases.get_attempt(db, cases.get_reading(db, reading_id).attempt_id)
    earlier = [a for a in cases.attempts_of(db, attempt.case_id) if a.number < attempt.number]
    found = [s for a in reversed(earlier) for s in scans.scans_of(db, attempt.case_id, a.id) if s.role == "prep"]
    return scan_row(found[0]) if found else None


@dataclass(frozen=True)
class Plane:
    """A plane through `origin` with `normal`; `up` points up in the drawing."""

    origin: list[float]
    normal: list[float]
    up: list[float]


def section(
    surgery: Surgery, reading_id: str, plane: Plane, reach_mm: float, with_last: bool = False
) -> dict[str, Any]:
    """Outlines in a plane, and the thickness of the cut where it is told; the last attempt's where it is asked for."""
    request = request_of(surgery.db, reading_id)
    document = result_of(surgery.db, reading_id)[0].document
    matrices = {r: a["matrix"] for r, a in document["alignment"].items() if a is not None and a["trusted"]}
    n = np.array(plane.normal, float)
    if np.linalg.norm(n) < 1e-9 or np.linalg.norm(np.cross(n, plane.up)) < 1e-9:
        raise InputError("A section needs a normal, and an upward direction that is not along it.")
    n = n / np.linalg.norm(n)
    u = np.array(plane.up, float)
    u = u - (u @ n) * n
    u /= np.linalg.norm(u)
    across = np.cross(u, n)
    more = {
        "origin": plane.origin, "normal": n.tolist(), "up": u.tolist(), "across": across.tolist(),
        "matrices": matrices, "reach_mm": reach_mm, "line": document["finish_line"]["points"],
        "last": _last_scan(surgery.db, reading_id) if with_last else None,
    }  # fmt: skip
    found: dict[str, Any] = surgery.live.run(Task("section", request | more))
    return found | {"across": across.tolist(), "up": u.tolist()}


def tape(surgery: Surgery, reading_id: str, one: list[float], other: list[float]) -> dict[str, Any]:
    """Distance between two places of the preparation, straight and along its surface."""
    more = {"one": one, "other": other}
    return dict(surgery.live.run(Task("tape", request_of(surgery.db, reading_id) | more)))
