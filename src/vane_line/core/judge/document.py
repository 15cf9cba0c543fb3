"""The measurement as the contract's JSON: `vane-line/measurement/1`, made of the models in `core/contract`."""

from __future__ import annotations

from typing import Any

from vane_line.core.case import ALGORITHM_VERSION, Geometry
from vane_line.core.contract.bite_rows import ClearanceLow, ClearanceRow, ClearanceZone, MovementRow
from vane_line.core.contract.measurement import (
    SCHEMA,
    AlignmentRow,
    AlignmentRows,
    CorrectionRow,
    FinishLineRow,
    FrameRow,
    FunctionalRow,
    MeasurementDocument,
    PathRow,
    PlannedRow,
    ReductionRow,
    StandardName,
    TimingRow,
    UncertaintyRow,
    VerdictRow,
    ZoneRow,
)
from vane_line.core.facts import words
from vane_line.core.judge import criteria
from vane_line.core.judge.bite_rows import bite_row, contact_rows, least_zone, movement_row, raise_row
from vane_line.core.judge.cavity_rows import cavity_row, outline_as_line, wall_drafts
from vane_line.core.judge.channel_rows import budget_row, channel_rows
from vane_line.core.judge.child_rows import child_row
from vane_line.core.judge.criteria.space import meets_opposing
from vane_line.core.judge.judgement import Judgement, short_area
from vane_line.core.judge.record import limits_of
from vane_line.core.judge.rescan_rows import rescan_rows
from vane_line.core.judge.shape_rows import (
    anatomy_row,
    convergence_row,
    edges_row,
    ferrule_rows,
    finish_line_row,
    neighbour_rows,
    resistance_row,
    undercut_row,
)
from vane_line.core.judge.veneer_rows import veneer_row, window_as_line
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.judge.work import Correction
from vane_line.core.kinds.ring import RingCut
from vane_line.core.measure.reduction import DistanceField, ZoneValue
from vane_line.core.placed import Alignment


def document(
    geometry: Geometry, judgement: Judgement, load_s: float = 0.0, material: str | None = None
) -> dict[str, Any]:
    """Plain data for JSON: no NaN, numbers as computed (rounding is for eyes), mm and degrees.

    material: the one asked for, where its standard serves others too.
    """
    return typed_document(geometry, judgement, load_s, material).model_dump(by_alias=True)


def typed_document(
    geometry: Geometry, judgement: Judgement, load_s: float = 0.0, material: str | None = None
) -> MeasurementDocument:
    """The same as a model."""
    options, standard, frame = geometry.options, judgement.standard, geometry.frame
    timing = {"load": load_s, **geometry.timing_s}
    lingual, ring = options.tooth.lingual_word, isinstance(geometry.cut, RingCut)
    return MeasurementDocument(
        schema=SCHEMA,
        algorithm_version=ALGORITHM_VERSION,
        tooth=options.tooth.fdi,
        restoration=options.restoration,
        material=material or standard.material,
        standard=StandardName(id=standard.id, version=standard.version),
        frame=FrameRow(
            occlusal=frame.occlusal, facial=frame.facial, mesial=frame.mesial, confidence=frame.confidence
        ),
        alignment=AlignmentRows(
            **{role: _alignment(geometry.alignment.get(role)) for role in ("preop", "opposing", "mockup")}
        ),
        path=_path(geometry),
        finish_line=_line(geometry),
        reduction=_reduction(geometry, judgement, judgement.space, geometry.reference),
        tooth_removed=_reduction(geometry, judgement, judgement.removed, "preop"),
        convergence=convergence_row(geometry) if ring else None,
        undercut=undercut_row(geometry),
        clearance=_clearance(geometry, judgement),
        edges=edges_row(geometry),
        resistance=resistance_row(geometry) if ring else None,
        ferrule=ferrule_rows(geometry) if ring else None,
        anatomy=anatomy_row(geometry) if ring else None,
        cavity=cavity_row(geometry, standard),
        veneer=veneer_row(geometry, judgement),
        child=child_row(geometry, judgement),
        channels=channel_rows(geometry),
        budget=budget_row(geometry),
        contacts=contact_rows(geometry),
        movements=_movements(geometry, judgement),
        planned=PlannedRow(
            earlier=options.earlier, space_to=options.meaning.space_to, lift_mm=geometry.lift_mm,
            **{"raise": raise_row(geometry)},
        ),
        functional_side=FunctionalRow(side=geometry.functional.side, source=geometry.functional.source),
        neighbours=neighbour_rows(geometry),
        zone_source=geometry.anatomy.source,
        uncertainty=UncertaintyRow(u_scan_um=1000 * judgement.budget.scan_mm, U_mm=judgement.budget.reduction()),
        verdicts=[verdict_row(v, lingual) for v in judgement.verdicts],
        corrections=[_correction(c) for c in judgement.corrections],
        rescan=rescan_rows(geometry),
        warnings=[*geometry.warnings, *words(options.facts),
                  *(c for c in (geometry.kind.caution, standard.caution) if c)],
        timing_s=TimingRow(**timing, total=sum(timing.values())),
    )  # fmt: skip


