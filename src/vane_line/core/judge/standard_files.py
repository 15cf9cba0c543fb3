"""Standards from data files, validated on loading.

A user's own standard is a copy of the same data, kept by whoever stores it and parsed here.
"""

from __future__ import annotations

import hashlib
import json
import tomllib
from functools import cache
from typing import Any, get_args

from vane_line.core import kinds
from vane_line.core.judge.limits import FOLDER, GENERAL, Limits, bounds_of, general_digest
from vane_line.core.judge.standards import Standard, Teeth
from vane_line.errors import BadOption, BadStandard

SIDES = ("facial", "mesial", "lingual", "distal")
BACK_KEYS = {"functional-cusp", "other-cusp", "groove", "wall", *(f"wall-{s}" for s in SIDES)}
FRONT_KEYS = {"incisal", "facial-incisal", "facial-middle", "facial-cervical", "lingual-fossa", "lingual-wall"}
FRONT_NEEDED = FRONT_KEYS - {"lingual-wall"}
CHILD_BACK, CHILD_FRONT = {"functional-cusp", "other-cusp", "groove"}, {"incisal"}
CAST_FRONT = {"lingual-fossa", "incisal"}
WINDOW_NEEDED = {"incisal", "facial-incisal", "facial-middle", "facial-cervical"}
TEETH: dict[str, Teeth] = {teeth: teeth for teeth in get_args(Teeth)}
CAPS, BRIDGE = "caps.toml", "bridge.toml"
WIDTH_KEYS = {"all", *SIDES}
FORMS = {"shoulder", "rounded-shoulder", "chamfer", "heavy-chamfer", "sloped-shoulder", "bevelled", "feather"}
MAX_DEPTH_MM = 4.0  # no taught depth of a crown comes near it: a larger number is a slip of the unit


def _limits(data: dict[str, Any], name: str, table: str, keys: set[str]) -> dict[str, Limits]:
    """Raises BadStandard."""
    found = data.get(table)
    if not isinstance(found, dict) or not found:
        raise BadStandard(f"{name}: the table {table} is missing.")
    result = {}
    for key, row in found.items():
        if key not in keys:
            raise BadStandard(f"{name}: {table} has no row called {key}; use one of {', '.join(sorted(keys))}.")
        try:
            low, target, high = float(row["min"]), float(row["target"]), float(row["max"])
            source = str(row["source"]).strip()
        except (KeyError, TypeError, ValueError) as error:
            raise BadStandard(f"{name}: {table}, {key}: min, target, max and source are all needed.") from error
        if not 0 < low < target <= high:
            raise BadStandard(f"{name}: {table}, {key}: it must hold that 0 < min < target ≤ max.")
        if high > MAX_DEPTH_MM:
            raise BadStandard(f"{name}: {table}, {key}: {high} mm is no taught depth; the unit is mm.")
        if not source:
            raise BadStandard(f"{name}: {table}, {key}: a value needs its source.")
        result[key] = Limits(low, target, high, source)
    return result


