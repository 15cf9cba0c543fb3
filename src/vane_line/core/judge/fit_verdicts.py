"""Verdicts of the milled fit, of edges, and of nicks in the neighbours. All limits: common practice, no source."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import Floats, weighted_quantile, xyz
from vane_line.core.case import Geometry
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.uncertainty import COVERAGE, Budget
from vane_line.core.judge.verdicts import Verdict, judge_max, judge_min, not_measured
from vane_line.core.measure.edges import TOLD_MM, Run
from vane_line.core.measure.undercut import sector_of
from vane_line.core.tooth.zones import Zones

PRACTICE = "common practice, no source"
NICK_MM = 0.10  # deeper is a fault
SPOT_MM2 = 0.1
SURE_RUN_MM = 2.0  # an edge this long is there on every scan of it
SHARP = "sharper than the bur that mills the inside: it must cut away ceramic beside the edge to seat"
LEFT = "what is left of the crown beside a sharp edge, less the cement's space"


def fit_verdicts(
    geometry: Geometry, standard: Standard, zones: Zones, limit_min: Floats, budget: Budget
) -> list[Verdict]:
    """Edge radius, milled fit and nicks in the neighbours."""
    return [
        _edge_radius(geometry, budget),
        _milled_fit(geometry, standard, zones, limit_min, budget),
        *_nicks(geometry, budget),
    ]


def _edge_radius(geometry: Geometry, budget: Budget) -> Verdict:
    edges = geometry.edges
    u = COVERAGE * budget.method("edge-radius")
    if not edges.runs:
        verdict = Verdict("edge-radius", "overall", "min", edges.bur_radius_mm, "mm", 0.0, edges.bur_radius_mm,
                          None, "", "no edge is sharper than the milling bur", PRACTICE)  # fmt: skip
        return judge_min(verdict)

    def doubt(run: Run) -> float:
        """A short stretch comes and goes from scan to scan."""
        return u + edges.bur_radius_mm * max(0.0, 1 - run.length_mm / SURE_RUN_MM)

    worst = min(edges.runs, key=lambda r: r.radius_mm + doubt(r))
    why = f"{SHARP}; {edges.length_mm:.0f} mm of edge in all, sharpest {sector_of(worst.azimuth_deg)}"
    return judge_min(Verdict("edge-radius", "overall", "min", worst.radius_mm, "mm", doubt(worst),
                             edges.bur_radius_mm, None, "", why, PRACTICE, worst.at))  # fmt: skip


def _milled_fit(geometry: Geometry, standard: Standard, zones: Zones, limit_min: Floats, budget: Budget) -> Verdict:
    """The least thickness left beside an edge, against what the standard asks for there."""
    if geometry.space is None:
        why = geometry.reasons.get("reduction", "the planned outer surface is not known")
        return not_measured("milled-fit", "overall", why)
    cement = standard.cement_space_mm
    left = geometry.space.value - geometry.edges.overcut_mm - cement
    limit = limit_min - cement
    told = (geometry.edges.overcut_mm > TOLD_MM) & ~geometry.space.unseen & np.isfinite(limit)
    if not told.any():
        return not_measured("milled-fit", "overall", "no edge that the milling bur cannot follow is seen", "min")
    spare = np.where(told, left - limit, np.inf)
    area = np.where(told, geometry.inside.vertex_areas, 0.0)
    least = weighted_quantile(spare[told], area[told], min(SPOT_MM2 / float(area.sum()), 0.5))
    k = int(np.argmin(np.abs(np.where(told, spare - least, np.inf))))
    name = zones.names[zones.index[k]] if zones.index[k] >= 0 else "overall"
    return judge_min(Verdict("milled-fit", name, "min", float(left[k]), "mm", budget.reduction(), float(limit[k]),
                             None, "", LEFT, PRACTICE, xyz(geometry.inside.vertices[k])))  # fmt: skip


def _nicks(geometry: Geometry, budget: Budget) -> list[Verdict]:
    rows = []
    for found in geometry.neighbours:
        if found.gap_mm is None:
            continue
        if found.nick_depth_mm is None:
            rows.append(not_measured("neighbour-nick", found.side, found.why, "max"))
            continue
        why = "a nick holds plaque and weakens enamel: polish it, or tell the patient"
        why += f"; {found.why}" if found.why else ""
        u = COVERAGE * float(np.hypot(budget.align_mm, np.hypot(budget.scan_mm, budget.method("neighbour-nick"))))
        rows.append(judge_max(Verdict("neighbour-nick", found.side, "max", found.nick_depth_mm, "mm", u, NICK_MM, 0.0,
                                      "", why, PRACTICE, found.at)))  # fmt: skip
    return rows
