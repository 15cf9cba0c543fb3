"""What a restoration of one kind needs: how its cut surface is read, how it is zoned and planned, what it warns of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from vane_line.core.kinds.ring import RingCut, Seen, Zoned
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.zones import Zones
from vane_line.core.options import HandLine, Options
from vane_line.core.placed import Placed
from vane_line.core.survey import Survey


@dataclass(frozen=True)
class Reader:
    """How a cut surface is read: a ring round the tooth's axis, a window in its face, or a cavity in it.

    trace: axes, path, walls and the line as found. follow: the line as a hand drew it. cut: what is measured of the
    surface inside the line beside the distances that all kinds share. zones: of the vertices inside.
    """

    name: str
    trace: Callable[[Placed, Options], Survey]
    follow: Callable[[Survey, HandLine], FinishLine]
    cut: Callable[[Seen], RingCut]
    zones: Callable[[Zoned], Zones]


@dataclass(frozen=True)
class Kind:
    """A kind of restoration. name: the contract's `restoration`. plan: which maker of `core/plan` makes its target.

    caution: what every judgement of this kind says. Which criteria are judged says each criterion's own record
    (`Criterion.kinds`), which orders of work serve it each sequence's data.
    """

    name: str
    title: str
    reader: Reader
    plan: str
    caution: str = ""
