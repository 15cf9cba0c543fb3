"""A cut's outline in the words of a finish line: what lies inside it for certain."""

from __future__ import annotations

import numpy as np

from vane_line.core.outline.curve import Outline
from vane_line.core.outline.line import line_of
from vane_line.core.trace.section import Axes

UP, FACIAL, MESIAL = np.eye(3)[[2, 1, 0]]


def test_what_lies_on_the_line_is_not_inside_for_certain() -> None:
    """A ring of 3 mm whose lingual half is doubtful: 0.2 inside is inside where an edge is seen, not where none is."""
    a = np.radians(np.arange(0, 360, 5.0))
    out = np.stack([np.sin(a), np.cos(a), np.zeros(len(a))], axis=1)
    clear = np.cos(a) > 0
    angle, drawn = np.full(len(a), 110.0), np.zeros(len(a), dtype=bool)
    outline = Outline(3 * out, angle, clear, drawn, out, np.tile(UP, (len(a), 1)))
    line = line_of(outline, np.zeros(0, dtype=bool), Axes.make(np.zeros(3), UP, FACIAL, MESIAL))
    for radius, wanted in ((3.2, [False, False]), (2.95, [False, False]), (2.8, [True, False]), (2.5, [True, True])):
        assert line.encloses(np.array([[0.0, radius, 0], [0, -radius, 0]])).tolist() == wanted
