"""Movements of the lower jaw against closed forms: translation, hinge, Bennett's angle, symmetry."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.arrays import Floats
from vane_line.core.jaw.articulator import CONDYLES_APART_MM, MOVEMENTS, Articulator, Jaw, guided, opened, start
from vane_line.core.jaw.hinge import Raise, raised
from vane_line.core.rigid import move
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption

CENTRE = np.array([3.0, -4.0, 5.0])
STEPS = (0.25, 1.0, 3.0)


def frame_of(tooth: ToothNumber) -> Frame:
    """Axes of a tooth whose facial direction is y and whose occlusal direction is z."""
    mesial = np.array([1.0, 0, 0]) * (-1 if tooth.right_handed else 1)
    return Frame(np.array([0.0, 0, 1]), np.array([0.0, 1, 0]), mesial, 1.0, {})


def jaw_of(number: str = "36") -> Jaw:
    tooth = ToothNumber(number)
    return Jaw.of(frame_of(tooth), CENTRE, tooth)


def at(pose: Floats, place: Floats) -> Floats:
    return np.asarray(move(pose, place[None])[0])


@pytest.mark.parametrize("number", ["36", "46", "16", "26", "21", "32"])
def test_the_jaw_is_laid_about_the_tooth(number: str) -> None:
    """Directions are orthogonal; the condyles lie 110 apart, 83 behind and 34 over the incisors; the tooth's own one
    lies on its own side."""
    jaw = jaw_of(number)
    basis = np.stack([jaw.up, jaw.forward, jaw.outward])
    assert basis @ basis.T == pytest.approx(np.eye(3), abs=1e-12)
    assert np.linalg.norm(jaw.own - jaw.other) == pytest.approx(CONDYLES_APART_MM)
    middle = (jaw.own + jaw.other) / 2 - jaw.incisal
    assert [middle @ d for d in basis] == pytest.approx([34.0, -83.0, 0.0])
    assert (CENTRE - (jaw.own + jaw.other) / 2) @ jaw.outward > 0
    assert jaw.up[2] == (1.0 if number[0] in "34" else -1.0)


@pytest.mark.parametrize("angle", [0.0, 25.0, 40.0])
@pytest.mark.parametrize("step", STEPS)
def test_equal_angles_make_protrusion_a_translation(angle: float, step: float) -> None:
    """Condylar path and guidance equal: every place goes `step` along that angle, nothing turns."""
    jaw = jaw_of()
    pose = guided(jaw, Articulator(angle, None, angle), "protrusive", step)
    way = step * (np.cos(np.radians(angle)) * jaw.forward - np.sin(np.radians(angle)) * jaw.up)
    assert pose[:3, :3] == pytest.approx(np.eye(3), abs=1e-12)
    assert pose[:3, 3] == pytest.approx(way, abs=1e-10)


def test_in_protrusion_condyles_and_incisors_keep_to_their_paths() -> None:
    """Unequal angles: both condyles 2 mm along 40 degrees, the incisors' edge on a line of 10."""
    jaw = jaw_of("21")
    pose = guided(jaw, Articulator(40.0, None, 10.0), "protrusive", 2.0)
    for condyle in (jaw.own, jaw.other):
        way = at(pose, condyle) - condyle
        assert [way @ jaw.forward, way @ jaw.up] == pytest.approx([2 * np.cos(0.698132), -2 * np.sin(0.698132)])
    way = at(pose, jaw.incisal) - jaw.incisal
    assert -(way @ jaw.up) / (way @ jaw.forward) == pytest.approx(np.tan(np.radians(10.0)))
    assert way @ jaw.outward == pytest.approx(0.0, abs=1e-10)


@pytest.mark.parametrize("bennett", [0.0, 15.0])
@pytest.mark.parametrize("step", STEPS)
def test_on_level_paths_the_jaw_turns_in_the_plane(bennett: float, step: float) -> None:
    """Closed form in the plane: the non-working condyle goes `step` at Bennett's angle inward, the working one keeps to
    the axis; the incisors keep their height."""
    jaw = jaw_of("46")
    pose = guided(jaw, Articulator(0.0, bennett, 0.0), "laterotrusive", step)
    b = np.radians(bennett)
    assert at(pose, jaw.other) - jaw.other == pytest.approx(
        step * (np.cos(b) * jaw.forward + np.sin(b) * jaw.outward), abs=1e-9
    )
    slide = (np.sqrt(CONDYLES_APART_MM**2 - (step * np.cos(b)) ** 2) + step * np.sin(b)) - CONDYLES_APART_MM
    assert at(pose, jaw.own) - jaw.own == pytest.approx(slide * jaw.outward, abs=1e-9)
    assert (at(pose, jaw.incisal) - jaw.incisal) @ jaw.up == pytest.approx(0.0, abs=1e-9)
    turn = np.degrees(np.arcsin(step * np.cos(b) / CONDYLES_APART_MM))
    assert np.degrees(np.arccos((np.trace(pose[:3, :3]) - 1) / 2)) == pytest.approx(turn, abs=1e-6)


