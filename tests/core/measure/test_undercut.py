"""Undercuts: troughs of known depth, none where there is none, and the corner of a shoulder."""

from __future__ import annotations

import numpy as np
import pytest
from long import first
from solids import Stump, facing

from vane_line.core.case import measure
from vane_line.core.measure.undercut import SECTORS, Undercut, sector_of
from vane_line.core.rings import ring_runs
from vane_line.core.tooth.notation import ToothNumber

OPTIONS = facing(ToothNumber("36"), near=np.array([0.0, 0, 5]), path=np.array([0.0, 0, 1]))
BUR_MM = 1.2


def scooped(depth_mm: float, taper_deg: float = 3.0, **more: object) -> Stump:
    """A stump whose facial wall was scooped at 3 mm height by a bur of 2.4 mm, `depth_mm` into the wall."""
    centre = 4 - 1.4 * np.tan(np.radians(taper_deg)) - depth_mm + BUR_MM

    def scoop(p: np.ndarray) -> np.ndarray:
        off = np.hypot(p[:, 1] - centre, p[:, 2] - 3.0) - BUR_MM
        return off + 10.0 * ((np.abs(p[:, 0]) > 1.2) | (p[:, 1] < 0))

    return Stump(taper_deg=taper_deg, extra=scoop, neighbours=False, grid_mm=0.16, **more)  # type: ignore[arg-type]


def true_depth(depth_mm: float, taper_deg: float = 3.0) -> float:
    """Greatest distance of the scooped profile behind the furthest point above it."""
    z = np.arange(1.7, 5.4, 0.002)
    wall = 4 - (z - 1.6) * np.tan(np.radians(taper_deg))
    centre = 4 - 1.4 * np.tan(np.radians(taper_deg)) - depth_mm + BUR_MM
    scoop = np.where(np.abs(z - 3) < BUR_MM, centre - np.sqrt(np.maximum(BUR_MM**2 - (z - 3) ** 2, 0)), np.inf)
    profile = np.minimum(wall, scoop)
    return float((np.maximum.accumulate(profile[::-1])[::-1] - profile).max())


def undercut(stump: Stump) -> Undercut:
    return measure(stump.scans(reference=False), OPTIONS).ring.shape.undercut


@pytest.mark.parametrize(("depth", "noise_um"), first(1, (0.12, 10.0), (0.3, 0.0), (0.12, 0.0), (0.3, 10.0)))
def test_a_scooped_wall_s_depth(depth: float, noise_um: float) -> None:
    """Within 25 µm of the closed form, facial, one region, its overhang above its bottom."""
    found = undercut(scooped(depth, noise_um=noise_um))
    assert found.max_depth_mm == pytest.approx(true_depth(depth), abs=0.025)
    assert [r.sector for r in found.regions] == ["facial"]
    region = found.regions[0]
    assert region.overhang[2] > region.at[2] + 0.2
    assert region.area_mm2 > 0.5
    assert 0 < region.blockout_mm3 < region.area_mm2 * region.max_depth_mm


@pytest.mark.parametrize(("taper", "noise_um"), first(1, (1.0, 10.0), (6.0, 0.0), (1.0, 0.0), (6.0, 10.0)))
def test_a_sound_wall_has_none(taper: float, noise_um: float) -> None:
    """Noise makes no undercut, even on walls that are nearly parallel."""
    assert undercut(Stump(taper_deg=taper, noise_um=noise_um, neighbours=False)).regions == []


def test_a_wall_that_leans_back_is_undercut_all_along() -> None:
    """-4 degrees over 30 degrees of the lingual wall, 3.9 mm high: 0.27 deep at the foot, lingual."""
    lean = lambda a: np.where(np.abs(a - 180) < 15, -4.0, 6.0)  # noqa: E731
    found = undercut(Stump(taper_deg=lean, neighbours=False, grid_mm=0.14))
    assert [r.sector for r in found.regions] == ["lingual"]
    assert found.max_depth_mm == pytest.approx(3.9 * np.tan(np.radians(4)), abs=0.04)


def test_sectors_are_eighths_round_the_compass() -> None:
    """±22.5 degrees about facial, mesiofacial and so on."""
    assert [sector_of(a) for a in (0, 22, 23, 90, 180, 270, 337, 338, 359)] == [
        "facial", "facial", "mesiofacial", "mesial", "lingual", "distal", "distofacial", "facial", "facial",
    ]  # fmt: skip
    assert len(SECTORS) == 8


def test_runs_of_a_ring_are_joined_over_the_seam() -> None:
    """A stretch over 0 degrees is one; gaps up to the given size are bridged."""
    mask = np.zeros(360, bool)
    mask[[*range(350, 360), *range(0, 12), *range(100, 110), *range(114, 120)]] = True
    runs = ring_runs(mask, 8)
    assert sorted(len(r) for r in runs) == [16, 22]
    assert ring_runs(np.zeros(360, bool), 8) == []
