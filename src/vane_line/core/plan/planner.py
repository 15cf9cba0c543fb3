"""A plan from the scan before cutting: sites, burs, finish line, target surface, and what would be measured on it.

The target is measured and judged by the very pipeline that will judge the preparation: a plan that cannot meet its own
standard is found out here, with the ways out.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from vane_line.core import kinds
from vane_line.core.align.crowns import Crowns
from vane_line.core.align.fine import register
from vane_line.core.align.fit import STABLE_SHARE
from vane_line.core.align.jaws import why_not_opposing
from vane_line.core.arrays import Floats
from vane_line.core.burs import Bur, for_ledge
from vane_line.core.case import Geometry, complete, prepare
from vane_line.core.jaw.pose import pose_of
from vane_line.core.judge import criteria
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standard_choice import fitted
from vane_line.core.judge.standard_files import SIDES
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.verdicts import FAULTS, Verdict
from vane_line.core.mesh.quality import noise_um
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import HandLine, Options, Progress
from vane_line.core.placed import TAUBIN_STEPS, Alignment, Placed
from vane_line.core.plan.body import seen_part
from vane_line.core.plan.depths import plan_sites
from vane_line.core.plan.line import LEAST_ABOVE_MM, capture_plan, plan_line
from vane_line.core.plan.makers import Maker, maker_of, told
from vane_line.core.plan.plan import Ground, Plan, PlanOptions
from vane_line.core.plan.target import widths
from vane_line.core.scans import Scans
from vane_line.core.tooth.anatomy import find_anatomy, size_of
from vane_line.core.tooth.crossbite import functional_side
from vane_line.core.tooth.earlier import built_up_mm, contradictions, lift_to_bite
from vane_line.core.tooth.frame import Frame, make_frame
from vane_line.core.tooth.occlusal import guess_occlusal
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.tooth.whole import whole_tooth
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import degrees_between, unit
from vane_line.errors import BadOption, UnfitScans

NEAR_MM = 9.5
MOST_LEAN_DEG = 40.0  # of a path that a person chooses
APART_MM = 0.15  # from the tooth: what lies nearer is the tooth itself
CUT_MM = 0.15  # under the tooth: what lies deeper is cut
BITE = "Record the bite before the anaesthetic: numb, patients bite badly."


def make_plan(
    preop: Surface, opposing: Surface | None, options: PlanOptions, standard: Standard, tray: tuple[Bur, ...],
    progress: Progress = lambda _text, _share: None, mockup: Surface | None = None,
) -> Plan:  # fmt: skip
    """Scans in one frame, mm; a mock-up's is brought onto the others. Raises UnfitScans, BadOption."""
    return plan_on(find_ground(preop, opposing, options, progress, mockup), standard, tray, progress)


def find_ground(
    preop: Surface, opposing: Surface | None, options: PlanOptions,
    progress: Progress = lambda _text, _share: None, mockup: Surface | None = None,
) -> Ground:  # fmt: skip
    """Scans in one frame, mm; a mock-up's is brought onto the others. Raises UnfitScans, BadOption."""
    options.check()
    case = options.case
    if case.near is None:
        raise BadOption("near: show which tooth it is by a point on it.")
    progress("finding the tooth", 0.1)
    occlusal, sure = (unit(case.occlusal), 1.0) if case.occlusal is not None else guess_occlusal(preop)
    crowns = Crowns.of(preop, occlusal)
    why_not = "" if opposing is None else why_not_opposing(preop, opposing, crowns)
    opposing = None if why_not else opposing
    frame = make_frame(preop, case.near, case.tooth, occlusal, sure, case.facial, opposing)
    check_lean(case.path, frame.occlusal)
    tooth, middle = whole_tooth(preop, case.near, case.tooth, frame)
    frame = make_frame(preop, middle, case.tooth, occlusal, sure, case.facial, opposing)
    warnings = [*frame.warnings, *([f"{why_not}; planned without."] if why_not else [])]
    if not frame.sure:
        raise UnfitScans("preop: it is not certain which side is facial; confirm the axes first.")
    maker, path = maker_of(case.restoration), occlusal if case.path is None else unit(case.path)
    axes = Axes.make(middle, occlusal if maker.path else path, frame.facial, frame.mesial)
    crop, _ = preop.keep_vertices(np.linalg.norm(preop.vertices - middle, axis=1) < NEAR_MM + 2.5)
    eased, body = crop.smoothed(TAUBIN_STEPS), tooth.eased(TAUBIN_STEPS)
    over = _raised(opposing, case, frame, middle, warnings)
    found = lift_to_bite(body.surface, over, axes.up) if over is not None else None
    if maker.round:  # a face does not reach the bite
        warnings += contradictions(case.meaning, found, None, case.opening is not None)

    if maker.path and case.path is None:
        path = maker.path(body.surface, axes)

    progress("planning the finish line", 0.3)
    neck = size_of(case.tooth)
    above = LEAST_ABOVE_MM if maker.at_gingiva else options.above_gingiva_mm
    line = plan_line(body, eased, axes, above, (neck[2], neck[4]), case.tooth.front)
    anatomy = find_anatomy(case.tooth, body.surface, line.points(), axes)
    functional = functional_side(case.tooth, case.functional_side, anatomy, over, axes, body.surface)
    warnings += functional.warnings
    moved, finished = _mocked_up(mockup, preop, crowns, middle, frame, case, warnings)
    return Ground(
        options=options, preop=preop, opposing=over, crowns=crowns, middle=middle, frame=frame, axes=axes, tooth=body,
        mockup=moved, finished=finished, anatomy=anatomy, functional=functional, line=line, warnings=tuple(warnings),
        lift_mm=built_up_mm(case.meaning, found, case.opening is not None),
        beside=_neighbours(preop, body.surface, middle, crowns), path=path,
    )  # fmt: skip


