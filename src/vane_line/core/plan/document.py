"""A plan as plain data, `vane-line/plan/1`: lengths in mm, places in the earlier scan's coordinates."""

from __future__ import annotations

from typing import Any

from vane_line.core.burs import Bur, as_row
from vane_line.core.burs import Use as SunkBur
from vane_line.core.contract.measurement import FunctionalRow
from vane_line.core.contract.plan import (
    SCHEMA,
    BurUse,
    Capture,
    DepthSite,
    Earlier,
    Hinge,
    Ledge,
    OrderOfWork,
    PlanDocument,
    PlanFrame,
    PlanLine,
    PlannedBox,
    PlannedCavity,
    PlannedChild,
    PlannedCusp,
    PlanRaise,
    Predicted,
    StandardTitle,
    StepOfWork,
    WayOut,
)
from vane_line.core.facts import words
from vane_line.core.jaw.hinge import RULE_OF_THUMB, Raise
from vane_line.core.judge import criteria
from vane_line.core.judge.channel_rows import budget_row, channel_rows
from vane_line.core.judge.document import verdict_row
from vane_line.core.judge.standards import Standard
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.kinds.child import ChildCut
from vane_line.core.plan.child_target import ChildDepths
from vane_line.core.plan.makers import maker_of, told
from vane_line.core.plan.plan import Plan
from vane_line.core.plan.planner import BITE
from vane_line.core.plan.sequence import Sequence, fill


def plan_document(plan: Plan, sequence: Sequence, tray: tuple[Bur, ...]) -> dict[str, Any]:
    """Everything a screen or a page shows of a plan."""
    case, standard, frame = plan.options.case, plan.standard, plan.frame
    lingual = case.tooth.lingual_word
    maker = maker_of(case.restoration)
    judged = [] if plan.judgement is None else plan.judgement.verdicts
    made = PlanDocument(
        schema=SCHEMA,
        tooth=case.tooth.fdi,
        restoration=case.restoration,
        material=standard.material,
        standard=StandardTitle(id=standard.id, version=standard.version, title=standard.title),
        earlier=Earlier(name=case.earlier, title=case.meaning.title,
                        space_to="the mock-up" if plan.through_mockup else case.meaning.space_to),
        frame=PlanFrame(
            occlusal=frame.occlusal, facial=frame.facial, mesial=frame.mesial, centre=plan.axes.origin,
            path=plan.path,
        ),
        functional_side=FunctionalRow(side=plan.functional.side, source=plan.functional.source),
        lift_mm=plan.lift_mm,
        **{"raise": _raised(case.opening, case.tooth.fdi[1])},
        sites=_sites(plan),
        finish_line=PlanLine(
            points=plan.course[::2], above_gingiva_mm=plan.options.above_gingiva_mm, seen=plan.seen[::2],
            sides=[_ledge(side, use, standard) for side, use in plan.ledge.items()],
        ),
        taper_deg=plan.options.taper_deg,
        incisal=plan.options.incisal if maker.mocked else None,
        capture=[Capture(where=c.sector.replace("lingual", lingual), why=c.why, do=c.do) for c in plan.capture],
        predicted=_predicted(plan),
        cavity=_cavity(plan),
        child=_child(plan),
        channels=None if plan.geometry is None else channel_rows(plan.geometry),
        budget=None if plan.geometry is None else budget_row(plan.geometry),
        verdicts=[verdict_row(v, lingual) for v in judged if told(maker, v)],
        ways_out=[
            WayOut(criterion=v.criterion, where=criteria.where(v.criterion, v.zone, lingual), missing=v.missing,
                   unit=v.unit, value=v.value, limit=v.limit, do=do)
            for v, do in plan.ways_out
        ],
        why_no_target=plan.why_no_target,
        sequence=_order(sequence, plan, tray),
        reminder=BITE,
        warnings=[*plan.warnings, *words(case.facts), *([standard.caution] if standard.caution else [])],
    )  # fmt: skip
    return made.model_dump(by_alias=True)


def _sites(plan: Plan) -> list[DepthSite]:
    return [
        DepthSite(
            zone=s.zone, where=s.where, at=s.at, min_mm=s.needed.min, target_mm=s.needed.target, max_mm=s.needed.max,
            source=s.needed.source, gap_mm=s.gap_mm, depth_mm=s.depth_mm, most_mm=s.most_mm,
            nothing_to_cut=s.nothing_to_cut, bur=_use(s.use), why=s.why,
        )
        for s in plan.sites
    ]  # fmt: skip


