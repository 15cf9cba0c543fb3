"""The cut tooth found on aligned scans: all that neither the path nor the finish line changes."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import cache, partial
from typing import NamedTuple, TypeVar

import numpy as np

from vane_line.core.align.crowns import CROWN_BELOW_TOP_MM, MILK_BELOW_TOP_MM, Crowns
from vane_line.core.align.fit import STABLE_SHARE, U_ALIGN_LIMIT_UM, Fit
from vane_line.core.align.jaws import SAME_JAW, why_not_opposing
from vane_line.core.aligned import Aligned, align
from vane_line.core.apart import both
from vane_line.core.arrays import Bools, Floats
from vane_line.core.channels.guide_pins import Pin
from vane_line.core.cut_too import tell_apart
from vane_line.core.mesh.quality import noise_um
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options, Progress
from vane_line.core.scans import Scans
from vane_line.core.tooth.anatomy import size_of
from vane_line.core.tooth.frame import Frame, make_frame
from vane_line.core.tooth.locate import CutSite, find_cut, find_lost
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.tooth.search import across, scored_search, search_preparation, settled, stump_near
from vane_line.core.vectors import about_axis
from vane_line.errors import BadOption, UnfitScans

CROP_MM = 9.5
HARDLY_ANY_SHARE = 0.25  # below this the scans share so little that not even the difference is looked at
GOOD_STUMP, FAIR_STUMP = 0.5, 0.2  # a clear stump is found round the middle of the change, or something like one
STRAY_MM, FAR_STRAY_MM = 2.5, 4.0  # across: what is found further from the change is another tooth, clear or not
WIDE_MM = 6.0  # a removed region that reaches further than this is more than a tooth
AWAY_FACTOR = 0.62  # of the tooth's largest width: kept out of the stable overlap
TAUBIN_STEPS = 4
AS_MUCH_SHARE = 0.35  # of the greatest loss: another that is as great is another preparation, not gingiva that moved
TWO_CUT = (
    "Two teeth were cut between these scans: this is the one that lost more. If another is meant, give a point on it "
    "(near) or name the other teeth that were cut (--also-cut)."
)
OUT_OF_BITE = ": export it in the bite's position"
ONE_PLACE = (
    "The scans differ in fewer places than teeth were named as cut: look whether this is the tooth that is meant, or "
    "give a point on it (near)."
)


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
class Placed:
    """The scans in the prep's frame, the tooth's place and axes, and the surface round it.

    moved: earlier surfaces by role. crop: the prep scan round the tooth, `eased` the same without its noise (distance
    to noise is biased low, and so is the draft of noisy normals). base: the earlier scan where it is trusted. pins:
    guide pins that stood on the preparation, which is closed over their feet. cut_too: where other teeth were cut.
    """

    scans: Scans
    alignment: dict[str, Alignment]
    moved: dict[str, Surface]
    opposing: Surface | None
    crowns: Crowns
    centre: Floats
    frame: Frame
    crop: Surface
    eased: Surface
    base: Surface | None
    noise_um: float
    patch_scatter_um: float | None
    warnings: tuple[str, ...]
    spent_s: float
    pins: tuple[Pin, ...] = ()
    opposing_before: Surface | None = None  # as the bite was recorded before cutting, where the earlier scan is trusted
    cut_too: tuple[tuple[ToothNumber, Floats], ...] = ()

    def nearer(self, points: Floats) -> Bools:
        """(N,) whether each of `points` (N, 3) lies nearer to this tooth than to another that was cut too."""
        return _nearer(points, self.centre, [place for _, place in self.cut_too])

    def of_others_cut(self, points: Floats) -> Bools:
        """(N,) whether each of `points` (N, 3) may belong to another tooth that was cut too."""
        return _of_cut(self.cut_too, self.frame.occlusal, points)


Finder = Callable[[Surface, Surface | None, Floats | None, Floats], Floats]
Found = TypeVar("Found")


def place(scans: Scans, options: Options, progress: Progress, find: Finder | None = None) -> Placed:
    """Align the scans, then find the cut tooth. Raises UnfitScans or BadOption."""
    return locate(align(scans, options, progress), options, progress, find)


def locate(
    aligned: Aligned, options: Options, progress: Progress = lambda _text, _share: None, find: Finder | None = None
) -> Placed:
    """Find the cut tooth and its axes on scans that are aligned. Raises UnfitScans or BadOption.

    find: the middle of the cut tooth on the prep, from the earlier scan on it, the person's hint and the occlusal
    direction; a stump's unless given.
    """
    began = time.perf_counter()
    scans, moved = aligned.scans, aligned.moved
    prep = scans.prep
    progress("finding the cut tooth", 0.35)
    centre, cut_too, doubt, fits = _cut_tooth(aligned, options, find or locate_centre)
    alignment = {role: _trust(fit, centre, options.tooth) for role, fit in fits.items()}

    progress("finding the tooth's axes", 0.45)
    cut = partial(_of_cut, [(options.tooth, centre), *cut_too], aligned.occlusal)
    why_not = partial(why_not_opposing, prep, crowns=aligned.crowns, cut=cut)
    opposing = _opposing(scans, options, alignment, why_not)
    if opposing is not None:
        alignment["opposing"] = opposing[1]
    arch = moved["preop"] if "preop" in moved and alignment["preop"].trusted else prep
    bite_side = opposing[0] if opposing else None
    (crop, eased, noise), frame = both(
        lambda: _round_tooth(prep, centre),
        lambda: make_frame(
            arch, centre, options.tooth, aligned.occlusal, aligned.confidence, options.facial, bite_side
        ),
    )
    said = [doubt] if doubt else []
    before = _before(scans, alignment)
    if before is not None and (why := why_not(before)):
        said.append(f"opposing_before: {why}{OUT_OF_BITE}; contacts before cutting are not told by it.")
        before = None
    scatter = None
    if "preop" in fits and len(fits["preop"].residuals) > 5:
        scatter = 1000 * 1.4826 * float(np.median(np.abs(fits["preop"].residuals)))
    return Placed(
        scans=scans,
        alignment=alignment,
        moved=moved,
        opposing=bite_side,
        crowns=replace(aligned.crowns, below_mm=MILK_BELOW_TOP_MM) if options.tooth.primary else aligned.crowns,
        centre=centre,
        frame=frame,
        crop=crop,
        eased=eased,
        base=arch if arch is not prep else None,
        noise_um=noise,
        patch_scatter_um=scatter,
        warnings=(*scans.warnings, *frame.warnings, *said),
        pins=aligned.pins,
        opposing_before=before,
        cut_too=cut_too,
        spent_s=aligned.spent_s + time.perf_counter() - began,
    )


class _Found(NamedTuple):
    """Middle of the cut tooth, the others that were cut, what is to be said of it, and the fits without any of them."""

    centre: Floats
    cut_too: tuple[tuple[ToothNumber, Floats], ...]
    doubt: str
    fits: dict[str, Fit]


def _cut_tooth(aligned: Aligned, options: Options, find: Finder) -> _Found:
    """By what the scan before differs in, where what is left fits; else by the prep alone. Raises UnfitScans.

    A third of another mouth's teeth may fit by chance: what they differ in says nothing of where this one was cut.
    """
    fit = aligned.fits.get("preop")
    if fit is not None and fit.stable_share >= HARDLY_ANY_SHARE:
        try:
            found = _found(aligned, options, find, True)
        except UnfitScans:
            if fit.stable_share >= STABLE_SHARE:
                raise
        else:
            if found.fits["preop"].stable_share >= STABLE_SHARE:
                return found
    return _found(aligned, options, find, False)


def _found(aligned: Aligned, options: Options, find: Finder, compared: bool) -> _Found:
    """compared: with the scan before."""
    prep = aligned.scans.prep
    near, cut_too, doubt = _apart(aligned, options, compared)
    mine = _without(prep, near, [place for _, place in cut_too])
    centre = find(mine, aligned.moved["preop"] if compared else None, near, aligned.occlusal)
    cut = ((options.tooth, centre), *cut_too)
    return _Found(centre, cut_too, doubt, {role: without_cut(fit, prep, cut) for role, fit in aligned.fits.items()})


def without_cut(fit: Fit, prep: Surface, cut: Iterable[tuple[ToothNumber, Floats]]) -> Fit:
    """A fit by what is left of the prep without the teeth that were cut, each with its middle (3,)."""
    for tooth, place in cut:
        fit = fit.without(prep, place, _reach_mm(tooth))
    return fit


def _round_tooth(prep: Surface, centre: Floats) -> tuple[Surface, Surface, float]:
    """The scan round the tooth at `centre` (3,), the same freed of noise, and its noise, µm."""
    crop, _ = prep.keep_vertices(np.linalg.norm(prep.vertices - centre, axis=1) < CROP_MM)
    crop.lies_as(prep)
    return crop, crop.smoothed(TAUBIN_STEPS), noise_um(crop)


def _apart(
    aligned: Aligned, options: Options, compared: bool
) -> tuple[Floats | None, tuple[tuple[ToothNumber, Floats], ...], str]:
    """A point by the tooth, and by each of the others that were cut, where the scan before tells; and a warning."""
    if not compared or (options.near is not None and not options.others):
        return options.near, (), ""
    sites = aligned.sites(1 + max(len(options.others), 1))
    if not options.others:
        return None, (), _two_cut(sites)
    along = partial(aligned.along, options)
    near, others = tell_apart(options.tooth, options.others, options.near, [s.centre for s in sites], along)
    return near, tuple(others.items()), "" if others else ONE_PLACE


def _reach_mm(tooth: ToothNumber) -> float:
    """From the middle of a cut tooth, within which its surface is its own."""
    return AWAY_FACTOR * max(size_of(tooth)[1:4])


def _of_cut(cut: Iterable[tuple[ToothNumber, Floats]], up: Floats, points: Floats) -> Bools:
    """(N,) whether each of `points` (N, 3) may belong to one of the teeth that were cut, each with its middle (3,)."""
    found = np.zeros(len(points), dtype=bool)
    for tooth, place in cut:
        found |= about_axis(points, place, up)[0] < _reach_mm(tooth)
    return found


def _without(prep: Surface, near: Floats | None, others: list[Floats]) -> Surface:
    """The scan without what lies nearer to another tooth that was cut: where they touch, both losses are one."""
    if near is None or not others:
        return prep
    return prep.keep_vertices(_nearer(prep.vertices, near, others))[0]


def _nearer(points: Floats, place: Floats, others: list[Floats]) -> Bools:
    own = np.linalg.norm(points - place, axis=1)
    away = np.min([np.linalg.norm(points - other, axis=1) for other in others], axis=0, initial=np.inf)
    return np.asarray(own <= away)


def _two_cut(sites: list[CutSite]) -> str:
    """What is to be said where two teeth may have been cut, and nobody said which is meant; '' where that is plain."""
    if len(sites) < 2 or sites[1].volume_mm3 < AS_MUCH_SHARE * sites[0].volume_mm3:
        return ""
    return TWO_CUT


def locate_centre(prep: Surface, preop: Surface | None, near: Floats | None, occlusal: Floats) -> Floats:
    """A point inside the cut tooth: from the difference to `preop` (moved), the person's hint, or a search."""
    return settled(prep, _rough_centre(prep, preop, near, occlusal), occlusal)


