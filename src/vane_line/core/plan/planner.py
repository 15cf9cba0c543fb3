"""A plan from the scan before cutting: sites, burs, finish line, target surface, and what would be measured on it.

The target is measured and judged by the very pipeline that will judge the preparation: a plan that cannot meet its own
standard is found out here, with the ways out.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.align.crowns import Crowns
from vane_line.core.arrays import Floats
from vane_line.core.burs import CURVED_FORMS, Bur, Use, for_ledge
from vane_line.core.case import Geometry, complete, prepare
from vane_line.core.jaw.pose import pose_of
from vane_line.core.judge import criteria
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standards import Standard, fitted, general
from vane_line.core.judge.verdicts import FAULTS, Verdict
from vane_line.core.mesh.quality import noise_um
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import HandLine, Options, Progress
from vane_line.core.placed import TAUBIN_STEPS, Alignment, Placed
from vane_line.core.plan.depths import Site, plan_sites
from vane_line.core.plan.line import Capture, PlannedLine, capture_plan, plan_line
from vane_line.core.plan.target import TargetPlan, target_die, widths
from vane_line.core.scans import Scans
from vane_line.core.tooth.anatomy import Anatomy, find_anatomy, size_of
from vane_line.core.tooth.crossbite import FunctionalSide, functional_side
from vane_line.core.tooth.earlier import built_up_mm, contradictions, lift_to_bite
from vane_line.core.tooth.frame import Frame, make_frame
from vane_line.core.tooth.occlusal import guess_occlusal
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.tooth.whole import whole_tooth
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import unit
from vane_line.errors import BadOption, UnfitScans

NEAR_MM = 9.5
APART_MM = 0.15  # from the tooth: what lies nearer is the tooth itself
ROUNDED_MM = 0.4  # inner radius of a planned rounded shoulder
LINE_MM = (-1.5, 3.0)  # over the gingiva, that may be chosen
TAPER_DEG = (1.0, 20.0)
BITE = "Record the bite before the anaesthetic: numb, patients bite badly."


@dataclass(frozen=True, eq=False)
class PlanOptions:
    """What the person chose. near: a point on the tooth; path None: along the tooth's own axis."""

    case: Options
    above_gingiva_mm: float = 0.5
    taper_deg: float = (general()["convergence"].target or 10.0) / 2

    def check(self) -> None:
        """Raises BadOption."""
        if not LINE_MM[0] <= self.above_gingiva_mm <= LINE_MM[1]:
            low, high = LINE_MM
            raise BadOption(f"finish line: {self.above_gingiva_mm} mm over the gingiva; give {low} to {high}.")
        if not TAPER_DEG[0] <= self.taper_deg <= TAPER_DEG[1]:
            raise BadOption(
                f"taper: {self.taper_deg} degrees a wall; give {TAPER_DEG[0]:.0f} to {TAPER_DEG[1]:.0f}.")  # fmt: skip


@dataclass(frozen=True, eq=False)
class Plan:
    """All of a plan. geometry and judgement: of the target, None where no target can be made (why)."""

    options: PlanOptions
    standard: Standard
    frame: Frame
    axes: Axes
    tooth: ReferenceTooth
    anatomy: Anatomy
    functional: FunctionalSide
    lift_mm: float
    sites: list[Site]
    line: PlannedLine
    width_mm: Floats
    ledge: dict[str, Use | None]  # by side
    capture: list[Capture]
    geometry: Geometry | None
    judgement: Judgement | None
    ways_out: list[tuple[Verdict, str]]
    warnings: list[str]
    why_no_target: str = ""


@dataclass(frozen=True, eq=False)
class Ground:
    """All of a plan that no standard changes: the tooth, where its finish line goes, and what it bites on.

    tooth: on the earlier scan, freed of noise; opposing: as the bite puts it; beside: (M, 3) points of the other teeth.
    """

    options: PlanOptions
    preop: Surface
    opposing: Surface | None
    crowns: Crowns
    middle: Floats
    frame: Frame
    axes: Axes
    tooth: ReferenceTooth
    anatomy: Anatomy
    functional: FunctionalSide
    lift_mm: float
    line: PlannedLine
    beside: Floats
    warnings: tuple[str, ...]


def make_plan(
    preop: Surface, opposing: Surface | None, options: PlanOptions, standard: Standard, tray: tuple[Bur, ...],
    progress: Progress = lambda _text, _share: None,
) -> Plan:  # fmt: skip
    """Scans in one frame, mm. Raises UnfitScans, BadOption."""
    return plan_on(find_ground(preop, opposing, options, progress), standard, tray, progress)


