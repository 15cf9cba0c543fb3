"""Room for the material: reduction, tooth removed, clearance to the opposing teeth."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.burs import for_depth
from vane_line.core.case import Geometry
from vane_line.core.judge.criteria.child import faces_removed, round_about, shorten_child, slice_off
from vane_line.core.judge.criteria.front import EDGE, NECK, crest_mm, edge_removed, middle_of_face, of_ring
from vane_line.core.judge.criteria.sides import told
from vane_line.core.judge.limits import Limits
from vane_line.core.judge.record import CHILD_KINDS, EVERY_KIND, WITH_LEDGE, Criterion, Held, verdicts
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import (
    AGREED,
    HAND_MM,
    HOLD_FLAT,
    HOLD_LEDGE,
    HOLD_WALL,
    SPOT,
    WHOLE,
    Correction,
    Job,
    Patch,
    beyond,
    said,
)
from vane_line.core.measure.reduction import ZoneValue, summarise
from vane_line.core.measure.retention import SIDES, wall_overcut_mm
from vane_line.core.measure.zones import CUSPS, OCCLUSAL_HEADS, Zones

FACES = ("facial", "lingual-fossa")  # of front teeth: near the planned surface all over, so depth says what was cut
MEETING = ("lingual-fossa", "lingual-wall", "wrap")  # of front teeth: what the opposing teeth come near
MEETING_BELOW = ("incisal-edge", "facial/incisal", "facial/middle")  # of lower ones
INSIDE_IDEAL = "the wall stands inside the one that the finish line and an ideal taper ask for"
OVER_CUT = "nothing to cut: record it and tell the laboratory; bond it, and on a crown let the walls' foot take grooves"
TOO_DEEP = "more was cut than the material needs"
ONLY_HERE = "only here: stop at the amount, round over to the cusps beside it"
FULLER, OPPOSING = "fuller", "opposing"


def is_occlusal(zone: str) -> bool:
    """Whether the opposing teeth come near there."""
    return zone.split("/")[0] in OCCLUSAL_HEADS or zone in MEETING


def meets_opposing(geometry: Geometry, zone: str) -> bool:
    """Whether clearance is judged there: lower front teeth bite on edge and face, unless the bite is reversed."""
    tooth = geometry.options.tooth
    if not tooth.front:
        return is_occlusal(zone) or zone in geometry.anatomy.cusps
    behind = geometry.functional.side == "lingual"  # in a reversed bite the roles change
    return zone == "incisal-edge" or (zone in MEETING if behind else zone in MEETING_BELOW)


def by_depth(geometry: Geometry, zone: str) -> bool:
    """Whether over-cutting is judged by depth there: on walls, as over a front tooth's neck, a bulging crown gives
    large distances, and how far an edge is taken down is not told by the least one."""
    return not (zone == EDGE or (zone == NECK and of_ring(geometry))) and told_by_depth(zone)


def told_by_depth(zone: str) -> bool:
    """The same of a row that was judged."""
    return zone in CUSPS or zone.split("/")[0] in (*OCCLUSAL_HEADS, *FACES)


# --- judged --------------------------------------------------------------------------------------------------------


def _reduction(held: Held) -> list[Verdict]:
    geometry, standard, space = held.geometry, held.standard, held.space
    if space is None:
        return [not_measured("reduction", "overall", geometry.reasons.get("reduction", "no reference was given"))]
    out = []
    judge_over = geometry.reference == "preop" and geometry.options.meaning.natural
    to, deepest = _space_to(geometry), where_told(held, space.value, space.smooth, space.unseen, space.zones)
    for zone in space.zones:
        limits = held.limits_of(zone.zone)
        if limits is None:
            continue
        why = held.side_unknown or _unseen(zone)
        if why:
            out.append(not_measured("reduction", zone.zone, why))
            continue
        u = held.budget.reduction(space.u_low(zone.zone))
        out += _lowest(zone, "reduction", limits, u, f"{to}{standard.reason}")
        if judge_over and by_depth(geometry, zone.zone):
            u = held.budget.reduction(space.u_high(zone.zone))
            out += _highest(deepest[zone.zone], "reduction", limits, u)
    return out


def _all_reduction(held: Held) -> list[Verdict]:
    """With a prefabricated crown's sides, whose cut runs out to nought at the neck."""
    return [*_reduction(held), *(round_about(held) if held.geometry.kind.primary else [])]


def _all_removed(held: Held) -> list[Verdict]:
    return [*_removed(held), *(faces_removed(held) if held.geometry.kind.primary else [])]


