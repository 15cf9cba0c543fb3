"""The demo's first molar against the shapes that it was cut from: no scan, nothing hidden, no alignment between."""

from __future__ import annotations

import numpy as np
import pytest
from exact import FAR_MM, Exact, Row, held_truly, off_line

from vane_line.core.files import Measurement
from vane_line.demo.cases import MadeCase
from vane_line.demo.scene import Scene

COARSER_MM, MEDIAN_OFF_MM = 0.12, 0.02
HIDDEN, HIDDEN_OFF_MM = ("wall/mesial/occlusal", "wall/distal/occlusal"), 0.10


@pytest.fixture(scope="module")
def scene(demo_case: MadeCase) -> Scene:
    return Scene.of(demo_case.recipe)


@pytest.fixture(scope="module")
def rows(scene: Scene, demo_measured: Measurement) -> list[Row]:
    return held_truly(scene, Exact.of(scene, COARSER_MM), demo_measured.geometry, demo_measured.judgement)


@pytest.mark.parametrize(("criterion", "least"), [("reduction", 8), ("clearance", 4)])
def test_least_distances_of_zones_are_what_the_shapes_have(rows: list[Row], criterion: str, least: int) -> None:
    """By the definition: from places of the cut surface to the nearest of the tooth before, and of the other jaw."""
    found = [row for row in rows if row.criterion == criterion]
    assert len(found) >= least
    assert not [row for row in found if row.wrong]
    assert not [row for row in found if not row.within and row.zone not in HIDDEN]
    assert np.median([abs(row.value - row.truth) for row in found]) < MEDIAN_OFF_MM


def test_beside_a_contact_that_hid_the_wall_little_more_is_told_than_was_taken(rows: list[Row]) -> None:
    """The earlier scan spans what lies under a contact, a little outside the tooth."""
    found = [row for row in rows if row.criterion == "reduction" and row.zone in HIDDEN]
    assert found
    assert max(abs(row.value - row.truth) for row in found) < HIDDEN_OFF_MM


def test_the_finish_line_is_where_the_cut_ends(scene: Scene, demo_measured: Measurement) -> None:
    away, surely_misplaced = off_line(scene, demo_measured.geometry)
    assert np.median(away) < 0.1
    assert np.mean(away > FAR_MM) < 0.05
    assert surely_misplaced == 0
