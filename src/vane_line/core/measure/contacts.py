"""Where the teeth meet in the recorded bite, before cutting and after: what marking paper would leave on them.

A contact is a patch of tooth nearer than CONTACT_MM to the opposing teeth. A scan in which the jaw was held otherwise,
or a tooth that has moved meanwhile, shows as contacts that are new, lost, heavier or lighter on teeth that nobody cut.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import igl
import numpy as np
from scipy.spatial import cKDTree

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.jaw.arch import Name
from vane_line.core.mesh.points import joined
from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import near_cells, thinned_index
from vane_line.core.vectors import dot, lengths, unit, xyz

Change = Literal["kept", "new", "lost", "heavier", "lighter", "cut", "alone"]
CONTACT_MM = 0.10  # nearer is a contact (common practice: the thickness of marking paper and foil is 0.008 to 0.2)
DOUBT_MM = 0.05  # twice the spread of a bite record: what hangs on less is no change
NEAR_MM = 0.9  # of the opposing teeth: what is looked at at all, and how deep into each other teeth may stand
COARSE_MM = 0.5
TOLD_APART_MM = 0.25  # spacing of the points that tell patches apart
SAME_MM = 0.6  # patches so near, before and after, are one contact
LEAST_MM2 = 0.05  # a smaller patch is noise
HEAVIER, HEAVIER_MM2 = 1.5, 0.3  # times, and by so much more
FACING = -0.2  # cosine to the occlusal direction of what can meet opposing teeth: front teeth meet by their faces
BUILT_UP_MM = 8.0  # from the opposing teeth: further off is gingiva, or none stands over it
EASED_STEPS = 4
LOOKED_AT_MM, FINER = 0.3, 1  # triangles so near are halved so often along each side before areas are taken
IN_FRONT = 0.2  # cosine, from a corner's normal, from which on a place is surely not behind the surface
LEAST_PLACES, LEAST_SPAN_MM, LEAST_ACROSS_MM = 3, 8.0, 1.0  # of a bite that stands (common practice, no source)


@dataclass(frozen=True)
class Area:
    """mm², and between which two it lies for all that the bite record leaves open."""

    mm2: float
    least_mm2: float
    most_mm2: float


@dataclass(frozen=True)
class Contact:
    """One contact. areas: mm² nearer than CONTACT_MM, None where that scan is not there, with their range within
    DOUBT_MM; gap: the least there, mm, negative into each other. change "cut": on the tooth itself, before; "alone":
    nothing to compare with. tooth: about which it is, FDI."""

    at: tuple[float, float, float]
    own: bool
    change: Change
    before: Area | None
    after: Area | None
    gap_mm: float
    tooth: str | None


@dataclass(frozen=True)
class Support:
    """On how many places of the other teeth the bite rests; the longest way between two, and how far they spread
    across that, mm."""

    places: int
    span_mm: float
    across_mm: float

    @property
    def stands(self) -> bool:
        """Whether the jaw cannot tip on them."""
        return (
            self.places >= LEAST_PLACES and self.span_mm >= LEAST_SPAN_MM and self.across_mm >= LEAST_ACROSS_MM
        )  # fmt: skip


@dataclass(frozen=True)
class Contacts:
    """All contacts, the nearest to the prepared tooth first, its own last."""

    rows: tuple[Contact, ...]
    support: Support

    def changed(self) -> dict[Change, int]:
        """How many of the other teeth's contacts changed, by how."""
        found: dict[Change, int] = {}
        for row in self.rows:
            if not row.own and row.change in ("new", "lost", "heavier", "lighter"):
                found[row.change] = found.get(row.change, 0) + 1
        return found

    def said(self) -> list[str]:
        """What a dentist has to be told of them."""
        told, changed = [], self.changed()
        if changed:
            many = [f"{n} {'contact is' if n == 1 else 'contacts are'} {how}" for how, n in changed.items()]
            told.append(
                f"On the other teeth {', '.join(many)} since the scan before cutting: the jaw was held otherwise when "
                "the bite was recorded, or a tooth has moved. Record the bite again, or check with foil."
            )
        if self.support.places and not self.support.stands:
            told.append(
                f"The recorded bite rests on {self.support.places} "
                f"{'place' if self.support.places == 1 else 'places'} of the other teeth, too near each other or to "
                "one line to hold the jaw: check with foil at three places."
            )
        return told


