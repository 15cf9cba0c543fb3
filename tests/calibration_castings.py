"""Simulated castings' preparations of random form, whose every measure is known: error and stated U of each."""

from __future__ import annotations

import numpy as np
from castings import Pinned, Rod, Slot, ThreeQuarter, slots
from solids import Stump, facing

from vane_line.core.case import Geometry, measure
from vane_line.core.channels.channel import HOLE
from vane_line.core.judge.judgement import hold
from vane_line.core.judge.standard_choice import choose
from vane_line.core.tooth.notation import ToothNumber

GRID_MM = (0.12, 0.22)
Errors = dict[str, tuple[float, float]]  # measure -> error and stated U


def grooved(seed: int) -> tuple[Stump, tuple[Slot, Slot], str]:
    """A full crown's stump or a partial crown's preparation with a groove on each side, and its kind."""
    random = np.random.default_rng(seed)

    def of(low: float, high: float) -> float:
        return float(random.uniform(low, high))

    partial = random.random() < 0.5
    mesial, width, taper, line = of(4.4, 5.4), of(0.5, 1.1), of(4.0, 10.0), of(1.3, 1.8)
    both = tuple(
        Slot(side, depth_mm=of(0.6, 1.2), wide_mm=of(0.8, 1.2), end_mm=line + of(0.5, 1.0), top_mm=5.5,
             out_deg=of(-1.0, 5.0), along_deg=of(-4.0, 4.0), taper_deg=of(0.0, 2.5), half_mm=mesial, width_mm=width,
             line_mm=line, wall_deg=taper)
        for side in ("mesial", "distal")
    )  # fmt: skip
    made = (ThreeQuarter if partial else Stump)(
        facial_mm=of(4.4, 5.4), mesial_mm=mesial, top_mm=7.0, occlusal_mm=1.5, line_mm=line, width_mm=width,
        taper_deg=taper, gap_mm=of(0.8, 1.4), noise_um=of(0.0, 10.0), grid_mm=of(*GRID_MM), seed=seed,
        extra=slots(*both), before_mm=0.17, beside_mm=7.0,
    )  # fmt: skip
    return made, (both[0], both[1]), "partial-crown" if partial else "full-crown"


def groove_errors(seed: int) -> tuple[Geometry, Errors]:
    """Measured as any scan is, along its walls' own axis; found less true, with the stated U."""
    made, both, kind = grooved(seed)
    tooth = ToothNumber("36")
    geometry = measure(made.scans(), facing(tooth, restoration=kind, path=np.array([0.0, 0, 1])))
    held, _ = hold(geometry, choose("full-metal", kind, None, tooth))
    found = {c.side: c for c in geometry.cut.channels}
    out: Errors = {}
    for slot in both:
        got = found[slot.side]
        assert got.depth_mm is not None and got.above_line_mm is not None  # noqa: PT018
        out[f"groove-depth, {slot.side}"] = (got.depth_mm - slot.depth_mm, held.budget.of("groove-depth"))
        out[f"groove-length, {slot.side}"] = (
            got.length_mm - (slot.top_mm - slot.end_mm), held.budget.of("groove-length"))  # fmt: skip
        out[f"groove-parallel, {slot.side}"] = (got.to_path_deg - slot.tilt_deg, held.budget.of("groove-parallel"))
        out[f"groove-end, {slot.side}"] = (
            got.above_line_mm - (slot.end_mm - slot.line_mm), held.budget.of("groove-end"))  # fmt: skip
        out[f"groove width, {slot.side}"] = (got.diameter_mm - slot.wide_mm, held.budget.of("groove-depth"))
    return geometry, out


def flared(seed: int) -> tuple[ThreeQuarter, tuple[Slot, Slot]]:
    """A partial crown's preparation whose grooves stand just before what flares out to the standing face."""
    random = np.random.default_rng(seed)

    def of(low: float, high: float) -> float:
        return float(random.uniform(low, high))

    step, width, taper = of(1.2, 2.2), of(0.5, 1.1), of(4.0, 10.0)
    both = tuple(
        Slot(side, depth_mm=of(0.9, 1.2), end_mm=1.6 + of(0.5, 1.0), width_mm=width, wall_deg=taper,
             facially_mm=step - of(0.5, 1.5), wide_mm=of(0.9, 1.1))
        for side in ("mesial", "distal")
    )  # fmt: skip
    made = ThreeQuarter(
        width_mm=width, taper_deg=taper, noise_um=of(0.0, 10.0), grid_mm=of(*GRID_MM), seed=seed,
        before_mm=0.17, beside_mm=7.0,
        extra=slots(*both), step_mm=step, flare_deg=of(0.0, 55.0),
    )  # fmt: skip
    return made, (both[0], both[1])


