"""Measure and judge; judge again; plan."""

from __future__ import annotations

import time
from dataclasses import asdict
from typing import Any

import numpy as np

from vane_line.core.case import ALGORITHM_VERSION, Geometry, complete
from vane_line.core.fields import inside_fields, onto
from vane_line.core.judge.document import document
from vane_line.core.judge.findings import report
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_files import parse_standard
from vane_line.core.mesh.light import mesh_blob, mesh_surface, mesh_vertices
from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.write import stl_bytes
from vane_line.core.plan.cavity_choice import CavityChoice
from vane_line.core.plan.decide import decide, decision_document
from vane_line.core.plan.document import plan_document
from vane_line.core.plan.makers import maker_of
from vane_line.core.plan.plan import PlanOptions
from vane_line.core.plan.planner import make_plan
from vane_line.core.plan.sequence import parse_sequence
from vane_line.work.desk import Desk, options_of, standard_of, tray_of
from vane_line.work.picture import picture
from vane_line.work.records import geometry_bytes, read_geometry
from vane_line.work.task import Progress

SHOWN = ("rest", "light")


def measure_case(desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Measure and judge. Answer: geometry (bytes), document, fields {mesh/name: bytes} of both display meshes."""
    began = time.perf_counter()
    progress("reading the scans", 0.02)
    desk.scans(payload)
    load_s = time.perf_counter() - began
    geometry = complete(desk.prepared(payload, progress), options_of(payload), progress)
    answer = _judged(desk, geometry, payload, load_s)
    answer["geometry"] = geometry_bytes(geometry)
    answer["matrices"] = {role: (a.matrix.tolist(), a.u_align_um) for role, a in geometry.alignment.items()}
    return answer


def judge_case(desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Judge a stored geometry by another standard, without measuring again. Raises StoreError for an older format."""
    progress("judging", 0.5)
    return _judged(desk, read_geometry(desk.fetch(payload["geometry_hash"])), payload, 0.0)


def _judged(desk: Desk, geometry: Geometry, payload: dict[str, Any], load_s: float) -> dict[str, Any]:
    standard = standard_of(payload)
    judgement = judge(geometry, standard, tray_of(payload))
    fields = inside_fields(geometry, judgement)
    out, meshes = {}, {}
    for name in SHOWN:  # the very meshes that the sheet shows, as they are stored
        meshes[name] = payload["scans"]["prep"][f"{name}_hash"]
        for field, values in onto(mesh_vertices(desk.fetch(meshes[name])), geometry, fields).items():
            out[f"{name}/{field}"] = values.astype("<f4").tobytes()
    result = document(geometry, judgement, load_s, payload.get("material"))
    out["picture"] = picture(mesh_surface(desk.fetch(meshes["rest"])), geometry, fields)
    return {
        "document": result, "fields": out, "meshes": meshes, "standard_hash": standard.digest,
        "algorithm_version": ALGORITHM_VERSION, "summary": asdict(report(result).answer),
    }  # fmt: skip


def decide_case(desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """One plan by each of the payload's standards. Answer: the table as the contract has it."""
    progress("reading the scans", 0.01)
    surfaces = {role: desk.surface(scan, role)[0] for role, scan in payload["scans"].items()}
    options = plan_options(payload)
    every = [parse_standard(data, data["id"]) for data in payload["standards"]]
    rows = decide(
        surfaces["preop"], surfaces.get("opposing"), options, every, tray_of(payload), progress, surfaces.get("mockup")
    )
    return decision_document(rows, options)


def plan_options(payload: dict[str, Any]) -> PlanOptions:
    """The options of a plan from plain data. Raises BadOption."""
    maker_of(payload["restoration"])  # says so where no plan is made for the kind
    return PlanOptions(
        options_of(payload), float(payload["above_gingiva_mm"]), float(payload["taper_deg"]),
        str(payload.get("incisal", "butt")), _cavity_choice(payload.get("cavity") or {}),
        tuple(np.array(place, dtype=float) for place in payload.get("holes") or ()),
    )  # fmt: skip


def _cavity_choice(given: dict[str, Any]) -> CavityChoice:
    covered, outline = given.get("covered"), given.get("outline")
    return CavityChoice(
        tuple(given.get("boxes") or ()), None if covered is None else tuple(covered),
        None if outline is None else np.array(outline, dtype=float),
    )  # fmt: skip


def plan_case(desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Plan from the scan before cutting. Answer: document, target (STL bytes), light (shown mesh), None without one."""
    progress("reading the scans", 0.02)
    surfaces = {role: desk.surface(scan, role)[0] for role, scan in payload["scans"].items()}
    standard = standard_of(payload)
    tray = tray_of(payload)
    steps = {"step": payload["sequence_steps"], **payload["sequence"], **payload["sequence_head"]}
    options = plan_options(payload)
    plan = make_plan(
        surfaces["preop"], surfaces.get("opposing"), options, standard, tray, progress, surfaces.get("mockup")
    )
    return shaped(plan_document(plan, parse_sequence(steps, "sequence"), tray), plan.target)


def shaped(document: dict[str, Any], target: Surface | None) -> dict[str, Any]:
    """A plan's answer: its document, the target as STL and as the mesh that is shown, None without one."""
    if target is None:
        return {"document": document, "target": None, "light": None}
    return {"document": document, "target": stl_bytes(target), "light": mesh_blob(target)}
