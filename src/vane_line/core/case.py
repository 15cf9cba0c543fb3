"""The one pipeline that strings the measures together: scans and options in, a Geometry out.

Nothing here depends on a standard: a Geometry can be judged again by another one (`judge.document`) without
measuring again. Three stages, each kept by whoever edits by hand: the scans placed, the path surveyed, the rest.
"""

from __future__ import annotations

import time
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np

from vane_line.core import kinds
from vane_line.core.apart import both
from vane_line.core.arrays import Bools, Floats
from vane_line.core.jaw.pose import Pose, pose_of
from vane_line.core.kinds import Kind
from vane_line.core.kinds.cast import CastCut
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.kinds.child import ChildCut
from vane_line.core.kinds.ring import RingCut
from vane_line.core.kinds.seen import Inside, Seen
from vane_line.core.kinds.window import WindowCut
from vane_line.core.measure.clearance import Bite, bite_of
from vane_line.core.measure.edges import Edges, find_edges
from vane_line.core.measure.ferrule import core_from_colour
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.grounds import grounds_of
from vane_line.core.measure.insertion import neighbour_points
from vane_line.core.measure.moving import NO_GUIDES, Moving
from vane_line.core.measure.neighbours import Neighbour, find_neighbours, teeth_beside
from vane_line.core.measure.path import Path
from vane_line.core.measure.rescan import Rescan, rescans
from vane_line.core.meeting import Meeting, move_jaw
from vane_line.core.mesh.quality import COARSE_EDGE_MM, edge_near
from vane_line.core.mesh.surface import Surface, with_areas
from vane_line.core.options import Options, Progress
from vane_line.core.placed import TAUBIN_STEPS, Alignment, Placed, place
from vane_line.core.prepared import Distances, Prepared
from vane_line.core.room import Room, cleared, posed, room_of
from vane_line.core.scans import Scans
from vane_line.core.shape import Around
from vane_line.core.tooth.anatomy import Anatomy, find_anatomy
from vane_line.core.tooth.crossbite import FunctionalSide, functional_side
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.tooth.plausible import another_tooth
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.trace.section import Axes
from vane_line.errors import UnfitScans

ALGORITHM_VERSION = 44  # raised whenever a measure's result may change: old results are marked, never rewritten
LEAST_INSIDE_MM2 = 5.0
SAME_TOOTH_MM = 1.0  # a line moved by hand less than this leaves the earlier tooth's outline as it was told
UNSETTLED_PATH = (
    "The walls do not agree on a path of insertion: along each path other walls show. The tooth's own axis is taken; "
    "look at the walls, or give the path."
)
OPEN_PATH_DEG = 2.0
OPEN_PATH = (
    "{}: the path may as well lie {:.0f} degrees off, and what is told along it is the less "
    "certain; look at the walls, or give the path."
)


@dataclass(frozen=True, eq=False)
class Geometry:
    """All that was measured, before any judgement: what all kinds share, and what the kind's reader found.

    `inside` is the part of the prep within the finish line.
    """

    options: Options
    frame: Frame
    alignment: dict[str, Alignment]
    axes: Axes
    path: Path
    line: FinishLine
    inside: Surface
    anatomy: Anatomy
    functional: FunctionalSide
    reference: str | None  # preop | mockup: what `space` is measured to
    lift_mm: float  # by which the earlier tooth was built up to the bite for the planned surface
    space: Distances | None
    tooth_removed: Distances | None
    clearance: Distances | None
    bite: Bite | None
    meeting: Meeting  # how the other teeth meet in the recorded bite
    moving: tuple[Moving, ...]  # clearance in the movements of the jaw, where they were asked for
    edges: Edges
    neighbours: tuple[Neighbour, ...]
    cut: RingCut | ChildCut | CavityCut | WindowCut | CastCut  # what the kind's reader found beside
    noise_um: float
    edge_mm: float  # of the prep's triangles near the finish line, median
    patch_scatter_um: float | None
    reasons: dict[str, str]  # criterion -> why it could not be measured
    warnings: tuple[str, ...]
    timing_s: dict[str, float] = field(default_factory=dict)
    rescans: tuple[Rescan, ...] = ()  # what of the scan is better taken again at once

    @property
    def kind(self) -> Kind:
        """Of the restoration that it was measured for."""
        return kinds.of(self.options.restoration)

    @property
    def ring(self) -> RingCut:
        """What the ring reader found. Only for kinds that it reads."""
        assert isinstance(self.cut, RingCut)
        return self.cut

    @property
    def child(self) -> ChildCut:
        """What the child's reader found. Only for the kind that it reads."""
        assert isinstance(self.cut, ChildCut)
        return self.cut

    @property
    def pose(self) -> Pose:
        """Of the lower jaw, in which the opposing teeth were measured to."""
        return pose_of(self.options.opening)

    def in_place(self, scans: Scans) -> dict[str, Surface]:
        """The scans by role in the preparation scan's coordinates, as far as they are trusted there."""
        out = {"prep": scans.prep}
        for role, aligned in self.alignment.items():
            surface: Surface | None = getattr(scans, role)
            if surface is not None and aligned.trusted:
                out[role] = surface.moved(aligned.matrix)
        return out

    @property
    def trusted(self) -> bool:
        return all(a.trusted for a in self.alignment.values())