def plan_on(
    ground: Ground, standard: Standard, tray: tuple[Bur, ...], progress: Progress = lambda _text, _share: None
) -> Plan:
    """By one standard, on ground that is found already."""
    options, case, line = ground.options, ground.options.case, ground.line
    maker, standard = maker_of(case.restoration), fitted(standard, case.tooth)
    known, why = case.meaning.copied, _what_is_not_known(case)
    if case.tooth.fdi[1] not in maker.on:
        teeth = "front teeth" if maker.on == "123" else "front teeth and premolars"
        title = kinds.of(case.restoration).title
        known, why = False, f"the target of a {title} is made for {teeth}; check and correct it"
    sites = plan_sites(
        tooth=case.tooth, reference=ground.tooth.surface, anatomy=ground.anatomy, axes=ground.axes,
        functional_side=ground.functional.side, standard=standard, lift_mm=ground.lift_mm, known=known, why=why,
        tray=tray, faced=maker.faced,
    )  # fmt: skip
    making = maker.begin(ground, standard, sites)
    line = making.line or line
    across = widths(line, standard) if maker.ledged else np.zeros(len(line.azimuth_deg))
    ledge = {
        side: for_ledge(standard.width_limits(side).target, standard.forms_for(side), tray)
        for side in (SIDES if maker.ledged else ())
    }
    plan = Plan(
        options=options, standard=standard, frame=ground.frame, axes=ground.axes, path=ground.path, tooth=ground.tooth,
        anatomy=ground.anatomy, functional=ground.functional, lift_mm=ground.lift_mm, sites=making.sites, line=line,
        through_mockup=ground.finished is not None, course=line.points(), seen=line.seen, width_mm=across, ledge=ledge,
        capture=capture_plan(line, ground.axes, ground.beside, options.above_gingiva_mm), target=None, geometry=None,
        judgement=None, ways_out=[], warnings=[*ground.warnings, *making.said],
    )  # fmt: skip
    if not maker.round:  # beside the face no line runs along the gingiva
        plan = replace(plan, capture=[c for c in plan.capture if c.sector.startswith(maker.sectors)])
    if not known:
        return replace(plan, why_no_target=why)
    progress("shaping the target", 0.5)
    body = making.body(plan)
    progress("measuring the target", 0.75)
    looked_at = body if maker.round else seen_part(body, ground.tooth.surface, ground.axes, line)
    geometry = _measured(plan, looked_at, ground, line.points() if maker.round else None, making.gauge)
    if not maker.round:
        found = geometry.line
        plan = replace(plan, course=found.points, seen=np.ones(len(found.points), dtype=bool))
    judged = judge(geometry, standard)
    target = geometry.inside if maker.round else body
    return replace(
        plan, target=target, geometry=geometry, judgement=judged, ways_out=_ways_out(judged, maker),
        cover_mm3=making.cover_mm3(), warnings=[*plan.warnings, *_thin_edge(judged)],
    )  # fmt: skip


def _thin_edge(judged: Judgement) -> list[str]:
    """What is to be said where a front tooth is too thin for its depths: face and back meet under its planned edge."""
    over = next((v for v in judged.verdicts if v.criterion == "incisal-reduction" and v.status == "over"), None)
    if over is None or over.value is None:
        return []
    return [
        "This tooth is thin at its edge: with these depths off face and back no edge is left less than "
        f"{over.value:.1f} mm under the old one, where {over.limit:.1f} is the most. Cut less off the back towards the "
        "edge, or choose a material that needs less."
    ]


