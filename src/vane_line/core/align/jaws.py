"""Whether a scan that is given for the opposing teeth can show them where it lies."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.align.crowns import Crowns
from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import thinned_index
from vane_line.core.vectors import bounds, dot, within

EVERY_MM = 1.0
# Of one jaw scanned twice most lies within the first of these, mm, and faces alike; of jaws that meet next to nothing.
ON_IT_MM, ALIKE, SAME_SHARE = 0.3, 0.8, 1 / 4
FAR_MM = 6.0  # from everything on the jaw's scan
# An open surface leaves its rim's area over, which looks along the teeth: within 13 degrees on made-up jaws.
MOST_TURNED_DEG, LEAST_OPEN = 40.0, 0.15
# Of the shorter row at least half stands over or beside the other: 0.83 and more on made-up jaws.
ROW_MM, ROW_SHARE = 4.0, 0.5
INTO_MM, INTO_PLACES = 0.7, 3  # into teeth that were not cut, and at how many places a millimetre apart
SAME_JAW = "the opposing scan shows the teeth of the prepared jaw: give the other jaw's, and that alone"
FAR_OFF = "the opposing scan is nowhere near the prepared jaw"
TURNED = "the opposing scan does not face the prepared jaw"
BESIDE = "the teeth of the opposing scan do not stand over those of the prepared jaw"
INTO = "the opposing scan reaches deep into teeth that were not cut"


def _none_cut(points: Floats) -> Bools:
    """Of a jaw before cutting."""
    return np.zeros(len(points), dtype=bool)


def why_not_opposing(
    jaw: Surface, opposing: Surface, crowns: Crowns, cut: Callable[[Floats], Bools] = _none_cut
) -> str:
    """What forbids that `opposing` shows the teeth over `jaw` where it lies; empty where nothing does.

    crowns: of the jaw; cut: which (N,) of points (N, 3) may be of a tooth that was cut, which tells nothing.
    """
    few = thinned_index(opposing.at_home(opposing.vertices), EVERY_MM)
    low, high = bounds(jaw.vertices)
    near = few[within(opposing.vertices[few], low - FAR_MM, high + FAR_MM)]
    if len(near) == 0:
        return FAR_OFF
    signed, face, place = jaw.signed_distance(opposing.vertices[near])
    away = np.abs(signed)
    alike = dot(jaw.face_normals[face], opposing.vertex_normals[near]) > ALIKE
    if (alike & (away < ON_IT_MM)).sum() > SAME_SHARE * len(few):
        return SAME_JAW
    if away.min() > FAR_MM:
        return FAR_OFF
    if _turned(opposing, crowns.up):
        return TURNED
    if not _one_row(jaw.thinned(EVERY_MM), opposing, few, crowns):
        return BESIDE
    deep = np.flatnonzero((signed < -INTO_MM) & ~jaw.at_rim(face, place))
    at = jaw.face_centres[face[deep]]
    return INTO if (crowns.hold(at) & ~cut(at)).sum() >= INTO_PLACES else ""


def _turned(opposing: Surface, up: Floats) -> bool:
    """Whether it looks elsewhere than down on teeth that look `up` (3,); a closed one looks nowhere."""
    areas = opposing.face_areas
    facing = areas @ opposing.face_normals
    size = float(np.linalg.norm(facing))
    return size > LEAST_OPEN * areas.sum() and -float(facing @ up) < np.cos(np.radians(MOST_TURNED_DEG)) * size


def _one_row(ours: Floats, opposing: Surface, few: Ints, crowns: Crowns) -> bool:
    """Whether the rows run over each other, seen along `crowns.up`. ours: (N, 3) points all over the jaw; few: (M,)
    vertices all over the opposing scan."""
    theirs = opposing.vertices[few]
    ours, theirs = ours[crowns.hold(ours)], theirs[Crowns.of(opposing, -crowns.up).hold(theirs)]
    seen = np.stack([crowns.side, crowns.other], axis=1)
    rows = ours @ seen, theirs @ seen
    over = (cKDTree(b).query(a, distance_upper_bound=ROW_MM)[0] < ROW_MM for a, b in (rows, rows[::-1]))
    return max(float(near.mean()) for near in over) > ROW_SHARE
