"""The depth of the cut along a window's line: how wide its ledge is, square to the surface that was left.

Inward from each point of the line the depth under the tooth before rises over the ledge and stays where the ledge meets
the face. Where it first stops rising is the ledge's foot, and the depth there its width: a curved face bends both
surfaces alike, which a straight edge laid on one of them would not see.
"""

from __future__ import annotations

import numpy as np
from scipy.ndimage import median_filter
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.line_form import BEVEL_DEG, FEATHER_DEG, HEAVY_MM, NO_LEDGE_MM
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.line import OutlineLine
from vane_line.core.spread import graded
from vane_line.core.vectors import lengths, unit

STEP_MM, REACH_MM = 0.1, 2.4  # inward from the line
ALONG_MM, ALONG_EDGES = 0.35, 2.5  # to either side along the line, by and by; on a coarse scan so many edges
ACROSS_MM, ACROSS_EDGES = 0.10, 1.0  # and to either side of a step inward; on a coarse scan so many edges
FLAT_SHARE = 0.1  # of that: depths that lie no further apart tell no slope
OUTSIDE_MM = (0.2, 0.6)  # of the surface that was left: what its depth is there is the scans', not the cut's
MOST_OFF_MM = 0.10
FOOT_SLOPE = 0.25  # a depth that rises less steeply has reached the ledge's foot
PAST_FOOT_MM = 0.2
BEGINS_MM = 0.5  # a line that lies this far off the cut is still its line
LEAST_BINS, LEAST_SAY = 4, 0.02
RISES, DEEP_MM = (0.25, 0.6), 0.4  # of the ledge: depths whose places say where the cut begins
LEAST_RISE_MM = 0.06
EASE_POINTS = 5  # of the line, half a millimetre


def ledge_widths(eased: Surface, mask: Bools, line: OutlineLine, depth: Floats) -> Floats:
    """(K,) of the line's points, nan where no ledge ends: there the cut runs on, as over a butt.

    eased: the scan round the tooth, freed of noise; mask: (V,) of it, cut. depth: (V,) under the tooth before, nan
    where that was not seen.
    """
    rows = _rows(eased, mask, line, depth)
    known = np.isfinite(rows)
    filled = np.where(known, rows, 0.0)
    eased_rows = median_filter(filled, size=(EASE_POINTS, 1), mode="wrap")
    rows = np.where(known, eased_rows, np.nan)
    return np.array([_foot(row) for row in rows])


def cut_begins(eased: Surface, mask: Bools, line: OutlineLine, depth: Floats) -> Floats:
    """(K,) how far inward of each point of the line the cut begins by the depth under the tooth before, nan where that
    does not say it: a light chamfer's edge is too short to be told from its own surfaces alone everywhere."""
    rows = _rows(eased, mask, line, depth)
    at = (np.arange(rows.shape[1]) + 0.5) * STEP_MM
    out = np.full(len(rows), np.nan)
    for k, row in enumerate(rows):
        known = np.isfinite(row)
        if known.sum() < LEAST_BINS or not known[:2].any():
            continue
        # The edge itself is rounded by the scan: from where the ledge rises straight, back to nought.
        width = _foot(row)
        low, high = (share * min(width, DEEP_MM) if np.isfinite(width) else share * DEEP_MM for share in RISES)
        first, second = (_first_over(at[known], row[known], level) for level in (low, high))
        if first is None or second is None or high < LEAST_RISE_MM:
            continue
        begins = first - (second - first) * low / (high - low)
        if begins < BEGINS_MM:
            out[k] = max(begins, 0.0)
    return out


def _first_over(at: Floats, depth: Floats, level: float) -> float | None:
    """Where the depth first passes a level, from nought on the line."""
    over = np.flatnonzero(depth > level)
    if len(over) == 0:
        return None
    k = int(over[0])
    x0, d0 = (0.0, 0.0) if k == 0 else (float(at[k - 1]), float(depth[k - 1]))
    return x0 + (level - d0) / max(float(depth[k]) - d0, 1e-9) * (float(at[k]) - x0)


def _rows(eased: Surface, mask: Bools, line: OutlineLine, depth: Floats) -> Floats:
    """(K, B) depth in steps inward from each point, over what was left beside it; nan where too little is seen."""
    return _depth_inward(eased, mask, line, depth) - _outside(eased, mask, line, depth)[:, None]


def _tangents(line: OutlineLine) -> Floats:
    return unit(np.roll(line.points, -3, axis=0) - np.roll(line.points, 3, axis=0))


def _depth_inward(eased: Surface, mask: Bools, line: OutlineLine, depth: Floats) -> Floats:
    """(K, B) depth in steps inward from each point, nan where too little is seen."""
    index = np.flatnonzero(mask & np.isfinite(depth))
    bins = round(REACH_MM / STEP_MM)
    if len(index) == 0:
        return np.full((len(line.points), bins), np.nan)
    at, wide = (np.arange(bins) + 0.5) * STEP_MM, max(ACROSS_MM, ACROSS_EDGES * eased.usual_edge_mm)
    out, total = np.full((2, len(line.points), bins), np.nan)
    tree, tangents = cKDTree(eased.vertices[index]), _tangents(line)
    along = max(ALONG_MM, ALONG_EDGES * eased.usual_edge_mm)
    for k, near in enumerate(tree.query_ball_point(line.points, REACH_MM + along)):
        here = index[np.array(near, dtype=np.int64)]
        off = eased.vertices[here] - line.points[k]
        aside = off @ tangents[k]
        across = lengths(off - aside[:, None] * tangents[k])
        # By and by at every border: a vertex that comes to lie beyond one must not change sides at once.
        say = np.clip(1 - np.abs(aside) / along, 0, 1) * graded(STEP_MM - off @ line.outward[k], STEP_MM)
        out[k], total[k] = _level(across - at[:, None], depth[here], say, wide)
    return _bridged(np.where(total > LEAST_SAY, out, np.nan))


