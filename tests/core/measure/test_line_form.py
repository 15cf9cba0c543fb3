"""The finish line's form on ring ledges with exact widths, angles, radii, a step, a rim."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from long import first
from solids import Stump, facing

from vane_line.core.case import measure
from vane_line.core.measure.line_form import LineForm, _between, _lips, _steps, mostly
from vane_line.core.tooth.notation import ToothNumber

OPTIONS = facing(ToothNumber("36"), near=np.array([0.0, 0, 5]), path=np.array([0.0, 0, 1]))
NOISES = [0.0, 10.0]


def form_of(noise_um: float = 8.0, **more: object) -> LineForm:
    stump = Stump(noise_um=noise_um, neighbours=False, grid_mm=0.14, **more)  # type: ignore[arg-type]
    return measure(stump.scans(reference=False), OPTIONS).ring.shape.form


def commonest(form: LineForm) -> str:
    return Counter(form.form[form.clear].tolist()).most_common(1)[0][0]


@pytest.mark.parametrize(("width", "noise_um"), first(1, (1.2, 10.0), (0.5, 0.0), (0.5, 10.0), (1.2, 0.0)))
def test_width_and_angle_of_a_shoulder(width: float, noise_um: float) -> None:
    """Median width within 20 µm, all of it within 50; 90 degrees within 3; sharp inside: a shoulder."""
    form = form_of(noise_um, width_mm=width)
    summary = form.width_summary()
    assert summary is not None
    assert summary[1] == pytest.approx(width, abs=0.02)
    assert summary[0] == pytest.approx(width, abs=0.05)
    assert summary[2] == pytest.approx(width, abs=0.05)
    assert np.nanmedian(form.cavosurface_deg) == pytest.approx(90, abs=3)
    assert commonest(form) == "shoulder"
    assert form.steps == []
    assert form.lips == []


@pytest.mark.parametrize("noise_um", first(1, *reversed(NOISES)))
@pytest.mark.parametrize(
    ("fillet", "width", "name"),
    first(1, (0.65, 0.7, "chamfer"), (0.35, 1.0, "rounded-shoulder"), (0.95, 1.0, "heavy-chamfer")),
)
def test_radius_and_form_of_rounded_ledges(fillet: float, width: float, name: str, noise_um: float) -> None:
    """The inner radius within 0.12, and the field's name for it."""
    form = form_of(noise_um, fillet_mm=fillet, width_mm=width)
    assert np.nanmedian(form.inner_radius_mm) == pytest.approx(fillet, abs=0.13)
    assert commonest(form) == name
    assert np.nanmedian(form.width_mm) == pytest.approx(width, abs=0.03)


@pytest.mark.long
@pytest.mark.parametrize("noise_um", first(1, *reversed(NOISES)))
def test_a_shoulder_that_slopes_by_thirty_degrees(noise_um: float) -> None:
    """120 degrees at the edge within 2, and its width to the wall prolonged down to the edge's level."""
    form = form_of(noise_um, ledge_slope_deg=30)
    assert np.nanmedian(form.cavosurface_deg) == pytest.approx(120, abs=2)
    drop = np.tan(np.radians(30))
    assert np.nanmedian(form.width_mm) == pytest.approx(1.0 - drop * np.tan(np.radians(6)), abs=0.02)
    assert commonest(form) == "sloped-shoulder"


@pytest.mark.parametrize("height", [0.4, 0.8])
def test_a_step_s_height_and_place(height: float) -> None:
    """Two steps where the ledge jumps up and down again, within 60 µm and 6 degrees. A profile that runs in the side of
    a high one has no edge: half the step was told, with three samples of the line at the wall's foot."""
    form = form_of(line_mm=lambda a: 1.6 + height * ((a > 192) & (a < 257)))
    assert len(form.steps) == 2
    found = sorted((s.azimuth_deg, s.height_mm, s.sector) for s in form.steps)
    assert [f[0] for f in found] == pytest.approx([192, 257], abs=6)
    assert [f[1] for f in found] == pytest.approx([height, height], abs=0.06)
    assert [f[2] for f in found] == ["lingual", "distal"]
    assert max(s.open_mm for s in form.steps) < 0.06


