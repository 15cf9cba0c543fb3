"""One record a criterion: how it is called, judged, shown, and corrected, or why not."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry
from vane_line.core.judge.limits import Bounds, Limits
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.uncertainty import Budget
from vane_line.core.judge.verdicts import Verdict, judge_max, judge_min
from vane_line.core.kinds.cast import PARTIAL_CROWN, PIN_CASTING
from vane_line.core.kinds.cavity import CAVITIES
from vane_line.core.kinds.child import CHILD_CROWN
from vane_line.core.kinds.full_crown import FULL_CROWN
from vane_line.core.kinds.window import VENEER
from vane_line.core.measure.reduction import DistanceField
from vane_line.core.measure.zones import Zones, is_functional

if TYPE_CHECKING:
    from vane_line.core.judge.work import Correction, Job

Place = tuple[float, float, float] | None
CROWNS = (FULL_CROWN.name,)
CAVITY_KINDS = tuple(kind.name for kind in CAVITIES)
WINDOW_KINDS = (VENEER.name,)
PARTIAL_KINDS, PIN_KINDS = (PARTIAL_CROWN.name,), (PIN_CASTING.name,)
CAST_KINDS = (*PARTIAL_KINDS, *PIN_KINDS)
WITH_LEDGE = (*CROWNS, *WINDOW_KINDS, *CAST_KINDS)  # a finish line with a width
MILLED_KINDS = (*CROWNS, *CAVITY_KINDS, *WINDOW_KINDS)
MADE_KINDS = (*MILLED_KINDS, *CAST_KINDS)  # for the tooth; a child's crown comes ready made
CHILD_KINDS = (CHILD_CROWN.name,)
EVERY_KIND = (*MADE_KINDS, *CHILD_KINDS)


@dataclass(frozen=True, eq=False)
class Held:
    """All that a criterion is judged from. limit_min: (N,) least reduction at each inside vertex, nan where none;
    nudged: the zones of a surface that lies a little beside."""

    geometry: Geometry
    standard: Standard
    zones: Zones
    nudged: tuple[Zones, ...]
    budget: Budget
    space: DistanceField | None
    removed: DistanceField | None
    clearance: DistanceField | None
    moving: dict[str, DistanceField]
    limit_min: Floats

    def bounds(self, name: str) -> Bounds:
        """Of what no material sets."""
        return self.standard.bounds(name)

    def limits_of(self, zone: str, clearance: bool = False) -> Limits | None:
        """Limits of reduction (or clearance) in a zone; None where it is judged otherwise."""
        return limits_of(self.geometry, self.standard, zone, clearance)

    def share_in(self, named: Callable[[str], bool]) -> Floats:
        """(N,) how surely each inside vertex lies in the zones that are `named` so: in part next to their borders."""
        told = [self.zones, *self.nudged]
        here = [np.isin(z.index, [k for k, name in enumerate(z.names) if named(name)]) for z in told]
        return np.asarray(np.mean(here, axis=0))

    @property
    def side_unknown(self) -> str:
        """Why nothing is judged side by side, or nothing."""
        return "" if self.geometry.frame.sure else "it is not certain which side is facial: confirm the axes"

    @property
    def opposing_align_mm(self) -> float:
        """Standard uncertainty of how the opposing scan was laid; nought where it came in place."""
        moved = self.geometry.alignment.get("opposing")
        return (moved.u_align_um or 0.0) / 1000 if moved else 0.0

    @property
    def least_left_mm(self) -> float:
        """The least width of the tooth at the finish line."""
        share, least = self.bounds("remaining-share").min, self.bounds("remaining-width").min
        return max(least or 0.0, (share or 0.0) * self.geometry.ring.shape.retention.neck_mm)


def limits_of(geometry: Geometry, standard: Standard, zone: str, clearance: bool = False) -> Limits | None:
    """Limits of reduction (or clearance) in a zone; None where it is judged otherwise. A covered cusp of a cavity is
    named plainly: which figures hold for it says the side of the functional cusps. The edge of a child's front tooth is
    judged by how far it was taken down."""
    if zone == "incisal-edge" and geometry.kind.primary and not clearance:
        return None
    if zone in geometry.anatomy.cusps:
        return standard.cusp_limits(is_functional(zone, geometry.functional.side))
    return standard.clearance_for_zone(zone) if clearance else standard.limits_for_zone(zone)


Judge = Callable[[Held], list[Verdict]]
Correct = Callable[["Job", Verdict], "Correction | None"]


def by_reader(**judges: Judge) -> Judge:
    """One criterion read in several ways: by the name of the kind's reader."""
    return lambda held: judges[held.geometry.kind.reader.name](held)


def corrected_by_reader(**ways: Correct) -> Correct:
    """The same of its correction."""
    return lambda job, v: ways[job.g.kind.reader.name](job, v)


@dataclass(frozen=True, eq=False)
class Criterion:
    """What is judged, and everything that anybody needs to know of it.

    title: in the words of a dentist. place: what a side or a sector is called here ('finish line', 'wall'). lens: shows
    it best. weight: among findings. own_size: wanted at nought, so that its own size says more than the excess.
    by_attempt: its numbers are followed over the attempts. correct, leave: by bound, the stroke, or why none is asked
    and what to do instead. way_out: of a plan that cannot meet it. says: by bound, in place of 'short of minimum'.
    doubtful: what to do where it cannot be told from its limit. kinds: of restoration, that are judged by it.
    """

    name: str
    title: str
    judge: Judge
    place: str = ""
    lens: str | None = None
    weight: float = 1.0
    own_size: bool = False
    by_attempt: bool = False
    correct: dict[str, Correct] = field(default_factory=dict)
    leave: dict[str, str] = field(default_factory=dict)
    way_out: str = ""
    says: dict[str, str] = field(default_factory=dict)
    doubtful: str = ""
    kinds: tuple[str, ...] = CROWNS

    def __post_init__(self) -> None:
        """Raises ValueError for a criterion that can be at fault and says nothing of what to do."""
        if not set(self.correct) | set(self.leave):
            raise ValueError(f"{self.name}: say how it is corrected, or why it is not.")


def verdicts(
    criterion: str, zone: str, value: float, unit: str, u: float, bounds: Bounds, why: str | dict[str, str],
    at: Place | dict[str, Place] = None, scale: float = 1.0,
) -> list[Verdict]:  # fmt: skip
    """One verdict for each bound that is given. why, at: for both, or by bound. scale: of the bounds."""
    out = []
    for bound, limit, judge in (("max", bounds.max, judge_max), ("min", bounds.min, judge_min)):
        if limit is None:
            continue
        target = None if bounds.target is None else bounds.target * scale
        said = why if isinstance(why, str) else why[bound]
        place = at[bound] if isinstance(at, dict) else at
        row = Verdict(
            criterion=criterion,
            zone=zone,
            bound=bound,
            value=value,
            unit=unit,
            U=u,
            limit=limit * scale,
            target=target,
            status="",
            why=said,
            source=bounds.source,
            at=place,
        )
        out.append(judge(row))
    return out