@dataclass(frozen=True, eq=False)
class _Marks:
    """Patches of one scan: the middle of each (P, 3), its least gap (P,), areas (P,) within CONTACT_MM and within
    DOUBT_MM less and more; and the patches' points with the number of each one's patch."""

    at: Floats
    gap: Floats
    area: Floats
    surely: Floats
    perhaps: Floats
    points: Floats
    patch: Ints

    def sum(self, index: Ints | list[int]) -> Area:
        """Of some patches together."""
        return Area(*(float(a[index].sum()) for a in (self.area, self.surely, self.perhaps)))


def find_contacts(
    after: Surface, opposing: Surface, own: Bools, up: Floats, before: Surface | None = None,
    own_before: Bools | None = None, opposing_before: Surface | None = None, name: Name = lambda _place: None,
) -> Contacts:  # fmt: skip
    """Contacts of the prep scan `after` with `opposing`, and how they changed since the scan `before`, in place.

    own (V,), own_before (W,): what belongs to the prepared tooth. up: (3,) occlusal. opposing_before: as it met the
    earlier scan, where that was recorded apart. name: about which tooth a place (3,) is.
    """
    opposing = _part_near(opposing, after if before is None else before)
    middle = (after.vertices[own] if own.any() else after.vertices).mean(axis=0)
    now = _marks(after, ~own, opposing, up)
    if before is None:
        return _resting(_listed(now, False, name), middle)
    theirs = np.zeros(before.n_vertices, dtype=bool) if own_before is None else own_before
    recorded = opposing if opposing_before is None else _part_near(opposing_before, before)
    rows = _compared(_marks(before, ~theirs, recorded, up), now, name)
    return _resting((*rows, *_listed(_marks(before, theirs, recorded, up), True, name)), middle)


def _resting(rows: tuple[Contact, ...], middle: Floats) -> Contacts:
    """In the order of their distance from `middle` (3,), with the support that those which are there now give: patches
    are found in the order of a file's vertices, which says nothing."""
    rows = tuple(sorted(rows, key=lambda r: (r.own, float(np.linalg.norm(np.array(r.at) - middle)))))
    now = [r.at for r in rows if r.after is not None and r.after.mm2 >= LEAST_MM2]
    return Contacts(rows, support_of(np.array(now).reshape(-1, 3)))


def _listed(marks: _Marks, own: bool, name: Name) -> tuple[Contact, ...]:
    """Contacts that nothing is compared with: of the tooth itself as it was, or of the others now."""
    rows = []
    for k in np.flatnonzero(marks.area >= LEAST_MM2):
        area, place = marks.sum([int(k)]), marks.at[k]
        before, after = (area, None) if own else (None, area)
        rows.append(
            Contact(xyz(place), own, "cut" if own else "alone", before, after, float(marks.gap[k]), name(place))
        )
    return tuple(rows)


def support_of(places: Floats) -> Support:
    """Of contacts at `places` (P, 3)."""
    if len(places) < 2:
        return Support(len(places), 0.0, 0.0)
    off = places[:, None] - places[None]
    away = lengths(off.reshape(-1, 3)).reshape(len(places), -1)
    i, j = np.unravel_index(int(np.argmax(away)), away.shape)
    line = unit(places[j] - places[i])
    aside = places - places[i]
    aside = aside - (aside @ line)[:, None] * line
    spread = lengths((aside[:, None] - aside[None]).reshape(-1, 3)).max()
    return Support(len(places), float(away[i, j]), float(spread))


