"""Height over the gingiva and room to the next tooth, on the stump whose distances are known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from long import first
from solids import Stump, facing

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, measure
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.measure.margin import margin
from vane_line.core.tooth.notation import ToothNumber


def rows(geometry: Geometry, criterion: str) -> dict[str, Verdict]:
    found = judge(geometry, choose("zirconia", "full-crown", None)).verdicts
    return {v.zone: v for v in found if v.criterion == criterion}


def ring(radius: float, height: float) -> Floats:
    a = np.radians(np.arange(0, 360, 15))
    return np.stack([radius * np.sin(a), radius * np.cos(a), np.full(len(a), height)], axis=1)


def test_the_gingiva_is_told_from_the_earlier_scan(stump_geometry: Geometry) -> None:
    """The ledge stands at 1.6, the gingiva of the earlier scan at 0.3: 1.3 above it all round, which meets."""
    above = stump_geometry.ring.shape.margin.above_gingiva_mm
    assert stump_geometry.ring.shape.margin.source == "earlier scan"
    assert np.isfinite(above).mean() > 0.9
    assert np.nanmedian(above) == pytest.approx(1.3, abs=0.08)
    assert np.nanquantile(np.abs(above - 1.3), 0.95) < 0.2
    assert {v.status for v in rows(stump_geometry, "margin-height").values()} == {"meets"}


def test_a_drawn_gingiva_counts_before_the_scan_s(stump_geometry: Geometry) -> None:
    """Drawn at 2.4 the finish line lies 0.8 below it: over the half millimetre, on every side."""
    line, axes = stump_geometry.line, stump_geometry.axes
    found = margin(line, axes, ring(5.2, 2.4), None, np.zeros((0, 3)))
    assert found.source == "drawn"
    assert np.median(found.above_gingiva_mm) == pytest.approx(-0.8, abs=0.04)


@pytest.mark.parametrize(("gap", "status"), first(1, (0.3, "short"), (1.2, "meets")))
def test_room_to_the_next_tooth(gap: float, status: str) -> None:
    """Both neighbours stand `gap` off the uncut tooth, whose edge the ledge is."""
    geometry = measure(Stump(gap_mm=gap, seed=7).scans(), facing(ToothNumber("36")))
    found = rows(geometry, "neighbour-gap")
    assert set(found) == {"mesial", "distal"}
    for verdict in found.values():
        assert verdict.value == pytest.approx(gap, abs=0.12)
        assert verdict.status == status


@pytest.mark.parametrize("gap", first(1, 0.3, 0.7))
def test_room_beside_a_doubtful_line_is_not_proven(gap: float) -> None:
    """Short or enough: where the line may run elsewhere, the room may too. Beside a line that is seen it is proven."""
    geometry = measure(Stump(gap_mm=gap, seed=7).scans(), facing(ToothNumber("36")))
    clear = geometry.line.clear & (np.abs(geometry.line.azimuth_deg - 90) > 60)
    unsure = replace(geometry, line=replace(geometry.line, clear=clear))
    seen, doubted = rows(geometry, "neighbour-gap"), rows(unsure, "neighbour-gap")
    assert seen["mesial"].status == ("short" if gap < 0.5 else "meets")
    assert doubted["mesial"].status == "within-uncertainty"
    assert doubted["mesial"].value == seen["mesial"].value
    assert doubted["distal"].status == seen["distal"].status


def test_a_tooth_that_stands_alone_has_no_room_to_measure() -> None:
    """Not measured, and why."""
    geometry = measure(Stump(neighbours=False, seed=8).scans(), facing(ToothNumber("36")))
    assert {v.status for v in rows(geometry, "neighbour-gap").values()} == {"not-measured"}
