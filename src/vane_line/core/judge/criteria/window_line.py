"""The finish line of a window, by the criteria that a crown's has too: width, form, height over the gingiva; planes."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.judge.criteria.sides import ENOUGH_CLEAR, forms_said
from vane_line.core.judge.record import Held, verdicts
from vane_line.core.judge.uncertainty import Budget
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import HAND_MM, Correction, Job, said
from vane_line.core.kinds.cast import CastCut
from vane_line.core.kinds.outlined import LedgeCut
from vane_line.core.kinds.window import WindowCut
from vane_line.core.measure.front_form import Planes
from vane_line.core.measure.line_form import SUMMARY_SHARE, eased_widths
from vane_line.core.mesh.quality import COARSE_EDGE_MM
from vane_line.core.vectors import xyz
from vane_line.core.window.ledge import form_of

LEAST_POINTS = 5
SIDE_POINTS = 20  # of the line, two millimetres: a shorter stretch tells less of its form
JUDGED_ELSEWHERE = ("heavy-chamfer", "bevelled")  # too wide a ledge is a fault of its own
EASED_SHARE = 0.05
TOO_LITTLE = "too little of a clear ledge is seen on this side"
NARROW = "too light a chamfer leaves the veneer's edge thin: it chips, and is hard to find on the model"
WIDE = "deeper than the veneer needs at its edge: likely out of the enamel, which it is bonded to"
CAST = {
    "min": "too light a chamfer leaves the casting's edge thin: it bends, and is hard to find on the model",
    "max": "wider than cast metal needs at its edge",
}
ABOVE, BELOW = "over the gingiva: what is left uncovered shows", "below the gingiva: hard to keep dry while bonding"
LEDGE_HOLD = "tip half its width into the tooth, axis along the face, in one light sweep"


def window_of(held: Held) -> WindowCut:
    """What the window reader found."""
    assert isinstance(held.geometry.cut, WindowCut)
    return held.geometry.cut


def ledge_of(held: Held) -> LedgeCut:
    """What was found of a cut whose outline has a ledge."""
    assert isinstance(held.geometry.cut, LedgeCut)
    return held.geometry.cut


def told_widths(cut: LedgeCut) -> Floats:
    """(K,) eased along the line, nan where not clear."""
    return np.where(cut.outline.clear, eased_widths(cut.widths), np.nan)


def width_rows(held: Held) -> list[Verdict]:
    """Low and high width of each stretch."""
    cut, rows = ledge_of(held), []
    widths, u = told_widths(cut), held.budget.of("ledge-width")
    words = CAST if isinstance(cut, CastCut) else {"min": NARROW, "max": WIDE}
    for side, here in cut.judged.items():
        told = here & np.isfinite(widths)
        if here.sum() < LEAST_POINTS:
            continue
        if told.sum() < ENOUGH_CLEAR * here.sum():
            rows.append(not_measured("finish-line-width", side, cut.why_no_widths or TOO_LITTLE))
            continue
        limits = held.standard.width_limits(side)
        low, high = np.quantile(widths[told], [SUMMARY_SHARE, 1 - SUMMARY_SHARE])
        rows += verdicts("finish-line-width", side, float(low), "mm", u, limits.least, words["min"],
                         at=_place(cut, told, widths, low))  # fmt: skip
        # A veneer's too wide ledge beside the contacts and behind is a scoop, judged as such.
        if side == "facial" or isinstance(cut, CastCut):
            rows += verdicts("finish-line-width", side, float(high), "mm", u, limits.most, words["max"],
                             at=_place(cut, told, widths, high))  # fmt: skip
    return rows


def _place(cut: LedgeCut, told: Bools, values: Floats, wanted: float) -> tuple[float, float, float]:
    return xyz(cut.outline.points[told][int(np.argmin(np.abs(values[told] - wanted)))])


def form_u(budget: Budget, points: int) -> float:
    """Expanded uncertainty of how much of a stretch is of a form, %: the shorter it is, the more of it one badly read
    edge is."""
    return budget.form_percent * max(SIDE_POINTS / max(points, 1), 1.0)


def form_rows(held: Held) -> list[Verdict]:
    """Share of each stretch whose ledge has not the wanted form."""
    cut, rows = ledge_of(held), []
    coarse = held.geometry.edge_mm > COARSE_EDGE_MM
    widths = told_widths(cut)
    for side, here in cut.judged.items():
        wanted = held.standard.forms_for(side)
        told = here & np.isfinite(widths)
        if not wanted or here.sum() < LEAST_POINTS:
            continue
        if coarse or told.sum() < ENOUGH_CLEAR * here.sum():
            why = "the scan is too coarse at the finish line to tell its form" if coarse else TOO_LITTLE
            rows.append(not_measured("finish-line-form", side, cut.why_no_widths or why, "max", "%"))
            continue
        names = [form_of(float(widths[k]), float(cut.outline.cavosurface_deg[k])) for k in np.flatnonzero(told)]
        wrong = np.array([n not in wanted and n not in JUDGED_ELSEWHERE for n in names])
        why = forms_said(names, wanted)
        rows += verdicts("finish-line-form", side, 100 * float(wrong.mean()), "%", form_u(held.budget, len(names)),
                         held.bounds("finish-line-form"), why)  # fmt: skip
    return rows


def gingiva_rows(held: Held) -> list[Verdict]:
    """How far the neck's line lies below the gingiva, negative above."""
    cut = ledge_of(held)
    zone = "overall" if isinstance(cut, CastCut) else "facial"
    below = -cut.above_gingiva_mm
    told = np.isfinite(below) & cut.outline.clear
    if cut.gingiva_source is None or told.sum() < LEAST_POINTS:
        why = "the gingiva's line is not known: it needs a scan without retraction, or to be drawn"
        return [not_measured("margin-height", zone, why, "max")]
    u, bounds = held.budget.of("margin-height"), held.bounds("margin-height")
    high, low = np.quantile(below[told], [1 - EASED_SHARE, EASED_SHARE])
    if bounds.max is None:
        return []
    return [
        *verdicts("margin-height", zone, float(high), "mm", u, bounds.most, BELOW,
                  at=_place(cut, told, below, high)),
        *verdicts("margin-height", zone, float(low), "mm", u, bounds.least, ABOVE,
                  at=_place(cut, told, below, low)),
    ]  # fmt: skip


