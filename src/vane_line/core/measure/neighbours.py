"""The teeth beside the preparation: nicks that a bur left in them, and the gap at contact level.

A nick is where the neighbour lies deeper than on the earlier scan, by more than the noise. What a closed contact hid
from the earlier scan cannot be compared: a scanner spans a web there, and below it any surface would look cut.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from vane_line.core.align.crowns import Crowns
from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.grounds import Ground, Grounds
from vane_line.core.measure.reduction import averaged
from vane_line.core.mesh.growth import grow
from vane_line.core.mesh.points import any_within
from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import thinned_index
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import any_across, dot, lengths, unit, xyz

REACH_MM = 12.0
BESIDE_MM = 0.3
OWN_WITHIN_MM = 0.5  # of the line: for certain this tooth's
NEAR_GAP_MM = 4.0  # a tooth further off is no neighbour
LEAST_DEPTH_MM = 0.04  # of what is looked at as a nick: above noise eased over a spot
LEAST_AREA_MM2 = 0.10
WEB_COSINE = 0.5  # the earlier surface turned away by more than 60 degrees is a web, not the tooth
WEB_OVER_MM, MOST_PASSES = 0.8, 60  # over which normals are averaged too: a small bur's nick has steep sides
WEB_NEAR_MM = 0.6  # round a web the earlier scan bends towards it
FEW = 25  # one in so many places of a neighbour is looked at first
NEAR_SIDE_MM = 1.5  # further away than where it is nearest: the side of a neighbour that faces the preparation
FACING_SHARE = 0.5  # of the side facing the preparation that a web may hide before nothing can be said
EASE_MM = 0.25  # over which depths are averaged, crests given back
LEAST_POINTS = 100
CLOSED = "the earlier scan never saw the side that faces the preparation: the contact was closed"
BENT = "what looks deeper lies beside a closed contact, where the earlier scan bends into the web that it spanned"
DENTED = "there is a dent of {:.2f} mm on the side that the earlier scan never saw, old or new: look at it"
CUT_TOO = "the tooth beside was prepared too"
CUT_TOO_SHARE = 0.5
DEEPEST_SHARE = 0.9
BOTTOM_MM, LEAST_BOTTOM = 0.40, 9  # round the deepest place: what tells how deep it is
# What bends in so much under the tooth's form round about is a dent; what bends in by more lies between two teeth.
DENT_MM, MOST_DENT_MM = 0.15, 1.0
DENT_EVERY_MM, DENT_BOTTOM_MM, FORM_FROM_MM, FORM_TO_MM = 0.6, 0.3, 0.8, 1.8
FACES_IT = 0.5  # cosine: the side that faces the preparation, not the top
FORM_COSINE, FORM_POINTS, FORM_GAP = 0.3, 40, np.radians(60)  # of what tells the form: nearly alike, on all sides
WALL_ABOVE_MM = 2.5  # a surface so far over the finish line is tooth: no papilla stands so high beside a cut tooth
GINGIVA_BELOW_MM, GINGIVA_FACES = -0.5, 0.75


@dataclass(frozen=True)
class Neighbour:
    """One side. nick_depth_mm None: not compared, and `why`; gap_mm None: no tooth there."""

    side: str
    gap_mm: float | None
    nick_depth_mm: float | None
    area_mm2: float
    at: tuple[float, float, float] | None
    hidden_mm2: float  # of the neighbour's near side that the earlier scan never saw
    why: str


def find_neighbours(
    grounds: Grounds, teeth: Bools, inside: Surface, base: Surface | None, crowns: Crowns, line: FinishLine, axes: Axes,
    cut_too: Callable[[Floats], Bools] = lambda points: np.zeros(len(points), dtype=bool),
) -> list[Neighbour]:  # fmt: skip
    """Mesial and distal. teeth: (V,) which of the ground now are others, as `teeth_beside` tells.

    base: the whole earlier scan in its frame, where trusted. cut_too: which places are of a tooth that was cut as well.
    """
    prep = grounds.now.surface
    level = crowns.hold(prep.vertices)
    told = None
    if base is not None and grounds.before is not None:
        told = np.zeros(base.n_vertices, dtype=bool)
        told[grounds.before.index] = teeth_beside(grounds.before, crowns, line, axes)
    azimuth = axes.cylinder(prep.vertices)[0]
    side_of = np.cos(np.radians(azimuth - 90))
    prepared = cut_too(prep.vertices)
    height = axes.cylinder(prep.vertices)[2]
    tall = height - line.at(azimuth, line.height) > WALL_ABOVE_MM
    out = []
    for side, sign in (("mesial", 1), ("distal", -1)):
        mine = teeth & (sign * side_of > 0.5)
        if not (mine & tall).any():
            mine = mine & tall  # gingiva heaped beside a tipped tooth stands as high as crowns do
        found = compare_side(side, prep, inside, base, mine, told, level)
        if (mine & prepared).sum() > CUT_TOO_SHARE * mine.sum():
            found = replace(found, nick_depth_mm=None, area_mm2=0.0, at=None, why=CUT_TOO)
        out.append(found)
    return out


def teeth_beside(ground: Ground, crowns: Crowns, line: FinishLine, axes: Axes) -> Bools:
    """(V,) the other teeth above the line: their crowns, and down their walls as far as the gingiva's valley.

    A nick may lie well under the crown; the gingiva moves between scans and is not compared.
    """
    surface = ground.surface
    azimuth, radius, height = axes.cylinder(surface.vertices)
    above = height - line.at(azimuth, line.height)
    beyond = (radius > line.at(azimuth, line.radius) + BESIDE_MM) & (radius < REACH_MM)
    upright = surface.vertex_normals @ axes.up
    crown = beyond & (above > BESIDE_MM) & (crowns.hold(surface.vertices) | (above > WALL_ABOVE_MM))
    own = (above > 0) & (radius < line.at(azimuth, line.radius) - OWN_WITHIN_MM)
    # Beside the tooth the lowest ground is gingiva; it faces up, a tooth's wall does not.
    gingiva = beyond & (above < GINGIVA_BELOW_MM) & ~crown
    gingiva |= beyond & (above < WALL_ABOVE_MM) & (upright > GINGIVA_FACES) & ~crown
    if not crown.any():
        return crown
    kind = grow(surface, ground.concave, [crown, gingiva, own]).kind
    return np.asarray((kind == 0) & beyond & (above > BESIDE_MM))


def compare_side(
    side: str,
    prep: Surface,
    inside: Surface,
    base: Surface | None,
    mask: Bools,
    told: Bools | None = None,
    level: Bools | None = None,
) -> Neighbour:
    """One side: `mask` (V,) of the prep scan is the neighbour; told: (W,) of the earlier scan, what was tooth there.

    level: (V,) where contacts are, to which the gap is measured; anywhere on a neighbour that does not reach there.
    """
    part, index = prep.keep_vertices(mask)
    if part.n_vertices < LEAST_POINTS:
        return Neighbour(side, None, None, 0.0, None, 0.0, "no tooth stands on this side of the scan")
    at_contact = np.ones(len(index), dtype=bool) if level is None else level[index]
    at_contact = at_contact if at_contact.any() else ~at_contact
    # A few of them tell how far it is worth looking for the rest.
    few, _ = inside.away_at_least(part.vertices[at_contact][::FEW])
    least, _ = inside.away_at_least(part.vertices, float(few.min()) + inside.edge_lengths.max() + NEAR_SIDE_MM)
    first = int(np.flatnonzero(at_contact)[np.argmin(least[at_contact])])
    reach = float(inside.closest(part.vertices[[first]])[0][0]) + NEAR_SIDE_MM
    asked, away = least < reach, np.full(len(index), np.inf)  # the tooth's far side is a long way to look
    away[asked] = inside.closest(part.vertices[asked])[0]
    gap = float(away[at_contact].min())
    if gap > NEAR_GAP_MM:
        return Neighbour(side, None, None, 0.0, None, 0.0, "no tooth stands near on this side")
    if base is None:
        return Neighbour(side, gap, None, 0.0, None, 0.0, "there is no trusted earlier scan to compare with")
    removed, face, place = base.signed_distance(prep.vertices[index])
    hidden = ~_faces_alike(part, base.normals_at(face, place)) | base.at_rim(face, place)
    if told is not None:
        hidden |= ~told[base.faces[face]].all(axis=1)
    area = part.vertex_areas
    hidden_area = float(area[hidden].sum())
    bends = any_within(part.vertices, part.vertices[hidden & at_contact], WEB_NEAR_MM + EASE_MM)
    hidden |= any_within(part.vertices, part.vertices[hidden], WEB_NEAR_MM)
    near = away < gap + NEAR_SIDE_MM
    closed = bool(area[hidden & near].sum() > FACING_SHARE * area[near].sum())
    why = CLOSED if closed else ""
    depth = averaged(part, -removed, ~hidden, EASE_MM)
    spots = _spots(part, depth, (depth > LEAST_DEPTH_MM) & ~hidden)
    # A bur's nick is deepest in its own middle; towards a web that was spanned any surface gets deeper and deeper.
    own = [spot for spot in spots if not bends[spot.lowest]]
    if not own:
        towards = unit(inside.vertices.mean(axis=0) - part.vertices)
        dent, where = deepest_dent(part, hidden & near & (dot(towards, part.vertex_normals) > FACES_IT))
        at = None if where is None else xyz(part.vertices[where])
        why = DENTED.format(dent) if at else why or (BENT if spots else "")
        return Neighbour(side, gap, None if why else 0.0, 0.0, at, hidden_area, why)
    value, deepest = max(((_bottom(part, -removed, s.all, s.lowest), s) for s in own), key=lambda found: found[0])
    return Neighbour(side, gap, value, deepest.area_mm2, xyz(part.vertices[deepest.lowest]), hidden_area, why)


def _faces_alike(part: Surface, earlier: Floats) -> Bools:
    """(V,) whether earlier normals (V, 3) face as the tooth does now: at the place itself, or all about it."""
    broadly = part.normals_over(WEB_OVER_MM, most=MOST_PASSES)
    return np.asarray(np.maximum(dot(earlier, part.vertex_normals), dot(earlier, broadly)) >= WEB_COSINE)


def deepest_dent(part: Surface, there: Bools) -> tuple[float, int | None]:
    """How deep (mm) a tooth bends in under its own form `there` (V,), and the vertex; 0 and None where it does not.

    A side between two teeth is smooth: a paraboloid through what lies round a place goes on over a bur's nick. Looked
    for in steps, in the tooth's own axes, and then at every place beside the deepest: neither where the scan lies nor
    in which order its vertices come tells how deep it is.
    """
    few = np.flatnonzero(there)
    few = few[thinned_index(part.at_home(part.vertices[few]), DENT_EVERY_MM)]
    depth = [_bent_in(part, int(k)) for k in few]
    if not depth or max(depth) < DENT_MM / 2:
        return 0.0, None
    beside = there & (lengths(part.vertices - part.vertices[few[int(np.argmax(depth))]]) < DENT_EVERY_MM)
    finer = {int(k): _bent_in(part, int(k)) for k in np.flatnonzero(beside)}
    deepest = max(finer, key=lambda k: finer[k])
    return (finer[deepest], deepest) if finer[deepest] > DENT_MM else (0.0, None)


def _bent_in(part: Surface, k: int) -> float:
    """How deep (mm) the bottom about a vertex lies under the form of what is round it; 0 where that tells none."""
    v, normals = part.vertices, part.vertex_normals
    around = np.array(part.corner_tree.query_ball_point(v[k], FORM_TO_MM))
    off = v[around] - v[k]
    away = lengths(off)
    x, y, terms = _paraboloid(off, normals[k])
    z = off @ normals[k]
    form = (away > FORM_FROM_MM) & (normals[around] @ normals[k] > FORM_COSINE)
    if form.sum() < FORM_POINTS or _widest_gap(np.arctan2(y[form], x[form])) > FORM_GAP:
        return 0.0
    under = terms @ np.linalg.lstsq(terms[form], z[form], rcond=None)[0] - z
    depth = float(np.median(under[away < DENT_BOTTOM_MM]))
    return depth if depth < MOST_DENT_MM else 0.0


def _widest_gap(angles: Floats) -> float:
    """Between directions (N,) about a place, radians."""
    around = np.sort(angles)
    return float(np.diff(np.r_[around, around[0] + 2 * np.pi]).max())


class _Spot(NamedTuple):
    """Vertices of a deeper place, that of them which is deepest, and their area."""

    all: Ints
    lowest: int
    area_mm2: float


def _spots(part: Surface, depth: Floats, deep: Bools) -> list[_Spot]:
    """Of what is `deep` (V,): depth (V,) as averaged. None smaller than a bur leaves."""
    label, found = part.parts(deep), []
    for number in np.unique(label[deep]):
        spot = np.flatnonzero((label == number) & deep)
        area = float(part.vertex_areas[spot].sum())
        if area >= LEAST_AREA_MM2:
            found.append(_Spot(spot, int(spot[np.argmax(depth[spot])]), area))
    return found


def _bottom(part: Surface, raw: Floats, spot: Ints, lowest: int) -> float:
    """Depth at the bottom of a spot, from a paraboloid through what was measured round its deepest place.

    Averages read a narrow bottom low, and the greatest single value reads noise.
    """
    off = part.vertices[spot] - part.vertices[lowest]
    near = lengths(off) < BOTTOM_MM
    if near.sum() < LEAST_BOTTOM:
        return float(np.quantile(raw[spot], DEEPEST_SHARE))
    x, y, terms = _paraboloid(off[near], part.vertex_normals[lowest])
    fit = np.linalg.lstsq(terms, raw[spot][near], rcond=None)[0]
    within = np.hypot(x, y) < BOTTOM_MM / 2
    return float((terms[within] @ fit).max()) if within.any() else float(fit[0])


def _paraboloid(off: Floats, normal: Floats) -> tuple[Floats, Floats, Floats]:
    """Places `off` (N, 3) across a normal (3,): x, y (N,) and the terms (N, 6) of a paraboloid over them."""
    side = any_across(normal)
    x, y = off @ side, off @ np.cross(normal, side)
    return x, y, np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=1)
