"""Tooth axes: occlusal from visibility, facial and mesial from the arch and the tooth's number.

Given o and the number, one yes-or-no question is left: which side is facial. The evidence: the arch bends
lingually (its curve is convex to the facial side); teeth grow wider towards the back; upper teeth overlap the
lower ones facially. Each gives a signed strength; their sum gives the answer and the confidence.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import perpendicular, unit

if TYPE_CHECKING:
    from vane_line.core.mesh.surface import Surface

NEIGHBOURHOOD_MM = 19.0
LOCAL_MM = 22.0  # from the tooth, where the row has nothing to say any more of how it runs there
CROWN_DROP_MM = 4.0  # from the local top: below is mostly gingiva
SAGITTA_MM = 0.35  # a bend of this height over the neighbourhood is one unit of evidence
WIDTH_CHANGE_MM = 1.2  # a change of width of this much from end to end is one unit
OVERJET_MM = 1.2
RIM = np.linspace(0.01, 0.07, 7)  # shares of a station's points whose mean is its rim: one alone jumps
OUTLINE_MM = 0.25  # cells in which the highest place is taken: coarser, where they lie would turn the row
FEWEST, ENOUGH = 6, 30  # points of a station along the row: from where it has a say, and all of it
EVIDENCE_LIMIT = 3.0
CLEAR_MAJORITY = 2.0  # with this much left over, one dissenting sign does not unsettle the answer
SURE = 0.60  # below this confidence nothing that depends on the side is judged


NOTHING = np.zeros(0)


@dataclass(frozen=True, eq=False)
class Frame:
    """Unit axes (3,) of the tooth, in the prep scan's coordinates, and how sure they are (0..1)."""

    occlusal: Floats
    facial: Floats
    mesial: Floats
    confidence: float
    evidence: dict[str, float]
    warnings: tuple[str, ...] = ()
    # (S,) places along the arch from the tooth, mesial positive, mm, and the faciolingual width of the crowns there.
    along: Floats = field(default_factory=lambda: NOTHING)
    width: Floats = field(default_factory=lambda: NOTHING)

    @property
    def sure(self) -> bool:
        return self.confidence >= SURE


def make_frame(
    arch: Surface,
    centre: Floats,
    tooth: ToothNumber,
    occlusal: Floats,
    occlusal_confidence: float,
    facial: Floats | None = None,
    opposing: Surface | None = None,
) -> Frame:
    """Axes of the tooth at `centre` (3,) on the scan `arch`, with `occlusal` known or guessed.

    A given `facial` direction is taken as certain; else it is decided by the evidence.
    """
    tangent, evidence, (at, width) = _evidence(arch, centre, tooth, occlusal, opposing)
    # `across` is the facial direction if the evidence is positive. The evidence of the widths speaks of mesial.
    across = np.cross(occlusal, tangent)
    handed = 1.0 if tooth.right_handed else -1.0  # mesial = handed * (occlusal x facial)
    # With facial = across, mesial = handed * o x (o x t) = -handed * t: teeth then widen along handed * t.
    total = evidence["bend"] + evidence["overjet"] + handed * evidence["width"]
    if facial is not None:
        f = perpendicular(facial, occlusal)
        m = handed * np.cross(occlusal, f)
        warnings = []
        if (f @ across) * total < 0 and abs(total) > 2.5:
            warnings.append(
                f"The given facial direction and the arch disagree for tooth {tooth.fdi}: check the tooth number."
            )
        return Frame(
            occlusal=occlusal, facial=f, mesial=m, confidence=1.0, evidence=evidence, warnings=tuple(warnings),
            along=at * np.sign(tangent @ m), width=width,
        )  # fmt: skip
    sign = 1.0 if total >= 0 else -1.0
    f = sign * across
    warnings = []
    parts = [evidence["bend"] * sign, evidence["overjet"] * sign, handed * evidence["width"] * sign]
    if evidence["bend"] * handed * evidence["width"] < -2.0:
        warnings.append(
            f"The arch's bend and the teeth's widths point to the other side than tooth {tooth.fdi}: "
            "check the tooth number."
        )
    side = 1 / (1 + np.exp(-1.6 * abs(total)))
    confidence = float((2 * side - 1) * min(1.0, occlusal_confidence / 0.3))
    if min(parts) < -1.0 and abs(total) < CLEAR_MAJORITY:
        confidence = min(confidence, SURE - 0.1)
    m = handed * np.cross(occlusal, unit(f))
    along = at * np.sign(tangent @ m)
    return Frame(
        occlusal=occlusal, facial=unit(f), mesial=m, confidence=confidence, evidence=evidence,
        warnings=tuple(warnings), along=along, width=width,
    )  # fmt: skip


