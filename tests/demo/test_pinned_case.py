"""The demo's casting held by pins: what its story tells is what is proven, from a scan as the demo makes it."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
from made import kept_case

from vane_line.core.case import Geometry, measure
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.anatomy import Tooth
from vane_line.demo.back import BackCut, Drilled
from vane_line.demo.cases import MadeCase
from vane_line.demo.recipes import pinned_lateral

TOOTH, GAUGE = ToothNumber("12"), {"mesial": 2.4, "distal": 2.4}


def made() -> MadeCase:
    return kept_case("pinned-12", pinned_lateral())


@cache
def told() -> tuple[Geometry, Judgement]:
    case = made()
    options = Options(TOOTH, restoration="pin-casting", opposing_frame="preop", guide_pins=True, gauge=GAUGE)
    geometry = measure(Scans(case.prep, case.preop, None, case.opposing), options)
    return geometry, judge(geometry, choose("full-metal", "pin-casting", None, TOOTH))


def test_holes_and_ledge_are_cut_where_they_were_asked_for() -> None:
    """On their axes nothing stands, beside them the tooth does; the face is left as it was."""
    tooth = Tooth("12")
    back = BackCut(holes=(Drilled(0.4, 2.0), Drilled(-0.4, 2.0, 4.0)), ledge_share=0.45)
    cut, ledge = back(tooth), back.ledge(tooth)
    for hole in back.holes:
        rim, way = hole.axis(tooth, ledge)
        within = rim - np.array([[0.3], [1.0], [1.9]]) * way
        assert (cut(within) > 0).all()
        assert (tooth(within) < 0).all()
        assert (cut(rim - np.array([[2.3], [3.0]]) * way) < 0).all()
        assert np.degrees(np.arccos(way[2])) == pytest.approx(hole.to_mesial_deg, abs=1e-6)
    face = np.array([[0.0, 9.0, z] for z in (4.0, 6.0)])
    for point in face:
        along = point - np.linspace(0, 9, 900)[:, None] * [0, 1.0, 0]
        first = [int(np.argmax(shape(along) < 0)) for shape in (tooth, cut)]
        assert abs(first[0] - first[1]) <= 1


@pytest.mark.long
def test_pins_are_found_with_their_directions() -> None:
    """Two guide pins, the distal one 4 degrees off the other, as drilled."""
    geometry, _ = told()
    truth = made().truth
    assert [c.side for c in geometry.cut.channels] == ["mesial", "distal"]
    axes = np.stack([truth["mesial"], truth["facial"], truth["occlusal"]], axis=1)
    for found, hole in zip(geometry.cut.channels, truth["holes"], strict=True):
        drilled = axes @ np.array(hole["direction"])
        assert np.degrees(np.arccos(min(float(found.direction @ drilled), 1.0))) < 0.5
        assert found.depth_mm == hole["deep_mm"]  # as gauged
        assert found.length_mm == pytest.approx(4.5, abs=0.2)
    ways = [c.direction for c in geometry.cut.channels]
    assert np.degrees(np.arccos(ways[0] @ ways[1])) == pytest.approx(4.0, abs=0.4)


@pytest.mark.long
def test_its_faults_are_those_of_its_story() -> None:
    """The pin that leans is proven; the path goes along the other; nothing else is cut wrong."""
    _, judged = told()
    proven = {(v.criterion, v.zone) for v in judged.verdicts if v.status in ("short", "over", "undercut")}
    assert ("pin-parallel", "pin/distal") in proven
    assert ("pin-parallel", "pin/mesial") not in proven
    assert ("pin-cover", "pin/distal") in proven
    assert ("pin-cover", "pin/mesial") not in proven
    assert not any(c == "undercut" for c, _ in proven)
