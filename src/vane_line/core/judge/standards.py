"""Standards: the minimum, target and maximum of every zone, from data files, validated on loading.

A user's own standard is a copy of the same data, kept by whoever stores it and parsed here.
"""

from __future__ import annotations

import hashlib
import json
import tomllib
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from functools import cache
from math import degrees
from pathlib import Path
from typing import Any, Literal, get_args

from vane_line.core import kinds
from vane_line.core.measure.zones import OCCLUSAL_HEADS
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption, BadStandard

FOLDER = Path(__file__).resolve().parents[2] / "standards"
SIDES = ("facial", "mesial", "lingual", "distal")
BACK_KEYS = {"functional-cusp", "other-cusp", "groove", "wall", *(f"wall-{s}" for s in SIDES)}
FRONT_KEYS = {"incisal", "facial-incisal", "facial-middle", "facial-cervical", "lingual-fossa", "lingual-wall"}
FRONT_NEEDED = FRONT_KEYS - {"lingual-wall"}
CHILD_BACK, CHILD_FRONT = {"functional-cusp", "other-cusp", "groove"}, {"incisal"}
CAST_FRONT = {"lingual-fossa", "incisal"}
WINDOW_NEEDED = {"incisal", "facial-incisal", "facial-middle", "facial-cervical"}
DARK_MM = (
    0.2,
    0.25,
    0.3,
)  # what a veneer over a dark tooth needs more: least, target, most (common practice, no source)
Teeth = Literal["back", "front", "canine"]
TEETH: dict[str, Teeth] = {teeth: teeth for teeth in get_args(Teeth)}
CAPS, GENERAL, BRIDGE = "caps.toml", "general.toml", "bridge.toml"
WIDTH_KEYS = {"all", *SIDES}
FORMS = {"shoulder", "rounded-shoulder", "chamfer", "heavy-chamfer", "sloped-shoulder", "bevelled", "feather"}
MAX_DEPTH_MM = 4.0  # no taught depth of a crown comes near it: a larger number is a slip of the unit
# The material's default standard is the middle one of its rows.
DEFAULTS = {
    "full-metal": "full-metal", "metal-ceramic": "metal-ceramic-moderate",
    "lithium-disilicate": "lithium-disilicate-bonded", "zirconia": "zirconia-usual", "zirconia-thin": "zirconia-thin",
    "zirconia-translucent": "zirconia-translucent-4y", "layered-zirconia": "layered-zirconia",
    "all-ceramic": "all-ceramic-classical", "resin-ceramic": "resin-ceramic",
}  # fmt: skip
# Front teeth: every material that there is behind.
FRONT_DEFAULTS = {
    "full-metal": "front-full-metal", "metal-ceramic": "front-metal-ceramic",
    "lithium-disilicate": "front-lithium-disilicate-bonded", "zirconia": "front-zirconia-usual",
    "zirconia-thin": "front-zirconia-thin", "zirconia-translucent": "front-zirconia-translucent",
    "layered-zirconia": "front-layered-zirconia", "all-ceramic": "front-all-ceramic-textbook",
    "resin-ceramic": "front-resin-ceramic",
}  # fmt: skip
CANINE_DEFAULTS = {"all-ceramic": "canine-all-ceramic"}
# Cavities have figures of their own; a cavity is in a back tooth.
CAVITY_DEFAULTS = {
    m: f"cavity-{m}" for m in ("full-metal", "lithium-disilicate", "zirconia", "zirconia-translucent", "resin-ceramic")
}
# A veneer goes on a front tooth or a premolar.
VENEER_DEFAULTS = {
    m: f"veneer-{m}" for m in ("lithium-disilicate", "all-ceramic", "resin-ceramic", "zirconia-translucent")
}
# A prefabricated crown goes on a primary tooth: behind, then in front.
CHILD_DEFAULTS = {m: f"child-{m}" for m in ("preformed-metal", "preformed-zirconia")}
CHILD_FRONT_DEFAULTS = {m: f"child-front-{m}" for m in CHILD_DEFAULTS}
# A casting is of metal: a partial crown behind, one held by pins in front.
CAST_DEFAULTS = {"full-metal": "partial-full-metal"}
CAST_FRONT_DEFAULTS = {"full-metal": "pin-full-metal"}
LOWER_INCISORS = ("31", "32", "41", "42")
LOWER_INCISOR_DEFAULTS = {"zirconia": "front-lower-incisor-zirconia"}
WING_HALF_DEG = 5.0  # to either side of the wing the finish line passes from one width to the other, on purpose
RUNS_OUT_MM = 0.15
UNSUITABLE = "unsuitable here"  # begins the caution of a standard that a tooth is too small for


