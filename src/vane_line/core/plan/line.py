"""The planned finish line: a chosen height over the gingiva, on the tooth's own surface; and whether it can be seen."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.margin import ROOM_BAND_MM, seam_level
from vane_line.core.measure.undercut import SECTORS, sector_of
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import degrees_apart
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.trace.section import AZIMUTHS, Axes, Profiles, profiles
from vane_line.errors import UnfitScans

SMOOTH_DEG = 7.0
LEAST_ABOVE_MM = 0.10
STRAY_MM = 0.35  # from the smooth outline: a web in a contact, not the tooth
ODD_SHARE = 0.28  # of the ellipse's size: a radius further off belongs to a web or the next tooth
SWELL_DEG = 6.0
EDGE_DEG = 4.0
LEAST_KNOWN = 0.35  # of the way round, of gingiva that must be seen
ROOM_MM = 0.5  # to the next tooth: less cannot be seen or scanned (common practice, no source)
DEEP_MM = 0.5


@dataclass(frozen=True, eq=False)
class PlannedLine:
    """Per azimuth (A,): radius and height on the tooth, height over the gingiva, and whether the gingiva was seen."""

    azimuth_deg: Floats
    radius: Floats
    height: Floats
    seen: Bools
    rings: Profiles  # of the whole scan round the tooth

    def points(self) -> Floats:
        """(A, 3)."""
        return self.rings.axes.places(self.azimuth_deg, self.radius, self.height)

    def at(self, azimuth_deg: Floats, field: Floats) -> Floats:
        """A field (A,) of the line interpolated at azimuths."""
        return np.asarray(np.interp(azimuth_deg, self.azimuth_deg, field, period=360))


@dataclass(frozen=True)
class Capture:
    """One sector where a scanner would not see the finish line as planned, and what to do."""

    sector: str
    why: str
    do: str


def plan_line(
    tooth: ReferenceTooth,
    scan: Surface,
    axes: Axes,
    above_gingiva_mm: float,
    size: tuple[float, float],
    front: bool,
) -> PlannedLine:
    """`scan`: the earlier scan round the tooth. size: mesiodistal and faciolingual width of the class at the neck.

    Raises UnfitScans where too little of the gingiva's line is seen.
    """
    azimuth, _, height = axes.cylinder(tooth.gingiva) if len(tooth.gingiva) else (np.zeros(0),) * 3
    at = np.arange(AZIMUTHS) * 360.0 / AZIMUTHS
    level = seam_level(azimuth, height, at, front)
    seen = np.isfinite(level)
    if seen.mean() < LEAST_KNOWN:
        raise UnfitScans("preop: too little of the gingiva's line is seen round the tooth to plan a finish line by.")
    level = np.interp(at, at[seen], level[seen], period=360)
    gingiva = gaussian_filter1d(level, SMOOTH_DEG * AZIMUTHS / 360, mode="wrap")
    level = gingiva + above_gingiva_mm
    read = np.maximum(level, gingiva + LEAST_ABOVE_MM)  # under the gingiva the tooth goes on as it is seen over it
    rings = profiles(scan, axes)
    own = profiles(tooth.surface, axes)
    out = np.full(AZIMUTHS, np.nan)
    for k in range(AZIMUTHS):
        source = own if np.isfinite(own.height[k]).any() and np.nanmin(own.height[k]) < read[k] else rings
        h, r = source.height[k], source.radius[k]
        down = np.flatnonzero((h[:-1] >= read[k]) & (h[1:] < read[k]))
        if len(down):
            out[k] = r[down[0]]
    known = np.isfinite(out) & seen
    if known.mean() < LEAST_KNOWN:
        raise UnfitScans("preop: the tooth is not seen at the height of the planned finish line; choose it higher.")
    smooth = _outline(at, out, known, size)
    out = np.where(known & (np.abs(out - smooth) < STRAY_MM), out, smooth)
    ease = gaussian_filter1d(out, EDGE_DEG, mode="wrap")  # no corner where the guess begins
    out = np.where(gaussian_filter1d(known.astype(float), EDGE_DEG, mode="wrap") < 0.98, ease, out)
    return PlannedLine(at, gaussian_filter1d(out, 3.0, mode="wrap"), level, seen & known, rings)


def capture_plan(line: PlannedLine, axes: Axes, neighbours: Floats, above_gingiva_mm: float) -> list[Capture]:
    """Sectors where the line would not be seen: too near the next tooth, under the gingiva, or not known."""
    out = []
    room = np.full(len(line.azimuth_deg), np.inf)
    if len(neighbours):
        azimuth, radius, height = axes.cylinder(neighbours)
        band = height > line.at(azimuth, line.height) + ROOM_BAND_MM[0] - 1.0
        for k, a in enumerate(line.azimuth_deg):
            near = band & (degrees_apart(azimuth, a) < 6)
            if near.any():
                room[k] = float(radius[near].min()) - line.radius[k]
    for sector in SECTORS:
        here = np.array([sector_of(a) == sector for a in line.azimuth_deg])
        tight = float(room[here].min())
        if tight < ROOM_MM:
            why = f"{max(tight, 0):.1f} mm to the next tooth ({ROOM_MM} needed to see the finish line)"
            do = "open the contact first, and set the finish line where the gap is wide enough"
            out.append(Capture(sector, why, do))
        elif (~line.seen)[here].mean() > 0.5:
            out.append(Capture(sector, "the earlier scan does not show the gingiva's edge here",
                               "look at it in the mouth before choosing the height"))  # fmt: skip
    if above_gingiva_mm < 0:
        deep = "a deep" if above_gingiva_mm < -DEEP_MM else "the"
        out.append(Capture("all round", f"{deep} finish line lies {-above_gingiva_mm:.1f} mm under the gingiva",
                           "displace the gingiva (cord, about 5 minutes) and keep it dry before scanning"))  # fmt: skip
    return out


def _outline(azimuth_deg: Floats, radius: Floats, known: Bools, size: tuple[float, float]) -> Floats:
    """(A,) a closed outline: an ellipse of the class, swollen to meet the known radii, passing on where none is known.

    size: mesiodistal and faciolingual width at the neck, mm. Between the teeth the scan shows a web, not the tooth.
    """
    a = np.radians(azimuth_deg)
    half = np.array(size) / 2
    ellipse = 1 / np.sqrt((np.cos(a) / half[1]) ** 2 + (np.sin(a) / half[0]) ** 2)
    ratio = radius / ellipse
    sound = known & (np.abs(ratio - np.median(ratio[known])) < ODD_SHARE * np.median(ratio[known]))
    if not sound.any():
        sound = known
    swell = np.interp(azimuth_deg, azimuth_deg[sound], ratio[sound], period=360)
    return np.asarray(ellipse * gaussian_filter1d(swell, SWELL_DEG, mode="wrap"))
