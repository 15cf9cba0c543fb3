"""All scans of a case in one frame, that of the preparation scan: once for all of its teeth."""

from __future__ import annotations

import time
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np

from vane_line.core.align.crowns import Crowns
from vane_line.core.align.fine import given_share, near_pairs, register
from vane_line.core.align.fit import STABLE_SHARE, Fit
from vane_line.core.apart import Job, both, each
from vane_line.core.arrays import Floats
from vane_line.core.channels.guide_pins import Pin, pulled
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import BEWARE, Options, Progress
from vane_line.core.scans import Scans
from vane_line.core.tooth.frame import make_frame
from vane_line.core.tooth.locate import CutSite, cut_regions
from vane_line.core.tooth.occlusal import guess_occlusal
from vane_line.core.vectors import unit
from vane_line.errors import UnfitScans

PINS_STAND = "Guide pins stand on the preparation ({}), of which nothing was said: they are measured and taken off."


@dataclass(frozen=True, eq=False)
class Aligned:
    """The scans, the earlier ones moved onto the prep by role, and how well each fits.

    occlusal: (3,) of the jaw, with its confidence (0..1). pins: guide pins that stood on the preparation, which is
    closed over their feet. Which tooth was cut plays no part here.
    """

    scans: Scans
    occlusal: Floats
    confidence: float
    crowns: Crowns
    fits: dict[str, Fit]
    moved: dict[str, Surface]
    spent_s: float
    pins: tuple[Pin, ...] = ()

    def sites(self, count: int) -> list[CutSite]:
        """Where the scan before, on the prep, differs most: `count` places at most."""
        return cut_regions(self.scans.prep, self.moved["preop"], count, self.crowns.hold)

    def along(self, options: Options, place: Floats) -> Floats:
        """(3,) the way the row of teeth runs at a place of the earlier scan, the tooth's facial side to the right."""
        frame = make_frame(self.moved["preop"], place, options.tooth, self.occlusal, self.confidence, options.facial)
        return np.cross(frame.occlusal, frame.facial)


def align(scans: Scans, options: Options, progress: Progress) -> Aligned:
    """Bring the earlier scans onto the prep; of the options only `occlusal`, `pairs` and those of pins are asked.

    Raises UnfitScans where guide pins are said to stand and none does.
    """
    began = time.perf_counter()
    prep, pins = scans.prep, tuple[Pin, ...]()
    if options.pins_may_stand:
        prep, pins = pulled(prep)
        if options.guide_pins and not pins:
            raise UnfitScans("prep: no guide pin stands there; scan it again with the pins in, or do not ask for them.")
        said = (PINS_STAND.format(len(pins)),) if pins and not options.guide_pins else ()
        scans = replace(scans, prep=prep, warnings=(*scans.warnings, *said))
    progress("aligning the scans", 0.05)
    earlier = {role: s for role, s in (("preop", scans.preop), ("mockup", scans.mockup)) if s is not None}
    begun = {role: starts(options, role) for role in earlier}
    # The shares here: for them the search tree is made that registration asks again and again.
    given, (occlusal, confidence, crowns) = both(
        lambda: {role: given_share(s, prep) for role, s in earlier.items() if begun[role] is None},
        lambda: _standing(prep, options),
    )
    laying = [partial(register, s, prep, occlusal, crowns, begun[role], given.get(role)) for role, s in earlier.items()]
    # Meanwhile here: what is asked of the earlier scans as soon as they lie on the prep.
    jobs: list[Job[Any]] = [lambda: [s.searched() for s in earlier.values()], *laying]
    fits: dict[str, Fit] = dict(zip(earlier, each(jobs)[1:], strict=True))
    for role, fit in fits.items():
        if fit.stable_share < STABLE_SHARE:
            progress(f"{BEWARE}{role} does not fit prep; what needs both will not be judged", 0.3)
    moved = {role: surface.laid(fits[role].matrix) for role, surface in earlier.items()}
    return Aligned(
        scans=scans, occlusal=occlusal, confidence=confidence, crowns=crowns, fits=fits, moved=moved,
        spent_s=time.perf_counter() - began, pins=pins,
    )  # fmt: skip


def _standing(prep: Surface, options: Options) -> tuple[Floats, float, Crowns]:
    """The jaw's occlusal direction (3,) with its confidence, and what of the scan is crowns along it."""
    occlusal, confidence = (unit(options.occlusal), 1.0) if options.occlusal is not None else guess_occlusal(prep)
    return occlusal, confidence, Crowns.of(prep, occlusal)


def starts(options: Options, role: str) -> list[Floats] | None:
    """Positions (4, 4) to begin from where a person pointed at the same places on a scan and on the preparation's."""
    pairs = options.pairs.get(role)
    return None if pairs is None else near_pairs(pairs.theirs, pairs.ours)
