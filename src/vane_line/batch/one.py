"""One preparation as a pure function: bytes and plain options in, a plain result out. No disk, no store, no clock."""

from __future__ import annotations

import hashlib
import json
from typing import Any

import numpy as np

from vane_line.core.apart import alone
from vane_line.core.case import ALGORITHM_VERSION
from vane_line.core.files import measure_contents
from vane_line.core.judge.standard_choice import choose
from vane_line.core.options import Options
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import InputError, VaneLineError

Contents = dict[str, tuple[str, bytes]]  # by role: the file's name, and what is in it
MEASURED, REFUSED, FAILED = "measured", "refused", "failed"


def measured(contents: Contents, asked: dict[str, Any]) -> dict[str, Any]:
    """{"status": measured | refused | failed, "document", "error"}: refused for what the hand-in is to blame for."""
    try:
        with alone():  # every core has a hand-in already
            found = measure_contents(
                contents, options_of(asked), asked["material"], asked.get("restoration") or "full-crown",
                asked.get("standard"), asked.get("units") or "auto",
            )  # fmt: skip
    except InputError as error:
        return {"status": REFUSED, "document": None, "error": str(error)}
    except (VaneLineError, MemoryError) as error:
        return {"status": FAILED, "document": None, "error": str(error) or "there was too little memory for it"}
    document = found.document
    document.pop("timing_s", None)  # the only part that is another every time
    return {"status": MEASURED, "document": document, "error": ""}


def options_of(asked: dict[str, Any]) -> Options:
    """Raises BadOption."""

    def vector(name: str) -> Any:
        return None if asked.get(name) is None else np.array(asked[name], dtype=float)

    return Options(
        ToothNumber.parse(asked["tooth"], asked.get("notation") or "fdi"), occlusal=vector("occlusal"),
        facial=vector("facial"), near=vector("near"), path=vector("path"), earlier=asked.get("earlier") or "natural",
        opposing_frame=asked.get("opposing_frame") or "prep", root_filled=bool(asked.get("root_filled")),
        dark=bool(asked.get("dark")), guide_pins=bool(asked.get("guide_pins")),
    )  # fmt: skip


def key_of(contents: Contents, asked: dict[str, Any]) -> str:
    """Same bytes, same question, same standard, same algorithm: the same answer."""
    try:
        tooth = ToothNumber.parse(asked["tooth"], asked.get("notation") or "fdi")
        kind = asked.get("restoration") or "full-crown"
        digest = choose(asked["material"], kind, asked.get("standard"), tooth).digest
    except InputError:
        digest = ""  # refused in any case
    scans = {role: hashlib.sha256(data).hexdigest() for role, (_, data) in contents.items()}
    told = json.dumps([scans, asked, digest, ALGORITHM_VERSION], sort_keys=True)
    return hashlib.sha256(told.encode()).hexdigest()
