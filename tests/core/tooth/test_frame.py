"""Axes are found from the scan; a wrong tooth number shows; doubt is admitted."""

from __future__ import annotations

import numpy as np
import pytest
from solids import Stump, plate, turned

from vane_line.core.tooth.frame import make_frame
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.tooth.occlusal import guess_occlusal
from vane_line.demo.cases import MadeCase


def _angle(a: np.ndarray, b: list[float]) -> float:
    return float(np.degrees(np.arccos(np.clip(np.dot(a, b), -1, 1))))


@pytest.mark.parametrize("tooth", ["16", "45"])
def test_axes_of_real_anatomy_in_any_position(other_teeth: dict[str, MadeCase], tooth: str) -> None:
    """Within 8 degrees occlusally and 12 facially, and sure of it, on jaws turned at random."""
    case = other_teeth[tooth]
    assert case.preop is not None
    preop = case.preop.moved(np.array(case.truth["preop_to_prep"]))
    up, sure = guess_occlusal(case.prep)
    frame = make_frame(preop, np.array(case.truth["centre"]), ToothNumber(tooth), up, sure)
    assert _angle(frame.occlusal, case.truth["occlusal"]) < 8
    assert _angle(frame.facial, case.truth["facial"]) < 12
    assert _angle(frame.mesial, case.truth["mesial"]) < 12
    assert frame.sure


def test_the_other_side_s_number_is_noticed(other_teeth: dict[str, MadeCase]) -> None:
    """A right tooth called a left one: bend and widths contradict each other, so no certainty is claimed."""
    case = other_teeth["16"]
    assert case.preop is not None
    preop = case.preop.moved(np.array(case.truth["preop_to_prep"]))
    up, sure = guess_occlusal(case.prep)
    frame = make_frame(preop, np.array(case.truth["centre"]), ToothNumber("26"), up, sure)
    assert not frame.sure or any("tooth number" in w for w in frame.warnings)


def test_a_given_facial_direction_is_taken_and_squared() -> None:
    """The person's word counts: confidence 1, facial across the occlusal axis, handed by the quadrant."""
    scan = Stump(grid_mm=0.3).prep()
    up = np.array([0.0, 0, 1])
    for number, mesial in (("36", [1.0, 0, 0]), ("46", [-1.0, 0, 0])):
        frame = make_frame(scan, np.zeros(3), ToothNumber(number), up, 0.5, np.array([0.0, 1.0, 0.3]))
        assert frame.confidence == 1.0
        np.testing.assert_allclose(frame.facial, [0, 1, 0], atol=1e-9)
        np.testing.assert_allclose(frame.mesial, mesial, atol=1e-9)


def test_a_plate_has_no_facial_side() -> None:
    """Where nothing tells the side, the confidence is low enough to stop zone verdicts."""
    flat = plate(-10, 10, -10, 10, 0.0)
    assert not make_frame(flat, np.zeros(3), ToothNumber("36"), np.array([0.0, 0, 1]), 1.0).sure


@pytest.mark.parametrize("angle", [0.0, 77.0, 180.0])
def test_occlusal_follows_the_scan_s_motion(angle: float) -> None:
    """Turning the scan turns the guess with it, within 2 degrees."""
    scan = Stump(grid_mm=0.25).prep()
    matrix = turned((2, -1, 1), angle, (5, 5, 5))
    here, _ = guess_occlusal(scan)
    there, _ = guess_occlusal(scan.moved(matrix))
    assert _angle(there, matrix[:3, :3] @ here) < 2.0
