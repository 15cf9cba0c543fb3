"""The tooth's form: cusps that wandered, the functional-cusp bevel, planes of a front tooth's face, its set-back."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.judge.criteria.child import FINE
from vane_line.core.judge.criteria.window_line import plane_rows, planes_told, second_plane
from vane_line.core.judge.record import (
    CHILD_KINDS,
    CROWNS,
    WINDOW_KINDS,
    Criterion,
    Held,
    by_reader,
    corrected_by_reader,
    verdicts,
)
from vane_line.core.judge.uncertainty import COVERAGE, U_METHOD
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import HOLD_FLAT, Correction, Job, said
from vane_line.core.measure.front_form import APART_DEG
from vane_line.core.measure.zones import BEVEL_DEG
from vane_line.core.spread import graded, weighted_quantile
from vane_line.core.vectors import degrees_between, xyz

FRONT_ONLY, BACK_ONLY = "only front teeth have it", "only teeth with cusps have them"
BEVEL = "functional-cusp-bevel"
LEAST_BEVEL_MM2 = 1.5  # less of it has no angle to speak of
FADE_DEG = 10.0  # over which what slopes more or less than a bevel loses its say
EASED_STEPS = 4
U_BEVEL_DEG = 6.0
NO_BEVEL = "no bevel is seen on the functional cusps; the depth over them says whether one is needed"


def _cusps(held: Held) -> list[Verdict]:
    geometry = held.geometry
    if geometry.options.tooth.front:
        return [not_measured("cusp-shift", "overall", BACK_ONLY, "max")]
    found = geometry.ring.occlusal
    if found is None:
        why = "no cusps of the earlier tooth are known to compare with"
        return [not_measured("cusp-shift", "overall", why, "max")]
    u, rows = COVERAGE * U_METHOD["cusp-shift"], []
    for cusp in found.cusps:
        if cusp.shift_mm is None:
            why = "no tip stands there any more: the occlusal form is flat, or the cusp was taken away"
            rows.append(not_measured("cusp-shift", f"cusp/{cusp.cusp}", why, "max"))
            continue
        why = "a tip that wandered sideways leaves its own cusp thick and the next thin"
        rows += verdicts(
            criterion="cusp-shift",
            zone=f"cusp/{cusp.cusp}",
            value=cusp.shift_mm,
            unit="mm",
            u=u,
            bounds=held.bounds("cusp-shift"),
            why=why,
            at=cusp.at,
        )
    return rows


def _bevel(held: Held) -> list[Verdict]:
    """Its angle to the path, on functional cusps only."""
    geometry = held.geometry
    if geometry.options.tooth.front:
        return [not_measured(BEVEL, "overall", BACK_ONLY, "min", "deg")]
    if held.side_unknown:
        return [not_measured(BEVEL, "overall", held.side_unknown, "min", "deg")]
    inside = geometry.inside
    share = held.share_in(lambda zone: zone == BEVEL or zone.startswith("functional-cusp/"))
    here = np.flatnonzero(share)
    normals = inside.smoothed(EASED_STEPS).vertex_normals[here]
    # To the path: of the surface, which is what a bur is laid along. What belongs to the bevel fades in and out, so
    # that its angle does not hang on where its zone ends.
    slope = 90 - degrees_between(normals, geometry.axes.up)
    outward = (normals @ geometry.axes.zero) * (1.0 if geometry.functional.side == "facial" else -1.0)
    area = share[here] * inside.vertex_areas[here] * _faded(slope, *BEVEL_DEG) * np.clip((outward - 0.15) / 0.2, 0, 1)
    if area.sum() < LEAST_BEVEL_MM2:
        return [not_measured(BEVEL, "overall", NO_BEVEL, "min", "deg")]
    middle = weighted_quantile(slope, area, 0.5, 0.35)
    off = np.where(area > 0, np.abs(slope - middle), np.inf)
    at = xyz(inside.vertices[here[int(np.argmin(off))]])
    why = {"min": "too steep a bevel leaves the functional cusp thin", "max": "too flat a bevel is none"}
    return verdicts(
        criterion=BEVEL,
        zone="overall",
        value=middle,
        unit="deg",
        u=U_BEVEL_DEG,
        bounds=held.bounds(BEVEL),
        why=why,
        at=at,
    )


def _faded(values: Floats, low: float, high: float) -> Floats:
    """1 well between `low` and `high`, falling to nought over FADE_DEG to either side."""
    return graded(np.minimum(values - low, high - values), FADE_DEG)


def _planes(held: Held) -> list[Verdict]:
    if not held.geometry.options.tooth.front:
        return [not_measured("planes", "overall", FRONT_ONLY)]
    found = held.geometry.ring.front
    if found is None:
        return [not_measured("planes", "overall", "too little of the facial surface is seen")]
    planes = found.planes
    if held.geometry.path.open_deg(held.geometry.axes.zero) > APART_DEG / 4:  # along another path others show
        planes = replace(planes, in_doubt=max(planes.in_doubt, 1))
    return planes_told(held, planes, "the facial surface", "the path")


def _child_planes(held: Held) -> list[Verdict]:
    """Only where the crown's own standard wants them."""
    return _planes(held) if "planes" in held.standard.general else []


