"""Simulated cavities of random form whose every measure is known: error and stated U of each.

Depth, width, divergence of every wall, box, cusps' thickness, corners' radius, noise and grid are drawn; the scans
share one frame, so alignment is left out (`tests/core/align/test_fine.py` calibrates it by itself).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from cavities import BLUNT_MM, CUSPS, Cavity
from solids import facing

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, measure
from vane_line.core.cavity.floor import WORST_AREA_MM2, WORST_SHARE
from vane_line.core.judge.judgement import hold
from vane_line.core.judge.standard_choice import choose
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.spread import weighted_quantile
from vane_line.core.tooth.notation import ToothNumber

TOOTH = ToothNumber("37")
GRID_MM = (0.13, 0.24)
Errors = dict[str, tuple[float, float]]  # measure, where -> error and stated U


def drawn(seed: int) -> Cavity:
    """A mesio-occlusal cavity of random form."""
    random = np.random.default_rng(seed)

    def of(low: float, high: float) -> float:
        return float(random.uniform(low, high))

    names = ("facial", "lingual", "distal", "axial", "box")
    usual = of(4.0, 8.0)
    return Cavity(
        facial_mm=of(4.8, 5.4), mesial_mm=of(5.0, 5.8), floor_mm=of(3.2, 3.7), facial_wall_mm=of(1.0, 2.0),
        lingual_wall_mm=of(1.0, 2.0), distal_wall_mm=of(2.4, 3.2),
        divergence_deg={n: usual + of(-1.0, 1.0) for n in names}, usual_deg=usual, inner_mm=of(0.25, 0.5),
        box_depth_mm=of(0.9, 1.6), box_half_mm=of(1.3, 1.9), box_below_mm=of(0.9, 1.5), box_slope_deg=of(-12.0, 12.0),
        gap_mm=of(0.35, 1.2), noise_um=of(0.0, 10.0), grid_mm=of(*GRID_MM), seed=seed,
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Told:
    """A cavity, what was measured of it, and the errors with their U."""

    cavity: Cavity
    geometry: Geometry
    errors: Errors


def told(seed: int) -> Told:
    """One draw, measured along the solid's own axes as any scan is: the path is the tool's own."""
    cavity = drawn(seed)
    geometry = measure(cavity.scans(), facing(TOOTH, restoration="onlay"))
    return Told(cavity, geometry, errors_of(cavity, geometry))


def errors_of(c: Cavity, geometry: Geometry) -> Errors:
    """Found less true, with the stated U."""
    cut = geometry.cut
    assert isinstance(cut, CavityCut)
    budget = hold(geometry, choose("lithium-disilicate", "onlay", None, TOOTH))[0].budget
    out: Errors = {}

    def put(name: str, found: float | None, true: float, criterion: str) -> None:
        if found is not None:
            out[name] = (found - true, budget.of(criterion))

    if cut.floor is not None:
        at = geometry.inside.vertices[cut.parts.floor]
        over = c.roof(at[:, 0], at[:, 1]) - c.floor_mm
        area = geometry.inside.vertex_areas[cut.parts.floor]
        share = max(WORST_AREA_MM2, WORST_SHARE * area.sum()) / area.sum()
        put("cavity depth, low", cut.floor.depth_low_mm, weighted_quantile(over, area, share), "cavity-depth")
        put("cavity depth, median", cut.floor.depth_median_mm, float(np.median(over)), "cavity-depth")
    if cut.isthmus is not None:
        put("isthmus", cut.isthmus.width_mm, c.isthmus_mm(), "isthmus")
    true = {"wall/facial": "facial", "wall/lingual": "lingual", "wall/distal": "distal", "box/mesial/facial": "box",
            "box/mesial/lingual": "box", "box/mesial/distal": "axial"}  # fmt: skip
    for wall in cut.walls:
        if wall.told and wall.zone in true:
            put(f"divergence, {wall.zone}", wall.divergence_deg, c.divergence_deg[true[wall.zone]], "divergence")
    for box in cut.boxes:
        put("box depth", box.depth_mm, c.box_depth_mm + _rise(c), "box-depth")
        put("box width", box.width_mm, 2 * c.box_half_mm, "box-depth")
        put("box slope", box.slope_deg, abs(c.box_slope_deg), "box-floor")
        put("contact clearance", box.contact_clearance_mm, _clearance(c), "contact-clearance")
    put("inner radius", cut.internal_radius_mm, c.inner_mm, "internal-radius")
    for cusp in cut.cusps:
        if cusp.base_mm is not None:
            stated = "cusp-thickness-by-box" if cusp.by_box else "cusp-thickness"
            put(f"cusp base, {cusp.cusp}", cusp.base_mm, base_mm(c, cusp.cusp), stated)
        if cusp.under_tip_mm is not None:
            side = "lingual" if "lingual" in cusp.cusp else "facial"
            wall_mm = float(c.wall_at(side, np.array([c.top_mm - 1.0]))[0])
            slope = np.sqrt((1.0 / c.roof_slope + BLUNT_MM) ** 2 - BLUNT_MM**2)  # where the roof has fallen by 1 mm
            skin_mm = min(c.facial_mm, abs(CUSPS[cusp.cusp][1]) + slope)
            put(f"under tip, {cusp.cusp}", cusp.under_tip_mm, skin_mm - wall_mm, "cusp-thickness")
    return out


def _rise(c: Cavity) -> float:
    """A floor that falls moves the foot of the axial wall, which leans."""
    rise = np.tan(np.radians(c.box_slope_deg)) * c.box_depth_mm / 2
    return float(rise * c.lean("axial"))


def _clearance(c: Cavity) -> float:
    """Least distance of the box's outline to the neighbour's body, by brute force over both."""
    half = c.box_half_mm + np.linspace(0, 2.0, 60) * c.lean("box")
    low = c.floor_mm - c.box_below_mm
    edge = [np.stack([np.full(60, c.mesial_mm), s * half, low + np.linspace(0, 2.0, 60)], axis=1) for s in (1, -1)]
    across = np.linspace(-c.box_half_mm, c.box_half_mm, 60)
    edge.append(np.stack([np.full(60, c.mesial_mm), across, np.full(60, low)], axis=1))
    points = np.concatenate(edge)
    return float(c.surroundings(points, -9.0).min())


def base_mm(c: Cavity, cusp: str) -> float:
    """Least distance from the wall's foot in the cusp's sector to what looks to its side, beyond its tip."""
    side = "lingual" if "lingual" in cusp else "facial"
    tip = np.array(CUSPS[cusp])
    foot = float(c.wall_at(side, np.array([c.floor_mm]))[0])
    begins = c.mesial_mm - c.box_depth_mm - c.box_below_mm * c.lean("axial")  # of the box, at the pulpal floor
    reach = (-c.distal_wall_mm + 0.2, 0.0) if tip[0] < 0 else (0.0, begins)
    x = np.linspace(*reach, 60)
    turn = np.radians(np.linspace(0, 60, 60))  # of the rounded corner that still looks to this side
    corner = np.stack([c.mesial_mm - 1.5 + 1.5 * np.sin(turn), c.facial_mm - 1.5 + 1.5 * np.cos(turn)], axis=1)
    flat = np.stack([np.linspace(0, c.mesial_mm - 1.5, 60), np.full(60, c.facial_mm)], axis=1)
    skin = np.concatenate([corner, flat])
    skin = skin[skin[:, 1] > abs(tip[1])] * [np.sign(tip[0]), 1.0]
    wall = np.stack([x, np.full(60, foot)], axis=1)
    away: Floats = np.linalg.norm(wall[:, None] - skin[None], axis=2)
    return float(away.min())
