"""Over the cases of one hand: shares of few, medians in time, passes."""

from __future__ import annotations

from typing import Any

import pytest

from vane_line.core.grade.career import Pass, again, career, least_share


def verdict(criterion: str, where: str, status: str, value: float | None, **more: Any) -> dict[str, Any]:
    limit = more.get("limit", 1.0)
    missing = None if value is None else limit - value
    return {
        "criterion": criterion, "where": where, "bound": "min", "unit": "mm", "status": status, "value": value,
        "limit": limit, "target": 1.5, "missing": missing, "U": 0.05,
    } | more  # fmt: skip


def passed(code: str, number: int, day: int, *verdicts: dict[str, Any]) -> Pass:
    return Pass(code, "36", "full-crown", "zirconia", number, f"2026-01-{day:02d}", verdicts)


def depths(off: float) -> list[dict[str, Any]]:
    """Three zones, one of them on its target plus `off`, the others a tenth to either side."""
    places = ("mesial", "middle", "distal")
    return [verdict("reduction", p, "meets", 1.5 + off + d) for p, d in zip(places, (-0.1, 0.0, 0.1), strict=True)]


@pytest.mark.parametrize(
    ("count", "of", "low"), [(0, 10, 0.0), (10, 10, 0.722), (1, 10, 0.018), (81, 263, 0.255), (15, 148, 0.063)]
)
def test_a_share_s_lower_end(count: int, of: int, low: float) -> None:
    """Wilson's interval. 81 of 263 and 15 of 148: R. G. Newcombe, Statistics in Medicine 1998 (17: 857-872), table I,
    from memory; the others worked by hand from the formula."""
    assert least_share(count, of) == pytest.approx(low, abs=0.001)


def test_what_is_at_fault_again_stands_in_the_order_of_what_is_likely() -> None:
    """Two of two is not told: it is too few. Three of eight outweighs two of three at their lower ends only if it is
    likelier; what was not measured does not count."""
    firsts = []
    for k in range(8):
        rows = [verdict("reduction", "lingual cusp", "short" if k < 7 else "meets", 0.7 if k < 7 else 1.2)]
        rows.append(verdict("clearance", "groove", "not-measured" if k > 2 else "short", None if k > 2 else 0.9))
        if k < 2:
            rows.append(verdict("wall-height", "overall", "short", 2.0))
        firsts.append(passed(f"C{k}", 1, k + 1, *rows))
    found = again(firsts)
    assert [(r.criterion, r.at_fault, r.seen) for r in found] == [("reduction", 7, 8), ("clearance", 3, 3)]
    assert found[0].amount == pytest.approx(0.3)
    assert found[0].likely == pytest.approx(least_share(7, 8))


def test_only_first_attempts_count_and_in_time() -> None:
    """The second pass of a tooth, which a list of corrections has helped, moves nothing but its passes."""
    late = passed("B", 1, 9, *depths(-0.3))
    early = passed("A", 1, 2, *depths(-0.1), verdict("tooth-removed", "mesial", "over", 2.4, bound="max", limit=2.0))
    mended = passed("A", 2, 20, *depths(0.4))
    found = career([late, mended, early])
    assert found.teeth == 2
    assert [d.code for d in found.depths] == ["A", "B"]
    assert found.depths[0].median_mm == pytest.approx(-0.1)
    assert (found.depths[0].low_mm, found.depths[0].high_mm) == (pytest.approx(-0.15), pytest.approx(-0.05))
    assert [(w.code, w.passes, w.met_after) for w in found.ways] == [("A", 2, 2), ("B", 1, 1)]
    assert [o.worst_mm for o in found.over] == [pytest.approx(0.4), 0.0]
    assert found.recent_mm is None


def test_the_last_five_against_the_five_before() -> None:
    """Of twelve teeth: the first two count in neither."""
    found = career([passed(f"C{k}", 1, k + 1, *depths(0.05 * k)) for k in range(12)])
    assert found.recent_mm == pytest.approx(0.05 * 9)
    assert found.before_mm == pytest.approx(0.05 * 4)


def test_a_tooth_that_never_met_is_told_so() -> None:
    found = career([passed("A", n, n, verdict("reduction", "groove", "short", 0.8)) for n in (1, 2, 3)])
    assert found.ways[0].met_after is None
    assert found.ways[0].passes == 3
    assert found.depths == ()  # one zone is too few for a median