def _rough_centre(prep: Surface, preop: Surface | None, near: Floats | None, occlusal: Floats) -> Floats:
    if preop is not None:
        by_crown = cache(partial(lost_crown, prep, preop, near, occlusal))
        site = find_cut(prep, preop, near)
        # Gingiva that moved all along the arch outweighs a small tooth: by what its crown lost, then.
        centre = _or(site.centre, by_crown) if site.spread_mm > WIDE_MM else site.centre
        # Gaps that the earlier scan bridged pull the middle of the change off the tooth; but an uncut tooth further
        # away may look more like a stump than one with a narrow ledge.
        middle, score = stump_near(prep, centre, occlusal, FAR_STRAY_MM)
        if score >= GOOD_STUMP:
            return middle
        # Webs that the earlier scan spanned at the last tooth can outweigh the tooth: by what its crown lost, then.
        again, clear = _or((middle, 0.0), lambda: stump_near(prep, by_crown(), occlusal, STRAY_MM))
        if clear >= GOOD_STUMP:
            return again
        found, likely = _or((centre, 0.0), lambda: scored_search(prep, occlusal, centre))
        allowed = FAR_STRAY_MM if likely >= GOOD_STUMP else STRAY_MM
        if likely > score and across(found - centre, occlusal) <= allowed:
            return found
        return middle if score >= FAIR_STUMP else centre
    if near is not None:
        distance, _, place = prep.closest(near[None])
        if distance[0] > 15.0:
            raise BadOption("near: the point lies more than 15 mm from the prep scan; give a point on the cut tooth.")
        # Refined by the search round the hint, which need not lie in the tooth's middle.
        return search_preparation(prep, occlusal, place[0])
    return search_preparation(prep, occlusal, None)


