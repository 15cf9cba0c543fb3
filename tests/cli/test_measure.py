"""The command line's contract: exit codes, one line on stderr, files whole or not at all."""

from __future__ import annotations

import hashlib
import json
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from solids import Stump, turned

import vane_line
from vane_line.cli.demo import TEETH as DEMO_TEETH
from vane_line.cli.main import joined, main
from vane_line.cli.measure import KINDS, MATERIALS
from vane_line.core import kinds
from vane_line.core.judge.standard_choice import CHILD_DEFAULTS, DEFAULTS
from vane_line.core.mesh.surface import merge
from vane_line.core.mesh.write import write_surface
from vane_line.demo.saltmarsh import SALTMARSH
from vane_line.demo.scanner import stray_piece

STUMP = Stump(grid_mm=0.22, noise_um=6, seed=5)
COMMON = ["measure", "--tooth", "36", "--restoration", "full-crown", "--material", "zirconia"]
AXES = ["--occlusal", "0,0,1", "--facial", "0,1,0"]


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    folder = tmp_path_factory.mktemp("cli")
    other = Stump(grid_mm=0.24, mesial_mm=3.4, facial_mm=4.4, top_mm=5.4, gap_mm=2.6, seed=3).preop()
    surfaces = {
        "prep": STUMP.prep(), "preop": STUMP.preop().moved(turned((1, 1, 0), 25, (3, 2, 1))),
        "opposing": STUMP.opposing(0.7), "stranger": other.with_vertices(other.vertices * [1.15, 0.85, 0.75]),
    }  # fmt: skip
    for name, surface in surfaces.items():
        write_surface(folder / f"{name}.stl", surface)
    return {name: str(folder / f"{name}.stl") for name in surfaces}


def run(capsys: pytest.CaptureFixture[str], *args: str) -> tuple[int, str, str]:
    try:
        code = main([*args])
    except SystemExit as stop:
        code = int(stop.code or 0)
    out, err = capsys.readouterr()
    return code, out, err


