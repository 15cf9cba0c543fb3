"""A casting held by pins planned: the back taken down, a ledge across it, two holes in the ledge.

The ledge's level and the holes' places are chosen so that the least of what has to stay (tooth round the holes, tooth
in front of the ledge) is the most; the holes run along the path, which is the face's own direction unless another is
chosen. What of the root lies below the gingiva no scan shows: cover is told to what is seen.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.ndimage import gaussian_filter1d

from vane_line.core.arrays import Floats
from vane_line.core.cast.budget import FAR_MM, until
from vane_line.core.channels.cover import cover
from vane_line.core.judge.standards import Standard
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.body import Standing, filleted_min, smooth_max
from vane_line.core.plan.depths import Site
from vane_line.core.plan.plan import Ground
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import unit

HOLE_MM = 0.65  # of the twist drill (common practice, no source)
FUNNEL_MM, FUNNEL_SLOPE = 0.15, 0.35  # of a rim that is opened a little
LEAST_LEDGE_MM = 0.75  # wide, that a hole with its rim stands in (common practice, no source)
OVER_MM = 2.0  # that a hole's drill stands out of the ledge
CHAMFER_MM, EDGE_MM = 0.3, 0.12  # inner radius of the line's chamfer, and of the ledge's wall
CONTACT_MM, CLEAR_MM = 0.35, 0.4  # to the next tooth where it is touched; of that, behind it, the line
END_SHARE = (-0.45, 0.1)  # of half the thickness, before its middle, where the line may run on the sides
SIDE_SHARE = (0.55, 0.85)  # of half the width, between which the back passes into the side
SLICE_MM = 0.3
LEAST_SQUARE = 0.35  # of the back to the ledge's level: where it lies flatter, a ledge is as wide as it comes
BEND_MM = 1.5
BESIDE_MM = 1.0  # from the line, over which its depth passes into the back's
LEVELS = (0.34, 0.62)  # of the crown over the line, between which the ledge may lie
LEVEL_STEP_MM, ASIDE_STEP_MM = 0.25, 0.2
ASIDE_SHARE = (0.09, 0.40)  # of the mesiodistal size, from the middle, between which a hole may stand
APART_MM = 0.6  # of cover that a millimetre further aside is worth: far apart two pins hold better
WALL_MM = 0.35  # over the ledge, where the tooth in front of it is the thinnest
AROUND_MM = 0.9  # beside the outer holes, over which the ledge goes on
FACE_SHARES, FACE_ASIDE = (0.35, 0.85), 0.15  # of height and half-width: the part of the face that the path follows
MOST_LEAN_DEG = 30.0
LEAST_SEEN = 8  # places across the ledge's level


def along_face(tooth: Surface, axes: Axes) -> Floats:
    """(3,) a path within the plane of face and back that runs along the face's incisal two thirds (common practice for
    castings behind front teeth: no wall there is undercut then)."""
    local = axes.local(tooth.vertices)
    low, high = np.quantile(local[:, 2], [0.02, 0.999])
    half = float(np.ptp(local[:, 0])) / 2
    first, last = (float(low + s * (high - low)) for s in FACE_SHARES)
    level = np.linspace(first, last, 24)
    middle = float(local[:, 0].max() + local[:, 0].min()) / 2
    face = np.median([_reach(tooth, axes, np.full(24, middle + a * half), level, 1.0)
                      for a in (-FACE_ASIDE, 0.0, FACE_ASIDE)], axis=0)  # fmt: skip
    seen = np.isfinite(face)
    if seen.sum() < 6:
        return axes.up
    slope = float(np.polyfit(level[seen], face[seen], 1)[0])
    most = float(np.tan(np.radians(MOST_LEAN_DEG)))
    return unit(axes.up + float(np.clip(slope, -most, most)) * axes.zero)


def _reach(tooth: Surface, axes: Axes, x: Floats, z: Floats, sign: float) -> Floats:
    """(N,) how far facial of the axis the tooth's outermost surface lies at places, as seen from the face (sign 1), or
    from behind (-1); nan where nothing is there."""
    back = until(tooth, axes.world(np.stack([x, np.zeros(len(x)), z], axis=1)), sign * axes.zero)
    return np.asarray(np.where(np.isfinite(back), sign * (FAR_MM - back), np.nan))


@dataclass(frozen=True)
class PlannedHole:
    """Local: middle of its rim; along the path. deep_mm: from the ledge. cover_mm: to the tooth's outside."""

    x: float
    y: float
    z: float
    deep_mm: float
    cover_mm: float

    def hollow(self, local: Floats) -> Floats:
        """(N,) negative where the drill takes tooth away, its rim funnelled."""
        up = local[:, 2] - self.z
        away = np.hypot(local[:, 0] - self.x, local[:, 1] - self.y)
        funnel = np.clip(up + FUNNEL_MM, 0, 0.4) * FUNNEL_SLOPE
        return np.asarray(np.maximum.reduce([away - HOLE_MM / 2 - funnel, -self.deep_mm - up, up - OVER_MM]))


