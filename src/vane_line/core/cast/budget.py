"""How thick the tooth stays beside a pin: at its ledge's level, before cutting and behind the ledge."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import xyz

FAR_MM = 12.0
ABOVE_MM = (0.25, 0.35, 0.45)  # the ledge: there its wall stands
ASIDE_MM = (-1.0, -0.9, 0.9, 1.0)  # along the row: the hole itself, or the foot of a pin, is no wall


@dataclass(frozen=True)
class Budget:
    """thickness_mm: from face to back before cutting; left_mm: of it, over the ledge; `at`: the ledge."""

    thickness_mm: float
    left_mm: float
    at: tuple[float, float, float]


def budget_at(place: Floats, tooth: Surface, earlier: Surface, axes: Axes) -> Budget | None:
    """At a place (3,) on a ledge; None where either is not seen there. axes: about the tooth.

    The face is left as it was: it is taken from whichever scan shows it.
    """
    before = _between([tooth, earlier], [earlier], [place + a * axes.quarter for a in ASIDE_MM], axes)
    above = [place + h * axes.up + a * axes.quarter for h in ABOVE_MM for a in ASIDE_MM]
    left = _between([tooth, earlier], [tooth], above, axes)
    return None if before is None or left is None else Budget(before, left, xyz(place))


def _between(faces: list[Surface], backs: list[Surface], places: list[Floats], axes: Axes) -> float | None:
    """Median thickness through places, from what faces ahead to what faces behind."""
    points = np.array(places)
    ahead, behind = (np.min([until(s, points, way) for s in found], axis=0)
                     for found, way in ((faces, axes.zero), (backs, -axes.zero)))  # fmt: skip
    thick = 2 * FAR_MM - ahead - behind
    thick = thick[np.isfinite(thick) & (thick > 0)]
    return float(np.median(thick)) if len(thick) else None


def until(surface: Surface, points: Floats, way: Floats) -> Floats:
    """(N,) from far off along `way` (3,) back to the surface that faces it; infinite where none does."""
    face, along = surface.first_hit(points + FAR_MM * way, -way)
    facing = (face >= 0) & (surface.face_normals[np.maximum(face, 0)] @ way > 0)
    return np.asarray(np.where(facing, along, np.inf))
