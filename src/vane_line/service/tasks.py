"""What a worker process can do. Payloads and answers are plain data."""

from __future__ import annotations

import json
import pickle
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from vane_line.core.align.fine import register
from vane_line.core.align.fit import STABLE_SHARE
from vane_line.core.case import ALGORITHM_VERSION, Geometry, Prepared, complete, prepare
from vane_line.core.fields import inside_fields, onto
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standards import parse_standard
from vane_line.core.measure.line_by_hand import follow, redraw
from vane_line.core.measure.section import plane_section
from vane_line.core.mesh.light import MOVING_TRIANGLES, REST_TRIANGLES, lightened, mesh_blob, mesh_vertices
from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.weld import weld
from vane_line.core.mesh.write import stl_bytes
from vane_line.core.options import HandLine, Options
from vane_line.core.placed import Placed, locate_centre, place
from vane_line.core.plan.burs import parse_bur
from vane_line.core.plan.document import plan_document
from vane_line.core.plan.planner import PlanOptions, make_plan
from vane_line.core.plan.sequence import parse_sequence
from vane_line.core.predict import Stroke, cut_by
from vane_line.core.scans import Scans, remarks
from vane_line.core.survey import undercut_along
from vane_line.core.tooth.frame import make_frame
from vane_line.core.tooth.hinge import Raise
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.tooth.occlusal import guess_occlusal
from vane_line.errors import UnfitScans
from vane_line.store import blobs
from vane_line.store.database import Database
from vane_line.store.edits import HAND_KINDS

Progress = Callable[[str, float], None]
_surfaces: dict[tuple[str, str], tuple[Surface, list[str]]] = {}
_databases: dict[str, Database] = {}
_placed: dict[str, Placed] = {}
_prepared: dict[str, Prepared] = {}
_shown: dict[str, list[Surface]] = {}
KEPT_SURFACES = 8
DIFFERENCE_MM = 14.0  # of the tooth's middle, within which two scans are compared
KEPT_CASES = 2  # a warm process keeps the last cases' search trees and profiles for edits by hand


def _database(path: str) -> Database:
    if path not in _databases:
        _databases[path] = Database(Path(path))
    return _databases[path]


def _surface(db_path: str, scan: dict[str, str], role: str) -> tuple[Surface, list[str]]:
    """A scan's full surface, from the cache of this warm process or from the stored bytes."""
    key = (scan["raw_hash"], scan["unit"])
    if key not in _surfaces:
        data = blobs.get(_database(db_path), scan["raw_hash"])
        welded = weld(read_soup(data, scan["name"]), scan["unit"], scan["name"])
        _keep(_surfaces, key, (welded.surface, remarks(role, welded)), KEPT_SURFACES)
    return _surfaces[key]


def _scans(payload: dict[str, Any]) -> Scans:
    surfaces, said, names = {}, [], {}
    for role, scan in payload["scans"].items():
        surfaces[role], remark = _surface(payload["db"], scan, role)
        said += remark
        names[role] = scan["name"]
    return Scans(
        surfaces["prep"], surfaces.get("preop"), surfaces.get("mockup"), surfaces.get("opposing"), names, tuple(said)
    )


def _options(payload: dict[str, Any]) -> Options:
    given = payload["options"]

    def vector(name: str) -> Any:
        return None if given.get(name) is None else np.array(given[name], dtype=float)

    return Options(
        ToothNumber(given["tooth"]),
        occlusal=vector("occlusal"),
        facial=vector("facial"),
        near=vector("near"),
        path=vector("path"),
        earlier=given.get("meaning") or "natural",
        opposing_frame=given.get("opposing_frame", "prep"),
        functional_side=given.get("functional_side"),
        line=_hand_line(given.get("line")),
        gingiva=vector("gingiva"),
        core=vector("core"),
        bur_radius_mm=float(given.get("bur_radius_mm", 0.5)),
        opening=Raise.parse(given["opening"]) if given.get("opening") else None,
    )


def _hand_line(given: dict[str, Any] | None) -> HandLine | None:
    return None if given is None else HandLine(np.array(given["points"], float), np.array(given["drawn"], bool))


def _ready(payload: dict[str, Any], progress: Progress) -> Prepared:
    """The case up to where a hand on the finish line begins, from what this process kept of it where it can."""
    options = {k: v for k, v in payload["options"].items() if k not in HAND_KINDS}
    scans = {r: [s["raw_hash"], s["unit"]] for r, s in payload["scans"].items()}
    case = json.dumps([scans, options], sort_keys=True)
    along = json.dumps([case, payload["options"].get("path")])
    if along in _prepared:
        return _prepared[along]
    if case not in _placed:
        _keep(_placed, case, place(_scans(payload), _options(payload), progress))
    ready = prepare(_placed[case], _options(payload), progress)
    _keep(_prepared, along, ready)
    return ready


