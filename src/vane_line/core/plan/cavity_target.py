"""A cavity's target: the tooth with an occlusal part, boxes and covered cusps taken out of it, as a tapered bur with a
rounded end would leave it.

The outline is drawn by a hand on the tooth, or laid along the central groove as wide as the standard asks. Floors lie
square to the path, walls lean outward from them. Decay and an old filling decide the rest: a plan does not see them.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.interpolate import CubicSpline, RegularGridInterpolator
from scipy.ndimage import grey_dilation, grey_erosion
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.judge.standards import Bounds, Limits, Standard
from vane_line.core.measure.zones import is_functional
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.body import GRID_MM, Standing, rounded_max
from vane_line.core.plan.cavity_choice import CavityChoice
from vane_line.core.plan.depths import Site
from vane_line.core.plan.line import PlannedLine
from vane_line.core.plan.plan import Ground
from vane_line.core.plan.target import back_depth
from vane_line.core.tooth.anatomy import Anatomy
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import unit, xyz
from vane_line.errors import BadOption

INNER_MM, EDGE_MM = 0.45, 0.4  # radius of the inner angles, and of the edges between floors, walls and covered cusps
LEAST_HALF_MM = 0.7  # of the floor: a bur's end goes down there
LOW_SHARE, FISSURE_MM = 0.01, 0.25  # of the surface over the floor, and round a place of it
OVER_LEAST_MM = 0.08  # by which the shallowest place is deeper than the least
RIDGE_MM = 1.8  # of a marginal ridge that stays where there is no box (common practice, no source)
SHARE_SPARE = 0.04  # under the isthmus' greatest share of the distance between the cusps
BOX_LOWER_MM = 1.0  # than the pulpal floor, or it is no box
PAST_MM = 0.1  # over the wanted distance to the neighbour
FREE_HALF_MM = 1.6  # of a box where no neighbour stands
BOX_HALF_MM, MOST_BOX_SHARE = 0.7, 0.36  # least half width of a box's floor; most, of the faciolingual size
FLARE_DEG = 35.0  # that a box's side follows the tooth's own surface at most
GUM_SPARE_MM = 0.2  # over the gingiva, that a box's floor keeps
SAMPLE_MM, CURVE_MM, DRAWN_LEAST = 0.05, 0.25, 24
SKIN_COSINE = 0.22  # of a normal to the path: what looks up
COVER_COSINE = 0.42  # steeper is a covered cusp's outer side, to which the cut goes straight out
COVER_REACH_MM, COVER_CELL_MM = 2.0, 0.1
CREST_MM = 0.5  # radius of a covered cusp's crests: a mill's bur
CUSP_ZONES = ("functional-cusp", "non-functional-cusp")
FOLLOWS = "follows from gingiva and contact"


@dataclass(frozen=True)
class BoxPlan:
    """One box, local mm. sign: of x, outward. level: of its floor; axial: x of the axial wall's foot, outward; ends:
    facial and lingual, each a place (x, y) that its side passes at the floor's level, and how far it flares."""

    side: str
    sign: float
    level: float
    axial: float
    ends: tuple[tuple[float, float, float], tuple[float, float, float]]

    @property
    def half_mm(self) -> float:
        """Half of its floor's width at the outer edge."""
        return (self.ends[0][1] - self.ends[1][1]) / 2


@dataclass(frozen=True, eq=False)
class CavityShape:
    """What is taken out. foot: (K, 2) closed course of the occlusal walls' foot, local; level: of the pulpal floor;
    covered: the cusps that are taken down, with their sites; said: what the person should know."""

    line: PlannedLine
    lean_deg: float
    foot: Floats
    level: float
    boxes: tuple[BoxPlan, ...]
    covered: tuple[str, ...]
    said: tuple[str, ...]


# --- shape ---------------------------------------------------------------------------------------------------------


def covered_cusps(choice: CavityChoice, restoration: str, anatomy: Anatomy, functional: str) -> tuple[str, ...]:
    """Those chosen; where none was: none for an inlay, all for an overlay, the functional ones for an onlay. Raises
    BadOption for a cusp that the tooth has not."""
    if restoration == "inlay":
        return ()
    if restoration == "overlay":
        return tuple(anatomy.cusps)
    if choice.covered is not None:
        unknown = set(choice.covered) - set(anatomy.cusps)
        if unknown:
            raise BadOption(f"covered {', '.join(sorted(unknown))}: this tooth has {', '.join(anatomy.cusps)}.")
        return tuple(c for c in anatomy.cusps if c in choice.covered)
    return tuple(c for c in anatomy.cusps if is_functional(c, functional))


