"""Grooves in the walls, along the path: dents in the outline of the tooth, level by level, one over the other.

A level's outline is told in polar coordinates. Filled up over as much as the widest groove takes, it shows its dents; a
dent that stands over many levels is a groove. Its depth is from the wall prolonged over it, its axis that of the round
body which its bottom fits.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.channels.channel import GROOVE, Channel
from vane_line.core.channels.cone import fit_cone, refined
from vane_line.core.channels.lips import LEAST_WALL, LIP_MM, REACH_MM, sides_of, walls_of
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.retention import SIDES
from vane_line.core.mesh.points import groups
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import degrees_apart
from vane_line.core.spread import graded, weighted_quantile
from vane_line.core.trace.dents import LEAST_DENT_MM, LEAST_LONG_MM, LEVEL_MM, WIDEST_MM, dent_grid, dent_parts
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import about_axis, degrees_between, xyz

TURN_DEG = 2.0  # of the grid that dents are looked for on
LEAST_WIDE_MM = 0.35
SLOPING = 0.35  # of a fossa's normal along the path, at least: 20 degrees
APART_LEVELS, APART_MM = 3.5, 0.2  # between two levels of one groove, at most
BOTTOM_SHARE = 0.45  # of the depth: what lies deeper is the bottom, as round as the bur
HALF, WANES = 0.5, 0.3  # of its usual depth a groove ends, and over so much about it it says less and less
MIDDLE_OFF_MM = 0.2  # by which the middle may lie elsewhere: half of what the length is unsure by
DEEPEST = 3  # points that tell the depth of a level
ONWARD_MM = 1.2  # between two pieces of one groove, at most
GAP_MM, STRAY_LEVELS = 0.25, 3  # levels that stand further apart than this do not belong together if they are fewer
LEAST_PLAIN = 3  # points of the wall below a groove's end by which that is seen
LINK_MM = 0.4  # between neighbouring points of one outline
LEAST_POOLED, FAR_MM = 6, 1.6  # levels whose walls tell together, and how far off
POOLED_MM = 0.55  # over and under a level, whose wall tells with its own
END_MM, LIP_END_MM = 0.4, 0.2  # of a groove's length at its end and its mouth, which say nothing of its axis
MIDDLE_MM = 0.3  # off half its length a level has a third of its say
INSIDE_MM = 0.25  # of a place that was cut
MOST_TILT_DEG, MOST_OFF_MM = 30.0, 0.08  # what fits no round body better than this is the tooth's own form
BELOW_DEG, SAME_LEVEL_MM = 6.0, 0.5  # to either side of a groove; a partial crown's line goes up beside it


@dataclass(frozen=True, eq=False)
class _Outlines:
    """Where a surface is crossed by each level: number of the level, and place (P,). wall: (P,) whether that is
    the walls'; where a fossa lies deeper than their top, a level crosses that too, which slopes inward. half: (2,) half
    of the tooth's width, mesiodistally and faciolingually."""

    surface: Surface
    levels: Floats
    level: Ints
    azimuth: Floats
    radius: Floats
    points: Floats
    wall: Bools
    half: Floats


@dataclass(frozen=True, eq=False)
class _Level:
    """A groove at one level: depth under the wall prolonged, its deepest place and where that comes out between the
    lips (3,), the points of its bottom (B, 3), and along the outline and out of the tooth (…, 2) what lies between its
    lips and the wall beside them."""

    height: float
    depth: float
    deepest: Floats
    mouth: Floats
    bottom: Floats
    between: Floats
    wall: Floats
    one_side: bool
    rise: float  # of the wall away from the standing face; infinite where it is not seen


