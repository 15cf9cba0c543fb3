"""A standard: the minimum, target and maximum of every zone, and what it says of a tooth."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import degrees
from typing import Literal

from vane_line.core import kinds
from vane_line.core.judge.limits import Bounds, Limits, general
from vane_line.core.measure.zones import OCCLUSAL_HEADS
from vane_line.core.tooth.notation import ToothNumber

Teeth = Literal["back", "front", "canine"]
WING_HALF_DEG = 5.0  # to either side of the wing the finish line passes from one width to the other, on purpose
RUNS_OUT_MM = 0.15


@dataclass(frozen=True)
class Standard:
    """A named, versioned set of limits for a material and restoration."""

    id: str
    version: int
    title: str
    material: str
    restoration: str
    teeth: Teeth
    protocol: str
    reason: str
    caution: str
    cement_space_mm: float
    reduction: dict[str, Limits]
    finish_line_width: dict[str, Limits]
    finish_line_form: dict[str, tuple[str, ...]]
    also_for: tuple[str, ...] = ()  # other materials that are judged by the same figures
    clearance: dict[str, Limits] = field(default_factory=dict)
    digest: str = field(default="")
    general: dict[str, Bounds] = field(default_factory=dict)  # what this one overrules of the general standard
    wing: dict[str, float] = field(default_factory=dict)  # by side: mm lingual of the contact where the face's end
    also_restorations: tuple[str, ...] = ()  # other kinds that are judged by the same figures

    def bounds(self, name: str) -> Bounds:
        """Bounds of what no material sets: this standard's own, or the general one's."""
        return self.general.get(name) or general()[name]

    def wall_height(self, tooth: ToothNumber) -> Bounds:
        """Of the walls of such a tooth."""
        return self.bounds("wall-height-molar" if tooth.molar else "wall-height")

    def sectors(self, side: str, radius_mm: float) -> list[tuple[str, float, float, Limits]]:
        """A side's stretches of the finish line: name, from and to (degrees past the side's middle, towards lingual
        positive), limits. Where metal shows behind, the face's figures end at the wing, a little lingual of the
        contact; radius_mm: of the finish line there.
        """
        off = self.wing.get(side)
        if off is None:
            return [(side, -45.0, 45.0, self.width_limits(side))]
        wing = degrees(off / max(radius_mm, 1.0))
        stem = "mesio" if side == "mesial" else "disto"
        return [
            (f"{stem}facial", -45.0, wing - WING_HALF_DEG, self.width_limits("facial")),
            (f"{stem}lingual", wing + WING_HALF_DEG, 45.0, self.width_limits("lingual")),
        ]

    @property
    def restorations(self) -> tuple[str, ...]:
        """The kinds that it is for."""
        return (self.restoration, *self.also_restorations)

    def cusp_limits(self, functional: bool) -> Limits:
        """Limits of reduction over a covered cusp."""
        return self.reduction["functional-cusp" if functional else "other-cusp"]

    @property
    def reader(self) -> str:
        """Name of the reader of the kinds that it is for."""
        return kinds.of(self.restoration).reader.name

    def serves(self, tooth: ToothNumber) -> bool:
        """Whether it was written for such a tooth."""
        if self.reader == "window":
            return not tooth.molar
        if (self.reader == "child") != tooth.primary:
            return False
        if self.teeth == "canine":
            return tooth.fdi[1] == "3"
        return tooth.front == (self.teeth == "front")

    def may_serve(self, tooth: ToothNumber) -> bool:
        """Whether it may be chosen for such a tooth: the one full metal standard of back teeth serves them all."""
        metal = self.material == "full-metal" and bool(self.finish_line_width)
        return self.serves(tooth) or (self.teeth == "back" and tooth.front and metal)

    def limits_for_zone(self, zone: str) -> Limits | None:
        """Limits of reduction in a zone, None where it is judged otherwise.

        What the tables leave out: ridges and bevel as the cusps they belong to, a wall's occlusal third as its
        middle, its cervical third from the finish line's depth.
        """
        head, _, tail = zone.partition("/")
        if self.reader == "child" and head not in OCCLUSAL_HEADS:  # round about it has criteria of its own
            return None
        if self.teeth != "back":
            return self._front_limits(head, tail)
        if head == "incisal-edge":
            return self._beside_edge()
        if head in ("functional-cusp", "functional-cusp-bevel"):
            return self.reduction["functional-cusp"]
        if head in ("non-functional-cusp", "marginal-ridge"):
            return self.reduction["other-cusp"]
        if head in ("central-groove", "facial-groove", "lingual-groove"):
            return self.reduction.get("groove")  # a cavity's standard has none: its floor has a depth of its own
        # A front tooth judged by a back tooth's figures: its edge as a functional cusp, its faces as walls.
        if head == "lingual-fossa":
            return self.reduction["other-cusp"]
        if head in ("facial", "lingual-wall"):
            head, tail = "wall", f"{head.removesuffix('-wall')}/{'cervical' if tail == 'cervical' else 'middle'}"
        if head == "wall":
            side, _, third = tail.partition("/")
            if third == "cervical":
                return self.width_limits(side)
            return self.reduction.get(f"wall-{side}", self.reduction.get("wall"))
        return None

    def depth_limits(self, zone: str) -> Limits | None:
        """Limits of the depth to cut in a zone; None where none is planned there."""
        if self.reader == "ring" and zone == "incisal-edge":
            return self.edge_limits
        if self.reader == "window" and zone == "incisal-edge":
            off = self.bounds("incisal-reduction")
            if off.min is not None and off.target is not None and off.max is not None:
                return Limits(off.min, off.target, off.max, off.source)
        return self.limits_for_zone(zone)

    def _front_limits(self, head: str, tail: str) -> Limits | None:
        if head == "facial":
            return self.reduction.get(f"facial-{tail}")  # what leaves the face has no figure for it
        if self.reader == "window":  # what is taken off the edge and behind has criteria of its own
            return None
        if head == "incisal-edge":
            return self._beside_edge()
        if head == "lingual-fossa":
            return self.reduction["lingual-fossa"]
        if head == "lingual-wall":
            return self.reduction.get("lingual-wall", self.width_limits("lingual"))
        if head == "wall":  # between the teeth the wall follows from the finish line's depth
            return self.width_limits(tail.partition("/")[0])
        return None

    @property
    def edge_limits(self) -> Limits:
        """Limits of how far a front tooth's edge is taken down: as a functional cusp, by a back tooth's figures."""
        return self.reduction["functional-cusp" if self.teeth == "back" else "incisal"]

    def _beside_edge(self, behind: Limits | None = None) -> Limits:
        """Limits of the least distance at a crown's incisal edge, of which `edge_limits` tell how far it is taken down:
        a front tooth is thin there, and what lies nearest is its face or its back. As there (behind: unless given, as
        the concavity), whichever needs less."""
        edge = self.edge_limits
        if self.reader != "ring":
            return edge
        sides = (self.limits_for_zone("facial/incisal"), behind or self.limits_for_zone("lingual-fossa"))
        return min((edge, *(s for s in sides if s is not None)), key=lambda limits: limits.min)

    def clearance_for_zone(self, zone: str) -> Limits | None:
        """Least clearance: the reduction's figures, but for what the standard says of it."""
        if zone in ("lingual-fossa", "lingual-wall", "wrap") and "lingual" in self.clearance:
            return self.clearance["lingual"]
        if zone == "incisal-edge" and self.reader == "window":
            return self.reduction["incisal"]
        if zone == "incisal-edge" and "lingual" in self.clearance:
            return self._beside_edge(self.clearance["lingual"])
        return self.limits_for_zone(zone)

    def width_limits(self, side: str) -> Limits:
        """Limits of the finish line's width on a side."""
        return self.finish_line_width.get(side) or self.finish_line_width["all"]

    def forms_for(self, side: str) -> tuple[str, ...]:
        """Wanted forms of the finish line on a side; empty where the standard names none."""
        return self.finish_line_form.get(side) or self.finish_line_form.get("all", ())

    @property
    def widest_target_mm(self) -> float:
        """The greatest target width of the finish line: the band round it is as wide as this. A prefabricated crown
        has no ledge: there it is the rim of the top that is as wide.

        A cavity's covered cusps run out to their outline without a ledge: as near to it as the least reduction, and a
        little further, nothing is judged, since there a cut of any depth lies so near to the tooth's side.
        """
        if self.reader == "child":
            # Nearer to the side than the sides are cut less than the top, a least distance is the side's.
            top = max(limit.min for limit in self.reduction.values())
            beside = self.general["round-about"].min if "round-about" in self.general else None
            return max(top - (beside or 0.0), 0.0)
        if not self.finish_line_width:
            return max(limit.min for limit in self.reduction.values()) + RUNS_OUT_MM
        return max(limit.target for limit in self.finish_line_width.values())
