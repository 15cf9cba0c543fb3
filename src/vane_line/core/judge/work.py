"""What a correction is made from: the guards between a finding and a stroke.

A finding and an order to cut are two things. Every stroke says its patch, is checked against what it would do to the
walls, the finish line and the tooth that is left, and names the way that costs less tooth first.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.burs import Bur, Use, for_ledge
from vane_line.core.case import Geometry
from vane_line.core.judge.record import Held
from vane_line.core.judge.standard_choice import (
    CAST_DEFAULTS,
    CAVITY_DEFAULTS,
    CHILD_DEFAULTS,
    DEFAULTS,
    VENEER_DEFAULTS,
    default_id,
    fitted,
    suitable,
)
from vane_line.core.judge.standard_files import built_in
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.kinds.ring import RingCut
from vane_line.core.measure.reduction import ZoneValue, area_below
from vane_line.core.measure.retention import OPPOSITE, SIDE_HALF_DEG, SIDES
from vane_line.core.rings import degrees_apart
from vane_line.core.spread import middling

HAND_MM = 0.2  # corrections under this are not asked of a hand
HOLD_FLAT = "bur laid along the incline, following cusp and groove"
HOLD_WALL = "bur parallel to the path, led round in one sweep"
HOLD_LEDGE = "bur parallel to the path, its tip on the finish line"
AGREED = "planned, agreed with the patient and recorded, never improvised"
# First what changes the most; then walls; then the finish line, which the walls' strokes would spoil; then finish.
STAGES = ("occlusal", "wall", "undercut", "finish-line", "edges", "polish", "other")
HARDLY_MM = 0.05  # a middle that lacks less than this lacks nothing to speak of
SPOT, PART, WHOLE = "spot", "part", "zone"


@dataclass(frozen=True)
class Correction:
    """One thing for the hand to do, or not to do (refused: why).

    to_min_mm, to_target_mm: what to take off, None where nothing is. key: criterion and zone, by which it is ticked.
    extent, area_mm2: of the patch that lacks: a spot only, a part, or the whole zone.
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
    extent: str = ""
    area_mm2: float | None = None

    @property
    def zone(self) -> str:
        return self.key.split("|")[1]


@dataclass(frozen=True)
class Patch:
    """Where a zone lacks: how far it reaches, mm², and what to take off there (worst) or over all of it (median)."""

    extent: str
    area_mm2: float
    to_min_mm: float
    to_target_mm: float
    thinnest_mm: float  # to the minimum at its thinnest spot

    @property
    def words(self) -> str:
        if self.extent == SPOT:
            return f"spot only, {self.area_mm2:.1f} mm²"
        if self.extent == PART:
            return f"part of the zone only, {self.area_mm2:.1f} mm²"
        return f"the whole zone, {self.area_mm2:.0f} mm² of it short"


