"""Taper, convergence, wall heights and second planes on cones and elliptical frusta."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from long import first
from solids import Stump, facing

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, measure
from vane_line.core.measure.convergence import Walls, robust_at
from vane_line.core.measure.straight_run import straight_runs
from vane_line.core.rings import degrees_apart, degrees_past
from vane_line.core.shape import side_drafts
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import STEP_MM

OPTIONS = facing(ToothNumber("36"), near=np.array([0.0, 0, 5]), path=np.array([0.0, 0, 1]))


def measured(stump: Stump) -> Geometry:
    return measure(stump.scans(reference=False), OPTIONS)


def oblique_taper(stump: Stump, taper_deg: float, azimuth_deg: np.ndarray) -> np.ndarray:
    """The solids' walls lean by `taper_deg` along the radius; in their own plane by atan(tan(taper) cos(phi))."""
    a = np.radians(azimuth_deg)
    whole = 1 / np.sqrt((np.cos(a) / stump.facial_mm) ** 2 + (np.sin(a) / stump.mesial_mm) ** 2)
    wall = whole - 1.0 - 1.9 * np.tan(np.radians(taper_deg))  # the outline halfway up
    slope = np.gradient(wall, a)
    return np.degrees(np.arctan(np.tan(np.radians(taper_deg)) / np.hypot(1, slope / wall)))


@pytest.mark.parametrize(
    ("taper", "noise_um", "within"),
    first(1, (9.0, 10.0, 0.5), (2.0, 0.0, 0.1), (20.0, 10.0, 0.5), (2.0, 10.0, 0.5), (9.0, 0.0, 0.1), (20.0, 0.0, 0.1)),
)
def test_a_cone_s_convergence_is_twice_its_taper(taper: float, noise_um: float, within: float) -> None:
    """Within 0.1 degree clean and 0.5 with scan noise, faciolingual and mesiodistal."""
    walls = measured(Stump(taper_deg=taper, noise_um=noise_um, neighbours=False)).ring.shape.walls
    assert walls.convergence_at(0) == pytest.approx(2 * taper, abs=within)
    assert walls.convergence_at(90) == pytest.approx(2 * taper, abs=within)
    assert np.nanmedian(walls.height_mm) == pytest.approx(3.9, abs=0.1)
    assert not np.isfinite(walls.second_deg).any()


@pytest.mark.parametrize("taper", first(1, 5.0, 12.0))
def test_an_elliptical_frustum_at_every_azimuth(taper: float) -> None:
    """Where the wall runs obliquely to the half-plane its taper is read in its own plane: 95 % within 0.15 degree."""
    stump = Stump(taper_deg=taper, facial_mm=5.6, mesial_mm=4.2, neighbours=False, grid_mm=0.14)
    walls = measured(stump).ring.shape.walls
    off = np.abs(walls.taper_deg - oblique_taper(stump, taper, walls.azimuth_deg))
    assert np.nanquantile(off, 0.95) < 0.15
    assert walls.convergence_at(0) == pytest.approx(2 * taper, abs=0.1)
    assert walls.convergence_at(90) == pytest.approx(2 * taper, abs=0.1)


def test_faciolingual_and_mesiodistal_are_told_apart() -> None:
    """Walls of 10 degrees facially and lingually, 3 mesially and distally."""
    stump = Stump(taper_deg=lambda a: 6.5 + 3.5 * np.cos(2 * np.radians(a)), noise_um=8, neighbours=False)
    walls = measured(stump).ring.shape.walls
    assert walls.convergence_at(0) == pytest.approx(20, abs=0.6)
    assert walls.convergence_at(90) == pytest.approx(6, abs=0.6)


@pytest.mark.long
def test_a_fillet_is_no_wall() -> None:
    """The run starts above a fillet of 0.5: the taper is the wall's within half a degree."""
    walls = measured(Stump(taper_deg=8, fillet_mm=0.5, noise_um=8, neighbours=False)).ring.shape.walls
    assert walls.convergence_at(0) == pytest.approx(16, abs=0.5)
    assert np.nanmedian(walls.foot) > 0.05


@pytest.mark.long
def test_a_second_plane_is_told_apart() -> None:
    """Above 4 mm a bevel of 30 degrees: the lower wall's taper stays 6, the second plane reads 30 within 2."""
    bevel = lambda p: -(np.hypot(p[:, 0], p[:, 1]) - (4 - 2.4 * TAN6 - (p[:, 2] - 4.0) * np.tan(np.radians(30))))  # noqa: E731
    walls = measured(Stump(extra=bevel, noise_um=5, neighbours=False, occlusal_mm=1.0)).ring.shape.walls
    assert walls.convergence_at(0) == pytest.approx(12, abs=0.6)
    assert np.isfinite(walls.second_deg).mean() > 0.8
    assert np.nanmedian(walls.second_deg) == pytest.approx(30, abs=2)


