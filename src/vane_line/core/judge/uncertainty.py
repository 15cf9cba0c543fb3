"""Standard uncertainties and how they combine (JCGM 100): u² is the sum of squares, U = 2u.

U_METHOD holds, per measure, the definition's own repeatability on known solids; docs/uncertainty.md gives the
evidence and the test that guards it. Repeatability hides trueness: a definition that is off is off every time.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import hypot, radians, tan

COVERAGE = 2.0
EDGE_MM = 0.185  # triangles' edges for which the values below hold
FINE_SHARE = 0.8  # of them that stays however fine the scan is
U_METHOD_MM = {"reduction": 0.018, "clearance": 0.020}
# Further measures: standard uncertainty of the definition itself, in the unit of the measure (docs/uncertainty.md).
U_METHOD = {
    "convergence": 0.18, "wall-height": 0.018, "remaining-width": 0.020, "undercut": 0.0115, "draft": 0.16,
    "insertion": 0.015, "finish-line-width": 0.020, "finish-line-step": 0.031, "finish-line-lip": 0.0095,
    "finish-line-roughness": 4.0, "margin-height": 0.048, "neighbour-gap": 0.040, "ferrule": 0.062,
    "edge-radius": 0.085, "neighbour-nick": 0.0095, "cusp-shift": 0.20, "set-back": 0.06,
    "cavity-depth": 0.010, "cavity-depth-median": 0.030, "isthmus": 0.050, "divergence": 0.50, "box-depth": 0.075,
    "box-floor": 1.2, "contact-clearance": 0.045, "cavosurface": 3.0, "outline-contact": 0.10, "cusp-thickness": 0.08,
    "cusp-thickness-by-box": 0.15, "internal-radius": 0.06,
    "ledge-width": 0.025, "incisal-reduction": 0.025, "incisal-form": 1.0, "wrap": 0.06, "scoop": 0.030,
    "contact-ending": 0.07, "cervical-undercut": 0.012, "crown-seat": 0.03, "ledge": 0.025,
    "groove-depth": 0.020, "groove-depth-one-side": 0.040,
    "groove-length": 0.26, "groove-end": 0.10, "groove-parallel": 0.35, "pin-depth": 0.030,
    "pin-parallel": 0.6, "guide-pin": 0.15, "pin-cover": 0.040, "pin-ledge": 0.06, "ledge-slope": 1.0,
    "tooth-left": 0.05,
}  # fmt: skip
# By which power of the edges' length a measure grows less certain on a coarser scan; the others do not.
GROWTH = {
    "reduction": 1.5, "finish-line-width": 1.2, "finish-line-step": 1.2, "finish-line-lip": 1.2,
    "finish-line-roughness": 1.3, "undercut": 1.0, "margin-height": 1.0, "draft": 0.7, "convergence": 0.7,
    "wall-height": 1.8, "remaining-width": 0.6, "edge-radius": 2.0, "neighbour-nick": 1.0,
    "ledge-width": 1.0, "ledge": 1.0, "scoop": 1.0, "wrap": 1.0, "groove-parallel": 1.5,
    "groove-length": 1.0, "neighbour-gap": 1.0,
}  # fmt: skip
# Triangles cut a sharp edge off: of what they are longer than this, so much is open of what hangs on the edge's place.
SHARP_EDGE_MM = 0.12
CUT_OFF = {"finish-line-width": 0.5, "remaining-width": 0.7, "margin-height": 1.0}
FORM_PERCENT, FORM_EDGE_MM, FORM_PER_MM = 10.0, 0.14, 300.0  # of a side's line, by form; more where edges are longer
FORM_EDGES, FORM_PER_EDGE = 0.30, 300.0  # of a ledge's width that one edge may be long, and % per width more
ROUGHNESS_SHARE = 0.18  # scallops finer than the trace's own smoothing read low by about this much of themselves
WORST_SCATTER = 3.0  # times a smooth line's scatter, that its worst stretch shows on lifelike scans
IN_MM = set(U_METHOD) - {
    "convergence", "draft", "finish-line-roughness", "divergence", "box-floor", "cavosurface",
    "incisal-form", "groove-parallel", "pin-parallel", "guide-pin", "ledge-slope",
}  # fmt: skip
U_SCAN_FLOOR_UM = 4.0  # correlated scanner error that the noise of neighbouring vertices cannot show
U_PATH_DEG, U_TURN_DEG = 0.10, 0.30  # spread of the guessed path and facial direction over rescans (docs/uncertainty)
U_AXIS_DEG = 5.0  # of a front tooth's axis, guessed and looked at: nobody sees less
EDGE_ASIDE_MM = 0.2  # by which what is told along the axis lies beside it
U_BAND_MM, U_CUSP_MM = 0.04, 0.10  # … of the finish line's place, and of a cusp's tip: where zones end
U_STEEP_DEG = 3.0  # … of how steep a place is, from which on it is a wall
# Standard uncertainty of a least distance in a movement, from where average condyles are put and where teeth touch: set
# by hand, no source. What was not entered is tried at the ends of its range besides.
U_MOVING_MM = 0.04
TRIED_DEG = 1.0  # by which the sides are turned to see what hangs on them


def per_degree(value_at: Callable[[float], float | None]) -> float:
    """By how much a value changes for each degree that the sides are turned, at most; 0 where there is none.

    value_at: the value with the sides turned by so many degrees.
    """
    here = value_at(0.0)
    around = [value_at(turn) for turn in (-TRIED_DEG, TRIED_DEG)]
    return max((abs(v - here) / TRIED_DEG for v in around if v is not None and here is not None), default=0.0)


@dataclass(frozen=True)
class Budget:
    """The parts of one measurement's uncertainty, and the scan's usual edge near the finish line, mm.

    path_deg, turn_deg, axis_deg: standard uncertainty of a guessed path's direction, of the azimuth at which sides
    begin, and of the tooth's own axis; nought where a person gave them. open_deg: of path_deg, what the walls leave
    open. wall_mm: height of the walls, by which a tilt becomes a depth.
    """

    scan_mm: float
    align_mm: float
    bite_mm: float
    edge_mm: float = EDGE_MM
    path_deg: float = 0.0
    turn_deg: float = 0.0
    wall_mm: float = 0.0
    axis_deg: float = 0.0
    open_deg: float = 0.0

    def drawing(self, draft_deg: float) -> Budget:
        """Of what hangs over nowhere: where the walls leave the path open, they also draw by so much, and only beyond
        that would a tilt hide anything."""
        told = max(self.path_deg**2 - self.open_deg**2, 0.0)
        beyond = max(self.open_deg - max(draft_deg, 0.0) / COVERAGE, 0.0)
        return replace(self, path_deg=hypot(told**0.5, beyond), open_deg=beyond)

    def method(self, measure: str) -> float:
        """Standard uncertainty of a definition on a scan as fine as this, in the measure's unit."""
        least = U_METHOD_MM.get(measure) or U_METHOD[measure]
        return least * self.growth(measure)

    def growth(self, measure: str) -> float:
        """By how many times a measure is less certain on a scan as fine as this."""
        return max((self.edge_mm / EDGE_MM) ** GROWTH[measure], FINE_SHARE) if measure in GROWTH else 1.0

    def reduction(self, border_mm: float = 0.0) -> float:
        """Expanded uncertainty of a zone's low reduction, mm; `border_mm`: what the place leaves open, as
        where its zone ends."""
        return COVERAGE * hypot(self.scan_mm, self.align_mm, self.method("reduction"), border_mm)

    def of(self, measure: str, per_degree: float = 0.0, further: float = 0.0) -> float:
        """Expanded uncertainty of another measure, in its unit; lengths carry the scan's share too.

        per_degree: by how much the value changes when the sides are turned by a degree. further: standard uncertainty
        of what this one place leaves open besides, in the measure's unit.
        """
        tilt = {
            "draft": self.path_deg,
            "divergence": self.path_deg,
            "box-floor": self.path_deg,
            "undercut": self.wall_mm * tan(radians(self.path_deg)),
            "incisal-form": self.axis_deg,
            "incisal-reduction": EDGE_ASIDE_MM * tan(radians(self.axis_deg)),
            "wrap": EDGE_ASIDE_MM * tan(radians(self.axis_deg)),
        }.get(measure, 0.0)
        scan = self.scan_mm if measure in IN_MM else 0.0
        cut_off = CUT_OFF.get(measure, 0.0) * self.too_long_mm
        return COVERAGE * hypot(scan, self.method(measure), tilt, cut_off, per_degree * self.turn_deg, further)

    @property
    def too_long_mm(self) -> float:
        """By how much triangles are longer than shows a sharp edge."""
        return max(self.edge_mm - SHARP_EDGE_MM, 0.0)

    @property
    def form_percent(self) -> float:
        """Expanded uncertainty of how much of a side's finish line is of a form, %: coarse triangles round it."""
        return FORM_PERCENT + FORM_PER_MM * max(self.edge_mm - FORM_EDGE_MM, 0.0)

    def form_of_ledge(self, width_mm: float, further: float = 0.0) -> float:
        """The same where corner and floor are told apart on a ledge so wide: a narrow one is few triangles across.
        further: as of `of`, %."""
        narrow = FORM_PER_EDGE * max(self.edge_mm / max(width_mm, 0.01) - FORM_EDGES, 0.0)
        return hypot(self.form_percent + narrow, COVERAGE * further)

    def roughness(self, value_um: float, scatter_um: float = 0.0) -> float:
        """Expanded uncertainty of the finish line's roughness, µm; scatter_um: of the traced line on a smooth one, of
        which the worst stretch may be nothing else."""
        rough = "finish-line-roughness"
        told = COVERAGE * hypot(self.method(rough), ROUGHNESS_SHARE * value_um * self.growth(rough))
        return max(told, value_um - max(value_um**2 - (WORST_SCATTER * scatter_um) ** 2, 0.0) ** 0.5)

    def clearance(self, opposing_align_mm: float = 0.0, border_mm: float = 0.0) -> float:
        """Expanded uncertainty of a zone's low clearance, mm; `border_mm` as of `reduction`."""
        return COVERAGE * hypot(self.scan_mm, self.bite_mm, opposing_align_mm, self.method("clearance"), border_mm)

    def moving(self, opposing_align_mm: float, border_mm: float, spread_mm: float) -> float:
        """The same while the jaw moves; spread_mm: by how much it may differ for what was not entered, all of it."""
        return hypot(self.clearance(opposing_align_mm, border_mm), COVERAGE * U_MOVING_MM) + spread_mm


def u_scan_mm(noise_um: float, patch_scatter_um: float | None) -> float:
    """Scan uncertainty of a small spot: what patches of the stable surface still differ by, or the noise.

    A value is averaged over about a dozen vertices, so white noise shrinks to a third.
    """
    white = noise_um / 3
    scatter = patch_scatter_um / 2**0.5 if patch_scatter_um is not None else 0.0
    return hypot(max(white, scatter), U_SCAN_FLOOR_UM) / 1000
