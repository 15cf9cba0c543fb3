"""The room over a preparation: how far it lies from what the tooth was, from what the restoration will be, and from
the opposing teeth."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.jaw.pose import pose_of
from vane_line.core.kinds.seen import Inside
from vane_line.core.measure.clearance import clearance
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.meeting import Meeting, meet
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options, Progress
from vane_line.core.placed import Placed
from vane_line.core.prepared import Distances, Prepared
from vane_line.core.tooth.earlier import INSIDE_MM, built_up_mm, contradictions, lift_to_bite
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.trace.section import Axes

MAX_OUTSIDE_SHARE = 0.12  # of the preparation standing outside the earlier tooth: then the outline is wrong
OUTSIDE_MM = 0.15


@dataclass(frozen=True, eq=False)
class Room:
    """What the tooth was, and how far the prep lies from it and from the opposing teeth.

    opposing: None where there are none, or where they cannot be trusted. finished: what the space is measured to. gap:
    to the opposing teeth; it asks for no earlier tooth, and is told beside the rest.
    """

    opposing: Surface | None
    finished: Surface | None
    lift_mm: float
    space: Distances | None
    removed: Distances | None
    tooth: ReferenceTooth | None
    reference: str | None
    meeting: Meeting
    gap: Distances | None = None


def posed(placed: Placed, options: Options) -> Surface | None:
    """The opposing teeth where they are measured to; None where there are none, or where they cannot be trusted."""
    if placed.opposing is None or not placed.alignment["opposing"].trusted:
        return None
    return pose_of(options.opening).opposing(placed.opposing, placed.frame, placed.centre, options.tooth)


def cleared(over: Surface, points: Floats) -> tuple[Floats, Bools, Floats]:
    """Signed distances (N,) of `points` (N, 3) to the opposing teeth, as they are remembered."""
    return clearance(points, over), np.zeros(len(points), dtype=bool), np.zeros(len(points))


def room_of(
    prepared: Prepared, options: Options, inside: Inside, girth: FinishLine, over: Surface | None, *,
    said: tuple[list[str], dict[str, str]], progress: Progress,
) -> Room:  # fmt: skip
    """Distances to the earlier tooth, and how the teeth meet. over: as `posed`; said: warnings and reasons, to which it
    adds."""
    placed, axes = prepared.placed, prepared.survey.axes
    warnings, reasons = said
    progress("telling the earlier tooth apart", 0.6)
    teeth = prepared.teeth
    progress("measuring the reduction", 0.7)
    lift = _lift(prepared, options, over, axes, warnings)
    space, removed, tooth, which = _reductions(prepared, inside.index, options, reasons, lift * axes.up)
    planned = teeth.get(which) if which else None
    finished = planned.surface if planned is not None and space is not None else None
    progress("measuring the clearance", 0.9)
    if over is None:
        why = placed.alignment["opposing"].why if placed.opposing is not None else "no opposing scan was given"
        reasons["clearance"] = why
        return Room(None, finished, lift, space, removed, tooth, which, meeting=Meeting())
    caution = pose_of(options.opening).caution
    warnings += [caution] if caution else []
    meeting = meet(placed, options, girth, axes, over, tooth.surface if tooth else None)
    return Room(over, finished, lift, space, removed, tooth, which, meeting=meeting)


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
