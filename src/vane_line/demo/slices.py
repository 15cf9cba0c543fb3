"""Primary teeth cut for prefabricated crowns: for metal the top lowered and the sides sliced, for zirconia a front
tooth taken down all round, both with their edges rounded."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.demo.anatomy import Tooth, smooth_max, smooth_min
from vane_line.demo.burs import OcclusalCut
from vane_line.demo.scanner import surface_of

CONTOUR = 0.5  # share of a primary crown's length at which it is widest
ROUND_MM = 0.35
SKIN_GRID_MM = 0.12
FULL = (0.38, 0.34, 0.26)  # share of a front tooth's length from which on each side is cut to full depth


@dataclass(frozen=True, eq=False)
class Slices:
    """Lengths in mm. side_mm: off each proximal side at its contour; ledge_mm: what was left standing at the distal
    neck, 0 for none; lean_deg: of the slices, inward going up."""

    occlusal_mm: float = 1.3
    side_mm: float = 1.0
    ledge_mm: float = 0.0
    ledge_at_mm: float = 1.25
    lean_deg: float = 3.0

    def __call__(self, tooth: Tooth) -> Callable[[Floats], Floats]:
        top = OcclusalCut({"other": self.occlusal_mm}, bevel_deg=25.0)(tooth)

        def cut(local: Floats) -> Floats:
            value = tooth(local)
            near = value < 1.0
            inner = local[near]
            faces = np.maximum(self._side(tooth, inner, 1.0), self._side(tooth, inner, -1.0))
            value[near] = smooth_max(value[near], smooth_max(top(inner), faces, ROUND_MM), 0.12)
            return value

        return cut

    def _plane(self, tooth: Tooth, z: Floats | float) -> Floats:
        """Distance of a slice from the tooth's middle at a level."""
        length, md, *_ = tooth.size
        return np.asarray(md / 2 - self.side_mm - (z - CONTOUR * length) * np.tan(np.radians(self.lean_deg)))

    def _side(self, tooth: Tooth, local: Floats, sign: float) -> Floats:
        """Positive where a slice took material: mesial +1, distal -1."""
        out, z = sign * local[:, 0], local[:, 2]
        sliced = out - self._plane(tooth, z)
        if self.ledge_mm <= 0 or sign > 0:
            return np.asarray(sliced)
        # The bur stopped short of the neck: under its tip the side stands further out.
        stands = self._plane(tooth, self.ledge_at_mm) + self.ledge_mm
        return smooth_min(sliced, np.maximum(z - self.ledge_at_mm, out - stands), 0.05)

    def truth(self, tooth: Tooth) -> dict[str, Any]:
        """What is so of it."""
        return {"ledge_mm": self.ledge_mm, "side_mm": self.side_mm, "occlusal_mm": self.occlusal_mm,
                "contour_mm": CONTOUR * tooth.size[0]}  # fmt: skip


@dataclass(frozen=True, eq=False)
class AllRound:
    """A front tooth taken down all round, to no edge at its neck. Lengths in mm, sideways at the contour: mesial and
    distal, facial, and lingual."""

    incisal_mm: float = 1.6
    side_mm: tuple[float, float, float] = (1.35, 1.25, 1.3)
    runs_out_mm: float = -1.5  # over the neck: further down nothing was cut

    def __call__(self, tooth: Tooth) -> Callable[[Floats], Floats]:
        length, md, _, fl, _ = tooth.size
        reach = np.array([md / 2 + 0.5, fl / 2 + 0.5, 0.0])
        skin = surface_of(tooth, -reach - [0, 0, 3.0], reach + [0, 0, length + 0.5], SKIN_GRID_MM)

        def cut(local: Floats) -> Floats:
            value = tooth(local)
            near = value < 1.0
            inner = local[near]
            x, y, z = inner.T
            across = x**2 / np.maximum(x**2 + y**2, 1e-9)

            def blended(of: tuple[float, float, float]) -> Floats:
                return across * of[0] + (1 - across) * np.where(y > 0, of[1], of[2])

            share = np.clip((z - self.runs_out_mm) / (blended(FULL) * length - self.runs_out_mm), 0, 1)
            side = skin.signed_distance(inner)[0] + blended(self.side_mm) * share
            value[near] = np.maximum(value[near], smooth_max(side, z - (length - self.incisal_mm), ROUND_MM))
            return value

        return cut

    def truth(self, tooth: Tooth) -> dict[str, Any]:
        """What is so of it."""
        return {"ledge_mm": 0.0, "side_mm": list(self.side_mm), "incisal_mm": self.incisal_mm,
                "contour_mm": CONTOUR * tooth.size[0]}  # fmt: skip
