"""Whether the tooth can be the one it is said to be: its own size, and the widths of the teeth beside it.

Sizes by class after Wheeler (see `anatomy.SIZES`, from memory); people's teeth differ by some 7 % (common practice, no
source), so a neighbour in the row is told from its neighbours more than from itself.
"""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.tooth.anatomy import SIZES
from vane_line.core.tooth.notation import CLASS_OF_PLACE, PLACES, ToothNumber

SPREAD = 0.09  # of sizes, natural log
SURE = 4.0  # log-likelihood by which another tooth must fit better
ASIDE_MM = 1.5  # of a neighbour's middle: over so much to either side its width is read
LEAST_STATIONS = 2
FIRST_TOLD = 4


def another_tooth(tooth: ToothNumber, size: Floats, along: Floats, width: Floats) -> str:
    """A sentence when another tooth of the jaw fits much better, else ''.

    size: (2,) mesiodistal and faciolingual size of the crown before cutting, mm. along, width: (S,) places along the
    arch, mesial positive, from the tooth's middle, and the faciolingual width of the crowns there, mm.
    """
    scores = {
        place: _fit(ToothNumber(tooth.fdi[0] + place), size, along, width)
        for place in PLACES[tooth.fdi[0]]
        if place != "8" or tooth.fdi[1] == "8"  # third molars differ too much to be told
    }
    best = max(scores, key=lambda place: scores[place])
    if scores[best] - scores[tooth.fdi[1]] < SURE:
        return ""
    found = ToothNumber(tooth.fdi[0] + best)
    return (
        f"By its size and its neighbours' this looks like a {found.tooth_class.replace('-', ' ')} ({found.fdi}), not "
        f"like {tooth.fdi}: "
        "unless a tooth is missing beside it, check the tooth number."
    )


def _fit(tooth: ToothNumber, size: Floats, along: Floats, width: Floats) -> float:
    """Log-likelihood that the tooth and those beside it are so large."""
    own = SIZES[(tooth.upper, tooth.tooth_class)]
    score = _near(float(size[0]), own[1]) + _near(float(size[1]), own[3])
    for step, place in ((1.0, int(tooth.fdi[1]) - 1), (-1.0, int(tooth.fdi[1]) + 1)):
        # Further forward the tops are edges, which tell no width; beside a primary tooth anything may stand.
        if tooth.primary or not FIRST_TOLD <= place <= 7:
            continue
        beside = SIZES[(tooth.upper, CLASS_OF_PLACE[str(place)])]
        # Where the next tooth's middle lies does not hang on what it is said to be.
        middle = step * (float(size[0]) / 2 + 4.0)
        here = np.abs(along - middle) < ASIDE_MM
        if here.sum() >= LEAST_STATIONS:
            score += _near(float(np.median(width[here])), beside[3])
    return score


def _near(value: float, published: float) -> float:
    return -0.5 * float((np.log(max(value, 0.1) / published) / SPREAD) ** 2)
