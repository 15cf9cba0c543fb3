"""Dents in the outline of walls: grooves, which are measured by themselves, and the walls as they are without them.

Round the axis a wall goes on over a groove as it stands to both sides of it: what walls lean, where the path runs and
where the finish line lies is told from the walls so prolonged, else a groove's end would be taken for a ledge.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy.ndimage import grey_closing, label

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.trace.section import Profiles
from vane_line.core.trace.wall import WallRuns

WIDEST_MM, WIDEST_DEG = 2.2, 45.0  # a wider dent is a box, or the tooth's own form: a thin tooth's flat sides
LEAST_DENT_MM = 0.25
LEAST_LONG_MM = 1.2  # a shorter one is a nick
LEVEL_MM = 0.1
MOST_LEAN = 0.45  # of a groove's bottom to the path: what leans more is the tooth's own
ENDS_MM, END_DEPTH_MM, DEEPENS = (
    0.3,
    0.42,
    0.07,
)  # a groove's end; what is no deeper past it and deepens upward is a facet
LIPS_MM = 0.3  # of the wall to either side that belongs to the groove's rounded lips


def dent_grid(reach: Floats) -> Floats:
    """(L, A) how far outlines `reach` (L, A), radius by level and azimuth all round, lie under themselves filled up."""
    out = np.zeros_like(reach)
    for k, row in enumerate(reach):
        known = np.isfinite(row)
        if known.sum() < len(row) / 4:
            continue
        filled = np.interp(np.arange(len(row)), np.flatnonzero(known), row[known], period=len(row))
        step = 2 * np.pi * max(float(np.median(filled)), 1.0) / len(row)
        size = min(round(WIDEST_MM / step), round(WIDEST_DEG / 360 * len(row))) | 1
        if size >= 3:
            out[k] = grey_closing(filled, size=size, mode="wrap") - filled
    return out


def dent_parts(dents: Floats) -> list[tuple[Ints, Ints]]:
    """Levels and azimuths' numbers of each dent; one across the grid's seam is one."""
    wide = dents.shape[1]
    parts, count = label(np.hstack([dents, dents[:, : wide // 4]]) > LEAST_DENT_MM)
    found: list[tuple[Ints, Ints]] = []
    for number in range(1, count + 1):
        rows, columns = np.nonzero(parts == number)
        if columns.min() > wide:
            continue  # stands whole before the seam
        if columns.min() == 0 and wide + columns.max() < parts.shape[1] and parts[rows[columns == 0], wide].any():
            continue  # the same lies whole behind the seam
        found.append((rows, columns % wide))
    return found


def without_grooves(rings: Profiles, runs: WallRuns) -> tuple[Profiles, Bools]:
    """The profiles, those through a groove laid from lip to lip, and which (A,) these are."""
    count, none = len(rings.azimuth_deg), np.zeros(len(rings.azimuth_deg), dtype=bool)
    if runs.found.sum() < count / 4:
        return rings, none
    rows = np.flatnonzero(runs.found)
    tops, feet = (rings.height[rows, at[rows]] for at in (runs.top, runs.foot))
    levels = np.arange(float(feet.min()), float(tops.max()), LEVEL_MM)
    if len(levels) < LEAST_LONG_MM / LEVEL_MM:
        return rings, none
    reach = _reach(rings, levels)
    outside = np.ones(reach.shape, dtype=bool)  # of each profile's own wall: beside it the tooth goes its own ways
    outside[:, rows] = (levels[:, None] < feet + LEVEL_MM) | (levels[:, None] > tops)
    reach[outside] = np.nan
    inside = none.copy()
    dents = dent_grid(reach)
    for level, column in dent_parts(dents):
        long = np.ptp(level) * LEVEL_MM >= LEAST_LONG_MM
        if long and _upright(reach, level, column, levels) and not _facet(dents[level, column], level):
            inside[column] = True
    if not inside.any():
        return rings, none
    step = np.radians(360 / count) * float(np.nanmedian(reach))
    for _ in range(max(round(LIPS_MM / max(step, 1e-6)), 1)):
        inside |= np.roll(inside, 1) | np.roll(inside, -1)
    return (rings, none) if inside.mean() > 0.5 else (_laid_over(rings, inside), inside)


def _reach(rings: Profiles, levels: Floats) -> Floats:
    """(L, A) radius at which each profile first comes below a level."""
    height = np.where(np.isfinite(rings.height), rings.height, np.inf)
    lowest = np.minimum.accumulate(height, axis=1)
    out = np.full((len(levels), len(height)), np.nan)
    for a, row in enumerate(lowest):
        at = np.searchsorted(-row, -levels, side="left")
        seen = (at < len(row)) & (at > 0)
        out[seen, a] = rings.radius[a, at[seen]]
    return out


def _upright(reach: Floats, level: Ints, column: Ints, levels: Floats) -> bool:
    """Whether a dent's bottom goes along the axis: an occlusal groove that runs out over the edge does not."""
    seen = np.isfinite(reach[level, column])
    level, column = level[seen], column[seen]
    numbers = np.unique(level)
    if len(numbers) == 0 or np.ptp(numbers) * LEVEL_MM < LEAST_LONG_MM:
        return False
    bottom = np.array([np.min(reach[k, column[level == k]]) for k in numbers])
    return bool(abs(np.polyfit(levels[numbers], bottom, 1)[0]) < MOST_LEAN)


def _facet(dent: Floats, level: Ints) -> bool:
    """Whether a dent's depths (D,) by level begin at nought and grow upward: the wall leans in there more than beside
    it. A groove is deep from its end on."""
    numbers = np.unique(level)
    deepest = np.array([dent[level == k].max() for k in numbers])
    at_end = deepest[min(round(ENDS_MM / LEVEL_MM), len(numbers) - 1)]
    return bool(at_end < END_DEPTH_MM and np.polyfit(numbers * LEVEL_MM, deepest, 1)[0] > DEEPENS)


def _laid_over(rings: Profiles, inside: Bools) -> Profiles:
    """The profiles of `inside` from those to either side of them, arc by arc."""
    count, known = len(inside), np.flatnonzero(~inside)
    radius, height = rings.radius.copy(), rings.height.copy()
    for row in np.flatnonzero(inside):
        at = int(np.searchsorted(known, row))
        before, after = known[at - 1], known[at % len(known)]
        share = ((row - before) % count) / ((after - before) % count)
        radius[row] = (1 - share) * rings.radius[before] + share * rings.radius[after]
        height[row] = (1 - share) * rings.height[before] + share * rings.height[after]
    return replace(rings, radius=radius, height=height)