def find_grooves(tooth: Surface, inside: Surface, line: Floats, girth: FinishLine, axes: Axes) -> list[Channel]:
    """Grooves of the cut, by azimuth. tooth: the scan round it, inside: the cut, both freed of noise; line: (K, 3)
    round the cut, girth: round the whole tooth; axes: along the path."""
    _, _, height = axes.cylinder(tooth.vertices)
    low, high = float(((line - axes.origin) @ axes.up).min()), float(_top(inside, axes))
    own = girth.holds(tooth, axes) & (height > low - 1.0)
    if not own.any() or high - low < LEAST_LONG_MM:
        return []
    axes, half = _centred(axes, tooth.vertices[own & (height > low) & (height < high)])
    outlines = _cross(tooth.keep_vertices(own)[0], axes, _levels(low, high), half)
    reach = _reach(outlines)
    cut = cKDTree(inside.vertices)

    def seen(rows: Ints, columns: Ints, apart_mm: float = APART_LEVELS * LEVEL_MM) -> Channel | None:
        usual = float(np.nanmedian(reach[rows]))
        return _groove(outlines, rows, columns, usual, line, axes, cut=cut, apart_mm=apart_mm)

    pieces, found = dent_parts(dent_grid(reach)), list[Channel]()
    told = [(groove, piece) for piece in pieces if (groove := seen(*piece)) is not None]
    # The corner where a face's flare begins is a dent too, beside the groove and less deep.
    for groove, piece in sorted(told, key=lambda pair: -(pair[0].depth_mm or 0.0)):
        if any(_same(groove, other) for other in found):
            continue
        for other in pieces:  # more of it, over or under a level at which it is not seen
            if _over_or_under(piece, other):
                whole = seen(np.r_[piece[0], other[0]], np.r_[piece[1], other[1]], ONWARD_MM)
                if whole is not None and whole.length_mm > groove.length_mm and _off(groove, whole) < APART_MM:
                    groove = whole
        found.append(groove)
    return sorted(found, key=lambda g: float(axes.cylinder(np.array([g.at]))[0][0]))


def _levels(low: float, high: float) -> Floats:
    """Between the two, by the tooth's own middle: the same, however the line's lowest place was drawn."""
    return np.asarray(LEVEL_MM * np.arange(np.floor(low / LEVEL_MM) + 1, np.ceil(high / LEVEL_MM)))


def _top(inside: Surface, axes: Axes) -> float:
    return float(np.quantile((inside.vertices - axes.origin) @ axes.up, 0.999))


def _centred(axes: Axes, points: Floats) -> tuple[Axes, Floats]:
    """The axes through the middle of the tooth's outlines: a window's stand where its face is; and half their width
    mesiodistally and faciolingually (2,)."""
    plan = axes.local(points)[:, :2]
    low, high = plan.min(axis=0), plan.max(axis=0)
    middle = np.append((low + high) / 2, 0.0)
    return replace(axes, origin=axes.world(middle[None])[0]), (high - low) / 2


def _side_of(middle: Floats, axes: Axes, half: Floats) -> str:
    """The side of a tooth of `half` widths (2,) that a groove at `middle` (3,) is cut in: on a narrow tooth it may lie
    further facially of the middle than mesially, and in the mesial side all the same."""
    share = axes.local(middle[None])[:, :2] / half
    azimuth = Axes.azimuth_of(share)
    return min(SIDES, key=lambda s: float(degrees_apart(azimuth, SIDES[s])[0]))


def _over_or_under(piece: tuple[Ints, Ints], other: tuple[Ints, Ints]) -> bool:
    """Whether a second piece of the grid of dents, rows and columns, may go on where one ends: at its side of the
    tooth."""
    (rows, columns), (others, beside) = piece, other
    apart = max(rows.min(), others.min()) - min(rows.max(), others.max())
    return 0 < apart * LEVEL_MM < ONWARD_MM and bool(np.isin(columns, beside).any())


def _same(a: Channel, b: Channel) -> bool:
    """Whether two grooves are one: a second lies nowhere so near."""
    return _off(a, b) < WIDEST_MM / 2


def _off(a: Channel, b: Channel) -> float:
    """How far the middle of one lies off the axis of the other, mm."""
    return float(about_axis(b.middle[None], a.middle, a.direction)[0][0])


def _cross(surface: Surface, axes: Axes, levels: Floats, half: Floats) -> _Outlines:
    """All places where an edge of the surface, of `half` widths (2,), crosses a level, at once."""
    ends = surface.edges
    height = (surface.vertices - axes.origin) @ axes.up
    low, high = (pick(height[ends], axis=1) for pick in (np.min, np.max))
    first, last = np.searchsorted(levels, low), np.searchsorted(levels, high)
    count = last - first
    edge = np.repeat(np.arange(len(ends)), count)
    level = np.arange(len(edge)) - np.repeat(np.cumsum(count) - count, count) + first[edge]
    i, j = ends[edge].T
    t = (levels[level] - height[i]) / (height[j] - height[i])
    points = surface.vertices[i] + t[:, None] * (surface.vertices[j] - surface.vertices[i])
    azimuth, radius, _ = axes.cylinder(points)
    out = axes.outward(azimuth)
    normal = (1 - t)[:, None] * surface.vertex_normals[i] + t[:, None] * surface.vertex_normals[j]
    sloping = (normal @ axes.up > SLOPING) & (np.einsum("ij,ij->i", normal, out) < 0)
    return _Outlines(surface, levels, level, azimuth, radius, points, wall=~sloping, half=half)


