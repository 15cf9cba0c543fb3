"""Plane sections of a surface, and the half-plane profiles round an axis that most measures read.

A profile starts on the axis at the top of the preparation and runs outward and down over the occlusal surface,
the wall, the ledge, the edge and into the sulcus, resampled at equal steps of arc.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from vane_line.core.arrays import AnyArray, Bools, Floats, Ints
from vane_line.core.mesh.keys import edge_keys
from vane_line.core.mesh.points import joined
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import degrees_past
from vane_line.core.vectors import perpendicular

STEP_MM = 0.05  # of arc: half of a fine mesh's edge
REACH_MM = 16.0  # of arc, from the axis
AZIMUTHS = 360
NUDGE_MM = 1e-7  # keeps an axis through a vertex from crossing nothing but that point
SPECK_MM = 1.0  # off the axis: a section that stays nearer is no tooth's
SWAY_MM = 0.3  # past the axis a profile may run and come back: where a steep crest is rough
MAX_STEPS = 20_000  # triangles along one profile: more is a knot


@dataclass(frozen=True, eq=False)
class Axes:
    """A cylinder frame: `origin` (3,), unit `up` along the axis, unit `zero` across it, unit `quarter`.

    Azimuth grows from `zero` (facial) to `quarter` (mesial) at 90 degrees.
    """

    origin: Floats
    up: Floats
    zero: Floats
    quarter: Floats

    @classmethod
    def make(cls, origin: Floats, up: Floats, facial: Floats, mesial: Floats) -> Axes:
        """Axes along `up`, azimuth 0 where `facial` points across it, rising towards `mesial`."""
        zero = perpendicular(facial, up)
        quarter = np.cross(up, zero)
        return cls(origin, up, zero, quarter if quarter @ mesial >= 0 else -quarter)

    def cylinder(self, points: Floats) -> tuple[Floats, Floats, Floats]:
        """Azimuth (degrees, 0..360), radius and height (mm) of `points` (N, 3)."""
        off = points - self.origin
        x, y = off @ self.zero, off @ self.quarter
        return np.degrees(np.arctan2(y, x)) % 360, np.hypot(x, y), off @ self.up

    def outward(self, azimuth_deg: Floats | float) -> Floats:
        """(..., 3) unit directions across the axis at azimuths (...)."""
        a = np.radians(azimuth_deg)
        return np.asarray(np.cos(a)[..., None] * self.zero + np.sin(a)[..., None] * self.quarter)

    def places(self, azimuth_deg: Floats, radius: Floats, height: Floats) -> Floats:
        """(N, 3) points from cylinder coordinates."""
        return self.origin + radius[..., None] * self.outward(azimuth_deg) + height[..., None] * self.up

    def local(self, points: Floats) -> Floats:
        """(N, 3) coordinates along `quarter`, `zero` and `up` (mesial, facial, occlusal) of points (N, 3)."""
        off = points - self.origin
        return np.stack([off @ self.quarter, off @ self.zero, off @ self.up], axis=1)

    @staticmethod
    def azimuth_of(local: Floats) -> Floats:
        """(N,) degrees, 0..360, of mesial, facial, occlusal coordinates."""
        return np.asarray(np.degrees(np.arctan2(local[:, 0], local[:, 1])) % 360)

    def world(self, local: Floats) -> Floats:
        """(N, 3) points from mesial, facial, occlusal coordinates."""
        return np.asarray(
            self.origin + local[:, :1] * self.quarter + local[:, 1:2] * self.zero + local[:, 2:] * self.up
        )


@dataclass(frozen=True, eq=False)
class Profiles:
    """Resampled half-plane profiles: arrays (A, M), nan beyond a profile's end.

    azimuth_deg: (A,). radius, height: mm. edge_mm: median edge of the surface's triangles. end: (A,) where each
    profile ends, in samples and parts of one; nan where it is not known.
    """

    axes: Axes
    azimuth_deg: Floats
    radius: Floats
    height: Floats
    edge_mm: float
    end: Floats = field(default_factory=lambda: np.full(1, np.nan))

    def places(self, index: Ints) -> Floats:
        """(A, 3) the points at arc `index` (A,) of each profile."""
        rows = np.arange(len(self.azimuth_deg))
        return self.axes.places(self.azimuth_deg, self.radius[rows, index], self.height[rows, index])


def middle_of_ring(points: Floats, axes: Axes) -> Floats:
    """(3,) the middle of the area that `points` (N, 3) go round: their mean leans to where more of them are seen."""
    azimuth, radius, height = axes.cylinder(points)
    order = np.argsort(azimuth)
    turn = np.radians(azimuth[order])
    x, y = radius[order] * np.cos(turn), radius[order] * np.sin(turn)
    next_x, next_y = np.roll(x, -1), np.roll(y, -1)
    double = x * next_y - next_x * y
    if abs(double.sum()) < 1.0:
        return np.asarray(points.mean(axis=0))
    cx, cy = ((p + q) @ double / (3 * double.sum()) for p, q in ((x, next_x), (y, next_y)))
    return np.asarray(axes.origin + cx * axes.zero + cy * axes.quarter + float(np.median(height)) * axes.up)


def plane_section(surface: Surface, origin: Floats, normal: Floats) -> list[Floats]:
    """Polylines (N, 3) in which the plane through `origin` with unit `normal` cuts the surface."""
    side = (surface.vertices - origin) @ normal
    side[side == 0] = 1e-12  # a vertex in the plane counts as just above it
    corners = surface.faces.T
    corners = corners[:, _crossed(side[corners])]
    ends = _apex_first(corners, side[corners])
    i, j = ends[0], ends[1:]
    t = side[i] / (side[i] - side[j])
    place = surface.vertices[i] + t[..., None] * (surface.vertices[j] - surface.vertices[i])
    unique, index = np.unique(edge_keys(i, j, surface.n_vertices), return_inverse=True)
    index = index.reshape(2, -1)
    coordinate = np.zeros((len(unique), 3))
    coordinate[index] = place
    return [coordinate[chain] for chain in _chains(index.T, len(unique))]


def _crossed(side: Floats) -> Bools:
    """(S,) whether triangles, by the `side` (3, S) of their corners, are crossed."""
    one, other, third = side > 0
    return np.asarray((one != other) | (other != third))


def _apex_first(values: AnyArray, side: Floats) -> AnyArray:
    """(3, S) the corners' `values` (3, S) of crossed triangles, turned so that the corner that lies alone on its `side`
    (3, S) comes first: in it the two edges meet that are crossed."""
    first, second, third = side > 0
    alone = np.where(second == third, 0, np.where(first == third, 1, 2))
    return np.take_along_axis(values, (alone + np.arange(3)[:, None]) % 3, axis=0)


def _chains(segments: Ints, count: int) -> list[Ints]:
    """Order segments (S, 2) of node numbers into chains, open ones first from their ends."""
    left, right = (side.tolist() for side in _neighbours(segments, count))
    seen = [False] * count
    chains = []
    starts = [n for n in range(count) if right[n] < 0] + list(range(count))
    for start in starts:
        if seen[start]:
            continue
        chain, previous, node = [], -1, start
        while node >= 0 and not seen[node]:
            seen[node] = True
            chain.append(node)
            step = left[node] if left[node] != previous else right[node]
            previous, node = node, step
        if len(chain) > 1:
            if node == start and len(chain) > 2:
                chain.append(start)
            chains.append(np.array(chain, dtype=np.int64))
    return chains


def profiles(surface: Surface, axes: Axes, azimuths: int = AZIMUTHS, edge_mm: float | None = None) -> Profiles:
    """Half-plane profiles of `surface` round `axes`, two per plane. edge_mm: its triangles' median edge, found unless
    given.

    The section that crosses the axis highest is the preparation's; each half of it is one profile. All planes are
    cut at once, and all profiles walked outward together.
    """
    half = azimuths // 2
    azimuth_deg = np.arange(azimuths) * 360.0 / azimuths
    shape = (azimuths, int(REACH_MM / STEP_MM))
    edge_mm = surface.usual_edge_mm if edge_mm is None else edge_mm
    radii, heights = np.full(shape, np.nan), np.full(shape, np.nan)
    out = Profiles(axes, azimuth_deg, radii, heights, edge_mm, np.full(azimuths, np.nan))
    cut = _cut(surface, axes, np.radians(azimuth_deg[:half]))
    _lay(out, cut)
    # Along a crest a plane may shave off a speck: below it, the section itself.
    far = np.fmax.reduce(np.abs(out.radius), axis=1) > SPECK_MM
    asked = cut.only(~far.reshape(2, -1).any(axis=0)[cut.plane])
    if len(asked.plane):
        _lay(out, _no_specks(asked))
    return out


@dataclass(frozen=True, eq=False)
class _Segments:
    """Segments in which planes through the axis cut triangles: the plane's number (S,), radius and height of both ends
    (S, 2, 2), and the edge that each end lies on (S, 2), numbered by plane."""

    plane: Ints
    place: Floats
    edge: Ints

    def only(self, mask: Bools) -> _Segments:
        """Those of a mask (S,)."""
        return _Segments(self.plane[mask], self.place[mask], self.edge[mask])


def _lay(out: Profiles, cut: _Segments) -> None:
    """Fill in the two profiles of each plane that has segments at the axis."""
    plane, place, edge = cut.plane, cut.place, cut.edge
    half = len(out.azimuth_deg) // 2
    at_axis = _highest_at_axis(plane, place[..., 0], place[..., 1], half)
    if len(at_axis) == 0:
        return
    b, a = place[at_axis].reshape(-1, 2), place[at_axis, ::-1].reshape(-1, 2)  # where the walks begin, and come from
    t = np.divide(a[:, 0], a[:, 0] - b[:, 0], out=np.full(len(a), 0.5), where=a[:, 0] != b[:, 0])
    top = a + t[:, None] * (b - a)
    # Each half may run to either side of the axis.
    first = np.tile([True, False], len(at_axis))
    direction = np.where((b[:, 0] > a[:, 0]) | ((b[:, 0] == a[:, 0]) & first), 1.0, -1.0)
    radius, height = place.reshape(-1, 2).T
    start = (2 * at_axis[:, None] + np.arange(2)).ravel()
    walked, count = _walk(start, _partners(edge), radius, height, direction)
    row = np.repeat(plane[at_axis], 2) + np.where(direction > 0, 0, half)
    r, h = (np.vstack([top[:, k], values[walked]]) for k, values in enumerate((radius, height)))
    r, h, out.end[row] = _resampled(r, h, count, out.radius.shape[1])
    out.radius[row], out.height[row] = direction[:, None] * r, h


def _no_specks(cut: _Segments) -> _Segments:
    """Those that hang together with others further than SPECK_MM off the axis."""
    names, node = np.unique(cut.edge, return_inverse=True)
    node = node.reshape(-1, 2)
    pieces, piece = joined(node[:, 0], node[:, 1], len(names))
    reach = np.zeros(pieces)
    np.maximum.at(reach, piece[node[:, 0]], np.abs(cut.place[..., 0]).max(axis=1))
    return cut.only(reach[piece[node[:, 0]]] > SPECK_MM)


def _cut(surface: Surface, axes: Axes, turn: Floats) -> _Segments:
    """In which planes turned by `turn` (P,), radians, cut the surface."""
    off = surface.vertices - axes.origin
    x, y, z = off @ axes.zero + NUDGE_MM, off @ axes.quarter + 0.7 * NUDGE_MM, off @ axes.up
    plane, face = _crossings(surface.faces, np.degrees(np.arctan2(y, x)), len(turn))
    corners = surface.faces.T.take(face, axis=1)
    cosine, sine = np.cos(turn)[plane], np.sin(turn)[plane]
    side = cosine * y[corners] - sine * x[corners]
    side[side == 0] = 1e-12  # a vertex in the plane counts as just above it
    crossed = np.flatnonzero(_crossed(side))
    plane, cosine, sine = plane[crossed], cosine[crossed], sine[crossed]
    corners, side = corners.take(crossed, axis=1), side.take(crossed, axis=1)
    corners, side = _apex_first(corners, side), _apex_first(side, side)
    t = side[0] / (side[0] - side[1:])
    outward, level = cosine * x[corners] + sine * y[corners], z[corners]
    place = np.stack([v[0] + t * (v[1:] - v[0]) for v in (outward, level)], axis=2)
    edge = plane * np.int64(surface.n_vertices) ** 2 + edge_keys(corners[0], corners[1:], surface.n_vertices)
    return _Segments(plane, place.transpose(1, 0, 2), edge.T)


def _crossings(faces: Ints, azimuth_deg: Floats, half: int) -> tuple[Ints, Ints]:
    """Plane (0..half-1 through the axis) and face of every pair that may cross, from the vertices' azimuths."""
    step = 180.0 / half
    a, b, c = (azimuth_deg.take(faces[:, k]) for k in range(3))
    turn_b, turn_c = (degrees_past(x, a) for x in (b, c))  # from the first corner
    least, most = np.minimum(np.minimum(turn_b, turn_c), 0), np.maximum(np.maximum(turn_b, turn_c), 0)
    low, high = a + least, a + most
    begin = np.ceil(low / step - 1e-9).astype(np.int64)
    count = np.floor(high / step + 1e-9).astype(np.int64) - begin + 1
    stretchaxis = most - least > 150  # it may hold the axis: every plane is tried
    begin[stretchaxis], count[stretchaxis] = 0, half
    face = np.repeat(np.arange(len(faces)), count)
    nth = np.arange(len(face)) - np.repeat(np.cumsum(count) - count, count)
    return (begin[face] + nth) % half, face