def measure(scans: Scans, options: Options, progress: Progress = lambda _text, _share: None) -> Geometry:
    """Measure one preparation. Raises UnfitScans or BadOption when there is nothing to measure."""
    find = kinds.of(options.restoration).reader.find
    return complete(prepare(place(scans, options, progress, find), options, progress), options, progress)


def prepare(placed: Placed, options: Options, progress: Progress = lambda _text, _share: None) -> Prepared:
    """Survey along the path that the options ask for; the earlier tooth can be told apart then."""
    began = time.perf_counter()
    progress("tracing the finish line", 0.5)
    reader = kinds.of(options.restoration).reader
    # The path here, which the rest hangs on; beside it what hangs neither on path nor line.
    surveyed, grounds = both(
        lambda: reader.trace(placed, options),
        lambda: grounds_of(placed.scans.prep, placed.base, placed.centre, TAUBIN_STEPS),
    )
    inside = reader.inside(placed, surveyed, surveyed.found)
    tell = partial(reader.teeth, placed, surveyed, surveyed.found, inside, options)
    return Prepared(placed, surveyed, inside, grounds, tell, time.perf_counter() - began)


@dataclass(frozen=True, eq=False)
class _Form:
    """The preparation's edges, (V,) which vertices of the ground beside it are of other teeth, what of the scan is
    better taken again, how the others meet as recorded, and how far the opposing teeth are: all that asks for no
    earlier tooth."""

    edges: Edges
    standing: Bools
    neighbours: tuple[Neighbour, ...]
    rescans: tuple[Rescan, ...]
    bite: Bite | None
    gap: Distances | None


def complete(prepared: Prepared, options: Options, progress: Progress = lambda _text, _share: None) -> Geometry:
    """Everything inside the finish line, as found or as the options' hand drew it."""
    began = time.perf_counter()
    placed, surveyed = prepared.placed, prepared.survey
    warnings, reasons = list(placed.warnings), dict[str, str]()
    reader = kinds.of(options.restoration).reader
    line = surveyed.found if options.line is None else reader.follow(surveyed, options.line)
    mask = prepared.inside if options.line is None else reader.inside(placed, surveyed, line)
    inside = _inside(placed, line, mask)
    girth = reader.girth(surveyed, line)
    if np.abs(girth.radius - reader.girth(surveyed, surveyed.found).radius).max() > SAME_TOOTH_MM:
        prepared = prepared.by_other(partial(reader.teeth, placed, surveyed, line, inside.mask, options))
    over = posed(placed, options)
    # The room here: it adds to what is said, and to what is remembered between edits.
    room, form = both(
        lambda: room_of(prepared, options, inside, girth, over, said=(warnings, reasons), progress=progress),
        lambda: _form(prepared, options, inside, girth, over),
    )
    if form.bite is not None:
        prepared.bite.keep(form.bite)
    if form.gap is not None:
        prepared.distances("opposing").keep(inside.index, form.gap)
        room = replace(room, gap=form.gap)
    was = prepared.teeth.get("preop")
    taken = None if was is None else prepared.distances("preop").at(inside.index, placed.eased.vertices, was.distance)
    warnings += reader.check(surveyed.axes, inside, None if taken is None else taken.value)
    tooth = room.tooth.surface if room.tooth else None
    anatomy = find_anatomy(options.tooth, tooth, girth.points, surveyed.axes)
    warnings += _anatomy_warnings(anatomy, options.tooth)
    if room.tooth is not None and options.meaning.natural:
        size = _crown_size(room.tooth.surface, placed.frame)
        other = another_tooth(options.tooth, size, placed.frame.along, placed.frame.width)
        warnings += [other] if other else []
    open_deg = surveyed.path.open_deg()
    if not surveyed.path.settled:
        warnings.append(UNSETTLED_PATH)
    elif open_deg > OPEN_PATH_DEG:
        warnings.append(OPEN_PATH.format(surveyed.path.why_open, 2 * open_deg))
    warnings += _line_warnings(line, inside.edge_mm, kinds.of(options.restoration).edgeless)
    progress("measuring walls and finish line", 0.95)
    return _whole(prepared, options, inside, girth, room, form, anatomy, said=(warnings, reasons, began))


