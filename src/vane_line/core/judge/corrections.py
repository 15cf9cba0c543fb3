"""What to do about the findings: an ordered worklist in the hand's terms, with what each stroke must not do.

Amounts under HAND_MM are not asked of a hand. What cutting cannot mend is not on the list as cutting: the way out is
said. A correction that would harm the wall or the edge beside it is refused, with its reason and what to do instead.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.arrays import degrees_apart
from vane_line.core.case import Geometry
from vane_line.core.judge.shape_verdicts import (
    CONVERGENCE_DEG,
    MAX_BELOW_GINGIVA_MM,
    MIN_HEIGHT_MM,
    SIDE_HALF_DEG,
)
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.measure.retention import SIDES
from vane_line.core.measure.undercut import Region
from vane_line.core.plan.burs import Bur, Use, for_depth, for_ledge, generic
from vane_line.core.tooth.zones import where

HAND_MM = 0.2  # corrections under this are not asked of a hand
HOLD_FLAT = "bur laid along the incline, following cusp and groove"
HOLD_WALL = "bur parallel to the path, led round in one sweep"
HOLD_LEDGE = "bur parallel to the path, its tip on the ledge"
OPPOSITE = {"facial": "lingual", "lingual": "facial", "mesial": "distal", "distal": "mesial"}
AGREED = "planned, agreed with the patient and recorded, never improvised"
# First what changes the most; then walls; then the finish line, which the walls' strokes would spoil; then finish.
STAGES = ("occlusal", "wall", "undercut", "finish-line", "edges", "polish", "other")


@dataclass(frozen=True)
class Correction:
    """One thing for the hand to do, or not to do (refused: why).

    to_min_mm, to_target_mm: what to take off, None where nothing is. key: criterion and zone, by which it is ticked.
    """

    order: int
    stage: str
    key: str
    where: str
    view: str
    do: str
    to_min_mm: float | None
    to_target_mm: float | None
    bur: str
    hold: str
    beware: str
    refused: str
    at: tuple[float, float, float] | None


def worklist(
    verdicts: list[Verdict], geometry: Geometry, standard: Standard, tray: tuple[Bur, ...] | None = None
) -> list[Correction]:
    """Corrections in the order of work; one for each place, whatever criteria speak of it."""
    maker = _Maker(verdicts, geometry, standard, generic() if tray is None else tray)
    rows: list[Correction] = []
    seen: set[tuple[str, str]] = set()
    for verdict in sorted((v for v in verdicts if v.status in ("short", "over")), key=lambda v: -abs(v.missing or 0.0)):
        make = maker.ways.get((verdict.criterion, verdict.bound))
        made = make(verdict) if make else None
        place = (made.stage, made.where) if made else ("", "")
        if made is None or place in seen:
            continue
        seen.add(place)
        rows.append(made)
    rows.sort(key=lambda c: (bool(c.refused), STAGES.index(c.stage), -(c.to_min_mm or 0.0)))
    return [replace(c, order=k + 1) for k, c in enumerate(rows)]


class _Maker:
    """Makes the correction of one verdict."""

    def __init__(self, verdicts: list[Verdict], geometry: Geometry, standard: Standard, tray: tuple[Bur, ...]) -> None:
        self.verdicts, self.g, self.standard, self.tray = verdicts, geometry, standard, tray
        self.lingual = geometry.options.tooth.lingual_word
        self.ways: dict[tuple[str, str], Callable[[Verdict], Correction | None]] = {
            ("reduction", "min"): self.space,
            ("clearance", "min"): self.space,
            ("finish-line-width", "min"): self.widen,
            ("undercut", "max"): self.undercut,
            ("finish-line-step", "max"): self.step,
            ("finish-line-lip", "max"): self.lip,
            ("finish-line-roughness", "max"): self.rough,
            ("edge-radius", "min"): self.edges,
            ("neighbour-nick", "max"): self.nick,
            ("path-blocked", "max"): self.blocked,
            ("neighbour-gap", "min"): self.room,
        }

    def _row(self, v: Verdict, stage: str, do: str, **more: object) -> Correction:
        base = Correction(
            0, stage, f"{v.criterion}|{v.zone}", where(v.criterion, v.zone, self.lingual), self._view(v), do, None,
            None,
            "", "", "", "", v.at,
        )  # fmt: skip
        return replace(base, **more)  # type: ignore[arg-type]

    def _view(self, v: Verdict) -> str:
        """The view in which the hand sees the place best."""
        side = v.zone.split("/")[1] if v.zone.startswith("wall/") else v.zone.split("/")[0]
        if side in OPPOSITE:
            said = side.replace("lingual", self.lingual)
            return f"{said}, in the mirror" if side in ("lingual", "distal") else said
        return "occlusal, in the mirror" if "lingual" in v.zone or self.g.options.tooth.upper else "occlusal"

    def space(self, v: Verdict) -> Correction | None:
        """Too little room over a zone: take it off, unless that harms a wall or the opposing tooth is better cut."""
        missing, target = v.missing or 0.0, v.to_target or 0.0
        if target < HAND_MM:
            return None
        amounts = {"to_min_mm": missing, "to_target_mm": target}
        do = f"remove {missing:.1f} mm to reach the minimum, {target:.1f} mm to reach the target"
        if v.zone.startswith(("wall/", "facial/", "lingual-wall")):
            return self._wall(v, do, amounts)
        if v.criterion == "clearance" and self._cut_enough(v.zone):
            text = (
                f"the tooth is reduced enough here, the opposing tooth stands {missing:.1f} mm too near: adjusting "
                f"that by {missing:.1f} mm would do, {AGREED}"
            )
            return self._row(v, "other", text, to_min_mm=missing, beware="no more is cut from this tooth")
        beware = self._shortens(target)
        use = for_depth(target, self.tray)
        return self._row(v, "occlusal", do, bur=_said(use), hold=HOLD_FLAT, beware=beware, **amounts)

    def _cut_enough(self, zone: str) -> bool:
        """Whether the same zone's reduction has reached its target."""
        same = [v for v in self.verdicts if v.criterion == "reduction" and v.zone == zone and v.bound == "min"]
        return any(v.value is not None and v.target is not None and v.value >= v.target - HAND_MM / 2 for v in same)

    def _shortens(self, target: float) -> str:
        height = self.g.shape.retention.height_mm
        least = MIN_HEIGHT_MM[self.g.options.tooth.molar]
        if np.isfinite(height) and height - target < least:
            return f"lowers the walls, {height:.1f} mm high now ({least:.0f} wanted): no more than that, only here"
        return "only here: stop at the amount, round over to the cusps beside it"

    def _wall(self, v: Verdict, do: str, amounts: dict[str, float]) -> Correction:
        """Off a wall: refused where it would over-taper it; at its foot the finish line is deepened instead."""
        side = v.zone.split("/")[1] if v.zone.startswith("wall/") else v.zone.split("/")[0].removesuffix("-wall")
        third = v.zone.rsplit("/", 1)[-1]
        if third == "cervical":
            use = for_ledge(self.standard.width_limits(side).target, self.standard.forms_for(side), self.tray)
            low, full = amounts["to_min_mm"], amounts["to_target_mm"]
            text = f"deepen the finish line below it by {low:.1f} mm, {full:.1f} to target"
            return self._row(v, "wall", text, bur=_said(use), hold=HOLD_LEDGE, beware=_beyond(use), **amounts)
        after = self._convergence_after(side, amounts["to_min_mm"], third)
        use = for_ledge(self.standard.width_limits(side).target, self.standard.forms_for(side), self.tray)
        if after is not None and after > CONVERGENCE_DEG.max:
            instead = f"deepen the finish line below the whole wall by {amounts['to_min_mm']:.1f} mm instead, parallel"
            return self._row(
                v, "wall", do, hold=HOLD_WALL, **amounts,
                refused=f"taking it off the {third} third alone would open the convergence to {after:.0f} degrees, "
                f"over {CONVERGENCE_DEG.max:.0f}: {instead}",
            )  # fmt: skip
        beware = "keep the bur parallel: leaning it in makes a tent, leaning it out an undercut"
        if after is not None:
            beware += f"; the convergence would become {after:.0f} degrees"
        return self._row(v, "wall", do, bur=_said(use), hold=HOLD_WALL, beware=beware, **amounts)

    def _convergence_after(self, side: str, amount: float, third: str) -> float | None:
        """Convergence across the tooth after a wall has lost `amount` in one third, its foot untouched."""
        azimuth = SIDES.get(side)
        walls = self.g.shape.walls
        if azimuth is None:
            return None
        height = walls.height_at(azimuth)
        level = height * (5 / 6 if third in ("occlusal", "incisal") else 1 / 2)
        taper, opposite = self._sound_taper(azimuth), self._sound_taper(azimuth + 180)
        if not np.isfinite([height, taper, opposite]).all() or level < 0.3:
            return None
        return float(np.degrees(np.arctan(np.tan(np.radians(taper)) + amount / level)) + opposite)

    def _sound_taper(self, azimuth: float) -> float:
        """Taper of a side's wall where it is not undercut."""
        walls = self.g.shape.walls
        here = (degrees_apart(walls.azimuth_deg, azimuth) <= SIDE_HALF_DEG) & np.isfinite(walls.taper_deg)
        sound = here & ~self.g.shape.undercut.covers(walls.azimuth_deg)
        return float(np.median(walls.taper_deg[sound])) if sound.any() else float("nan")

    def widen(self, v: Verdict) -> Correction | None:
        missing, target = v.missing or 0.0, v.to_target or 0.0
        if target < HAND_MM:
            return None
        use = for_ledge(
            v.target or self.standard.width_limits(v.zone).target, self.standard.forms_for(v.zone), self.tray
        )
        left = self.g.shape.retention.remaining_mm
        least = max(2.0, 0.5 * self.g.shape.retention.neck_mm)
        refused = ""
        if np.isfinite(left) and left - missing < least:
            refused = (
                f"only {left:.1f} mm of the tooth are left at the finish line, {least:.1f} are the least: a material "
                "with a narrower finish line instead"
            )
        return self._row(
            v, "finish-line", f"widen the finish line by {missing:.1f} mm to the minimum, {target:.1f} to the target",
            to_min_mm=missing, to_target_mm=target, bur=_said(use), hold=HOLD_LEDGE, beware=_beyond(use),
            refused=refused,
        )  # fmt: skip

    def undercut(self, v: Verdict) -> Correction:
        region = self._region(v.zone)
        amount = region.remove_mm if region else (v.value or 0.0)
        side = _side_of(v.zone)
        after = self._convergence_after(side, amount, "occlusal") if side else None
        tilt = (
            f"tilt the path {region.tilt_deg:.0f} degrees away from it"
            if region and region.tilt_deg is not None
            else ""
        )
        out = " or ".join(t for t in (tilt, "block it out in the restoration") if t)
        do = f"take {max(amount, 0.0):.2f} mm off the overhang above it"
        more = {"to_min_mm": amount, "to_target_mm": amount, "hold": HOLD_WALL}
        if after is not None and after > CONVERGENCE_DEG.max:
            over = f"it would take the convergence to {after:.0f} degrees, over {CONVERGENCE_DEG.max:.0f}"
            return self._row(v, "undercut", do, **more, refused=f"{over}: {out}")
        if amount < HAND_MM:
            return self._row(v, "undercut", f"{out}: {amount:.2f} mm at the overhang is too little to ask of a hand",
                             beware="a stroke to take off less than 0.2 mm takes off more")  # fmt: skip
        use = for_ledge(self.standard.widest_target_mm, (), self.tray)
        return self._row(v, "undercut", do, **more, bur=_said(use), beware=f"not at the finish line; or {out}")

    def _region(self, sector: str) -> Region | None:
        return next((r for r in self.g.shape.undercut.regions if r.sector == sector), None)

    def step(self, v: Verdict) -> Correction:
        amount = v.value or 0.0
        deep = [w for w in self.verdicts if w.criterion == "margin-height" and w.value is not None]
        below = max((w.value or 0.0 for w in deep if w.zone in v.zone), default=None)
        refused = ""
        if below is not None and below + amount > MAX_BELOW_GINGIVA_MM + 0.5:
            refused = (
                f"lowering it by {amount:.1f} mm would bring the finish line {below + amount:.1f} mm under the "
                "gingiva: blend the step over a longer stretch instead"
            )
        return self._row(
            v, "finish-line", f"lower the higher stretch by {amount:.1f} mm to the lower one, blending over 2 mm",
            to_min_mm=amount, to_target_mm=amount, hold=HOLD_LEDGE, bur=self._fine(),
            beware="keep the width even: the stretch that is lowered also gets narrower", refused=refused,
        )  # fmt: skip

    def lip(self, v: Verdict) -> Correction:
        return self._row(
            v, "finish-line", f"take the rim of {v.value or 0.0:.2f} mm away from outside, flat end against the ledge",
            bur=self._fine(), hold="bur moved outward, its flat end on the ledge",
            beware="do not deepen the trough inside it: the tip was sunk too far before",
        )  # fmt: skip

    def rough(self, v: Verdict) -> Correction:
        return self._row(v, "polish", "smooth the finish line", bur=self._fine(), hold="one slow light sweep, no stops",
                         beware="a stop leaves the next scallop")  # fmt: skip

    def edges(self, v: Verdict) -> Correction:
        radius = self.g.edges.bur_radius_mm
        beware = "cusp tips and the finish line stay where they are"
        row = self._row(v, "edges", f"round the edges to {radius:.1f} mm or more", bur=self._fine(), beware=beware)
        return replace(row, where="sharp edges", hold="rolled over the edge")

    def nick(self, v: Verdict) -> Correction:
        deep = (v.value or 0.0) > 2 * (v.limit or 0.1)
        do = "polish the neighbour, record it and tell the patient"
        if deep:
            do += "; its contour is changed: it may need a restoration of its own"
        return self._row(v, "polish", do, beware="polishing takes off more: only smooth it")

    def blocked(self, v: Verdict) -> Correction:
        found = self.g.shape.insertion
        tilt = found.free_tilt_deg if found else None
        do = (
            f"take the path that leans {tilt:.0f} degrees to {found.free_towards}, and check its undercuts"
            if found and tilt
            else "no path is free: recontour the neighbour as planned and agreed, or another restoration"
        )
        return self._row(v, "other", do, beware="cutting more of this tooth does not free it")

    def room(self, v: Verdict) -> Correction:
        more = v.missing or 0.0
        do = f"{more:.1f} mm more room to the next tooth: move the finish line away from it, or separate the teeth"
        return self._row(v, "other", do, beware="no stroke towards the neighbour")

    def _fine(self) -> str:
        return next(
            (b.title for b in self.tray if b.grit in ("fine", "extra-fine") and b.tip != "point"),
            "a fine bur of the same form",
        )


def _side_of(sector: str) -> str | None:
    """The wall that a sector lies on, None between two."""
    return sector if sector in OPPOSITE else next((s for s in ("mesial", "distal") if sector.startswith(s[:5])), None)


def _said(use: Use | None) -> str:
    return "" if use is None else f"{use.bur.title} ({use.bur.size}): {use.words}"


def _beyond(use: Use | None) -> str:
    return "" if use is None else use.beyond
