"""Zones of a preparation: which criterion's numbers hold where.

Back teeth get cusps, grooves, ridges and wall thirds; front teeth the incisal edge, thirds of the face, the concavity
and the wall behind, and the walls between the teeth.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import AnyArray, Bools, Floats
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.rings import degrees_apart
from vane_line.core.tooth.anatomy import TEMPLATES, Anatomy, plan
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes, Profiles
from vane_line.core.trace.wall import WallRuns
from vane_line.core.vectors import degrees_between, unit

GROOVE_HALF_WIDTH_MM = 0.5
WALL_THIRDS = ("cervical", "middle", "occlusal")
BAND_EXTRA_MM = 0.2  # the finish-line band is the target width and this wide
RIDGE_HALF_WIDTH_SHARE = 0.20  # of the faciolingual size, about the groove
BEVEL_DEG = (25.0, 65.0)  # slope of a functional-cusp bevel to the path
OCCLUSAL_DEG = 62.0  # steeper than this above the wall's run is still wall
EDGE_MM, EDGE_HALF_MM = 0.8, 0.35  # below the highest place and beside the crest: the incisal edge
FRONT_HALF_DEG = 52.0  # of the face and of the back of a front tooth, to either side
FOSSA_DEG = 74.0  # behind a front tooth, what slopes less to the path than this is the concavity
CUSPS = frozenset(name for places in TEMPLATES.values() for name in places)
# Of the chewing surface or the edge, by the first part of their names.
OCCLUSAL_HEADS = (
    "functional-cusp", "functional-cusp-bevel", "non-functional-cusp", "marginal-ridge", "central-groove",
    "facial-groove", "lingual-groove", "incisal-edge",
)  # fmt: skip
LEAST_AREA_MM2 = 0.4  # a sliver of a groove, ridge or bevel is judged with the cusp it lies on


@dataclass(frozen=True, eq=False)
class Zones:
    """Zone name of each inside vertex (N,) as index into `names`, -1 outside any."""

    names: list[str]
    index: AnyArray

    def mask(self, name: str) -> Bools:
        """(N,) the vertices of a zone."""
        return np.asarray(self.index == self.names.index(name))


class Naming:
    """Zones of a surface's vertices named one after the other: a later name takes what it covers."""

    def __init__(self, count: int) -> None:
        self.names: list[str] = []
        self.index = np.full(count, -1, dtype=np.int64)

    def put(self, name: str, mask: Bools) -> None:
        """Name the vertices of a mask (N,); nothing where there is none."""
        if mask.any():
            self.names.append(name)
            self.index[mask] = len(self.names) - 1

    def zones(self) -> Zones:
        """Those that are left."""
        return used_zones(self.names, self.index)


def sides_turned(axes: Axes, turn_deg: float) -> tuple[Floats, Floats]:
    """The facial and the mesial direction (3,), turned on by so much."""
    out = axes.outward(turn_deg)
    return out, np.cross(axes.up, out) * np.sign(np.cross(axes.up, axes.zero) @ axes.quarter)


def make_zones(
    points: Floats, normals: Floats, areas: Floats, axes: Axes, line: FinishLine, profiles: Profiles, walls: WallRuns,
    anatomy: Anatomy, tooth: ToothNumber, functional_side: str, band_width_mm: float, turn_deg: float = 0.0,
    steeper_deg: float = 0.0,
) -> Zones:  # fmt: skip
    """Zones of the vertices inside the finish line: points, normals (N, 3), areas (N,) in mm².

    turn_deg, steeper_deg: by which the sides are turned on, and what is no wall yet may be steeper, to see what hangs
    on where one ends.
    """
    azimuth, radius, height = axes.cylinder(points)
    rows = np.arange(len(profiles.azimuth_deg))
    wall_top = profiles.height[rows, np.maximum(walls.top, 0)]
    middle = np.nanmedian(wall_top[walls.found]) if walls.found.any() else 0.0
    wall_top = _eased(np.where(walls.found, wall_top, middle))
    wall_radius = profiles.radius[rows, np.maximum(walls.top, 0)]
    wall_radius = _eased(np.where(walls.found, wall_radius, np.nanmedian(wall_radius)))
    # Between the profiles: with the nearest one's a place would change zones where it comes to lie nearer another.
    wall_radius, top = line.at(azimuth, wall_radius), line.at(azimuth, wall_top)
    line_radius, line_height = line.at(azimuth, line.radius), line.at(azimuth, line.height)
    sideways = line_radius - radius
    slope, azimuth = degrees_between(normals, axes.up) - steeper_deg, azimuth - turn_deg
    names: list[str] = []
    index = np.full(len(points), -1, dtype=np.int64)

    def put(name: str, mask: Bools, least_mm2: float = 0.0) -> None:
        if areas[mask].sum() < least_mm2:
            return
        if name not in names:
            names.append(name)
        index[mask] = names.index(name)

    band = (sideways < band_width_mm + BAND_EXTRA_MM) & (height - line_height < band_width_mm + BAND_EXTRA_MM)
    # Inclines that dip below the wall's top lie nearer to the axis and are not steep.
    roof = (radius < wall_radius + 0.1) & (slope < OCCLUSAL_DEG) & (height > line_height + 1.0)
    occlusal = ~band & (roof | ((height >= top) & (slope <= OCCLUSAL_DEG)))
    is_wall = ~band & ~occlusal
    share = np.clip((height - line_height) / np.maximum(top - line_height, 0.3), 0, 1)
    third = np.where(share < 1 / 3, 0, np.where(share < 2 / 3, 1, 2))
    if tooth.front:
        _front_zones(put, azimuth, height, line_height, slope, band, plan(axes, points))
        put("finish-line-band", band)
        return used_zones(names, index)
    _wall_zones(put, is_wall, azimuth, third)
    put("finish-line-band", band)
    xy = plan(axes, points)
    if not anatomy.cusps:
        put("central-groove", occlusal)
        return used_zones(names, index)
    _occlusal_zones(
        put=put,
        xy=xy,
        normals=normals,
        slope=slope,
        occlusal=occlusal,
        axes=axes,
        anatomy=anatomy,
        functional_side=functional_side,
    )
    return used_zones(names, index)


