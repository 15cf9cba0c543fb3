"""Nicks in the neighbours: grooves of known depth, and what the earlier scan never saw."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from calibration_parts import grooved
from long import first
from solids import Stump, facing, plate, sphere, turned

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, complete, measure, prepare
from vane_line.core.files import Measurement
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.measure import grounds
from vane_line.core.measure.grounds import Grounds, grounds_of
from vane_line.core.measure.neighbours import BENT, compare_side, deepest_dent, find_neighbours, teeth_beside
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.placed import TAUBIN_STEPS, place
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.burs import ball_stroke
from vane_line.demo.cases import MadeCase
from vane_line.demo.scanner import placed


def nicked(depth_mm: float, gap_mm: float = 1.2, seed: int = 31, **cut: Any) -> Geometry:
    """A tooth whose mesial neighbour was nicked, measured."""
    return measure(scans_of_nick(depth_mm, gap_mm, seed, **cut), facing(ToothNumber("36")))


def scans_of_nick(
    depth_mm: float, gap_mm: float = 1.2, seed: int = 31, span: tuple[float, float] = (3.5, 5.5), bur_mm: float = 0.6
) -> Scans:
    """The mesial neighbour's near side, 5 + gap from the axis, cut by a round bur that runs over `span` of height."""
    stump = Stump(gap_mm=gap_mm, seed=seed, noise_um=5)
    x = stump.mesial_mm + gap_mm - bur_mm + depth_mm
    bur = ball_stroke(np.array([x, -0.35, span[0]]), np.array([x, -0.35, span[1]]), bur_mm)

    def shape(p: Floats) -> Floats:
        whole = np.minimum(stump.cut(p), stump.surroundings(p, stump.gingiva_mm - 0.1))
        return np.maximum(whole, -bur(p)) if depth_mm > 0 else whole

    prep = stump.scanned(shape, seed=1)
    return Scans(prep, preop=stump.preop())


def verdicts(geometry: Geometry) -> dict[str, Verdict]:
    rows = judge(geometry, choose("zirconia", "full-crown")).verdicts
    return {v.zone: v for v in rows if v.criterion == "neighbour-nick"}


@pytest.mark.parametrize(("depth", "status"), first(1, (0.15, "over"), (0.3, "over")))
def test_a_groove_in_the_neighbour_is_found_with_its_depth(depth: float, status: str) -> None:
    """Within 20 µm of its bottom; the other side has none."""
    geometry = nicked(depth)
    mesial, distal = geometry.neighbours
    assert mesial.nick_depth_mm is not None
    assert mesial.nick_depth_mm == pytest.approx(depth, abs=0.02)
    assert mesial.area_mm2 > 0.5
    assert mesial.at is not None
    assert np.linalg.norm(np.array(mesial.at)[:2] - [6.2, -0.35]) < 0.6
    assert distal.nick_depth_mm == 0.0
    rows = verdicts(geometry)
    assert rows["mesial"].status in (status, "within-uncertainty")
    assert rows["distal"].status == "meets"


@pytest.mark.long
def test_a_narrow_nick_is_not_read_low() -> None:
    """0.25 deep and 1 mm across, a spot: averages would take a quarter off it."""
    mesial, _ = nicked(0.25, span=(4.5, 4.55), bur_mm=0.625).neighbours
    assert mesial.nick_depth_mm == pytest.approx(0.25, abs=0.02)


@pytest.mark.parametrize(("bur", "depth"), [(0.3, 0.2), (0.3, 0.5), (0.5, 0.5), (0.8, 0.5)])
def test_the_steep_sides_of_a_deep_nick_do_not_hide_it(bur: float, depth: float) -> None:
    found = grooved(depth, bur, np.random.default_rng(7), noise_um=6.0, grid=0.12)
    assert found.nick_depth_mm == pytest.approx(depth, abs=0.03)
    assert not found.why


def test_a_nick_far_under_the_neighbour_s_cusps_is_seen() -> None:
    """0.35 deep, 1 mm above the finish line and 5 under the neighbour's top: it is still the neighbour's wall."""
    mesial, distal = nicked(0.35, span=(2.6, 2.65)).neighbours
    assert mesial.nick_depth_mm == pytest.approx(0.35, abs=0.03)
    assert distal.nick_depth_mm == 0.0


@pytest.mark.long
def test_a_neighbour_close_by_stands_there() -> None:
    """0.6 mm away, and nicked by 0.2: found on its side, with gap and depth."""
    mesial, distal = nicked(0.2, gap_mm=0.6).neighbours
    assert mesial.gap_mm is not None
    assert mesial.gap_mm == pytest.approx(np.hypot(0.6, 1.6), abs=0.25)
    assert mesial.nick_depth_mm == pytest.approx(0.2, abs=0.03)
    assert distal.gap_mm is not None


