"""Walls and path: convergence, draft, undercut, height and resistance, what is left of the tooth, the way in.

Convergence, wall height and height to width: C. J. Goodacre, W. V. Campagni, S. A. Aquilino, J Prosthet Dent
2001;85:363-376 (from memory). Limiting taper: M. H. Parker et al., J Prosthet Dent 1988;59:281-288.
"""

from __future__ import annotations

from math import hypot

import numpy as np

from vane_line.core.channels.credit import credits
from vane_line.core.judge.limits import Bounds
from vane_line.core.judge.record import MADE_KINDS, Criterion, Held, verdicts
from vane_line.core.judge.uncertainty import U_SCAN_FLOOR_UM, per_degree
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import HAND_MM, HOLD_WALL, Correction, Job, said
from vane_line.core.measure.convergence import SMOOTH_DEG
from vane_line.core.measure.retention import SIDES
from vane_line.core.measure.undercut import Region
from vane_line.core.rings import degrees_apart
from vane_line.core.shape import side_drafts

PARKER = "Parker et al., J Prosthet Dent 1988;59:281-288"
HOLDS = "the taper up to which this wall stops the crown from tipping, by geometry"
WAYS = "grooves, boxes, bonding or a raised bite help short walls"
SURGERY = "only where those do not do: lengthening the crown, after sounding the bone (about 3 mm from bone to margin)"
FOR_WALLS = f"grooves or a box, bonding instead of conventional cement, a raised bite; {SURGERY}"
TAPERED = "tapered walls hold little; measured molars average about 20 in practice"
FOOT_STAYS = "the wall's foot stays; mind the cusp's thickness"
U_UNTOLD_MM = 0.06  # of the finish line's height where no edge is told, from scans of it (docs/uncertainty.md)
U_LOOSE_SHARE = 0.5  # of how freely the path lies between the walls: what rescans move it by
# By which the wall of a front tooth passes into its face's next plane, its back's hollow, its edge's ends (measured).
U_FRONT_MM = {"facial": 0.09, "lingual": 0.14, "mesial": 0.08, "distal": 0.08}
# Of the taper of a wall 1 mm high, smoothed, for each µm of noise: from the same scans.
ROW_DEG_PER_UM = 0.06
PARALLEL = "nearly parallel walls are hard to seat and to scan"


def _convergence(held: Held) -> list[Verdict]:
    shape, rows = held.geometry.ring.shape, []
    walls = shape.walls
    for zone, azimuth in (("faciolingual", 0.0), ("mesiodistal", 90.0)):
        value = walls.convergence_at(azimuth)
        if not np.isfinite(value):
            rows.append(not_measured("convergence", zone, "no straight wall is seen on both sides", "max", "deg"))
            continue
        noise = ROW_DEG_PER_UM * max(held.geometry.noise_um, U_SCAN_FLOOR_UM) * walls.convergence_hangs(azimuth)
        further = hypot(noise, shape.open_by(lambda told, a=azimuth: told.walls.convergence_at(a)))  # type: ignore[misc]
        rows += verdicts("convergence", zone, value, "deg", held.budget.of("convergence", further=further),
                         held.bounds("convergence"), {"max": TAPERED, "min": PARALLEL})  # fmt: skip
    return rows


NO_WALLS = "too little of the walls is seen"
LOW_WALL = "no wall is told here: it was not scanned, or is lower than a wall that holds"


def _unseen(held: Held) -> bool:
    kept = held.geometry.ring.shape.retention
    return not np.isfinite(kept.height_mm) or not np.isfinite(kept.remaining_mm)


def _height(held: Held) -> list[Verdict]:
    """Of all walls together, and of each side: one short wall is a finding of its own."""
    if _unseen(held):
        return [not_measured("wall-height", "overall", NO_WALLS)]
    bounds = held.standard.wall_height(held.geometry.options.tooth)
    shape = held.geometry.ring.shape
    rows = verdicts("wall-height", "overall", shape.retention.height_mm, "mm", _u_height(held), bounds, WAYS)
    for side, azimuth in SIDES.items():
        value = shape.walls.height_at(azimuth)
        if not np.isfinite(value):
            rows.append(not_measured("wall-height", side, LOW_WALL))
            continue
        u = held.budget.of("wall-height", further=_untold_mm(held, side))
        rows += verdicts("wall-height", side, value, "mm", u, bounds, f"this wall alone; {WAYS}")
    return rows


