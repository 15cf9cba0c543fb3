"""Form of a window: its incisal end, the planes of its face, where it ends beside the contacts."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats
from vane_line.core.measure.front_form import Planes
from vane_line.core.measure.line_form import eased_widths
from vane_line.core.measure.margin import SEAM_AWAY_MM, seam_level
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.line import OutlineLine
from vane_line.core.rings import degrees_apart, ring_runs, without_gaps
from vane_line.core.spread import graded, weighted_quantile
from vane_line.core.trace.section import STEP_MM, Axes
from vane_line.core.vectors import xyz

MIDDLE_HALF_MM, MIDDLE_EASE_MM = 0.8, 0.4  # of the middle profile, averaged over so much to either side, by and by
FACET_COSINE = 0.64  # 50 degrees: what faces the incisal edge's way
FACET_DEEP_MM = 2.5  # under its top it is no facet any more
LEAST_POINTS = 8
BEHIND_COSINE = -0.35  # of a normal to the facial direction: it looks to the back
SLOPE_COSINE = -0.2  # of a cusp's inner slope
END_MM = 0.4  # in from a line on a cusp's slope, past the wall that rises to it
WRAP_MM = 0.35  # a line that lies so far below the edge behind wraps over it
TOP_MM = 0.40  # a line so near to the tooth's top ends at its edge
SHORTENED_MM = 0.30  # a tooth shortened by less was not
EDGE_SHARE = 0.98
EDGE_MM = 0.05  # below its top: the edge itself
ROUNDED_MM = 0.25  # of a facet's ends, rounded by bur and scan
NEIGHBOURS, ROW_U_MM = 7, 0.004  # that smoothing makes one; of a row's height against the next
SIDE_COSINE = 0.5  # of the direction across the line, or of what was left, to mesial or distal
NECK_COSINE, NECK_TURN = 0.55, 0.75  # the neck ends where what was left turns to the side by more
ENDS = (0.02, 0.98)
NEAR_EDGE_MM = 0.35  # of a butt's facet
GAP_POINTS = 3  # of the line: a gap of fewer, as by one triangle that looks another way, parts no stretch
JOIN_POINTS = 10  # of the line between two stretches of one side
LEAST_STRETCH = 5  # points of the line
SCOOP_SHARE = 0.9
CONTACT_SAY_MM = 0.03  # a place whose gap to the neighbour is wider by this has a third of the say
CONTACT_REACH_MM = 1.5  # a gap wider than this is no contact's place
CONTACT_COSINE = 0.4
LEVEL_HALF_MM, LEVEL_BLUR = 0.5, 0.25  # over and under a contact, what lies nearer to its level having more say
ABOVE_NECK_SHARE = 0.25  # of the crown: lower, a papilla is as near as the tooth


@dataclass(frozen=True)
class Incisal:
    """The incisal end, read from the middle profile. reduction_mm: from the cut to the planned edge, along the occlusal
    direction; angle_deg: of a butt's facet to it; angle_u_deg: its standard uncertainty, as the facet's rows tell it;
    longer_mm: by how much the planned edge stands over the one before; planned: the middle of the planned edge; None
    where not told. facet: height over the axes' origin at their middle, and slope against the facial direction."""

    form: str  # window | feather | butt | wrap
    at: tuple[float, float, float]
    facet: tuple[float, float]
    longer_mm: float | None
    planned: tuple[float, float, float] | None
    reduction_mm: float | None = None
    angle_deg: float | None = None
    angle_u_deg: float = 0.0
    wrap_length_mm: float | None = None
    wrap_depth_mm: float | None = None
    over_cusp: bool = False

    def level(self, out: Floats) -> Floats:
        """Height of the facet where places lie so far facial of the axes' origin."""
        return np.asarray(self.facet[0] + self.facet[1] * out)


@dataclass(frozen=True)
class Ending:
    """How far past the contact (negative: short of it) the line ends on a side; None where the contact is not known.

    spread_mm: over how much of the tooth the gap is as narrow: the flatter the contact, the less its middle is told.
    """

    side: str
    past_contact_mm: float | None
    at: tuple[float, float, float] | None
    why: str = ""
    spread_mm: float = 0.0


