"""Several veneers seen together: levels and differences that are known, whatever the order they come in."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from typing import Any

import numpy as np
import pytest
from solids import facing, turned
from windows import Window

from vane_line.core.case import measure
from vane_line.core.contract.measurement import MeasurementDocument
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.veneers import seen_together
from vane_line.core.rigid import move
from vane_line.core.tooth.notation import ToothNumber

RIGHT = Window(
    noise_um=8.0, depth_mm=0.6, neck_mm=1.0, planes_deg=9.0, mocked=True, thicker_mm=0.1, longer_mm=0.4, incisal_mm=1.5
)
LEFT = replace(RIGHT, depth_mm=0.35, longer_mm=1.0, incisal_mm=1.1, inner_mm=0.25)
APART = turned((1.0, 2.0, 0.5), 40.0, (9.0, -3.0, 2.0))  # where a whole mouth may lie


@cache
def told(window: Window, tooth: str) -> MeasurementDocument:
    """A block measured as this tooth, as it is stored and read again."""
    number = ToothNumber(tooth)
    geometry = measure(window.scans(), facing(number, restoration="veneer"))
    standard = choose("zirconia-translucent", "veneer", None, number)
    return MeasurementDocument.model_validate(document(geometry, judge(geometry, standard)))


def moved(one: MeasurementDocument) -> MeasurementDocument:
    """The same document of a mouth that lies elsewhere."""
    data: dict[str, Any] = one.model_dump(by_alias=True)
    incisal = data["veneer"]["incisal"]
    incisal["planned_edge"] = move(APART, np.array([incisal["planned_edge"]]))[0].tolist()
    data["frame"]["occlusal"] = (APART[:3, :3] @ data["frame"]["occlusal"]).tolist()
    return MeasurementDocument.model_validate(data)


@pytest.mark.long
@pytest.mark.parametrize("elsewhere", [False, True])
@pytest.mark.parametrize("turned_round", [False, True])
def test_edges_and_thirds_are_compared_from_right_to_left(elsewhere: bool, turned_round: bool) -> None:
    """Edges at 10 before, planned at 10.4 and 11.0, cut at 8.5 and 8.9."""
    both = [told(RIGHT, "11"), told(LEFT, "21")]
    both = [moved(one) for one in both] if elsewhere else both
    row = seen_together(both[::-1] if turned_round else both)
    assert [t.tooth for t in row.teeth] == ["11", "21"]
    assert row.to == "mockup"
    right, left = row.teeth
    assert (right.level_mm, left.level_mm) == pytest.approx((0.6, 0.0), abs=0.03)
    assert (right.longer_mm, left.longer_mm) == pytest.approx((0.4, 1.0), abs=0.03)
    assert (right.room_mm, left.room_mm) == pytest.approx((1.9, 2.1), abs=0.05)
    middle = next(t for t in right.thirds if t.zone == "facial/middle")
    assert middle.removed_mm == pytest.approx(0.6, abs=0.05)
    by_figure = {(u.what, u.zone): u for u in row.unlike}
    assert by_figure["tooth-removed", "facial/middle"].difference_mm == pytest.approx(0.25, abs=0.05)
    assert by_figure["thickness", "facial/middle"].difference_mm == pytest.approx(0.25, abs=0.05)
    assert by_figure["planned-edge", None].difference_mm == pytest.approx(0.6, abs=0.03)
    assert by_figure["room-at-edge", None].difference_mm == pytest.approx(-0.2, abs=0.06)
    assert by_figure["longer", None].difference_mm == pytest.approx(-0.6, abs=0.03)
    assert all(by_figure[key].proven for key in (("tooth-removed", "facial/middle"), ("longer", None)))
    assert [u.proven for u in row.unlike] == sorted((u.proven for u in row.unlike), reverse=True)


@pytest.mark.long
def test_a_level_is_told_no_better_than_which_way_is_up() -> None:
    """Two equal edges 8 apart on a direction that is 5 degrees off differ by 0.7: nothing that is proven, unless a
    person has said which way is up."""
    left = told(RIGHT, "21").model_dump(by_alias=True)
    incisal = left["veneer"]["incisal"]
    incisal["planned_edge"] = (np.array(incisal["planned_edge"]) + [8.0, 0.0, 0.0]).tolist()
    leaning = [np.sin(np.radians(5)), 0.0, np.cos(np.radians(5))]

    def level(sure: float) -> tuple[float, bool]:
        both = [told(RIGHT, "11").model_dump(by_alias=True), left]
        both = [one | {"frame": one["frame"] | {"occlusal": leaning, "confidence": sure}} for one in both]
        row = seen_together([MeasurementDocument.model_validate(one) for one in both])
        found = next(u for u in row.unlike if u.what == "planned-edge")
        return found.difference_mm, found.proven

    assert level(0.9) == (pytest.approx(8 * np.sin(np.radians(5)), abs=0.03), False)
    assert level(1.0)[1]


@pytest.mark.long
def test_two_that_were_cut_alike_have_nothing_proven_against_them() -> None:
    """Another scan of the same block: whatever differs lies within the uncertainty."""
    row = seen_together([told(RIGHT, "11"), told(replace(RIGHT, seed=9), "21")], ["12"])
    assert row.unlike
    assert not any(u.proven for u in row.unlike)
    assert row.missing == ["12"]


@pytest.mark.long
def test_only_mirrored_teeth_are_compared() -> None:
    """11 and 22 stand in one row, but none is the other's twin."""
    right = told(RIGHT, "11")
    row = seen_together([right, MeasurementDocument.model_validate(right.model_dump(by_alias=True) | {"tooth": "22"})])
    assert [t.tooth for t in row.teeth] == ["11", "22"]
    assert row.unlike == []
