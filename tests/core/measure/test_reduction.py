"""Reduction on solids with known offsets, unseen area, and the summary's bias."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from long import first
from solids import Stump, facing, plate, sphere

from vane_line.core.case import Geometry, measure
from vane_line.core.files import Measurement
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.measure.reduction import UNSEEN_SHARE, ZoneValue, averaged, field_of
from vane_line.core.measure.zones import Zones
from vane_line.core.placed import TAUBIN_STEPS
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.demo.cases import MadeCase


def zones_of(geometry: Geometry) -> dict[str, ZoneValue]:
    judged = judge(geometry, choose("zirconia", "full-crown"))
    assert judged.space is not None
    return {z.zone: z for z in judged.space.zones}


def test_known_depths_of_top_and_walls(stump_geometry: Geometry) -> None:
    """1.5 off a flat top; walls 6 degrees in from a cylinder: medians within 30 µm of the closed form."""
    zones = zones_of(stump_geometry)
    top = [z for name, z in zones.items() if "cusp/" in name]
    assert all(z.median_mm == pytest.approx(1.5, abs=0.03) for z in top)
    for side in ("facial", "mesial", "lingual", "distal"):
        middle = zones[f"wall/{side}/middle"]
        # The wall runs from 1.6 to 5.5 mm; its middle third is centred on 3.55, so 1.95 above the foot.
        assert middle.median_mm == pytest.approx(1.0 + 1.95 * np.tan(np.radians(6)), abs=0.03)


@pytest.mark.parametrize("noise_um", [0.0, 10.0, 20.0])
def test_low_is_not_biased_by_noise(noise_um: float) -> None:
    """A plate under a plate, 1.0 apart: low and high stay within 30 µm of 1.0 up to 20 µm of noise."""
    random = np.random.default_rng(7)
    low, high = plate(0, 8, 0, 8, 0.0, 0.12), plate(-2, 10, -2, 10, 1.0, 0.13)
    low, high = (
        s.with_vertices(s.vertices + noise_um / 1000 * random.standard_normal((s.n_vertices, 1)) * [0, 0, 1])
        for s in (low, high)
    )
    tooth = ReferenceTooth(high.smoothed(4))
    value, unseen, _ = tooth.distance(low.smoothed(4).vertices)
    assert not unseen.any()
    rows = field_of(low, value, unseen, Zones(["central-groove"], np.zeros(low.n_vertices, int))).zones
    assert rows[0].low_mm == pytest.approx(1.0, abs=0.03)
    assert rows[0].median_mm == pytest.approx(1.0, abs=0.01)
    assert rows[0].high_mm == pytest.approx(1.0, abs=0.03)


def test_the_sign_says_which_side() -> None:
    """Negative where the preparation stands outside the reference."""
    high = plate(-2, 10, -2, 10, 1.0)
    tooth = ReferenceTooth(high)
    value, _, _ = tooth.distance(np.array([[4.0, 4, 0.4], [4.0, 4, 1.3]]))
    np.testing.assert_allclose(value, [0.6, -0.3], atol=1e-9)


def test_beyond_the_reference_s_border_the_tooth_was_unseen() -> None:
    """Points whose nearest reference place lies on its border are masked, the rest are not."""
    high = plate(0, 4, 0, 8, 1.0)
    tooth = ReferenceTooth(high)
    _, unseen, _ = tooth.distance(np.array([[2.0, 4, 0], [6.0, 4, 0], [3.9, 4, 0]]))
    assert unseen.tolist() == [False, True, False]


@pytest.mark.parametrize("step_mm", [0.1, 0.15, 0.2, 0.27])
@pytest.mark.parametrize("offset", [0.0, 0.35, 0.7])
def test_a_fissure_between_two_triangles_is_allowed_for(step_mm: float, offset: float) -> None:
    """A plate 1.5 over the preparation with fissures 0.4 deep: on a coarse scan the least distance reads higher than
    1.1, by no more than is told, noise of 8 µm or not."""
    random = np.random.default_rng(3)
    flat = plate(-4, 12, -4, 12, 0.0, step_mm)
    x = flat.vertices[:, 0] + offset * step_mm
    away = np.abs((x - 4.0 + 2.0) % 4.0 - 2.0)  # a fissure every 4 mm
    fissured = 1.5 - 0.4 * np.maximum(1 - away / 0.3, 0) + 0.008 * random.standard_normal(flat.n_vertices)
    tooth = ReferenceTooth(flat.with_vertices(np.c_[flat.vertices[:, :2], fissured])).eased(TAUBIN_STEPS)
    below = plate(0, 8, 0, 8, 0.0, 0.12)
    value, unseen, unresolved = tooth.distance(below.vertices)
    zones = Zones(["central-groove"], np.zeros(below.n_vertices, int))
    told = field_of(below, value, unseen, zones, unresolved=unresolved)
    low = told.zones[0].low_mm
    assert low is not None
    assert abs(low - 1.1) < 2 * told.u_low("central-groove") + 0.06


@pytest.mark.parametrize("step_mm", first(1, 0.2, 0.15, 0.27))
def test_a_fissure_that_the_earlier_scan_fills_makes_the_greatest_reduction_less_sure(step_mm: float) -> None:
    """A groove cut under a fissure: with triangles that span the fissure it reads deeper than it was cut, by no more
    than is told."""

    def high(step: float) -> tuple[float, float]:
        flat = plate(-4, 12, -4, 12, 0.0, step)
        away = np.abs((flat.vertices[:, 0] + 0.35 * step - 2.0) % 4.0 - 2.0)
        fissured = np.c_[flat.vertices[:, :2], 1.5 - 0.6 * np.maximum(1 - away / 0.25, 0)]
        tooth = ReferenceTooth(flat.with_vertices(fissured)).eased(TAUBIN_STEPS)
        below = plate(0, 8, 0, 8, 0.0, 0.12)
        groove = np.abs((below.vertices[:, 0] + 0.35 * step - 2.0) % 4.0 - 2.0)
        cut = below.with_vertices(np.c_[below.vertices[:, :2], -0.9 * np.maximum(1 - groove / 0.5, 0)])
        value, unseen, unresolved = tooth.distance(cut.vertices)
        zones = Zones(["central-groove"], np.zeros(cut.n_vertices, int))
        told = field_of(cut, value, unseen, zones, unresolved=unresolved)
        assert told.zones[0].high_mm is not None
        return told.zones[0].high_mm, told.u_high("central-groove")

    (true, _), (found, u) = high(0.04), high(step_mm)
    assert found - true > 0.02
    assert abs(found - true) < 2 * u + 0.03


def test_where_nothing_is_hollow_the_resolution_takes_no_part() -> None:
    """A noisy plate, and a ball seen from within: no more than the noise itself."""
    random = np.random.default_rng(5)
    flat = plate(-2, 10, -2, 10, 1.0, 0.2)
    noisy = flat.with_vertices(flat.vertices + 0.008 * random.standard_normal((flat.n_vertices, 1)) * [0, 0, 1])
    assert np.median(ReferenceTooth(noisy).eased(TAUBIN_STEPS).unresolved) < 0.004
    assert np.median(ReferenceTooth(sphere(5.0)).unresolved) == 0.0


def test_low_is_the_worst_tenth_of_a_square_millimetre() -> None:
    """A spot of 0.3 mm² at 0.5 counts; a spot of 0.02 mm² does not."""
    flat = plate(0, 6, 0, 6, 0.0, 0.1)
    seen = np.zeros(flat.n_vertices, bool)
    zones = Zones(["central-groove"], np.zeros(flat.n_vertices, int))
    spot = lambda area: np.hypot(*(flat.vertices[:, :2] - 3).T) < np.sqrt(area / np.pi)  # noqa: E731
    large = field_of(flat, np.where(spot(0.6), 0.5, 1.0), seen, zones).zones
    small = field_of(flat, np.where(spot(0.02), 0.5, 1.0), seen, zones).zones
    assert large[0].low_mm < 0.65
    assert small[0].low_mm > 0.9
    worst = np.array(large[0].worst)
    assert np.hypot(*(worst[:2] - 3)) < 0.5


def test_a_zone_mostly_unseen_is_not_measured() -> None:
    """Over a third of it hidden: no number is trusted."""
    zone = ZoneValue("wall/mesial/middle", 1.0, 1.1, 1.2, 9.0, 9.0 * UNSEEN_SHARE + 0.1, None, None)
    assert not zone.measurable


def test_averaging_keeps_a_constant_and_skips_the_unknown() -> None:
    """The mean of equal values is that value; unknown vertices lend nothing."""
    flat = plate(0, 3, 0, 3, 0.0, 0.1)
    known = flat.vertices[:, 0] < 1.5
    values = np.where(known, 1.0, 99.0)
    out = averaged(flat, values, known)
    np.testing.assert_allclose(out[known], 1.0)


def test_closed_contacts_of_the_demo_look_unseen(demo_measured: Measurement) -> None:
    """The earlier scan never saw the contacts: area is masked mesially and distally, not facially."""
    rows = {z["zone"]: z for z in demo_measured.document["reduction"]["zones"]}
    hidden = {side: sum(r["area_unseen_mm2"] for z, r in rows.items() if z.startswith(f"wall/{side}")) for side in
              ("facial", "mesial", "lingual", "distal")}  # fmt: skip
    assert min(hidden["mesial"], hidden["distal"]) > 0.6
    assert max(hidden["facial"], hidden["lingual"]) < 0.5


@pytest.mark.long
def test_demo_depths_agree_with_the_cut(fine_case: MadeCase, fine_measured: Measurement) -> None:
    """At the thinnest place of every site the measured depth agrees with the exact shapes: half of them within 60 µm,
    all within 120, on a scan of 0.2 mm edges, which blunt a fissure of the earlier surface."""
    geometry = fine_measured.geometry
    assert geometry.space is not None
    off = {}
    for name, site in fine_case.truth["sites"].items():
        nearest = np.linalg.norm(geometry.inside.vertices - np.array(site["at"]), axis=1).argmin()
        off[name] = abs(geometry.space.value[nearest] - site["least_mm"])
    assert len(off) >= 5
    assert np.median(list(off.values())) < 0.06, off
    assert max(off.values()) < 0.12, off


@pytest.mark.long
@pytest.mark.parametrize("tooth", first(1, "16", "45"))
def test_a_sound_preparation_is_not_called_short(other_teeth: Callable[[str], MadeCase], tooth: str) -> None:
    """Cut to target on other teeth, jaws and sides: no zone is proven short of its minimum."""
    from vane_line.core.options import Options
    from vane_line.core.scans import Scans

    case = other_teeth(tooth)
    geometry = measure(Scans(case.prep, case.preop), Options(ToothNumber(tooth)))
    judged = judge(geometry, choose("zirconia", "full-crown"))
    assert geometry.trusted
    short = [v.zone for v in judged.verdicts if v.criterion == "reduction" and v.status == "short"]
    assert short == []


def test_an_old_crown_gives_no_reduction_and_says_why() -> None:
    """Depth under an old crown says nothing about tooth."""
    options = facing(ToothNumber("36"), earlier="old-crown")
    geometry = measure(Stump(grid_mm=0.2).scans(), options)
    assert geometry.space is None
    assert geometry.tooth_removed is None
    assert "old crown" in geometry.reasons["reduction"]


def test_areas_are_the_tooth_s_not_the_noise_s() -> None:
    """Noise makes surface of its own: 12 µm of it on a ball of 0.14 mm triangles add 2.5 %, of which 0.5 may stay."""
    ball = sphere(5.0, grid=0.14)
    random = np.random.default_rng(1)
    noise = 0.012 * random.standard_normal((ball.n_vertices, 1))
    noisy = ball.with_vertices(ball.vertices + noise * ball.vertex_normals)
    true = 4 * np.pi * 25
    assert noisy.face_areas.sum() > 1.015 * true
    assert noisy.smoothed(TAUBIN_STEPS).face_areas.sum() == pytest.approx(true, rel=0.005)


@pytest.mark.long
def test_the_areas_of_a_measurement_are_free_of_noise() -> None:
    """The frustum's top is a flat of known size: within 1 % with 12 µm of noise on fine triangles."""
    stump = Stump(noise_um=12, grid_mm=0.13)
    geometry = measure(stump.scans(), facing(ToothNumber("36")))
    assert geometry.inside.vertex_areas.sum() < 0.99 * geometry.inside.face_areas.sum()
