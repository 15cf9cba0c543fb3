"""Several veneers of one case seen together: thickness along the row, edges along the arch, left against right.

Each stays judged by itself. Nothing here is a verdict: how alike two sides are to be is the dentist's and the patient's
choice. All documents are of one scan after cutting, so places and levels compare without aligning anything. Levels hang
on which way is up: on a part of an arch that is known by some degrees, which the further teeth stand apart counts more.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.contract.measurement import MeasurementDocument, ReductionRow, VerdictRow
from vane_line.core.contract.veneers import SCHEMA, Compared, ThirdRow, ToothRow, UnlikeRow, VeneersDocument
from vane_line.core.cut_too import arch_order
from vane_line.core.judge.criteria.veneer import THIRDS
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import unit

GRAVE = ("short", "over", "within-uncertainty", "meets", "not-measured")
CONFIRMED_DEG, GUESSED_DEG = 2.0, 10.0  # of the occlusal direction, k = 2: as a person set it, and as it is guessed
MIRROR = {"1": "2", "4": "3"}  # quadrants on the patient's right, and their mirrors


def seen_together(documents: Sequence[MeasurementDocument], missing: Sequence[str] = ()) -> VeneersDocument:
    """documents: of veneers on one preparation scan, two or more; missing: teeth that are not measured yet."""
    ordered = sorted(documents, key=lambda d: -arch_order(ToothNumber(d.tooth)))
    row = [_Veneer(d) for d in ordered]
    up = unit(np.sum([d.frame.occlusal for d in ordered], axis=0))
    highest = max((float(v.planned @ up) for v in row if v.planned is not None), default=0.0)
    teeth = {v.tooth: v.row(highest, up) for v in row}
    tilt_deg = CONFIRMED_DEG if all(d.frame.confidence >= 1 for d in ordered) else GUESSED_DEG
    pairs = [(a, b) for a in row for b in row if MIRROR.get(a.tooth[0], "") + a.tooth[1] == b.tooth]
    unlike = [u for a, b in pairs for u in _unlike(teeth[a.tooth], teeth[b.tooth], _level_u(a, b, up, tilt_deg))]
    unlike.sort(key=lambda r: (not r.proven, -abs(r.difference_mm)))
    references = {d.reduction.reference for d in ordered if d.reduction is not None}
    return VeneersDocument(
        schema=SCHEMA, to=references.pop() if len(references) == 1 else None, teeth=list(teeth.values()),
        unlike=unlike, missing=list(missing),
    )  # fmt: skip


class _Veneer:
    """One of the row: its document, and where its planned edge is (3,), None where that is not told."""

    def __init__(self, document: MeasurementDocument) -> None:
        self.document, self.tooth = document, document.tooth
        self.incisal = None if document.veneer is None else document.veneer.incisal
        place = None if self.incisal is None else self.incisal.planned_edge
        self.planned = None if place is None else np.array(place)

    def row(self, highest: float, up: Floats) -> ToothRow:
        """highest: level of the row's highest planned edge."""
        incisal = self.incisal
        return ToothRow(
            tooth=self.tooth, thirds=[_third(self.document, f"facial/{third}") for third in THIRDS],
            longer_mm=None if incisal is None else incisal.longer_mm,
            room_mm=None if incisal is None else incisal.reduction_mm,
            level_mm=None if self.planned is None else highest - float(self.planned @ up),
            u_mm=_u(self.document, "incisal-reduction", "incisal-edge"),
        )  # fmt: skip


def _level_u(one: _Veneer, other: _Veneer, up: Floats, tilt_deg: float) -> float | None:
    """What the occlusal direction's uncertainty makes of the two edges' levels: the further apart, the more."""
    if one.planned is None or other.planned is None:
        return None
    apart = one.planned - other.planned
    return float(np.linalg.norm(apart - (apart @ up) * up) * np.tan(np.radians(tilt_deg)))


def _third(document: MeasurementDocument, zone: str) -> ThirdRow:
    room, removed = _zone(document.reduction, zone), _zone(document.tooth_removed, zone)
    here = [v for v in document.verdicts if v.zone == zone and v.criterion in ("reduction", "tooth-removed")]
    return ThirdRow(
        zone=zone, thickness_mm=room[0], least_mm=room[1], thickness_u_mm=_u(document, "reduction", zone),
        removed_mm=removed[0], removed_u_mm=_u(document, "tooth-removed", zone), status=_gravest(here),
    )  # fmt: skip


def _zone(table: ReductionRow | None, zone: str) -> tuple[float | None, float | None]:
    """Median and low of a zone."""
    found = None if table is None else next((z for z in table.zones if z.zone == zone), None)
    return (None, None) if found is None else (found.median_mm, found.low_mm)


def _gravest(verdicts: list[VerdictRow]) -> str:
    found = {v.status for v in verdicts}
    return next((status for status in GRAVE if status in found), GRAVE[-1])


def _u(document: MeasurementDocument, criterion: str, zone: str) -> float | None:
    told = [v.U for v in document.verdicts if v.criterion == criterion and v.zone == zone and v.U is not None]
    return max(told) if told else None


def _unlike(right: ToothRow, left: ToothRow, level_u_mm: float | None) -> Iterator[UnlikeRow]:
    """Every figure that both sides have. level_u_mm: of their edges' levels, by the occlusal direction alone."""
    pair = right.tooth, left.tooth
    for a, b in zip(right.thirds, left.thirds, strict=True):
        yield from _compared(pair, "thickness", (a.thickness_mm, b.thickness_mm),
                             (a.thickness_u_mm, b.thickness_u_mm), a.zone)  # fmt: skip
        yield from _compared(pair, "tooth-removed", (a.removed_mm, b.removed_mm), (a.removed_u_mm, b.removed_u_mm),
                             a.zone)  # fmt: skip
    uncertain = right.u_mm, left.u_mm
    yield from _compared(pair, "room-at-edge", (right.room_mm, left.room_mm), uncertain)
    yield from _compared(pair, "longer", (right.longer_mm, left.longer_mm), uncertain)
    # Levels are told below the row's highest edge: what is shorter has more.
    yield from _compared(pair, "planned-edge", (right.level_mm, left.level_mm), (*uncertain, level_u_mm))


def _compared(
    pair: tuple[str, str], what: Compared, values: tuple[float | None, float | None],
    uncertain: tuple[float | None, ...], zone: str | None = None,
) -> Iterator[UnlikeRow]:  # fmt: skip
    a, b = values
    if a is None or b is None:
        return
    known = [u for u in uncertain if u is not None]
    u = math.hypot(*known) if len(known) == len(uncertain) else None
    yield UnlikeRow(
        right=pair[0], left=pair[1], what=what, zone=zone, right_mm=a, left_mm=b, difference_mm=a - b, u_mm=u,
        proven=u is not None and abs(a - b) > u,
    )  # fmt: skip
