"""Verdicts of walls, path and finish line: limits that no material sets, and the finish line's that it does.

Convergence, wall height and height to width: C. J. Goodacre, W. V. Campagni, S. A. Aquilino, J Prosthet Dent
2001;85:363-376 (from memory). Limiting taper: M. H. Parker et al., J Prosthet Dent 1988;59:281-288. The rest is common
practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Ints, degrees_apart, xyz
from vane_line.core.case import Geometry
from vane_line.core.judge.standards import Limits, Standard
from vane_line.core.judge.uncertainty import Budget, per_degree
from vane_line.core.judge.verdicts import Verdict, judge_max, judge_min, not_measured
from vane_line.core.measure.insertion import FREE_MM
from vane_line.core.measure.line_form import SHARP_MM, LineForm, eased_widths
from vane_line.core.measure.retention import SIDES, wall_overcut_mm
from vane_line.core.measure.undercut import sector_of
from vane_line.core.mesh.quality import COARSE_EDGE_MM
from vane_line.core.shape import side_drafts

PRACTICE = "common practice, no source"
GOODACRE = "Goodacre, Campagni, Aquilino, J Prosthet Dent 2001;85:363-376 (from memory)"
PARKER = "Parker et al., J Prosthet Dent 1988;59:281-288"
CONVERGENCE_DEG = Limits(4.0, 10.0, 20.0, GOODACRE)
MIN_HEIGHT_MM = {True: 4.0, False: 3.0}  # molars, other teeth
MIN_HEIGHT_TO_WIDTH = 0.4
MIN_DRAFT_DEG = 2.0
UNDERCUT_MM = 0.05
STEP_MM, LIP_MM, ROUGHNESS_UM = 0.15, 0.05, 50.0
REMAINING_SHARE, REMAINING_MM = 0.5, 2.0
WRONG_FORM_PERCENT = 25.0
RADIUS_DOUBT_MM, WIDTH_DOUBT_MM = 0.10, 0.10  # a form this near its limit counts as either
MAX_BELOW_GINGIVA_MM = 0.5
DEEP_MARGIN = "how far below the gingiva: deeper is hard to scan and to keep clean, and bone needs about 3 mm"
MIN_ROOM_MM, NEXT_TOOTH_MM = 0.5, 4.0
TIGHT = "room to the next tooth just above the finish line: less cannot be scanned, or sawn, cleanly"
FERRULE_MM, FERRULE_THICK_MM = (1.5, 2.0), 1.0
FERRULE_SOURCE = "published values put down from memory (reviews of the ferrule effect)"
EASED_SHARE, LEAST_AZIMUTHS = 0.05, 10
INSIDE_IDEAL = "the wall stands inside the one that the finish line and an ideal taper ask for"
HOLDS = "the taper up to which this wall stops the crown from tipping, by geometry"
TOO_COARSE = "the scan is too coarse at the finish line to tell its form: scan it again, finer"
TOO_LITTLE = "too little of a clear edge is seen on this side"
ENOUGH_CLEAR = 0.5  # of a side's finish line that must be told for its width and form to be judged
SIDE_HALF_DEG = 45.0


@dataclass(frozen=True)
class _Judge:
    """The common parts of a verdict, filled in."""

    unit: str
    u: float
    source: str = PRACTICE

    def least(
        self, criterion: str, zone: str, value: float, limit: float, why: str, target: float | None = None,
        at: tuple[float, float, float] | None = None,
    ) -> Verdict:  # fmt: skip
        return judge_min(Verdict(
            criterion, zone, "min", value, self.unit, self.u, limit, target, "", why, self.source, at))  # fmt: skip

    def most(
        self, criterion: str, zone: str, value: float, limit: float, why: str, target: float | None = None,
        at: tuple[float, float, float] | None = None,
    ) -> Verdict:  # fmt: skip
        return judge_max(Verdict(
            criterion, zone, "max", value, self.unit, self.u, limit, target, "", why, self.source, at))  # fmt: skip


def shape_verdicts(geometry: Geometry, standard: Standard, budget: Budget) -> list[Verdict]:
    """All verdicts of the walls, the path and the finish line's form."""
    return [
        *_convergence(geometry, budget),
        *_retention(geometry, budget),
        *_undercut(geometry, budget),
        *_draft(geometry, budget),
        _insertion(geometry, budget),
        *_widths(geometry, standard, budget),
        *_forms(geometry, standard),
        *_continuity(geometry, budget),
        *_overcut_walls(geometry, standard, budget),
        *_margin_heights(geometry, budget),
        *_rooms(geometry, budget),
        *_ferrule(geometry, budget),
    ]