@dataclass(frozen=True)
class Scoop:
    """How wide the ledge is where the line ends on a side or behind."""

    side: str
    width_mm: float
    at: tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Stretches:
    """Which of the line's points (K,) lie at the neck, beside the neighbours, behind, and along the edge: there a butt
    or the face itself ends without a ledge."""

    neck: Bools
    mesial: Bools
    distal: Bools
    behind: Bools
    edge: Bools

    def named(self) -> dict[str, Bools]:
        """By the contract's words for a side."""
        return {"facial": self.neck, "mesial": self.mesial, "distal": self.distal, "lingual": self.behind}


def facing_back(line: OutlineLine, axes: Axes, cusp: Surface | None = None) -> Bools:
    """(K,) where what was left beside the line looks to the back. cusp: the back tooth before, whose inner slope looks
    up as well: there it is told a little behind the line, off the edge that the scan rounds."""
    if cusp is None:
        return without_gaps(line.skin @ axes.zero < BEHIND_COSINE, GAP_POINTS)
    _, face, _ = cusp.closest(line.points - END_MM * axes.zero)
    slope = cusp.face_normals[face]
    return without_gaps((slope @ axes.zero < SLOPE_COSINE) & (slope @ axes.up > FACET_COSINE), GAP_POINTS)


def stretches(line: OutlineLine, axes: Axes, incisal: Incisal | None, behind: Bools) -> Stretches:
    """Told by which way the line faces and what was left beside it does; behind: (K,) where that looks to the back."""
    off = line.points - axes.origin
    height, across = off @ axes.up, off @ axes.quarter
    middle = float(np.quantile(height, ENDS).mean())
    edge = np.zeros(len(height), dtype=bool)
    over_cusp = incisal is not None and incisal.over_cusp  # to its sides the line climbs the cusp's ridge
    if incisal is not None and (incisal.form in ("butt", "feather") or over_cusp):
        level = incisal.level(off @ axes.zero)
        edge = (height > level - NEAR_EDGE_MM) & (height > middle)
    if over_cusp:
        edge &= ~behind
    else:
        behind = behind & ~edge
    sideways = np.abs(line.skin @ axes.quarter)
    neck = ~behind & (height < middle) & (line.outward @ axes.up < -NECK_COSINE) & (sideways < NECK_TURN)
    rest = ~edge & ~behind & ~neck
    beside = rest & (
        (np.abs(line.outward @ axes.quarter) > SIDE_COSINE) | (np.abs(line.skin @ axes.quarter) > SIDE_COSINE)
    )
    return Stretches(neck, _longest(beside & (across > 0)), _longest(beside & (across < 0)), behind, edge)


def _longest(mask: Bools) -> Bools:
    """(K,) of a mask on the closed line the longest stretch: a side has one, and what of a butt's end looks sideways
    is none of it."""
    out = np.zeros(len(mask), dtype=bool)
    out[max(ring_runs(mask, JOIN_POINTS), key=len, default=np.zeros(0, dtype=np.int64))] = True
    return out