def find_ground(
    preop: Surface, opposing: Surface | None, options: PlanOptions,
    progress: Progress = lambda _text, _share: None,
) -> Ground:  # fmt: skip
    """Scans in one frame, mm. Raises UnfitScans, BadOption."""
    options.check()
    case = options.case
    if case.near is None:
        raise BadOption("near: show which tooth it is by a point on it.")
    progress("finding the tooth", 0.1)
    occlusal, sure = (unit(case.occlusal), 1.0) if case.occlusal is not None else guess_occlusal(preop)
    frame = make_frame(preop, case.near, case.tooth, occlusal, sure, case.facial, opposing)
    tooth, middle = whole_tooth(preop, case.near, case.tooth, frame)
    frame = make_frame(preop, middle, case.tooth, occlusal, sure, case.facial, opposing)
    warnings = [*frame.warnings]
    if not frame.sure:
        raise UnfitScans("preop: it is not certain which side is facial; confirm the axes first.")
    axes = Axes.make(middle, unit(case.path) if case.path is not None else occlusal, frame.facial, frame.mesial)
    crop, _ = preop.keep_vertices(np.linalg.norm(preop.vertices - middle, axis=1) < NEAR_MM + 2.5)
    eased, body = crop.smoothed(TAUBIN_STEPS), tooth.eased(TAUBIN_STEPS)
    over = _raised(opposing, case, frame, middle, warnings)
    found = lift_to_bite(body.surface, over, axes.up) if over is not None else None
    warnings += contradictions(case.meaning, found, None, case.opening is not None)

    progress("planning the finish line", 0.3)
    neck = size_of(case.tooth)
    line = plan_line(body, eased, axes, options.above_gingiva_mm, (neck[2], neck[4]), case.tooth.front)
    anatomy = find_anatomy(case.tooth, body.surface, line.points(), axes)
    functional = functional_side(case.tooth, case.functional_side, anatomy, over, axes, body.surface)
    warnings += functional.warnings
    crowns = Crowns.of(preop, occlusal)
    return Ground(
        options=options, preop=preop, opposing=over, crowns=crowns, middle=middle, frame=frame, axes=axes, tooth=body,
        anatomy=anatomy, functional=functional, line=line, warnings=tuple(warnings),
        lift_mm=built_up_mm(case.meaning, found, case.opening is not None),
        beside=_neighbours(preop, body.surface, middle, crowns),
    )  # fmt: skip


def plan_on(
    ground: Ground, standard: Standard, tray: tuple[Bur, ...], progress: Progress = lambda _text, _share: None
) -> Plan:
    """By one standard, on ground that is found already."""
    options, case, line = ground.options, ground.options.case, ground.line
    standard = fitted(standard, case.tooth)
    known, why = case.meaning.copied, _what_is_not_known(case)
    sites = plan_sites(
        tooth=case.tooth, reference=ground.tooth.surface, anatomy=ground.anatomy, axes=ground.axes,
        functional_side=ground.functional.side, standard=standard, lift_mm=ground.lift_mm, known=known, why=why,
        tray=tray,
    )  # fmt: skip
    across = widths(line, standard)
    ledge = {
        side: for_ledge(standard.width_limits(side).target, standard.forms_for(side), tray)
        for side in ("facial", "mesial", "lingual", "distal")
    }
    plan = Plan(
        options=options, standard=standard, frame=ground.frame, axes=ground.axes, tooth=ground.tooth,
        anatomy=ground.anatomy, functional=ground.functional, lift_mm=ground.lift_mm, sites=sites, line=line,
        width_mm=across, ledge=ledge,
        capture=capture_plan(line, ground.axes, ground.beside, options.above_gingiva_mm), geometry=None,
        judgement=None, ways_out=[], warnings=[*ground.warnings],
    )  # fmt: skip
    if not known:
        return replace(plan, why_no_target=why)
    progress("shaping the target", 0.5)
    shape = TargetPlan(line, options.taper_deg, across, _fillets(plan), sites)
    target = target_die(ground.tooth.surface, ground.axes, shape, case.tooth.front)
    progress("measuring the target", 0.75)
    geometry = _measured(plan, target, ground)
    judged = judge(geometry, standard)
    return replace(plan, geometry=geometry, judgement=judged, ways_out=_ways_out(judged))