def _margin_heights(geometry: Geometry, budget: Budget) -> list[Verdict]:
    """How far the finish line lies below the gingiva, on each side."""
    found = geometry.shape.margin
    if found.source is None:
        why = "the gingiva's line is not known: it needs a scan without retraction, or to be drawn"
        return [not_measured("margin-height", "overall", why, "max")]
    rows = []
    told = "as drawn" if found.source == "drawn" else "from the earlier scan, whose seam reads some 0.04 high, within U"
    why = f"{DEEP_MARGIN} (gingiva {told})"
    for side, azimuth in SIDES.items():
        here = _gingiva_told(geometry, azimuth)
        value = _below_gingiva(geometry, here)
        if value is None:
            rows.append(not_measured("margin-height", side, "the gingiva's line is not seen on this side", "max"))
            continue
        change = per_degree(lambda turn, a=azimuth: _below_gingiva(geometry, _gingiva_told(geometry, a + turn)))  # type: ignore[misc]
        below = -found.above_gingiva_mm[here]
        at = xyz(geometry.line.points[here[int(np.argmin(np.abs(below - value)))]])
        judge = _Judge("mm", budget.of("margin-height", change))
        rows.append(judge.most("margin-height", side, value, MAX_BELOW_GINGIVA_MM, why, target=0.0, at=at))
    return rows


def _gingiva_told(geometry: Geometry, middle_deg: float) -> Ints:
    """Azimuths of a side where the line is clear and the gingiva known."""
    near = degrees_apart(geometry.line.azimuth_deg, middle_deg) <= SIDE_HALF_DEG
    return np.flatnonzero(near & np.isfinite(geometry.shape.margin.above_gingiva_mm) & geometry.line.clear)


def _below_gingiva(geometry: Geometry, here: Ints) -> float | None:
    if len(here) < LEAST_AZIMUTHS:
        return None
    return float(np.quantile(-geometry.shape.margin.above_gingiva_mm[here], 1 - EASED_SHARE))


def _rooms(geometry: Geometry, budget: Budget) -> list[Verdict]:
    """Room between the finish line and the next tooth."""
    room, rows = geometry.shape.margin.room_mm, []
    judge = _Judge("mm", budget.of("neighbour-gap"))
    for side in ("mesial", "distal"):
        here = degrees_apart(geometry.line.azimuth_deg, SIDES[side]) <= SIDE_HALF_DEG
        here &= np.isfinite(room) & (room < NEXT_TOOTH_MM)
        if not here.any():
            rows.append(not_measured("neighbour-gap", side, "no tooth stands beside this side on the scan"))
            continue
        k = int(np.argmin(np.where(here, room, np.inf)))
        rows.append(judge.least("neighbour-gap", side, float(room[k]), MIN_ROOM_MM, TIGHT, at=xyz(
            geometry.line.points[k])))  # fmt: skip
    return rows


def _ferrule(geometry: Geometry, budget: Budget) -> list[Verdict]:
    """Dentine over the finish line of a built-up tooth: height and thickness, by sector."""
    sectors = geometry.shape.ferrule
    if sectors is None:
        return [not_measured("ferrule", "overall", "no border of a core is known: only built-up teeth have a ferrule")]
    judge, rows = _Judge("mm", budget.of("ferrule"), FERRULE_SOURCE), []
    for found in sectors:
        thick = found.thickness_mm
        # One verdict a sector: of the thickness where that lacks more than the height.
        if thick is not None and FERRULE_THICK_MM - thick > max(FERRULE_MM[0] - found.height_mm, 0.0):
            why = "thickness of the dentine that stands over the finish line"
            rows.append(judge.least("ferrule", found.sector, thick, FERRULE_THICK_MM, why, at=found.at))
            continue
        why = "height of dentine over the finish line: the ferrule holds a built-up tooth together"
        rows.append(judge.least("ferrule", found.sector, found.height_mm, FERRULE_MM[0], why, FERRULE_MM[1], found.at))
    return rows


