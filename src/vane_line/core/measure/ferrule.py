"""Ferrule: the dentine that stands between the finish line and a core, by sector.

A core is not tooth. Its border is drawn by hand, or read from the scan's colours where core and dentine differ in them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.convergence import outline_cosine
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.undercut import SECTORS
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import degrees_apart
from vane_line.core.trace.section import Axes, Profiles
from vane_line.core.trace.wall import WallRuns
from vane_line.core.vectors import xyz

HALF_SECTOR_DEG = 22.5
ON_TOP_MM = 0.25  # a border this near the wall's upper end lies on top: the whole wall is dentine
LOW_SHARE = 0.1  # of a sector that may stand lower
COLOUR_ROUNDS = 12
COLOUR_APART = 4.0  # spreads between the two colours that make them two materials
COLOUR_SHARE = 0.06  # of the preparation that either must cover
BORDER_BIN_DEG = 6.0


@dataclass(frozen=True)
class SectorFerrule:
    """Dentine of one sector: height_mm, thickness_mm (None where the core covers what would show it)."""

    sector: str
    height_mm: float
    thickness_mm: float | None
    at: tuple[float, float, float]


def ferrule(rings: Profiles, walls: WallRuns, line: FinishLine, border: Floats) -> list[SectorFerrule]:
    """border: (N, 3) the core's closed border in order. Height: along the path from the finish line to the border, or
    to the wall's upper end where the border lies on top; thickness: across, from the wall to a border on top."""
    azimuth, radius, height = rings.axes.cylinder(border)
    at = line.azimuth_deg
    border_r, border_h = (np.interp(at, azimuth, v, period=360) for v in (radius, height))
    rows = np.arange(len(at))
    top = np.maximum(walls.top, 0)
    top_h = np.where(walls.found, rings.height[rows, top], np.nan)
    top_r = np.where(walls.found, rings.radius[rows, top], np.nan)
    on_top = (border_h > top_h - ON_TOP_MM) | (border_r < top_r - ON_TOP_MM)
    dentine = np.where(on_top, top_h, border_h) - line.height
    thick = np.where(on_top, (top_r - border_r) * outline_cosine(line.radius), np.nan)
    out = []
    for k, sector in enumerate(SECTORS):
        here = (degrees_apart(at, 45.0 * k) <= HALF_SECTOR_DEG) & np.isfinite(dentine)
        if here.sum() < len(at) / 24:
            continue
        low = float(np.quantile(dentine[here], LOW_SHARE))
        seen = here & np.isfinite(thick)
        thin = float(np.quantile(thick[seen], LOW_SHARE)) if seen.sum() > here.sum() / 2 else None
        worst = int(np.flatnonzero(here)[np.argmin(np.abs(dentine[here] - low))])
        out.append(SectorFerrule(sector, max(low, 0.0), thin, xyz(line.points[worst])))
    return out


def core_from_colour(inside: Surface, axes: Axes) -> Floats | None:
    """(N, 3) border of a core told by colour, rising in azimuth; None where one colour covers the preparation.

    Two colours are looked for by k-means; the core is the one that holds the top round the axis.
    """
    if inside.colours is None:
        return None
    colour = inside.spread(inside.colours.astype(np.float64), 2)
    _, radius, height = axes.cylinder(inside.vertices)
    middle = radius < np.quantile(radius, 0.25)
    core, tooth = colour[middle].mean(axis=0), colour[height < np.quantile(height, 0.25)].mean(axis=0)
    mine: Bools = np.zeros(len(colour), dtype=bool)
    for _ in range(COLOUR_ROUNDS):
        mine = np.linalg.norm(colour - core, axis=1) < np.linalg.norm(colour - tooth, axis=1)
        if not COLOUR_SHARE < mine.mean() < 1 - COLOUR_SHARE:
            return None
        core, tooth = colour[mine].mean(axis=0), colour[~mine].mean(axis=0)
    apart = np.linalg.norm(core - tooth)
    spread = np.sqrt((np.linalg.norm(np.where(mine[:, None], colour - core, colour - tooth), axis=1) ** 2).mean())
    if apart < COLOUR_APART * max(float(spread), 1.0) or mine[middle].mean() < 0.5:
        return None
    azimuth, radius, height = axes.cylinder(inside.seam(mine, ~mine))
    bins = np.arange(0, 360, BORDER_BIN_DEG)
    rows = [degrees_apart(azimuth, a) <= BORDER_BIN_DEG / 2 for a in bins]
    if any(r.sum() == 0 for r in rows):  # not round the whole tooth: a filling, not a core
        return None
    r = np.array([np.median(radius[m]) for m in rows])
    h = np.array([np.median(height[m]) for m in rows])
    return axes.places(bins, r, h)
