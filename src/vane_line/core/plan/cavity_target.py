"""A cavity's target: the tooth with an occlusal part, boxes and covered cusps taken out of it, as a tapered bur with a
rounded end would leave it. Decay and an old filling decide the rest: a plan does not see them.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from scipy.interpolate import RegularGridInterpolator
from scipy.ndimage import grey_dilation, grey_erosion
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.judge.limits import Bounds, Limits
from vane_line.core.judge.standards import Standard
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.body import GRID_MM, Standing, rounded_max
from vane_line.core.plan.cavity_shape import INNER_MM, LOW_SHARE, BoxPlan, CavityShape, cavity_shape, signed
from vane_line.core.plan.depths import Site
from vane_line.core.plan.plan import Ground
from vane_line.core.plan.target import back_depth
from vane_line.core.tooth.anatomy import Anatomy
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import xyz

EDGE_MM = 0.4  # radius of the edges between floors, walls and covered cusps
COVER_COSINE = 0.42  # steeper is a covered cusp's outer side, to which the cut goes straight out
COVER_REACH_MM, COVER_CELL_MM = 2.0, 0.1
CREST_MM = 0.5  # radius of a covered cusp's crests: a mill's bur
CUSP_ZONES = ("functional-cusp", "non-functional-cusp")
FOLLOWS = "follows from gingiva and contact"


class CavityTarget:
    """A cavity on one tooth: its shape, and what is told and made of it. whole: the sites of all cusps and grooves."""

    def __init__(self, ground: Ground, standard: Standard, whole: list[Site]) -> None:
        self.shape = cavity_shape(ground, standard)
        self._ground, self._standard, self._whole = ground, standard, whole

    @cached_property
    def sites(self) -> list[Site]:
        """The covered cusps' sites, the pulpal floor's and each box's."""
        shape, axes = self.shape, self._ground.axes
        own = [s for s in self._cusps if _cusp(s) in shape.covered]
        known, why = all(s.depth_mm is not None for s in self._whole), self._whole[0].why if self._whole else ""
        for zone, where, (at, height), level, bounds in self._places():
            deep = height - level
            limits, most, told, gap = Limits(deep, deep, deep, FOLLOWS), None, FOLLOWS, 0.0
            if bounds is not None:
                limits = Limits(bounds.min or 0.0, bounds.target or deep, bounds.max or deep, bounds.source)
                most, told, gap = limits.max, "", self._ground.lift_mm
            own.append(Site(
                zone=zone, where=where, at=xyz(axes.world(np.array([[*at, height]]))[0]), needed=limits, gap_mm=gap,
                depth_mm=deep if known else None, most_mm=most, use=None, why=told if known else why,
            ))  # fmt: skip
        return own

    @property
    def _cusps(self) -> list[Site]:
        return [s for s in self._whole if s.zone.split("/")[0] in CUSP_ZONES]

    def _places(self) -> list[tuple[str, str, tuple[Floats, float], float, Bounds | None]]:
        """Zone, words, place in plan and height there, level and bounds of the floors."""
        shape, depth = self.shape, self._standard.bounds("cavity-depth")
        rows: list[tuple[str, str, tuple[Floats, float], float, Bounds | None]] = [
            ("floor", "floor of the cavity", _shallowest(shape), shape.level, depth)
        ]
        for box in shape.boxes:
            middle = (box.ends[0][1] + box.ends[1][1]) / 2
            x = box.sign * (box.axial + float(self._standard.bounds("box-depth").target or 1.3) / 2)
            at = np.array([x, middle])
            rows.append((f"box/{box.side}", f"{box.side} box", (at, shape.top.at(at)), box.level, None))
        return rows

    def body(self) -> Surface:
        """The prepared tooth, open below."""
        there, parts = self._there, self._parts
        if self.shape.covered:
            own = [s for s in self.sites if _cusp(s) in self.shape.covered and s.depth_mm is not None]
            parts = [*parts, self._cover(own, self.shape.covered, there.local)]
        hollow = -rounded_max([-p for p in parts], EDGE_MM) if len(parts) > 1 else parts[0]
        return there.surfaced(np.maximum(there.body, -hollow))

    def cover_mm3(self) -> dict[str, float]:
        """By cusp, the mm³ of tooth that covering it takes beside what the cavity takes."""
        there = self._there
        left = there.local[(there.body < 0) & (np.minimum.reduce(self._parts) > 0)]
        sites = {_cusp(s): s for s in self._cusps if s.depth_mm is not None}
        return {
            name: float((self._cover([sites[name]], (name,), left) < 0).sum()) * GRID_MM**3 if name in sites else 0.0
            for name in self._ground.anatomy.cusps
        }

    @cached_property
    def _there(self) -> Standing:
        return Standing.of(self._ground.tooth.surface, self._ground.axes, self._ground.line)

    @cached_property
    def _parts(self) -> list[Floats]:
        """(N,) of the occlusal part and of each box: negative where it is."""
        shape, local = self.shape, self._there.local
        return [occlusal_part(shape, local), *(box_part(shape, b, local) for b in shape.boxes)]

    @cached_property
    def _relief(self) -> Relief:
        return Relief.of(self._ground.tooth.surface, self._ground.axes)

    def _cover(self, own: list[Site], covered: tuple[str, ...], local: Floats) -> Floats:
        """(N,) negative where cusps are taken down by their sites' depths, at local places (N, 3)."""
        axes, shape = self._ground.axes, self.shape
        cut, slope = self._relief.lowered(own, local[:, :2], axes)
        taken = (cut - local[:, 2]) / np.hypot(1, slope)
        bottom = axes.local(np.array([s.at for s in own]))[:, 2] - [float(s.depth_mm or 0.0) for s in own]
        over = local[:, 2] - float(np.median(bottom))
        border = _beyond(local[:, :2], self._ground.anatomy, covered) - over * np.tan(np.radians(shape.lean_deg))
        return rounded_max([taken, border, shape.level - local[:, 2]], INNER_MM)


