"""A bridge held against what holds for it as a whole, and its document."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache, partial
from itertools import combinations
from typing import Any

import numpy as np

from vane_line.core.apart import each
from vane_line.core.arrays import Floats
from vane_line.core.bridge.common_path import Forbidding
from vane_line.core.bridge.room import Connector
from vane_line.core.bridge.whole import Bridge
from vane_line.core.case import Geometry
from vane_line.core.contract.bridge import (
    SCHEMA,
    BridgeDocument,
    BridgeOpposingRow,
    BridgePathRow,
    ConnectorRow,
    ForbiddingRow,
    OverEruptedRow,
    OwnPathRow,
    PonticRow,
    SpanRow,
)
from vane_line.core.contract.measurement import CorrectionRow, MeasurementDocument, VerdictRow
from vane_line.core.cut_too import arch_order
from vane_line.core.judge.document import typed_document, verdict_row
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.limits import FOLDER, Bounds
from vane_line.core.judge.record import verdicts
from vane_line.core.judge.standard_files import BRIDGE
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.uncertainty import COVERAGE
from vane_line.core.judge.verdicts import FAULTS, Verdict, not_measured
from vane_line.core.kinds.cast import CastCut
from vane_line.core.measure.retention import SIDES
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import degrees_between, unit
from vane_line.errors import BadOption

# Expanded uncertainties (docs/uncertainty.md): of the common path's draft and of the angle between paths; of heights.
U_DRAFT_DEG, U_ANGLE_DEG, U_HEIGHT_MM, U_WIDTH_MM = 0.6, 0.6, 0.15, 0.15
LEAST_APART_DEG = 1.0  # of two paths, that tells which way they lie apart
U_GROWN_MM = 0.5  # teeth that never grew stand so far over or under those beside them
LEAST_MISSING_DEG = 0.5
STANDS, LEAST_STANDING = 0.5, 12  # cosine of a wall to the side that it looks to, and vertices that tell one
AGAINST = 0.5  # cosine: walls that look so far apart are opened by leaning the path from one to the other
CAUTIOUS = ("abutment-angle", "span-flex", "over-eruption")
NO_OPPOSING = "no trusted opposing scan was given"
SEATS = "walls that draw less than this along one path bind before the bridge is down"
FORBIDS = "no path clears all walls: one of these has to be cut, or the bridge divided"
UPRIGHT = (
    "beyond it too much tooth goes: upright the tooth first, or a partial crown, a telescope, a non-rigid connector"
)
LOW = "a low pontic has weak connectors and is hard to clean"
FLEXES = "a long span bends: ceramic cracks, cement tears"
GREW = "it grew into the space: correct it first, or the bridge takes its place from the pontic"
NONE_BESIDE = "no opposing teeth are seen on both sides of it"
WEAK = "the greatest ellipse that has room between gingiva, embrasures and the opposing teeth"


@dataclass(frozen=True)
class ConnectorRule:
    """Least areas by place; last: number of the last tooth of a quadrant that the material may reach, 8 for any."""

    front: float
    back: float
    beside_two: float
    last: int
    source: str


@cache
def bounds() -> dict[str, Bounds]:
    """What no material sets."""
    return {
        name: Bounds(row.get("min"), row.get("target"), row.get("max"), row["source"])
        for name, row in _data().items()
        if name != "connector"
    }


@cache
def connector_rules() -> dict[str, ConnectorRule]:
    """By material."""
    return {
        name: ConnectorRule(row["front"], row["back"], row["beside_two"], row.get("last", 8), row["source"])
        for name, row in _data()["connector"].items()
    }


def _data() -> dict[str, Any]:
    return tomllib.loads((FOLDER / BRIDGE).read_text(encoding="utf-8"))


def judge_bridge(bridge: Bridge, material: str) -> list[Verdict]:
    """What holds for the whole, the gravest first; each abutment is judged by itself."""
    rows = [*_path(bridge), *_angles(bridge), *_pontics(bridge), *_connectors(bridge, material), *_span(bridge)]
    rows += _grown(bridge)
    grave = {"short": 0, "over": 0, "within-uncertainty": 1, "not-measured": 2, "meets": 3}
    return sorted(rows, key=lambda v: grave[v.status])


def _grown(bridge: Bridge) -> list[Verdict]:
    rows = []
    for p in bridge.pontics:
        if p.tooth not in bridge.over_erupted:
            rows.append(not_measured("over-eruption", p.tooth, NONE_BESIDE, "max"))
            continue
        value, limits = bridge.over_erupted[p.tooth], bounds()["over-eruption"]
        rows += verdicts("over-eruption", p.tooth, value, "mm", U_GROWN_MM, limits, GREW)
    return rows


def _path(bridge: Bridge) -> list[Verdict]:
    why, u = SEATS if bridge.path.exists else FORBIDS, float(np.hypot(U_DRAFT_DEG, bridge.path.open_deg))
    return verdicts("common-path", "overall", bridge.path.least_draft_deg, "deg", u, bounds()["common-path"], why)


def _angles(bridge: Bridge) -> list[Verdict]:
    rows = []
    for a, b in combinations(bridge.abutments, 2):
        angle = float(degrees_between(a.path.direction, b.path.direction))
        zone = f"{a.options.tooth.fdi}-{b.options.tooth.fdi}"
        apart = unit(b.path.direction - a.path.direction) if angle > LEAST_APART_DEG else None
        open_deg = COVERAGE * float(np.hypot(a.path.open_deg(apart), b.path.open_deg(apart)))
        u = float(np.hypot(U_ANGLE_DEG, open_deg))
        rows += verdicts("abutment-angle", zone, angle, "deg", u, bounds()["abutment-angle"], UPRIGHT)
    return rows


def _pontics(bridge: Bridge) -> list[Verdict]:
    rows = []
    for p in bridge.pontics:
        if p.height_mm is None:
            rows.append(not_measured("pontic-height", p.tooth, NO_OPPOSING))
            continue
        rows += verdicts("pontic-height", p.tooth, p.height_mm, "mm", U_HEIGHT_MM, bounds()["pontic-height"], LOW)
    return rows


def _connectors(bridge: Bridge, material: str) -> list[Verdict]:
    rule, rows = connector_rules().get(material), []
    teeth = {p.tooth for p in bridge.pontics}
    for c in bridge.connectors:
        zone = "-".join(c.between)
        if c.height_mm is None or c.area_mm2 is None:
            rows.append(not_measured("connector", zone, NO_OPPOSING, unit="mm²"))
            continue
        rows += verdicts("connector-height", zone, c.height_mm, "mm", U_HEIGHT_MM, bounds()["connector-height"], WEAK)
        if rule is None:
            rows.append(not_measured("connector", zone, f"no area is known for {material}", unit="mm²"))
            continue
        u = float(np.pi / 4 * np.hypot(U_HEIGHT_MM * c.width_mm, U_WIDTH_MM * c.height_mm))
        least = Bounds(least_area(c, rule, teeth), None, None, rule.source)
        rows += verdicts("connector", zone, c.area_mm2, "mm²", u, least, WEAK)
    return rows


def least_area(connector: Connector, rule: ConnectorRule, pontics: set[str]) -> float:
    """By its place, and whether it stands between two pontics."""
    if all(t in pontics for t in connector.between):
        return rule.beside_two
    behind = any(int(t[1]) > 3 for t in connector.between)
    return rule.back if behind else rule.front


def flex(bridge: Bridge) -> float:
    """Of the longest toothless stretch, against one of its pontics: the cube of their number where they are alike."""
    most = 1.0
    for stretch in _stretches(bridge):
        widths = np.array(stretch)
        most = max(most, float((widths.sum() / widths.mean()) ** 3))
    return most


def _stretches(bridge: Bridge) -> list[list[float]]:
    """Widths of the pontics of each toothless stretch."""
    ends = [arch_order(g.options.tooth) for g in bridge.abutments]
    out: list[list[float]] = [[] for _ in ends]
    for p in bridge.pontics:
        out[int(np.searchsorted(ends, arch_order(ToothNumber(p.tooth))))].append(p.width_mm)
    return [w for w in out if w]


def _span(bridge: Bridge) -> list[Verdict]:
    return verdicts("span-flex", "overall", flex(bridge), "ratio", 0.0, bounds()["span-flex"], FLEXES)


def cautions(bridge: Bridge, found: list[Verdict], material: str) -> list[str]:
    """Between target and maximum: not a fault, to be known. And what the material may not reach."""
    said = []
    for v in found:
        told = v.bound == "max" and v.status not in FAULTS and v.value is not None and v.target is not None
        if told and v.criterion in CAUTIOUS and v.value > v.target:  # type: ignore[operator]
            kind = v.criterion.replace("-", " ")
            said.append(f"{kind}, {v.zone}: {v.value:.1f} {v.unit}, over {v.target:g}: {v.why}.")
    rule = connector_rules().get(material)
    far = [t for t in (*(p.tooth for p in bridge.pontics), *(g.options.tooth.fdi for g in bridge.abutments))
           if rule is not None and int(t[1]) > rule.last]  # fmt: skip
    if far:
        said.append(f"{material} is not used for a bridge behind the second premolar; this one reaches {max(far)}.")
    return said


def corrections(bridge: Bridge) -> list[CorrectionRow]:
    """Where no common path is: for every pair of walls that face each other's way, which of the two is cut.

    A wall that gives what both lack frees the other: the path then leans towards it. The one that costs less is named.
    """
    # What hardly leans back has nothing to give: a stroke off it opens no path.
    walls = [w for w in bridge.path.limited_by if w.missing_deg >= LEAST_MISSING_DEG]
    rows = []
    for first, second in _pairs(bridge, walls):
        pair = [w for w in (first, second) if w is not None]
        total = sum(w.missing_deg for w in pair)
        ways = sorted((_way(bridge, wall, total) for wall in pair), key=lambda way: way.cost_mm2)
        rows.append((total, ways))
    rows.sort(key=lambda r: -r[0])
    return [_correction(k + 1, total, ways) for k, (total, ways) in enumerate(rows)]


@dataclass(frozen=True)
class _Way:
    """One wall cut back so far that the path is open: by how much at its top (mm), and the area of the wedge."""

    wall: Forbidding
    top_mm: float | None
    cost_mm2: float

    def said(self) -> str:
        amount = "" if self.top_mm is None else f", {self.top_mm:.1f} mm at its top"
        return f"the {self.wall.side} wall of {self.wall.tooth}{amount}"


def _way(bridge: Bridge, wall: Forbidding, total_deg: float) -> _Way:
    height = _height(bridge, wall)
    if height is None:
        return _Way(wall, None, float("inf"))
    top = float(np.tan(np.radians(total_deg)) * height)
    return _Way(wall, top, top * height / 2)


def _pairs(bridge: Bridge, walls: list[Forbidding]) -> list[tuple[Forbidding, Forbidding | None]]:
    """Each wall that forbids with the gravest one, of another abutment, that looks the other way; or alone."""
    left, found = list(walls), []
    while left:
        wall = left.pop(0)
        out = _outward(bridge, wall)
        facing = [w for w in left if w.tooth != wall.tooth and float(_outward(bridge, w) @ out) < -AGAINST]
        other = max(facing, key=lambda w: w.missing_deg, default=None)
        if other is not None:
            left.remove(other)
        found.append((wall, other))
    return found


def _outward(bridge: Bridge, wall: Forbidding) -> Floats:
    frame = next(g for g in bridge.abutments if g.options.tooth.fdi == wall.tooth).frame
    return {"facial": frame.facial, "lingual": -frame.facial, "mesial": frame.mesial, "distal": -frame.mesial}[
        wall.side
    ]


def _correction(order: int, total_deg: float, ways: list[_Way]) -> CorrectionRow:
    best, wall = ways[0], ways[0].wall
    do = f"take {total_deg:.0f} degrees off {best.said()}; "
    do += f"not off the {ways[1].wall.side} wall of {ways[1].wall.tooth} as well" if len(ways) > 1 else "no other wall"
    instead = f"{ways[1].said()[0].upper()}{ways[1].said()[1:]}, would do instead. " if len(ways) > 1 else ""
    return CorrectionRow(
        order=order, stage="wall", key=f"common-path|{wall.tooth}/{wall.side}",
        where=f"{wall.side} wall of {wall.tooth}", view=wall.side, do=do, bur="tapered bur of known taper",
        hold="bur along the common path, led over the wall",
        beware=f"{instead}See the tooth's own width and the pulp first", refused="", at=None, to_min=best.top_mm,
        to_target=None, extent="", area_mm2=None,
    )  # fmt: skip


def _height(bridge: Bridge, wall: Forbidding) -> float | None:
    geometry = next(g for g in bridge.abutments if g.options.tooth.fdi == wall.tooth)
    if isinstance(geometry.cut, CastCut):
        return _standing_mm(geometry, _outward(bridge, wall))
    value = geometry.ring.shape.walls.height_at(SIDES[wall.side])
    return value if np.isfinite(value) else None


def _standing_mm(geometry: Geometry, out: Floats) -> float | None:
    """Along the path, of what stands towards a side of a cut that does not go round."""
    inside, up = geometry.inside, geometry.path.direction
    normals = inside.even_normals
    here = (normals @ out > STANDS) & (np.abs(normals @ up) < STANDS)
    if here.sum() < LEAST_STANDING:
        return None
    low, high = np.quantile(inside.vertices[here] @ up, [0.02, 0.98])
    return float(high - low)


def bridge_document(bridge: Bridge, standards: dict[str, Standard], material: str) -> dict[str, Any]:
    """Plain data for JSON, `vane-line/bridge/1`. standards: of the abutments, by FDI number. Raises BadOption
    where one is missing."""
    bare = [g.options.tooth.fdi for g in bridge.abutments if g.options.tooth.fdi not in standards]
    if bare:
        raise BadOption(f"bridge: no standard is given for tooth {bare[0]}.")
    found = judge_bridge(bridge, material)
    path = bridge.path
    trusted = any(p.height_mm is not None for p in bridge.pontics) or bool(bridge.over_erupted)
    return BridgeDocument(
        schema=SCHEMA,
        abutments=each([partial(_abutment, g, standards[g.options.tooth.fdi], material) for g in bridge.abutments]),
        path=BridgePathRow(
            direction=path.direction, exists=path.exists, least_draft_deg=path.least_draft_deg,
            limited_by=[ForbiddingRow(tooth=f.tooth, side=f.side, missing_deg=f.missing_deg) for f in path.limited_by],
            own_paths=[
                OwnPathRow(tooth=g.options.tooth.fdi, direction=g.path.direction,
                           angle_to_common_deg=path.to_common_deg[g.options.tooth.fdi])
                for g in bridge.abutments
            ],
        ),
        pontics=[
            PonticRow(tooth=p.tooth, width_mm=p.width_mm, height_mm=p.height_mm, ridge_gap_mm=p.ridge_gap_mm,
                      across_mm=p.across_mm, at=p.stand.at, along=p.stand.along, up=p.stand.up)
            for p in bridge.pontics
        ],
        connectors=[
            ConnectorRow(between=list(c.between), height_mm=c.height_mm, width_mm=c.width_mm, area_mm2=c.area_mm2,
                         at=c.stand.at, along=c.stand.along, up=c.stand.up)
            for c in bridge.connectors
        ],
        span=SpanRow(length_mm=bridge.length_mm, flex_against_one_pontic=flex(bridge)),
        opposing=BridgeOpposingRow(over_erupted=[
            OverEruptedRow(tooth=t, beyond_plane_mm=v) for t, v in bridge.over_erupted.items()
        ]) if trusted else None,
        verdicts=[verdict_of_bridge(v) for v in found],
        corrections=corrections(bridge),
        warnings=cautions(bridge, found, material),
    ).model_dump(by_alias=True)  # fmt: skip


def _abutment(geometry: Geometry, standard: Standard, material: str) -> MeasurementDocument:
    return typed_document(geometry, judge(geometry, standard), material=material)


def verdict_of_bridge(v: Verdict) -> VerdictRow:
    """As any verdict; places are teeth, and the whole is the bridge."""
    return verdict_row(v).model_copy(update={"where": "the bridge" if v.zone == "overall" else v.zone})
