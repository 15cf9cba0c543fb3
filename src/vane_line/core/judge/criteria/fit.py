"""The milled fit and its edges."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from vane_line.core.judge.limits import Bounds
from vane_line.core.judge.record import MADE_KINDS, MILLED_KINDS, Criterion, Held, verdicts
from vane_line.core.judge.uncertainty import COVERAGE
from vane_line.core.judge.verdicts import Verdict, not_measured
from vane_line.core.judge.work import Correction, Job
from vane_line.core.measure.edges import TOLD_MM, Run
from vane_line.core.measure.undercut import sector_of
from vane_line.core.spread import weighted_quantile
from vane_line.core.vectors import xyz

SPOT_MM2 = 0.1
EDGE_TURN = 0.6  # 1 - cosine of half a turn of 130 degrees: of a doubt in radius, in what is cut away
SURE_RUN_MM = 2.0  # an edge this long is there on every scan of it
RIGHT_TURN = 1 - 0.5**0.5  # of a right angle: a blunter edge tells its radius worse
SHARP = "sharper than the bur that mills the inside: it must cut away ceramic beside the edge to seat"
CAST = "sharper than a milling bur; a cast crown follows it, with care at the die"
LEFT = "what is left of the crown beside a sharp edge, less the cement's space"


def _edge_radius(held: Held) -> list[Verdict]:
    edges, bounds = held.geometry.edges, held.bounds("edge-radius")
    radius = edges.bur_radius_mm
    if not edges.runs:
        why, untold = "no edge is sharper than the milling bur", bool(bounds.min and edges.untold_mm)
        if untold:
            why = f"{edges.untold_mm:.1f} mm of edge may be sharper than the milling bur; the scan does not tell it"
        return verdicts("edge-radius", "overall", radius, "mm", radius if untold else 0.0, bounds, why, scale=radius)

    def doubt(run: Run) -> float:
        """A short stretch comes and goes from scan to scan; on a blunt edge an overcut that is the mesh's makes much of
        a radius."""
        short = radius * max(0.0, 1 - run.length_mm / SURE_RUN_MM)
        blunt = TOLD_MM * max(0.0, 1 / run.turn - 1 / RIGHT_TURN)
        return COVERAGE * held.budget.method("edge-radius") + short + blunt

    worst = min(edges.runs, key=lambda r: r.radius_mm + doubt(r))
    why = f"{SHARP if bounds.min else CAST}; {edges.length_mm:.0f} mm of edge in all"
    why += f", sharpest {sector_of(worst.azimuth_deg)}"
    return verdicts(
        criterion="edge-radius",
        zone="overall",
        value=worst.radius_mm,
        unit="mm",
        u=doubt(worst) if bounds.min else 0.0,
        bounds=bounds,
        why=why,
        at=worst.at,
        scale=radius,
    )


def _milled_fit(held: Held) -> list[Verdict]:
    """The least thickness left beside an edge, against what the standard asks for there."""
    geometry = held.geometry
    if not held.bounds("edge-radius").min:
        return [not_measured("milled-fit", "overall", "a cast crown is not milled")]
    if geometry.space is None:
        why = geometry.reasons.get("reduction", "the planned outer surface is not known")
        return [not_measured("milled-fit", "overall", why)]
    cement = held.standard.cement_space_mm
    left = geometry.space.value - geometry.edges.overcut_mm - cement
    limit = held.limit_min - cement
    seen = (geometry.edges.overcut_mm > TOLD_MM) & ~geometry.space.unseen & np.isfinite(limit)
    if not seen.any():
        return [not_measured("milled-fit", "overall", "no edge that the milling bur cannot follow is seen", "min")]
    spare = np.where(seen, left - limit, np.inf)
    area = np.where(seen, geometry.inside.vertex_areas, 0.0)
    least = weighted_quantile(spare[seen], area[seen], min(SPOT_MM2 / float(area.sum()), 0.5))
    k = int(np.argmin(np.abs(np.where(seen, spare - least, np.inf))))
    zones = held.zones
    name = zones.names[zones.index[k]] if zones.index[k] >= 0 else "overall"
    return verdicts(
        criterion="milled-fit",
        zone=name,
        value=float(left[k]),
        unit="mm",
        u=held.budget.reduction(held.budget.method("edge-radius") * EDGE_TURN),
        bounds=Bounds(float(limit[k]), None, None, held.bounds("edge-radius").source),
        why=LEFT,
        at=xyz(geometry.inside.vertices[k]),
    )


def _round(job: Job, v: Verdict) -> Correction:
    radius = job.g.edges.bur_radius_mm
    beware = "cusp tips and the finish line stay where they are"
    row = job.row(v, "edges", f"round the edges to {radius:.1f} mm or more", bur=job.fine(), beware=beware)
    return replace(row, where="sharp edges", hold="rolled over the edge")


CRITERIA = (
    Criterion(
        "edge-radius", "edge radius", _edge_radius, place="edge", lens="edges", weight=0.1, by_attempt=True,
        correct={"min": _round}, kinds=MADE_KINDS,
    ),
    Criterion(
        "milled-fit", "thickness left after milling", _milled_fit, lens="depth", weight=0.2, kinds=MILLED_KINDS,
        leave={"min": "round the edge first: that alone gives thickness back; then look at the depth again"},
    ),
)  # fmt: skip
