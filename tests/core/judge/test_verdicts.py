"""The decision rule of ISO 14253-1, and how uncertainties combine (JCGM 100)."""

from __future__ import annotations

from math import hypot

import pytest

from vane_line.core.judge.judgement import severity
from vane_line.core.judge.uncertainty import (
    COVERAGE,
    EDGE_MM,
    FINE_SHARE,
    GROWTH,
    U_METHOD,
    U_METHOD_MM,
    Budget,
    u_scan_mm,
)
from vane_line.core.judge.verdicts import Verdict, judge_max, judge_min, not_measured


def verdict(value: float, limit: float, u: float = 0.05) -> Verdict:
    return Verdict("reduction", "central-groove", "min", value, "mm", u, limit, limit + 0.5, "", "")


# ISO 14253-1: conformity is proven only outside the uncertainty zone, non-conformity likewise.
@pytest.mark.parametrize(
    ("value", "low", "high"),
    [
        (1.20, "meets", "over"),
        (1.05, "meets", "within-uncertainty"),
        (1.04, "within-uncertainty", "within-uncertainty"),
        (1.00, "within-uncertainty", "within-uncertainty"),
        (0.95, "within-uncertainty", "meets"),
        (0.949, "short", "meets"),
        (0.50, "short", "meets"),
    ],
)
def test_the_decision_rule(value: float, low: str, high: str) -> None:
    """A minimum of 1.0 and a maximum of 1.0, with U of 0.05."""
    assert judge_min(verdict(value, 1.0)).status == low
    assert judge_max(verdict(value, 1.0)).status == high


def test_what_is_missing_is_limit_less_value() -> None:
    """Positive is what lacks; to_target says how far to the target."""
    short = judge_min(verdict(0.6, 1.0))
    assert short.missing == pytest.approx(0.4)
    assert short.to_target == pytest.approx(0.9)
    assert not_measured("reduction", "overall", "why").missing is None


def test_the_worst_comes_first() -> None:
    """Proven faults by their size, then doubt, then unmeasured, then met; degrees and lengths stand in one order."""
    rows = [
        judge_min(verdict(2.0, 1.0)), not_measured("reduction", "x", ""), judge_min(verdict(1.0, 1.0)),
        judge_max(verdict(1.1, 1.0)), judge_min(verdict(0.8, 1.0)), judge_min(verdict(0.4, 1.0)),
    ]  # fmt: skip
    order = [v.status for v in sorted(rows, key=severity, reverse=True)]
    assert order == ["short", "short", "over", "within-uncertainty", "not-measured", "meets"]
    assert sorted(rows, key=severity, reverse=True)[0].value == 0.4
    degrees = judge_min(Verdict("draft", "facial", "min", -1.0, "deg", 0.5, 2.0, None, "", ""))
    assert severity(degrees) < severity(judge_min(verdict(0.8, 1.0)))


def test_expanded_uncertainty_is_twice_the_root_of_squares() -> None:
    """U = 2 sqrt(u_align² + u_scan² + u_method²); the bite's share enters clearance only."""
    budget = Budget(0.004, 0.010, 0.025)
    assert budget.reduction() == pytest.approx(COVERAGE * hypot(0.004, 0.010, U_METHOD_MM["reduction"]))
    assert budget.clearance() == pytest.approx(COVERAGE * hypot(0.004, 0.025, U_METHOD_MM["clearance"]))
    assert budget.clearance(0.02) > budget.clearance()


def test_scan_uncertainty_has_a_floor_and_grows_with_scatter() -> None:
    """A noiseless scan is not certain; what patches differ by counts."""
    assert u_scan_mm(0.0, None) >= 0.004
    assert u_scan_mm(3.0, 30.0) > u_scan_mm(3.0, 3.0)


@pytest.mark.parametrize("measure", sorted(GROWTH))
def test_a_coarser_scan_is_less_sure_and_a_finer_one_hardly_surer(measure: str) -> None:
    """As the power of the edges' length that the calibration gave; never under FINE_SHARE of the table's value."""
    table = U_METHOD_MM.get(measure) or U_METHOD[measure]
    assert Budget(0, 0, 0, EDGE_MM).method(measure) == pytest.approx(table)
    assert Budget(0, 0, 0, 2 * EDGE_MM).method(measure) == pytest.approx(table * 2 ** GROWTH[measure])
    assert Budget(0, 0, 0, EDGE_MM / 10).method(measure) == pytest.approx(table * FINE_SHARE)


def test_what_the_triangles_do_not_decide_is_as_sure_on_any_scan() -> None:
    """A border drawn by hand, a bite record, cusps taken down: their u stays."""
    for measure in ("ferrule", "clearance", "cusp-shift"):
        assert Budget(0, 0, 0, 0.4).method(measure) == Budget(0, 0, 0, 0.1).method(measure)


def test_roughness_is_less_sure_the_rougher_and_the_coarser() -> None:
    """Scallops finer than the trace's own smoothing read low, by a share of themselves."""
    fine, coarse = Budget(0, 0, 0, EDGE_MM), Budget(0, 0, 0, 0.3)
    assert fine.roughness(80.0) > fine.roughness(40.0) > fine.roughness(0.0)
    assert coarse.roughness(40.0) > fine.roughness(40.0)
    # What may be scatter alone is no roughness: its U reaches nought; far above it hardly counts.
    assert fine.roughness(15.0, 6.8) == 15.0
    assert fine.roughness(80.0, 6.8) == fine.roughness(80.0)
