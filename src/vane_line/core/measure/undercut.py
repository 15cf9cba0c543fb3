"""Undercut along the path: where a point inside the finish line is hidden from above by other preparation surface.

On every half-plane the surface is followed from the axis outward and down; where it runs inside the furthest radius
reached before, it lies under an overhang, and the difference is its sideways depth. Inner corners of shoulders count.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.path import draft_deg
from vane_line.core.rings import ring_runs
from vane_line.core.spread import weighted_quantile
from vane_line.core.trace.section import STEP_MM, Profiles
from vane_line.core.vectors import unit, xyz

SMOOTH_MM = 0.15  # of arc, over which a profile is averaged: noise makes undercuts of its own
SMOOTH_DEG = 4  # and over neighbouring profiles
MOST_BACK_MM = 0.02  # given back of what averaging took: beside a jump more would overshoot
NOISE_SHARE = 1.6  # of the scan's noise that averaging leaves of a greatest depth; below it nothing is called undercut
LEAST_MM = 0.010
LEAST_AREA_MM2 = 0.08
JOIN_DEG = 12  # regions this near are one
MAX_TILT_DEG = 12.0
SECTORS = ("facial", "mesiofacial", "mesial", "mesiolingual", "lingual", "distolingual", "distal", "distofacial")


@dataclass(frozen=True)
class Region:
    """One undercut: where it is deepest, how deep, how large, and what would clear it.

    remove_mm: to be taken off at the overhang. tilt_deg: of the path, away from the overhang, that would clear it; None
    where more than MAX_TILT_DEG would be needed or another wall would then lock.
    """

    sector: str
    azimuth_deg: float
    from_deg: float
    to_deg: float
    max_depth_mm: float
    area_mm2: float
    blockout_mm3: float
    at: tuple[float, float, float]
    overhang: tuple[float, float, float]
    remove_mm: float
    tilt_deg: float | None


@dataclass(frozen=True, eq=False)
class Undercut:
    """All undercuts inside the finish line. depth: (A, M) mm on the profiles' samples, nan outside."""

    area_mm2: float
    max_depth_mm: float
    blockout_mm3: float
    regions: list[Region]
    depth: Floats

    def covers(self, azimuth_deg: Floats) -> Bools:
        """(N,) which azimuths lie in a region."""
        out = np.zeros(len(azimuth_deg), dtype=bool)
        for r in self.regions:
            out |= (azimuth_deg - r.from_deg) % 360 <= (r.to_deg - r.from_deg) % 360
        return out


def sector_of(azimuth_deg: float) -> str:
    """The eighth of the circle, ±22.5 degrees, that an azimuth lies in."""
    return SECTORS[round((azimuth_deg % 360) / 45) % 8]


def find_undercut(
    rings: Profiles, line: FinishLine, noise_um: float, wall_normals: Floats, wall_areas: Floats
) -> Undercut:
    """Undercuts along the rings' own axis. wall_normals (N, 3), wall_areas (N,): of the axial walls, for tilts."""
    n, m = rings.radius.shape
    inside = np.arange(m)[None] < line.index[:, None] - round(0.1 / STEP_MM)
    radius = np.where(inside, _averaged(_held_on(rings.radius, line.index)), np.nan)
    reached = np.fmax.accumulate(np.where(np.isfinite(radius), radius, -np.inf), axis=1)
    least = max(LEAST_MM, NOISE_SHARE * noise_um / 1000)
    depth = np.where(np.isfinite(radius), reached - radius, np.nan)
    deep = np.nan_to_num(depth) > least
    if not deep.any():
        return Undercut(0.0, 0.0, 0.0, [], depth)
    wedge = np.radians(360 / n)
    drop = np.abs(np.diff(rings.height, axis=1, append=rings.height[:, -1:]))
    area = np.where(deep, STEP_MM * np.nan_to_num(rings.radius) * wedge, 0.0)
    volume = np.where(deep, np.nan_to_num(depth) * np.nan_to_num(drop) * np.nan_to_num(rings.radius) * wedge, 0.0)
    regions = []
    for columns in ring_runs(np.asarray(deep.any(axis=1)), round(JOIN_DEG * n / 360)):
        size = float(area[columns].sum())
        if size < LEAST_AREA_MM2:
            continue
        regions.append(_region(rings, depth, columns, size, float(volume[columns].sum()), wall_normals, wall_areas))
    regions.sort(key=lambda r: -r.max_depth_mm)
    return Undercut(
        sum(r.area_mm2 for r in regions), max((r.max_depth_mm for r in regions), default=0.0),
        sum(r.blockout_mm3 for r in regions), regions, depth,
    )  # fmt: skip


