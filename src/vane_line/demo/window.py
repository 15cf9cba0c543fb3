"""A veneer's preparation as careful burs leave it, and the mock-up that it is cut through."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.demo.anatomy import Tooth, smooth_max
from vane_line.demo.scanner import surface_of

SIDE_FROM, SIDE_TO = 0.55, 0.85  # of the half-width: where the face passes into its side
HOLLOW_SHARE = 0.22  # by which a hollow reaches further onto the face
# Middle and half of a front tooth's thickness by level, as shares of its faciolingual size.
LEVELS, MIDDLE, HALF = (0.0, 0.3, 0.78, 1.0), (0.0, 0.0, 0.14, 0.125), (0.43, 0.5, 0.19, 0.065)
OVER_MM = 0.3  # that a cut over a cusp may go lower than its level part, where the slope was lower anyway
EDGE_MM = 0.6  # over which the facet's edges are rounded
FAR_MM = 3.0


@dataclass(frozen=True)
class FaceCut:
    """Depths in mm: thirds of the face from the neck, sides, and along the tooth off its edge.

    neck_mm: level of the line over the neck in the middle, papilla_mm: how much higher it runs beside. end_share: where
    the line runs on the mesial and the distal side, from the middle of the tooth's thickness there to its face.
    scoop_mm: depth of the hollow in which it ends distally. over_share: of the faciolingual size, how far facial of
    the middle the cut ends that goes on level over a back tooth's facial cusp; None on front teeth.
    """

    thirds_mm: tuple[float, float, float]
    side_mm: float
    incisal_mm: float
    neck_mm: float
    papilla_mm: float
    end_share: tuple[float, float]
    scoop_mm: float = 0.0
    chamfer_mm: float = 0.3
    over_share: float | None = None

    def depth(self, tooth: Tooth, local: Floats) -> Floats:
        """(N,) under the tooth's surface."""
        length, md, *_ = tooth.size
        x, y, z = local.T
        face = np.interp(z / length, [0.2, 0.5, 0.82], self.thirds_mm)
        sooner = np.where((x < 0) & (self.scoop_mm > 0), HOLLOW_SHARE, 0.0)
        aside = np.clip((np.abs(x) / (md / 2) + sooner - SIDE_FROM) / (SIDE_TO - SIDE_FROM), 0, 1)
        distal = max(self.side_mm, self.scoop_mm)
        side = np.where(x < 0, distal, self.side_mm)
        # The hollow opens over the middle of the distal side and runs out towards edge and neck.
        along = np.exp(-(((z / length - 0.5) / 0.22) ** 4))
        side = self.side_mm + (side - self.side_mm) * along
        outer = face * (1 - aside) + side * aside
        if self.over_share is None:
            return np.asarray(outer)
        over = np.clip((tooth.cusps["facial"][1] - y) / 0.5, 0, 1)  # past the cusp's ridge the level cut decides
        return np.asarray(outer * (1 - over))

    def left(self, tooth: Tooth, local: Floats) -> Floats:
        """(N,) negative where the tooth is left as it was."""
        length, md, _, fl, _ = tooth.size
        x, y, z = local.T
        share = np.clip(np.abs(x) / (md / 2), 0, 1.2)
        neck = z - (self.neck_mm + self.papilla_mm * share**2.2)
        mesial, distal = self.end_share
        end = np.where(x > 0, mesial, distal)
        if self.over_share is None:
            middle, half = (fl * np.interp(z / length, LEVELS, table) for table in (MIDDLE, HALF))
            return np.minimum(neck, y - middle - half * end)
        over = np.minimum(z - self.level(tooth) + OVER_MM, y - self.over_share * fl)
        return np.minimum(neck, np.maximum(y - fl / 2 * end, over))

    def level(self, tooth: Tooth) -> float:
        """Height down to which the edge, or the facial cusp, is taken."""
        top = tooth.size[0] if self.over_share is None else tooth.cusps["facial"][2]
        return top - self.incisal_mm

    def __call__(self, tooth: Tooth) -> Callable[[Floats], Floats]:
        """The prepared tooth as a function of its local points."""
        length, md, _, fl, _ = tooth.size
        reach = np.array([md / 2 + 1.0, fl / 2 + 1.5])
        top = max((z for _, _, z in tooth.cusps.values()), default=length)
        skin = surface_of(tooth, np.r_[-reach, -2.0], np.r_[reach, top + 0.6], 0.15)

        def cut(local: Floats) -> Floats:
            value = tooth(local)
            near = np.abs(value) < FAR_MM
            here = local[near]
            core = skin.signed_distance(here)[0] + self.depth(tooth, here)
            left, k = self.left(tooth, here), self.chamfer_mm
            corner = k - np.hypot(np.maximum(k - core, 0), np.maximum(k - left, 0))
            stump = np.where((core < k) & (left < k), corner, np.minimum(core, left))
            facet = here[:, 2] - self.level(tooth)
            if self.over_share is not None:
                facet = np.minimum(facet, here[:, 1] - self.over_share * fl)
            value[near] = np.maximum(value[near], smooth_max(stump, facet, EDGE_MM))
            return value

        return cut


@dataclass(frozen=True)
class MockUp:
    """Resin over the tooth as it stands: longer by `longer_mm`, fuller over the face, wider to mesial by a gap."""

    longer_mm: float
    fuller_mm: float
    wider_mm: float

    def __call__(self, tooth: Tooth) -> Callable[[Floats], Floats]:
        length, md, *_ = tooth.size

        def shape(local: Floats) -> Floats:
            x, y, z = local.T
            high = np.clip(z / length - 0.35, 0, None) / 0.65  # the neck stays as it is
            stretched = z - self.longer_mm * np.clip(high, 0, 1)
            z = np.where(z > 0.35 * length, np.maximum(stretched, 0.35 * length), z)
            level = np.clip((local[:, 2] - 1.0) / 1.5, 0, 1)
            half = md / 2
            narrow = np.where(x > 0, x * half / (half + self.wider_mm * level), x)
            grown = self.fuller_mm * level * np.clip(y / 1.5, 0, 1)
            return np.minimum(tooth(local), tooth(np.stack([narrow, y, z], axis=1)) - grown)

        return shape
