"""Form of a prepared front tooth: planes on its face, set-back behind the neighbours, the concavity behind.

Set-back is read as the hand reads it, by an edge laid on the neighbours' faces at the level of the incisal third; the
arch bends there, so the edge follows it: a parabola through both neighbours' outlines.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import degrees_apart
from vane_line.core.trace.section import STEP_MM, Axes, Profiles
from vane_line.core.vectors import xyz

PLANE_MM = 1.0  # a plane is at least this long
APART_DEG = 8.0  # and turned by this from the next, which halves the residual of one straight line
NARROWLY = 1.25  # a plane that is none where so much more is asked, or only where so much less is, is in doubt
MOST_PLANES = 3
FACE_DEG = 14.0  # of the middle of the face, over which profiles are averaged
ABOVE_LINE_MM = 0.8  # the fillet is no plane
EDGE_MM = 0.5  # the rounded incisal edge is none either
BEHIND_SHARE = 0.05  # of the incisal third that may stand further out
STATION_MM, REACH_MM = 0.5, 9.0  # of the neighbours' outlines
ROUNDED_MM = 0.8  # behind its outermost point a neighbour's outline turns into its sides
LEAST_POINTS = 20


@dataclass(frozen=True)
class Planes:
    """angles_deg: of each plane of a face's profile, from the neck; in_doubt: by how many more or fewer there may
    be."""

    angles_deg: tuple[float, ...] = ()
    in_doubt: int = 0

    @classmethod
    def of(cls, radius: Floats, height: Floats) -> Planes:
        """Of a profile (N,) in steps of STEP_MM; none where it is too short."""
        if len(radius) * STEP_MM <= 2 * PLANE_MM:
            return cls()
        found = planes_of(radius, height)
        others = [len(planes_of(radius, height, asked=asked)) for asked in (1 / NARROWLY, NARROWLY)]
        return cls(tuple(found), max(abs(count - len(found)) for count in others))


@dataclass(frozen=True)
class FrontForm:
    """planes: of the face, against the path. concavity_mm: how deep the back is hollowed under a straight edge from its
    incisal edge to its wall, None where there is none."""

    planes: Planes
    set_back_mm: float | None
    set_back_at: tuple[float, float, float] | None
    concavity_mm: float | None
    why_no_set_back: str = ""


def front_form(rings: Profiles, line: FinishLine, inside: Surface, neighbours: Floats, axes: Axes) -> FrontForm:
    """neighbours: (M, 3) points of the other teeth; inside: the eased preparation within the finish line."""
    planes = Planes.of(*_middle(rings, line, 0.0))
    amount, at, why = _set_back(line, inside, neighbours, axes)
    return FrontForm(planes, amount, at, _concavity(*_middle(rings, line, 180.0)), why)


def _middle(rings: Profiles, line: FinishLine, azimuth_deg: float) -> tuple[Floats, Floats]:
    """Radius and height of the side's mean profile from the edge down to above the line."""
    rows = np.flatnonzero(degrees_apart(line.azimuth_deg, azimuth_deg) <= FACE_DEG)
    levels = []
    floor = float(np.median(line.height[rows])) + ABOVE_LINE_MM
    top = min(float(np.nanmax(rings.height[k])) for k in rows) - EDGE_MM
    grid = np.arange(floor, top, STEP_MM)
    if len(grid) < 2:
        return np.zeros(0), np.zeros(0)
    for k in rows:
        end = int(line.index[k])
        height, radius = rings.height[k, :end], rings.radius[k, :end]
        start = int(np.nanargmax(height))
        falling = np.minimum.accumulate(height[start:])  # down the side, whatever small bumps it has
        levels.append(np.interp(grid, falling[::-1], radius[start:][::-1]))
    return np.median(levels, axis=0), grid


def planes_of(radius: Floats, height: Floats, most: int = MOST_PLANES, asked: float = 1.0) -> list[float]:
    """Angles to the path of the straight runs that the profile is made of, from below; asked: by how many times more
    two planes must be turned, and lessen the residual."""
    whole, residual = _fit(radius, height)
    least = round(PLANE_MM / STEP_MM)
    if most == 1 or len(radius) < 2 * least:
        return [whole]
    best = None
    for cut in range(least, len(radius) - least, 2):
        (a, ra), (b, rb) = _fit(radius[:cut], height[:cut]), _fit(radius[cut:], height[cut:])
        total = float(np.sqrt((ra**2 * cut + rb**2 * (len(radius) - cut)) / len(radius)))
        if best is None or total < best[0]:
            best = (total, cut, a, b)
    if best is None or best[0] > residual / (2 * asked) or abs(best[2] - best[3]) < APART_DEG * asked:
        return [whole]
    cut = best[1]
    lower = planes_of(radius[:cut], height[:cut], most - 1, asked)
    return lower + planes_of(radius[cut:], height[cut:], most - len(lower), asked)


def _fit(radius: Floats, height: Floats) -> tuple[float, float]:
    slope, at = np.polyfit(height, radius, 1)
    return float(np.degrees(np.arctan(-slope))), float(np.std(radius - slope * height - at))


def _set_back(
    line: FinishLine, inside: Surface, neighbours: Floats, axes: Axes
) -> tuple[float | None, tuple[float, float, float] | None, str]:
    azimuth, _, height = axes.cylinder(inside.vertices)
    floor = float(np.median(line.height))
    edge = float(np.quantile(height, 0.995))
    third = (height > edge - (edge - floor) / 3) & (degrees_apart(azimuth, 0.0) < 80)
    if third.sum() < LEAST_POINTS or len(neighbours) == 0:
        return None, None, "no neighbouring tooth is on the scan"
    level = np.array([height[third].min(), height[third].max()])
    off = neighbours - axes.origin
    near = (off @ axes.up > level[0]) & (off @ axes.up < level[1] + 1.0)
    across, out = off @ axes.quarter, off @ axes.zero
    outline: list[tuple[float, float]] = []
    for side in (1.0, -1.0):
        here = near & (side * across > 0) & (np.abs(across) < REACH_MM)
        if here.sum() < LEAST_POINTS:
            return None, None, "an edge to lay over it needs a neighbour on both sides"
        outline += _faces(across[here], out[here])
    course = np.poly1d(np.polyfit([x for x, _ in outline], [y for _, y in outline], 2))
    points = inside.vertices[third] - axes.origin
    x, y = points @ axes.quarter, points @ axes.zero
    behind = (course(x) - y) * np.cos(np.arctan(course.deriv()(x)))
    value = float(np.quantile(behind, BEHIND_SHARE))
    return value, xyz(inside.vertices[third][int(np.argmin(np.abs(behind - value)))]), ""


def _faces(across: Floats, out: Floats) -> list[tuple[float, float]]:
    """The neighbour's outermost points in stations along the arch, its rounded ends left out."""
    station = np.floor(across / STATION_MM).astype(int)
    rows = [(float(across[station == k].mean()), float(out[station == k].max())) for k in np.unique(station)]
    most = max(y for _, y in rows)
    return [(x, y) for x, y in rows if y > most - ROUNDED_MM]


def _concavity(radius: Floats, height: Floats) -> float | None:
    if len(radius) * STEP_MM < 2 * PLANE_MM:
        return None
    chord = np.interp(height, [height[0], height[-1]], [radius[0], radius[-1]])
    return float(max((chord - radius).max(), 0.0))