def area_under(values: Floats, areas: Floats, level: float) -> Floats:
    """(F,) mm² of triangles of `areas` (F,) over which a field, linear from corner values (F, 3), is below a level."""
    low, middle, high = np.sort(values, axis=1).T
    one = np.divide((level - low) ** 2, (middle - low) * (high - low), out=np.zeros_like(low), where=middle > low)
    rest = np.divide((high - level) ** 2, (high - low) * (high - middle), out=np.zeros_like(low), where=high > middle)
    share = np.where(level >= high, 1.0, np.where(level >= middle, 1 - rest, np.where(level > low, one, 0.0)))
    return np.asarray(areas * share)


def _marks(surface: Surface, mask: Bools, opposing: Surface, up: Floats) -> _Marks:
    """The patches of what of `surface` is in `mask` (V,)."""
    nowhere, none = np.zeros((0, 3)), np.zeros(0)
    nothing = _Marks(nowhere, none, none, none, none, nowhere, np.zeros(0, np.int64))
    part = _facing(surface, mask, opposing, up)
    if part.n_faces == 0:
        return nothing
    eased = part.smoothed(EASED_STEPS)
    eased, _ = eased.keep_faces(eased.any_corner(_may_touch(opposing, eased.vertices)))
    if eased.n_faces == 0:
        return nothing
    # Between the corners of a scan's triangles a curved gap is nearer than a straight one tells.
    eased = Surface(*igl.upsample(eased.vertices, eased.faces, FINER))
    gap = opposing.gap(eased.vertices)
    close = gap < CONTACT_MM + DOUBT_MM
    if not close.any():
        return nothing
    label = eased.parts(close)
    patches = np.unique(label[close])
    corner = gap[eased.faces]
    # A face belongs to the patch of its nearest corner: only there can it be a contact.
    nearest = eased.faces[np.arange(len(corner)), corner.argmin(axis=1)]
    at_patch = np.searchsorted(patches, label[nearest])
    inside = close[nearest]

    def area(level: float) -> Floats:
        below = area_under(corner, eased.face_areas, level)
        return np.asarray(np.bincount(at_patch[inside], below[inside], len(patches)), dtype=np.float64)

    index = np.flatnonzero(close)
    patch = np.searchsorted(patches, label[index])
    few = thinned_index(eased.vertices[index], TOLD_APART_MM)
    points, number = eased.vertices[index], len(patches)
    nearest_mm = np.full(number, np.inf)
    np.minimum.at(nearest_mm, patch, gap[index])
    # A contact lies where most of it does: its single nearest point jumps from scan to scan.
    weight = eased.vertex_areas[index] * np.maximum(CONTACT_MM + DOUBT_MM - gap[index], 1e-9)
    total = np.bincount(patch, weight, number)
    middle = np.stack([np.bincount(patch, weight * x, number) / total for x in points.T], axis=1)
    order = np.lexsort((lengths(points - middle[patch]), patch))
    first = order[np.searchsorted(patch[order], np.arange(number))]
    return _Marks(
        points[first], nearest_mm, area(CONTACT_MM), area(CONTACT_MM - DOUBT_MM), area(CONTACT_MM + DOUBT_MM),
        points[few], patch[few],
    )  # fmt: skip


def _may_touch(opposing: Surface, points: Floats) -> Bools:
    """(N,) which of `points` (N, 3) may be nearer than LOOKED_AT_MM to the opposing teeth, or behind them: by their
    corners, which costs a tenth of looking at their triangles."""
    least, corner = opposing.away_at_least(points)
    off = points - opposing.vertices[corner]
    in_front = dot(off, opposing.vertex_normals[corner]) > IN_FRONT * lengths(off)
    return np.asarray((least < LOOKED_AT_MM) | ~in_front)


