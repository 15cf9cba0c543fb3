"""Grooves, pins and the castings they hold, on solids whose answers are known in closed form.

Coordinates as in `solids`: x mesial, y facial, z occlusal.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from solids import Shape, Stump
from windows import Window

from vane_line.core.arrays import Floats
from vane_line.core.scans import Scans

AWAY = {"mesial": (1.0, 0.0), "distal": (-1.0, 0.0), "facial": (0.0, 1.0), "lingual": (0.0, -1.0)}


@dataclass(frozen=True)
class Slot:
    """A groove of a bur that was led straight into a wall. depth_mm: under the wall's middle line, at half the length
    from `end_mm` to `top_mm`; tilts: of its axis, out of the wall and along it; taper_deg: the bur's half angle."""

    side: str = "mesial"
    depth_mm: float = 1.0
    wide_mm: float = 1.0
    end_mm: float = 2.4
    top_mm: float = 5.5
    out_deg: float = 0.0
    along_deg: float = 0.0
    taper_deg: float = 0.0
    half_mm: float = 5.0  # of the uncut tooth in its direction
    width_mm: float = 1.0
    line_mm: float = 1.6
    wall_deg: float = 6.0
    facially_mm: float = 0.0  # of a mesial or distal wall's middle

    @property
    def middle_mm(self) -> float:
        return (self.end_mm + self.top_mm) / 2

    @property
    def direction(self) -> Floats:
        """Unit, out of the tooth."""
        x, y = AWAY[self.side]
        out, along = np.tan(np.radians([self.out_deg, self.along_deg]))
        way = np.array([out * x - along * y, out * y + along * x, 1.0])
        return np.asarray(way / np.linalg.norm(way))

    @property
    def tilt_deg(self) -> float:
        """Of its axis to z."""
        return float(np.degrees(np.arccos(self.direction[2])))

    def hollow(self, p: Floats) -> Floats:
        """Negative where it takes material away."""
        x, y = AWAY[self.side]
        level = p[:, 2] - self.middle_mm
        wall = self.half_mm - self.width_mm - (self.middle_mm - self.line_mm) * np.tan(np.radians(self.wall_deg))
        out = p[:, 0] * x + p[:, 1] * y - (wall - self.depth_mm + self.wide_mm / 2)
        out = out - level * np.tan(np.radians(self.out_deg))
        aside = (p[:, 1] - self.facially_mm) * x - p[:, 0] * y - level * np.tan(np.radians(self.along_deg))
        radius = self.wide_mm / 2 + level * np.tan(np.radians(self.taper_deg))
        slot = np.where(out > 0, np.abs(aside), np.hypot(out, aside)) - radius
        return np.maximum(slot, self.end_mm - p[:, 2])


def slots(*each: Slot) -> Shape:
    """All of them as one further cut of a stump."""
    return lambda p: np.min([slot.hollow(p) for slot in each], axis=0)


@dataclass(frozen=True)
class ThreeQuarter(Stump):
    """A partial crown's preparation: the stump's, but for what stands facially of a step that leans as the walls do."""

    step_mm: float = 2.6  # y of the step's foot
    flare_deg: float = 0.0  # by which the step opens outward beside the walls
    roof: float = 0.6  # by which the top rises over what stands

    def __hash__(self) -> int:
        return hash(repr(self))

    def cut(self, p: Floats) -> Floats:
        line = float(self.line_mm)  # type: ignore[arg-type]
        taper = float(self.taper_deg)  # type: ignore[arg-type]
        foot = self.step_mm + (p[:, 2] - line) * np.tan(np.radians(taper))
        out = np.abs(p[:, 0]) - self.mesial_mm + float(self.width_mm)  # type: ignore[arg-type]
        foot = foot + np.maximum(out, 0) * np.tan(np.radians(self.flare_deg))
        standing = np.maximum(self.tooth(p), foot - p[:, 1])
        roof = p[:, 2] - (self.top_mm - self.occlusal_mm) - np.maximum(p[:, 1] - self.step_mm, 0) * self.roof
        return np.minimum(super().cut(p), np.maximum(standing, roof))


