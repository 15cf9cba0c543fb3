"""Holes for pins in the cut: pits that a look along the path finds, read as far as the scan shows their walls."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import grey_closing, label

from vane_line.core.arrays import Bools, Floats
from vane_line.core.channels.channel import LedgeRound
from vane_line.core.channels.cone import Cone, fit_cone
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import about_axis, unit

PIXEL_MM = 0.08
WIDE_MM = 1.3  # a pit that is wider is no pin's
LEAST_DEEP_MM = 0.4
AREA_MM2 = (0.05, 1.1)
FUNNEL_MM, BOTTOM_MM = 0.3, 0.15  # of the depth at the rim and at the bottom that say nothing of the axis
WALL_COSINE = 0.6
RADIUS_MM, ROUND_DEG, RMS_MM = (0.2, 0.6), 250.0, 0.08
NEAR_MM = 0.75  # of the axis: what can be the hole's own wall
RING_MM = 0.75  # the ledge round it
CLOSED_MM = 0.45  # beyond a pin's radius: what was closed over its foot says nothing
FLOOR_COSINE, FLOOR_OFF_MM = 0.82, 0.25  # of the ledge to the path, and how far it may lie off the rim
BESIDE_MM = 0.3  # to either side of the hole: where the ledge's width is told
LEAST_FLOOR = 12
BEFORE_MM = 0.1  # facial of a hole's middle: there no back is taken for the ledge
SETTLES, SAME_PLANE_MM, SAME_WAY_COSINE = 4, 0.06, 0.966  # 15 degrees: an eased edge is left out
OFF_PLANE_MM, OFF_SLOPE = 0.08, 0.35
ENDS_MM = 0.25  # of a ledge's width, at its edge and its foot together, is seen sloping (set on seeds 200 to 206)


@dataclass(frozen=True, eq=False)
class Hole:
    """cone: of its walls, pointing out of the tooth; rim, bottom: (3,) on its axis."""

    cone: Cone
    rim: Floats
    bottom: Floats
    floor: LedgeRound

    @property
    def depth_mm(self) -> float:
        return float(np.linalg.norm(self.rim - self.bottom))


@dataclass(frozen=True, eq=False)
class View:
    """The cut seen along the path: height of each pixel (nan where nothing is), and where the first one is."""

    height: Floats
    low: Floats
    axes: Axes

    def place(self, row: float, column: float) -> Floats:
        """x, y across the path."""
        return self.low + PIXEL_MM * np.array([row, column])


def find_holes(inside: Surface, view: View) -> list[Hole]:
    """inside: the cut as scanned; view: of it along the path."""
    seen = np.isfinite(view.height)
    if seen.sum() < LEAST_FLOOR:
        return []
    filled = np.where(seen, view.height, np.nanmin(view.height) - 5)
    closed = grey_closing(filled, footprint=_disc(WIDE_MM))
    parts, count = label((closed - filled > LEAST_DEEP_MM) & seen)
    found = []
    for number in range(1, count + 1):
        rows, columns = np.nonzero(parts == number)
        area = len(rows) * PIXEL_MM**2
        if not AREA_MM2[0] < area < AREA_MM2[1]:
            continue
        place = view.place(rows.mean(), columns.mean())
        hole = _hole(inside, view, place, float(closed[rows, columns].max()))
        if hole is not None:
            found.append(hole)
    return found


def _disc(wide_mm: float) -> Bools:
    radius = wide_mm / 2 / PIXEL_MM
    reach = np.arange(-np.ceil(radius), np.ceil(radius) + 1)
    return np.asarray(np.hypot(*np.meshgrid(reach, reach)) <= radius)


def look(inside: Surface, axes: Axes) -> View:
    """inside: the cut as scanned; axes: along the path."""
    off = inside.vertices - axes.origin
    x, y, z = off @ axes.zero, off @ axes.quarter, off @ axes.up
    low, high = np.array([x.min(), y.min()]), np.array([x.max(), y.max()])
    count = np.ceil((high - low) / PIXEL_MM).astype(int) + 1
    rows, columns = np.meshgrid(*(np.arange(n) for n in count), indexing="ij")
    top = float(z.max()) + 1.0
    places = low + PIXEL_MM * np.stack([rows, columns], axis=-1).reshape(-1, 2)
    start = axes.origin + places[:, :1] * axes.zero + places[:, 1:] * axes.quarter + top * axes.up
    face, along = inside.first_hit(start, -axes.up)
    height = np.where(face >= 0, top - along, np.nan).reshape(count[0], count[1])
    return View(height, low, axes)


def _hole(inside: Surface, view: View, place: Floats, rim: float) -> Hole | None:
    axes = view.axes
    foot = axes.origin + place[0] * axes.zero + place[1] * axes.quarter
    normals = inside.vertex_normals
    cone, up = None, axes.up
    for _ in range(2):  # found along the path, then along itself
        away, level = about_axis(inside.vertices, foot, up)
        base = rim if cone is None else float((axes.origin + rim * axes.up - foot) @ up)
        deep = (away < NEAR_MM) & (level < base - FUNNEL_MM) & (level > base - 5.0)
        if not deep.any():
            return None
        middle = level[deep & (away < RADIUS_MM[1])]
        bottom = float(np.quantile(middle, 0.02)) if len(middle) else float(level[deep].min())
        walls = deep & (np.abs(normals @ up) < WALL_COSINE) & (level > bottom + BOTTOM_MM)
        out = unit(inside.vertices - foot - level[:, None] * up)
        walls &= np.einsum("ij,ij->i", normals, out) < -0.3  # a hole's wall faces its axis
        cone = fit_cone(inside.vertices[walls], up)
        if cone is None or cone.rms_mm > RMS_MM or cone.seen_deg < ROUND_DEG:
            return None
        up, foot = cone.direction, cone.middle
    if cone is None or not RADIUS_MM[0] < cone.radius_mm < RADIUS_MM[1]:
        return None
    return _measured(inside, view, cone, rim)


def _measured(inside: Surface, view: View, cone: Cone, rim: float) -> Hole | None:
    axes = view.axes
    away, level = cone.off(inside.vertices)
    at_rim = float((axes.origin + rim * axes.up - cone.middle) @ cone.direction)
    bottom = away < 0.7 * cone.radius_mm
    bottom &= (level < at_rim - LEAST_DEEP_MM / 2) & (level > at_rim - 5.0)
    if not bottom.any():
        return None
    lowest = float(np.quantile(level[bottom], 0.1))
    floor = _floor(inside, cone, axes, at_rim)
    at_rim = at_rim if floor is None else floor.met_by(cone, axes)
    top, end = (cone.middle + v * cone.direction for v in (at_rim, lowest))
    return Hole(cone, top, end, _ledge(view, top, cone, floor))


def floor_beside(inside: Surface, foot: Floats, cone: Cone, view: View) -> LedgeRound:
    """The ledge about a guide pin that was taken off, from its foot (3,)."""
    floor = _floor(inside, cone, view.axes, float((foot - cone.middle) @ cone.direction), CLOSED_MM)
    return _ledge(view, foot, cone, floor, CLOSED_MM)


@dataclass(frozen=True, eq=False)
class _Floor:
    """The plane of the ledge round a hole: its height over the path's cross-section is fit @ (x, y, 1), x facial and y
    mesial of the cone's middle."""

    fit: Floats

    @property
    def slope_deg(self) -> float:
        return float(np.degrees(np.arctan(np.hypot(self.fit[0], self.fit[1]))))

    def over(self, x: Floats, y: Floats) -> Floats:
        return np.asarray(self.fit[0] * x + self.fit[1] * y + self.fit[2])

    def met_by(self, cone: Cone, axes: Axes) -> float:
        """How high over its middle the cone's axis meets it."""
        normal = self.normal(axes)
        return float(self.fit[2] * (axes.up @ normal) / (cone.direction @ normal))

    def normal(self, axes: Axes) -> Floats:
        """(3,) unit, out of the tooth."""
        return unit(axes.up - self.fit[0] * axes.zero - self.fit[1] * axes.quarter)