def _part_near(opposing: Surface, teeth: Surface) -> Surface:
    """What of the opposing scan lies over these teeth: a search in all of it costs more."""
    part, _ = opposing.keep_vertices(_near(opposing.vertices, teeth.vertices))
    return part if part.n_faces else opposing


def _facing(surface: Surface, mask: Bools, opposing: Surface, up: Floats) -> Surface:
    """What of `surface` in `mask` (V,) faces the opposing teeth and lies near them."""
    seen = mask & (surface.vertex_normals @ up > FACING)
    seen[seen] = _near(surface.vertices[seen], opposing.vertices)
    part, _ = surface.keep_vertices(seen)
    return part


def _near(points: Floats, others: Floats) -> Bools:
    """(N,) whether a point lies within NEAR_MM of one of `others` (M, 3), or not much further."""
    if len(points) == 0 or len(others) == 0:
        return np.zeros(len(points), dtype=bool)
    return near_cells(points, others, NEAR_MM)


def _compared(then: _Marks, now: _Marks, name: Name) -> list[Contact]:
    """Contacts of uncut teeth, those of both scans that lie together as one."""
    n, m = len(then.at), len(now.at)
    if n + m == 0:
        return []
    # Which patches of either scan lie together, over any of their points.
    i, j = np.zeros(0, np.int64), np.zeros(0, np.int64)
    if n and m:
        near = cKDTree(now.points).sparse_distance_matrix(cKDTree(then.points), SAME_MM, output_type="coo_matrix")
        i, j = then.patch[near.col], n + now.patch[near.row]
    _, group = joined(i, j, n + m)
    rows = []
    for g in np.unique(group):
        a, b = np.flatnonzero(group[:n] == g), np.flatnonzero(group[n:] == g)
        before, after = then.sum(a), now.sum(b)
        if max(before.mm2, after.mm2) < LEAST_MM2:
            continue
        marks, own = (now, b) if after.mm2 >= LEAST_MM2 else (then, a)
        k = own[np.argmin(marks.gap[own])]
        change = _change(before, after)
        rows.append(
            Contact(xyz(marks.at[k]), False, change, before, after, float(marks.gap[k]), name(marks.at[k]))
        )  # fmt: skip
    return rows


def _change(before: Area, after: Area) -> Change:
    """Told only where the bite record's own spread does not explain it."""
    if before.most_mm2 < LEAST_MM2 <= after.least_mm2:
        return "new"
    if after.most_mm2 < LEAST_MM2 <= before.least_mm2:
        return "lost"
    if after.least_mm2 > max(HEAVIER * before.most_mm2, before.most_mm2 + HEAVIER_MM2):
        return "heavier"
    if before.least_mm2 > max(HEAVIER * after.most_mm2, after.most_mm2 + HEAVIER_MM2):
        return "lighter"
    return "kept"


@dataclass(frozen=True)
class Gap:
    """How far a tooth stands from the opposing ones along the occlusal direction, where it is least, mm; tooth: about
    which, FDI."""

    tooth: str
    gap_mm: float
    at: tuple[float, float, float]


def gaps_by_tooth(surface: Surface, own: Bools, opposing: Surface, up: Floats, name: Name) -> tuple[Gap, ...]:
    """Of every tooth of `surface` but what is `own` (V,): by how much it would have to be built up, along `up` (3,), to
    meet `opposing`.

    In the order of their numbers; places that no tooth is told for are left out.
    """
    tops = surface.highest(up, COARSE_MM)
    tops = tops[~own[tops]]
    points = surface.vertices[tops]
    face, gap = opposing.first_hit(points, up)
    least: dict[str, int] = {}
    for k in np.flatnonzero((face >= 0) & (gap < BUILT_UP_MM)):
        tooth = name(points[k])
        if tooth is not None and (tooth not in least or gap[k] < gap[least[tooth]]):
            least[tooth] = int(k)
    return tuple(Gap(t, float(gap[k]), xyz(points[k])) for t, k in sorted(least.items()))