def _cusp(site: Site) -> str:
    return site.zone.rpartition("/")[2]


def _shallowest(shape: CavityShape) -> tuple[Floats, float]:
    """A place in plan (2,) over the floor where it is the least deep, fissures aside; how high the tooth is there."""
    over = shape.top.over(shape.floor)
    if not len(over):
        middle = np.asarray(shape.floor.mean(axis=0))
        return middle, shape.top.at(middle)
    height = shape.top.broad(over)
    k = int(np.argmin(np.abs(height - np.quantile(height, LOW_SHARE))))
    return np.asarray(shape.top.tree.data)[over[k]], float(height[k])


def occlusal_part(shape: CavityShape, local: Floats) -> Floats:
    """(N,) negative where the occlusal part of the cavity is, at local places (N, 3)."""
    up = local[:, 2] - shape.level
    lean = np.radians(shape.lean_deg)
    # As a rounded end leads it: its foot is the wall's, prolonged to the floor.
    wall = (signed(shape.foot, local[:, :2]) - up * np.tan(lean)) * np.cos(lean)
    return rounded_max([wall, -up], INNER_MM)


def box_part(shape: CavityShape, box: BoxPlan, local: Floats) -> Floats:
    """(N,) negative where a box is."""
    lean, up = np.radians(shape.lean_deg), local[:, 2] - box.level
    rise = up * np.tan(lean)
    fields = [-up, (box.axial - box.sign * local[:, 0] - rise) * np.cos(lean)]
    for (x, y, flare), s in zip(box.ends, (1.0, -1.0), strict=True):
        turn = np.radians(flare)
        aside = s * (local[:, 1] - y) * np.cos(turn) - box.sign * (local[:, 0] - x) * np.sin(turn)
        fields.append((aside - rise) * np.cos(lean))
    return rounded_max(fields, INNER_MM)


