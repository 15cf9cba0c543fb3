"""Agreement of markers against the published worked example, and limits of agreement against plain arithmetic."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.grade.agreement import Z, intraclass, limits_of_agreement

# Shrout and Fleiss 1979, table 2: six targets rated by four judges; table 4 gives ICC(2,1) = 0.29.
RATINGS = np.array([[9, 2, 5, 8], [6, 1, 3, 2], [8, 4, 6, 8], [7, 1, 2, 6], [10, 5, 6, 9], [6, 2, 4, 7]], dtype=float)


def test_the_published_example() -> None:
    found = intraclass(RATINGS)
    assert found is not None
    assert round(found, 2) == 0.29


def test_perfect_agreement_and_none() -> None:
    one = np.array([10.0, 40, 70, 90])
    assert intraclass(np.stack([one, one], axis=1)) == pytest.approx(1.0)
    assert intraclass(np.full((4, 2), 50.0)) is None
    shifted = intraclass(np.stack([one, one + 30], axis=1))
    assert shifted is not None
    assert shifted < 0.85  # absolute agreement: a marker who is always 30 kinder does not agree


def test_limits_of_agreement() -> None:
    first, off = np.array([50.0, 60, 70, 80]), np.array([1.0, -1, 3, 1])
    found = limits_of_agreement(first, first + off)
    assert found is not None
    assert (found.count, found.bias) == (4, 1.0)
    assert (found.low, found.high) == (
        pytest.approx(1 - Z * off.std(ddof=1)), pytest.approx(1 + Z * off.std(ddof=1)),
    )  # fmt: skip


def test_too_few_say_nothing() -> None:
    assert limits_of_agreement(np.array([1.0, 2]), np.array([1.0, 2])) is None
    assert intraclass(RATINGS[:2]) is None
    assert intraclass(RATINGS[:, :1]) is None
