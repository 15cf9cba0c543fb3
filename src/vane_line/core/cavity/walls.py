"""The walls of a cavity: which way each faces, how it leans outward from the path, how high it stands."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.cavity.parts import Parts, Patches
from vane_line.core.measure.path import draft_deg
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.hidden import SIDES
from vane_line.core.outline.plan import plan_of
from vane_line.core.spread import weighted_quantile
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import xyz

FACES = 0.72  # cosine between a wall's facing and its side: 44 degrees
LEAST_MM2 = 0.35
# A wall no higher than so many edges of the scan, or than this, is mostly the round corners above and under it.
LOW_EDGES, LOW_MM = 3.0, 1.2
SHOULDER_MM = 0.6  # behind the beginning of a box, what looks out of it is its own
LOW, HIGH = 0.02, 0.98  # of a wall's points along the path, between which it stands
SPREAD = 0.2  # share of the area about the median that is averaged


@dataclass(frozen=True)
class WallFace:
    """One wall: its side and the part it belongs to; divergence (degrees, positive opens outward), height, place.

    told: whether it stands high enough on this scan to tell how it leans; where it stands is told in any case.
    """

    side: str
    part: str
    divergence_deg: float
    height_mm: float
    area_mm2: float
    at: tuple[float, float, float]
    patches: tuple[int, ...]
    told: bool

    @property
    def zone(self) -> str:
        """As verdicts name it."""
        return f"wall/{self.side}" if self.part == "occlusal" else f"{self.part.replace('-', '/')}/{self.side}"


def wall_faces(surface: Surface, patches: Patches, parts: Parts, axes: Axes) -> list[WallFace]:
    """Walls by part and side. A wall lies on the side away from which it faces."""
    if len(patches.place) == 0:
        return []
    plan = plan_of(axes, patches.place)
    owner = cKDTree(patches.place).query(surface.vertices[parts.wall])[1]
    level = parts.level[parts.wall]
    across = patches.normal - (patches.normal @ axes.up)[:, None] * axes.up
    across /= np.maximum(np.linalg.norm(across, axis=1), 1e-9)[:, None]
    facing = np.stack([across @ axes.zero, across @ axes.quarter], axis=1)
    boxed = parts.box_of(plan)
    for number, box in enumerate(parts.boxes):
        # Where a box is wider than the cavity behind it, its axial wall goes on up beside the opening.
        shoulder = (facing[:, 1] * box.sign > FACES) & (plan[:, 0] * box.sign > box.begins_mm - SHOULDER_MM)
        boxed[shoulder] = number
    draft = draft_deg(patches.normal, axes.up)
    out = []
    for number in (-1, *range(len(parts.boxes))):
        name = "occlusal" if number < 0 else f"box-{parts.boxes[number].side}"
        for side, (axis, sign) in SIDES.items():
            here = (boxed == number) & (-sign * facing[:, axis] > FACES)
            if patches.area[here].sum() < LEAST_MM2:
                continue
            value = weighted_quantile(draft[here], patches.area[here], 0.5, SPREAD)
            mine = level[here[owner]]
            height = float(np.subtract(*np.quantile(mine, [HIGH, LOW]))) if len(mine) else 0.0
            nearest = int(np.flatnonzero(here)[np.argmin(np.abs(draft[here] - value))])
            out.append(WallFace(
                side=side, part=name, divergence_deg=value, height_mm=height, area_mm2=float(patches.area[here].sum()),
                at=xyz(patches.place[nearest]), patches=tuple(np.flatnonzero(here).tolist()),
                told=height > max(LOW_EDGES * surface.usual_edge_mm, LOW_MM),
            ))  # fmt: skip
    return out


def facing_sums(walls: list[WallFace]) -> dict[str, float | None]:
    """Divergence of facing walls of the occlusal part together; None where one of them is open."""
    by_side = drafts_by_side([w for w in walls if w.told])

    def both(a: str, b: str) -> float | None:
        return by_side[a] + by_side[b] if a in by_side and b in by_side else None

    return {"faciolingual": both("facial", "lingual"), "mesiodistal": both("mesial", "distal")}


def drafts_by_side(walls: list[WallFace]) -> dict[str, float]:
    """Divergence of each side's wall of the occlusal part."""
    return {w.side: w.divergence_deg for w in walls if w.part == "occlusal"}


def of_side(walls: list[WallFace], part: str, side: str) -> WallFace | None:
    """A wall by its part and side."""
    return next((w for w in walls if w.part == part and w.side == side), None)
