"""Veneer: what is taken off the edge, how its incisal end is made, where it ends beside and behind, likely enamel."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from vane_line.core.judge.criteria.front import incisal_reduction, shorten
from vane_line.core.judge.criteria.window_line import window_of
from vane_line.core.judge.limits import Bounds
from vane_line.core.judge.record import (
    CROWNS,
    WINDOW_KINDS,
    Criterion,
    Held,
    by_reader,
    corrected_by_reader,
    verdicts,
)
from vane_line.core.judge.uncertainty import COVERAGE
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import Correction, Job
from vane_line.core.window.forms import Ending

SPREAD_SHARE = 0.22  # of a contact's spread, by which its middle is uncertain
THIRDS = ("cervical", "middle", "incisal")
NOT_SEEN = "the incisal end is not seen in the middle of the tooth"
NOT_SHORTENED = "the edge was not shortened"
SPOON = "a ledge this wide is a spoon: the veneer's edge is bulky there and catches on the way in"
IN_CONTACT = "a line in the contact can be neither scanned, finished nor cleaned: short of it, or well past it"
SHOWS = "the line still shows from the side by {:.1f} mm before the contact's place"
ENAMEL = "what is usually enamel there; a scan does not see it: bond to dentine as such where it shows"
DENTINE = "more than the enamel that is usually there: dentine is likely open, which bonds less well"
LONG_EDGE = "a lengthened edge without a butt stands on nothing"
STRAIGHT = "straight bur with a rounded end"
DEPTH_CUTS = "depth-cut grooves across the edge first, then a straight bur between them"


# --- judged --------------------------------------------------------------------------------------------------------


def _window_reduction(held: Held) -> list[Verdict]:
    incisal = window_of(held).incisal
    if incisal is None:
        return [not_measured("incisal-reduction", "incisal-edge", NOT_SEEN)]
    if incisal.form in ("window", "feather"):
        return [not_measured("incisal-reduction", "incisal-edge", NOT_SHORTENED)]
    if incisal.reduction_mm is None:
        why = held.geometry.reasons.get("reduction", "the planned edge is not known")
        return [not_measured("incisal-reduction", "incisal-edge", why)]
    u, said = held.budget.of("incisal-reduction"), {
        "min": "the veneer's edge is where it breaks: thinner chips",
        "max": "more of the edge was taken than the veneer needs",
    }  # fmt: skip
    return verdicts("incisal-reduction", "incisal-edge", incisal.reduction_mm, "mm", u,
                    held.bounds("incisal-reduction"), said, at=incisal.at)  # fmt: skip


def _form(held: Held) -> list[Verdict]:
    """A butt stands across the tooth; a lengthened edge has one."""
    incisal = window_of(held).incisal
    if incisal is None:
        return [not_measured("incisal-form", "incisal-edge", NOT_SEEN, "max", "deg")]
    if incisal.form == "butt" and incisal.angle_deg is not None:
        why = {"min": "a facet that falls forward leaves an edge of ceramic without support",
               "max": "a facet that falls backward leaves the veneer's edge thin behind"}  # fmt: skip
        u = float(np.hypot(held.budget.of("incisal-form"), COVERAGE * incisal.angle_u_deg))
        return verdicts("incisal-form", "incisal-edge", incisal.angle_deg, "deg", u, held.bounds("incisal-form"), why,
                        at=incisal.at)  # fmt: skip
    if incisal.form in ("window", "feather") and incisal.longer_mm is not None:
        most = held.bounds("lengthened-without-butt")
        return verdicts("incisal-form", "incisal-edge", incisal.longer_mm, "mm", held.budget.of("incisal-reduction"),
                        most, LONG_EDGE, at=incisal.at)  # fmt: skip
    return []


def _wrap(held: Held) -> list[Verdict]:
    incisal = window_of(held).incisal
    if incisal is None or incisal.wrap_length_mm is None:
        return []
    u, bounds = held.budget.of("wrap"), held.bounds("wrap-length")
    if not held.geometry.options.tooth.front:  # over a cusp it comes into no concavity
        bounds = bounds.least
    rows = verdicts("wrap", "wrap", incisal.wrap_length_mm, "mm", u, bounds,
                    {"min": "too short a wrap holds nothing: then rather a butt",
                     "max": "a long wrap comes into the concavity, where biting bends it"}, at=incisal.at)  # fmt: skip
    if incisal.wrap_depth_mm is None:
        return [*rows, not_measured("wrap", "wrap/depth", "its ledge is not seen behind")]
    thin = "the veneer is thin where it ends behind"
    return rows + verdicts("wrap", "wrap/depth", incisal.wrap_depth_mm, "mm", u, held.bounds("wrap-depth"), thin,
                           at=incisal.at)  # fmt: skip


def _scoops(held: Held) -> list[Verdict]:
    u, bounds = held.budget.of("scoop"), held.bounds("scoop")
    return [
        v
        for s in window_of(held).scoops
        for v in verdicts("scoop", "wrap" if s.side == "lingual" else f"proximal/{s.side}", s.width_mm, "mm", u, bounds,
                          SPOON, at=s.at)
    ]  # fmt: skip


def _endings(held: Held) -> list[Verdict]:
    rows = []
    for found in window_of(held).endings:
        zone = f"proximal/{found.side}"
        if held.side_unknown or found.past_contact_mm is None:
            rows.append(not_measured("contact-ending", zone, held.side_unknown or found.why, "max"))
            continue
        rows += _ending(held, found, zone)
    return rows


def _ending(held: Held, found: Ending, zone: str) -> list[Verdict]:
    """Short of the contact, or past it: by whichever of the two it is nearer to."""
    value, u = found.past_contact_mm, ending_u(held, found)
    assert value is not None
    short, past = held.bounds("contact-short"), held.bounds("contact-past")
    middle = ((short.max or 0.0) + (past.min or 0.0)) / 2
    if value <= middle:
        why = IN_CONTACT if value > (short.max or 0.0) else SHOWS.format(-value)
        return verdicts("contact-ending", zone, value, "mm", u, short, why, at=found.at)
    return verdicts("contact-ending", zone, value, "mm", u, past,
                    {"min": IN_CONTACT, "max": "past the contact by more than is needed: it takes sound tooth behind"},
                    at=found.at)  # fmt: skip


def ending_u(held: Held, found: Ending) -> float:
    """Of where a line ends, mm: the flatter the contact, the less its place is told."""
    return float(np.hypot(held.budget.of("contact-ending"), COVERAGE * SPREAD_SHARE * found.spread_mm))


def _enamel(held: Held) -> list[Verdict]:
    """A caution, never a fault: silent where the surface before was not a sound tooth's."""
    removed, rows = held.removed, []
    if removed is None or held.geometry.options.earlier != "natural":
        return [not_measured("enamel-likely-left", "overall", "only a sound tooth's own surface says it", "max")]
    for zone in removed.zones:
        head, _, third = zone.zone.partition("/")
        if head != "facial" or third not in THIRDS or not zone.measurable or zone.median_mm is None:
            continue
        usual = held.bounds(f"enamel-{third}")
        for v in verdicts("enamel-likely-left", zone.zone, zone.median_mm, "mm", held.budget.reduction(), usual, ENAMEL,
                          at=zone.highest):  # fmt: skip
            rows.append(replace(v, status="within-uncertainty", why=DENTINE) if v.status == "over" else v)
    return rows


