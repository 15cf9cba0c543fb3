"""The veneer that wraps over a premolar's facial cusp in crossbite: what was cut is what is measured."""

from __future__ import annotations

import numpy as np
import pytest
from made import demo_made

from vane_line.core.case import measure
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.kinds.window import WindowCut
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.anatomy import Tooth
from vane_line.demo.recipes import crossed_premolar

TOOTH = ToothNumber("24")


def test_a_level_cut_goes_over_the_facial_cusp_alone() -> None:
    """Down to its level facial of where it ends; the other cusp and what lies behind stay."""
    recipe = crossed_premolar()
    assert recipe.face is not None
    tooth = Tooth("14", cusp_height_mm=dict(recipe.taller_mm))
    cut, level, (x, y, _) = recipe.face(tooth), recipe.face.level(tooth), tooth.cusps["facial"]
    inner = tooth.cusps["lingual"]
    assert cut(np.array([[x, y, level + 0.1], [x, y, level - 0.3]])).tolist() == pytest.approx([0.1, -0.3], abs=0.25)
    assert cut(np.array([[inner[0], inner[1], inner[2] - 0.3]]))[0] < 0


@pytest.mark.long
def test_it_is_seen_as_wrapped_over_a_cusp_that_works() -> None:
    """The facial cusp is told to be the one that bites; its loss and the thirds are the bur's; nothing is at fault but
    what lies beside its limit."""
    case = demo_made("SM-0283")
    options = Options(TOOTH, restoration="veneer", opposing_frame="preop")
    geometry = measure(Scans(case.prep, case.preop, None, case.opposing), options)
    found, cut = judge(geometry, choose("lithium-disilicate", "veneer", None, TOOTH)), geometry.cut
    assert isinstance(cut, WindowCut)
    assert (geometry.functional.side, geometry.functional.source) == ("facial", "opposing")
    assert cut.incisal is not None
    assert cut.incisal.form == "wrap"
    recipe = crossed_premolar()
    assert recipe.face is not None
    tooth = Tooth("14", cusp_height_mm=dict(recipe.taller_mm))
    x, y, _ = tooth.cusps["facial"]
    top = float(tooth.occlusal_height(np.array([x]), np.array([y]))[0])  # the drawn ridge is rounded over the tip
    assert cut.incisal.reduction_mm == pytest.approx(top - recipe.face.level(tooth), abs=0.15)
    assert found.removed is not None
    for third, made_mm in zip(("cervical", "middle", "incisal"), case.truth["thirds_mm"], strict=True):
        removed = next(z.median_mm for z in found.removed.zones if z.zone == f"facial/{third}")
        assert removed == pytest.approx(made_mm, abs=0.08)
    assert [(v.criterion, v.zone) for v in found.verdicts if v.status in ("short", "over")] == []
