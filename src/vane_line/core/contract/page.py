"""The contract's keys as a page for people, made from the models."""

from __future__ import annotations

import types
import typing
from collections.abc import Iterable
from typing import Any

from annotated_types import MinLen
from pydantic import BaseModel

from vane_line.core.contract.bridge import BridgeDocument
from vane_line.core.contract.bridge_plan import BridgePlanDocument
from vane_line.core.contract.decision import DecisionDocument
from vane_line.core.contract.measurement import MeasurementDocument
from vane_line.core.contract.plan import PlanDocument

BEGIN = "<!-- keys: made by `make api` from core/contract -->"
END = "<!-- end of keys -->"
PLAIN = {str: "text", float: "number", int: "integer", bool: "true|false"}


def with_keys(page: str) -> str:
    """A page with the part between BEGIN and END made anew. Raises ValueError where it has none."""
    head, begin, rest = page.partition(BEGIN)
    _, end, tail = rest.partition(END)
    if not begin or not end:
        raise ValueError("the page has no place for the contract's keys")
    return f"{head}{BEGIN}\n{keys()}{END}{tail}"


def keys() -> str:
    """All documents' keys, one a line, rows inside rows indented; a bridge holds its abutments' whole documents."""
    parts = []
    for model in (MeasurementDocument, PlanDocument, DecisionDocument, BridgeDocument, BridgePlanDocument):
        parts.append(f"\n### `{_literal(model.model_fields['schema_'].annotation)[0]}`\n\n```\n")
        known: dict[type, str] = {MeasurementDocument: "vane-line/measurement/1"} if model is BridgeDocument else {}
        parts += [f"{line}\n" for line in _lines(model, 0, dict(known))]
        parts.append("```\n")
    return "".join(parts)


def _lines(model: type[BaseModel], depth: int, told: dict[type, str]) -> list[str]:
    """Of a model and all that it holds; what has been `told` once is named by where."""
    out = []
    for name, field in model.model_fields.items():
        key = field.alias or name
        rows, words = _type(field.annotation)
        words = _sized(words, field.metadata)
        said = f"  — {field.description}" if field.description else ""
        if rows in told:
            said = f"  — as `{told[rows]}`{said.replace('  —', ';', 1)}"
        out.append(f"{'  ' * depth}{key}: {words}{said}")
        if rows is not None and rows not in told:
            told[rows] = key
            out += _lines(rows, depth + 1, told)
    return out


def _sized(words: str, metadata: Iterable[Any]) -> str:
    """A list's words with its length, where that is fixed."""
    sizes = [m.min_length for m in metadata if isinstance(m, MinLen)]
    return f"{words[:-1]} × {sizes[0]}]" if sizes else words


def _type(hint: Any) -> tuple[type[BaseModel] | None, str]:
    """The model inside a type, if any, and the type in words."""
    if hint in PLAIN:
        return None, PLAIN[hint]
    if isinstance(hint, type) and issubclass(hint, BaseModel):
        return hint, "{}"
    origin, inner = typing.get_origin(hint), typing.get_args(hint)
    if origin is typing.Annotated:
        row, words = _type(inner[0])
        return row, _sized(words, inner[1].metadata)
    if origin is list:
        row, words = _type(inner[0])
        return row, f"[{words}]"
    if origin is dict:
        row, words = _type(inner[1])
        return row, f"{{name: {words}}}"
    if origin is typing.Literal:
        return None, "|".join(_literal(hint))
    if origin in (types.UnionType, typing.Union):
        row, words = _type(next(a for a in inner if a is not types.NoneType))
        return row, f"{words} or null"
    raise TypeError(f"the contract has no words for {hint}")


def _literal(hint: Any) -> list[str]:
    return [str(value) for value in typing.get_args(hint)]
