"""The worklist: corrections in the order of work, tried as a whole before it is shown.

Amounts under HAND_MM are not asked of a hand. What cutting cannot mend is not on the list as cutting. A correction that
would harm the wall or the finish line beside it is refused, with its reason and what to do instead.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.burs import Bur, generic
from vane_line.core.judge import criteria
from vane_line.core.judge.criteria.space import by_depth, where_told
from vane_line.core.judge.record import Held
from vane_line.core.judge.verdicts import FAULTS, Verdict
from vane_line.core.judge.work import HAND_MM, STAGES, WHOLE, Correction, Job
from vane_line.core.measure.reduction import summarise


@dataclass(frozen=True)
class Trial:
    """What the whole list would leave, were it done just as it says: places still short, and places then over-cut."""

    still_short: tuple[str, ...]
    over: tuple[str, ...]


def worklist(verdicts: list[Verdict], held: Held, tray: tuple[Bur, ...] | None = None) -> list[Correction]:
    """Corrections in the order of work; one for each place, whatever criteria speak of it. Only of what is proven."""
    job = Job(verdicts, held, generic() if tray is None else tray)
    rows: list[Correction] = []
    faults = sorted((v for v in verdicts if v.status in FAULTS), key=lambda v: -abs(v.missing or 0.0))
    for verdict in faults:
        criterion = criteria.of(verdict.criterion)
        correct = criterion.correct.get(verdict.bound) if criterion else None
        made = correct(job, verdict) if correct else None
        if made is not None:
            rows.append(made)
    rows = _merged(rows)
    rows.sort(key=lambda c: (bool(c.refused), STAGES.index(c.stage), -(c.to_min_mm or 0.0)))
    rows = _warned(rows, held)
    return [replace(c, order=k + 1) for k, c in enumerate(rows)]


def _merged(rows: list[Correction]) -> list[Correction]:
    """Two corrections of one place become one, by the greater amount; what a stroke already mends is not listed."""
    kept: list[Correction] = []
    for row in rows:
        twin = next((k for k, c in enumerate(kept) if c.stage == row.stage and c.where == row.where), None)
        if twin is None:
            kept.append(row)
        elif not kept[twin].refused and (row.to_min_mm or 0.0) > (kept[twin].to_min_mm or 0.0):
            kept[twin] = replace(row, key=kept[twin].key)
    widened = {c.zone for c in kept if c.stage == "finish-line" and "widen" in c.do and not c.refused}
    return [c for c in kept if not (c.zone.startswith("wall/") and c.zone.endswith("/cervical")
                                    and c.zone.split("/")[1] in widened)]  # fmt: skip


def _warned(rows: list[Correction], held: Held) -> list[Correction]:
    """The list with what it would make worse said beside the line that does it."""
    after = tried(rows, held)
    return [
        replace(c, beware=f"{c.beware}; done in full it would pass the maximum here: stop at the minimum, look again")
        if c.zone in after.over and not c.refused and c.to_min_mm is not None
        else c
        for c in rows
    ]  # fmt: skip


def tried(rows: list[Correction], held: Held) -> Trial:
    """The list done just as it says, on the mesh: each zone lowered by what is asked of it, the worst spots first."""
    space = held.space
    if space is None:
        return Trial((), ())
    taken = np.zeros(held.geometry.inside.n_vertices)
    for row in rows:
        if row.refused or row.to_target_mm is None or row.zone not in held.zones.names or row.stage == "other":
            continue
        here = held.zones.mask(row.zone)
        taken[here] = np.maximum(taken[here], _stroke(row, space.smooth[here], held, row.zone))
    value, smooth = space.value + taken, space.smooth + taken
    zones, _ = summarise(held.geometry.inside, value, smooth, space.unseen, held.zones)
    deepest = where_told(held, value, smooth, space.unseen, zones)
    short, over = [], []
    for zone in zones:
        limits = held.limits_of(zone.zone)
        if limits is None or zone.low_mm is None or zone.high_mm is None:
            continue
        u = held.budget.reduction()
        if zone.low_mm + u < limits.min:
            short.append(zone.zone)
        high = deepest[zone.zone].high_mm
        if by_depth(held.geometry, zone.zone) and high is not None and high - u > limits.max:
            over.append(zone.zone)
    return Trial(tuple(short), tuple(over))


def _stroke(row: Correction, space: Floats, held: Held, zone: str) -> Floats:
    """What is taken off each vertex of a zone: an even layer of the whole zone, else only where it lacks the target."""
    limits = held.limits_of(zone)
    amount = max(row.to_target_mm or 0.0, HAND_MM)
    if row.extent == WHOLE or limits is None:
        return np.full(len(space), amount)
    return np.clip(limits.target - space, 0.0, amount)
