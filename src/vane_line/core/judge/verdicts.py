"""Verdicts by the decision rule of ISO 14253-1: proven to meet, proven to fail, or within the uncertainty."""

from __future__ import annotations

from dataclasses import dataclass, replace

FAULTS = ("short", "over")  # proven


@dataclass(frozen=True)
class Verdict:
    """One criterion, zone and bound. Lengths in mm unless `unit` says otherwise."""

    criterion: str
    zone: str
    bound: str  # min | max
    value: float | None
    unit: str
    U: float | None
    limit: float | None
    target: float | None
    status: str  # meets | within-uncertainty | short | over | not-measured
    why: str
    source: str = ""
    at: tuple[float, float, float] | None = None
    pose: str | None = None  # of the lower jaw, where the value hangs on it

    @property
    def missing(self) -> float | None:
        """Limit less value: positive is what lacks to the minimum; negative is the excess over a maximum."""
        return None if self.value is None or self.limit is None else self.limit - self.value

    @property
    def to_target(self) -> float | None:
        """Target less value."""
        return None if self.value is None or self.target is None else self.target - self.value


def judge_min(verdict: Verdict) -> Verdict:
    """Status against a lower limit: proven short only when value + U lies below it."""
    value, limit, u = _numbers(verdict)
    if value - u >= limit:
        return replace(verdict, status="meets")
    return replace(verdict, status="short" if value + u < limit else "within-uncertainty")


def judge_max(verdict: Verdict) -> Verdict:
    """Status against an upper limit: proven over only when value - U lies above it."""
    value, limit, u = _numbers(verdict)
    if value + u <= limit:
        return replace(verdict, status="meets")
    return replace(verdict, status="over" if value - u > limit else "within-uncertainty")


def not_measured(criterion: str, zone: str, why: str, bound: str = "min", unit: str = "mm") -> Verdict:
    """A verdict that says why there is none."""
    return Verdict(
        criterion=criterion,
        zone=zone,
        bound=bound,
        value=None,
        unit=unit,
        U=None,
        limit=None,
        target=None,
        status="not-measured",
        why=why,
    )


def _numbers(verdict: Verdict) -> tuple[float, float, float]:
    assert verdict.value is not None
    assert verdict.limit is not None
    assert verdict.U is not None
    return verdict.value, verdict.limit, verdict.U


# A hand's tenth of a millimetre, as other units would have it: so that findings of all kinds stand in one order.
IN_MM = {"mm": 1.0, "deg": 1 / 40, "ratio": 0.5, "%": 1 / 400, "µm": 1 / 1000, "count": 1.0}


def by_size(verdict: Verdict, weight: float) -> float:
    """For ordering: proven faults by their size and weight, then doubtful ones, then what could not be measured."""
    amount = abs(verdict.missing or 0.0) * IN_MM.get(verdict.unit, 1.0) * weight
    base = {"short": 100.0, "over": 100.0, "within-uncertainty": 50.0, "not-measured": 20.0, "meets": 0.0}
    return base[verdict.status] + min(amount, 10.0)
