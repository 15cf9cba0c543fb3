"""Simulated preparations for a child's crown, of random form, whose every measure is known: error and stated U of each.

Bulge, slices, ledge, taper, noise, grid and side of the mouth are drawn.
"""

from __future__ import annotations

import numpy as np
from children import CONTOUR_MM, NECK_MM, MilkTooth
from solids import facing

from vane_line.core.case import Geometry, measure
from vane_line.core.child.round import side_depths
from vane_line.core.judge.judgement import hold, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.tooth.notation import ToothNumber

TOOTH = ToothNumber("75")
GRID_MM = (0.13, 0.22)
Errors = dict[str, tuple[float, float]]  # measure, where -> error and stated U


def drawn(seed: int) -> MilkTooth:
    """For metal (slices alone) or zirconia (all round)."""
    random = np.random.default_rng(seed)

    def of(low: float, high: float) -> float:
        return float(random.uniform(low, high))

    round_mm = of(0.9, 1.4) if random.random() < 0.4 else 0.0
    return MilkTooth(
        facial_mm=of(4.0, 4.7), mesial_mm=of(4.2, 4.8), top_mm=of(5.2, 6.2), occlusal_mm=of(0.9, 1.7),
        bulge_mm=of(0.05, 1.1), round_mm=round_mm, taper_deg=of(1.0, 4.0),
        slice_mm=of(0.1, 0.3) + round_mm if round_mm else of(0.7, 1.2), slice_deg=of(1.0, 5.0),
        shelf_mm=of(0.2, 0.5) if not round_mm and random.random() < 0.5 else 0.0, gap_mm=of(0.6, 1.2),
        gingiva_mm=of(0.2, 0.5), noise_um=of(0.0, 10.0), grid_mm=of(*GRID_MM), seed=seed,
        before_mm=0.17, beside_mm=7.0,
    )  # fmt: skip


def errors_of(tooth: MilkTooth) -> tuple[Geometry, Errors]:
    """Measured as any scan is; found less true, with the stated U."""
    material = "preformed-zirconia" if tooth.round_mm else "preformed-metal"
    geometry = measure(tooth.scans(), facing(TOOTH, restoration="child-crown"))
    held, _ = hold(geometry, choose(material, "child-crown", None, TOOTH))
    budget, neck, out = held.budget, geometry.child.neck, dict[str, tuple[float, float]]()
    stated = {(v.criterion, v.zone): v.U or 0.0 for v in judge(geometry, held.standard).verdicts}
    if not tooth.round_mm:
        # The gingiva of the scan of the preparation stands 0.1 lower: down to there the bulge is seen.
        seen = tooth.gingiva_mm - 0.1
        bulge = tooth.bulge_mm * ((CONTOUR_MM - seen) / (CONTOUR_MM - NECK_MM)) ** 2
        for side, value in neck.undercut_mm.items():
            out[f"cervical-undercut, {side}"] = (value - bulge, budget.of("cervical-undercut"))
    else:
        for zone, value in neck.taper_deg.items():
            if zone == "faciolingual":
                error = value - 2 * float(tooth.taper_deg)
                out[f"cervical-taper, {zone}"] = (error, stated["cervical-taper", zone])
    ledge = next(u for (criterion, _), u in stated.items() if criterion == "ledge")
    out["ledge" if tooth.shelf_mm else "ledge, none"] = (neck.ledge_mm - tooth.ledge_mm, ledge)
    assert held.removed is not None
    found = side_depths(geometry.inside, held.removed.smooth, held.removed.unseen, geometry.axes)
    for side in {"mesial", "distal"} & set(found):
        out[f"side depth, {side}"] = (found[side].depth_mm - side_true(tooth), budget.reduction())
    return geometry, out


def side_true(tooth: MilkTooth) -> float:
    """Greatest depth of a slice under the tooth before, in the middle of its side: along its own normal, by search."""
    z = np.linspace(NECK_MM, tooth.top_mm - tooth.occlusal_mm - 0.6, 400)
    x = tooth.mesial_mm - tooth.slice_mm - (z - CONTOUR_MM) * np.tan(np.radians(tooth.slice_deg))
    level = np.linspace(NECK_MM, tooth.top_mm, 1500)
    outer = tooth.mesial_mm - tooth.swell(level)
    apart = np.hypot(x[:, None] - outer[None], z[:, None] - level[None])
    return float(apart.min(axis=1).max())
