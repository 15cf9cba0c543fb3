"""Names of teeth about a prepared one, by an average arch."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.jaw.arch import OTHER_SIDE, tooth_about
from vane_line.core.jaw.articulator import ASIDE_MM, Jaw
from vane_line.core.jaw.hinge import BEHIND_MM
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.notation import ToothNumber


def jaw_of(tooth: ToothNumber, middle: np.ndarray) -> Jaw:
    """About a tooth whose facial direction is y and whose occlusal direction is z."""
    mesial = np.array([-1.0 if tooth.right_handed else 1.0, 0, 0])
    return Jaw.of(Frame(np.array([0.0, 0, 1]), np.array([0.0, 1, 0]), mesial, 1.0, {}), middle, tooth)


@pytest.mark.parametrize("own", ["36", "46", "16", "24", "11", "33"])
def test_every_tooth_of_the_average_arch_is_named(own: str) -> None:
    """On both sides, whichever tooth the arch was laid by and wherever it lies."""
    tooth, middle = ToothNumber(own), np.array([20.0, -7, 3])
    jaw = jaw_of(tooth, middle)
    assert tooth_about(middle, jaw, tooth) == own
    for place, aside in ASIDE_MM.items():
        for side, sign in ((own[0], 1.0), (OTHER_SIDE[own[0]], -1.0)):
            there = jaw.incisal - BEHIND_MM[place] * jaw.forward + sign * aside * jaw.outward
            assert tooth_about(there + [0.4, -0.4, 2.0], jaw, tooth) == side + place


def test_the_neighbour_lies_on_the_mesial_side() -> None:
    """Nine millimetres mesially of a first molar stands the second premolar; distally the second molar."""
    tooth = ToothNumber("36")
    jaw = jaw_of(tooth, np.zeros(3))
    assert tooth_about(np.array([9.0, 0, 0]), jaw, tooth) == "35"
    assert tooth_about(np.array([-10.0, 0, 0]), jaw, tooth) == "37"


def test_far_from_the_arch_and_in_a_child_s_jaw_none_is_named() -> None:
    tooth = ToothNumber("36")
    assert tooth_about(np.array([-60.0, 30, 0]), jaw_of(tooth, np.zeros(3)), tooth) is None
    milk = ToothNumber("75")
    assert tooth_about(np.zeros(3), jaw_of(tooth, np.zeros(3)), milk) is None