def cavity_shape(ground: Ground, standard: Standard) -> CavityShape:
    """The cavity that the standard asks for on this tooth, as far as the person left it to it. Raises BadOption where
    an outline was drawn beside the tooth."""
    choice, axes, said = ground.options.cavity, ground.axes, list[str]()
    tooth = ground.tooth.surface
    local = axes.local(tooth.vertices)
    lean = float(standard.bounds("divergence").target or 6.0)
    depth = standard.bounds("cavity-depth")
    least, wanted = float(depth.min or 1.5), float(depth.target or depth.min or 1.8)
    heights, sides = _heights(tooth, axes), choice.boxes
    if choice.outline is not None:
        drawn = _curve(axes.local(choice.outline))
        if not (_signed(drawn[:, :2], np.asarray(heights[0].data)) < -LEAST_HALF_MM).any():
            raise BadOption(
                "outline: it encloses too little of this tooth; draw it round the cavity, on the tooth's top."
            )
        level = _level(heights, _floor_of(drawn[:, :2], local, sides, standard), least, wanted, ground.lift_mm)
        foot = _moved_in(drawn, level, lean)
    else:
        half = _half_width(ground, standard, wanted, lean)
        course = _course(ground.anatomy, local, axes, sides, half)
        foot = _around(course, half)
        level = _level(heights, _floor_of(foot, local, sides, standard), least, wanted, ground.lift_mm)
    boxes = tuple(_box(ground, standard, local, side, level, lean, said) for side in sides)
    if choice.outline is not None:
        for box in boxes:
            if (box.sign * foot[:, 0]).max() < box.axial:
                said.append(f"The outline that was drawn does not reach the {box.side} box: draw it through the ridge.")
    covered = covered_cusps(choice, ground.options.case.restoration, ground.anatomy, ground.functional.side)
    return CavityShape(ground.line, lean, foot, level, boxes, covered, tuple(said))


def _curve(points: Floats) -> Floats:
    """(K, 3) a smooth closed curve through a hand's few points (N, 3)."""
    closed = np.concatenate([points, points[:1]])
    along = np.r_[0.0, np.cumsum(np.maximum(np.linalg.norm(np.diff(closed, axis=0), axis=1), 1e-6))]
    count = max(int(along[-1] / CURVE_MM), DRAWN_LEAST)
    at = np.linspace(0, along[-1], count, endpoint=False)
    return np.asarray(CubicSpline(along, closed, bc_type="periodic")(at))


def _heights(tooth: Surface, axes: Axes) -> tuple[cKDTree, Floats]:
    """The occlusal surface in plan, and how high it stands there."""
    up = tooth.vertex_normals @ axes.up > SKIN_COSINE
    local = axes.local(tooth.vertices[up])
    return cKDTree(local[:, :2]), local[:, 2]


def _level(heights: tuple[cKDTree, Floats], course: Floats, least: float, wanted: float, lift: float) -> float:
    """Height of the pulpal floor: the median as deep as wanted, nowhere less deep than the least."""
    tree, height = heights
    over = np.flatnonzero(_signed(course, np.asarray(tree.data)) < -INNER_MM / 2)
    above = height[over] if len(over) else height
    # As a depth is judged: a fissure's own bottom is passed over.
    near = tree.query_ball_point(np.asarray(tree.data)[over], FISSURE_MM)
    broad = np.array([height[n].mean() for n in near]) if len(over) else above
    return float(min(np.quantile(broad, LOW_SHARE) - least - OVER_LEAST_MM, np.median(above) - wanted) + lift)


def _floor_of(foot: Floats, local: Floats, boxes: tuple[str, ...], standard: Standard) -> Floats:
    """(K, 2) the part of a closed course over which the floor is: not over the boxes."""
    deep = float(standard.bounds("box-depth").target or 1.3)
    out = foot.copy()
    for side in boxes:
        sign = 1.0 if side == "mesial" else -1.0
        out[:, 0] = sign * np.minimum(sign * out[:, 0], float((sign * local[:, 0]).max()) - deep - INNER_MM)
    return out


