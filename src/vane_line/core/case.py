"""The one pipeline that strings the measures together: scans and options in, a Geometry out.

Nothing here depends on a standard: a Geometry can be judged again by another one (`judge.document`) without
measuring again.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from vane_line.core.align.crowns import Crowns
from vane_line.core.align.fine import register
from vane_line.core.align.fit import STABLE_SHARE, U_ALIGN_LIMIT_UM, Fit
from vane_line.core.arrays import Bools, Floats, highest_per_cell, unit
from vane_line.core.judge.uncertainty import U_BITE_MM
from vane_line.core.measure.clearance import BITE_CELL_MM, Bite, check_bite, clearance
from vane_line.core.measure.finish_line import FinishLine, find_finish_line
from vane_line.core.measure.insertion import neighbour_points
from vane_line.core.measure.inside import inside_line
from vane_line.core.measure.path import Path, best_path, least_draft
from vane_line.core.measure.section import STEP_MM, Axes, Profiles, profiles
from vane_line.core.measure.wall import WallRuns, find_walls
from vane_line.core.mesh.quality import noise_um
from vane_line.core.mesh.surface import Surface
from vane_line.core.scans import Scans
from vane_line.core.shape import Shape, crown_points, measure_shape
from vane_line.core.tooth.anatomy import Anatomy, find_anatomy, size_of
from vane_line.core.tooth.frame import Frame, make_frame
from vane_line.core.tooth.locate import find_cut
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.tooth.occlusal import guess_occlusal
from vane_line.core.tooth.reference import ReferenceTooth, segment
from vane_line.core.tooth.search import search_preparation, stump_score
from vane_line.errors import BadOption, UnfitScans

ALGORITHM_VERSION = 2  # raised whenever a measure's result may change: old results are marked, never rewritten
CROP_MM = 9.5
ROUGH_AZIMUTHS = 60
HARDLY_ANY_SHARE = 0.25  # below this the scans share so little that not even the difference is looked at
GOOD_STUMP = 0.5  # a clear stump is found round the middle of the change
AWAY_FACTOR = 0.62  # of the tooth's largest width: kept out of the stable overlap
TAUBIN_STEPS = 4
DEPTH_EVERY = 3  # samples of a profile that share one distance
DEPTH_PAST_FOOT_MM = 3.6
MIN_WALLS = 0.5  # share of directions in which a wall must be seen
MAX_OUTSIDE_SHARE = 0.12  # of the preparation standing outside the earlier tooth: then the outline is wrong
OUTSIDE_MM = 0.15

Progress = Callable[[str, float], None]


@dataclass(frozen=True, eq=False)
class Options:
    """What the person said about the case. Vectors (3,) in the prep scan's coordinates, mm."""

    tooth: ToothNumber
    occlusal: Floats | None = None
    facial: Floats | None = None
    near: Floats | None = None
    path: Floats | None = None
    old_crown: bool = False
    opposing_frame: str = "prep"
    functional_side: str | None = None  # set for a crossbite; else from the jaw

    def functional(self) -> str:
        return self.functional_side or self.tooth.functional_side


@dataclass(frozen=True, eq=False)
class Alignment:
    """How one scan was brought onto the preparation scan."""

    matrix: Floats
    rms_mm: float | None
    p95_mm: float | None
    stable_area_mm2: float | None
    u_align_um: float | None
    trusted: bool
    why: str = ""


@dataclass(frozen=True, eq=False)
class Distances:
    """A signed distance per inside vertex (N,), and where the other scan never saw the tooth (N,)."""

    value: Floats
    unseen: Bools


@dataclass(frozen=True, eq=False)
class Geometry:
    """All that was measured, before any judgement. `inside` is the part of the prep within the finish line."""

    options: Options
    frame: Frame
    alignment: dict[str, Alignment]
    axes: Axes
    path: Path
    profiles: Profiles
    walls: WallRuns
    line: FinishLine
    inside: Surface
    anatomy: Anatomy
    reference: str | None  # preop | mockup: what `space` is measured to
    space: Distances | None
    tooth_removed: Distances | None
    clearance: Distances | None
    bite: Bite | None
    shape: Shape
    noise_um: float
    patch_scatter_um: float | None
    reasons: dict[str, str]  # criterion -> why it could not be measured
    warnings: tuple[str, ...]
    timing_s: dict[str, float] = field(default_factory=dict)

    @property
    def trusted(self) -> bool:
        return all(a.trusted for a in self.alignment.values())


