"""What a surface takes along to another process."""

from __future__ import annotations

import pickle

import numpy as np
import pytest
from solids import Stump

from vane_line.core.mesh.soup import Soup
from vane_line.core.mesh.surface import CARRIED, Surface, with_areas
from vane_line.core.mesh.weld import weld


def test_areas_that_were_given_go_along() -> None:
    """Areas freed of noise are not made again from noise."""
    whole = Stump(grid_mm=0.3).prep()
    given = with_areas(whole, np.linspace(1.0, 2.0, whole.n_vertices))
    np.testing.assert_array_equal(pickle.loads(pickle.dumps(given)).vertex_areas, given.vertex_areas)


def test_what_is_carried_is_what_would_be_made() -> None:
    """A welded scan has it all, and so has its copy in another process: nothing of it is made twice."""
    scan = Stump(grid_mm=0.3).prep()
    welded = weld(Soup(scan.vertices, scan.faces, None, "stl"), "mm", "scan").surface
    copy = pickle.loads(pickle.dumps(welded))
    assert set(CARRIED) <= set(copy.__dict__)
    fresh = Surface(welded.vertices, welded.faces)
    for name in CARRIED:
        known, made = getattr(copy, name), getattr(fresh, name)
        for one, other in zip(*(v if isinstance(v, tuple) else (v,) for v in (known, made)), strict=True):
            np.testing.assert_allclose(one, other, atol=1e-9)


@pytest.mark.parametrize("name", ["tree", "adjacency", "face_tree"])
def test_what_is_large_stays(name: str) -> None:
    scan = Stump(grid_mm=0.3).prep()
    getattr(scan, name)
    assert name not in pickle.loads(pickle.dumps(scan)).__dict__
