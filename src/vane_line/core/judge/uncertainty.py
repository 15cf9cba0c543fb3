"""Standard uncertainties and how they combine (JCGM 100): u² is the sum of squares, U = 2u.

U_METHOD holds, per measure, the definition's own repeatability on known solids; docs/uncertainty.md gives the
evidence and the test that guards it. Repeatability hides trueness: a definition that is off is off every time.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot

COVERAGE = 2.0
U_METHOD_MM = {"reduction": 0.0155, "clearance": 0.012}
# Further measures: standard uncertainty of the definition itself, in the unit of the measure (docs/uncertainty.md).
U_METHOD = {
    "convergence": 0.18, "wall-height": 0.047, "remaining-width": 0.0075, "undercut": 0.012, "draft": 0.105,
    "insertion": 0.008, "finish-line-width": 0.0195, "finish-line-step": 0.024, "finish-line-lip": 0.0085,
    "finish-line-roughness": 4.0, "margin-height": 0.065, "neighbour-gap": 0.02, "ferrule": 0.062,
    "edge-radius": 0.032, "neighbour-nick": 0.018, "cusp-shift": 0.15, "set-back": 0.06,
}  # fmt: skip
ROUGHNESS_SHARE = 0.165  # scallops finer than the trace's own smoothing read low by about this much of themselves
IN_MM = set(U_METHOD) - {"convergence", "draft", "finish-line-roughness"}
U_SCAN_FLOOR_UM = 4.0  # correlated scanner error that the noise of neighbouring vertices cannot show
U_BITE_MM = 0.025  # spread of repeated bite records; order of the published figures, from memory


@dataclass(frozen=True)
class Budget:
    """The parts of one measurement's uncertainty, mm."""

    scan_mm: float
    align_mm: float
    bite_mm: float

    def reduction(self) -> float:
        """Expanded uncertainty of a zone's low reduction, mm."""
        return COVERAGE * hypot(self.scan_mm, self.align_mm, U_METHOD_MM["reduction"])

    def of(self, measure: str) -> float:
        """Expanded uncertainty of another measure, in its unit; lengths carry the scan's share too."""
        return COVERAGE * hypot(self.scan_mm if measure in IN_MM else 0.0, U_METHOD[measure])

    def roughness(self, value_um: float) -> float:
        """Expanded uncertainty of the finish line's roughness, µm."""
        return COVERAGE * hypot(U_METHOD["finish-line-roughness"], ROUGHNESS_SHARE * value_um)

    def clearance(self, opposing_align_mm: float = 0.0) -> float:
        """Expanded uncertainty of a zone's low clearance, mm."""
        return COVERAGE * hypot(self.scan_mm, self.bite_mm, opposing_align_mm, U_METHOD_MM["clearance"])


def u_scan_mm(noise_um: float, patch_scatter_um: float | None) -> float:
    """Scan uncertainty of a small spot: what patches of the stable surface still differ by, or the noise.

    A value is averaged over about a dozen vertices, so white noise shrinks to a third.
    """
    white = noise_um / 3
    scatter = patch_scatter_um / 2**0.5 if patch_scatter_um is not None else 0.0
    return hypot(max(white, scatter), U_SCAN_FLOOR_UM) / 1000
