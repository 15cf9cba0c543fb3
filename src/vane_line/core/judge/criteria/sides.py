"""Stretches of the finish line and sides of the tooth: which samples belong to which."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from vane_line.core.arrays import Bools
from vane_line.core.measure.line_form import LineForm, mostly
from vane_line.core.measure.retention import SIDE_HALF_DEG, SIDES
from vane_line.core.rings import degrees_apart, degrees_past

ENOUGH_CLEAR = 0.5  # of a side's finish line that must be told for its width and form to be judged


def forms_said(forms: Iterable[str], wanted: Iterable[str]) -> str:
    """What form a stretch of the line mostly has, and which are wanted there."""
    return f"mostly {mostly(forms)}; wanted here: {' or '.join(w.replace('-', ' ') for w in wanted)}"


def side_mask(form: LineForm, side: str) -> Bools:
    """(S,) samples of the line on a side."""
    return np.asarray(degrees_apart(form.azimuth_deg, SIDES[side]) <= SIDE_HALF_DEG)


def stretch_mask(form: LineForm, side: str, low_deg: float, high_deg: float, turn_deg: float = 0.0) -> Bools:
    """(S,) samples from `low_deg` to `high_deg` past a side's middle, counted towards lingual.

    turn_deg: by which the sides are turned on.
    """
    off = degrees_past(form.azimuth_deg - SIDES[side], turn_deg)
    off = -off if side == "distal" else off
    return np.asarray((off >= low_deg) & (off <= high_deg))


def told_over(form: LineForm, here: Bools) -> bool:
    """Whether enough of the samples are clear to be judged."""
    return float((form.clear & np.isfinite(form.width_mm))[here].mean()) >= ENOUGH_CLEAR if here.any() else False


def told(form: LineForm, side: str) -> bool:
    """Whether enough of a side's line is clear to be judged."""
    return told_over(form, side_mask(form, side))