def _set_back(held: Held) -> list[Verdict]:
    if not held.geometry.options.tooth.front:
        return [not_measured("set-back", "overall", FRONT_ONLY)]
    found = held.geometry.ring.front
    if found is None:
        return [not_measured("set-back", "overall", "too little of the facial surface is seen")]
    if found.set_back_mm is None:
        return [not_measured("set-back", "facial/incisal", found.why_no_set_back)]
    why = "behind the course of both neighbours' facial surfaces: less leaves a thick or a thin incisal third"
    return verdicts(
        criterion="set-back",
        zone="facial/incisal",
        value=found.set_back_mm,
        unit="mm",
        u=COVERAGE * U_METHOD["set-back"],
        bounds=held.bounds("set-back"),
        why=why,
        at=found.set_back_at,
    )


def _second_plane(job: Job, v: Verdict) -> Correction:
    return _in_two_planes(job, v, said(job.ledge("facial")))


def _child_second_plane(job: Job, v: Verdict) -> Correction:
    return _in_two_planes(job, v, FINE)  # there is no finish line whose bur would do


def _in_two_planes(job: Job, v: Verdict, bur: str) -> Correction:
    return job.row(
        v, "wall", "cut the facial surface in two planes: the incisal half leans in, the cervical one follows the path",
        bur=bur, hold="laid along each half in turn",
        beware="by the depth there: see the incisal third's amount, and stop at it",
    )  # fmt: skip


def _flatter(job: Job, v: Verdict) -> Correction:
    return job.row(v, "occlusal", "cut the functional-cusp bevel at 45 degrees to the path, by the depth there",
                   hold=HOLD_FLAT, bur=said(job.ledge(job.g.functional.side)),
                   beware="the wall below and the finish line stay as they are")  # fmt: skip


CRITERIA = (
    Criterion(
        "cusp-shift", "cusp tip moved", _cusps, lens="depth",
        leave={"max": "a tip cannot be moved back: follow the cusps from here on; look at the depth of the next one"},
    ),
    Criterion(
        BEVEL, "functional-cusp bevel", _bevel, lens="depth", weight=0.3,
        correct={"min": _flatter},
        leave={"max": "it is flat already: nothing to cut; look at the depth over the cusp"},
    ),
    Criterion(
        "planes", "planes of the facial surface", by_reader(ring=_planes, window=plane_rows, child=_child_planes),
        lens="depth", kinds=(*CROWNS, *WINDOW_KINDS, *CHILD_KINDS),
        correct={"min": corrected_by_reader(ring=_second_plane, window=second_plane, child=_child_second_plane)},
    ),
    Criterion(
        "set-back", "set-back of the incisal third", _set_back, lens="depth",
        leave={"min": "on a tooth standing out of line the neighbours are no guide: scan the mock-up, judge by that; "
               "in line, the incisal third's own depth says what to cut"},
    ),
)  # fmt: skip
