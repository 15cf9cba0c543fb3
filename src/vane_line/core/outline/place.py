"""Where a cut is that does not go round the tooth."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.align.crowns import Crowns
from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.locate import find_cut
from vane_line.errors import BadOption, UnfitScans

HINT_MM = 15.0


@dataclass(frozen=True)
class Asked:
    """What is asked for where no cut is found: what it is called, where a person is to point, where that is."""

    thing: str
    point: str
    place: str


def middle_of_cut(
    prep: Surface, preop: Surface | None, near: Floats | None, occlusal: Floats, *, seen: float, asked: Asked
) -> Floats:
    """The middle of what was cut off. Raises UnfitScans or BadOption.

    Only the teeth are looked at, and what looks up by more than the cosine `seen`: gingiva pressed aside round several
    teeth is more than a small cut.
    """
    if preop is not None:
        crown = Crowns.of(prep, occlusal).hold(prep.vertices) & (prep.vertex_normals @ occlusal > seen)
        return find_cut(prep.keep_vertices(crown)[0], preop, near).centre
    if near is None:
        raise UnfitScans(
            f"prep: without the scan before cutting (preop) {asked.thing} is not found by itself; give a point "
            f"{asked.point} (near)."
        )
    distance, _, place = prep.closest(near[None])
    if distance[0] > HINT_MM:
        raise BadOption(f"near: the point lies more than 15 mm from the prep scan; give a point {asked.place}.")
    return np.asarray(place[0])
