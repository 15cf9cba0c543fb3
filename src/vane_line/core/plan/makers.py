"""Which maker shapes a kind's target, by the name that the kind gives."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from vane_line.core import kinds
from vane_line.core.arrays import Floats
from vane_line.core.burs import CURVED_FORMS
from vane_line.core.judge.standard_files import SIDES
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import PIN_SIDES
from vane_line.core.plan.cast_target import CastTarget
from vane_line.core.plan.cavity_target import CavityTarget
from vane_line.core.plan.child_target import ChildDepths, ChildTarget
from vane_line.core.plan.depths import Site
from vane_line.core.plan.line import PlannedLine
from vane_line.core.plan.pin_target import PinTarget, along_face
from vane_line.core.plan.plan import Ground, Plan
from vane_line.core.plan.target import TargetPlan, target_die
from vane_line.core.plan.window_target import WindowPlan, contact_ends, window_body
from vane_line.core.trace.section import Axes
from vane_line.errors import BadOption

SEES_NO_DECAY = (
    "Decay and an old filling decide how far this goes: the plan sees neither. It is the least that the standard asks."
)
BEVEL = "The target has no bevel: for cast metal it is laid last, by hand."
FACE_STANDS = (
    "How far the facial line may stand forward before metal shows is judged from the front; the face is left as it is."
)
NO_PULP = (
    "A radiograph decides where a hole may go: the pulp is not seen here, nor the root below the gingiva. Cover is "
    "told to what the scan shows."
)
NO_LEDGE = (
    "There is no ledge: the tooth is nowhere thick enough for one with two holes. Another restoration keeps more."
)
NOT_THERE = "There is no ledge: none can be laid through the places that were pressed. Press on the back of this tooth."
METALS = ("full-metal",)
ROUNDED_MM = 0.4  # inner radius of a planned rounded shoulder


@dataclass(frozen=True)
class Making:
    """One target as it is made. sites: of those found on the tooth, which it is cut by, with its own; body: the target
    of the plan; said: what more a person should know; cover_mm3: by cusp, what covering it takes; line: where the
    target ends, None where that is the line as it was planned; gauge: depth of its holes, by side, which no scan tells
    for certain."""

    sites: list[Site]
    body: Callable[[Plan], Surface]
    said: tuple[str, ...] = ()
    cover_mm3: Callable[[], dict[str, float]] = dict
    line: PlannedLine | None = None
    gauge: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Maker:
    """How the targets of some kinds are made.

    begin: one target, on its ground, by a standard, from the sites of the whole tooth. round: whether its finish line
    goes round the tooth just as it was planned; else it is read on the target. mocked: whether a mock-up is planned
    through. on: the places in the row, by their FDI digit, of the teeth it is made for. faced: whether its sites lie on
    the face, of a back tooth too. sectors: where a line that does not go round runs along the gingiva. axial: whether
    its walls stand along the plan's axis, though its line does not go round. at_gingiva: whether the target ends there,
    wherever the cut ends below. ledged: whether its finish line has a width. told_by: the criteria that a plan is told
    by. least_only: those of them whose greatest value is not told: the scan before cutting did not see the neighbour's
    side of a contact. path: which way it is drawn, of the tooth (eased) and its own axes, where nobody chose; None:
    along those, which then lean as the chosen path does.
    """

    begin: Callable[[Ground, Standard, list[Site]], Making]
    round: bool
    told_by: tuple[str, ...]
    mocked: bool = False
    on: str = "12345678"
    faced: bool = False
    sectors: tuple[str, ...] = ("facial", "all round")
    axial: bool = False
    at_gingiva: bool = False
    ledged: bool = True
    least_only: tuple[str, ...] = ()
    path: Callable[[Surface, Axes], Floats] | None = None


def _die(ground: Ground, _standard: Standard, whole: list[Site]) -> Making:
    def body(plan: Plan) -> Surface:
        shape = TargetPlan(plan.line, plan.options.taper_deg, plan.width_mm, _fillets(plan), plan.sites)
        return target_die(ground.tooth.surface, ground.axes, shape, plan.options.case.tooth.front)

    return Making(whole, body)


def _window(ground: Ground, standard: Standard, whole: list[Site]) -> Making:
    def body(plan: Plan) -> Surface:
        tooth = ground.tooth.surface
        finished = tooth if ground.finished is None else ground.finished.surface
        groove = None if ground.options.case.tooth.front else ground.anatomy.parted_y
        shape = WindowPlan(
            plan.line, contact_ends(tooth, ground.beside, ground.axes, groove), standard.width_limits("mesial").target,
            plan.sites, plan.options.incisal, groove,
        )  # fmt: skip
        return window_body(tooth, finished, ground.axes, shape)

    return Making(whole, body)


def _cavity(ground: Ground, standard: Standard, whole: list[Site]) -> Making:
    target = CavityTarget(ground, standard, whole)
    said = (*target.shape.said, SEES_NO_DECAY, *((BEVEL,) if standard.material in METALS else ()))
    return Making(target.sites, lambda _plan: target.body(), said, target.cover_mm3)


def _child(ground: Ground, standard: Standard, whole: list[Site]) -> Making:
    front = ground.options.case.tooth.front
    depths = ChildDepths.of(standard)
    target = ChildTarget(ground.tooth.surface, ground.axes, ground.line, depths, front)
    goes_on = (f"Below the gingiva, {depths.below_mm:.1f} mm deep and without a ledge, the walls go on as they come: "
               "no scan before cutting shows the tooth there.")  # fmt: skip
    return Making(whole, lambda plan: target.body(plan.sites), (goes_on,), line=target.line())


def _cast(ground: Ground, _standard: Standard, whole: list[Site]) -> Making:
    def body(plan: Plan) -> Surface:
        shape = TargetPlan(plan.line, plan.options.taper_deg, plan.width_mm, _fillets(plan), plan.sites)
        return CastTarget(ground, shape).body()

    return Making(whole, body, (FACE_STANDS,))


def _pins(ground: Ground, standard: Standard, whole: list[Site]) -> Making:
    target = PinTarget(ground, standard, whole)
    missing = NOT_THERE if ground.options.holes else NO_LEDGE
    said = (NO_PULP, *((missing,) if target.ledge is None else ()))
    return Making(whole, lambda _plan: target.body(), said, gauge=dict.fromkeys(PIN_SIDES, target.deep_mm))


def _fillets(plan: Plan) -> Floats:
    """(A,) inner radius: the bur's round end for a chamfer, a rounded corner for a shoulder."""
    out = np.empty(len(plan.line.azimuth_deg))
    sides = np.array(SIDES)[(np.round(plan.line.azimuth_deg / 90).astype(int)) % 4]
    for side in set(sides):
        forms = plan.standard.forms_for(str(side))
        curved = bool(forms) and all(f in CURVED_FORMS for f in forms)
        here = sides == side
        out[here] = 0.9 * plan.width_mm[here] if curved else np.minimum(ROUNDED_MM, 0.5 * plan.width_mm[here])
    wide = np.r_[out[-12:], out, out[:12]]
    return np.asarray(np.lib.stride_tricks.sliding_window_view(wide, 25).mean(axis=1))