@pytest.mark.long
@pytest.mark.parametrize("mirrored", first(1, True, False))
def test_two_stretches_that_pass_each_other(mirrored: bool) -> None:
    """The distal ledge at 1.3 runs on below the lingual one at 1.9 for 35 degrees: one step, and where both are."""

    def ledge(a: np.ndarray) -> np.ndarray:
        a = (360 - a) % 360 if mirrored else a
        return 1.3 + 0.6 * ((a > 120) & (a < 240))

    def below(p: np.ndarray) -> np.ndarray:
        a = np.degrees(np.arctan2(p[:, 0], p[:, 1])) % 360
        a = (360 - a) % 360 if mirrored else a
        return np.maximum.reduce([4.45 - np.hypot(p[:, 0], p[:, 1]), 1.3 - p[:, 2], np.abs(a - 222) - 17.5])

    form = form_of(6.0, line_mm=ledge, extra=below)
    passing = [s for s in form.steps if s.overlap_deg is not None]
    assert len(passing) == 1
    assert passing[0].height_mm == pytest.approx(0.6, abs=0.06)
    assert passing[0].overlap_deg == pytest.approx((120, 155) if mirrored else (205, 240), abs=6)
    assert form_of(6.0, line_mm=ledge).steps[0].overlap_deg is None


@pytest.mark.long
def test_a_line_that_rises_with_the_gingiva_has_no_step() -> None:
    """A smooth rise of 0.8 mesially and distally is the line's own course."""
    form = form_of(line_mm=lambda a: 1.5 + 0.4 * (1 - np.cos(2 * np.radians(a))))
    assert form.steps == []


def test_a_rim_is_a_j_margin_and_its_height_is_read() -> None:
    """A rim 0.2 high and 0.25 wide left standing mesially: found there, within 0.08."""
    rim = lambda p: np.maximum.reduce([  # noqa: E731
        4.05 - np.hypot(p[:, 0], p[:, 1]), np.hypot(p[:, 0], p[:, 1]) - 4.75, 1.4 - p[:, 2], p[:, 2] - 1.7,
        2.0 - p[:, 0]])  # fmt: skip
    form = form_of(5.0, extra=rim)
    assert len(form.lips) == 1
    lip = form.lips[0]
    assert lip.height_mm == pytest.approx(0.2, abs=0.08)
    assert 20 < lip.from_deg < 40  # x beyond 2 mm at a radius of 5 begins at 24 degrees
    assert 140 < lip.to_deg < 160
    assert lip.open_mm < 0.02


def test_a_rim_that_triangles_cut_into_teeth_has_an_unsure_height() -> None:
    """Every third profile meets its crest, the others run between its corners: what most of them show is told, and that
    it may be as high as the crest is in its U."""
    azimuth, clear = np.arange(360.0), np.ones(360, dtype=bool)
    rim = np.where((azimuth > 100) & (azimuth < 140), 0.2, 0.0)
    (even,) = _lips(azimuth, rim, clear)
    assert (even.height_mm, even.open_mm) == (0.2, 0.0)
    (toothed,) = _lips(azimuth, np.where(azimuth % 3 == 0, rim, rim / 2), clear)
    assert toothed.height_mm == pytest.approx(0.1)
    assert toothed.height_mm + 2 * toothed.open_mm > 0.2


def test_a_step_in_an_uneven_line_is_less_sure() -> None:
    """On a level line with 0.04 of scatter steps are found by chance, up to five times the U that a smooth line's have;
    of their own nine in ten stay under 1.7. A step of 0.3 in a smooth line is as sure as it was."""
    azimuth, clear, points = np.arange(300) * 1.2, np.ones(300, dtype=bool), np.zeros((300, 3))
    random, found = np.random.default_rng(4), []
    for _ in range(20):
        height = np.convolve(random.normal(0, 0.07, 302), np.full(3, 1 / 3), "valid")  # as triangles hold it together
        found += _steps(height, azimuth, points, clear)
    assert len(found) > 50
    of_u = [s.height_mm / (2 * np.hypot(s.open_mm, 0.031)) for s in found]
    assert np.quantile(of_u, 0.9) < 1.7
    (one, *_) = _steps(np.where(azimuth > 180, 0.3, 0.0), azimuth, points, clear)
    assert one.height_mm == pytest.approx(0.3, abs=0.01)
    assert one.open_mm < 1e-9


