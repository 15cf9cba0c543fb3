"""Which way a casting's cut looks, and the path it is drawn along: that of its walls, or of its pins."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.channels.channel import Channel, near_any
from vane_line.core.channels.groove import find_grooves
from vane_line.core.channels.holes import find_holes, look
from vane_line.core.measure.path import Path, best_path, least_draft, quantiles_about
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.girth import girth_of
from vane_line.core.outline.place import Asked
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import degrees_between, unit
from vane_line.core.window.survey import Cut, Facing, off_rim, path_in_fan

WALL_COSINE = 0.5  # 30 degrees of draft: what leans more is no wall
LEAN = 0.3  # of draft that a degree of tilt must win: walls on three sides leave one way open
BESIDE_GROOVE_MM = 0.5
MOST_AGAIN, STILL_DEG = 4, 0.03  # of the search along what it found
TOGETHER_DEG = 2.0  # pins no further apart than this are parallel
GROOVES_DEG = 3.0  # … and grooves: a coarse scan tells their way less well
LET_PASS_DEG = -0.5  # of draft: walls that lean back further do not let a casting along its grooves
DOUBT_DEG = 0.25  # to either side of the two, where grooves and walls both have their say: a choice would jump
PARTIAL = Asked("a partial crown's preparation", "on its lingual cusp", "on the prepared tooth")
PINNED = Asked("a preparation behind a front tooth", "on its cut back", "on the prepared back")


def partial_path(cut: Cut) -> Path:
    """Along the grooves, where they agree and the walls let the casting pass: it goes no other way. Else the best
    direction of the walls, grooves left out: one that stands off is to be told, not followed."""
    normals, areas = off_rim(cut.inside, cut.line)
    axes, given = cut.axes, cut.options.path
    standing = np.abs(normals @ axes.up) < WALL_COSINE
    if not standing.any():
        standing = np.ones(len(normals), dtype=bool)
    if given is not None:
        return Path(unit(given), least_draft(normals[standing], areas[standing], unit(given)), "given")
    path = best_path(normals[standing], areas[standing], axes.up, axes.zero, LEAN)
    grooves = _grooves(cut, path.direction)
    if not grooves:
        return path
    normals, areas = wall_samples(cut.inside, cut.line, grooves, axes.up)
    if len(grooves) < 2:
        return best_path(normals, areas, axes.up, axes.zero, LEAN)
    ways = np.array([g.direction for g in grooves])
    along = unit(ways.sum(axis=0))
    spare = min(
        GROOVES_DEG / 2 - float(degrees_between(ways, along).max()),
        float(quantiles_about(normals, areas, along[None])[0]) - LET_PASS_DEG,
    )
    say = float(np.clip(spare / DOUBT_DEG, -1, 1) + 1) / 2
    way = along
    if say < 1:
        way = unit(say * along + (1 - say) * best_path(normals, areas, axes.up, axes.zero, LEAN).direction)
    return Path(way, least_draft(normals, areas, way), "best")


def wall_samples(inside: Surface, line: Floats, grooves: list[Channel], up: Floats) -> tuple[Floats, Floats]:
    """Unit normals (N, 3) and areas (N,) of a cut's standing walls, grooves and the rim at the line (K, 3) left out."""
    grooved = near_any(grooves, inside.vertices, BESIDE_GROOVE_MM)
    normals, areas = off_rim(inside.keep_vertices(~grooved)[0], line)
    standing = np.abs(normals @ up) < WALL_COSINE
    return normals[standing], areas[standing]


def _grooves(cut: Cut, direction: Floats) -> list[Channel]:
    """Those of the cut, looked for along a direction."""
    frame = cut.placed.frame

    def found(way: Floats) -> list[Channel]:
        axes = Axes.make(cut.axes.origin, way, frame.facial, frame.mesial)
        return find_grooves(cut.own, cut.inside, cut.line, girth_of(cut.own, axes, size_of(cut.options.tooth)), axes)

    # Walls on three sides tell little of the way that is open: the tooth's own axis may be nearer.
    way = cut.axes.up
    first = max(found(direction), found(way), key=len)
    # Found so; measured along their own way, until that no longer hangs on which way they were looked for.
    for _ in range(MOST_AGAIN if first else 0):
        own = unit(np.sum([g.direction for g in first], axis=0))
        if degrees_between(own, way) < STILL_DEG:
            break
        way, first = own, found(own) or first
    return first


def pinned_path(cut: Cut) -> Path:
    """Along the pins, or their holes: a casting held by pins goes no other way. Where one stands off, along those that
    agree; of two that do not, along the one nearer to the tooth's axis. Without any, as the back is seen best."""
    axes = cut.axes
    normals, areas = off_rim(cut.inside, cut.line)
    if cut.options.path is not None:
        way = unit(cut.options.path)
        return Path(way, least_draft(normals, areas, way), "given")
    ways = _ways(cut)
    if len(ways) == 0:
        return path_in_fan(cut, -axes.zero)
    best = agreed(ways, axes.up)
    return Path(best, least_draft(normals, areas, best), "best")


def _ways(cut: Cut) -> Floats:
    """(P, 3) directions of the pins, or of the holes."""
    pins, axes = cut.placed.pins, cut.axes
    if pins:
        return np.array([p.cone.direction for p in pins])
    holes = find_holes(cut.inside, look(cut.inside, axes))
    if not holes:
        return np.zeros((0, 3))
    common = unit(np.sum([h.cone.direction for h in holes], axis=0))
    frame = cut.placed.frame
    # Found along the tooth's own axis; measured along their own.
    along = Axes.make(axes.origin, common, frame.facial, frame.mesial)
    again = find_holes(cut.inside, look(cut.inside, along)) or holes
    return np.array([h.cone.direction for h in again])


def agreed(ways: Floats, axis: Floats) -> Floats:
    """(3,) the mean of the most of `ways` (P, 3) that agree with one another; of equally many, nearest to the tooth's
    own `axis`."""
    near = degrees_between(ways, ways) <= TOGETHER_DEG
    count = near.sum(axis=1)
    rank = sorted(range(len(ways)), key=lambda k: (-count[k], -float(ways[k] @ axis)))
    return unit(ways[near[rank[0]]].sum(axis=0))


OPEN_FACE = Facing(-1.0, 1.0, partial_path, PARTIAL)
BACK = Facing(-1.0, 0.0, pinned_path, PINNED)
