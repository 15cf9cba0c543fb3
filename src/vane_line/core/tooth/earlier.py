"""What the earlier surface means, and where the files contradict it.

Each meaning says what space is judged to (the planned outer surface) and what removal is judged to (the natural tooth).
They are never the same number by accident: where a meaning gives no natural tooth, there is no removal.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.vectors import within
from vane_line.errors import BadOption

if TYPE_CHECKING:
    from vane_line.core.mesh.surface import Surface

TOUCH_MM = 0.08  # teeth that meet stand this near
SHORT_MM = 0.35  # a tooth that stands further from the bite than this is said to be short of it
INSIDE_MM, INSIDE_SHARE = 0.30, 0.25
MOST_LIFT_MM, BESIDE_WAY_MM = 4.0, 2.0
OCCLUSAL_MM = 2.5  # below a tooth's highest point: what can meet the opposing teeth
MOST_STEPS, NEAR_ENOUGH_MM = 30, 0.002
SPACING_MM = 0.20  # of the points that are tried: a dense scan tells no more
CONTACT_SHARE = 0.01  # of those points that may stand nearer: noise


@dataclass(frozen=True)
class Meaning:
    """One choice: its name, what it says, what space is measured to, whether the earlier surface is natural tooth.

    hint: what then counts, for whoever has to choose.
    """

    name: str
    title: str
    space_to: str
    natural: bool
    lifted: bool = False
    copied: bool = False
    hint: str = ""

    @property
    def why_no_removal(self) -> str:
        return "" if self.natural else "the earlier surface is an old crown, not the tooth: what was removed is unknown"


MEANINGS = {
    m.name: m
    for m in (
        Meaning(
            "natural",
            "natural tooth, its form is kept",
            "the tooth before",
            True,
            copied=True,
            hint="depth of cut is tooth removed, and space",
        ),
        Meaning(
            "old-crown",
            "old crown, its form is not kept",
            "nothing: only the bite tells",
            False,
            hint="depth tells nothing: only the space to the opposing teeth counts",
        ),
        Meaning(
            "copied-crown",
            "old crown, its form is to be copied",
            "the old crown's contour",
            False,
            copied=True,
            hint="space to the old contour counts; how much is tooth is not known",
        ),
        Meaning(
            "short",
            "worn, or stands short of the bite",
            "the tooth built up to the bite",
            True,
            True,
            True,
            hint="the crown is built up to the bite: an existing gap counts and is not cut again",
        ),
    )
}


def meaning_of(name: str) -> Meaning:
    """Raises BadOption."""
    if name not in MEANINGS:
        raise BadOption(f"earlier surface {name}: use one of {', '.join(MEANINGS)}.")
    return MEANINGS[name]


def lift_to_bite(tooth: Surface, opposing: Surface, up: Floats) -> float | None:
    """How far `tooth` may be moved along `up` (3,) until it first meets the opposing teeth; None where they are far.

    Negative where it already cuts into them, -1 at most.
    """
    height = tooth.vertices @ up
    points = tooth.thinned(SPACING_MM)
    top = points[points @ up > height.max() - OCCLUSAL_MM]
    if len(top) == 0:
        return None
    # What the tops pass on their way up, and what stands beside that.
    way = np.concatenate([top - up, top + MOST_LIFT_MM * up])
    low, high = way.min(axis=0) - BESIDE_WAY_MM, way.max(axis=0) + BESIDE_WAY_MM
    near, _ = opposing.keep_vertices(within(opposing.vertices, low, high))
    if near.n_faces < 20 or len(top) < 20:
        return None

    def gap(lift: float) -> float:
        return float(np.quantile(near.gap(top + lift * up), CONTACT_SHARE))

    # No step passes the first contact: nothing comes nearer faster than it is moved.
    lift = 0.0
    for _ in range(MOST_STEPS):
        step = gap(lift)
        lift = max(lift + step, -1.0)
        if lift > MOST_LIFT_MM:
            return None
        if abs(step) < NEAR_ENOUGH_MM or lift == -1.0:
            break
    return lift


def built_up_mm(meaning: Meaning, lift_mm: float | None, raised: bool) -> float:
    """By how much the earlier tooth is built up to the bite, 0 where its form is kept. raised: by an opened bite."""
    return max(lift_mm or 0.0, 0.0) if meaning.lifted or (raised and meaning.copied) else 0.0


def contradictions(meaning: Meaning, lift_mm: float | None, mockup_inside: float | None, raised: bool) -> list[str]:
    """Sentences on what in the files speaks against the choice.

    lift_mm: how far the earlier tooth stands from the bite. mockup_inside: share of the mock-up inside the tooth.
    """
    said = []
    if meaning.natural and not meaning.lifted and lift_mm is not None and lift_mm > SHORT_MM:
        said.append(
            f"The tooth stood {lift_mm:.1f} mm short of the bite: if the crown is to be built up to it, say so "
            "(earlier surface: worn, or short of the bite); then the gap counts as space and is not cut again."
        )
    if meaning.lifted and not raised and lift_mm is not None and lift_mm <= TOUCH_MM:
        said.append("The tooth already met the opposing teeth: there is nothing to build up to, no gap is counted.")
    if meaning.lifted and lift_mm is None:
        said.append("No opposing teeth stand over the tooth: how far it may be built up is not known.")
    if mockup_inside is not None and mockup_inside > INSIDE_SHARE:
        said.append(
            f"{100 * mockup_inside:.0f} % of the mock-up lies inside the tooth before: mock-up and earlier scan may be "
            "swapped, or the mock-up belongs to another case."
        )
    return said
