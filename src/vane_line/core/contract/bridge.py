"""The bridge's envelope: `vane-line/bridge/1`."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from vane_line.core.contract.measurement import CorrectionRow, MeasurementDocument, VerdictRow
from vane_line.core.contract.row import Row, Vector

SCHEMA: Literal["vane-line/bridge/1"] = "vane-line/bridge/1"


class ForbiddingRow(Row):
    tooth: str
    side: str
    missing_deg: float = Field(description="by which the wall leans back along the best common direction")


class OwnPathRow(Row):
    tooth: str
    direction: Vector
    angle_to_common_deg: float


class BridgePathRow(Row):
    direction: Vector
    exists: bool
    least_draft_deg: float
    limited_by: list[ForbiddingRow]
    own_paths: list[OwnPathRow]


class PonticRow(Row):
    tooth: str
    width_mm: float = Field(description="its share of the least distance between the facing finish lines")
    height_mm: float | None = Field(description="from the ridge to the opposing teeth")
    ridge_gap_mm: float | None = Field(description="by which the ridge lies under the line between the finish lines")
    across_mm: float = Field(description="between its neighbours' finish lines, facial to lingual")
    at: Vector | None = Field(description="its middle, between ridge and opposing teeth; null where one is not known")
    along: Vector = Field(description="which way the span runs there")
    up: Vector


class ConnectorRow(Row):
    between: list[str]
    height_mm: float | None
    width_mm: float
    area_mm2: float | None = Field(description="of the greatest ellipse that has room there")
    at: Vector | None = Field(description="its middle; null where its height is not known")
    along: Vector = Field(description="which way the span runs there")
    up: Vector


class SpanRow(Row):
    length_mm: float
    flex_against_one_pontic: float


class OverEruptedRow(Row):
    tooth: str = Field(description="the pontic that it stands over")
    beyond_plane_mm: float


class BridgeOpposingRow(Row):
    over_erupted: list[OverEruptedRow]


class BridgeDocument(Row):
    """What holds for all abutments together; each has its own document."""

    schema_: Literal["vane-line/bridge/1"] = Field(alias="schema")
    abutments: list[MeasurementDocument]
    path: BridgePathRow
    pontics: list[PonticRow]
    connectors: list[ConnectorRow]
    span: SpanRow
    opposing: BridgeOpposingRow | None = Field(description="null without a trusted opposing scan")
    verdicts: list[VerdictRow]
    corrections: list[CorrectionRow]
    warnings: list[str]
