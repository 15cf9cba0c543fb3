"""`vane-line/mark/1`: a preparation marked by a rubric, each mark with its reason. Keys may be added."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from vane_line.core.contract.row import Row

MARK_SCHEMA: Literal["vane-line/mark/1"] = "vane-line/mark/1"


class RubricName(Row):
    id: str
    version: int
    title: str


class MarkedRow(Row):
    title: str
    weight: float
    share: float | None = Field(description="of its marks, 0..1; null where nothing of it was measured")
    low: float | None = Field(description="what it could be within U")
    high: float | None
    why: str = Field(description="the place that cost most, and by what; or why it was not marked")


class CapRow(Row):
    criterion: str
    where: str
    most: float
    proven: bool = Field(description="false: too near a limit to say, so the mark may be capped")
    says: str


class MarkDocument(Row):
    """Marks out of 100. What could be another within U says so."""

    schema_: Literal["vane-line/mark/1"] = Field(alias="schema")
    rubric: RubricName
    mark: float | None = Field(description="0..100; null where too little was measured")
    low: float | None = Field(description="what it could be within U")
    high: float | None
    grade: str | None
    could_be: list[str] = Field(description="grades within low and high, the best first")
    rows: list[MarkedRow]
    caps: list[CapRow]
    says: str = Field(description="the mark in one sentence")
