"""Verdicts of the tooth's form: cusps that wandered, planes of a front tooth's face, its set-back.

Limits are common practice, no source; that of the cusps' shift is ours, a caution more than a rule.
"""

from __future__ import annotations

from vane_line.core.case import Geometry
from vane_line.core.judge.uncertainty import COVERAGE, U_METHOD
from vane_line.core.judge.verdicts import Verdict, judge_max, judge_min, not_measured

PRACTICE = "common practice, no source"
CUSP_SHIFT_MM = 1.5  # an even reduction of 1.5 mm moves a tip by up to 1.0 of itself
LEAST_PLANES = 2.0
SET_BACK_MM = (0.5, 1.0)
FRONT_ONLY, BACK_ONLY = "only front teeth have it", "only teeth with cusps have them"


def anatomy_verdicts(geometry: Geometry) -> list[Verdict]:
    """One verdict a cusp, or planes and set-back of a front tooth."""
    if geometry.options.tooth.front:
        return [not_measured("cusp-shift", "overall", BACK_ONLY, "max"), *_front(geometry)]
    rows = [not_measured(c, "overall", FRONT_ONLY) for c in ("planes", "set-back")]
    found = geometry.occlusal
    if found is None:
        why = "no cusps of the earlier tooth are known to compare with"
        return [*rows, not_measured("cusp-shift", "overall", why, "max")]
    u = COVERAGE * U_METHOD["cusp-shift"]
    for cusp in found.cusps:
        if cusp.shift_mm is None:
            why = "no tip stands there any more: the occlusal form is flat, or the cusp was taken away"
            rows.append(not_measured("cusp-shift", f"cusp/{cusp.cusp}", why, "max"))
            continue
        why = "a tip that wandered sideways leaves its own cusp thick and the next thin"
        rows.append(judge_max(Verdict("cusp-shift", f"cusp/{cusp.cusp}", "max", cusp.shift_mm, "mm", u, CUSP_SHIFT_MM,
                                      0.0, "", why, PRACTICE, cusp.at)))  # fmt: skip
    return rows


def _front(geometry: Geometry) -> list[Verdict]:
    found = geometry.front
    if found is None:
        return [not_measured(c, "overall", "too little of the face is seen") for c in ("planes", "set-back")]
    rows = []
    if not found.angles_deg:
        rows.append(not_measured("planes", "facial", "too little of the face is seen", "min", "count"))
    else:
        angles = ", ".join(f"{a:.0f}" for a in found.angles_deg)
        why = f"planes of the face, {angles} degrees to the path: one alone leaves it thick at the edge or the neck"
        rows.append(judge_min(Verdict("planes", "facial", "min", float(len(found.angles_deg)), "count", 0.0,
                                      LEAST_PLANES, None, "", why, PRACTICE)))  # fmt: skip
    if found.set_back_mm is None:
        rows.append(not_measured("set-back", "facial/incisal", found.why_no_set_back))
    else:
        why = "behind a straight edge laid on both neighbours' faces: less leaves a thick or a thin incisal third"
        u = COVERAGE * U_METHOD["set-back"]
        rows.append(judge_min(Verdict("set-back", "facial/incisal", "min", found.set_back_mm, "mm", u, SET_BACK_MM[0],
                                      SET_BACK_MM[1], "", why, PRACTICE, found.set_back_at)))  # fmt: skip
    return rows