def _convergence(geometry: Geometry, budget: Budget) -> list[Verdict]:
    walls = geometry.shape.walls
    judge = _Judge("deg", budget.of("convergence"), GOODACRE)
    rows = []
    for zone, azimuth in (("faciolingual", 0.0), ("mesiodistal", 90.0)):
        value = walls.convergence_at(azimuth)
        if not np.isfinite(value):
            rows.append(not_measured("convergence", zone, "no straight wall is seen on both sides", "max", "deg"))
            continue
        rows.append(
            judge.most(
                "convergence",
                zone,
                value,
                CONVERGENCE_DEG.max,
                ("tapered walls hold little; measured molars average about 20 in practice"),
                target=CONVERGENCE_DEG.target,
            )
        )
        rows.append(judge.least("convergence", zone, value, CONVERGENCE_DEG.min, (
            "nearly parallel walls are hard to seat and to scan"), target=CONVERGENCE_DEG.target))  # fmt: skip
    return rows


def _retention(geometry: Geometry, budget: Budget) -> list[Verdict]:
    held, tooth = geometry.shape.retention, geometry.options.tooth
    if not np.isfinite(held.height_mm) or not np.isfinite(held.remaining_mm):
        why = "too little of the walls is seen"
        return [not_measured(c, "overall", why) for c in ("wall-height", "resistance", "remaining-width")]
    ways_out = "short walls are helped by grooves, boxes, bonding or a longer crown"
    height = _Judge("mm", budget.of("wall-height"), GOODACRE)
    ratio_u = budget.of("wall-height") / held.base_faciolingual_mm
    rows = [
        height.least("wall-height", "overall", held.height_mm, MIN_HEIGHT_MM[tooth.molar], ways_out),
        _Judge("ratio", ratio_u, GOODACRE).least(
            "resistance", "overall", held.height_mm / held.base_faciolingual_mm, MIN_HEIGHT_TO_WIDTH,
            "height of the walls to faciolingual width; " + ways_out),
    ]  # fmt: skip
    degrees = _Judge("deg", budget.of("convergence"), PARKER)
    for side, (taper, limit) in held.by_side().items():
        rows.append(degrees.most("resistance", side, taper, limit, HOLDS))
    least = max(REMAINING_MM, REMAINING_SHARE * held.neck_mm)
    rows.append(_Judge("mm", budget.of("remaining-width")).least(
        "remaining-width", "overall", held.remaining_mm, least, _remaining_why(held.neck_mm)))  # fmt: skip
    return rows


def _remaining_why(neck_mm: float) -> str:
    return f"what is left at the finish line, against half of the tooth's {neck_mm:.1f} mm there, and 2.0 at least"


def _undercut(geometry: Geometry, budget: Budget) -> list[Verdict]:
    judge = _Judge("mm", budget.of("undercut"))
    why = "cement space takes up less; the crown would bind or must be relieved"
    regions = geometry.shape.undercut.regions
    if not regions:
        return [judge.most("undercut", "overall", 0.0, UNDERCUT_MM, why)]
    return [judge.most("undercut", r.sector, r.max_depth_mm, UNDERCUT_MM, why, at=r.at) for r in regions]


def _draft(geometry: Geometry, budget: Budget) -> list[Verdict]:
    shape = geometry.shape
    drafts = shape.draft_deg
    if not drafts:
        return [not_measured("draft", "overall", "no wall is seen", "min", "deg")]
    why = "milled ceramic wants some draft on every wall; under 0 it is an undercut"
    rows = []
    for side, value in drafts.items():
        change = per_degree(lambda turn, side=side: side_drafts(shape.walls, shape.undercut, turn).get(side))  # type: ignore[misc]
        rows.append(_Judge("deg", budget.of("draft", change)).least("draft", side, value, MIN_DRAFT_DEG, why))
    return rows