def _space_to(geometry: Geometry) -> str:
    """What the space is measured to, where it is not simply the tooth before."""
    if geometry.reference == "mockup":
        return "space to the mock-up; "
    if geometry.lift_mm > 0:
        return f"space to {geometry.options.meaning.space_to} ({geometry.lift_mm:.1f} mm higher than before); "
    return "" if geometry.options.meaning.natural else f"space to {geometry.options.meaning.space_to}; "


def _removed(held: Held) -> list[Verdict]:
    """Over-cutting is judged on the tooth removed; with the natural tooth as reference it is the same number."""
    geometry, removed = held.geometry, held.removed
    if removed is None:
        why = geometry.reasons.get(
            "tooth-removed", geometry.reasons.get("preop", "no scan of the natural tooth was given")
        )
        return [not_measured("tooth-removed", "overall", why, "max"), *_overcut_walls(held)]
    out = []
    deepest = where_told(held, removed.value, removed.smooth, removed.unseen, removed.zones)
    for zone in removed.zones:
        limits = held.limits_of(zone.zone)
        if limits is None or not by_depth(geometry, zone.zone):
            continue
        why = held.side_unknown or _unseen(zone)
        if why:
            out.append(not_measured("tooth-removed", zone.zone, why, "max"))
            continue
        u = held.budget.reduction(removed.u_high(zone.zone))
        out += _highest(deepest[zone.zone], "tooth-removed", limits, u)
    return out + edge_removed(held) + _overcut_walls(held)


def where_told(
    held: Held, value: Floats, smooth: Floats, unseen: Bools, zones: list[ZoneValue]
) -> dict[str, ZoneValue]:
    """By name `zones`, what (N,) distances are over them, each as far as depth tells what was cut there: of a front
    tooth's face, under a crown, its middle, where that is seen."""

    def middle(whole: Zones) -> Zones:
        return replace(whole, index=np.where(middle_of_face(held.geometry, whole), whole.index, -1))

    whole, told = {zone.zone: zone for zone in zones}, middle(held.zones)
    if (told.index == held.zones.index).all():
        return whole
    nudged = [middle(z) for z in held.nudged]
    rows, _ = summarise(held.geometry.inside, value, smooth, unseen, told, nudged)
    return whole | {row.zone: row for row in rows if row.measurable}


def _overcut_walls(held: Held) -> list[Verdict]:
    """Over-cutting of walls: how far inside the ideal one (the finish line offset by its target, ideal lean)."""
    rows, geometry = [], held.geometry
    if geometry.kind.reader.name != "ring":
        return []
    ideal = (held.bounds("convergence").target or 10.0) / 2
    for side in SIDES:
        limits = held.standard.limits_for_zone(f"wall/{side}/middle")
        width = held.standard.width_limits(side)
        if limits is None or not told(geometry.ring.shape.form, side):
            continue
        inside = wall_overcut_mm(geometry.line, geometry.ring.shape.walls, side, width.target, ideal)
        if inside is None:
            continue
        rows += verdicts(
            criterion="tooth-removed",
            zone=f"wall/{side}/middle",
            value=limits.target + inside,
            unit="mm",
            u=held.budget.of("remaining-width"),
            bounds=limits.most,
            why=INSIDE_IDEAL,
        )
    return rows


def _unseen(zone: ZoneValue) -> str:
    if zone.measurable:
        return ""
    share = 100 * zone.area_unseen_mm2 / max(zone.area_mm2, 1e-9)
    if share < 1:
        return "too little of this zone is left to be judged by itself"
    return f"the earlier scan did not see the tooth over {share:.0f} % of this zone (contact or gingiva)"


def _lowest(zone: ZoneValue, criterion: str, limits: Limits, u: float, why: str) -> list[Verdict]:
    """The zone's least room against the minimum."""
    assert zone.low_mm is not None
    return verdicts(criterion, zone.zone, zone.low_mm, "mm", u, limits.least, why, at=zone.worst)


def _highest(zone: ZoneValue, criterion: str, limits: Limits, u: float) -> list[Verdict]:
    """The zone's greatest depth against the maximum."""
    assert zone.high_mm is not None
    return verdicts(criterion, zone.zone, zone.high_mm, "mm", u, limits.most, TOO_DEEP, at=zone.highest)


