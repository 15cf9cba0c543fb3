"""Limiting taper against the published formula and a crown tipped on the mesh; bases, heights, what remains."""

from __future__ import annotations

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.case import measure
from vane_line.core.measure.retention import Retention, limiting_taper_deg, wall_overcut_mm
from vane_line.core.tooth.notation import ToothNumber

OPTIONS = facing(ToothNumber("36"), near=np.array([0.0, 0, 5]), path=np.array([0.0, 0, 1]))

# M. H. Parker et al., limiting taper, J Prosthet Dent 1988;59:281-288: T = ½ arcsin(H/B) with H/B counted per total
# taper; the half-angle form used here follows from the figure's geometry. Values by hand: height/base, degrees.
BY_HAND = {0.1: 5.77, 0.2: 11.79, 0.3: 18.43, 0.4: 26.57}


@pytest.mark.parametrize(("ratio", "degrees"), BY_HAND.items())
def test_the_formula_s_values(ratio: float, degrees: float) -> None:
    """½·arcsin(2·height/base)."""
    assert limiting_taper_deg(np.array([ratio * 8]), np.array([8.0]))[0] == pytest.approx(degrees, abs=0.01)


def tips_over(height: float, base: float, taper_deg: float) -> bool:
    """Rotate the opposite wall about the far edge by a little: does its foot's or top's path leave the wall freely?

    In the plane of tipping the pivot is (0, 0), the wall runs from (base, 0) up and in to (base - h tan(t), h). A point
    of the crown on the wall moves at right angles to its arm; where that points out of the wall everywhere, it tips.
    """
    t = np.radians(taper_deg)
    z = np.linspace(0, height, 400)
    x = base - z * np.tan(t)
    moving = np.stack([-z, x], axis=1)  # the crown's turn lifts the wall's side
    outward = np.array([np.cos(t), np.sin(t)])
    return bool((moving @ outward > 0).all())


@pytest.mark.parametrize("ratio", [0.15, 0.25, 0.35, 0.45])
def test_a_crown_tipped_about_the_far_edge_agrees(ratio: float) -> None:
    """Just under the limiting taper some of the wall blocks the rotation, just over it none does."""
    limit = float(limiting_taper_deg(np.array([ratio * 8]), np.array([8.0]))[0])
    assert not tips_over(ratio * 8, 8.0, limit - 0.5)
    assert tips_over(ratio * 8, 8.0, limit + 0.5)


def held(**more: object) -> Retention:
    stump = Stump(neighbours=False, noise_um=5, **more)  # type: ignore[arg-type]
    return measure(stump.scans(reference=False), OPTIONS).ring.shape.retention


def test_bases_height_and_what_remains() -> None:
    """An elliptical stump: bases are the outer diameters, what remains is the foot's least width."""
    r = held(facial_mm=5.5, mesial_mm=4.5)
    assert r.base_faciolingual_mm == pytest.approx(11.0, abs=0.05)
    assert r.base_mesiodistal_mm == pytest.approx(9.0, abs=0.05)
    assert r.height_mm == pytest.approx(3.9, abs=0.1)
    assert r.remaining_mm == pytest.approx(7.0, abs=0.06)
    assert r.halfway_mm == pytest.approx(7.0 - 3.9 * np.tan(np.radians(6)), abs=0.08)
    assert r.neck_mm == pytest.approx(9.0, abs=0.1)


def test_a_tall_parallel_stump_resists_and_a_short_tapered_one_does_not() -> None:
    """By side, against its own limit."""
    assert held(taper_deg=5.0).resists
    short = held(taper_deg=28.0, top_mm=4.2, occlusal_mm=1.0)
    assert not short.resists
    assert short.resisting_share < 0.2


@pytest.mark.long
@pytest.mark.parametrize("inside", [0.0, 0.4])
def test_a_wall_inside_the_ideal_one_is_measured(inside: float) -> None:
    """A shoulder `inside` wider than the target, with the ideal lean: the wall stands inside by just that."""
    stump = Stump(width_mm=1.0 + inside, taper_deg=5.0, neighbours=False)
    g = measure(stump.scans(reference=False), OPTIONS)
    found = wall_overcut_mm(g.line, g.ring.shape.walls, "facial", 1.0, 5.0)
    assert found == pytest.approx(inside, abs=0.03)