def test_an_untouched_neighbour_has_no_nick_and_the_gap_is_measured() -> None:
    """What counts as the neighbour's crown begins 4.5 under its highest cusp of 7.6; the ledge's edge is 1.5 lower and
    1.2 away."""
    geometry = nicked(0.0)
    assert [n.nick_depth_mm for n in geometry.neighbours] == [0.0, 0.0]
    for n in geometry.neighbours:
        assert n.gap_mm == pytest.approx(np.hypot(1.2, 1.6), abs=0.2)


def test_a_closed_contact_is_not_compared(demo_measured: Measurement) -> None:
    """The demo's mesial contact was closed: not measured, and why. The nick in the distal embrasure is found."""
    rows = {n["side"]: n for n in demo_measured.document["neighbours"]}
    assert rows["mesial"]["nick_depth_mm"] is None
    assert "closed" in rows["mesial"]["why"]
    assert rows["distal"]["nick_depth_mm"] == pytest.approx(0.18, abs=0.05)


@pytest.mark.long
def test_without_an_earlier_scan_there_is_a_gap_but_no_comparison(stump: Stump) -> None:
    """Not measured, with the reason; a lone tooth has no neighbours at all."""
    options = replace(facing(ToothNumber("36")), near=np.array([0.5, 0.3, 5.0]))
    alone = measure(stump.scans(reference=False), options)
    assert {v.status for v in verdicts(alone).values()} == {"not-measured"}
    prep: Surface = Stump(neighbours=False, seed=33).prep()
    lone = measure(Scans(prep), options)
    assert verdicts(lone) == {}


@pytest.mark.long
def test_a_neighbour_that_was_prepared_too_has_no_nick() -> None:
    """0.3 off its near side would be a nick; where that tooth was cut on purpose nothing is said of it, and why."""
    options = facing(ToothNumber("36"))
    placed = place(scans_of_nick(0.3), options, lambda _text, _share: None)
    both = replace(placed, cut_too=((ToothNumber("35"), np.array([9.7, 0.0, 4.0])),))
    rows = verdicts(complete(prepare(both, options), options))
    assert rows["mesial"].status == "not-measured"
    assert "prepared too" in rows["mesial"].why
    assert rows["distal"].status == "meets"


