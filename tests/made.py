"""Demo cases for tests, made once for all runs."""

from __future__ import annotations

from dataclasses import replace

from kept import kept

from vane_line.demo.cases import MadeCase
from vane_line.demo.recipes import Recipe
from vane_line.demo.saltmarsh import case_of

COARSE_MM = 0.22  # of demo scans in tests: quicker to make, still an intraoral scan's resolution


def coarse(recipe: Recipe) -> Recipe:
    """The same, scanned as coarsely as tests do."""
    return replace(recipe, scan=replace(recipe.scan, grid_mm=COARSE_MM))


def kept_case(name: str, recipe: Recipe, first: bool = True) -> MadeCase:
    """A demo case, each part of it made once for all runs."""
    return MadeCase(recipe, first, lambda part, make: kept(f"{name}-{part}", make))


def demo_made(code: str, attempt: int = 0) -> MadeCase:
    """An attempt (from 0) of one of the clinic's cases, whoever asks for it."""
    return kept_case(f"{code}-{attempt}", coarse(case_of(code).attempts[attempt]()), first=attempt == 0)
