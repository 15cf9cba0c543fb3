"""Clearance while the lower jaw moves: how near the opposing teeth come to the preparation in the steps of a movement.

Where nothing was entered for the guidance in front, the teeth on the scans guide: at each step the jaw is opened or
closed about its condyles until they touch as they do in intercuspation; the earlier tooth is among them, the
preparation is not. Teeth beyond the scans may part the jaws further: what is told is then too near, never too far.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.jaw.articulator import MOVEMENTS, Articulator, Jaw, Movement, guided, opened, start
from vane_line.core.mesh.surface import Surface, move
from vane_line.core.spread import thinned_index
from vane_line.core.vectors import lengths

STEPS_MM = np.arange(0.25, 3.01, 0.25)
TRIED_MM = np.arange(0.5, 3.01, 0.5)  # steps of what the unknown values could be instead
GUIDE_MM = 0.35  # one guiding point per cube of this
COARSE_MM = 0.5  # one point of the preparation, where the unknown values are tried
REACH_MM = 6.0  # about the points: further off nothing comes near in a movement
TOUCH_AREA_MM2 = 0.2  # teeth touch where so much of them is as near as in intercuspation
FACING = 0.1  # cosine to the occlusal direction, from which on a surface can guide
LEAST_GUIDES = 40
CLOSE_MM = 0.004
MOST_TURN, MOST_ROUNDS = 0.12, 12  # rad from the pose before the teeth touch, and steps of the search for it
NEAR_MM = 0.4  # beyond the touch: guides that are looked at first
Pose = tuple[float, Floats]  # a step in mm, and (4, 4) where the lower jaw stands
NO_GUIDES = "no teeth that could guide the movement are on the scans"


@dataclass(frozen=True, eq=False)
class Moving:
    """One movement: each inside vertex's least signed distance (N,) mm over its steps, intercuspation included, the
    step (N,) at which it is least, and by how much it could be less or more inside the ranges of what was not entered
    (N,). by_teeth: the teeth on the scans guided it. leads_mm: by how much further the jaw would close at this tooth,
    at most, were it not there to guide; None where that is not told. poses (K, 4, 4): what moves the opposing teeth,
    seen from the preparation, in each of STEPS_MM."""

    movement: Movement
    value: Floats
    step_mm: Floats
    spread_mm: Floats
    by_teeth: bool
    leads_mm: float | None
    poses: Floats


def clearance_moving(
    points: Floats, rest: Floats, guides: Guides, opposing: Surface, jaw: Jaw, by: Articulator, upper: bool
) -> tuple[Moving, ...]:  # fmt: skip
    """Of all movements. points (N, 3): the preparation's, with their clearance (N,) in intercuspation; upper: whether
    these are the upper teeth.

    None at all where teeth have to guide and too few are there.
    """
    near, _ = opposing.keep_vertices(_within(opposing.vertices, points, REACH_MM))
    target = near if near.n_faces else opposing
    teeth = others = None
    if by.incisal_deg is None:
        if len(guides.points) < LEAST_GUIDES:
            return ()
        teeth = _Teeth(guides.points, opposing, jaw, upper)
        if guides.own.any() and (~guides.own).sum() >= LEAST_GUIDES:
            others = _Teeth(guides.points[~guides.own], opposing, jaw, upper)
    coarse = thinned_index(points, COARSE_MM)
    nearest = cKDTree(points[coarse]).query(points)[1]
    found = []
    for movement in MOVEMENTS:
        poses = _poses(jaw, by, movement, STEPS_MM, teeth)
        value, step = _least(points, rest, target, poses, upper)
        spread = np.zeros(len(points))
        here, _ = _least(points[coarse], rest[coarse], target, _poses(jaw, by, movement, TRIED_MM, teeth), upper)
        for other in by.others(movement):
            tried = _poses(jaw, other, movement, TRIED_MM, teeth)
            there, _ = _least(points[coarse], rest[coarse], target, tried, upper)
            spread = np.maximum(spread, np.abs(there - here)[nearest])
        leads = None
        if others is not None:
            without = _poses(jaw, by, movement, STEPS_MM, others)
            leads = _closes_further(points.mean(axis=0), poses, without, jaw, upper)
        theirs = np.array([np.linalg.inv(relative(pose, upper)) for _, pose in poses])
        found.append(Moving(movement, value, step, spread, teeth is not None, leads, theirs))
    return tuple(found)


@dataclass(frozen=True, eq=False)
class Guides:
    """Places (G, 3) on this jaw's teeth that could guide, and which of them are the earlier tooth's own (G,)."""

    points: Floats
    own: Bools

    @classmethod
    def on(cls, surface: Surface, occlusal: Floats, own: Callable[[Floats], Bools], earlier: bool) -> Guides:
        """What faces the opposing teeth on a scan. own: which places (N, 3) are the tooth's; earlier: it is the scan
        from before cutting, else the tooth is the preparation and guides nothing."""
        facing = surface.vertex_normals @ occlusal > FACING
        points = surface.vertices[facing]
        points = points[thinned_index(points, GUIDE_MM)]
        mine = own(points)
        return cls(points, mine) if earlier else cls(points[~mine], np.zeros(int((~mine).sum()), dtype=bool))


def _closes_further(place: Floats, poses: list[Pose], without: list[Pose], jaw: Jaw, upper: bool) -> float:
    """By how much nearer to the opposing teeth a place (3,) comes in the poses `without`, at most over the steps."""
    towards = -jaw.up if upper else jaw.up
    ways = [
        (move(relative(b, upper), place[None]) - move(relative(a, upper), place[None]))[0] @ towards
        for (_, a), (_, b) in zip(poses, without, strict=True)
    ]
    return max(float(max(ways)), 0.0)


class _Teeth:
    """The teeth that guide, and how near they stand in intercuspation."""

    def __init__(self, guides: Floats, opposing: Surface, jaw: Jaw, upper: bool) -> None:
        part, _ = opposing.keep_vertices(_within(opposing.vertices, guides, REACH_MM))
        self.target = part if part.n_faces else opposing
        self.jaw, self.upper = jaw, upper
        gap = self._gaps(guides)
        self.at, self.gap = guides, gap  # each guide's last place, and how near it stood there
        self.guides = guides
        self.number = min(max(round(TOUCH_AREA_MM2 / GUIDE_MM**2), 1), len(guides)) - 1
        self.level = float(np.sort(gap)[self.number])

    def _gaps(self, points: Floats) -> Floats:
        signed, face, place = self.target.signed_distance(points)
        # Beyond the edge of what was scanned there is no telling the side, and nothing that could be touched.
        return np.where(self.target.at_rim(face, place), np.abs(signed), signed)

    def lowest(self, pose: Floats) -> float:
        """How near the nearest of them stand in a pose. A distance cannot shrink by more than a point has gone, so
        most need not be measured again."""
        here = move(relative(pose, self.upper), self.guides)
        bound = self.gap - lengths(here - self.at)
        known = np.zeros(len(here), dtype=bool)
        value, limit = bound.copy(), self.level + NEAR_MM
        while True:
            due = ~known & (bound <= limit)
            if due.any():
                value[due] = self._gaps(here[due])
                self.at = self.at.copy()
                self.gap = self.gap.copy()
                self.at[due], self.gap[due] = here[due], value[due]
                known |= due
            found = np.sort(value)[self.number]
            if known[value <= found].all():
                return float(found)
            limit = max(float(found), limit) + NEAR_MM

    def touching(self, moved: Floats, pitch: float) -> float:
        """The pitch (rad) of the pose `moved` at which they touch as in intercuspation, looked for from `pitch`."""
        lever = float(np.abs((self.guides.mean(axis=0) - self.jaw.own) @ self.jaw.forward))
        low, high = pitch - MOST_TURN, pitch + MOST_TURN
        slope, last = lever, None
        for _ in range(MOST_ROUNDS):
            off = self.lowest(opened(self.jaw, moved, pitch)) - self.level
            if abs(off) < CLOSE_MM:
                break
            low, high = (max(low, pitch), high) if off < 0 else (low, min(high, pitch))
            if last is not None and abs(pitch - last[0]) > 1e-9:
                slope = np.clip((off - last[1]) / (pitch - last[0]), 0.2 * lever, 2.0 * lever)
            last = (pitch, off)
            pitch -= off / slope
            if not low < pitch < high:
                pitch = (low + high) / 2
        return pitch


def relative(pose: Floats, upper: bool) -> Floats:
    """(4, 4) what a pose of the lower jaw does to this scan's teeth, seen from the opposing ones."""
    return np.asarray(np.linalg.inv(pose)) if upper else pose


