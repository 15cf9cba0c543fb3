"""What goes over the wire of edits by hand: axes, lines, paths, marks, strokes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from vane_line.core.contract.row import Vector

EditKind = Literal["axes", "pairs", "path", "line", "gingiva", "core"]


class PairsIn(BaseModel):
    """The same places on an earlier scan (its own coordinates) and on the preparation's, mm."""

    theirs: Annotated[list[Vector], Field(max_length=20)]
    ours: Annotated[list[Vector], Field(max_length=20)]


class Pin(BaseModel):
    """A place on the preparation that somebody marked; it reads whatever lens is chosen."""

    place: Vector
    name: Annotated[str, Field(max_length=60)] = ""


class PinsIn(BaseModel):
    pins: Annotated[list[Pin], Field(max_length=40)]


class TicksIn(BaseModel):
    keys: Annotated[list[str], Field(max_length=200)]


class StrokeOfBur(BaseModel):
    """One stroke of a bur on the sheet: points on the tooth, how deep it takes, how wide it is."""

    points: Annotated[list[Vector], Field(min_length=1, max_length=2000)]
    depth_mm: float = Field(gt=0, le=3)
    diameter_mm: float = Field(gt=0.2, le=6)


class PredictIn(BaseModel):
    strokes: Annotated[list[StrokeOfBur], Field(min_length=1, max_length=50)]


class AxesIn(BaseModel):
    occlusal: Vector
    facial: Vector
    near: Vector | None = None


class StrokeIn(BaseModel):
    points: Annotated[list[Vector], Field(min_length=2, max_length=5000)]
    snap: bool = True
    closed: bool = False


class CurveIn(BaseModel):
    points: Annotated[list[Vector], Field(min_length=6, max_length=5000)] | None


class EditOut(BaseModel):
    kind: EditKind
    revision: int
    created_at: str
    returns_to: int | None
    actor: str


class TriedPathOut(BaseModel):
    """Undercuts along a path that is only tried."""

    max_depth_mm: float
    area_mm2: float
    least_draft_deg: float | None
    sectors: list[str]


class PathIn(BaseModel):
    direction: Vector | None


class AxesGuess(BaseModel):
    centre: Vector
    occlusal: Vector
    facial: Vector
    mesial: Vector
    confidence: float
    sure: bool
    warnings: list[str]
