"""A fault that is proven in its place, beside a good twin that has none."""

from __future__ import annotations

from vane_line.core.judge import criteria
from vane_line.core.judge.judgement import Judgement
from vane_line.core.judge.record import Criterion
from vane_line.core.judge.verdicts import Verdict


def of(found: Judgement, criterion: str, zone: str | None = None) -> list[Verdict]:
    """A judgement's verdicts by a criterion, or by it in one zone."""
    return [v for v in found.verdicts if v.criterion == criterion and (zone is None or v.zone == zone)]


def proven(found: Judgement, good: Judgement, criterion: str, zone: str, status: str) -> tuple[Criterion, str]:
    """Asserts that the fault is found and the good twin has none; its criterion, and by which bound it is judged."""
    assert any(v.status == status for v in of(found, criterion, zone)), of(found, criterion)
    assert not any(v.status == status for v in of(good, criterion, zone)), of(good, criterion)
    record = criteria.of(criterion)
    assert record is not None
    return record, "min" if status == "short" else "max"