@dataclass(frozen=True, eq=False)
class Ledge:
    """Its level (local), how far lingual its wall stands (X,) at places aside (X,), and its holes."""

    level: float
    aside: Floats
    wall: Floats
    holes: list[PlannedHole]

    def wall_at(self, x: Floats) -> Floats:
        """(N,) y of the wall; beyond the ledge's ends it runs out backward."""
        beyond = np.maximum(np.maximum(self.aside[0] - x, x - self.aside[-1]), 0.0)
        return np.asarray(np.interp(x, self.aside, self.wall) - beyond)


class PinTarget:
    """The target of one tooth on its ground, by the depths of its sites.

    The cut's border and depths are told about the tooth's own axes, ledge and holes along the path.
    """

    def __init__(self, ground: Ground, standard: Standard, sites: list[Site]) -> None:
        self._ground, self._tooth, own = ground, ground.tooth.surface, ground.axes
        self._along = Axes.make(own.origin, ground.path, own.zero, own.quarter)
        self._local, self._seen = own.local(self._tooth.vertices), self._along.local(self._tooth.vertices)
        depth = {s.zone: float(s.depth_mm or 0.0) for s in sites}
        self.back_mm = depth.get("lingual-fossa", 0.0)
        self.edge_mm = depth.get("incisal-edge", self.back_mm)
        self.line_mm = float(standard.width_limits("lingual").target or self.back_mm)
        self.ledge_mm = max(float(standard.bounds("pin-ledge").target or 0.0), LEAST_LEDGE_MM)
        self.deep_mm = float(standard.bounds("pin-depth").target or 0.0)
        self._cover, self._left = standard.bounds("pin-cover"), standard.bounds("tooth-left")

    def body(self) -> Surface:
        """The prepared tooth, open below."""
        there = Standing.of(self._tooth, self._ground.axes, self._ground.line)
        x, y, z = there.local.T
        left = -smooth_max(-there.ledge, y - self._end(x, z), BEND_MM)  # the line turns up the side without a corner
        wanted = self._depth(z)
        wanted = self.line_mm + (wanted - self.line_mm) * np.clip(left / BESIDE_MM, 0, 1)
        core = there.body + wanted
        along = self._along.local(self._ground.axes.world(there.local))
        ledge = self.ledge
        if ledge is not None:
            shelf = np.minimum(ledge.wall_at(along[:, 0]) - along[:, 1], along[:, 2] - ledge.level)
            core = smooth_max(core, shelf, EDGE_MM)
        value = np.maximum(there.body, filleted_min(core, left, CHAMFER_MM))
        for hole in ledge.holes if ledge is not None else ():
            value = np.maximum(value, -hole.hollow(along))
        return there.surfaced(value)

    @cached_property
    def ledge(self) -> Ledge | None:
        """The one that leaves most, or through the holes that a person placed; None where the tooth is nowhere thick
        enough for a ledge and two holes."""
        by_hand = self._ground.options.holes
        if by_hand:
            places = self._along.local(np.array(by_hand))
            made = self._ledge_at(float(places[:, 2].mean()), places[:, 0])
            return None if made is None else made[1]
        line = self._along.local(self._ground.line.points())
        foot = float(line[np.argmin(line[:, 1]), 2])  # behind, in the middle
        top = float(np.quantile(self._seen[:, 2], 0.999))
        low, high = (foot + s * (top - foot) for s in LEVELS)
        found = [self._ledge_at(level) for level in np.arange(low, high, LEVEL_STEP_MM)]
        rated = [f for f in found if f is not None]
        return max(rated, key=lambda f: f[0])[1] if rated else None

    def _depth(self, z: Floats) -> Floats:
        """(N,) wanted off the back at heights; right under the edge as much as there."""
        foot = float(self._ground.line.height.mean())
        share = (z - foot) / max(float(np.quantile(self._local[:, 2], 0.999)) - foot, 1.0)
        return np.asarray(np.interp(share, [0.80, 0.92], [self.back_mm, max(self.edge_mm, self.back_mm)]))

    @cached_property
    def _thick(self) -> tuple[Floats, Floats, Floats, Floats]:
        """Heights, y of face and back there in the middle of the tooth, and half its width."""
        x, _, height = self._local.T
        z = np.linspace(float(height.min()) + 0.2, float(height.max()) - 0.2, 50)
        axes, middle = self._ground.axes, np.zeros(len(z))
        face, back = (_eased(_reach(self._tooth, axes, middle, z, s)) for s in (1.0, -1.0))
        wide = np.array([float(np.abs(x[np.abs(height - at) < SLICE_MM]).max(initial=0.0)) for at in z])
        return z, face, back, np.maximum(_eased(np.where(wide > 0, wide, np.nan)), 0.5)

    @cached_property
    def _share(self) -> float:
        """Where the line runs on the sides: behind both contacts, of half the thickness before its middle."""
        z, face, back, _ = self._thick
        beside = self._ground.beside
        low, high = END_SHARE
        if not len(beside):
            return high
        away = np.abs(self._tooth.gap(beside))
        local = self._ground.axes.local(beside[away < CONTACT_MM])
        if not len(local):
            return high
        middle, half = (np.interp(local[:, 2], z, f) for f in ((face + back) / 2, (face - back) / 2))
        before = (local[:, 1] - CLEAR_MM - middle) / np.maximum(half, 0.5)
        return float(np.clip(np.quantile(before, 0.05), low, high))

    def _end(self, x: Floats, z: Floats) -> Floats:
        """(N,) y of where the cut ends towards the face: on the sides behind the contacts."""
        level, face, back, wide = self._thick
        aside = np.abs(x) / np.interp(z, level, wide)
        share = np.interp(aside, SIDE_SHARE, [END_SHARE[1], self._share])
        return np.asarray(np.interp(z, level, (face + back) / 2) + share * np.interp(z, level, (face - back) / 2))

    def _ledge_at(self, level: float, by_hand: Floats | None = None) -> tuple[float, Ledge] | None:
        """A ledge at a level and what it is worth; None where none can be there. by_hand: places aside of its holes."""
        across = self._seen[:, 0]
        size, middle = float(np.ptp(across)), float(across.max() + across.min()) / 2
        reach = max(ASIDE_SHARE[1] * size, *(np.abs((by_hand if by_hand is not None else np.zeros(1)) - middle)))
        aside = middle + np.arange(-reach - AROUND_MM, reach + AROUND_MM, ASIDE_STEP_MM)
        z = np.full(len(aside), level)
        behind = _reach(self._tooth, self._along, aside, z, -1.0)
        before = _reach(self._tooth, self._along, aside, z + WALL_MM, 1.0)
        seen = np.isfinite(behind) & np.isfinite(before)
        if seen.sum() < LEAST_SEEN:
            return None
        aside, before = aside[seen], before[seen]
        behind = np.asarray(gaussian_filter1d(behind[seen], 1.5, mode="nearest"))
        wall = behind + self._off(behind, aside, level) + self.ledge_mm
        if by_hand is not None:
            holes = [self._hole(float(x), aside, wall, level) for x in by_hand]
        else:
            off = (aside - middle) / size
            inner, outer = ASIDE_SHARE
            holes = [self._best(aside[(s * off > inner) & (s * off < outer)], middle, aside, wall, level)
                     for s in (1.0, -1.0)]  # fmt: skip
        placed = [h for h in holes if h is not None]
        if not placed or len(placed) < len(holes):
            return None
        first, last = min(h.x for h in placed), max(h.x for h in placed)
        left = float((before - wall)[(aside > first - HOLE_MM) & (aside < last + HOLE_MM)].min(initial=FAR_MM))
        cover_mm = min(h.cover_mm for h in placed)
        spare = min(cover_mm - float(self._cover.min or 0.0), left - float(self._left.min or 0.0))
        held = (aside > first - AROUND_MM) & (aside < last + AROUND_MM)
        return spare, Ledge(level, aside[held], wall[held], placed)

    def _off(self, behind: Floats, aside: Floats, level: float) -> Floats:
        """(K,) how far facial, at a level, the back lies once it is taken down square to itself."""
        places = self._along.world(np.stack([aside, behind, np.full(len(aside), level)], axis=1))
        _, face, _ = self._tooth.closest(places)
        square = -(self._tooth.face_normals[face] @ self._along.zero)
        return np.asarray(self.back_mm / np.clip(gaussian_filter1d(square, 1.5, mode="nearest"), LEAST_SQUARE, 1.0))

    def _best(self, places: Floats, middle: float, aside: Floats, wall: Floats, level: float) -> PlannedHole | None:
        """Of the places aside (K,) on one side: with cover enough, far from the other hole."""
        row = [h for h in (self._hole(float(x), aside, wall, level) for x in places) if h is not None]
        enough = float(self._cover.target or 0.0)
        return max(row, key=lambda h: min(h.cover_mm, enough) + APART_MM * abs(h.x - middle), default=None)

    def _hole(self, x: float, aside: Floats, wall: Floats, level: float) -> PlannedHole | None:
        """In the middle of the ledge at a place; None where nothing says how much tooth is round it."""
        y = float(np.interp(x, aside, wall)) - self.ledge_mm / 2
        rim, end = self._along.world(np.array([[x, y, level], [x, y, level - self.deep_mm]]))
        told = cover(rim, end, HOLE_MM / 2, [self._outside])
        return None if told is None else PlannedHole(x, y, level, self.deep_mm, told[0])

    @cached_property
    def _outside(self) -> Surface:
        """What is left of the tooth's surface as it was: before the line, and under it."""
        x, y, z = self._local.T
        under = z < self._ground.line.at(self._ground.axes.azimuth_of(self._local), self._ground.line.height)
        return self._tooth.keep_vertices(under | (y > self._end(x, z)))[0]


def _eased(values: Floats) -> Floats:
    """Without gaps, and without noise."""
    k = np.arange(len(values))
    seen = np.isfinite(values)
    filled = np.interp(k, k[seen], values[seen]) if seen.any() else np.zeros(len(values))
    return np.asarray(gaussian_filter1d(filled, 1.0))