def _lowest_over(heights: tuple[cKDTree, Floats], course: Floats) -> Floats:
    """(2,) a place of the surface over a floor where it is the least deep, fissures aside."""
    tree, height = heights
    over = np.flatnonzero(_signed(course, np.asarray(tree.data)) < -INNER_MM / 2)
    if not len(over):
        return np.asarray(course.mean(axis=0))
    low = np.quantile(height[over], LOW_SHARE)
    return np.asarray(tree.data)[over[np.argmin(np.abs(height[over] - low))]]


def _height_at(heights: tuple[cKDTree, Floats], at: Floats) -> float:
    tree, height = heights
    return float(height[tree.query(at)[1]])


def _half_width(ground: Ground, standard: Standard, deep: float, lean: float) -> float:
    """Half of the floor's width: so that the isthmus at the outline is as wide as wanted, the cusps allowing."""
    wide = standard.bounds("isthmus")
    target = float(wide.target or wide.min or 2.0)
    share = standard.bounds("isthmus-share").max
    apart = _cusps_apart(ground.anatomy)
    if share is not None and apart is not None:
        target = max(float(wide.min or 0.0) + OVER_LEAST_MM, min(target, (share - SHARE_SPARE) * apart))
    return max(target / 2 - deep * float(np.tan(np.radians(lean))), LEAST_HALF_MM)


def _cusps_apart(anatomy: Anatomy) -> float | None:
    """The least distance across the row between a facial and a lingual cusp."""
    y = {name: float(tip[1]) for name, tip in anatomy.cusps.items()}
    lingual = [v for name, v in y.items() if "lingual" in name]
    facial = [v for name, v in y.items() if "lingual" not in name]
    return min(facial) - max(lingual) if facial and lingual else None


def _course(anatomy: Anatomy, local: Floats, axes: Axes, boxes: tuple[str, ...], half: float) -> Floats:
    """(K, 2) along the central groove: through a ridge where a box is, short of it elsewhere."""
    x, y = anatomy.groove_x, anatomy.groove_y
    reach = []
    for side, sign in (("distal", -1.0), ("mesial", 1.0)):
        outer = float((sign * local[:, 0]).max())
        reach.append(sign * (outer - (0.6 if side in boxes else RIDGE_MM + half)))
    at = np.arange(reach[0], max(reach[1], reach[0] + 2 * SAMPLE_MM), SAMPLE_MM)
    return np.stack([at, np.interp(at, x, y)], axis=1)


def _around(course: Floats, half: float) -> Floats:
    """(K, 2) the closed course at `half` mm about a course in plan."""
    along = unit(np.gradient(course, axis=0))
    side = half * np.stack([-along[:, 1], along[:, 0]], axis=1)
    turn = np.radians(np.arange(0, 180, 6.0))[:, None]

    def cap(end: Floats, outward: Floats) -> Floats:
        across = np.array([outward[1], -outward[0]])
        return np.asarray(end + half * (np.cos(turn) * across + np.sin(turn) * outward))

    return np.concatenate([
        course - side, cap(course[-1], along[-1]), (course + side)[::-1], cap(course[0], -along[0]),
    ])  # fmt: skip


def _moved_in(drawn: Floats, level: float, lean: float) -> Floats:
    """(K, 2) the foot at `level` of walls that lean by `lean` degrees and come out at an outline (K, 3), local."""
    back, on = np.roll(drawn[:, :2], 1, axis=0), np.roll(drawn[:, :2], -1, axis=0)
    along = unit(on - back)
    inward = np.stack([-along[:, 1], along[:, 0]], axis=1)
    if _area(drawn[:, :2]) < 0:
        inward = -inward
    return np.asarray(drawn[:, :2] + inward * (np.maximum(drawn[:, 2] - level, 0) * np.tan(np.radians(lean)))[:, None])


def _area(course: Floats) -> float:
    x, y = course.T
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)


def _signed(course: Floats, places: Floats) -> Floats:
    """(N,) distance in plan of places (N, 2) to a closed course (K, 2), negative within."""
    from skimage.measure import points_in_poly  # half a second to import: only where a plan is made

    step = np.linalg.norm(np.roll(course, -1, axis=0) - course, axis=1)
    dense = [
        a + (b - a) * np.linspace(0, 1, max(int(d / SAMPLE_MM), 1), endpoint=False)[:, None]
        for a, b, d in zip(course, np.roll(course, -1, axis=0), step, strict=True)
    ]
    away, _ = cKDTree(np.concatenate(dense)).query(places)
    within = points_in_poly(places, course)  # type: ignore[no-untyped-call]
    return np.asarray(np.where(within, -away, away))


