"""The raised bite against closed form: rotation about a hinge, and what average geometry makes of half a millimetre."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.jaw.hinge import HINGE_BACK_MM, HINGE_UP_MM, Hinge, Raise, raised
from vane_line.core.rigid import move
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption

UP, FACIAL = np.array([0.0, 0, 1]), np.array([0.0, 1, 0])


@pytest.mark.parametrize(("mm", "at"), [(0.5, "molar"), (2.0, "molar"), (1.0, "incisor"), (4.0, "incisor")])
def test_the_place_asked_for_opens_by_what_was_asked(mm: float, at: str) -> None:
    """Exactly, and the angle is that of the closed form: z = x sin t + h (1 - cos t) for a hinge h above."""
    opening = Raise(mm, at)
    assert opening.opening_mm("6" if at == "molar" else "1") == pytest.approx(mm, abs=1e-6)
    x = HINGE_BACK_MM - (31.0 if at == "molar" else 0.0)
    t = opening.angle_rad
    assert x * np.sin(t) - HINGE_UP_MM * (1 - np.cos(t)) == pytest.approx(mm, abs=1e-6)


def test_half_a_millimetre_at_the_molars_opens_about_eight_tenths_in_front() -> None:
    """Average geometry, not the trade's one to three, which speaks of other points (common practice, no source)."""
    opening = Raise(0.5, "molar")
    assert opening.opening_mm("1") == pytest.approx(0.8, abs=0.03)
    assert opening.opening_mm("1") > opening.opening_mm("5") > opening.opening_mm("7")
    assert opening.u_mm("1") > opening.u_mm("6")
    assert Raise(0.5, "molar", Hinge(90, 40, entered=True)).u_mm("1") < opening.u_mm("1")


@pytest.mark.parametrize("tooth", ["36", "46", "16", "26", "31", "11", "25", "44"])
def test_the_opposing_teeth_move_away_by_the_opening(tooth: str) -> None:
    """At the tooth itself, along its occlusal direction, in every quadrant and either handedness; rigidly."""
    number = ToothNumber(tooth)
    handed = 1.0 if number.right_handed else -1.0
    frame = Frame(UP, FACIAL, handed * np.cross(UP, FACIAL), 1.0, {})
    centre = np.array([3.0, -2.0, 1.0])
    opening = Raise(1.0, "molar")
    matrix = raised(frame, centre, number, opening)
    assert np.linalg.det(matrix[:3, :3]) == pytest.approx(1.0)
    shift = move(matrix, centre[None])[0] - centre
    assert shift @ UP == pytest.approx(opening.opening_mm(tooth[1]), abs=0.02)


def test_a_point_on_the_hinge_stays() -> None:
    """The axis lies behind and above a lower tooth, by average geometry."""
    frame = Frame(UP, FACIAL, np.cross(UP, FACIAL) * -1, 1.0, {})
    matrix = raised(frame, np.zeros(3), ToothNumber("36"), Raise(2.0, "molar"))
    inward = np.radians(8.0)
    forward = np.cos(inward) * frame.mesial + np.sin(inward) * FACIAL
    hinge = -(HINGE_BACK_MM - 31.0) * forward + HINGE_UP_MM * UP
    np.testing.assert_allclose(move(matrix, hinge[None])[0], hinge, atol=1e-9)


def test_a_hinge_that_was_measured_is_taken_at_its_word() -> None:
    """Behind and above the lower incisors; further back the molars open more for the same opening in front."""
    own = Raise.parse("2@incisor@95,30")
    assert (own.hinge.back_mm, own.hinge.up_mm, own.hinge.entered) == (95.0, 30.0, True)
    assert own.opening_mm("6") > Raise.parse("2@incisor").opening_mm("6")
    assert own.u_mm("6") < Raise.parse("2@incisor").u_mm("6")
    assert list(own.by_place()) == [str(k) for k in range(1, 9)]
    for wrong in ("2@incisor@5,30", "2@incisor@95", "2@incisor@95,300"):
        with pytest.raises(BadOption):
            Raise.parse(wrong)


@pytest.mark.parametrize("text", ["", "1", "1@moon", "-1@molar", "x@molar", "40@molar"])
def test_an_opening_that_cannot_be_read_is_refused(text: str) -> None:
    """With an example of what is wanted."""
    with pytest.raises(BadOption, match=r"0\.5@molar"):
        Raise.parse(text)