def _floor(inside: Surface, cone: Cone, axes: Axes, at_rim: float, from_mm: float = 0.15) -> _Floor | None:
    """The ledge round a hole, None where too little is seen of it.

    A back that slopes little to the path looks like a ledge that slopes. It is told first where no back is: between
    the hole and the wall before it; from there on by what lies in the same plane and faces the same way.
    """
    away, level = cone.off(inside.vertices)
    ring = (away > cone.radius_mm + from_mm) & (away < cone.radius_mm + from_mm + RING_MM)
    ring &= (np.abs(level - at_rim) < FLOOR_OFF_MM) & (inside.vertex_normals @ axes.up > FLOOR_COSINE)
    if ring.sum() < LEAST_FLOOR:
        return None
    off, normals = inside.vertices[ring] - cone.middle, inside.vertex_normals[ring]
    x, y, z = off @ axes.zero, off @ axes.quarter, off @ axes.up
    base = np.stack([x, y, np.ones_like(x)], axis=1)
    own = x >= min(BEFORE_MM, float(np.sort(x)[-LEAST_FLOOR]))  # on a narrow ledge little lies before: what lies next

    def plane(own: Bools) -> _Floor:
        return _Floor(np.asarray(np.linalg.lstsq(base[own], z[own], rcond=None)[0]))

    floor = plane(own)
    for _ in range(SETTLES):
        # By its own plane's way, not by the mean of what was taken: that would turn after the back bit by bit.
        again = (np.abs(base @ floor.fit - z) < SAME_PLANE_MM) & (normals @ floor.normal(axes) > SAME_WAY_COSINE)
        if again.sum() < LEAST_FLOOR:
            break
        floor = plane(again)
    return floor


