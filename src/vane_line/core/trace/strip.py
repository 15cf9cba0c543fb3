"""A closed course through a strip of places, row by row round the preparation: the cheapest, and between its places."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats, Ints
from vane_line.core.vectors import dot

STEP_COST = 0.125  # of a usual step; of a greater one by its square
JUMP_MM = 0.10  # a usual step of the line from one degree to the next, beyond the profile's own
EVEN_COST, EVEN_ROUNDS = 0.06, 60  # of a place that costs more than the cheapest by so much, a third of its say
EVEN_REACH = 10  # samples to either side of the cheapest path


@dataclass(frozen=True, eq=False)
class Strip:
    """What of the profiles the line may run through: cost, radius and height (A, W).

    apart: (A,) how many degrees each row lies after the one before it, 1 where not given; say: (A, W) of each place: a
    sample next to where its profile ends has little.
    """

    cost: Floats
    radius: Floats
    height: Floats
    apart: Ints | None = None
    say: Floats | None = None

    @property
    def allowed(self) -> Floats:
        """(A,) mm of a usual step to each row from the one before it."""
        return np.asarray(JUMP_MM * (np.ones(len(self.cost)) if self.apart is None else self.apart))


def closed_path(strip: Strip) -> Ints:
    """(A,) column of the cheapest closed path through a strip (A, W), by dynamic programming.

    A step from one row to the next costs by how far the surface point moves beyond what JUMP_MM allows a degree. The
    ring is walked one and a half times, so that the middle turn has forgotten where it started.
    """
    cost, radius, height, allowed = strip.cost, strip.radius, strip.height, strip.allowed
    n, width = cost.shape
    order = np.r_[np.arange(n), np.arange(n), np.arange(n // 2)]
    total = cost[order[0]].copy()
    back = np.zeros((len(order), width), dtype=np.int32)
    for step in range(1, len(order)):
        a, b = order[step - 1], order[step]
        move = (radius[b][:, None] - radius[a][None]) ** 2 + (height[b][:, None] - height[a][None]) ** 2
        trial = total[None] + STEP_COST * move / allowed[b] ** 2
        back[step] = np.argmin(trial, axis=1)
        total = trial[np.arange(width), back[step]] + cost[b]
    path = np.zeros(len(order), dtype=np.int64)
    path[-1] = int(np.argmin(total))
    for step in range(len(order) - 1, 0, -1):
        path[step - 1] = back[step, path[step]]
    half = n // 2
    middle = path[half : half + n]
    return np.roll(middle, half)


def even_course(strip: Strip, path: Ints) -> Floats:
    """(A, 2) radius and height along a cheapest `path` (A,) between the samples: on each row the mean of its places, by
    how near the cheapest they are between those of the rows beside it.

    Where no crease tells the line, several samples are nearly as good as each other, and the best one jumps.
    """
    rows, count = np.arange(len(path))[:, None], strip.cost.shape[1]
    columns = path[:, None] + np.arange(-EVEN_REACH, EVEN_REACH + 1)
    there = (columns >= 0) & (columns < count)
    columns = np.clip(columns, 0, count - 1)
    own, radius, height = (v[rows, columns] for v in (strip.cost, strip.radius, strip.height))
    weight = there if strip.say is None else there * strip.say[rows, columns]
    to, away = strip.allowed[:, None] ** 2, np.roll(strip.allowed, -1)[:, None] ** 2
    at, course = path.astype(np.float64), np.stack([radius[:, EVEN_REACH], height[:, EVEN_REACH]], axis=1)
    for _ in range(EVEN_ROUNDS):
        cost = own.copy()
        for beside, allowed in ((np.roll(course, 1, axis=0), to), (np.roll(course, -1, axis=0), away)):
            cost += STEP_COST * ((radius - beside[:, :1]) ** 2 + (height - beside[:, 1:]) ** 2) / allowed
        say = np.exp((cost.min(axis=1, keepdims=True) - cost) / EVEN_COST) * weight
        # What lies further along than a little has no say, and comes to it by and by.
        say = np.maximum(say * np.clip((EVEN_REACH - 1 - np.abs(columns - at[:, None])) / 3, 0, 1), 1e-30)
        say /= say.sum(axis=1, keepdims=True)
        at, course = dot(say, columns), np.stack([dot(say, radius), dot(say, height)], axis=1)
    return course