# --- boxes ---------------------------------------------------------------------------------------------------------


def _box(
    ground: Ground, standard: Standard, local: Floats, side: str, pulpal: float, lean: float, said: list[str]
) -> BoxPlan:
    """A box past the contact, as deep along the row as the standard asks; adds to `said` what it cannot do."""
    sign, tooth = (1.0 if side == "mesial" else -1.0), ground.tooth.surface
    clear = standard.bounds("contact-clearance")
    wanted = float(clear.target or clear.min or 0.5) + PAST_MM
    beside = ground.axes.local(ground.beside) if len(ground.beside) else np.empty((0, 3))
    beside = beside[beside[:, 0] * sign > 0]
    away = cKDTree(beside).query(local)[0] if len(beside) else np.full(len(local), np.inf)
    line, azimuth = ground.line, 90.0 if side == "mesial" else 270.0
    lowest = float(line.at(azimuth + np.arange(-20, 21, 4.0), line.height).max())
    gum = min(lowest - ground.options.above_gingiva_mm + GUM_SPARE_MM, lowest)  # no lower than this past a contact
    facing = (local[:, 0] * sign > 0) & (tooth.vertex_normals @ (sign * ground.axes.quarter) > 0.3)
    touching = facing & (away < wanted)
    level = lowest
    if touching.any():
        level = float(np.clip(local[touching, 2].min() - PAST_MM, gum, lowest))
    if level > pulpal - BOX_LOWER_MM:
        level = pulpal - BOX_LOWER_MM
        said.append(f"The {side} box comes nearer to the gingiva than you chose, since the tooth is short there.")
    rows = facing & (np.abs(local[:, 2] - level) < 0.4)
    across = np.tan(np.radians(lean))
    middle = float(ground.anatomy.groove_y[-1 if sign > 0 else 0])
    size = float(ground.anatomy.size[1])
    if touching.any():
        spread = local[touching]
        reach = [
            float((s * (spread[:, 1] - middle) - np.maximum(spread[:, 2] - level, 0) * across).max()) for s in (1, -1)
        ]
    else:
        reach = [FREE_HALF_MM, FREE_HALF_MM]
    most = MOST_BOX_SHARE * size
    if max(reach) > most:
        said.append(f"The {side} contact is so broad that the box does not go past it all the way: see its edges.")
    halves = [float(np.clip(r, BOX_HALF_MM, most)) for r in reach]
    facial, lingual = (
        _end(local, tooth, ground.axes, rows, sign, middle + s * h, s) for s, h in zip((1, -1), halves, strict=True)
    )
    deep = float(standard.bounds("box-depth").target or 1.3)
    # Between the teeth a scan sees little there: the line is known all round, and passes near.
    outer = float(line.at(np.array([azimuth]), line.radius)[0])
    here = rows & (np.abs(local[:, 1] - middle) < 0.6) & (np.abs(local[:, 2] - level) < 0.2)
    if level - lowest > 0.3 and here.any():
        outer = float(np.median(local[here, 0] * sign))
    return BoxPlan(side, sign, level, outer - deep, (facial, lingual))


def _end(
    local: Floats, tooth: Surface, axes: Axes, rows: Bools, sign: float, y: float, s: float
) -> tuple[float, float, float]:
    """Where a box's side comes out (x, y), and the degrees that it flares: square to the tooth's own surface there."""
    near = rows & (np.abs(local[:, 1] - y) < 0.5)
    if not near.any():
        return sign * float(np.abs(local[:, 0]).max()), y, 0.0
    n = tooth.vertex_normals[near].mean(axis=0)
    out, aside = float(n @ axes.quarter) * sign, float(n @ axes.zero) * s
    flare = float(np.clip(np.degrees(np.arctan2(aside, max(out, 1e-6))), 0.0, FLARE_DEG))
    return sign * float(np.median(local[near, 0] * sign)), y, flare


# --- depths --------------------------------------------------------------------------------------------------------