def _predicted(plan: Plan) -> Predicted | None:
    if plan.ring is None:
        return None
    walls, held = plan.ring.shape.walls, plan.ring.shape.retention
    return Predicted(
        faciolingual_deg=walls.convergence_at(0.0), mesiodistal_deg=walls.convergence_at(90.0),
        wall_height_mm=held.height_mm, remaining_mm=held.remaining_mm, neck_mm=held.neck_mm, resists=held.resists,
    )  # fmt: skip


def _cavity(plan: Plan) -> PlannedCavity | None:
    if plan.geometry is None or plan.judgement is None or not isinstance(plan.geometry.cut, CavityCut):
        return None
    cut = plan.geometry.cut
    floor, isthmus = cut.floor, cut.isthmus
    needed = {v.zone: v.limit for v in plan.judgement.verdicts if v.criterion == "cusp-thickness"}
    return PlannedCavity(
        drawn=plan.options.cavity.outline is not None,
        depth_low_mm=None if floor is None else floor.depth_low_mm,
        depth_median_mm=None if floor is None else floor.depth_median_mm,
        isthmus_mm=None if isthmus is None else isthmus.width_mm,
        isthmus_share=None if isthmus is None else isthmus.share,
        divergence_deg=float(plan.standard.bounds("divergence").target or 0.0),
        boxes=[
            PlannedBox(side=b.side, depth_mm=b.depth_mm, width_mm=b.width_mm, below_floor_mm=b.below_floor_mm,
                       contact_clearance_mm=b.contact_clearance_mm)
            for b in cut.boxes
        ],
        cusps=[
            PlannedCusp(cusp=c.cusp, covered=c.covered, base_mm=c.base_mm, needed_mm=needed.get(c.cusp),
                        cover_mm3=plan.cover_mm3.get(c.cusp, 0.0))
            for c in cut.cusps
        ],
    )  # fmt: skip


def _child(plan: Plan) -> PlannedChild | None:
    if plan.geometry is None or not isinstance(plan.geometry.cut, ChildCut):
        return None
    cut, depths = plan.geometry.cut, ChildDepths.of(plan.standard)
    fits = cut.fits.get(plan.standard.material)
    first, chosen = (fits.first, fits.chosen) if fits else (None, None)
    return PlannedChild(
        first_try=first.size.name if first else None,
        mesiodistal_mm=first.size.mesiodistal_mm if first else None,
        goes_on=bool(first and first.goes_on),
        size=chosen.size.name if chosen else None,
        slice_mm=depths.slice_mm,
        around_mm=depths.around_mm,
        face_mm=depths.face_mm or None,
        edge_lowered_mm=cut.edge.mm if cut.edge else None,
        below_gingiva_mm=depths.below_mm,
    )


def _order(sequence: Sequence, plan: Plan, tray: tuple[Bur, ...]) -> OrderOfWork:
    steps = [
        StepOfWork(title=f.step.title, view=f.step.view, depth=f.depth, bur=f.bur, check=f.step.check,
                   caution=f.step.caution)
        for f in fill(sequence, plan, tray)
    ]  # fmt: skip
    return OrderOfWork(
        id=sequence.id, version=sequence.version, title=sequence.title, reason=sequence.reason, steps=steps
    )


def _raised(opening: Raise | None, place: str) -> PlanRaise | None:
    """What an opening of the bite is at this tooth, the first molars and the incisors."""
    if opening is None:
        return None
    hinge = opening.hinge
    return PlanRaise(
        asked_mm=opening.mm, asked_at=opening.at, first_molar_mm=opening.opening_mm("6"),
        incisor_mm=opening.opening_mm("1"), tooth_mm=opening.opening_mm(place), u_mm=opening.u_mm(place),
        by_place_mm=opening.by_place(),
        hinge=Hinge(back_mm=hinge.back_mm, up_mm=hinge.up_mm, entered=hinge.entered),
        rule_of_thumb_incisor_mm=RULE_OF_THUMB * opening.opening_mm("6"),
        why_they_differ="the rule speaks of other points than molar and incisal edge, and takes no account of "
        "where the hinge lies; geometry decides",
    )  # fmt: skip


def _ledge(side: str, use: SunkBur | None, standard: Standard) -> Ledge:
    width = standard.width_limits(side)
    return Ledge(side=side, width_mm=width.target, min_mm=width.min, max_mm=width.max,
                 forms=standard.forms_for(side), bur=_use(use))  # fmt: skip


def _use(use: SunkBur | None) -> BurUse | None:
    if use is None:
        return None
    return BurUse(**as_row(use.bur), size=use.bur.size, sink_mm=use.sink_mm, of_mm=use.of_mm, words=use.words,
                  beyond=use.beyond)  # fmt: skip
