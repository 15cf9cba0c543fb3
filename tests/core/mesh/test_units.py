"""The unit of a file is told from its extent and its edges together."""

from __future__ import annotations

import pytest

from vane_line.core.mesh.units import MM_PER_UNIT, guess_unit

SCANS = {"die": (9.0, 0.08), "quadrant": (34.0, 0.14), "arch": (72.0, 0.2), "coarse arch": (75.0, 0.35)}


@pytest.mark.parametrize("scan", SCANS)
@pytest.mark.parametrize("unit", MM_PER_UNIT)
def test_the_exported_unit_is_recognised(scan: str, unit: str) -> None:
    """A die, a quadrant and an arch, exported in any of the four units; a die alone may stay in doubt, not wrong."""
    extent, edge = (v / MM_PER_UNIT[unit] for v in SCANS[scan])
    guess = guess_unit([(extent, edge)])
    assert guess.unit == unit or not guess.sure


def test_scans_of_one_case_speak_together() -> None:
    """Prep, preop and opposing of a quadrant in centimetres are sure of it together."""
    guess = guess_unit([(3.4, 0.014), (3.5, 0.013), (3.3, 0.015)])
    assert guess.unit == "cm"
    assert guess.sure
