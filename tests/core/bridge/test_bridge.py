"""A bridge measured on two stumps of known form, and judged."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from castings import ThreeQuarter
from solids import Stump
from spans import BACK, FRONT, PONTIC, RIDGE_MM, Span

from vane_line.cli.bridge import said
from vane_line.core.bridge.room import Connector, Stand, _top_beside
from vane_line.core.bridge.whole import Bridge, measure_bridge
from vane_line.core.case import measure
from vane_line.core.contract.bridge import BridgeDocument
from vane_line.core.cut_too import arch_order
from vane_line.core.judge.bridge import bridge_document, connector_rules, flex, judge_bridge, least_area
from vane_line.core.judge.standard_choice import choose_each
from vane_line.core.options import Options
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption, UnfitScans

LEVEL = Span()
TIPPED = Span(tip_deg=18.0, grown_mm=1.1, clearance_mm=1.9)  # where all opposing teeth are level


@cache
def measured(span: Span, opposing: bool = False) -> Bridge:
    return measure_bridge(span.scans(opposing), span.options(), [PONTIC])


@pytest.mark.long
def test_abutments_are_told_apart_and_stand_in_the_order_of_the_arch() -> None:
    """The scans differ on two teeth: each number has its own place, whatever the order it was given in."""
    bridge = measure_bridge(LEVEL.scans(), list(reversed(LEVEL.options())), [PONTIC])
    places = {g.options.tooth.fdi: g.line.points.mean(axis=0)[0] for g in bridge.abutments}
    assert places["35"] == pytest.approx(9.5, abs=0.2)
    assert places["37"] == pytest.approx(-9.5, abs=0.2)
    assert bridge.length_mm == pytest.approx(19.0, abs=0.2)


@pytest.mark.long
def test_upright_abutments_have_their_taper_in_common() -> None:
    """Both lean by 6 degrees all round: the path stands upright with 6 degrees of draft."""
    path = measured(LEVEL).path
    assert path.exists
    assert path.direction @ [0, 0, 1] > np.cos(np.radians(0.5))
    assert path.least_draft_deg == pytest.approx(6.0, abs=0.6)
    assert path.limited_by == ()


@pytest.mark.long
def test_a_tipped_abutment_lacks_half_the_angle() -> None:
    """18 degrees apart at a taper of 6: 3 are missing, on the mesial wall of one and the distal of the other."""
    path = measured(TIPPED).path
    assert not path.exists
    assert path.least_draft_deg == pytest.approx(-3.0, abs=0.8)
    assert len({f.tooth for f in path.limited_by}) == 2
    assert {f.side for f in path.limited_by[:2]} == {"mesial", "distal"}
    for wall in path.limited_by[:2]:
        assert wall.missing_deg == pytest.approx(3.0, abs=0.8)
    assert path.to_common_deg["35"] == pytest.approx(9.0, abs=0.8)


@pytest.mark.long
def test_one_of_two_cut_teeth_is_measured_by_its_number() -> None:
    """Without a point on it: the tooth by its place in the arch, though the other lost as much; the other's cut is no
    bite that changed and no neighbour that was nicked."""
    front, back = LEVEL.options()
    for mine, other, x in ((front, back, 9.5), (back, front, -9.5)):
        found = measure(LEVEL.scans(), replace(mine, others=(other.tooth,)))
        assert found.line.points.mean(axis=0)[0] == pytest.approx(x, abs=0.2)
    assert found.meeting.contacts is None or not found.meeting.contacts.changed()


def test_two_cut_teeth_and_no_word_which_is_meant() -> None:
    """The one that lost more is measured, and it is said; a point on a tooth, or the other's number, says which."""
    front, back = LEVEL.options()
    told = measure(LEVEL.scans(), back)
    assert any("Two teeth were cut" in w for w in told.warnings)
    named = measure(LEVEL.scans(), replace(back, others=(front.tooth,)))
    assert not any("Two teeth were cut" in w for w in named.warnings)


@pytest.mark.long
def test_the_pontic_has_the_room_between_the_lines() -> None:
    """Between the finish lines that face each other, from the ridge to the opposing teeth."""
    bridge = measured(LEVEL, opposing=True)
    (pontic,) = bridge.pontics
    assert pontic.tooth == "36"
    assert pontic.width_mm == pytest.approx(19.0 - 3.6 - 4.8, abs=0.15)
    level = LEVEL.front.top_mm - LEVEL.front.occlusal_mm + LEVEL.clearance_mm
    assert pontic.height_mm == pytest.approx(level - LEVEL.gingiva_mm - RIDGE_MM, abs=0.15)
    assert pontic.ridge_gap_mm == pytest.approx(1.6 - LEVEL.gingiva_mm - RIDGE_MM, abs=0.15)
    assert pontic.stand.at is not None
    assert pontic.stand.at[2] == pytest.approx((level + LEVEL.gingiva_mm + RIDGE_MM) / 2, abs=0.15)
    assert abs(pontic.stand.along @ [1, 0, 0]) > np.cos(np.radians(3))


