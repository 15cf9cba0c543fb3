"""What changed is told: the newest algorithm in CHANGELOG.md is the one that results carry."""

from __future__ import annotations

import re
from pathlib import Path

import vane_line
from vane_line.core.case import ALGORITHM_VERSION

CHANGES = (Path(__file__).parents[2] / "CHANGELOG.md").read_text(encoding="utf-8")


def test_results_carry_the_newest_algorithm_that_is_told() -> None:
    told = [int(number) for number in re.findall(r"^### Algorithm (\d+)", CHANGES, re.MULTILINE)]
    assert told, "no algorithm is told"
    assert max(told) == ALGORITHM_VERSION


def test_the_newest_version_told_is_this_one() -> None:
    assert re.findall(r"^## (\d+\.\d+\.\d+)$", CHANGES, re.MULTILINE)[0] == vane_line.__version__
