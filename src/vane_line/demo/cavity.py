"""Cavities as burs leave them: strokes of a tapered bur with a rounded end, led along a course, and covered cusps."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.demo.anatomy import Tooth

FAR_MM = 4.0


@dataclass(frozen=True)
class Stroke:
    """A tapered bur led along a course in plan, its tip at a level, its axis along the path or leaned.

    course: (x, y) shares of the tooth's mesiodistal and faciolingual size. half_mm: from the course to the wall's foot.
    level_mm: of the floor, over the neck. taper_deg: of each wall. end_mm: radius of the bur's rounded end.
    lean_deg: of the axis, towards facial: what is cut then hangs over on that side.
    """

    course: tuple[tuple[float, float], ...]
    half_mm: float
    level_mm: float
    taper_deg: float = 6.0
    end_mm: float = 0.45
    lean_deg: float = 0.0

    def __call__(self, tooth: Tooth, local: Floats) -> Floats:
        """(N,) negative where the bur takes tooth away."""
        _, md, _, fl, _ = tooth.size
        at = np.array(self.course) * [md, fl] + [0.0, float(tooth.lean(tooth.size[0]))]
        up = local[:, 2] - self.level_mm
        plan = local[:, :2] - np.stack([np.zeros(len(up)), up * np.tan(np.radians(self.lean_deg))], axis=1)
        away = np.full(len(plan), np.inf)
        for a, b in pairwise(at):
            along = b - a
            t = np.clip((plan - a) @ along / max(float(along @ along), 1e-9), 0, 1)
            away = np.minimum(away, np.linalg.norm(plan - a - t[:, None] * along, axis=1))
        lean = np.tan(np.radians(self.taper_deg))
        wall = (away - self.half_mm - up * lean) / np.hypot(1, lean)
        k = self.end_mm
        rounded = np.hypot(np.maximum(wall + k, 0), np.maximum(-up + k, 0)) - k
        return np.where((wall > -k) & (-up > -k), rounded, np.maximum(wall, -up))


@dataclass(frozen=True)
class Cover:
    """Cusps reduced by a depth along the path, over a stretch in plan with sides that lean as the bur does.

    from_share, to_share: along the mesiodistal size, from distal; side: +1 the facial cusps, -1 the lingual ones.
    """

    depth_mm: float
    from_share: float
    to_share: float
    side: int
    taper_deg: float = 8.0

    def __call__(self, tooth: Tooth, local: Floats) -> Floats:
        """(N,) negative where tooth is taken away."""
        length, md, *_ = tooth.size
        x, y, z = local.T
        reach = np.clip(x, -0.46 * md, 0.46 * md)
        top = tooth.occlusal_height(reach, y, fissures=False) - self.depth_mm
        over = (top - z) * 0.85
        lean = (z - top) * np.tan(np.radians(self.taper_deg))
        ends = np.maximum(self.from_share * md - x, x - self.to_share * md) - lean
        middle = -self.side * (y - float(tooth.lean(length))) - lean
        return np.maximum.reduce([over, ends, middle])


@dataclass(frozen=True)
class Cavity:
    """Everything that was cut for an inlay or onlay."""

    strokes: tuple[Stroke, ...]
    covers: tuple[Cover, ...] = ()

    def hollow(self, tooth: Tooth, local: Floats) -> Floats:
        """(N,) negative where tooth was taken away."""
        parts = [s(tooth, local) for s in self.strokes] + [c(tooth, local) for c in self.covers]
        return np.asarray(np.minimum.reduce(parts)) if parts else np.full(len(local), FAR_MM)

    def shape(self, tooth: Tooth) -> Callable[[Floats], Floats]:
        """The prepared tooth as a function of its local points."""
        return lambda local: np.maximum(tooth(local), -self.hollow(tooth, local))