def incisal_form(
    inside: Surface, eased: Surface, line: OutlineLine, widths: Floats, planned: Surface | None,
    earlier: Surface | None, axes: Axes, behind: Bools, cusp: bool,
) -> Incisal | None:  # fmt: skip
    """inside: the cut surface; eased: the scan round the tooth. planned: the surface that the edge is measured to;
    earlier: the tooth before; behind: (K,) where the line lies at the back; cusp: whether the edge is a cusp's, whose
    inner slope runs to a groove: the wrap is then as long as it reaches down from the planned cusp. None where nothing
    of it is seen in the middle of the tooth."""
    middle = _middle_of(inside, axes)
    near = _slab(inside.vertices, middle, axes)
    say = graded(MIDDLE_HALF_MM - np.abs((line.points - middle) @ axes.quarter), MIDDLE_EASE_MM)
    crossing = say > 0
    if near.sum() < LEAST_POINTS or not crossing.any():
        return None
    height, out = (inside.vertices - middle) @ axes.up, (inside.vertices - middle) @ axes.zero
    top = float(np.quantile(height[near], EDGE_SHARE))
    normals = inside.even_normals
    at = xyz(inside.vertices[near][int(np.argmin(np.abs(height[near] - top)))])
    line_height = (line.points - middle) @ axes.up
    behind = crossing & behind
    whole = _top_of(eased, middle, axes)
    before, goal = (None if s is None else _top_of(s, middle, axes) for s in (earlier, planned))
    longer = None if before is None or goal is None else goal.height - before.height
    there = None if goal is None else goal.place(middle, axes)
    told = partial(Incisal, at=at, longer_mm=longer, planned=there)
    if not behind.any() and whole is not None and top < whole.height - TOP_MM:
        return told("window", facet=(whole.height, 0.0))
    facet = _facet(inside, normals, near, (out, height), top, axes, cusp=cusp)
    # Under the planned edge itself: along a direction that is a little off, a level edge has its top at one end.
    reduction = None if goal is None else goal.height - (facet.middle + facet.slope * (goal.out - facet.centre))
    plane = facet.middle - facet.slope * facet.centre, facet.slope
    if behind.any():
        ridge = goal if cusp else None
        length = (facet.end if ridge is None else ridge.height) - _median(line_height[behind], say[behind])
        wall = near & (normals @ axes.zero < BEHIND_COSINE)
        if length > WRAP_MM and (ridge is not None or wall.any()):
            here, depth = behind & np.isfinite(widths), None
            if ridge is not None and earlier is not None:
                depth = _end_depth(inside, line.points[behind], say[behind], earlier, axes)
            elif here.any():
                depth = _median(widths[here], say[here])
            return told("wrap", facet=plane, reduction_mm=reduction, wrap_length_mm=length, wrap_depth_mm=depth,
                        over_cusp=ridge is not None)  # fmt: skip
    if (before is not None and before.height - facet.middle < SHORTENED_MM) or facet.angle_deg is None:
        return told("feather", facet=plane, reduction_mm=reduction)
    return told("butt", facet=plane, reduction_mm=reduction, angle_deg=facet.angle_deg,
                angle_u_deg=facet.angle_u_deg)  # fmt: skip


def _end_depth(inside: Surface, ends: Floats, say: Floats, earlier: Surface, axes: Axes) -> float:
    """How deep under the tooth before the cut lies where it ends on a cusp's inner slope, END_MM facial of its line
    `ends` (K, 3), each with its `say` (K,)."""
    places = ends + END_MM * axes.zero + END_MM * axes.up
    face, down = inside.first_hit(places, -axes.up)
    met = face >= 0
    places = np.where(met[:, None], places - np.where(met, down, 0.0)[:, None] * axes.up, inside.closest(places)[2])
    return _median(earlier.closest(places)[0], say)


def _median(values: Floats, say: Floats) -> float:
    """Of values (K,), each with its say (K,); with the half of them about it, so that none tips it over."""
    return weighted_quantile(values, say, 0.5, 0.25)


def _middle_of(inside: Surface, axes: Axes) -> Floats:
    """The axes' origin moved to the middle of the cut, mesiodistally."""
    across = (inside.vertices - axes.origin) @ axes.quarter
    ends = np.quantile(across, [0.02, 0.98])
    return np.asarray(axes.origin + ends.mean() * axes.quarter)


def _slab(points: Floats, middle: Floats, axes: Axes) -> Bools:
    return np.asarray(np.abs((points - middle) @ axes.quarter) < MIDDLE_HALF_MM)


@dataclass(frozen=True)
class _Top:
    """Height of a surface's edge over the middle, and how far facial of it it stands."""

    height: float
    out: float

    def place(self, middle: Floats, axes: Axes) -> tuple[float, float, float]:
        """Of the edge, mm."""
        return xyz(middle + self.height * axes.up + self.out * axes.zero)


def _top_of(surface: Surface, middle: Floats, axes: Axes) -> _Top | None:
    """Of its few highest places, free of single odd ones."""
    here = _slab(surface.vertices, middle, axes)
    if here.sum() < LEAST_POINTS:
        return None
    height = ((surface.vertices - middle) @ axes.up)[here]
    areas = surface.vertex_areas[here]
    share = min(0.15 / max(float(areas.sum()), 1e-6), 0.2)
    value = weighted_quantile(height, areas, 1 - share, share)
    high = height > value - EDGE_MM
    out = ((surface.vertices - middle) @ axes.zero)[here]
    return _Top(value, float(areas[high] @ out[high] / areas[high].sum()))


@dataclass(frozen=True)
class _Facet:
    """Of what faces the incisal edge's way: heights of its middle and of its end behind, slope against the facial
    direction, where its middle lies along that, and the angle of its run backward to the occlusal direction."""

    middle: float
    end: float
    slope: float
    centre: float
    angle_deg: float | None
    angle_u_deg: float = 0.0


