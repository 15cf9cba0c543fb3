"""What goes over the wire of plans, tables of materials and bridges."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from vane_line.api.described import DescribedBy
from vane_line.core.contract.bridge import BridgeDocument
from vane_line.core.contract.bridge_plan import BridgePlanDocument
from vane_line.core.contract.decision import DecisionDocument
from vane_line.core.contract.plan import PlanDocument
from vane_line.core.contract.row import Vector
from vane_line.core.plan.cavity_choice import LEAST_DRAWN, MOST_DRAWN
from vane_line.core.plan.plan import MOST_HOLES


class CavityIn(BaseModel):
    """What is chosen of a planned cavity."""

    boxes: list[Literal["mesial", "distal"]] = []
    covered: list[Annotated[str, Field(max_length=24)]] | None = Field(default=None, max_length=8)  # cusps; None: usual
    # Drawn on the earlier scan, in its coordinates.
    outline: list[Vector] | None = Field(default=None, min_length=LEAST_DRAWN, max_length=MOST_DRAWN)


class PlanIn(BaseModel):
    above_gingiva_mm: float = 0.5
    taper_deg: float = 5.0
    incisal: Literal["butt", "window"] = "butt"  # how a veneer ends at the edge
    cavity: CavityIn | None = None
    # For pins, places on the tooth's back at the ledge's level, in the earlier scan's coordinates; none: chosen.
    holes: list[Vector] | None = Field(default=None, min_length=1, max_length=MOST_HOLES)
    sequence: str | None = None
    near: Vector | None = None  # a point on the tooth, in the earlier scan's coordinates
    facial: Vector | None = None  # its facial direction, where it is not certain
    path: Vector | None = None  # of insertion, in those coordinates; none: along the tooth's own axis


class CommonPathIn(BaseModel):
    direction: Vector | None  # in the earlier scan's coordinates; none: the one along which the least tooth goes


class PlanOut(BaseModel):
    document: Annotated[dict[str, Any], DescribedBy(PlanDocument)]
    target_hash: str | None
    stale: bool
    made_at: str


class DecisionOut(BaseModel):
    document: Annotated[dict[str, Any], DescribedBy(DecisionDocument)]
    stale: bool
    made_at: str


class BridgeOut(BaseModel):
    document: Annotated[dict[str, Any], DescribedBy(BridgeDocument)]
    stale: bool
    made_at: str


class BridgePlanOut(BaseModel):
    document: Annotated[dict[str, Any], DescribedBy(BridgePlanDocument)]
    target_hash: str | None
    stale: bool
    made_at: str