class Job:
    """The verdicts and the geometry that corrections are made from."""

    def __init__(self, verdicts: list[Verdict], held: Held, tray: tuple[Bur, ...]) -> None:
        self.verdicts, self.held, self.tray = verdicts, held, tray
        self.g: Geometry = held.geometry
        self.standard: Standard = held.standard
        self.lingual = self.g.options.tooth.lingual_word
        self._materials: list[str] | None = None

    def row(self, v: Verdict, stage: str, do: str, **more: object) -> Correction:
        """A correction of a verdict's place."""
        from vane_line.core.judge import criteria  # which hold the ways that make rows

        place = criteria.where(v.criterion, v.zone, self.lingual)
        base = Correction(
            order=0,
            stage=stage,
            key=f"{v.criterion}|{v.zone}",
            where=place,
            view=self.view(v),
            do=do,
            to_min_mm=None,
            to_target_mm=None,
            bur="",
            hold="",
            beware="",
            refused="",
            at=v.at,
        )
        return replace(base, **more)  # type: ignore[arg-type]

    def view(self, v: Verdict) -> str:
        """The view in which the hand sees the place best."""
        side = v.zone.split("/")[1] if v.zone.startswith("wall/") else v.zone.split("/")[0]
        if side in OPPOSITE:
            said = side.replace("lingual", self.lingual)
            return f"{said}, in the mirror" if side in ("lingual", "distal") else said
        return "occlusal, in the mirror" if "lingual" in v.zone or self.g.options.tooth.upper else "occlusal"

    def find(self, criterion: str, zone: str, bound: str = "min") -> Verdict | None:
        """Another verdict of the same judgement."""
        return next((v for v in self.verdicts if (v.criterion, v.zone, v.bound) == (criterion, zone, bound)), None)

    def side(self, zone: str) -> str | None:
        """The wall that a zone or sector lies on, None between two."""
        head = zone.split("/")[1] if zone.startswith("wall/") else zone.split("/")[0].removesuffix("-wall")
        if head in OPPOSITE:
            return head
        return next((s for s in ("mesial", "distal") if head.startswith(s[:5])), None)

    # --- how much, where -------------------------------------------------------------------------------------

    def patch(self, v: Verdict) -> Patch:
        """How far the lack of a zone reaches: the amount of its worst spot is never asked of all of it."""
        field = self.held.clearance if v.criterion == "clearance" else self.held.space
        zone = next((z for z in field.zones if z.zone == v.zone), None) if field is not None else None
        missing, target = v.missing or 0.0, v.to_target or 0.0
        if field is None or zone is None or zone.median_mm is None or v.limit is None or v.target is None:
            return Patch(WHOLE, 0.0, missing, target, missing)
        area = area_below(self.g.inside, field, self.held.zones, v.zone, v.limit)
        return _patch_of(zone, area, missing, target, v.limit, v.target)

    # --- walls -----------------------------------------------------------------------------------------------

    def convergence_now(self, side: str) -> float:
        """Across the tooth at a side."""
        return self._sound_taper(SIDES[side]) + self._sound_taper(SIDES[side] + 180)

    def convergence_after(self, side: str | None, amount: float, third: str) -> float | None:
        """Convergence across the tooth after a wall has lost `amount` in one third, its foot untouched."""
        if side is None or not isinstance(self.g.cut, RingCut):
            return None
        azimuth, walls = SIDES[side], self.g.ring.shape.walls
        height = walls.height_at(azimuth)
        level = height * (5 / 6 if third in ("occlusal", "incisal") else 1 / 2)
        taper, opposite = self._sound_taper(azimuth), self._sound_taper(azimuth + 180)
        if not np.isfinite([height, taper, opposite]).all() or level < 0.3:
            return None
        return float(np.degrees(np.arctan(np.tan(np.radians(taper)) + amount / level)) + opposite)

    def _sound_taper(self, azimuth: float) -> float:
        """Taper of a side's wall where it is not undercut."""
        walls = self.g.ring.shape.walls
        here = (degrees_apart(walls.azimuth_deg, azimuth) <= SIDE_HALF_DEG) & np.isfinite(walls.taper_deg)
        sound = here & ~self.g.ring.shape.undercut.covers(walls.azimuth_deg)
        return middling(walls.taper_deg[sound])

    def over_tapers(self, side: str | None, amount: float, third: str) -> str:
        """Why a stroke off one third of a wall is refused for the convergence's sake; '' where it is not."""
        after = self.convergence_after(side, amount, third)
        if side is None or after is None:
            return ""
        rule, now = self.standard.bounds("convergence-of-strokes"), self.convergence_now(side)
        assert rule.min is not None and rule.max is not None and rule.target is not None  # noqa: PT018
        if now >= rule.min:
            return f"the convergence is {now:.0f} degrees already: no wall is cut from {rule.min:.0f} on"
        if after > rule.max:
            return f"it would open the convergence to {after:.0f} degrees, over {rule.max:.0f}"
        if after - now > rule.target:
            return f"it would open the convergence by {after - now:.0f} degrees at once, over {rule.target:.0f}"
        return ""

    # --- finish line and the tooth that is left ---------------------------------------------------------------

    def too_wide(self, side: str | None, amount: float) -> str:
        """Why a wall's foot cannot go back by `amount`: the finish line's greatest width, the tooth that is left."""
        if side is None:
            return ""
        limits = self.standard.width_limits(side)
        now = [v.value for v in self.verdicts
               if v.criterion == "finish-line-width" and v.bound == "max" and v.value is not None
               and (v.zone == side or v.zone.startswith(side[:5]))]  # fmt: skip
        if now and max(now) + amount > limits.max:
            return f"the finish line would be {max(now) + amount:.1f} mm wide, over {limits.max:.1f}"
        return self.too_little_left(amount)

    def too_little_left(self, amount: float) -> str:
        """Why the tooth cannot lose `amount` from its side at the finish line."""
        if not isinstance(self.g.cut, RingCut):
            return ""
        left, least = self.g.ring.shape.retention.remaining_mm, self.held.least_left_mm
        if np.isfinite(left) and left - amount < least:
            return f"only {left:.1f} mm of the tooth are left at the finish line, {least:.1f} are the least"
        return ""

    def gingiva_over(self, zone: str) -> float | None:
        """How far the finish line lies below the gingiva there already, mm; None where the gingiva is not known."""
        told = [v.value for v in self.verdicts
                if v.criterion == "margin-height" and v.value is not None and v.zone in zone]  # fmt: skip
        return max(told, default=None)

    def ledge(self, side: str | None, width_mm: float | None = None) -> Use | None:
        """The bur for the finish line of a side."""
        side = side or "facial"
        width = self.standard.width_limits(side).target if width_mm is None else width_mm
        return for_ledge(width, self.standard.forms_for(side), self.tray)

    def fine(self) -> str:
        """A fine bur of the tray, in words."""
        return next(
            (b.title for b in self.tray if b.grit in ("fine", "extra-fine") and b.tip != "point"),
            "a fine bur of the same form",
        )

    def flat(self) -> str:
        """An end-cutting or flat-ended instrument."""
        return next(
            (b.title for b in self.tray if b.tip in ("flat", "flat-rounded") and b.grit in ("fine", "extra-fine")),
            "a flat-ended or end-cutting instrument",
        )

    # --- materials ---------------------------------------------------------------------------------------------

    @property
    def materials(self) -> list[str]:
        """Titles of the other materials' usual standards that nothing measured falls short of."""
        if self._materials is None:
            self._materials = [s.title for s in self._others() if self._does(s)]
        return self._materials

    def material_words(self) -> str:
        """The materials that fit, in words; '' where none does."""
        return f"as it stands it would do for: {', '.join(self.materials[:3])}" if self.materials else ""

    def _others(self) -> list[Standard]:
        tooth = self.g.options.tooth
        kind = self.g.options.restoration
        table = {"ring": DEFAULTS, "cavity": CAVITY_DEFAULTS, "window": VENEER_DEFAULTS, "cast": CAST_DEFAULTS,
                 "child": CHILD_DEFAULTS}[self.g.kind.reader.name]  # fmt: skip
        ids = dict.fromkeys(default_id(m, tooth, kind) for m in table)
        found = [fitted(built_in()[i], tooth) for i in ids if i != self.standard.id]
        return [s for s in found if suitable(s) and self.standard.material not in (s.material, *s.also_for)]

    def _does(self, standard: Standard) -> bool:
        for v in self.verdicts:
            if v.value is None or v.U is None or v.bound != "min":
                continue
            if v.criterion in ("reduction", "clearance"):
                limits = replace(self.held, standard=standard).limits_of(v.zone, v.criterion == "clearance")
            elif v.criterion == "finish-line-width":
                limits = standard.width_limits(self.side(v.zone) or "facial")
            else:
                continue
            if limits is not None and v.value + v.U < limits.min:
                return False
        return True


def _patch_of(zone: ZoneValue, area: float, missing: float, target: float, low: float, wanted: float) -> Patch:
    median = zone.median_mm or 0.0
    if median >= wanted - HAND_MM / 2:
        return Patch(SPOT, area, missing, target, missing)
    if median >= low - HARDLY_MM:
        return Patch(PART, area, missing, target, missing)
    # All of it lacks: what its middle lacks is asked of all, and of the thinnest spot no more than of the rest.
    return Patch(WHOLE, area, low - median, wanted - median, missing)


def said(use: Use | None) -> str:
    """A bur and how deep it is sunk, in words."""
    return "" if use is None else f"{use.bur.title} ({use.bur.size}): {use.words}"


def beyond(use: Use | None) -> str:
    """What the bur must not be sunk beyond."""
    return "" if use is None else use.beyond