@dataclass(frozen=True)
class Rod:
    """A pin or its hole: where it stands mesially, and its tilts to mesial and to facial."""

    mesial_mm: float
    to_mesial_deg: float = 0.0
    to_facial_deg: float = 0.0

    @property
    def direction(self) -> Floats:
        way = np.array([*np.tan(np.radians([self.to_mesial_deg, self.to_facial_deg])), 1.0])
        return np.asarray(way / np.linalg.norm(way))


@dataclass(frozen=True)
class Pinned(Window):
    """A front tooth cut behind: a plane off its back, a level shelf across it, and rods in the shelf."""

    facial_mm: float = 3.4
    grid_mm: float = 0.15
    gap_mm: float = 1.5
    back_cut_mm: float = 0.6  # along y
    shelf_mm: float = 5.0
    shelf_wide_mm: float = 0.9
    half_mm: float = 3.4  # of the cut, to either side
    low_mm: float = 3.0
    rods: tuple[Rod, ...] = (Rod(2.0), Rod(-2.0))
    wide_mm: float = 0.65
    deep_mm: float = 2.2
    out_mm: float = 0.0  # guide pins stand out so far; 0: holes

    def __hash__(self) -> int:
        return hash(repr(self))

    @property
    def shelf_y(self) -> float:
        """Of the shelf's middle."""
        return float(self.back(np.array([self.shelf_mm]))[0]) + self.back_cut_mm + self.shelf_wide_mm / 2

    @property
    def thick_mm(self) -> float:
        return self.facial_mm - float(self.back(np.array([self.shelf_mm]))[0])

    @property
    def left_mm(self) -> float:
        return self.facial_mm - self.shelf_y - self.shelf_wide_mm / 2

    def cover_mm(self, rod: Rod) -> float:
        """From an upright hole to the nearest of side, face and the back below the cut."""
        low = self.shelf_mm - self.deep_mm
        at = np.array([abs(rod.mesial_mm), self.shelf_y])
        aside, ahead = self.mesial_mm - at[0], self.facial_mm - at[1]
        # The back under the cut, from its border on: a plane that leans as the back does.
        edge = np.array([float(self.back(np.array([self.low_mm]))[0]), self.low_mm])
        behind = float(np.hypot(at[1] - edge[0], max(low - self.low_mm, 0.0)))
        return min(aside, ahead, behind) - self.wide_mm / 2

    def standing(self, p: Floats, low: float, high: float) -> Floats:
        """The rods, negative inside, between two heights along them."""
        value = np.full(len(p), 9.0)
        for rod in self.rods:
            off = p - np.array([rod.mesial_mm, self.shelf_y, self.shelf_mm])
            height = off @ rod.direction
            away = np.linalg.norm(off - height[:, None] * rod.direction, axis=1)
            value = np.minimum(value, np.maximum.reduce([away - self.wide_mm / 2, low - height, height - high]))
        return value

    def cut(self, p: Floats) -> Floats:
        back = self.back(p[:, 2])
        plane = (p[:, 1] - back - self.back_cut_mm) / np.hypot(1, self.back_slope)
        shelf = np.maximum(p[:, 1] - self.shelf_y - self.shelf_wide_mm / 2, self.shelf_mm - p[:, 2])
        lean = np.maximum(p[:, 2] - self.low_mm, 0) * 0.05
        gone = np.maximum.reduce(
            [np.minimum(plane, shelf), np.abs(p[:, 0]) - self.half_mm - lean, self.low_mm - p[:, 2]]
        )
        value = np.maximum(self.tooth(p), -gone)
        if self.out_mm:
            return np.minimum(value, self.standing(p, -1.0, self.out_mm))
        return np.maximum(value, -self.standing(p, -self.deep_mm, 3.0)) if self.deep_mm else value

    def scans(self, reference: bool = True, clearance_mm: float | None = None, matrix: Floats | None = None) -> Scans:
        return super().scans(reference, None, matrix)
