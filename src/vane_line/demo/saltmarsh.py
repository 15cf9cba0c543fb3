"""The Saltmarsh clinic's cases: made-up teeth and faults, each to show something."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from vane_line.core.mesh.surface import Surface
from vane_line.core.rigid import move
from vane_line.demo.cases import MadeCase
from vane_line.demo.recipes import (
    Recipe,
    bridge_abutments,
    child_s_central,
    child_s_second_molar,
    crossed_premolar,
    gold_premolar_inlay,
    guiding_lateral,
    lower_lateral_incisor,
    mocked_up_centrals,
    open_faced_molar,
    pinned_lateral,
    timid_first_molar,
    tipped_second_molar,
    wide_first_molar_onlay,
    worn_premolar,
)


@dataclass(frozen=True)
class DemoCase:
    """A case and the recipe of each of its attempts, in time."""

    code: str
    tooth: str
    material: str
    notes: str
    attempts: tuple[Callable[[], Recipe], ...]
    meaning: str = "natural"
    standard: str | None = None
    restoration: str = "full-crown"
    facts: dict[str, Any] = field(default_factory=dict)  # said of the tooth, as no scan shows it
    also: tuple[str, ...] = ()  # other teeth of the case, of the same kind and material
    movements: str | None = None  # condylar path, Bennett's angle, guidance in front, as entered


PART_MM = (7.0, 16.0)  # before and behind the tooth's middle


SALTMARSH = (
    DemoCase(
        "SM-0198", "15", "lithium-disilicate",
        "Saltmarsh teaching clinic, made-up data. Upper right second premolar, worn, root-filled with a core; SO-03.",
        (worn_premolar,), "natural", "lithium-disilicate-conventional",
    ),
    DemoCase(
        "SM-0231", "32", "zirconia",
        "Saltmarsh teaching clinic, made-up data. Lower left lateral incisor, old metal-ceramic crown replaced; SO-12.",
        (lower_lateral_incisor,), "copied-crown",
    ),
    DemoCase(
        "SM-0255", "14", "full-metal",
        "Saltmarsh teaching clinic, made-up data. Upper right first premolar, disto-occlusal gold inlay; SO-11.",
        (gold_premolar_inlay,), restoration="inlay",
    ),
    DemoCase(
        "SM-0260", "46", "lithium-disilicate",
        "Saltmarsh teaching clinic, made-up data. Lower right first molar, mesio-occlusal onlay, old filling; SO-07.",
        (wide_first_molar_onlay,), restoration="onlay",
    ),
    DemoCase(
        "SM-0274", "21", "lithium-disilicate",
        "Saltmarsh teaching clinic, made-up data. Both upper central incisors, veneers through one mock-up; SO-04.",
        (mocked_up_centrals,), restoration="veneer", also=("11",),
    ),
    DemoCase(
        "SM-0283", "24", "lithium-disilicate",
        "Saltmarsh teaching clinic, made-up data. Upper left first premolar in crossbite, veneer over its cusp; SO-04.",
        (crossed_premolar,), restoration="veneer",
    ),
    DemoCase(
        "SM-0212", "47", "zirconia",
        "Saltmarsh teaching clinic, made-up data. Lower right second molar, tipped into the gap of the lost 46; SO-07.",
        (tipped_second_molar,),
    ),
    DemoCase(
        "SM-0288", "12", "full-metal",
        "Saltmarsh teaching clinic, made-up data. Upper right lateral incisor, eroded behind, casting on pins; SO-02.",
        (pinned_lateral,), restoration="pin-casting",
        facts={"guide_pins": True, "gauge": {"mesial": 2.4, "distal": 2.4}},
    ),
    DemoCase(
        "SM-0296", "55", "preformed-metal",
        "Saltmarsh teaching clinic, made-up data. Upper right second primary molar, preformed metal crown; SO-09.",
        (child_s_second_molar,), restoration="child-crown",
    ),
    DemoCase(
        "SM-0301", "51", "preformed-zirconia",
        "Saltmarsh teaching clinic, made-up data. Upper right primary central incisor, zirconia crown; SO-09.",
        (child_s_central,), restoration="child-crown",
    ),
    DemoCase(
        "SM-0319", "26", "full-metal",
        "Saltmarsh teaching clinic, made-up data. Upper left first molar, gold partial crown, its face left; SO-02.",
        (open_faced_molar,), restoration="partial-crown",
    ),
    DemoCase(
        "SM-0310", "35", "zirconia",
        "Saltmarsh teaching clinic, made-up data. Bridge 35 to 37 over the lost 36, the 37 tipped; SO-05.",
        (bridge_abutments,), also=("37",),
    ),
    DemoCase(
        "SM-0326", "22", "layered-zirconia",
        "Saltmarsh teaching clinic, made-up data. Upper left lateral incisor, which guides for a lost canine; SO-07.",
        (guiding_lateral,), movements="30,15,-",
    ),
    DemoCase(
        "SM-0147", "36", "lithium-disilicate",
        "Saltmarsh teaching clinic, made-up data. Lower left first molar, cut a little timidly; operator SO-12.",
        (lambda: timid_first_molar(1), lambda: timid_first_molar(2)),
    ),
)  # fmt: skip


@dataclass(frozen=True, eq=False)
class DemoScans:
    """What the clinic's scanner gave, and what was drawn on the tooth by hand: a core's border (N, 3), or None."""

    surfaces: dict[str, Surface]
    core: list[list[float]] | None = None
    near: dict[str, list[float]] = field(default_factory=dict)  # by tooth, where it is pressed on before cutting
    centre: list[float] | None = None  # of the tooth, on the preparation scan
    distal: list[float] | None = None

    @classmethod
    def of(cls, case: DemoCase, made: MadeCase) -> DemoScans:
        """What was made for one of a case's attempts."""
        roles = ("preop", "opposing", "mockup", "prep")
        surfaces = {role: s for role in roles if (s := getattr(made, role)) is not None}
        back = np.linalg.inv(np.array(made.stands["preop_to_prep"]))
        centres = {made.recipe.tooth: made.stands["centre"]}
        centres |= {t: one["centre"] for t, one in made.stands["also"].items()}
        near = {tooth: move(back, np.array([place]))[0].tolist() for tooth, place in centres.items()}
        distal = (-np.array(made.stands["mesial"])).tolist()
        return cls(surfaces, made.stands["core"], near, centres[case.tooth], distal)


def case_of(code: str) -> DemoCase:
    """A case by its code."""
    return next(c for c in SALTMARSH if c.code == code)


def scans_of(code: str, attempt: int, grid_mm: float) -> DemoScans:
    """The scans (by role) of one attempt (from 0); later ones have only the preparation's. grid_mm: how fine."""
    case = case_of(code)
    recipe = case.attempts[attempt]()
    made = MadeCase(replace(recipe, scan=replace(recipe.scan, grid_mm=grid_mm)), first=attempt == 0)
    return DemoScans.of(case, made)


def partial(surface: Surface, made: DemoScans) -> Surface:
    """The scan of a hurried hand: the tooth and the neighbour behind it."""
    along = (surface.vertices - np.array(made.centre)) @ np.array(made.distal)
    return surface.keep_vertices((along > -PART_MM[0]) & (along < PART_MM[1]))[0]
