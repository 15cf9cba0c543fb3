"""Two attempts side by side: what is mended, what is new, what is the same within the uncertainty."""

from __future__ import annotations

from typing import Any

import pytest

from vane_line.core.judge.compare import compare


def verdict(zone: str, value: float | None, status: str, bound: str = "min", u: float = 0.03) -> dict[str, Any]:
    limit = 1.0 if bound == "min" else 2.0
    return {
        "criterion": "reduction", "zone": zone, "bound": bound, "value": value, "unit": "mm", "U": u, "limit": limit,
        "missing": None if value is None else limit - value, "status": status, "where": zone, "at": None,
    }  # fmt: skip


def document(*verdicts: dict[str, Any], standard: int = 1) -> dict[str, Any]:
    return {"tooth": "36", "standard": {"id": "s", "version": standard}, "verdicts": list(verdicts)}


@pytest.mark.parametrize(
    ("then", "now", "state"),
    [
        (verdict("a", 0.6, "short"), verdict("a", 1.2, "meets"), "mended"),
        (verdict("a", 0.6, "short"), verdict("a", 0.8, "short"), "better"),
        (verdict("a", 0.8, "short"), verdict("a", 0.7, "short"), "worse"),
        (verdict("a", 0.80, "short"), verdict("a", 0.82, "short"), "still"),
        (verdict("a", 1.2, "meets"), verdict("a", 0.7, "short"), "new"),
        (verdict("a", 1.9, "meets", "max"), verdict("a", 2.4, "over", "max"), "new"),
        (verdict("a", 2.6, "over", "max"), verdict("a", 2.3, "over", "max"), "better"),
        (verdict("a", 1.2, "meets"), verdict("a", 1.5, "meets"), "changed"),
        (verdict("a", 0.6, "short"), verdict("a", None, "not-measured"), "changed"),
    ],
)
def test_what_a_pass_did_to_one_place(then: dict[str, Any], now: dict[str, Any], state: str) -> None:
    """Only beyond both uncertainties together is a change a change."""
    rows = compare(document(then), document(now))
    assert [r["state"] for r in rows] == [state]


def test_what_stayed_the_same_is_left_out_and_what_is_gone_is_mended() -> None:
    """0.03 of change under an uncertainty of 0.042; a fault without a verdict any more."""
    rows = compare(
        document(verdict("a", 1.20, "meets"), verdict("step", 0.4, "over", "max")),
        document(verdict("a", 1.23, "meets")),
    )
    assert [(r["zone"], r["state"], r["after"]) for r in rows] == [("step", "mended", None)]


def test_the_new_faults_come_first_then_what_still_lacks_most() -> None:
    """New, worse, still, better, mended; within a kind by what is missing."""
    before = [
        verdict("a", 1.2, "meets"),
        verdict("b", 0.5, "short"),
        verdict("c", 0.7, "short"),
        verdict("d", 0.4, "short"),
    ]
    after = [
        verdict("a", 0.8, "short"),
        verdict("b", 1.1, "meets"),
        verdict("c", 0.7, "short"),
        verdict("d", 0.41, "short"),
    ]
    assert [r["zone"] for r in compare(document(*before), document(*after))] == ["a", "d", "c", "b"]


def test_attempts_judged_differently_are_not_compared() -> None:
    """Another version of the standard, or another tooth."""
    with pytest.raises(ValueError, match="same standard"):
        compare(document(verdict("a", 1, "meets")), document(verdict("a", 1, "meets"), standard=2))