@dataclass(frozen=True, eq=False)
class Relief:
    """The occlusal surface by its heights on a grid (X, Y), beyond its rim as high as there; and lowered."""

    x: Floats
    y: Floats
    height: Floats
    _lowered: dict[float, Floats] = field(default_factory=dict)  # by depth: each is made once

    @classmethod
    def of(cls, tooth: Surface, axes: Axes) -> Relief:
        """tooth: eased."""
        local = axes.local(tooth.vertices[tooth.vertex_normals @ axes.up > COVER_COSINE])
        low, high = local[:, :2].min(axis=0) - COVER_REACH_MM, local[:, :2].max(axis=0) + COVER_REACH_MM
        x, y = (np.arange(a, b, COVER_CELL_MM) for a, b in zip(low, high, strict=True))
        cells = np.stack([g.ravel() for g in np.meshgrid(x, y, indexing="ij")], axis=1)
        away, near = cKDTree(local[:, :2]).query(cells, k=4)
        weight = 1 / (away + 0.05)
        return cls(x, y, ((local[near, 2] * weight).sum(axis=1) / weight.sum(axis=1)).reshape(len(x), len(y)))

    def lowered(self, own: list[Site], places: Floats, axes: Axes) -> tuple[Floats, Floats]:
        """(N,) height and slope (mm per mm) at places in plan (N, 2) of what the surface is lowered to, square to it by
        the depth that the sites want there; beyond its rim straight outward."""
        depths = [float(s.depth_mm or 0.0) for s in own]
        shallow, deep = (self._to(d) for d in (min(depths), max(depths)))
        share = np.zeros(len(places))
        if max(depths) > min(depths):
            share = np.clip((back_depth(places, own, axes) - min(depths)) / (max(depths) - min(depths)), 0, 1)
        height, slope = (
            self._read(one, places) * (1 - share) + self._read(other, places) * share
            for one, other in ((shallow, deep), (_slope(shallow), _slope(deep)))
        )
        return height, slope

    def _to(self, depth: float) -> Floats:
        if depth not in self._lowered:
            self._lowered[depth] = _eroded(self.height, depth)
        return self._lowered[depth]

    def _read(self, field_: Floats, places: Floats) -> Floats:
        return np.asarray(
            RegularGridInterpolator((self.x, self.y), field_, bounds_error=False, fill_value=None)(places)
        )


def _slope(height: Floats) -> Floats:
    return np.asarray(np.hypot(*np.gradient(height, COVER_CELL_MM)))


def _eroded(height: Floats, depth: float) -> Floats:
    """A surface by its heights, lowered square to itself by at least `depth`, its crests rounded: what a ball under it
    comes up to, rolled along from below."""
    low, (square, ball) = height, _ball(depth + CREST_MM)
    low = grey_erosion(low, footprint=square, structure=ball, mode="nearest")
    square, ball = _ball(CREST_MM)
    return np.asarray(grey_dilation(low, footprint=square, structure=ball, mode="nearest"))


def _ball(radius: float) -> tuple[Bools, Floats]:
    """Where a ball stands on the cells, and how high."""
    reach = int(np.ceil(radius / COVER_CELL_MM))
    at = np.arange(-reach, reach + 1) * COVER_CELL_MM
    square = radius**2 - at[:, None] ** 2 - at[None] ** 2
    return square >= 0, np.sqrt(np.maximum(square, 0.0))


def _beyond(places: Floats, anatomy: Anatomy, covered: tuple[str, ...]) -> Floats:
    """(N,) how far places in plan lie beyond the covered cusps' ground: half way to the next standing cusp's tip."""
    standing = [t for name, t in anatomy.cusps.items() if name not in covered]
    if not standing:
        return np.full(len(places), -np.inf)
    tips, others = np.array([anatomy.cusps[n] for n in covered]), np.array(standing)
    mine = ((places[:, None] - tips[None]) ** 2).sum(axis=2)
    theirs = ((places[:, None] - others[None]) ** 2).sum(axis=2)
    near, far = mine.argmin(axis=1), theirs.argmin(axis=1)
    at = np.arange(len(places))
    apart = np.linalg.norm(tips[near] - others[far], axis=1)
    return np.asarray((mine[at, near] - theirs[at, far]) / np.maximum(2 * apart, 1e-9))
