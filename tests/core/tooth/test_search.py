"""The cut tooth's middle: the same wherever the search for it began, on teeth that make it hard."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.tooth.search import settled
from vane_line.demo.cases import MadeCase


@pytest.mark.parametrize("tooth", ["incisor_case", "premolar_case", "demo_case"])
@pytest.mark.long
def test_the_middle_is_the_same_from_wherever_it_is_looked_for(tooth: str, request: pytest.FixtureRequest) -> None:
    """From starts a third of a millimetre about, and from one that the search cannot rest from: within 5 µm across."""
    case: MadeCase = request.getfixturevalue(tooth)
    up = np.array(case.truth["occlusal"])
    first = settled(case.prep, np.array(case.truth["centre"]), up)
    rng = np.random.default_rng(3)
    apart = []
    for _ in range(6):
        other = settled(case.prep, first + rng.normal(0, 0.3, 3), up) - first
        apart.append(float(np.linalg.norm(other - (other @ up) * up)))
    assert max(apart) < 0.005
