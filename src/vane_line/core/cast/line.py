"""The line of a cut that leaves the face standing: where it runs at the gingiva, and how high over it."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.margin import SEAM_AWAY_MM, seam_level
from vane_line.core.measure.retention import SIDES
from vane_line.core.outline.line import OutlineLine
from vane_line.core.shape import Around
from vane_line.core.trace.section import Axes

DOWN_COSINE = 0.5  # of the way out of the cut to the tooth's axis: there the line runs round the tooth


def gingival(line: OutlineLine, axes: Axes) -> Bools:
    """(K,) which of the line's points run round the tooth, the cut above them: there it has a ledge."""
    return np.asarray(line.outward @ axes.up < -DOWN_COSINE)


def side_faced(normals: Floats, facial: Floats, mesial: Floats) -> Ints:
    """(N,) the place in SIDES of the side that each normal (N, 3) looks to most."""
    ahead, onward = normals @ facial, normals @ mesial
    return np.asarray(np.stack([ahead, onward, -ahead, -onward]).argmax(axis=0))


def sides_of(line: OutlineLine, axes: Axes) -> dict[str, Bools]:
    """The same by the side that what was left looks to; none facially, where the tooth stands."""
    here, side = gingival(line, axes), side_faced(line.skin, axes.zero, axes.quarter)
    return {name: here & (side == k) for k, name in enumerate(SIDES) if name != "facial"}


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