def _clearance(held: Held) -> list[Verdict]:
    geometry, gap, bite = held.geometry, held.clearance, held.geometry.bite
    if gap is None or bite is None:
        return [not_measured("clearance", "overall", geometry.reasons.get("clearance", "no opposing scan was given"))]
    out = []
    why_not = "" if bite.gap_mm is not None else bite.note
    holds = "holds in maximum intercuspation only; " if geometry.options.tooth.front else ""
    for zone in gap.zones:
        limits = held.limits_of(zone.zone, clearance=True)
        if limits is None or not meets_opposing(geometry, zone.zone):
            continue
        why = why_not or held.side_unknown or _unseen(zone)
        if why:
            out.append(not_measured("clearance", zone.zone, why))
            continue
        open_mm = float(np.hypot(gap.u_low(zone.zone), crest_mm(held, zone.zone)))
        u = held.budget.clearance(held.opposing_align_mm, open_mm)
        out += _lowest(zone, "clearance", limits, u, f"{holds}{held.standard.reason}")
    return [replace(v, pose=geometry.pose.name) for v in out]


# --- corrected -----------------------------------------------------------------------------------------------------


def room_first(job: Job, v: Verdict) -> str:
    """Which way costs no tooth: FULLER where the space to the opposing teeth suffices for a fuller contour, OPPOSING
    where this tooth is cut enough and the opposing one stands too near, '' where neither holds."""
    if v.criterion == "reduction" and not job.g.kind.primary:  # a crown that comes ready made is not made fuller
        gap = job.find("clearance", v.zone)
        suffices = gap is not None and gap.value is not None and gap.target is not None and gap.U is not None
        if suffices and gap.value - gap.U >= gap.target and job.g.options.meaning.natural:  # type: ignore[union-attr,operator]
            return FULLER
    if v.criterion == "clearance":
        cut = job.find("reduction", v.zone)
        if cut is not None and cut.value is not None and cut.target is not None:
            return OPPOSING if cut.value >= cut.target - HAND_MM / 2 else ""
    return ""


def _room(job: Job, v: Verdict) -> Correction | None:
    """Too little room over a zone: the way that costs no tooth first; else take it off, where it lacks."""
    if v.criterion == "reduction" and v.zone == "incisal-edge" and job.g.kind.primary:
        return shorten_child(job, v)
    patch = job.patch(v)
    if patch.to_target_mm < HAND_MM and patch.thinnest_mm < HAND_MM:
        return None
    if v.zone.startswith(("wall/", "facial/", "lingual-wall")):
        if job.g.kind.reader.name == "child":
            return slice_off(job, v)
        return _wall(job, v, patch) if job.g.kind.reader.name == "ring" else _face(job, v, patch)
    way = room_first(job, v)
    if way == OPPOSING:
        text = (
            f"this tooth is cut enough here, the opposing one stands {patch.thinnest_mm:.1f} mm too near: adjust the "
            f"opposing tooth by {patch.thinnest_mm:.1f} mm, or raise the bite; {AGREED}"
        )
        return job.row(v, "other", text, to_min_mm=patch.thinnest_mm, beware="no more is cut from this tooth")
    amounts = {"to_min_mm": patch.thinnest_mm, "to_target_mm": patch.to_target_mm, "extent": patch.extent,
               "area_mm2": patch.area_mm2}  # fmt: skip
    use = for_depth(max(patch.to_target_mm, HAND_MM), job.tray)
    more = {"bur": said(use), "hold": HOLD_FLAT, "beware": _shortens(job, patch), **amounts}
    if way == FULLER:
        lacks = patch.to_min_mm
        do = (
            f"make the crown {lacks:.1f} mm fuller here: the space to the opposing teeth suffices. Only where its form "
            f"must stay as it was: {_amount_words(patch)}"
        )
        return job.row(v, "occlusal", do, **more)
    return job.row(v, "occlusal", _amount_words(patch), **more)


def _amount_words(patch: Patch) -> str:
    low, full = max(patch.to_min_mm, 0.0), patch.to_target_mm
    if patch.extent == WHOLE and patch.thinnest_mm > low + 0.05:
        return (
            f"remove {patch.thinnest_mm:.1f} mm at its thinnest spot, {low:.1f} mm elsewhere, to reach the minimum; "
            f"{full:.1f} mm evenly to the target ({patch.words})"
        )
    return f"remove {low:.1f} mm to reach the minimum, {full:.1f} mm to the target ({patch.words})"


def _shortens(job: Job, patch: Patch) -> str:
    if job.g.kind.reader.name != "ring":
        return ONLY_HERE
    height, tooth = job.g.ring.shape.retention.height_mm, job.g.options.tooth
    least = job.standard.wall_height(tooth).min or 0.0
    amount = patch.to_target_mm
    if patch.extent != SPOT and np.isfinite(height) and height - amount < least:
        words = f"lowers the walls, {height:.1f} mm high now ({least:.0f} wanted): no more than that, only here"
        fits = job.material_words()
        return f"{words}; {fits}" if fits else words
    return ONLY_HERE


