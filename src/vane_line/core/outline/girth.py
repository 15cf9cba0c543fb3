"""The whole tooth round a cut that does not go round it: told on the earlier scans, and the line of its girth."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import grey_closing

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.placed import TAUBIN_STEPS, Placed
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.tooth.reference import ReferenceTooth, segment
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import lengths

UNDER_SHARE = 0.25  # of the largest part that lies under the earlier scan: less is none
SPARE_MM, OUTSIDE_MM = 2.2, 0.5  # of the line round it: what is looked for from far; and what is another's for certain
GIRTH_EVERY_DEG = 1.0
LEAST_GIRTH = 0.9
NOTCH_DEG = 9  # narrower than this
GIRTH_BELOW_SHARE = 0.80  # of the crown's height under its top, about where it meets the gingiva
TOUCH_SHARE, BETWEEN = 0.65, 0.7  # teeth touch higher than that, in directions that look so much along the arch


def teeth_round(
    placed: Placed, options: Options, under_mm: float, middle: Floats | None = None
) -> tuple[dict[str, ReferenceTooth], FinishLine, Axes]:
    """The tooth on each trusted earlier scan, the line round it, and occlusal axes about its middle.

    The middle of the cut is not the tooth's: first the tooth is told from far, then about its own middle again.
    under_mm: so far under the earlier scan, surface was cut for certain. middle: about where the tooth's is, (3,).
    """
    size, frame = size_of(options.tooth), placed.frame
    middle = placed.centre if middle is None else middle
    axes = Axes.make(middle, frame.occlusal, frame.facial, frame.mesial)
    girth = _ellipse(axes, size, _top(placed, middle, size[0]))
    mine = placed.nearer(placed.crop.vertices)
    under = {
        role: under_earlier(placed.crop, surface, placed.centre, under_mm) & mine
        for role, surface in placed.moved.items()
        if placed.alignment[role].trusted
    }
    teeth: dict[str, ReferenceTooth] = {}
    for spare, outside in ((SPARE_MM, np.inf), (0.0, OUTSIDE_MM)):
        found = {}
        # A contact may have hidden a part of the tooth: no other tooth is looked for nearer than such teeth are wide.
        ring = _not_under(girth, axes, size)
        for role, inside in under.items():
            tooth = segment(placed.moved[role], placed.crop, inside, ring, axes, size[0], spare_mm=spare,
                            removed_mm=under_mm, outside_mm=outside)  # fmt: skip
            if tooth is not None:
                found[role] = tooth
        teeth = found or teeth
        shape = teeth.get("preop") or teeth.get("mockup")
        if shape is None:
            break
        axes, girth = _round(shape.surface, axes, size)
    # What stands out further than where it touches its neighbours is not its own, wherever the valley was lost.
    own = {role: tooth.kept(girth_of(tooth.surface, axes, size).holds(tooth.surface, axes))
           for role, tooth in teeth.items()}  # fmt: skip
    return {role: tooth.eased(TAUBIN_STEPS) for role, tooth in own.items()}, girth, axes


def under_earlier(crop: Surface, earlier: Surface, middle: Floats, under_mm: float) -> Bools:
    """(V,) of the crop: what lies under the earlier scan for certain, about the `middle` (3,) of what was cut.

    Gingiva pressed aside between two scans may be as much as a small cavity.
    """
    depth, face, place = earlier.signed_distance(crop.vertices)
    under = (-depth > under_mm) & ~earlier.at_rim(face, place)
    if not under.any():
        return under
    label = crop.parts(under)
    area = np.bincount(label[under], weights=crop.vertex_areas[under])
    told = np.flatnonzero(under)[area[label[under]] > UNDER_SHARE * area.max()]
    mine = label[told[np.argmin(lengths(crop.vertices[told] - middle))]]
    return np.asarray(under & (label == mine))


def _top(placed: Placed, centre: Floats, crown_mm: float) -> float:
    """Height of the tooth's top over `centre`, along the occlusal direction."""
    surface = placed.base or placed.scans.prep
    off = surface.vertices - centre
    height = off @ placed.frame.occlusal
    near = lengths(off - height[:, None] * placed.frame.occlusal) < crown_mm / 2
    return float(np.quantile(height[near], 0.98)) if near.any() else 0.0


