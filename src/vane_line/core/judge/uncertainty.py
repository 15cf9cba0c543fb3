"""Standard uncertainties and how they combine (JCGM 100): u² is the sum of squares, U = 2u.

U_METHOD holds, per measure, the definition's own repeatability on known solids; docs/uncertainty.md gives the
evidence and the test that guards it. Repeatability hides trueness: a definition that is off is off every time.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot

COVERAGE = 2.0
EDGE_MM = 0.185  # triangles' edges for which the values below hold
FINE_SHARE = 0.8  # of them that stays however fine the scan is
U_METHOD_MM = {"reduction": 0.0155, "clearance": 0.012}
# Further measures: standard uncertainty of the definition itself, in the unit of the measure (docs/uncertainty.md).
U_METHOD = {
    "convergence": 0.18, "wall-height": 0.008, "remaining-width": 0.008, "undercut": 0.0105, "draft": 0.105,
    "insertion": 0.008, "finish-line-width": 0.0115, "finish-line-step": 0.026, "finish-line-lip": 0.0095,
    "finish-line-roughness": 4.0, "margin-height": 0.048, "neighbour-gap": 0.016, "ferrule": 0.062,
    "edge-radius": 0.085, "neighbour-nick": 0.0095, "cusp-shift": 0.15, "set-back": 0.06,
}  # fmt: skip
# By which power of the edges' length a measure grows less certain on a coarser scan; the others do not.
GROWTH = {
    "reduction": 1.5, "finish-line-width": 1.2, "finish-line-step": 1.2, "finish-line-lip": 1.2,
    "finish-line-roughness": 1.3, "undercut": 1.0, "margin-height": 1.0, "draft": 0.7, "convergence": 0.7,
    "wall-height": 1.8, "remaining-width": 0.6, "edge-radius": 2.0, "neighbour-nick": 1.0,
}  # fmt: skip
ROUGHNESS_SHARE = 0.18  # scallops finer than the trace's own smoothing read low by about this much of themselves
IN_MM = set(U_METHOD) - {"convergence", "draft", "finish-line-roughness"}
U_SCAN_FLOOR_UM = 4.0  # correlated scanner error that the noise of neighbouring vertices cannot show
U_BITE_MM = 0.025  # spread of repeated bite records; order of the published figures, from memory


@dataclass(frozen=True)
class Budget:
    """The parts of one measurement's uncertainty, and the scan's usual edge near the finish line, mm."""

    scan_mm: float
    align_mm: float
    bite_mm: float
    edge_mm: float = EDGE_MM

    def method(self, measure: str) -> float:
        """Standard uncertainty of a definition on a scan as fine as this, in the measure's unit."""
        least = U_METHOD_MM.get(measure) or U_METHOD[measure]
        return least * self._growth(measure)

    def _growth(self, measure: str) -> float:
        return max((self.edge_mm / EDGE_MM) ** GROWTH[measure], FINE_SHARE) if measure in GROWTH else 1.0

    def reduction(self) -> float:
        """Expanded uncertainty of a zone's low reduction, mm."""
        return COVERAGE * hypot(self.scan_mm, self.align_mm, self.method("reduction"))

    def of(self, measure: str) -> float:
        """Expanded uncertainty of another measure, in its unit; lengths carry the scan's share too."""
        return COVERAGE * hypot(self.scan_mm if measure in IN_MM else 0.0, self.method(measure))

    def roughness(self, value_um: float) -> float:
        """Expanded uncertainty of the finish line's roughness, µm."""
        rough = "finish-line-roughness"
        return COVERAGE * hypot(self.method(rough), ROUGHNESS_SHARE * value_um * self._growth(rough))

    def clearance(self, opposing_align_mm: float = 0.0) -> float:
        """Expanded uncertainty of a zone's low clearance, mm."""
        return COVERAGE * hypot(self.scan_mm, self.bite_mm, opposing_align_mm, self.method("clearance"))


def u_scan_mm(noise_um: float, patch_scatter_um: float | None) -> float:
    """Scan uncertainty of a small spot: what patches of the stable surface still differ by, or the noise.

    A value is averaged over about a dozen vertices, so white noise shrinks to a third.
    """
    white = noise_um / 3
    scatter = patch_scatter_um / 2**0.5 if patch_scatter_um is not None else 0.0
    return hypot(max(white, scatter), U_SCAN_FLOOR_UM) / 1000