TAN6 = np.tan(np.radians(6))


@pytest.mark.parametrize("shape", [lambda x: 10 + 0 * x, lambda x: 10 + 0.1 * x])
def test_a_groove_at_the_azimuth_does_not_decide(shape: Callable[[np.ndarray], np.ndarray]) -> None:
    """A groove over a quarter of the window leaves the robust value where the wall is."""
    azimuth = np.arange(0, 360, 1.0)
    values = shape((azimuth + 180) % 360 - 180)
    values[np.abs((azimuth + 180) % 360 - 180) <= 4] += 15
    assert robust_at(azimuth, values, 0.0) == pytest.approx(10, abs=0.2)


@pytest.mark.parametrize("seed", [12, 45, 200, 282])
def test_a_robust_fit_stands_still(seed: int) -> None:
    """However many rounds it takes where a third of the rows says otherwise: the same as many hundreds of them give,
    written here once more from the definition (Tukey's biweight, JW Tukey, Exploratory data analysis, 1977)."""
    random = np.random.default_rng(seed)
    azimuth, values = np.arange(0, 360, 1.0), np.full(360, np.nan)
    y = 12 + 0.4 * random.standard_normal(31) + np.where(random.random(31) < 0.35, 1.2, 0)
    values[np.r_[345:360, 0:16]] = y
    x, left = np.linspace(-1, 1, 31), y - np.median(y)
    for _ in range(500):
        say = np.clip(1 - (left / (4.685 * 1.4826 * np.median(np.abs(left)))) ** 2, 0, None) ** 2
        terms = np.vander(x, 3) * np.sqrt(say)[:, None]
        left = y - np.vander(x, 3) @ np.linalg.lstsq(terms, y * np.sqrt(say), rcond=None)[0]
    assert robust_at(azimuth, values, 0.0) == pytest.approx(y[15] - left[15], abs=1e-3)


def test_nothing_known_nothing_said() -> None:
    """No values within the window: nan, not nought."""
    assert np.isnan(robust_at(np.arange(0, 360, 1.0), np.full(360, np.nan), 0.0))


@pytest.mark.long
def test_a_rim_lower_than_half_a_millimetre_is_no_wall() -> None:
    """Its lean is not told, nor a convergence with it; the walls that stand keep theirs."""
    geometry = measured(Stump())
    walls = geometry.ring.shape.walls
    here = degrees_apart(walls.azimuth_deg, 90) < 45
    rim = replace(walls, height_mm=np.where(here, 0.3, walls.height_mm))
    assert np.isnan(rim.convergence_at(90))
    assert np.isnan(rim.taper_at(90))
    assert rim.convergence_at(0) == walls.convergence_at(0)
    assert set(side_drafts(rim, geometry.ring.shape.undercut)) == {"facial", "lingual", "distal"}


def test_values_that_do_not_agree_give_no_value() -> None:
    """Half of them elsewhere and none near the rest: not nought, which would be a figure."""
    azimuth = np.arange(-15.0, 16.0, 3.0)
    nothing = np.nan
    apart = np.array([1.2, 0.0, nothing, nothing, 0.0, nothing, nothing, 1.0, 0.0, 0.0, 0.5])
    assert np.isnan(robust_at(azimuth, apart, 0.0))
    assert np.isnan(robust_at(azimuth, np.full(11, nothing), 0.0))
    assert robust_at(azimuth, np.full(11, 2.5), 0.0) == pytest.approx(2.5)


def test_the_root_below_a_wall_too_low_to_be_one_is_no_wall() -> None:
    """Beside a contact, where the line rises, the wall is too low between its rounded edges to be told, and the root
    below the line is seen: what stands beside reads its own taper still. With the root taken for a wall it did not."""
    risen = Stump(
        line_mm=lambda a: 1.0 + 2.4 * np.exp(-((degrees_apart(a, 270) / 28) ** 2)), width_mm=0.8, occlusal_mm=2.55,
        fillet_mm=0.3, edge_mm=0.4, noise_um=6, grid_mm=0.15,
    )  # fmt: skip
    walls = measure(risen.scans(), facing(ToothNumber("36"), path=np.array([0.0, 0, 1]))).ring.shape.walls
    off = degrees_apart(walls.azimuth_deg, 270)
    assert not walls.found[off < 4].any()
    assert np.nanmedian(walls.taper_deg[(off > 10) & (off < 16)]) == pytest.approx(6, abs=0.8)