def _highest_at_axis(plane: Ints, outward: Floats, level: Floats, half: int) -> Ints:
    """Of each plane the segment (a row of `outward`, `level` (S, 2)) that crosses the axis highest."""
    crossing = np.flatnonzero(np.sign(outward[:, 0]) != np.sign(outward[:, 1]))
    order = crossing[np.lexsort((level[crossing].max(axis=1), plane[crossing]))]
    last = np.searchsorted(plane[order], np.arange(half), side="right") - 1
    present = np.isin(np.arange(half), plane[order])
    return np.asarray(order[last[present]], dtype=np.int64)


def _neighbours(segments: Ints, count: int) -> tuple[Ints, Ints]:
    """The one or two nodes that each of `count` nodes shares a segment (S, 2) with, -1 for none."""
    flat = segments.ravel()
    order = np.argsort(flat, kind="stable")
    other = segments[:, ::-1].ravel()[order]
    number = np.bincount(flat, minlength=count)
    start = np.cumsum(number) - number
    second = np.where(number > 1, other[np.minimum(start + 1, len(other) - 1)], -1)
    return other[start], second


def _partners(edge: Ints) -> Ints:
    """(2S + 1,) of each end of a segment, in order, the end of another that lies on the same edge (S, 2); 2S, which is
    no end and its own partner, where there is none."""
    flat = edge.ravel()
    order = np.argsort(flat, kind="stable")
    out = np.full(len(flat) + 1, len(flat), dtype=np.int64)
    same = flat[order[1:]] == flat[order[:-1]]
    pair = np.flatnonzero(same & ~np.r_[False, same[:-1]])  # of more than two the first two
    out[order[pair]], out[order[pair + 1]] = order[pair + 1], order[pair]
    return out


