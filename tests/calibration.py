"""Simulated preparations of random form whose every measure is known: error and stated U of each.

A preparation is an elliptical frustum with its own size, ledge, fillet and noise; taper and width vary round it and the
ledge rises between the teeth, as a hand's do; slow waves stand for a scanner's correlated error. One half of each draw
is flawless, the other carries undercuts, steps, rims and scallops of random size. The scans are laid into one
frame, so alignment is left out; `tests/core/align/test_fine.py` calibrates it by itself.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree
from solids import Stump, facing, plate

from vane_line.core.align.crowns import Crowns
from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, complete, prepare
from vane_line.core.judge.criteria.window_line import EASED_SHARE
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.uncertainty import Budget, u_scan_mm
from vane_line.core.measure.line_form import COURSE_MM, SPACING_MM
from vane_line.core.measure.reduction import WORST_AREA_MM2, WORST_SHARE
from vane_line.core.measure.retention import SIDE_HALF_DEG
from vane_line.core.mesh.quality import noise_um
from vane_line.core.mesh.surface import Surface, merge
from vane_line.core.options import Options
from vane_line.core.placed import TAUBIN_STEPS, Alignment, Placed
from vane_line.core.rings import degrees_apart
from vane_line.core.scans import Scans
from vane_line.core.spread import weighted_quantile
from vane_line.core.tooth.frame import make_frame
from vane_line.core.tooth.notation import ToothNumber

DEGREES = np.arange(0, 360, 1.0)
SIDES = {"facial": 0.0, "mesial": 90.0, "lingual": 180.0, "distal": 270.0}
UP, FACIAL = np.array([0.0, 0, 1]), np.array([0.0, 1, 0])
GRID_MM = (0.13, 0.28)  # of scanners' exports, from fine to coarse
WAVE_UM, WAVE_MM = 4.0, 5.0  # of the scanner's slow error: a few micrometres over a tooth's width
CLEARANCE_MM = 1.2
BITE_SLIP_MM = 0.025  # of a repeated bite record, standard deviation
FERRULE_MM = 1.9
WALL_MM = 6.4
HAND_SLIP_MM = 0.06  # of a border drawn by hand, root mean square
Errors = dict[str, tuple[float, float]]  # measure, where -> error and stated U
Ring = Callable[[Floats], Floats]


@dataclass(frozen=True, eq=False)
class Drawn:
    """A stump and the functions of azimuth that made it."""

    stump: Stump
    taper: Ring
    width: Ring
    ledge: Ring

    def outline(self) -> Floats:
        a = np.radians(DEGREES)
        s = self.stump
        return np.asarray(1 / np.sqrt((np.cos(a) / s.facial_mm) ** 2 + (np.sin(a) / s.mesial_mm) ** 2))


def draw(seed: int) -> Drawn:
    """A flawless preparation for zirconia."""
    random = np.random.default_rng(seed)
    middle, wide = float(random.uniform(5.0, 8.0)), float(random.uniform(0.78, 0.90))
    lean, waver = float(random.uniform(0, 1.5)), float(random.uniform(0, 0.07))
    rise, phase = float(random.uniform(0, 0.35)), float(random.uniform(0, 360))
    level = float(random.uniform(1.1, 1.3))

    def taper(a: Floats) -> Floats:
        return np.asarray(middle + lean * np.cos(np.radians(2 * (a - phase))))

    def width(a: Floats) -> Floats:
        return np.asarray(wide + waver * np.sin(np.radians(3 * a + phase)))

    def ledge(a: Floats) -> Floats:
        return np.asarray(level + rise * (1 - np.cos(np.radians(2 * a))) / 2)

    stump = Stump(
        facial_mm=float(random.uniform(4.2, 5.0)), mesial_mm=float(random.uniform(4.2, 5.0)),
        taper_deg=taper, width_mm=width, fillet_mm=float(random.uniform(0.30, 0.45)),
        edge_mm=float(random.uniform(0.15, 0.35)),
        occlusal_mm=float(random.uniform(1.3, 1.6)), top_mm=7.4, line_mm=ledge, neighbours=False,
        gap_mm=float(random.uniform(0.6, 1.4)), noise_um=float(random.uniform(4, 15)), seed=seed,
        grid_mm=float(random.uniform(*GRID_MM)),
        before_mm=0.17,
        beside_mm=7.0,
    )  # fmt: skip
    return Drawn(stump, taper, width, ledge)


def surroundings(stump: Stump, p: Floats, gingiva_mm: float) -> Floats:
    """Gingiva, and a plain wall for a neighbour on either side."""
    off = np.abs(p[:, 0]) - (stump.mesial_mm + stump.gap_mm)
    wall = np.maximum.reduce([-off, off - 1.5, np.abs(p[:, 1]) - 3.0, p[:, 2] - WALL_MM])
    return np.asarray(np.minimum(p[:, 2] - gingiva_mm, wall))


def geometry_of(stump: Stump, earlier: bool, options: Options) -> Geometry:
    """Scanned, placed without aligning, and measured."""
    random = np.random.default_rng(stump.seed + 7)

    def scanned(shape: Callable[[Floats], Floats], gingiva: float, seed: int) -> Surface:
        surface = stump.scanned(lambda p: np.minimum(shape(p), surroundings(stump, p, gingiva)), seed=seed)
        phase = random.uniform(0, 2 * np.pi, 3)
        wave = np.sin(surface.vertices * (2 * np.pi / WAVE_MM) + phase).sum(axis=1) / np.sqrt(1.5)
        return surface.with_vertices(surface.vertices + WAVE_UM / 1000 * wave[:, None] * surface.vertex_normals)

    prep = scanned(stump.cut, stump.gingiva_mm - 0.1, 1)
    preop = scanned(stump.tooth, stump.gingiva_mm, 2) if earlier else None
    slip = float(random.normal(0, BITE_SLIP_MM))
    opposing = placed_at(bite(stump), [0, 0, slip]) if earlier else None
    aligned = Alignment(np.eye(4), 0.01, 0.02, 50.0, 0.0, True)
    alignment = {"preop": aligned, "opposing": aligned} if earlier else {}
    crowns = Crowns.of(prep, UP)
    centre = np.array([0.0, 0, 4])
    frame = make_frame(prep, centre, options.tooth, UP, 1.0, FACIAL, opposing)
    placed = Placed(
        Scans(prep, preop, None, opposing), alignment, {"preop": preop} if preop else {}, opposing, crowns, centre,
        frame, prep, prep.smoothed(TAUBIN_STEPS), preop, noise_um(prep), None, (), 0.0,
    )  # fmt: skip
    return complete(prepare(placed, options), options)


def bite(stump: Stump) -> Surface:
    """A plate CLEARANCE_MM above the stump, and plates that meet the walls beside it."""
    near = stump.mesial_mm + stump.gap_mm
    level = stump.top_mm - stump.occlusal_mm + CLEARANCE_MM
    own = plate(-near + 0.3, near - 0.3, -7, 7, level, down=True)
    return merge([own, *(plate(x, x + 3.0, -7, 7, WALL_MM + 0.02, down=True) for x in (near, -near - 3.0))])


def placed_at(surface: Surface, shift: list[float]) -> Surface:
    """Moved by `shift`."""
    return surface.with_vertices(surface.vertices + shift)


def core_border(drawn: Drawn, seed: int) -> Floats:
    """A core's border FERRULE_MM above the ledge, on the wall, as an unsteady hand draws it."""
    random = np.random.default_rng(seed + 20_000)
    a = DEGREES[::5]
    slip = sum(random.normal(0, HAND_SLIP_MM) * np.cos(np.radians(k * a) + random.uniform(0, 6)) for k in range(1, 5))
    height = FERRULE_MM + slip / np.sqrt(2)  # four waves of half the variance each, twice the hand's
    r = drawn.outline()[::5] - drawn.width(a) - height * np.tan(np.radians(drawn.taper(a)))
    x, y = r * np.sin(np.radians(a)), r * np.cos(np.radians(a))
    return np.stack([x, y, drawn.ledge(a) + height], axis=1)


