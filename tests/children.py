"""A child's tooth of known bulge, neck and slices, cut for a prefabricated crown.

Coordinates as in `solids`: x mesial, y facial, z occlusal. The tooth is a body of elliptical sections whose size swells
from the neck to the greatest contour and falls off again by parabolas of known height, so that contour less neck is
known at every azimuth.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from solids import Stump

from vane_line.core.arrays import Floats

NECK_MM, CONTOUR_MM = 0.3, 2.0  # levels of the neck and of the greatest contour


@dataclass(frozen=True)
class MilkTooth(Stump):
    """Lengths in mm, angles in degrees."""

    facial_mm: float = 4.6  # half-widths at the greatest contour
    mesial_mm: float = 4.4
    top_mm: float = 5.5
    occlusal_mm: float = 1.3
    bulge_mm: float = 0.3  # contour less neck, all round
    round_mm: float = 0.0  # taken off all round by a straight wall, instead of slices alone
    slice_mm: float = 1.0  # off each proximal side, at the contour
    slice_deg: float = 3.0
    shelf_mm: float = 0.0  # what stands out at the distal neck, over the slice at the contour
    shelf_at_mm: float = 0.9
    gap_mm: float = 0.8

    @property
    def ledge_mm(self) -> float:
        """Width of the shelf where the slice, which leans outward going down, meets it."""
        if not self.shelf_mm:
            return 0.0
        wall = self.slice_mm - (CONTOUR_MM - self.shelf_at_mm) * float(np.tan(np.radians(self.slice_deg)))
        # The shelf reaches no further than the tooth did.
        return wall - max(self.slice_mm - self.shelf_mm, float(self.swell(np.array([self.shelf_at_mm]))[0]))

    def swell(self, z: Floats) -> Floats:
        """What the body has at a level less than at its contour."""
        below = self.bulge_mm * np.clip((CONTOUR_MM - z) / (CONTOUR_MM - NECK_MM), 0, None) ** 2
        above = 0.6 * np.clip((z - CONTOUR_MM) / (self.top_mm - CONTOUR_MM), 0, None) ** 2
        return np.where(z < CONTOUR_MM, below, above)

    def tooth(self, p: Floats) -> Floats:
        r, whole = self.outline(p)
        return np.maximum(r - whole + self.swell(p[:, 2]), p[:, 2] - self.top_mm)

    def cut(self, p: Floats) -> Floats:
        z = p[:, 2]
        value = np.maximum(self.tooth(p), z - (self.top_mm - self.occlusal_mm))
        if self.round_mm:
            r, whole = self.outline(p)
            value = np.maximum(value, r - (whole - self.round_mm - (z - NECK_MM) * np.tan(np.radians(self.taper_deg))))
        for side in (1, -1):
            plane = self.mesial_mm - self.slice_mm - (z - CONTOUR_MM) * np.tan(np.radians(self.slice_deg))
            sliced = side * p[:, 0] - plane
            if self.shelf_mm and side < 0:
                # The slice stops on a level shelf of known width.
                outer = self.mesial_mm - self.slice_mm + self.shelf_mm
                sliced = np.minimum(sliced, np.maximum(z - self.shelf_at_mm, -p[:, 0] - outer))
            value = np.maximum(value, sliced)
        return value if self.extra is None else np.maximum(value, -self.extra(p))
