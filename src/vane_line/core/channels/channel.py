"""A groove, a pin's hole, or a guide pin that stands in one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.vectors import about_axis

GROOVE, HOLE, PIN = "groove", "pin-hole", "guide-pin"


@dataclass(frozen=True, eq=False)
class LedgeRound:
    """The ledge round a pin: how wide at its narrowest, and its slope to the plane across the path; None: not told."""

    width_mm: float | None
    slope_deg: float | None


@dataclass(frozen=True, eq=False)
class Channel:
    """direction: unit (3,), out of the tooth. depth_mm: of a groove across the path at half its length, of a hole along
    its own axis from the ledge, None of a pin. cover_mm: from a hole to the nearest outer surface, at `way_out`.

    above_line_mm: of a groove, how far its end stands above the finish line. from_one_side: of a groove, whether its
    wall could be prolonged over it from one side alone. wall_deg: of its walls to its axis, by the bur's taper.
    middle: (3,) on its axis at half its length. moves_mm: of a groove, by how much its depth hangs on where that is;
    open_mm: how far below its end nothing is seen of where it would go on.
    """

    kind: str
    side: str
    direction: Floats
    to_path_deg: float
    diameter_mm: float
    depth_mm: float | None
    length_mm: float
    at: tuple[float, float, float]
    middle: Floats
    depth_is_least: bool = False
    cover_mm: float | None = None
    way_out: tuple[float, float, float] | None = None
    above_line_mm: float | None = None
    wall_deg: float = 0.0
    from_one_side: bool = False
    floor: LedgeRound | None = None
    moves_mm: float = 0.0
    open_mm: float = 0.0

    def near(self, points: Floats, beyond_mm: float) -> Bools:
        """(N,) whether points (N, 3) lie in it, or where it may go on below its end, or beside that by less."""
        away, along = about_axis(points, self.middle, self.direction)
        end = self.length_mm / 2 + beyond_mm
        return (away < self.diameter_mm / 2 + beyond_mm) & (along < end) & (along > -end - self.open_mm)


def near_any(channels: list[Channel], points: Floats, beyond_mm: float) -> Bools:
    """(N,) whether points (N, 3) lie in one of the channels, or beside it by less."""
    mask = np.zeros(len(points), dtype=bool)
    for channel in channels:
        mask |= channel.near(points, beyond_mm)
    return mask
