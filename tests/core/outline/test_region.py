"""Which part of a scan is cut: what hangs together with it, and scraps of a scan that do not."""

from __future__ import annotations

import numpy as np
from solids import plate

from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.region import whole

STEP_MM = 0.2


def test_islands_in_the_cut_belong_to_it_and_scraps_beside_it_do_not() -> None:
    """A contact that no scan saw leaves pieces of the next wall that hang on nothing: told as cut, such a piece on the
    tooth's uncut side hung over by 0.65."""
    main, scrap = plate(-4, 4, -4, 4, 0.0, STEP_MM), plate(5, 5.8, 5, 5.8, 0.0, STEP_MM)
    surface = Surface(
        np.concatenate([main.vertices, scrap.vertices]), np.concatenate([main.faces, scrap.faces + main.n_vertices])
    )
    away = np.linalg.norm(surface.vertices[:, :2], axis=1)
    island = away < 0.3
    mask = (away < 2.5) & ~island
    found = whole(surface, mask, mask)
    assert found is not None
    assert found[island].all()
    assert not found[surface.vertices[:, 0] > 4.5].any()
    assert (found == (away < 2.5)).all()


def test_a_hole_as_large_as_a_tooth_s_top_is_no_island() -> None:
    surface = plate(-4, 4, -4, 4, 0.0, STEP_MM)
    away = np.linalg.norm(surface.vertices[:, :2], axis=1)
    mask = (away < 2.5) & (away > 1.2)
    found = whole(surface, mask, mask)
    assert found is not None
    assert (found == mask).all()