def cavity_sites(ground: Ground, standard: Standard, found: list[Site]) -> list[Site]:
    """The covered cusps' sites, the pulpal floor's and each box's; found: the sites of the whole tooth."""
    shape = cavity_shape(ground, standard)
    own = [s for s in found if s.zone.split("/")[0] in CUSP_ZONES and s.zone.rpartition("/")[2] in shape.covered]
    tooth, axes = ground.tooth.surface, ground.axes
    inside = _floor_of(shape.foot, axes.local(tooth.vertices), ground.options.cavity.boxes, standard)
    at = _lowest_over(_heights(tooth, axes), inside)
    places: list[tuple[str, str, Floats, float, Bounds | None]] = [
        ("floor", "floor of the cavity", at, shape.level, standard.bounds("cavity-depth"))
    ]
    for box in shape.boxes:
        middle = (box.ends[0][1] + box.ends[1][1]) / 2
        x = box.sign * (box.axial + float(standard.bounds("box-depth").target or 1.3) / 2)
        places.append((f"box/{box.side}", f"{box.side} box", np.array([x, middle]), box.level, None))
    known, why = all(s.depth_mm is not None for s in found), found[0].why if found else ""
    for zone, where, at, level, bounds in places:
        height = _height_at(_heights(tooth, axes), at)
        deep = height - level
        limits, most = Limits(deep, deep, deep, FOLLOWS), None
        if bounds is not None:
            limits = Limits(bounds.min or 0.0, bounds.target or deep, bounds.max or deep, bounds.source)
            most = limits.max
        place = xyz(axes.world(np.array([[*at, height]]))[0])
        told = ("" if bounds is not None else FOLLOWS) if known else why
        own.append(Site(
            zone=zone, where=where, at=place, needed=limits, gap_mm=0.0 if bounds is None else ground.lift_mm,
            depth_mm=deep if known else None, most_mm=most, use=None, why=told,
        ))  # fmt: skip
    return own


def cover_costs(ground: Ground, shape: CavityShape, found: list[Site]) -> dict[str, float]:
    """By cusp, the mm³ of tooth that covering it takes beside what the cavity takes. found: sites of all cusps."""
    there = Standing.of(ground.tooth.surface, ground.axes, shape.line)
    hollow = np.minimum.reduce(_parts(shape, there.local))
    left = (there.body < 0) & (hollow > 0)
    out = {}
    for name in ground.anatomy.cusps:
        part = cover_part(ground.tooth.surface, ground.axes, replace(shape, covered=(name,)), found, ground.anatomy,
                          there.local[left])  # fmt: skip
        out[name] = 0.0 if part is None else float((part < 0).sum()) * GRID_MM**3
    return out


# --- body ----------------------------------------------------------------------------------------------------------


def cavity_body(tooth: Surface, axes: Axes, shape: CavityShape, sites: list[Site], anatomy: Anatomy) -> Surface:
    """The prepared tooth, open below. tooth: eased; sites: with the depth over each covered cusp."""
    there = Standing.of(tooth, axes, shape.line)
    parts = _parts(shape, there.local)
    cover = cover_part(tooth, axes, shape, sites, anatomy, there.local)
    if cover is not None:
        parts.append(cover)
    hollow = -rounded_max([-p for p in parts], EDGE_MM) if len(parts) > 1 else parts[0]
    return there.surfaced(np.maximum(there.body, -hollow))


def _parts(shape: CavityShape, local: Floats) -> list[Floats]:
    """(N,) of the occlusal part and of each box: negative where it is."""
    return [occlusal_part(shape, local), *(box_part(shape, b, local) for b in shape.boxes)]


def occlusal_part(shape: CavityShape, local: Floats) -> Floats:
    """(N,) negative where the occlusal part of the cavity is, at local places (N, 3)."""
    up = local[:, 2] - shape.level
    lean = np.radians(shape.lean_deg)
    # As a rounded end leads it: its foot is the wall's, prolonged to the floor.
    wall = (_signed(shape.foot, local[:, :2]) - up * np.tan(lean)) * np.cos(lean)
    return rounded_max([wall, -up], INNER_MM)


def box_part(shape: CavityShape, box: BoxPlan, local: Floats) -> Floats:
    """(N,) negative where a box is."""
    lean, up = np.radians(shape.lean_deg), local[:, 2] - box.level
    rise = up * np.tan(lean)
    fields = [-up, (box.axial - box.sign * local[:, 0] - rise) * np.cos(lean)]
    for (x, y, flare), s in zip(box.ends, (1.0, -1.0), strict=True):
        turn = np.radians(flare)
        aside = s * (local[:, 1] - y) * np.cos(turn) - box.sign * (local[:, 0] - x) * np.sin(turn)
        fields.append((aside - rise) * np.cos(lean))
    return rounded_max(fields, INNER_MM)


