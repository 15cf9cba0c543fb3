"""Which material a tooth can take: tooth to cut counted against closed forms, the order of the table, what is unmet."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.burs import generic
from vane_line.core.contract.decision import DecisionDocument
from vane_line.core.judge.standard_choice import serving
from vane_line.core.judge.standard_files import built_in
from vane_line.core.plan.decide import RAISE_HELPS, Crown, Row, decide, decision_document
from vane_line.core.plan.plan import Ground, PlanOptions
from vane_line.core.plan.planner import find_ground
from vane_line.core.tooth.notation import ToothNumber

TOOTH = ToothNumber("36")
STUMP = Stump(facial_mm=4.9, mesial_mm=5.2, grid_mm=0.22, seed=71)
SHORT = Stump(facial_mm=4.9, mesial_mm=5.2, grid_mm=0.22, seed=71, top_mm=4.6)
ASKED = ("full-metal", "zirconia-usual", "metal-ceramic-textbook")


def options() -> PlanOptions:
    return PlanOptions(facing(TOOTH, near=np.array([0.0, 0, 6.5])))


@cache
def ground() -> Ground:
    return find_ground(STUMP.preop(), STUMP.opposing(STUMP.occlusal_mm), options())


def rows(stump: Stump) -> list[Row]:
    chosen = [built_in()[name] for name in ASKED]
    near = replace(options(), case=replace(options().case, near=np.array([0.0, 0, stump.top_mm - 0.5])))
    return decide(stump.preop(), stump.opposing(stump.occlusal_mm), near, chosen, generic())


def test_the_same_jaw_given_as_the_opposing_one_is_left_out_and_said() -> None:
    found = find_ground(STUMP.preop(), STUMP.preop(), options())
    assert found.opposing is None
    assert any("prepared jaw" in said for said in found.warnings)
    assert not any("prepared jaw" in said for said in ground().warnings)


def test_tooth_to_cut_is_what_lies_between_tooth_and_target() -> None:
    """An elliptical cylinder over a line cut down to the stump: volumes of cylinder and frustum in closed form."""
    found = ground()
    level = float(found.line.height.mean())
    up = float(found.axes.origin @ [0, 0, 1])
    line, top = level + up, STUMP.top_mm
    whole = np.pi * STUMP.facial_mm * STUMP.mesial_mm * (top - line)
    body = Stump(facial_mm=4.9, mesial_mm=5.2, grid_mm=0.22, line_mm=line, taper_deg=5.0)
    a, b, high = body.facial_mm - 1.0, body.mesial_mm - 1.0, top - 1.5 - line
    lean = np.tan(np.radians(5.0))
    # Of a frustum whose radii shrink by `lean` a millimetre: the integral of pi (a - lean z)(b - lean z).
    stays = np.pi * (a * b * high - (a + b) * lean * high**2 / 2 + lean**2 * high**3 / 3)
    target = body.scanned(body.cut)
    crown = Crown.of(found)
    assert crown.cut_mm3(target) == pytest.approx(whole - stays, rel=0.04)
    assert crown.cut_mm3(body.scanned(body.tooth)) == pytest.approx(0.0, abs=0.02 * whole)


@pytest.mark.long
def test_the_least_tooth_comes_first_and_a_sound_molar_takes_them_all() -> None:
    table = rows(STUMP)
    cut = [r.cut_mm3 for r in table]
    assert cut == sorted(cut)  # type: ignore[type-var]
    as_it_is = {r.standard.id: r for r in table if r.raised is None}
    assert list(as_it_is) == ["full-metal", "zirconia-usual", "metal-ceramic-textbook"]
    left = [r.left_mm for r in as_it_is.values()]
    assert left[0] > left[1] > left[2]  # type: ignore[operator]
    assert as_it_is["zirconia-usual"].meets
    raised = {r.standard.id for r in table if r.raised is not None}
    short = {name for name, r in as_it_is.items() if any(u.criterion in RAISE_HELPS for u in r.unmet)}
    assert raised == short  # tried where more room would help
    assert all("room over" in u.words for u in as_it_is["full-metal"].unmet)


@pytest.mark.long
def test_a_short_tooth_is_told_and_raised() -> None:
    """Walls too short as the bite is; the same with the bite raised stands beside it, with more wall and less cut."""
    table = rows(SHORT)
    metal = {r.raised is not None: r for r in table if r.standard.id == "metal-ceramic-textbook"}
    assert not metal[False].meets
    assert any(u.criterion == "wall-height" and "short" in u.words for u in metal[False].unmet)
    assert metal[True].wall_mm is not None
    assert metal[False].wall_mm is not None
    assert metal[True].wall_mm > metal[False].wall_mm + 0.5
    assert metal[True].cut_mm3 < metal[False].cut_mm3  # type: ignore[operator]
    made = decision_document(table, options())
    again = DecisionDocument.model_validate(made)
    assert again.rows[0].cut_mm3 == min(r.cut_mm3 for r in again.rows if r.cut_mm3 is not None)
    assert {r.way for r in again.rows} == {"as-it-is", "raised"}


def test_an_old_crown_tells_no_tooth_to_cut() -> None:
    """Its form is not kept: no target, and the reason in words."""
    case = replace(options().case, earlier="old-crown")
    (row,) = decide(STUMP.preop(), None, replace(options(), case=case), [built_in()["full-metal"]], generic())
    assert row.cut_mm3 is None
    assert not row.meets
    assert "old crown" in row.why


def test_each_material_s_usual_standard_is_compared_and_the_surgery_s_own() -> None:
    """Of those for the tooth and its kind, and no other's."""
    every = serving(built_in().values(), TOOTH, "full-crown")
    assert {s.teeth for s in every} == {"back"}
    assert len({s.material for s in every}) == len(every)
    assert len(every) == 9
    mine = replace(built_in()["zirconia-thin"], id="ours")
    assert "ours" in {s.id for s in serving([*built_in().values(), mine], TOOTH, "full-crown")}
    assert [s.id for s in serving(built_in().values(), ToothNumber("11"), "pin-casting")] == ["pin-full-metal"]
    assert serving(built_in().values(), ToothNumber("55"), "full-crown") == []
