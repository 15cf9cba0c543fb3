"""What the endpoints of the log of a career give."""

from __future__ import annotations

from collections.abc import Callable

from pydantic import BaseModel

from vane_line.core.grade.career import Again, Career, Depth, Over, Way
from vane_line.service.career import Choices


class AgainOut(BaseModel):
    """One place that is at fault again and again; likely: the least share at 95 %."""

    criterion: str
    title: str
    where: str
    bound: str
    unit: str
    at_fault: int
    seen: int
    likely: float
    amount: float | None

    @classmethod
    def of(cls, row: Again, title: Callable[[str], str]) -> AgainOut:
        return cls(title=title(row.criterion), **vars(row))


class CareerOut(BaseModel):
    """depths, over: in time, first attempts alone."""

    teeth: int
    again: list[AgainOut]
    depths: list[Depth]
    ways: list[Way]
    over: list[Over]
    recent_mm: float | None
    before_mm: float | None
    restorations: list[str]
    materials: list[str]
    tooth_numbers: list[str]

    @classmethod
    def of(cls, found: Career, choices: Choices, title: Callable[[str], str]) -> CareerOut:
        return cls(
            teeth=found.teeth, again=[AgainOut.of(row, title) for row in found.again], depths=list(found.depths),
            ways=list(found.ways), over=list(found.over), recent_mm=found.recent_mm, before_mm=found.before_mm,
            restorations=choices.restorations, materials=choices.materials, tooth_numbers=choices.teeth,
        )  # fmt: skip