def test_what_the_earlier_scan_never_saw_does_not_hang_on_how_much_of_it_is_looked_at(
    tipped_case: MadeCase, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The last of a tipped tooth's neighbour lies where that part of the earlier scan ended: it counted as unseen."""
    options = Options(ToothNumber("47"))
    scans = Scans(tipped_case.prep, preop=tipped_case.preop)
    prepared = prepare(place(scans, options, lambda _text, _share: None), options)
    placed, line, axes = prepared.placed, prepared.survey.found, prepared.survey.axes
    inside, _ = placed.eased.keep_vertices(prepared.inside)

    def hidden_mm2(beside: Grounds) -> float:
        teeth = teeth_beside(beside.now, placed.crowns, line, axes)
        return find_neighbours(beside, teeth, inside, placed.base, placed.crowns, line=line, axes=axes)[0].hidden_mm2

    near = hidden_mm2(prepared.grounds)
    monkeypatch.setattr(grounds, "EARLIER_MM", 2 * grounds.EARLIER_MM)
    assert hidden_mm2(grounds_of(placed.scans.prep, placed.base, placed.centre, TAUBIN_STEPS)) == pytest.approx(
        near, abs=1e-9
    )
    assert 0 < near < 9.5  # 10 where the part ended with the preparation's


def test_an_earlier_scan_that_ends_before_the_tooth_is_no_ground() -> None:
    """Nothing of it lies about the tooth: an empty part, of which nothing is a tooth."""
    ball = sphere(3.0, grid=0.5)
    away = ball.with_vertices(ball.vertices + [40.0, 0.0, 0.0])
    found = grounds_of(ball, away, np.zeros(3), 2)
    assert found.before is not None
    assert found.before.surface.n_faces == len(found.before.concave) == len(found.before.index) == 0
    assert found.now.surface.n_vertices == ball.n_vertices


def _wall(x_at: Callable[[Floats, Floats], Floats], half_mm: float = 5.0) -> Surface:
    """The side of a neighbour, facing a preparation that stands towards -x: x over (y, z)."""
    flat = plate(-half_mm, half_mm, -half_mm, half_mm, 0.0, 0.1)
    z, y, _ = flat.vertices.T
    return flat.with_vertices(np.stack([x_at(y, z), y, z], axis=1))


def test_beside_a_web_that_the_earlier_scan_spanned_nothing_looks_nicked() -> None:
    """It bends into the web long before it is steep: 0.08 deeper now at its side, where no bur was. A nick elsewhere on
    the same wall is told, 0.3 deep."""

    def spanned(y: Floats, z: Floats) -> Floats:
        off = np.hypot(y, z)
        return np.asarray(2.0 - 0.12 * np.clip(2 - off, 0, None) ** 2 - 6 * np.clip(0.6 - off, 0, None))

    def cut(y: Floats, z: Floats) -> Floats:
        return np.asarray(2.0 + 0.3 * np.clip(1 - ((y - 3.0) ** 2 + z**2) / 0.6**2, 0, None))

    base, inside = _wall(spanned), _wall(lambda y, _: np.zeros_like(y), 2.0)
    told = np.hypot(base.vertices[:, 1], base.vertices[:, 2]) > 0.7  # the web itself is no tooth
    for now, depth in ((lambda y, _: np.full_like(y, 2.0), None), (cut, 0.3)):
        prep = _wall(now)
        found = compare_side("mesial", prep, inside, base, np.ones(prep.n_vertices, dtype=bool), told)
        assert found.nick_depth_mm == (None if depth is None else pytest.approx(depth, abs=0.03))
        assert (found.why == BENT) == (depth is None)


def _bulging(
    dent_mm: float, half_mm: float = 0.55, noise_um: float = 8.0, at: tuple[float, float] = (0.0, 0.0)
) -> Surface:
    """A tooth's side, convex as one is (radii 4 and 7), dented by a round bur `at` (y, z); noise as of a scan."""

    def x_at(y: Floats, z: Floats) -> Floats:
        dent = dent_mm * np.clip(1 - ((y - at[0]) ** 2 + (z - at[1]) ** 2) / half_mm**2, 0, None)
        return np.asarray(
            y**2 / 8 + z**2 / 14 + dent + noise_um / 1000 * np.random.default_rng(4).standard_normal(len(y))
        )

    return _wall(x_at, 3.0)


@pytest.mark.parametrize(("depth", "within"), [(0.25, 0.06), (0.4, 0.08)])
def test_a_dent_is_told_from_the_tooth_s_own_form(depth: float, within: float) -> None:
    """Without any earlier scan, within a quarter of its depth, and where it is; only where it is asked for."""
    side = _bulging(depth)
    there = np.hypot(side.vertices[:, 1], side.vertices[:, 2]) < 1.5
    told, where = deepest_dent(side, there)
    assert told == pytest.approx(depth, abs=within)
    assert where is not None
    assert np.hypot(*side.vertices[where, 1:]) < 0.45
    assert deepest_dent(side, side.vertices[:, 1] > 1.2) == (0.0, None)


@pytest.mark.parametrize(("y", "z"), [(0.0, 0.0), (0.23, -0.31), (-0.3, 0.3)])
def test_a_dent_is_as_deep_in_any_position_and_order(y: float, z: float) -> None:
    """Wherever the scan lies and whichever vertex comes first, and wherever on the side the dent lies."""
    side = _bulging(0.24, at=(y, z))
    told, where = deepest_dent(side, np.ones(side.n_vertices, dtype=bool))
    assert told == pytest.approx(0.24, abs=0.06)
    order = np.random.default_rng(3).permutation(side.n_vertices)
    shuffled = Surface(side.vertices[order], np.argsort(order)[side.faces])
    moved = placed(side, turned((0.3, 1.0, -0.4), 71.0, (3.33, -41.7, 8.08)))
    for other, same in ((shuffled, int(np.argsort(order)[where])), (moved, where)):
        depth, there = deepest_dent(other, np.ones(other.n_vertices, dtype=bool))
        assert depth == pytest.approx(told, abs=1e-6)
        assert there == same


def test_a_sound_side_has_no_dent() -> None:
    """Nor has a groove that comes down it, 0.3 deep and 2 mm wide, as premolars' sides have."""
    side = _bulging(0.0)
    assert deepest_dent(side, np.ones(side.n_vertices, dtype=bool)) == (0.0, None)
    hollow = _wall(lambda y, z: y**2 / 8 + z**2 / 14 + 0.3 * np.exp(-((y / 1.4) ** 2)), 3.0)
    assert deepest_dent(hollow, np.ones(hollow.n_vertices, dtype=bool))[0] < 0.2


def test_a_nick_where_the_earlier_scan_never_saw_is_not_passed_over() -> None:
    """The earlier scan spans a third of the side; a nick lies there and nowhere else. Nought would be false peace."""
    base, inside = _bulging(0.0), _wall(lambda y, _: np.full_like(y, -1.5), 2.0)
    told = np.hypot(base.vertices[:, 1], base.vertices[:, 2]) > 0.9
    for depth, want in ((0.35, None), (0.0, 0.0)):
        prep = _bulging(depth)
        found = compare_side("mesial", prep, inside, base, np.ones(prep.n_vertices, dtype=bool), told)
        assert found.nick_depth_mm == want
        assert ("dent" in found.why) == (want is None)
        assert found.hidden_mm2 > 2
