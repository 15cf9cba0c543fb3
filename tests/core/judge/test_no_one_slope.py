"""Walls of no one slope: what may as well be told of them is in the U of all that is told of them."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, measure
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.measure.path import Path
from vane_line.core.tooth.notation import ToothNumber

LINE_MM, TOP_MM = 1.0, 7.4
Rows = dict[tuple[str, str, str], Verdict]


class Bowed(Stump):
    """Walls that bulge in their middle by 0.12: from upright at the foot to twice the taper at the top."""

    def cut(self, p: Floats) -> Floats:
        along = (p[:, 2] - LINE_MM) / (TOP_MM - self.occlusal_mm - LINE_MM)
        more = 0.12 * (2 * np.clip(along, 0, 1) - 1) ** 2
        r = np.hypot(p[:, 0], p[:, 1])
        return super().cut(p * np.stack([1 + more / np.maximum(r, 0.1)] * 2 + [np.ones_like(r)], axis=1))


class Broken(Stump):
    """Walls that stand steep for 1.0 and lean in by 14 degrees more above: a second plane, or the wall itself."""

    def cut(self, p: Floats) -> Floats:
        more = np.tan(np.radians(14.0)) * np.clip(p[:, 2] - LINE_MM - 1.0, 0, None)
        r = np.hypot(p[:, 0], p[:, 1])
        return super().cut(p * np.stack([1 + more / np.maximum(r, 0.1)] * 2 + [np.ones_like(r)], axis=1))


@cache
def measured(shape: type[Stump], grid_mm: float) -> Geometry:
    stump = shape(
        line_mm=LINE_MM, top_mm=TOP_MM, width_mm=0.7, taper_deg=5.0, edge_mm=0.3, noise_um=6.0, grid_mm=grid_mm,
        seed=round(100 * grid_mm),
    )  # fmt: skip
    return measure(stump.scans(), facing(ToothNumber("36")))


def told(geometry: Geometry) -> Rows:
    found = judge(geometry, choose("zirconia", "full-crown")).verdicts
    return {(v.criterion, v.zone, v.bound): v for v in found if v.value is not None}


def u_of(rows: Rows, *key: str) -> float:
    u = rows[key].U  # type: ignore[index]
    assert u is not None
    return u


def test_a_bowed_wall_s_lean_is_less_sure() -> None:
    straight, bowed = told(measured(Stump, 0.16)), told(measured(Bowed, 0.16))
    for key in (("convergence", "faciolingual", "max"), ("convergence", "mesiodistal", "max"),
                ("draft", "facial", "min"), ("resistance", "mesial", "max")):  # fmt: skip
        assert u_of(bowed, *key) > (2.5 if key[0] == "convergence" else 1.4) * u_of(straight, *key)
    assert u_of(straight, "convergence", "faciolingual", "max") < 0.8


@pytest.mark.long
@pytest.mark.parametrize("shape", [Broken, Bowed])
def test_scans_finer_and_coarser_tell_the_same_within_it(shape: type[Stump]) -> None:
    """Of convergence, drafts, heights and widths: they differ by no more than both are unsure by."""
    fine, coarse = told(measured(shape, 0.16)), told(measured(shape, 0.22))
    kinds = ("convergence", "draft", "wall-height", "resistance", "finish-line-width", "remaining-width")
    keys = [k for k in fine if k[0] in kinds and k in coarse]
    assert len(keys) > 20
    for key in keys:
        apart = abs(fine[key].value - coarse[key].value)  # type: ignore[operator]
        assert apart <= np.hypot(u_of(fine, *key), u_of(coarse, *key)), key


@pytest.mark.long
def test_a_lower_plane_as_long_as_one_must_be_may_be_none() -> None:
    """1.0 long: by a hair the wall is the plane above it, 28 degrees more in all. U says so."""
    row = told(measured(Broken, 0.16))["convergence", "faciolingual", "max"]
    assert row.value is not None
    assert row.U is not None
    assert row.value - row.U < 12 < 36 < row.value + row.U
    assert row.status == "within-uncertainty"


def test_an_open_path_leaves_drafts_open_and_undercuts_where_the_walls_draw_by_less() -> None:
    geometry = measured(Stump, 0.16)
    path = geometry.path
    tilted = path.direction + np.tan(np.radians(4.0)) * geometry.axes.zero
    open_ = replace(geometry, path=path.or_else([tilted / np.linalg.norm(tilted)]))
    before, after = told(geometry), told(open_)
    assert open_.path.open_deg() == pytest.approx(np.hypot(2.0, path.open_deg()), rel=0.05)
    assert open_.path.open_deg(geometry.axes.quarter) < 0.1
    assert u_of(after, "resistance", "facial", "max") > 3.9
    assert u_of(after, "resistance", "mesial", "max") == pytest.approx(
        u_of(before, "resistance", "mesial", "max"), 0.05
    )
    never = told(replace(open_, path=replace(open_.path, settled=False)))
    assert u_of(never, "undercut", "overall", "max") > 4 * u_of(before, "undercut", "overall", "max")
    # Where path and walls agree, they draw by six degrees: four of tilt hide nothing.
    assert u_of(after, "undercut", "overall", "max") == pytest.approx(u_of(before, "undercut", "overall", "max"))
    low = told(replace(open_, path=replace(open_.path, least_draft_deg=2.0)))
    assert u_of(low, "undercut", "overall", "max") > 2 * u_of(before, "undercut", "overall", "max")


def test_a_path_that_nothing_else_leads_to_is_not_open() -> None:
    path = Path(np.array([0.0, 0, 1]), 3.0, "best")
    assert path.or_else([]).open_deg() == 0.0
    assert path.or_else([path.direction]).open_deg() == 0.0
    assert measured(Stump, 0.16).path.open_deg() < 0.1
    assert measured(Broken, 0.16).path.open_deg() < 1.0  # the same all round: both ways lead up the axis


def test_where_zones_of_a_tilted_path_end_is_in_their_u() -> None:
    """Along a path four degrees off other places count to a wall's thirds: no zone is surer, and some are less sure."""
    geometry = measured(Stump, 0.16)
    tilted = geometry.path.direction + np.tan(np.radians(4.0)) * geometry.axes.zero
    open_ = replace(geometry, path=geometry.path.or_else([tilted / np.linalg.norm(tilted)]))
    before, after = told(geometry), told(open_)
    keys = [k for k in before if k[0] == "reduction"]
    assert all(u_of(after, *key) > 0.98 * u_of(before, *key) for key in keys)
    assert max(u_of(after, *key) - u_of(before, *key) for key in keys) > 0.05


@pytest.mark.parametrize(("radius_mm", "least"), [(0.07, 60.0), (0.02, 0.0), (0.16, 0.0)])
def test_an_inner_corner_near_the_limit_is_not_proven_sharp(radius_mm: float, least: float) -> None:
    """0.07 is told too sharp on this scan and round enough on the next: half of that is in its U. 0.02 is sharp."""
    geometry = measured(Stump, 0.16)
    shape = geometry.ring.shape
    corner = replace(
        shape.form, form=np.where(shape.form.form == "", "", "shoulder"),
        inner_radius_mm=np.full_like(shape.form.inner_radius_mm, radius_mm),
    )  # fmt: skip
    changed = replace(shape, form=corner, otherwise=tuple(replace(t, form=corner) for t in shape.otherwise))
    row = told(replace(geometry, cut=replace(geometry.ring, shape=changed)))["finish-line-form", "facial", "max"]
    assert row.value == (0.0 if radius_mm > 0.1 else 100.0)
    assert row.U is not None
    assert least < row.U
    assert row.status == {0.07: "within-uncertainty", 0.02: "over", 0.16: "meets"}[radius_mm]
