"""The plan of a cavity: places seen along the path."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.trace.section import Axes


def plan_of(axes: Axes, points: Floats) -> Floats:
    """(N, 2) mesial and facial coordinates of points (N, 3) about the axes' origin."""
    off = points - axes.origin
    return np.stack([off @ axes.quarter, off @ axes.zero], axis=1)
