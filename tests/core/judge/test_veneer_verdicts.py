"""Veneers held against their standards, and what the hand is asked for; every guard with a twin where it is silent."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from long import first
from proven import of, proven
from solids import facing
from windows import Window

from vane_line.core.case import Geometry, measure
from vane_line.core.judge.criteria.veneer import _ending
from vane_line.core.judge.document import document
from vane_line.core.judge.findings import report
from vane_line.core.judge.judgement import Judgement, hold, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.kinds.window import WindowCut
from vane_line.core.measure.front_form import Planes
from vane_line.core.options import Options
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.window.forms import Ending

TOOTH = ToothNumber("11")
GOOD = Window(
    noise_um=8.0, depth_mm=0.6, side_mm=0.4, neck_mm=1.0, planes_deg=9.0, distal_end_mm=0.6, mesial_end_mm=0.6,
    inner_mm=0.3,
)  # fmt: skip
# Faults that do not touch each other stand on one veneer.
TIMID = replace(GOOD, depth_mm=0.35, inner_mm=0.25, incisal_mm=0.7, neck_mm=2.2)
BOLD = replace(GOOD, depth_mm=1.2, incisal_mm=2.3)
UNEVEN = replace(GOOD, facet_deg=115.0, distal_side_mm=1.1, planes_deg=0.0)
FAINT = replace(GOOD, side_mm=0.12, inner_mm=0.08)
STANDARD = choose("zirconia-translucent", "veneer", None, TOOTH)


@cache
def measured(window: Window) -> Geometry:
    return measure(window.scans(), facing(TOOTH, restoration="veneer"))


@cache
def judged(window: Window, material: str = "zirconia-translucent", dark: bool = False) -> Judgement:
    geometry = measured(window)
    said = replace(geometry, options=replace(geometry.options, dark=dark))
    return judge(said, choose(material, "veneer", None, TOOTH))


@pytest.mark.long
def test_a_face_that_is_only_just_in_two_planes_proves_neither() -> None:
    """Nor a facet that falls backward by as much as its few rows leave in doubt."""
    good = measured(GOOD)
    assert isinstance(good.cut, WindowCut)
    assert good.cut.incisal is not None

    def told(cut: WindowCut) -> dict[tuple[str, str], str]:
        rows = judge(replace(good, cut=cut), STANDARD).verdicts
        return {(v.criterion, v.bound): v.status for v in rows if v.criterion in ("planes", "incisal-form")}

    sure = replace(good.cut, planes=Planes((12.0,)), incisal=replace(good.cut.incisal, angle_deg=115.0))
    assert (told(sure)["planes", "min"], told(sure)["incisal-form", "max"]) == ("short", "over")
    hardly = replace(sure, planes=Planes((12.0,), 1), incisal=replace(sure.incisal, angle_u_deg=12.0))
    assert set(told(hardly).values()) & {"short", "over"} == set()


@pytest.mark.parametrize(
    ("window", "criterion", "zone", "status"),
    first(
        2,
        (TIMID, "reduction", "facial/middle", "short"),
        (TIMID, "incisal-reduction", "incisal-edge", "short"),
        (TIMID, "margin-height", "facial", "short"),
        (UNEVEN, "incisal-form", "incisal-edge", "over"),
        (UNEVEN, "scoop", "proximal/distal", "over"),
        (UNEVEN, "planes", "facial", "short"),
        (BOLD, "reduction", "facial/middle", "over"),
        (BOLD, "incisal-reduction", "incisal-edge", "over"),
        (FAINT, "finish-line-width", "distal", "short"),
    ),
)
def test_each_fault_is_proven_and_answered(window: Window, criterion: str, zone: str, status: str) -> None:
    """The fault is found in its place; the good twin has none; it is corrected, or why not is said."""
    found = judged(window)
    record, bound = proven(found, judged(GOOD), criterion, zone, status)
    if bound in record.correct:
        strokes = [c for c in found.corrections if c.key == f"{criterion}|{zone}"]
        asked = abs(next(v.missing or 0.0 for v in of(found, criterion, zone) if v.status == status))
        assert strokes or asked < 0.2
    else:
        assert record.leave[bound]


@pytest.mark.long
def test_a_wrap_is_judged_by_its_length_and_depth() -> None:
    """Within bounds it meets; too long it comes into the concavity; a butt has none."""
    plain = judged(replace(GOOD, wrap_mm=0.75, back_mm=0.62))
    assert {v.status for v in of(plain, "wrap")} <= {"meets", "within-uncertainty"}
    assert {v.zone for v in of(plain, "wrap")} == {"wrap", "wrap/depth"}
    assert any(v.status == "over" for v in of(judged(replace(GOOD, wrap_mm=1.5, back_mm=0.62)), "wrap", "wrap"))
    assert of(judged(GOOD), "wrap") == []


@pytest.mark.long
def test_a_face_that_ends_before_a_lengthened_edge_wants_a_butt() -> None:
    """Made 1.2 longer without one: a fault; as long as before: none."""
    face = replace(GOOD, incisal_mm=0.0, below_edge_mm=1.5)
    longer = judged(replace(face, mocked=True, longer_mm=1.2, thicker_mm=0.1))
    assert any(v.status == "over" and v.unit == "mm" for v in of(longer, "incisal-form"))
    assert not any(v.status == "over" for v in of(judged(face), "incisal-form"))
    assert any("butt" in c.do for c in longer.corrections if c.key.startswith("incisal-form"))


@pytest.mark.long
def test_enamel_is_a_caution_and_never_a_fault() -> None:
    """Deeper than the usual enamel it is doubtful, shallower it meets; on an old crown it is silent."""
    rows = {v.zone: v.status for v in of(judged(replace(GOOD, planes_deg=0.0)), "enamel-likely-left")}
    assert rows["facial/cervical"] == "within-uncertainty"
    assert rows["facial/incisal"] == "meets"
    assert not set(rows.values()) & {"short", "over"}
    made = document(judged_geometry := measure(GOOD.scans(), facing(TOOTH, restoration="veneer", earlier="old-crown")),
                    judge(judged_geometry, STANDARD))  # fmt: skip
    assert [v["status"] for v in made["verdicts"] if v["criterion"] == "enamel-likely-left"] == ["not-measured"]
    assert all(row["likely_left"] is None for row in made["veneer"]["enamel"])


def test_a_dark_tooth_wants_more_room() -> None:
    """0.6 does for translucent zirconia; over a dark tooth it lacks."""
    assert {v.status for v in of(judged(GOOD), "reduction", "facial/middle")} == {"meets"}
    dark = of(judged(GOOD, dark=True), "reduction", "facial/middle")
    assert any(v.status == "short" and v.limit == pytest.approx(0.7) for v in dark)


@pytest.mark.parametrize(
    ("value", "status", "bound"),
    [(-1.0, "meets", "max"), (-0.12, "within-uncertainty", "max"), (0.02, "over", "max"), (0.1, "short", "min"),
     (0.6, "within-uncertainty", "max"), (0.9, "over", "max")],
)  # fmt: skip
def test_the_line_is_short_of_the_contact_or_well_past_it(value: float, status: str, bound: str) -> None:
    """By whichever it is nearer to, at a U of 0.15 or so: in between is the contact itself."""
    held, _ = hold(judged_held(), STANDARD)
    rows = _ending(held, Ending("mesial", value, (0.0, 0.0, 0.0)), "proximal/mesial")
    assert (status, bound) in {(v.status, v.bound) for v in rows}, rows


@pytest.mark.long
def test_a_guessed_axis_makes_a_butt_s_angle_less_certain() -> None:
    """A person who gives the occlusal direction knows it; a guess may be five degrees off, twice that in U."""
    scans = GOOD.scans()
    guessed = measure(scans, Options(TOOTH, restoration="veneer", facial=np.array([0.0, 1, 0])))
    known, unsure = (hold(g, STANDARD)[0].budget.of("incisal-form") for g in (judged_held(), guessed))
    assert known == pytest.approx(2.0)
    assert unsure == pytest.approx(2 * np.hypot(1.0, 5.0))


def judged_held() -> Geometry:
    return measured(GOOD)


def test_the_document_says_what_a_veneer_is() -> None:
    """Its own key, its line about the facial direction; nothing of a crown's walls or a cavity's floor."""
    geometry = judged_held()
    made = document(geometry, judge(geometry, STANDARD))
    assert made["restoration"] == "veneer"
    assert made["cavity"] is None
    assert made["convergence"] is None
    assert made["resistance"] is None
    assert made["veneer"]["incisal"]["form"] == "butt"
    assert made["veneer"]["planes"] == 2
    assert [s["side"] for s in made["veneer"]["scoops"]] == ["mesial", "distal"]
    assert made["finish_line"]["axis"] == pytest.approx([0, 1, 0])
    assert made["finish_line"]["closed"]
    assert made["finish_line"]["width_mm"]["median"] == pytest.approx(0.5, abs=0.12)
    neck = [s for s in made["finish_line"]["samples"] if 160 < s["azimuth_deg"] < 200]
    assert np.median([s["width_mm"] for s in neck]) == pytest.approx(0.6, abs=0.03)
    assert {s["form"] for s in neck} <= {"chamfer", "feather", "bevelled"}


@pytest.mark.long
def test_findings_speak_of_the_veneer() -> None:
    """Each fault in words that name its place, worst first, with a lens to look through."""
    found = judged(replace(GOOD, distal_side_mm=1.1, incisal_mm=0.7))
    window = replace(GOOD, distal_side_mm=1.1, incisal_mm=0.7)
    geometry = measure(window.scans(), facing(TOOTH, restoration="veneer"))
    words = str(report(document(geometry, found)))
    assert "incisal edge" in words
    assert "distal side" in words
    assert "seal and bond" in words
    assert "crown" not in " ".join(c.do for c in found.corrections)