@dataclass(frozen=True)
class Bounds:
    """What no material sets: each bound is judged where it is given."""

    min: float | None
    target: float | None
    max: float | None
    source: str

    @property
    def least(self) -> Bounds:
        """Without the maximum."""
        return Bounds(self.min, self.target, None, self.source)

    @property
    def most(self) -> Bounds:
        """Without the minimum."""
        return Bounds(None, self.target, self.max, self.source)


@dataclass(frozen=True)
class Limits(Bounds):
    """Minimum, target and maximum of one quantity in mm, with the source of the figures."""

    min: float
    target: float
    max: float


@dataclass(frozen=True)
class Standard:
    """A named, versioned set of limits for a material and restoration."""

    id: str
    version: int
    title: str
    material: str
    restoration: str
    teeth: Teeth
    protocol: str
    reason: str
    caution: str
    cement_space_mm: float
    reduction: dict[str, Limits]
    finish_line_width: dict[str, Limits]
    finish_line_form: dict[str, tuple[str, ...]]
    also_for: tuple[str, ...] = ()  # other materials that are judged by the same figures
    clearance: dict[str, Limits] = field(default_factory=dict)
    digest: str = field(default="")
    general: dict[str, Bounds] = field(default_factory=dict)  # what this one overrules of the general standard
    wing: dict[str, float] = field(default_factory=dict)  # by side: mm lingual of the contact where the face's end
    also_restorations: tuple[str, ...] = ()  # other kinds that are judged by the same figures

    def bounds(self, name: str) -> Bounds:
        """Bounds of what no material sets: this standard's own, or the general one's."""
        return self.general.get(name) or general()[name]

    def wall_height(self, tooth: ToothNumber) -> Bounds:
        """Of the walls of such a tooth."""
        return self.bounds("wall-height-molar" if tooth.molar else "wall-height")

    def sectors(self, side: str, radius_mm: float) -> list[tuple[str, float, float, Limits]]:
        """A side's stretches of the finish line: name, from and to (degrees past the side's middle, towards lingual
        positive), limits. Where metal shows behind, the face's figures end at the wing, a little lingual of the
        contact; radius_mm: of the finish line there.
        """
        off = self.wing.get(side)
        if off is None:
            return [(side, -45.0, 45.0, self.width_limits(side))]
        wing = degrees(off / max(radius_mm, 1.0))
        stem = "mesio" if side == "mesial" else "disto"
        return [
            (f"{stem}facial", -45.0, wing - WING_HALF_DEG, self.width_limits("facial")),
            (f"{stem}lingual", wing + WING_HALF_DEG, 45.0, self.width_limits("lingual")),
        ]

    @property
    def restorations(self) -> tuple[str, ...]:
        """The kinds that it is for."""
        return (self.restoration, *self.also_restorations)

    def cusp_limits(self, functional: bool) -> Limits:
        """Limits of reduction over a covered cusp."""
        return self.reduction["functional-cusp" if functional else "other-cusp"]

    @property
    def reader(self) -> str:
        """Name of the reader of the kinds that it is for."""
        return kinds.of(self.restoration).reader.name

    def serves(self, tooth: ToothNumber) -> bool:
        """Whether it was written for such a tooth."""
        if self.reader == "window":
            return not tooth.molar
        if (self.reader == "child") != tooth.primary:
            return False
        if self.teeth == "canine":
            return tooth.fdi[1] == "3"
        return tooth.front == (self.teeth == "front")

    def may_serve(self, tooth: ToothNumber) -> bool:
        """Whether it may be chosen for such a tooth: the one full metal standard of back teeth serves them all."""
        metal = self.material == "full-metal" and bool(self.finish_line_width)
        return self.serves(tooth) or (self.teeth == "back" and tooth.front and metal)

    def limits_for_zone(self, zone: str) -> Limits | None:
        """Limits of reduction in a zone, None where it is judged otherwise.

        What the tables leave out: ridges and bevel as the cusps they belong to, a wall's occlusal third as its
        middle, its cervical third from the finish line's depth.
        """
        head, _, tail = zone.partition("/")
        if self.reader == "child" and head not in OCCLUSAL_HEADS:  # round about it has criteria of its own
            return None
        if self.teeth != "back":
            return self._front_limits(head, tail)
        if head == "incisal-edge":
            return self._beside_edge()
        if head in ("functional-cusp", "functional-cusp-bevel"):
            return self.reduction["functional-cusp"]
        if head in ("non-functional-cusp", "marginal-ridge"):
            return self.reduction["other-cusp"]
        if head in ("central-groove", "facial-groove", "lingual-groove"):
            return self.reduction.get("groove")  # a cavity's standard has none: its floor has a depth of its own
        # A front tooth judged by a back tooth's figures: its edge as a functional cusp, its faces as walls.
        if head == "lingual-fossa":
            return self.reduction["other-cusp"]
        if head in ("facial", "lingual-wall"):
            head, tail = "wall", f"{head.removesuffix('-wall')}/{'cervical' if tail == 'cervical' else 'middle'}"
        if head == "wall":
            side, _, third = tail.partition("/")
            if third == "cervical":
                return self.width_limits(side)
            return self.reduction.get(f"wall-{side}", self.reduction.get("wall"))
        return None

    def depth_limits(self, zone: str) -> Limits | None:
        """Limits of the depth to cut in a zone; None where none is planned there."""
        if self.reader == "ring" and zone == "incisal-edge":
            return self.edge_limits
        if self.reader == "window" and zone == "incisal-edge":
            off = self.bounds("incisal-reduction")
            if off.min is not None and off.target is not None and off.max is not None:
                return Limits(off.min, off.target, off.max, off.source)
        return self.limits_for_zone(zone)

    def _front_limits(self, head: str, tail: str) -> Limits | None:
        if head == "facial":
            return self.reduction.get(f"facial-{tail}")  # what leaves the face has no figure for it
        if self.reader == "window":  # what is taken off the edge and behind has criteria of its own
            return None
        if head == "incisal-edge":
            return self._beside_edge()
        if head == "lingual-fossa":
            return self.reduction["lingual-fossa"]
        if head == "lingual-wall":
            return self.reduction.get("lingual-wall", self.width_limits("lingual"))
        if head == "wall":  # between the teeth the wall follows from the finish line's depth
            return self.width_limits(tail.partition("/")[0])
        return None

    @property
    def edge_limits(self) -> Limits:
        """Limits of how far a front tooth's edge is taken down: as a functional cusp, by a back tooth's figures."""
        return self.reduction["functional-cusp" if self.teeth == "back" else "incisal"]

    def _beside_edge(self, behind: Limits | None = None) -> Limits:
        """Limits of the least distance at a crown's incisal edge, of which `edge_limits` tell how far it is taken down:
        a front tooth is thin there, and what lies nearest is its face or its back. As there (behind: unless given, as
        the concavity), whichever needs less."""
        edge = self.edge_limits
        if self.reader != "ring":
            return edge
        sides = (self.limits_for_zone("facial/incisal"), behind or self.limits_for_zone("lingual-fossa"))
        return min((edge, *(s for s in sides if s is not None)), key=lambda limits: limits.min)

    def clearance_for_zone(self, zone: str) -> Limits | None:
        """Least clearance: the reduction's figures, but for what the standard says of it."""
        if zone in ("lingual-fossa", "lingual-wall", "wrap") and "lingual" in self.clearance:
            return self.clearance["lingual"]
        if zone == "incisal-edge" and self.reader == "window":
            return self.reduction["incisal"]
        if zone == "incisal-edge" and "lingual" in self.clearance:
            return self._beside_edge(self.clearance["lingual"])
        return self.limits_for_zone(zone)

    def width_limits(self, side: str) -> Limits:
        """Limits of the finish line's width on a side."""
        return self.finish_line_width.get(side) or self.finish_line_width["all"]

    def forms_for(self, side: str) -> tuple[str, ...]:
        """Wanted forms of the finish line on a side; empty where the standard names none."""
        return self.finish_line_form.get(side) or self.finish_line_form.get("all", ())

    @property
    def widest_target_mm(self) -> float:
        """The greatest target width of the finish line: the band round it is as wide as this. A prefabricated crown
        has no ledge: there it is the rim of the top that is as wide.

        A cavity's covered cusps run out to their outline without a ledge: as near to it as the least reduction, and a
        little further, nothing is judged, since there a cut of any depth lies so near to the tooth's side.
        """
        if self.reader == "child":
            # Nearer to the side than the sides are cut less than the top, a least distance is the side's.
            top = max(limit.min for limit in self.reduction.values())
            beside = self.general["round-about"].min if "round-about" in self.general else None
            return max(top - (beside or 0.0), 0.0)
        if not self.finish_line_width:
            return max(limit.min for limit in self.reduction.values()) + RUNS_OUT_MM
        return max(limit.target for limit in self.finish_line_width.values())


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
        own = {k: _bounds(row, f"{name}: general, {k}", k) for k, row in data.get("general", {}).items()}
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