@pytest.mark.long
def test_a_connector_is_the_ellipse_between_gingiva_and_opposing_teeth() -> None:
    """From a millimetre over the line to the level plate; as wide as the finish line less the embrasures."""
    level = LEVEL.front.top_mm - LEVEL.front.occlusal_mm + LEVEL.clearance_mm
    rows = measured(LEVEL, opposing=True).connectors
    assert [c.between for c in rows] == [("35", "36"), ("36", "37")]
    for connector, stump in zip(rows, (LEVEL.front, LEVEL.back), strict=True):
        assert connector.height_mm == pytest.approx(level - 1.6 - 1.0, abs=0.15)
        assert connector.width_mm <= 2 * stump.facial_mm - 1.0 + 0.1
        assert connector.height_mm is not None
        ellipse = np.pi / 4 * connector.height_mm * connector.width_mm
        assert connector.area_mm2 == pytest.approx(ellipse, rel=1e-9)


@pytest.mark.long
def test_a_tooth_grown_into_the_space_is_told_by_how_much() -> None:
    """1.1 beyond the teeth on either side; where none grew, nought."""
    assert measured(TIPPED, opposing=True).over_erupted["36"] == pytest.approx(1.1, abs=0.2)
    assert abs(measured(Span(clearance_mm=1.9), opposing=True).over_erupted["36"]) < 0.2


def test_beside_a_gap_the_nearest_top_is_the_tooth_s_and_not_the_gum_s() -> None:
    """Cusps at 5 and 11 mm; what reaches past the end of the gap is no tooth beside it. Where beyond that only gum is
    seen there is no top."""
    out = np.arange(-6.0, 16.0, 0.05)
    cusps = -5.0 - 0.2 * np.minimum((out - 5) ** 2, (out - 11) ** 2 + 0.5 * 5)
    past = np.where(out < 1.7, -4.0, cusps)
    assert _top_beside(out, past, -7.0) == pytest.approx((5.0, -5.0), abs=0.13)
    gum = np.where(out < 2, past, -11.0)
    assert _top_beside(out, gum, -7.0) is None


@pytest.mark.long
def test_with_teeth_on_one_side_alone_no_growth_is_told() -> None:
    """Nothing tells where the line would run on the other: said as not measured."""
    bridge = replace(carried(), over_erupted={})
    (row,) = [v for v in judge_bridge(bridge, "full-metal") if v.criterion == "over-eruption"]
    assert (row.zone, row.status) == ("36", "not-measured")


@pytest.mark.long
def test_the_document_is_the_contract_s() -> None:
    """It reads back as its model; the forbidding walls, two ways out, the grown tooth; each abutment's own document."""
    standards = choose_each("zirconia", [(FRONT, "full-crown"), (BACK, "full-crown")], None, "full-crown")
    made = bridge_document(measured(TIPPED, opposing=True), standards, "zirconia")
    assert BridgeDocument.model_validate(made).model_dump(by_alias=True) == made
    assert made["schema"] == "vane-line/bridge/1"
    assert [a["tooth"] for a in made["abutments"]] == ["35", "37"]
    statuses = {(v["criterion"], v["status"]) for v in made["verdicts"]}
    assert ("common-path", "short") in statuses
    assert ("abutment-angle", "meets") in statuses
    assert any("abutment angle" in w for w in made["warnings"])  # 18 degrees: over 15, a caution
    first = made["corrections"][0]
    assert first["do"].startswith("take 6 degrees off the")
    walls = {"mesial wall of 37", "distal wall of 35"}
    assert first["where"] in walls
    (other,) = walls - {first["where"]}
    assert f"not off the {other} as well" in first["do"]
    assert f"The {other}" in first["beware"]
    text = said(made)
    assert "No common path:" in text
    assert "The dentist decides" in text


def test_an_upright_bridge_meets() -> None:
    """Draft, angle, height and connectors of zirconia are enough; without opposing teeth they are not measured."""
    found = judge_bridge(measured(LEVEL, opposing=True), "zirconia")
    assert {v.status for v in found} <= {"meets", "within-uncertainty"}
    bare = {v.criterion: v.status for v in judge_bridge(measured(LEVEL), "zirconia")}
    assert bare["connector"] == bare["pontic-height"] == "not-measured"
    assert bare["common-path"] == "meets"


def test_flex_grows_with_the_cube_of_the_span() -> None:
    """Beam theory: two pontics bend eight times as far as one, three twenty-seven times."""
    one = measured(LEVEL)
    pontic = one.pontics[0]
    two = replace(one, pontics=[pontic, replace(pontic, tooth="36")])
    assert flex(one) == pytest.approx(1.0)
    assert flex(two) == pytest.approx(8.0)
    assert flex(replace(one, pontics=[pontic] * 3)) == pytest.approx(27.0)


