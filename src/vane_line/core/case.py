"""The one pipeline that strings the measures together: scans and options in, a Geometry out.

Nothing here depends on a standard: a Geometry can be judged again by another one (`judge.document`) without
measuring again. Three stages, each kept by whoever edits by hand: the scans placed, the path surveyed, the rest.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Generic, TypeVar

import numpy as np

from vane_line.core import kinds
from vane_line.core.apart import both
from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.jaw.pose import Pose, pose_of
from vane_line.core.kinds import Kind
from vane_line.core.kinds.cast import CastCut
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.kinds.child import ChildCut
from vane_line.core.kinds.ring import RingCut
from vane_line.core.kinds.seen import Inside, Seen
from vane_line.core.kinds.window import WindowCut
from vane_line.core.measure.clearance import Bite, bite_of, clearance
from vane_line.core.measure.edges import Edges, find_edges
from vane_line.core.measure.ferrule import core_from_colour
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.insertion import neighbour_points
from vane_line.core.measure.moving import NO_GUIDES, Moving
from vane_line.core.measure.neighbours import Neighbour, find_neighbours, teeth_beside
from vane_line.core.measure.path import Path
from vane_line.core.measure.rescan import Rescan, rescans
from vane_line.core.meeting import Meeting, meet, move_jaw
from vane_line.core.mesh.quality import COARSE_EDGE_MM, edge_near
from vane_line.core.mesh.surface import Surface, with_areas
from vane_line.core.options import Options, Progress
from vane_line.core.placed import Alignment, Placed, place
from vane_line.core.scans import Scans
from vane_line.core.shape import Around
from vane_line.core.survey import Survey
from vane_line.core.tooth.anatomy import Anatomy, find_anatomy
from vane_line.core.tooth.crossbite import FunctionalSide, functional_side
from vane_line.core.tooth.earlier import INSIDE_MM, built_up_mm, contradictions, lift_to_bite
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.tooth.plausible import another_tooth
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.trace.section import Axes
from vane_line.errors import UnfitScans

ALGORITHM_VERSION = 22  # raised whenever a measure's result may change: old results are marked, never rewritten
MAX_OUTSIDE_SHARE = 0.12  # of the preparation standing outside the earlier tooth: then the outline is wrong
OUTSIDE_MM = 0.15
LEAST_INSIDE_MM2 = 5.0
SAME_TOOTH_MM = 1.0  # a line moved by hand less than this leaves the earlier tooth's outline as it was told

T = TypeVar("T")


@dataclass(frozen=True, eq=False)
class Distances:
    """A signed distance per inside vertex (N,), where the other scan never saw the tooth (N,), and the standard
    uncertainty (N,) that its resolution leaves, mm."""

    value: Floats
    unseen: Bools
    unresolved: Floats


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


class Remembered:
    """A distance, a flag and an uncertainty per vertex of the crop, each taken once, when it is first asked for."""

    def __init__(self, count: int) -> None:
        self._value, self._unresolved = np.full(count, np.nan), np.zeros(count)
        self._flag = np.zeros(count, dtype=bool)

    def at(self, index: Ints, points: Floats, take: Callable[[Floats], tuple[Floats, Bools, Floats]]) -> Distances:
        """Of the vertices `index` (N,), standing at `points` (V, 3)."""
        new = index[np.isnan(self._value[index])]
        if len(new):
            self._value[new], self._flag[new], self._unresolved[new] = take(points[new])
        return Distances(self._value[index], self._flag[index], self._unresolved[index])


class Once(Generic[T]):
    """A value made when it is first asked for, and kept."""

    def __init__(self) -> None:
        self._made: list[T] = []

    def of(self, make: Callable[[], T]) -> T:
        """The value; `make` gives it the first time."""
        if not self._made:
            self._made.append(make())
        return self._made[0]


@dataclass(frozen=True, eq=False)
class Prepared:
    """All that a hand on the finish line does not change, kept between such edits; teeth: reference teeth by role.

    lift: how far the earlier tooth stands from the bite, None where it meets nothing.
    """

    placed: Placed
    survey: Survey
    teeth: dict[str, ReferenceTooth]
    spent_s: float
    remembered: dict[str, Remembered] = field(default_factory=dict)
    bite: Once[Bite] = field(default_factory=Once)
    lift: Once[float | None] = field(default_factory=Once)

    def distances(self, name: str) -> Remembered:
        """What is remembered of one distance."""
        return self.remembered.setdefault(name, Remembered(self.placed.crop.n_vertices))


def measure(scans: Scans, options: Options, progress: Progress = lambda _text, _share: None) -> Geometry:
    """Measure one preparation. Raises UnfitScans or BadOption when there is nothing to measure."""
    find = kinds.of(options.restoration).reader.find
    return complete(prepare(place(scans, options, progress, find), options, progress), options, progress)


def prepare(placed: Placed, options: Options, progress: Progress = lambda _text, _share: None) -> Prepared:
    """Survey along the path that the options ask for, and tell the earlier tooth apart."""
    began = time.perf_counter()
    progress("tracing the finish line", 0.5)
    reader = kinds.of(options.restoration).reader
    surveyed = reader.trace(placed, options)
    inside = reader.inside(placed, surveyed, surveyed.found)
    progress("telling the earlier tooth apart", 0.6)
    teeth = reader.teeth(placed, surveyed, surveyed.found, inside, options)
    return Prepared(placed, surveyed, teeth, time.perf_counter() - began)


@dataclass(frozen=True, eq=False)
class _Room:
    """What the tooth was, and how far the prep lies from it and from the opposing teeth.

    opposing: None where there are none, or where they cannot be trusted. finished: what the space is measured to.
    """

    opposing: Surface | None
    finished: Surface | None
    lift_mm: float
    space: Distances | None
    removed: Distances | None
    tooth: ReferenceTooth | None
    reference: str | None
    gap: Distances | None
    bite: Bite | None
    meeting: Meeting


@dataclass(frozen=True, eq=False)
class _Form:
    """The preparation's edges, what stands beside it, (V,) which vertices of `placed.beside` are of other teeth, and
    what of the scan is better taken again: all that hangs on no other scan but the neighbours' nicks."""

    edges: Edges
    standing: Bools
    neighbours: tuple[Neighbour, ...]
    rescans: tuple[Rescan, ...]


