"""A document as it was kept: handed on as it is, described by its model.

Documents are never rewritten; one that an older version of the program made need not hold what the model of today does.
"""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import core_schema


class DescribedBy:
    """For `Annotated[dict[str, Any], DescribedBy(Model)]`: any value, with the model's JSON schema."""

    def __init__(self, model: type[BaseModel]) -> None:
        self.model = model

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        return core_schema.any_schema()

    def __get_pydantic_json_schema__(
        self, schema: core_schema.CoreSchema, handler: GetJsonSchemaHandler
    ) -> JsonSchemaValue:
        return handler(self.model.__pydantic_core_schema__)
