"""Inlay, onlay, overlay: depth, isthmus, walls that lean outward, boxes, standing cusps, the outline."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps

import numpy as np

from vane_line.core.arrays import Floats, Ints
from vane_line.core.case import Geometry
from vane_line.core.cavity.cusps import CuspForm
from vane_line.core.cavity.floor import LEAST_FLOOR_MM2
from vane_line.core.cavity.isthmus import Isthmus
from vane_line.core.judge.limits import Bounds
from vane_line.core.judge.record import CAVITY_KINDS, WINDOW_KINDS, Criterion, Held, verdicts
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import HAND_MM, Correction, Job
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.kinds.window import WindowCut
from vane_line.core.measure.zones import is_functional
from vane_line.core.outline.line import OutlineLine
from vane_line.core.rings import running_median
from vane_line.core.vectors import xyz

Rows = Callable[[Held], list[Verdict]]
CAP_SHARE = 0.8  # of a cusp that was thinner than the limit before anything was cut
HIDDEN_MM = 0.25  # by which an outline lies too far in where the scanner filled the gap to the neighbour
LOST_SHARE = 0.30  # of the outline without an edge: then nobody knows what is cavity
STRETCH = 5  # points of the outline, half a millimetre, that a cavosurface angle is told over
LEAST_STRETCH = 4
ROUND_ABOUT, LEAST_ROUND = 41, 12  # points, four millimetres: an angle at odds with them may be gingiva's
UNSURE_MM = 1.0  # of the distance to a contact that may be none
CLEAR_SHARE, LOW_SHARE = 0.6, 0.1  # of a box's edge that must be clear; and that may lie beyond what is told
PULP = "the scan sees no pulp: look at the radiograph first, stop at the minimum"
TAPERED_BUR = "tapered bur with a rounded end, its half-angle the wall's"
ALONG_PATH = "bur along the path, led along the wall in one sweep"
SLIPS = "a floor that falls lets the restoration slip on seating"
SPLIT = "a decision of the dentist's: the alternative is a thin cusp that stands bonded; say it to the patient"


def _cut(held: Held) -> CavityCut:
    assert isinstance(held.geometry.cut, CavityCut)
    return held.geometry.cut


def _where_told(name: str, bound: str = "min", unit: str = "mm") -> Callable[[Rows], Rows]:
    """Not for a cavity whose outline is mostly a guess: what lies inside of it is one too."""

    def told(judge: Rows) -> Rows:
        @wraps(judge)
        def judged(held: Held) -> list[Verdict]:
            lost = held.geometry.line.doubtful_share
            if lost <= LOST_SHARE:
                return judge(held)
            why = f"no edge is seen over {100 * lost:.0f} % of the outline: draw it, or add the scan before cutting"
            return [not_measured(name, "overall", why, bound, unit)]

        return judged

    return told


# --- judged --------------------------------------------------------------------------------------------------------


@_where_told("cavity-depth")
def _depth(held: Held) -> list[Verdict]:
    floor, standard = _cut(held).floor, held.standard
    if floor is None:
        return [not_measured("cavity-depth", "overall", "no floor of a cavity is seen")]
    if floor.depth_low_mm is None or floor.depth_median_mm is None:
        why = held.geometry.reasons.get("reduction", "nothing is known to stand over the floor")
        if floor.area_mm2 < LEAST_FLOOR_MM2:
            why = f"hardly any level floor is seen between the walls ({floor.area_mm2:.1f} mm²)"
        return [not_measured("cavity-depth", "overall", why)]
    bounds, u = held.bounds("cavity-depth"), float(np.hypot(held.budget.of("cavity-depth"), floor.low_moves_mm))
    rows = verdicts("cavity-depth", "overall", floor.depth_low_mm, "mm", u, bounds.least, standard.reason, at=floor.at)
    deep = "more was cut than the restoration needs, towards the pulp"
    # What counts as floor is told otherwise by every scan: its least place stays, its middle moves.
    u = float(np.hypot(held.budget.of("cavity-depth-median"), floor.median_moves_mm))
    return rows + verdicts("cavity-depth", "overall", floor.depth_median_mm, "mm", u, bounds.most, deep, at=floor.at)


@_where_told("isthmus")
def _isthmus(held: Held) -> list[Verdict]:
    found = _cut(held).isthmus
    if found is None:
        return [not_measured("isthmus", "overall", "no wall stands on both sides: there is no isthmus")]
    at = xyz(np.mean(found.at, axis=0))
    why = "a narrow isthmus is where an inlay breaks"
    return verdicts(
        "isthmus", "overall", found.width_mm, "mm", _isthmus_u(held, found), held.bounds("isthmus"), why, at=at
    )


def _isthmus_u(held: Held, found: Isthmus) -> float:
    return float(np.hypot(held.budget.of("isthmus"), found.moves_mm))


@_where_told("isthmus-share", "max", "ratio")
def _share(held: Held) -> list[Verdict]:
    found = _cut(held).isthmus
    if found is None or found.share is None:
        why = "no isthmus is seen" if found is None else "the cusp tips beside it are not known"
        return [not_measured("isthmus-share", "overall", why, "max", "ratio")]
    u = _isthmus_u(held, found) / max(found.width_mm / found.share, 1.0)
    why = "beyond half of the distance between the cusp tips the cusps are weak: one school covers them"
    at = xyz(np.mean(found.at, axis=0))
    return verdicts("isthmus-share", "overall", found.share, "ratio", u, held.bounds("isthmus-share"), why, at=at)


@_where_told("divergence", "min", "deg")
def _divergence(held: Held) -> list[Verdict]:
    walls = _cut(held).walls
    if not walls:
        return [not_measured("divergence", "overall", "no straight wall is seen", "min", "deg")]
    why = {"min": "nearly parallel walls are hard to seat and to scan; under 0 they are undercut",
           "max": "a wall that leans far out gives no hold and thins the restoration's edge"}  # fmt: skip
    low = "the wall is too low to tell how it leans, on this scan"
    return [not_measured("divergence", w.zone, low, "min", "deg") for w in walls if not w.told] + [
        v
        for wall in walls
        if wall.told
        for v in verdicts("divergence", wall.zone, wall.divergence_deg, "deg", held.budget.of("divergence"),
                          held.bounds("divergence"), why, at=wall.at)
    ]  # fmt: skip


@_where_told("box-depth")
def _box_depth(held: Held) -> list[Verdict]:
    rows = []
    for box in _cut(held).boxes:
        if box.depth_mm is None:
            rows.append(not_measured("box-depth", f"box/{box.side}", "its axial wall or its outer edge is not seen"))
            continue
        why = {"min": "too little room for the restoration beside the contact", "max": "cut further towards the pulp "
               "than the restoration needs"}  # fmt: skip
        rows += verdicts("box-depth", f"box/{box.side}", box.depth_mm, "mm", held.budget.of("box-depth"),
                         held.bounds("box-depth"), why, at=box.at)  # fmt: skip
    return rows


@_where_told("box-floor", "max", "deg")
def _box_floor(held: Held) -> list[Verdict]:
    return [
        v
        for box in _cut(held).boxes
        if box.slope_deg is not None
        for v in verdicts("box-floor", f"box/{box.side}", box.slope_deg, "deg", held.budget.of("box-floor"),
                          held.bounds("box-floor"), SLIPS, at=box.at)
    ]  # fmt: skip


@_where_told("contact-clearance")
def _contact(held: Held) -> list[Verdict]:
    rows = []
    for box in _cut(held).boxes:
        if box.contact_clearance_mm is None:
            none = "no neighbour is seen on this side"
            rows.append(not_measured("contact-clearance", f"box/{box.side}", none))
            continue
        why = {"min": "the outline is too near to the neighbour to be scanned, bonded and cleaned",
               "max": "opened further than is needed"}  # fmt: skip
        u = held.budget.of("contact-clearance")
        if not box.nearest_clear:  # a scanner fills so narrow a gap: the edge lies at most there
            u += HIDDEN_MM
            why = {bound: f"{words}; no clear edge is seen there: separate the teeth and scan again"
                   for bound, words in why.items()}  # fmt: skip
        rows += verdicts("contact-clearance", f"box/{box.side}", box.contact_clearance_mm, "mm", u,
                         held.bounds("contact-clearance"), why, at=box.nearest or box.at)  # fmt: skip
    return rows


def _cavosurface(held: Held) -> list[Verdict]:
    """On proximal and gingival stretches; on cusp slopes it is shown, not judged."""
    cut, bounds = _cut(held), held.bounds("cavosurface")
    if bounds.min is None and bounds.max is None:
        return []
    line, rows = cut.outline, []
    eased = running_median(line.cavosurface_deg, STRETCH // 2, LEAST_STRETCH)
    around = running_median(line.cavosurface_deg, ROUND_ABOUT // 2, LEAST_ROUND)
    around = np.where(np.isfinite(around), around, eased)
    for box in cut.boxes:
        edge = np.array(box.edge, dtype=np.int64)
        here = edge[np.isfinite(eased[edge])]
        zone = f"box/{box.side}"
        if len(here) < max(LEAST_STRETCH, CLEAR_SHARE * box.edge_points):
            rows.append(not_measured("cavosurface", zone, "too little of its edge is clear", "min", "deg"))
            continue
        sharp, thin = "a sharp edge of tooth breaks off", "the restoration's edge gets thin and chips"
        for share, limits, why in ((LOW_SHARE, bounds.least, sharp), (1 - LOW_SHARE, bounds.most, thin)):
            value, lasting = (float(np.quantile(angles[here], share)) for angles in (eased, around))
            u = held.budget.of("cavosurface", further=abs(value - lasting))
            rows += verdicts("cavosurface", zone, value, "deg", u, limits, why,
                             at=_nearest(line, here, eased, value))  # fmt: skip
    return rows


def _nearest(line: OutlineLine, here: Ints, values: Floats, wanted: float) -> tuple[float, float, float]:
    """The place of the outline where a value is nearest to the one that is told."""
    return xyz(line.points[here[int(np.argmin(np.abs(values[here] - wanted)))]])


@_where_told("outline-contact")
def _outline_contact(held: Held) -> list[Verdict]:
    cut = held.geometry.cut
    assert isinstance(cut, CavityCut | WindowCut)
    away = cut.contacts.away
    if not np.isfinite(away).any():
        why = held.geometry.reasons.get("clearance", "no contact of the opposing teeth is seen on the tooth before")
        return [not_measured("outline-contact", "overall", why)]
    k = int(np.nanargmin(away))
    value = float(away[k])
    # What hardly meets may be a contact or none: the bite is not surer than that.
    spread = np.nanmax([value - cut.contacts.least_mm, cut.contacts.most_mm - value, 0.0])
    if np.isnan(cut.contacts.most_mm):  # nothing surely meets
        spread = max(spread, UNSURE_MM)
    u = float(np.hypot(held.budget.of("outline-contact"), spread))
    why = "an outline under a contact chips, and wears at the cement"
    at = xyz(cut.outline.points[k])
    return verdicts("outline-contact", "overall", value, "mm", u, held.bounds("outline-contact"), why, at=at)


@_where_told("cusp-thickness")
def _thickness(held: Held) -> list[Verdict]:
    cut, rows = _cut(held), []
    if not cut.cusps:
        return [not_measured("cusp-thickness", "overall", "the cusps are not known")]
    for cusp in cut.cusps:
        if cusp.covered:
            continue
        if held.side_unknown or cusp.base_mm is None:
            why = held.side_unknown or "no wall of the cavity stands beside it, or its outer surface is not seen"
            rows.append(not_measured("cusp-thickness", cusp.cusp, why))
            continue
        bounds, why = _cusp_bounds(held, cusp)
        u = held.budget.of("cusp-thickness-by-box" if cusp.by_box else "cusp-thickness")
        rows += verdicts("cusp-thickness", cusp.cusp, cusp.base_mm, "mm", u, bounds, why, at=cusp.at)
    return rows


def cusp_bound(geometry: Geometry, standard: Standard, cusp: str) -> Bounds:
    """What a standing cusp needs at its base, by its part in the bite and whether the tooth is root-filled."""
    if geometry.options.root_filled:
        return standard.bounds("cusp-thickness-root-filled")
    functional = is_functional(cusp, geometry.functional.side)
    return standard.bounds("cusp-thickness-functional" if functional else "cusp-thickness")


def _cusp_bounds(held: Held, cusp: CuspForm) -> tuple[Bounds, str]:
    """What its base must have: by its part in the bite, capped where it was thinner before."""
    functional = is_functional(cusp.cusp, held.geometry.functional.side)
    bounds = cusp_bound(held.geometry, held.standard, cusp.cusp)
    why = f"a standing {'functional ' if functional else ''}cusp that is thin at its base splits off: cover it"
    whole = cusp.whole_mm
    if bounds.min is not None and whole is not None and whole < bounds.min:
        return Bounds(CAP_SHARE * whole, None, None, bounds.source), (
            f"{why}; the tooth is small, the whole cusp was {whole:.1f} mm before"
        )
    return bounds, why


def _inner(held: Held) -> list[Verdict]:
    radius = _cut(held).internal_radius_mm
    if radius is None:
        return [not_measured("internal-radius", "overall", "too little of the corners between walls and floor is seen")]
    why = "sharp inner corners raise stress in ceramic and are not milled"
    return verdicts("internal-radius", "overall", radius, "mm", held.budget.of("internal-radius"),
                    held.bounds("internal-radius"), why)  # fmt: skip


# --- corrected -----------------------------------------------------------------------------------------------------


def _deepen(job: Job, v: Verdict) -> Correction | None:
    low, full = v.missing or 0.0, v.to_target or 0.0
    if full < HAND_MM and low < HAND_MM:
        return job.row(v, "other", f"{low:.2f} mm are too little to ask of a hand: leave it, or build the "
                       "surface fuller where the opposing teeth leave room")  # fmt: skip
    do = f"deepen the floor by {low:.1f} mm to the minimum, {full:.1f} to the target, where it is shallow"
    return job.row(v, "occlusal", do, bur="straight bur with a rounded end", hold="bur along the path, end-cutting",
                   beware=PULP, to_min_mm=low, to_target_mm=full)  # fmt: skip


def _widen(job: Job, v: Verdict) -> Correction:
    """Off the side whose cusps can spare it; else the cusp is covered."""
    cut, low, full = job.g.cut, v.missing or 0.0, v.to_target or 0.0
    assert isinstance(cut, CavityCut)
    spare = {}
    for side in ("facial", "lingual"):
        mine = [c for c in cut.cusps if not c.covered and ("lingual" in c.cusp) == (side == "lingual")]
        rest = [(c.base_mm or 0.0) - (_cusp_bounds(job.held, c)[0].min or 0.0) for c in mine]
        spare[side] = min(rest, default=0.0)
    side = max(spare, key=lambda s: spare[s])
    named = side.replace("lingual", job.lingual)
    do = f"widen the isthmus by {low:.1f} mm to the minimum, {full:.1f} to the target, on the {named} side"
    refused = ""
    if spare[side] < low:
        refused = (
            f"its cusps would be thinner than they may be ({spare[side]:.1f} mm to spare): cover the cusp instead, or "
            "choose a material that can be narrower"
        )
    return job.row(v, "wall", do, bur=TAPERED_BUR, hold=ALONG_PATH, to_min_mm=low, to_target_mm=full, refused=refused,
                   beware="not deeper: the floor stays")  # fmt: skip


def _open_wall(job: Job, v: Verdict) -> Correction:
    height = next((w.height_mm for w in _cut(job.held).walls if w.zone == v.zone), 2.0)
    need = v.missing or 0.0
    amount = height * float(np.tan(np.radians(need)))
    do = f"open this wall by {need:.0f} degrees: {amount:.2f} mm at its top, nothing at its foot"
    if amount < HAND_MM / 2:
        return job.row(v, "wall", f"{do}: finish it with a fine bur laid along it, no more", hold=ALONG_PATH,
                       bur="fine " + TAPERED_BUR, beware="its foot stays")  # fmt: skip
    return job.row(v, "wall", do, bur=TAPERED_BUR, hold=ALONG_PATH, to_min_mm=amount, to_target_mm=amount,
                   beware="its foot and the floor stay; mind the cusp's thickness")  # fmt: skip


def _box_in(job: Job, v: Verdict) -> Correction:
    low, full = v.missing or 0.0, v.to_target or 0.0
    do = f"set the axial wall back by {low:.1f} mm to the minimum, {full:.1f} to the target"
    return job.row(v, "wall", do, bur=TAPERED_BUR, hold=ALONG_PATH, to_min_mm=low, to_target_mm=full, beware=PULP)


def _level(job: Job, v: Verdict) -> Correction:
    return job.row(v, "occlusal", "level the gingival floor", bur=job.flat(),
                   hold="end flat on the floor, along the path",
                   beware="not lower at its outer edge: the gingiva and the bone are near")  # fmt: skip


def _past_contact(job: Job, v: Verdict) -> Correction:
    low, full = v.missing or 0.0, v.to_target or 0.0
    do = f"bring the box's outline {low:.1f} mm further from the neighbour, {full:.1f} to the target"
    return job.row(v, "finish-line", do, bur="thin tapered finishing bur", hold=ALONG_PATH, to_min_mm=low,
                   to_target_mm=full, beware="a metal strip before the neighbour: no stroke at it")  # fmt: skip


def _trim(job: Job, v: Verdict) -> Correction:
    way = "flatten" if v.bound == "min" else "square"
    do = f"{way} the edge to about {v.target or 90:.0f} degrees, no bevel for ceramic"
    return job.row(v, "finish-line", do, bur="fine straight finishing bur", hold="square to the tooth's surface there",
                   beware="only the edge: the box's depth and the contact stay")  # fmt: skip


def _off_contact(job: Job, v: Verdict) -> Correction:
    low = v.missing or 0.0
    do = f"move the outline {low:.1f} mm off the contact, outward over the cusp's slope, or cover that cusp"
    return job.row(v, "finish-line", do, bur=TAPERED_BUR, hold=ALONG_PATH, to_min_mm=low, to_target_mm=v.to_target,
                   beware="mind the cusp's thickness: a thin cusp is covered, not narrowed")  # fmt: skip


def _cover(job: Job, v: Verdict) -> Correction:
    limits = job.held.limits_of(v.zone)
    depth = f"{limits.min:.1f} mm at least, {limits.target:.1f} wanted" if limits else "by the material"
    do = f"cover this cusp: reduce it by {depth}, to a restoration that holds it"
    return job.row(v, "occlusal", do, bur="depth-cutter, then a bur with a rounded end",
                   hold="bur laid along the cusp's slope", beware=SPLIT)  # fmt: skip


def _round_in(job: Job, v: Verdict) -> Correction:
    return job.row(v, "edges", f"round the inner corners to {v.limit or 0.3:.1f} mm or more",
                   bur="round-ended fine bur", hold="its rounded end along the corner",
                   beware="the floor does not get deeper")  # fmt: skip


CRITERIA = (
    Criterion(
        "cusp-thickness", "thickness of the standing cusp", _thickness, place="cusp", lens="cusps", weight=4.0,
        by_attempt=True, correct={"min": _cover}, kinds=CAVITY_KINDS, way_out="the cusp would stand thin: cover it",
    ),
    Criterion(
        "cavity-depth", "depth of the cavity", _depth, lens="depth", by_attempt=True, correct={"min": _deepen},
        leave={"max": "nothing to cut: a base can bring the floor to the depth that is wanted; record it"},
        kinds=CAVITY_KINDS,
        way_out="the cavity will be shallow: a material that can be thinner, or a fuller surface",
    ),
    Criterion(
        "isthmus", "isthmus", _isthmus, lens="depth", by_attempt=True, correct={"min": _widen}, kinds=CAVITY_KINDS,
        way_out="the isthmus is narrow: widen it, or a material that can be narrower",
    ),
    Criterion(
        "isthmus-share", "isthmus against the cusps' distance", _share, lens="cusps", weight=0.5, kinds=CAVITY_KINDS,
        leave={"max": "a wide cavity: one school covers the cusps, the other keeps thick ones; see their thickness"},
    ),
    Criterion(
        "divergence", "divergence of the wall", _divergence, place="wall", lens="draw", by_attempt=True,
        correct={"min": _open_wall}, kinds=CAVITY_KINDS,
        leave={"max": "what is opened cannot be closed: upright it from its foot only, where the cusp stays thick"},
        way_out="the walls lean otherwise than wanted: change the divergence",
    ),
    Criterion(
        "box-depth", "depth of the box", _box_depth, lens="depth", by_attempt=True, correct={"min": _box_in},
        kinds=CAVITY_KINDS,
        leave={"max": "nothing to cut: record it; a base can fill what is too deep"},
    ),
    Criterion(
        "box-floor", "level of the box's floor", _box_floor, lens="draw", correct={"max": _level}, kinds=CAVITY_KINDS,
    ),
    Criterion(
        "contact-clearance", "room to the neighbour", _contact, lens="next", by_attempt=True,
        correct={"min": _past_contact}, kinds=CAVITY_KINDS,
        leave={"max": "opened further than is needed: nothing to cut, the contact gets broad"},
        way_out="the box would stay too near to the next tooth: its floor lower or its sides wider, as far as gingiva "
        "and cusps allow",
    ),
    Criterion(
        "cavosurface", "cavosurface angle", _cavosurface, place="edge", lens="line", weight=0.5,
        correct={"min": _trim, "max": _trim}, kinds=CAVITY_KINDS,
    ),
    Criterion(
        "outline-contact", "outline to the opposing contact", _outline_contact, lens="line", weight=0.5,
        correct={"min": _off_contact}, kinds=(*CAVITY_KINDS, *WINDOW_KINDS),
        way_out="the outline would run in a contact of the opposing teeth: draw it beside, or past it",
    ),
    Criterion(
        "internal-radius", "radius of the inner corners", _inner, lens="edges", correct={"min": _round_in},
        kinds=CAVITY_KINDS,
    ),
)  # fmt: skip
