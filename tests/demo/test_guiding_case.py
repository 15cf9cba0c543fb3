"""The demo's 22 beside a lost canine: room enough at rest, too little as the jaw moves to that side."""

from __future__ import annotations

import numpy as np
import pytest
from made import demo_made

from vane_line.core.case import Geometry, measure
from vane_line.core.jaw.articulator import Articulator
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.burs import FrontCut, Spared
from vane_line.demo.saltmarsh import case_of

pytestmark = pytest.mark.long  # front teeth in movement: core/measure/test_moving.py and the verdicts' tests

TOOTH = ToothNumber("22")


@pytest.fixture(scope="module")
def guiding() -> Geometry:
    made, movements = demo_made("SM-0326"), Articulator.parse(case_of("SM-0326").movements or "")
    scans = Scans(made.prep, made.preop, None, made.opposing)
    return measure(scans, Options(TOOTH, opposing_frame="preop", movements=movements))


@pytest.fixture(scope="module")
def verdicts(guiding: Geometry) -> list[Verdict]:
    return judge(guiding, choose("layered-zirconia", "full-crown", None, TOOTH)).verdicts


def test_its_one_fault_is_that_of_its_story(verdicts: list[Verdict]) -> None:
    """Of all that is proven short or over, there is the way of the lower incisor when the jaw moves to the left."""
    proven = {(v.criterion, v.zone) for v in verdicts if v.status in ("short", "over")}
    assert proven == {("clearance/laterotrusive", "lingual-fossa")}
    rows = {(v.criterion, v.zone, v.bound): v for v in verdicts}
    aside, rest = (rows[name, "lingual-fossa", "min"] for name in ("clearance/laterotrusive", "clearance"))
    assert rest.status == "meets"
    assert aside.value is not None
    assert rest.value is not None
    assert aside.value < rest.value - 0.15
    assert rows["clearance/mediotrusive", "lingual-fossa", "min"].status != "short"
    assert rows["clearance/protrusive", "lingual-fossa", "min"].status != "short"


def test_it_is_short_where_the_bur_passed_over(guiding: Geometry, verdicts: list[Verdict]) -> None:
    """The place told lies on the spared spot, and the tooth itself guided there before it was cut."""
    short = next(v for v in verdicts if v.criterion == "clearance/laterotrusive" and v.status == "short")
    assert short.at is not None
    recipe = demo_made("SM-0326").recipe
    assert isinstance(recipe.occlusal, FrontCut)
    (spot,) = recipe.occlusal.spared
    mesial = (np.array(short.at) - guiding.axes.origin) @ guiding.frame.mesial
    assert abs(mesial - spot.mesial_mm) < spot.radius_mm
    aside = next(m for m in guiding.moving if m.movement == "laterotrusive")
    assert {g.tooth for g in aside.guides if g.before and g.own} == {"22"}


def test_a_spared_place_is_left_by_as_much_and_runs_out_around() -> None:
    spot = Spared(1.0, 5.0, 0.8, 0.3)
    middle, edge, far = np.array([[1.0, -2.0, 5.0], [1.8, -2.0, 5.0], [1.0, -2.0, 7.0]])
    assert spot.left(middle[None])[0] == pytest.approx(0.3)
    assert spot.left(edge[None])[0] == pytest.approx(0.3 / np.e)
    assert spot.left(far[None])[0] < 1e-6
