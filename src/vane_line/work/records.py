"""A measurement as plain data and back: what is kept of it, without a pickle of our classes.

Every record is written as its class's name and its fields. Only classes that a Geometry can hold are read back, and a
file of another format version is not: it is measured again.
"""

from __future__ import annotations

import dataclasses
import types
import typing
from functools import lru_cache
from typing import Any

import numpy as np

from vane_line.core.case import Geometry
from vane_line.core.mesh.surface import Surface
from vane_line.errors import StoreError
from vane_line.work.container import pack, unpack

FORMAT = "vane-line/geometry/10"
EASED_AREAS = "vertex_areas"  # of a surface whose areas were taken from an eased copy


def geometry_bytes(geometry: Geometry) -> bytes:
    """A measurement as an open container."""
    return pack({"format": FORMAT, "geometry": _out(geometry)})


def read_geometry(data: bytes) -> Geometry:
    """The measurement of `geometry_bytes`. Raises StoreError for anything else."""
    tree = unpack(data)
    if not isinstance(tree, dict) or tree.get("format") != FORMAT:
        raise StoreError("This measurement was kept by another version of the program; measure again.")
    found = _in(tree["geometry"])
    if not isinstance(found, Geometry):
        raise StoreError("What is stored of this measurement is not one; measure again.")
    return found


def _out(value: Any) -> Any:
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        fields = {f.name: _out(getattr(value, f.name)) for f in dataclasses.fields(value)}
        if isinstance(value, Surface) and EASED_AREAS in value.__dict__:
            fields[EASED_AREAS] = value.vertex_areas
        return {"record": type(value).__name__, "fields": fields}
    if isinstance(value, dict):
        return {"map": {k: _out(v) for k, v in value.items()}}
    if isinstance(value, tuple):
        return {"tuple": [_out(v) for v in value]}
    if isinstance(value, list):
        return [_out(v) for v in value]
    return value


def _in(value: Any) -> Any:
    if isinstance(value, list):
        return [_in(v) for v in value]
    if not isinstance(value, dict):
        return value
    if "tuple" in value:
        return tuple(_in(v) for v in value["tuple"])
    if "map" in value:
        return {k: _in(v) for k, v in value["map"].items()}
    kind = _known().get(value["record"])
    if kind is None:
        raise StoreError(f"A stored measurement names a record {value['record']}, which is not known; measure again.")
    fields = {k: _in(v) for k, v in value["fields"].items()}
    areas = fields.pop(EASED_AREAS, None) if kind is Surface else None
    try:
        made = kind(**fields)
    except TypeError as error:
        raise StoreError("A stored measurement lacks a part; measure again.") from error
    if areas is not None:
        made.__dict__[EASED_AREAS] = np.asarray(areas)
    return made


@lru_cache(maxsize=1)
def _known() -> dict[str, type]:
    """Every record class that a Geometry can hold, by name, from the types of its fields."""
    found: dict[str, type] = {}
    waiting: list[Any] = [Geometry]
    while waiting:
        hint = waiting.pop()
        waiting += [a for a in typing.get_args(hint) if a is not types.NoneType]
        if not dataclasses.is_dataclass(hint) or not isinstance(hint, type) or found.get(hint.__name__) is hint:
            continue
        if hint.__name__ in found:
            raise TypeError(f"two records are called {hint.__name__}")
        found[hint.__name__] = hint
        waiting += list(typing.get_type_hints(hint).values())
    return found
