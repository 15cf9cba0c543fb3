"""What one place leaves open is in the U of what is told there: an untold line, a short or half seen wall."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.case import Geometry, measure
from vane_line.core.judge.criteria.window_line import form_u
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.uncertainty import FORM_EDGE_MM, SHARP_EDGE_MM, Budget
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.measure.convergence import Walls
from vane_line.core.rings import degrees_apart
from vane_line.core.shape import side_drafts
from vane_line.core.tooth.notation import ToothNumber


@cache
def sound() -> Geometry:
    stump = Stump(fillet_mm=0.4, width_mm=0.8, top_mm=7.4, noise_um=8.0, taper_deg=5.0, grid_mm=0.19)
    return measure(stump.scans(), facing(ToothNumber("36")))


def rows(geometry: Geometry) -> dict[tuple[str, str, str], Verdict]:
    found = judge(geometry, choose("zirconia", "full-crown")).verdicts
    return {(v.criterion, v.zone, v.bound): v for v in found}


def doubtful(geometry: Geometry, middle_deg: float, half_deg: float) -> Geometry:
    """The same, with no edge told within so far of an azimuth."""
    line = geometry.line
    here = degrees_apart(line.azimuth_deg, middle_deg) <= half_deg
    return replace(geometry, line=replace(line, clear=line.clear & ~here))


def with_walls(geometry: Geometry, change: Callable[[Walls], Walls]) -> Geometry:
    shape = geometry.ring.shape
    others = tuple(replace(told, walls=change(told.walls)) for told in shape.otherwise)
    changed = replace(shape, walls=change(shape.walls), otherwise=others)
    return replace(geometry, cut=replace(geometry.ring, shape=changed))


@pytest.mark.long
def test_a_wall_s_height_is_less_sure_where_its_line_is_not_told() -> None:
    told, open_ = rows(sound()), rows(doubtful(sound(), 90, 20))
    for side, grows in (("mesial", True), ("distal", False), ("facial", False)):
        before, after = told["wall-height", side, "min"], open_["wall-height", side, "min"]
        assert after.value == before.value
        assert before.U is not None
        assert after.U is not None
        assert (after.U > 3 * before.U) == grows
        assert after.U >= before.U
    whole = told["wall-height", "overall", "min"].U, open_["wall-height", "overall", "min"].U
    assert whole[0] < whole[1] < open_["wall-height", "mesial", "min"].U  # type: ignore[operator]


def test_height_under_gingiva_is_less_sure_where_it_hangs_on_the_line_s_last_told_place() -> None:
    """The line rises to both contacts. Not told at a side's ends, where it lies lowest, what is told last decides."""
    risen = Stump(line_mm=lambda a: 1.2 + 1.2 * np.cos(2 * np.radians(a - 90)) ** 2, gingiva_mm=0.9, noise_um=6.0)
    found = measure(risen.scans(), facing(ToothNumber("36")))
    told, open_ = rows(found), rows(doubtful(doubtful(found, 45, 12), 135, 12))
    key = ("margin-height", "mesial", "max")
    assert told[key].U is not None
    assert open_[key].U is not None
    assert open_[key].U > told[key].U  # type: ignore[operator]


@pytest.mark.parametrize(("seen_deg", "run_mm"), [(15.0, 1.0), (12.0, 1.5)])
def test_a_convergence_is_less_sure_on_short_or_half_seen_walls(seen_deg: float, run_mm: float) -> None:
    def change(walls: Walls) -> Walls:
        off = (walls.azimuth_deg - 90 + 180) % 360 - 180
        lost = (np.abs(off) < 45) & ((off < -seen_deg) | (off > 0.3 * seen_deg))
        taper = np.where(lost if seen_deg < 15 else np.zeros_like(lost), np.nan, walls.taper_deg)
        return replace(walls, taper_deg=taper, top=np.minimum(walls.top, walls.foot + run_mm))

    told, open_ = rows(sound()), rows(with_walls(sound(), change))
    key = ("convergence", "mesiodistal", "max")
    assert told[key].U is not None
    assert open_[key].U is not None
    assert open_[key].U > 1.5 * told[key].U  # type: ignore[operator]
    assert pytest.approx(0.3, abs=0.15) == told[key].U


def test_a_convergence_is_not_told_by_ten_degrees_of_a_wall() -> None:
    """Four of them at either end lie right beside what was not seen."""

    def change(walls: Walls) -> Walls:
        off = (walls.azimuth_deg - 90 + 180) % 360 - 180
        lost = (np.abs(off) < 45) & ((off < -8.0) | (off > 2.4))
        return replace(walls, taper_deg=np.where(lost, np.nan, walls.taper_deg))

    told = rows(with_walls(sound(), change))
    assert told["convergence", "mesiodistal", "max"].status == "not-measured"
    assert told["convergence", "faciolingual", "max"].status != "not-measured"