def _held_on(radius: Floats, end: Ints) -> Floats:
    """The profiles as far as the line, arc index `end` (A,), and their last radius from there on.

    Beyond, some neighbours go in under the line, or have ended: the average of walls that all go outward would go in.
    """
    n, m = radius.shape
    told = np.isfinite(radius) & (np.arange(m)[None] <= end[:, None])
    last = np.maximum.accumulate(np.where(told, np.arange(m)[None], -1), axis=1)
    return np.where(last >= 0, radius[np.arange(n)[:, None], np.maximum(last, 0)], np.nan)


def _averaged(radius: Floats) -> Floats:
    """Radii averaged along each profile, at equal arc, and over its neighbours; nan stays nan."""
    half, side = round(SMOOTH_MM / STEP_MM / 2), SMOOTH_DEG
    known = np.isfinite(radius).astype(float)
    value = np.where(known > 0, radius, 0.0)

    def summed(field: Floats) -> Floats:
        wide = np.pad(field, ((0, 0), (half + 1, half)))
        along = np.cumsum(wide, axis=1)
        along = along[:, 2 * half + 1 :] - along[:, : -2 * half - 1]
        return np.asarray(sum(np.roll(along, k, axis=0) for k in range(-side, side + 1)))

    weight = np.maximum(summed(known), 1)
    once = summed(value) / weight
    # What averaging took off overhang and bottom is averaged too and given back: else the depth between reads low.
    left = summed(np.where(known > 0, radius - once, 0.0)) / weight
    return np.where(known > 0, once + np.clip(left, -MOST_BACK_MM, MOST_BACK_MM), np.nan)


def _region(
    rings: Profiles, depth: Floats, columns: Ints, area: float, volume: float, normals: Floats, areas: Floats
) -> Region:
    part = np.nan_to_num(depth[columns])
    k, i = np.unravel_index(int(part.argmax()), part.shape)
    row, sample, deepest = int(columns[k]), int(i), float(part.max())
    over = int(np.nanargmax(np.where(np.arange(part.shape[1]) <= sample, rings.radius[row], np.nan)))
    azimuth = float(rings.azimuth_deg[row])
    places = rings.axes.places(
        rings.azimuth_deg[[row, row]], rings.radius[row, [sample, over]], rings.height[row, [sample, over]]
    )
    low, high = places
    return Region(
        sector=sector_of(azimuth),
        azimuth_deg=azimuth,
        from_deg=float(rings.azimuth_deg[columns[0]]),
        to_deg=float(rings.azimuth_deg[columns[-1]]),
        max_depth_mm=deepest,
        area_mm2=area,
        blockout_mm3=volume,
        at=xyz(low),
        overhang=xyz(high),
        remove_mm=deepest,
        tilt_deg=_clearing_tilt(rings, row, sample, over, normals, areas),
    )


def _clearing_tilt(rings: Profiles, row: int, low: int, high: int, normals: Floats, areas: Floats) -> float | None:
    """Degrees by which the path must lean outward over the undercut so that its bottom is seen past the overhang."""
    away = rings.radius[row, high] - rings.radius[row, low:high:-1][0] if high < low else 0.0
    rise = rings.height[row, high] - rings.height[row, low]
    if rise <= 0:
        return None
    tilt = float(np.degrees(np.arctan2(away, rise)))
    if tilt > MAX_TILT_DEG:
        return None
    outward = rings.axes.outward(rings.azimuth_deg[row])
    direction = unit(rings.axes.up + np.tan(np.radians(tilt)) * outward)
    opposite = normals @ outward < -0.3
    if opposite.any():
        draft = weighted_quantile(draft_deg(normals[opposite], direction), areas[opposite], 0.05)
        if draft < 0:
            return None
    return tilt
