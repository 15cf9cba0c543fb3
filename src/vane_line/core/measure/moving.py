"""Clearance while the lower jaw moves: how near the opposing teeth come to the preparation in the steps of a movement.

Where nothing was entered for the guidance in front, the teeth on the scans guide: at each step the jaw is opened or
closed about its condyles until they touch as they do in intercuspation; the earlier tooth is among them, the
preparation is not. Teeth beyond the scans may part the jaws further: what is told is then too near, never too far.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.jaw.arch import Name
from vane_line.core.jaw.articulator import MOVEMENTS, Articulator, Jaw, Movement, guided, opened, start
from vane_line.core.mesh.surface import Surface
from vane_line.core.rigid import move
from vane_line.core.spread import thinned_index
from vane_line.core.vectors import lengths, within, xyz

STEPS_MM = np.arange(0.25, 3.01, 0.25)
TRIED_MM = (1.0, 2.0, 3.0)  # steps of what the unknown values could be instead
GUIDE_MM = 0.35  # one guiding point per cube of this
SEARCH_MM = 0.3  # one point of the preparation per cube of this is followed through all steps
COARSE_MM = 0.5  # … and of this, where the unknown values are tried
REACH_MM = 6.0  # about the points: further off nothing comes near in a movement
TOUCH_AREA_MM2 = 0.2  # teeth touch where so much of them is as near as in intercuspation
FACING = 0.1  # cosine to the occlusal direction, from which on a surface can guide
LEAST_GUIDES = 40
CLOSE_MM = 0.006
MOST_TURN, MOST_ROUNDS = 0.12, 12  # rad from the pose before the teeth touch, and steps of the search for it
NEAR_MM = 0.2  # beyond the touch: guides that are looked at first
Pose = tuple[float, Floats]  # a step in mm, and (4, 4) where the lower jaw stands
GUIDING_MM, GUIDE_PATCH_MM = 0.03, 2.0  # beyond the touch: what guides; and one place per cube of this is told
NO_GUIDES = "no teeth that could guide the movement are on the scans"


@dataclass(frozen=True)
class Guide:
    """A place on this jaw's teeth that holds the jaws apart at a step of a movement. own: of the earlier tooth; before:
    with the earlier tooth in place, else with what is left without it. tooth: about which, FDI."""

    step_mm: float
    at: tuple[float, float, float]
    own: bool
    before: bool
    tooth: str | None


@dataclass(frozen=True, eq=False)
class Moving:
    """One movement: each inside vertex's least signed distance (N,) mm over its steps, intercuspation included, the
    step (N,) at which it is least, and by how much it could be less or more inside the ranges of what was not entered
    (N,). by_teeth: the teeth on the scans guided it. leads_mm: by how much further the jaw would close at this tooth,
    at most, were it not there to guide; None where that is not told. poses (K, 4, 4): what moves the opposing teeth,
    seen from the preparation, in each of STEPS_MM. guides: what holds the jaws apart at TRIED_MM, as these teeth stand
    in intercuspation."""

    movement: Movement
    value: Floats
    step_mm: Floats
    spread_mm: Floats
    by_teeth: bool
    leads_mm: float | None
    poses: Floats
    guides: tuple[Guide, ...] = ()


def clearance_moving(
    points: Floats, rest: Floats, guides: Guides, opposing: Surface, jaw: Jaw, by: Articulator, upper: bool,
    name: Name = lambda _place: None,
) -> tuple[Moving, ...]:  # fmt: skip
    """Of all movements. points (N, 3): the preparation's, with their clearance (N,) in intercuspation; upper: whether
    these are the upper teeth. name: about which tooth a place is.

    None at all where teeth have to guide and too few are there.
    """
    near, _ = opposing.keep_vertices(_within(opposing.vertices, points, REACH_MM))
    target = near if near.n_faces else opposing
    teeth = others = None
    if by.incisal_deg is None:
        if len(guides.points) < LEAST_GUIDES:
            return ()
        teeth, can_touch = _Teeth.on(guides.points, opposing, jaw, upper)
        strange = ~guides.own[can_touch]
        if not strange.all() and strange.sum() >= LEAST_GUIDES:
            others = teeth.only(strange)
    coarse = thinned_index(points, COARSE_MM)
    nearest = cKDTree(points[coarse]).query(points)[1]
    found = []
    for movement in MOVEMENTS:
        poses = _poses(jaw, by, movement, STEPS_MM, teeth)
        value, step = _least_of_all(points, rest, target, poses, upper)
        spread = np.zeros(len(points))
        here, _ = _least(points[coarse], rest[coarse], target, [p for p in poses if p[0] in TRIED_MM], upper)
        for other in by.others(movement):
            tried = _poses(jaw, other, movement, TRIED_MM, teeth)
            there, _ = _least(points[coarse], rest[coarse], target, tried, upper)
            spread = np.maximum(spread, np.abs(there - here)[nearest])
        leads, holding = None, tuple[Guide, ...]()
        if teeth is not None:
            holding = teeth.holding(poses, guides.own[can_touch], True, name)
        if others is not None:
            without = _poses(jaw, by, movement, STEPS_MM, others)
            leads = _closes_further(points.mean(axis=0), poses, without, jaw, upper)
            holding += others.holding(without, np.zeros(int(strange.sum()), dtype=bool), False, name)
        theirs = np.array([relative(pose, not upper) for _, pose in poses])
        found.append(
            Moving(movement, value, step, spread, teeth is not None, leads_mm=leads, poses=theirs, guides=holding)
        )
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

    def __init__(self, guides: Floats, gap: Floats, target: Surface, jaw: Jaw, upper: bool) -> None:
        self.guides, self.target, self.jaw, self.upper = guides, target, jaw, upper
        self.at, self.gap = guides.copy(), gap.copy()  # each guide's last place, and how near it stood there
        self.number = min(max(round(TOUCH_AREA_MM2 / GUIDE_MM**2), 1), len(guides)) - 1
        self.level = float(np.sort(gap)[self.number])

    @classmethod
    def on(cls, guides: Floats, opposing: Surface, jaw: Jaw, upper: bool) -> tuple[_Teeth, Bools]:
        """Of the guides (G, 3) those that a movement could bring to touch, and which these are (G,)."""
        part, _ = opposing.keep_vertices(_within(opposing.vertices, guides, REACH_MM))
        target = part if part.n_faces else opposing
        distance, _ = cKDTree(target.thinned(COARSE_MM)).query(guides, distance_upper_bound=REACH_MM)
        near = np.isfinite(distance)
        near = near if near.sum() >= LEAST_GUIDES else np.ones(len(guides), dtype=bool)
        return cls(guides[near], target.gap(guides[near]), target, jaw, upper), near

    def only(self, kept: Bools) -> _Teeth:
        """Those of `kept` (G,) alone, before anything has moved."""
        return _Teeth(self.guides[kept], self.gap[kept], self.target, self.jaw, self.upper)

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
                value[due] = self.target.gap(here[due])
                self.at[due], self.gap[due] = here[due], value[due]
                known |= due
            found = np.sort(value)[self.number]
            if known[value <= found].all():
                return float(found)
            limit = max(float(found), limit) + NEAR_MM

    def holding(self, poses: list[Pose], own: Bools, before: bool, name: Name) -> tuple[Guide, ...]:
        """What touches at TRIED_MM in `poses`, of which `own` (G,) are the earlier tooth's."""
        found: list[Guide] = []
        for step, pose in poses:
            if step not in TRIED_MM:
                continue
            gap = self.target.gap(move(relative(pose, self.upper), self.guides))
            touch = np.flatnonzero(gap < np.sort(gap)[self.number] + GUIDING_MM)
            for mine in (False, True):
                index = touch[own[touch] == mine]
                index = index[thinned_index(self.guides[index], GUIDE_PATCH_MM)] if len(index) else index
                found += [Guide(step, xyz(p), mine, before, name(p)) for p in self.guides[index]]
        return tuple(found)

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