def parse_standard(data: dict[str, Any], name: str) -> Standard:
    """Validate a standard's data. Raises BadStandard naming the first thing wrong."""

    teeth = TEETH.get(str(data.get("teeth", "")))
    if teeth is None:
        raise BadStandard(f"{name}: teeth must be one of {', '.join(sorted(TEETH))}.")
    back = teeth == "back"
    readers = _readers(data, name)
    ring, window, child = ("ring" in readers), ("window" in readers), ("child" in readers)
    cast = "cast" in readers
    front_keys = CAST_FRONT if cast else WINDOW_NEEDED if window else CHILD_FRONT if child else FRONT_KEYS
    try:
        reduction = _limits(data, name, "reduction", BACK_KEYS if back else front_keys)
        width = (
            _limits(data, name, "finish_line_width", WIDTH_KEYS)
            if ring or window or cast or data.get("finish_line_width")
            else {}
        )
        forms = {k: tuple(v) for k, v in data.get("finish_line_form", {}).items()}
        clearance = _limits(data, name, "clearance", {"lingual"}) if data.get("clearance") else {}
        needed = sorted(CAST_FRONT if cast else WINDOW_NEEDED if window else CHILD_FRONT if child else FRONT_NEEDED)
        if back:
            needed = ["functional-cusp", "other-cusp", *(["groove"] if ring or child else [])]
        for key in needed:
            if key not in reduction:
                raise BadStandard(f"{name}: reduction has no row {key}.")
        if ring and back and "wall" not in reduction and any(f"wall-{s}" not in reduction for s in SIDES):
            raise BadStandard(f"{name}: reduction needs wall, or a row for each of the four walls.")
        if ring and "all" not in width and any(s not in width for s in SIDES):
            raise BadStandard(f"{name}: finish_line_width needs all, or a row for each of the four sides.")
        unknown = {f for v in forms.values() for f in v} - FORMS
        if unknown:
            raise BadStandard(f"{name}: finish_line_form knows no {', '.join(sorted(unknown))}.")
        own = {k: bounds_of(row, f"{name}: general, {k}", k) for k, row in data.get("general", {}).items()}
        wing = _wing(data.get("wing", {}), name)
        digest = hashlib.sha256(json.dumps([data, general_digest()], sort_keys=True).encode()).hexdigest()
        return Standard(
            id=str(data["id"]), version=int(data["version"]), title=str(data["title"]),
            material=str(data["material"]), restoration=str(data["restoration"]), teeth=teeth,
            protocol=str(data.get("protocol", "")), reason=str(data["reason"]), caution=str(data.get("caution", "")),
            cement_space_mm=float(data.get("cement_space_mm", 0.05)), reduction=reduction, finish_line_width=width,
            finish_line_form=forms, also_for=tuple(str(m) for m in data.get("also_for", [])), clearance=clearance,
            digest=digest, general=own, wing=wing,
            also_restorations=tuple(str(k) for k in data.get("also_restorations", [])),
        )  # fmt: skip
    except KeyError as error:
        raise BadStandard(f"{name}: the entry {error.args[0]} is missing.") from error


def _readers(data: dict[str, Any], name: str) -> set[str]:
    """Names of the readers of the kinds that the standard is for. Raises BadStandard for a kind not known."""
    try:
        return {kinds.of(str(k)).reader.name for k in (data["restoration"], *data.get("also_restorations", []))}
    except KeyError as error:
        raise BadStandard(f"{name}: the entry restoration is missing.") from error
    except BadOption as error:
        raise BadStandard(f"{name}: {error}") from error


def as_data(standard: Standard) -> dict[str, Any]:
    """The plain data that `parse_standard` reads: for copies to be edited."""

    def rows(table: dict[str, Limits]) -> dict[str, Any]:
        return {k: {"min": v.min, "target": v.target, "max": v.max, "source": v.source} for k, v in table.items()}

    plain = ("id", "version", "title", "material", "restoration", "teeth", "protocol", "reason", "caution",
             "cement_space_mm")  # fmt: skip
    return {k: getattr(standard, k) for k in plain} | {
        "also_for": list(standard.also_for),
        "also_restorations": list(standard.also_restorations),
        "reduction": rows(standard.reduction),
        "finish_line_width": rows(standard.finish_line_width),
        "finish_line_form": {k: list(v) for k, v in standard.finish_line_form.items()},
        "clearance": rows(standard.clearance),
        "general": {
            k: {n: getattr(v, n) for n in ("min", "target", "max", "source") if getattr(v, n) is not None}
            for k, v in standard.general.items()
        },
        "wing": dict(standard.wing),
    }


def _wing(rows: Any, name: str) -> dict[str, float]:
    """Raises BadStandard."""
    try:
        found = {str(k): float(v) for k, v in rows.items()}
    except (TypeError, ValueError, AttributeError) as error:
        raise BadStandard(f"{name}: wing: give millimetres for mesial and distal.") from error
    if set(found) - {"mesial", "distal"} or any(not 0 <= v <= 3 for v in found.values()):
        raise BadStandard(f"{name}: wing: mesial and distal, 0 to 3 mm lingual of the contact.")
    return found


@cache
def built_in() -> dict[str, Standard]:
    """All standards that ship with the program, by id."""
    found = {}
    for path in sorted(FOLDER.glob("*.toml")):
        if path.name in (CAPS, GENERAL, BRIDGE):
            continue
        standard = parse_standard(tomllib.loads(path.read_text(encoding="utf-8")), path.name)
        found[standard.id] = standard
    return found


@cache
def caps() -> dict[str, tuple[Limits, str]]:
    """By tooth (FDI): the finish line's capped limits, and why."""
    data = tomllib.loads((FOLDER / CAPS).read_text(encoding="utf-8"))
    out = {}
    for row in data["cap"]:
        width = row["finish_line_width"]
        limits = Limits(float(width["min"]), float(width["target"]), float(width["max"]), str(row["source"]))
        for tooth in row["teeth"]:
            out[str(tooth)] = (limits, str(row["reason"]))
    return out
