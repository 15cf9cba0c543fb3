"""Plane sections of a surface, and the half-plane profiles round an axis that most measures read.

A profile starts on the axis at the top of the preparation and runs outward and down over the occlusal surface,
the wall, the ledge, the edge and into the sulcus, resampled at equal steps of arc.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats, Ints
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import perpendicular

STEP_MM = 0.05  # of arc: half of a fine mesh's edge
REACH_MM = 16.0  # of arc, from the axis
AZIMUTHS = 360
NUDGE_MM = 1e-7  # keeps an axis through a vertex from crossing nothing but that point
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

    azimuth_deg: (A,). radius, height: mm. edge_mm: median edge of the surface's triangles.
    """

    axes: Axes
    azimuth_deg: Floats
    radius: Floats
    height: Floats
    edge_mm: float

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


def straight_fit(radius: Floats, height: Floats, first: int, last: int) -> tuple[Floats, Floats] | None:
    """Middle (2,) and unit direction (2,) of the straight line through samples first..last of a profile (M,), by total
    least squares; None where fewer than three are seen."""
    if first < 0 or last >= len(radius) or last - first < 2:
        return None
    r, h = radius[first : last + 1], height[first : last + 1]
    middle = np.array([r.mean(), h.mean()])
    if not np.isfinite(middle).all():
        return None
    r, h = r - middle[0], h - middle[1]
    turn = np.arctan2(2 * (r @ h), r @ r - h @ h) / 2  # of the greater principal axis
    return middle, np.array([np.cos(turn), np.sin(turn)])


def plane_section(surface: Surface, origin: Floats, normal: Floats) -> list[Floats]:
    """Polylines (N, 3) in which the plane through `origin` with unit `normal` cuts the surface."""
    side = (surface.vertices - origin) @ normal
    side[side == 0] = 1e-12  # a vertex in the plane counts as just above it
    above = side > 0
    count = above[surface.faces].sum(axis=1)
    corners = surface.faces[(count == 1) | (count == 2)]
    ends = _crossed_edges(corners, side[corners])
    i, j = ends[..., 0], ends[..., 1]
    t = side[i] / (side[i] - side[j])
    place = surface.vertices[i] + t[..., None] * (surface.vertices[j] - surface.vertices[i])
    unique, index = np.unique(_edge_keys(ends, surface.n_vertices), return_inverse=True)
    index = index.reshape(-1, 2)
    coordinate = np.zeros((len(unique), 3))
    coordinate[index] = place
    return [coordinate[chain] for chain in _chains(index, len(unique))]


def _crossed_edges(corners: Ints, side: Floats) -> Ints:
    """(S, 2, 2) the two edges of each triangle `corners` (S, 3) that change `side` (S, 3): end numbers of vertices.

    They are those that meet in the corner that stands alone.
    """
    first, second, third = (side > 0).T
    alone = np.where(second == third, 0, np.where(first == third, 1, 2))
    rows = np.arange(len(corners))
    apex = corners[rows, alone]
    return np.stack([np.stack([apex, corners[rows, (alone + k) % 3]], axis=1) for k in (1, 2)], axis=1)


def _edge_keys(ends: Ints, n_vertices: int) -> Ints:
    """(S, 2) a number per edge, the same from either of its triangles."""
    return np.asarray(ends.min(axis=2) * np.int64(n_vertices) + ends.max(axis=2))


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