def _reach(outlines: _Outlines) -> Floats:
    """(L, A) how far out each level's outline lies, nan where it is not seen."""
    wide = round(360 / TURN_DEG)
    reach = np.full((len(outlines.levels), wide), -np.inf)
    column = np.round(outlines.azimuth / TURN_DEG).astype(int) % wide
    np.maximum.at(reach, (outlines.level, column), outlines.radius)
    return np.where(np.isfinite(reach), reach, np.nan)


def _groove(
    outlines: _Outlines, rows: Ints, columns: Ints, usual: float, line: Floats, axes: Axes, *, cut: cKDTree,
    apart_mm: float,
) -> Channel | None:  # fmt: skip
    """The groove of one part of the grid of dents; None where it is none. apart_mm: between two levels of it."""
    if np.ptp(rows) * LEVEL_MM < LEAST_LONG_MM:
        return None
    azimuth = np.degrees(np.angle(np.exp(1j * np.radians(columns * TURN_DEG)).mean())) % 360
    across = axes.outward(azimuth)
    through = replace(axes, zero=across, quarter=np.cross(axes.up, across))
    apart, wide = degrees_apart(outlines.azimuth, azimuth), round(360 / TURN_DEG)

    def levels(usual_rise: float) -> list[_Level]:
        told = []
        for k in np.unique(rows):
            mine = columns[rows == k] * TURN_DEG
            half = float(degrees_apart(mine, azimuth).max())
            near = (outlines.level == k) & outlines.wall & (apart < half + np.degrees(REACH_MM / usual))
            dent = np.isin(np.round(outlines.azimuth[near] / TURN_DEG).astype(int) % wide, columns[rows == k])
            level = _level(outlines.points[near], dent, through, float(outlines.levels[k]), usual_rise, cut=cut)
            if level is not None and cut.query(level.deepest)[0] < INSIDE_MM:
                told.append(level)
        return told

    told = levels(0.0)
    rises = [level.rise for level in told if np.isfinite(level.rise)]
    if rises:  # where the wall itself is not seen it goes as it does over and under
        told = levels(float(np.median(rises)))
    told = _without_strays(_together(told, axes, apart_mm))
    if len(told) < LEAST_LONG_MM / LEVEL_MM:
        return None
    told = _deepened(told)
    channel = _channel(told, outlines, line, axes) if len(told) >= LEAST_LONG_MM / LEVEL_MM else None
    return channel and replace(channel, open_mm=open_below(outlines.points, channel, through))


def _together(told: list[_Level], axes: Axes, apart_mm: float) -> list[_Level]:
    """The longest run of levels whose bottoms lie over each other: over the walls a dent goes its own ways."""
    runs: list[list[_Level]] = []
    for level in told:
        middle = axes.local(level.bottom).mean(axis=0)
        for run in sorted(runs, key=len, reverse=True):
            off = middle - axes.local(run[-1].bottom).mean(axis=0)
            if level.height - run[-1].height < apart_mm and np.hypot(off[0], off[1]) < APART_MM:
                run.append(level)
                break
        else:
            runs.append([level])
    return max(runs, key=len, default=[])


def _without_strays(told: list[_Level]) -> list[_Level]:
    """Without the few levels at either end that stand apart from the rest: a groove goes on where it is seen to."""
    height = np.array([level.height for level in told])
    groups = np.split(np.arange(len(told)), np.flatnonzero(np.diff(height) > GAP_MM) + 1)
    while len(groups) > 1 and len(groups[0]) < STRAY_LEVELS:
        groups = groups[1:]
    while len(groups) > 1 and len(groups[-1]) < STRAY_LEVELS:
        groups = groups[:-1]
    return [told[k] for group in groups for k in group]