def _bounds(row: Any, place: str, name: str) -> Bounds:
    """Raises BadStandard."""
    if place.partition(": ")[0] != GENERAL and name not in general():
        raise BadStandard(f"{place}: there is no such row; use one of {', '.join(general())}.")
    try:
        low, target, high = (None if row.get(k) is None else float(row[k]) for k in ("min", "target", "max"))
        source = str(row["source"]).strip()
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise BadStandard(f"{place}: give numbers for min, target or max, and a source.") from error
    if not source:
        raise BadStandard(f"{place}: a value needs its source.")
    if low is not None and high is not None and low >= high:
        raise BadStandard(f"{place}: it must hold that min < max.")
    return Bounds(low, target, high, source)


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
def general() -> dict[str, Bounds]:
    """The general standard: what every other inherits."""
    rows = tomllib.loads((FOLDER / GENERAL).read_text(encoding="utf-8"))
    return {name: _bounds(row, f"{GENERAL}: {name}", name) for name, row in rows.items()}


@cache
def general_digest() -> str:
    """Of the general standard's figures: another digest, other judgements."""
    return hashlib.sha256((FOLDER / GENERAL).read_bytes()).hexdigest()


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


def fitted(standard: Standard, tooth: ToothNumber) -> Standard:
    """The standard with its depths capped where the tooth is small; otherwise itself."""
    found = caps().get(tooth.fdi)
    if found is None:
        return standard
    cap, reason = found
    if not standard.finish_line_width:
        return standard
    needs = max(v.min for v in standard.finish_line_width.values())
    if needs >= cap.max:  # no cap lowers what the material needs
        caution = (
            f"{standard.title} is {UNSUITABLE}: it needs a finish line of {needs:.1f} mm at least, and {reason} at "
            f"{cap.max:.1f}. Choose a material that can be thinner."
        )
        return replace(standard, caution=" ".join(t for t in (standard.caution, caution) if t))

    def capped(own: Limits) -> Limits:
        low = max(cap.min, own.min)
        return (
            Limits(low, max(cap.target, (low + cap.max) / 2), cap.max, cap.source) if cap.target < own.target else own
        )

    width = {k: capped(v) for k, v in standard.finish_line_width.items()}
    if width == standard.finish_line_width:
        return standard
    caution = " ".join(t for t in (standard.caution, f"{reason.capitalize()} at {cap.max:.1f} mm.") if t)
    reduction = dict(standard.reduction)
    if "facial-cervical" in reduction:  # the cervical third follows from the finish line's depth
        least = capped(reduction["facial-cervical"])
        reduction["facial-cervical"] = replace(least, max=max(least.max, reduction["facial-cervical"].max))
    return replace(standard, finish_line_width=width, reduction=reduction, caution=caution)


