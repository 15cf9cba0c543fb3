"""The finish line: width, form, course, height over the gingiva, room beside it; and the ferrule above it."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Bools, Ints
from vane_line.core.case import Geometry
from vane_line.core.judge.criteria.sides import ENOUGH_CLEAR, forms_said, side_mask, stretch_mask, told_over
from vane_line.core.judge.criteria.window_line import deepen_ledge, form_rows, gingiva_rows, width_rows
from vane_line.core.judge.limits import Limits
from vane_line.core.judge.record import WITH_LEDGE, Criterion, Held, by_reader, corrected_by_reader, verdicts
from vane_line.core.judge.standard_choice import suitable
from vane_line.core.judge.uncertainty import per_degree
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import HAND_MM, HOLD_LEDGE, Correction, Job, beyond, said
from vane_line.core.measure.finish_line import DOUBTFUL_MM
from vane_line.core.measure.line_form import (
    FLAT_SHARE,
    HEAVY_MM,
    SHARP_MM,
    SLOPED_DEG,
    LineForm,
    eased_widths,
    scatter_um,
)  # fmt: skip
from vane_line.core.measure.retention import SIDE_HALF_DEG, SIDES
from vane_line.core.measure.undercut import sector_of
from vane_line.core.mesh.quality import COARSE_EDGE_MM
from vane_line.core.rings import degrees_apart, true_about
from vane_line.core.vectors import xyz

U_GAP_DEG = 17.0  # where evidence begins is told no better (docs/uncertainty.md)
# A form this near its limit counts as either.
RADIUS_DOUBT_MM, WIDTH_DOUBT_MM, SLOPE_DOUBT_DEG, FLAT_DOUBT = 0.10, 0.10, 5.0, 0.12
NEXT_TOOTH_MM = 4.0
EASED_SHARE, LEAST_AZIMUTHS = 0.05, 10
EDGE_DEG = 4.0  # of a line that is told, beside where it is not: what hangs on it is not sure
FURTHER_BELOW_MM = 0.5  # beyond the limit, to which a step may still be lowered
DEEP_MARGIN = "how far below the gingiva: deeper is hard to scan and to keep clean, and bone needs about 3 mm"
TIGHT = "room to the next tooth just above the finish line: less cannot be scanned, or sawn, cleanly"
TOO_COARSE = "the scan is too coarse at the finish line to tell its form: scan it again, finer"
TOO_LITTLE = "too little of a clear finish line is seen on this side"
NO_EDGE = "too little of a clear finish line is seen"
ROUGH = "milled ceramic follows no rougher edge; scallops under a millimetre long read up to a sixth low, within U"
PASSING = "two stretches of the finish line pass each other here, one above the other: join them at the lower one"
SUDDEN = "a sudden change of height cannot be milled or fitted closely"
NARROW = "too narrow a finish line leaves the restoration thin there"
WIDE = "wider than the material needs: sound tooth was cut"


# --- judged --------------------------------------------------------------------------------------------------------


def _gap(held: Held) -> list[Verdict]:
    line = held.geometry.line
    why = "the finish line closes" if line.closed else "the finish line could not be followed all the way round"
    # In a stretch where no edge is told, where evidence ends may lie half way to the stretch's end as well.
    u = max(U_GAP_DEG, (line.untold_deg - line.gap_deg) / 2)
    return verdicts("finish-line-gap", "overall", line.gap_deg, "deg", u, held.bounds("finish-line-gap"), why)


def _widths(held: Held) -> list[Verdict]:
    form, line, rows = held.geometry.ring.shape.form, held.geometry.line, []
    for side in SIDES:
        beside = degrees_apart(line.azimuth_deg, SIDES[side]) <= SIDE_HALF_DEG / 4
        for zone, low, high, limits in held.standard.sectors(side, float(np.median(line.radius[beside]))):
            rows += _width(held, form, zone, side, (low, high), limits)
    return rows


def _width(
    held: Held, form: LineForm, zone: str, side: str, reach: tuple[float, float], limits: Limits
) -> list[Verdict]:
    def at(turn: float = 0.0) -> Bools:
        return stretch_mask(form, side, *reach, turn)

    summary = form.width_summary(at()) if told_over(form, at()) else None
    if summary is None:
        return [not_measured("finish-line-width", zone, TOO_LITTLE)]

    def u(which: int) -> float:
        def value(turn: float) -> float | None:
            found = form.width_summary(at(turn))
            return None if found is None else found[which]

        return held.budget.of("finish-line-width", per_degree(value))

    return [
        *verdicts(
            criterion="finish-line-width",
            zone=zone,
            value=summary[0],
            unit="mm",
            u=u(0),
            bounds=limits.least,
            why=NARROW,
            at=_place(form, at(), lowest=True),
        ),
        *verdicts(
            criterion="finish-line-width",
            zone=zone,
            value=summary[2],
            unit="mm",
            u=u(2),
            bounds=limits.most,
            why=WIDE,
            at=_place(form, at(), lowest=False),
        ),
    ]


def _place(form: LineForm, here: Bools, lowest: bool) -> tuple[float, float, float] | None:
    width = np.where(here & form.clear, eased_widths(form.width_mm), np.nan)
    if not np.isfinite(width).any():
        return None
    return xyz(form.points[int(np.nanargmin(width) if lowest else np.nanargmax(width))])


def _forms(held: Held) -> list[Verdict]:
    form, rows = held.geometry.ring.shape.form, []
    coarse = held.geometry.edge_mm > COARSE_EDGE_MM
    for side in SIDES:
        wanted = held.standard.forms_for(side)
        here = side_mask(form, side)
        if not wanted:
            continue
        clear = here & form.clear & (form.form != "")
        if coarse or clear.sum() < ENOUGH_CLEAR * max(here.sum(), 1):
            rows.append(not_measured("finish-line-form", side, TOO_COARSE if coarse else TOO_LITTLE, "max", "%"))
            continue
        wrong = np.array([not fits_form(form, int(k), wanted) for k in np.flatnonzero(clear)])
        why = forms_said((form.form[k] for k in np.flatnonzero(clear)), wanted)
        u = held.budget.form_of_ledge(float(np.nanmedian(form.width_mm[clear])))
        rows += verdicts("finish-line-form", side, 100 * float(wrong.mean()), "%", u, held.bounds("finish-line-form"),
                         why)  # fmt: skip
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
    level = set(wanted) & {"shoulder", "rounded-shoulder"}
    if name == "sloped-shoulder" and level and form.cavosurface_deg[k] < SLOPED_DEG[0] + SLOPE_DOUBT_DEG:
        return True
    if name == "chamfer" and "heavy-chamfer" in wanted and width > HEAVY_MM - WIDTH_DOUBT_MM:
        return True
    # Curved or flat with a round corner: where a third of the ledge is flat the names part.
    if abs(form.flat_share[k] - FLAT_SHARE) >= FLAT_DOUBT:
        return False
    if name in ("chamfer", "heavy-chamfer"):
        return "rounded-shoulder" in wanted
    curved = "chamfer" in wanted or ("heavy-chamfer" in wanted and width > HEAVY_MM - WIDTH_DOUBT_MM)
    return name in ("rounded-shoulder", "sloped-shoulder") and bool(curved)


def _course_unseen(held: Held, criterion: str, unit: str = "mm") -> list[Verdict] | None:
    if held.geometry.ring.shape.form.clear.mean() < ENOUGH_CLEAR:
        return [not_measured(criterion, "overall", NO_EDGE, "max", unit)]
    return None


def _steps(held: Held) -> list[Verdict]:
    unseen = _course_unseen(held, "finish-line-step")
    if unseen:
        return unseen
    u, bounds = held.budget.of("finish-line-step"), held.bounds("finish-line-step")
    rows = [
        v for s in held.geometry.ring.shape.form.steps
        for v in verdicts(criterion="finish-line-step", zone=s.sector, value=s.height_mm, unit="mm", u=u, bounds=bounds,
                          why=PASSING if s.overlap_deg else SUDDEN, at=s.at)
    ]  # fmt: skip
    return rows or verdicts("finish-line-step", "overall", 0.0, "mm", u, bounds, SUDDEN)


def _lips(held: Held) -> list[Verdict]:
    unseen = _course_unseen(held, "finish-line-lip")
    if unseen:
        return unseen
    u, bounds, form = held.budget.of("finish-line-lip"), held.bounds("finish-line-lip"), held.geometry.ring.shape.form
    why = "an outer lip of unsupported tooth breaks off, or keeps the crown off"
    rows = []
    for found in form.lips:
        middle = (found.from_deg + ((found.to_deg - found.from_deg) % 360) / 2) % 360
        at = xyz(form.points[int(np.argmin(degrees_apart(form.azimuth_deg, middle)))])
        rows += verdicts(
            criterion="finish-line-lip",
            zone=sector_of(middle),
            value=found.height_mm,
            unit="mm",
            u=u,
            bounds=bounds,
            why=why,
            at=at,
        )
    return rows or verdicts("finish-line-lip", "overall", 0.0, "mm", u, bounds, why)


def _roughness(held: Held) -> list[Verdict]:
    unseen = _course_unseen(held, "finish-line-roughness")
    if unseen:
        return unseen
    geometry = held.geometry
    form = geometry.ring.shape.form
    if not np.isfinite(form.roughest_um):
        return [not_measured("finish-line-roughness", "overall", NO_EDGE, "max", "µm")]
    at = xyz(form.points[int(np.argmin(np.nan_to_num(degrees_apart(form.azimuth_deg, form.roughest_deg))))])
    return verdicts(
        criterion="finish-line-roughness",
        zone=sector_of(form.roughest_deg),
        value=form.roughest_um,
        unit="µm",
        u=held.budget.roughness(form.roughest_um, scatter_um(geometry.noise_um)),
        bounds=held.bounds("finish-line-roughness"),
        why=ROUGH,
        at=at,
    )


def _margin_heights(held: Held) -> list[Verdict]:
    """How far the finish line lies below the gingiva, on each side."""
    geometry, found = held.geometry, held.geometry.ring.shape.margin
    if found.source is None:
        why = "the gingiva's line is not known: it needs a scan without retraction, or to be drawn"
        return [not_measured("margin-height", "overall", why, "max")]
    rows = []
    drawn = (
        "as drawn" if found.source == "drawn" else "from the earlier scan, whose seam reads some 0.02 high, within U"
    )
    for side, azimuth in SIDES.items():
        here = _gingiva_told(geometry, azimuth)
        value = _below_gingiva(geometry, here)
        if value is None:
            rows.append(not_measured("margin-height", side, "the gingiva's line is not seen on this side", "max"))
            continue
        change = per_degree(lambda turn, a=azimuth: _below_gingiva(geometry, _gingiva_told(geometry, a + turn)))  # type: ignore[misc]
        sure = _below_gingiva(geometry, _gingiva_told(geometry, azimuth, EDGE_DEG))
        hangs = abs(value - sure) if sure is not None else 0.0
        below = -found.above_gingiva_mm[here]
        at = xyz(geometry.line.points[here[int(np.argmin(np.abs(below - value)))]])
        rows += verdicts(
            criterion="margin-height",
            zone=side,
            value=value,
            unit="mm",
            u=held.budget.of("margin-height", change, hangs),
            bounds=held.bounds("margin-height"),
            why=f"{DEEP_MARGIN} (gingiva {drawn})",
            at=at,
        )
    return rows


def _gingiva_told(geometry: Geometry, middle_deg: float, inside_deg: float = 0.0) -> Ints:
    """Azimuths of a side where the line is clear, and so far to either side, and the gingiva known."""
    line = geometry.line
    near = degrees_apart(line.azimuth_deg, middle_deg) <= SIDE_HALF_DEG
    clear = true_about(line.clear, round(inside_deg * len(line.clear) / 360))
    return np.flatnonzero(near & np.isfinite(geometry.ring.shape.margin.above_gingiva_mm) & clear)


def _below_gingiva(geometry: Geometry, here: Ints) -> float | None:
    if len(here) < LEAST_AZIMUTHS:
        return None
    return float(np.quantile(-geometry.ring.shape.margin.above_gingiva_mm[here], 1 - EASED_SHARE))


def _rooms(held: Held) -> list[Verdict]:
    """Room between the finish line and the next tooth."""
    geometry, rows = held.geometry, []
    room = geometry.ring.shape.margin.room_mm
    for side in ("mesial", "distal"):
        here = degrees_apart(geometry.line.azimuth_deg, SIDES[side]) <= SIDE_HALF_DEG
        here &= np.isfinite(room) & (room < NEXT_TOOTH_MM)
        if not here.any():
            rows.append(not_measured("neighbour-gap", side, "no tooth stands beside this side on the scan"))
            continue
        k = int(np.argmin(np.where(here, room, np.inf)))
        u = held.budget.of("neighbour-gap")
        doubtful = here & ~geometry.line.clear & (room < room[k] + DOUBTFUL_MM)
        rows += verdicts(
            criterion="neighbour-gap",
            zone=side,
            value=float(room[k]),
            unit="mm",
            # Where the line is doubtful it may run further out, and the room be less than where it is least.
            u=float(np.hypot(u, DOUBTFUL_MM)) if doubtful.any() else u,
            bounds=held.bounds("neighbour-gap"),
            why=TIGHT,
            at=xyz(geometry.line.points[k]),
        )
    return rows


def _ferrule(held: Held) -> list[Verdict]:
    """Dentine over the finish line of a built-up tooth: height and thickness, by sector."""
    sectors = held.geometry.ring.shape.ferrule
    if sectors is None:
        return [not_measured("ferrule", "overall", "no border of a core is known: only built-up teeth have a ferrule")]
    u, tall, thick, rows = held.budget.of("ferrule"), held.bounds("ferrule"), held.bounds("ferrule-thickness"), []
    for found in sectors:
        # One verdict a sector: of the thickness where that lacks more than the height.
        thin = None if found.thickness_mm is None else (thick.min or 0.0) - found.thickness_mm
        if thin is not None and found.thickness_mm is not None and thin > max((tall.min or 0.0) - found.height_mm, 0.0):
            why = "thickness of the dentine that stands over the finish line"
            rows += verdicts(
                criterion="ferrule",
                zone=found.sector,
                value=found.thickness_mm,
                unit="mm",
                u=u,
                bounds=thick,
                why=why,
                at=found.at,
            )
            continue
        why = "height of dentine over the finish line: the ferrule holds a built-up tooth together"
        rows += verdicts(
            criterion="ferrule",
            zone=found.sector,
            value=found.height_mm,
            unit="mm",
            u=u,
            bounds=tall,
            why=why,
            at=found.at,
        )
    return rows


# --- corrected -----------------------------------------------------------------------------------------------------


def _widen(job: Job, v: Verdict) -> Correction | None:
    missing, target = v.missing or 0.0, v.to_target or 0.0
    if target < HAND_MM:
        return None
    side = job.side(v.zone)
    use = job.ledge(side, v.target)
    why = job.too_little_left(missing)
    if not why and not suitable(job.standard):
        why = "this tooth is too small for the material's finish line"
    fits = job.material_words() or "a material with a narrower finish line instead"
    return job.row(
        v, "finish-line",
        f"widen the finish line sideways by {missing:.1f} mm to the minimum, {target:.1f} to the target",
        to_min_mm=missing, to_target_mm=target, bur=said(use), hold=HOLD_LEDGE, beware=beyond(use),
        refused=f"{why}; {fits}" if why else "",
    )  # fmt: skip


def _join(job: Job, v: Verdict) -> Correction:
    """A step: lowered to the lower stretch where the gingiva is known and leaves room, else blended."""
    amount = v.value or 0.0
    below = job.gingiva_over(v.zone)
    limit = (job.standard.bounds("margin-height").max or 0.0) + FURTHER_BELOW_MM
    blend = f"blend the step of {amount:.1f} mm over a longer stretch, 4 mm or more to both sides"
    beware = "keep the width even: the stretch that is moved also gets narrower"
    if below is None:
        return job.row(v, "finish-line", blend, hold=HOLD_LEDGE, bur=job.fine(),
                       beware=f"the gingiva is not known here: blended, not moved apically; {beware}")  # fmt: skip
    if below + amount > limit:
        why = f"moving it apically by {amount:.1f} mm would bring it {below + amount:.1f} mm under the gingiva: {blend}"
        return job.row(v, "finish-line", f"move the higher stretch apically by {amount:.1f} mm", refused=why,
                       hold=HOLD_LEDGE)  # fmt: skip
    return job.row(
        v, "finish-line", f"move the higher stretch apically by {amount:.1f} mm to the lower one, blending over 2 mm",
        to_min_mm=amount, to_target_mm=amount, hold=HOLD_LEDGE, bur=job.fine(), beware=beware,
    )  # fmt: skip


def _off_the_lip(job: Job, v: Verdict) -> Correction:
    return job.row(
        v, "finish-line", f"take the lip of {v.value or 0.0:.2f} mm off from outside, flat end against it",
        bur=job.flat(), hold="moved outward, its flat end on the finish line",
        beware="leave the trough inside it as it is: the tip was sunk too far before",
    )  # fmt: skip


def _smooth(job: Job, v: Verdict) -> Correction:
    return job.row(v, "polish", "smooth the finish line", bur=job.fine(), hold="one slow light sweep, no stops",
                   beware="a stop leaves the next scallop")  # fmt: skip


def _separate(job: Job, v: Verdict) -> Correction:
    more = v.missing or 0.0
    do = (
        f"{more:.1f} mm more room to the next tooth: separate the teeth first (wedge or separator); only then bring "
        "the finish line in where the tooth allows"
    )
    return job.row(v, "other", do, beware="no stroke towards the neighbour")


def _accepted(job: Job, v: Verdict) -> Correction | None:
    """Another form with its width within limits is accepted and noted; else the bur whose tip gives the wanted one."""
    widths = [w for w in job.verdicts if w.criterion == "finish-line-width" and job.side(w.zone) == v.zone]
    if widths and all(w.status in ("meets", "within-uncertainty") for w in widths):
        return None
    use = job.ledge(v.zone)
    if any(w.status == "over" for w in widths) or use is None:
        return None
    return job.row(v, "finish-line", "finish it with the bur whose tip gives the wanted form, no wider than the target",
                   bur=said(use), hold=HOLD_LEDGE, beware=beyond(use))  # fmt: skip


CRITERIA = (
    Criterion(
        "finish-line-gap", "finish line", _gap, lens="line", says={"max": "not closed"}, kinds=WITH_LEDGE,
        leave={"max": "look where it is dashed: retract and scan again, or draw the line there by hand"},
    ),
    Criterion(
        "finish-line-width", "width", by_reader(ring=_widths, window=width_rows, cast=width_rows), place="finish line",
        lens="line", by_attempt=True, kinds=WITH_LEDGE,
        correct={"min": corrected_by_reader(ring=_widen, window=deepen_ledge, cast=deepen_ledge)},
        leave={"max": "nothing to cut: record it and tell the laboratory; the restoration fills it"},
        way_out="the finish line cannot have its width here: the tooth is small, take a narrower one",
    ),
    Criterion(
        "finish-line-form", "form", by_reader(ring=_forms, window=form_rows, cast=form_rows), place="finish line",
        lens="line",
        says={"max": "not the wanted form"}, correct={"max": _accepted}, kinds=WITH_LEDGE,
        leave={"max": "accepted where its width is within limits: note it for the laboratory, and cut no wider for it"},
    ),
    Criterion(
        "finish-line-step", "step", _steps, place="finish line", lens="line", own_size=True, by_attempt=True,
        correct={"max": _join},
    ),
    Criterion(
        "finish-line-lip", "lip of the finish line", _lips, place="finish line", lens="line", own_size=True,
        by_attempt=True, correct={"max": _off_the_lip},
    ),
    Criterion(
        "finish-line-roughness", "roughness", _roughness, place="finish line", lens="line", own_size=True,
        correct={"max": _smooth},
    ),
    Criterion(
        "margin-height", "below the gingiva",
        by_reader(ring=_margin_heights, window=gingiva_rows, cast=gingiva_rows), place="margin",
        lens="line", kinds=WITH_LEDGE, says={"min": "too far over the gingiva"},
        leave={
            "min": "bring it nearer to the gingiva only where the root's colour shows when the lips part: agreed with "
            "the patient",
            "max": "hard to scan and to keep clean: retract well; where decay goes deeper, raise the margin with a "
            "filling first; surgery only after sounding the bone (about 3 mm from bone to margin)",
        },
    ),
    Criterion(
        "neighbour-gap", "room beside the finish line", _rooms, place="neighbour", lens="line",
        correct={"min": _separate},
        way_out="too near the next tooth: separate the teeth first, set the finish line where there is room",
    ),
    Criterion(
        "ferrule", "ferrule", _ferrule, place="wall", lens="line", by_attempt=True,
        leave={"min": "too little dentine holds the core: keep what is there; bonding, extruding the tooth, or, after "
               "sounding the bone (about 3 mm from bone to margin), lengthening the crown"},
    ),
)  # fmt: skip
