"""The cavity's outline: the closed curve where cut surface meets what was left, and the angle between them.

The border of the cut region, vertex by vertex, is only where the outline is near. Each of its points is placed where
straight fits of the cut surface inside and of the uncut surface outside meet: a scan rounds the edge between them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import binary_closing, gaussian_filter1d
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import graded
from vane_line.core.vectors import lengths, unit

STEP_MM = 0.1
EASE_MM = 0.25  # over which the border's zigzag is averaged
NEAR_MM, INSIDE_MM, OUTSIDE_MM = 0.07, 0.42, 0.55  # from the edge: what the straight fits are taken from
BESIDE_MM, OTHER_COSINE = 0.25, -0.2  # of the edge: what tells which way it looks; and what does not belong to it
ALONG_MM, ALONG_EDGES = 0.2, 1.6  # to either side along the outline; on a coarse scan so many edges
LEAST_POINTS = 5
LEAST_SINE = 0.1  # of the angle between them: nearly one line tells no place
SPLITS_MM = np.arange(-0.30, 0.301, 0.06)  # off the border, where the edge is tried
MAX_SHIFT_MM, FADE_MM = 0.30, 0.06  # of a corner off the border: further off it is none, by and by
EVEN, EVEN_MM = 0.15, 0.004  # of what is left off the straightest lines, that makes others nearly as straight
LEAST_SAY = 0.5  # of the corners' say that must be left
CLEAR_TURN_DEG = 25.0
GAP_POINTS = 4
SKIN_POINTS = 12  # of the uncut surface, that tell which way it faces
STRAY_MM = 0.08  # a single point off the course of its neighbours by more is put back


@dataclass(frozen=True, eq=False)
class Outline:
    """Closed and in order: points (K, 3), the cavosurface angle through the tooth (K,), nan where not told; whether an
    edge is seen (K,) and whether a hand drew it (K,); the unit direction (K, 3) across it, away from the cut; and the
    unit normal (K, 3) of the uncut surface beside it."""

    points: Floats
    cavosurface_deg: Floats
    clear: Bools
    drawn: Bools
    outward: Floats
    skin: Floats

    @property
    def steps_mm(self) -> Floats:
        """(K,) from each point to the next."""
        return lengths(np.roll(self.points, -1, axis=0) - self.points)

    @property
    def length_mm(self) -> float:
        return float(self.steps_mm.sum())


def border_loop(surface: Surface, mask: Bools) -> Floats | None:
    """(N, 3) the longest closed border of the vertices in `mask` (V,), in order; None where there is none."""
    part, _ = surface.keep_vertices(mask)
    edges = part.border_edges
    if len(edges) < 8:
        return None
    longest = max(
        _loops(part.vertices, edges), key=lambda loop: float(lengths(np.diff(loop, axis=0)).sum()), default=None
    )
    return None if longest is None else _from_its_own_end(part, longest)


def _from_its_own_end(part: Surface, loop: Floats) -> Floats:
    """The same closed curve from the place that lies furthest along the surface's own first axis, and always the same
    way round, whatever the order of its vertices."""
    own = part.at_home(loop)
    x, y = own[:, 0], own[:, 1]
    area = float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum())
    turned = loop if area > 0 else loop[::-1]
    return np.roll(turned, -int(np.argmax(part.at_home(turned)[:, 0])), axis=0)


def _loops(vertices: Floats, edges: Ints) -> list[Floats]:
    follow: dict[int, list[int]] = {}
    for a, b in edges.tolist():
        follow.setdefault(a, []).append(b)
        follow.setdefault(b, []).append(a)
    loops, left = [], {frozenset(e) for e in edges.tolist()}
    while left:
        first, second = tuple(next(iter(left)))
        left.discard(frozenset((first, second)))
        course = [first, second]
        while course[-1] != first:
            ahead = [n for n in follow[course[-1]] if frozenset((course[-1], n)) in left]
            if not ahead:
                break
            left.discard(frozenset((course[-1], ahead[0])))
            course.append(ahead[0])
        if course[-1] == first and len(course) > 8:
            loops.append(vertices[course[:-1]])
    return loops


def resampled(loop: Floats, step_mm: float = STEP_MM) -> Floats:
    """(K, 3) a closed curve at equal steps of about `step_mm`."""
    closed = np.concatenate([loop, loop[:1]])
    along = np.r_[0.0, np.cumsum(lengths(np.diff(closed, axis=0)))]
    count = max(round(along[-1] / step_mm), 8)
    at = np.linspace(0, along[-1], count, endpoint=False)
    return np.stack([np.interp(at, along, column) for column in closed.T], axis=1)


def eased(points: Floats, over_mm: float) -> Floats:
    """A closed curve (K, 3) averaged along itself."""
    step = float(np.median(lengths(np.diff(points, axis=0))))
    return np.asarray(gaussian_filter1d(points, over_mm / max(step, 1e-6), axis=0, mode="wrap"))


def trace_outline(
    surface: Surface, mask: Bools, drawn: Floats | None = None, inside_mm: float = INSIDE_MM
) -> Outline | None:
    """The outline of the cut surface `mask` (V,) of `surface`; drawn: (D, 3) points that a hand put, which stay;
    inside_mm: how far in from the edge the cut runs straight."""
    loop = border_loop(surface, mask)
    if loop is None:
        return None
    course = eased(resampled(loop), EASE_MM)
    course = resampled(course)
    angle, outward = np.full(len(course), np.nan), np.zeros_like(course)
    found: Bools = np.zeros(len(course), dtype=bool)
    for _ in range(2):
        tangent = unit(eased(np.roll(course, -2, axis=0) - np.roll(course, 2, axis=0), 0.2))
        placed, angle, outward = _edges(surface, mask, course, tangent, inside_mm)
        found = np.asarray(np.isfinite(placed).all(axis=1))
        told = np.where(found[:, None], placed, course)
        course = _without_strays(told)
    clear = np.asarray(found & (180 - angle > CLEAR_TURN_DEG))
    # A point or two without an edge between others that have one is a tear of the mesh, no doubt.
    clear |= binary_closing(np.tile(clear, 3), np.ones(GAP_POINTS))[len(clear) : 2 * len(clear)]
    by_hand = np.zeros(len(course), dtype=bool)
    if drawn is not None and len(drawn):
        away, nearest = cKDTree(drawn).query(course)
        by_hand = away < 2 * STEP_MM
        course = np.where(by_hand[:, None], drawn[nearest], course)
    return Outline(
        course, np.where(found, angle, np.nan), clear | by_hand, by_hand, outward, skin_normals(surface, ~mask, course)
    )


def skin_normals(surface: Surface, uncut: Bools, course: Floats) -> Floats:
    """(K, 3) unit normals of the uncut surface beside a course of points."""
    index = np.flatnonzero(uncut)
    _, near = cKDTree(surface.vertices[index]).query(course, k=min(SKIN_POINTS, len(index)))
    return unit(surface.vertex_normals[index[near]].sum(axis=1))


def _without_strays(points: Floats) -> Floats:
    """Single points off the course go back onto it; the rest is averaged over a step or two."""
    course = eased(points, 0.15)
    off = lengths(points - course) > STRAY_MM
    return eased(np.where(off[:, None], course, points), 0.08)


def _edges(
    surface: Surface, mask: Bools, course: Floats, tangent: Floats, inside_mm: float
) -> tuple[Floats, Floats, Floats]:
    """(K, 3) where the straight fits meet, nan where one fails; (K,) the angle through the tooth; (K, 3) outward."""
    tree = cKDTree(surface.vertices)
    # What is looked at less deeply is looked at over more of the edge's length, to see as much of it.
    along = max(ALONG_MM, ALONG_EDGES * surface.usual_edge_mm) * INSIDE_MM / inside_mm
    around = tree.query_ball_point(course, OUTSIDE_MM + along)
    beside = tree.query_ball_point(course, BESIDE_MM)
    normals = unit(np.stack([surface.vertex_normals[n].sum(axis=0) if len(n) else np.zeros(3) for n in beside]))
    outward = unit(np.cross(tangent, normals))
    # Away from the cut: towards the uncut vertices near by.
    lean = [_lean(surface.vertices[n] - p, o, mask[n]) for n, p, o in zip(around, course, outward, strict=True)]
    outward = outward * (1.0 if np.median(lean) >= 0 else -1.0)
    placed, angle = np.full((len(course), 3), np.nan), np.full(len(course), np.nan)
    for k, near in enumerate(around):
        index = np.array(near, dtype=np.int64)
        off = surface.vertices[index] - course[k]
        # What looks the other way is the next tooth.
        keep = (np.abs(off @ tangent[k]) < along) & (surface.vertex_normals[index] @ normals[k] > OTHER_COSINE)
        index, off = index[keep], off[keep]
        across = np.stack([off @ outward[k], off @ normals[k]], axis=1)
        found = _corner(across, inside_mm)
        if found is None:
            continue
        corner, angle[k] = found
        placed[k] = course[k] + corner[0] * outward[k] + corner[1] * normals[k]
    return placed, angle, outward


def _lean(off: Floats, outward: Floats, cut: Bools) -> float:
    """How much the uncut of the points (N, 3) round a place lie to one side of it, the cut ones to the other."""
    along = off @ outward
    return float(along[~cut].sum() - along[cut].sum())


def _corner(across: Floats, inside_mm: float) -> tuple[Floats, float] | None:
    """Where two lines through points (N, 2) meet, the cut ones towards minus, and the angle between them through the
    tooth. Where the one ends and the other begins is what leaves them straightest: a border of vertices is only near.
    Of places that leave them nearly as straight each has its say: the straightest alone jumps.
    """
    x, y = across[np.argsort(across[:, 0])].T
    # Sums up to each point: any stretch's line then costs the same, however many points it has.
    sums = np.zeros((len(x) + 1, 6))
    np.cumsum(np.stack([np.ones_like(x), x, y, x * x, y * y, x * y], axis=1), axis=0, out=sums[1:])

    def between(low: Floats, high: Floats) -> Floats:
        return np.asarray(sums[np.searchsorted(x, high, "left")] - sums[np.searchsorted(x, low, "right")])

    inside = between(SPLITS_MM - inside_mm, SPLITS_MM - NEAR_MM)
    outside = between(SPLITS_MM + NEAR_MM, SPLITS_MM + OUTSIDE_MM)
    enough = (inside[:, 0] >= LEAST_POINTS) & (outside[:, 0] >= LEAST_POINTS)
    if not enough.any():
        return None
    inside, outside = inside[enough], outside[enough]
    (p, u, bent), (q, v, bowed) = _lines(inside), _lines(outside)
    left = (bent + bowed) / (inside[:, 0] + outside[:, 0])
    # Both directions lead away from the edge.
    u = np.where(u[:, :1] < 0, u, -u)
    v = np.where(v[:, :1] > 0, v, -v)
    cross = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    met = np.abs(cross) >= LEAST_SINE
    cross = np.where(met, cross, 1.0)
    t = ((q - p)[:, 0] * v[:, 1] - (q - p)[:, 1] * v[:, 0]) / cross
    corner = p + t[:, None] * u
    near = graded(MAX_SHIFT_MM - np.hypot(*corner.T), FADE_MM)
    likely = np.exp(-(left - left.min()) / (EVEN * max(float(left.min()), EVEN_MM**2))) * met
    say = likely * near
    if say.sum() <= LEAST_SAY * likely.sum():
        return None
    told = say / say.sum()
    angle = np.degrees(np.arccos(np.clip((u * v).sum(axis=1), -1, 1)))
    return told @ corner, float(told @ angle)


def _lines(sums: Floats) -> tuple[Floats, Floats, Floats]:
    """Middles (M, 2) and unit directions (M, 2) of the lines by total least squares through sets of points, and the
    sums of squares left; sums: (M, 6) of 1, x, y, xx, yy, xy over each set."""
    n, x, y, xx, yy, xy = sums.T
    xx, yy, xy = xx - x * x / n, yy - y * y / n, xy - x * y / n
    turn = np.arctan2(2 * xy, xx - yy) / 2
    left = (xx + yy) / 2 - np.hypot((xx - yy) / 2, xy)
    return np.stack([x / n, y / n], axis=1), np.stack([np.cos(turn), np.sin(turn)], axis=1), left


__all__ = ["Outline", "border_loop", "eased", "resampled", "trace_outline"]
