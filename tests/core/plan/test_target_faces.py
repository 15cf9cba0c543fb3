"""Which faces of a tooth are chewing surface to a plan."""

from __future__ import annotations

import numpy as np
from solids import Stump

from vane_line.core.plan.target import occlusal_faces
from vane_line.core.vectors import unit


def test_the_side_of_a_tipped_tooth_is_no_chewing_surface() -> None:
    """An upright block seen along a path that leans by 15 degrees: one side looks up to it by 0.26. Its top is
    occlusal, and its side near the top, not its side further down."""
    stump = Stump(neighbours=False, grid_mm=0.25)
    block = stump.exact(stump.tooth, 0.25, seed=2)
    block, _ = block.keep_vertices((block.vertices[:, 2] > 0.5) & (np.linalg.norm(block.vertices[:, :2], axis=1) < 5.6))
    up = unit(np.array([np.tan(np.radians(15.0)), 0.0, 1.0]))
    told = occlusal_faces(block, up)
    x, z, turned = block.face_centres[:, 0], block.face_centres[:, 2], block.face_normals
    top = turned[:, 2] > 0.95
    side = (turned[:, 0] > 0.95) & (x > 4.0)
    assert top.sum() > 100
    assert side.sum() > 50
    assert told[top].all()
    assert told[side & (z > stump.top_mm - 1.0)].mean() > 0.8
    assert not told[side & (z < stump.top_mm - 2.0)].any()
