"""A child's prefabricated crown: no ledge, the bulge that holds it, how deep it goes, and whether a size goes on."""

from __future__ import annotations

from math import hypot, radians, tan

import numpy as np

from vane_line.core.child.fit import Fit
from vane_line.core.child.neck import ACROSS
from vane_line.core.child.round import SideDepth, side_depths
from vane_line.core.judge.criteria.front import EDGE, crest_mm, shorten_by
from vane_line.core.judge.limits import Bounds
from vane_line.core.judge.record import CHILD_KINDS, Criterion, Held, verdicts
from vane_line.core.judge.uncertainty import COVERAGE
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import HAND_MM, Correction, Job
from vane_line.core.kinds.child import Fits
from vane_line.core.measure.retention import SIDE_HALF_DEG, SIDES
from vane_line.core.measure.undercut import sector_of
from vane_line.core.rings import degrees_apart
from vane_line.core.spread import middling
from vane_line.core.vectors import xyz

BETWEEN, FACES = ("mesial", "distal"), ("facial", "lingual")
STANDS_ON = "a crown comes to stand on a ledge and stays proud of the bite"
HOLDS = "the bulge under the contour is what a metal crown springs over and holds by"
LOST = "the bulge is cut away: the crown holds by its cement alone"
TAPER = "below the contour the walls stand nearly parallel: more taper lets the crown work loose"
OUTWARD = "the walls lean outward below the contour: a crown that does not give binds there"
TOO_THIN = "the crown's wall needs this much room round about"
TOO_MUCH = "more was cut than the crown needs"
SHORTEN = "along the path: the crown's edge needs this much room over the tooth's"
ROUNDED = "facial and lingual walls are only rounded: the crown is held there"
BELOW = "how far the cut ends below the gingiva"
UNSHOWN_SHARE = 0.55  # of a scan's edges, up to which a ledge vanishes between them
MOST_UNSEEN = 0.08  # of the way round: a ledge of a millimetre's length hides in no less
NOT_DOWN = "the scan ends at the walls' foot before the tooth goes under: tilt the tip, scan again below the contour"
# A taper told on 1.7 mm of wall, not on all of it: 24 cones of 4 to 12 µm noise spread by 0.3 degrees (0.77 at worst).
SHORT_RUN = 2.0
NECK_MM, U_OCCLUSAL_DEG = 2.0, 1.0  # from contour to neck; standard uncertainty of a guessed occlusal direction
FINE = "fine tapered bur with a pointed tip"
HELD_ALONG = "along the wall, its tip below the contact"


def fits_of(held: Held) -> Fits | None:
    """The crowns of the standard's material laid over; None where no set of it ships."""
    return held.geometry.child.fits.get(held.standard.material)


def sides_of(held: Held) -> dict[str, SideDepth] | None:
    """Depth in the middle of each side that was seen; None without the tooth before."""
    geometry, removed = held.geometry, held.removed
    if removed is None:
        return None
    return side_depths(geometry.inside, removed.smooth, removed.unseen, geometry.axes)


def _asked(held: Held, name: str) -> bool:
    """Whether the material's own standard wants it."""
    return name in held.standard.general


# --- judged --------------------------------------------------------------------------------------------------------


def _ledge(held: Held) -> list[Verdict]:
    neck = held.geometry.child.neck
    u = hypot(held.budget.of("ledge"), COVERAGE * neck.ledge_bent_mm)
    if neck.ledge_at is None and neck.unseen_share > MOST_UNSEEN:
        return [not_measured("ledge", "overall", NOT_DOWN, "max")]
    if neck.ledge_at is None:  # one narrower than what the scan can show may be there
        u = max(u, UNSHOWN_SHARE * held.geometry.edge_mm)
    why = f"{STANDS_ON}; at least so wide: the scan ends on it" if neck.ledge_is_least else STANDS_ON
    return verdicts("ledge", "overall", neck.ledge_mm, "mm", u, held.bounds("ledge"), why, at=neck.ledge_at)


def _undercut(held: Held) -> list[Verdict]:
    if not _asked(held, "cervical-undercut"):
        return []
    neck, bounds, rows = held.geometry.child.neck, held.bounds("cervical-undercut"), []
    for side in FACES:
        if held.side_unknown or side not in neck.undercut_mm:
            why = held.side_unknown or "the wall is not seen down to its neck on this side"
            rows.append(not_measured("cervical-undercut", side, why))
            continue
        value = neck.undercut_mm[side]
        why = HOLDS if value > (bounds.min or 0.0) else LOST
        tilt = 0.0 if held.geometry.options.occlusal is not None else NECK_MM * tan(radians(U_OCCLUSAL_DEG))
        u = hypot(held.budget.of("cervical-undercut"), COVERAGE * tilt)
        rows += verdicts("cervical-undercut", side, value, "mm", u, bounds, why, at=neck.at[side])
    return rows


