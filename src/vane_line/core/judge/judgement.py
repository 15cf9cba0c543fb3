"""A Geometry held against a standard: zones, values, verdicts, corrections. Cheap to repeat by another standard."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.align.fit import U_ALIGN_LIMIT_UM
from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry
from vane_line.core.judge.anatomy_verdicts import anatomy_verdicts
from vane_line.core.judge.corrections import Correction, worklist
from vane_line.core.judge.fit_verdicts import fit_verdicts
from vane_line.core.judge.shape_verdicts import shape_verdicts
from vane_line.core.judge.standards import Limits, Standard, fitted
from vane_line.core.judge.uncertainty import TRIED_DEG, U_BAND_MM, U_CUSP_MM, U_PATH_DEG, U_TURN_DEG, Budget, u_scan_mm
from vane_line.core.judge.verdicts import (
    Verdict,
    judge_max,
    judge_min,
    not_measured,
    severity,
)
from vane_line.core.measure.finish_line import MAX_GAP_DEG
from vane_line.core.measure.reduction import DistanceField, ZoneValue, area_below, field_of
from vane_line.core.plan.burs import Bur
from vane_line.core.tooth.zones import Zones, make_zones

OCCLUSAL_HEADS = (
    "functional-cusp", "non-functional-cusp", "functional-cusp-bevel", "central-groove", "facial-groove",
    "lingual-groove", "marginal-ridge", "incisal-edge",
)  # fmt: skip
U_GAP_DEG = 15.0  # where an edge begins to be seen is told no better
FACES = ("facial", "lingual-fossa")  # of front teeth: near the planned surface all over, so depth says what was cut
MEETING = ("lingual-fossa", "lingual-wall")  # of front teeth: what the opposing teeth come near


@dataclass(frozen=True, eq=False)
class Judgement:
    """Everything that depends on the standard."""

    standard: Standard
    zones: Zones
    space: DistanceField | None
    removed: DistanceField | None
    clearance: DistanceField | None
    budget: Budget
    verdicts: list[Verdict]
    corrections: list[Correction]
    limit_min: Floats  # (N,) minimum reduction at each inside vertex, nan where none holds
    limit_max: Floats


def judge(geometry: Geometry, standard: Standard, tray: tuple[Bur, ...] | None = None) -> Judgement:
    """Hold the measured numbers against `standard`, its depths capped where the tooth is small; `tray`: burs to correct
    with, the generic set unless given."""
    standard = fitted(standard, geometry.options.tooth)
    inside = geometry.inside
    zones = _zones(geometry, standard)
    budget = _budget(geometry)
    tried = _tried(geometry, standard, budget)
    space, removed, gap = (
        None if distances is None else field_of(inside, distances.value, distances.unseen, zones, tried)
        for distances in (geometry.space, geometry.tooth_removed, geometry.clearance)
    )
    verdicts = [_alignment_verdict(geometry)] if geometry.alignment else []
    verdicts += _reduction_verdicts(geometry, standard, zones, space, budget)
    verdicts += _removed_verdicts(geometry, standard, zones, removed, budget)
    verdicts += _clearance_verdicts(geometry, standard, zones, gap, budget)
    verdicts.append(_gap_verdict(geometry))
    verdicts += shape_verdicts(geometry, standard, budget)
    limits = [standard.limits_for_zone(z) for z in zones.names]
    low = np.array([limit.min if limit else np.nan for limit in limits] + [np.nan])
    high = np.array([
        limit.max if limit and by_depth(z) else np.nan for z, limit in zip(zones.names, limits, strict=True)
    ] + [np.nan])  # fmt: skip
    verdicts += fit_verdicts(geometry, standard, zones, low[zones.index], budget)
    verdicts += anatomy_verdicts(geometry)
    verdicts.sort(key=severity, reverse=True)
    return Judgement(
        standard, zones, space, removed, gap, budget, verdicts, worklist(verdicts, geometry, standard, tray),
        low[zones.index], high[zones.index],
    )  # fmt: skip


def _zones(
    geometry: Geometry, standard: Standard, turn_deg: float = 0.0, wider_mm: float = 0.0, moved: Floats | None = None
) -> Zones:
    """The zones, or what they would be: sides turned, the finish line's band wider, cusps `moved` (2,) in plan."""
    inside, anatomy = geometry.inside, geometry.anatomy
    if moved is not None:
        anatomy = replace(anatomy, cusps={name: place + moved for name, place in anatomy.cusps.items()},
                          groove_y=anatomy.groove_y + moved[1])  # fmt: skip
    return make_zones(
        inside.vertices, inside.vertex_normals, inside.vertex_areas, geometry.axes, geometry.line, geometry.profiles,
        geometry.walls, anatomy, geometry.options.tooth, geometry.functional.side,
        standard.widest_target_mm + wider_mm, turn_deg,
    )  # fmt: skip


