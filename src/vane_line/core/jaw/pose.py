"""A position of the lower jaw in which the opposing teeth are measured to: intercuspation, or a raised bite."""

from __future__ import annotations

from dataclasses import dataclass

from vane_line.core.arrays import Floats
from vane_line.core.jaw.hinge import CAUTION, Raise, raised
from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.notation import ToothNumber


@dataclass(frozen=True)
class Pose:
    """Where the lower jaw stands. opening: by which the bite is raised, None where it is not.

    caution: what has to be said of every number measured in it.
    """

    name: str
    title: str
    opening: Raise | None = None
    caution: str = ""

    def opposing(self, recorded: Surface, frame: Frame, centre: Floats, tooth: ToothNumber) -> Surface:
        """The opposing teeth as `recorded` in intercuspation, where they stand in this pose; frame, centre: of the
        tooth, in the same coordinates."""
        return recorded if self.opening is None else recorded.moved(raised(frame, centre, tooth, self.opening))

    def u_mm(self, tooth: ToothNumber) -> float:
        """Standard uncertainty that the pose adds to a distance between the jaws at a tooth."""
        return 0.0 if self.opening is None else self.opening.u_mm(tooth.fdi[1])


INTERCUSPATION = Pose("intercuspation", "maximum intercuspation")
OFFERED = ("0.5@molar", "1@molar", "1.5@molar", "2@molar", "1@incisor", "2@incisor", "3@incisor")  # to choose from


def pose_of(opening: Raise | None) -> Pose:
    """Intercuspation, or the pose of an increased vertical dimension."""
    if opening is None:
        return INTERCUSPATION
    where = "first molars" if opening.at == "molar" else "incisors"
    return Pose("raised", f"raised by {opening.mm:g} mm at the {where}", opening, CAUTION)