def _level(off: Floats, depth: Floats, say: Floats, wide: float) -> tuple[Floats, Floats]:
    """(B,) the depth where `off` (B, N) is nought, by a line through the depths (N,) as near as `wide`, and how much
    say they have: a coarse scan has few vertices in a step, and a mean of what lies to one side would be another
    step's."""
    part = np.clip(1 - np.abs(off) / wide, 0, 1) * say
    count, first, second = part.sum(axis=1), (part * off).sum(axis=1), (part * off * off).sum(axis=1)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean, middle = part @ depth / count, first / count
        spread = second / count - middle**2
        slope = ((part * off) @ depth / count - middle * mean) / (spread + (FLAT_SHARE * wide) ** 2)
        return mean - np.nan_to_num(slope) * middle, count


def _bridged(rows: Floats) -> Floats:
    """Single steps without a vertex, between two that have one."""
    for row in rows:
        known = np.flatnonzero(np.isfinite(row))
        if len(known) >= LEAST_BINS:
            inner = np.arange(known[0], known[-1] + 1)
            row[inner] = np.interp(inner, known, row[known])
    return rows


def _outside(eased: Surface, mask: Bools, line: OutlineLine, depth: Floats) -> Floats:
    """(K,) by how much what was left lies under the tooth before, beside each point: the alignment's share."""
    index = np.flatnonzero(~mask & np.isfinite(depth))
    if len(index) == 0:
        return np.zeros(len(line.points))
    tree = cKDTree(eased.vertices[index])
    out = np.zeros(len(line.points))
    for k, near in enumerate(tree.query_ball_point(line.points, OUTSIDE_MM[1] + STEP_MM)):
        here = index[np.array(near, dtype=np.int64)]
        off = eased.vertices[here] - line.points[k]
        # What lies further off is the next tooth, or gingiva.
        say = graded(MOST_OFF_MM - np.abs(depth[here]), MOST_OFF_MM / 2)
        say *= graded(off @ line.outward[k] - OUTSIDE_MM[0], STEP_MM)
        say *= graded(OUTSIDE_MM[1] - lengths(off), STEP_MM)
        out[k] = say @ depth[here] / max(float(say.sum()), LEAST_BINS)
    return out


def _foot(row: Floats) -> float:
    """The depth where it first stops rising, nan where it does not within reach."""
    known = np.flatnonzero(np.isfinite(row))
    if len(known) < LEAST_BINS or known[0] > 2:
        return float("nan")
    last = int(known[-1])
    filled = np.r_[0.0, row[known[0] : last + 1]]  # on the line itself nothing is cut
    at = np.r_[0.0, (np.arange(known[0], last + 1) + 0.5) * STEP_MM]
    fine = np.arange(0, at[-1], STEP_MM / 2)
    value = np.interp(fine, at, filled)
    ahead = round(PAST_FOOT_MM / (STEP_MM / 2))
    if len(value) <= 2 * ahead:
        return float("nan")
    slope = (value[ahead:] - value[:-ahead]) / PAST_FOOT_MM
    rising = np.flatnonzero(slope[: round(BEGINS_MM / (STEP_MM / 2))] >= FOOT_SLOPE)
    if len(rising) == 0:  # no ledge at all
        return float(value[: ahead + 1].max())
    # Where it rises again further in, it has paused only: the line lies a little off the cut, or a lip stands there.
    further = np.r_[slope[ahead:], np.full(ahead, slope[-1])]
    low = np.flatnonzero(np.maximum(slope, further)[rising[0] :] < FOOT_SLOPE)
    if len(low) == 0:
        return float("nan")
    foot = int(rising[0] + low[0])
    # Past the foot the depth still grows by what the face or wall leans: that is not the ledge's.
    beyond = slope[foot + ahead : foot + 3 * ahead]
    lean = float(np.clip(np.median(beyond), 0.0, FOOT_SLOPE)) if len(beyond) else 0.0
    past = fine[foot : foot + ahead + 1] - fine[foot]
    return float((value[foot : foot + ahead + 1] - lean * past).max())


def form_of(width_mm: float, cavosurface_deg: float) -> str:
    """The form of so light a ledge, '' where it is not told. Chamfer and shoulder cannot be parted on a ledge no wider
    than a scan's rounding: both are named chamfer."""
    if not np.isfinite(width_mm):
        return ""
    if width_mm < NO_LEDGE_MM or (np.isfinite(cavosurface_deg) and cavosurface_deg > FEATHER_DEG):
        return "feather"
    if np.isfinite(cavosurface_deg) and cavosurface_deg > BEVEL_DEG:
        return "bevelled"
    return "heavy-chamfer" if width_mm >= HEAVY_MM else "chamfer"
