"""A wall that leans in more over a stretch is no groove in it, on profiles of known course."""

from __future__ import annotations

import numpy as np
import pytest
from solids import course

from vane_line.core.arrays import Floats
from vane_line.core.rings import degrees_apart
from vane_line.core.trace.dents import without_grooves
from vane_line.core.trace.section import Profiles
from vane_line.core.trace.wall import find_walls

AZIMUTHS, SAMPLES = 180, 400
TOP_MM, FOOT_MM, LEANS_DEG = 5.0, 3.2, 6.0  # height, radius and taper of the walls


def rings_of(radius_at: Floats, heights: Floats) -> Profiles:
    """radius_at: (A, K) of the walls at `heights` (K,) from the foot up, under a flat top, over a ledge 1 wide."""
    radius, height = np.full((2, AZIMUTHS, SAMPLES), np.nan)
    for k, wall in enumerate(radius_at):
        down = list(zip(wall[::-1], heights[::-1], strict=True))
        one = course((0.0, TOP_MM), *down, (FOOT_MM + 1.0, 0.0), (FOOT_MM + 0.9, -1.0))
        radius[k, : one.radius.shape[1]], height[k, : one.radius.shape[1]] = one.radius, one.height
    return Profiles(one.axes, np.arange(AZIMUTHS) * 360 / AZIMUTHS, radius, height, 0.1)


def walls(leans_deg: Floats, cut: tuple[float, float, float] | None = None) -> Profiles:
    """leans_deg: (A,); cut: depth of a groove 1.2 wide about 90 degrees, and between which heights."""
    heights = np.linspace(0.0, TOP_MM, 101)
    radius = FOOT_MM - heights[None] * np.tan(np.radians(leans_deg))[:, None]
    if cut is not None:
        depth, low, high = cut
        in_groove = degrees_apart(np.arange(AZIMUTHS) * 360 / AZIMUTHS, 90) < np.degrees(0.6 / FOOT_MM)
        radius -= depth * in_groove[:, None] * ((heights > low) & (heights < high))[None]
    return rings_of(radius, heights)


@pytest.mark.parametrize("more_deg", [8.0, 12.0])
@pytest.mark.parametrize("half_deg", [10.0, 18.0])
def test_a_facet_is_part_of_its_wall(more_deg: float, half_deg: float) -> None:
    """Laid over, its profiles would be told from those beside it: off the surface by as much as the facet is deep."""
    off = degrees_apart(np.arange(AZIMUTHS) * 360 / AZIMUTHS, 90)
    rings = walls(LEANS_DEG + more_deg * np.clip(1.5 - off / half_deg, 0, 1))
    plain, inside = without_grooves(rings, find_walls(rings))
    assert not inside.any()
    assert plain is rings


@pytest.mark.parametrize("cut", [(0.5, 0.8, 6.0), (0.9, 1.5, 6.0), (0.6, -1.0, 6.0)])
def test_a_groove_is_laid_over(cut: tuple[float, float, float]) -> None:
    """From its end, on the wall or at the ledge, up to the top."""
    rings = walls(np.full(AZIMUTHS, LEANS_DEG), cut)
    _, inside = without_grooves(rings, find_walls(rings))
    assert inside[degrees_apart(np.arange(AZIMUTHS) * 360 / AZIMUTHS, 90) < 8].all()
    assert not inside[degrees_apart(np.arange(AZIMUTHS) * 360 / AZIMUTHS, 90) > 35].any()