@pytest.mark.long
def test_roughness_is_read_above_the_tracing_s_own_scatter() -> None:
    """A smooth edge reads under 10 µm at 10 µm of noise; scallops of 0.08 read their rms, 57 µm, within a third."""
    smooth = form_of(10.0)
    assert max(smooth.roughness_um) < 10
    scallops = form_of(5.0, line_mm=lambda a: 1.6 + 0.08 * np.sin(np.radians(a) * 48))
    assert scallops.roughness_um[0] == pytest.approx(57, rel=0.35)
    assert scallops.roughest_um > 45


def test_samples_lie_a_tenth_apart_from_facial_round_over_mesial(stump_geometry) -> None:  # type: ignore[no-untyped-def]
    """0.1 mm along the line, azimuths rising from 0, points on the edge."""
    form = stump_geometry.ring.shape.form
    assert len(form.s_mm) == pytest.approx(10 * 2 * np.pi * 5, rel=0.02)
    assert form.azimuth_deg[0] < 1.5
    assert (np.diff(form.azimuth_deg) > 0).all()
    assert np.median(np.hypot(*form.points[:, :2].T)) == pytest.approx(5.0, abs=0.02)


@pytest.mark.parametrize("noise_um", first(1, 8.0, 0.0))
def test_a_sloped_shoulder_with_a_round_corner_is_no_chamfer(noise_um: float) -> None:
    """120 degrees with an inner radius of 0.3: two thirds of the ledge are flat, so it is a sloped shoulder."""
    form = form_of(noise_um, ledge_slope_deg=30, fillet_mm=0.3, line_mm=2.2)
    assert commonest(form) == "sloped-shoulder"
    assert np.nanmedian(form.cavosurface_deg) == pytest.approx(120, abs=4)


@pytest.mark.long
@pytest.mark.parametrize("noise_um", first(1, 8.0, 0.0))
def test_a_feather_edge_is_told_as_what_it_is(noise_um: float) -> None:
    """No ledge: width 0, over 150 degrees, `feather`; its walls end at the line, so they converge by twice 8."""
    stump = Stump(noise_um=noise_um, width_mm=0.0, taper_deg=8, grid_mm=0.16)
    shape = measure(stump.scans(), facing(ToothNumber("36"))).ring.shape
    form = shape.form
    assert form.clear.mean() > 0.9
    assert commonest(form) == "feather"
    assert np.nanmedian(form.width_mm[form.clear]) == 0.0
    assert np.nanmax(form.width_mm[form.clear]) < 0.05
    assert np.nanmin(form.cavosurface_deg[form.clear]) > 150
    assert shape.walls.convergence_at(0.0) == pytest.approx(16, abs=0.5)
    assert shape.walls.convergence_at(90.0) == pytest.approx(16, abs=0.5)
    assert form.steps == []


def test_forms_that_are_nearly_as_common_are_named_together() -> None:
    """Whichever comes first, and in the same words in every process: a tie is told as one."""
    names = ["heavy-chamfer"] * 10 + ["chamfer"] * 9 + ["feather"] * 3
    assert mostly(names) == mostly(reversed(names)) == mostly(names[1:]) == "chamfer and heavy chamfer"
    assert mostly(names[10:]) == "chamfer"


def test_a_width_lies_between_its_neighbours() -> None:
    """By how near each is, over the ring's end too; beside a place that is not told, the one that is."""
    ring = np.array([1.0, 2.0, 4.0, np.nan])
    at = np.array([0.0, 0.25, 1.5, 2.4, 2.6, 3.8])
    np.testing.assert_allclose(_between(ring, at), [1.0, 1.25, 3.0, 4.0, np.nan, 1.0])
    np.testing.assert_allclose(_between(np.array([1.0, 2.0, 4.0]), np.array([2.5])), [2.5])