def check_lean(path: Floats | None, occlusal: Floats) -> None:
    """Raises BadOption for a path that no crown is seated along."""
    lean = 0.0 if path is None else float(degrees_between(path, occlusal))
    if lean > MOST_LEAN_DEG:
        raise BadOption(f"path: it leans {lean:.0f} degrees from the teeth's axis; at most {MOST_LEAN_DEG:.0f}.")


def _mocked_up(
    mockup: Surface | None, preop: Surface, crowns: Crowns, middle: Floats, frame: Frame, case: Options,
    warnings: list[str],
) -> tuple[Surface | None, ReferenceTooth | None]:  # fmt: skip
    """A mock-up brought onto the earlier scan, and the tooth on it; adds to `warnings` where that cannot be trusted."""
    if mockup is None or not maker_of(case.restoration).mocked:
        return None, None
    fit = register(mockup, preop, frame.occlusal, crowns)
    if fit.stable_share < STABLE_SHARE:
        warnings.append("mockup: it does not fit the scan before cutting; planned from the tooth as it is.")
        return None, None
    moved = mockup.moved(fit.matrix)
    return moved, whole_tooth(moved, middle, case.tooth, frame)[0].eased(TAUBIN_STEPS)


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


def _neighbours(preop: Surface, tooth: Surface, middle: Floats, crowns: Crowns) -> Floats:
    """(M, 3) points of the other teeth near this one."""
    near = (np.linalg.norm(preop.vertices - middle, axis=1) < NEAR_MM + 1.5) & crowns.hold(preop.vertices)
    points = preop.vertices[near]
    return points if len(points) == 0 else np.asarray(points[tooth.closest(points)[0] > APART_MM])


def _measured(plan: Plan, target: Surface, ground: Ground, points: Floats | None, gauge: dict[str, float]) -> Geometry:
    """The target laid into the scan, through the same pipeline as a preparation. points: of the line (K, 3), where that
    is where it was planned; gauge: depths of its holes, by side."""
    preop, opposing = ground.preop, ground.opposing
    scans = {"preop": preop, "mockup": ground.mockup, "opposing": opposing}
    exact = Alignment(np.eye(4), 0.0, 0.0, None, 0.0, True)
    options = replace(plan.options.case, opening=None, near=ground.middle, gauge=gauge)
    if points is None:
        centre = _face_middle(target, ground)
        if maker_of(options.restoration).axial:
            options = replace(options, path=plan.path)
    else:
        known = HandLine(points, np.zeros(len(points), dtype=bool))  # the edge is where it was planned
        options = replace(options, path=plan.path, line=known)
        centre = points.mean(axis=0) + 2.0 * plan.axes.up
    if plan.options.case.opening is not None:
        # The opposing scan is raised already; the lift that follows from it is kept by the meaning.
        options = replace(options, earlier="short")
    # The other teeth as they stand: without this one, which would look like its own neighbour.
    others, _ = preop.keep_vertices(plan.tooth.surface.closest(preop.vertices)[0] > APART_MM)
    placed = Placed(
        scans=Scans(others, preop, ground.mockup, opposing),
        alignment={role: exact for role, scan in scans.items() if scan is not None},
        moved={role: scan for role, scan in scans.items() if scan is not None and role != "opposing"},
        opposing=opposing,
        crowns=ground.crowns,
        centre=centre,
        frame=plan.frame,
        crop=target,
        eased=target,
        base=preop,
        noise_um=min(noise_um(preop), 5.0),
        patch_scatter_um=None,
        warnings=tuple(plan.warnings),
        spent_s=0.0,
    )
    teeth = {"preop": plan.tooth} | ({"mockup": ground.finished} if ground.finished is not None else {})
    return complete(prepare(placed, options).by_other(lambda: teeth), options)


def _face_middle(target: Surface, ground: Ground) -> Floats:
    """(3,) the middle of what a target takes off the tooth."""
    cut = target.vertices[-ground.tooth.surface.gap(target.vertices) > CUT_MM]
    return np.asarray(cut.mean(axis=0)) if len(cut) else ground.middle


def _ways_out(judged: Judgement, maker: Maker) -> list[tuple[Verdict, str]]:
    """What the plan cannot meet, each criterion once, with the way that costs the least tooth."""
    out, said = [], set()
    lines = {c.key: c for c in judged.corrections}
    for verdict in judged.verdicts:
        criterion = criteria.of(verdict.criterion)
        if verdict.status not in FAULTS or criterion is None or not criterion.way_out:
            continue
        if verdict.criterion in maker.least_only and not told(maker, verdict):
            continue
        if verdict.criterion in said:
            continue
        said.add(verdict.criterion)
        line = lines.get(f"{verdict.criterion}|{verdict.zone}")  # where no tooth need be cut, that is the first way
        own = line.do if line is not None and (line.stage == "other" or "fuller" in line.do) else ""
        out.append((verdict, f"{own}; or: {criterion.way_out}" if own else criterion.way_out))
    return out
