"""The cavity's outline: the closed curve where cut surface meets what was left, and the angle between them.

The border of the cut region is only where the outline is near. Each of its points is placed where
straight fits of the cut surface inside and of the uncut surface outside meet: a scan rounds the edge between them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.region import CutRegion
from vane_line.core.rings import without_gaps
from vane_line.core.spread import graded
from vane_line.core.vectors import lengths, unit

STEP_MM = 0.1
LADDER = 8  # steps' numbers to a doubling: steps are longer or shorter by a twentieth at most
EASE_MM = 0.25  # over which the border's zigzag is averaged
NEAR_MM, INSIDE_MM, OUTSIDE_MM = 0.07, 0.42, 0.55  # from the edge: what the straight fits are taken from
WINDOW_EASE_MM = 0.14  # about their ends, over which points come to count
BESIDE_MM = 0.35  # of the edge: what tells which way it looks
OTHER_COSINE, OTHER_EASE = -0.2, 0.2  # of it: what does not belong to it
ALONG_MM, ALONG_EDGES = 0.12, 0.9  # to either side along the outline; on a coarse scan so many edges
LEAST_POINTS = 4
LEAST_SINE = 0.1  # of the angle between them: nearly one line tells no place
SPLITS_MM = np.arange(-0.30, 0.301, 0.06)  # off the border, where the edge is tried
MAX_SHIFT_MM, FADE_MM = 0.30, 0.06  # of a corner off the border: further off it is none, by and by
EVEN, EVEN_MM = 0.2, 0.005  # of what is left off the straightest lines, that makes others nearly as straight
LEAST_SAY, SAY_EASE = 0.5, 0.4  # of the corners' say that must be left, by and by
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


def border_loop(surface: Surface, region: CutRegion) -> Floats | None:
    """(N, 3) the longest closed border of a region, in order; None where there is none."""
    points, steps = _border(surface, region)
    if len(steps) < 8:
        return None
    loops = _loops(points, steps)
    longest = max(loops, key=lambda loop: float(lengths(np.diff(loop, axis=0)).sum()), default=None)
    return None if longest is None else _from_its_own_end(surface, longest)


def _border(surface: Surface, region: CutRegion) -> tuple[Floats, Ints]:
    """Points (N, 3) of a region's border and its steps (M, 2) from one to another: over each triangle it parts, and
    along the scan's own rim.

    Where it crosses an edge is told by the region's level: by whole vertices, one that changed sides moved it by an
    edge's length.
    """
    count, mask, faces = surface.n_vertices, region.mask, surface.faces
    held = mask[faces]
    parted = (held.sum(axis=1) % 3) > 0
    faces, held = faces[parted], held[parted]
    rows = np.arange(len(faces))
    alone = np.where(held.sum(axis=1) == 1, held.argmax(axis=1), held.argmin(axis=1))
    one, two, three = (faces[rows, (alone + k) % 3] for k in range(3))
    steps = [np.stack([_crossing(one, two, count), _crossing(one, three, count)], axis=1)]
    rim = surface.border_edges
    for a, b in (rim.T, rim.T[::-1]):
        out = mask[a] & ~mask[b]
        steps.append(np.stack([_crossing(a[out], b[out], count), _crossing(a[out], a[out], count)], axis=1))
    along = rim[mask[rim].all(axis=1)]
    steps.append(np.stack([_crossing(v, v, count) for v in along.T], axis=1))
    ends, numbered = np.unique(np.concatenate(steps), return_inverse=True)
    a, b = ends // count, ends % count
    with np.errstate(all="ignore"):
        share = region.level[a] / (region.level[a] - region.level[b])
    share = np.where(np.isfinite(share) & (a != b), np.clip(share, 0, 1), 0.5)[:, None]
    places = (1 - share) * surface.vertices[a] + share * surface.vertices[b]
    return places, numbered.reshape(-1, 2)


def _crossing(a: Ints, b: Ints, count: int) -> Ints:
    """A number for each edge between vertices a and b (N,), of `count`; of one and the same, for the vertex."""
    return np.minimum(a, b) * count + np.maximum(a, b)


def _from_its_own_end(surface: Surface, loop: Floats) -> Floats:
    """The same closed curve from where it crosses the plane through its middle, furthest along the surface's own first
    axis, and always the same way round, whatever the order of its vertices."""
    own = surface.at_home(loop)
    x, y = own[:, 0], own[:, 1]
    if float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum()) < 0:
        loop, x, y = loop[::-1], x[::-1], y[::-1]
    step = lengths(np.roll(loop, -1, axis=0) - loop)
    # Between two of its points: which lies furthest hangs on a rounding, and with it where all points come to lie.
    y = y - float(step @ (y + np.roll(y, -1)) / (2 * step.sum()))
    ahead = np.roll(y, -1)
    crossing = np.flatnonzero((y < 0) != (ahead < 0))
    share = y[crossing] / (y[crossing] - ahead[crossing])
    last = int(np.argmax(x[crossing] + share * (np.roll(x, -1)[crossing] - x[crossing])))
    k = int(crossing[last])
    start = loop[k] + share[last] * (np.roll(loop, -1, axis=0)[k] - loop[k])
    return np.concatenate([start[None], np.roll(loop, -(k + 1), axis=0)])


def _loops(points: Floats, steps: Ints) -> list[Floats]:
    follow: dict[int, list[int]] = {}
    for a, b in steps.tolist():
        follow.setdefault(a, []).append(b)
        follow.setdefault(b, []).append(a)
    loops, left = [], {frozenset(e) for e in steps.tolist()}
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
            loops.append(points[course[:-1]])
    return loops


def resampled(loop: Floats, step_mm: float = STEP_MM) -> Floats:
    """(K, 3) a closed curve at equal steps of about `step_mm`."""
    closed = np.concatenate([loop, loop[:1]])
    along = np.r_[0.0, np.cumsum(lengths(np.diff(closed, axis=0)))]
    # One of a ladder of numbers: were it the nearest of all, every few micrometres of length would shift all points.
    count = max(round(2 ** (round(LADDER * np.log2(along[-1] / step_mm)) / LADDER)), 8)
    at = np.linspace(0, along[-1], count, endpoint=False)
    return np.stack([np.interp(at, along, column) for column in closed.T], axis=1)


def eased(points: Floats, over_mm: float) -> Floats:
    """A closed curve (K, 3) averaged along itself."""
    step = float(np.median(lengths(np.diff(points, axis=0))))
    return np.asarray(gaussian_filter1d(points, over_mm / max(step, 1e-6), axis=0, mode="wrap"))


def trace_outline(
    surface: Surface, region: CutRegion, drawn: Floats | None = None, inside_mm: float = INSIDE_MM
) -> Outline | None:
    """The outline of a `region` that was cut of `surface`; drawn: (D, 3) points that a hand put, which stay;
    inside_mm: how far in from the edge the cut runs straight."""
    mask, loop = region.mask, border_loop(surface, region)
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
    clear = without_gaps(clear, GAP_POINTS)
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
    off = graded(lengths(points - course) - STRAY_MM, STRAY_MM)
    return eased(points + off[:, None] * (course - points), 0.08)


def _edges(
    surface: Surface, mask: Bools, course: Floats, tangent: Floats, inside_mm: float
) -> tuple[Floats, Floats, Floats]:
    """(K, 3) where the straight fits meet, nan where one fails; (K,) the angle through the tooth; (K, 3) outward.

    All that is looked at counts by and by at its borders: taken or left, a few vertices that a micrometre of the course
    brings in or out turn a short ledge's line by degrees.
    """
    tree = cKDTree(surface.vertices)
    # What is looked at less deeply is looked at over more of the edge's length, to see as much of it.
    along = max(ALONG_MM, ALONG_EDGES * surface.usual_edge_mm) * INSIDE_MM / inside_mm
    reach = 1.25 * along
    around = tree.query_ball_point(course, OUTSIDE_MM + reach)
    normals = _normals_beside(surface, tree, course)
    outward = unit(np.cross(tangent, normals))
    # Away from the cut: towards the uncut vertices near by.
    lean = [_lean(surface.vertices[n] - p, o, mask[n]) for n, p, o in zip(around, course, outward, strict=True)]
    outward = outward * (1.0 if np.median(lean) >= 0 else -1.0)
    placed, angle = np.full((len(course), 3), np.nan), np.full(len(course), np.nan)
    for k, near in enumerate(around):
        index = np.array(near, dtype=np.int64)
        off = surface.vertices[index] - course[k]
        # What looks the other way is the next tooth.
        say = graded(along - np.abs(off @ tangent[k]), along / 2)
        say *= graded(surface.vertex_normals[index] @ normals[k] - OTHER_COSINE, OTHER_EASE)
        here = say > 0
        across = np.stack([off[here] @ outward[k], off[here] @ normals[k]], axis=1)
        found = _corner(across, say[here], inside_mm)
        if found is None:
            continue
        corner, angle[k] = found
        placed[k] = course[k] + corner[0] * outward[k] + corner[1] * normals[k]
    return placed, angle, outward


def _normals_beside(surface: Surface, tree: cKDTree, course: Floats) -> Floats:
    """(K, 3) unit normals of the surface round each place, the further off the less."""
    out = np.zeros_like(course)
    for k, near in enumerate(tree.query_ball_point(course, BESIDE_MM)):
        away = lengths(surface.vertices[near] - course[k])
        out[k] = (1 - away / BESIDE_MM) @ surface.vertex_normals[near]
    return unit(out)


def _lean(off: Floats, outward: Floats, cut: Bools) -> float:
    """How much the uncut of the points (N, 3) round a place lie to one side of it, the cut ones to the other."""
    along = off @ outward
    return float(along[~cut].sum() - along[cut].sum())


def _corner(across: Floats, say: Floats, inside_mm: float) -> tuple[Floats, float] | None:
    """Where two lines through points (N, 2), each with its `say` (N,), meet, the cut ones towards minus, and the angle
    between them through the tooth. Where the one ends and the other begins is what leaves them straightest: a border of
    the cut is only near. Of places that leave them nearly as straight each has its say: the straightest alone jumps.
    """
    x, y = across.T
    terms = np.stack([np.ones_like(x), x, y, x * x, y * y, x * y], axis=1)
    off = x - SPLITS_MM[:, None]

    def between(low: float, high: float) -> Floats:
        return np.asarray((say * graded(off - low, WINDOW_EASE_MM) * graded(high - off, WINDOW_EASE_MM)) @ terms)

    inside, outside = between(-inside_mm, -NEAR_MM), between(NEAR_MM, OUTSIDE_MM)
    enough = np.minimum(*(graded(sums[:, 0] - LEAST_POINTS, LEAST_POINTS / 2) for sums in (inside, outside)))
    if not (enough > 0).any():
        return None
    inside, outside, enough = inside[enough > 0], outside[enough > 0], enough[enough > 0]
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
    likely = np.exp(-(left - left.min()) / (EVEN * max(float(left.min()), EVEN_MM**2))) * met * enough
    told = likely * near
    share = float(graded(told.sum() / max(float(likely.sum()), 1e-12) - LEAST_SAY, SAY_EASE))
    if share == 0:
        return None
    told = told / told.sum()
    angle = np.degrees(np.arccos(np.clip((u * v).sum(axis=1), -1, 1)))
    return share * (told @ corner), float(told @ angle)


def _lines(sums: Floats) -> tuple[Floats, Floats, Floats]:
    """Middles (M, 2) and unit directions (M, 2) of the lines by total least squares through sets of points, and the
    sums of squares left; sums: (M, 6) of 1, x, y, xx, yy, xy over each set."""
    n, x, y, xx, yy, xy = sums.T
    xx, yy, xy = xx - x * x / n, yy - y * y / n, xy - x * y / n
    turn = np.arctan2(2 * xy, xx - yy) / 2
    left = (xx + yy) / 2 - np.hypot((xx - yy) / 2, xy)
    return np.stack([x / n, y / n], axis=1), np.stack([np.cos(turn), np.sin(turn)], axis=1), left


__all__ = ["Outline", "border_loop", "eased", "resampled", "trace_outline"]
