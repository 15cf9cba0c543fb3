"""What is looked at beside the judgement: the guessed axes, a section, the difference to another scan."""

from __future__ import annotations

from typing import Any

import numpy as np

from vane_line.core.align.fine import register
from vane_line.core.align.fit import STABLE_SHARE
from vane_line.core.aligned import starts
from vane_line.core.mesh.light import mesh_vertices
from vane_line.core.placed import HARDLY_ANY_SHARE, locate_centre
from vane_line.core.tooth.frame import make_frame
from vane_line.core.tooth.occlusal import guess_occlusal
from vane_line.core.trace.section import plane_section
from vane_line.errors import UnfitScans
from vane_line.work.desk import Desk, options_of
from vane_line.work.task import Progress

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


def section(desk: Desk, payload: dict[str, Any], _progress: Progress) -> dict[str, Any]:
    """Outlines of the scans in a plane, as plane coordinates (mm): {role: [[[x, y], ...], ...]}."""
    origin, normal = np.array(payload["origin"], float), np.array(payload["normal"], float)
    across, up = np.array(payload["across"], float), np.array(payload["up"], float)
    reach = float(payload["reach_mm"])
    out: dict[str, Any] = {}
    for role, scan in payload["scans"].items():
        surface, _ = desk.surface(scan, role)
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


def difference(desk: Desk, payload: dict[str, Any], _progress: Progress) -> bytes:
    """Float32 per vertex of a shown mesh: how far it lies under another scan of the jaw, mm; nan far from the tooth."""
    prep, _ = desk.surface(payload["scans"]["prep"], "prep")
    other, _ = desk.surface(payload["other"], "prep")
    if payload["matrix"] is None:
        occlusal = options_of(payload).occlusal
        fit = register(other, prep, guess_occlusal(prep)[0] if occlusal is None else occlusal)
        if fit.stable_share < STABLE_SHARE:
            raise UnfitScans("The two scans share too little unchanged surface to be compared.")
        matrix = fit.matrix
    else:
        matrix = np.array(payload["matrix"], dtype=float)
    vertices = mesh_vertices(desk.fetch(payload["shown"]))
    near = np.linalg.norm(vertices - np.array(payload["centre"]), axis=1) < DIFFERENCE_MM
    out = np.full(len(vertices), np.nan, dtype="<f4")
    moved = other.moved(matrix)
    signed, face, place = moved.signed_distance(vertices[near].astype(np.float64))
    out[near] = np.where(moved.at_rim(face, place), np.nan, -signed)
    return out.tobytes()
