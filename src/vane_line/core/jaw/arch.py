"""Which tooth a place of the arch belongs to, about: by an average arch, no tooth is told apart for it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.jaw.articulator import ASIDE_MM, Jaw
from vane_line.core.jaw.hinge import BEHIND_MM
from vane_line.core.tooth.notation import ToothNumber

Name = Callable[[Floats], str | None]  # about which tooth a place (3,) is
OTHER_SIDE = {"1": "2", "2": "1", "3": "4", "4": "3"}  # quadrants of one jaw
FAR_MM = 9.0  # from every tooth of the average arch: none is named


def tooth_about(place: Floats, jaw: Jaw, tooth: ToothNumber) -> str | None:
    """FDI number of the tooth about a `place` (3,) in the arch of `tooth`, on which `jaw` was put.

    None in a child's jaw, whose rows are not these, and far from the arch. The tooth's own number where it is that.
    """
    if tooth.primary:
        return None
    quadrant = tooth.fdi[0]
    off = place - jaw.incisal
    here = np.array([-(off @ jaw.forward), off @ jaw.outward])
    names, places = [], []
    for sign, side in ((1.0, quadrant), (-1.0, OTHER_SIDE[quadrant])):
        for position, aside in ASIDE_MM.items():
            names.append(side + position)
            places.append((BEHIND_MM[position], sign * aside))
    away = np.linalg.norm(np.array(places) - here, axis=1)
    nearest = int(np.argmin(away))
    return names[nearest] if away[nearest] < FAR_MM else None
