"""What stands about the finish line: the gingiva over it, the next tooth beside it, and a core's border above it."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Ints
from vane_line.core.case import Geometry
from vane_line.core.judge.criteria.window_line import EASED_SHARE, gingiva_rows
from vane_line.core.judge.record import WITH_LEDGE, Criterion, Held, by_reader, verdicts
from vane_line.core.judge.uncertainty import per_degree
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import Correction, Job
from vane_line.core.measure.finish_line import DOUBTFUL_MM
from vane_line.core.measure.retention import SIDE_HALF_DEG, SIDES
from vane_line.core.rings import degrees_apart, true_about
from vane_line.core.vectors import xyz

NEXT_TOOTH_MM = 4.0
LEAST_AZIMUTHS = 10
EDGE_DEG = 4.0  # of a line that is told, beside where it is not: what hangs on it is not sure
DEEP_MARGIN = "how far below the gingiva: deeper is hard to scan and to keep clean, and bone needs about 3 mm"
TIGHT = "room to the next tooth just above the finish line: less cannot be scanned, or sawn, cleanly"


# --- judged --------------------------------------------------------------------------------------------------------


def _margin_heights(held: Held) -> list[Verdict]:
    """How far the finish line lies below the gingiva, on each side."""
    geometry, found = held.geometry, held.geometry.ring.shape.margin
    if found.source is None:
        why = "the gingiva's line is not known: it needs a scan without retraction, or to be drawn"
        return [not_measured("margin-height", "overall", why, "max")]
    rows = []
    drawn = (
        "as drawn" if found.source == "drawn" else "from the earlier scan, whose seam reads some 0.02 high, within U"
    )
    for side, azimuth in SIDES.items():
        here = _gingiva_told(geometry, azimuth)
        value = _below_gingiva(geometry, here)
        if value is None:
            rows.append(not_measured("margin-height", side, "the gingiva's line is not seen on this side", "max"))
            continue
        change = per_degree(lambda turn, a=azimuth: _below_gingiva(geometry, _gingiva_told(geometry, a + turn)))  # type: ignore[misc]
        sure = _below_gingiva(geometry, _gingiva_told(geometry, azimuth, EDGE_DEG))
        hangs = abs(value - sure) if sure is not None else 0.0
        below = -found.above_gingiva_mm[here]
        at = xyz(geometry.line.points[here[int(np.argmin(np.abs(below - value)))]])
        rows += verdicts(
            criterion="margin-height",
            zone=side,
            value=value,
            unit="mm",
            u=held.budget.of("margin-height", change, hangs),
            bounds=held.bounds("margin-height"),
            why=f"{DEEP_MARGIN} (gingiva {drawn})",
            at=at,
        )
    return rows


def _gingiva_told(geometry: Geometry, middle_deg: float, inside_deg: float = 0.0) -> Ints:
    """Azimuths of a side where the line is clear, and so far to either side, and the gingiva known."""
    line = geometry.line
    near = degrees_apart(line.azimuth_deg, middle_deg) <= SIDE_HALF_DEG
    clear = true_about(line.clear, round(inside_deg * len(line.clear) / 360))
    return np.flatnonzero(near & np.isfinite(geometry.ring.shape.margin.above_gingiva_mm) & clear)


def _below_gingiva(geometry: Geometry, here: Ints) -> float | None:
    if len(here) < LEAST_AZIMUTHS:
        return None
    return float(np.quantile(-geometry.ring.shape.margin.above_gingiva_mm[here], 1 - EASED_SHARE))


def _rooms(held: Held) -> list[Verdict]:
    """Room between the finish line and the next tooth."""
    geometry, rows = held.geometry, []
    room = geometry.ring.shape.margin.room_mm
    for side in ("mesial", "distal"):
        here = degrees_apart(geometry.line.azimuth_deg, SIDES[side]) <= SIDE_HALF_DEG
        here &= np.isfinite(room) & (room < NEXT_TOOTH_MM)
        if not here.any():
            rows.append(not_measured("neighbour-gap", side, "no tooth stands beside this side on the scan"))
            continue
        k = int(np.argmin(np.where(here, room, np.inf)))
        u = held.budget.of("neighbour-gap")
        doubtful = here & ~geometry.line.clear & (room < room[k] + DOUBTFUL_MM)
        rows += verdicts(
            criterion="neighbour-gap",
            zone=side,
            value=float(room[k]),
            unit="mm",
            # Where the line is doubtful it may run further out, and the room be less than where it is least.
            u=float(np.hypot(u, DOUBTFUL_MM)) if doubtful.any() else u,
            bounds=held.bounds("neighbour-gap"),
            why=TIGHT,
            at=xyz(geometry.line.points[k]),
        )
    return rows


def _ferrule(held: Held) -> list[Verdict]:
    """Dentine over the finish line of a built-up tooth: height and thickness, by sector."""
    sectors = held.geometry.ring.shape.ferrule
    if sectors is None:
        return [not_measured("ferrule", "overall", "no border of a core is known: only built-up teeth have a ferrule")]
    u, tall, thick, rows = held.budget.of("ferrule"), held.bounds("ferrule"), held.bounds("ferrule-thickness"), []
    for found in sectors:
        # One verdict a sector: of the thickness where that lacks more than the height.
        thin = None if found.thickness_mm is None else (thick.min or 0.0) - found.thickness_mm
        if thin is not None and found.thickness_mm is not None and thin > max((tall.min or 0.0) - found.height_mm, 0.0):
            value, bounds, why = found.thickness_mm, thick, "thickness of the dentine that stands over the finish line"
        else:
            value, bounds = found.height_mm, tall
            why = "height of dentine over the finish line: the ferrule holds a built-up tooth together"
        rows += verdicts("ferrule", found.sector, value, "mm", u, bounds, why, at=found.at)
    return rows


# --- corrected -----------------------------------------------------------------------------------------------------


def _separate(job: Job, v: Verdict) -> Correction:
    more = v.missing or 0.0
    do = (
        f"{more:.1f} mm more room to the next tooth: separate the teeth first (wedge or separator); only then bring "
        "the finish line in where the tooth allows"
    )
    return job.row(v, "other", do, beware="no stroke towards the neighbour")


CRITERIA = (
    Criterion(
        "margin-height", "below the gingiva",
        by_reader(ring=_margin_heights, window=gingiva_rows, cast=gingiva_rows), place="margin",
        lens="line", kinds=WITH_LEDGE, says={"min": "too far over the gingiva"},
        leave={
            "min": "bring it nearer to the gingiva only where the root's colour shows when the lips part: agreed with "
            "the patient",
            "max": "hard to scan and to keep clean: retract well; where decay goes deeper, raise the margin with a "
            "filling first; surgery only after sounding the bone (about 3 mm from bone to margin)",
        },
    ),
    Criterion(
        "neighbour-gap", "room beside the finish line", _rooms, place="neighbour", lens="line",
        correct={"min": _separate},
        way_out="too near the next tooth: separate the teeth first, set the finish line where there is room",
    ),
    Criterion(
        "ferrule", "ferrule", _ferrule, place="wall", lens="line", by_attempt=True,
        leave={"min": "too little dentine holds the core: keep what is there; bonding, extruding the tooth, or, after "
               "sounding the bone (about 3 mm from bone to margin), lengthening the crown"},
    ),
)  # fmt: skip
