"""What a measurement keeps between edits: the scans placed, the path surveyed, and every distance once it is taken."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Generic, TypeVar

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.clearance import Bite
from vane_line.core.measure.grounds import Grounds
from vane_line.core.placed import Placed
from vane_line.core.survey import Survey
from vane_line.core.tooth.reference import ReferenceTooth

T = TypeVar("T")


@dataclass(frozen=True, eq=False)
class Distances:
    """A signed distance per inside vertex (N,), where the other scan never saw the tooth (N,), and the standard
    uncertainty (N,) that its resolution leaves, mm."""

    value: Floats
    unseen: Bools
    unresolved: Floats


class Remembered:
    """A distance, a flag and an uncertainty per vertex of the crop, each taken once, when it is first asked for."""

    def __init__(self, count: int) -> None:
        self._value, self._unresolved = np.full(count, np.nan), np.zeros(count)
        self._flag = np.zeros(count, dtype=bool)

    def at(self, index: Ints, points: Floats, take: Callable[[Floats], tuple[Floats, Bools, Floats]]) -> Distances:
        """Of the vertices `index` (N,), standing at `points` (V, 3)."""
        new = index[np.isnan(self._value[index])]
        if len(new):
            self._value[new], self._flag[new], self._unresolved[new] = take(points[new])
        return Distances(self._value[index], self._flag[index], self._unresolved[index])

    def keep(self, index: Ints, taken: Distances) -> None:
        """What a copy of this process took of the vertices `index` (N,), which itself keeps nothing."""
        self._value[index], self._flag[index], self._unresolved[index] = taken.value, taken.unseen, taken.unresolved


class Once(Generic[T]):
    """A value made when it is first asked for, and kept."""

    def __init__(self) -> None:
        self._made: list[T] = []

    def of(self, make: Callable[[], T]) -> T:
        """The value; `make` gives it the first time."""
        if not self._made:
            self._made.append(make())
        return self._made[0]

    def keep(self, value: T) -> None:
        """What a copy of this process made, which itself keeps nothing, unless there is one."""
        self.of(lambda: value)


@dataclass(frozen=True, eq=False)
class Prepared:
    """All that a hand on the finish line does not change, kept between such edits.

    inside: (V,) of the crop, within the line as it was found. grounds: what stands beside the tooth. tell: tells the
    reference teeth apart, by role. lift: how far the earlier tooth stands from the bite, None where it meets nothing.
    """

    placed: Placed
    survey: Survey
    inside: Bools
    grounds: Grounds
    tell: Callable[[], dict[str, ReferenceTooth]]
    spent_s: float
    remembered: dict[str, Remembered] = field(default_factory=dict)
    bite: Once[Bite] = field(default_factory=Once)
    lift: Once[float | None] = field(default_factory=Once)
    told: Once[dict[str, ReferenceTooth]] = field(default_factory=Once)

    @property
    def teeth(self) -> dict[str, ReferenceTooth]:
        """The reference teeth by role, told apart when they are first asked for."""
        return self.told.of(self.tell)

    def by_other(self, tell: Callable[[], dict[str, ReferenceTooth]]) -> Prepared:
        """The same with the reference teeth told otherwise, and nothing remembered that hangs on them."""
        return Prepared(self.placed, self.survey, self.inside, self.grounds, tell, self.spent_s)

    def distances(self, name: str) -> Remembered:
        """What is remembered of one distance."""
        return self.remembered.setdefault(name, Remembered(self.placed.crop.n_vertices))
