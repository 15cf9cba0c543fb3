"""A block of a tooth with a cavity whose every dimension is known in closed form.

Coordinates as in `solids`: x mesial, y facial, z occlusal. The tooth is an upright block with rounded corners under a
roof of four cones, its cusps; the cavity is a trough along x with a box through the mesial side, walls plane and
leaning outward, corners between walls and floors rounded by a known radius.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from solids import Shape, Stump

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.scans import Scans

CUSPS = {
    "mesiofacial": (2.4, 2.8),
    "distofacial": (-2.4, 2.8),
    "mesiolingual": (2.4, -2.8),
    "distolingual": (-2.4, -2.8),
}
CORNER_MM, BLUNT_MM = 1.5, 0.4  # of the block's corners and of the cusps' tips


@dataclass(frozen=True)
class Cavity(Stump):
    """Lengths in mm at the floors' levels, angles in degrees, walls by side."""

    roof_slope: float = 0.5
    floor_mm: float = 3.4  # level of the pulpal floor
    facial_wall_mm: float = 1.1  # from the middle to the foot of each wall
    lingual_wall_mm: float = 1.1
    distal_wall_mm: float = 3.0
    divergence_deg: dict[str, float] = field(default_factory=dict, hash=False)
    usual_deg: float = 6.0
    inner_mm: float = 0.4  # radius between walls and floors
    box_depth_mm: float = 1.3  # 0: no box
    box_half_mm: float = 1.6
    box_below_mm: float = 1.2
    box_slope_deg: float = 0.0
    also_distal: bool = False  # a second box like the first through the distal side
    trough: bool = True
    covered: tuple[str, ...] = ()
    cover_mm: float = 1.5  # along z, off the covered cusps
    facial_mm: float = 5.0

    def __hash__(self) -> int:
        return hash(repr(self))

    def roof(self, x: Floats, y: Floats) -> Floats:
        near = np.min([np.hypot(x - cx, y - cy) for cx, cy in CUSPS.values()], axis=0)
        return self.top_mm - self.roof_slope * (np.hypot(near, BLUNT_MM) - BLUNT_MM)

    def block(self, p: Floats) -> Floats:
        """Distance to the upright sides."""
        off = np.abs(p[:, :2]) - [self.mesial_mm - CORNER_MM, self.facial_mm - CORNER_MM]
        return np.hypot(*np.maximum(off, 0).T) + np.minimum(off.max(axis=1), 0) - CORNER_MM

    def tooth(self, p: Floats) -> Floats:
        lean = np.hypot(1, self.roof_slope)
        return np.maximum(self.block(p), (p[:, 2] - self.roof(p[:, 0], p[:, 1])) / lean)

    def lean(self, name: str) -> float:
        return float(np.tan(np.radians(self.divergence_deg.get(name, self.usual_deg))))

    def _trough(self, p: Floats) -> Floats:
        up = p[:, 2] - self.floor_mm
        sides = [
            (p[:, 1] - self.facial_wall_mm - up * self.lean("facial")) / np.hypot(1, self.lean("facial")),
            (-p[:, 1] - self.lingual_wall_mm - up * self.lean("lingual")) / np.hypot(1, self.lean("lingual")),
            (-p[:, 0] - self.distal_wall_mm - up * self.lean("distal")) / np.hypot(1, self.lean("distal")),
        ]
        if self.box_depth_mm <= 0:
            sides.append((p[:, 0] - self.distal_wall_mm - up * self.lean("mesial")) / np.hypot(1, self.lean("mesial")))
        return self._open(np.max(sides, axis=0), -up)

    def _box(self, p: Floats) -> Floats:
        low = self.floor_mm - self.box_below_mm
        up = p[:, 2] - low
        foot = self.mesial_mm - self.box_depth_mm
        walls = np.max([
            (np.abs(p[:, 1]) - self.box_half_mm - up * self.lean("box")) / np.hypot(1, self.lean("box")),
            (foot - p[:, 0] - up * self.lean("axial")) / np.hypot(1, self.lean("axial")),
        ], axis=0)  # fmt: skip
        slope = np.tan(np.radians(self.box_slope_deg))
        floor = -(up + (p[:, 0] - (self.mesial_mm - self.box_depth_mm / 2)) * slope) / np.hypot(1, slope)
        return self._open(walls, floor)

    def _open(self, walls: Floats, floor: Floats) -> Floats:
        """Negative in the hollow, the corner between walls and floor rounded."""
        k = self.inner_mm
        rounded = np.hypot(np.maximum(walls + k, 0), np.maximum(floor + k, 0)) - k
        return np.where((walls > -k) & (floor > -k), rounded, np.maximum(walls, floor))

    def hollow(self, p: Floats) -> Floats:
        """Negative where material is taken away."""
        value = self._trough(p) if self.trough else np.full(len(p), 9.0)
        if self.trough and self.box_depth_mm > 0:
            value = np.minimum(value, self._box(p))
        if self.trough and self.also_distal:
            value = np.minimum(value, self._box(p * [-1.0, 1, 1]))
        for name in self.covered:
            cx, cy = CUSPS[name]
            mine = np.maximum(-np.sign(cx) * p[:, 0], -np.sign(cy) * p[:, 1])
            mine = mine - (p[:, 2] - self.floor_mm) * self.lean("cover")  # its sides lean as walls do
            over = self.roof(p[:, 0], p[:, 1]) - self.cover_mm - p[:, 2]
            value = np.minimum(value, np.maximum(mine, over / np.hypot(1, self.roof_slope)))
        return value

    def cut(self, p: Floats) -> Floats:
        value = np.maximum(self.tooth(p), -self.hollow(p))
        return value if self.extra is None else np.maximum(value, -self.extra(p))

    def wall_at(self, side: str, level: Floats) -> Floats:
        """How far from the middle a wall of the trough stands at a level."""
        foot = {"facial": self.facial_wall_mm, "lingual": self.lingual_wall_mm, "distal": self.distal_wall_mm}[side]
        return foot + (level - self.floor_mm) * self.lean(side)

    def outline(self, side: str, x: Floats) -> tuple[Floats, Floats]:
        """y and z where the facial or lingual wall meets the roof at `x`, by bisection."""
        sign = 1.0 if side == "facial" else -1.0
        low, high = np.full(len(x), self.floor_mm), np.full(len(x), self.top_mm)
        for _ in range(50):
            mid = (low + high) / 2
            below = mid < self.roof(x, sign * self.wall_at(side, mid))
            low, high = np.where(below, mid, low), np.where(below, high, mid)
        return sign * self.wall_at(side, low), low

    def isthmus_mm(self) -> float:
        """Shortest distance between the facial and the lingual outline, boxes left out."""
        reach = self.mesial_mm - self.box_depth_mm if self.box_depth_mm > 0 else self.distal_wall_mm
        x = np.linspace(-self.distal_wall_mm, reach - 0.5, 400)
        ends = [np.stack([x, *self.outline(side, x)], axis=1) for side in ("facial", "lingual")]
        return float(np.min(np.linalg.norm(ends[0][:, None] - ends[1][None], axis=2)))

    def scans(self, reference: bool = True, clearance_mm: float | None = None, matrix: Floats | None = None) -> Scans:
        return super().scans(reference, clearance_mm, matrix)

    def opposing(self, clearance_mm: float = 1.0) -> Surface:
        raise NotImplementedError("a plate over cusps of this roof serves nothing yet")


__all__ = ["CUSPS", "Cavity", "Shape"]