def _tried(geometry: Geometry, standard: Standard, budget: Budget) -> list[tuple[float, Zones]]:
    """Zones with their borders moved both ways, each by its standard uncertainty or with that share of its say."""
    out = []
    for sign in (-1.0, 1.0):
        if budget.turn_deg > 0:
            out.append((budget.turn_deg / TRIED_DEG, _zones(geometry, standard, turn_deg=sign * TRIED_DEG)))
        out.append((1.0, _zones(geometry, standard, wider_mm=sign * U_BAND_MM)))
        if geometry.anatomy.cusps:
            out += [(1.0, _zones(geometry, standard, moved=sign * U_CUSP_MM * axis)) for axis in np.eye(2)]
    return out


def is_occlusal(zone: str) -> bool:
    """Whether the opposing teeth come near there."""
    return zone.split("/")[0] in OCCLUSAL_HEADS or zone in MEETING


def by_depth(zone: str) -> bool:
    """Whether over-cutting is judged by depth there: on walls a bulging crown gives large distances."""
    return zone.split("/")[0] in (*OCCLUSAL_HEADS, *FACES)


def _budget(geometry: Geometry) -> Budget:
    used = [a.u_align_um for r, a in geometry.alignment.items() if r != "opposing" and a.u_align_um is not None]
    bite = geometry.bite.u_mm if geometry.bite else 0.0
    scan = u_scan_mm(geometry.noise_um, geometry.patch_scatter_um)
    return Budget(
        scan, max(used, default=0.0) / 1000, bite, geometry.edge_mm,
        U_PATH_DEG if geometry.options.path is None else 0.0, U_TURN_DEG if geometry.options.facial is None else 0.0,
        max(float(np.nan_to_num(geometry.shape.retention.height_mm)), 0.0),
    )  # fmt: skip


def _alignment_verdict(geometry: Geometry) -> Verdict:
    worst = max(
        (a for r, a in geometry.alignment.items() if r != "opposing"),
        key=lambda a: (not a.trusted, a.u_align_um or 0.0),
        default=None,
    )
    if worst is None:
        return not_measured("alignment", "overall", "no earlier scan was given", "max", "µm")
    why = worst.why or "the scans fit on the surfaces that did not change"
    value = worst.u_align_um
    return Verdict(
        "alignment",
        "overall",
        "max",
        value,
        "µm",
        0.0,
        U_ALIGN_LIMIT_UM,
        None,
        "meets" if worst.trusted else "over",
        why,
    )


def _side_known(geometry: Geometry) -> str:
    if geometry.frame.sure:
        return ""
    return "it is not certain which side is facial: confirm the axes"


def _reduction_verdicts(
    geometry: Geometry, standard: Standard, zones: Zones, space: DistanceField | None, budget: Budget
) -> list[Verdict]:
    if space is None:
        return [not_measured("reduction", "overall", geometry.reasons.get("reduction", "no reference was given"))]
    out = []
    judge_over = geometry.reference == "preop" and geometry.options.meaning.natural
    to = _space_to(geometry)
    for zone in space.zones:
        limits = standard.limits_for_zone(zone.zone)
        if limits is None:
            continue
        why = _side_known(geometry) or _unseen(zone)
        if why:
            out.append(not_measured("reduction", zone.zone, why))
            continue
        row = _min(zone, "reduction", limits, budget.reduction(space.u_low(zone.zone)), standard)
        out.append(replace(row, why=f"{to}{row.why}"))
        if judge_over and by_depth(zone.zone):
            out.append(_max(zone, "reduction", limits, budget.reduction(space.u_high(zone.zone)), standard))
    return out