def plane_rows(held: Held) -> list[Verdict]:
    """How many planes the face's middle profile is made of."""
    return planes_told(held, window_of(held).planes, "the face", "the tooth's axis")


def planes_told(held: Held, planes: Planes, face: str, to: str) -> list[Verdict]:
    """How many planes a face's profile is made of; to: what their angles are told against."""
    if not planes.angles_deg:
        return [not_measured("planes", "facial", "too little of the facial surface is seen", "min", "count")]
    said = ", ".join(f"{a:.0f}" for a in planes.angles_deg)
    why = f"planes of {face}, {said} degrees to {to}: one alone leaves it thick at the edge or the neck"
    count, u = float(len(planes.angles_deg)), float(planes.in_doubt)
    return verdicts("planes", "facial", count, "count", u, held.bounds("planes"), why)


def deepen_ledge(job: Job, v: Verdict) -> Correction | None:
    """A light chamfer made deeper, where it lacks as much as a hand can do."""
    missing, target = v.missing or 0.0, v.to_target or 0.0
    if target < HAND_MM / 2:
        return None
    side = v.zone.replace("lingual", job.lingual)
    do = f"deepen the chamfer at the {side} line by {missing:.1f} mm to the minimum, {target:.1f} to the target"
    bur = said(job.ledge("facial", v.target))
    return job.row(v, "finish-line", do, to_min_mm=missing, to_target_mm=target, bur=bur, hold=LEDGE_HOLD,
                   beware="no further towards the gingiva and the contact: only deeper")  # fmt: skip


def second_plane(job: Job, v: Verdict) -> Correction:
    """The face cut in planes."""
    return job.row(v, "wall", "cut the face in planes: the incisal third leans back, the neck leans in",
                   bur=said(job.ledge("facial", 0.4)), hold="laid along each third in turn",
                   beware="by the depth there: see each third's amount, and stop at it")  # fmt: skip