def cover_part(
    tooth: Surface, axes: Axes, shape: CavityShape, sites: list[Site], anatomy: Anatomy, local: Floats
) -> Floats | None:
    """(N,) negative where covered cusps are taken down; None where none is."""
    own = [s for s in sites if s.depth_mm is not None and s.zone.rpartition("/")[2] in shape.covered]
    if not own:
        return None
    cut, slope = _lowered(tooth, axes, own, local[:, :2])
    taken = (cut - local[:, 2]) / np.hypot(1, slope)
    bottom = axes.local(np.array([s.at for s in own]))[:, 2] - [float(s.depth_mm or 0.0) for s in own]
    over = local[:, 2] - float(np.median(bottom))
    border = _beyond(local[:, :2], anatomy, shape.covered) - over * np.tan(np.radians(shape.lean_deg))
    return rounded_max([taken, border, shape.level - local[:, 2]], INNER_MM)


def _lowered(tooth: Surface, axes: Axes, own: list[Site], places: Floats) -> tuple[Floats, Floats]:
    """(N,) height and slope (mm per mm) at places in plan (N, 2) of what the occlusal surface is lowered to, square to
    it by the depth wanted there; beyond its rim straight outward."""
    skin = tooth.vertices[tooth.vertex_normals @ axes.up > COVER_COSINE]
    local = axes.local(skin)
    low, high = local[:, :2].min(axis=0) - COVER_REACH_MM, local[:, :2].max(axis=0) + COVER_REACH_MM
    x, y = (np.arange(a, b, COVER_CELL_MM) for a, b in zip(low, high, strict=True))
    cells = np.stack([g.ravel() for g in np.meshgrid(x, y, indexing="ij")], axis=1)
    away, near = cKDTree(local[:, :2]).query(cells, k=4)
    weight = 1 / (away + 0.05)
    height = ((local[near, 2] * weight).sum(axis=1) / weight.sum(axis=1)).reshape(len(x), len(y))
    depths = [float(s.depth_mm or 0.0) for s in own]
    ends = [_eroded(height, d) for d in (min(depths), max(depths))]
    share = np.zeros(len(places))
    if max(depths) > min(depths):
        share = np.clip((back_depth(places, own, axes) - min(depths)) / (max(depths) - min(depths)), 0, 1)
    out = []
    for told in (ends, [np.hypot(*np.gradient(z, COVER_CELL_MM)) for z in ends]):
        shallow, deep = (RegularGridInterpolator((x, y), z, bounds_error=False, fill_value=None)(places) for z in told)
        out.append(shallow * (1 - share) + deep * share)
    return out[0], out[1]


def _eroded(height: Floats, depth: float) -> Floats:
    """A surface by its heights, lowered square to itself by at least `depth`, its crests rounded: what a ball under it
    comes up to, rolled along from below."""
    low, (square, ball) = height, _ball(depth + CREST_MM)
    low = grey_erosion(low, footprint=square, structure=ball, mode="nearest")
    square, ball = _ball(CREST_MM)
    return np.asarray(grey_dilation(low, footprint=square, structure=ball, mode="nearest"))


def _ball(radius: float) -> tuple[Bools, Floats]:
    """Where a ball stands on the cells, and how high."""
    reach = int(np.ceil(radius / COVER_CELL_MM))
    at = np.arange(-reach, reach + 1) * COVER_CELL_MM
    square = radius**2 - at[:, None] ** 2 - at[None] ** 2
    return square >= 0, np.sqrt(np.maximum(square, 0.0))


def _beyond(places: Floats, anatomy: Anatomy, covered: tuple[str, ...]) -> Floats:
    """(N,) how far places in plan lie beyond the covered cusps' ground: half way to the next standing cusp's tip."""
    standing = [t for name, t in anatomy.cusps.items() if name not in covered]
    if not standing:
        return np.full(len(places), -np.inf)
    tips, others = np.array([anatomy.cusps[n] for n in covered]), np.array(standing)
    mine = ((places[:, None] - tips[None]) ** 2).sum(axis=2)
    theirs = ((places[:, None] - others[None]) ** 2).sum(axis=2)
    near, far = mine.argmin(axis=1), theirs.argmin(axis=1)
    at = np.arange(len(places))
    apart = np.linalg.norm(tips[near] - others[far], axis=1)
    return np.asarray((mine[at, near] - theirs[at, far]) / np.maximum(2 * apart, 1e-9))
