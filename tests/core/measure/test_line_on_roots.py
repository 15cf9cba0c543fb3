"""The finish line where much of the root shows under a ledge that is narrow, or under a wall that is low."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from long import first
from solids import Stump, facing

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, measure
from vane_line.core.rings import degrees_apart
from vane_line.core.tooth.notation import ToothNumber

LEDGE_MM, SLOPE_DEG = 1.9, 35.0
FACING_DEG = 40.0  # of the line about the face's middle


def narrowed(a: Floats) -> Floats:
    """A ledge 0.8 wide that is hardly one in front."""
    return np.asarray(0.8 - 0.58 * np.exp(-((degrees_apart(a, 0) / 40) ** 4)))


def raised(a: Floats) -> Floats:
    """A ledge under a wall of 1.6, in front of 0.6."""
    return np.asarray(LEDGE_MM + np.exp(-((degrees_apart(a, 0) / 60) ** 4)))


def measured(reference: bool, **changes: Any) -> Geometry:
    """A stump that stands far out of the gingiva."""
    stump = Stump(gingiva_mm=0.3, noise_um=6, **changes)
    return measure(stump.scans(reference=reference), facing(ToothNumber("36")))


@pytest.mark.parametrize("reference", first(1, True, False))
def test_a_ledge_too_narrow_to_part_wall_and_root_has_the_line(reference: bool) -> None:
    """Not the gingiva's crest below: in front the line stays within 0.15 of where the ledge ends, and so does what
    hangs on it: the wall's height, and the convergence of front and back."""
    geometry = measured(reference, line_mm=LEDGE_MM, width_mm=narrowed, ledge_slope_deg=SLOPE_DEG)
    line = geometry.line
    front = degrees_apart(line.azimuth_deg, 0) < FACING_DEG
    edge = LEDGE_MM - narrowed(line.azimuth_deg) * np.tan(np.radians(SLOPE_DEG))
    assert np.abs(line.points[:, 2] - edge)[front].max() < 0.15
    assert geometry.ring.shape.walls.convergence_at(0.0) == pytest.approx(12.0, abs=1.0)


@pytest.mark.parametrize("reference", first(1, True, False))
def test_the_root_under_a_low_wall_is_not_taken_for_it(reference: bool) -> None:
    """The line stays up where the wall is too low to be told as one: within 0.15 of the ledge's edge."""
    line = measured(reference, line_mm=raised, top_mm=5.0).line
    front = degrees_apart(line.azimuth_deg, 0) < FACING_DEG
    assert np.abs(line.points[:, 2] - raised(line.azimuth_deg))[front].max() < 0.15


class Beside(Stump):
    """Gingiva that rises beside the ledge's edge, from a sulcus 0.3 under it to a crest 0.1 over it."""

    def surroundings(self, p: Floats, gingiva_mm: float) -> Floats:
        r, whole = self.outline(p)
        crest = LEDGE_MM + 0.1 - 0.4 * np.abs((r - whole) / 0.4 - 1) ** 1.5
        return np.asarray(p[:, 2] - np.where(r > whole - 0.2, np.maximum(crest, gingiva_mm), gingiva_mm))


@pytest.mark.parametrize("reference", first(1, True, False))
def test_gingiva_that_rises_a_little_beside_the_edge_is_no_ledge(reference: bool) -> None:
    """The line stays at the edge, within 0.1 of it wherever the scan resolves the sulcus: the crest beside it bends as
    sharply."""
    stump = Beside(neighbours=False, line_mm=LEDGE_MM, noise_um=4, grid_mm=0.13)
    line = measure(stump.scans(reference=reference), facing(ToothNumber("36"))).line
    assert (np.abs(line.radius - 5.0) < 0.1).mean() > 0.9