def _u_height(held: Held) -> float:
    """Expanded uncertainty of the walls' mean height, mm."""
    sides = [_untold_mm(held, side) for side in SIDES]
    return held.budget.of("wall-height", further=float(np.linalg.norm(sides)) / len(sides))


def _untold_mm(held: Held, side: str) -> float:
    """Standard uncertainty of the height of a side's wall: where no edge is told below it, where its profiles do not
    agree on its top, and where it ends above on a front tooth."""
    line = held.geometry.line
    near = degrees_apart(line.azimuth_deg, SIDES[side]) <= SMOOTH_DEG
    front = held.geometry.options.tooth.front
    ends = U_FRONT_MM[side] * held.budget.growth("wall-height") if front else 0.0
    below = U_UNTOLD_MM * float((~line.told[near]).mean())
    shape = held.geometry.ring.shape
    open_mm = shape.open_by(lambda told: told.walls.height_at(SIDES[side]))
    return float(np.linalg.norm([below, ends, open_mm, shape.walls.height_open_mm(SIDES[side])]))


def _resistance(held: Held) -> list[Verdict]:
    if _unseen(held):
        return [not_measured("resistance", "overall", NO_WALLS)]
    kept = held.geometry.ring.shape.retention
    u = _u_height(held) / kept.base_faciolingual_mm
    why = f"height of the walls to faciolingual width; {WAYS}"
    ratio = kept.height_mm / kept.base_faciolingual_mm
    rows = verdicts("resistance", "overall", ratio, "ratio", u, held.bounds("height-to-width"), why)
    held_by = credits(held.geometry.ring.channels, held.geometry.line, held.geometry.axes)
    for side, (taper, limit) in kept.by_side().items():
        if taper > limit and side in held_by:
            found = held_by[side]
            why = f"the wall alone leans too much; the groove in the {found.groove} wall holds here"
            bounds = Bounds(None, None, found.limit_deg, PARKER)
            rows += verdicts("resistance", side, found.taper_deg, "deg", held.budget.of("groove-parallel"), bounds, why)
            continue
        bounds = Bounds(None, None, limit, PARKER)
        told = held.geometry.ring.shape.open_by(lambda t, s=side: t.retention.by_side().get(s, (None,))[0])  # type: ignore[misc]
        tilted = held.geometry.path.open_deg(held.geometry.axes.outward(SIDES[side]))
        u = held.budget.of("convergence", further=hypot(_u_lean(held, side), tilted, told))
        rows += verdicts("resistance", side, taper, "deg", u, bounds, HOLDS)
    return rows


def _remaining(held: Held) -> list[Verdict]:
    if _unseen(held):
        return [not_measured("remaining-width", "overall", NO_WALLS)]
    kept, least = held.geometry.ring.shape.retention, held.bounds("remaining-width")
    why = (
        f"what is left at the finish line, against half of the tooth's {kept.neck_mm:.1f} mm there, and "
        f"{least.min or 0.0:.1f} at least"
    )
    bounds = Bounds(held.least_left_mm, None, None, least.source)
    told = held.geometry.ring.shape.open_by(lambda told: told.retention.remaining_mm)
    u = held.budget.of("remaining-width", further=told)
    return verdicts("remaining-width", "overall", kept.remaining_mm, "mm", u, bounds, why)