def profiles(surface: Surface, axes: Axes, azimuths: int = AZIMUTHS) -> Profiles:
    """Half-plane profiles of `surface` round `axes`, two per plane.

    The section that crosses the axis highest is the preparation's; each half of it is one profile. All planes are
    cut at once, and all profiles walked outward together, a triangle a step.
    """
    half = azimuths // 2
    samples = int(REACH_MM / STEP_MM)
    radius = np.full((azimuths, samples), np.nan)
    height = np.full((azimuths, samples), np.nan)
    azimuth_deg = np.arange(azimuths) * 360.0 / azimuths
    edge_mm = surface.usual_edge_mm
    out = Profiles(axes, azimuth_deg, radius, height, edge_mm)
    off = surface.vertices - axes.origin
    x, y, z = off @ axes.zero + NUDGE_MM, off @ axes.quarter + 0.7 * NUDGE_MM, off @ axes.up
    plane, face = _crossings(surface.faces, np.degrees(np.arctan2(y, x)), half)
    if len(plane) == 0:
        return out
    cosine, sine = np.cos(np.radians(azimuth_deg[:half])), np.sin(np.radians(azimuth_deg[:half]))
    corners = surface.faces[face]
    c, s = cosine[plane][:, None], sine[plane][:, None]
    side = c * y[corners] - s * x[corners]
    side[side == 0] = 1e-12  # a vertex in the plane counts as just above it
    one, other, third = (side > 0).T  # column by column: sums along rows of three are ten times slower
    crossed = (one != other) | (other != third)
    plane, corners, side = plane[crossed], corners[crossed], side[crossed]
    ends = _crossed_edges(corners, side)
    c, s = cosine[plane][:, None, None], sine[plane][:, None, None]
    across = c * y[ends] - s * x[ends]
    t = across[..., 0] / (across[..., 0] - across[..., 1])
    outward = c * x[ends] + s * y[ends]
    outward = outward[..., 0] + t * (outward[..., 1] - outward[..., 0])
    level = z[ends][..., 0] + t * (z[ends][..., 1] - z[ends][..., 0])
    at_axis = _highest_at_axis(plane, outward, level, half)
    key = plane[:, None] * np.int64(surface.n_vertices) ** 2 + _edge_keys(ends, surface.n_vertices)
    unique, node = np.unique(key, return_inverse=True)
    node = node.reshape(-1, 2)
    place = np.zeros((len(unique), 2))
    place[node] = np.stack([outward, level], axis=2)
    first, second = _neighbours(node, len(unique))
    for onward in (0, 1):
        start, behind = node[at_axis, onward], node[at_axis, 1 - onward]
        a, b = place[behind], place[start]
        t0 = np.divide(a[:, 0], a[:, 0] - b[:, 0], out=np.full(len(a), 0.5), where=a[:, 0] != b[:, 0])
        top = a + t0[:, None] * (b - a)
        # Each half may run to either side of the axis.
        direction = np.where((b[:, 0] > a[:, 0]) | ((b[:, 0] == a[:, 0]) & (onward == 0)), 1.0, -1.0)
        walked, count = _walk(start, behind, first, second, place, direction)
        for k, p in enumerate(plane[at_axis]):
            line = np.concatenate([top[k : k + 1], place[walked[: count[k], k]]]) * [direction[k], 1.0]
            arc = np.r_[0.0, np.cumsum(np.hypot(*np.diff(line, axis=0).T))]
            at = np.arange(samples) * STEP_MM
            inside = at <= arc[-1]
            row = p if direction[k] > 0 else p + half
            radius[row, inside] = np.interp(at[inside], arc, line[:, 0])
            height[row, inside] = np.interp(at[inside], arc, line[:, 1])
    return out


def _crossings(faces: Ints, azimuth_deg: Floats, half: int) -> tuple[Ints, Ints]:
    """Plane (0..half-1 through the axis) and face of every pair that may cross, from the vertices' azimuths."""
    step = 180.0 / half
    a, b, c = (azimuth_deg.take(faces[:, k]) for k in range(3))
    turn_b, turn_c = ((x - a + 180) % 360 - 180 for x in (b, c))  # from the first corner
    least, most = np.minimum(np.minimum(turn_b, turn_c), 0), np.maximum(np.maximum(turn_b, turn_c), 0)
    low, high = a + least, a + most
    begin = np.ceil(low / step - 1e-9).astype(np.int64)
    count = np.floor(high / step + 1e-9).astype(np.int64) - begin + 1
    round_axis = most - least > 150  # it may hold the axis: every plane is tried
    begin[round_axis], count[round_axis] = 0, half
    face = np.repeat(np.arange(len(faces)), count)
    nth = np.arange(len(face)) - np.repeat(np.cumsum(count) - count, count)
    return (begin[face] + nth) % half, face


def _highest_at_axis(plane: Ints, outward: Floats, level: Floats, half: int) -> Ints:
    """Of each plane the segment (a row of `outward`, `level` (S, 2)) that crosses the axis highest."""
    crossing = np.flatnonzero(np.sign(outward[:, 0]) != np.sign(outward[:, 1]))
    order = crossing[np.lexsort((level[crossing].max(axis=1), plane[crossing]))]
    last = np.searchsorted(plane[order], np.arange(half), side="right") - 1
    present = np.isin(np.arange(half), plane[order])
    return np.asarray(order[last[present]])


def _neighbours(segments: Ints, count: int) -> tuple[Ints, Ints]:
    """The one or two nodes that each of `count` nodes shares a segment (S, 2) with, -1 for none."""
    flat = segments.ravel()
    order = np.argsort(flat, kind="stable")
    other = segments[:, ::-1].ravel()[order]
    number = np.bincount(flat, minlength=count)
    start = np.cumsum(number) - number
    second = np.where(number > 1, other[np.minimum(start + 1, len(other) - 1)], -1)
    return other[start], second


def _walk(start: Ints, behind: Ints, first: Ints, second: Ints, place: Floats, direction: Floats) -> tuple[Ints, Ints]:
    """Nodes (L, P) met going on from `start` (P,), coming from `behind`, and how many of each count.

    A walk ends where the surface or the reach ends, back at its start, or past the axis, where it is the other half's.
    """
    node, previous = start.copy(), behind.copy()
    alive = direction * place[node, 0] >= 0
    steps, arc, count = [], np.zeros(len(start)), np.zeros(len(start), dtype=np.int64)
    while alive.any():
        steps.append(node)
        count[alive] += 1
        ahead = np.where(first[node] == previous, second[node], first[node])
        alive &= (ahead >= 0) & (ahead != behind)
        ahead = np.where(alive, ahead, node)
        arc += np.hypot(*(place[ahead] - place[node]).T)
        alive &= (direction * place[ahead, 0] >= 0) & (arc < REACH_MM + 1.0) & (len(steps) < MAX_STEPS)
        previous, node = node, ahead
    return (np.array(steps) if steps else start[None]), count


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
