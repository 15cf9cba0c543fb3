"""The finish line: width, form and course."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Bools, Ints
from vane_line.core.judge.criteria.sides import ENOUGH_CLEAR, forms_said, side_mask, stretch_mask, told_over
from vane_line.core.judge.criteria.window_line import deepen_ledge, form_rows, width_rows
from vane_line.core.judge.limits import Limits
from vane_line.core.judge.record import WITH_LEDGE, Criterion, Held, by_reader, corrected_by_reader, verdicts
from vane_line.core.judge.standard_choice import suitable
from vane_line.core.judge.uncertainty import per_degree
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import HAND_MM, HOLD_LEDGE, Correction, Job, beyond, said
from vane_line.core.measure.line_form import (
    FLAT_SHARE,
    HEAVY_MM,
    SHARP_MM,
    SLOPED_DEG,
    LineForm,
    eased_widths,
    scatter_um,
)
from vane_line.core.measure.retention import SIDE_HALF_DEG, SIDES
from vane_line.core.measure.undercut import sector_of
from vane_line.core.mesh.quality import COARSE_EDGE_MM
from vane_line.core.rings import degrees_apart
from vane_line.core.shape import Told
from vane_line.core.vectors import xyz

U_GAP_DEG = 17.0  # where evidence begins is told no better (docs/uncertainty.md)
# A form this near its limit counts as either.
RADIUS_DOUBT_MM, WIDTH_DOUBT_MM, SLOPE_DOUBT_DEG, FLAT_DOUBT = 0.10, 0.10, 5.0, 0.12
MORE_DOUBT = 1.5  # times these: what fits then is wrong on one scan and right on the next
FURTHER_BELOW_MM = 0.5  # beyond the limit, to which a step may still be lowered
RIM_HIDDEN = 0.25  # of what edges are longer than a rim needs to show: so much of one (mm) may go unseen (standard)
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
    line, rows = held.geometry.line, []
    for side in SIDES:
        beside = degrees_apart(line.azimuth_deg, SIDES[side]) <= SIDE_HALF_DEG / 4
        for zone, low, high, limits in held.standard.sectors(side, float(np.median(line.radius[beside]))):
            rows += _width(held, zone, side, (low, high), limits)
    return rows


def _width(held: Held, zone: str, side: str, reach: tuple[float, float], limits: Limits) -> list[Verdict]:
    shape = held.geometry.ring.shape
    form = shape.form

    def at(turn: float = 0.0) -> Bools:
        return stretch_mask(form, side, *reach, turn)

    summary = form.width_summary(at()) if told_over(form, at()) else None
    if summary is None:
        return [not_measured("finish-line-width", zone, TOO_LITTLE)]

    def u(which: int) -> float:
        def value(form: LineForm, turn: float = 0.0) -> float | None:
            found = form.width_summary(at(turn))
            return None if found is None else found[which]

        further = shape.open_by(lambda told: value(told.form))
        return held.budget.of("finish-line-width", per_degree(lambda turn: value(form, turn)), further)

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
    shape, rows = held.geometry.ring.shape, []
    form = shape.form
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
        there = np.flatnonzero(clear)

        def wrong(told: Told, doubt: float = 1.0, wanted: tuple[str, ...] = wanted, there: Ints = there) -> float:
            fits = [fits_form(told.form, int(k), wanted, doubt) for k in there if told.form.form[k]]
            return 100 * (1 - float(np.mean(fits or [True])))

        why = forms_said((form.form[k] for k in there), wanted)
        value = wrong(shape)
        further = max(shape.open_by(wrong), (value - wrong(shape, MORE_DOUBT)) / 2)
        u = held.budget.form_of_ledge(float(np.nanmedian(form.width_mm[clear])), further)
        rows += verdicts("finish-line-form", side, value, "%", u, held.bounds("finish-line-form"),
                         why)  # fmt: skip
    return rows


def fits_form(form: LineForm, k: int, wanted: tuple[str, ...], doubt: float = 1.0) -> bool:
    """Whether a sample has one of the wanted forms, or lies too near a limit to say it has not; doubt: how many times
    as near it as usual."""
    name, radius, width = str(form.form[k]), form.inner_radius_mm[k], form.width_mm[k]
    if name in wanted or (name == "heavy-chamfer" and "chamfer" in wanted):
        return True
    if name == "shoulder" and "rounded-shoulder" in wanted:
        return bool(radius > SHARP_MM - doubt * RADIUS_DOUBT_MM)
    if name == "rounded-shoulder" and "shoulder" in wanted:
        return bool(radius < SHARP_MM + doubt * RADIUS_DOUBT_MM)
    level = set(wanted) & {"shoulder", "rounded-shoulder"}
    if name == "sloped-shoulder" and level and form.cavosurface_deg[k] < SLOPED_DEG[0] + doubt * SLOPE_DOUBT_DEG:
        return True
    heavy = "heavy-chamfer" in wanted and bool(width > HEAVY_MM - doubt * WIDTH_DOUBT_MM)
    if name == "chamfer" and heavy:
        return True
    # Curved or flat with a round corner: where a third of the ledge is flat the names part.
    if abs(form.flat_share[k] - FLAT_SHARE) >= doubt * FLAT_DOUBT:
        return False
    if name in ("chamfer", "heavy-chamfer"):
        return "rounded-shoulder" in wanted
    return name in ("rounded-shoulder", "sloped-shoulder") and ("chamfer" in wanted or heavy)


def _course_unseen(held: Held, criterion: str, unit: str = "mm") -> list[Verdict] | None:
    if held.geometry.ring.shape.form.clear.mean() < ENOUGH_CLEAR:
        return [not_measured(criterion, "overall", NO_EDGE, "max", unit)]
    return None


def _steps(held: Held) -> list[Verdict]:
    unseen = _course_unseen(held, "finish-line-step")
    if unseen:
        return unseen
    bounds, budget = held.bounds("finish-line-step"), held.budget
    rows = [
        v for s in held.geometry.ring.shape.form.steps
        for v in verdicts(criterion="finish-line-step", zone=s.sector, value=s.height_mm, unit="mm",
                          u=budget.of("finish-line-step", further=s.open_mm), bounds=bounds,
                          why=PASSING if s.overlap_deg else SUDDEN, at=s.at)
    ]  # fmt: skip
    return rows or verdicts("finish-line-step", "overall", 0.0, "mm", budget.of("finish-line-step"), bounds, SUDDEN)


def _lips(held: Held) -> list[Verdict]:
    unseen = _course_unseen(held, "finish-line-lip")
    if unseen:
        return unseen
    bounds, form = held.bounds("finish-line-lip"), held.geometry.ring.shape.form
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
            u=held.budget.of("finish-line-lip", further=found.open_mm),
            bounds=bounds,
            why=why,
            at=at,
        )
    none = held.budget.of("finish-line-lip", further=RIM_HIDDEN * held.budget.too_long_mm)
    return rows or verdicts("finish-line-lip", "overall", 0.0, "mm", none, bounds, why)


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
)  # fmt: skip
