"""`vane-line bridge`: files in, the envelope out, and what is said where it is no bridge."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from spans import Span

from vane_line.cli.main import main
from vane_line.core.mesh.write import write_surface

SPAN = Span(tip_deg=18.0, grid_mm=0.28)


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> tuple[str, str]:
    folder = tmp_path_factory.mktemp("bridge")
    for name, cut in (("prep.stl", True), ("before.stl", False)):
        write_surface(folder / name, SPAN.scan(cut))
    return str(folder / "prep.stl"), str(folder / "before.stl")


def test_a_bridge_from_files(files: tuple[str, str], tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Exit 0, both abutments in the order of the arch, each by its own standard; no common path, the walls that forbid
    it and the way out."""
    prep, before = files
    out = tmp_path / "bridge.json"
    code = main(["bridge", "--abutment", "35", "--abutment", "33", "--pontic", "34", "--prep", prep, "--preop", before,
                 "--material", "zirconia", "--occlusal", "0,0,1", "--json", str(out)])  # fmt: skip
    said = capsys.readouterr().out
    assert code == 0
    made = json.loads(out.read_text(encoding="utf-8"))
    assert made["schema"] == "vane-line/bridge/1"
    assert [a["tooth"] for a in made["abutments"]] == ["33", "35"]
    assert [a["standard"]["id"] for a in made["abutments"]] == ["front-zirconia-usual", "zirconia-usual"]
    assert not made["path"]["exists"]
    assert made["path"]["least_draft_deg"] == pytest.approx(-3.0, abs=1.0)
    assert made["opposing"] is None
    assert "No common path" in said
    assert "take " in said


@pytest.mark.parametrize(
    ("more", "words"),
    [
        (["--abutment", "35", "--pontic", "36"], "two abutments"),
        (["--abutment", "35", "--abutment", "37", "--pontic", "38"], "does not stand between"),
        (["--abutment", "35", "--abutment", "37", "--pontic", "36", "--near", "34:1,2,3"], "not one of the abutments"),
        (["--abutment", "35", "--abutment", "37", "--pontic", "36", "--near", "35:1,2,3"], "on every abutment"),
        (
            ["--abutment", "35", "--abutment", "37", "--pontic", "36", "--restoration", "onlay"],
            "a crown or a partial crown",
        ),
    ],
)
def test_what_is_no_bridge_exits_two(
    files: tuple[str, str], more: list[str], words: str, capsys: pytest.CaptureFixture[str]
) -> None:
    """One line that says what to do; nothing is measured."""
    prep, before = files
    code = main(["bridge", *more, "--prep", prep, "--preop", before, "--material", "lithium-disilicate"])
    assert code == 2
    assert words in capsys.readouterr().err
