"""Several teeth cut in one go: which of the places that changed is which tooth.

Where the places are not pointed at, they are told by their order along the arch: there are as many as teeth were named.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.tooth.notation import ToothNumber

SAME_TOOTH_MM = 4.0  # across: a place so near to a point on a tooth is that tooth's


def arch_order(tooth: ToothNumber) -> int:
    """Place in the arch, growing along occlusal x facial: down one side to the middle and up the other."""
    place = int(tooth.fdi[1])
    return -place if tooth.right_handed else place


def in_order(places: Sequence[Floats], teeth: Sequence[ToothNumber], along: Floats) -> dict[ToothNumber, Floats]:
    """Which place (3,) is which tooth; along: (3,) occlusal x facial at one of them."""
    ordered = sorted(places, key=lambda place: float(place @ along))
    return dict(zip(sorted(teeth, key=arch_order), ordered, strict=True))


def tell_apart(
    mine: ToothNumber,
    others: Sequence[ToothNumber],
    near: Floats | None,
    found: Sequence[Floats],
    along: Callable[[Floats], Floats],
) -> tuple[Floats | None, dict[ToothNumber, Floats]]:
    """Where the tooth is, and where each of the others, of the places (3,) that changed.

    near: a point on the tooth, where one was given; along: of a place, occlusal x facial there. Nothing is told where
    there are fewer places than teeth.
    """
    if near is not None:
        # The others are not told by name: only that there something was cut.
        away = [float(np.linalg.norm(p - near)) for p in found]
        rest = [p for k, p in enumerate(found) if k != int(np.argmin(away))] if found else []
        return near, dict(zip(sorted(others, key=arch_order), rest, strict=False))
    if len(found) < len(others) + 1:
        return None, {}
    named = in_order(found, [mine, *others], along(found[0]))
    return named.pop(mine), named