@pytest.mark.parametrize(
    ("between", "material", "least"),
    [(("35", "36"), "zirconia", 9.0), (("11", "12"), "zirconia", 7.0), (("36", "36"), "zirconia", 12.0),
     (("14", "15"), "lithium-disilicate", 16.0), (("11", "12"), "metal-ceramic", 6.0)],
)  # fmt: skip
def test_least_areas_of_connectors(between: tuple[str, str], material: str, least: float) -> None:
    """Published values put down from memory, by place and material."""
    stand = Stand(None, np.eye(3)[0], np.eye(3)[2])
    joint = Connector(between, 3.0, 3.0, 7.0, stand)
    assert least_area(joint, connector_rules()[material], {"36"}) == least


def test_the_order_of_the_arch_runs_through_the_middle() -> None:
    """Down one side and up the other."""
    order = sorted((ToothNumber(t) for t in ("13", "21", "22", "11", "26", "16")), key=arch_order)
    assert [t.fdi for t in order] == ["26", "22", "21", "11", "13", "16"]


@pytest.mark.parametrize(
    ("abutments", "pontics", "words"),
    [(["35"], ["36"], "two abutments"), (["35", "35"], ["36"], "given twice"), (["35", "27"], ["36"], "one jaw"),
     (["35", "37"], [], "missing"), (["35", "36"], ["37"], "cantilevers")],
)  # fmt: skip
def test_what_is_no_bridge_is_said(abutments: list[str], pontics: list[str], words: str) -> None:
    options = [Options(ToothNumber(t)) for t in abutments]
    with pytest.raises(BadOption, match=words):
        measure_bridge(LEVEL.scans(), options, [ToothNumber(t) for t in pontics])


def test_a_scan_before_of_another_mouth_tells_no_abutments() -> None:
    """What its teeth differ in is everywhere: a point on each is asked for."""
    other = Span(half_mm=8.0, front=Stump(facial_mm=3.4, mesial_mm=4.4, top_mm=5.6), grid_mm=0.3).scan(False)
    scans = replace(LEVEL.scans(), preop=other.with_vertices(other.vertices * [1.1, 0.85, 0.8]))
    with pytest.raises(UnfitScans, match="does not fit prep"):
        measure_bridge(scans, LEVEL.options(), [PONTIC])


@pytest.mark.long
def test_without_the_scan_before_a_point_on_each_is_asked_for() -> None:
    bare = replace(LEVEL.scans(), preop=None)
    with pytest.raises(BadOption, match="point on every abutment"):
        measure_bridge(bare, LEVEL.options(), [PONTIC])
    there = [replace(o, near=np.array([x, 0.0, 5.0])) for o, x in zip(LEVEL.options(), (9.5, -9.5), strict=True)]
    assert [g.options.tooth for g in measure_bridge(bare, there, [PONTIC]).abutments] == [FRONT, BACK]


# --- a partial crown as an abutment -------------------------------------------------------------------------------

OPEN = Span(back=ThreeQuarter(facial_mm=4.8, mesial_mm=4.8), tip_deg=18.0)


@cache
def carried() -> Bridge:
    """A full crown in front, behind it a partial crown on a tooth that is tipped by 18 degrees."""
    crown, partial = OPEN.options()
    return measure_bridge(OPEN.scans(), [crown, replace(partial, restoration="partial-crown")], [PONTIC])


@pytest.mark.long
def test_a_partial_crown_s_walls_have_their_say_in_the_common_path() -> None:
    """Both taper by 6, 18 apart: 3 are missing, as between two crowns; the standing face forbids nothing."""
    bridge = carried()
    assert bridge.path.least_draft_deg == pytest.approx(-3.0, abs=0.8)
    assert {f.tooth for f in bridge.path.limited_by} == {"35", "37"}
    assert {f.side for f in bridge.path.limited_by[:2]} == {"mesial", "distal"}


def test_each_abutment_is_judged_by_its_own_kind() -> None:
    """Its own standard, its own document, and a way out that tells how high its wall stands."""
    standards = choose_each("full-metal", [(FRONT, "full-crown"), (BACK, "partial-crown")], None, "full-crown")
    made = bridge_document(carried(), standards, "full-metal")
    BridgeDocument.model_validate(made)
    kinds = {a["tooth"]: a["standard"]["id"] for a in made["abutments"]}
    assert kinds == {"35": "full-metal", "37": "partial-full-metal"}
    assert made["abutments"][1]["channels"] == []
    assert made["corrections"]
    assert "degrees off" in made["corrections"][0]["do"]


def test_an_abutment_without_a_standard_is_named() -> None:
    standards = choose_each("full-metal", [(FRONT, "full-crown")], None, "full-crown")
    with pytest.raises(BadOption, match="no standard is given for tooth 37"):
        bridge_document(carried(), standards, "full-metal")


def test_other_kinds_carry_no_bridge_yet() -> None:
    crown, other = OPEN.options()
    with pytest.raises(BadOption, match="partial crown"):
        measure_bridge(OPEN.scans(), [crown, replace(other, restoration="onlay")], [PONTIC])
