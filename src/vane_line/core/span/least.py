"""Before cutting: along which one path the least tooth goes of all abutments together, and the least of it deep.

Counted on a grid: what lies outside the wall that rises from an abutment's planned finish line along the path, what
lies less deep under its chewing surface than the standard asks, and less deep under its sides than the finish line is
wide: a wall that leans away from the tooth still has to make room. Volume alone hardly tells paths apart, since a tooth
bulges over its neck: what one wall loses by a lean the other keeps. What differs is how deep the cut goes, so each cell
counts by the square of its depth under the uncut surface. Each tooth's own axis is the best direction for it alone.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.judge.standards import Standard
from vane_line.core.plan.decide import cells_of
from vane_line.core.plan.depths import Site
from vane_line.core.plan.plan import Ground
from vane_line.core.plan.target import occlusal_faces, widths
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import any_across, unit

CELL_MM = 0.3
MOST_DEG, STEP_DEG, FINE_DEG = 28.0, 4.0, 1.0  # of lean from the jaw's own direction that is looked at
BLOCKED_MM = 0.1  # by which a neighbour may stand in the way
BLOCKED = 1000.0  # what a millimetre more of it counts for: no path at all
DEEPEST_SHARE = 0.98


@dataclass(frozen=True)
class Lost:
    """What goes of a tooth along a path: volume, how deep the deepest of it lies, and the volume counted by depth²."""

    mm3: float
    deepest_mm: float
    weighted: float


@dataclass(frozen=True, eq=False)
class Uncut:
    """An abutment before cutting. width_mm: (A,) of its planned finish line; deep_mm: to be cut off its top; taper_deg:
    of each wall."""

    ground: Ground
    width_mm: Floats
    deep_mm: float
    taper_deg: float

    @classmethod
    def of(cls, ground: Ground, standard: Standard, sites: list[Site]) -> Uncut:
        """By one standard, and the sites of the tooth's plan by it."""
        depths = [s.depth_mm for s in sites if s.depth_mm is not None]
        deep = float(np.median(depths)) if depths else 0.0
        return cls(ground, widths(ground.line, standard), deep, ground.options.taper_deg)

    @property
    def tooth(self) -> ToothNumber:
        return self.ground.options.case.tooth

    @cached_property
    def cells(self) -> Floats:
        """(N, 3) middles of the cells that the tooth fills over its planned line."""
        cells, _, filled = cells_of(self.ground, CELL_MM)
        return cells[filled]

    @cached_property
    def low(self) -> Bools:
        """(N,) which of them stay for all that top and sides lose on any path."""
        surface, up = self.ground.tooth.surface, self.ground.axes.up
        looks_up = occlusal_faces(surface, up)
        stay = np.ones(len(self.cells), dtype=bool)
        for faces, deep in ((looks_up, self.deep_mm), (~looks_up, float(self.width_mm.min()))):
            part, _ = surface.keep_faces(faces)
            away, face, place = part.signed_distance(self.cells)
            # Beyond a part's border its distance says nothing of the side: what is near it is near the other part.
            stay[~part.at_rim(face, place) & (-away < deep)] = False
        return stay

    def axes(self, path: Floats) -> Axes:
        frame = self.ground.frame
        return Axes.make(self.ground.middle, unit(path), frame.facial, frame.mesial)

    @cached_property
    def deep(self) -> Floats:
        """(N,) how far each of them lies under the uncut surface, mm."""
        return np.maximum(-self.ground.tooth.surface.signed_distance(self.cells)[0], 0.0)

    def lost(self, path: Floats) -> Lost:
        """What goes of the tooth along a path (3,)."""
        axes = self.axes(path)
        line, width = self._line(axes)
        azimuth, radius, height = axes.cylinder(self.cells)
        over = height - np.interp(azimuth, line[0], line[2], period=360)
        foot = np.interp(azimuth, line[0], line[1], period=360) - np.interp(azimuth, line[0], width, period=360)
        inside = radius < foot - over * np.tan(np.radians(self.taper_deg))
        gone = ~((inside | (over < 0)) & self.low)
        deep = self.deep[gone]
        return Lost(
            float(gone.sum()) * CELL_MM**3,
            float(np.quantile(deep, DEEPEST_SHARE)) if len(deep) else 0.0,
            float((deep**2).sum()) * CELL_MM**3,
        )

    def blocked_mm(self, path: Floats) -> float:
        """By how much the other teeth stand over the finish line, seen along a path; nought where they do not."""
        if len(self.ground.beside) == 0:
            return 0.0
        axes = self.axes(path)
        line, _ = self._line(axes)
        azimuth, radius, height = axes.cylinder(self.ground.beside)
        over = height > np.interp(azimuth, line[0], line[2], period=360)
        into = np.interp(azimuth, line[0], line[1], period=360) - radius
        return float(max(into[over].max(), 0.0)) if over.any() else 0.0

    def _line(self, axes: Axes) -> tuple[tuple[Floats, Floats, Floats], Floats]:
        """The planned line as azimuth, radius and height about other axes, in order, and its width there."""
        azimuth, radius, height = axes.cylinder(self.ground.line.points())
        order = np.argsort(azimuth)
        return (azimuth[order], radius[order], height[order]), self.width_mm[order]


@dataclass(frozen=True)
class Way:
    """One path for all: what goes of each abutment along it, and by how much other teeth stand in its way, mm."""

    name: str
    direction: tuple[float, float, float]
    lost: dict[str, Lost]
    blocked_mm: float


def way(name: str, path: Floats, abutments: list[Uncut]) -> Way:
    """What a path (3,) costs."""
    x, y, z = (float(v) for v in unit(path))
    cost = {a.tooth.fdi: a.lost(path) for a in abutments}
    return Way(name, (x, y, z), cost, max(a.blocked_mm(path) for a in abutments))


def least(abutments: list[Uncut], up: Floats) -> Floats:
    """(3,) the direction, up to MOST_DEG off `up`, along which the least goes and no other tooth is in the way."""

    def cost(path: Floats) -> float:
        blocked = max(max(a.blocked_mm(path) for a in abutments) - BLOCKED_MM, 0.0)
        return sum(a.lost(path).weighted for a in abutments) + BLOCKED * blocked

    best = min(_cone(unit(up), MOST_DEG, STEP_DEG), key=cost)
    for step in (STEP_DEG / 2, FINE_DEG):
        best = min(_cone(best, step, step), key=cost)
    return best


def _cone(up: Floats, most_deg: float, step_deg: float) -> list[Floats]:
    """Directions round `up`, about evenly spread."""
    side = any_across(up)
    other = np.cross(up, side)
    out = [up]
    for lean in np.arange(step_deg, most_deg + 1e-9, step_deg):
        count = max(6, round(2 * np.pi * lean / step_deg))
        for turn in np.arange(count) * 2 * np.pi / count:
            across = np.cos(turn) * side + np.sin(turn) * other
            out.append(unit(up + np.tan(np.radians(lean)) * across))
    return out
