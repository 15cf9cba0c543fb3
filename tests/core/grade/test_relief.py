"""A class's relief against planes and boxes whose depth is known."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.arrays import Floats
from vane_line.core.grade.relief import Cut, class_relief

SIDE_MM = 6.0
UP = np.array([0.0, 0.0, 1.0])


def sheet(height: float, step: float, low: float = 0.0) -> Floats:
    """(N, 3) a level square of points."""
    grid = np.arange(low, SIDE_MM + 1e-9, step)
    x, y = (a.ravel() for a in np.meshgrid(grid, grid))
    return np.stack([x, y, np.full(len(x), height)], axis=1)


def cut(depth: float, least: float = 1.5, most: float = 2.0, at: Floats | None = None) -> Cut:
    """A preparation `depth` under the square at height 0."""
    points = sheet(-depth, 0.2) if at is None else at
    return Cut(points, *(np.full(len(points), v) for v in (depth, least, most)))


BEFORE = sheet(0.0, 0.3)
OUT = np.tile(UP, (len(BEFORE), 1))


def test_the_median_and_the_shares_are_those_of_the_class() -> None:
    """Of five, three are short and one too deep; every place tells the same."""
    found = class_relief(BEFORE, OUT, [cut(d) for d in (0.9, 1.2, 1.4, 1.7, 2.3)])
    assert found.cuts == 5
    np.testing.assert_allclose(found.depth, 1.4)
    np.testing.assert_allclose(found.least, 1.5)
    np.testing.assert_allclose(found.most, 2.0)
    np.testing.assert_allclose(found.short, 3 / 5)
    np.testing.assert_allclose(found.over, 1 / 5)


def test_where_most_tell_nothing_nothing_is_told() -> None:
    """Two of three saw only the far half; what none of them tells has no share either."""
    part = sheet(-1.0, 0.2, low=SIDE_MM / 2)
    half = Cut(part, *(np.full(len(part), v) for v in (1.0, 1.5, 2.0)))
    blind = sheet(-1.0, 0.2)
    unseen = Cut(blind, np.where(blind[:, 0] < SIDE_MM / 2, np.nan, 1.0), np.full(len(blind), 1.5),
                 np.full(len(blind), 2.0))  # fmt: skip
    far = SIDE_MM / 2 - 4.5  # beyond the reach of the half that was seen
    found = class_relief(np.vstack([BEFORE, [[far, 3.0, 0.0]]]), np.vstack([OUT, [UP]]), [half, unseen])
    assert np.isnan(found.depth[-1])
    assert np.isnan(found.short[-1])
    beyond = BEFORE[:, 0] > SIDE_MM / 2 + 0.1
    assert np.isfinite(found.depth[:-1][beyond]).all()


def test_a_neighbour_s_side_is_not_taken_for_the_tooth() -> None:
    """It is as near to the wall that was cut, but looks at it."""
    facing = sheet(0.05, 0.3)
    normals = np.vstack([OUT, -np.tile(UP, (len(facing), 1))])
    found = class_relief(np.vstack([BEFORE, facing]), normals, [cut(1.0)] * 3)
    assert np.isfinite(found.depth[: len(BEFORE)]).all()
    assert np.isnan(found.depth[len(BEFORE) :]).all()


def test_a_fissure_is_told_by_what_stands_round_it() -> None:
    """Its walls look aside; a gap as wide as a neighbour's side stays one."""
    normals = OUT.copy()
    middle = np.linalg.norm(BEFORE[:, :2] - SIDE_MM / 2, axis=1) < 0.35
    normals[middle] = [1.0, 0.0, 0.0]
    found = class_relief(BEFORE, normals, [cut(1.0)] * 2)
    np.testing.assert_allclose(found.depth, 1.0)
    np.testing.assert_allclose(found.short, 1.0)


@pytest.mark.parametrize("turned", [False, True])
def test_neither_order_nor_position_changes_it(turned: bool) -> None:
    """The same class in another order, its points shuffled, everything moved."""
    draw = np.random.default_rng(5)
    cuts = [cut(d) for d in (1.1, 1.6, 1.9)]
    plain = class_relief(BEFORE, OUT, cuts)
    matrix = np.linalg.qr(draw.normal(size=(3, 3)))[0] if turned else np.eye(3)
    others = []
    for one in reversed(cuts):
        order = draw.permutation(len(one.vertices))
        others.append(Cut(one.vertices[order] @ matrix.T + 7.0, one.depth[order], one.least[order], one.most[order]))
    found = class_relief(BEFORE @ matrix.T + 7.0, OUT @ matrix.T, others)
    np.testing.assert_allclose(found.depth, plain.depth, atol=1e-9)
    np.testing.assert_allclose(found.short, plain.short, atol=1e-9)


def test_a_class_of_nobody_tells_nothing() -> None:
    """No division by nought, no place with a value."""
    found = class_relief(BEFORE, OUT, [])
    assert found.cuts == 0
    assert np.isnan(found.depth).all()
