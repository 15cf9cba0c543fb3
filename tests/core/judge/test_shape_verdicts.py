"""Verdicts of walls, path and finish line: each fault is named where it is, and a sound preparation has none."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from types import SimpleNamespace
from typing import cast

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.case import Geometry, measure
from vane_line.core.judge.criteria import where
from vane_line.core.judge.criteria.line import fits_form
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.limits import general
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.verdicts import Verdict
from vane_line.core.measure.line_form import LineForm
from vane_line.core.mesh.quality import COARSE_EDGE_MM
from vane_line.core.tooth.notation import ToothNumber

SOUND = {"fillet_mm": 0.4, "width_mm": 0.8, "top_mm": 7.4, "noise_um": 8.0, "taper_deg": 5.0, "grid_mm": 0.19}


@lru_cache(maxsize=4)
def measured(tooth: str = "36", **changes: object) -> Geometry:
    stump = Stump(**{**SOUND, **changes})  # type: ignore[arg-type]
    return measure(stump.scans(), facing(ToothNumber(tooth)))


def verdicts(geometry: Geometry, material: str = "zirconia") -> list[Verdict]:
    return judge(geometry, choose(material, "full-crown")).verdicts


def faults(geometry: Geometry, material: str = "zirconia") -> set[tuple[str, str]]:
    return {(v.criterion, v.zone) for v in verdicts(geometry, material) if v.status in ("short", "over")}


@pytest.mark.long
@pytest.mark.parametrize("seed", [0, 1])
def test_a_sound_preparation_has_no_fault(seed: int) -> None:
    """Other seeds of noise, other sizes: nothing is proven short or over, but the solid's sharp upper edge."""
    size = 4.8 + 0.2 * seed
    found = faults(measured(seed=seed, facial_mm=size, mesial_mm=5.2 - 0.1 * seed, grid_mm=0.16 + 0.02 * seed))
    assert found == {("edge-radius", "overall")}


@pytest.mark.long
def test_tapered_walls_are_over_and_parallel_ones_under_goodacre_s_limits() -> None:
    """Goodacre et al., J Prosthet Dent 2001;85:363-376 (from memory): 10 to 20 accepted; warned above 20, under 4."""
    assert (general()["convergence"].min, general()["convergence"].max) == (4.0, 20.0)
    both = {("convergence", "faciolingual"), ("convergence", "mesiodistal")}
    assert both <= faults(measured(taper_deg=14.0))
    rows = [v for v in verdicts(measured(taper_deg=0.8)) if v.criterion == "convergence" and v.status == "short"]
    assert {v.zone for v in rows} == {"faciolingual", "mesiodistal"}


@pytest.mark.long
def test_a_short_molar_is_short_by_goodacre_s_heights() -> None:
    """Goodacre 2001 (from memory): 4 mm for molars, 3 for others, height to width at least 0.4."""
    assert (general()["wall-height-molar"].min, general()["wall-height"].min) == (4.0, 3.0)
    assert general()["height-to-width"].min == 0.4
    low = measured(top_mm=6.0)
    assert {("wall-height", "overall"), ("resistance", "overall")} <= faults(low)
    premolar = measured("35", facial_mm=4.2, mesial_mm=3.8, top_mm=6.5)
    assert ("wall-height", "overall") not in faults(premolar)


@pytest.mark.long
def test_a_narrow_and_a_wide_edge() -> None:
    """0.3 is short of zirconia's 0.5, 1.3 over its 1.0, on every side, with the place."""
    narrow = [v for v in verdicts(measured(width_mm=0.3, fillet_mm=0.15)) if v.criterion == "finish-line-width"]
    assert {v.zone for v in narrow if v.status == "short"} == {"facial", "mesial", "lingual", "distal"}
    assert all(v.at is not None for v in narrow)
    wide = measured(width_mm=1.3)
    assert ("finish-line-width", "facial") in faults(wide)
    assert ("tooth-removed", "wall/facial/middle") in faults(wide)


@pytest.mark.long
def test_a_sharp_inner_corner_is_not_what_ceramic_wants() -> None:
    """A shoulder with no radius: wrong for zirconia; said which form it is and which is wanted."""
    sharp = measured(fillet_mm=0.0, grid_mm=0.12)
    assert ("finish-line-form", "facial") in faults(sharp)
    why = next(v.why for v in verdicts(sharp) if v.criterion == "finish-line-form")
    assert "mostly shoulder" in why
    assert "rounded shoulder" in why


@pytest.mark.long
def test_metal_ceramic_wants_another_form_on_each_side() -> None:
    """A shoulder facially, a chamfer lingually: one form all round cannot satisfy both."""
    found = faults(measured(fillet_mm=0.0, width_mm=1.2), "metal-ceramic")
    assert ("finish-line-form", "lingual") in found
    assert ("finish-line-form", "facial") not in found


def test_a_step_and_an_undercut_are_said_where_they_are() -> None:
    """A step of 0.4 at 195 degrees is lingual; a wall that leans back distally is undercut there."""
    stepped = measured(line_mm=lambda a: 1.6 + 0.4 * ((a > 192) & (a < 257)))
    assert ("finish-line-step", "lingual") in faults(stepped)
    lean = measured(taper_deg=lambda a: np.where(np.abs(a - 270) < 7, -4.0, 5.0))
    assert ("undercut", "distal") in faults(lean)