def measure(scans: Scans, options: Options, progress: Progress = lambda _text, _share: None) -> Geometry:
    """Measure one preparation. Raises UnfitScans or BadOption when there is nothing to measure."""
    began = time.perf_counter()
    warnings, reasons = list(scans.warnings), dict[str, str]()
    prep = scans.prep
    progress("aligning the scans", 0.05)
    occlusal, occlusal_confidence = _occlusal(scans, options)
    crowns = Crowns.of(prep, occlusal)
    alignment: dict[str, Alignment] = {}
    moved: dict[str, Surface] = {}
    fits: dict[str, Fit] = {}
    for role in ("preop", "mockup"):
        surface: Surface | None = getattr(scans, role)
        if surface is not None:
            fits[role] = register(surface, prep, occlusal, crowns)
            moved[role] = surface.moved(fits[role].matrix)

    progress("finding the cut tooth", 0.35)
    seen_before = "preop" in fits and fits["preop"].stable_share >= HARDLY_ANY_SHARE
    centre = locate_centre(prep, moved["preop"] if seen_before else None, options.near, occlusal)
    radius = AWAY_FACTOR * max(size_of(options.tooth)[1:4])
    for role, fit in fits.items():
        fits[role] = fit.without(prep, centre, radius)
        alignment[role] = _trust(fits[role], centre, options.tooth)
    aligned = time.perf_counter()

    progress("finding the tooth's axes", 0.45)
    opposing = _opposing(scans, options, alignment)
    if opposing is not None:
        alignment["opposing"] = opposing[1]
    arch = moved["preop"] if "preop" in moved and alignment["preop"].trusted else prep
    bite_side = opposing[0] if opposing else None
    frame = make_frame(arch, centre, options.tooth, occlusal, occlusal_confidence, options.facial, bite_side)
    warnings += frame.warnings

    progress("tracing the finish line", 0.55)
    crop, _ = prep.keep_vertices(np.linalg.norm(prep.vertices - centre, axis=1) < CROP_MM)
    base = moved.get("preop") if "preop" in moved and alignment["preop"].trusted else None
    eased = crop.smoothed(TAUBIN_STEPS)  # distance to noise is biased low, and so is the draft of noisy normals
    axes, path, rings, walls = _axis_and_path(crop, eased, centre, frame, options)
    line = find_finish_line(rings, walls, _profile_depth(rings, walls, base))
    inside_mask = inside_line(crop, line.points, axes.up, line.points.mean(axis=0))
    if crop.vertex_areas[inside_mask].sum() < 5.0:
        raise UnfitScans(
            "prep: no preparation with a wall and a finish line is found there; give a point on the cut tooth (near)."
        )
    inside, inside_index = crop.keep_vertices(inside_mask)

    progress("measuring the reduction", 0.7)
    space, removed, reference_tooth, which = _reductions(
        crop, eased, inside_mask, inside_index, line, axes, moved, alignment, options, reasons
    )
    anatomy = find_anatomy(options.tooth, reference_tooth.surface if reference_tooth else None, line.points, axes)
    warnings += _anatomy_warnings(anatomy, options.tooth)
    if line.doubtful_share > 0.02:
        warnings.append(
            f"The finish line is doubtful over {100 * line.doubtful_share:.0f} % of its course: "
            "no clear edge is seen there."
        )

    progress("measuring the clearance", 0.9)
    gap, bite = None, None
    if opposing is not None and opposing[1].trusted:
        gap = Distances(clearance(eased.vertices[inside_index], opposing[0]), np.zeros(inside.n_vertices, bool))
        bite = check_bite(_other_teeth(prep, line, axes), opposing[0], U_BITE_MM)
    elif opposing is not None:
        reasons["clearance"] = opposing[1].why
    else:
        reasons["clearance"] = "no opposing scan was given"

    progress("measuring walls and finish line", 0.95)
    noise = noise_um(crop)
    shape = measure_shape(
        rings, walls, line, noise, wall_samples(eased, axes, rings, walls),
        crown_points(reference_tooth.surface if reference_tooth else None, line, axes),
        neighbour_points(prep, crowns, line, axes),
    )  # fmt: skip
    if reference_tooth is None:
        reasons["path-blocked"] = "without an earlier scan of the tooth the planned crown is not known"

    scatter = None
    if "preop" in fits and len(fits["preop"].residuals) > 5:
        scatter = 1000 * 1.4826 * float(np.median(np.abs(fits["preop"].residuals)))
    done = time.perf_counter()
    return Geometry(
        options, frame, alignment, axes, path, rings, walls, line, inside, anatomy, which, space, removed, gap, bite,
        shape, noise, scatter, reasons, tuple(warnings), {"align": aligned - began, "measure": done - aligned},
    )  # fmt: skip


def _occlusal(scans: Scans, options: Options) -> tuple[Floats, float]:
    if options.occlusal is not None:
        return unit(options.occlusal), 1.0
    return guess_occlusal(scans.prep)