def _poses(jaw: Jaw, by: Articulator, movement: Movement, steps: Floats, teeth: _Teeth | None) -> list[Pose]:
    poses, pitch = [], 0.0
    for step in steps:
        if teeth is None:
            poses.append((float(step), guided(jaw, by, movement, float(step))))
            continue
        moved = start(jaw, by, movement, float(step))
        pitch = teeth.touching(moved, pitch)
        poses.append((float(step), opened(jaw, moved, pitch)))
    return poses


def _least(
    points: Floats, rest: Floats, target: Surface, poses: list[Pose], upper: bool
) -> tuple[Floats, Floats]:  # fmt: skip
    """(N,) the least distance of each point over intercuspation (`rest`) and the poses, and the step where it is."""
    least, step = rest.copy(), np.zeros(len(points))
    at, gap = points.copy(), rest.copy()
    for mm, pose in poses:
        here = move(relative(pose, upper), points)
        due = np.flatnonzero(gap - lengths(here - at) < least)
        if not len(due):
            continue
        signed, face, place = target.signed_distance(here[due])
        value = np.where(target.at_rim(face, place), np.abs(signed), signed)
        at[due], gap[due] = here[due], value
        nearer = due[value < least[due]]
        step[nearer] = mm
        least[due] = np.minimum(least[due], value)
    return least, step


def _within(vertices: Floats, points: Floats, reach_mm: float) -> Bools:
    """(V,) whether a vertex lies in the box of `points` widened by `reach_mm`."""
    low, high = points.min(axis=0) - reach_mm, points.max(axis=0) + reach_mm
    return np.asarray(((vertices > low) & (vertices < high)).all(axis=1))
