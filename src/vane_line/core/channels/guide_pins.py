"""Guide pins that stand in their holes: found on the scan by their form alone, measured, and taken off it.

A pin tells a hole's direction better than the hole does, whose bottom no scanner sees. But it stands over the cut,
which is to be read as if it were not there: the surface is closed over its foot.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.channels.cone import Cone, fit_cone
from vane_line.core.mesh.points import joined
from vane_line.core.mesh.surface import Surface

THICK_MM = (0.35, 1.1)  # across a pin, through it
LEAST_MM2, LEAST_LONG_MM = 1.2, 1.2
RADIUS_MM, ROUND_DEG, RMS_MM = (0.2, 0.55), 300.0, 0.06
ENDS_MM = 0.25  # of a pin's length: a rounded end, and the scan's own fillet at its foot
FLAT_COSINE = 0.8  # of the ledge that it stands on, to its axis
FOOT_MM = 0.35  # round a pin's foot: what is closed over
LEAST_POINTS = 30


@dataclass(frozen=True, eq=False)
class Pin:
    """A guide pin: its cone, its foot and its end on its axis (3,), and how long it stands out."""

    cone: Cone
    foot: Floats
    end: Floats

    @property
    def length_mm(self) -> float:
        return float(np.linalg.norm(self.end - self.foot))


def pulled(prep: Surface) -> tuple[Surface, tuple[Pin, ...]]:
    """The scan closed over the feet of its guide pins, and the pins."""
    pins = []
    thin = _thin(prep)
    label = prep.parts(thin)
    for number in np.unique(label[thin]):
        part = thin & (label == number)
        if prep.vertex_areas[part].sum() >= LEAST_MM2:
            pin = _pin(prep, part)
            if pin is not None:
                pins.append(pin)
    surface = prep
    for pin in pins:
        surface = _closed(surface, _of_pin(surface, pin), pin.foot)
    return surface, tuple(pins)


def _thin(surface: Surface) -> Bools:
    """(V,) what has surface that faces the other way so near behind it."""
    normals = surface.vertex_normals
    face, along = surface.first_hit(surface.vertices - 0.05 * normals, -normals)
    hit = (face >= 0) & (along + 0.05 > THICK_MM[0]) & (along + 0.05 < THICK_MM[1])
    across = np.full(surface.n_vertices, 1.0)
    across[hit] = np.einsum("ij,ij->i", normals[hit], surface.face_normals[face[hit]])
    return hit & (across < -0.8)


def _pin(surface: Surface, part: Bools) -> Pin | None:
    """The pin of one thin part; None where it is none: a thin edge, a papilla, a spur of the scan."""
    points, normals = surface.vertices[part], surface.vertex_normals[part]
    if len(points) < LEAST_POINTS:
        return None
    # Normals of a round rod lie in the plane across it.
    axis = np.linalg.eigh(normals.T @ normals)[1][:, 0]
    height = points @ axis
    low, high = np.quantile(height, [0.01, 0.99])
    if high - low < LEAST_LONG_MM:
        return None
    inner = (height > low + ENDS_MM) & (height < high - ENDS_MM)
    cone = fit_cone(points[inner], axis)
    if cone is None or cone.rms_mm > RMS_MM or cone.seen_deg < ROUND_DEG:
        return None
    if not RADIUS_MM[0] < cone.radius_mm < RADIUS_MM[1]:
        return None
    return _ended(surface, cone)


def _ended(surface: Surface, cone: Cone) -> Pin | None:
    """Where it ends freely and where it stands: there surface spreads round it."""
    off, height = cone.off(surface.vertices)
    own = off < cone.radius_mm + 0.1
    spread = (off > cone.radius_mm + 0.25) & (off < cone.radius_mm + 0.9)
    reach = height[own & (np.abs(height) < 12)]
    near = _joined(height[own], LEAST_LONG_MM)
    low, high = (near.min(), near.max()) if len(near) else (reach.min(), reach.max())
    flat = np.abs(surface.vertex_normals @ cone.direction) > FLAT_COSINE
    below, above = (spread & flat & (np.abs(height - level) < 0.8) for level in (low, high))
    if below.sum() == above.sum() == 0:
        return None
    sign = 1.0 if below.sum() >= above.sum() else -1.0
    foot_level = float(np.median(height[below if sign > 0 else above]))
    end_level = float(high if sign > 0 else low)
    foot, end = (cone.middle + level * cone.direction for level in (foot_level, end_level))
    told = Cone(cone.middle, sign * cone.direction, cone.radius_mm, sign * cone.widens, cone.rms_mm, cone.seen_deg)
    return Pin(told, foot, end)


def _joined(height: Floats, gap_mm: float) -> Floats:
    """Of heights along an axis, those that hang together with nought."""
    order = np.sort(height)
    at = int(np.argmin(np.abs(order)))
    breaks = np.flatnonzero(np.diff(order) > gap_mm)
    first = breaks[breaks < at].max() + 1 if (breaks < at).any() else 0
    last = breaks[breaks >= at].min() + 1 if (breaks >= at).any() else len(order)
    return order[first:last]


def _of_pin(surface: Surface, pin: Pin) -> Bools:
    """(V,) the pin itself, and the little round its foot that stands up to it."""
    off, height = pin.cone.off(surface.vertices)
    foot = float((pin.foot - pin.cone.middle) @ pin.cone.direction)
    body = (off < pin.cone.radius_mm + 0.15) & (height > foot - 0.3) & (height < foot + pin.length_mm + 0.3)
    return body | ((off < pin.cone.radius_mm + FOOT_MM) & (np.abs(height - foot) < 0.6))


def _closed(surface: Surface, gone: Bools, foot: Floats) -> Surface:
    """The surface without what is `gone` (V,), each hole that this tears closed by a fan: about the pin's foot (3,),
    which lies on the ledge as its rim on the wall beside it does not."""
    kept, index = surface.keep_vertices(~gone)
    was = np.zeros(surface.n_vertices, dtype=bool)
    was[surface.border_edges.ravel()] = True
    rim = kept.border_edges
    rim = rim[~was[index[rim]].all(axis=1)]
    if len(rim) == 0:
        return kept
    ends = np.unique(rim)
    number = np.searchsorted(ends, rim)
    count, loop = joined(number[:, 0], number[:, 1], len(ends))
    largest = int(np.bincount(loop).argmax())
    vertices, faces = [kept.vertices], [kept.faces]
    for k in range(count):
        mine = rim[loop[number[:, 0]] == k]
        middle = foot if k == largest else kept.vertices[np.unique(mine)].mean(axis=0)
        vertices.append(middle[None])
        centre = np.full(len(mine), kept.n_vertices + k)
        faces.append(_wound(kept, mine, centre))
    return Surface(np.concatenate(vertices), np.concatenate(faces))


def _wound(surface: Surface, rim: Ints, centre: Ints) -> Ints:
    """Triangles from the rim's edges (R, 2) to a new vertex, wound like the faces that they adjoin."""
    size = np.int64(surface.n_vertices)
    f = surface.faces
    ways = np.concatenate([f[:, [0, 1]], f[:, [1, 2]], f[:, [2, 0]]])
    forward = np.isin(rim[:, 0] * size + rim[:, 1], ways[:, 0] * size + ways[:, 1])
    a, b = np.where(forward, rim[:, 1], rim[:, 0]), np.where(forward, rim[:, 0], rim[:, 1])
    return np.stack([a, b, centre], axis=1)
