"""Looking for the preparation on a scan without an earlier one: a stump with walls, a ledge and an edge all round."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.light import lightened
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.crease import crease_turn
from vane_line.core.trace.fits import stretches
from vane_line.core.trace.section import STEP_MM, Axes, middle_of_ring, profiles
from vane_line.core.trace.wall import find_walls
from vane_line.core.vectors import lengths
from vane_line.errors import UnfitScans

SPACING_MM, WIDE_SPACING_MM = 2.5, 3.3  # of places to look at, near a hint and on a whole scan
SEARCHED_TRIANGLES = 50_000  # of the whole scan: where a preparation may stand is seen on a light one
AZIMUTHS, FIRST_AZIMUTHS = 24, 8
FIRST_KEPT = 8  # of the places on a whole scan, after a first look at few azimuths
LEDGE_MM = (0.25, 2.2)  # the edge lies this far beyond the foot, in arc
LEVEL_DEG, CREASED_DEG = -50.0, 60.0  # a ledge falls less at its foot, and turns so much at its edge
SAME_PLACE_MM = 0.8  # of each other: places of one tooth
MIN_SCORE = 0.45  # share of directions that show wall, ledge and edge, weighted by the edge's turn
HINT_REACH_MM = 4.0
SURE_SCORE = 0.6  # what looks so much like one needs no rival
HARDLY_SCORE = 0.2  # what looks less like one is looked for from round about, too
LATTICE = [(0.0, 0.0), *((0.4 * np.cos(a), 0.4 * np.sin(a)) for a in np.arange(6) * np.pi / 3)]
CROP_MM, LEAST_FACES = 11.0, 100
ROUND_ABOUT_MM = 1.25  # times the lattice's 0.4
SETTLING_ROUNDS, SETTLED_MM, FINE_AZIMUTHS = 8, 0.005, 60
SETTLES_WITHIN_MM, LOST_SCORE = 2.0, 0.1  # a middle that goes further, or to what looks less like one, is another's
CROWN_DROP_MM = 6.0


def search_preparation(prep: Surface, up: Floats, hint: Floats | None) -> Floats:
    """A point (3,) on the axis of the likeliest preparation, near `hint` where given. Raises UnfitScans."""
    return scored_search(prep, up, hint)[0]


def scored_search(prep: Surface, up: Floats, hint: Floats | None) -> tuple[Floats, float]:
    """As `search_preparation`, with how much the place looks like a preparation (0..1)."""
    side = prep.across(up)
    prep = lightened(prep, SEARCHED_TRIANGLES, hasty=True)
    tops = prep.vertices[prep.highest(up, WIDE_SPACING_MM if hint is None else SPACING_MM)]
    if hint is not None:
        across = tops - hint - ((tops - hint) @ up)[:, None] * up
        tops = np.concatenate([hint[None], tops[np.linalg.norm(across, axis=1) < HINT_REACH_MM]])
    else:
        tops = tops[tops @ up > np.quantile(tops @ up, 0.95) - CROWN_DROP_MM - 4]
        tops = _likely(prep, tops, up, side)
    best, best_score = None, -1.0
    for top in tops:
        for _ in range(2):  # once more from the middle of the feet it found
            score, middle = preparation_score(_part_round(prep, top, CROP_MM), top, up, side)
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


def _likely(prep: Surface, tops: Floats, up: Floats, side: Floats) -> Floats:
    """The likeliest of `tops` (T, 3), moved to the middle of what stands there; most are told apart at a glance."""
    looked = [preparation_score(_part_round(prep, t, CROP_MM), t, up, side, FIRST_AZIMUTHS) for t in tops]
    best = np.argsort([-score for score, _ in looked], kind="stable")[:FIRST_KEPT]
    kept: list[Floats] = []
    for place in (place for k in best for place in (looked[k][1], tops[k])):
        # Most tops of one tooth lead to the same middle: it is looked at once.
        if all(across(place - other, up) > SAME_PLACE_MM for other in kept):
            kept.append(place)
    return np.array(kept)


def stump_near(prep: Surface, centre: Floats, up: Floats, reach_mm: float) -> tuple[Floats, float]:
    """As `scored_search`, of the likeliest preparation whose axis passes within `reach_mm` of `centre`."""
    side = prep.across(up)
    other = np.cross(up, side)
    best, best_score = centre, 0.0
    prep = _part_round(prep, centre, CROP_MM + reach_mm)
    for u, v in LATTICE:
        start = centre + reach_mm * (u * side + v * other)
        for _ in range(2):
            score, start = preparation_score(prep, start, up, side)
            if across(start - centre, up) > reach_mm:
                break
            if score > best_score:
                best, best_score = start, score
        if best_score >= SURE_SCORE:
            break
    return best, best_score


def settled(prep: Surface, start: Floats, up: Floats) -> Floats:
    """The middle (3,) of the preparation round `start`: looked for again from itself until it stays.

    The same tooth gives the same middle wherever the search began: where it does not come to rest, or what it rests on
    hardly looks like a preparation, it is looked for from round about, and the likeliest place of rest is taken.
    """
    side = prep.across(up)
    other = np.cross(up, side)
    prep = _part_round(prep, start, CROP_MM + SETTLES_WITHIN_MM)
    found = [_rest(prep, start, start, up, side)]
    if found[0][0] < HARDLY_SCORE:
        found += [_rest(prep, start + ROUND_ABOUT_MM * (u * side + v * other), start, up, side) for u, v in LATTICE[1:]]
    return max(found, key=lambda f: f[0])[1]


def _rest(prep: Surface, begin: Floats, start: Floats, up: Floats, side: Floats) -> tuple[float, Floats]:
    """Where the search comes to rest from `begin`, and how much it looks like a preparation there; what never rests
    counts for less than all that does."""
    place, likely = begin, 0.0
    for _ in range(SETTLING_ROUNDS):
        score, middle = preparation_score(prep, place, up, side, FINE_AZIMUTHS)
        if score == 0.0 or score < likely - LOST_SCORE or across(middle - start, up) > SETTLES_WITHIN_MM:
            break
        moved = across(middle - place, up)
        place, likely = middle, max(score, likely)
        if moved < SETTLED_MM:
            return score, middle
    return likely - 1.0, place


def _part_round(surface: Surface, place: Floats, radius_mm: float) -> Surface:
    part, _ = surface.keep_vertices(lengths(surface.vertices - place) < radius_mm)
    return part


def across(off: Floats, up: Floats) -> float:
    """Length of `off` (3,) across `up`, mm."""
    return float(np.linalg.norm(off - (off @ up) * up))


def preparation_score(
    prep: Surface, top: Floats, up: Floats, side: Floats, azimuths: int = AZIMUTHS
) -> tuple[float, Floats]:
    """How much the surface round `top` looks like a preparation (0..1), and the middle of its feet."""
    if prep.n_faces < LEAST_FACES:
        return 0.0, top
    rings = profiles(prep, Axes.make(top, up, side, np.cross(up, side)), azimuths, edge_mm=np.nan)  # not asked for
    walls = find_walls(rings)
    if walls.found.sum() < azimuths // 3:
        return 0.0, top
    rows = np.flatnonzero(walls.found)
    foot = walls.foot[rows]
    low, high = (round(v / STEP_MM) for v in LEDGE_MM)
    turned = stretches(crease_turn(rings)[rows], foot + low, foot + high - 1)
    angle = stretches(walls.angle[rows], foot, foot + low + 3)
    ledge = np.where(np.isfinite(angle), angle, -90).max(axis=1) > LEVEL_DEG
    points = float(np.clip(np.nan_to_num(turned).max(axis=1) / CREASED_DEG, 0, 1)[ledge].sum())
    feet = rings.places(np.maximum(walls.foot, 0))[walls.found]
    heights = (feet - top) @ up
    level = float(np.exp(-np.std(heights) / 1.5))
    middle = middle_of_ring(feet, rings.axes)
    return points / azimuths * level, middle
