"""What the earlier surface means: each meaning has its own space and removal, and files that contradict it are told."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from long import first
from solids import Stump, facing, plate

from vane_line.core.case import Geometry, measure
from vane_line.core.jaw.hinge import Raise
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.mesh.surface import merge
from vane_line.core.scans import Scans
from vane_line.core.tooth.crossbite import functional_side, seen_side
from vane_line.core.tooth.earlier import MEANINGS, contradictions, lift_to_bite, meaning_of
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption

UP = np.array([0.0, 0, 1])
STUMP = Stump(seed=51, noise_um=5)


def short_by(gap_mm: float, **options: object) -> Geometry:
    """The stump's tooth stood `gap_mm` under a flat opposing tooth; 1.5 was cut off its top."""
    scans = STUMP.scans(clearance_mm=STUMP.occlusal_mm + gap_mm)
    return measure(scans, facing(ToothNumber("36"), **options))


def low_of_top(geometry: Geometry) -> float:
    """Space over the middle of the flat top."""
    points = geometry.inside.vertices
    middle = (np.hypot(points[:, 0], points[:, 1]) < 1.5) & (points[:, 2] > 5.0)
    assert geometry.space is not None
    return float(np.median(geometry.space.value[middle]))


@pytest.mark.long
def test_a_tooth_short_of_the_bite_is_built_up_to_it_and_its_gap_counts() -> None:
    """0.7 short and 1.5 cut: 2.2 of space, 1.5 of tooth removed; as a natural tooth 1.5 of both, and it is said."""
    short = short_by(0.7, earlier="short")
    assert short.lift_mm == pytest.approx(0.7, abs=0.03)
    assert low_of_top(short) == pytest.approx(2.2, abs=0.04)
    assert short.tooth_removed is not None
    assert short.space is not None
    assert np.nanmax(short.tooth_removed.value) < np.nanmax(short.space.value)
    natural = short_by(0.7)
    assert natural.lift_mm == 0.0
    assert low_of_top(natural) == pytest.approx(1.5, abs=0.03)
    assert any("short of the bite" in w for w in natural.warnings)
    assert not any("short of the bite" in w for w in short.warnings)


@pytest.mark.long
def test_a_raised_bite_opens_space_and_clearance_by_what_the_hinge_gives() -> None:
    """0.8 at the first molars: space and clearance of a lower first molar grow by 0.8; a premolar's by more."""
    flat = short_by(0.0)
    raised = short_by(0.0, opening=Raise(0.8, "molar"))
    assert low_of_top(raised) - low_of_top(flat) == pytest.approx(0.8, abs=0.12)  # the plate tilts with the jaw
    assert raised.clearance is not None
    assert flat.clearance is not None
    assert raised.bite is not None
    assert raised.bite.ok  # checked as it was recorded
    assert np.median(raised.clearance.value - flat.clearance.value) == pytest.approx(0.8, abs=0.12)
    assert any("jaw relation" in w for w in raised.warnings)


@pytest.mark.parametrize("meaning", first(1, *MEANINGS))
def test_space_and_removal_are_never_the_same_by_accident(meaning: str) -> None:
    """An old crown gives no removal; only a copied or natural contour gives space."""
    geometry = short_by(0.0, earlier=meaning)
    chosen = MEANINGS[meaning]
    assert (geometry.space is not None) == chosen.copied
    assert (geometry.tooth_removed is not None) == chosen.natural
    rows = judge(geometry, choose("zirconia", "full-crown")).verdicts
    removed = [v for v in rows if v.criterion == "tooth-removed" and "cusp" in v.zone]
    assert bool(removed) == chosen.natural
    if meaning == "copied-crown":
        assert all("old crown's contour" in v.why for v in rows if v.criterion == "reduction" and v.bound == "min")


def test_files_that_contradict_the_choice_are_told() -> None:
    """A mock-up inside the tooth, a worn tooth that meets, nothing over a short one."""
    natural, short = MEANINGS["natural"], MEANINGS["short"]
    assert any("swapped" in w for w in contradictions(natural, 0.0, 0.6, False))
    assert any("nothing to build up" in w for w in contradictions(short, 0.0, None, False))
    assert any("not known" in w for w in contradictions(short, None, None, False))
    assert contradictions(natural, 0.05, 0.02, False) == []
    with pytest.raises(BadOption, match="copied-crown"):
        meaning_of("worn")


@pytest.mark.parametrize("gap", [0.0, 0.4, 1.7])
def test_the_lift_is_found_by_moving_not_by_distance(gap: float) -> None:
    """A tooth under a flat plate: along the path until they first meet; None under nothing."""
    tooth = replace(STUMP, neighbours=False).preop()
    level = plate(-8, 8, -8, 8, STUMP.top_mm + gap, down=True)
    lift = lift_to_bite(tooth, level, UP)
    assert lift == pytest.approx(gap, abs=0.04)
    assert lift_to_bite(tooth, plate(40, 50, 40, 50, 9.0, down=True), UP) is None


def test_a_crossbite_is_told_from_the_opposing_surface(stump_geometry: Geometry) -> None:
    """Opposing tooth beyond the lingual cusps and none beyond the facial ones: the lingual cusps work."""
    g = stump_geometry
    tooth = ToothNumber("36")
    facial = merge([plate(-4, 4, -2.5, 8.5, 6.5, down=True)])
    lingual = plate(-4, 4, -8.5, 2.5, 6.5, down=True)
    assert seen_side(g.anatomy, facial, g.axes, 5.5) == "facial"
    assert seen_side(g.anatomy, lingual, g.axes, 5.5) == "lingual"
    crossed = functional_side(tooth, None, g.anatomy, lingual, g.axes, g.inside)
    assert (crossed.side, crossed.source) == ("lingual", "opposing")
    assert "Crossbite" in crossed.warnings[0]
    assert functional_side(tooth, "facial", g.anatomy, lingual, g.axes, g.inside).source == "given"
    assert functional_side(tooth, None, g.anatomy, None, g.axes, g.inside).source == "jaw"


@pytest.mark.long
def test_a_mock_up_inside_the_tooth_is_said() -> None:
    """Mock-up and earlier scan swapped: the mock-up lies inside the tooth."""
    smaller = replace(STUMP, facial_mm=4.5, mesial_mm=4.5, top_mm=6.4)
    geometry = measure(Scans(STUMP.prep(), STUMP.preop(), smaller.preop()), facing(ToothNumber("36")))
    assert any("swapped" in w for w in geometry.warnings)
