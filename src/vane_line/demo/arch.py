"""Teeth stood side by side, in gingiva: one implicit function of a quadrant's back teeth.

Arch coordinates are right-handed: x mesial, y facial, z up at the reference tooth, which makes the left
side of both jaws (quadrants 2 and 3); the scanner mirrors for the right side.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np
from scipy.spatial.transform import Rotation

from vane_line.core.arrays import Floats
from vane_line.demo.anatomy import Tooth, smooth_max, smooth_min


@dataclass(frozen=True, eq=False)
class Placed:
    """A tooth and where it stands: `to_local` takes arch points to its own coordinates.

    lean: (3, 3) by which the curve of its arch leans it.
    """

    tooth: Tooth
    origin: Floats  # (3,)
    turn_deg: float  # about z, positive turns the mesial end lingually
    tip_deg: float = 0.0  # mesial tipping
    upside_down: bool = False
    mirrored: bool = False  # stands on the other side of the arch's middle
    lean: Floats = field(default_factory=lambda: np.eye(3))

    @property
    def _signs(self) -> list[float]:
        return [-1.0 if self.mirrored else 1.0, 1.0, -1.0 if self.upside_down else 1.0]

    def rotation(self) -> Floats:
        t, m = np.radians(self.turn_deg), np.radians(self.tip_deg)
        about_z = np.array([[np.cos(t), np.sin(t), 0], [-np.sin(t), np.cos(t), 0], [0, 0, 1]])
        about_y = np.array([[np.cos(m), 0, np.sin(m)], [0, 1, 0], [-np.sin(m), 0, np.cos(m)]])
        return self.lean @ about_z @ about_y

    def height(self, points: Floats) -> Floats:
        """(N,) over the neck of the tooth as it stood before it tipped."""
        across = (points - self.origin) @ self.lean[:, 2]
        return -across if self.upside_down else across

    def to_local(self, points: Floats) -> Floats:
        # Each coordinate by itself in memory: most that is asked of them is asked column by column.
        local = self.rotation().T @ (points - self.origin).T
        return (local * np.array(self._signs)[:, None]).T

    def to_arch(self, local: Floats) -> Floats:
        return (local * self._signs) @ self.rotation().T + self.origin

    def __call__(self, points: Floats) -> Floats:
        return self.tooth(self.to_local(points))


OTHER_SIDE = "0"
GAP_MM = -0.03  # between neighbours' greatest widths: a closed contact


def stand(
    numbers: list[str], reference: str, upper: bool, gap_mm: float = GAP_MM, midline_mm: float | None = None
) -> dict[str, Placed]:
    """Teeth in contact along a curve that bends lingually towards the front; "01" is the first of the other side.

    `gap_mm` is the space between neighbours' greatest widths (negative: a closed contact), `midline_mm` the one between
    the central incisors where it is another.
    """
    bend = {"1": 78.0, "2": 66.0, "3": 44.0, "4": 20.0, "5": 11.0, "6": 3.0, "7": -2.0}
    placed: dict[str, Placed] = {}
    at = numbers.index(reference)
    for direction in (1, -1):
        run = range(at, len(numbers)) if direction == 1 else range(at, -1, -1)
        previous: Placed | None = None
        for k in run:
            other = numbers[k].startswith(OTHER_SIDE)
            quadrant = ("5" if upper else "7") if reference[0] in "57" else ("1" if upper else "3")
            tooth = Tooth(quadrant + numbers[k][1] if other else numbers[k])
            own = bend[numbers[k][1]]
            turn = (180 - own if other else own) - bend[reference[1]]
            if previous is None:
                origin = np.zeros(3)
            else:
                a = np.radians(previous.turn_deg)
                b = np.radians(turn)
                crosses = midline_mm is not None and other != previous.mirrored
                gap = midline_mm if crosses and midline_mm is not None else gap_mm
                half = np.array([previous.tooth.size[1] / 2, tooth.size[1] / 2]) + gap / 2
                # Numbers run from the front backwards, so the next higher number stands distally.
                step = -half[0] * np.array([np.cos(a), -np.sin(a)]) - half[1] * np.array([np.cos(b), -np.sin(b)])
                origin = previous.origin + direction * np.r_[step, 0.0]
            previous = Placed(tooth, origin, turn, upside_down=upper, mirrored=other)
            placed[numbers[k]] = previous
    return placed


SKIN_MM = 0.25


def skin(placed: Placed) -> Floats:
    """(N, 3) arch points within SKIN_MM of a crown's surface."""
    length, md, _, fl, _ = placed.tooth.size
    axes = np.meshgrid(*(np.linspace(-s, s, 25) for s in (md / 2, fl / 2)), np.linspace(1, length, 25))
    points = np.stack([a.ravel() for a in axes], axis=1)
    return placed.to_arch(points[np.abs(placed.tooth(points)) < SKIN_MM])