def _poses(
    jaw: Jaw, by: Articulator, movement: Movement, steps: Iterable[float], teeth: _Teeth | None
) -> list[Pose]:  # fmt: skip
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
        value = target.gap(here[due])
        at[due], gap[due] = here[due], value
        nearer = due[value < least[due]]
        step[nearer] = mm
        least[due] = np.minimum(least[due], value)
    return least, step


def _least_of_all(
    points: Floats, rest: Floats, target: Surface, poses: list[Pose], upper: bool
) -> tuple[Floats, Floats]:  # fmt: skip
    """As `_least` for many points: a few are followed through all poses, the others looked at about the one that is
    tightest for the next of these, since beside each other they are tightest at nearly the same."""
    few = thinned_index(points, SEARCH_MM)
    _, step = _least(points[few], rest[few], target, poses, upper)
    steps = np.array([0.0, *(mm for mm, _ in poses)])
    about = np.searchsorted(steps, step)[cKDTree(points[few]).query(points)[1]]
    least, at = rest.copy(), np.zeros(len(points))
    for k, (mm, pose) in enumerate(poses, start=1):
        due = np.flatnonzero(np.abs(about - k) <= 1)
        if not len(due):
            continue
        value = target.gap(move(relative(pose, upper), points[due]))
        nearer = value < least[due]
        at[due[nearer]] = mm
        least[due] = np.minimum(least[due], value)
    return least, at


def _within(vertices: Floats, points: Floats, reach_mm: float) -> Bools:
    """(V,) whether a vertex lies in the box of `points` widened by `reach_mm`."""
    low, high = points.min(axis=0) - reach_mm, points.max(axis=0) + reach_mm
    return within(vertices, low, high)