def _raised(bite: Bite, options: Options) -> Bite:
    """The bite, as sure as the jaw's pose leaves it."""
    return replace(bite, u_mm=float(np.hypot(bite.u_mm, pose_of(options.opening).u_mm(options.tooth))))


def _inside(placed: Placed, line: FinishLine, mask: Bools) -> Inside:
    """mask: (V,) of the crop. Raises UnfitScans where there is next to nothing within the line."""
    crop = placed.crop
    if crop.vertex_areas[mask].sum() < LEAST_INSIDE_MM2:
        raise UnfitScans(
            "prep: no preparation with a wall and a finish line is found there; give a point on the cut tooth (near)."
        )
    surface, index = crop.keep_vertices(mask)
    even = surface.with_vertices(placed.eased.vertices[index])
    areas = with_areas(surface, even.vertex_areas)
    return Inside(line, mask, index, areas, even, edge_near(crop, line.points))


def _line_warnings(line: FinishLine, edge_mm: float, edgeless: bool) -> list[str]:
    said = []
    if edge_mm > COARSE_EDGE_MM:
        said.append(
            f"The prep scan is coarse at the finish line (edges of {edge_mm:.2f} mm): what is read there is less "
            "certain, and the form of its edge is not judged."
        )
    if line.doubtful_share > 0.02 and not edgeless:
        said.append(
            f"The finish line is doubtful over {100 * line.doubtful_share:.0f} % of its course: "
            "no clear finish line is seen there."
        )
    return said


def _form(prepared: Prepared, options: Options, inside: Inside, girth: FinishLine, over: Surface | None) -> _Form:
    placed, axes = prepared.placed, prepared.survey.axes
    grounds = prepared.grounds
    standing = teeth_beside(grounds.now, placed.crowns, girth, axes)
    neighbours = find_neighbours(
        grounds, standing, inside.even, placed.base, placed.crowns, line=girth, axes=axes,
        cut_too=placed.of_others_cut,
    )  # fmt: skip
    edges = find_edges(inside.even, inside.line, axes, options.bur_radius_mm)
    ringed = kinds.of(options.restoration).reader.name == "ring"
    bite, recorded = None, placed.opposing  # checked as it was recorded: raised, no tooth meets
    if recorded is not None and placed.alignment["opposing"].trusted:
        bite = prepared.bite.of(lambda: bite_of(placed.scans.prep, recorded, girth, axes, options.tooth))
    gap = None
    if over is not None:
        gap = prepared.distances("opposing").at(inside.index, placed.eased.vertices, partial(cleared, over))
    return _Form(
        edges=edges, standing=standing, neighbours=tuple(neighbours),
        rescans=rescans(placed.crop, inside.line, axes, ringed), bite=bite, gap=gap,
    )  # fmt: skip


