"""An open container of arrays: a zip of `tree.json` and one `.npy` file (NumPy's open format) for each array.

The tree is plain data, in which `{"array": 3}` stands for the file `3.npy`. Reading runs no code of the file's.
"""

from __future__ import annotations

import io
import json
import math
import zipfile
from typing import Any

import numpy as np

from vane_line.errors import StoreError

TREE = "tree.json"


def pack(tree: Any) -> bytes:
    """Plain data (dict with str keys, list, str, number, bool, None, ndarray) as bytes, equal for equal data."""
    arrays: list[np.ndarray[Any, Any]] = []
    plain = _plain(tree, arrays)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as file:
        _add(file, TREE, json.dumps(plain, allow_nan=False).encode())
        for number, array in enumerate(arrays):
            data = io.BytesIO()
            np.save(data, array, allow_pickle=False)
            _add(file, f"{number}.npy", data.getvalue())
    return out.getvalue()


def unpack(data: bytes) -> Any:
    """What was packed. Raises StoreError where the bytes are not such a container."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            count = len(file.namelist()) - 1
            arrays = [np.load(io.BytesIO(file.read(f"{k}.npy")), allow_pickle=False) for k in range(count)]
            return _whole(json.loads(file.read(TREE)), arrays)
    except (zipfile.BadZipFile, KeyError, IndexError, ValueError, OSError, EOFError) as error:
        raise StoreError("What is stored of this measurement cannot be read; measure again.") from error


def _add(file: zipfile.ZipFile, name: str, data: bytes) -> None:
    file.writestr(zipfile.ZipInfo(name), data)  # a fixed date, so that equal data gives equal bytes


def _plain(value: Any, arrays: list[np.ndarray[Any, Any]]) -> Any:
    if isinstance(value, np.ndarray):
        if value.dtype.hasobject:
            raise TypeError("an array of objects cannot be kept")
        arrays.append(value)
        return {"array": len(arrays) - 1}
    if isinstance(value, dict):
        if not all(isinstance(k, str) for k in value):
            raise TypeError("only names can be keys")
        return {"dict": [[k, _plain(v, arrays)] for k, v in value.items()]}
    if isinstance(value, list):
        return [_plain(v, arrays) for v in value]
    if isinstance(value, np.generic):
        value = value.item()
    if isinstance(value, float) and not math.isfinite(value):
        return {"number": str(value)}  # JSON has no word for these
    if value is None or isinstance(value, str | bool | int | float):
        return value
    raise TypeError(f"{type(value).__name__} cannot be kept")


def _whole(value: Any, arrays: list[Any]) -> Any:
    if isinstance(value, list):
        return [_whole(v, arrays) for v in value]
    if isinstance(value, dict):
        if "array" in value:
            return arrays[value["array"]]
        if "number" in value:
            return float(value["number"])
        return {k: _whole(v, arrays) for k, v in value["dict"]}
    return value
