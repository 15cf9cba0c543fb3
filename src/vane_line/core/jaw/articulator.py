"""The lower jaw as a rigid body on two condyles: where they lie, the paths they take, and the poses of a movement.

Average geometry: condyles CONDYLES_APART_MM apart on the hinge axis (`core.jaw.hinge`), the lower incisors' edge in
front of their middle. A condyle slides forward and down along its path, CONDYLAR_DEG to the occlusal plane; the
non-working one also inward by the Bennett angle. H. C. Lundeen and C. H. Gibbs, Advances in occlusion, 1982, and the
textbooks' averages, from memory.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.jaw.hinge import BEHIND_MM, HINGE_BACK_MM, HINGE_UP_MM, to_head_and_forward
from vane_line.core.rigid import turn_about
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import unit
from vane_line.errors import BadOption

Movement = Literal["protrusive", "laterotrusive", "mediotrusive"]
MOVEMENTS: tuple[Movement, ...] = get_args(Movement)
CONDYLES_APART_MM = 110.0
CONDYLAR_DEG, CONDYLAR_RANGE = 30.0, (20.0, 45.0)
BENNETT_DEG, BENNETT_RANGE = 15.0, (5.0, 20.0)
CONDYLAR_ENTERED, BENNETT_ENTERED, INCISAL_ENTERED = (0.0, 70.0), (0.0, 45.0), (0.0, 75.0)  # what may be entered
# Distance of a tooth's middle from the midline in an average arch, mm, from memory.
ASIDE_MM = {"1": 3.5, "2": 9.5, "3": 15.0, "4": 19.0, "5": 21.5, "6": 24.5, "7": 27.5, "8": 29.0}
MOST_PITCH = 0.35  # rad: further the jaw does not turn in 3 mm of any movement


@dataclass(frozen=True)
class Articulator:
    """Angles in degrees to the occlusal plane, None where nothing was entered: then the average, and its range.

    incisal_deg: of the guidance in front; None where the teeth on the scans guide.
    """

    condylar_deg: float | None = None
    bennett_deg: float | None = None
    incisal_deg: float | None = None

    def __post_init__(self) -> None:
        """Raises BadOption."""
        for name, value, (low, high) in (
            ("condylar-path", self.condylar_deg, CONDYLAR_ENTERED), ("bennett", self.bennett_deg, BENNETT_ENTERED),
            ("incisal-guidance", self.incisal_deg, INCISAL_ENTERED),
        ):  # fmt: skip
            if value is not None and not low <= value <= high:
                raise BadOption(f"{name} {value:g}: give degrees to the occlusal plane, from {low:.0f} to {high:.0f}.")

    @classmethod
    def parse(cls, text: str) -> Articulator:
        """From condylar path, Bennett's angle and guidance in front, '-' for what was not entered: '35,12,-'. Raises
        BadOption."""
        try:
            condylar, bennett, incisal = (None if part.strip() == "-" else float(part) for part in text.split(","))
        except ValueError as error:
            raise BadOption(f"movements {text}: give three angles or '-', such as 35,12,-.") from error
        return cls(condylar, bennett, incisal)

    @property
    def condylar(self) -> float:
        return CONDYLAR_DEG if self.condylar_deg is None else self.condylar_deg

    @property
    def bennett(self) -> float:
        return BENNETT_DEG if self.bennett_deg is None else self.bennett_deg

    def others(self, movement: Movement) -> list[Articulator]:
        """What it could be instead, one value at a time at either end of its range; none where all is entered."""
        rows = []
        if self.condylar_deg is None:
            rows += [Articulator(c, self.bennett_deg, self.incisal_deg) for c in CONDYLAR_RANGE]
        if self.bennett_deg is None and movement != "protrusive":
            rows += [Articulator(self.condylar_deg, b, self.incisal_deg) for b in BENNETT_RANGE]
        return rows


@dataclass(frozen=True, eq=False)
class Jaw:
    """Unit directions (3,) and places (3,) in the prep scan's coordinates: up to the head, forward along the arch's
    middle, outward to the tooth's own side; the condyle of that side, the other one, the lower incisors' edge."""

    up: Floats
    forward: Floats
    outward: Floats
    own: Floats
    other: Floats
    incisal: Floats

    @classmethod
    def of(cls, frame: Frame, centre: Floats, tooth: ToothNumber) -> Jaw:
        """Average geometry about a tooth whose middle is `centre` (3,)."""
        place = tooth.fdi[1]
        up, forward = to_head_and_forward(frame, tooth)
        outward = np.cross(up, forward)  # to one side; facial and distal of any tooth look to its own
        outward = outward if outward @ frame.facial - outward @ frame.mesial > 0 else -outward
        incisal = centre + BEHIND_MM[place] * forward - ASIDE_MM[place] * outward
        middle = incisal - HINGE_BACK_MM * forward + HINGE_UP_MM * up
        half = CONDYLES_APART_MM / 2 * outward
        return cls(up, forward, outward, middle + half, middle - half, incisal)


def start(jaw: Jaw, by: Articulator, movement: Movement, step_mm: float) -> Floats:
    """(4, 4) what moves the lower jaw by a movement's step before it is opened or closed about its condyles: in
    protrusion both condyles travel `step_mm`, else the non-working one."""
    c, b = np.radians(by.condylar), np.radians(by.bennett)
    if movement == "protrusive":
        return _shift(step_mm * (np.cos(c) * jaw.forward - np.sin(c) * jaw.up))
    working, orbiting = (jaw.own, jaw.other) if movement == "laterotrusive" else (jaw.other, jaw.own)
    side = unit(working - orbiting)
    level = np.cos(b) * jaw.forward + np.sin(b) * side  # inward for the orbiting condyle is towards the working one
    there = orbiting + step_mm * (np.cos(c) * level - np.sin(c) * jaw.up)
    # The working condyle slides sideways only, as far as the width of the jaw asks.
    off = working - there
    along = off @ side
    aside2 = float(off @ off - along**2)
    slide = np.sqrt(CONDYLES_APART_MM**2 - aside2) - along
    here = working + slide * side
    matrix = _turning(unit(working - orbiting), unit(here - there))
    matrix[:3, 3] = there - matrix[:3, :3] @ orbiting
    return matrix


def opened(jaw: Jaw, moved: Floats, pitch: float) -> Floats:
    """(4, 4) the pose `moved` with the jaw turned about its own condyles by `pitch` rad, opening positive."""
    axis = unit(moved[:3, :3] @ jaw.outward)
    about = moved[:3, :3] @ jaw.own + moved[:3, 3]
    # Turned about outward, forward goes up on the left and down on the right: opening is down on both.
    sign = 1.0 if np.cross(jaw.outward, jaw.forward) @ jaw.up < 0 else -1.0
    return turn_about(sign * pitch * axis, about) @ moved


def guided(jaw: Jaw, by: Articulator, movement: Movement, step_mm: float) -> Floats:
    """(4, 4) the pose in which the lower incisors' edge has sunk along the entered guidance for the way that it has
    gone across the occlusal plane."""
    from scipy.optimize import brentq  # a fifth of a second to import, for entered guidance alone

    assert by.incisal_deg is not None
    moved, slope = start(jaw, by, movement, step_mm), np.tan(np.radians(by.incisal_deg))

    def above(pitch: float) -> float:
        matrix = opened(jaw, moved, pitch)
        way = matrix[:3, :3] @ jaw.incisal + matrix[:3, 3] - jaw.incisal
        return float(way @ jaw.up + slope * np.linalg.norm(way - (way @ jaw.up) * jaw.up))

    return opened(jaw, moved, float(brentq(above, -MOST_PITCH, MOST_PITCH, xtol=1e-12)))


def _shift(by: Floats) -> Floats:
    matrix = np.eye(4)
    matrix[:3, 3] = by
    return matrix


def _turning(old: Floats, new: Floats) -> Floats:
    """(4, 4) the least rotation that turns the unit vector `old` into `new`."""
    axis = np.cross(old, new)
    sine = float(np.linalg.norm(axis))
    return np.eye(4) if sine < 1e-15 else turn_about(np.arctan2(sine, old @ new) * axis / sine, np.zeros(3))