def test_a_convergence_told_nowhere_hangs_on_nothing() -> None:
    walls = sound().ring.shape.walls
    none = replace(walls, taper_deg=np.full_like(walls.taper_deg, np.nan))
    assert np.isnan(none.convergence_hangs(0.0))
    assert walls.convergence_hangs(0.0) < 1


def test_a_side_without_a_wall_is_said() -> None:
    """Not passed over: it may be too low to be told."""

    def change(walls: Walls) -> Walls:
        lost = degrees_apart(walls.azimuth_deg, 270) < 20
        return replace(walls, height_mm=np.where(lost, np.nan, walls.height_mm))

    open_ = rows(with_walls(sound(), change))
    assert open_["wall-height", "distal", "min"].status == "not-measured"
    assert "no wall is told" in open_["wall-height", "distal", "min"].why
    assert open_["wall-height", "mesial", "min"].value is not None


def test_the_least_draft_is_not_that_of_a_row_s_noise() -> None:
    """Rows that scatter by 0.3 degrees about 5: their twentieth lies half a degree lower; within 0.25 it is told."""
    shape = sound().ring.shape
    noisy = 5.0 + 0.3 * np.random.default_rng(3).standard_normal(len(shape.walls.taper_deg))
    least = side_drafts(replace(shape.walls, taper_deg=noisy), shape.undercut)
    assert set(least) == {"facial", "mesial", "lingual", "distal"}
    for value in least.values():
        assert value == pytest.approx(5.0, abs=0.25)


def test_a_gap_may_reach_as_far_as_half_of_what_is_doubtful_about_it() -> None:
    """A closed line with no doubt has no gap; over 60 doubtful degrees it may hide one of 30."""
    told, open_ = rows(sound()), rows(doubtful(sound(), 90, 30))
    key = ("finish-line-gap", "overall", "max")
    assert (told[key].value, told[key].status) == (0.0, "meets")
    assert open_[key].value == 0.0
    u = open_[key].U
    assert u == pytest.approx(30, abs=1)
    assert open_[key].status == "within-uncertainty"


def test_a_side_s_lean_is_less_sure_where_the_path_is_free() -> None:
    """Free by two degrees to face and back: half of that enters drafts and leans there, and none to the sides."""
    there = sound().axes.zero
    free = replace(sound(), path=replace(sound().path, loose=4.0 * np.outer(there, there)))
    held = replace(sound(), path=replace(sound().path, loose=np.zeros((3, 3))))
    before, after = rows(held), rows(free)
    for criterion, bound in (("draft", "min"), ("resistance", "max")):
        for side, grows in (("facial", True), ("lingual", True), ("mesial", False), ("distal", False)):
            u, more = before[criterion, side, bound].U, after[criterion, side, bound].U
            assert u is not None
            assert more == pytest.approx(np.hypot(u, 2 * 0.5 * 2.0) if grows else u)


def test_what_hangs_on_a_sharp_edge_is_less_sure_on_a_coarse_scan() -> None:
    """Triangles cut it off: a width by half of what they are longer than 0.12 mm, the line's height by all of it."""
    fine, coarse = Budget(0.004, 0, 0, SHARP_EDGE_MM), Budget(0.004, 0, 0, SHARP_EDGE_MM + 0.1)
    for measure_, share in (("finish-line-width", 0.5), ("margin-height", 1.0)):
        assert fine.of(measure_) == pytest.approx(2 * np.hypot(fine.method(measure_), 0.004))
        want = 2 * np.sqrt(coarse.method(measure_) ** 2 + 0.004**2 + (share * 0.1) ** 2)
        assert coarse.of(measure_) == pytest.approx(want)
    finer, form = Budget(0.004, 0, 0, FORM_EDGE_MM - 0.02).form_percent, Budget(0.004, 0, 0, FORM_EDGE_MM).form_percent
    assert finer == form == 10.0
    assert Budget(0.004, 0, 0, FORM_EDGE_MM + 0.06).form_percent == pytest.approx(28.0)


def test_a_narrow_ledge_s_form_is_less_sure() -> None:
    """Of a ledge 0.8 wide corner and floor are told apart by triangles of 0.14; of one 0.35 wide less surely, and on
    one 0.25 wide nothing is proven."""
    budget = Budget(0.004, 0, 0, FORM_EDGE_MM)
    assert budget.form_of_ledge(0.8) == budget.form_percent
    assert budget.form_percent + 20 < budget.form_of_ledge(0.35) < 75
    assert budget.form_of_ledge(0.25) > 75


def test_a_short_stretch_of_a_ledge_proves_no_form() -> None:
    """Half a millimetre of it, all read wrong, is not told from a quarter; two millimetres and more are."""
    budget = Budget(0.004, 0, 0, FORM_EDGE_MM)
    assert 100 - form_u(budget, 2) < 25
    assert 100 - form_u(budget, 10) > 25
    assert form_u(budget, 20) == form_u(budget, 60) == budget.form_percent
    assert form_u(budget, 6) == pytest.approx(budget.form_percent * 20 / 6)