def complete(prepared: Prepared, options: Options, progress: Progress = lambda _text, _share: None) -> Geometry:
    """Everything inside the finish line, as found or as the options' hand drew it."""
    began = time.perf_counter()
    placed, surveyed = prepared.placed, prepared.survey
    warnings, reasons = list(placed.warnings), dict[str, str]()
    reader = kinds.of(options.restoration).reader
    line = surveyed.found if options.line is None else reader.follow(surveyed, options.line)
    inside = _inside(placed, line, reader.inside(placed, surveyed, line))
    girth = reader.girth(surveyed, line)
    if np.abs(girth.radius - reader.girth(surveyed, surveyed.found).radius).max() > SAME_TOOTH_MM:
        teeth = reader.teeth(placed, surveyed, line, inside.mask, options)
        prepared = Prepared(placed, surveyed, teeth, prepared.spent_s)
    # The room here: it adds to what is said, and to what is remembered between edits.
    room, form = both(
        partial(_room, prepared, options, inside, girth, warnings, reasons, progress),
        partial(_form, prepared, options, inside, girth),
    )
    was = prepared.teeth.get("preop")
    taken = None if was is None else prepared.distances("preop").at(inside.index, placed.eased.vertices, was.distance)
    warnings += reader.check(inside, None if taken is None else taken.value)
    tooth = room.tooth.surface if room.tooth else None
    anatomy = find_anatomy(options.tooth, tooth, girth.points, surveyed.axes)
    warnings += _anatomy_warnings(anatomy, options.tooth)
    if room.tooth is not None and options.meaning.natural:
        size = _crown_size(room.tooth.surface, placed.frame)
        other = another_tooth(options.tooth, size, placed.frame.along, placed.frame.width)
        warnings += [other] if other else []
    warnings += _line_warnings(line, inside.edge_mm, kinds.of(options.restoration).edgeless)
    progress("measuring walls and finish line", 0.95)
    return _whole(prepared, options, inside, girth, room, form, anatomy, said=(warnings, reasons, began))


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


