"""Looking for the preparation on a scan without an earlier one: a stump with walls, a ledge and an edge all round."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats, any_across, highest_per_cell
from vane_line.core.measure.finish_line import crease_turn
from vane_line.core.measure.section import STEP_MM, Axes, profiles
from vane_line.core.measure.wall import find_walls
from vane_line.core.mesh.surface import Surface
from vane_line.errors import UnfitScans

SPACING_MM = 2.5
AZIMUTHS = 24
LEDGE_MM = (0.25, 2.2)  # the edge lies this far beyond the foot, in arc
MIN_SCORE = 0.45  # share of directions that show wall, ledge and edge, weighted by the edge's turn
HINT_REACH_MM = 4.0
CROWN_DROP_MM = 6.0


def search_preparation(prep: Surface, up: Floats, hint: Floats | None) -> Floats:
    """A point (3,) on the axis of the likeliest preparation, near `hint` where given. Raises UnfitScans."""
    return scored_search(prep, up, hint)[0]


def scored_search(prep: Surface, up: Floats, hint: Floats | None) -> tuple[Floats, float]:
    """As `search_preparation`, with how much the place looks like a preparation (0..1)."""
    tops = prep.vertices[highest_per_cell(prep.vertices, up, SPACING_MM)]
    if hint is not None:
        across = tops - hint - ((tops - hint) @ up)[:, None] * up
        tops = np.concatenate([hint[None], tops[np.linalg.norm(across, axis=1) < HINT_REACH_MM]])
    else:
        tops = tops[tops @ up > np.quantile(tops @ up, 0.95) - CROWN_DROP_MM - 4]
    side = any_across(up)
    best, best_score = None, -1.0
    for top in tops:
        for _ in range(2):  # once more from the middle of the feet it found
            score, middle = preparation_score(prep, top, up, side)
            if score > best_score:
                best, best_score = middle, score
            if score < 0.2:
                break
            top = middle
    if best is None or best_score < (MIN_SCORE if hint is None else 0.2):
        raise UnfitScans(
            "prep: no preparation is found on the scan by itself; give a point on the cut tooth (near) or the "
            "scan before cutting (preop)."
        )
    return best, best_score


def stump_score(prep: Surface, centre: Floats, up: Floats) -> tuple[float, Floats]:
    """As `preparation_score`, from a point inside the tooth; tried again from the middle that it gives."""
    side = any_across(up)
    score, middle = preparation_score(prep, centre, up, side)
    again, better = preparation_score(prep, middle, up, side)
    return (again, better) if again > score else (score, middle)


def preparation_score(prep: Surface, top: Floats, up: Floats, side: Floats) -> tuple[float, Floats]:
    """How much the surface round `top` looks like a preparation (0..1), and the middle of its feet."""
    crop, _ = prep.keep_vertices(np.linalg.norm(prep.vertices - top, axis=1) < 11.0)
    if crop.n_faces < 100:
        return 0.0, top
    rings = profiles(crop, Axes.make(top, up, side, np.cross(up, side)), AZIMUTHS)
    walls = find_walls(rings)
    if walls.found.sum() < AZIMUTHS // 3:
        return 0.0, top
    turn = crease_turn(rings)
    low, high = (round(v / STEP_MM) for v in LEDGE_MM)
    points = 0.0
    for row in np.flatnonzero(walls.found):
        foot = int(walls.foot[row])
        stretch = turn[row, foot + low : foot + high]
        ledge = walls.angle[row, foot : foot + low + 4]
        if np.isfinite(stretch).any() and np.nanmax(ledge, initial=-90) > -50:
            points += float(np.clip(np.nanmax(stretch) / 60, 0, 1))
    feet = rings.places(np.maximum(walls.foot, 0))[walls.found]
    heights = (feet - top) @ up
    level = float(np.exp(-np.std(heights) / 1.5))
    # Opposite feet pair up, so that a direction without a wall does not pull the middle.
    middle = (feet.min(axis=0) + feet.max(axis=0)) / 2 * 0.5 + feet.mean(axis=0) * 0.5
    return points / AZIMUTHS * level, middle + ((top - middle) @ up) * up
