"""What is written into a section: how thick the cut is at its cusps, grooves and walls, within its plane.

A plane can only overstate a thickness: the nearest place of the earlier surface may lie outside it. The figures are for
reading a section; verdicts come from the surfaces.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from vane_line.core.arrays import Floats

STEP_MM = 0.05
SMOOTH_STEPS = 5
PROMINENT_MM = 0.25  # of a cusp or groove that is named
APART_MM = 1.0  # of two figures, else they lie on each other
NEAR_LINE_MM = 0.6  # how far an outline may pass the crossing of the finish line
MOST_MM = 4.0  # more is no thickness but another tooth


@dataclass(frozen=True)
class Thickness:
    """at: "cusp", "groove", "wall" or "side". place, to: on the cut and on the earlier outline, plane mm."""

    at: str
    place: tuple[float, float]
    to: tuple[float, float]
    mm: float


def crossings(points: Floats, origin: Floats, normal: Floats, across: Floats, up: Floats) -> Floats:
    """(2, 2) or (0, 2) plane coordinates where a closed curve (N, 3) goes through a plane: the outermost two."""
    off = points - origin
    side = off @ normal
    here, there = off, np.roll(off, -1, axis=0)
    change = np.flatnonzero((side > 0) != (np.roll(side, -1) > 0))
    if len(change) < 2:
        return np.zeros((0, 2))
    share = (side / (side - np.roll(side, -1) + 1e-30))[change, None]
    at = here[change] + share * (there - here)[change]
    plane = np.stack([at @ across, at @ up], axis=1)
    order = np.argsort(plane[:, 0])
    return plane[order[[0, -1]]]


def thicknesses(cut: list[Floats], earlier: list[Floats], ends: Floats) -> list[Thickness]:
    """What to write into a section.

    cut, earlier: outlines (N, 2) in the plane, mm, y up. ends (2, 2): where the finish line crosses, the part between
    them is the preparation; (0, 2) for a section across the tooth, where the four sides are told.
    """
    if not cut or not earlier:
        return []
    if len(ends) < 2:
        return _apart([t for t in _sides(cut, earlier) if t is not None])
    part = _between(cut, ends)
    if part is None:
        return []
    chosen = _places(part)
    found = [_to(earlier, part[k], at) for at, k in chosen]
    return _apart([t for t in found if t is not None])


def _between(cut: list[Floats], ends: Floats) -> Floats | None:
    """The stretch of the outline from one end of the finish line over the top to the other, even steps of arc."""
    best = None
    for chain in cut:
        gaps = [np.linalg.norm(chain - end, axis=1) for end in ends]
        if max(float(g.min()) for g in gaps) > NEAR_LINE_MM:
            continue
        first, last = sorted(int(g.argmin()) for g in gaps)
        stretch = chain[first : last + 1]
        if np.allclose(chain[0], chain[-1]):  # closed: the way over the top is the higher one
            other = np.concatenate([chain[last:], chain[1 : first + 1]])
            stretch = max(stretch, other, key=lambda s: float(s[:, 1].max()) if len(s) else -np.inf)
        if len(stretch) > 3 and (best is None or len(stretch) > len(best)):
            best = stretch
    if best is None:
        return None
    arc = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(best, axis=0), axis=1))])
    even = np.arange(0.0, arc[-1], STEP_MM)
    if len(even) < 4 * SMOOTH_STEPS:
        return None
    return np.stack([np.interp(even, arc, best[:, k]) for k in (0, 1)], axis=1)


def _places(part: Floats) -> list[tuple[str, int]]:
    """Cusps, grooves between them, and the middles of the two walls."""
    from scipy.signal import find_peaks  # a second to load, and a server draws sections long after it has started

    kernel = np.ones(SMOOTH_STEPS) / SMOOTH_STEPS
    height = np.convolve(np.pad(part[:, 1], SMOOTH_STEPS // 2, mode="edge"), kernel, mode="valid")
    tops, _ = find_peaks(height, prominence=PROMINENT_MM)
    if len(tops) == 0:
        tops = np.array([int(height.argmax())])
    grooves = [int(a + height[a:b].argmin()) for a, b in pairwise(tops)]
    walls = []
    for run, top in ((np.arange(tops[0] + 1), tops[0]), (np.arange(tops[-1], len(height)), tops[-1])):
        foot = height[run].min()
        middle = (foot + height[top]) / 2
        walls.append(int(run[np.abs(height[run] - middle).argmin()]))
    return [("cusp", int(k)) for k in tops] + [("groove", k) for k in grooves] + [("wall", k) for k in walls]


def _sides(cut: list[Floats], earlier: list[Floats]) -> list[Thickness | None]:
    """The outermost places of the outline that lies about the middle."""
    near = min(cut, key=lambda chain: float(np.linalg.norm(chain.mean(axis=0))))
    found = []
    for direction in ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0)):
        found.append(_to(earlier, near[int((near @ np.array(direction)).argmax())], "side"))
    return found


def _to(earlier: list[Floats], place: Floats, at: str) -> Thickness | None:
    """The nearest place of the earlier outline; None where it is the end of what was seen."""
    best = (np.inf, place, False)
    for chain in earlier:
        if len(chain) < 2:
            continue
        a, along = chain[:-1], np.diff(chain, axis=0)
        share = np.clip(((place - a) * along).sum(1) / np.maximum((along * along).sum(1), 1e-30), 0, 1)
        near = a + share[:, None] * along
        gap = np.linalg.norm(near - place, axis=1)
        k = int(gap.argmin())
        open_ended = not np.allclose(chain[0], chain[-1])
        at_end = open_ended and ((k == 0 and share[k] == 0) or (k == len(a) - 1 and share[k] == 1))
        if gap[k] < best[0]:
            best = (float(gap[k]), near[k], at_end)
    mm, to, at_end = best
    if at_end or mm > MOST_MM:
        return None
    return Thickness(at, (float(place[0]), float(place[1])), (float(to[0]), float(to[1])), mm)


def _apart(found: list[Thickness]) -> list[Thickness]:
    """Those that do not lie on one another, the first named first."""
    kept: list[Thickness] = []
    for one in found:
        if all(np.hypot(one.place[0] - o.place[0], one.place[1] - o.place[1]) >= APART_MM for o in kept):
            kept.append(one)
    return kept
