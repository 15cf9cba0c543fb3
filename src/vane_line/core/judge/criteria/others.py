"""What stands beside the tooth: the scans' alignment, the bite, the neighbours."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from vane_line.core.align.fit import U_ALIGN_LIMIT_UM
from vane_line.core.jaw.pose import INTERCUSPATION
from vane_line.core.judge.record import EVERY_KIND, Criterion, Held, verdicts
from vane_line.core.judge.uncertainty import COVERAGE
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import Correction, Job

BITE_GAP_MM = 0.1


def _alignment(held: Held) -> list[Verdict]:
    geometry = held.geometry
    if not geometry.alignment:
        return []
    worst = max(
        (a for r, a in geometry.alignment.items() if r != "opposing"),
        key=lambda a: (not a.trusted, a.u_align_um or 0.0),
        default=None,
    )
    if worst is None:
        return [not_measured("alignment", "overall", "no earlier scan was given", "max", "µm")]
    why = worst.why or "the scans fit on the surfaces that did not change"
    status = "meets" if worst.trusted else "over"
    return [
        Verdict(
            criterion="alignment",
            zone="overall",
            bound="max",
            value=worst.u_align_um,
            unit="µm",
            U=0.0,
            limit=U_ALIGN_LIMIT_UM,
            target=None,
            status=status,
            why=why,
        )
    ]


def _bite(held: Held) -> list[Verdict]:
    bite = held.geometry.bite
    if held.clearance is None or bite is None:
        return []
    status = "meets" if bite.ok else ("over" if bite.gap_mm is not None else "not-measured")
    gap = abs(bite.gap_mm) if bite.gap_mm is not None else None
    why = bite.note or "the other teeth meet the opposing teeth"
    return [
        Verdict(
            criterion="bite",
            zone="overall",
            bound="max",
            value=gap,
            unit="mm",
            U=0.0,
            limit=BITE_GAP_MM,
            target=None,
            status=status,
            why=why,
            pose=INTERCUSPATION.name,  # checked as it was recorded: raised, no tooth meets
        )
    ]


def _nicks(held: Held) -> list[Verdict]:
    rows, budget = [], held.budget
    for found in held.geometry.neighbours:
        if found.gap_mm is None:
            continue
        if found.nick_depth_mm is None:
            rows.append(replace(not_measured("neighbour-nick", found.side, found.why, "max"), at=found.at))
            continue
        why = "a nick holds plaque and weakens enamel: polish it, record it and tell the patient"
        why += f"; {found.why}" if found.why else ""
        u = COVERAGE * float(np.hypot(budget.align_mm, np.hypot(budget.scan_mm, budget.method("neighbour-nick"))))
        rows += verdicts(
            criterion="neighbour-nick",
            zone=found.side,
            value=found.nick_depth_mm,
            unit="mm",
            u=u,
            bounds=held.bounds("neighbour-nick"),
            why=why,
            at=found.at,
        )
    return rows


def _polish(job: Job, v: Verdict) -> Correction:
    do = "polish the neighbour, fluoride, record it and tell the patient; review it"
    if (v.value or 0.0) > 2 * (v.limit or 0.1):
        do += "; a restoration of its own only where dentine is exposed or the contact is lost"
    return job.row(v, "polish", do, beware="polishing takes off more: only smooth it")


CRITERIA = (
    Criterion("alignment", "alignment of the scans", _alignment, kinds=EVERY_KIND,
              leave={"max": "scan again with two uncut teeth beside it, or point at the same places on both scans"}),
    Criterion("bite", "bite", _bite, weight=2.0, kinds=EVERY_KIND,
              leave={"max": "record the bite again: nothing is cut by a bite that does not fit"}),
    Criterion("neighbour-nick", "nick", _nicks, place="neighbour", lens="next", weight=3.0, own_size=True,
              kinds=EVERY_KIND, by_attempt=True, correct={"max": _polish}),
)  # fmt: skip
