"""What a plan is made of: what was chosen, the ground that no standard changes, and the whole of it."""

from __future__ import annotations

from dataclasses import dataclass, field

from vane_line.core.align.crowns import Crowns
from vane_line.core.arrays import Bools, Floats
from vane_line.core.burs import Use
from vane_line.core.case import Geometry
from vane_line.core.judge.judgement import Judgement
from vane_line.core.judge.limits import general
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.kinds.ring import RingCut
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.plan.cavity_choice import CavityChoice
from vane_line.core.plan.depths import Site
from vane_line.core.plan.line import Capture, PlannedLine
from vane_line.core.tooth.anatomy import Anatomy
from vane_line.core.tooth.crossbite import FunctionalSide
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.reference import ReferenceTooth
from vane_line.core.trace.section import Axes
from vane_line.errors import BadOption

LINE_MM = (-1.5, 3.0)  # over the gingiva, that may be chosen
TAPER_DEG = (1.0, 20.0)
INCISAL = ("butt", "window")
MOST_HOLES = 4


@dataclass(frozen=True, eq=False)
class PlanOptions:
    """What the person chose. near: a point on the tooth; path None: along the tooth's own axis. incisal: how a veneer
    ends at the edge. cavity: its boxes, covered cusps and outline. holes: for pins, places (3,) on the tooth, at the
    ledge's level; none: they are chosen."""

    case: Options
    above_gingiva_mm: float = 0.5
    taper_deg: float = (general()["convergence"].target or 10.0) / 2
    incisal: str = "butt"
    cavity: CavityChoice = field(default_factory=CavityChoice)
    holes: tuple[Floats, ...] = ()

    def check(self) -> None:
        """Raises BadOption."""
        if not LINE_MM[0] <= self.above_gingiva_mm <= LINE_MM[1]:
            low, high = LINE_MM
            raise BadOption(f"finish line: {self.above_gingiva_mm} mm over the gingiva; give {low} to {high}.")
        self.cavity.check()
        if len(self.holes) > MOST_HOLES:
            raise BadOption(f"holes: {len(self.holes)} places; give {MOST_HOLES} at most.")
        if self.incisal not in INCISAL:
            raise BadOption(f"incisal {self.incisal}: use one of {', '.join(INCISAL)}.")
        if not TAPER_DEG[0] <= self.taper_deg <= TAPER_DEG[1]:
            raise BadOption(
                f"taper: {self.taper_deg} degrees a wall; give {TAPER_DEG[0]:.0f} to {TAPER_DEG[1]:.0f}.")  # fmt: skip


@dataclass(frozen=True, eq=False)
class Plan:
    """All of a plan. target, and its geometry and judgement: None where no target can be made (why).

    path: (3,) along which the restoration is drawn; axes: about the tooth, along it but for a kind whose path follows
    from its form. line: the height chosen over the gingiva, all round; course (K, 3), seen (K,): the finish line of
    this kind on it.
    """

    options: PlanOptions
    standard: Standard
    frame: Frame
    axes: Axes
    path: Floats
    tooth: ReferenceTooth
    anatomy: Anatomy
    functional: FunctionalSide
    lift_mm: float
    sites: list[Site]
    through_mockup: bool
    line: PlannedLine
    course: Floats
    seen: Bools
    width_mm: Floats
    ledge: dict[str, Use | None]  # by side
    capture: list[Capture]
    target: Surface | None
    geometry: Geometry | None
    judgement: Judgement | None
    ways_out: list[tuple[Verdict, str]]
    warnings: list[str]
    why_no_target: str = ""
    cover_mm3: dict[str, float] = field(default_factory=dict)  # by cusp: what covering it would cost in tooth

    @property
    def ring(self) -> RingCut | None:
        """What a made crown's walls would be; None for another kind: a prefabricated one is held otherwise."""
        if self.geometry is None or self.geometry.kind.primary:
            return None
        return self.geometry.cut if isinstance(self.geometry.cut, RingCut) else None


@dataclass(frozen=True, eq=False)
class Ground:
    """All of a plan that no standard changes: the tooth, where its finish line goes, and what it bites on.

    tooth: on the earlier scan, freed of noise; finished: the same of the mock-up, which is `mockup` brought onto that
    scan, None without one; opposing: as the bite puts it; beside: (M, 3) points of the other teeth. axes, path: as of a
    plan.
    """

    options: PlanOptions
    preop: Surface
    opposing: Surface | None
    crowns: Crowns
    middle: Floats
    frame: Frame
    axes: Axes
    tooth: ReferenceTooth
    mockup: Surface | None
    finished: ReferenceTooth | None
    anatomy: Anatomy
    functional: FunctionalSide
    lift_mm: float
    line: PlannedLine
    beside: Floats
    warnings: tuple[str, ...]
    path: Floats