def _undercut(held: Held) -> list[Verdict]:
    u, bounds = held.budget.of("undercut"), held.bounds("undercut")
    cavity = held.geometry.kind.reader.name == "cavity"
    why = f"cement space takes up less; the {held.geometry.kind.title} would bind or must be relieved"
    regions = held.geometry.cut.undercuts
    if not regions:
        path = held.geometry.path
        drawing = held.budget.drawing(float(np.nan_to_num(path.least_draft_deg))) if path.settled else held.budget
        return verdicts("undercut", "overall", 0.0, "mm", drawing.of("undercut"), bounds, why)
    return [
        v
        for r in regions
        for v in verdicts(
            criterion="undercut",
            zone=f"wall/{r.sector}" if cavity else r.sector,
            value=r.max_depth_mm,
            unit="mm",
            u=u,
            bounds=bounds,
            why=why,
            at=r.at,
        )
    ]


def _draft(held: Held) -> list[Verdict]:
    shape = held.geometry.ring.shape
    if not shape.draft_deg:
        return [not_measured("draft", "overall", "no wall is seen", "min", "deg")]
    why = "milled ceramic wants some draft on every wall; under 0 it is an undercut"
    rows = []
    for side, value in shape.draft_deg.items():
        change = per_degree(lambda turn, side=side: side_drafts(shape.walls, shape.undercut, turn).get(side))  # type: ignore[misc]
        told = shape.open_by(lambda t, side=side: t.draft_deg.get(side))  # type: ignore[misc]
        u = held.budget.of("draft", change, hypot(_u_lean(held, side), told))
        rows += verdicts("draft", side, value, "deg", u, held.bounds("draft"), why)
    return rows


def _u_lean(held: Held, side: str) -> float:
    """Standard uncertainty, degrees, of how a side's walls lean, from how freely the path lies between them."""
    return U_LOOSE_SHARE * held.geometry.path.loose_deg(held.geometry.axes.outward(SIDES[side]))


def _insertion(held: Held) -> list[Verdict]:
    found = held.geometry.ring.shape.insertion
    if found is None:
        why = held.geometry.reasons.get("path-blocked", "no neighbouring tooth is on the scan")
        return [not_measured("path-blocked", "overall", why, "max")]
    why = "the planned crown passes the neighbours along this path"
    if found.blocked_by:
        why = f"the {found.blocked_by} neighbour stands in the way of the planned crown"
        why += (
            f"; a path tilted {found.free_tilt_deg:.0f} degrees to {found.free_towards} is free"
            if found.free_tilt_deg
            else "; no path within 30 degrees is free: the neighbour would have to be recontoured"
        )
    return verdicts(
        criterion="path-blocked",
        zone=found.blocked_by or "overall",
        value=found.amount_mm,
        unit="mm",
        u=held.budget.of("insertion"),
        bounds=held.bounds("path-blocked"),
        why=why,
        at=found.at,
    )


# --- corrected -----------------------------------------------------------------------------------------------------


def _lean_in(job: Job, v: Verdict) -> Correction | None:
    """Walls too parallel: the one thing that opening the convergence mends."""
    more = v.to_target or 0.0
    do = f"lean the bur in by {min(v.missing or 0.0, more):.0f} degrees in all, from both walls alike"
    return job.row(v, "wall", do, bur=said(job.ledge(None)), hold="bur leaned in a little, led round in one sweep",
                   beware="stop at the minimum: what is opened cannot be closed; the finish line stays")  # fmt: skip


def _overhang(job: Job, v: Verdict) -> Correction:
    region = next((r for r in job.g.cut.undercuts if r.sector == v.zone.removeprefix("wall/")), None)
    if job.g.kind.reader.name == "cavity":
        return _cavity_overhang(job, v, region)
    amount = region.remove_mm if region else (v.value or 0.0)
    tilt = f"tilt the path {region.tilt_deg:.0f} degrees away from it" if region and region.tilt_deg is not None else ""
    out = " or ".join(t for t in (tilt, "block it out on the tooth, or have it relieved in the crown") if t)
    do = f"take {max(amount, 0.0):.2f} mm off the overhang above it"
    more = {"to_min_mm": amount, "to_target_mm": amount, "hold": HOLD_WALL}
    side = job.side(v.zone)
    why = job.over_tapers(side, amount, "occlusal") or job.too_little_left(amount)
    if why:
        return job.row(v, "undercut", do, **more, refused=f"{why}: {out}")
    if amount < HAND_MM:
        return job.row(v, "undercut", f"{out}: {amount:.2f} mm at the overhang is too little to ask of a hand",
                       beware="a stroke to take off less than 0.2 mm takes off more")  # fmt: skip
    use = job.ledge(side, job.standard.widest_target_mm)
    return job.row(v, "undercut", do, **more, bur=said(use), beware=f"not at the finish line; or {out}")


