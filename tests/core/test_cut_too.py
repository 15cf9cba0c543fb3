"""Several teeth cut in one go: which place is which tooth."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.arrays import Floats
from vane_line.core.cut_too import arch_order, tell_apart
from vane_line.core.options import Options
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption


def teeth(text: str) -> list[ToothNumber]:
    return [ToothNumber(t) for t in text.split()]


def along(_place: Floats) -> Floats:
    """Occlusal x facial: the arch runs along x here."""
    return np.array([1.0, 0, 0])


@pytest.mark.parametrize("row", ["17 14 12 11 21 23 26", "37 35 32 31 41 44 47"])
def test_the_arch_runs_from_one_end_to_the_other(row: str) -> None:
    """Along occlusal x facial, which is the same way round for whoever looks from the occlusal side."""
    order = [arch_order(t) for t in teeth(row)]
    assert order in (sorted(order), sorted(order, reverse=True))


def test_places_are_told_by_their_order() -> None:
    """The greatest loss of tooth comes first in what is found; the number decides by the arch."""
    found = [np.array([9.0, 0, 0]), np.array([-9.0, 0, 0]), np.array([1.0, 2, 0])]
    front, back, middle = teeth("35 37 36")
    near, others = tell_apart(middle, [back, front], None, found, along)
    assert near is not None
    np.testing.assert_allclose(near, [1, 2, 0])
    assert others[min(front, back, key=arch_order)][0] == -9.0
    assert others[max(front, back, key=arch_order)][0] == 9.0


def test_a_point_on_the_tooth_decides() -> None:
    """What lies nearest to it is the tooth's own; the rest is of others."""
    found = [np.array([9.0, 0, 0]), np.array([-9.0, 0, 0])]
    (mine, other) = teeth("35 37")
    near, others = tell_apart(mine, [other], np.array([-7.0, 1, 1]), found, along)
    assert near is not None
    np.testing.assert_allclose(near, [-7, 1, 1])
    assert others[other][0] == 9.0


def test_too_few_places_tell_nothing() -> None:
    """Two teeth that were cut, and one place where the scans differ: nothing is guessed."""
    assert tell_apart(*teeth("35"), teeth("37"), None, [np.zeros(3)], along) == (None, {})
    assert tell_apart(*teeth("35"), teeth("37"), None, [], along) == (None, {})


def test_others_stand_in_the_same_jaw_and_are_others() -> None:
    with pytest.raises(BadOption, match="same jaw"):
        Options(ToothNumber("35"), others=(ToothNumber("25"),))
    with pytest.raises(BadOption, match="twice"):
        Options(ToothNumber("35"), others=(ToothNumber("35"),))
