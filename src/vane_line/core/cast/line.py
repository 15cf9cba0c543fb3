"""The line of a cut that leaves the face standing: where it runs at the gingiva, and how high over it."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.margin import SEAM_AWAY_MM, seam_level
from vane_line.core.measure.retention import SIDES
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.line import OutlineLine
from vane_line.core.rings import ring_runs
from vane_line.core.shape import Around
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import perpendicular

DOWN_COSINE = 0.5  # of the way out of the cut to the tooth's axis: there the line runs round the tooth
CORNER_MM = 1.0  # from where the line rises beside the standing face
# Where the wall flares out to that face, the ledge narrows to nought before the line rises: so far at most, while it is
# not as wide as it is elsewhere by this share.
FLARE_MM, AS_WIDE = 2.2, 0.85
STAYS_MM = 0.5  # it is that wide again where it is for so far
WALL_MM = (0.7, 1.9)  # over the edge: above the ledge's fillet
ALONG_MM, ALONG_EDGES = 0.2, 1.2  # of the line, whose wall is taken together
MOST_LEAN = 0.7  # of a wall to the path: 35 degrees
LEAST_POINTS, LEAST_HIGH_MM = 6, 0.4
ODD_TIMES, ODD_MM = 3.0, 0.03
LOW_SHARE = 0.2  # of the line's points: these lie at the gingiva, whatever lies over a cusp


def gingival(line: OutlineLine, axes: Axes) -> Bools:
    """(K,) which of the line's points run round the tooth at the gingiva, the cut above them: there it has a ledge.

    Where a cusp of the standing face was shortened, the cut lies above the line too, but high over the gingiva.
    """
    here = np.asarray(line.outward @ axes.up < -DOWN_COSINE)
    if not here.any():
        return here
    height = (line.points - axes.origin) @ axes.up
    low = here & (height <= np.quantile(height[here], LOW_SHARE))
    stretches = ring_runs(here, 1)
    top = height[max(stretches, key=lambda stretch: low[stretch].sum())].max()
    found = np.zeros(len(here), dtype=bool)
    for stretch in stretches:
        found[stretch] = height[stretch].min() < top
    return found


def wall_widths(eased: Surface, line: OutlineLine, axes: Axes) -> Floats:
    """(K,) of the ledge at the gingiva: from the edge to the wall prolonged down to its level, across the path; nan
    where no wall stands or the line does not run there. axes: along the path.

    As a crown's: what bulged over the ledge before cutting does not count.
    """
    out = np.full(len(line.points), np.nan)
    index = np.flatnonzero(line.mask)
    if not len(index):
        return out
    tree, along = cKDTree(eased.vertices[index]), max(ALONG_MM, ALONG_EDGES * eased.usual_edge_mm)
    for k in np.flatnonzero(gingival(line, axes)):
        inward = -perpendicular(line.skin[k], axes.up)
        off = eased.vertices[index[tree.query_ball_point(line.points[k], WALL_MM[1] + along)]] - line.points[k]
        level, deep = off @ axes.up, off @ inward
        wall = (np.abs(off @ np.cross(axes.up, inward)) < along) & (level > WALL_MM[0]) & (level < WALL_MM[1])
        fit = _straight(level[wall], deep[wall])
        if fit is not None and abs(fit[0]) < MOST_LEAN:
            out[k] = max(float(fit[1]), 0.0)
    return out


def _straight(x: Floats, y: Floats) -> Floats | None:
    """Slope and height at nought of the line through points, free of odd ones; None where they are too few."""
    for _ in range(2):
        if len(x) < LEAST_POINTS or np.ptp(x) < LEAST_HIGH_MM:
            return None
        fit = np.polyfit(x, y, 1)
        off = np.abs(y - np.polyval(fit, x))
        near = off <= max(ODD_TIMES * float(np.median(off)), ODD_MM)
        x, y = x[near], y[near]
    return np.asarray(fit)


def side_faced(normals: Floats, facial: Floats, mesial: Floats) -> Ints:
    """(N,) the place in SIDES of the side that each normal (N, 3) looks to most."""
    ahead, onward = normals @ facial, normals @ mesial
    return np.asarray(np.stack([ahead, onward, -ahead, -onward]).argmax(axis=0))


def sides_of(line: OutlineLine, axes: Axes) -> dict[str, Bools]:
    """The same by the side that what was left looks to; none facially, where the tooth stands, nor in the corners
    before it, where the ledge ends on the standing face."""
    here, side = gingival(line, axes), side_faced(line.skin, axes.zero, axes.quarter)
    if here.any() and not here.all():
        here = here & (cKDTree(line.points[~here]).query(line.points)[0] > CORNER_MM)
    return {name: here & (side == k) for k, name in enumerate(SIDES) if name != "facial"}


def before_face(line: OutlineLine, here: Bools, widths: Floats) -> Bools:
    """(K,) which of the line's points at the gingiva, `here` (K,), lie where the ledge narrows towards the standing
    face. widths: (K,) nan where not told."""
    out = np.zeros(len(here), dtype=bool)
    if here.all() or not here.any():
        return out
    from_face = cKDTree(line.points[~here]).query(line.points)[0]
    usual = widths[here & line.clear & (from_face > FLARE_MM) & np.isfinite(widths)]
    if len(usual) < LEAST_POINTS:
        return out
    least = AS_WIDE * float(np.median(usual))
    stays = max(round(STAYS_MM / max(float(np.median(line.steps_mm)), 0.01)), 1)
    for stretch in ring_runs(here, 1):
        for inward in (stretch, stretch[::-1]):
            near = inward[: int(np.argmax(np.r_[from_face[inward] > FLARE_MM, True]))]
            # What is not told is as narrow as what lies beside it; right in the corner a few may read wide.
            wide = np.r_[widths[near] >= least, np.ones(stays, dtype=bool)]
            out[near[: int(np.argmax(np.convolve(wide, np.ones(stays), "valid") > stays - 0.5))]] = True
    return out


def above_seam(line: OutlineLine, here: Bools, axes: Axes, around: Around, front: bool) -> tuple[Floats, str | None]:
    """(K,) height of the line's stretch `here` (K,) over the gingiva, nan elsewhere; and what that is known from."""
    out = np.full(len(line.points), np.nan)
    azimuth, radius, height = axes.cylinder(line.points)
    if not here.any():
        return out, None
    if around.gingiva is not None:
        theirs, _, level = axes.cylinder(around.gingiva)
        out[here] = height[here] - np.interp(azimuth[here], theirs, level, period=360)
        return out, "drawn"
    if around.seam is None or not len(around.seam):
        return out, None
    theirs, reach, level = axes.cylinder(around.seam)
    own = np.interp(theirs, azimuth[here], radius[here], period=360)
    near = np.abs(reach - own) < SEAM_AWAY_MM
    if not near.any():
        return out, None
    out[here] = height[here] - seam_level(theirs[near], level[near], azimuth[here], front)
    return out, "earlier scan"