@pytest.mark.parametrize(
    ("deep_mm", "above_mm", "grid_mm"),
    first(
        1, (0.15, 1.2, 0.22), (0.1, 2.4, 0.14), (0.2, 0.9, 0.22), (0.2, 2.4, 0.14), (0.2, 2.0, 0.22), (0.1, 1.5, 0.14)
    ),
)
def test_a_step_in_a_wall_does_not_lean_it(deep_mm: float, above_mm: float, grid_mm: float) -> None:
    """Strokes that meet badly leave a step; one line over both its sides leaned by 2 to 5 degrees more, and at the foot
    a coarse scan showed a short plane there; a wide one parted the wall, and its lower part was told as all of it."""

    def stepped(p: np.ndarray) -> np.ndarray:
        """Negative where more is taken away: `deep_mm` off the wall from `above_mm` over the line up."""
        wall = 4.0 - (p[:, 2] - 1.6) * np.tan(np.radians(3.0))
        return np.maximum(wall - deep_mm - np.hypot(p[:, 0], p[:, 1]), 1.6 + above_mm - p[:, 2])

    stump = Stump(taper_deg=3.0, fillet_mm=0.3, grid_mm=grid_mm, noise_um=8, neighbours=False, extra=stepped)
    walls = measured(stump).ring.shape.walls
    assert walls.convergence_at(0) == pytest.approx(6.0, abs=0.5)
    assert walls.convergence_at(90) == pytest.approx(6.0, abs=0.5)
    assert np.nanmedian(walls.height_mm) == pytest.approx(3.9, abs=0.1)
    assert not np.isfinite(walls.second_deg).any()


def test_a_slight_step_tips_nothing_over() -> None:
    """The wider the step, the less its far side leans the wall: between 0.02 and 0.12 mm no reading jumps."""
    foot_up = np.arange(0, 4.0, STEP_MM)
    read = []
    for deep in np.arange(0.0, 0.125, 0.005):
        inward = 3.0 - foot_up * np.tan(np.radians(3.0)) - deep * np.clip((foot_up - 1.7) / 0.2, 0, 1)
        (slope,) = straight_runs(foot_up[None], inward[None], np.array([len(foot_up)]), 0.02).slope
        read.append(float(np.degrees(np.arctan(-slope))))
    assert read[0] == pytest.approx(3.0, abs=0.01)
    assert read[-1] == pytest.approx(3.0, abs=0.15)
    assert max(read) < 4.2
    assert np.abs(np.diff(read)).max() < 0.2


def test_a_slight_bend_tips_nothing_over() -> None:
    """Two planes that lean apart more and more: what a wall is told from goes over from all of it to its lower plane by
    and by. Apart by 4 degrees it is one wall, by 14 two."""
    foot_up = np.arange(0, 6.0, STEP_MM)
    read, end = [], []
    for apart in np.arange(4.0, 14.0, 0.25):
        lean = np.where(foot_up < 2.5, np.tan(np.radians(4.0)), np.tan(np.radians(4.0 + apart)))
        inward = 4.0 - np.concatenate([[0.0], np.cumsum(lean[1:] * STEP_MM)])
        run = straight_runs(foot_up[None], inward[None], np.array([len(foot_up)]), 0.02)
        read.append(float(np.degrees(np.arctan(-run.slope[0]))))
        end.append(float(run.mean([line.end.astype(float) for line in run.lines])[0] * STEP_MM))
    assert read[0] == pytest.approx(6.3, abs=0.5)
    assert read[-1] == pytest.approx(4.0, abs=0.05)
    assert np.abs(np.diff(read)).max() < 0.5  # at once it was four
    assert end[0] == pytest.approx(6.0, abs=0.1)
    assert end[-1] == pytest.approx(2.5, abs=0.15)
    assert np.abs(np.diff(end)).max() < 0.6


@pytest.mark.parametrize(
    ("bends_mm", "leans_deg", "jumped_deg"),
    [((2.0, 4.0), (14.0, 28.0), 0.2), ((1.5, 4.5), (14.0, 28.0), 3.5), ((1.2, 4.8), (16.0, 32.0), 10.8),
     ((2.0, 4.0), (16.0, 0.0), 11.0)],
)  # fmt: skip
def test_a_wall_of_three_planes_is_told_evenly(
    bends_mm: tuple[float, float], leans_deg: tuple[float, float], jumped_deg: float
) -> None:
    """Its two bends are as good a place to part it: while the upper plane leans in more and more, by 24 degrees, what
    is told goes over from the one to the other. Told by the better of the two it jumped by so many degrees at once."""
    foot_up = np.arange(0, 6.0, STEP_MM)
    lower, upper = (foot_up < limit for limit in bends_mm)
    read, end = [], []
    for more in np.arange(-12.0, 12.0, 0.1):
        lean = np.tan(np.radians(2.0 + np.where(lower, 0.0, np.where(upper, leans_deg[0], leans_deg[1] + more))))
        inward = 4.0 - np.concatenate([[0.0], np.cumsum(lean[1:] * STEP_MM)])
        run = straight_runs(foot_up[None], inward[None], np.array([len(foot_up)]), 0.03)
        read.append(float(np.degrees(np.arctan(-run.slope[0]))))
        end.append(float(run.mean([line.end.astype(float) for line in run.lines])[0] * STEP_MM))
    assert np.ptp(read) > 5.0
    assert np.abs(np.diff(read)).max() < max(0.15 * jumped_deg, 0.4)
    assert np.abs(np.diff(end)).max() < 0.25


