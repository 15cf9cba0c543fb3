"""Kinds of restoration: one record each, and everything that depends on the kind asks it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import pytest
from solids import Stump, facing

from vane_line.core import kinds
from vane_line.core.case import measure
from vane_line.core.judge import criteria
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.kinds.full_crown import FULL_CROWN
from vane_line.core.plan.makers import MAKERS, maker_of
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption

TOOTH = ToothNumber("36")


@pytest.fixture
def thimble(monkeypatch: pytest.MonkeyPatch) -> Iterator[kinds.Kind]:
    """A made-up kind: read as a crown, judged by undercut and draft alone."""
    kind = replace(FULL_CROWN, name="thimble", title="thimble", caution="A thimble is no crown.")
    kinds.register(kind)
    for name in ("undercut", "draft"):
        own = criteria.of(name)
        assert own is not None
        monkeypatch.setitem(criteria._ALL, name, replace(own, kinds=(*own.kinds, "thimble")))
    yield kind
    kinds.withdraw("thimble")


def test_a_made_up_kind_is_measured_and_judged_by_its_own_criteria(thimble: kinds.Kind, stump: Stump) -> None:
    """Registered, it runs through the same pipeline; the document names it and says its caution."""
    geometry = measure(stump.scans(), facing(TOOTH, restoration=thimble.name))
    made = document(geometry, judge(geometry, choose("zirconia", thimble.name, None, TOOTH)))
    assert {v["criterion"] for v in made["verdicts"]} == {"undercut", "draft"}
    assert made["restoration"] == "thimble"
    assert "A thimble is no crown." in made["warnings"]


def test_a_kind_s_own_reader_reads(thimble: kinds.Kind, stump: Stump) -> None:
    """Tracing, following and cutting are the kind's; none of the crown's is called for it."""
    called: list[str] = []

    def trace(*given: object) -> object:
        called.append("trace")
        return FULL_CROWN.reader.trace(*given)  # type: ignore[arg-type]

    def cut(seen: object) -> object:
        called.append("cut")
        return FULL_CROWN.reader.cut(seen)  # type: ignore[arg-type]

    kinds.withdraw(thimble.name)
    kinds.register(replace(thimble, reader=replace(FULL_CROWN.reader, trace=trace, cut=cut)))  # type: ignore[arg-type]
    measure(stump.scans(), facing(TOOTH, restoration=thimble.name))
    assert called == ["trace", "cut"]


def test_what_is_no_kind_is_refused_by_name() -> None:
    """Measured, planned or chosen a standard for: a sentence that names what can be judged."""
    for ask in (
        lambda: kinds.of("bridge-of-sighs"), lambda: maker_of("bridge-of-sighs"),
        lambda: choose("zirconia", "bridge-of-sighs", None, TOOTH),
    ):  # fmt: skip
        with pytest.raises(BadOption, match="use one of full-crown"):
            ask()


def test_a_kind_without_a_plan_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    """Nothing is planned by another kind's maker."""
    without = replace(kinds.of("pin-casting"), plan=None)
    monkeypatch.setattr(kinds, "of", lambda _name: without)
    with pytest.raises(BadOption, match="no plan before cutting"):
        maker_of("pin-casting")


def test_a_test_s_kind_leaves_the_criteria_as_they_were() -> None:
    """What the made-up kind was judged by serves the others as before, in its place."""
    names = [c.name for c in criteria.every()]
    assert names.index("undercut") < names.index("finish-line-width")
    assert {"veneer", "full-crown"} <= set(criteria.of("undercut").kinds)  # type: ignore[union-attr]


def test_every_kind_has_a_maker_and_criteria() -> None:
    """Nothing is offered that cannot be planned or judged."""
    for kind in kinds.every():
        assert kind.plan is None or kind.plan in MAKERS
        assert criteria.of_kind(kind.name)
        with pytest.raises(ValueError, match="already"):
            kinds.register(kind)
