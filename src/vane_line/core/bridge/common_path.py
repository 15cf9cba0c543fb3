"""The one path of insertion for several abutments, or the walls that forbid it.

The direction with the greatest least draft over all abutments' walls together; the least is the draft that 5 % of the
wall area stays under, as for one tooth. Two cones whose axes differ by an angle A and whose walls lean by T meet best
half way between, with T - A/2 on the walls that face apart and together.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.path import QUANTILE, draft_deg, least_draft, middle_of_best
from vane_line.core.spread import weighted_quantile
from vane_line.core.vectors import degrees_between, perpendicular, unit

SIDE_COSINE = np.cos(np.radians(45))
SIDES = ("facial", "mesial", "lingual", "distal")
LEAST_MM2 = 0.5  # of a side's wall: less has no draft of its own


@dataclass(frozen=True, eq=False)
class Abutment:
    """Walls of one prepared tooth in the common scan: unit normals (N, 3), areas (N,) mm²; its facial and mesial
    directions (3,), and its own best path (3,)."""

    tooth: str
    normals: Floats
    areas: Floats
    facial: Floats
    mesial: Floats
    own: Floats

    def side(self, name: str, along: Floats) -> Bools:
        """(N,) the walls that look to one side, seen along a path."""
        f = perpendicular(self.facial, along)
        m = perpendicular(self.mesial - (self.mesial @ f) * f, along)
        toward = {"facial": f, "lingual": -f, "mesial": m, "distal": -m}[name]
        across = unit(self.normals - (self.normals @ along)[:, None] * along)
        return np.asarray(across @ toward > SIDE_COSINE)

    def side_draft(self, name: str, along: Floats) -> float | None:
        """The draft that 5 % of one side's wall stay under along a path; None where there is too little of it."""
        here = self.side(name, along)
        if self.areas[here].sum() < LEAST_MM2:
            return None
        return weighted_quantile(draft_deg(self.normals[here], along), self.areas[here], QUANTILE)


@dataclass(frozen=True)
class Forbidding:
    """A wall that no common path clears, and by how much."""

    tooth: str
    side: str
    missing_deg: float


@dataclass(frozen=True, eq=False)
class CommonPath:
    """direction (3,), and the least draft along it; limited_by: where that is negative, the worst first. to_common_deg:
    of each abutment's own path. open_deg: by which the least draft may as well be another, where the abutments' walls
    have no one slope."""

    direction: Floats
    least_draft_deg: float
    limited_by: tuple[Forbidding, ...]
    to_common_deg: dict[str, float]
    open_deg: float = 0.0

    @property
    def exists(self) -> bool:
        return self.least_draft_deg >= 0

    def or_else(self, others: list[CommonPath]) -> CommonPath:
        """The same path, its least draft as open as those of `others` are far from it."""
        off = [abs(other.least_draft_deg - self.least_draft_deg) for other in others]
        return replace(self, open_deg=max(off, default=0.0))


def common_path(abutments: list[Abutment]) -> CommonPath:
    """The best common direction of two abutments or more. Raises ValueError for fewer, or for one without walls."""
    if len(abutments) < 2 or any(len(a.areas) == 0 for a in abutments):
        raise ValueError("a common path needs two abutments with walls")
    normals = np.concatenate([a.normals for a in abutments])
    # Each tooth has as much to say, whatever its size: the smaller one's wall would else be outvoted.
    areas = np.concatenate([a.areas / a.areas.sum() for a in abutments])
    axis = unit(np.sum([a.own for a in abutments], axis=0))
    side = perpendicular(abutments[0].facial, axis)
    frame = np.stack([side, np.cross(axis, side), axis])
    best, _ = middle_of_best(normals, areas, frame, QUANTILE, 0.0)
    least = least_draft(normals, areas, best)
    angle = {a.tooth: float(degrees_between(a.own, best)) for a in abutments}
    return CommonPath(best, least, tuple(forbidding(abutments, best)) if least < 0 else (), angle)


def forbidding(abutments: list[Abutment], direction: Floats) -> list[Forbidding]:
    """The sides of the abutments that lean back along a direction, the worst first."""
    found = []
    for a in abutments:
        for name in SIDES:
            draft = a.side_draft(name, direction)
            if draft is not None and draft < 0:
                found.append(Forbidding(a.tooth, name, -draft))
    return sorted(found, key=lambda f: -f.missing_deg)
