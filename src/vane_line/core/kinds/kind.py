"""What a restoration of one kind needs: how its cut surface is read, how it is zoned and planned, what it warns of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from vane_line.core.arrays import Bools, Floats
from vane_line.core.kinds.seen import Cut, Inside, Seen, Zoned
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.zones import Zones
from vane_line.core.options import HandLine, Options
from vane_line.core.placed import Finder, Placed
from vane_line.core.survey import Survey
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.trace.section import Axes

S = TypeVar("S", bound=Survey)
C = TypeVar("C", bound=Cut)


@dataclass(frozen=True)
class Drawing:
    """A stroke of a hand: (N, 3) points, whether it goes to the nearest edge, whether it is the whole line."""

    stroke: Floats
    snap: bool
    closed: bool


@dataclass(frozen=True)
class Along:
    """Of a path that is only tried: its undercuts, mm and mm², which sides they are on, and the least draft."""

    max_depth_mm: float
    area_mm2: float
    sectors: tuple[str, ...]
    least_draft_deg: float


@dataclass(frozen=True)
class Reader(Generic[S, C]):
    """How a cut surface is read: a ring round the tooth's axis, a window in its face, or a cavity in it.

    find: the middle of the cut tooth. trace: axes, path, walls and the line as found. follow: the line as a hand drew
    it. along: what a path that is only tried would leave undercut. redraw: a line with one stroke drawn anew. inside:
    of the crop's vertices, which lie within a line. teeth: the tooth on the earlier scans, by role. girth: the line
    round the whole tooth, where neighbours are looked for. check: warnings where the surface inside, along the axes, or
    its distance (N,) to the tooth before, does not look like this kind; raises UnfitScans where nothing could be
    believed. cut: what is measured of the surface inside the line beside the distances that all kinds share. zones: of
    the vertices inside.
    """

    name: str
    find: Finder
    trace: Callable[[Placed, Options], S]
    follow: Callable[[S, HandLine], FinishLine]
    along: Callable[[Placed, S, FinishLine, Floats], Along]
    redraw: Callable[[S, FinishLine, Drawing], FinishLine]
    inside: Callable[[Placed, S, FinishLine], Bools]
    teeth: Callable[[Placed, S, FinishLine, Bools, Options], dict[str, ReferenceTooth]]
    girth: Callable[[S, FinishLine], FinishLine]
    check: Callable[[Axes, Inside, Floats | None], list[str]]
    cut: Callable[[Seen[S]], C]
    zones: Callable[[Zoned[C]], Zones]


def _nothing(_cut: Cut) -> list[str]:
    return []


@dataclass(frozen=True)
class Kind:
    """A kind of restoration. name: the contract's `restoration`. plan: which maker of `core/plan` makes its target;
    None where none does yet.

    edgeless: whether its cut ends without an edge, so that none seen is no doubt. primary: whether it is for a child's
    first teeth alone. caution: what every judgement of this kind says. unlike: warnings where what was found is another
    kind's that the same reader reads. Which criteria are judged says each criterion's own record (`Criterion.kinds`),
    which orders of work serve it each sequence's data.
    """

    name: str
    title: str
    reader: Reader[Any, Any]
    plan: str | None
    caution: str = ""
    edgeless: bool = False
    primary: bool = False
    unlike: Callable[[Any], list[str]] = _nothing