def _ledge(view: View, rim: Floats, cone: Cone, floor: _Floor | None, beside_mm: float = BESIDE_MM) -> LedgeRound:
    """Its slope, and its width where the hole's rim is; where its plane is not told, by what is level with the rim."""
    if floor is None:
        level = _Floor(np.array([0.0, 0.0, (rim - cone.middle) @ view.axes.up]))
        return LedgeRound(_width(view, rim, cone, level, beside_mm), None)
    return LedgeRound(_width(view, rim, cone, floor, beside_mm), floor.slope_deg)


def _width(view: View, rim: Floats, cone: Cone, floor: _Floor, beside_mm: float) -> float | None:
    """Of the ledge, from its edge to the foot of the wall, in the direction from face to back beside the hole."""
    axes = view.axes
    off = rim - axes.origin
    row, column = (np.array([off @ axes.zero, off @ axes.quarter]) - view.low) / PIXEL_MM
    beside = round((cone.radius_mm + beside_mm) / PIXEL_MM)
    middle = cone.middle - axes.origin
    x = view.low[0] + PIXEL_MM * np.arange(view.height.shape[0]) - middle @ axes.zero
    wide = []
    for k in (round(column) - beside, round(column) + beside):
        if 0 <= k < view.height.shape[1]:
            y = view.low[1] + PIXEL_MM * k - middle @ axes.quarter
            level = floor.over(x, np.full_like(x, y)) + middle @ axes.up
            wide.append(_run(view.height[:, k] - level, round(row)))
    told = [w for w in wide if w is not None]
    return min(told) if told else None


def _run(over: Floats, at: int) -> float | None:
    """How far pixels about `at` stay on the ledge; over: (R,) their height over its plane."""
    good = (np.abs(over) < OFF_PLANE_MM) & (np.abs(np.gradient(over, PIXEL_MM)) < OFF_SLOPE)
    near = [k for k in range(max(at - 4, 0), min(at + 5, len(over))) if good[k]]
    if not near:
        return None
    k = min(near, key=lambda v: abs(v - at))
    first = last = k
    while first > 0 and good[first - 1]:
        first -= 1
    while last + 1 < len(over) and good[last + 1]:
        last += 1
    return float((last - first) * PIXEL_MM + ENDS_MM)
