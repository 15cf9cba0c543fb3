"""A plan as plain data, `vane-line/plan/1`: lengths in mm, places in the earlier scan's coordinates."""

from __future__ import annotations

from typing import Any

from vane_line.core.burs import Bur, Use, as_row
from vane_line.core.judge import criteria
from vane_line.core.judge.document import clean, verdict_row
from vane_line.core.judge.standards import Standard
from vane_line.core.plan.planner import BITE, Plan
from vane_line.core.plan.sequence import Sequence, fill
from vane_line.core.tooth.hinge import RULE_OF_THUMB, Raise

SCHEMA = "vane-line/plan/1"
PREDICTED = ("convergence", "wall-height", "resistance", "remaining-width", "reduction", "clearance", "undercut",
             "path-blocked")  # fmt: skip


def plan_document(plan: Plan, sequence: Sequence, tray: tuple[Bur, ...], restoration: str) -> dict[str, Any]:
    """Everything a screen or a page shows of a plan."""
    case, standard = plan.options.case, plan.standard
    lingual = case.tooth.lingual_word
    shape = plan.geometry.shape if plan.geometry is not None else None
    opening = case.opening
    raw = {
        "schema": SCHEMA,
        "tooth": case.tooth.fdi, "restoration": restoration, "material": standard.material,
        "standard": {"id": standard.id, "version": standard.version, "title": standard.title},
        "earlier": {"name": case.earlier, "title": case.meaning.title, "space_to": case.meaning.space_to},
        "frame": {"occlusal": plan.frame.occlusal, "facial": plan.frame.facial, "mesial": plan.frame.mesial,
                  "centre": plan.axes.origin, "path": plan.axes.up},
        "functional_side": {"side": plan.functional.side, "source": plan.functional.source},
        "lift_mm": plan.lift_mm,
        "raise": _raised(opening, case.tooth.fdi[1]),
        "sites": [
            {"zone": s.zone, "where": s.where, "at": s.at, "min_mm": s.needed.min, "target_mm": s.needed.target,
             "max_mm": s.needed.max, "source": s.needed.source, "gap_mm": s.gap_mm, "depth_mm": s.depth_mm,
             "most_mm": s.most_mm, "nothing_to_cut": s.nothing_to_cut, "bur": _use(s.use), "why": s.why}
            for s in plan.sites
        ],
        "finish_line": {
            "points": plan.line.points()[::2], "above_gingiva_mm": plan.options.above_gingiva_mm,
            "seen": plan.line.seen[::2],
            "sides": [_ledge(side, use, standard) for side, use in plan.ledge.items()],
        },
        "taper_deg": plan.options.taper_deg,
        "capture": [{"where": c.sector.replace("lingual", lingual), "why": c.why, "do": c.do} for c in plan.capture],
        "predicted": None if shape is None else {
            "faciolingual_deg": shape.walls.convergence_at(0.0), "mesiodistal_deg": shape.walls.convergence_at(90.0),
            "wall_height_mm": shape.retention.height_mm, "remaining_mm": shape.retention.remaining_mm,
            "neck_mm": shape.retention.neck_mm, "resists": shape.retention.resists,
        },
        "verdicts": [] if plan.judgement is None else [
            verdict_row(v, lingual) for v in plan.judgement.verdicts if v.criterion in PREDICTED
        ],
        "ways_out": [
            {"criterion": v.criterion, "where": criteria.where(v.criterion, v.zone, lingual), "missing": v.missing,
             "unit": v.unit, "value": v.value, "limit": v.limit, "do": do}
            for v, do in plan.ways_out
        ],
        "why_no_target": plan.why_no_target,
        "sequence": {
            "id": sequence.id, "version": sequence.version, "title": sequence.title, "reason": sequence.reason,
            "steps": [
                {"title": f.step.title, "view": f.step.view, "depth": f.depth, "bur": f.bur, "check": f.step.check,
                 "caution": f.step.caution}
                for f in fill(sequence, plan, tray)
            ],
        },
        "reminder": BITE,
        "warnings": [*plan.warnings, *([standard.caution] if standard.caution else [])],
    }  # fmt: skip
    cleaned = clean(raw)
    assert isinstance(cleaned, dict)
    return cleaned


def _raised(opening: Raise | None, place: str) -> dict[str, Any] | None:
    """What an opening of the bite is at this tooth, the first molars and the incisors."""
    if opening is None:
        return None
    return {
        "asked_mm": opening.mm, "asked_at": opening.at, "first_molar_mm": opening.opening_mm("6"),
        "incisor_mm": opening.opening_mm("1"), "tooth_mm": opening.opening_mm(place), "u_mm": opening.u_mm(place),
        "by_place_mm": opening.by_place(),
        "hinge": {"back_mm": opening.hinge.back_mm, "up_mm": opening.hinge.up_mm, "entered": opening.hinge.entered},
        "rule_of_thumb_incisor_mm": RULE_OF_THUMB * opening.opening_mm("6"),
        "why_they_differ": "the rule speaks of other points than molar and incisal edge, and takes no account of "
        "where the hinge lies; geometry decides",
    }  # fmt: skip


def _ledge(side: str, use: Use | None, standard: Standard) -> dict[str, Any]:
    width = standard.width_limits(side)
    return {"side": side, "width_mm": width.target, "min_mm": width.min, "max_mm": width.max,
            "forms": standard.forms_for(side), "bur": _use(use)}  # fmt: skip


def _use(use: Use | None) -> dict[str, Any] | None:
    if use is None:
        return None
    return {**as_row(use.bur), "size": use.bur.size, "sink_mm": use.sink_mm, "of_mm": use.of_mm, "words": use.words,
            "beyond": use.beyond}  # fmt: skip
