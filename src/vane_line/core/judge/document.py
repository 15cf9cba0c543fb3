"""The measurement as the contract's JSON: `vane-line/measurement/1`, keys as docs/contract.md lists them."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from vane_line.core.case import ALGORITHM_VERSION, Geometry
from vane_line.core.judge import criteria
from vane_line.core.judge.criteria.space import meets_opposing
from vane_line.core.judge.judgement import Judgement, short_area
from vane_line.core.judge.shape_rows import (
    anatomy_row,
    convergence_row,
    edges_row,
    ferrule_row,
    finish_line_row,
    neighbours_row,
    resistance_row,
    undercut_row,
)
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.judge.work import Correction
from vane_line.core.measure.reduction import DistanceField, ZoneValue
from vane_line.core.options import Options
from vane_line.core.placed import Alignment
from vane_line.core.tooth.hinge import RULE_OF_THUMB

SCHEMA = "vane-line/measurement/1"


def document(
    geometry: Geometry, judgement: Judgement, restoration: str, load_s: float = 0.0, material: str | None = None
) -> dict[str, Any]:
    """Plain data for JSON: no NaN, numbers as computed (rounding is for eyes), mm and degrees.

    material: the one asked for, where its standard serves others too.
    """
    options, standard = geometry.options, judgement.standard
    timing = dict(geometry.timing_s)
    timing["load"] = load_s
    timing["total"] = sum(timing.values())
    lingual = options.tooth.lingual_word
    raw = {
        "schema": SCHEMA,
        "algorithm_version": ALGORITHM_VERSION,
        "tooth": options.tooth.fdi,
        "restoration": restoration,
        "material": material or standard.material,
        "standard": {"id": standard.id, "version": standard.version},
        "frame": {
            "occlusal": geometry.frame.occlusal,
            "facial": geometry.frame.facial,
            "mesial": geometry.frame.mesial,
            "confidence": geometry.frame.confidence,
        },
        "alignment": {role: _alignment(geometry.alignment.get(role)) for role in ("preop", "opposing", "mockup")},
        "path": _path(geometry),
        "finish_line": finish_line_row(geometry),
        "reduction": _reduction(geometry, judgement, judgement.space, geometry.reference),
        "tooth_removed": _reduction(geometry, judgement, judgement.removed, "preop"),
        "convergence": convergence_row(geometry),
        "undercut": undercut_row(geometry),
        "clearance": _clearance(geometry, judgement),
        "edges": edges_row(geometry),
        "resistance": resistance_row(geometry),
        "ferrule": ferrule_row(geometry),
        "anatomy": anatomy_row(geometry),
        "planned": {
            "earlier": options.earlier,
            "space_to": options.meaning.space_to,
            "lift_mm": geometry.lift_mm,
            "raise": _raise_row(options),
        },
        "functional_side": {"side": geometry.functional.side, "source": geometry.functional.source},
        "neighbours": neighbours_row(geometry),
        "zone_source": geometry.anatomy.source,
        "uncertainty": {"u_scan_um": 1000 * judgement.budget.scan_mm, "U_mm": judgement.budget.reduction()},
        "verdicts": [verdict_row(v, lingual) for v in judgement.verdicts],
        "corrections": [_correction(c) for c in judgement.corrections],
        "warnings": list(geometry.warnings) + ([standard.caution] if standard.caution else []),
        "timing_s": timing,
    }
    cleaned = clean(raw)
    assert isinstance(cleaned, dict)
    return cleaned


def _path(geometry: Geometry) -> dict[str, Any]:
    return {
        "direction": geometry.path.direction,
        "least_draft_deg": geometry.path.least_draft_deg,
        "source": geometry.path.source,
        "blocked_by": geometry.shape.insertion.blocked_by if geometry.shape.insertion else None,
        "draft_deg": geometry.shape.draft_deg,
    }


def _correction(c: Correction) -> dict[str, Any]:
    return {
        "order": c.order, "stage": c.stage, "key": c.key, "where": c.where, "view": c.view, "do": c.do, "bur": c.bur,
        "hold": c.hold, "beware": c.beware, "refused": c.refused, "at": c.at, "to_min": c.to_min_mm,
        "to_target": c.to_target_mm, "extent": c.extent, "area_mm2": c.area_mm2,
    }  # fmt: skip


def _raise_row(options: Options) -> dict[str, Any] | None:
    """What the opening is at the first molars, at the incisors and at this tooth."""
    opening = options.opening
    if opening is None:
        return None
    place = options.tooth.fdi[1]
    return {
        "asked_mm": opening.mm, "asked_at": opening.at, "angle_deg": math.degrees(opening.angle_rad),
        "first_molar_mm": opening.opening_mm("6"), "incisor_mm": opening.opening_mm("1"),
        "tooth_mm": opening.opening_mm(place), "u_mm": opening.u_mm(place),
        "rule_of_thumb_incisor_mm": RULE_OF_THUMB * opening.opening_mm("6"),
    }  # fmt: skip


def verdict_row(v: Verdict, lingual_word: str = "lingual") -> dict[str, Any]:
    """One verdict as the contract writes it, with its place and words for the screen."""
    return {
        "criterion": v.criterion, "zone": v.zone, "bound": v.bound, "value": v.value, "unit": v.unit, "U": v.U,
        "limit": v.limit, "target": v.target, "status": v.status, "missing": v.missing, "to_target": v.to_target,
        "why": v.why, "source": v.source, "at": v.at, "where": criteria.where(v.criterion, v.zone, lingual_word),
    }  # fmt: skip


def _alignment(alignment: Alignment | None) -> dict[str, Any] | None:
    if alignment is None:
        return None
    return {
        "matrix": alignment.matrix, "rms_mm": alignment.rms_mm, "p95_mm": alignment.p95_mm,
        "stable_area_mm2": alignment.stable_area_mm2, "u_align_um": alignment.u_align_um,
        "trusted": alignment.trusted, "why": alignment.why,
    }  # fmt: skip


def _reduction(
    geometry: Geometry, judgement: Judgement, field: DistanceField | None, reference: str | None
) -> dict[str, Any] | None:
    if field is None:
        return None
    standard = judgement.standard

    def row(zone: ZoneValue) -> dict[str, Any]:
        limits = standard.limits_for_zone(zone.zone)
        area = short_area(geometry, field, judgement.zones, zone.zone, limits.min if limits else None)
        return zone_row(zone) | {"area_short_mm2": area}

    rows = [row(z) for z in field.zones]
    overall = zone_row(field.overall) | {"area_short_mm2": sum(r["area_short_mm2"] or 0.0 for r in rows)}
    return {
        "reference": reference,
        "overall": overall,
        "zones": rows,
        "cement_space_mm": standard.cement_space_mm,
    }


def zone_row(zone: ZoneValue) -> dict[str, Any]:
    """A zone's numbers under the contract's keys."""
    return {
        "zone": zone.zone, "low_mm": zone.low_mm, "median_mm": zone.median_mm, "high_mm": zone.high_mm,
        "area_mm2": zone.area_mm2, "area_unseen_mm2": zone.area_unseen_mm2, "worst": zone.worst,
    }  # fmt: skip


def _clearance(geometry: Geometry, judgement: Judgement) -> dict[str, Any] | None:
    field, bite = judgement.clearance, geometry.bite
    if field is None or bite is None:
        return None
    rows = []
    for zone in field.zones:
        limits = judgement.standard.clearance_for_zone(zone.zone)
        limit = limits.min if limits and meets_opposing(geometry, zone.zone) else None
        rows.append({
            "zone": zone.zone, "low_mm": zone.low_mm, "at": zone.worst, "area_mm2": zone.area_mm2,
            "area_short_mm2": short_area(geometry, field, judgement.zones, zone.zone, limit),
        })  # fmt: skip
    lows = [z for z in field.zones if z.low_mm is not None]
    least = min(lows, key=lambda z: z.low_mm or 0.0) if lows else field.overall
    return {
        "bite": {"ok": bite.ok, "note": bite.note, "gap_mm": bite.gap_mm},
        "overall": {"low_mm": least.low_mm, "at": least.worst},
        "zones": rows,
    }


def clean(value: Any) -> Any:
    """Arrays to lists, NaN and infinities to null; `-0.0` becomes 0.0."""
    if isinstance(value, dict):
        return {key: clean(item) for key, item in value.items()}
    if isinstance(value, np.ndarray):
        return clean(value.tolist())
    if isinstance(value, list | tuple):
        return [clean(item) for item in value]
    if isinstance(value, np.bool_):
        return bool(value)
    if isinstance(value, np.integer):
        return int(value)
    if isinstance(value, float | np.floating):
        number = float(value)
        return number + 0.0 if math.isfinite(number) else None
    return value
