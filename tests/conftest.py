"""Scans and measurements shared by many tests, made once a run."""

from __future__ import annotations

import sys
from dataclasses import replace
from pathlib import Path

import pytest

sys.path.insert(0, str(Path(__file__).parent))

from solids import Stump, facing

from vane_line.core.case import Geometry, measure
from vane_line.core.files import Measurement, measure_files
from vane_line.core.options import Options
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.cases import MadeCase, make_case, sound_recipe, timid_first_molar, tipped_second_molar, write_case

COARSE_MM = 0.2  # of demo scans in tests: quicker to make, still an intraoral scan's resolution


@pytest.fixture(scope="session")
def stump() -> Stump:
    """The plain solid most tests measure: 6 degrees of taper, a ledge 1.0 wide, 1.5 off the top."""
    return Stump(noise_um=8)


@pytest.fixture(scope="session")
def stump_geometry(stump: Stump) -> Geometry:
    """Its measurement with an earlier scan in place and an opposing plate 1.0 above it."""
    return measure(stump.scans(clearance_mm=1.0), facing(ToothNumber("36")))


@pytest.fixture(scope="session")
def demo_case() -> MadeCase:
    """The demo's first molar, first attempt, as the demo makes it."""
    return make_case(timid_first_molar(1))


@pytest.fixture(scope="session")
def demo_files(demo_case: MadeCase, tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """Its scan files by role."""
    return write_case(demo_case, tmp_path_factory.mktemp("demo"))


@pytest.fixture(scope="session")
def demo_measured(demo_files: dict[str, Path]) -> Measurement:
    """Its measurement by lithium disilicate, bonded."""
    options = Options(ToothNumber("36"), opposing_frame="preop")
    return measure_files(dict(demo_files), options, "lithium-disilicate")


@pytest.fixture(scope="session")
def tipped_case() -> MadeCase:
    """The demo's second molar that leans into a closed gap."""
    recipe = tipped_second_molar()
    return make_case(replace(recipe, scan=replace(recipe.scan, grid_mm=COARSE_MM)))


@pytest.fixture(scope="session")
def tipped_files(tipped_case: MadeCase, tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """Its scan files by role."""
    return write_case(tipped_case, tmp_path_factory.mktemp("tipped"))


@pytest.fixture(scope="session")
def other_teeth() -> dict[str, MadeCase]:
    """Sound preparations on other teeth, sides and jaws, coarser and in other units."""
    recipes = {
        "16": sound_recipe("16", "zirconia", seed=16),
        "45": sound_recipe("45", "zirconia", seed=45, mm_per_unit=25.4, tooth_scale=0.95),
    }
    return {
        tooth: make_case(replace(recipe, scan=replace(recipe.scan, grid_mm=COARSE_MM)))
        for tooth, recipe in recipes.items()
    }
