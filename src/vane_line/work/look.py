"""What is looked at beside the judgement: the guessed axes, a section, the difference to another scan."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

import numpy as np

from vane_line.core import kinds
from vane_line.core.align.fine import register
from vane_line.core.align.fit import STABLE_SHARE
from vane_line.core.aligned import starts
from vane_line.core.arrays import Floats
from vane_line.core.mesh.light import mesh_vertices
from vane_line.core.mesh.tape import tape
from vane_line.core.placed import HARDLY_ANY_SHARE
from vane_line.core.tooth.frame import make_frame
from vane_line.core.tooth.occlusal import guess_occlusal
from vane_line.core.trace.section import plane_section
from vane_line.core.trace.thickness import crossings, thicknesses
from vane_line.errors import UnfitScans
from vane_line.work.desk import Desk, options_of
from vane_line.work.task import Progress

TAPE_PAIRS = 4  # of easing: a tape lies on the tooth, not on the scan's noise
DIFFERENCE_MM = 14.0  # of the tooth's middle, within which two scans are compared


def guess_axes(desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Axes of the cut tooth before anything is measured, for the person to confirm."""
    scans, options = desk.scans(payload), options_of(payload)
    progress("looking for the tooth", 0.2)
    occlusal, sure = guess_occlusal(scans.prep)
    moved = None
    if scans.preop is not None:
        fit = register(scans.preop, scans.prep, occlusal, starts=starts(options, "preop"))
        if fit.stable_share > HARDLY_ANY_SHARE:
            moved = scans.preop.moved(fit.matrix)
    centre = kinds.of(options.restoration).reader.find(scans.prep, moved, options.near, occlusal)
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


def section(desk: Desk, payload: dict[str, Any], _progress: Progress) -> dict[str, Any]:
    """Outlines of the scans in a plane, as plane coordinates (mm), and the thickness of the cut where it is told.

    {"lines": {role: [[[x, y], ...], ...]}, "crossings": [[x, y], [x, y]] | [], "thickness": [...]}. The role "last" is
    the attempt before, where its scan is asked for and fits.
    """
    origin, normal = np.array(payload["origin"], float), np.array(payload["normal"], float)
    across, up = np.array(payload["across"], float), np.array(payload["up"], float)
    reach = float(payload["reach_mm"])
    scans = {role: scan for role, scan in payload["scans"].items() if role == "prep" or role in payload["matrices"]}
    matrices = {role: np.array(matrix, float) for role, matrix in payload["matrices"].items()}
    if payload.get("last"):
        fit = _between_attempts(desk, payload, payload["last"])
        if fit is not None:
            scans["last"], matrices["last"] = payload["last"], fit
    lines: dict[str, list[Any]] = {}
    for role, scan in scans.items():
        surface, _ = desk.surface(scan, "prep" if role == "last" else role)
        # Cut in the scan's own coordinates: moving a plane is cheaper than moving a scan.
        m = matrices.get(role, np.eye(4))
        own_origin = m[:3, :3].T @ (origin - m[:3, 3])
        near = np.linalg.norm(surface.vertices - own_origin, axis=1) < reach * 1.5
        part, _ = surface.keep_vertices(near)
        off = [
            chain @ m[:3, :3].T + m[:3, 3] - origin for chain in plane_section(part, own_origin, m[:3, :3].T @ normal)
        ]
        lines[role] = [np.stack([chain @ across, chain @ up], axis=1) for chain in off]
    ends = crossings(np.array(payload["line"], float), origin, normal, across, up)
    planned = lines.get("mockup") or lines.get("preop") or []
    return {
        "lines": {role: [np.round(chain, 3).tolist() for chain in chains] for role, chains in lines.items()},
        "crossings": ends.tolist(),
        "thickness": [asdict(t) for t in thicknesses(lines["prep"], planned, ends)],
    }


def _between_attempts(desk: Desk, payload: dict[str, Any], other: dict[str, str]) -> Floats | None:
    """(4, 4) from an earlier attempt's scan to this one's, found once and kept; None where they share too little."""
    given = options_of(payload).occlusal

    def found() -> Floats | None:
        prep, _ = desk.surface(payload["scans"]["prep"], "prep")
        earlier, _ = desk.surface(other, "prep")
        fit = register(earlier, prep, guess_occlusal(prep)[0] if given is None else given)
        return None if fit.stable_share < STABLE_SHARE else fit.matrix

    ours = payload["scans"]["prep"]
    key = [[s["raw_hash"], s["unit"]] for s in (other, ours)], None if given is None else given.tolist()
    return desk.fitted(json.dumps(key), found)


def measure_tape(desk: Desk, payload: dict[str, Any], _progress: Progress) -> dict[str, float | None]:
    """Distance between two places of the preparation's scan, straight and along its surface."""
    prep, _ = desk.surface(payload["scans"]["prep"], "prep")
    return asdict(tape(prep.smoothed(TAPE_PAIRS), np.array(payload["one"], float), np.array(payload["other"], float)))


def difference(desk: Desk, payload: dict[str, Any], _progress: Progress) -> bytes:
    """Float32 per vertex of a shown mesh: how far it lies under another scan of the jaw, mm; nan far from the tooth."""
    other, _ = desk.surface(payload["other"], "prep")
    if payload["matrix"] is None:
        matrix = _between_attempts(desk, payload, payload["other"])
        if matrix is None:
            raise UnfitScans("The two scans share too little unchanged surface to be compared.")
    else:
        matrix = np.array(payload["matrix"], dtype=float)
    vertices = mesh_vertices(desk.fetch(payload["shown"]))
    near = np.linalg.norm(vertices - np.array(payload["centre"]), axis=1) < DIFFERENCE_MM
    out = np.full(len(vertices), np.nan, dtype="<f4")
    moved = other.moved(matrix)
    signed, face, place = moved.signed_distance(vertices[near].astype(np.float64))
    out[near] = np.where(moved.at_rim(face, place), np.nan, -signed)
    return out.tobytes()
