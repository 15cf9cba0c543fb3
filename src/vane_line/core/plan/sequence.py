"""Orders of work as data: a protocol's steps with view, bur, depth, check and caution, filled in from a plan."""

from __future__ import annotations

import tomllib
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from vane_line.core import kinds
from vane_line.core.burs import Bur, Use
from vane_line.core.plan.cast_target import WIDE_MM
from vane_line.core.plan.depths import Site
from vane_line.core.plan.plan import Plan
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption

FOLDER = Path(__file__).resolve().parents[2] / "sequences"
DEPTHS = ("none", "occlusal", "facial", "incisal", "lingual", "finish-line", "floor", "boxes")
BURS = ("none", "depth", "joining", "ledge", "ledge-fine", "gutter", "needle", "egg", "fine", "tapered", "groove")
TEXTS = ("title", "view", "check", "caution")
TEETH, CROWNS = ("back", "front", "all"), ("full-crown",)
MOST_STEPS, MOST_TEXT = 30, 300
LEAN_DEG = 1.0  # a bur is not led more exactly


@dataclass(frozen=True)
class Step:
    """One step: depth names which of the plan's depths it is about, bur which part of the tray it takes."""

    title: str
    depth: str
    bur: str
    view: str
    check: str
    caution: str


@dataclass(frozen=True)
class Sequence:
    """A named, versioned order of work; `restorations`: the kinds that it is for; `materials`: those it is usual for,
    where it is not for every one."""

    id: str
    version: int
    title: str
    teeth: str
    reason: str
    source: str
    steps: tuple[Step, ...]
    restorations: tuple[str, ...] = CROWNS
    materials: tuple[str, ...] = ()

    def usual_for(self, material: str) -> bool:
        """Whether it is offered first for a material."""
        return not self.materials or material in self.materials

    def serves(self, tooth: ToothNumber, restoration: str) -> bool:
        """Whether it is for a kind on a tooth."""
        return restoration in self.restorations and self.teeth in ("front" if tooth.front else "back", "all")


@dataclass(frozen=True)
class FilledStep:
    """A step with this plan's numbers: depth and bur in words."""

    step: Step
    depth: str
    bur: str


def parse_sequence(data: dict[str, Any], name: str) -> Sequence:
    """Raises BadOption naming what is wrong."""
    rows = data.get("step")
    if not isinstance(rows, list) or not 0 < len(rows) <= MOST_STEPS:
        raise BadOption(f"{name}: a sequence has 1 to {MOST_STEPS} steps.")
    steps = []
    for number, row in enumerate(rows, 1):
        step = Step(*(str(row.get(k, "")).strip() for k in ("title", "depth", "bur", "view", "check", "caution")))
        if not step.title:
            raise BadOption(f"{name}: step {number} has no title.")
        if (step.depth or "none") not in DEPTHS:
            raise BadOption(f"{name}: step {number}: depth {step.depth}: use one of {', '.join(DEPTHS)}.")
        if (step.bur or "none") not in BURS:
            raise BadOption(f"{name}: step {number}: bur {step.bur}: use one of {', '.join(BURS)}.")
        if any(len(getattr(step, k)) > MOST_TEXT for k in TEXTS):
            raise BadOption(f"{name}: step {number}: keep each text under {MOST_TEXT} characters.")
        steps.append(step)
    title, teeth = str(data.get("title", "")).strip(), str(data.get("teeth", ""))
    if not title or not str(data.get("id", "")).strip():
        raise BadOption(f"{name}: a sequence needs an id and a title.")
    if teeth not in TEETH:
        raise BadOption(f"{name}: teeth must be one of {', '.join(TEETH)}.")
    restorations = data.get("restorations", list(CROWNS))
    if not isinstance(restorations, list | tuple) or not restorations:
        raise BadOption(f"{name}: name the restorations that it is for.")
    for restoration in restorations:
        kinds.of(str(restoration))  # raises BadOption
    return Sequence(
        id=str(data["id"]), version=int(data.get("version", 1)), title=title, teeth=teeth,
        reason=str(data.get("reason", "")), source=str(data.get("source", "")), steps=tuple(steps),
        restorations=tuple(str(r) for r in restorations), materials=tuple(str(m) for m in data.get("materials", ())),
    )  # fmt: skip


@cache
def built_in() -> dict[str, Sequence]:
    """The sequences that ship with the program, by id."""
    found = {}
    for path in sorted(FOLDER.glob("*.toml")):
        sequence = parse_sequence(tomllib.loads(path.read_text(encoding="utf-8")), path.name)
        found[sequence.id] = sequence
    return found


def fill(sequence: Sequence, plan: Plan, tray: tuple[Bur, ...]) -> list[FilledStep]:
    """The sequence's steps with the plan's depths and the tray's burs."""
    return [FilledStep(s, _depth_words(s.depth, plan), _bur_words(s, plan, tray)) for s in sequence.steps]


GROUPS: dict[str, Callable[[str], bool]] = {
    "occlusal": lambda zone: zone.split("/")[0] in (
        "functional-cusp", "non-functional-cusp", "central-groove", "facial-groove", "lingual-groove",
        "marginal-ridge"),
    "facial": lambda zone: zone.startswith("facial/"),
    "incisal": lambda zone: zone == "incisal-edge",
    "lingual": lambda zone: zone == "lingual-fossa",
    "floor": lambda zone: zone == "floor",
    "boxes": lambda zone: zone.startswith("box/"),
}  # fmt: skip