def heights(values: np.ndarray) -> Walls:
    """Walls of which nothing is told but how high they are, every degree."""
    n = len(values)
    none = np.full(n, np.nan)
    even = np.zeros(n)
    return Walls(np.arange(n) * 360 / n, even, none, none, none, none, none, values, np.ones(n), np.ones(n))


def test_rows_beside_what_was_not_seen_do_not_lean_a_wall() -> None:
    """A contact hides 12 degrees of a mesial wall of 8.3, and its rim reads 1.6 more; the distal one turns evenly from
    14.7 to 11.5. What is missing shows in how surely it is told."""
    azimuth = np.arange(360.0)
    taper = np.where(degrees_apart(azimuth, 270) < 60, 13.1 - 0.107 * degrees_past(azimuth, 270), 8.3)
    hidden = (azimuth >= 87) & (azimuth < 99)
    rim = ~hidden & (np.roll(hidden, 3) | np.roll(hidden, -3))
    none, even = np.full(360, np.nan), np.ones(360)

    def walls(taper_deg: Floats) -> Walls:
        return Walls(azimuth, taper_deg, none, none, none, 0 * even, 3 * even, 3 * even, even, even)

    seen = walls(taper)
    partly = walls(np.where(hidden, np.nan, taper + 1.6 * rim))
    assert seen.convergence_at(90) == pytest.approx(21.4, abs=0.02)
    assert partly.convergence_at(90) == pytest.approx(21.4, abs=0.1)
    assert partly.convergence_hangs(90) > 1.3 * seen.convergence_hangs(90)


def test_a_side_s_height_moves_evenly() -> None:
    """One profile that comes to stand higher takes the side's height with it by its share; the middle value would jump
    to the next profile's."""
    values = np.full(360, 5.0)
    values[range(-15, 16)] = np.random.default_rng(3).permutation(4 + 0.02 * np.arange(31))
    height = heights(values).height_at(0.0)
    assert height == pytest.approx(4.3, abs=0.001)
    values[np.argmin(np.abs(values - 4.28))] += 0.03
    assert heights(values).height_at(0.0) - height == pytest.approx(0.03 / 31 * 3, abs=0.002)


def test_profiles_that_do_not_agree_on_a_wall_s_top_leave_it_open() -> None:
    """Half of them end at a slight bend 1.2 lower; a wall whose line is scalloped agrees with itself."""
    off = degrees_past(np.arange(360), 0)
    even = 4.0 + 0.3 * (off / 15) ** 2 + np.random.default_rng(1).normal(0, 0.02, 360)
    assert heights(even).height_open_mm(0.0) == 0.0
    torn = even - 1.2 * (np.random.default_rng(2).random(360) < 0.5)
    open_mm = heights(torn).height_open_mm(0.0)
    assert 0.3 < open_mm < 1.2
    low, high = 4.0 - 1.2, 4.0
    value = heights(torn).height_at(0.0)
    assert value - 2 * open_mm < low
    assert value + 2 * open_mm > high


@pytest.mark.parametrize(
    ("seen", "told"),
    [((-15, 15), True), ((-4, 15), True), ((9, 15), False), ((-15, -7), False)],
    ids=["all", "a side and a little", "one end", "the other end"],
)
def test_a_convergence_is_not_prolonged_to_where_no_wall_is_seen(seen: tuple[int, int], told: bool) -> None:
    """Where a closed contact hides the middle of a wall, what lies at its end does not tell how the middle leans."""
    off = degrees_past(np.arange(360), 0)
    taper = 6.0 + np.random.default_rng(4).normal(0, 0.1, 360)
    taper = np.where((np.abs(off) > 90) | ((off >= seen[0]) & (off <= seen[1])), taper, np.nan)
    walls = replace(heights(np.full(360, 3.0)), taper_deg=taper)
    value = walls.convergence_at(0.0)
    if told:
        assert value == pytest.approx(12.0, abs=0.2)
    else:
        assert np.isnan(value)


def test_a_wall_that_is_hidden_in_its_middle_alone_is_told_from_both_sides() -> None:
    off = degrees_past(np.arange(360), 0)
    taper = np.where(np.abs(off) < 8, np.nan, 6.0 + np.random.default_rng(5).normal(0, 0.05, 360))
    assert replace(heights(np.full(360, 3.0)), taper_deg=taper).convergence_at(0.0) == pytest.approx(12.0, abs=0.4)
