"""Where the line of a cut that leaves the face standing runs round the tooth at the gingiva."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.cast.line import before_face, gingival
from vane_line.core.trace.section import Axes

COUNT = 120
AXES = Axes.make(np.zeros(3), np.array([0.0, 0, 1]), np.array([1.0, 0, 0]), np.array([0.0, 1, 0]))


def line(height: Floats, faces_down: Bools) -> Any:
    """A ring of places at these heights; where the way out of the cut points down, the cut lies above them."""
    angle = np.linspace(0, 2 * np.pi, COUNT, endpoint=False)
    points = np.stack([4 * np.cos(angle), 4 * np.sin(angle), height], axis=1)
    outward = np.where(faces_down[:, None], [0.0, 0, -1], [1.0, 0, 0])
    steps = np.linalg.norm(np.roll(points, -1, axis=0) - points, axis=1)
    return SimpleNamespace(points=points, outward=outward, steps_mm=steps)


def test_a_shortened_cusp_is_not_at_the_gingiva_wherever_the_ring_begins() -> None:
    """Two stretches at the gingiva, a third high over it whose cut lies above the line as well."""
    k = np.arange(COUNT)
    height = 0.5 + 0.4 * np.sin(k)
    cusp = (k >= 70) & (k < 90)
    height[cusp] += 4.0
    low = (k < 50) | (k >= 100) & (k < 112)
    for turn in (0, 30, 75, 110):
        rolled = [np.roll(a, turn) for a in (height, low | cusp, low)]
        np.testing.assert_array_equal(gingival(line(rolled[0], rolled[1]), AXES), rolled[2])


def test_all_round_or_nowhere() -> None:
    """A line that runs round the tooth all the way is at the gingiva, one whose cut lies beside it nowhere."""
    height = 0.3 * np.sin(np.arange(COUNT))
    assert gingival(line(height, np.ones(COUNT, dtype=bool)), AXES).all()
    assert not gingival(line(height, np.zeros(COUNT, dtype=bool)), AXES).any()


def test_the_ledge_is_not_read_where_it_narrows_to_the_standing_face() -> None:
    """From nought at the face's corner to its width over 1.5 mm, as beside a flare; a place that is narrow elsewhere,
    and a ledge that is narrow further than a flare reaches, are read."""
    angle = np.linspace(0, 2 * np.pi, COUNT, endpoint=False)
    here = (angle > 1.0) & (angle < 5.0)
    ring = line(np.zeros(COUNT), here)
    ring.clear = np.ones(COUNT, dtype=bool)
    from_end = 4.0 * np.minimum(angle - angle[here][0], angle[here][-1] - angle)  # along the line, mm
    widths = np.where(here, 0.6 * np.clip(from_end / 1.5, 0, 1), np.nan)
    widths[np.abs(angle - 3.0) < 0.1] = 0.2
    told = here & ~before_face(ring, here, widths)
    assert widths[told & (np.abs(angle - 3.0) > 0.1)].min() >= 0.85 * 0.6
    assert (np.abs(from_end[here & ~told]) < 1.5).all()
    assert told[np.abs(angle - 3.0) < 0.1].all()
    # Right in the corner a place may read wide: before it narrows that is no ledge either.
    widths[here & (from_end < 0.1)] = 0.6
    corner = here & ~before_face(ring, here, widths)
    np.testing.assert_array_equal(corner, told)
    # The one end narrow over 3.5 mm: past the flare's reach it is read.
    widths[here & (from_end < 3.5) & (angle < 3.0)] = 0.2
    told = here & ~before_face(ring, here, widths)
    assert told[(from_end > 2.5) & here].all()
    assert not told[(from_end < 1.8) & here & (angle < 3.0)].any()


def test_a_ledge_all_round_narrows_to_no_face() -> None:
    ring = line(np.zeros(COUNT), np.ones(COUNT, dtype=bool))
    ring.clear = np.ones(COUNT, dtype=bool)
    assert not before_face(ring, np.ones(COUNT, dtype=bool), np.linspace(0, 1, COUNT)).any()