def _wall_zones(put, is_wall, azimuth, third) -> None:  # type: ignore[no-untyped-def]
    """Three thirds of each side's wall."""
    for side, centre in {"facial": 0, "mesial": 90, "lingual": 180, "distal": 270}.items():
        here = is_wall & (degrees_apart(azimuth, centre) <= 45)
        for k, part in enumerate(WALL_THIRDS):
            put(f"wall/{side}/{part}", here & (third == k))


def _front_zones(put, azimuth, height, line_height, slope, band, xy) -> None:  # type: ignore[no-untyped-def]
    """Edge, three thirds of the face, wall and fossa behind, thirds of the walls between the teeth."""
    edge = float(np.quantile(height, 0.995))
    share = np.clip((height - line_height) / np.maximum(edge - line_height, 0.3), 0, 1)
    third = np.where(share < 1 / 3, 0, np.where(share < 2 / 3, 1, 2))
    free = ~band
    at_edge = free & (height > edge - EDGE_MM) & (slope < OCCLUSAL_DEG)
    at_edge &= np.abs(xy[:, 1] - _ridge(xy, height, edge)) < EDGE_HALF_MM
    facial = free & ~at_edge & (degrees_apart(azimuth, 0.0) <= FRONT_HALF_DEG)
    lingual = free & ~at_edge & (degrees_apart(azimuth, 180.0) <= FRONT_HALF_DEG)
    for k, part in enumerate(("cervical", "middle", "incisal")):
        put(f"facial/{part}", facial & (third == k))
    put("lingual-wall", lingual & (slope >= FOSSA_DEG))
    put("lingual-fossa", lingual & (slope < FOSSA_DEG), LEAST_AREA_MM2)
    for side, centre in (("mesial", 90.0), ("distal", 270.0)):
        here = free & ~at_edge & ~facial & ~lingual & (degrees_apart(azimuth, centre) <= 90 - FRONT_HALF_DEG + 1)
        for k, part in enumerate(WALL_THIRDS):
            put(f"wall/{side}/{part}", here & (third == k))
    put("incisal-edge", at_edge)


def _ridge(xy: Floats, height: Floats, edge: float) -> Floats:
    """(N,) facial coordinate of the incisal edge's crest at each point's mesial coordinate."""
    top = height > edge - EDGE_MM
    if top.sum() < 3:
        return xy[:, 1]
    weight = (height[top] - (edge - EDGE_MM)) ** 2
    return np.asarray(np.polyval(np.polyfit(xy[top, 0], xy[top, 1], 2, w=weight), xy[:, 0]))


