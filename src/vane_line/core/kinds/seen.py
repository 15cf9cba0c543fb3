"""What readers of all kinds are given, and what they give in common."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic, TypeVar

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.channels.channel import Channel
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.undercut import Region
from vane_line.core.mesh.surface import Surface
from vane_line.core.placed import Placed
from vane_line.core.shape import Around
from vane_line.core.survey import Survey
from vane_line.core.tooth.anatomy import Anatomy
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes

S = TypeVar("S", bound=Survey)


@dataclass(frozen=True, eq=False)
class Inside:
    """The part of the prep within a finish line: which of the crop's vertices (V,), as scanned, and free of noise."""

    line: FinishLine
    mask: Bools
    index: Ints
    surface: Surface
    even: Surface
    edge_mm: float  # of the scan at the line

    def share_below(self, distance: Floats, limit_mm: float) -> float:
        """Share of the area that lies nearer to the tooth before, (N,) away, than a limit."""
        area = self.surface.vertex_areas
        return float(area[distance < limit_mm].sum() / max(float(area.sum()), 1e-9))


@dataclass(frozen=True, eq=False)
class Seen(Generic[S]):
    """What a reader measures from. earlier: the tooth before cutting, where known; finished: what the restoration's
    outer surface will be, where known; opposing: where trusted; others: (M, 3) points of the other teeth; beside:
    the prep scan as far as they reach, free of noise; standing: (V,) which of its vertices are theirs."""

    tooth: ToothNumber
    placed: Placed
    survey: S
    inside: Inside
    anatomy: Anatomy
    earlier: Surface | None
    finished: Surface | None
    opposing: Surface | None
    others: Floats
    beside: Surface
    standing: Bools
    around: Around
    noise_um: float
    gauge: dict[str, float]  # depths of holes as a gauge told them, by side


class Cut:
    """What a reader found beside what all kinds share; each reader has its own. channels: grooves, holes and pins."""

    channels: list[Channel]

    @property
    def undercuts(self) -> list[Region]:
        """Along the path, deepest first."""
        raise NotImplementedError

    @property
    def wall_mm(self) -> float:
        """Height of the walls, by which a tilt of the path becomes a depth."""
        raise NotImplementedError

    def hidden_mm(self, inside: Surface) -> Floats:
        """(N,) how far each vertex inside the line lies under an overhang, sideways; nought where it is free."""
        raise NotImplementedError


C = TypeVar("C", bound=Cut)


@dataclass(frozen=True, eq=False)
class Zoned(Generic[C]):
    """What zones are told from. band_width_mm: of the finish line's band; turn_deg, steeper_deg: by which the sides are
    turned on, and what is no wall yet may be steeper, to see what hangs on where one ends."""

    tooth: ToothNumber
    surface: Surface
    axes: Axes
    line: FinishLine
    cut: C
    anatomy: Anatomy
    functional_side: str
    band_width_mm: float
    turn_deg: float = 0.0
    steeper_deg: float = 0.0
