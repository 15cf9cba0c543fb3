"""What lies round the finish line: how high it stands above the gingiva, and how near the next tooth is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.rings import degrees_apart, running_median
from vane_line.core.spread import weighted_quantile
from vane_line.core.trace.section import Axes

SEAM_DEG = 9.0  # seam points within this of an azimuth speak for it, the nearer the more
SEAM_LEAST = 3
SEAM_BLUR = 0.15  # share of their say to either side of the middle
EASE_DEG = 7  # to either side: half a millimetre of the line
PAPILLA_MM = {True: 2.3, False: 1.8}  # of front and back teeth, over the middle level: higher is a web over a contact
SEAM_AWAY_MM = 2.5  # the gingiva's line lies no further from the finish line across the path
ROOM_BAND_MM = (1.2, 2.0)  # above the line: lower, papillae hide the neighbour


@dataclass(frozen=True, eq=False)
class Margin:
    """Per azimuth (A,), nan where not known.

    above_gingiva_mm: height of the line along the path above the gingiva (below: negative). room_mm: across the path
    to the nearest neighbouring tooth just above the line. source: `drawn`, `earlier scan` or None for the gingiva.
    """

    above_gingiva_mm: Floats
    room_mm: Floats
    source: str | None


def margin(
    line: FinishLine, axes: Axes, drawn: Floats | None, seam: Floats | None, neighbours: Floats, front: bool = False
) -> Margin:
    """drawn: (N, 3) the gingiva's line by hand. seam: (G, 3) points where the earlier tooth met the gingiva.
    neighbours: (M, 3) what is seen of the other teeth, down to the gingiva."""
    above, source = np.full(len(line.azimuth_deg), np.nan), None
    if drawn is not None:
        azimuth, _, height = axes.cylinder(drawn)
        above, source = line.height - np.interp(line.azimuth_deg, azimuth, height, period=360), "drawn"
    elif seam is not None and len(seam):
        above, source = line.height - _seam_height(line, axes, seam, front), "earlier scan"
    above = np.where(np.isfinite(above), running_median(above, EASE_DEG), np.nan)
    return Margin(above, _room(line, axes, neighbours), source)


def _seam_height(line: FinishLine, axes: Axes, seam: Floats, front: bool) -> Floats:
    azimuth, radius, height = axes.cylinder(seam)
    near = np.abs(radius - line.at(azimuth, line.radius)) < SEAM_AWAY_MM
    return seam_level(azimuth[near], height[near], line.azimuth_deg, front)


def seam_level(azimuth: Floats, height: Floats, at: Floats, front: bool) -> Floats:
    """(A,) the gingiva's level at the azimuths `at` (A,), from seam points' azimuths and heights; NaN where unseen."""
    out = np.full(len(at), np.nan)
    for k, a in enumerate(at):
        say = 1 - degrees_apart(azimuth, a) / SEAM_DEG
        here = say > 0
        if here.sum() >= SEAM_LEAST:
            out[k] = weighted_quantile(height[here], say[here], 0.5, SEAM_BLUR)
    return without_webs(out, front)


def without_webs(level: Floats, front: bool) -> Floats:
    """(A,) the gingiva's level without what rises further than a papilla: a scanner spans webs over contacts."""
    if not np.isfinite(level).any():
        return level
    return np.where(level > np.nanmedian(level) + PAPILLA_MM[front], np.nan, level)


def _room(line: FinishLine, axes: Axes, neighbours: Floats) -> Floats:
    room = np.full(len(line.azimuth_deg), np.nan)
    if len(neighbours) == 0:
        return room
    azimuth, _, height = axes.cylinder(neighbours)
    above = height - line.at(azimuth, line.height)
    band = neighbours[(above >= ROOM_BAND_MM[0]) & (above <= ROOM_BAND_MM[1])]
    if len(band) == 0:
        return room
    across = np.stack([axes.zero, axes.quarter], axis=1)
    distance, _ = cKDTree((band - axes.origin) @ across).query((line.points - axes.origin) @ across)
    return np.asarray(distance, dtype=np.float64)
