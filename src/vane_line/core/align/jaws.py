"""Whether a scan that is given for the opposing teeth shows the prepared jaw instead."""

from __future__ import annotations

from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import thinned_index
from vane_line.core.vectors import bounds, dot, within

# Of one jaw scanned twice most lies within the first of these, mm, and faces alike; of jaws that meet next to nothing.
ON_IT_MM, ALIKE, SAME_SHARE, EVERY_MM = 0.3, 0.8, 1 / 4, 1.0
SAME_JAW = "the opposing scan shows the teeth of the prepared jaw: give the other jaw's, and that alone"


def same_jaw(jaw: Surface, opposing: Surface) -> bool:
    """Whether much of a scan lies on the jaw's own and faces the same way: teeth that meet face each other."""
    few = thinned_index(opposing.at_home(opposing.vertices), EVERY_MM)
    low, high = bounds(jaw.vertices)
    near = few[within(opposing.vertices[few], low - ON_IT_MM, high + ON_IT_MM)]
    if len(near) <= SAME_SHARE * len(few):
        return False
    away, face, _ = jaw.closest(opposing.vertices[near])
    alike = dot(jaw.face_normals[face], opposing.vertex_normals[near]) > ALIKE
    return bool((alike & (away < ON_IT_MM)).sum() > SAME_SHARE * len(few))
