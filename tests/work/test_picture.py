"""The small picture of a case: a PNG that any program reads, with what is short in its own colour."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from vane_line.core.case import Geometry
from vane_line.core.fields import inside_fields
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.mesh.light import mesh_blob, mesh_surface
from vane_line.core.tooth.notation import ToothNumber
from vane_line.work.picture import GROUND, HEIGHT, LINE, WIDTH, picture


def pixels(geometry: Geometry, **changed: np.ndarray) -> np.ndarray:
    judged = judge(geometry, choose("zirconia", "full-crown", None, ToothNumber("36")))
    fields = inside_fields(geometry, judged) | changed
    data = picture(geometry.inside, geometry, fields)
    return np.asarray(Image.open(io.BytesIO(data)))


def rust(image: np.ndarray) -> int:
    """How many pixels are clearly redder than they are blue."""
    return int((image[..., 0].astype(int) - image[..., 2] > 90).sum())


def test_it_is_a_png_with_the_tooth_in_the_middle(stump_geometry: Geometry) -> None:
    """Of its size, ground in the corners, the finish line round the middle."""
    image = pixels(stump_geometry)
    assert image.shape == (HEIGHT, WIDTH, 3)
    np.testing.assert_array_equal(image[0, 0], GROUND)
    rows, columns = np.nonzero((image == LINE).all(axis=2))
    assert len(rows) > 80
    assert abs(rows.mean() - HEIGHT / 2) < 4
    assert abs(columns.mean() - WIDTH / 2) < 4


def test_what_is_short_is_seen(stump_geometry: Geometry) -> None:
    """Nothing short: no rust; everything short: the whole top is."""
    n = stump_geometry.inside.n_vertices
    assert rust(pixels(stump_geometry, depth=np.full(n, 1.2), depth_min=np.full(n, 1.0))) == 0
    assert rust(pixels(stump_geometry, depth=np.full(n, 0.4), depth_min=np.full(n, 1.0))) > 1500


def test_a_mesh_comes_back_from_its_blob(stump_geometry: Geometry) -> None:
    """To the precision of what the browser is given."""
    again = mesh_surface(mesh_blob(stump_geometry.inside))
    np.testing.assert_array_equal(again.faces, stump_geometry.inside.faces)
    assert np.abs(again.vertices - stump_geometry.inside.vertices).max() < 1e-5
