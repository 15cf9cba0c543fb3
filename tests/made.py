"""Demo cases for tests, made once for all runs."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from kept import kept

from vane_line.demo.cases import MadeCase, make_case
from vane_line.demo.recipes import Recipe
from vane_line.demo.saltmarsh import case_of

COARSE_MM = 0.22  # of demo scans in tests: quicker to make, still an intraoral scan's resolution


def coarse(recipe: Recipe) -> Recipe:
    """The same, scanned as coarsely as tests do."""
    return replace(recipe, scan=replace(recipe.scan, grid_mm=COARSE_MM))


def kept_case(name: str, recipe: Recipe, prep_only: bool = False) -> MadeCase:
    """A demo case, made once for all runs: its recipe holds functions, which do not go into files."""

    def make() -> tuple[Any, ...]:
        case = make_case(recipe, prep_only=prep_only)
        return case.prep, case.preop, case.opposing, case.mockup, case.truth

    return MadeCase(recipe, *kept(name, make))


def demo_made(code: str, attempt: int = 0) -> MadeCase:
    """An attempt (from 0) of one of the clinic's cases, whoever asks for it."""
    return kept_case(f"{code}-{attempt}", coarse(case_of(code).attempts[attempt]()), prep_only=attempt > 0)