def _walk(start: Ints, partner: Ints, radius: Floats, height: Floats, direction: Floats) -> tuple[Ints, Ints]:
    """Ends (L, W) met going on from the ends `start` (W,), and how many of each walk count.

    A walk ends where the surface or the reach ends, back at its start, or past the axis, where it is the other half's:
    not where a crest at the axis only sways past it. What lies 1, 2, 4 … ends ahead is told of all ends at once, so
    that every round doubles the walks.
    """
    none = len(partner) - 1
    ahead = np.append(partner[:-1] ^ 1, none)
    ahead[partner == none] = none
    behind = partner[start ^ 1]
    walked, count, stretch = start[None], np.zeros(len(start), dtype=np.int64), start[None]
    going, arc, last = np.ones(len(start), dtype=bool), np.zeros(len(start)), start
    while True:
        at = np.minimum(stretch, none - 1)
        r, h = np.vstack([radius[last], radius[at]]), np.vstack([height[last], height[at]])
        far = arc + np.cumsum(np.hypot(np.diff(r, axis=0), np.diff(h, axis=0)), axis=0)
        on = going & (stretch != none) & (stretch != behind) & (direction * r[1:] >= -SWAY_MM) & (far < REACH_MM + 1.0)
        on = np.logical_and.accumulate(on, axis=0)
        count += on.sum(axis=0)
        going, arc, last = on[-1], far[-1], at[-1]
        if not going.any() or len(walked) >= MAX_STEPS:
            break
        stretch = ahead[walked]
        walked, ahead = np.vstack([walked, stretch]), ahead[ahead]
    walked = np.minimum(walked, none - 1)
    own = (direction * radius[walked] >= 0) & (np.arange(len(walked))[:, None] < count)
    return walked, np.where(own.any(axis=0), len(own) - np.argmax(own[::-1], axis=0), 0)


