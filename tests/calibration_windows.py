"""Simulated veneer preparations of random form whose every measure is known: error and stated U of each.

Depths, ends, incisal form, noise, grid, gap and side of the mouth are drawn; the scans share one frame, so alignment is
left out (`tests/core/align/test_fine.py` calibrates it by itself).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from solids import facing
from windows import Window

from vane_line.core.case import Geometry, measure
from vane_line.core.judge.criteria.veneer import ending_u
from vane_line.core.judge.criteria.window_line import told_widths
from vane_line.core.judge.judgement import hold
from vane_line.core.judge.standard_choice import choose
from vane_line.core.kinds.window import WindowCut
from vane_line.core.tooth.notation import ToothNumber

TOOTH = ToothNumber("11")
GRID_MM = (0.13, 0.22)
Errors = dict[str, tuple[float, float]]  # measure, where -> error and stated U


def drawn(seed: int) -> Window:
    """A window of random form: butt, wrap, or ending on the face."""
    random = np.random.default_rng(seed)

    def of(low: float, high: float) -> float:
        return float(random.uniform(low, high))

    form = random.choice(["butt", "wrap", "window"], p=[0.5, 0.3, 0.2])
    depth, side = of(0.3, 0.8), of(0.25, 0.6)
    return Window(
        facial_mm=of(3.0, 3.5), mesial_mm=of(3.6, 4.5), back_slope=of(0.28, 0.36), depth_mm=depth, side_mm=side,
        distal_side_mm=of(0.9, 1.2) if random.random() < 0.3 else None,
        mesial_end_mm=of(-1.0, 1.4), distal_end_mm=of(-1.0, 1.4), neck_mm=of(1.8, 2.6),
        incisal_mm=0.0 if form == "window" else of(0.8, 2.2), facet_deg=of(75, 105) if form == "butt" else 90.0,
        wrap_mm=of(0.7, 1.4) if form == "wrap" else 0.0, back_mm=of(0.4, 0.7), below_edge_mm=of(1.2, 2.5),
        inner_mm=0.8 * min(depth, side), gap_mm=of(0.3, 1.0), noise_um=of(0.0, 10.0), grid_mm=of(*GRID_MM), seed=seed,
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Told:
    """A window, what was measured of it, and the errors with their U."""

    window: Window
    geometry: Geometry
    errors: Errors


def told(seed: int) -> Told:
    """One draw, measured along the solid's own axes as any scan is: the path is the tool's own."""
    window = drawn(seed)
    geometry = measure(window.scans(), facing(TOOTH, restoration="veneer"))
    return Told(window, geometry, errors_of(window, geometry))


def errors_of(w: Window, geometry: Geometry) -> Errors:
    """Found less true, with the stated U."""
    cut = geometry.cut
    assert isinstance(cut, WindowCut)
    held, _ = hold(geometry, choose("lithium-disilicate", "veneer", None, TOOTH))
    budget, out = held.budget, dict[str, tuple[float, float]]()

    def put(name: str, found: float | None, true: float, u: float) -> None:
        if found is not None:
            out[name] = (found - true, u)

    assert held.space is not None
    for zone in held.space.zones:
        if zone.zone.startswith("facial/") and zone.median_mm is not None:
            put(f"reduction, {zone.zone}", zone.median_mm, w.depth_mm, budget.reduction())
    widths, distal = told_widths(cut), w.side_mm if w.distal_side_mm is None else w.distal_side_mm
    # Where the side's line comes near the rounded corner of the face its own depth is nowhere reached.
    corner = w.facial_mm - w.depth_mm - ROUND_MM - w.inner_mm
    for side, here, true, flat in (
        ("facial", cut.where.neck, w.depth_mm, True),
        ("mesial", cut.where.mesial, w.side_mm, w.mesial_end_mm < corner),
        ("distal", cut.where.distal, distal, w.distal_end_mm < corner),
    ):
        if flat and np.isfinite(widths[here]).sum() > 5:
            put(f"ledge, {side}", float(np.nanmedian(widths[here])), true, budget.of("ledge-width"))
    for scoop in cut.scoops:
        if scoop.side == "distal" and w.distal_side_mm is not None:
            put("scoop", scoop.width_mm, distal, budget.of("scoop"))
    if cut.incisal is not None and w.incisal_mm > 0:
        put("incisal reduction", cut.incisal.reduction_mm, _reduction(w), budget.of("incisal-reduction"))
        put("butt", cut.incisal.angle_deg, w.facet_deg, budget.of("incisal-form"))
        put("wrap, length", cut.incisal.wrap_length_mm, w.wrap_mm, budget.of("wrap"))
        put("wrap, depth", cut.incisal.wrap_depth_mm, w.back_mm, budget.of("wrap"))
    for found, end in zip(cut.endings, (w.mesial_end_mm, w.distal_end_mm), strict=True):
        put(f"ending, {found.side}", found.past_contact_mm, CONTACT_Y - end, ending_u(held, found))
    return out


ROUND_MM = 0.8  # of the cut body's corners
CONTACT_Y = -0.35  # of the neighbours' nearest place to a flat side


def _reduction(w: Window) -> float:
    """Under the middle of the planned edge, which is level."""
    fall = np.tan(np.radians(w.facet_deg - 90))
    middle, edge = ((w.facial_mm + float(w.back(np.array([z]))[0])) / 2 for z in (w.facet_level, w.top_mm))
    return float(w.incisal_mm - (edge - middle) * fall)