def over_dark(standard: Standard) -> Standard:
    """The standard of a veneer over a dark tooth: deeper on the face, its line level with the gingiva or below."""

    def deeper(own: Limits) -> Limits:
        low, target, most = DARK_MM
        return Limits(own.min + low, own.target + target, own.max + most, f"{own.source}; over a dark tooth")

    face = {k: deeper(v) if k.startswith("facial") else v for k, v in standard.reduction.items()}
    height = Bounds(None, 0.0, 0.5, "common practice, no source; over a dark neck")
    return replace(standard, reduction=face, general=standard.general | {"margin-height": height})


def suitable(standard: Standard) -> bool:
    """Whether a fitted standard can be met on its tooth at all."""
    return UNSUITABLE not in standard.caution


def default_id(material: str, tooth: ToothNumber | None = None, restoration: str = "full-crown") -> str:
    """The id of a material's default standard for a kind on a tooth. Raises BadOption."""
    kind = kinds.of(restoration)
    if kind.primary and tooth is not None and not tooth.primary:
        raise BadOption(
            f"tooth {tooth.fdi} is a permanent tooth: a {kind.title} is for primary teeth, 51 to 85 (A to T)."
        )
    if kind.primary:
        if material not in CHILD_DEFAULTS:
            raise BadOption(f"material {material} is not used for a {kind.title}: {', '.join(CHILD_DEFAULTS)} are.")
        return (CHILD_FRONT_DEFAULTS if tooth is not None and tooth.front else CHILD_DEFAULTS)[material]
    if tooth is not None and tooth.primary:
        raise BadOption(f"tooth {tooth.fdi} is a primary tooth: only a child-crown is judged on it.")
    if material in CHILD_DEFAULTS:
        raise BadOption(f"material {material} is for a child-crown alone; use one of {', '.join(DEFAULTS)}.")
    if material not in DEFAULTS:
        raise BadOption(f"material {material}: use one of {', '.join(DEFAULTS)}.")
    if kinds.of(restoration).reader.name == "cavity":
        if material not in CAVITY_DEFAULTS:
            raise BadOption(f"material {material} is not used for an {restoration}: {', '.join(CAVITY_DEFAULTS)} are.")
        if tooth is not None and tooth.front:
            raise BadOption(f"tooth {tooth.fdi} is a front tooth: an {restoration} is for premolars and molars.")
        return CAVITY_DEFAULTS[material]
    if kinds.of(restoration).reader.name == "window":
        if material not in VENEER_DEFAULTS:
            raise BadOption(f"material {material} is not used for a {restoration}: {', '.join(VENEER_DEFAULTS)} are.")
        if tooth is not None and tooth.molar:
            raise BadOption(f"tooth {tooth.fdi} is a molar: a {restoration} is for front teeth and premolars.")
        return VENEER_DEFAULTS[material]
    if kinds.of(restoration).reader.name == "cast":
        return _cast_id(material, tooth, restoration)
    if tooth is not None and tooth.front:
        if tooth.fdi[1] == "3" and material in CANINE_DEFAULTS:
            return CANINE_DEFAULTS[material]
        if tooth.fdi in LOWER_INCISORS and material in LOWER_INCISOR_DEFAULTS:
            return LOWER_INCISOR_DEFAULTS[material]
        return FRONT_DEFAULTS[material]
    return DEFAULTS[material]


