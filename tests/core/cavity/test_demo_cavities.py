"""The demo's cavities: what their story tells is what is proven, and the room beside a box is the maker's own.

Distances come from the drawn neighbour itself, which no measure sees.
"""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
from long import first
from made import coarse, kept_case

from vane_line.core.case import Geometry, measure
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.options import Options
from vane_line.core.rigid import move
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.recipes import Recipe, gold_premolar_inlay, wide_first_molar_onlay
from vane_line.demo.scene import Scene

RECIPES = {"14": gold_premolar_inlay, "46": wide_first_molar_onlay}
KINDS = {"14": "inlay", "46": "onlay"}
SCANNER_FILLS_MM = 0.05  # the scanner's software draws the edge of a narrow gap together


def recipe_of(tooth: str, seed: int) -> Recipe:
    """As the demo cuts it, in a frame and with a noise of its own; the inlay scanned more coarsely."""
    recipe = RECIPES[tooth](seed)
    return recipe if tooth == "46" else coarse(recipe)


@cache
def judged(tooth: str, seed: int) -> tuple[Geometry, Judgement]:
    recipe = recipe_of(tooth, seed)
    case = kept_case(f"cavity-{tooth}-{seed}-{recipe.scan.grid_mm}", recipe)
    scans = Scans(case.prep, case.preop, None, case.opposing)
    options = Options(ToothNumber(tooth), opposing_frame="preop", restoration=KINDS[tooth])
    geometry = measure(scans, options)
    return geometry, judge(geometry, choose(recipe.material, KINDS[tooth], None, ToothNumber(tooth)))


@pytest.mark.long
@pytest.mark.parametrize(("tooth", "neighbour", "seed"), first(2, ("14", "15", 14), ("46", "35", 46), ("14", "15", 3)))
def test_the_room_beside_a_box_is_the_neighbour_s_own_distance(tooth: str, neighbour: str, seed: int) -> None:
    """The tooth's own standing corner beside the box is no neighbour, however the path leans."""
    geometry, _ = judged(tooth, seed)
    assert isinstance(geometry.cut, CavityCut)
    (box,) = geometry.cut.boxes
    scene = Scene.of(recipe_of(tooth, seed))
    points = move(np.linalg.inv(scene.to_prep), geometry.line.points)
    true = float(scene.teeth[neighbour](points).min())
    assert box.contact_clearance_mm == pytest.approx(true, abs=0.09 + SCANNER_FILLS_MM)


def proven(judgement: Judgement) -> set[tuple[str, str]]:
    return {(v.criterion, v.zone) for v in judgement.verdicts if v.status in ("short", "over", "undercut")}


@pytest.mark.parametrize("seed", first(1, 14, 3))
@pytest.mark.long
def test_the_sound_gold_inlay_has_no_fault(seed: int) -> None:
    """Narrow, near parallel, deep enough, clear of the neighbour: nothing is proven against it."""
    assert proven(judged("14", seed)[1]) == set()


@pytest.mark.long
def test_the_onlay_s_faults_are_those_of_its_story() -> None:
    """A thin cusp left standing, a wall that hangs over, a box too near to the neighbour."""
    told = proven(judged("46", 46)[1])
    wanted = [("cusp-thickness", "mesiolingual"), ("contact-clearance", "box/mesial"), ("undercut", "wall/lingual")]
    assert told.issuperset(wanted)