@pytest.mark.long
def test_a_slender_stump_warns_of_what_remains() -> None:
    """Under half of the tooth's width at the finish line."""
    thin = measured(facial_mm=3.2, mesial_mm=3.2, width_mm=1.7, top_mm=6.8)
    assert ("remaining-width", "overall") in faults(thin)


@pytest.mark.long
def test_what_no_scan_shows_is_not_measured_with_its_reason() -> None:
    """The gingiva's line without an earlier scan, and a core's border."""
    alone = measure(Stump().scans(reference=False), facing(ToothNumber("36"), near=np.array([0.5, 0.3, 5.0])))
    rows = {v.criterion: v for v in verdicts(alone)}
    assert rows["margin-height"].status == "not-measured"
    assert "gingiva" in rows["margin-height"].why
    rows = {v.criterion: v for v in verdicts(measured())}
    assert "core" in rows["ferrule"].why
    assert rows["path-blocked"].status == "meets"


@pytest.mark.long
def test_forms_near_a_limit_are_given_the_benefit_of_the_doubt() -> None:
    """An inner radius of 0.15 is not proven sharp; a plain 0.02 is."""
    form = measured(fillet_mm=0.0).ring.shape.form
    k = int(np.flatnonzero(form.form == "shoulder")[0])
    form.inner_radius_mm[k] = 0.15
    assert fits_form(form, k, ("rounded-shoulder",))
    form.inner_radius_mm[k] = 0.02
    assert not fits_form(form, k, ("rounded-shoulder",))
    assert fits_form(form, k, ("shoulder",))


@pytest.mark.parametrize(
    ("name", "wanted", "flat", "width", "cavosurface", "fits"),
    [
        ("chamfer", "rounded-shoulder", 0.22, 0.5, 95, True), ("chamfer", "rounded-shoulder", 0.05, 0.5, 95, False),
        ("chamfer", "heavy-chamfer", 0.22, 0.5, 95, False), ("chamfer", "heavy-chamfer", 0.05, 0.75, 95, True),
        ("rounded-shoulder", "chamfer", 0.40, 0.5, 95, True), ("rounded-shoulder", "chamfer", 0.60, 0.5, 95, False),
        ("rounded-shoulder", "heavy-chamfer", 0.40, 0.5, 95, False),
        ("sloped-shoulder", "rounded-shoulder", 0.60, 0.8, 108, True),
        ("sloped-shoulder", "rounded-shoulder", 0.60, 0.8, 115, False),
        ("sloped-shoulder", "chamfer", 0.35, 0.5, 115, True),
    ],
)  # fmt: skip
def test_a_form_counts_as_either_only_beside_its_own_limit(
    name: str, wanted: str, flat: float, width: float, cavosurface: float, fits: bool
) -> None:
    """Where about a third of the ledge is flat a chamfer and a rounded corner are not told apart; nor is a ledge that
    slopes by little from a level one."""
    told = {
        "form": [name], "flat_share": [flat], "width_mm": [width], "cavosurface_deg": [cavosurface],
        "inner_radius_mm": [0.4],
    }  # fmt: skip
    form = SimpleNamespace(**{key: np.array(value) for key, value in told.items()})
    assert fits_form(cast(LineForm, form), 0, (wanted,)) == fits


@pytest.mark.long
def test_where_a_wall_begins_counts_into_what_is_said_beside_it() -> None:
    """Walls behind a front tooth that slope as the hollow above them may: the hollow's greatest reduction hangs on
    which of their places count to it, and says so; beside steep walls it does not."""
    u = {}
    for taper in (3.0, 14.0):
        stump = Stump(taper_deg=taper, width_mm=1.3, occlusal_mm=0.6, noise_um=4)
        options = replace(facing(ToothNumber("11")), near=np.array([0.0, 0, 5]))
        told = judge(measure(stump.scans(), options), choose("zirconia", "full-crown"))
        assert told.removed is not None
        u[taper] = told.removed.u_high("lingual-fossa")
    assert u[3.0] < 0.05
    assert u[14.0] > 0.15


@pytest.mark.parametrize(
    ("criterion", "zone", "said"),
    [
        ("finish-line-step", "distolingual", "distopalatal finish line"),
        ("undercut", "mesiofacial", "mesiofacial wall"),
        ("path-blocked", "mesial", "mesial neighbour"),
        ("reduction", "functional-cusp/lingual", "palatal cusp"),
        ("convergence", "faciolingual", "faciolingual"),
    ],
)
def test_places_in_a_practitioner_s_words(criterion: str, zone: str, said: str) -> None:
    """Sides and sectors are named by what is judged there."""
    assert where(criterion, zone, "palatal") == said


@pytest.mark.long
def test_on_a_coarse_scan_the_ledge_s_form_is_not_judged_and_no_step_is_invented() -> None:
    """Edges of 0.34 mm on a sound preparation: said, the form left open, still nothing short or over."""
    geometry = measured(grid_mm=0.34, noise_um=10.0, seed=4)
    assert geometry.edge_mm > COARSE_EDGE_MM
    assert any("coarse" in warning for warning in geometry.warnings)
    forms = [v for v in verdicts(geometry) if v.criterion == "finish-line-form"]
    assert forms
    assert {v.status for v in forms} == {"not-measured"}
    assert all("finer" in v.why for v in forms)
    assert faults(geometry) <= {("edge-radius", "overall")}
    step = next(v for v in verdicts(geometry) if v.criterion == "finish-line-step")
    assert step.U > next(v for v in verdicts(measured()) if v.criterion == "finish-line-step").U