def test_measured_whatever_the_verdicts(
    files: dict[str, str], capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    """Exit 0; JSON and PLY written; a summary that ends with who decides; nothing on stderr."""
    target, mesh, page = tmp_path / "out.json", tmp_path / "out.ply", tmp_path / "SM-5.html"
    code, out, err = run(
        capsys, *COMMON, *AXES, "--prep", files["prep"], "--preop", files["preop"], "--opposing", files["opposing"],
        "--json", str(target), "--mesh", str(mesh), "--report", str(page),
    )  # fmt: skip
    assert (code, err) == (0, "")
    assert "The dentist decides" in out
    d = json.loads(target.read_text(encoding="utf-8"))
    assert d["alignment"]["preop"]["trusted"]
    assert d["clearance"]["overall"]["low_mm"] == pytest.approx(0.7, abs=0.03)
    short = [v["zone"] for v in d["verdicts"] if v["criterion"] == "clearance" and v["status"] == "short"]
    assert "functional-cusp/mesiofacial" in short
    head = mesh.read_bytes()[:600].decode("latin-1")
    assert "property float depth" in head
    assert "property float space" in head
    record = page.read_text(encoding="utf-8")
    assert "SM-5" in record
    assert hashlib.sha256(Path(files["prep"]).read_bytes()).hexdigest()[:16] in record
    assert sorted(p.name for p in tmp_path.iterdir()) == ["SM-5.html", "out.json", "out.ply"]


def test_json_on_standard_output_is_json_alone(files: dict[str, str]) -> None:
    """As a process of its own: stdout parses, stderr is empty, the exit code is nought."""
    command = [sys.executable, "-m", "vane_line", *COMMON, *AXES, "--prep", files["prep"], "--json", "-"]
    done = subprocess.run(command, capture_output=True, check=False, timeout=120)
    assert (done.returncode, done.stderr) == (0, b"")
    assert json.loads(done.stdout)["reduction"] is None


@pytest.mark.parametrize("target", [["--json", "-"], []], ids=["answer", "summary"])
def test_an_answer_that_cannot_be_written_is_said(files: dict[str, str], target: list[str]) -> None:
    """A full disk: one clear line and a code that is not nought, whether it shows in writing or at the very end."""
    command = [sys.executable, "-m", "vane_line", *COMMON, *AXES, "--prep", files["prep"], *target]
    with open("/dev/full", "wb") as full:
        done = subprocess.run(command, stdout=full, stderr=subprocess.PIPE, check=False, timeout=120)
    assert done.returncode == 1
    assert done.stderr.count(b"\n") == 1
    assert b"could not be written" in done.stderr


def test_scans_that_do_not_belong_together_exit_three(
    files: dict[str, str], capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    """One line says which file and what to do; the JSON is written all the same, dependents null."""
    target = tmp_path / "out.json"
    code, _, err = run(
        capsys, *COMMON, *AXES, "--prep", files["prep"], "--preop", files["stranger"], "--near", "0,0,5",
        "--json", str(target),
    )  # fmt: skip
    assert code == 3
    assert err.count("\n") == 1
    assert "stranger.stl" in err
    assert "not trusted" in err
    d = json.loads(target.read_text(encoding="utf-8"))
    assert not d["alignment"]["preop"]["trusted"]
    assert d["reduction"] is None
    assert d["tooth_removed"] is None
    assert {v["status"] for v in d["verdicts"] if v["criterion"] == "reduction"} == {"not-measured"}
    assert d["finish_line"]["closed"]


REFUSED = {
    "missing file": (["--prep", "none.stl"], "none.stl: there is no such file"),
    "no tooth of that number": (["--prep", "PREP", "--tooth", "91"], "11 to 48"),
    "a universal number as FDI": (["--prep", "PREP", "--tooth", "3"], "11 to 48"),
    "unknown material": (["--prep", "PREP", "--material", "gold"], "material gold"),
    "a standard of another material": (["--prep", "PREP", "--standard", "full-metal"], "full-metal"),
    "two numbers for a direction": (["--prep", "PREP", "--occlusal", "0,1"], "three numbers"),
    "a null direction": (["--prep", "PREP", "--path", "0,0,0"], "null"),
    "not a number": (["--prep", "PREP", "--near", "1,2,nan"], "three numbers"),
    "unknown option": (["--prep", "PREP", "--colour", "red"], "colour"),
    "raise": (["--prep", "PREP", "--raise", "1@moon"], "0.5@molar or 2@incisor"),
    "report in another format": (["--prep", "PREP", "--report", "a.doc"], ".pdf or .html"),
    "no folder for the report": (["--prep", "PREP", "--report", "/no/such/folder/a.pdf"], "folder"),
    "mesh not PLY": (["--prep", "PREP", "--mesh", "a.stl"], ".ply"),
    "no folder for the JSON": (["--prep", "PREP", "--json", "/no/such/folder/a.json"], "folder"),
    "JSON into a folder": (["--prep", "PREP", "--json", "/tmp"], "this is a folder"),
    "a name too long for a file": (["--prep", "PREP", "--json", "a" * 300], "shorter"),
    "a null byte in a name": (["--prep", "a\0b.stl"], "no such file"),
    "a raised bite without a bite": (["--prep", "PREP", "--raise", "0.5@molar"], "opposing scan too"),
    "a facial direction along the axis": (["--prep", "PREP", "--facial", "0,0,-1"], "across it"),
    "a unit that makes it huge": (["--prep", "PREP", "--units", "in"], "no mouth"),
    "same surface twice": (["--prep", "PREP", "--preop", "PREP"], "same surface"),
    "swapped": (["--prep", "PREOP", "--preop", "PREP"], "swapped"),
    "opposing in a frame that is not given": (
        ["--prep", "PREP", "--opposing", "OPPOSING", "--opposing-frame", "preop", "--near", "0,0,5"], "preop"),
}  # fmt: skip


@pytest.mark.parametrize("case", REFUSED)
def test_bad_usage_and_unusable_input_exit_two(
    files: dict[str, str], capsys: pytest.CaptureFixture[str], tmp_path: Path, case: str
) -> None:
    """One line on stderr, never a traceback, and no output file."""
    args, words = REFUSED[case]
    places = {"PREP": files["prep"], "PREOP": files["preop"], "OPPOSING": files["opposing"]}
    args = [places.get(a, a) for a in args]
    target = tmp_path / "out.json"
    extra = [] if "--json" in args else ["--json", str(target)]
    code, _, err = run(capsys, *COMMON, *AXES, *args, *extra)
    assert code == 2
    assert words in err
    assert err.count("\n") == 1
    assert "Traceback" not in err
    assert not target.exists()


def test_version_and_help_say_what_there_is(capsys: pytest.CaptureFixture[str]) -> None:
    """`--version` is one line; the help gives every option's values, and what the exit codes mean."""
    assert run(capsys, "--version") == (0, f"vane-line {vane_line.__version__}\n", "")
    code, out, _ = run(capsys, "measure", "--help")
    assert code == 0
    for words in ("lithium-disilicate", "{prep,preop}", "11 to 48", "MM@PLACE", "Exit 0"):
        assert words in out
    told = [line.split()[0] for line in out.splitlines() if line.startswith("  --")]
    assert set(MATERIALS) == {*DEFAULTS, *CHILD_DEFAULTS}
    assert KINDS.split(", ") == [kind.name for kind in kinds.every()]
    assert {"--prep", "--units", "--earlier", "--functional"} <= set(told)


def test_every_demo_case_can_be_made_as_files() -> None:
    """A new case of the clinic's is asked for by its tooth."""
    assert set(DEMO_TEETH) == {case.tooth for case in SALTMARSH}


def test_a_vector_may_begin_with_a_minus() -> None:
    """`--occlusal -1,0,0` as people write it, and `--occlusal=-1,0,0`."""
    assert joined(["measure", "--occlusal", "-1,0,0", "--near", "-.5,1,2", "--json", "-"]) == [
        "measure", "--occlusal=-1,0,0", "--near=-.5,1,2", "--json", "-",
    ]  # fmt: skip


@pytest.mark.long
def test_what_could_not_be_measured_is_said_on_the_terminal(
    files: dict[str, str], capsys: pytest.CaptureFixture[str]
) -> None:
    """An opposing scan that lies in the earlier scan's coordinates: no clearance, why, and what to say."""
    far = Path(files["prep"]).with_name("far.stl")
    write_surface(far, STUMP.opposing(0.7).moved(turned((1, 1, 0), 25, (90, 20, 1))))
    code, out, err = run(capsys, *COMMON, *AXES, "--prep", files["prep"], "--opposing", str(far), "--near", "0,0,5")
    assert (code, err) == (0, "")
    assert "not measured: reduction" in out
    assert "not measured: clearance" in out
    assert "opposing-frame preop" in out


def test_usage_without_a_preparation_is_two(capsys: pytest.CaptureFixture[str]) -> None:
    """What is missing is named."""
    code, _, err = run(capsys, *COMMON)
    assert code == 2
    assert "--prep" in err


@pytest.mark.long
def test_universal_numbers_units_and_a_loose_piece(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    """Universal 19, a file in inches, with a stray fold: FDI 36, recognised, left out, both said."""
    prep = merge([STUMP.prep(), stray_piece(np.array([30.0, 14, 12]), np.random.default_rng(2))])
    write_surface(tmp_path / "prep.obj", prep.with_vertices(prep.vertices / 25.4))
    target = tmp_path / "out.json"
    code, _, err = run(
        capsys, "measure", "--tooth", "19", "--notation", "universal", "--restoration", "full-crown", "--material",
        "zirconia", *AXES, "--prep", str(tmp_path / "prep.obj"), "--units", "in", "--json", str(target),
    )  # fmt: skip
    assert (code, err) == (0, "")
    d = json.loads(target.read_text(encoding="utf-8"))
    assert d["tooth"] == "36"
    assert any("loose piece" in w for w in d["warnings"])
    assert d["finish_line"]["length_mm"] == pytest.approx(2 * np.pi * 5, rel=0.03)


@pytest.mark.long
def test_a_file_name_in_any_encoding_is_a_name(files: dict[str, str], tmp_path: Path) -> None:
    """A name that is no UTF-8 is read, and an error about it is still one clear line."""
    odd = os.fsencode(tmp_path) + b"/Z\xe4hne.stl"
    Path(os.fsdecode(odd)).write_bytes(Path(files["prep"]).read_bytes())
    command = [sys.executable.encode(), b"-m", b"vane_line", *(a.encode() for a in [*COMMON, *AXES]), b"--prep", odd]
    done = subprocess.run(command, capture_output=True, check=False, timeout=120)
    assert (done.returncode, done.stderr) == (0, b"")
    Path(os.fsdecode(odd)).write_bytes(b"rubbish")
    broken = subprocess.run(command, capture_output=True, check=False, timeout=120)
    assert broken.returncode == 2
    assert broken.stderr.count(b"\n") == 1
    assert b"Traceback" not in broken.stderr