def locate_centre(prep: Surface, preop: Surface | None, near: Floats | None, occlusal: Floats) -> Floats:
    """A point inside the cut tooth: from the difference to `preop` (moved), the person's hint, or a search."""
    if preop is not None:
        centre = find_cut(prep, preop, near).centre
        score, middle = stump_score(prep, centre, occlusal)
        # Gaps that the earlier scan bridged pull the middle of the change off the tooth.
        return middle if score >= GOOD_STUMP else _or(centre, lambda: search_preparation(prep, occlusal, centre))
    if near is not None:
        distance, _, place = prep.closest(near[None])
        if distance[0] > 15.0:
            raise BadOption("near: the point lies more than 15 mm from the prep scan; give a point on the cut tooth.")
        # Refined by the search round the hint, which need not lie in the tooth's middle.
        return search_preparation(prep, occlusal, place[0])
    return search_preparation(prep, occlusal, None)


def _or(fallback: Floats, search: Callable[[], Floats]) -> Floats:
    try:
        return search()
    except UnfitScans:
        return fallback


def _trust(fit: Fit, centre: Floats, tooth: ToothNumber) -> Alignment:
    """Contract: u_align at most 30 µm at the tooth, and at least 60 % of the stable overlap within 0.1 mm."""
    reach = max(size_of(tooth)[1:4]) / 2
    corners = centre + reach * np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]])
    u = fit.u_align_um(corners)
    why = ""
    if fit.stable_share < STABLE_SHARE:
        why = (
            f"only {100 * fit.stable_share:.0f} % of the overlap lies within 0.1 mm (60 % needed): "
            "the scans may not belong together, or share too few uncut teeth"
        )
    elif u > U_ALIGN_LIMIT_UM:
        why = f"the alignment is uncertain by {min(u, 9999):.0f} µm at the tooth (30 at most)"
    return Alignment(
        fit.matrix, _finite(fit.rms_mm), _finite(fit.p95_mm), _finite(fit.stable_area_mm2), _finite(u), why == "", why
    )