def _raised(
    opposing: Surface | None, case: Options, frame: Frame, middle: Floats, warnings: list[str]
) -> Surface | None:
    """The opposing teeth as an opened bite puts them; adds its caution to `warnings`."""
    if opposing is None or case.opening is None:
        return opposing
    pose = pose_of(case.opening)
    warnings.append(pose.caution)
    return pose.opposing(opposing, frame, middle, case.tooth)


def _what_is_not_known(case: Options) -> str:
    """Why the earlier surface does not say what is to be cut, or says it only in part; '' where it does."""
    if not case.meaning.copied:
        return (
            "the old crown's form is not kept: cut by the space to the opposing teeth, and measure it after taking it "
            "off"
        )
    return "" if case.meaning.natural else "space to the old crown's contour; how much of it is tooth is not known"


def _fillets(plan: Plan) -> Floats:
    """(A,) inner radius: the bur's round end for a chamfer, a rounded corner for a shoulder."""
    out = np.empty(len(plan.line.azimuth_deg))
    sides = np.array(["facial", "mesial", "lingual", "distal"])[(np.round(plan.line.azimuth_deg / 90).astype(int)) % 4]
    for side in set(sides):
        forms = plan.standard.forms_for(str(side))
        curved = bool(forms) and all(f in CURVED_FORMS for f in forms)
        here = sides == side
        out[here] = 0.9 * plan.width_mm[here] if curved else np.minimum(ROUNDED_MM, 0.5 * plan.width_mm[here])
    wide = np.r_[out[-12:], out, out[:12]]
    return np.asarray(np.lib.stride_tricks.sliding_window_view(wide, 25).mean(axis=1))


def _neighbours(preop: Surface, tooth: Surface, middle: Floats, crowns: Crowns) -> Floats:
    """(M, 3) points of the other teeth near this one."""
    near = (np.linalg.norm(preop.vertices - middle, axis=1) < NEAR_MM + 1.5) & crowns.hold(preop.vertices)
    points = preop.vertices[near]
    return points if len(points) == 0 else np.asarray(points[tooth.closest(points)[0] > APART_MM])


def _measured(plan: Plan, target: Surface, ground: Ground) -> Geometry:
    """The target laid into the scan, through the same pipeline as a preparation."""
    line, preop, opposing = plan.line, ground.preop, ground.opposing
    exact = Alignment(np.eye(4), 0.0, 0.0, None, 0.0, True)
    alignment = {"preop": exact} | ({"opposing": exact} if opposing is not None else {})
    points = line.points()
    known = HandLine(points, np.zeros(len(points), dtype=bool))  # the edge is where it was planned
    options = replace(plan.options.case, path=plan.axes.up, opening=None, near=ground.middle, line=known)
    if plan.options.case.opening is not None:
        # The opposing scan is raised already; the lift that follows from it is kept by the meaning.
        options = replace(options, earlier="short")
    # The other teeth as they stand: without this one, which would look like its own neighbour.
    others, _ = preop.keep_vertices(plan.tooth.surface.closest(preop.vertices)[0] > APART_MM)
    placed = Placed(
        scans=Scans(others, preop, None, opposing),
        alignment=alignment,
        moved={"preop": preop},
        opposing=opposing,
        crowns=ground.crowns,
        centre=line.points().mean(axis=0) + 2.0 * plan.axes.up,
        frame=plan.frame,
        crop=target,
        eased=target,
        base=preop,
        noise_um=min(noise_um(preop), 5.0),
        patch_scatter_um=None,
        warnings=tuple(plan.warnings),
        spent_s=0.0,
    )
    prepared = prepare(placed, options)
    prepared = replace(prepared, teeth={"preop": plan.tooth})
    return complete(prepared, options)


def _ways_out(judged: Judgement) -> list[tuple[Verdict, str]]:
    """What the plan cannot meet, each criterion once, with the way that costs the least tooth."""
    out, said = [], set()
    lines = {c.key: c for c in judged.corrections}
    for verdict in judged.verdicts:
        criterion = criteria.of(verdict.criterion)
        if verdict.status not in FAULTS or criterion is None or not criterion.way_out:
            continue
        if verdict.criterion in said:
            continue
        said.add(verdict.criterion)
        line = lines.get(f"{verdict.criterion}|{verdict.zone}")  # where no tooth need be cut, that is the first way
        own = line.do if line is not None and (line.stage == "other" or "fuller" in line.do) else ""
        out.append((verdict, f"{own}; or: {criterion.way_out}" if own else criterion.way_out))
    return out