def sites_of(depth: str, plan: Plan) -> list[Site]:
    """The plan's sites that a step is about."""
    wanted = GROUPS.get(depth)
    return [s for s in plan.sites if wanted is not None and wanted(s.zone)]


def _depth_words(depth: str, plan: Plan) -> str:
    if depth == "finish-line" and plan.ledge:
        widths = sorted({round(plan.standard.width_limits(s).target, 2) for s in plan.ledge})
        return f"{_range(widths)} mm wide"
    sites = sites_of(depth, plan)
    if not sites:
        return ""
    known = sorted({round(s.depth_mm, 2) for s in sites if s.depth_mm is not None})
    if not known:
        return "by the space to the opposing teeth"
    nothing = [s.where for s in sites if s.nothing_to_cut]
    said = f"{_range([k for k in known if k >= 0.05])} mm" if known[-1] >= 0.05 else "nothing to cut"
    return said + (f"; nothing at {', '.join(nothing)}" if nothing and known[-1] >= 0.05 else "")


def _range(values: list[float]) -> str:
    return f"{values[0]:.1f}" if values[0] == values[-1] else f"{values[0]:.1f} to {values[-1]:.1f}"


def _bur_words(step: Step, plan: Plan, tray: tuple[Bur, ...]) -> str:
    if step.bur == "depth":
        uses = {s.use.bur.id: s.use for s in sites_of(step.depth, plan) if s.use is not None}
        return "; ".join(_said(u) for u in uses.values()) or "no bur of the tray measures this depth"
    if step.bur in ("ledge", "ledge-fine"):
        uses = {u.bur.id: u for u in plan.ledge.values() if u is not None}
        if step.bur == "ledge-fine":
            fine = [b.title for b in tray if b.grit in ("fine", "extra-fine") and b.tip in ("round", "flat-rounded")]
            return fine[0] if fine else "the same form, fine"
        return "; ".join(_said(u) for u in uses.values()) or "no bur of the tray is wide enough for this ledge"
    if step.bur == "tapered":
        return _tapered(plan, tray)
    if step.bur == "groove":
        return _groove(tray)
    if step.bur == "gutter":
        return _gutter(plan, tray)
    wanted: dict[str, Callable[[Bur], bool]] = {
        "joining": lambda b: b.tip == "round" and b.grit in ("coarse", "medium"),
        "needle": lambda b: b.tip == "point", "egg": lambda b: b.tip == "ball" and b.length_mm > 1.5 * b.diameter_mm,
        "fine": lambda b: b.grit in ("fine", "extra-fine") and b.tip == "round",
    }  # fmt: skip
    test = wanted.get(step.bur)
    return "" if test is None else next((b.title for b in tray if test(b)), "none of the tray")


def _tapered(plan: Plan, tray: tuple[Bur, ...]) -> str:
    """The tapered bur with a rounded end whose half-angle comes nearest to the wanted divergence, and its lean."""
    wanted = float(plan.standard.bounds("divergence").target or 0.0)
    fits = [b for b in tray if b.tip in ("round", "flat-rounded") and b.taper_deg > 0]
    if not fits:
        return "no tapered bur with a rounded end in the tray"
    bur = min(fits, key=lambda b: (abs(b.taper_deg - wanted), b.tip_mm))
    off = wanted - bur.taper_deg
    leaned = f"leaned {abs(off):.0f} degrees {'out' if off > 0 else 'in'}"
    how = "along the path, in one sweep" if abs(off) < LEAN_DEG else leaned
    return f"{bur.title} ({bur.size}), half-angle {bur.taper_deg:g} for {wanted:g}: {how}"


def _groove(tray: tuple[Bur, ...]) -> str:
    """The tapered bur that leaves a groove nearest to its planned width; led along the path, whatever its taper."""
    fits = [b for b in tray if b.tip in ("flat", "flat-rounded", "round") and b.taper_deg > 0]
    if not fits:
        return "no tapered bur in the tray"
    bur = min(fits, key=lambda b: (round(abs(b.middle_mm - WIDE_MM), 2), b.tip == "round"))
    return f"{bur.title} ({bur.size}), {bur.middle_mm:.1f} mm at its middle: along the path"


def _gutter(plan: Plan, tray: tuple[Bur, ...]) -> str:
    if not plan.ledge:
        return ""
    width = max(plan.standard.width_limits(s).target for s in plan.ledge)
    balls = [b for b in tray if b.tip == "ball" and b.length_mm <= b.diameter_mm]
    fits = [b for b in balls if b.diameter_mm / 2 <= width + 0.05]
    if not fits:
        return "no ball of the tray is small enough"
    ball = max(fits, key=lambda b: b.diameter_mm)
    return f"{ball.title}, sunk to half its diameter, {ball.diameter_mm / 2:.1f} of {ball.diameter_mm:.1f}"


def _said(use: Use) -> str:
    return f"{use.bur.title} ({use.bur.size}): {use.words}"
