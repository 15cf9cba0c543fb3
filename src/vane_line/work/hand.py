"""What answers a hand: the finish line drawn anew, a path tried, a stroke simulated. Nothing is stored."""

from __future__ import annotations

from typing import Any

import numpy as np

from vane_line.core import kinds
from vane_line.core.case import complete, prepare
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.kinds.kind import Drawing
from vane_line.core.predict import Stroke, cut_by
from vane_line.work.desk import Desk, options_of, standard_of, tray_of
from vane_line.work.task import Progress


def warm(desk: Desk, payload: dict[str, Any], progress: Progress) -> bool:
    """Make ready for edits by hand."""
    complete(desk.prepared(payload, progress), options_of(payload), progress)
    return True


def redraw_line(desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The finish line with one stretch drawn anew: points and which of them were drawn."""
    survey, options = desk.prepared(payload, progress).survey, options_of(payload)
    reader = kinds.of(options.restoration).reader
    line = survey.found if options.line is None else reader.follow(survey, options.line)
    stroke = np.array(payload["stroke"], dtype=float)
    line = reader.redraw(survey, line, Drawing(stroke, payload["snap"], payload["closed"]))
    return {"points": line.points.tolist(), "drawn": line.drawn.tolist()}


def try_path(desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Undercuts and least draft along a path that is only tried."""
    ready, options = desk.prepared(payload, progress), options_of(payload)
    reader = kinds.of(options.restoration).reader
    line = ready.survey.found if options.line is None else reader.follow(ready.survey, options.line)
    found = reader.along(ready.placed, ready.survey, line, np.array(payload["direction"], dtype=float))
    return {
        "max_depth_mm": found.max_depth_mm,
        "area_mm2": found.area_mm2,
        "least_draft_deg": found.least_draft_deg if np.isfinite(found.least_draft_deg) else None,
        "sectors": list(found.sectors),
    }


def predict_strokes(desk: Desk, payload: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """Document of the preparation as strokes would leave it; the kept case is untouched."""
    ready, options = desk.prepared(payload, progress), options_of(payload)
    strokes = [Stroke(np.array(s["points"], float), s["depth_mm"], s["diameter_mm"]) for s in payload["strokes"]]
    cut = cut_by(ready.placed, strokes, options.tooth)
    geometry = complete(prepare(cut.placed, options, progress), options, progress)
    standard = standard_of(payload)
    judged = judge(geometry, standard, tray_of(payload))
    result = document(geometry, judged, material=payload.get("material"))
    return {"document": result, "removed_mm3": cut.removed_mm3, "warnings": cut.warnings}
