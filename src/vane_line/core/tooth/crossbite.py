"""Which cusps bite into the opposing fossae: by the jaw in a normal bite, the other side in a crossbite.

In a normal bite the upper facial cusps reach further out than the lower ones; the functional cusps are those that have
opposing tooth beyond them. Read tooth by tooth from the opposing surface, and overruled by a switch.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.anatomy import Anatomy, plan
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes

CLEAR_MM = 1.0  # by which one side's opposing overlap must exceed the other's to speak of a crossbite
HALF_LENGTH_MM = 3.5  # of the stretch along the arch that is looked at
ABOVE_MM = 2.5  # opposing surface further from the cusps than this is beside the teeth
LEAST_POINTS = 30
EDGE_SHARE = 0.02


@dataclass(frozen=True)
class FunctionalSide:
    """facial or lingual; where it comes from: given, opposing or jaw."""

    side: str
    source: str
    warnings: tuple[str, ...] = ()


def functional_side(
    tooth: ToothNumber, given: str | None, anatomy: Anatomy, opposing: Surface | None, axes: Axes, prep: Surface
) -> FunctionalSide:
    """The functional cusps' side; `prep` is the tooth inside its finish line."""
    usual = tooth.functional_side
    if given is not None:
        return FunctionalSide(given, "given")
    if tooth.front or not anatomy.cusps or opposing is None:
        return FunctionalSide(usual, "jaw")
    found = seen_side(anatomy, opposing, axes, float(((prep.vertices - axes.origin) @ axes.up).max()))
    if found is None or found == usual:
        return FunctionalSide(usual, "jaw" if found is None else "opposing")
    lingual = tooth.lingual_word
    names = {"facial": "facial", "lingual": lingual}
    return FunctionalSide(found, "opposing", (
        f"Crossbite at tooth {tooth.fdi}: the opposing teeth reach beyond its {names[found]} cusps, which are taken as "
        f"the functional ones; in a normal bite they would be the {names[usual]} ones. Switch it where that is wrong.",
    ))  # fmt: skip


def seen_side(anatomy: Anatomy, opposing: Surface, axes: Axes, top_mm: float) -> str | None:
    """The side whose cusps have opposing teeth beyond them by CLEAR_MM more than the other's; None where not clear.

    top_mm: height of the prepared tooth's highest place along the axes.
    """
    xy = plan(axes, opposing.vertices)
    height = (opposing.vertices - axes.origin) @ axes.up
    near = (np.abs(xy[:, 0] - anatomy.centre[0]) < HALF_LENGTH_MM) & (height < top_mm + ABOVE_MM + 1.5)
    near &= np.abs(xy[:, 1] - anatomy.centre[1]) < anatomy.size[1] / 2 + 6.0
    if near.sum() < LEAST_POINTS:
        return None
    facial = float(np.mean([c[1] for n, c in anatomy.cusps.items() if "lingual" not in n]))
    lingual = float(np.mean([c[1] for n, c in anatomy.cusps.items() if "lingual" in n]))
    low, high = _reach(xy[near, 1])
    beyond_facial, beyond_lingual = high - facial, lingual - low
    if beyond_facial > beyond_lingual + CLEAR_MM:
        return "facial"
    if beyond_lingual > beyond_facial + CLEAR_MM:
        return "lingual"
    return None


def _reach(across: Floats) -> tuple[float, float]:
    low, high = np.quantile(across, [EDGE_SHARE, 1 - EDGE_SHARE])
    return float(low), float(high)
