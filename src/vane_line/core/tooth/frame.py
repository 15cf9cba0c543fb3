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
from vane_line.core.spread import graded, ordered_quantile, weighted_quantile
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
TOP = 0.98  # share of the crowns' plan that lies below their top
FADE_MM = 0.8  # over so much what is too far off or too low ceases to count
RIM, RIM_BLUR = 0.04, 0.03  # shares of a station's plan about which its rim lies
MEDIAN_BLUR = 0.02
LEAST_MM2 = 3.0  # of crowns seen from above, to tell anything by
FEWEST_MM2, ENOUGH_MM2 = 0.4, 1.9  # of a station along the row: from where it has a say, and all of it
LONG = 1.4  # a row is so much longer than it is wide
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
    crowns, area = _crowns(arch, centre, up)
    off = crowns - centre
    flat = off - (off @ up)[:, None] * up
    if area.sum() < LEAST_MM2:
        return arch.across(up), {"bend": 0.0, "width": 0.0, "overjet": 0.0}, (NOTHING, NOTHING)
    from_middle = flat - area @ flat / area.sum()
    spread, axes = np.linalg.eigh((area * from_middle.T) @ from_middle)
    tangent = axes[:, 2]
    across = np.cross(up, tangent)
    middle, width, at, say = _midline(flat @ tangent, flat @ across, area)
    evidence = {"bend": 0.0, "width": 0.0, "overjet": 0.0}
    if len(at) >= 5 and spread[2] > LONG**2 * spread[1]:
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
        theirs, opposite = _crowns(opposing, centre, -up)
        if opposite.sum() > LEAST_MM2:
            out = weighted_quantile((theirs - centre) @ across, opposite, 0.5, MEDIAN_BLUR)
            shift = out - weighted_quantile(flat @ across, area, 0.5, MEDIAN_BLUR)
            sign = -1.0 if tooth.upper else 1.0
            evidence["overjet"] = float(np.clip(sign * shift / OVERJET_MM, -1.2, 1.2))
    return tangent, evidence, (at, width)


def _crowns(surface: Surface, centre: Floats, up: Floats) -> tuple[Floats, Floats]:
    """(N, 3) places on the crowns about `centre`, and (N,) the plan that each stands for, mm².

    Nothing ends on a limit: what lies farther off, or lower, counts less and less.
    """
    off = surface.vertices - centre
    height = off @ up
    plan = np.linalg.norm(off - height[:, None] * up, axis=1)
    area = surface.vertex_areas * np.clip(surface.vertex_normals @ up, 0, None)
    area = area * graded(NEIGHBOURHOOD_MM - plan, FADE_MM)
    near = np.flatnonzero(area > 0)
    height, area = height[near], area[near]
    floor = weighted_quantile(height, area, TOP, 1 - TOP) - CROWN_DROP_MM
    area = area * graded(height - floor, FADE_MM)
    crown = area > 0
    return surface.vertices[near[crown]], area[crown]


def _midline(along: Floats, across: Floats, area: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """Middle and width of the crowns' plan outline in stations of 1 mm along the row, their places, and their say.

    A place counts in the two stations between which it lies, more in the nearer one. A station at the row's end comes
    in with little say: with all of it, a point more or less would turn the row.
    """
    order = np.argsort(across)
    along, across, area = along[order], across[order], area[order]
    middle, width, at, say = [], [], [], []
    for s in np.arange(np.floor(along.min()), np.ceil(along.max()) + 1):
        share = 1 - np.abs(along - s)
        inside = share > 0
        part = area[inside] * share[inside]
        whole = float(part.sum())
        if whole < FEWEST_MM2:
            continue
        low, high = (ordered_quantile(across[inside], part, q, RIM_BLUR) for q in (RIM, 1 - RIM))
        middle.append((low + high) / 2)
        width.append(high - low)
        at.append(s)
        say.append(min(1.0, (whole - FEWEST_MM2) / (ENOUGH_MM2 - FEWEST_MM2)))
    return np.array(middle), np.array(width), np.array(at), np.array(say)