def _cavity_overhang(job: Job, v: Verdict, region: Region | None) -> Correction:
    """A base fills it without a stroke; taken off, the wall is opened at its top and the cusp gets thinner."""
    amount = region.remove_mm if region else (v.value or 0.0)
    base = "fill it with base material" + (f", {region.blockout_mm3:.1f} mm³" if region else "")
    do = f"{base}; or take {amount:.2f} mm off the overhang above it"
    if amount < HAND_MM:
        return job.row(v, "undercut", f"{base}: {amount:.2f} mm at the overhang is too little to ask of a hand",
                       beware="the base ends inside the outline")  # fmt: skip
    return job.row(v, "undercut", do, bur="tapered bur with a rounded end, its half-angle the wall's", hold=HOLD_WALL,
                   to_min_mm=amount, to_target_mm=amount, beware=FOOT_STAYS)  # fmt: skip


def _another_way(job: Job, v: Verdict) -> Correction:
    found = job.g.ring.shape.insertion
    tilt = found.free_tilt_deg if found else None
    do = (
        f"take the path that leans {tilt:.0f} degrees to {found.free_towards}, and check its undercuts"
        if found and tilt
        else "no path is free: recontour the neighbour as planned and agreed, or another restoration"
    )
    return job.row(v, "other", do, beware="cutting more of this tooth does not free it")


def _other_material(job: Job, v: Verdict) -> Correction:
    """Little tooth is left: nothing to cut; the material that fits is named."""
    fits = job.material_words()
    do = "cut no more here" + (f"; {fits}" if fits else "; think of a material that can be thinner")
    return job.row(v, "other", do, beware="every further stroke weakens what is left")


CRITERIA = (
    Criterion(
        "convergence", "total occlusal convergence", _convergence, lens="draw", by_attempt=True,
        correct={"min": _lean_in},
        leave={"max": "walls that are too tapered cannot be cut back: grooves or a box, or bond; cut no further"},
        way_out="taper and path give another convergence than wanted: change the taper",
    ),
    Criterion(
        "wall-height", "wall height", _height, place="wall", lens="draw", weight=0.05, by_attempt=True,
        leave={"min": f"keep what height there is, cut no more from the top than the material needs: {FOR_WALLS}"},
        way_out=f"the walls will be short: {FOR_WALLS}",
    ),
    Criterion(
        "resistance", "resistance to tipping", _resistance, place="wall", lens="draw", weight=0.05,
        leave={"min": f"short walls hold little: {FOR_WALLS}", "max": f"tapered walls hold little: {FOR_WALLS}"},
        way_out=f"the crown can tip off: less taper, {FOR_WALLS}",
    ),
    Criterion(
        "remaining-width", "tooth that remains", _remaining, lens="draw", weight=0.3, by_attempt=True,
        correct={"min": _other_material},
        way_out="little tooth is left: a material that can be thinner, or a narrower finish line",
    ),
    Criterion(
        "undercut", "undercut", _undercut, place="wall", lens="draw", own_size=True, by_attempt=True, kinds=MADE_KINDS,
        correct={"max": _overhang},
        leave={"min": "the crown is sprung over this bulge: keep it"},
        way_out="the planned path leaves an undercut: another path, or more taper",
    ),
    Criterion(
        "draft", "draft along the path", _draft, place="wall", lens="draw",
        leave={"min": "an undercut wall: see the undercut there; a wall between 0 and 2 degrees is left as it is"},
    ),
    Criterion(
        "path-blocked", "path of insertion blocked", _insertion, place="neighbour", lens="draw", own_size=True,
        correct={"max": _another_way},
        way_out="the neighbour stands in the way: another path, or recontour it as planned and agreed",
    ),
)  # fmt: skip
