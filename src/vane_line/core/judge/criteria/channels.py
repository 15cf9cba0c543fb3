"""Grooves and pins: how deep, how long, how parallel, how much tooth is left round them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from vane_line.core.channels.channel import GROOVE, HOLE, PIN, Channel
from vane_line.core.judge.record import (
    CAST_KINDS,
    CROWNS,
    PARTIAL_KINDS,
    PIN_KINDS,
    Criterion,
    Held,
    Judge,
    verdicts,
)
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import HAND_MM, Correction, Job
from vane_line.core.kinds.cast import CastCut
from vane_line.core.trace.dents import LEAST_LONG_MM
from vane_line.core.vectors import degrees_between

HARDLY_MM = 0.4  # longer than the least that is told at all: a groove is there on one scan and not on the next
GROOVED = (*CROWNS, *CAST_KINDS)
BOTH_SIDES = ("mesial", "distal")
SHALLOW = "a shallow groove neither holds nor stiffens the casting"
TOO_DEEP = "a deeper groove comes nearer to the pulp than it need"
SHORT = "a short groove resists tipping little"
OFF_PATH = "a channel that does not run along the path keeps the casting from going down"
AT_LINE = "a groove that ends on the finish line leaves the margin without support there"
NO_LINE = "The finish line is doubtful under it: look there, and scan it again."
NO_PAIR = "a groove on each side keeps the casting from opening over the standing face"
LEAST_READ = "the scan does not show the bottom for certain: gauge the hole, and enter what it says"
NO_DEPTH = "a pin stands in it: gauge the hole, and enter its depth"
SHALLOW_PIN = "a short pin holds little"
PULP = "a deeper hole comes nearer to the pulp than it need"
NEAR = "so near to the outside the pin shows through, or breaks out"
NO_PINS = "no pin hole is seen on the cut"
NARROW_LEDGE, WIDE_LEDGE = "too narrow a ledge gives the pin no metal round its foot", "more was cut than the pin needs"
SLANT = "a ledge that slopes lets the casting slide before its pins are down"
THIN = "so thin a tooth lets the metal show through, and may break"
TWIST = "slow-turning twist drill with the pin's own diameter"
SURVEY = "along a guide pin that stands in the other hole"
GROOVE_BUR = "tapered bur with a flat end, 1.0 mm at its middle"
ALONG_PATH = "parallel to the path, its tip half a millimetre over the finish line"


def channels_of(held: Held, *kinds: str) -> list[Channel]:
    """Those of a sort that were found."""
    return [c for c in held.geometry.cut.channels if c.kind in kinds]


def pins_of(held: Held) -> list[Channel]:
    """Holes, and pins that stand in them."""
    return channels_of(held, HOLE, PIN)


def pin_zones(held: Held) -> list[tuple[str, Channel]]:
    """Each pin with its zone; two on one side are numbered."""
    return _zones("pin", pins_of(held))


def groove_zones(held: Held) -> list[tuple[str, Channel]]:
    """Each groove with its zone."""
    return _zones("groove", channels_of(held, GROOVE))


def _zones(head: str, found: list[Channel]) -> list[tuple[str, Channel]]:
    out, seen = [], dict[str, int]()
    for channel in found:
        seen[channel.side] = seen.get(channel.side, 0) + 1
        number = f"-{seen[channel.side]}" if seen[channel.side] > 1 else ""
        out.append((f"{head}/{channel.side}{number}", channel))
    return out


# --- judged --------------------------------------------------------------------------------------------------------


def _of_grooves(
    criterion: str, read: Callable[[Channel], float | None], why: str | dict[str, str], unit: str = "mm",
    unseen: str = "",
) -> Judge:  # fmt: skip
    """One figure of every groove that was found. unseen: why it may not be told."""

    def judged(held: Held) -> list[Verdict]:
        bounds = held.bounds(criterion)
        told = [(zone, groove, read(groove)) for zone, groove in groove_zones(held)]
        rows = [not_measured(criterion, zone, unseen, unit=unit) for zone, _, value in told if value is None]
        return rows + [
            v for zone, groove, value in told if value is not None
            for v in verdicts(criterion, zone, value, unit, _u(held, criterion, groove), bounds, why, at=groove.at)
        ]  # fmt: skip

    return judged


def _u(held: Held, criterion: str, groove: Channel) -> float:
    """Of one figure of a groove."""
    by = "groove-depth-one-side" if criterion == "groove-depth" and groove.from_one_side else criterion
    further = {"groove-depth": groove.moves_mm, "groove-length": groove.open_mm, "groove-end": groove.open_mm}
    return float(np.hypot(held.budget.of(by), further.get(criterion, 0.0)))


def _pair(held: Held) -> list[Verdict]:
    """A partial crown's groove on each side. One that is hardly long enough to be told might as well not be there."""
    bounds, rows = held.bounds("groove-pair"), list[Verdict]()
    for side in BOTH_SIDES:
        lengths = [groove.length_mm for groove in channels_of(held, GROOVE) if groove.side == side]
        u = 1.0 if lengths and max(lengths) < LEAST_LONG_MM + HARDLY_MM else 0.0
        rows += verdicts("groove-pair", f"groove/{side}", float(len(lengths)), "count", u, bounds, NO_PAIR)
    return rows