def test_the_tooth_moves_outward_to_its_own_side_and_inward_to_the_other() -> None:
    """A lower left molar, jaw to the left: outward; to the right: inward, forward and down."""
    jaw, by = jaw_of("36"), Articulator(30.0, 15.0, 30.0)
    there = at(guided(jaw, by, "laterotrusive", 2.0), CENTRE) - CENTRE
    away = at(guided(jaw, by, "mediotrusive", 2.0), CENTRE) - CENTRE
    assert there @ jaw.outward > 0.5
    assert away @ jaw.outward < -0.5
    assert away @ jaw.forward > 0.8
    assert away @ jaw.up < 0


@pytest.mark.parametrize("movement", MOVEMENTS)
@pytest.mark.parametrize("step", STEPS)
def test_poses_are_rigid_and_the_same_on_both_sides(movement: str, step: float) -> None:
    """No stretch; 46 moves as the mirrored 36."""
    by = Articulator(35.0, 10.0, 20.0)
    ways = []
    for number in ("36", "46"):
        jaw = jaw_of(number)
        pose = guided(jaw, by, movement, step)  # type: ignore[arg-type]
        assert pose[:3, :3] @ pose[:3, :3].T == pytest.approx(np.eye(3), abs=1e-12)
        assert np.linalg.det(pose[:3, :3]) == pytest.approx(1.0)
        way = at(pose, CENTRE) - CENTRE
        ways.append([way @ d for d in (jaw.forward, jaw.outward, jaw.up)])
    assert ways[0] == pytest.approx(ways[1], abs=1e-9)


def test_opening_is_the_turn_of_a_raised_bite() -> None:
    """The jaw turned about its condyles, against the opposing teeth of `raised`, which turn the other way."""
    tooth, opening = ToothNumber("36"), Raise(2.0, "incisor")
    jaw = jaw_of("36")
    pose = opened(jaw, np.eye(4), opening.angle_rad)
    assert pose @ raised(frame_of(tooth), CENTRE, tooth, opening) == pytest.approx(np.eye(4), abs=1e-9)
    assert (at(pose, jaw.incisal) - jaw.incisal) @ jaw.up == pytest.approx(-2.0, abs=1e-6)


def test_opening_leaves_the_moved_condyles_where_they_are() -> None:
    jaw = jaw_of("16")
    moved = start(jaw, Articulator(), "mediotrusive", 3.0)
    for place in (jaw.own, jaw.other):
        assert at(opened(jaw, moved, 0.03), place) == pytest.approx(at(moved, place), abs=1e-9)


def test_what_was_not_entered_is_tried_at_both_ends() -> None:
    assert {a.condylar for a in Articulator(None, 15.0).others("protrusive")} == {20.0, 45.0}
    assert len(Articulator().others("laterotrusive")) == 4
    assert Articulator(30.0, 15.0).others("mediotrusive") == []


REFUSED = [
    ((90.0,), "condylar-path"), ((30.0, 60.0), "bennett"), ((30.0, 10.0, -3.0), "incisal-guidance"),
    ((float("nan"),), "degrees"),
]  # fmt: skip


@pytest.mark.parametrize(("angles", "word"), REFUSED)
def test_angles_that_no_joint_has_are_refused(angles: tuple[float, ...], word: str) -> None:
    with pytest.raises(BadOption, match=word):
        Articulator(*angles)


def test_angles_are_read_as_they_are_kept() -> None:
    """What was not entered is a dash; nonsense is refused with an example."""
    assert Articulator.parse("35, 12.5,-") == Articulator(35.0, 12.5, None)
    assert Articulator.parse("-,-,-") == Articulator()
    for text in ("35,12", "a,b,c", "", "35;12;10"):
        with pytest.raises(BadOption, match="35,12,-"):
            Articulator.parse(text)
