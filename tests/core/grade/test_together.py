"""A class seen together: where all fall short, and who stands far off."""

from __future__ import annotations

from typing import Any

import pytest

from vane_line.core.grade.together import outliers, where_all_fall_short


def verdict(where: str, missing: float | None, status: str = "short", bound: str = "min") -> dict[str, Any]:
    return {
        "criterion": "reduction", "zone": where, "where": where, "bound": bound, "missing": missing, "status": status,
        "unit": "mm",
    }  # fmt: skip


def test_where_most_fail_comes_first_with_the_median_over_all() -> None:
    everyone = [
        [verdict("lingual cusp", 0.4), verdict("facial cusp", 0.1), verdict("groove", -0.3, "meets")],
        [verdict("lingual cusp", 0.2), verdict("facial cusp", -0.2, "meets"), verdict("groove", -0.3, "meets")],
        [verdict("lingual cusp", -0.1, "meets"), verdict("facial cusp", -0.2, "meets"), verdict("groove", None)],
    ]
    found = where_all_fall_short(everyone)
    assert [(s.where, s.judged, s.failed) for s in found] == [("lingual cusp", 3, 2), ("facial cusp", 3, 1)]
    assert found[0].median == pytest.approx(0.2)
    assert (found[0].low, found[0].high) == (pytest.approx(0.05), pytest.approx(0.3))


def test_what_is_over_counts_by_its_excess() -> None:
    found = where_all_fall_short([[verdict("facial", -0.5, "over", "max")], [verdict("facial", -0.3, "over", "max")]])
    assert found[0].median == pytest.approx(0.4)


def test_a_place_named_twice_counts_once_a_student() -> None:
    found = where_all_fall_short([[verdict("ridge", 0.1), verdict("ridge", 0.5)]])
    assert (found[0].judged, found[0].median) == (1, pytest.approx(0.5))


def test_outliers_by_tukey_s_fences_and_none_of_few() -> None:
    """Middle half 70 to 80: beyond 55 and 95."""
    marks = [70.0, 70, 75, 80, 80, 54, 96, None, 56]
    assert outliers(marks[:5]) == [False] * 5
    assert outliers([70.0, 70.0, 75.0, 80.0, 80.0, 20.0]) == [False] * 5 + [True]
    assert outliers([10.0, 90.0, None]) == [False] * 3
    assert outliers([70.0, None, 70.0, 75.0, 80.0, 80.0, 20.0])[1] is False