def _none(held: Held, criterion: str, unit: str = "mm") -> list[Verdict]:
    return [] if pins_of(held) else [not_measured(criterion, "pin", NO_PINS, "min", unit)]


def _pin_depths(held: Held) -> list[Verdict]:
    u, bounds, rows = held.budget.of("pin-depth"), held.bounds("pin-depth"), _none(held, "pin-depth")
    for zone, pin in pin_zones(held):
        if pin.depth_mm is None:
            rows.append(not_measured("pin-depth", zone, NO_DEPTH))
            continue
        told = verdicts("pin-depth", zone, pin.depth_mm, "mm", u, bounds, {"min": SHALLOW_PIN, "max": PULP}, at=pin.at)
        # A least depth is proven to suffice, or to be too much; never to be too little.
        rows += [
            replace(v, status="within-uncertainty", why=LEAST_READ) if pin.depth_is_least and v.status == "short" else v
            for v in told
        ]
    return rows


def _pin_tilts(held: Held) -> list[Verdict]:
    rows, bounds = _none(held, "pin-parallel", "deg"), held.bounds("pin-parallel")
    found = pin_zones(held)
    for zone, pin in found:
        u = held.budget.of("guide-pin" if pin.kind == PIN else "pin-parallel")
        rows += verdicts("pin-parallel", zone, pin.to_path_deg, "deg", u, bounds, OFF_PATH, at=pin.at)
    if len(found) > 1:
        ways = np.array([pin.direction for _, pin in found])
        angle = degrees_between(ways, ways)
        one, other = np.unravel_index(int(np.argmax(angle)), angle.shape)
        rough = any(found[k][1].kind == HOLE for k in (one, other))
        u = 2**0.5 * held.budget.of("pin-parallel" if rough else "guide-pin")
        rows += verdicts("pin-parallel", "between-pins", float(angle.max()), "deg", u, bounds, OFF_PATH,
                         at=found[int(other)][1].at)  # fmt: skip
    return rows


def _covers(held: Held) -> list[Verdict]:
    u, bounds, rows = held.budget.of("pin-cover"), held.bounds("pin-cover"), _none(held, "pin-cover")
    for zone, pin in pin_zones(held):
        if pin.cover_mm is None:
            rows.append(not_measured("pin-cover", zone, "too little of the hole is seen to tell what is left round it"))
            continue
        rows += verdicts("pin-cover", zone, pin.cover_mm, "mm", u, bounds, NEAR, at=pin.way_out)
    return rows


def _ledges(held: Held) -> list[Verdict]:
    u, bounds, rows = held.budget.of("pin-ledge"), held.bounds("pin-ledge"), _none(held, "pin-ledge")
    for zone, pin in pin_zones(held):
        if pin.floor is None or pin.floor.width_mm is None:
            rows.append(not_measured("pin-ledge", zone, "no ledge is seen round it"))
            continue
        rows += verdicts("pin-ledge", zone, pin.floor.width_mm, "mm", u, bounds,
                         {"min": NARROW_LEDGE, "max": WIDE_LEDGE}, at=pin.at)  # fmt: skip
    return rows