def _facet(
    inside: Surface, normals: Floats, near: Bools, place: tuple[Floats, Floats], top: float, axes: Axes, cusp: bool
) -> _Facet:
    """near: (N,) the middle profile's vertices; place: how far facial, and how high, each lies. cusp: a wall may rise
    behind, to where the cut ends on the cusp's inner slope: then it is the largest that faces so, not the highest.
    """
    out, height = place
    facing = (normals @ axes.up > FACET_COSINE) & (height > top - FACET_DEEP_MM)
    label = inside.parts(facing)
    high = facing & near & (cusp | (height > top - 2 * ROUNDED_MM))
    if high.sum() < LEAST_POINTS:
        return _Facet(top, top, 0.0, float(np.median(out[near])), None)
    # A ledge behind faces the same way, but lies apart.
    facing &= near & (label == np.bincount(label[high], weights=inside.vertex_areas[high]).argmax())
    x, z, y = out[facing], height[facing], inside.vertices[facing] @ axes.quarter
    low, far = np.quantile(x, [0.02, 0.98])
    centre = float(low + far) / 2
    # A scan's rows lie as far apart as its edges are long: few on so narrow a facet, and each gives way by and by.
    say = graded(np.minimum(x - low, far - x) - ROUNDED_MM, max(EDGE_MM, inside.usual_edge_mm))
    if far - low < 2 * ROUNDED_MM + 0.2 or (say > 0).sum() < LEAST_POINTS:
        return _Facet(top, top, 0.0, float(np.median(x)), None)
    # A plane, not a line: in few rows what it falls from one side of the tooth to the other would pass for its slope.
    base, slope, u = fallen(x - centre, y, z, say * inside.vertex_areas[facing])
    # Backward is towards minus: a facet that falls to the back opens the angle.
    angle = 90 + float(np.degrees(np.arctan(slope)))
    return _Facet(base, base + slope * (float(low) - centre), slope, centre, angle, u)


def fallen(x: Floats, y: Floats, z: Floats, say: Floats) -> tuple[float, float, float]:
    """Of the plane through places (K,), each with its say: its height in the middle, its slope along x, and the
    standard uncertainty of that, degrees, from how far the places lie off it."""
    weigh = np.sqrt(say)
    terms = np.stack([np.ones_like(x), x, y - np.average(y, weights=say)], axis=1)
    found, *_ = np.linalg.lstsq(terms * weigh[:, None], z * weigh, rcond=None)
    off = float(np.average((z - terms @ found) ** 2, weights=say)) * NEIGHBOURS / max(len(x), NEIGHBOURS)
    spread = float(np.cov(x, aweights=say, ddof=0))
    u = np.sqrt((off + ROW_U_MM**2) / max(spread, 1e-9))
    return float(found[0]), float(found[1]), float(np.degrees(np.arctan(u)))


def face_planes(inside: Surface, line: OutlineLine, axes: Axes) -> Planes:
    """The straight runs of the face's middle profile, against the occlusal direction."""
    middle = _middle_of(inside, axes)
    normals = inside.vertex_normals
    away, _ = cKDTree(line.points).query(inside.vertices)
    face = _slab(inside.vertices, middle, axes) & (normals @ axes.zero > 1 - SIDE_COSINE) & (away > 2 * WRAP_MM)
    if face.sum() < LEAST_POINTS:
        return Planes()
    height, out = (inside.vertices[face] - middle) @ axes.up, (inside.vertices[face] - middle) @ axes.zero
    low, high = np.quantile(height, [0.01, 0.99])
    grid = np.arange(low, high - WRAP_MM, STEP_MM)
    if len(grid) < 2:
        return Planes()
    order = np.argsort(height)
    window = 2 * STEP_MM
    first, last = (np.searchsorted(height[order], grid + sign * window) for sign in (-1, 1))
    sums = np.r_[0.0, np.cumsum(out[order])]
    count = np.maximum(last - first, 1)
    course = np.where(last > first, (sums[last] - sums[first]) / count, np.nan)
    seen = np.isfinite(course)
    return Planes.of(np.interp(grid, grid[seen], course[seen]), grid)


