"""The planned crown swept along its path past neighbours of known place."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from long import first
from solids import Stump, facing

from vane_line.core.case import Geometry, measure
from vane_line.core.files import measure_files
from vane_line.core.measure.insertion import FREE_MM, check_insertion
from vane_line.core.options import Options
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes
from vane_line.demo.cases import MadeCase


def swept(neighbour_x: float, lean_deg: float) -> tuple[float, str | None, float | None]:
    """A cylinder crown of radius 5 from 1.6 to 7, and a flat neighbour wall that leans over it from mesial."""
    geometry = measure(Stump(grid_mm=0.24).scans(), facing(ToothNumber("36")))
    a, z = (v.ravel() for v in np.meshgrid(np.arange(0, 2 * np.pi, 0.01), np.arange(1.6, 7, 0.05)))
    crown = np.stack([5 * np.sin(a), 5 * np.cos(a), z], axis=1)
    y, z = (v.ravel() for v in np.meshgrid(np.arange(-2, 2, 0.05), np.arange(1.6, 8, 0.05)))
    x = neighbour_x - np.maximum(z - 4, 0) * np.tan(np.radians(lean_deg))
    neighbour = np.stack([x, y, z], axis=1)
    axes = Axes.make(np.array([0.0, 0, 0]), np.array([0.0, 0, 1]), np.array([0.0, 1, 0]), np.array([1.0, 0, 0]))
    found = check_insertion(crown, neighbour, axes, geometry.line)
    return found.amount_mm, found.blocked_by, found.free_tilt_deg


@pytest.mark.long
def test_a_neighbour_that_touches_is_not_in_the_way() -> None:
    """A contact at the crown's widest is no obstacle."""
    amount, blocked, _ = swept(5.0, 0.0)
    assert blocked is None
    assert amount < FREE_MM


@pytest.mark.parametrize("lean", first(1, 15.0, 8.0))
def test_a_neighbour_that_leans_over_blocks_by_its_lean(lean: float) -> None:
    """At 8 mm height it hangs over by 4 tan(lean): that much, mesially, and a distal tilt frees the path."""
    amount, blocked, free = swept(5.05, lean)
    assert blocked == "mesial"
    assert amount == pytest.approx(4 * np.tan(np.radians(lean)) - 0.05, abs=0.08)
    assert free is None or free > 1


def test_the_stump_between_its_neighbours_is_free(stump_geometry: Geometry) -> None:
    """1.2 mm of room on both sides."""
    assert stump_geometry.ring.shape.insertion is not None
    assert stump_geometry.ring.shape.insertion.blocked_by is None


@pytest.mark.long
def test_the_tipped_molar_is_blocked_on_its_own_axis_and_undercut_upright(
    tipped_case: MadeCase, tipped_files: dict[str, Path]
) -> None:
    """The demo's 47, leaning 20 degrees into a closed gap: cut 32 degrees mesiodistally, walls 2.5 high."""
    stands, tooth = tipped_case.stands, ToothNumber("47")
    own = measure_files(dict(tipped_files), Options(tooth, opposing_frame="preop"), "zirconia")
    along = own.geometry.axes.up @ np.array(stands["occlusal"])
    assert np.degrees(np.arccos(along)) < 4
    assert own.document["path"]["least_draft_deg"] > 4
    assert own.document["path"]["blocked_by"] == "mesial"
    assert own.document["convergence"]["mesiodistal_deg"] == pytest.approx(32, abs=2)
    assert own.document["resistance"]["height_mm"] == pytest.approx(2.5, abs=0.25)
    # Nothing of the neighbour or the gingiva that rises beside the line is taken for the preparation.
    azimuth, radius, _ = own.geometry.axes.cylinder(own.geometry.inside.vertices)
    assert (radius - own.geometry.line.at(azimuth, own.geometry.line.radius)).max() < 0.2
    upright = Options(tooth, opposing_frame="preop", path=np.array(stands["arch_occlusal"]))
    found = measure_files(dict(tipped_files), upright, "zirconia").document
    assert found["path"]["blocked_by"] is None
    assert found["undercut"]["max_depth_mm"] == pytest.approx(0.16, abs=0.06)
    assert found["undercut"]["regions"][0]["sector"] in ("mesial", "mesiofacial", "mesiolingual")
