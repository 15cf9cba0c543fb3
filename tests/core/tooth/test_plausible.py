"""A tooth that is plainly another is told by its size and its neighbours'."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.case import Geometry
from vane_line.core.files import Measurement
from vane_line.core.tooth.anatomy import SIZES
from vane_line.core.tooth.notation import CLASS_OF_PLACE, ToothNumber
from vane_line.core.tooth.plausible import another_tooth


def row(true: str) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Size of a tooth of the published sizes, and the widths of the row that it stands in."""
    tooth = ToothNumber(true)
    sizes = [SIZES[(tooth.upper, CLASS_OF_PLACE[p])] for p in "1234567"]
    at = int(true[1]) - 1
    ends = np.cumsum([0.0] + [s[1] for s in sizes])
    middle = (ends[at] + ends[at + 1]) / 2
    along = np.arange(-14.5, 15.5)
    place = np.searchsorted(ends, middle - along) - 1  # mesial is towards the front, where numbers are small
    known = (place >= 0) & (place < 7)
    return np.array([sizes[at][1], sizes[at][3]]), along[known], np.array([sizes[p][3] for p in place[known]])


@pytest.mark.parametrize("true", ["36", "16", "47", "26", "34", "13", "11"])
def test_the_right_number_is_not_doubted(true: str) -> None:
    """On teeth of the published sizes, and up to a tenth larger or smaller."""
    size, along, width = row(true)
    for scale in (0.92, 1.0, 1.08):
        assert another_tooth(ToothNumber(true), scale * size, scale * along, scale * width) == ""


@pytest.mark.parametrize(("true", "said"), [("36", "33"), ("36", "37"), ("36", "35"), ("46", "41"), ("16", "13")])
def test_another_number_is_doubted_and_the_likelier_named(true: str, said: str) -> None:
    """A first molar beside a premolar is no second molar, whatever its own size."""
    size, along, width = row(true)
    words = another_tooth(ToothNumber(said), size, along, width)
    assert f"({true})" in words
    assert "check the tooth number" in words


def test_the_demo_s_number_is_not_doubted(demo_measured: Measurement, stump_geometry: Geometry) -> None:
    """Neither on lifelike teeth nor on a plain solid of a molar's size."""
    for warnings in (demo_measured.document["warnings"], stump_geometry.warnings):
        assert not any("check the tooth number" in w for w in warnings)
