"""What the person said about a case: the measurement's input beside the scans."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.facts import known
from vane_line.core.jaw.articulator import Articulator
from vane_line.core.jaw.hinge import Raise
from vane_line.core.tooth.earlier import Meaning, meaning_of
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import unit
from vane_line.errors import BadOption

Progress = Callable[[str, float], None]
BEWARE = "beware: "  # begins a step's text that the person should read before the rest is done
# What a hand draws that neither moves a scan nor the tooth's axes; a stored edit is named so.
HandKind = Literal["path", "line", "gingiva", "core"]
HAND_KINDS: tuple[HandKind, ...] = ("path", "line", "gingiva", "core")
PAIRED = ("preop", "mockup")
LEAST_PAIRS = 3
PIN_SIDES, MOST_PIN_MM = ("mesial", "lingual", "distal"), 5.0
FRAMES, FUNCTIONAL = ("prep", "preop"), ("facial", "lingual")
LEAST_SPREAD_MM = 1.5
LEAST_ACROSS = 0.1  # sine of the angle between two given directions


def _numbers(name: str, value: object) -> Floats:
    try:
        out = np.asarray(value, dtype=np.float64)
    except (TypeError, ValueError) as error:
        raise BadOption(f"{name}: give numbers.") from error
    if not np.isfinite(out).all():
        raise BadOption(f"{name}: give finite numbers.")
    return out


@dataclass(frozen=True, eq=False)
class HandLine:
    """A finish line corrected by hand: points (N, 3) in order, and which of them were drawn (N,)."""

    points: Floats
    drawn: Bools


@dataclass(frozen=True, eq=False)
class Pairs:
    """The same places pointed at on two scans: (N, 3) in the earlier scan's coordinates and in the prep scan's, mm."""

    theirs: Floats
    ours: Floats

    def __post_init__(self) -> None:
        """Raises BadOption for what fixes no position."""
        for name in ("theirs", "ours"):
            object.__setattr__(self, name, _numbers("pairs", getattr(self, name)))
        if self.theirs.shape != self.ours.shape or self.ours.ndim != 2 or self.ours.shape[1] != 3:
            raise BadOption("pairs: give as many points on one scan as on the other.")
        if len(self.ours) < LEAST_PAIRS:
            raise BadOption(f"pairs: point at {LEAST_PAIRS} places at least on both scans.")
        for points in (self.theirs, self.ours):
            if np.linalg.svd(points - points.mean(axis=0), compute_uv=False)[1] < LEAST_SPREAD_MM:
                raise BadOption("pairs: the places lie along one line; choose one that lies aside from the others.")


@dataclass(frozen=True, eq=False)
class Options:
    """What the person said about the case. Vectors (3,), curves (N, 3), in the prep scan's coordinates, mm.

    line: the finish line as corrected by hand. gingiva, core: the gingiva's line and a core's border, drawn closed.
    pairs: by role of an earlier scan, places that were pointed at on it and on the prep scan.
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
    movements: Articulator | None = None  # by which the lower jaw moves; None: intercuspation only
    pairs: dict[str, Pairs] = field(default_factory=dict)
    restoration: str = "full-crown"  # the name of a kind in core/kinds
    root_filled: bool = False  # a standing cusp then needs more
    by_eye: bool = False  # axes were looked at and confirmed, not measured
    guide_pins: bool = False  # it was said that pins stand in the holes
    gauge: dict[str, float] = field(default_factory=dict)  # depths of pin holes as a gauge told them, mm by side
    facts: tuple[str, ...] = ()  # keys of core/facts: what no scan shows
    dark: bool = False  # the tooth's colour would show: a veneer over it needs more
    others: tuple[ToothNumber, ...] = ()  # teeth of the same scans that were cut too

    def __post_init__(self) -> None:
        """Raises BadOption for what cannot be meant, before it fails deep inside."""
        if not isinstance(self.tooth, ToothNumber):
            raise BadOption("tooth: give a ToothNumber, such as ToothNumber.parse('36').")
        if any(not isinstance(t, ToothNumber) or t.upper != self.tooth.upper for t in self.others):
            raise BadOption("others: give the other prepared teeth of the same jaw.")
        if len({self.tooth, *self.others}) < 1 + len(self.others):
            raise BadOption("others: a tooth is given twice.")
        for name in ("occlusal", "facial", "near", "path"):
            value = getattr(self, name)
            if value is None:
                continue
            vector = _numbers(name, value)
            if vector.shape != (3,):
                raise BadOption(f"{name}: give three numbers, not an array of shape {vector.shape}.")
            if name != "near" and float(np.linalg.norm(vector)) < 1e-9:
                raise BadOption(f"{name}: a direction cannot be null.")
            object.__setattr__(self, name, vector)
        for name in ("gingiva", "core"):
            value = getattr(self, name)
            if value is not None:
                curve = _numbers(name, value)
                if curve.ndim != 2 or curve.shape[1] != 3 or len(curve) < 3:
                    raise BadOption(f"{name}: give a curve of three points or more, each three numbers.")
                object.__setattr__(self, name, curve)
        meaning_of(self.earlier)
        object.__setattr__(self, "facts", known(tuple(self.facts)))
        if self.opposing_frame not in FRAMES:
            raise BadOption(f"opposing-frame {self.opposing_frame}: use {' or '.join(FRAMES)}.")
        if self.functional_side not in (None, *FUNCTIONAL):
            raise BadOption(f"functional {self.functional_side}: use {' or '.join(FUNCTIONAL)}.")
        for role in self.pairs:
            if role not in PAIRED:
                raise BadOption(f"pairs: {role} is no earlier scan; use {' or '.join(PAIRED)}.")
        if self.occlusal is not None and self.facial is not None:
            across = float(np.linalg.norm(np.cross(unit(self.occlusal), unit(self.facial))))
            if across < LEAST_ACROSS:
                raise BadOption("facial: it points along the occlusal direction; give a direction across it.")
        for side, depth in self.gauge.items():
            if side not in PIN_SIDES:
                raise BadOption(f"pin depth {side}: name the pin by its side, {', '.join(PIN_SIDES)}.")
            if not isinstance(depth, int | float) or not 0 < depth <= MOST_PIN_MM:
                raise BadOption(f"pin depth {side}: give it in mm, up to {MOST_PIN_MM:.0f}.")
        if not isinstance(self.bur_radius_mm, int | float) or not 0.05 <= self.bur_radius_mm <= 2.0:
            raise BadOption("bur radius: give it in mm, from 0.05 to 2.")

    @property
    def pins_may_stand(self) -> bool:
        """Whether guide pins are looked for. Of a casting held by pins also where nothing was said of them: taken for
        tooth they are all undercut, and what they hide is too shallow."""
        return self.guide_pins or self.restoration == "pin-casting"

    @property
    def meaning(self) -> Meaning:
        return meaning_of(self.earlier)
