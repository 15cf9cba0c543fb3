"""Increased vertical dimension: the lower jaw turned about its hinge axis.

Average geometry: the hinge lies HINGE_BACK_MM behind and HINGE_UP_MM above the lower incisors' edge, seen from the
side, with the occlusal plane level (an equilateral triangle of about 104 mm between condyles and incisors, leaning by
about 22 degrees; F. H. Balkwill 1866 and W. G. A. Bonwill, as handed down in the textbooks, from memory). An
opening is the rise of a point of the lower jaw along the occlusal direction. With these figures 0.5 mm at the first
molars opens about 0.8 at the incisors; the trade's rule of one to three speaks of other points.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import perpendicular
from vane_line.errors import BadOption

HINGE_BACK_MM = 83.0
HINGE_UP_MM = 34.0
U_HINGE = 0.15  # relative: average geometry against the patient's own (order of published spread, from memory)
# Distance of a tooth's middle behind the incisors' edge along the midline, and the angle between its mesial direction
# and straight forward: average arch, from memory.
BEHIND_MM = {"1": 0.0, "2": 2.0, "3": 8.0, "4": 15.0, "5": 22.0, "6": 31.0, "7": 41.0, "8": 50.0}
INWARD_DEG = {"1": 80.0, "2": 65.0, "3": 45.0, "4": 22.0, "5": 14.0, "6": 8.0, "7": 5.0, "8": 5.0}
MOST_MM = 10.0
BACK_MM, UP_MM = (60.0, 110.0), (10.0, 60.0)  # of a hinge that was measured
RULE_OF_THUMB = 3.0  # common practice, no source: millimetres in front for one at the molars
CAUTION = (
    "Raising the bite needs a record of the jaw relation and a plan for all teeth; the opening here comes from "
    "average geometry."
)


@dataclass(frozen=True)
class Hinge:
    """Where the hinge axis lies, seen from the side: behind and above the lower incisors' edge, mm."""

    back_mm: float = HINGE_BACK_MM
    up_mm: float = HINGE_UP_MM
    entered: bool = False  # measured on the patient, not average


@dataclass(frozen=True)
class Raise:
    """An opening of `mm` asked for at the first molars or at the incisors."""

    mm: float
    at: str = "molar"
    hinge: Hinge = Hinge()

    @classmethod
    def parse(cls, text: str) -> Raise:
        """From '0.5@molar', '2@incisor', or with a measured hinge, mm behind and above the lower incisors' edge:
        '0.5@molar@88,36'. Raises BadOption."""
        amount, _, rest = text.partition("@")
        place, _, hinge = rest.partition("@")
        try:
            mm = float(amount)
            back, up = (float(v) for v in hinge.split(",")) if hinge else (HINGE_BACK_MM, HINGE_UP_MM)
        except ValueError:
            mm, back, up = float("nan"), HINGE_BACK_MM, HINGE_UP_MM
        if place not in ("molar", "incisor") or not 0 < mm <= MOST_MM:
            raise BadOption(f"--raise {text}: give an opening in mm and where, such as 0.5@molar or 2@incisor.")
        if not (BACK_MM[0] <= back <= BACK_MM[1] and UP_MM[0] <= up <= UP_MM[1]):
            raise BadOption(
                f"--raise {text}: a hinge lies {BACK_MM[0]:.0f} to {BACK_MM[1]:.0f} mm behind and {UP_MM[0]:.0f} to "
                f"{UP_MM[1]:.0f} above the lower incisors' edge."
            )
        return cls(mm, place, Hinge(back, up, entered=bool(hinge)))

    def by_place(self) -> dict[str, float]:
        """Opening at each tooth position, '1' to '8'."""
        return {place: self.opening_mm(place) for place in BEHIND_MM}

    @property
    def angle_rad(self) -> float:
        """By how much the lower jaw turns so that the place asked for opens by `mm`."""
        behind = BEHIND_MM["6"] if self.at == "molar" else 0.0
        from scipy.optimize import brentq  # a fifth of a second to import, for raised bites alone

        return float(brentq(lambda t: _drop(self.hinge, behind, t) - self.mm, 0.0, 0.5))

    def opening_mm(self, place: str) -> float:
        """Opening at a tooth position ('1' to '8')."""
        return _drop(self.hinge, BEHIND_MM[place], self.angle_rad)

    def u_mm(self, place: str) -> float:
        """Standard uncertainty of that opening: nought where it was asked for, or the hinge was measured."""
        if self.hinge.entered or place == ("6" if self.at == "molar" else "1"):
            return 0.02 * self.opening_mm(place)
        return U_HINGE * self.opening_mm(place)


def _drop(hinge: Hinge, behind_mm: float, angle: float) -> float:
    """How far a point of the lower occlusal plane sinks when the jaw turns by `angle` (rad) about the hinge."""
    x, z = hinge.back_mm - behind_mm, -hinge.up_mm  # from the hinge: forward, up
    return float(z - (z * np.cos(angle) - x * np.sin(angle)))


def to_head_and_forward(frame: Frame, tooth: ToothNumber) -> tuple[Floats, Floats]:
    """(3,) each, unit: towards the head, and forward along the arch's middle, across the former."""
    inward = np.radians(INWARD_DEG[tooth.fdi[1]])
    up = -frame.occlusal if tooth.upper else frame.occlusal
    return up, perpendicular(np.cos(inward) * frame.mesial + np.sin(inward) * frame.facial, up)


def raised(frame: Frame, centre: Floats, tooth: ToothNumber, opening: Raise) -> Floats:
    """(4, 4) what moves the opposing teeth when the bite is opened, in the prep scan's coordinates.

    frame: the tooth's axes, of which the occlusal direction stands for the arch's. centre (3,): the tooth's middle. The
    hinge is put where average (or entered) geometry has it from that tooth.
    """
    place = tooth.fdi[1]
    up, forward = to_head_and_forward(frame, tooth)
    hinge = centre - (opening.hinge.back_mm - BEHIND_MM[place]) * forward + opening.hinge.up_mm * up
    # The opposing teeth are the upper ones of a lower tooth: seen from the lower jaw they turn the other way.
    turn = opening.angle_rad if tooth.upper else -opening.angle_rad
    c, s = np.cos(turn), np.sin(turn)
    across = np.cross(up, forward)
    basis = np.stack([forward, across, up])
    about = np.array([[c, 0, s], [0, 1, 0], [-s, 0, c]])  # forward sinks for a positive turn
    matrix = np.eye(4)
    matrix[:3, :3] = basis.T @ about @ basis
    matrix[:3, 3] = hinge - matrix[:3, :3] @ hinge
    return matrix
