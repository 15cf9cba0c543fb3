"""Retention and resistance by geometry, and what remains of the tooth.

M. H. Parker et al., limiting taper, J Prosthet Dent 1988;59:281-288: a crown that tips about the far edge of the finish
line is held by a wall whose taper stays under ½·arcsin(2·height/base). Geometry only: it passes very tapered short
preparations, so it is never judged alone.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.measure.convergence import Walls
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.rings import degrees_apart
from vane_line.core.spread import middling

UNLIMITED_DEG = 45.0  # walls higher than half the base hold at any taper that is a wall's
SIDES = {"facial": 0.0, "mesial": 90.0, "lingual": 180.0, "distal": 270.0}
OPPOSITE = {"facial": "lingual", "lingual": "facial", "mesial": "distal", "distal": "mesial"}
SIDE_HALF_DEG = 45.0  # a side reaches so far to either side of its middle
MIDDLE_HALF_DEG = 30  # its middle part, which stands for it


@dataclass(frozen=True, eq=False)
class Retention:
    """height_mm: the walls' mean height on the four sides. Bases: across the finish line, outer edge to outer edge.

    limiting_deg, taper_deg: (A,) per azimuth. resists: the share of directions in which the wall's taper stays below
    its limit. remaining_mm: least width of the preparation at the level of the finish line and halfway up, with the
    azimuth; neck_mm: the tooth's own width at the finish line in that direction.
    """

    height_mm: float
    base_faciolingual_mm: float
    base_mesiodistal_mm: float
    limiting_deg: Floats
    taper_deg: Floats
    resisting_share: float
    remaining_mm: float
    halfway_mm: float
    remaining_azimuth_deg: float
    neck_mm: float

    @property
    def resists(self) -> bool:
        """Whether every side's taper stays below its limit."""
        return all(taper <= limit for taper, limit in self.by_side().values())

    @property
    def least_limit_deg(self) -> float:
        """The smallest of the sides' limiting tapers."""
        return min(limit for _, limit in self.by_side().values())

    def by_side(self) -> dict[str, tuple[float, float]]:
        """Taper and limiting taper of each side, each what most of its middle part agrees on."""
        azimuth = np.arange(len(self.taper_deg)) * 360 / len(self.taper_deg)
        out = {}
        for side, middle in SIDES.items():
            near = degrees_apart(azimuth, middle) <= MIDDLE_HALF_DEG
            near &= np.isfinite(self.taper_deg) & np.isfinite(self.limiting_deg)
            if near.any():
                out[side] = (middling(self.taper_deg[near]), middling(self.limiting_deg[near]))
        return out


def limiting_taper_deg(height: Floats, base: Floats) -> Floats:
    """½·arcsin(2·height/base) in degrees, UNLIMITED_DEG from height/base of a half on."""
    ratio = np.clip(2 * np.asarray(height, dtype=float) / np.asarray(base, dtype=float), 0, 1)
    return np.asarray(np.degrees(np.arcsin(ratio)) / 2)


def retention(line: FinishLine, walls: Walls) -> Retention:
    """Heights, bases, limiting tapers and remaining widths from the walls' fits."""
    n = len(line.azimuth_deg)
    half = n // 2
    foot = walls.radius_at(line.height)  # the wall prolonged down to the finish line's level
    base = np.roll(line.radius, -half) + foot
    limit = limiting_taper_deg(np.maximum(walls.height_mm, 0), base)
    held = walls.taper_deg <= limit
    known = np.isfinite(walls.taper_deg) & np.isfinite(limit)
    at_line = _least_width(foot)
    middle = (line.height + walls.top) / 2
    halfway = _least_width(walls.radius_at(middle))
    outer = line.radius + np.roll(line.radius, -half)
    heights = [walls.height_at(a) for a in SIDES.values()]
    return Retention(
        height_mm=float(np.nanmean(heights)) if np.isfinite(heights).any() else float("nan"),
        base_faciolingual_mm=float(outer[0]),
        base_mesiodistal_mm=float(outer[round(n / 4)]),
        limiting_deg=limit,
        taper_deg=walls.taper_deg,
        resisting_share=float(held[known].mean()) if known.any() else float("nan"),
        remaining_mm=at_line[0],
        halfway_mm=halfway[0],
        remaining_azimuth_deg=float(line.azimuth_deg[at_line[1]]),
        neck_mm=float(outer[at_line[1]]),
    )


def _least_width(radius: Floats) -> tuple[float, int]:
    """Least distance between parallel tangents (caliper width) of the outline, and the azimuth's index."""
    n = len(radius)
    known = np.isfinite(radius)
    if known.sum() < n // 2:
        return float("nan"), 0
    filled = np.interp(np.arange(n), np.flatnonzero(known), radius[known], period=n)
    a = np.arange(n) * 2 * np.pi / n
    points = np.stack([filled * np.cos(a), filled * np.sin(a)])
    directions = np.stack([np.cos(a[: n // 2]), np.sin(a[: n // 2])], axis=1)
    along = directions @ points
    width = along.max(axis=1) - along.min(axis=1)
    best = int(np.argmin(width))
    return float(width[best]), best


def wall_overcut_mm(
    line: FinishLine, walls: Walls, side: str, target_width_mm: float, target_taper_deg: float
) -> float | None:
    """How far the wall of a side lies inside the ideal one, at the middle of its height (median); None if unknown.

    The ideal wall is the finish line offset inward across the path by the target width, leaning in by half the target
    convergence.
    """
    off = degrees_apart(line.azimuth_deg, SIDES[side])
    here = (off <= MIDDLE_HALF_DEG) & walls.found
    if here.sum() < 10:
        return None
    middle = (line.height + walls.top) / 2
    ideal = line.radius - (
        target_width_mm + (middle - line.height) * np.tan(np.radians(target_taper_deg))
    ) / np.maximum(walls.cosine, 0.5)
    inside = (ideal - walls.radius_at(middle)) * walls.cosine
    return float(np.nanmedian(inside[here]))
