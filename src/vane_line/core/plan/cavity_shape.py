"""A planned cavity's shape: floor and outline of its occlusal part, its boxes, the cusps that it covers.

The outline is drawn by a hand on the tooth, or laid along the central groove as wide as the standard asks. Floors lie
square to the path, walls lean outward from them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.judge.standards import Standard
from vane_line.core.measure.zones import is_functional
from vane_line.core.mesh.surface import Surface
from vane_line.core.plan.cavity_choice import CavityChoice
from vane_line.core.plan.plan import Ground
from vane_line.core.tooth.anatomy import Anatomy
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import unit
from vane_line.errors import BadOption

INNER_MM = 0.45  # radius of the inner angles
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
class Top:
    """A tooth's surface as it looks up: its places in plan (N, 2), local, as a tree, and how high it stands there."""

    tree: cKDTree
    height: Floats

    @classmethod
    def of(cls, tooth: Surface, axes: Axes) -> Top:
        """tooth: eased."""
        local = axes.local(tooth.vertices[tooth.vertex_normals @ axes.up > SKIN_COSINE])
        return cls(cKDTree(local[:, :2]), local[:, 2])

    def over(self, course: Floats) -> Ints:
        """(M,) which of its places lie over a floor within a closed course (K, 2), off its corners."""
        return np.flatnonzero(signed(course, np.asarray(self.tree.data)) < -INNER_MM / 2)

    def broad(self, over: Ints) -> Floats:
        """(M,) how high it stands at some of its places, as a depth is judged: fissures are passed over."""
        near = self.tree.query_ball_point(np.asarray(self.tree.data)[over], FISSURE_MM)
        return np.array([self.height[n].mean() for n in near])

    def at(self, place: Floats) -> float:
        """How high it stands at a place in plan (2,)."""
        return float(self.height[self.tree.query(place)[1]])


@dataclass(frozen=True, eq=False)
class CavityShape:
    """What is taken out. top: the surface that it is cut into; foot: (K, 2) closed course of the occlusal walls' foot,
    local; floor: (K, 2) of it, where the pulpal floor is; level: of that floor; covered: the cusps that are taken down;
    said: what the person should know."""

    top: Top
    lean_deg: float
    foot: Floats
    floor: Floats
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
    choice, axes = ground.options.cavity, ground.axes
    tooth = ground.tooth.surface
    local = axes.local(tooth.vertices)
    lean = float(standard.bounds("divergence").target or 6.0)
    depth = standard.bounds("cavity-depth")
    least, wanted = float(depth.min or 1.5), float(depth.target or depth.min or 1.8)
    top, sides = Top.of(tooth, axes), choice.boxes
    drawn, half = None, _half_width(ground, standard, wanted, lean)
    if choice.outline is not None:
        drawn = _curve(axes.local(choice.outline))
        if not (signed(drawn[:, :2], np.asarray(top.tree.data)) < -LEAST_HALF_MM).any():
            raise BadOption(
                "outline: it encloses too little of this tooth; draw it round the cavity, on the tooth's top."
            )
    course = _around(_course(ground.anatomy, local, sides, half), half) if drawn is None else drawn[:, :2]
    boxes: tuple[BoxPlan, ...] = ()
    level, said = 0.0, list[str]()
    for _ in range(2 if sides else 1):  # a box's depth hangs on the floor's, and where the floor ends on the box
        floor = _floor_of(course, local, sides, standard, boxes)
        level = _level(top, floor, least, wanted, ground.lift_mm)
        said = []
        boxes = tuple(_box(ground, standard, local, side, level, lean, said) for side in sides)
    foot = course if drawn is None else _moved_in(drawn, level, lean)
    if choice.outline is not None:
        for box in boxes:
            if (box.sign * foot[:, 0]).max() < box.axial:
                said.append(f"The outline that was drawn does not reach the {box.side} box: draw it through the ridge.")
    covered = covered_cusps(choice, ground.options.case.restoration, ground.anatomy, ground.functional.side)
    return CavityShape(
        top=top, lean_deg=lean, foot=foot, floor=_floor_of(foot, local, sides, standard, boxes), level=level,
        boxes=boxes, covered=covered, said=tuple(said),
    )  # fmt: skip


def _curve(points: Floats) -> Floats:
    """(K, 3) a smooth closed curve through a hand's few points (N, 3)."""
    closed = np.concatenate([points, points[:1]])
    along = np.r_[0.0, np.cumsum(np.maximum(np.linalg.norm(np.diff(closed, axis=0), axis=1), 1e-6))]
    count = max(int(along[-1] / CURVE_MM), DRAWN_LEAST)
    at = np.linspace(0, along[-1], count, endpoint=False)
    return np.asarray(CubicSpline(along, closed, bc_type="periodic")(at))


def _level(top: Top, course: Floats, least: float, wanted: float, lift: float) -> float:
    """Height of the pulpal floor: the median as deep as wanted, nowhere less deep than the least."""
    over = top.over(course)
    above = top.height[over] if len(over) else top.height
    broad = top.broad(over) if len(over) else above
    return float(min(np.quantile(broad, LOW_SHARE) - least - OVER_LEAST_MM, np.median(above) - wanted) + lift)


def _floor_of(
    foot: Floats, local: Floats, sides: tuple[str, ...], standard: Standard, boxes: tuple[BoxPlan, ...]
) -> Floats:
    """(K, 2) the part of a closed course over which the floor is: as far as the boxes' inner walls, where these are not
    known yet about as far."""
    deep, out = float(standard.bounds("box-depth").target or 1.3), foot.copy()
    known = {box.side: box.axial for box in boxes}
    for side in sides:
        sign = 1.0 if side == "mesial" else -1.0
        end = known[side] - INNER_MM / 2 if side in known else float((sign * local[:, 0]).max()) - deep - INNER_MM
        out[:, 0] = sign * np.minimum(sign * out[:, 0], end)
    return out


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


def _course(anatomy: Anatomy, local: Floats, boxes: tuple[str, ...], half: float) -> Floats:
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


def signed(course: Floats, places: Floats) -> Floats:
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