def _taper(held: Held) -> list[Verdict]:
    if not _asked(held, "cervical-taper"):
        return []
    neck, rows = held.geometry.child.neck, []
    for zone in ACROSS:
        if zone not in neck.taper_deg:
            rows.append(not_measured("cervical-taper", zone, "no straight wall is seen on both sides", "max", "deg"))
            continue
        u = hypot(SHORT_RUN * held.budget.of("convergence"), neck.bent_deg[zone])
        rows += verdicts("cervical-taper", zone, neck.taper_deg[zone], "deg", u, held.bounds("cervical-taper"),
                         {"max": TAPER, "min": OUTWARD})  # fmt: skip
    return rows


def _depth(held: Held) -> list[Verdict]:
    """Below the gingiva, where its line is known and the cut is seen to end."""
    geometry, bounds, rows = held.geometry, held.bounds("cervical-depth"), []
    found, line = geometry.child.shape.margin, geometry.line
    if found.source is None:
        why = "the gingiva's line is not known: it needs to be drawn, or a scan before the gingiva was pushed aside"
        return [not_measured("cervical-depth", "overall", why)]
    for side, azimuth in SIDES.items():
        near = (degrees_apart(line.azimuth_deg, azimuth) <= SIDE_HALF_DEG) & np.isfinite(found.above_gingiva_mm)
        told = np.flatnonzero(near & line.told)
        if len(told) < near.sum() / 2 or not near.any():
            why = "the gingiva covers where the cut ends: feel for it with a probe, or scan it pushed aside"
            rows.append(not_measured("cervical-depth", side, why))
            continue
        below = -found.above_gingiva_mm[told]
        value = middling(below)
        at = geometry.line.points[told[int(np.argmin(np.abs(below - value)))]]
        rows += verdicts(
            "cervical-depth", side, value, "mm", held.budget.of("margin-height"), bounds, BELOW, at=xyz(at)
        )
    return rows


def side_rows(held: Held, criterion: str, name: str, sides: tuple[str, ...], why: dict[str, str]) -> list[Verdict]:
    """Depth of the sides' middles against one of the standard's own rows; nothing where it has none."""
    if not _asked(held, name):
        return []
    found = sides_of(held)
    if found is None:
        why_not = held.geometry.reasons.get("tooth-removed", "no scan of the tooth before cutting was given")
        return [not_measured(criterion, f"wall/{side}", why_not) for side in sides]
    rows = []
    for side in sides:
        if held.side_unknown or side not in found:
            why_not = held.side_unknown or "the earlier scan never saw the tooth there (contact or gingiva)"
            rows.append(not_measured(criterion, f"wall/{side}", why_not))
            continue
        depth = found[side]
        rows += verdicts(criterion, f"wall/{side}", depth.depth_mm, "mm", held.budget.reduction(), held.bounds(name),
                         why, at=depth.at)  # fmt: skip
    return rows


def round_about(held: Held) -> list[Verdict]:
    """Reduction of the sides: slices between the teeth, or all round."""
    room = {"min": TOO_THIN, "max": TOO_MUCH}
    return [
        *side_rows(held, "reduction", "slice", BETWEEN, room),
        *side_rows(held, "reduction", "round-about", tuple(SIDES), room),
        *edge_taken_down(held, "reduction", least=True),
    ]


def edge_taken_down(held: Held, criterion: str, least: bool) -> list[Verdict]:
    """How far a front tooth's edge was taken down along the path; nothing of a back tooth. least: whether against the
    least and, on a natural tooth, the greatest value; else against the greatest alone."""
    geometry, limits = held.geometry, held.standard.limits_for_zone(EDGE)
    if not geometry.options.tooth.front or limits is None:
        return []
    most = limits.max if geometry.reference == "preop" and geometry.options.meaning.natural else None
    if edge := geometry.child.edge:
        bounds = Bounds(limits.min if least else None, limits.target, most, limits.source)
        u = hypot(held.budget.reduction(), edge.uneven_mm, COVERAGE * crest_mm(held, EDGE))
        return verdicts(criterion, EDGE, edge.mm, "mm", u, bounds, {"min": SHORTEN, "max": TOO_MUCH},
                        at=edge.at)  # fmt: skip
    why = geometry.reasons.get("reduction", "the earlier scan does not show the edge over it")
    return [not_measured(criterion, EDGE, why, "min" if least else "max")]


def faces_removed(held: Held) -> list[Verdict]:
    """What was taken off walls that should only be rounded."""
    return [
        *side_rows(held, "tooth-removed", "face-removed", FACES, {"min": "", "max": ROUNDED}),
        *edge_taken_down(held, "tooth-removed", least=False),
    ]


