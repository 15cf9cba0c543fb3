"""What a person reads: the answer in one line, one row a place, under headings in the order in which they matter."""

from __future__ import annotations

from typing import Any

import pytest

from vane_line.core.files import Measurement
from vane_line.core.judge import criteria
from vane_line.core.judge.findings import DOUBTFUL, PAST, report
from vane_line.core.judge.lenses import LENSES, RECORD, concerns, lens

GOOD = {"matrix": [], "trusted": True, "why": ""}


def verdict(criterion: str, zone: str, status: str, missing: float | None, **more: Any) -> dict[str, Any]:
    """A verdict of the test's own; `missing` as the contract has it: limit less value."""
    value = None if missing is None else 1.0 - missing
    return {
        "criterion": criterion, "zone": zone, "bound": more.pop("bound", "min"), "value": value, "unit": "mm",
        "U": 0.03, "limit": 1.0, "target": 1.2, "status": status, "missing": missing, "to_target": None,
        "why": "because", "source": "", "at": [0, 0, 0], "where": criteria.where(criterion, zone), **more,
    }  # fmt: skip


def said(*verdicts: dict[str, Any], trusted: bool = True, bite: bool = True) -> Any:
    document = {
        "verdicts": list(verdicts), "corrections": [], "alignment": {"preop": GOOD | {"trusted": trusted}},
        "clearance": {"bite": {"ok": bite, "note": ""}},
    }  # fmt: skip
    return report(document)


CUSP = "functional-cusp/distofacial"


def test_one_row_a_place_with_its_gravest_first() -> None:
    """Three criteria at one cusp are one row; its amount is the gravest's, the doubtful one stands last."""
    told = said(
        verdict("clearance", CUSP, "short", 0.3), verdict("reduction", CUSP, "short", 0.4),
        verdict("cusp-shift", "cusp/distofacial", "within-uncertainty", 0.01, bound="max"),
    )  # fmt: skip
    assert [p.where for p in told.places] == ["distofacial cusp"]
    assert [told.findings[k].title for k in told.places[0].findings] == ["reduction", "clearance", "cusp tip moved"]
    assert told.answer.state == "not-yet"
    assert told.answer.text == "Not yet: 0.4 mm at the distofacial cusp"
    assert told.answer.counts == "1 place short"


def test_headings_stand_in_the_order_in_which_they_matter() -> None:
    """Room, seat, finish line, form, neighbours; what cannot be put back and what is doubtful after all of them."""
    told = said(
        verdict("finish-line-step", "mesial", "over", -0.3, bound="max"), verdict("reduction", CUSP, "short", 0.1),
        verdict("neighbour-nick", "distal", "over", -0.2, bound="max"), verdict("wall-height", "overall", "short", 0.5),
        verdict("undercut", "facial", "over", -0.2, bound="max"),
        verdict("reduction", "wall/facial/middle", "over", -0.9, bound="max"),
        verdict("reduction", "central-groove", "within-uncertainty", 0.0),
    )  # fmt: skip
    headings = list(dict.fromkeys(p.concern for p in told.places))
    assert headings == [
        "Room for the material", "Seat and hold", "Finish line", "Beside it", PAST, DOUBTFUL,
    ]  # fmt: skip
    assert told.answer.text == "Not yet: 0.1 mm at the distofacial cusp"
    assert told.answer.counts == "2 places short, 4 over, 1 doubtful"
    # Short walls are not cut any higher.
    assert [p.where for p in told.places if p.concern == PAST] == ["facial wall, middle third", "wall height"]


def test_over_cut_alone_says_cut_no_more() -> None:
    """No amount of cutting mends it: the line does not say that something is yet to be done."""
    told = said(verdict("reduction", CUSP, "over", -0.4, bound="max"), verdict("clearance", CUSP, "meets", -0.4))
    assert told.answer.state == "cut-no-more"
    assert told.answer.text == "Cut no more: 0.4 mm too much at the distofacial cusp"
    assert told.places[0].concern == PAST


@pytest.mark.parametrize(
    ("verdicts", "ways", "state", "text"),
    [
        ([verdict("reduction", CUSP, "meets", -0.1)], {}, "stop", "Stop: it meets."),
        ([verdict("reduction", CUSP, "meets", -0.1), verdict("clearance", CUSP, "not-measured", None)], {}, "stop",
         "Stop: it meets."),
        ([verdict("reduction", "overall", "not-measured", None)], {}, "nothing", "Nothing could be judged."),
        ([verdict("undercut", "overall", "meets", -0.1)], {"trusted": False}, "cannot-say",
         "Cannot say: the scans do not fit together."),
        ([verdict("reduction", CUSP, "meets", -0.1), verdict("bite", "overall", "over", -0.4, bound="max")],
         {"bite": False}, "cannot-say", "Cannot say: the recorded bite does not close."),
    ],
)  # fmt: skip
def test_the_answer_in_one_line(verdicts: list[Any], ways: dict[str, bool], state: str, text: str) -> None:
    """Met, unjudged, scans that do not fit, a bite that does not close."""
    told = said(*verdicts, **ways)
    assert (told.answer.state, told.answer.text) == (state, text)


def test_faults_of_the_tooth_come_before_scans_that_do_not_fit() -> None:
    """An undercut is one whatever the earlier scan: it is the answer, and the scans are the first row."""
    told = said(
        verdict("alignment", "overall", "over", -50.0, bound="max", unit="µm"),
        verdict("undercut", "mesial", "over", -0.2, bound="max"), trusted=False,
    )  # fmt: skip
    assert told.answer.text == "Not yet: undercut 1.20 mm, mesial wall"
    assert [p.concern for p in told.places] == [RECORD, "Seat and hold"]


def test_what_is_not_measured_is_counted_by_criterion() -> None:
    """Twelve zones without clearance are one thing that is not measured."""
    told = said(
        *(verdict("clearance", f"functional-cusp/{c}", "not-measured", None) for c in ("mesiofacial", "distal"))
    )
    assert told.answer.counts == "1 not measured"


def test_the_demo_s_answer_and_every_finding_in_a_place(demo_measured: Measurement) -> None:
    """The first molar: its distolingual cusp first; all findings are in some place, none in two."""
    told = report(demo_measured.document)
    assert told.answer.text == "Not yet: 0.4 mm at the distolingual cusp"
    numbers = [k for p in told.places for k in p.findings]
    assert sorted(numbers) == list(range(len(told.findings)))
    assert len({p.where for p in told.places}) == len(told.places)


def test_every_criterion_has_a_lens_that_there_is_or_none() -> None:
    """And every lens a legend; headings are each there once."""
    for criterion in criteria.every():
        assert criterion.lens is None or lens(criterion.lens) is not None, criterion.name
    assert lens("rainbow") is None
    for one in LENSES:
        assert one.legend
        assert (one.field is None) == (one.reads == "")
    assert len(set(concerns())) == len(concerns())
    assert concerns()[0] == RECORD


def test_a_movement_no_nearer_than_the_bite_is_no_finding_of_its_own() -> None:
    """Short with the teeth together already: said once. Nearer by a tenth on the way: both are said."""
    still = verdict("clearance", CUSP, "short", 0.3)
    same = verdict("clearance/protrusive", CUSP, "short", 0.301)
    nearer = verdict("clearance/laterotrusive", CUSP, "short", 0.4)
    titles = [f.title for f in said(still, same, nearer).findings]
    assert titles == ["clearance", "clearance when the jaw moves to this side"]
    met = verdict("clearance", CUSP, "meets", -0.3)
    assert [f.title for f in said(met, same).findings] == ["clearance in protrusion"]