def depth_beside(slot: Slot, facial_mm: float) -> float:
    """Of a groove beside an end wall's middle: of its round bottom under the ellipse that the wall is there."""
    wall = slot.half_mm - slot.width_mm - (slot.middle_mm - slot.line_mm) * np.tan(np.radians(slot.wall_deg))
    long = facial_mm - (slot.half_mm - wall)  # the wall's other half axis
    there = np.sqrt(1 - (slot.facially_mm / long) ** 2)
    lean = np.arctan(wall * slot.facially_mm / (long**2 * there))
    round_mm = slot.wide_mm / 2
    return float((wall * there - wall + slot.depth_mm - round_mm) * np.cos(lean) + round_mm)


def flared_errors(seed: int) -> Errors:
    """Found less true, with the stated U, of depths beside the standing face."""
    made, both = flared(seed)
    tooth = ToothNumber("36")
    geometry = measure(made.scans(), facing(tooth, restoration="partial-crown"))
    held, _ = hold(geometry, choose("full-metal", "partial-crown", None, tooth))
    found = {c.side: c for c in geometry.cut.channels}
    out: Errors = {}
    for slot in both:
        got = found.get(slot.side)
        if got is None:
            out[f"none found, {slot.side}"] = (9.0, 0.0)
            continue
        u = held.budget.of("groove-depth-one-side" if got.from_one_side else "groove-depth")
        assert got.depth_mm is not None
        out[f"groove-depth, {slot.side}"] = (got.depth_mm - depth_beside(slot, made.facial_mm), u)
        out[f"groove-parallel, {slot.side}"] = (got.to_path_deg, held.budget.of("groove-parallel"))
    return out


def pinned(seed: int) -> Pinned:
    """Two upright or leaning rods in a shelf, as holes or as pins."""
    random = np.random.default_rng(seed)

    def of(low: float, high: float) -> float:
        return float(random.uniform(low, high))

    rods = tuple(Rod(sign * of(1.3, 2.3), of(-4, 4), of(-4, 4)) for sign in (1, -1))
    return Pinned(
        facial_mm=of(3.1, 3.8), mesial_mm=of(3.8, 4.6), shelf_mm=of(4.4, 5.6), shelf_wide_mm=of(0.8, 1.1),
        back_cut_mm=of(0.45, 0.8), rods=rods, wide_mm=of(0.58, 0.72), deep_mm=of(1.5, 2.8),
        out_mm=of(2.5, 5.0) if random.random() < 0.5 else 0.0, noise_um=of(0.0, 10.0), grid_mm=of(0.11, 0.17),
        seed=seed,
    )  # fmt: skip


def pin_errors(seed: int) -> tuple[Geometry, Errors]:
    """As of grooves."""
    made, tooth = pinned(seed), ToothNumber("11")
    options = facing(tooth, restoration="pin-casting", path=np.array([0.0, 0, 1]), guide_pins=made.out_mm > 0)
    geometry = measure(made.scans(), options)
    held, _ = hold(geometry, choose("full-metal", "pin-casting", None, tooth))
    budget, out = held.budget, dict[str, tuple[float, float]]()
    for rod in made.rods:
        side = "mesial" if rod.mesial_mm > 0 else "distal"
        got = next(c for c in geometry.cut.channels if c.side == side)
        tilt = float(np.degrees(np.arccos(rod.direction[2])))
        hole = got.kind == HOLE
        out[f"{'pin-parallel' if hole else 'guide-pin'}, {side}"] = (
            got.to_path_deg - tilt, budget.of("pin-parallel" if hole else "guide-pin"))  # fmt: skip
        out[f"pin width, {side}"] = (got.diameter_mm - made.wide_mm, budget.of("pin-depth"))
        if hole:
            assert got.depth_mm is not None
            out[f"pin-depth, {side}"] = (got.depth_mm - made.deep_mm, budget.of("pin-depth"))
        assert got.floor is not None
        if got.floor.width_mm is not None:
            out[f"pin-ledge, {side}"] = (got.floor.width_mm - made.shelf_wide_mm, budget.of("pin-ledge"))
        if got.floor.slope_deg is not None:
            out[f"ledge-slope, {side}"] = (got.floor.slope_deg, budget.of("ledge-slope"))
    left = geometry.cut.budget  # type: ignore[union-attr]
    assert left is not None
    out["tooth-left"] = (left.left_mm - made.left_mm, budget.of("tooth-left"))
    out["tooth-left, before"] = (left.thickness_mm - made.thick_mm, budget.of("tooth-left"))
    return geometry, out