def _finite(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _opposing(scans: Scans, options: Options, alignment: dict[str, Alignment]) -> tuple[Surface, Alignment] | None:
    """The opposing scan in the prep's frame. It shares no surface: it comes in the prep's or the preop's frame."""
    if scans.opposing is None:
        return None
    if options.opposing_frame == "prep":
        return scans.opposing, Alignment(np.eye(4), None, None, None, 0.0, True)
    if "preop" not in alignment:
        raise BadOption("opposing-frame preop: give the preop scan too, since the opposing scan is moved with it.")
    base = alignment["preop"]
    why = "" if base.trusted else "the opposing scan is moved with the preop scan, whose alignment is not trusted"
    return scans.opposing.moved(base.matrix), Alignment(
        base.matrix, None, None, None, base.u_align_um, base.trusted, why
    )


def _axis_and_path(
    crop: Surface, eased: Surface, centre: Floats, frame: Frame, options: Options
) -> tuple[Axes, Path, Profiles, WallRuns]:
    """Walls are found along o first, give the path, and are found again along it about the line's middle."""
    up = unit(options.path) if options.path is not None else frame.occlusal
    axes = Axes.make(centre, up, frame.facial, frame.mesial)
    path = Path(up, float("nan"), "given")
    for azimuths in (ROUGH_AZIMUTHS, ROUGH_AZIMUTHS, None):
        rings = profiles(crop, axes) if azimuths is None else profiles(crop, axes, azimuths)
        walls = find_walls(rings)
        if walls.found.mean() < MIN_WALLS:
            raise UnfitScans(
                "prep: no preparation with walls is found there; give a point on the cut tooth (near) or its axis "
                "(occlusal)."
            )
        normals, areas = wall_samples(eased, axes, rings, walls)
        if options.path is not None:
            path = Path(up, least_draft(normals, areas, up), "given")
        elif azimuths is not None:
            path = best_path(normals, areas, frame.occlusal)
        if azimuths is None:
            return axes, path, rings, walls
        feet = rings.places(np.maximum(walls.foot, 0))[walls.found]
        axes = Axes.make(feet.mean(axis=0), path.direction, frame.facial, frame.mesial)
    raise AssertionError("unreachable")


def wall_samples(crop: Surface, axes: Axes, rings: Profiles, walls: WallRuns) -> tuple[Floats, Floats]:
    """Normals (N, 3) and areas (N,) of the vertices on the axial walls, clear of fillet and occlusal edge."""
    azimuth, radius, height = axes.cylinder(crop.vertices)
    n = len(rings.azimuth_deg)
    row = np.round(azimuth * n / 360).astype(int) % n
    rows = np.arange(n)
    top = rings.height[rows, np.maximum(walls.top, 0)][row]
    foot = rings.height[rows, np.maximum(walls.foot, 0)][row]
    foot_radius = rings.radius[rows, np.maximum(walls.foot, 0)][row]
    ease = np.minimum(0.35, 0.2 * (top - foot))
    mask = walls.found[row] & (height < top - ease) & (height > foot + ease) & (radius < foot_radius + 0.4)
    return crop.vertex_normals[mask], crop.vertex_areas[mask]


def _profile_depth(rings: Profiles, walls: WallRuns, base: Surface | None) -> Floats | None:
    """Signed distance of the profile samples from the wall's top outward to the earlier surface, nan elsewhere."""
    if base is None:
        return None
    arc = np.arange(0, rings.radius.shape[1], DEPTH_EVERY)
    foot, top = np.maximum(walls.foot, 0)[:, None], np.maximum(walls.top, 0)[:, None]
    wanted = (arc[None] >= top - 4) & (arc[None] <= foot + round(DEPTH_PAST_FOOT_MM / STEP_MM))
    wanted |= ~walls.found[:, None]
    wanted &= np.isfinite(rings.radius[:, arc]) & (rings.radius[:, arc] < 9.0)
    azimuth = np.broadcast_to(rings.azimuth_deg[:, None], wanted.shape)
    points = rings.axes.places(azimuth[wanted], rings.radius[:, arc][wanted], rings.height[:, arc][wanted])
    coarse = np.full(wanted.shape, np.nan)
    coarse[wanted] = base.signed_distance(points)[0]
    return np.repeat(coarse, DEPTH_EVERY, axis=1)[:, : rings.radius.shape[1]]


def _reductions(
    crop: Surface,
    eased: Surface,
    inside_mask: Bools,
    inside_index: np.ndarray,
    line: FinishLine,
    axes: Axes,
    moved: dict[str, Surface],
    alignment: dict[str, Alignment],
    options: Options,
    reasons: dict[str, str],
) -> tuple[Distances | None, Distances | None, ReferenceTooth | None, str | None]:
    """Space to the planned outer surface, tooth removed, the reference tooth, and which scan the space is to."""
    points = eased.vertices[inside_index]
    inside_area = crop.vertex_areas[inside_index]
    found: dict[str, Distances] = {}
    teeth: dict[str, ReferenceTooth] = {}
    for role in ("preop", "mockup"):
        if role not in moved:
            reasons[role] = f"no {role} scan was given"
            continue
        if not alignment[role].trusted:
            reasons[role] = f"{role}: {alignment[role].why}"
            continue
        height = size_of(options.tooth)[0]
        tooth = segment(moved[role], crop, inside_mask, line.points, axes, height)
        if tooth is None:
            reasons[role] = f"the tooth could not be told apart on the {role} scan"
            continue
        smooth = ReferenceTooth(tooth.surface.smoothed(TAUBIN_STEPS), tooth.border)
        value, unseen, _ = smooth.distance(points)
        area = inside_area
        outside = float(area[(value < -OUTSIDE_MM) & ~unseen].sum() / max(float(area[~unseen].sum()), 1e-9))
        if outside > MAX_OUTSIDE_SHARE:
            reasons[role] = (
                f"{100 * outside:.0f} % of what was taken for the preparation stands outside the {role} tooth: "
                "its outline could not be told; give a point on the cut tooth or its axis"
            )
            continue
        found[role], teeth[role] = Distances(value, unseen), tooth
    removed = None if options.old_crown else found.get("preop")
    if options.old_crown:
        reasons["tooth-removed"] = "the earlier surface is an old crown, not the tooth"
        reasons["preop"] = "the earlier surface is an old crown whose contour is not declared to be the planned one"
    which = "mockup" if "mockup" in moved else ("preop" if "preop" in moved and not options.old_crown else None)
    space = found.get(which) if which else None
    if space is None:
        reasons["reduction"] = reasons.get(which or "preop", "no reference was given")
    reference = teeth.get("preop") or teeth.get("mockup")
    return space, removed, reference, which


def _anatomy_warnings(anatomy: Anatomy, tooth: ToothNumber) -> list[str]:
    if not anatomy.cusps:
        return [f"Tooth {tooth.fdi}: zones of this class are only wall thirds and one incisal zone so far."]
    if anatomy.source == "template":
        return ["Zones come from the template of the tooth's class: no cusps were found on an earlier surface."]
    return []


def _other_teeth(prep: Surface, line: FinishLine, axes: Axes) -> Floats:
    """(N, 3) the highest points of the other teeth on the prep scan, one per small square of plan."""
    tops = prep.vertices[highest_per_cell(prep.vertices, axes.up, BITE_CELL_MM)]
    azimuth, radius, height = axes.cylinder(tops)
    beyond = radius > line.at(azimuth, line.radius) + 0.8
    return np.asarray(tops[beyond & (height > float(np.median(line.height)) + 1.0)])