def _ellipse(axes: Axes, size: tuple[float, ...], top: float) -> FinishLine:
    """A ring of the published size of such a tooth, about where it meets the gingiva."""
    azimuth = np.arange(0, 360, GIRTH_EVERY_DEG)
    a = np.radians(azimuth)
    radius = 1 / np.sqrt((np.cos(a) / (size[3] / 2)) ** 2 + (np.sin(a) / (size[1] / 2)) ** 2)
    return _ring(axes, azimuth, radius, np.full(len(azimuth), top - GIRTH_BELOW_SHARE * size[0]))


def _round(tooth: Surface, axes: Axes, size: tuple[float, ...]) -> tuple[Axes, FinishLine]:
    """Axes about the middle of a tooth's surface, and the line of its greatest girth."""
    off = tooth.vertices - axes.origin
    x, y = off @ axes.zero, (off @ axes.quarter)[_touching(off @ axes.up, size)]
    middle = [(np.quantile(v, 0.004) + np.quantile(v, 0.996)) / 2 for v in (x, y)]
    origin = axes.origin + middle[0] * axes.zero + middle[1] * axes.quarter
    axes = Axes(origin, axes.up, axes.zero, axes.quarter)
    return axes, girth_of(tooth, axes, size)


def girth_of(tooth: Surface, axes: Axes, size: tuple[float, ...]) -> FinishLine:
    """How far a tooth's surface reaches about its axes, at the level where it meets the gingiva."""
    azimuth, radius, height = axes.cylinder(tooth.vertices)
    rows = np.arange(0, 360, GIRTH_EVERY_DEG)
    told = _touching(height, size) | (np.abs(np.sin(np.radians(azimuth))) < BETWEEN)
    cell = np.round(azimuth[told] / GIRTH_EVERY_DEG).astype(int) % len(rows)
    reach = np.zeros(len(rows))
    np.maximum.at(reach, cell, radius[told])
    known = reach > 1.0
    reach = np.interp(rows, rows[known], reach[known], period=360) if known.any() else np.full(len(rows), size[1] / 2)
    # A degree in which only places further in happen to lie is no notch in the tooth.
    reach = grey_closing(reach, size=NOTCH_DEG, mode="wrap")
    level = float(np.quantile(height, 0.98)) - GIRTH_BELOW_SHARE * size[0]
    return _ring(axes, rows, reach, np.full(len(rows), level))


def beside(surface: Surface, girth: FinishLine, axes: Axes) -> Bools:
    """(V,) what of a surface stands between this tooth and the next, beyond its girth: papilla, or the next tooth."""
    azimuth, _, _ = axes.cylinder(surface.vertices)
    return np.asarray(~girth.holds(surface, axes) & (np.abs(np.sin(np.radians(azimuth))) > BETWEEN))


def _touching(height: Floats, size: tuple[float, ...]) -> Bools:
    """(N,) what of a tooth stands as high as teeth touch: beside it lower down the papilla may pass for tooth."""
    return np.asarray(height > np.quantile(height, 0.98) - TOUCH_SHARE * size[0])


def _not_under(girth: FinishLine, axes: Axes, size: tuple[float, ...]) -> Floats:
    """(A, 3) the girth, nowhere nearer to the axis than LEAST_GIRTH of the published size of such a tooth."""
    radius = np.maximum(girth.radius, LEAST_GIRTH * _ellipse(axes, size, 0.0).radius)
    return axes.places(girth.azimuth_deg, radius, girth.height)


def _ring(axes: Axes, azimuth: Floats, radius: Floats, height: Floats) -> FinishLine:
    count = len(azimuth)
    return FinishLine(
        points=axes.places(azimuth, radius, height), azimuth_deg=azimuth, radius=radius, height=height,
        turn_deg=np.zeros(count), clear=np.ones(count, dtype=bool), index=np.zeros(count, dtype=np.int64), gap_deg=0.0,
        drawn=np.zeros(count, dtype=bool), band_mm=np.full(count, np.nan),
    )  # fmt: skip


def turned(girth: FinishLine, axes: Axes) -> FinishLine:
    """The same line told about axes along the path."""
    azimuth, radius, height = axes.cylinder(girth.points)
    order = np.argsort(azimuth)
    rows = np.arange(0, 360, GIRTH_EVERY_DEG)
    at = [np.interp(rows, azimuth[order], v[order], period=360) for v in (radius, height)]
    return _ring(axes, rows, at[0], at[1])
