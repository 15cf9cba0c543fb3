"""What stands beside the cut tooth, and the hollows between: all that hangs neither on the path nor on the line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats, Ints
from vane_line.core.mesh.growth import concavity
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import lengths

REACH_MM = 14.0  # as far as the neighbours reach
EARLIER_MM = 2.0  # further on the earlier scan: what faces the last of a neighbour lies there, and all its ways


@dataclass(frozen=True, eq=False)
class Ground:
    """A part of a scan, and its hollows (V,), 1/mm, in which teeth and gingiva meet. index: (V,) of the scan's
    vertices."""

    surface: Surface
    concave: Floats
    index: Ints


@dataclass(frozen=True, eq=False)
class Grounds:
    """now: of the prep scan, freed of noise: a least distance to noise is biased low. before: of the earlier scan, as
    scanned, where it is trusted."""

    now: Ground
    before: Ground | None


def grounds_of(prep: Surface, earlier: Surface | None, centre: Floats, steps: int) -> Grounds:
    """Round a tooth's middle (3,). steps: in which the prep scan is freed of noise."""
    return Grounds(
        _round(prep, centre, REACH_MM, steps),
        None if earlier is None else _round(earlier, centre, REACH_MM + EARLIER_MM, 0),
    )


def _round(scan: Surface, centre: Floats, reach_mm: float, steps: int) -> Ground:
    part, index = scan.keep_vertices(lengths(scan.vertices - centre) < reach_mm)
    if part.n_faces == 0:
        return Ground(part, np.zeros(len(index)), index)
    surface = part.smoothed(steps) if steps else part
    _ = surface.vertex_normals  # asked for by whoever asks for the ground; known, they go along to another process
    return Ground(surface, concavity(surface), index)