def told(maker: Maker, verdict: Verdict) -> bool:
    """Whether a plan is told by a verdict on its target."""
    beyond = verdict.bound == "max" and verdict.criterion in maker.least_only
    return verdict.criterion in maker.told_by and not beyond


MAKERS = {
    "die": Maker(
        _die, round=True,
        told_by=("convergence", "wall-height", "resistance", "remaining-width", "reduction", "clearance", "undercut",
                 "path-blocked"),
    ),
    "window": Maker(
        _window, round=False, mocked=True, on="12345", faced=True,
        told_by=("reduction", "incisal-reduction", "incisal-form", "enamel-likely-left", "finish-line-width", "scoop",
                 "contact-ending", "clearance", "undercut"),
    ),
    "cavity": Maker(
        _cavity, round=False, ledged=False, least_only=("contact-clearance",),
        told_by=("cavity-depth", "isthmus", "isthmus-share", "divergence", "undercut", "box-depth", "box-floor",
                 "contact-clearance", "cusp-thickness", "outline-contact", "internal-radius", "reduction", "clearance"),
    ),
    "cast": Maker(
        _cast, round=False, axial=True, sectors=("mesial", "distal", "lingual", "all round"),
        told_by=("reduction", "clearance", "undercut", "finish-line-width", "groove-pair", "groove-depth",
                 "groove-length", "groove-end", "groove-parallel"),
    ),
    "pins": Maker(
        _pins, round=False, on="123", axial=True, sectors=("lingual",), ledged=False, path=along_face,
        told_by=("reduction", "clearance", "undercut", "finish-line-width", "pin-depth", "pin-parallel", "pin-cover",
                 "pin-ledge", "ledge-slope", "tooth-left"),
    ),
    "child": Maker(
        _child, round=True, at_gingiva=True, ledged=False,
        told_by=("reduction", "tooth-removed", "clearance", "cervical-undercut", "cervical-taper",
                 "crown-seat", "planes"),
    ),
}  # fmt: skip


def mocked() -> tuple[str, ...]:
    """The kinds that are planned through a mock-up, where there is one."""
    return tuple(k.name for k in kinds.every() if k.plan is not None and MAKERS[k.plan].mocked)


def maker_of(restoration: str) -> Maker:
    """The maker of a restoration's target. Raises BadOption for a kind that is not known, or not planned yet."""
    kind = kinds.of(restoration)
    if kind.plan is None:
        raise BadOption(f"{kind.title}: no plan before cutting is made for this kind yet; check and correct it.")
    return MAKERS[kind.plan]