def _slopes(held: Held) -> list[Verdict]:
    u, bounds, rows = held.budget.of("ledge-slope"), held.bounds("ledge-slope"), _none(held, "ledge-slope", "deg")
    for zone, pin in pin_zones(held):
        if pin.floor is not None and pin.floor.slope_deg is not None:
            rows += verdicts("ledge-slope", zone, pin.floor.slope_deg, "deg", u, bounds, SLANT, at=pin.at)
    return rows


def _left(held: Held) -> list[Verdict]:
    cut = held.geometry.cut
    assert isinstance(cut, CastCut)
    if cut.budget is None:
        why = "without the scan before cutting the tooth's thickness at the ledge is not known"
        return [not_measured("tooth-left", "overall", why if pins_of(held) else NO_PINS)]
    return verdicts("tooth-left", "overall", cut.budget.left_mm, "mm", held.budget.of("tooth-left"),
                    held.bounds("tooth-left"), THIN, at=cut.budget.at)  # fmt: skip


# --- corrected -----------------------------------------------------------------------------------------------------


def _deepen(job: Job, v: Verdict) -> Correction | None:
    low, full = v.missing or 0.0, v.to_target or 0.0
    if full < HAND_MM / 2:
        return None
    return job.row(v, "wall", f"deepen the groove by {low:.1f} mm to the minimum, {full:.1f} to the target",
                   bur=GROOVE_BUR, hold=ALONG_PATH, to_min_mm=low, to_target_mm=full,
                   beware="into the wall, not towards the gingiva; no nearer to the pulp than the target")  # fmt: skip


def _longer(job: Job, v: Verdict) -> Correction | None:
    low = v.missing or 0.0
    if low < HAND_MM:
        return None
    grooves = [g for zone, g in groove_zones(job.held) if zone == v.zone]
    do, refused = f"carry the groove {low:.1f} mm further down", ""
    if grooves and grooves[0].above_line_mm is None:
        refused = "how far its end stands over the finish line is not told: see the line there, and scan it again"
    else:
        room = (grooves[0].above_line_mm or 0.0) - (job.standard.bounds("groove-end").min or 0.5) if grooves else 0.0
        if room < low:
            refused = (f"only {max(room, 0):.1f} mm are left over the finish line: a second groove, or a box, "
                       "holds more than a longer one would")  # fmt: skip
    if refused:
        return job.row(v, "wall", do, to_min_mm=low, bur=GROOVE_BUR, refused=refused)
    return job.row(v, "wall", do, to_min_mm=low, bur=GROOVE_BUR, hold=ALONG_PATH,
                   beware="stop half a millimetre over the finish line")  # fmt: skip


def _upright(job: Job, v: Verdict) -> Correction:
    amount = f"by {max((v.value or 0.0) - (v.target or 0.0), 0.0):.0f} degrees"
    return job.row(v, "wall", f"upright the groove {amount}, along the path", bur=GROOVE_BUR, hold=ALONG_PATH,
                   beware="take off the side that hangs over, at its top; the rest of the wall stays")  # fmt: skip


def _cut_groove(job: Job, v: Verdict) -> Correction:
    depth, length = job.standard.bounds("groove-depth").target or 1.0, job.standard.bounds("groove-length").target
    side = v.zone.partition("/")[2]
    do = f"cut a groove into the {side} wall: {depth:.1f} mm deep, {length or 3.5:.1f} long, along the path"
    return job.row(v, "wall", do, bur=GROOVE_BUR, hold=ALONG_PATH,
                   beware="as far facial as the wall is thick; its facial lip without undermined enamel")  # fmt: skip


def _drill(job: Job, v: Verdict) -> Correction | None:
    low = v.missing or 0.0
    if low < HAND_MM:
        return None
    return job.row(v, "other", f"drill {low:.1f} mm deeper to the minimum", bur=TWIST, hold=SURVEY, to_min_mm=low,
                   beware="after the radiograph: the pulp is not seen; light, short touches, with a stop")  # fmt: skip


def _funnel(job: Job, v: Verdict) -> Correction:
    return job.row(v, "wall", "level the ledge round the hole, square to the path", bur="flat-ended bur, 0.6 to 1.0 mm",
                   hold="along a guide pin, its end on the ledge", beware="off its high side only")  # fmt: skip


