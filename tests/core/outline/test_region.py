"""Which part of a scan is cut: what hangs together with it, and scraps of a scan that do not."""

from __future__ import annotations

import numpy as np

from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.region import whole

STEP_MM = 0.2


def sheet(low: float, high: float, first: int = 0) -> tuple[np.ndarray, np.ndarray]:
    """A flat square of the plane z = 0 from (low, low) to (high, high), its vertices numbered from `first` on."""
    at = np.arange(low, high + STEP_MM / 2, STEP_MM)
    x, y = np.meshgrid(at, at, indexing="ij")
    points = np.stack([x.ravel(), y.ravel(), np.zeros(x.size)], axis=1)
    k = (np.arange(len(at) - 1)[:, None] * len(at) + np.arange(len(at) - 1)).ravel() + first
    wide = len(at)
    faces = np.concatenate([np.stack([k, k + wide, k + 1], axis=1), np.stack([k + 1, k + wide, k + wide + 1], axis=1)])
    return points, faces


def test_islands_in_the_cut_belong_to_it_and_scraps_beside_it_do_not() -> None:
    """A contact that no scan saw leaves pieces of the next wall that hang on nothing: told as cut, such a piece on the
    tooth's uncut side hung over by 0.65."""
    main, faces = sheet(-4.0, 4.0)
    scrap, more = sheet(5.0, 5.8, len(main))
    surface = Surface(np.concatenate([main, scrap]), np.concatenate([faces, more]))
    away = np.linalg.norm(surface.vertices[:, :2], axis=1)
    island = away < 0.3
    mask = (away < 2.5) & ~island
    found = whole(surface, mask, mask)
    assert found is not None
    assert found[island].all()
    assert not found[surface.vertices[:, 0] > 4.5].any()
    assert (found == (away < 2.5)).all()


def test_a_hole_as_large_as_a_tooth_s_top_is_no_island() -> None:
    points, faces = sheet(-4.0, 4.0)
    surface = Surface(points, faces)
    away = np.linalg.norm(surface.vertices[:, :2], axis=1)
    mask = (away < 2.5) & (away > 1.2)
    found = whole(surface, mask, mask)
    assert found is not None
    assert (found == mask).all()
