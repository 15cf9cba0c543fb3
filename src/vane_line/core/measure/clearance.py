"""Clearance: distance from the preparation to the opposing teeth in maximum intercuspation, and the bite check."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Bools, Floats, weighted_quantile
from vane_line.core.mesh.surface import Surface

MEETING_MM = 0.10  # teeth that meet stand between this far into each other and this far apart
WORST_AREA_MM2 = 0.10
FAR_MM = 6.0


@dataclass(frozen=True)
class Bite:
    """Whether the recorded bite closes on the teeth that should meet; gap in mm, negative into each other."""

    ok: bool
    note: str
    gap_mm: float | None
    u_mm: float  # what it adds to the clearance's standard uncertainty


def clearance(points: Floats, opposing: Surface) -> Floats:
    """(N,) signed distance of prep points to the opposing teeth, negative where they cut through each other."""
    return opposing.signed_distance(points)[0]


def check_bite(prep: Surface, outside: Bools, opposing: Surface, u_bite_mm: float) -> Bite:
    """Compare the uncut teeth of the prep scan with the opposing scan.

    outside: (V,) vertices of `prep` that belong to the other teeth. The gap is that of the closest 0.2 mm².
    """
    points = prep.vertices[outside]
    area = prep.vertex_areas[outside]
    if len(points) == 0:
        return Bite(False, "No other tooth is on the preparation scan, so the bite cannot be checked.", None, 0.1)
    keep = _near(points, opposing)
    if keep.sum() < 20:
        return Bite(
            False,
            "The opposing scan is nowhere near the other teeth: export it in the bite's position.",
            None,
            0.5,
        )
    gap = opposing.signed_distance(points[keep])[0]
    share = min(1.0, 2 * WORST_AREA_MM2 / max(float(area[keep].sum()), 1e-9))
    low = weighted_quantile(gap, area[keep], share)
    if low < -MEETING_MM:
        return Bite(
            False, f"The other teeth cut {-low:.2f} mm into the opposing teeth: the bite is recorded too closed.", low,
            float(np.hypot(u_bite_mm, -low - MEETING_MM)),
        )  # fmt: skip
    if low > MEETING_MM:
        return Bite(
            False, f"The other teeth stand {low:.2f} mm short of the opposing teeth: the bite does not close.", low,
            float(np.hypot(u_bite_mm, low - MEETING_MM)),
        )  # fmt: skip
    return Bite(True, "", low, u_bite_mm)


def _near(points: Floats, opposing: Surface) -> Bools:
    low, high = opposing.vertices.min(axis=0) - FAR_MM, opposing.vertices.max(axis=0) + FAR_MM
    box = ((points > low) & (points < high)).all(axis=1)
    near = np.zeros(len(points), dtype=bool)
    index = np.flatnonzero(box)
    step = max(1, len(index) // 60_000)
    near[index[::step]] = True
    return near
