"""What readers share whose line is an outline on the tooth: a cavity's, a window's."""

from __future__ import annotations

from dataclasses import dataclass

from vane_line.core.arrays import Bools, Floats
from vane_line.core.kinds.kind import Along, Drawing
from vane_line.core.kinds.seen import Cut
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.undercut import Region
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import HandLine, Options
from vane_line.core.outline.by_hand import bounded, redrawn
from vane_line.core.outline.line import OutlineLine, OutlineSurvey
from vane_line.core.placed import Placed
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.trace.section import Axes

NO_DEPTH = "without the scan before cutting the depth at the line is not known"


@dataclass(frozen=True, eq=False)
class LedgeCut(Cut):
    """Of a cut whose outline has a ledge. view: axes by which the line goes round. widths: (K,) of the ledge at the
    line's points, nan where none ends; why_no_widths: where none could be told. above_gingiva_mm: (K,) at the neck, nan
    elsewhere."""

    outline: OutlineLine
    view: Axes
    widths: Floats
    why_no_widths: str
    above_gingiva_mm: Floats
    gingiva_source: str | None
    hidden: Floats
    regions: list[Region]
    high_mm: float

    @property
    def undercuts(self) -> list[Region]:
        return self.regions

    @property
    def wall_mm(self) -> float:
        return self.high_mm

    @property
    def judged(self) -> dict[str, Bools]:
        """By side, which of the line's points (K,) have a ledge that is judged."""
        raise NotImplementedError

    def hidden_mm(self, _inside: Surface) -> Floats:
        """As it was found."""
        return self.hidden


def drawn_line(survey: OutlineSurvey, drawn: HandLine) -> FinishLine:
    """The outline as a hand drew it."""
    return bounded(survey, drawn.points, drawn.drawn)


def redrawn_line(survey: OutlineSurvey, line: FinishLine, drawing: Drawing) -> FinishLine:
    """The outline with one stretch drawn anew."""
    return redrawn(survey, line, drawing.stroke, drawing.snap, drawing.closed)


def cut_inside(_placed: Placed, _survey: OutlineSurvey, line: FinishLine) -> Bools:
    """(V,) of the crop: what was cut."""
    assert isinstance(line, OutlineLine)
    return line.mask


def told_teeth(
    _placed: Placed, survey: OutlineSurvey, _line: FinishLine, _inside: Bools, _options: Options
) -> dict[str, ReferenceTooth]:
    """Told before the outline was."""
    return survey.teeth


def whole_girth(survey: OutlineSurvey, _line: FinishLine) -> FinishLine:
    """Round the whole tooth: the outline goes round a part of it only."""
    return survey.girth


def along_of(regions: list[Region], least_draft_deg: float) -> Along:
    """Of a path that is only tried: its undercuts summed up."""
    return Along(
        max((r.max_depth_mm for r in regions), default=0.0), float(sum(r.area_mm2 for r in regions)),
        tuple(r.sector for r in regions), least_draft_deg,
    )  # fmt: skip
