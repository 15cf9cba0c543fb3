"""A bridge before cutting: which path takes the least tooth, on teeth of known axes."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from spans import BACK, FRONT, PONTIC, Span

from vane_line.core.arrays import Floats
from vane_line.core.burs import generic
from vane_line.core.contract.bridge_plan import BridgePlanDocument
from vane_line.core.judge.standard_choice import choose
from vane_line.core.plan.plan import PlanOptions
from vane_line.core.plan.planner import find_ground
from vane_line.core.span.document import bridge_plan_document
from vane_line.core.span.least import Uncut, least, way
from vane_line.core.span.planned import PlannedBridge, plan_bridge
from vane_line.core.vectors import degrees_between, unit
from vane_line.errors import BadOption

TIPPED = Span(tip_deg=18.0, grid_mm=0.28)
UP = np.array([0.0, 0, 1])
STANDARDS = {
    "35": choose("zirconia", "full-crown", None, FRONT),
    "37": choose("zirconia-thin", "full-crown", None, BACK),
}


def options(span: Span) -> list[PlanOptions]:
    """Of both abutments, each pressed on."""
    places = (span.half_mm, -span.half_mm)
    return [
        PlanOptions(replace(o, near=np.array([x, 0.0, 5.0])), above_gingiva_mm=0.5, taper_deg=5.0)
        for o, x in zip(span.options(), places, strict=True)
    ]


@cache
def uncut(span: Span) -> tuple[Uncut, ...]:
    grounds = [find_ground(span.scan(False), None, o) for o in options(span)]
    return tuple(Uncut(g, np.full(len(g.line.azimuth_deg), 0.9), 1.5, 5.0) for g in grounds)


def lean_deg(path: Floats) -> float:
    """Of a path towards mesial of the front abutment, degrees."""
    return float(np.degrees(np.arctan2(path[0], path[2])))


def test_an_upright_tooth_s_own_path_stands_upright() -> None:
    """The front abutment is round about its axis."""
    front, _ = uncut(TIPPED)
    assert degrees_between(least([front], UP), UP) < 6.0


def test_the_common_path_lies_between_the_teeth_s_own() -> None:
    """And takes less, weighted by depth, than either tooth's own path takes of both."""
    both = list(uncut(TIPPED))
    own = [least([one], UP) for one in both]
    common = least(both, UP)
    assert degrees_between(own[0], own[1]) > 6.0
    low, high = sorted(lean_deg(p) for p in own)
    assert low - 2.0 <= lean_deg(common) <= high + 2.0
    weighted = [sum(v.weighted for v in way("", p, both).lost.values()) for p in (common, *own)]
    assert weighted[0] <= min(weighted[1:]) + 1e-9


def test_a_steeper_lean_takes_more_and_deeper() -> None:
    """Of an upright tooth, 25 degrees off its axis; nothing is lost below the line, all of the top is."""
    front, _ = uncut(TIPPED)
    straight = front.lost(UP)
    leant = front.lost(unit(np.array([np.tan(np.radians(25.0)), 0, 1.0])))
    assert leant.weighted > 1.15 * straight.weighted
    assert leant.deepest_mm > straight.deepest_mm
    whole = len(front.cells) * 0.3**3
    assert 0.2 * whole < straight.mm3 < whole


def test_a_tooth_in_the_way_forbids_a_path() -> None:
    """Seen along a path that leans far to the neighbour, the neighbour stands over the finish line."""
    front, _ = uncut(TIPPED)
    assert front.blocked_mm(UP) == 0.0
    assert front.blocked_mm(unit(np.array([1.2, 0, 1.0]))) > 0.1


@cache
def planned() -> PlannedBridge:
    return plan_bridge(TIPPED.scan(False), None, options(TIPPED), [PONTIC], STANDARDS, generic())


@pytest.mark.long
def test_every_abutment_s_target_follows_the_common_path() -> None:
    """Its walls draw along it; both targets are in one body; the document reads back as its model."""
    bridge = planned()
    for one in bridge.abutments:
        assert degrees_between(one.plan.axes.up, bridge.direction) < 0.01
        assert one.plan.judgement is not None
        assert one.plan.standard.id == STANDARDS[one.plan.options.case.tooth.fdi].id
        undercut = [v for v in one.plan.judgement.verdicts if v.criterion == "undercut"]
        assert all(v.status in ("meets", "within-uncertainty") for v in undercut)
        assert one.row.cut_mm3 is not None
        assert one.row.crown_mm3 is not None
        assert 0 < one.row.cut_mm3 < one.row.crown_mm3
    target = bridge.target
    assert target is not None
    assert target.n_faces == sum(a.plan.target.n_faces for a in bridge.abutments if a.plan.target is not None)
    found = BridgePlanDocument.model_validate(bridge_plan_document(bridge, [PONTIC]))
    assert [a.tooth for a in found.abutments] == ["35", "37"]
    assert found.ways[0].name == "least tooth"
    assert found.ways[0].lean_deg == pytest.approx(0.0, abs=1e-6)
    assert found.has_target


@pytest.mark.long
def test_a_path_that_a_person_chose_is_planned_along_and_set_beside_the_least() -> None:
    """5 degrees to mesial of the least: every target follows it, and the table says what the least would take."""
    least_path = planned().direction
    own = unit(least_path + np.tan(np.radians(5.0)) * np.array([1.0, 0, 0]))
    given = [replace(o, case=replace(o.case, path=own)) for o in options(TIPPED)]
    bridge = plan_bridge(TIPPED.scan(False), None, given, [PONTIC], STANDARDS, generic())
    assert degrees_between(bridge.direction, own) < 1e-6
    assert [w.name for w in bridge.ways[:2]] == ["as chosen", "least tooth"]
    assert degrees_between(np.array(bridge.ways[1].direction), least_path) < 1e-6
    cost = [sum(lost.weighted for lost in way.lost.values()) for way in bridge.ways[:2]]
    assert cost[0] > cost[1]
    for one in bridge.abutments:
        assert degrees_between(one.plan.axes.up, own) < 0.01


def test_a_path_that_leans_too_far_is_refused() -> None:
    """No crown is seated along it: said before anything is shaped."""
    far = unit(np.array([1.0, 0, 1.0]))
    given = [replace(o, case=replace(o.case, path=far)) for o in options(TIPPED)]
    with pytest.raises(BadOption, match="leans"):
        plan_bridge(TIPPED.scan(False), None, given, [PONTIC], STANDARDS, generic())


def test_what_cannot_be_one_bridge_is_said() -> None:
    with pytest.raises(BadOption, match="two abutments"):
        plan_bridge(TIPPED.scan(False), None, options(TIPPED)[:1], [PONTIC], STANDARDS, generic())
