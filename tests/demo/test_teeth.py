"""Made-up teeth: cusps, fissures and lobes where anatomists have them, and jaws that bear on each other."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from vane_line.demo.anatomy import CUSPS, SIZES, Tooth
from vane_line.demo.arch import CONTACT_SHARE, MONSON_MM, STIPPLE_MM, Gingiva, Placed, apart_mm, curved, skin, stand
from vane_line.demo.drawing import FISSURE_MM
from vane_line.demo.recipes import timid_first_molar
from vane_line.demo.relief import Groove, Ridge, curve, heights
from vane_line.demo.scene import ERUPTS_MM, WORN_IN_MM, Scene, erupted

BACK = [number for number in SIZES if number in CUSPS]


def test_a_ridge_is_highest_on_its_crest_and_a_groove_deepest_on_its_path() -> None:
    """One of each, crossing: heights and depths as they were drawn."""
    ridge = Ridge(curve((-3, 0), (3, 0)), np.full(9, 2.0))
    plain = heights((4.0, 4.0), 0.0, [ridge], [])
    cut = heights((4.0, 4.0), 0.0, [ridge], [Groove(curve((0, -3), (0, 3)), np.full(9, 0.3))])
    x = np.linspace(-2, 2, 9)
    np.testing.assert_allclose(plain(x, 0 * x), 2.0, atol=0.01)
    assert (plain(x, 0 * x + 1.0) < 1.7).all()
    assert plain(np.zeros(1), np.zeros(1))[0] - cut(np.zeros(1), np.zeros(1))[0] == pytest.approx(0.3, abs=0.03)
    assert cut(np.full(1, 2.0), np.zeros(1))[0] == pytest.approx(2.0, abs=0.01)


def test_a_curve_goes_through_its_places() -> None:
    """First, middle and last."""
    way = curve((0, 0), (1, 2), (4, 0))
    np.testing.assert_allclose(way[[0, 4, 8]], [[0, 0], [1, 2], [4, 0]], atol=1e-12)


@pytest.mark.parametrize("number", BACK)
def test_every_cusp_is_a_summit_and_the_middle_lies_in_a_fissure(number: str) -> None:
    """A tip stands over what lies a millimetre round it; fissures are cut into the ridges by their depth."""
    tooth = Tooth(number)
    lean = float(tooth.lean(tooth.size[0]))
    around = np.arange(0, 2 * np.pi, np.pi / 6)
    for name, (x, y, z) in tooth.cusps.items():
        tip = tooth.occlusal_height(np.array([x]), np.array([y]))[0]
        assert z - 0.35 < tip < max(z + 0.35, tooth.size[0] - 1.2), name  # a low cusp melts into the marginal ridges
        if tooth.size[0] - z < 1.0:
            assert (tooth.occlusal_height(x + 1.2 * np.sin(around), y + 1.2 * np.cos(around)) < tip + 0.12).all(), name
    x = np.linspace(-0.25, 0.25, 41) * tooth.size[1]
    y = np.full_like(x, lean)
    off = np.linspace(-0.4, 0.4, 17)
    deep = [(tooth.occlusal_height(x, y + d, fissures=False) - tooth.occlusal_height(x, y + d)).max() for d in off]
    assert 0.8 * FISSURE_MM < max(deep) < 4 * FISSURE_MM  # a pit is where three of them meet
    across = lean + np.linspace(-0.6, 0.6, 25)
    assert tooth.occlusal_height(np.zeros(25), across).min() < tooth.size[0] - 0.7


def test_front_teeth_have_three_lobes_and_a_hollow_back() -> None:
    """Across the upper third of the face: two furrows beside the middle; behind, a hollow between ridges."""
    tooth = Tooth("11")
    length, md, *_ = tooth.size
    x = np.array([-0.18, 0.0, 0.18]) * md

    def surface(sign: float, z: float) -> np.ndarray:
        y = np.linspace(0, 5, 4001)
        grid = np.stack([np.repeat(x, len(y)), np.tile(sign * y, 3), np.full(3 * len(y), z)], axis=1)
        return y[np.argmax((tooth(grid) > 0).reshape(3, -1), axis=1)]

    face = surface(1.0, 0.7 * length)
    assert face[1] - face[[0, 2]].mean() > 0.05
    inward = Tooth("11")._incisor(np.array([[0, -0.02 * md, 0.66 * length], [0.42 * md, -0.02 * md, 0.66 * length]]))
    assert np.isfinite(inward).all()


def test_the_opposing_teeth_bear_on_the_others_and_do_not_cut_into_them() -> None:
    """Moved along their eruption until their facets are worn in by just so much."""
    scene = Scene.of(timid_first_molar(1))
    teeth = stand(["14", "15", "16", "17"], "16", upper=True)
    size = scene.mine.tooth.size[0] + teeth["16"].tooth.size[0]
    from dataclasses import replace

    over = replace(teeth["16"], origin=teeth["16"].origin + [-2.2, 1.6, size - 1.0])
    bearing = erupted(over, scene.before, -1.0, ERUPTS_MM)
    _, md, _, fl, _ = over.tooth.size
    length = over.tooth.size[0]
    axes = np.meshgrid(*(np.linspace(-s, s, 41) for s in (md / 2, fl / 2)), np.linspace(0.4 * length, length + 0.3, 28))
    points = np.stack([a.ravel() for a in axes], axis=1)
    skin = over.to_arch(points[np.abs(over.tooth(points)) < 0.12]) + (bearing.origin - over.origin)
    assert float(scene.before(skin).min()) == pytest.approx(-WORN_IN_MM, abs=0.03)
    far = replace(over, origin=over.origin + [0, 0, 20.0])
    assert erupted(far, scene.before, -1.0, ERUPTS_MM) is far


def test_attached_gingiva_is_stippled_and_the_margin_is_not() -> None:
    """A fraction of a tenth of a millimetre, away from the teeth alone."""
    teeth = list(stand(["34", "35", "36", "37"], "36", upper=False).values())
    x = np.linspace(-3, 3, 400)
    points = np.stack([x, np.full_like(x, 6.0), np.full_like(x, -1.5)], axis=1)
    away, near = (Gingiva(teeth)(points, np.full(len(x), d)) for d in (3.0, 0.5))
    rough = away - Gingiva(teeth)(points, np.full(len(x), 0.99))
    assert 0.3 * STIPPLE_MM < np.abs(rough).max() <= 1.01 * STIPPLE_MM
    assert np.abs(np.diff(near, 2)).max() < np.abs(np.diff(away, 2)).max()


@pytest.mark.parametrize(("numbers", "reference", "upper"), [
    (["34", "35", "36", "37"], "36", False), (["14", "15", "16", "17"], "15", True),
    (["31", "32", "33", "34"], "32", False),
])  # fmt: skip
def test_the_teeth_of_an_arch_lean_on_one_sphere(numbers: list[str], reference: str, upper: bool) -> None:
    """Curves of Spee and Wilson: every axis meets Monson's centre; neighbours are as far apart as on a plane."""
    flat = stand(numbers, reference, upper)
    teeth = curved(flat, reference)
    length = teeth[reference].tooth.size[0]
    centre = np.array([0.0, 0.0, MONSON_MM + CONTACT_SHARE * length * (-1 if upper else 1)])
    for tooth in teeth.values():
        axis = tooth.lean[:, 2]
        off = centre - tooth.origin
        np.testing.assert_allclose(np.cross(off, axis), 0, atol=1e-9)
    np.testing.assert_allclose(teeth[reference].origin, 0)
    for number, beside in pairwise(numbers):
        outward = (number, beside) if numbers.index(number) >= numbers.index(reference) else (beside, number)
        before, tooth = outward
        wanted = apart_mm(flat[tooth], skin(flat[before]))
        assert apart_mm(teeth[tooth], skin(teeth[before])) == pytest.approx(wanted, abs=0.01)
    ends = [teeth[n].origin[2] for n in (numbers[0], numbers[-1])]
    assert max(ends) > 0.1  # the row's ends stand higher, in both jaws: the sphere's centre lies above


def margin_mm(teeth: dict[str, Placed], number: str) -> float:
    """Height of the gingiva's margin over a tooth's neck, mid-facially."""
    tooth, heights = teeth[number], np.linspace(-2, 3, 501)
    local = np.stack([np.zeros(501), np.full(501, tooth.tooth.size[3] / 2 + 0.9), heights], axis=1)
    inside = Gingiva(list(teeth.values()))(tooth.to_arch(local), np.full(501, 2.0)) < 0
    return float(heights[inside].max())


def test_gingiva_follows_the_curve() -> None:
    """Its margin stands as high over every neck as on a plane, though the necks lie 0.6 mm apart."""
    flat = stand(["34", "35", "36", "37"], "36", upper=False)
    teeth = curved(flat, "36")
    assert teeth["37"].origin[2] > 0.5
    for number in ("35", "36", "37"):
        assert margin_mm(teeth, number) == pytest.approx(margin_mm(flat, number), abs=0.2)