def flawless(seed: int) -> tuple[Errors, list[str]]:
    """Errors of every measure of a flawless preparation, and the faults it was given all the same."""
    drawn = draw(seed)
    stump, tooth = drawn.stump, ToothNumber("36")
    options = facing(tooth, near=np.array([0.0, 0, 5]), path=UP, core=core_border(drawn, seed))
    geometry = geometry_of(stump, True, options)
    judged = judge(geometry, choose("zirconia", "full-crown"))
    # The solid's occlusal edge is sharp, and said to be.
    faults = [f"{v.criterion} {v.zone} {v.value}" for v in judged.verdicts if v.status in ("short", "over")]
    faults = [f for f in faults if not f.startswith(("edge-radius", "milled-fit"))]
    return _sizes(drawn, geometry, judged), faults


def _sizes(drawn: Drawn, g: Geometry, judged: Judgement) -> Errors:
    stump, budget = drawn.stump, judged.budget
    side = np.array(list(SIDES.values()))
    taper = drawn.taper
    # The wall ends in the middle of its rounded upper edge.
    top = stump.top_mm - stump.occlusal_mm - stump.edge_mm * (1 - np.sqrt(0.5))
    assert judged.space is not None
    assert judged.clearance is not None
    cusp = next(z for z in judged.space.zones if z.zone.endswith("cusp/mesiolingual"))
    near = next(z for z in judged.clearance.zones if z.zone == "central-groove")
    held, summary = g.ring.shape.retention, g.ring.shape.form.width_summary()
    assert summary is not None
    across = drawn.width(DEGREES) * _cosine(drawn.outline())
    out: Errors = {
        "reduction, low": (cusp.low_mm - _true_low(drawn, g, judged, cusp.zone), budget.reduction()),
        "reduction, median": (cusp.median_mm - stump.occlusal_mm, budget.reduction()),
        "clearance, low": (near.low_mm - CLEARANCE_MM, budget.clearance()),
        "wall height": (held.height_mm - float((top - drawn.ledge(side)).mean()), budget.of("wall-height")),
        "what remains": (held.remaining_mm - _least_width(drawn), budget.of("remaining-width")),
        "finish line width, median": (summary[1] - float(np.median(across)), budget.of("finish-line-width")),
        "finish line width, low": (summary[0] - float(np.quantile(across, 0.02)), budget.of("finish-line-width")),
    }
    for name, at in (("faciolingual", 0.0), ("mesiodistal", 90.0)):
        both = taper(np.array([at, at + 180])).sum()
        out[f"convergence, {name}"] = (g.ring.shape.walls.convergence_at(at) - float(both), budget.of("convergence"))
    wall_cosine = _cosine(drawn.outline() - drawn.width(DEGREES))
    true_taper = np.degrees(np.arctan(np.tan(np.radians(taper(DEGREES))) * wall_cosine))
    for name, middle in SIDES.items():
        here = degrees_apart(DEGREES, middle) <= 45
        if name in g.ring.shape.draft_deg:
            out[f"draft, {name}"] = (
                g.ring.shape.draft_deg[name] - float(np.quantile(true_taper[here], 0.05)),
                budget.of("draft"),
            )  # fmt: skip
    rows = {(v.criterion, v.zone): v for v in judged.verdicts}
    for name, middle in SIDES.items():
        row = rows.get(("margin-height", name))
        if row is not None and row.value is not None:
            here = degrees_apart(DEGREES, middle) <= SIDE_HALF_DEG
            below = np.quantile(stump.gingiva_mm - drawn.ledge(DEGREES[here]), 1 - EASED_SHARE)
            out[f"margin height, {name}"] = (row.value - float(below), row.U)
    for name in ("mesial", "distal"):
        row = rows.get(("neighbour-gap", name))
        if row is not None and row.value is not None:
            out[f"room, {name}"] = (row.value - stump.gap_mm, row.U)
    for found in g.ring.shape.ferrule or ():
        out[f"ferrule, {found.sector}"] = (found.height_mm - FERRULE_MM, budget.of("ferrule"))
    return out