def apart_mm(tooth: Placed, standing: Floats) -> float:
    """How far a tooth stands from another, of which the `skin` is given; negative where one is in the other."""
    return float(tooth(standing).min()) - SKIN_MM


def turning(holds: Callable[[float], bool], low: float, high: float, rounds: int) -> tuple[float, float]:
    """The last value for which something still holds and the first for which it does not, halved so often."""
    for _ in range(rounds):
        middle = (low + high) / 2
        low, high = (middle, high) if holds(middle) else (low, middle)
    return low, high


MONSON_MM = 101.6  # G. S. Monson: four inches (1920; from memory)
MOST_PUSHED_MM = 1.5
CONTACT_SHARE = 0.6  # of a crown's length over its neck: where it touches its neighbours


def curved(teeth: dict[str, Placed], reference: str) -> dict[str, Placed]:
    """Teeth that stand on a plane brought onto the sphere that all crowns lean on: the curves of Spee and of Wilson.

    Its centre lies over both jaws, above the reference tooth, which keeps its place; neighbours stay as far apart.
    """
    mine = teeth[reference]
    level = CONTACT_SHARE * mine.tooth.size[0] * (-1 if mine.upside_down else 1)
    centre = mine.origin + [0, 0, level + MONSON_MM]

    def on_sphere(tooth: Placed, plan: Floats) -> Placed:
        lean = Rotation.from_rotvec(np.array([plan[1], -plan[0], 0.0]) / MONSON_MM).as_matrix()
        return replace(tooth, lean=lean, origin=centre + lean @ [0, 0, tooth.origin[2] - level - MONSON_MM])

    def beside(before: str, number: str, pushed: Floats) -> tuple[Placed, Floats]:
        """A tooth on the sphere as far from the one before as on the plane, and by how much it was moved (2,)."""
        tooth, flat, standing = teeth[number], apart_mm(teeth[number], skin(teeth[before])), skin(out[before])
        step = (tooth.origin - teeth[before].origin)[:2]
        away, plan = step / np.linalg.norm(step), (tooth.origin - mine.origin)[:2] + pushed
        _, push = turning(
            lambda p: apart_mm(on_sphere(tooth, plan + p * away), standing) < flat, -MOST_PUSHED_MM, MOST_PUSHED_MM, 16
        )
        return on_sphere(tooth, plan + push * away), pushed + push * away

    out = {reference: mine}
    numbers = sorted(teeth, key=lambda n: (n[0] != OTHER_SIDE, n[1]))
    at = numbers.index(reference)
    for order in (numbers[at:], numbers[at::-1]):
        pushed = np.zeros(2)
        for before, number in pairwise(order):
            out[number], pushed = beside(before, number, pushed)
    return {n: out[n] for n in teeth}


def over_sphere(points: Floats) -> Floats:
    """(N,) height of arch points over the sphere's lowest place, along it: z where the arch is flat."""
    return np.asarray(points[:, 2] - (points[:, 0] ** 2 + points[:, 1] ** 2) / (2 * MONSON_MM))


def leaned(teeth: dict[str, Placed], key: str, tip_deg: float, gap_mm: float) -> dict[str, Placed]:
    """`teeth` with one tipped to mesial and those before it closed up to it again, `gap_mm` apart."""
    mine = replace(teeth[key], tip_deg=tip_deg)
    numbers = sorted(n for n in teeth if n < key)
    if not numbers:
        return teeth | {key: mine}
    standing = skin(teeth[numbers[-1]])
    # The shift along x at which they stand just so far apart.
    _, shift = turning(lambda x: apart_mm(mine, standing + [x, 0, 0]) < gap_mm, -6.0, 12.0, 30)
    moved = {n: replace(teeth[n], origin=teeth[n].origin + [shift, 0, 0]) for n in numbers}
    return teeth | moved | {key: mine}


STIPPLE_MM = 0.028


def _stippled(points: Floats) -> Floats:
    """(N,) -1..1 an orange peel's unevenness, about a millimetre from dimple to dimple."""
    x, y, z = points.T
    waves = np.sin(5.9 * x + 2.1 * np.sin(1.7 * z)) * np.sin(5.3 * z + 1.9 * np.sin(1.3 * x + 0.8 * y))
    return np.asarray(0.6 * waves + 0.4 * np.sin(7.7 * y + 3.1 * z) * np.sin(6.7 * x - 2.3 * z))


