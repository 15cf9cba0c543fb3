"""Which material can this tooth take: one plan by each standard of its kind, side by side.

Each row is what that plan's own target would be worth, measured and judged like a preparation: how much tooth it costs,
what is left, and what it cannot meet; where it cannot as the bite stands, the same with the bite raised. No word on
looks or strength beyond the standards' own.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np

from vane_line.core.arrays import Bools, Floats
from vane_line.core.burs import Bur
from vane_line.core.contract.decision import SCHEMA, DecisionDocument, DecisionRow, UnmetRow
from vane_line.core.contract.plan import StandardTitle
from vane_line.core.jaw.hinge import Raise
from vane_line.core.judge import criteria
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.verdicts import FAULTS, Verdict
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Progress
from vane_line.core.plan.makers import maker_of, told
from vane_line.core.plan.plan import Ground, Plan, PlanOptions
from vane_line.core.plan.planner import find_ground, plan_on
from vane_line.core.trace.section import Axes

CELL_MM = 0.2  # of the grid on which tooth to cut is counted
SPARE_MM = 0.4
RAISE = Raise(1.0, "molar")  # what is tried where the bite as it is leaves something unmet
ROOM = ("reduction", "clearance")
RAISE_HELPS = ("wall-height", "resistance", "remaining-width", "clearance", "neighbour-gap")
# Beside what a plan is told by; the rest of a target's verdicts speak of how it was surfaced, or are not cut yet.
TOLD_TOO = ("neighbour-gap", "finish-line-width")
REMINDER = (
    "By these standards' figures and this tooth's form alone: looks, strength, decay and the pulp count as well; "
    "the dentist decides."
)
OWN_PLAN = "Before you rely on a raised bite, raise it on the plan itself and look at every place there."
MOST_OPPOSING_MM = 0.5  # that is ever asked of the opposing tooth


@dataclass(frozen=True)
class Unmet:
    """What a plan cannot meet, in words, and by how much."""

    criterion: str
    zone: str
    missing: float | None
    unit: str
    words: str


@dataclass(frozen=True, eq=False)
class Row:
    """One standard on this tooth. raised: how far the bite is opened for it, None as it is. cut_mm3: tooth to be cut,
    of `crown_mm3` over the finish line; left_mm: the least width that stays; why: there is no target, and why."""

    standard: Standard
    raised: Raise | None
    cut_mm3: float | None
    crown_mm3: float | None
    left_mm: float | None
    wall_mm: float | None
    resists: bool | None
    unmet: tuple[Unmet, ...]
    why: str = ""

    @property
    def meets(self) -> bool:
        """Whether everything that a plan is told by can be met."""
        return not self.why and not self.unmet


def decide(
    preop: Surface, opposing: Surface | None, options: PlanOptions, standards: Sequence[Standard],
    tray: tuple[Bur, ...], progress: Progress = lambda _text, _share: None, mockup: Surface | None = None,
) -> list[Row]:  # fmt: skip
    """The table, the least tooth cut first. Scans as `make_plan` takes them. Raises UnfitScans, BadOption."""
    ground = find_ground(preop, opposing, options, mockup=mockup)
    crown, lingual = Crown.of(ground), options.case.tooth.lingual_word
    raised: Ground | None = None
    rows = []
    for k, standard in enumerate(standards):
        progress(f"planning {standard.title}", (k + 0.5) / (len(standards) + 1))
        rows.append(_row(plan_on(ground, standard, tray), None, crown, lingual))
        helps = any(u.criterion in RAISE_HELPS for u in rows[-1].unmet)
        if not helps or options.case.opening is not None or opposing is None:
            continue
        if raised is None:
            opened = replace(options, case=replace(options.case, opening=RAISE))
            raised = find_ground(preop, opposing, opened, mockup=mockup)
        rows.append(_row(plan_on(raised, standard, tray), RAISE, crown, lingual))
    return sorted(rows, key=lambda r: r.cut_mm3 if r.cut_mm3 is not None else float("inf"))


def row_of(plan: Plan, ground: Ground) -> Row:
    """What one plan costs and cannot meet."""
    return _row(plan, None, Crown.of(ground), ground.options.case.tooth.lingual_word)


def _row(plan: Plan, raised: Raise | None, crown: Crown, lingual: str) -> Row:
    if plan.geometry is None or plan.judgement is None or plan.target is None:
        return Row(
            standard=plan.standard, raised=raised, cut_mm3=None, crown_mm3=None, left_mm=None, wall_mm=None,
            resists=None, unmet=(), why=plan.why_no_target,
        )  # fmt: skip
    held = plan.ring.shape.retention if plan.ring else None
    maker = maker_of(plan.options.case.restoration)
    faults = [v for v in plan.judgement.verdicts if v.status in FAULTS and (told(maker, v) or v.criterion in TOLD_TOO)]
    return Row(
        standard=plan.standard, raised=raised, cut_mm3=crown.cut_mm3(plan.target), crown_mm3=crown.mm3,
        left_mm=held.remaining_mm if held else None, wall_mm=held.height_mm if held else None,
        resists=held.resists if held else None,
        unmet=tuple(_unmet(v, lingual) for v in _worst_of_each(faults)),
    )  # fmt: skip


def _worst_of_each(faults: list[Verdict]) -> list[Verdict]:
    """Of each criterion the one that lacks the most."""
    found: dict[str, Verdict] = {}
    for v in sorted(faults, key=lambda v: -abs(v.missing or 0.0)):
        found.setdefault(v.criterion, v)
    return list(found.values())


def _unmet(v: Verdict, lingual: str) -> Unmet:
    place, missing = criteria.where(v.criterion, v.zone, lingual), abs(v.missing or 0.0)
    if v.criterion in ROOM and v.bound == "min":
        words = f"needs {missing:.1f} mm more room over the {place}"
        if v.criterion == "clearance" and missing <= MOST_OPPOSING_MM:
            words += ", or as much off the opposing tooth, planned and agreed"
    elif v.unit == "mm":
        words = f"{criteria.title(v.criterion)}, {place}: {missing:.1f} mm {'short' if v.bound == 'min' else 'over'}"
    else:
        words = f"{criteria.title(v.criterion)}, {place}: {criteria.of(v.criterion).says.get(v.bound, 'not met')}"  # type: ignore[union-attr]
    return Unmet(v.criterion, v.zone, v.missing, v.unit, words)


# --- tooth to cut --------------------------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False)
class Crown:
    """The tooth over its planned finish line, counted on a grid. cells: (N, 3) their middles; over: (N,) which lie over
    the line; tooth: (N,) which the tooth fills."""

    axes: Axes
    cells: Floats
    over: Bools
    tooth: Bools

    @classmethod
    def of(cls, ground: Ground) -> Crown:
        """Of the tooth that a plan stands on."""
        cells, over, filled = cells_of(ground)
        return cls(ground.axes, cells, over, filled)

    @property
    def mm3(self) -> float:
        """All of it."""
        return float(self.tooth.sum() * CELL_MM**3)

    def cut_mm3(self, target: Surface) -> float:
        """What of it is not target."""
        stays = _inside(target, self.cells, self.over, self.axes)
        return float((self.tooth & ~stays).sum() * CELL_MM**3)


def cells_of(ground: Ground, cell_mm: float = CELL_MM) -> tuple[Floats, Bools, Bools]:
    """(N, 3) middles of the grid's cells round the tooth, which (N,) lie over the finish line, and which of those the
    tooth fills."""
    axes, line = ground.axes, ground.line
    local = axes.local(ground.tooth.surface.vertices)
    low, high = local.min(axis=0) - SPARE_MM, local.max(axis=0) + SPARE_MM
    low[2] = float(line.height.min())
    block = np.meshgrid(
        *(np.arange(a + cell_mm / 2, b, cell_mm) for a, b in zip(low, high, strict=True)), indexing="ij"
    )
    cells = np.stack([g.ravel() for g in block], axis=1)
    over = cells[:, 2] > line.at(axes.azimuth_of(cells), line.height)
    world = axes.world(cells)
    return world, over, _inside(ground.tooth.surface, world, over, axes)


def _inside(surface: Surface, points: Floats, over: Bools, axes: Axes) -> Bools:
    """(N,) which of the cells lie in a body that is open below: along a ray up they meet its surface from within."""
    out = np.zeros(len(points), dtype=bool)
    index = np.flatnonzero(over)
    face, _ = surface.first_hit(points[index], axes.up)
    out[index] = (face >= 0) & (surface.face_normals[np.maximum(face, 0)] @ axes.up > 0)
    return out


# --- as plain data -------------------------------------------------------------------------------------------------


def decision_document(rows: Sequence[Row], options: PlanOptions) -> dict[str, Any]:
    """The table as the contract has it."""
    made = DecisionDocument(
        schema=SCHEMA, tooth=options.case.tooth.fdi, restoration=options.case.restoration, reminder=REMINDER,
        rows=[as_row(r) for r in rows],
    )  # fmt: skip
    return made.model_dump(by_alias=True)


def as_row(r: Row) -> DecisionRow:
    """One row as the contract has it."""
    share = None if r.cut_mm3 is None or not r.crown_mm3 else r.cut_mm3 / r.crown_mm3
    return DecisionRow(
        standard=StandardTitle(id=r.standard.id, version=r.standard.version, title=r.standard.title),
        material=r.standard.material, way="as-it-is" if r.raised is None else "raised",
        raise_text=None if r.raised is None else f"{r.raised.mm:g}@{r.raised.at}", meets=r.meets, cut_mm3=r.cut_mm3,
        cut_share=share, left_mm=r.left_mm, wall_height_mm=r.wall_mm, resists=r.resists,
        unmet=[UnmetRow(**asdict(u)) for u in r.unmet],
        why_no_target=r.why,
        caution=" ".join(c for c in (r.standard.caution, "" if r.raised is None else OWN_PLAN) if c),
    )  # fmt: skip
