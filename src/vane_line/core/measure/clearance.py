"""Clearance: distance from the preparation to the opposing teeth in maximum intercuspation, and the bite check."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import near_cells
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import bounds, lengths, within

MEETING_MM = 0.10  # teeth that meet stand between this far into each other and this far apart
MEETING_AREA_MM2 = 0.2
U_BITE_MM = 0.025  # spread of repeated bite records; order of the published figures, from memory
BITE_CELL_MM = 0.2
BESIDE_OWN_MM = 0.8  # beyond the tooth's line: another's
FAR_MM = 6.0
NEAR_CELL_MM = 1.5
LEAST_FACES = 200
REACH_MM = 4.0  # of the opposing teeth beside and above the preparation


NOWHERE_NEAR = (
    "The opposing scan is nowhere near the other teeth: export it in the bite's position, or, if it came with the scan "
    "before cutting, say so (opposing-frame preop)."
)


@dataclass(frozen=True)
class Bite:
    """Whether the recorded bite closes on the teeth that should meet; gap in mm, negative into each other."""

    ok: bool
    note: str
    gap_mm: float | None
    u_mm: float  # what it adds to the clearance's standard uncertainty


def clearance(points: Floats, opposing: Surface) -> Floats:
    """(N,) signed distance of prep points to the opposing teeth, negative where they cut through each other."""
    middle = points.mean(axis=0)
    reach = float(lengths(points - middle).max()) + REACH_MM
    part, _ = opposing.keep_vertices(lengths(opposing.vertices - middle) < reach)
    # Far queries are slow, so only what can be nearest is searched; if nothing is near, everything is.
    near = part if part.n_faces else opposing
    return near.gap(points)


def beside(points: Floats, line: FinishLine, axes: Axes) -> Bools:
    """(N,) whether `points` (N, 3) belong to other teeth than the one that `line` goes round."""
    azimuth, radius, _ = axes.cylinder(points)
    return np.asarray(radius > line.at(azimuth, line.radius) + BESIDE_OWN_MM)


def bite_of(prep: Surface, opposing: Surface, line: FinishLine, axes: Axes, tooth: ToothNumber) -> Bite:
    """How the other teeth of the prep scan meet the opposing ones.

    Front teeth may meet by the opposing ones' edges alone: those are tried where their own edges meet nothing.
    """
    found = check_bite(_other_teeth(prep, line, axes), opposing, U_BITE_MM)
    if found.ok or found.gap_mm is None or not tooth.front:
        return found
    others, _ = prep.keep_vertices(beside(prep.vertices, line, axes))
    tops = opposing.vertices[opposing.highest(-axes.up, BITE_CELL_MM)]
    other = check_bite(tops, others, U_BITE_MM) if others.n_faces else found
    nearer = other.gap_mm is not None and abs(other.gap_mm) < abs(found.gap_mm)
    return other if nearer else found


def _other_teeth(prep: Surface, line: FinishLine, axes: Axes) -> Floats:
    """(N, 3) the highest points of the other teeth on the prep scan, one per small square of plan."""
    tops = prep.vertices[prep.highest(axes.up, BITE_CELL_MM)]
    above = (tops - axes.origin) @ axes.up > float(np.median(line.height)) + 1.0
    return np.asarray(tops[beside(tops, line, axes) & above])


def check_bite(others: Floats, opposing: Surface, u_bite_mm: float) -> Bite:
    """Compare the tops of the uncut teeth, `others` (N, 3) one per BITE_CELL_MM square, with the opposing scan.

    The gap is the one that the closest MEETING_AREA_MM2 of them stay within.
    """
    if len(others) == 0:
        return Bite(False, "No other tooth is on the preparation scan, so the bite cannot be checked.", None, 0.1)
    low, high = bounds(opposing.vertices)
    low, high = low - FAR_MM, high + FAR_MM
    near = others[within(others, low, high)]
    if len(near) < 20:
        return Bite(
            False,
            NOWHERE_NEAR,
            None,
            0.5,
        )
    # Only what lies near the other teeth is searched: a tree over a whole scan costs seconds.
    part, _ = opposing.keep_vertices(near_cells(opposing.vertices, near, NEAR_CELL_MM))
    part = part if part.n_faces > LEAST_FACES else opposing
    signed, face, place = part.signed_distance(near)
    gap = np.sort(signed[~part.at_rim(face, place)])
    if len(gap) < 20:
        return Bite(False, "The opposing scan does not reach over the other teeth: scan more of it.", None, 0.5)
    low_gap = float(gap[min(round(MEETING_AREA_MM2 / BITE_CELL_MM**2), len(gap) - 1)])
    if low_gap < -MEETING_MM:
        note = f"The other teeth cut {-low_gap:.2f} mm into the opposing teeth: the bite is recorded too closed."
        return Bite(False, note, low_gap, float(np.hypot(u_bite_mm, -low_gap - MEETING_MM)))
    if low_gap > MEETING_MM:
        note = f"The other teeth stand {low_gap:.2f} mm short of the opposing teeth: the bite does not close."
        return Bite(False, note, low_gap, float(np.hypot(u_bite_mm, low_gap - MEETING_MM)))
    return Bite(True, "", low_gap, u_bite_mm)