def _level(
    points: Floats, dent: Bools, axes: Axes, height: float, usual_rise: float, *, cut: cKDTree
) -> _Level | None:  # fmt: skip
    """One level's dent, from the wall beside it prolonged over it. dent: (P,) which points lie in it; axes: azimuth 0
    out through it; usual_rise: of the wall away from the standing face, where it is not seen."""
    standing = cut.query(points, distance_upper_bound=INSIDE_MM)[0] > INSIDE_MM
    own = _with_cut(points, ~standing)  # the next tooth may stand near
    points, dent, standing = points[own], dent[own], standing[own]
    if not dent.any():
        return None
    off = points - axes.origin
    out, along = off @ axes.zero, off @ axes.quarter
    middle = float(along[dent][np.argmin(out[dent])])
    both = sides_of(along - middle, out, standing, usual_rise)
    lips = [side.lip for side in both if side.lip is not None]
    if len(lips) < 2 or not LEAST_WIDE_MM < sum(lips) < 1.25 * WIDEST_MM:
        return None
    beside = walls_of(both)
    wall = np.concatenate([np.stack([middle + w.sign * w.x, w.out], axis=1) for w in beside])
    within = (along > middle - lips[0]) & (along < middle + lips[1])
    if within.sum() < DEEPEST:
        return None
    between = np.stack([along, out], axis=1)[within]
    if len(wall) < 2 * LEAST_WALL:  # not seen here: the levels over and under it tell
        wall = wall[:0]
    depth = _under(between, wall if len(wall) else between[[np.argmin(between[:, 0]), np.argmax(between[:, 0])]])
    if depth.max() < LEAST_DENT_MM:
        return None
    deep, here = _deep(depth), points[within]
    deepest, bottom = here[int(np.argmax(depth))], here[depth > BOTTOM_SHARE * deep]
    rise = max(both, key=lambda side: side.uncut).rise
    edges = [np.abs(along - at) for at in (middle - lips[0], middle + lips[1])]
    mouth = np.mean([points[np.argmax(np.where(off < off.min() + LIP_MM, out, -np.inf))] for off in edges], axis=0)
    return _Level(height, deep, deepest, mouth, bottom, between, wall, one_side=len(beside) == 1, rise=rise)


def _with_cut(points: Floats, cut: Bools) -> Bools:
    """(P,) which points hang together, by steps of LINK_MM, with one that was cut."""
    _, piece = groups(points, LINK_MM)
    return np.asarray(np.isin(piece, piece[cut]))


def _under(between: Floats, wall: Floats) -> Floats:
    """(P,) how deep points between the lips (P, 2) lie under the wall (W, 2) or (W, 3), curved along the outline and
    straight up the path: along the outline, out of the tooth and how far over their level."""
    x, out = wall[:, 0], wall[:, 1]
    terms = [np.ones(len(x)), x]
    if len(x) >= 2 * LEAST_WALL:
        terms.append(x**2)
    if wall.shape[1] > 2 and np.ptp(wall[:, 2]) > 0:
        terms.append(wall[:, 2])
    fit = np.linalg.lstsq(np.stack(terms, axis=1), out, rcond=None)[0]
    curve = fit[2] if len(x) >= 2 * LEAST_WALL else 0.0
    x, out = between.T
    return np.asarray((fit[0] + fit[1] * x + curve * x**2 - out) / np.hypot(1.0, fit[1] + 2 * curve * x))


def _deep(depth: Floats) -> float:
    return float(np.sort(depth)[-DEEPEST:].mean())


def _deepened(levels: list[_Level]) -> list[_Level]:
    """The levels with their depths under the wall that stands at them and a little over and under them: prolonged from
    one side, a single level's is told by its noise. Where none is seen, by the nearest that are."""
    seen, found = [level for level in levels if len(level.wall)], []
    for level in levels:
        order = sorted(seen, key=lambda o: abs(o.height - level.height))
        near = [o for o in order if abs(o.height - level.height) < POOLED_MM]
        if len(near) < LEAST_POOLED:
            near = [o for o in order[:LEAST_POOLED] if abs(o.height - level.height) < FAR_MM]
        if near:
            rows = [np.column_stack([o.wall, np.full(len(o.wall), o.height - level.height)]) for o in near]
            depth = _deep(_under(level.between, np.concatenate(rows)))
            found.append(replace(level, depth=depth, one_side=bool(np.mean([o.one_side for o in near]) > HALF)))
    return found