def _space_to(geometry: Geometry) -> str:
    """What the space is measured to, where it is not simply the tooth before."""
    if geometry.reference == "mockup":
        return "space to the mock-up; "
    if geometry.lift_mm > 0:
        return f"space to {geometry.options.meaning.space_to} ({geometry.lift_mm:.1f} mm higher than before); "
    return "" if geometry.options.meaning.natural else f"space to {geometry.options.meaning.space_to}; "


def _removed_verdicts(
    geometry: Geometry, standard: Standard, zones: Zones, removed: DistanceField | None, budget: Budget
) -> list[Verdict]:
    """Over-cutting is judged on the tooth removed; with the natural tooth as reference it is the same number."""
    if removed is None:
        return [not_measured("tooth-removed", "overall", geometry.reasons.get("tooth-removed", geometry.reasons.get(
            "preop", "no scan of the natural tooth was given")), "max")]  # fmt: skip
    out = []
    for zone in removed.zones:
        limits = standard.limits_for_zone(zone.zone)
        if limits is None or not by_depth(zone.zone):
            continue
        why = _side_known(geometry) or _unseen(zone)
        out.append(
            not_measured("tooth-removed", zone.zone, why, "max")
            if why
            else _max(zone, "tooth-removed", limits, budget.reduction(removed.u_high(zone.zone)), standard)
        )
    return out


def _unseen(zone: ZoneValue) -> str:
    if zone.measurable:
        return ""
    share = 100 * zone.area_unseen_mm2 / max(zone.area_mm2, 1e-9)
    return f"the earlier scan did not see the tooth over {share:.0f} % of this zone (contact or gingiva)"


def _min(zone: ZoneValue, criterion: str, limits: Limits, u: float, standard: Standard) -> Verdict:
    verdict = Verdict(
        criterion, zone.zone, "min", zone.low_mm, "mm", u, limits.min, limits.target, "", standard.reason,
        limits.source, zone.worst,
    )  # fmt: skip
    return judge_min(verdict)


def _max(zone: ZoneValue, criterion: str, limits: Limits, u: float, standard: Standard) -> Verdict:
    verdict = Verdict(
        criterion, zone.zone, "max", zone.high_mm, "mm", u, limits.max, limits.target, "",
        "more was cut than the material needs", limits.source, zone.highest,
    )  # fmt: skip
    return judge_max(verdict)


def _clearance_verdicts(
    geometry: Geometry, standard: Standard, zones: Zones, gap: DistanceField | None, budget: Budget
) -> list[Verdict]:
    if gap is None or geometry.bite is None:
        return [not_measured("clearance", "overall", geometry.reasons.get("clearance", "no opposing scan was given"))]
    bite = geometry.bite
    out = [
        Verdict(
            "bite", "overall", "max", abs(bite.gap_mm) if bite.gap_mm is not None else None, "mm", 0.0, 0.1, None,
            "meets" if bite.ok else ("over" if bite.gap_mm is not None else "not-measured"),
            bite.note or "the other teeth meet the opposing teeth",
        )
    ]  # fmt: skip
    why_not = "" if bite.gap_mm is not None else bite.note
    moved = geometry.alignment.get("opposing")
    aligned = (moved.u_align_um or 0.0) / 1000 if moved else 0.0
    for zone in gap.zones:
        limits = standard.clearance_for_zone(zone.zone)
        if limits is None or not is_occlusal(zone.zone):
            continue
        why = why_not or _side_known(geometry)
        if why:
            out.append(not_measured("clearance", zone.zone, why))
            continue
        u = budget.clearance(aligned, gap.u_low(zone.zone))
        verdict = _min(zone, "clearance", limits, u, standard)
        if geometry.options.tooth.front:
            verdict = replace(verdict, why="holds in maximum intercuspation only; " + verdict.why)
        out.append(verdict)
    return out


def _gap_verdict(geometry: Geometry) -> Verdict:
    line = geometry.line
    why = "the finish line closes" if line.closed else "the finish line could not be followed all the way round"
    return judge_max(Verdict(
        "finish-line-gap", "overall", "max", line.gap_deg, "deg", U_GAP_DEG, MAX_GAP_DEG, 0.0, "", why))  # fmt: skip


def short_area(geometry: Geometry, field: DistanceField, zones: Zones, name: str, limit: float | None) -> float | None:
    """Seen area below a limit, mm²; None where no limit holds."""
    return None if limit is None else area_below(geometry.inside, field, zones, name, limit)
