"""What every model of the contract is: plain numbers as they were computed, no NaN, no unknown key."""

from __future__ import annotations

import math
from typing import Annotated, Any

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

Vector = Annotated[list[float], Field(min_length=3, max_length=3)]
Matrix = Annotated[list[list[float]], Field(min_length=4, max_length=4)]
Pair = Annotated[list[float], Field(min_length=2, max_length=2)]


class Row(BaseModel):
    """Lengths in mm, angles in degrees; unknown is null. Raises ValidationError for a key that is none of its own."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    @model_validator(mode="before")
    @classmethod
    def _plain(cls, values: Any) -> Any:
        return {key: plain(value) for key, value in values.items()} if isinstance(values, dict) else values


def plain(value: Any) -> Any:
    """Arrays to lists, NaN and infinities to None; `-0.0` becomes 0.0."""
    if isinstance(value, dict):
        return {key: plain(item) for key, item in value.items()}
    if isinstance(value, np.ndarray):
        return plain(value.tolist())
    if isinstance(value, list | tuple):
        return [plain(item) for item in value]
    if isinstance(value, np.bool_):
        return bool(value)
    if isinstance(value, np.integer):
        return int(value)
    if isinstance(value, float | np.floating):
        number = float(value)
        return number + 0.0 if math.isfinite(number) else None
    return value