def serving(every: Iterable[Standard], tooth: ToothNumber, restoration: str) -> list[Standard]:
    """Of all standards each material's usual one for a tooth and a kind, and those that no built-in one is: a surgery's
    own."""
    found = [s for s in every if restoration in s.restorations and s.may_serve(tooth)]
    usual = set()
    for material in dict.fromkeys(s.material for s in found):
        try:
            usual.add(default_id(material, tooth, restoration))
        except BadOption:
            continue  # the material is used on other teeth
    return [s for s in found if s.id in usual or s.id not in built_in()]


def _cast_id(material: str, tooth: ToothNumber | None, restoration: str) -> str:
    table, front = (CAST_FRONT_DEFAULTS, True) if restoration == "pin-casting" else (CAST_DEFAULTS, False)
    if material not in table:
        raise BadOption(f"material {material} is not used for a {restoration}: {', '.join(table)} is.")
    if tooth is not None and tooth.front != front:
        for_teeth = "front teeth" if front else "premolars and molars"
        raise BadOption(f"tooth {tooth.fdi}: a {restoration} is for {for_teeth}.")
    return table[material]


def choose(
    material: str, restoration: str, standard_id: str | None = None, tooth: ToothNumber | None = None
) -> Standard:
    """The standard asked for, or the material's default for the tooth. Raises BadOption."""
    default = default_id(material, tooth, restoration)
    chosen = built_in().get(standard_id or default)
    if chosen is None:
        raise BadOption(f"standard {standard_id}: use one of {', '.join(built_in())}.")
    check_fit(chosen, material, tooth, restoration)
    return chosen


def check_fit(standard: Standard, material: str, tooth: ToothNumber | None, restoration: str = "full-crown") -> None:
    """Raises BadOption where a standard is for another material, for another kind, or for other teeth."""
    own, asked = (kinds.of(k).reader.name for k in (standard.restoration, restoration))
    if restoration not in standard.restorations and own != asked:
        raise BadOption(f"standard {standard.id} is for {' and '.join(standard.restorations)}, not for {restoration}.")
    if material not in (standard.material, *standard.also_for):
        raise BadOption(f"standard {standard.id} is for {standard.material}, not for {material}.")
    if tooth is not None and not standard.serves(tooth) and not (standard.teeth == "back" and tooth.front):
        raise BadOption(f"standard {standard.id} is for {standard.teeth} teeth, not for tooth {tooth.fdi}.")