def _true_low(drawn: Drawn, g: Geometry, judged: Judgement, zone: str) -> float:
    """Low of the exact distances to the cylinder's top and side, of the same vertices put back onto the solid."""
    mask = judged.zones.mask(zone)
    points = g.inside.vertices[mask]
    for _ in range(3):  # back onto the exact solid, which the scan's noise left
        points = points - drawn.stump.cut(points)[:, None] * g.inside.vertex_normals[mask]
    outline, a = drawn.outline(), np.radians(DEGREES)
    rim = np.stack([outline * np.sin(a), outline * np.cos(a)], axis=1)
    fine = np.concatenate([rim + t * (np.roll(rim, -1, axis=0) - rim) for t in np.arange(0, 1, 0.1)])
    true = np.minimum(drawn.stump.top_mm - points[:, 2], cKDTree(fine).query(points[:, :2])[0])
    areas = g.inside.vertex_areas[mask]
    return weighted_quantile(true, areas, max(WORST_AREA_MM2 / areas.sum(), WORST_SHARE))


BUR_MM, SCOOP_MM = 1.2, 3.2  # of the scoop: radius, height of its middle
SCALLOPS = 40  # round the whole line: 0.7 mm each


def faulty(seed: int) -> Errors:
    """Errors of two undercuts, steps, rims and stretches of scallops of random size, on one preparation."""
    drawn, random = draw(seed), np.random.default_rng(seed + 10_000)
    stump = drawn.stump
    depths = {at: float(random.uniform(0.10, 0.35)) for at in (0.0, 180.0)}
    rims = {at: float(random.uniform(0.10, 0.25)) for at in (85.0, 130.0)}
    scallops = {at: float(random.uniform(0.06, 0.12)) for at in (30.0, 330.0)}
    jump, begin = float(random.uniform(0.25, 0.8)), float(random.uniform(212, 225))

    def ledge(a: Floats) -> Floats:
        high = jump * ((a > begin) & (a < begin + 55))
        rough = sum(s * np.sin(np.radians(SCALLOPS * a)) * (degrees_apart(a, at) < 18) for at, s in scallops.items())
        return np.asarray(drawn.ledge(a) + high + rough)

    def extra(p: Floats) -> Floats:
        a = stump.azimuth(p)
        r, whole = stump.outline(p)
        cuts = []
        for at, depth in depths.items():
            y = p[:, 1] * (1 if at == 0 else -1)
            scoop = np.hypot(y - _scoop_centre(drawn, at, depth), p[:, 2] - SCOOP_MM) - BUR_MM
            cuts.append(scoop + 10.0 * ((np.abs(p[:, 0]) > 1.2) | (y < 0)))
        inner, outer = whole - drawn.width(a) + 0.05, whole - 0.25
        for at, rim in rims.items():
            floor = drawn.ledge(a) - rim
            trough = np.maximum.reduce([inner - r, r - outer, floor - p[:, 2], p[:, 2] - floor - 0.6])
            cuts.append(trough + 10.0 * (degrees_apart(a, at) > 14))
        return np.asarray(np.minimum.reduce(cuts))

    stump = replace(stump, line_mm=ledge, extra=extra)
    geometry = geometry_of(stump, False, facing(ToothNumber("36"), near=np.array([0.0, 0, 5]), path=UP))
    budget = Budget(u_scan_mm(geometry.noise_um, None), 0.0, 0.0, geometry.edge_mm)
    form, regions = geometry.ring.shape.form, geometry.ring.shape.undercut.regions
    out: Errors = {}
    for at, depth in depths.items():
        found = max((r.max_depth_mm for r in regions if degrees_apart(r.azimuth_deg, at) < 40), default=0.0)
        out[f"undercut, {at:.0f}"] = (found - _true_depth(drawn, at, depth), budget.of("undercut"))
    for edge in (begin, begin + 55):
        near = (s for s in form.steps if degrees_apart(s.azimuth_deg, edge) < 10)
        high, more = max(((s.height_mm, s.open_mm) for s in near), default=(0.0, 0.0))
        out[f"step, {edge:.0f}"] = (high - jump, budget.of("finish-line-step", further=more))
    for at, rim in rims.items():
        there = (f for f in form.lips if degrees_apart((f.from_deg + f.to_deg) / 2, at) < 25)
        high, more = max(((f.height_mm, f.open_mm) for f in there), default=(0.0, 0.0))
        out[f"rim, {at:.0f}"] = (high - rim, budget.of("finish-line-lip", further=more))
    true = _true_roughness(drawn, max(scallops.values()))
    out["roughness (µm)"] = (form.roughest_um - true, budget.roughness(form.roughest_um))
    return out


