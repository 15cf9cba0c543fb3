"""Which unit a scan file is written in, told from its extent and its edge length together.

An intraoral or laboratory scan reaches from 8 mm (one die) to about 90 mm (an arch) and has edges
of 0.03 to 0.4 mm. Both follow the unit, so each candidate is scored on both.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from vane_line.core.arrays import Floats, Ints
from vane_line.core.vectors import bounds

MM_PER_UNIT = {"mm": 1.0, "cm": 10.0, "in": 25.4, "m": 1000.0}
EXTENT_MM = (32.0, 0.75)  # centre and spread (natural log) of the largest extent; common practice, no source
EDGE_MM = (0.13, 0.85)  # the same of the median edge
PRIOR = {"mm": 0.0, "cm": -2.0, "in": -2.5, "m": -1.5}  # nearly every file is in millimetres
SURE_MARGIN = 2.5  # log-likelihood by which the best unit must lead to need no confirmation
POSSIBLE_EXTENT_MM = (3.0, 250.0)


@dataclass(frozen=True)
class UnitGuess:
    """The likeliest unit, and whether a person should confirm it."""

    unit: str
    sure: bool
    scores: dict[str, float]


def unit_scores(extent: float, edge: float) -> dict[str, float]:
    """Log-likelihood of each unit for a largest `extent` and median `edge` in the file's own numbers."""
    scores = {}
    for unit, factor in MM_PER_UNIT.items():
        score = PRIOR[unit]
        for value, (centre, spread) in ((extent, EXTENT_MM), (edge, EDGE_MM)):
            score -= 0.5 * (np.log(max(value * factor, 1e-12) / centre) / spread) ** 2
        if not POSSIBLE_EXTENT_MM[0] <= extent * factor <= POSSIBLE_EXTENT_MM[1]:
            score -= 50
        scores[unit] = float(score)
    return scores


def guess_unit(scans: list[tuple[float, float]]) -> UnitGuess:
    """The unit shared by scans given as (largest extent, median edge), in the files' own numbers."""
    totals = {u: sum(unit_scores(*scan)[u] for scan in scans) for u in MM_PER_UNIT}
    ranked = sorted(totals, key=lambda u: totals[u], reverse=True)
    return UnitGuess(ranked[0], totals[ranked[0]] - totals[ranked[1]] >= SURE_MARGIN, totals)


def extent_and_edge(corners: Floats, faces: Ints) -> tuple[float, float]:
    """Largest extent and median edge of a soup, from at most 20 000 of its faces."""
    low, high = bounds(corners)
    extent = float((high - low).max())
    some = faces[:: max(1, len(faces) // 20_000)]
    edge = np.linalg.norm(corners[some[:, 1]] - corners[some[:, 0]], axis=1)
    return extent, float(np.median(edge)) if len(edge) else 0.0