def _resampled(radius: Floats, height: Floats, count: Ints, samples: int) -> tuple[Floats, Floats, Floats]:
    """(W, M) radius and height at equal steps of arc along lines (L, W) of which the first `count` + 1 (W,) points
    count, nan past their ends; and where those are (W,), in steps."""
    arc = np.vstack(
        [np.zeros(len(count)), np.cumsum(np.hypot(np.diff(radius, axis=0), np.diff(height, axis=0)), axis=0)]
    )
    at = np.arange(samples) * STEP_MM
    end = arc[count, np.arange(len(count))]
    past = at > end[:, None]
    # One line after the other, each with room to itself: one interpolation serves them all.
    apart = 4 * REACH_MM * np.arange(len(count))[:, None]
    known = (np.arange(len(arc)) <= count[:, None]).ravel()
    along, knots = (at + apart).ravel(), (arc.T + apart).ravel()[known]
    r, h = (np.interp(along, knots, v.T.ravel()[known]).reshape(past.shape) for v in (radius, height))
    return np.where(past, np.nan, r), np.where(past, np.nan, h), end / STEP_MM


def tangent_angle(profile: Profiles, window_mm: float) -> Floats:
    """(A, M) direction of the profile in degrees, from points half a window before and after.

    0 points outward from the axis, -90 along it and down, +90 up; unwrapped along the profile from the top.
    """
    w = max(1, round(window_mm / STEP_MM / 2))
    dr, dh = np.full_like(profile.radius, np.nan), np.full_like(profile.radius, np.nan)
    dr[:, w:-w] = profile.radius[:, 2 * w :] - profile.radius[:, : -2 * w]
    dh[:, w:-w] = profile.height[:, 2 * w :] - profile.height[:, : -2 * w]
    angle = np.degrees(np.arctan2(dh, dr))
    # Undercut walls lean back past -90; only a fold upward and back would pass +180.
    return np.asarray(np.where(angle > 150, angle - 360, angle))