def lost_crown(
    prep: Surface, preop: Surface, near: Floats | None, occlusal: Floats, below_mm: float = CROWN_BELOW_TOP_MM
) -> Floats:
    """(3,) the middle of what the earlier scan's crowns lost, told down to `below_mm` under their tops. Raises
    UnfitScans."""
    crowns = replace(Crowns.of(preop, occlusal), below_mm=below_mm)
    return find_lost(preop.keep_vertices(crowns.hold(preop.vertices))[0], prep, near).centre


def _or(fallback: Found, search: Callable[[], Found]) -> Found:
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


def _before(scans: Scans, alignment: dict[str, Alignment]) -> Surface | None:
    """The opposing scan of the bite before cutting, moved with the earlier scan. Raises BadOption without that."""
    if scans.opposing_before is None:
        return None
    if "preop" not in alignment:
        raise BadOption("opposing_before: give the preop scan too; that bite belongs to it.")
    base = alignment["preop"]
    return scans.opposing_before.laid(base.matrix) if base.trusted else None


def _opposing(
    scans: Scans, options: Options, alignment: dict[str, Alignment], why_not: Callable[[Surface], str]
) -> tuple[Surface, Alignment] | None:
    """The opposing scan in the prep's frame. It shares no surface: it comes in the prep's or the preop's frame.

    why_not: what forbids that a surface shows the teeth over the prep's.
    """
    if scans.opposing is None:
        return None
    before = alignment.get("preop")
    if options.opposing_frame == "preop" and before is None:
        raise BadOption("opposing-frame preop: give the preop scan too, since the opposing scan is moved with it.")
    moved = before if options.opposing_frame == "preop" else None
    laid = scans.opposing if moved is None else scans.opposing.laid(moved.matrix)
    if moved is not None and not moved.trusted:
        why = "the opposing scan is moved with the preop scan, whose alignment is not trusted"
    else:
        why = why_not(laid)
        if why and why != SAME_JAW:
            why += OUT_OF_BITE
            if before is not None and before.trusted:
                other = "prep" if moved else "preop"
                there = scans.opposing if moved else scans.opposing.laid(before.matrix)
                why += "" if why_not(there) else f"; it fits as part of the {other} scan (opposing-frame {other})"
    matrix, u_um = (np.eye(4), 0.0) if moved is None else (moved.matrix, moved.u_align_um)
    return laid, Alignment(matrix, None, None, None, u_um, not why, why)
