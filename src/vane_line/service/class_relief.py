"""Where a class falls short, as a relief on the scan that was handed out: of everybody's newest measured attempt."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.grade.relief import ClassRelief, Cut, class_relief
from vane_line.core.mesh.light import mesh_normals, mesh_vertices
from vane_line.core.rigid import move
from vane_line.errors import NotFound
from vane_line.service.teaching import newest_judged
from vane_line.store import blobs, exercises, results, scans
from vane_line.store.database import Database

Shown = Literal["depth", "least", "most", "short", "over"]
KEPT = 4


@dataclass(frozen=True)
class ReliefFacts:
    """mesh: hash of the display mesh that the fields belong to. cuts: preparations that it is the median of; left_out:
    those that are measured but whose scan does not lie surely on the scan before cutting."""

    mesh: str
    cuts: int
    left_out: int


def facts_of(db: Database, exercise_id: str) -> ReliefFacts:
    """Raises NotFound where nothing is measured yet."""
    found, left_out = _relief(db, exercise_id)
    return ReliefFacts(_handed_out(db, exercise_id), found.cuts, left_out)


def field_of(db: Database, exercise_id: str, shown: Shown) -> bytes:
    """Float32 per vertex of that mesh; nan where too few tell. Raises NotFound."""
    field: Floats = getattr(_relief(db, exercise_id)[0], shown)
    return field.astype("<f4").tobytes()


def _handed_out(db: Database, exercise_id: str) -> str:
    case_id = exercises.get_exercise(db, exercise_id).case_id
    before = next((s for s in scans.scans_of(db, case_id, None) if s.role == "preop"), None)
    if before is None:
        raise NotFound("The exercise's scan from before cutting is gone.")
    return before.rest_hash


def _relief(db: Database, exercise_id: str) -> tuple[ClassRelief, int]:
    mesh = _handed_out(db, exercise_id)
    keys = tuple(k for c in exercises.handed_in(db, exercise_id) if (k := newest_judged(db, c)) is not None)
    if not keys:
        raise NotFound("Nothing that was handed in is measured yet.")
    return _made(db, mesh, keys)


@lru_cache(maxsize=KEPT)
def _made(db: Database, mesh: str, keys: tuple[str, ...]) -> tuple[ClassRelief, int]:
    """What these judgements give; the last few stay in memory, since rows are never rewritten."""
    shown = blobs.get(db, mesh)
    cuts = list(_cuts(db, keys))
    found = class_relief(mesh_vertices(shown).astype(np.float64), mesh_normals(shown).astype(np.float64), cuts)
    return found, len(keys) - len(cuts)


def _cuts(db: Database, keys: tuple[str, ...]) -> Iterator[Cut]:
    for key in keys:
        judged = results.get_judgement(db, key)
        aligned = None if judged is None else judged.document["alignment"]["preop"]
        if judged is None or aligned is None or not aligned["trusted"] or "light/depth" not in judged.fields:
            continue
        vertices = mesh_vertices(blobs.get(db, judged.meshes["light"])).astype(np.float64)
        back = np.linalg.inv(np.array(aligned["matrix"]))
        depth, least, most = (
            np.frombuffer(blobs.get(db, judged.fields[f"light/{name}"]), "<f4").astype(np.float64)
            for name in ("depth", "depth_min", "depth_max")
        )
        yield Cut(move(back, vertices), depth, least, most)
