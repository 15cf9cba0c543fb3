"""Clearance under flat opposing plates, and the bite check."""

from __future__ import annotations

import numpy as np
import pytest
from solids import plate

from vane_line.core.case import Geometry
from vane_line.core.measure.clearance import check_bite, clearance


@pytest.mark.parametrize("gap", [1.0, 0.2, -0.1])
def test_distance_to_a_plate_and_through_it(gap: float) -> None:
    """Signed: negative where the teeth cut through each other."""
    opposing = plate(-5, 5, -5, 5, gap, down=True)
    value = clearance(plate(-2, 2, -2, 2, 0.0).vertices, opposing)
    np.testing.assert_allclose(value, gap, atol=1e-9)


def test_the_stump_under_its_plate(stump_geometry: Geometry) -> None:
    """The plate stands 1.0 above the top: the low over all is that, within 30 µm, and the bite is good."""
    assert stump_geometry.clearance is not None
    assert np.quantile(stump_geometry.clearance.value, 0.01) == pytest.approx(1.0, abs=0.03)
    assert stump_geometry.bite is not None
    assert stump_geometry.bite.ok


@pytest.mark.parametrize(("gap", "ok"), [(0.0, True), (0.09, True), (-0.09, True), (0.3, False), (-0.3, False)])
def test_the_bite_is_good_within_a_tenth(gap: float, ok: bool) -> None:
    """From 0.1 into each other to 0.1 apart; outside, it is said and the uncertainty grows by it."""
    opposing = plate(-9, 9, -9, 9, gap, down=True)
    bite = check_bite(plate(-4, 4, -4, 4, 0.0, 0.2).vertices, opposing, 0.025)
    assert bite.ok is ok
    assert bite.gap_mm == pytest.approx(gap, abs=1e-9)
    assert (bite.note == "") is ok
    assert bite.u_mm == pytest.approx(0.025 if ok else np.hypot(0.025, abs(gap) - 0.1))


def test_opposing_teeth_that_are_elsewhere_are_said() -> None:
    """An opposing scan in another coordinate system is not taken for a wide-open bite."""
    far = plate(100, 120, 0, 20, 0.0, down=True)
    bite = check_bite(plate(-4, 4, -4, 4, 0.0, 0.2).vertices, far, 0.025)
    assert not bite.ok
    assert bite.gap_mm is None
    assert "nowhere near" in bite.note