def _widen_ledge(job: Job, v: Verdict) -> Correction | None:
    low, full = v.missing or 0.0, v.to_target or 0.0
    cut = job.g.cut
    left = cut.budget.left_mm if isinstance(cut, CastCut) and cut.budget is not None else None
    least = job.standard.bounds("tooth-left").min or 0.0
    do = f"widen the ledge by {low:.1f} mm to the minimum, {full:.1f} to the target"
    if left is not None and left - low < least:
        return job.row(v, "wall", do, to_min_mm=low, to_target_mm=full,
                       refused=f"only {left:.1f} mm of tooth are left over it, {least:.1f} are the least")  # fmt: skip
    return job.row(v, "wall", do, to_min_mm=low, to_target_mm=full, bur="flat-ended bur, 0.6 to 1.0 mm",
                   hold="square to the path", beware="its wall stays thick: see the tooth that is left")  # fmt: skip


CRITERIA = (
    Criterion(
        "groove-pair", "groove on each side", _pair, lens="draw", weight=1.5, kinds=PARTIAL_KINDS,
        correct={"min": _cut_groove}, says={"min": "missing"},
    ),
    Criterion(
        "groove-depth", "depth of the groove",
        _of_grooves("groove-depth", lambda g: g.depth_mm, {"min": SHALLOW, "max": TOO_DEEP}),
        lens="draw", by_attempt=True, kinds=GROOVED,
        correct={"min": _deepen},
        leave={"max": "nothing to cut: record it; the casting fills it, and a sharp corner is blocked out"},
    ),
    Criterion(
        "groove-length", "length of the groove", _of_grooves("groove-length", lambda g: g.length_mm, SHORT),
        lens="draw", kinds=GROOVED, correct={"min": _longer},
    ),
    Criterion(
        "groove-end", "groove over the finish line",
        _of_grooves("groove-end", lambda g: g.above_line_mm, AT_LINE, unseen=NO_LINE), lens="line", kinds=GROOVED,
        leave={"min": "it cannot be taken back: widen the finish line there so that metal supports it, and record it"},
    ),
    Criterion(
        "groove-parallel", "groove along the path",
        _of_grooves("groove-parallel", lambda g: g.to_path_deg, OFF_PATH, "deg"), lens="draw", by_attempt=True,
        kinds=GROOVED,
        correct={"max": _upright},
    ),
    Criterion(
        "pin-depth", "depth of the pin hole", _pin_depths, lens="draw", kinds=PIN_KINDS, correct={"min": _drill},
        leave={"max": "nothing to drill: record it; the pin is made no longer than it need be"},
        doubtful="gauge the hole, and enter what the gauge says, before anything is drilled",
    ),
    Criterion(
        "pin-parallel", "pins along the path", _pin_tilts, lens="draw", weight=1.5, by_attempt=True, kinds=PIN_KINDS,
        leave={"max": "a drilled hole is not turned: take the path along it where the others allow, or fill it and "
               "drill beside, along a guide pin; widening it gives a pin that holds nothing"},
    ),
    Criterion(
        "pin-cover", "tooth round the pin hole", _covers, lens="draw", weight=1.5, kinds=PIN_KINDS,
        leave={"min": "nothing to cut: go no deeper; where the hole breaks out, fill it and drill further in, and "
               "record it"},
    ),
    Criterion(
        "pin-ledge", "ledge round the pin hole", _ledges, lens="line", kinds=PIN_KINDS,
        correct={"min": _widen_ledge},
        leave={"max": "nothing to cut: record it; the tooth beside it is the thinner for it"},
    ),
    Criterion("ledge-slope", "slope of the pin's ledge", _slopes, lens="line", kinds=PIN_KINDS,
              correct={"max": _funnel}),
    Criterion(
        "tooth-left", "tooth left over the ledge", _left, lens="draw", by_attempt=True, kinds=PIN_KINDS,
        leave={"min": "nothing more to cut here: opaque cement hides some of the metal; where it stays too thin, "
               "another kind of restoration"},
        way_out="the tooth is too thin for a ledge here: place it lower, where the tooth is thicker",
    ),
)  # fmt: skip
