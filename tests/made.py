"""Demo cases for tests, made once for all runs."""

from __future__ import annotations

from typing import Any

from kept import kept

from vane_line.demo.cases import MadeCase, make_case
from vane_line.demo.recipes import Recipe

COARSE_MM = 0.22  # of demo scans in tests: quicker to make, still an intraoral scan's resolution


def kept_case(name: str, recipe: Recipe) -> MadeCase:
    """A demo case, made once for all runs: its recipe holds functions, which do not go into files."""

    def make() -> tuple[Any, ...]:
        case = make_case(recipe)
        return case.prep, case.preop, case.opposing, case.mockup, case.truth

    return MadeCase(recipe, *kept(name, make))
