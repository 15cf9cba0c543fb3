"""Plane sections of a surface, and the half-plane profiles round an axis that most measures read.

A profile starts on the axis at the top of the preparation and runs outward and down over the occlusal surface,
the wall, the ledge, the edge and into the sulcus, resampled at equal steps of arc.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats, Ints, perpendicular
from vane_line.core.mesh.surface import Surface

STEP_MM = 0.05  # of arc: half of a fine mesh's edge
REACH_MM = 16.0  # of arc, from the axis
AZIMUTHS = 360


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

    def places(self, azimuth_deg: Floats, radius: Floats, height: Floats) -> Floats:
        """(N, 3) points from cylinder coordinates."""
        a = np.radians(azimuth_deg)
        across = np.cos(a)[..., None] * self.zero + np.sin(a)[..., None] * self.quarter
        return self.origin + radius[..., None] * across + height[..., None] * self.up


@dataclass(frozen=True, eq=False)
class Profiles:
    """Resampled half-plane profiles: arrays (A, M), nan beyond a profile's end.

    azimuth_deg: (A,). radius, height: mm. angle_deg: of the tangent, 0 outward, -90 straight down.
    """

    axes: Axes
    azimuth_deg: Floats
    radius: Floats
    height: Floats

    def places(self, index: Ints) -> Floats:
        """(A, 3) the points at arc `index` (A,) of each profile."""
        rows = np.arange(len(self.azimuth_deg))
        return self.axes.places(self.azimuth_deg, self.radius[rows, index], self.height[rows, index])


def plane_section(surface: Surface, origin: Floats, normal: Floats) -> list[Floats]:
    """Polylines (N, 3) in which the plane through `origin` with unit `normal` cuts the surface."""
    return plane_sections(surface, origin, normal[None])[0]


def plane_sections(surface: Surface, origin: Floats, normals: Floats) -> list[list[Floats]]:
    """For each plane through `origin` with one of the unit `normals` (P, 3): its polylines (N, 3).

    All crossings are found at once; only the ordering into chains goes plane by plane.
    """
    side = (surface.vertices - origin) @ normals.T  # (V, P)
    side[side == 0] = 1e-12  # a vertex in the plane counts as just above it
    above = side > 0
    count = above[surface.faces[:, 0]].astype(np.int8)
    count += above[surface.faces[:, 1]]
    count += above[surface.faces[:, 2]]
    plane, face = np.nonzero(((count == 1) | (count == 2)).T)  # ordered by plane
    corners = surface.faces[face]
    values = side[corners, plane[:, None]]
    # The two crossed edges are those that meet in the corner that stands alone.
    positive = values > 0
    alone = np.where(positive.sum(axis=1) == 1, positive.argmax(axis=1), (~positive).argmax(axis=1))
    rows = np.arange(len(face))
    keys, places = [], []
    for other in (1, 2):
        a, b = alone, (alone + other) % 3
        i, j = corners[rows, a], corners[rows, b]
        t = values[rows, a] / (values[rows, a] - values[rows, b])
        places.append(surface.vertices[i] + t[:, None] * (surface.vertices[j] - surface.vertices[i]))
        keys.append(np.minimum(i, j) * np.int64(surface.n_vertices) + np.maximum(i, j))
    key, place = np.stack(keys, axis=1), np.stack(places, axis=1)
    bounds = np.searchsorted(plane, np.arange(len(normals) + 1))
    out = []
    for p in range(len(normals)):
        part = slice(bounds[p], bounds[p + 1])
        unique, index = np.unique(key[part], return_inverse=True)
        index = index.reshape(-1, 2)
        coordinate = np.zeros((len(unique), 3))
        coordinate[index] = place[part]
        out.append([coordinate[chain] for chain in _chains(index, len(unique))])
    return out


def _chains(segments: Ints, count: int) -> list[Ints]:
    """Order segments (S, 2) of node numbers into chains, open ones first from their ends."""
    first, second = np.full(count, -1), np.full(count, -1)
    for a, b in segments.tolist():
        for p, q in ((a, b), (b, a)):
            if first[p] < 0:
                first[p] = q
            elif second[p] < 0:
                second[p] = q
    left, right = first.tolist(), second.tolist()
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

    The chain that crosses the axis highest is the preparation's; each half of it is one profile.
    """
    half = azimuths // 2
    samples = int(REACH_MM / STEP_MM)
    radius = np.full((azimuths, samples), np.nan)
    height = np.full((azimuths, samples), np.nan)
    azimuth_deg = np.arange(azimuths) * 360.0 / azimuths
    angles = np.radians(azimuth_deg[:half])
    directions = np.cos(angles)[:, None] * axes.zero + np.sin(angles)[:, None] * axes.quarter
    for k, chains in enumerate(plane_sections(surface, axes.origin, np.cross(axes.up, directions))):
        across = directions[k]
        best: tuple[float, Floats, int] | None = None
        for chain in chains:
            off = chain - axes.origin
            x, z = off @ across, off @ axes.up
            crossing = np.flatnonzero(np.sign(x[:-1]) != np.sign(x[1:]))
            for c in crossing:
                level = float(max(z[c], z[c + 1]))
                if best is None or level > best[0]:
                    best = (level, np.stack([x, z], axis=1), int(c))
        if best is None:
            continue
        _, chain2, at_axis = best
        x0, x1 = chain2[at_axis, 0], chain2[at_axis + 1, 0]
        t = x0 / (x0 - x1) if x0 != x1 else 0.5
        top = chain2[at_axis] + t * (chain2[at_axis + 1] - chain2[at_axis])
        onward, back = chain2[at_axis + 1 :], chain2[at_axis::-1]
        if len(chain2) > 3 and np.array_equal(chain2[0], chain2[-1]):  # a loop (a closed die) goes on past its seam
            onward = np.concatenate([onward, chain2[1 : at_axis + 1]])
            back = onward[::-1]
        for part, sign in ((onward, 1.0), (back, -1.0)):
            # Each half may run to either side of the axis.
            direction = 1.0 if part[0, 0] > 0 or (part[0, 0] == 0 and sign > 0) else -1.0
            row = k if direction > 0 else k + half
            line = np.concatenate([top[None], part]) * [direction, 1.0]
            beyond = np.flatnonzero(line[1:, 0] < 0)  # past the axis again it is the other half's
            line = line[: beyond[0] + 1] if len(beyond) else line
            arc = np.r_[0.0, np.cumsum(np.hypot(*np.diff(line, axis=0).T))]
            at = np.arange(samples) * STEP_MM
            inside = at <= arc[-1]
            radius[row, inside] = np.interp(at[inside], arc, line[:, 0])
            height[row, inside] = np.interp(at[inside], arc, line[:, 1])
    return Profiles(axes, azimuth_deg, radius, height)


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
