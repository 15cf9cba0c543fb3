"""Scans and measurements shared by many tests, made once a run."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings
from xdist.scheduler import LoadFileScheduling

# The test processes fill the cores by themselves, and so do the servers that they start.
os.environ.setdefault("OMP_NUM_THREADS", "1")
os.environ.setdefault("IGL_NUM_THREADS", "1")

sys.path.insert(0, str(Path(__file__).parent))
sys.path.insert(0, str(Path(__file__).parents[1] / "bench"))  # what is timed there in full is tested here in part

from kept import kept
from made import coarse, demo_made, kept_case
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher
from solids import Stump, facing

from vane_line.core.apart import alone
from vane_line.core.case import Geometry, measure
from vane_line.core.files import Measurement, measure_files
from vane_line.core.options import Options
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.burs import OcclusalCut
from vane_line.demo.cases import MadeCase, write_scans
from vane_line.demo.recipes import sound_recipe, timid_first_molar
from vane_line.service import people

# On a busy machine any example may take any time.
settings.register_profile("whatever the clock says", deadline=None)
settings.load_profile("whatever the clock says")


class ByFile(LoadFileScheduling):
    """A file's tests share what they make, and all of the interface's share one server: each on one process."""

    def _split_scope(self, nodeid: str) -> str:
        return "interface" if nodeid.startswith("tests/web/") else str(super()._split_scope(nodeid))


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The interface's first: they are one long share of the work, and begun last they would leave a core idle."""
    items.sort(key=lambda item: not item.nodeid.startswith("tests/web/"))


def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> ByFile:
    """Called by xdist, for `--dist loadfile`."""
    return ByFile(config, log)


def shared(factory: pytest.TempPathFactory, name: str, make: Callable[[], Any]) -> Any:
    """What `make` gives, made once a run and handed to every test process by a file."""
    base = factory.getbasetemp()
    return kept(name, make, base.parent if os.environ.get("PYTEST_XDIST_WORKER") else base)


@pytest.fixture(scope="session", autouse=True)
def _one_core() -> Iterator[None]:
    """Each worker keeps to a core of its own: there are as many. What is shared out has its own tests."""
    with alone():
        yield


@pytest.fixture(scope="session", autouse=True)
def kept_hasher() -> Iterator[PasswordHash]:
    """What passwords are kept by outside the tests. In them the same function does next to no work: a fifth of a second
    each adds up."""
    kept, light = people._hasher(), PasswordHash((Argon2Hasher(time_cost=1, memory_cost=1024, parallelism=1),))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(people, "_hasher", lambda: light)
        yield kept


@pytest.fixture(scope="session")
def stump() -> Stump:
    """The plain solid most tests measure: 6 degrees of taper, a ledge 1.0 wide, 1.5 off the top."""
    return Stump(noise_um=8)


@pytest.fixture(scope="session")
def stump_geometry(stump: Stump, tmp_path_factory: pytest.TempPathFactory) -> Geometry:
    """Its measurement with an earlier scan in place and an opposing plate 1.0 above it."""
    geometry: Geometry = shared(
        tmp_path_factory, "stump", lambda: measure(stump.scans(clearance_mm=1.0), facing(ToothNumber("36")))
    )
    return geometry


@pytest.fixture(scope="session")
def demo_case() -> MadeCase:
    """The demo's first molar, first attempt."""
    return demo_made("SM-0147")


@pytest.fixture(scope="session")
def demo_files(demo_case: MadeCase, tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """Its scan files by role."""
    return write_scans(demo_case, tmp_path_factory.mktemp("demo"))


@pytest.fixture(scope="session")
def demo_measured(demo_files: dict[str, Path], tmp_path_factory: pytest.TempPathFactory) -> Measurement:
    """Its measurement by lithium disilicate, bonded."""
    options = Options(ToothNumber("36"), opposing_frame="preop")
    measured: Measurement = shared(
        tmp_path_factory, "demo-36-measured", lambda: measure_files(dict(demo_files), options, "lithium-disilicate")
    )
    return measured


@pytest.fixture(scope="session")
def fine_case() -> MadeCase:
    """The same tooth as finely scanned as in the demo: where it is held against the exact shapes."""
    return kept_case("demo-36", timid_first_molar(1))


@pytest.fixture(scope="session")
def fine_measured(fine_case: MadeCase, tmp_path_factory: pytest.TempPathFactory) -> Measurement:
    """Its measurement for lithium disilicate."""
    files = write_scans(fine_case, tmp_path_factory.mktemp("fine"))
    return measure_files(dict(files), Options(ToothNumber("36"), opposing_frame="preop"), "lithium-disilicate")


@pytest.fixture(scope="session")
def tipped_case() -> MadeCase:
    """The demo's second molar that leans into a closed gap."""
    return demo_made("SM-0212")


@pytest.fixture(scope="session")
def tipped_files(tipped_case: MadeCase, tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """Its scan files by role."""
    return write_scans(tipped_case, tmp_path_factory.mktemp("tipped"))


@pytest.fixture(scope="session")
def other_teeth() -> Callable[[str], MadeCase]:
    """Sound preparations on other teeth, sides and jaws, coarser and in other units, by number."""
    # Straight strokes leave the side of a convex cusp short: cut a little deeper all over, it is not.
    even = OcclusalCut({"other": 1.7})
    recipes = {
        "16": sound_recipe("16", "zirconia", seed=16, occlusal=even),
        "45": sound_recipe("45", "zirconia", seed=45, mm_per_unit=25.4, tooth_scale=0.95),
    }

    def made(tooth: str) -> MadeCase:
        recipe = recipes[tooth]
        return kept_case(f"even-{tooth}", coarse(recipe))

    return made


@pytest.fixture(scope="session")
def incisor_case() -> MadeCase:
    """The demo's lower lateral incisor with its old crown."""
    return demo_made("SM-0231")


@pytest.fixture(scope="session")
def premolar_case() -> MadeCase:
    """The demo's worn upper premolar with a core."""
    return demo_made("SM-0198")