def scoops(line: OutlineLine, widths: Floats, where: Stretches, wrapped: bool) -> list[Scoop]:
    """The ledge's width beside the contacts, and behind where the cut wraps over the edge; none by a doubtful line."""
    eased, found = eased_widths(widths), []
    for side, here in (("mesial", where.mesial), ("distal", where.distal), ("lingual", where.behind)):
        told = here & line.clear & np.isfinite(eased)
        if told.sum() < LEAST_STRETCH or (side == "lingual" and not wrapped):
            continue
        value = float(np.quantile(eased[told], SCOOP_SHARE))
        place = line.points[told][int(np.argmin(np.abs(eased[told] - value)))]
        found.append(Scoop(side, value, xyz(place)))
    return found


def endings(line: OutlineLine, where: Stretches, tooth: Surface | None, beside: Surface, axes: Axes) -> list[Ending]:
    """How far the line ends past the place of least gap to each neighbour before cutting, along the facial direction.

    tooth: before cutting. beside: the scan as far as the neighbours reach, freed of noise.
    """
    out = []
    for side, sign, mine in (("mesial", 1.0, where.mesial), ("distal", -1.0, where.distal)):
        place, spread, why = None, 0.0, "without an earlier scan the contact is not known"
        if tooth is not None:
            place, spread, why = _contact(tooth, beside, axes, sign)
        if place is None:
            out.append(Ending(side, None, None, why))
            continue
        say = 1 - np.abs((line.points - place) @ axes.up) / LEVEL_HALF_MM
        here = mine & (say > 0)
        if here.sum() < 2:
            why = "the line does not run beside the contact"
            out.append(Ending(side, None, None, why))
            continue
        ahead = (line.points[here] - place) @ axes.zero
        value = -weighted_quantile(ahead, say[here], 0.5, LEVEL_BLUR)
        at = xyz(line.points[here][int(np.argmin(np.abs(ahead + value)))])
        out.append(Ending(side, value, at, spread_mm=spread))
    return out


def _contact(tooth: Surface, beside: Surface, axes: Axes, sign: float) -> tuple[Floats | None, float, str]:
    """The middle of the places nearest to the neighbour on one side, and how far they spread along the facial
    direction; or why there are none."""
    none = "no neighbour is seen on this side"
    # However narrow the gap: the neighbour's side faces this tooth, this tooth's faces away from itself.
    onward = sign * ((beside.vertices - axes.origin) @ axes.quarter) > 0
    theirs = beside.vertices[onward & (sign * (beside.vertex_normals @ axes.quarter) < -CONTACT_COSINE)]
    if len(theirs) < LEAST_POINTS:
        return None, 0.0, none
    height = (tooth.vertices - axes.origin) @ axes.up
    low, high = np.quantile(height, [0.01, 0.99])
    facing = sign * (tooth.vertex_normals @ axes.quarter) > CONTACT_COSINE
    here = facing & (height > low + ABOVE_NECK_SHARE * (high - low))
    if here.sum() < LEAST_POINTS:
        return None, 0.0, none
    gap, _ = cKDTree(theirs).query(tooth.vertices[here])
    if gap.min() > CONTACT_REACH_MM:
        return None, 0.0, "the teeth do not meet on this side"
    say = np.exp(-(gap - gap.min()) / CONTACT_SAY_MM) * tooth.vertex_areas[here]
    say = say / say.sum()
    middle = np.asarray(say @ tooth.vertices[here])
    spread = float(np.sqrt(say @ ((tooth.vertices[here] - middle) @ axes.zero) ** 2))
    return middle, spread, ""


def above_gingiva(
    line: OutlineLine, neck: Bools, axes: Axes, drawn: Floats | None, seam: Floats | None, front: bool
) -> tuple[Floats, str | None]:
    """(K,) height of the neck's line over the gingiva, nan elsewhere and where not known; and what it is known from."""
    out = np.full(len(line.points), np.nan)
    azimuth, radius, height = axes.cylinder(line.points)
    if drawn is not None:
        theirs, _, level = axes.cylinder(drawn)
        order = np.argsort(theirs)
        out[neck] = height[neck] - np.interp(azimuth[neck], theirs[order], level[order], period=360)
        return out, "drawn"
    if seam is None or not len(seam) or not neck.any():
        return out, None
    theirs, reach, level = axes.cylinder(seam)
    own = float(np.median(radius[neck]))
    near = (np.abs(reach - own) < SEAM_AWAY_MM) & (degrees_apart(theirs, 0.0) < 90)
    out[neck] = height[neck] - seam_level(theirs[near], level[near], azimuth[neck], front)
    return out, "earlier scan"