def _wall_at_zero(drawn: Drawn, at: float) -> tuple[float, float, float]:
    """Where the wall meets the ledge at an azimuth (0 or 180), its slope and the ledge's level."""
    a = np.array([at])
    radius = drawn.stump.facial_mm - float(drawn.width(a)[0])
    return radius, float(np.tan(np.radians(drawn.taper(a)[0]))), float(drawn.ledge(a)[0])


def _scoop_centre(drawn: Drawn, at: float, depth: float) -> float:
    radius, slope, level = _wall_at_zero(drawn, at)
    return radius - (SCOOP_MM - level) * slope - depth + BUR_MM


def _true_depth(drawn: Drawn, at: float, depth: float) -> float:
    """Greatest distance of the scooped profile behind the furthest point above it."""
    radius, slope, level = _wall_at_zero(drawn, at)
    z = np.arange(level, drawn.stump.top_mm - drawn.stump.occlusal_mm - drawn.stump.edge_mm, 0.002)
    wall = radius - (z - level) * slope
    inner = _scoop_centre(drawn, at, depth) - np.sqrt(np.maximum(BUR_MM**2 - (z - SCOOP_MM) ** 2, 0))
    profile = np.where(np.abs(z - SCOOP_MM) < BUR_MM, np.minimum(wall, inner), wall)
    return float((np.maximum.accumulate(profile[::-1])[::-1] - profile).max())