def _seat(held: Held) -> list[Verdict]:
    """The crown of the tooth's own width should go on at the first try."""
    fits = fits_of(held)
    if fits is None:
        return [not_measured("crown-seat", "overall", "no set of such crowns is known", "max")]
    if fits.first is None:
        why = "without the tooth before, neither its width nor its height is known"
        return [not_measured("crown-seat", "overall", why, "max")]
    first, bounds = fits.first, held.bounds("crown-seat")
    size = f"size {first.size.name}, {first.size.mesiodistal_mm:.1f} mm wide as the tooth was"
    if first.proud_mm is not None:
        why = f"{size}: it goes on" if first.goes_on else f"{size}, binds by {first.binds_mm:.2f} mm: {_next(fits)}"
        value, zone = first.proud_mm, "overall" if first.goes_on else sector_of(first.sector_deg)
        u = held.budget.of("crown-seat", further=fits.first_u_mm)
        return verdicts("crown-seat", zone, value, "mm", u, bounds, why, at=first.at)
    # It does not go on at any height: how much it binds says by how much more than the limit it stays off.
    why = f"{size}, does not go on: it binds by {first.binds_mm:.2f} mm; {_next(fits)}"
    return verdicts("crown-seat", sector_of(first.sector_deg), first.binds_mm + (bounds.max or 0.0), "mm",
                    held.budget.of("crown-seat"), bounds, why, at=first.at)  # fmt: skip


def _next(fits: Fits) -> str:
    chosen: Fit | None = fits.chosen
    return f"the smallest that does is size {chosen.size.name}" if chosen else "no size of the set does"


# --- corrected -----------------------------------------------------------------------------------------------------


def _off_ledge(job: Job, v: Verdict) -> Correction:
    return job.row(v, "finish-line", f"take the ledge away, {v.value or 0.0:.1f} mm at its widest: the wall runs out "
                   "below the gingiva without one", bur=FINE, hold=HELD_ALONG, to_min_mm=v.value, to_target_mm=v.value,
                   beware="the neighbour: a wedge or a strip of metal between")  # fmt: skip


def slice_off(job: Job, v: Verdict) -> Correction | None:
    """Off a side, where it lacks room for the crown's wall."""
    amount, full = v.missing or 0.0, v.to_target or 0.0
    if max(amount, full) < HAND_MM:
        return None
    do = f"remove {amount:.1f} mm here to reach the minimum, {full:.1f} mm to the target"
    return job.row(v, "wall", do, bur=FINE, hold=HELD_ALONG, to_min_mm=amount, to_target_mm=full,
                   beware="no ledge is left at its foot; the neighbour")  # fmt: skip


def shorten_child(job: Job, v: Verdict) -> Correction | None:
    """Off a front tooth's edge."""
    return shorten_by(job, v, FINE, "square to the path, along the whole edge", "face and back stay as they are")


def _where_it_binds(job: Job, v: Verdict) -> Correction:
    fits = fits_of(job.held)
    first = fits.first if fits else None
    amount = first.binds_mm if first else 0.0
    give = first.size.set.gives_mm if first else 0.0
    other = f"or try size {fits.chosen.size.name}" if fits and fits.chosen else "or another set"
    if amount - give < HAND_MM:
        return job.row(v, "other", f"it binds by {amount:.2f} mm, too little to ask of a hand: {other}",
                       beware="a crown is never pressed on by biting until it is free")  # fmt: skip
    return job.row(v, "wall", f"take {amount - give:.1f} mm off where it binds, {other}", bur=FINE, hold=HELD_ALONG,
                   to_min_mm=amount - give, to_target_mm=amount,
                   beware="the facial and lingual bulge holds a metal crown: off the corners first")  # fmt: skip


def _parallel(job: Job, v: Verdict) -> Correction:
    do = f"upright the walls below the gingiva by {abs(v.missing or 0.0):.0f} degrees in all"
    return job.row(v, "wall", do, bur=FINE, hold="parallel to the path", beware="no ledge is left at its foot")


CRITERIA = (
    Criterion(
        "ledge", "ledge", _ledge, place="finish line", lens="line", own_size=True, by_attempt=True,
        correct={"max": _off_ledge}, kinds=CHILD_KINDS,
    ),
    Criterion(
        "cervical-undercut", "bulge below the contour", _undercut, place="wall", lens="line", by_attempt=True,
        kinds=CHILD_KINDS,
        leave={"min": "what is cut of the bulge cannot be put back: choose a close size, crimp its rim, cement well"},
    ),
    Criterion(
        "cervical-taper", "taper below the contour", _taper, lens="line", by_attempt=True, kinds=CHILD_KINDS,
        correct={"min": _parallel},
        leave={"max": "walls that are too tapered cannot be cut back: a close size, and cement well"},
    ),
    Criterion(
        "cervical-depth", "depth below the gingiva", _depth, place="margin", lens="line", kinds=CHILD_KINDS,
        says={"min": "ends too high"},
        leave={"min": "carry the wall on below the gingiva, by the probe, without a ledge",
               "max": "deep below the gingiva: no further"},
    ),
    Criterion(
        "crown-seat", "crown of its own size", _seat, lens="space", weight=2.0, by_attempt=True, kinds=CHILD_KINDS,
        correct={"max": _where_it_binds}, says={"max": "stands proud"},
    ),
)  # fmt: skip