@dataclass(frozen=True, eq=False)
class Gingiva:
    """Soft tissue round the necks, with papillae between the teeth and a shallow sulcus."""

    teeth: list[Placed]
    level_mm: float = 0.55  # height of the margin over the necks, mid-facially
    papilla_mm: float = 1.3  # how much higher it stands between the teeth
    swell_mm: float = 0.0  # bulk added sideways: tissue is never twice the same
    sulcus_mm: float = 0.30  # depth of the furrow along the tooth
    ridge_mm: float | None = None  # height over the necks where a tooth was lost; None: as between teeth

    def __call__(self, points: Floats, nearest_tooth: Floats) -> Floats:
        """(N,) near-distance; `nearest_tooth` (N,) is the distance to the nearest tooth."""
        closeness, lateral_of, half_of, along, height_of = [], [], [], [], []
        for p in self.teeth:
            local = p.to_local(points)
            share = local[:, 0] / (p.tooth.size[1] / 2)
            along.append(np.abs(share))
            lateral_of.append(local[:, 1])
            height_of.append(p.height(points))
            half_of.append(p.tooth.size[4] / 2)
            closeness.append(np.exp(-2.2 * share**2) + 1e-9)
        weight = np.stack(closeness)
        weight = weight / weight.sum(axis=0)
        lateral = (np.stack(lateral_of) * weight).sum(axis=0)
        half_width = (np.array(half_of)[:, None] * weight).sum(axis=0)
        # 1 on the line through a contact, 0 over the middle of a tooth.
        away = np.min(along, axis=0)
        between = np.clip(away, 0, 1.15)
        peak = np.exp(-(((between - 1.0) / 0.34) ** 2)) * np.exp(-((lateral / (0.62 * half_width)) ** 4))
        z = (np.stack(height_of) * weight).sum(axis=0)
        wave = 0.10 * np.sin(1.3 * points[:, 0] + 0.6) * np.sin(0.9 * points[:, 1])
        level = self.level_mm + self.papilla_mm * peak + 0.45 * between**2 + wave
        if self.ridge_mm is not None:
            share = np.clip((away - 1.1) / 0.5, 0, 1)
            level = (1 - share) * level + share * (self.ridge_mm + wave)
        beyond = np.maximum(np.abs(lateral) - (half_width - 1.2), 0)
        top = level - 0.16 * beyond**2 - self.sulcus_mm * np.exp(-((nearest_tooth / 0.38) ** 2))
        below = np.clip(level - z, 0, 6)
        # Roots stand out a little under the gingiva, with hollows between them.
        roots = 0.55 * (np.exp(-((between / 0.55) ** 2)) - 0.35) * np.clip(below / 2.5, 0, 1)
        width = half_width + 1.3 + self.swell_mm + 0.30 * below + roots
        value = smooth_max((z - top) * 0.9, (np.abs(lateral) - width) * 0.9, 1.4)
        away = np.flatnonzero(nearest_tooth > 1.0)
        value[away] += np.clip((nearest_tooth[away] - 1.0) / 0.8, 0, 1) * STIPPLE_MM * _stippled(points[away])
        return value


@dataclass(frozen=True, eq=False)
class Quadrant:
    """Teeth, some of them replaced by a cut shape, and gingiva, as one implicit function of arch points."""

    teeth: dict[str, Placed]
    gingiva: Gingiva
    replaced: Mapping[str, object] = field(default_factory=dict)  # number -> function of arch points
    carved: tuple[object, ...] = ()  # functions of arch points, negative where material is taken away
    bridging_mm: float = 0.25  # how wide the scanner's software fills a narrow contact
    reach_mm: float = 4.0

    def __call__(self, points: Floats) -> Floats:
        value = np.full(len(points), self.reach_mm)
        for number, placed in self.teeth.items():
            shape = self.replaced.get(number, placed)
            size = placed.tooth.size
            local = placed.to_local(points)
            near = (np.abs(local[:, 0]) < size[1] / 2 + 2) & (np.abs(local[:, 1]) < size[3] / 2 + 2.5)
            if not near.any():
                continue
            distance = shape(points[near])  # type: ignore[operator]
            value[near] = smooth_min(value[near], distance, self.bridging_mm)
        for tool in self.carved:
            value = np.maximum(value, -tool(points))  # type: ignore[operator]
        return smooth_min(value, self.gingiva(points, np.abs(value)), 0.12)