def _evidence(
    arch: Surface, centre: Floats, tooth: ToothNumber, up: Floats, opposing: Surface | None
) -> tuple[Floats, dict[str, float], tuple[Floats, Floats]]:
    """Tangent of the arch at the tooth, signed evidence, and the crowns' widths along it.

    bend, overjet: positive when facial is along up x tangent. width: positive when teeth widen along tangent.
    """
    crowns = _crown_points(arch, centre, up)
    off = crowns - centre
    flat = off - (off @ up)[:, None] * up
    if len(flat) < 50:
        return arch.across(up), {"bend": 0.0, "width": 0.0, "overjet": 0.0}, (NOTHING, NOTHING)
    _, spread, axes = np.linalg.svd(flat - flat.mean(axis=0), full_matrices=False)
    tangent = axes[0]
    across = np.cross(up, tangent)
    middle, width, at, say = _midline(flat @ tangent, flat @ across)
    evidence = {"bend": 0.0, "width": 0.0, "overjet": 0.0}
    if len(at) >= 5 and spread[0] > 1.4 * spread[1]:
        say_by_width = np.sqrt(np.clip(width, 0.1, None) * say)
        c, _, _ = np.polyfit(at, middle, 2, w=say_by_width)
        half = (at.max() - at.min()) / 2
        # A curve convex to +across has c < 0: its ends fall towards the other (lingual) side.
        evidence["bend"] = float(np.clip(-c * half**2 / SAGITTA_MM, -EVIDENCE_LIMIT, EVIDENCE_LIMIT))
        slope = np.polyfit(at, width, 1, w=np.sqrt(say))[0]
        if not tooth.front:
            change = slope * (at.max() - at.min())
            evidence["width"] = float(np.clip(change / WIDTH_CHANGE_MM, -EVIDENCE_LIMIT, EVIDENCE_LIMIT))
        # The tooth stands at the local tangent of the curve, not of the whole row: what a far tooth shows of its other
        # cusp, or of gingiva, turned a central incisor at the end of a row by three degrees.
        _, b, _ = np.polyfit(at, middle, 2, w=say_by_width * np.clip(1 - (at / LOCAL_MM) ** 2, 0, 1))
        tangent = unit(tangent + b * across)
        across = np.cross(up, tangent)
    if opposing is not None:
        theirs = _crown_points(opposing, centre, -up) - centre
        if len(theirs) > 50:
            shift = float(np.median(theirs @ across) - np.median(flat @ across))
            sign = -1.0 if tooth.upper else 1.0
            evidence["overjet"] = float(np.clip(sign * shift / OVERJET_MM, -1.2, 1.2))
    return tangent, evidence, (at, width)


def _crown_points(surface: Surface, centre: Floats, up: Floats) -> Floats:
    off = surface.vertices - centre
    plan = np.linalg.norm(off - (off @ up)[:, None] * up, axis=1)
    near = np.flatnonzero(plan < NEIGHBOURHOOD_MM)
    if len(near) < 50:
        return np.asarray(surface.vertices[near])
    top = surface.vertices[surface.highest(up, OUTLINE_MM, near)]
    return top[top @ up > np.quantile(top @ up, 0.98) - CROWN_DROP_MM]


def _midline(along: Floats, across: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """Middle and width of the crowns' plan outline in stations of 1 mm along the row, their places, and their say.

    A station at the row's end comes in with little say: with all of it, a point more or less would turn the row.
    """
    station = np.floor(along).astype(int)
    middle, width, at, say = [], [], [], []
    for s in np.unique(station):
        inside = across[station == s]
        if len(inside) < FEWEST:
            continue
        low, high = np.quantile(inside, RIM).mean(), np.quantile(inside, 1 - RIM).mean()
        middle.append((low + high) / 2)
        width.append(high - low)
        at.append(s + 0.5)
        say.append(min(1.0, (len(inside) - FEWEST + 1) / (ENOUGH - FEWEST + 1)))
    return np.array(middle), np.array(width), np.array(at), np.array(say)
