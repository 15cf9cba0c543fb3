"""Standards: the minimum, target and maximum of every zone, from data files, validated on loading."""

from __future__ import annotations

import hashlib
import json
import tomllib
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Any

from vane_line.errors import BadOption, BadStandard

FOLDER = Path(__file__).resolve().parents[2] / "standards"
SIDES = ("facial", "mesial", "lingual", "distal")
REDUCTION_KEYS = {"functional-cusp", "other-cusp", "groove", "wall", *(f"wall-{s}" for s in SIDES)}
WIDTH_KEYS = {"all", *SIDES}
FORMS = {"shoulder", "rounded-shoulder", "chamfer", "heavy-chamfer", "sloped-shoulder", "bevelled", "feather"}
MAX_DEPTH_MM = 4.0  # no taught depth of a crown comes near it: a larger number is a slip of the unit
# The material's default standard is the first of its rows.
DEFAULTS = {
    "full-metal": "full-metal", "metal-ceramic": "metal-ceramic-moderate",
    "lithium-disilicate": "lithium-disilicate-bonded", "zirconia": "zirconia-usual", "zirconia-thin": "zirconia-thin",
    "zirconia-translucent": "zirconia-translucent-4y", "layered-zirconia": "layered-zirconia",
    "all-ceramic": "all-ceramic-classical", "resin-ceramic": "resin-ceramic",
}  # fmt: skip


@dataclass(frozen=True)
class Limits:
    """Minimum, target and maximum of one quantity in mm, with the source of the figures."""

    min: float
    target: float
    max: float
    source: str


@dataclass(frozen=True)
class Standard:
    """A named, versioned set of limits for a material and restoration."""

    id: str
    version: int
    title: str
    material: str
    restoration: str
    teeth: str
    protocol: str
    reason: str
    caution: str
    cement_space_mm: float
    reduction: dict[str, Limits]
    finish_line_width: dict[str, Limits]
    finish_line_form: dict[str, tuple[str, ...]]
    digest: str = field(default="")

    def limits_for_zone(self, zone: str) -> Limits | None:
        """Limits of reduction in a zone, None where it is judged otherwise.

        What the tables leave out: ridges and bevel as the cusps they belong to, a wall's occlusal third as its
        middle, its cervical third from the finish line's depth.
        """
        head, _, tail = zone.partition("/")
        if head in ("functional-cusp", "functional-cusp-bevel", "incisal-edge"):
            return self.reduction["functional-cusp"]
        if head in ("non-functional-cusp", "marginal-ridge"):
            return self.reduction["other-cusp"]
        if head in ("central-groove", "facial-groove", "lingual-groove"):
            return self.reduction["groove"]
        if head == "wall":
            side, _, third = tail.partition("/")
            if third == "cervical":
                return self.width_limits(side)
            return self.reduction.get(f"wall-{side}", self.reduction.get("wall"))
        return None

    def width_limits(self, side: str) -> Limits:
        """Limits of the finish line's width on a side."""
        return self.finish_line_width.get(side) or self.finish_line_width["all"]

    def forms_for(self, side: str) -> tuple[str, ...]:
        """Wanted forms of the finish line on a side; empty where the standard names none."""
        return self.finish_line_form.get(side) or self.finish_line_form.get("all", ())

    @property
    def widest_target_mm(self) -> float:
        """The greatest target width of the finish line: the band round it is as wide as this."""
        return max(limit.target for limit in self.finish_line_width.values())


def parse_standard(data: dict[str, Any], name: str) -> Standard:
    """Validate a standard's data. Raises BadStandard naming the first thing wrong."""

    def limits(table: str, keys: set[str]) -> dict[str, Limits]:
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

    try:
        reduction = limits("reduction", REDUCTION_KEYS)
        width = limits("finish_line_width", WIDTH_KEYS)
        forms = {k: tuple(v) for k, v in data.get("finish_line_form", {}).items()}
        for key in ("functional-cusp", "other-cusp", "groove"):
            if key not in reduction:
                raise BadStandard(f"{name}: reduction has no row {key}.")
        if "wall" not in reduction and any(f"wall-{s}" not in reduction for s in SIDES):
            raise BadStandard(f"{name}: reduction needs wall, or a row for each of the four walls.")
        if "all" not in width and any(s not in width for s in SIDES):
            raise BadStandard(f"{name}: finish_line_width needs all, or a row for each of the four sides.")
        unknown = {f for v in forms.values() for f in v} - FORMS
        if unknown:
            raise BadStandard(f"{name}: finish_line_form knows no {', '.join(sorted(unknown))}.")
        digest = hashlib.sha256(json.dumps(data, sort_keys=True).encode()).hexdigest()
        return Standard(
            str(data["id"]), int(data["version"]), str(data["title"]), str(data["material"]),
            str(data["restoration"]), str(data["teeth"]), str(data.get("protocol", "")), str(data["reason"]),
            str(data.get("caution", "")), float(data.get("cement_space_mm", 0.05)), reduction, width, forms, digest,
        )  # fmt: skip
    except KeyError as error:
        raise BadStandard(f"{name}: the entry {error.args[0]} is missing.") from error


@cache
def built_in() -> dict[str, Standard]:
    """All standards that ship with the program, by id."""
    found = {}
    for path in sorted(FOLDER.glob("*.toml")):
        standard = parse_standard(tomllib.loads(path.read_text(encoding="utf-8")), path.name)
        found[standard.id] = standard
    return found


def choose(material: str, restoration: str, standard_id: str | None = None) -> Standard:
    """The standard asked for, or the material's default. Raises BadOption."""
    standards = built_in()
    if material not in DEFAULTS:
        raise BadOption(f"material {material}: use one of {', '.join(DEFAULTS)}.")
    if restoration != "full-crown":
        raise BadOption(f"restoration {restoration}: only full-crown can be judged yet.")
    chosen = standards.get(standard_id or DEFAULTS[material])
    if chosen is None:
        raise BadOption(f"standard {standard_id}: use one of {', '.join(standards)}.")
    if chosen.material != material:
        raise BadOption(f"standard {chosen.id} is for {chosen.material}, not for {material}.")
    return chosen