def _room(
    prepared: Prepared, options: Options, inside: Inside, girth: FinishLine, warnings: list[str],
    reasons: dict[str, str], progress: Progress,
) -> _Room:  # fmt: skip
    """Distances to the earlier tooth and to the opposing teeth; adds to `warnings` and `reasons`."""
    placed, axes = prepared.placed, prepared.survey.axes
    progress("measuring the reduction", 0.7)
    pose, opposing = pose_of(options.opening), placed.opposing
    if opposing is not None:
        opposing = pose.opposing(opposing, placed.frame, placed.centre, options.tooth)
    over = opposing if opposing is not None and placed.alignment["opposing"].trusted else None
    lift = _lift(prepared, options, over, axes, warnings)
    space, removed, tooth, which = _reductions(prepared, inside.index, options, reasons, lift * axes.up)
    planned = prepared.teeth.get(which) if which else None
    finished = planned.surface if planned is not None and space is not None else None
    progress("measuring the clearance", 0.9)
    if over is None or placed.opposing is None:
        why = placed.alignment["opposing"].why if placed.opposing is not None else "no opposing scan was given"
        reasons["clearance"] = why
        return _Room(None, finished, lift, space, removed, tooth, which, gap=None, bite=None, meeting=Meeting())
    gap = prepared.distances("opposing").at(
        inside.index, placed.eased.vertices,
        lambda p: (clearance(p, over), np.zeros(len(p), dtype=bool), np.zeros(len(p))),
    )  # fmt: skip
    recorded = placed.opposing  # checked as it was recorded: raised, no tooth meets
    bite = prepared.bite.of(lambda: bite_of(placed.scans.prep, recorded, girth, axes, options.tooth))
    bite = replace(bite, u_mm=float(np.hypot(bite.u_mm, pose.u_mm(options.tooth))))
    warnings += [pose.caution] if pose.caution else []
    meeting = meet(placed, options, girth, axes, over, tooth.surface if tooth else None)
    return _Room(over, finished, lift, space, removed, tooth, which, gap=gap, bite=bite, meeting=meeting)


def _form(prepared: Prepared, options: Options, inside: Inside, girth: FinishLine) -> _Form:
    placed, axes = prepared.placed, prepared.survey.axes
    standing = teeth_beside(placed.beside, placed.crowns, girth, axes)
    beside = find_neighbours(
        placed.beside, standing, inside.even, placed.base, placed.crowns, line=girth, axes=axes,
        cut_too=placed.of_others_cut,
    )  # fmt: skip
    edges = find_edges(inside.even, inside.line, axes, options.bur_radius_mm)
    ringed = kinds.of(options.restoration).reader.name == "ring"
    return _Form(edges, standing, tuple(beside), rescans(placed.crop, inside.line, axes, ringed))


def _whole(
    prepared: Prepared, options: Options, inside: Inside, girth: FinishLine, room: _Room, form: _Form,
    anatomy: Anatomy, said: tuple[list[str], dict[str, str], float],
) -> Geometry:  # fmt: skip
    """What the kind's reader finds, and everything in one; `said`: warnings, reasons, when it began."""
    placed, surveyed, line = prepared.placed, prepared.survey, inside.line
    (warnings, reasons, began), axes = said, surveyed.axes
    earlier = room.tooth.surface if room.tooth else None
    seen = Seen(
        tooth=options.tooth, placed=placed, survey=surveyed, inside=inside, anatomy=anatomy, earlier=earlier,
        finished=room.finished, opposing=room.opposing,
        others=neighbour_points(placed.beside, placed.crowns, girth, axes), standing=form.standing,
        around=_around(options, room.tooth, inside.surface, axes), noise_um=placed.noise_um,
        gauge=options.gauge,
    )  # fmt: skip
    cut = kinds.of(options.restoration).reader.cut(seen)
    if room.tooth is None:
        reasons["path-blocked"] = "without an earlier scan of the tooth the planned crown is not known"
    functional = functional_side(options.tooth, options.functional_side, anatomy, room.opposing, axes, inside.surface)
    warnings += functional.warnings
    warnings += room.meeting.said(placed.frame)
    return Geometry(
        options=options, frame=placed.frame, alignment=placed.alignment, axes=axes, path=surveyed.path,
        line=line, inside=inside.surface, anatomy=anatomy, cut=cut,
        functional=functional, reference=room.reference, lift_mm=room.lift_mm, space=room.space,
        tooth_removed=room.removed, clearance=room.gap, bite=room.bite,
        meeting=room.meeting, moving=_moving(prepared, options, inside, girth, room, reasons),
        edges=form.edges, neighbours=form.neighbours, rescans=form.rescans,
        noise_um=placed.noise_um, edge_mm=inside.edge_mm,
        patch_scatter_um=placed.patch_scatter_um, reasons=reasons, warnings=tuple(warnings),
        timing_s={"align": placed.spent_s, "measure": prepared.spent_s + time.perf_counter() - began},
    )  # fmt: skip


def _moving(
    prepared: Prepared, options: Options, inside: Inside, girth: FinishLine, room: _Room, reasons: dict[str, str]
) -> tuple[Moving, ...]:
    """Clearance in the movements asked for; adds to `reasons` why there is none."""
    by = options.movements
    if by is None or room.opposing is None or room.gap is None or room.bite is None:
        return ()  # as the clearance's own reason says
    if by.incisal_deg is None and not room.bite.ok:
        reasons["moving"] = f"the teeth guide the movement, and {room.bite.note[0].lower()}{room.bite.note[1:]}"
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


