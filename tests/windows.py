"""A front tooth with a veneer's preparation whose every dimension is known in closed form.

Coordinates as in `solids`: x mesial, y facial, z occlusal. The tooth is an upright block with rounded corners whose
back leans forward to its edge. Cut: a plane off the face, the sides as far back as the line goes, the edge by a butt or
wrapped over; the ledge at the neck, at the sides and behind is square to the surface that was left, its inner corner
rounded by a known radius.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from solids import Shape, Stump

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.scans import Scans

CORNER_MM = 1.2  # of the block, seen from above


@dataclass(frozen=True)
class Window(Stump):
    """Lengths in mm, angles in degrees."""

    beside_mm: float = 10.5

    facial_mm: float = 3.2  # half-widths of the block
    mesial_mm: float = 4.2
    top_mm: float = 10.0
    back_slope: float = 0.35  # by which the back leans forward
    depth_mm: float = 0.5  # off the face
    side_mm: float = 0.4  # off the sides
    mesial_end_mm: float = 1.0  # y at which the line runs on each side
    distal_end_mm: float = 1.0
    distal_side_mm: float | None = None
    neck_mm: float = 2.0  # level of the line at the neck
    incisal_mm: float = 1.5  # off the edge, at the middle of its facet; 0: the window ends on the face
    facet_deg: float = 90.0  # of the butt's facet to the occlusal direction, falling backward over 90
    wrap_mm: float = 0.0  # how far below the facet's end the line lies behind; 0: a butt
    back_mm: float = 0.5  # off the back, where it wraps
    below_edge_mm: float = 2.0  # of a window's line under the edge
    inner_mm: float = 0.3
    planes_deg: float = 0.0  # by which the incisal half of the face leans in
    thicker_mm: float = 0.0  # of a mock-up over the face …
    longer_mm: float = 0.0  # … and over the edge
    mocked: bool = False
    gap_mm: float = 0.6
    matrix: tuple[float, ...] = field(default=())

    def __hash__(self) -> int:
        return hash(repr(self))

    def back(self, z: Floats) -> Floats:
        """y of the back at a level."""
        return -self.facial_mm + self.back_slope * np.maximum(z - 2.0, 0)

    def block(self, p: Floats, thicker: float = 0.0, longer: float = 0.0) -> Floats:
        lean = np.hypot(1, self.back_slope)
        off = np.abs(p[:, :2]) - [self.mesial_mm - CORNER_MM, self.facial_mm - CORNER_MM]
        off[:, 1] = p[:, 1] - (self.facial_mm + thicker - CORNER_MM)
        round_face = np.hypot(*np.maximum(off, 0).T) + np.minimum(off.max(axis=1), 0) - CORNER_MM
        behind = (self.back(p[:, 2]) - p[:, 1]) / np.where(p[:, 2] > 2.0, lean, 1.0)
        return np.maximum.reduce([round_face, behind, p[:, 2] - self.top_mm - longer])

    def tooth(self, p: Floats) -> Floats:
        return self.block(p)

    def mock(self, p: Floats) -> Floats:
        return self.block(p, self.thicker_mm, self.longer_mm)

    @property
    def facet_level(self) -> float:
        return self.top_mm - self.incisal_mm

    def facet(self, p: Floats) -> Floats:
        """Positive over the butt's plane, which lies at its level in the middle of the tooth's thickness there."""
        middle = (self.facial_mm + float(self.back(np.array([self.facet_level]))[0])) / 2
        fall = np.tan(np.radians(self.facet_deg - 90))
        return (p[:, 2] - self.facet_level - (p[:, 1] - middle) * fall) / np.hypot(1, fall)

    def face(self, z: Floats) -> Floats:
        """y of the cut face."""
        half = (self.neck_mm + self.top_mm) / 2
        return self.facial_mm - self.depth_mm - np.maximum(z - half, 0) * np.tan(np.radians(self.planes_deg))

    def core(self, p: Floats) -> Floats:
        """What stands inside the window."""
        distal = self.side_mm if self.distal_side_mm is None else self.distal_side_mm
        x0, x1 = -self.mesial_mm + distal, self.mesial_mm - self.side_mm
        off = np.stack([np.abs(p[:, 0] - (x0 + x1) / 2) - (x1 - x0) / 2, p[:, 1] - self.face(p[:, 2])], axis=1) + 0.8
        value = np.hypot(*np.maximum(off, 0).T) + np.minimum(off.max(axis=1), 0) - 0.8
        if self.wrap_mm > 0:
            value = np.maximum(value, (self.back(p[:, 2]) - p[:, 1]) / np.hypot(1, self.back_slope) + self.back_mm)
        return value

    def left(self, p: Floats) -> Floats:
        """Negative where the tooth was left as it was: below the neck's line, behind the sides', and behind."""
        end = np.where(p[:, 0] > 0, self.mesial_end_mm, self.distal_end_mm)
        behind = p[:, 1] - end
        if self.wrap_mm > 0:  # a level facet
            behind = np.maximum(behind, p[:, 2] - (self.facet_level - self.wrap_mm))
        value = np.minimum(p[:, 2] - self.neck_mm, behind)
        if self.incisal_mm <= 0:
            value = np.minimum(value, self.top_mm - self.below_edge_mm - p[:, 2])
        return value

    def cut(self, p: Floats) -> Floats:
        core, left = self.core(p), self.left(p)
        k = self.inner_mm
        corner = k - np.hypot(np.maximum(k - core, 0), np.maximum(k - left, 0))
        stump = np.where((core < k) & (left < k), corner, np.minimum(core, left))
        value = np.maximum(self.tooth(p), stump)
        if self.incisal_mm > 0:
            value = np.maximum(value, self.facet(p))
        return value if self.extra is None else np.maximum(value, -self.extra(p))

    def box(self) -> tuple[Floats, Floats]:
        low, high = super().box()
        return low, high + [0, 0, self.top_mm + self.longer_mm - 7.5]

    def mockup(self) -> Surface:
        return self.scanned(lambda p: np.minimum(self.mock(p), self.surroundings(p, self.gingiva_mm)), 0.18, seed=4)

    def scans(self, reference: bool = True, clearance_mm: float | None = None, matrix: Floats | None = None) -> Scans:
        made = super().scans(reference, clearance_mm, matrix)
        return Scans(made.prep, made.preop, self.mockup(), made.opposing) if self.mocked else made

    def opposing(self, clearance_mm: float = 1.0) -> Surface:
        raise NotImplementedError("nothing bites on this block")


@dataclass(frozen=True)
class CuspWindow(Window):
    """A back tooth's: a ridge along the arch, whose inner slope falls to a groove; the cut goes level over the ridge,
    `incisal_mm` under it, and ends in a wall on that slope."""

    back_slope: float = 0.0
    facial_mm: float = 4.2
    ridge_y_mm: float = 2.2
    slope_deg: float = 35.0
    groove_y_mm: float = -0.4
    wall_y_mm: float = 1.0  # where the cut ends behind

    def __hash__(self) -> int:
        return hash(repr(self))

    def tooth(self, p: Floats) -> Floats:
        fall = np.radians(self.slope_deg)
        down = self.ridge_y_mm - np.maximum(p[:, 1], self.groove_y_mm)
        over = (p[:, 2] - self.top_mm + down * np.tan(fall)) * np.cos(fall)
        return np.maximum(self.block(p), np.where(p[:, 1] < self.ridge_y_mm, over, p[:, 2] - self.top_mm))

    def facet(self, p: Floats) -> Floats:
        return np.minimum(p[:, 2] - self.facet_level, p[:, 1] - self.wall_y_mm)

    @property
    def wrap_length_mm(self) -> float:
        """From the ridge down to where the cut ends."""
        return (self.ridge_y_mm - self.wall_y_mm) * float(np.tan(np.radians(self.slope_deg)))

    def end_depth_mm(self, in_mm: float) -> float:
        """Of the cut under the slope, so far facial of where it ends."""
        under = self.incisal_mm - (self.ridge_y_mm - self.wall_y_mm - in_mm) * np.tan(np.radians(self.slope_deg))
        return float(under * np.cos(np.radians(self.slope_deg)))


__all__ = ["CuspWindow", "Shape", "Window"]