def _insertion(geometry: Geometry, budget: Budget) -> Verdict:
    found = geometry.shape.insertion
    if found is None:
        why = geometry.reasons.get("path-blocked", "no neighbouring tooth is on the scan")
        return not_measured("path-blocked", "overall", why, "max")
    why = "the planned crown passes the neighbours along this path"
    if found.blocked_by:
        why = f"the {found.blocked_by} neighbour stands in the way of the planned crown"
        why += (
            f"; a path tilted {found.free_tilt_deg:.0f} degrees to {found.free_towards} is free"
            if found.free_tilt_deg
            else "; no path within 30 degrees is free: the neighbour would have to be recontoured"
        )
    zone = found.blocked_by or "overall"
    return _Judge("mm", budget.of("insertion")).most("path-blocked", zone, found.amount_mm, FREE_MM, why, at=found.at)


def side_mask(form: LineForm, side: str, turn_deg: float = 0.0) -> Bools:
    """(S,) samples of the line on a side, the sides turned on by `turn_deg`."""
    return np.asarray(degrees_apart(form.azimuth_deg, SIDES[side] + turn_deg) <= SIDE_HALF_DEG)


def _told(form: LineForm, here: Bools) -> bool:
    return float((form.clear & np.isfinite(form.width_mm))[here].mean()) >= ENOUGH_CLEAR if here.any() else False


def _widths(geometry: Geometry, standard: Standard, budget: Budget) -> list[Verdict]:
    form = geometry.shape.form
    rows = []
    for side in SIDES:
        limits, here = standard.width_limits(side), side_mask(form, side)
        summary = form.width_summary(here) if _told(form, here) else None
        if summary is None:
            rows.append(not_measured("finish-line-width", side, TOO_LITTLE))
            continue
        low, high = (
            _Judge("mm", budget.of("finish-line-width", _width_per_degree(form, side, which)), limits.source)
            for which in (0, 2)
        )
        rows.append(low.least("finish-line-width", side, summary[0], limits.min, (
            "too narrow an edge leaves the restoration thin there"), target=limits.target,
            at=_place(form, here, lowest=True)))  # fmt: skip
        rows.append(high.most("finish-line-width", side, summary[2], limits.max, (
            "wider than the material needs: sound tooth was cut"), target=limits.target,
            at=_place(form, here, lowest=False)))  # fmt: skip
    return rows


def _width_per_degree(form: LineForm, side: str, which: int) -> float:
    """Of the low (0) or high (2) width of a side, by how much it changes for a degree that the side is turned."""

    def at(turn: float) -> float | None:
        summary = form.width_summary(side_mask(form, side, turn))
        return None if summary is None else summary[which]

    return per_degree(at)


def _place(form: LineForm, here: Bools, lowest: bool) -> tuple[float, float, float] | None:
    width = np.where(here & form.clear, eased_widths(form.width_mm), np.nan)
    if not np.isfinite(width).any():
        return None
    return xyz(form.points[int(np.nanargmin(width) if lowest else np.nanargmax(width))])


def _forms(geometry: Geometry, standard: Standard) -> list[Verdict]:
    form = geometry.shape.form
    coarse = geometry.edge_mm > COARSE_EDGE_MM
    rows = []
    for side in SIDES:
        wanted = standard.forms_for(side)
        here = side_mask(form, side)
        if not wanted:
            continue
        told = here & form.clear & (form.form != "")
        if coarse or told.sum() < ENOUGH_CLEAR * max(here.sum(), 1):
            rows.append(not_measured("finish-line-form", side, TOO_COARSE if coarse else TOO_LITTLE, "max", "%"))
            continue
        wrong = np.array([not fits_form(form, int(k), wanted) for k in np.flatnonzero(told)])
        share = 100 * float(wrong.mean())
        names = [form.form[k] for k in np.flatnonzero(told)]
        most = max(set(names), key=names.count)
        why = f"mostly {most.replace('-', ' ')}; wanted here: {' or '.join(w.replace('-', ' ') for w in wanted)}"
        verdict = Verdict(
            "finish-line-form", side, "max", share, "%", 10.0, WRONG_FORM_PERCENT, 0.0, "", why, PRACTICE)  # fmt: skip
        rows.append(judge_max(verdict))
    return rows