def enamel_left(removed_mm: float, usual: Bounds) -> bool:
    """Whether enamel is likely left where so much was taken."""
    return usual.max is not None and removed_mm <= usual.max


# --- corrected -----------------------------------------------------------------------------------------------------


def _shorten(job: Job, v: Verdict) -> Correction | None:
    low, full = v.missing or 0.0, v.to_target or 0.0
    do = f"shorten the edge by {low:.1f} mm to the minimum, {full:.1f} to the target"
    return job.row(v, "occlusal", do, bur="depth-cutter, then a straight bur with a rounded end", hold=DEPTH_CUTS,
                   beware="measure from the planned edge, not from the tooth's: a longer tooth needs less cutting",
                   to_min_mm=low, to_target_mm=full)  # fmt: skip


def _square(job: Job, v: Verdict) -> Correction:
    if v.unit == "mm":
        return job.row(v, "occlusal", "make a butt: the edge levelled across the tooth", hold=DEPTH_CUTS,
                       bur=STRAIGHT, beware="by the planned edge: no more than the material needs")  # fmt: skip
    do = f"level the facet to about {v.target or 90:.0f} degrees across the tooth's axis"
    return job.row(v, "occlusal", do, bur=STRAIGHT, hold="across the edge, level",
                   beware="off its high side only")  # fmt: skip


