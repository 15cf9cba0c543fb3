"""A front tooth cut behind for a casting held by pins: its back taken down, a ledge across it, holes in the ledge."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.demo.anatomy import Tooth, smooth_max
from vane_line.demo.scanner import surface_of
from vane_line.demo.window import HALF, LEVELS, MIDDLE

FAR_MM = 3.0
CHAMFER_MM, EDGE_MM = 0.3, 0.12


@dataclass(frozen=True)
class Drilled:
    """A hole in the ledge: where it stands mesially of the tooth's middle, as a share of its half-width; its depth, and
    its tilts to mesial and to facial."""

    share: float
    deep_mm: float = 2.4
    to_mesial_deg: float = 0.0
    to_facial_deg: float = 0.0
    wide_mm: float = 0.65

    def axis(self, tooth: Tooth, ledge: Floats) -> tuple[Floats, Floats]:
        """Its rim's middle and its direction out of the tooth, local."""
        across = np.tan(np.radians([self.to_mesial_deg, self.to_facial_deg]))
        way = np.array([*across, 1.0])
        return np.array([self.share * tooth.size[1] / 2, ledge[0], ledge[1]]), way / np.linalg.norm(way)

    def pin(self, tooth: Tooth, ledge: Floats, out_mm: float, local: Floats) -> Floats:
        """Negative in a guide pin that stands in it and out of it by so much."""
        rim, way = self.axis(tooth, ledge)
        off = local - rim
        height = off @ way
        away = np.linalg.norm(off - height[:, None] * way, axis=1)
        return np.maximum.reduce([away - self.wide_mm / 2, -self.deep_mm - height, height - out_mm])

    def hollow(self, tooth: Tooth, ledge: Floats, local: Floats) -> Floats:
        """Negative where it takes tooth away."""
        rim, way = self.axis(tooth, ledge)
        off = local - rim
        height = off @ way
        away = np.linalg.norm(off - height[:, None] * way, axis=1)
        funnel = np.clip(height + 0.25, 0, 0.4) * 0.35  # its rim is opened a little
        return np.maximum.reduce([away - self.wide_mm / 2 - funnel, -self.deep_mm - height, height - 2.0])


@dataclass(frozen=True)
class BackCut:
    """Lengths in mm. depth_mm: off the back. neck_mm, papilla_mm: level of the line over the neck in the middle, and by
    how much it rises beside. end_share: where the line runs on the sides, from the middle of the tooth's thickness
    there to its face. ledge_share, ledge_mm: its level as a share of the crown's length, and its width. pins_mm: by how
    much guide pins stand out of the holes; 0 for none."""

    depth_mm: float = 0.65
    neck_mm: float = 1.5
    papilla_mm: float = 1.0
    end_share: float = 0.15
    ledge_share: float = 0.36
    ledge_mm: float = 0.75
    holes: tuple[Drilled, ...] = ()
    pins_mm: float = 0.0

    def left(self, tooth: Tooth, local: Floats) -> Floats:
        """(N,) negative where the tooth is left as it was."""
        length, md, _, fl, _ = tooth.size
        x, y, z = local.T
        share = np.clip(np.abs(x) / (md / 2), 0, 1.2)
        neck = z - (self.neck_mm + self.papilla_mm * share**2.2)
        middle, half = (fl * np.interp(z / length, LEVELS, table) for table in (MIDDLE, HALF))
        return np.minimum(neck, middle + half * self.end_share - y)

    def ledge(self, tooth: Tooth) -> Floats:
        """(2,) y of the ledge's middle and its level, over the tooth's middle."""
        length, _, _, fl, _ = tooth.size
        level = self.ledge_share * length
        y = np.linspace(-fl, fl, 4001)
        inside = tooth(np.stack([np.zeros_like(y), y, np.full_like(y, level)], axis=1)) < 0
        return np.array([y[inside].min() + self.depth_mm + self.ledge_mm / 2, level])

    def __call__(self, tooth: Tooth) -> Callable[[Floats], Floats]:
        """The prepared tooth as a function of its local points."""
        length, md, _, fl, _ = tooth.size
        reach = np.array([md / 2 + 1.0, fl / 2 + 1.5])
        skin = surface_of(tooth, np.r_[-reach, -2.0], np.r_[reach, length + 0.6], 0.15)
        ledge = self.ledge(tooth)

        def cut(local: Floats) -> Floats:
            value = tooth(local)
            near = np.abs(value) < FAR_MM
            here = local[near]
            core, left, k = skin.signed_distance(here)[0] + self.depth_mm, self.left(tooth, here), CHAMFER_MM
            # The ledge: from its level up, everything behind its wall goes.
            shelf = np.minimum(ledge[0] + self.ledge_mm / 2 - here[:, 1], here[:, 2] - ledge[1])
            core = smooth_max(core, shelf, EDGE_MM)
            corner = k - np.hypot(np.maximum(k - core, 0), np.maximum(k - left, 0))
            stump = np.where((core < k) & (left < k), corner, np.minimum(core, left))
            found = np.maximum(value[near], stump)
            for hole in self.holes:
                found = np.maximum(found, -hole.hollow(tooth, ledge, here))
            value[near] = found
            for hole in self.holes if self.pins_mm else ():
                value = np.minimum(value, hole.pin(tooth, ledge, self.pins_mm, local))
            return value

        return cut

    def truth(self, tooth: Tooth) -> dict[str, Any]:
        """What is so of it; directions in the tooth's own coordinates."""
        ledge = self.ledge(tooth)
        return {
            "ledge_mm": self.ledge_mm,
            "holes": [
                {"share": h.share, "deep_mm": h.deep_mm, "direction": h.axis(tooth, ledge)[1].tolist(),
                 "rim": h.axis(tooth, ledge)[0].tolist()}
                for h in self.holes
            ],
        }  # fmt: skip