def _line(geometry: Geometry) -> FinishLineRow:
    rows = {"ring": finish_line_row, "cavity": outline_as_line, "window": window_as_line, "cast": window_as_line,
            "child": finish_line_row}  # fmt: skip
    return rows[geometry.kind.reader.name](geometry)


def _path(geometry: Geometry) -> PathRow:
    shape = geometry.cut.shape if isinstance(geometry.cut, RingCut) else None
    return PathRow(
        direction=geometry.path.direction,
        least_draft_deg=geometry.path.least_draft_deg,
        source=geometry.path.source,
        blocked_by=shape.insertion.blocked_by if shape and shape.insertion else None,
        draft_deg=shape.draft_deg if shape else wall_drafts(geometry),
    )


def _correction(c: Correction) -> CorrectionRow:
    return CorrectionRow(
        order=c.order, stage=c.stage, key=c.key, where=c.where, view=c.view, do=c.do, bur=c.bur, hold=c.hold,
        beware=c.beware, refused=c.refused, at=c.at, to_min=c.to_min_mm, to_target=c.to_target_mm, extent=c.extent,
        area_mm2=c.area_mm2,
    )  # fmt: skip


def verdict_row(v: Verdict, lingual_word: str = "lingual") -> VerdictRow:
    """One verdict as the contract writes it, with its place and words for the screen."""
    return VerdictRow(
        criterion=v.criterion, zone=v.zone, bound=v.bound, value=v.value, unit=v.unit, U=v.U, limit=v.limit,
        target=v.target, status=v.status, missing=v.missing, to_target=v.to_target, why=v.why, source=v.source,
        at=v.at, where=criteria.where(v.criterion, v.zone, lingual_word), pose=v.pose,
    )  # fmt: skip


def _alignment(alignment: Alignment | None) -> AlignmentRow | None:
    if alignment is None:
        return None
    return AlignmentRow(
        matrix=alignment.matrix, rms_mm=alignment.rms_mm, p95_mm=alignment.p95_mm,
        stable_area_mm2=alignment.stable_area_mm2, u_align_um=alignment.u_align_um, trusted=alignment.trusted,
        why=alignment.why,
    )  # fmt: skip


def _reduction(
    geometry: Geometry, judgement: Judgement, field: DistanceField | None, reference: str | None
) -> ReductionRow | None:
    if field is None:
        return None
    standard = judgement.standard
    rows = []
    for zone in field.zones:
        limits = limits_of(geometry, judgement.standard, zone.zone)
        area = short_area(geometry, field, judgement.zones, zone.zone, limits.min if limits else None)
        rows.append(zone_row(zone, area))
    return ReductionRow(
        reference=reference,
        overall=zone_row(field.overall, sum(r.area_short_mm2 or 0.0 for r in rows)),
        zones=rows,
        cement_space_mm=standard.cement_space_mm,
    )


def zone_row(zone: ZoneValue, area_short_mm2: float | None) -> ZoneRow:
    """A zone's numbers under the contract's keys."""
    return ZoneRow(
        zone=zone.zone, low_mm=zone.low_mm, median_mm=zone.median_mm, high_mm=zone.high_mm, area_mm2=zone.area_mm2,
        area_unseen_mm2=zone.area_unseen_mm2, worst=zone.worst, area_short_mm2=area_short_mm2,
    )  # fmt: skip


def _clearance(geometry: Geometry, judgement: Judgement) -> ClearanceRow | None:
    field, bite = judgement.clearance, bite_row(geometry)
    if field is None or bite is None:
        return None
    rows = []
    for zone in field.zones:
        limits = limits_of(geometry, judgement.standard, zone.zone, clearance=True)
        limit = limits.min if limits and meets_opposing(geometry, zone.zone) else None
        rows.append(ClearanceZone(
            zone=zone.zone, low_mm=zone.low_mm, at=zone.worst, area_mm2=zone.area_mm2,
            area_short_mm2=short_area(geometry, field, judgement.zones, zone.zone, limit),
        ))  # fmt: skip
    least = least_zone(field)
    return ClearanceRow(
        bite=bite,
        overall=ClearanceLow(low_mm=least.low_mm, at=least.worst),
        zones=rows,
    )


def _movements(geometry: Geometry, judgement: Judgement) -> list[MovementRow] | None:
    if not geometry.moving:
        return None
    return [movement_row(geometry, m, judgement.moving[m.movement]) for m in geometry.moving]
