"""What the person said about a case: the measurement's input beside the scans."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from vane_line.core.arrays import Bools, Floats
from vane_line.core.tooth.earlier import Meaning, meaning_of
from vane_line.core.tooth.hinge import Raise
from vane_line.core.tooth.notation import ToothNumber

Progress = Callable[[str, float], None]


@dataclass(frozen=True, eq=False)
class HandLine:
    """A finish line corrected by hand: points (N, 3) in order, and which of them were drawn (N,)."""

    points: Floats
    drawn: Bools


@dataclass(frozen=True, eq=False)
class Options:
    """What the person said about the case. Vectors (3,), curves (N, 3), in the prep scan's coordinates, mm.

    line: the finish line as corrected by hand. gingiva, core: the gingiva's line and a core's border, drawn closed.
    """

    tooth: ToothNumber
    occlusal: Floats | None = None
    facial: Floats | None = None
    near: Floats | None = None
    path: Floats | None = None
    earlier: str = "natural"  # what the earlier surface means: a key of MEANINGS
    opposing_frame: str = "prep"
    functional_side: str | None = None  # set for a crossbite; else from the jaw
    line: HandLine | None = None
    gingiva: Floats | None = None
    core: Floats | None = None
    bur_radius_mm: float = 0.5  # of the mill's finest ball-ended bur
    opening: Raise | None = None  # an increased vertical dimension

    @property
    def meaning(self) -> Meaning:
        return meaning_of(self.earlier)