def _whole(
    prepared: Prepared, options: Options, inside: Inside, girth: FinishLine, room: Room, form: _Form,
    anatomy: Anatomy, said: tuple[list[str], dict[str, str], float],
) -> Geometry:  # fmt: skip
    """What the kind's reader finds, and everything in one; `said`: warnings, reasons, when it began."""
    placed, surveyed, line = prepared.placed, prepared.survey, inside.line
    (warnings, reasons, began), axes = said, surveyed.axes
    bite = None if form.bite is None else _raised(form.bite, options)
    earlier, ground = room.tooth.surface if room.tooth else None, prepared.grounds.now.surface
    seen = Seen(
        tooth=options.tooth, placed=placed, survey=surveyed, inside=inside, anatomy=anatomy, earlier=earlier,
        finished=room.finished, opposing=room.opposing,
        others=neighbour_points(ground, placed.crowns, girth, axes), beside=ground, standing=form.standing,
        around=_around(options, room.tooth, inside.surface, axes), noise_um=placed.noise_um,
        gauge=options.gauge,
    )  # fmt: skip
    kind = kinds.of(options.restoration)
    cut = kind.reader.cut(seen)
    warnings += kind.unlike(cut)
    if room.tooth is None:
        reasons["path-blocked"] = "without an earlier scan of the tooth the planned crown is not known"
    functional = functional_side(options.tooth, options.functional_side, anatomy, room.opposing, axes, inside.surface)
    warnings += functional.warnings
    warnings += room.meeting.said(placed.frame)
    return Geometry(
        options=options, frame=placed.frame, alignment=placed.alignment, axes=axes, path=surveyed.path,
        line=line, inside=inside.surface, anatomy=anatomy, cut=cut,
        functional=functional, reference=room.reference, lift_mm=room.lift_mm, space=room.space,
        tooth_removed=room.removed, clearance=room.gap, bite=bite,
        meeting=room.meeting, moving=_moving(prepared, options, inside, girth, room, bite, reasons),
        edges=form.edges, neighbours=form.neighbours, rescans=form.rescans,
        noise_um=placed.noise_um, edge_mm=inside.edge_mm,
        patch_scatter_um=placed.patch_scatter_um, reasons=reasons, warnings=tuple(warnings),
        timing_s={"align": placed.spent_s, "measure": prepared.spent_s + time.perf_counter() - began},
    )  # fmt: skip


def _moving(
    prepared: Prepared, options: Options, inside: Inside, girth: FinishLine, room: Room, bite: Bite | None,
    reasons: dict[str, str],
) -> tuple[Moving, ...]:  # fmt: skip
    """Clearance in the movements asked for; adds to `reasons` why there is none."""
    by = options.movements
    if by is None or room.opposing is None or room.gap is None or bite is None:
        return ()  # as the clearance's own reason says
    if by.incisal_deg is None and not bite.ok:
        reasons["moving"] = f"the teeth guide the movement, and {bite.note[0].lower()}{bite.note[1:]}"
        return ()
    points = prepared.placed.eased.vertices[inside.index]
    found = move_jaw(
        prepared.placed, options, girth, prepared.survey.axes, room.opposing, points=points, rest=room.gap.value
    )
    if not found:
        reasons["moving"] = NO_GUIDES
    return found


def _around(options: Options, earlier: ReferenceTooth | None, inside: Surface, axes: Axes) -> Around:
    """What is known of gingiva and core: drawn by hand first, else told from the scans."""
    seam = None if earlier is None else earlier.gingiva
    core = options.core if options.core is not None else core_from_colour(inside, axes)
    return Around(options.gingiva, seam, core, options.tooth.front)


def _crown_size(tooth: Surface, frame: Frame) -> Floats:
    """(2,) mesiodistal and faciolingual size, without the few vertices that run out into a contact."""
    plan = tooth.vertices @ np.stack([frame.mesial, frame.facial], axis=1)
    return np.asarray(np.quantile(plan, 0.996, axis=0) - np.quantile(plan, 0.004, axis=0))


def _anatomy_warnings(anatomy: Anatomy, tooth: ToothNumber) -> list[str]:
    if anatomy.cusps and anatomy.source == "template":
        return ["Zones come from the template of the tooth's class: no cusps were found on an earlier surface."]
    return []
