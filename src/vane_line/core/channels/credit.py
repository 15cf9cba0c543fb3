"""What a groove does for a crown that its walls alone do not hold: its own walls stand nearer to the far edge, upright.

By the same limiting taper as of a whole wall (Parker et al. 1988): a groove in a proximal wall holds against tipping to
face and back, one in face or back against tipping along the row.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.channels.channel import Channel
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.retention import OPPOSITE, SIDES, limiting_taper_deg
from vane_line.core.trace.section import Axes


@dataclass(frozen=True)
class Credit:
    """Of one side: the groove that holds there, the taper of its wall, and the greatest that would hold."""

    groove: str
    taper_deg: float
    limit_deg: float


def credits(channels: list[Channel], line: FinishLine, axes: Axes) -> dict[str, Credit]:
    """By side, the groove that holds best there; none where none does."""
    found: dict[str, Credit] = {}
    for side in SIDES:
        way = axes.outward(SIDES[side])
        far = float(((line.points - axes.origin) @ way).min())
        for channel in channels:
            if channel.side in (side, OPPOSITE[side]):
                continue
            base = float((channel.middle - axes.origin) @ way) - far
            limit = float(limiting_taper_deg(np.array(channel.length_mm), np.array(max(base, 0.1))))
            lean = float(np.degrees(np.arctan2(channel.direction @ way, channel.direction @ axes.up)))
            taper = max(-lean, 0.0) + channel.wall_deg
            spare = limit - taper
            if spare >= 0 and (side not in found or spare > found[side].limit_deg - found[side].taper_deg):
                found[side] = Credit(channel.side, taper, limit)
    return found
