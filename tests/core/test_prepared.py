"""What a measurement keeps between edits, and how often it is taken."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.case import complete, prepare
from vane_line.core.options import Options
from vane_line.core.placed import place
from vane_line.core.prepared import Prepared
from vane_line.core.tooth.notation import ToothNumber

OPTIONS: Options = facing(ToothNumber("36"))


@pytest.fixture(scope="module")
def prepared() -> Prepared:
    scans = Stump(grid_mm=0.28, noise_um=5).scans(clearance_mm=1.2)
    return prepare(place(scans, OPTIONS, lambda _t, _s: None), OPTIONS)


def test_the_earlier_tooth_is_told_once(prepared: Prepared) -> None:
    """When it is first asked for, and kept through edits of the same case."""
    asked = []
    counted = prepared.by_other(lambda: asked.append(1) or prepared.tell())  # type: ignore[func-returns-value]
    assert not asked
    first, again = complete(counted, OPTIONS), complete(counted, OPTIONS)
    assert len(asked) == 1
    assert first.space is not None
    assert again.space is not None
    np.testing.assert_array_equal(first.space.value, again.space.value)


def test_told_otherwise_nothing_of_the_other_tooth_is_kept(prepared: Prepared) -> None:
    """Distances hang on the tooth they were taken to."""
    own = complete(prepared, OPTIONS)
    tooth = prepared.teeth["preop"]
    higher = replace(tooth, surface=tooth.surface.with_vertices(tooth.surface.vertices + [0, 0, 0.3]))
    other = complete(prepared.by_other(lambda: {"preop": higher}), OPTIONS)
    assert own.space is not None
    assert other.space is not None
    top = np.hypot(*own.inside.vertices[:, :2].T) < 1.5  # the middle of the flat top
    top &= own.inside.vertices[:, 2] > 5
    assert top.sum() > 30
    np.testing.assert_allclose(other.space.value[top] - own.space.value[top], 0.3, atol=0.02)


def test_the_bite_is_checked_once(prepared: Prepared, monkeypatch: pytest.MonkeyPatch) -> None:
    """It is told in a copy of this process, and kept in this one."""
    first = complete(prepared, OPTIONS)
    assert first.bite is not None

    def never(*_: object) -> None:
        raise AssertionError("the bite was checked again")

    monkeypatch.setattr("vane_line.core.case.bite_of", never)
    assert complete(prepared, OPTIONS).bite == first.bite