def _keep(kept: dict[Any, Any], key: Any, value: Any, most: int = KEPT_CASES) -> None:
    while len(kept) >= most:
        kept.pop(next(iter(kept)))
    kept[key] = value


def warm(payload: dict[str, Any], progress: Progress) -> bool:
    """Make ready for edits by hand."""
    complete(_ready(payload, progress), _options(payload), progress)
    return True


def redraw_line(payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The finish line with one stretch drawn anew: points and which of them were drawn, nothing stored."""
    survey = _ready(payload, progress).survey
    hand = _options(payload).line
    line = survey.found if hand is None else follow(survey.rings, hand.points, hand.drawn)
    stroke = np.array(payload["stroke"], dtype=float)
    line = redraw(line, survey.rings, stroke, payload["snap"], payload["closed"])
    return {"points": line.points.tolist(), "drawn": line.drawn.tolist()}


def try_path(payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Undercuts and least draft along a path that is only tried; nothing stored."""
    ready, hand = _ready(payload, progress), _options(payload).line
    points = ready.survey.found.points if hand is None else hand.points
    drawn = np.zeros(len(points), dtype=bool) if hand is None else hand.drawn
    found, draft = undercut_along(ready.placed, points, drawn, np.array(payload["direction"], dtype=float))
    return {
        "max_depth_mm": found.max_depth_mm,
        "area_mm2": found.area_mm2,
        "least_draft_deg": draft if np.isfinite(draft) else None,
        "sectors": [r.sector for r in found.regions],
    }


def predict_strokes(payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Document of the preparation as strokes would leave it; nothing stored, the kept case untouched."""
    ready, options = _ready(payload, progress), _options(payload)
    strokes = [Stroke(np.array(s["points"], float), s["depth_mm"], s["diameter_mm"]) for s in payload["strokes"]]
    cut = cut_by(ready.placed, strokes, options.tooth)
    geometry = complete(prepare(cut.placed, options, progress), options, progress)
    standard = parse_standard(payload["standard"], payload["standard"]["id"])
    judged = judge(geometry, standard, tuple(parse_bur(row) for row in payload["tray"]))
    result = document(geometry, judged, payload["restoration"], material=payload.get("material"))
    return {"document": result, "removed_mm3": cut.removed_mm3, "warnings": cut.warnings}


def difference(payload: dict[str, Any], _progress: Progress) -> bytes:
    """Float32 per vertex of a shown mesh: how far it lies under another scan of the jaw, mm; nan far from the tooth."""
    prep, _ = _surface(payload["db"], payload["scans"]["prep"], "prep")
    other, _ = _surface(payload["db"], payload["other"], "prep")
    if payload["matrix"] is None:
        occlusal = _options(payload).occlusal
        fit = register(other, prep, guess_occlusal(prep)[0] if occlusal is None else occlusal)
        if fit.stable_share < STABLE_SHARE:
            raise UnfitScans("The two scans share too little unchanged surface to be compared.")
        matrix = fit.matrix
    else:
        matrix = np.array(payload["matrix"], dtype=float)
    vertices = mesh_vertices(blobs.get(_database(payload["db"]), payload["shown"]))
    near = np.linalg.norm(vertices - np.array(payload["centre"]), axis=1) < DIFFERENCE_MM
    out = np.full(len(vertices), np.nan, dtype="<f4")
    moved = other.moved(matrix)
    signed, face, place = moved.signed_distance(vertices[near].astype(np.float64))
    out[near] = np.where(moved.at_rim(face, place), np.nan, -signed)
    return out.tobytes()


def measure_case(payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Measure and judge. Answer: geometry (bytes), document, fields {name: bytes} for both display meshes."""
    began = time.perf_counter()
    progress("reading the scans", 0.02)
    scans = _scans(payload)
    load_s = time.perf_counter() - began
    geometry = complete(_ready(payload, progress), _options(payload), progress)
    answer = _judged(geometry, payload, scans.prep, load_s)
    answer["geometry"] = pickle.dumps(geometry, protocol=pickle.HIGHEST_PROTOCOL)
    answer["matrices"] = {role: (a.matrix.tolist(), a.u_align_um) for role, a in geometry.alignment.items()}
    return answer


def judge_case(payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Judge a stored geometry by another standard, without measuring again."""
    progress("judging", 0.5)
    geometry: Geometry = pickle.loads(blobs.get(_database(payload["db"]), payload["geometry_hash"]))
    prep, _ = _surface(payload["db"], payload["scans"]["prep"], "prep")
    return _judged(geometry, payload, prep, 0.0)


def _judged(geometry: Geometry, payload: dict[str, Any], prep: Surface, load_s: float) -> dict[str, Any]:
    standard = parse_standard(payload["standard"], payload["standard"]["id"])
    judgement = judge(geometry, standard, tuple(parse_bur(row) for row in payload["tray"]))
    fields = inside_fields(geometry, judgement)
    shown = payload["scans"]["prep"]["raw_hash"]
    if shown not in _shown:
        rest = lightened(prep, REST_TRIANGLES)
        _keep(_shown, shown, [rest, lightened(rest, MOVING_TRIANGLES)])
    blobs_out = {}
    for name, mesh in zip(("rest", "light"), _shown[shown], strict=True):
        for field, values in onto(mesh, geometry, fields).items():
            blobs_out[f"{name}/{field}"] = values.astype("<f4").tobytes()
    result = document(geometry, judgement, payload["restoration"], load_s, payload.get("material"))
    result["zones"] = judgement.zones.names
    return {
        "document": result,
        "fields": blobs_out,
        "standard_hash": standard.digest,
        "algorithm_version": ALGORITHM_VERSION,
    }


def make_plan_of(payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Plan from the scan before cutting. Answer: document, target (STL bytes), light (shown mesh), None without one."""
    progress("reading the scans", 0.02)
    surfaces = {role: _surface(payload["db"], scan, role)[0] for role, scan in payload["scans"].items()}
    standard = parse_standard(payload["standard"], payload["standard"]["id"])
    tray = tuple(parse_bur(row) for row in payload["tray"])
    steps = {"step": payload["sequence_steps"], **payload["sequence"], **payload["sequence_head"]}
    options = PlanOptions(_options(payload), float(payload["above_gingiva_mm"]), float(payload["taper_deg"]))
    plan = make_plan(surfaces["preop"], surfaces.get("opposing"), options, standard, tray, progress)
    answer: dict[str, Any] = {
        "document": plan_document(plan, parse_sequence(steps, "sequence"), tray, payload["restoration"]),
        "target": None, "light": None,
    }  # fmt: skip
    if plan.geometry is not None:
        answer["target"] = stl_bytes(plan.geometry.inside)
        answer["light"] = mesh_blob(plan.geometry.inside)
    return answer


def guess_axes(payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Axes of the cut tooth before anything is measured, for the person to confirm."""
    scans, options = _scans(payload), _options(payload)
    progress("looking for the tooth", 0.2)
    occlusal, sure = guess_occlusal(scans.prep)
    moved = None
    if scans.preop is not None:
        fit = register(scans.preop, scans.prep, occlusal)
        if fit.stable_share > 0.25:
            moved = scans.preop.moved(fit.matrix)
    centre = locate_centre(scans.prep, moved, options.near, occlusal)
    frame = make_frame(
        moved or scans.prep, centre, options.tooth, occlusal, sure, None,
        scans.opposing if options.opposing_frame == "prep" else None,
    )  # fmt: skip
    return {
        "centre": centre.tolist(),
        "occlusal": frame.occlusal.tolist(),
        "facial": frame.facial.tolist(),
        "mesial": frame.mesial.tolist(),
        "confidence": frame.confidence,
        "sure": frame.sure,
        "warnings": list(frame.warnings),
    }


def section(payload: dict[str, Any], _progress: Progress) -> dict[str, Any]:
    """Outlines of the scans in a plane, as plane coordinates (mm): {role: [[[x, y], ...], ...]}."""
    origin, normal = np.array(payload["origin"], float), np.array(payload["normal"], float)
    across, up = np.array(payload["across"], float), np.array(payload["up"], float)
    reach = float(payload["reach_mm"])
    out: dict[str, Any] = {}
    for role, scan in payload["scans"].items():
        surface, _ = _surface(payload["db"], scan, role)
        matrix = payload["matrices"].get(role)
        if role != "prep" and matrix is None:
            continue
        # Cut in the scan's own coordinates: moving a plane is cheaper than moving a scan.
        m = np.eye(4) if matrix is None else np.array(matrix)
        own_origin = m[:3, :3].T @ (origin - m[:3, 3])
        near = np.linalg.norm(surface.vertices - own_origin, axis=1) < reach * 1.5
        part, _ = surface.keep_vertices(near)
        lines = []
        for chain in plane_section(part, own_origin, m[:3, :3].T @ normal):
            off = chain @ m[:3, :3].T + m[:3, 3] - origin
            plane = np.stack([off @ across, off @ up], axis=1)
            lines.append(np.round(plane, 3).tolist())
        out[role] = lines
    return out


TASKS: dict[str, Callable[[dict[str, Any], Progress], Any]] = {
    "measure": measure_case,
    "judge": judge_case,
    "axes": guess_axes,
    "section": section,
    "warm": warm,
    "redraw": redraw_line,
    "try-path": try_path,
    "plan": make_plan_of,
    "predict": predict_strokes,
    "difference": difference,
}