def _channel(told: list[_Level], outlines: _Outlines, line: Floats, axes: Axes) -> Channel | None:
    height, depth = np.array([t.height for t in told]), np.array([t.depth for t in told])
    usual = float(np.median(depth))
    low, high = (_end(height, depth, HALF * usual, up) for up in (False, True))
    if high - low < LEAST_LONG_MM:
        return None
    straight = [t for t in told if low + END_MM < t.height < high - LIP_END_MM] or told
    cone = fit_cone(np.concatenate([t.bottom for t in straight]), axes.up)
    if cone is None or cone.rms_mm > MOST_OFF_MM:
        return None
    level, counts = _counting(height, depth, usual)
    cone = refined(cone, outlines.surface, axes.up, level + float(axes.origin @ axes.up), counts)
    tilt = float(degrees_between(cone.direction, axes.up))
    if tilt > MOST_TILT_DEG:
        return None
    middle = (low + high) / 2
    past = middle - float((cone.middle - axes.origin) @ axes.up)
    at_middle = cone.middle + past * cone.direction
    near, below, above = (
        np.exp(-(((height - at) / MIDDLE_MM) ** 2)) for at in (middle, middle - MIDDLE_OFF_MM, middle + MIDDLE_OFF_MM)
    )
    at_half, under, over = (weighted_quantile(depth, say, HALF, HALF / 2) for say in (near, below, above))
    there = told[int(np.argmin(np.abs(height - middle)))]
    return Channel(
        kind=GROOVE, side=_side_of(at_middle, axes, outlines.half), direction=cone.direction, to_path_deg=tilt,
        diameter_mm=2 * (cone.radius_mm + cone.widens * past), middle=at_middle,
        depth_mm=at_half, length_mm=high - low, at=xyz(there.deepest),
        above_line_mm=low - _line_below(line, there.mouth, axes),
        wall_deg=float(np.degrees(np.arctan(abs(cone.widens)))),
        from_one_side=bool(near @ np.array([t.one_side for t in told]) > HALF * near.sum()),
        moves_mm=max(abs(under - at_half), abs(over - at_half)),
    )  # fmt: skip


def open_below(points: Floats, groove: Channel, through: Axes) -> float:
    """How far below its end (mm) the groove may go on: down to where the first of `points` (P, 3) of the outlines stand
    on the wall, less deep than half of it; the finish line where none do. through: azimuth 0 out through it."""
    bore, depth = groove.diameter_mm / 2, groove.depth_mm or 0.0
    _, along = about_axis(points, groove.middle, groove.direction)
    off = points - groove.middle - along[:, None] * groove.direction
    out = off @ through.zero + bore  # over its bottom
    there = (np.abs(off @ through.quarter) < bore / 2) & (out > HALF * depth) & (out < depth + bore)
    below = np.sort(-along[there] - groove.length_mm / 2)
    plain = below[below > 0][LEAST_PLAIN - 1 :]
    most = max(groove.above_line_mm or 0.0, 0.0)
    gap = min(float(plain[0]), most) if len(plain) else most
    return gap if gap > GAP_MM else 0.0


def _counting(height: Floats, depth: Floats, usual: float) -> tuple[Floats, Floats]:
    """Levels, and how much (0 to 1) the bottom at each says of the groove's axis: the less the shallower it is there or
    near by. Where it is half as deep it ends, and whether that is one level higher turned the axis by a degree."""
    order = np.argsort(height)
    room = round(END_MM / LEVEL_MM)
    level = np.arange(height.min() - room * LEVEL_MM, height.max() + (room + 0.5) * LEVEL_MM, LEVEL_MM)
    deep = np.interp(level, height[order], depth[order], left=0.0, right=0.0)
    there = graded(deep / usual - HALF, WANES)
    about = np.convolve(there, np.full(2 * room + 1, 1 / (2 * room + 1)), "same")
    return level, np.clip(2 * about - 1, 0, 1)


def _end(height: Floats, depth: Floats, least_mm: float, up: bool) -> float:
    """Level up to which, or down to which, a groove is so deep: between two levels where it gets shallower."""
    order = np.argsort(height if up else -height)
    at, deep = height[order], depth[order]
    k = int(np.flatnonzero(deep > least_mm)[-1])
    if k + 1 < len(at) and abs(at[k + 1] - at[k]) < 2 * LEVEL_MM:
        return float(np.interp(least_mm, [deep[k + 1], deep[k]], [at[k + 1], at[k]]))
    return float(at[k] + (LEVEL_MM / 2 if up else -LEVEL_MM / 2))


def _line_below(line: Floats, place: Floats, axes: Axes) -> float:
    """Level of the finish line on that side of the tooth, below a place (3,) in the wall: what lies deep in the tooth,
    near its middle, is on no side."""
    azimuth, _, height = axes.cylinder(line)
    off = degrees_apart(azimuth, float(axes.cylinder(place[None])[0][0]))
    near = height[off < max(BELOW_DEG, float(off.min()) + 1.0)]
    return float(np.median(near[near < near.min() + SAME_LEVEL_MM]))
