"""What a person chooses of a cavity before it is cut."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.errors import BadOption

BOX_SIDES = ("mesial", "distal")
LEAST_DRAWN, MOST_DRAWN = 4, 500


@dataclass(frozen=True, eq=False)
class CavityChoice:
    """boxes: on which sides; covered: the cusps that are covered, None as the kind does it; outline: (K, 3) drawn on
    the tooth, closed, None along its central groove."""

    boxes: tuple[str, ...] = ()
    covered: tuple[str, ...] | None = None
    outline: Floats | None = None

    def check(self) -> None:
        """Raises BadOption."""
        for side in self.boxes:
            if side not in BOX_SIDES:
                raise BadOption(f"box {side}: use one of {', '.join(BOX_SIDES)}.")
        if self.outline is None:
            return
        if not LEAST_DRAWN <= len(self.outline) <= MOST_DRAWN or not np.isfinite(self.outline).all():
            raise BadOption(f"outline: draw it as {LEAST_DRAWN} to {MOST_DRAWN} points round the cavity.")