def _wall(job: Job, v: Verdict, patch: Patch) -> Correction | None:
    """Off a wall: a facial upper third is a missing plane or bevel, a foot a finish line to widen; else parallel."""
    side = job.side(v.zone) or "facial"
    third = "middle" if v.zone == "lingual-wall" else v.zone.rsplit("/", 1)[-1]
    amounts = {"to_min_mm": patch.thinnest_mm, "to_target_mm": patch.to_target_mm, "extent": patch.extent,
               "area_mm2": patch.area_mm2}  # fmt: skip
    use = job.ledge(side)
    if third == "cervical":
        why = job.too_wide(side, patch.to_min_mm)
        text = (
            f"widen the finish line below it sideways by {patch.to_min_mm:.1f} mm, {patch.to_target_mm:.1f} to the "
            f"target ({patch.words})"
        )
        return job.row(v, "wall", text, bur=said(use), hold=HOLD_LEDGE, beware=beyond(use),
                       refused=_with_material(job, why), **amounts)  # fmt: skip
    upper = third in ("occlusal", "incisal")
    if upper and side == "facial" and job.g.options.tooth.front:
        do = f"cut the second plane over the incisal third, at its own angle: {_amount_words(patch)}"
        return job.row(v, "wall", do, bur=said(use), hold="bur laid along the incisal third, not along the path",
                       beware="the plane below and the finish line stay as they are", **amounts)  # fmt: skip
    if upper and side == job.g.functional.side and not job.g.options.tooth.front:
        do = f"cut the functional-cusp bevel, 45 degrees to the path: {_amount_words(patch)}"
        return job.row(v, "wall", do, bur=said(use), hold="bur at 45 degrees to the path, along the cusps",
                       beware="the wall below and the finish line stay as they are", **amounts)  # fmt: skip
    do = _amount_words(patch)
    why = job.over_tapers(side, max(patch.to_min_mm, patch.to_target_mm), third)
    if why:
        wider = job.too_wide(side, patch.to_min_mm)
        instead = (
            _with_material(job, wider) if wider
            else f"instead widen the finish line below the whole wall by {patch.to_min_mm:.1f} mm, bur parallel"
        )  # fmt: skip
        return job.row(v, "wall", do, hold=HOLD_WALL, refused=f"{why}; {instead}", **amounts)
    beware = "keep the bur parallel: leaning it in makes a tent, leaning it out an undercut"
    after = job.convergence_after(side, patch.to_target_mm, third)
    if after is not None:
        beware += f"; the convergence would become {after:.0f} degrees"
    return job.row(v, "wall", do, bur=said(use), hold=HOLD_WALL, beware=beware, **amounts)


def _face(job: Job, v: Verdict, patch: Patch) -> Correction:
    """Off a veneer's face: by depth-cuts, along the plane of its third."""
    third = v.zone.rpartition("/")[2]
    planned = "through the mock-up: put it back on first" if job.g.reference == "mockup" else "from the face as it is"
    return job.row(
        v, "wall", _amount_words(patch), bur="depth-cutter, then a round-ended bur",
        hold=f"laid along the plane of the {third} third; depth-cuts {planned}",
        beware="enamel is thin at the neck: stop at the amount, and keep the ledge where it is",
        to_min_mm=patch.thinnest_mm, to_target_mm=patch.to_target_mm, extent=patch.extent, area_mm2=patch.area_mm2,
    )  # fmt: skip


def _with_material(job: Job, why: str) -> str:
    """A refusal with the material that fits named beside it."""
    if not why:
        return ""
    fits = job.material_words()
    return f"{why}; {fits}" if fits else f"{why}; a material that can be thinner instead"


CRITERIA = (
    Criterion(
        "reduction", "reduction", _all_reduction, lens="depth", by_attempt=True, kinds=EVERY_KIND,
        correct={"min": _room}, leave={"max": OVER_CUT},
        way_out="the material gets too thin here: a material that can be thinner, or another path",
    ),
    Criterion("tooth-removed", "tooth removed", _all_removed, lens="depth", by_attempt=True, leave={"max": OVER_CUT},
              kinds=(*WITH_LEDGE, *CHILD_KINDS)),
    Criterion(
        "clearance", "clearance", _clearance, lens="space", by_attempt=True, correct={"min": _room}, kinds=EVERY_KIND,
        way_out="the opposing teeth leave too little: a raised bite, a planned adjustment of the opposing tooth, or a "
        "material that can be thinner",
    ),
)  # fmt: skip