def _further_behind(job: Job, v: Verdict) -> Correction:
    low, full = v.missing or 0.0, v.to_target or 0.0
    what = "deepen the chamfer behind" if v.zone.endswith("depth") else "carry the chamfer further behind"
    return job.row(v, "finish-line", f"{what} by {low:.1f} mm to the minimum, {full:.1f} to the target",
                   bur="round-ended bur, half its width", hold="along the back, level with the edge", to_min_mm=low,
                   to_target_mm=full, beware="not into the concavity, and 1 mm off every contact")  # fmt: skip


def _off_contact(job: Job, v: Verdict) -> Correction:
    if v.bound == "min":
        more = v.missing or 0.0
        do = f"carry the line {more:.1f} mm further, past the contact, and open it with a strip"
    else:
        more = (job.standard.bounds("contact-past").min or 0.3) - (v.value or 0.0)
        do = (
            f"it ends in the contact, and cannot be brought back: carry it {more:.1f} mm further, past the contact, "
            "and open it with a strip; where the contact is to be kept, leave it and tell the laboratory"
        )
    return job.row(v, "finish-line", do, bur="thin finishing bur, then a polishing strip", to_min_mm=more,
                   hold="from the facial side, along the line",
                   beware="no stroke at the neighbour: a metal strip")  # fmt: skip


CRITERIA = (
    Criterion(
        "incisal-reduction", "room at the incisal edge", by_reader(window=_window_reduction, ring=incisal_reduction),
        lens="depth", by_attempt=True, weight=1.5,
        correct={"min": corrected_by_reader(window=_shorten, ring=shorten)}, kinds=(*WINDOW_KINDS, *CROWNS),
        leave={"max": "nothing to cut: record it; what is made is longer than it need be, and tooth is gone"},
    ),
    Criterion(
        "incisal-form", "form of the incisal end", _form, lens="depth", weight=0.5,
        correct={"min": _square, "max": _square}, kinds=WINDOW_KINDS,
    ),
    Criterion(
        "wrap", "wrap over the edge", _wrap, lens="line", correct={"min": _further_behind}, kinds=WINDOW_KINDS,
        leave={"max": "nothing to cut: see that it ends off the contacts, and record it"},
    ),
    Criterion(
        "scoop", "scoop", _scoops, lens="line", by_attempt=True, kinds=WINDOW_KINDS,
        leave={"max": "too wide a ledge cannot be taken back: round its inner corner so that the veneer passes, go no "
               "deeper, and tell the laboratory; it may be filled with bonded composite first"},
    ),
    Criterion(
        "contact-ending", "ending beside the contact", _endings, lens="line", correct={"min": _off_contact,
        "max": _off_contact}, kinds=WINDOW_KINDS,
    ),
    Criterion(
        "enamel-likely-left", "enamel that is likely left", _enamel, lens="depth", weight=0.3, kinds=WINDOW_KINDS,
        leave={"max": "cut no deeper here; where dentine is open, seal and bond to it as such; record it"},
        doubtful="cut no deeper here; where dentine shows, seal and bond to it as such, and record it",
    ),
)  # fmt: skip
