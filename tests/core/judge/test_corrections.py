"""The worklist: done exactly as it says an under-cut molar meets; what would harm a wall is refused with its reason."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.burs import generic
from vane_line.core.case import Geometry, measure
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.work import HAND_MM, STAGES, Correction
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.burs import OcclusalCut
from vane_line.demo.recipes import Recipe, sound_recipe
from vane_line.demo.scene import Scene

TOOTH = ToothNumber("36")
SHALLOW = {"distolingual": 0.35, "facial-groove": 0.7, "mesiofacial": 1.0, "other": 1.65}


def recipe(depth: dict[str, float]) -> Recipe:
    made = sound_recipe("36", "lithium-disilicate", seed=91, bite_with="preop", earlier_seed=91)
    return replace(made, occlusal=OcclusalCut(depth), edge_round_mm=0.4, scan=replace(made.scan, grid_mm=0.15))


def judged(scans: Scans, material: str = "lithium-disilicate") -> tuple[Geometry, Judgement]:
    geometry = measure(scans, Options(TOOTH, opposing_frame="preop"))
    return geometry, judge(geometry, choose(material, "full-crown"))


@pytest.mark.long
def test_an_under_cut_molar_corrected_just_as_the_worklist_says_meets() -> None:
    """Each site is cut deeper by its amount to target, with the same burs; then every one of them meets; of the groove,
    whose bottom a scan does not resolve, no lack is left."""
    scene = Scene.of(recipe(SHALLOW))
    first = Scans(scene.prep(), scene.preop(), None, scene.opposing())
    _, before = judged(first)
    occlusal = [c for c in before.corrections if c.stage == "occlusal" and not c.refused]
    assert {"distolingual", "facial-groove"} <= {site_of(c) for c in occlusal}
    depth = dict(SHALLOW)
    for c in occlusal:
        site = site_of(c)
        assert c.to_target_mm is not None
        assert c.to_target_mm >= HAND_MM
        assert c.bur
        if site in SHALLOW or "cusp" in c.key:
            depth[site] = depth.get(site, SHALLOW["other"]) + c.to_target_mm
    _, after = judged(replace(first, prep=Scene.of(recipe(depth)).prep()))
    zones = {c.key.split("|")[1] for c in occlusal}
    mended = [v for v in after.verdicts if v.criterion == "reduction" and v.bound == "min" and v.zone in zones]
    assert mended
    groove = next(v for v in mended if v.zone == "facial-groove")
    assert groove.value is not None
    assert groove.limit is not None
    assert groove.value > groove.limit
    assert [(v.zone, v.value, v.status) for v in mended if v.status != "meets" and v is not groove] == []
    assert not any(v.status == "over" for v in after.verdicts if v.criterion == "reduction")


def site_of(c: Correction) -> str:
    """The simulated bur's name of a correction's place."""
    zone = c.key.split("|")[1]
    return zone.split("/")[1] if "cusp/" in zone else zone


@lru_cache(maxsize=8)
def of_stump(stump: Stump, material: str = "zirconia", clearance: float | None = None) -> list[Correction]:
    geometry = measure(stump.scans(clearance_mm=clearance), facing(TOOTH, near=np.array([0.0, 0, 5])))
    return judge(geometry, choose(material, "full-crown")).corrections


@pytest.mark.long
def test_a_stroke_that_would_over_taper_a_wall_is_refused_with_its_reason() -> None:
    """Walls of 9 degrees each with too little off the facial one: a third alone would open it over 20."""
    thin = Stump(width_mm=lambda a: np.where(np.minimum(a, 360 - a) < 50, 0.25, 1.0), taper_deg=9.0, seed=92)
    rows = [c for c in of_stump(thin) if c.stage == "wall" and c.where.startswith("facial wall")]
    assert rows
    refused = [c for c in rows if c.refused]
    assert refused
    assert "convergence" in refused[0].refused
    assert "finish line" in refused[0].refused  # and what to do instead
    order = [bool(c.refused) for c in of_stump(thin)]
    assert order == sorted(order)  # what is refused comes after what can be done


@pytest.mark.long
def test_an_undercut_on_a_tapered_tooth_is_not_cut_away_but_gone_round() -> None:
    """Removing it would over-taper: tilt the path or block it out, and why."""

    def scoop(p: np.ndarray) -> np.ndarray:
        off = np.hypot(p[:, 1] - 4.55, p[:, 2] - 2.9) - 1.2
        return off + 10.0 * ((np.abs(p[:, 0]) > 1.3) | (p[:, 1] < 0))

    stump = Stump(taper_deg=9.0, extra=scoop, seed=93)
    geometry = measure(stump.scans(), facing(TOOTH, near=np.array([0.0, 0, 5]), path=np.array([0.0, 0, 1])))
    rows = [c for c in judge(geometry, choose("zirconia", "full-crown")).corrections if c.stage == "undercut"]
    assert len(rows) == 1
    assert "convergence" in rows[0].refused
    assert "block it out" in rows[0].refused


@pytest.mark.long
def test_the_opposing_tooth_is_the_way_out_where_this_one_is_cut_enough() -> None:
    """1.5 taken off and still 0.6 to the opposing tooth: by 0.4, planned and agreed; this tooth is left alone."""
    rows = [c for c in of_stump(Stump(seed=94), clearance=0.6) if c.stage == "other" and "opposing" in c.do]
    assert rows
    assert all("agreed" in c.do and "never improvised" in c.do for c in rows)
    assert rows[0].to_min_mm == pytest.approx(0.4, abs=0.06)
    assert not [c for c in of_stump(Stump(seed=94), clearance=0.6) if c.stage == "occlusal"]


def test_the_worklist_s_order_words_and_burs() -> None:
    """Occlusal first, finish last; numbered; a step is moved apically, each place once."""
    step = Stump(line_mm=lambda a: 1.6 + 0.5 * ((a > 192) & (a < 257)), seed=95, occlusal_mm=0.6)
    rows = of_stump(step, "lithium-disilicate")
    assert [c.order for c in rows] == list(range(1, len(rows) + 1))
    stages = [STAGES.index(c.stage) for c in rows if not c.refused]
    assert stages == sorted(stages)
    assert len({(c.stage, c.where) for c in rows}) == len(rows)
    moved = [c for c in rows if c.do.startswith("move the higher stretch apically")]
    assert moved
    assert moved[0].to_min_mm == pytest.approx(0.5, abs=0.08)
    assert any("round the edges" in c.do for c in rows)
    assert all(c.bur for c in rows if c.stage == "occlusal")


@pytest.mark.long
def test_corrections_name_the_burs_of_the_tray() -> None:
    """With one ball in the tray no other bur is named."""
    ball = tuple(b for b in generic() if b.id in ("ball-010", "round-end-taper-016-fine"))
    geometry = measure(Stump(seed=96, occlusal_mm=0.4).scans(), facing(TOOTH))
    rows = judge(geometry, choose("zirconia", "full-crown"), ball).corrections
    burs = {c.bur for c in rows if c.stage == "occlusal"}
    assert burs
    assert all(b.startswith("ball, 1.0 (010)") for b in burs)