def _true_roughness(drawn: Drawn, scallop: float) -> float:
    """What scallops leave about the definition's own course: a parabola fitted over COURSE_MM, rms in µm."""
    radius = float(np.median(drawn.outline()))
    wave = 2 * np.pi * radius / SCALLOPS
    half = round(COURSE_MM / SPACING_MM / 2)
    x = np.arange(-half, half + 1) * SPACING_MM
    kernel = np.linalg.pinv(np.stack([np.ones_like(x), x, x**2], axis=1))[0]
    left = 1 - float((kernel * np.cos(2 * np.pi * x / wave)).sum())
    return 1000 * scallop * left / np.sqrt(2)


def _cosine(radius: Floats) -> Floats:
    """Between the radius and the outline's normal."""
    return np.asarray(1 / np.hypot(1, np.gradient(radius, np.radians(DEGREES)) / radius))


def _least_width(drawn: Drawn) -> float:
    """Least caliper width of the walls' outline where they meet the ledge."""
    r, a = drawn.outline() - drawn.width(DEGREES), np.radians(DEGREES)
    points = np.stack([r * np.cos(a), r * np.sin(a)], axis=1)
    across = points @ np.stack([np.cos(a[:180]), np.sin(a[:180])])
    return float(np.ptp(across, axis=0).min())
