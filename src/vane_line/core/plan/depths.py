"""The depth wanted at each site: what the material needs, less the gap that is already there.

depth = target - lift, never under nought. The lift is how far the planned surface stands over the earlier one: to the
bite where the tooth stands short of it, and what an increased vertical dimension opens. Under an old crown whose form
is not kept no depth is known, and the site says so: there only the space to the opposing teeth counts.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.burs import Bur, Use, for_depth
from vane_line.core.judge.limits import Limits
from vane_line.core.judge.standards import Standard
from vane_line.core.measure.zones import is_functional, words
from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.anatomy import Anatomy, plan
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import xyz

NORMAL_WITHIN_MM = 0.8  # of a place, over which the surface's direction is taken
NOTHING_MM = 0.05  # less than this is not cut
FACE_CUTS = (0.25, 0.5, 0.75)  # of the way from neck to edge: depth cuts on the face
MANY_CUTS = (0.2, 0.4, 0.6, 0.8)


@dataclass(frozen=True)
class Site:
    """One place to cut: zone and its words, what is needed, the gap that counts, the depth to cut, and with what.

    depth None: not known from this surface, `why`. nothing_to_cut: the gap is enough.
    """

    zone: str
    where: str
    at: tuple[float, float, float]
    needed: Limits
    gap_mm: float
    depth_mm: float | None
    most_mm: float | None
    use: Use | None
    why: str

    @property
    def nothing_to_cut(self) -> bool:
        return self.depth_mm is not None and self.depth_mm < NOTHING_MM


def plan_sites(
    tooth: ToothNumber, reference: Surface, anatomy: Anatomy, functional_side: str, standard: Standard, axes: Axes,
    lift_mm: float, known: bool, why: str, tray: tuple[Bur, ...],
    faced: bool = False,
) -> list[Site]:  # fmt: skip
    """Sites of the tooth, occlusal or incisal first. known: whether the earlier surface says what is to be cut; why.
    faced: they lie on a back tooth's face and its facial cusp's edge too."""
    if tooth.front:
        places = _front_places(reference, axes)
    elif faced:
        facial = axes.local(reference.vertices)[:, 1] > anatomy.parted_y
        places = _front_places(reference.keep_vertices(facial)[0], axes)
    else:
        places = _back_places(anatomy, functional_side)
    sites = []
    for zone, place in places:
        limits = standard.depth_limits(zone)
        if limits is None:
            continue
        at = place if len(place) == 3 else _on_surface(reference, axes, place)
        if at is None:
            continue
        counts = lift_mm * lift_share(zone, at, reference, axes)
        depth = max(limits.target - counts, 0.0) if known else None
        most = max(limits.max - counts, 0.0) if known else None
        note = why
        if known and depth is not None and depth < NOTHING_MM:
            note = f"the gap of {counts:.1f} mm is enough: nothing is cut here"
        use = for_depth(depth, tray) if depth is not None and depth >= NOTHING_MM else None
        where = words(zone, tooth.lingual_word)
        row = Site(zone, where, xyz(at), limits, gap_mm=counts, depth_mm=depth, most_mm=most, use=use, why=note)
        sites.append(row)
    return sites


def lift_share(zone: str, at: Floats, reference: Surface, axes: Axes) -> float:
    """How much of an axial lift is room for the crown there: all over the cusps, none on the facial surface, and over a
    front tooth's sloping fossa its part along the fossa's normal."""
    head = zone.split("/")[0]
    if head == "facial":
        return 0.0  # it stands where it stood
    if head != "lingual-fossa":
        return 1.0
    near = np.linalg.norm(reference.vertices - at, axis=1) < NORMAL_WITHIN_MM
    normal = (reference.vertex_normals * reference.vertex_areas[:, None])[near].sum(axis=0)
    length = float(np.linalg.norm(normal))
    return float(np.clip(normal @ axes.up / length, 0.0, 1.0)) if length > 0 else 0.0


def _back_places(anatomy: Anatomy, functional_side: str) -> list[tuple[str, Floats]]:
    places: list[tuple[str, Floats]] = []
    for name, tip in anatomy.cusps.items():
        kind = "functional-cusp" if is_functional(name, functional_side) else "non-functional-cusp"
        places.append((f"{kind}/{name}", np.asarray(tip)))
    middle = len(anatomy.groove_x) // 2
    places.append(("central-groove", np.array([anatomy.groove_x[middle], anatomy.groove_y[middle]])))
    width = float(anatomy.size[1])
    for side, gx, sign in (("facial", anatomy.facial_groove_x, 1.0), ("lingual", anatomy.lingual_groove_x, -1.0)):
        if gx is not None:
            places.append((f"{side}-groove", np.array([gx, float(anatomy.groove_y[middle]) + sign * 0.27 * width])))
    for side, k, sign in (("mesial", -1, 1.0), ("distal", 0, -1.0)):
        x = float(anatomy.groove_x[k]) + sign * 0.07 * float(anatomy.size[0])
        places.append((f"marginal-ridge/{side}", np.array([x, float(anatomy.groove_y[k])])))
    return places


def _front_places(reference: Surface, axes: Axes) -> list[tuple[str, Floats]]:
    """Edge, the three thirds of the face, and the concavity, as points (3,) on the tooth."""
    azimuth, radius, height = axes.cylinder(reference.vertices)
    top = float(np.quantile(height, 0.999))
    low = float(np.quantile(height, 0.05))
    places: list[tuple[str, Floats]] = [("incisal-edge", reference.vertices[int(np.argmax(height))])]
    for zone, facing, share in (
        ("facial/incisal", 0.0, 0.80), ("facial/middle", 0.0, 0.5), ("facial/cervical", 0.0, 0.2),
        ("lingual-fossa", 180.0, 0.62),
    ):  # fmt: skip
        level = low + share * (top - low)
        off = np.abs(height - level) + 0.05 * np.minimum((azimuth - facing) % 360, (facing - azimuth) % 360)
        places.append((zone, reference.vertices[int(np.argmin(off - 0.001 * radius))]))
    return places


def _on_surface(reference: Surface, axes: Axes, place: Floats) -> Floats | None:
    """The highest point of the tooth over a plan place (2,)."""
    off = np.linalg.norm(plan(axes, reference.vertices) - place, axis=1)
    near = off < 0.5
    if not near.any():
        return None
    height = (reference.vertices - axes.origin) @ axes.up
    return np.asarray(reference.vertices[int(np.argmax(np.where(near, height - 2 * off, -np.inf)))])