def fits_form(form: LineForm, k: int, wanted: tuple[str, ...]) -> bool:
    """Whether a sample has one of the wanted forms, or lies too near a limit to say it has not."""
    name, radius, width = str(form.form[k]), form.inner_radius_mm[k], form.width_mm[k]
    if name in wanted or (name == "heavy-chamfer" and "chamfer" in wanted):
        return True
    if name == "shoulder" and "rounded-shoulder" in wanted:
        return bool(radius > SHARP_MM - RADIUS_DOUBT_MM)
    if name == "rounded-shoulder" and "shoulder" in wanted:
        return bool(radius < SHARP_MM + RADIUS_DOUBT_MM)
    if name == "chamfer" and "heavy-chamfer" in wanted:
        return bool(width > 0.8 - WIDTH_DOUBT_MM)
    # Curved or flat with a round corner: where a third of the ledge is flat the two names part.
    if {name} <= {"chamfer", "heavy-chamfer", "rounded-shoulder"} and set(wanted) & {
        "rounded-shoulder",
        "heavy-chamfer",
    }:
        return bool(abs(1 - radius / max(width, 0.1) - 0.3) < 0.12)
    return False


ROUGH = "milled ceramic follows no rougher edge; scallops under a millimetre long read up to a sixth low, within U"
PASSING = "two stretches of the finish line pass each other here, one above the other: join them at the lower one"


def _continuity(geometry: Geometry, budget: Budget) -> list[Verdict]:
    form = geometry.shape.form
    if form.clear.mean() < ENOUGH_CLEAR:
        why = "too little of a clear edge is seen"
        return [not_measured(f"finish-line-{c}", "overall", why, "max") for c in ("step", "lip", "roughness")]
    step, lip = _Judge("mm", budget.of("finish-line-step")), _Judge("mm", budget.of("finish-line-lip"))
    why_step = "a sudden change of height cannot be milled or fitted closely"
    why_lip = "an outer rim of unsupported tooth breaks off, or keeps the crown off"
    rows = [
        step.most("finish-line-step", s.sector, s.height_mm, STEP_MM, PASSING if s.overlap_deg else why_step, at=s.at)
        for s in form.steps
    ]
    rows = rows or [step.most("finish-line-step", "overall", 0.0, STEP_MM, why_step)]
    for found in form.lips:
        middle = (found.from_deg + ((found.to_deg - found.from_deg) % 360) / 2) % 360
        k = int(np.argmin(degrees_apart(form.azimuth_deg, middle)))
        at = xyz(form.points[k])
        rows.append(lip.most("finish-line-lip", sector_of(middle), found.height_mm, LIP_MM, why_lip, at=at))
    if not form.lips:
        rows.append(lip.most("finish-line-lip", "overall", 0.0, LIP_MM, why_lip))
    rough = form.roughest_um
    off = degrees_apart(form.azimuth_deg, form.roughest_deg)
    at_rough = int(np.argmin(np.nan_to_num(off)))
    rows.append(
        _Judge("µm", budget.roughness(rough)).most(
            "finish-line-roughness", sector_of(form.roughest_deg), rough, ROUGHNESS_UM,
            ROUGH, at=xyz(form.points[at_rough]))
        if np.isfinite(rough)
        else not_measured("finish-line-roughness", "overall", "too little of a clear edge is seen", "max", "µm")
    )  # fmt: skip
    return rows


def _overcut_walls(geometry: Geometry, standard: Standard, budget: Budget) -> list[Verdict]:
    """Over-cutting of walls: how far inside the ideal one (the finish line offset by its target, ideal lean)."""
    rows = []
    for side in SIDES:
        limits = standard.limits_for_zone(f"wall/{side}/middle")
        width = standard.width_limits(side)
        if limits is None or not _told(geometry.shape.form, side_mask(geometry.shape.form, side)):
            continue
        inside = wall_overcut_mm(geometry.line, geometry.shape.walls, side, width.target, CONVERGENCE_DEG.target / 2)
        if inside is None:
            continue
        judge = _Judge("mm", budget.of("remaining-width"), limits.source)
        rows.append(judge.most("tooth-removed", f"wall/{side}/middle", limits.target + inside, limits.max, (
            INSIDE_IDEAL), target=limits.target))  # fmt: skip
    return rows