def _occlusal_zones(put, xy, normals, slope, occlusal, axes, anatomy, functional_side) -> None:  # type: ignore[no-untyped-def]
    cusp_names = list(anatomy.cusps)
    tips = np.stack([anatomy.cusps[n] for n in cusp_names])
    nearest = np.argmin(np.linalg.norm(xy[:, None] - tips[None], axis=2), axis=1)
    functional = np.array([is_functional(n, functional_side) for n in cusp_names])
    for k, name in enumerate(cusp_names):
        kind = "functional-cusp" if functional[k] else "non-functional-cusp"
        put(f"{kind}/{name}", occlusal & (nearest == k))
    sign = 1.0 if functional_side == "facial" else -1.0
    # Bevel: on the outer side of the functional cusps, sloping outward.
    tilted = (slope > BEVEL_DEG[0]) & (slope < BEVEL_DEG[1]) & (sign * (normals @ axes.zero) > 0.25)
    outer = sign * (xy[:, 1] - tips[nearest][:, 1]) > 0.0
    put("functional-cusp-bevel", occlusal & functional[nearest] & tilted & outer, LEAST_AREA_MM2)
    groove_y = np.interp(xy[:, 0], anatomy.groove_x, anatomy.groove_y)
    low, high = anatomy.groove_x[0], anatomy.groove_x[-1]
    off = xy[:, 1] - groove_y
    for side, gx in (("facial", anatomy.facial_groove_x), ("lingual", anatomy.lingual_groove_x)):
        if gx is None:
            continue
        way = 1.0 if side == "facial" else -1.0
        along = (np.abs(xy[:, 0] - gx) < GROOVE_HALF_WIDTH_MM) & (way * off >= 0)
        put(f"{side}-groove", occlusal & along, LEAST_AREA_MM2)
    ridge_half = RIDGE_HALF_WIDTH_SHARE * anatomy.size[1]
    for side, beyond in (("mesial", xy[:, 0] > high), ("distal", xy[:, 0] < low)):
        put(f"marginal-ridge/{side}", occlusal & beyond & (np.abs(off) < ridge_half), LEAST_AREA_MM2)
    put(
        "central-groove",
        occlusal & (np.abs(off) < GROOVE_HALF_WIDTH_MM) & (xy[:, 0] >= low) & (xy[:, 0] <= high),
        LEAST_AREA_MM2,
    )


def is_functional(cusp: str, functional_side: str) -> bool:
    """Whether a cusp bites into the opposing fossae; `functional_side` is facial or lingual."""
    return ("lingual" in cusp) == (functional_side == "lingual")


def _eased(values: Floats) -> Floats:
    """A ring of values, each the median of its neighbourhood: one odd profile is no wall of its own."""
    wide = np.r_[values[-7:], values, values[:7]]
    return np.asarray(np.median(np.lib.stride_tricks.sliding_window_view(wide, 15), axis=1))


def used_zones(names: list[str], index: AnyArray) -> Zones:
    """Without the names that another zone was put over wholly."""
    present = [k for k in range(len(names)) if (index == k).any()]
    renumber = np.full(len(names) + 1, -1, dtype=np.int64)
    for new, old in enumerate(present):
        renumber[old] = new
    return Zones([names[k] for k in present], renumber[index])


def words(zone: str, lingual_word: str = "lingual") -> str:
    """A zone's name in the words a dentist uses."""
    head, _, tail = zone.partition("/")
    tail = tail.replace("/", " ").replace("lingual", lingual_word)
    if head in ("functional-cusp", "non-functional-cusp", "cusp"):
        return f"{tail} cusp"
    if head == "wall":
        side, _, third = tail.partition(" ")
        return f"{side} wall, {third} third" if third else f"{side} wall"
    if head == "box":
        side, _, wall = tail.partition(" ")
        return f"{wall} wall of the {side} box" if wall else f"{side} box"
    if head == "marginal-ridge":
        return f"{tail} marginal ridge"
    if head == "proximal":
        return f"{tail} side"
    if head == "rim":
        return "rim of the top"
    if head == "wrap":
        return f"behind the edge, {tail}" if tail else "behind the edge"
    if head == "facial" and tail:
        return f"facial surface, {tail} third"
    if head == "functional-cusp-bevel":
        return "functional-cusp bevel"
    if head == "finish-line-band":
        return "finish line"
    text = head.replace("-", " ").replace("lingual", lingual_word)
    return f"{text}, {tail}" if tail else text


def direction_of(zone_points: Floats, middle: Floats) -> Floats:
    """Mean outward direction of a zone from the tooth's middle."""
    return unit((zone_points - middle).mean(axis=0))


def where(zone: str, place: str = "", lingual_word: str = "lingual") -> str:
    """A zone, side or sector in the words a dentist uses; `place`: what a side is called there (finish line, wall)."""
    if zone in ("faciolingual", "mesiodistal"):
        return zone
    if zone == "overall" or "/" in zone or "-" in zone:
        return words(zone, lingual_word)
    side = zone.replace("lingual", lingual_word)
    return f"{side} {place}" if place else words(zone, lingual_word)