def _reductions(
    prepared: Prepared,
    inside_index: Ints,
    options: Options,
    reasons: dict[str, str],
    lift: Floats,
) -> tuple[Distances | None, Distances | None, ReferenceTooth | None, str | None]:
    """Space to the planned outer surface, tooth removed, the reference tooth, and which scan the space is to."""
    placed = prepared.placed
    inside_area = placed.eased.vertex_areas[inside_index]
    moved = placed.moved
    found: dict[str, Distances] = {}
    kept: dict[str, ReferenceTooth] = {}
    for role in ("preop", "mockup"):
        if role not in moved:
            reasons[role] = f"no {role} scan was given"
            continue
        if not placed.alignment[role].trusted:
            reasons[role] = f"{role}: {placed.alignment[role].why}"
            continue
        tooth = prepared.teeth.get(role)
        if tooth is None:
            reasons[role] = f"the tooth could not be told apart on the {role} scan"
            continue
        taken = prepared.distances(role).at(inside_index, placed.eased.vertices, tooth.distance)
        value, unseen = taken.value, taken.unseen
        area = inside_area
        outside = float(area[(value < -OUTSIDE_MM) & ~unseen].sum() / max(float(area[~unseen].sum()), 1e-9))
        if outside > MAX_OUTSIDE_SHARE:
            reasons[role] = (
                f"{100 * outside:.0f} % of what was taken for the preparation stands outside the {role} tooth: "
                "its outline could not be told; give a point on the cut tooth or its axis"
            )
            continue
        found[role], kept[role] = taken, tooth
    meaning = options.meaning
    removed = found.get("preop") if meaning.natural else None
    if not meaning.natural:
        reasons["tooth-removed"] = meaning.why_no_removal
    if not meaning.copied:
        reasons["preop"] = "the earlier surface is an old crown whose contour is not declared to be the planned one"
    which = "mockup" if "mockup" in moved else ("preop" if "preop" in moved and meaning.copied else None)
    space = found.get(which) if which else None
    if space is not None and which == "preop" and lift.any():
        space = _built_up(space, kept["preop"], placed.eased.vertices[inside_index], lift)
    if space is None:
        reasons["reduction"] = reasons.get(which or "preop", "no reference was given")
    reference = kept.get("preop") or kept.get("mockup")
    return space, removed, reference, which


def _built_up(space: Distances, tooth: ReferenceTooth, points: Floats, lift: Floats) -> Distances:
    """Distance to the tooth and all it passes on being lifted by `lift` (3,): the greater of the two ends' distances.

    Both are less than the true distance to the swept body's surface, never more.
    """
    value, unseen = tooth.depth(points - lift)
    return Distances(np.maximum(space.value, value), space.unseen & unseen, space.unresolved)


def _lift(prepared: Prepared, options: Options, opposing: Surface | None, axes: Axes, warnings: list[str]) -> float:
    """By how much the earlier tooth is built up to the bite, 0 where its form is kept; warns of mismatches."""
    tooth, mockup = prepared.teeth.get("preop"), prepared.teeth.get("mockup")
    inside = None
    if tooth is not None and mockup is not None:
        depth, unseen = tooth.depth(mockup.surface.vertices)
        inside = float(((depth > INSIDE_MM) & ~unseen).mean())
    found = None
    # Upper front teeth close in front of the lower ones: along their own axis they may meet nothing, and be whole.
    beside = options.tooth.front and options.tooth.upper and not options.meaning.lifted
    if tooth is not None and opposing is not None and not beside:
        surface, over = tooth.surface, opposing
        found = prepared.lift.of(lambda: lift_to_bite(surface, over, axes.up))
    if opposing is not None or options.meaning.lifted or inside is not None:
        warnings += contradictions(options.meaning, found, inside, options.opening is not None)
    return built_up_mm(options.meaning, found, options.opening is not None)


def _crown_size(tooth: Surface, frame: Frame) -> Floats:
    """(2,) mesiodistal and faciolingual size, without the few vertices that run out into a contact."""
    plan = tooth.vertices @ np.stack([frame.mesial, frame.facial], axis=1)
    return np.asarray(np.quantile(plan, 0.996, axis=0) - np.quantile(plan, 0.004, axis=0))


def _anatomy_warnings(anatomy: Anatomy, tooth: ToothNumber) -> list[str]:
    if anatomy.cusps and anatomy.source == "template":
        return ["Zones come from the template of the tooth's class: no cusps were found on an earlier surface."]
    return []
