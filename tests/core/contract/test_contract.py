"""The contract's models: what they let through, and what is made from them."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from pydantic import ValidationError
from solids import Stump, facing

from vane_line.api.describe import describe
from vane_line.core.case import Geometry, measure
from vane_line.core.contract.measurement import MeasurementDocument, VerdictRow
from vane_line.core.contract.page import keys, with_keys
from vane_line.core.contract.row import Row, Vector, plain
from vane_line.core.files import Measurement
from vane_line.core.jaw.hinge import Raise
from vane_line.core.judge.document import document, typed_document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.tooth.notation import ToothNumber

DOCS = Path(__file__).parents[3] / "docs"


class Sample(Row):
    """A row of the test's own."""

    place: Vector
    value: float | None


def test_numpy_becomes_plain_numbers_and_keeps_every_digit() -> None:
    """Arrays are lists, NaN is null, a negative nought is none."""
    row = Sample(place=np.array([0.1 + 0.2, -0.0, 3.0]), value=np.float64("nan"))
    assert row.model_dump() == {"place": [0.1 + 0.2, 0.0, 3.0], "value": None}
    assert plain({"a": np.array([True, False]), "b": np.int64(3), "c": (1.5, float("inf"))}) == {
        "a": [True, False], "b": 3, "c": [1.5, None],
    }  # fmt: skip


@pytest.mark.parametrize("wrong", [{"value": 1.0}, {"place": [1.0, 2.0], "value": 1.0},
                                   {"place": [1.0, 2.0, 3.0], "value": 1.0, "extra": 2}])  # fmt: skip
def test_a_row_with_a_key_too_few_or_too_many_is_refused(wrong: dict[str, object]) -> None:
    """A key that nobody declared never reaches a script."""
    with pytest.raises(ValidationError):
        Sample(**wrong)


def test_the_document_reads_back_as_its_model(demo_measured: Measurement) -> None:
    """Written and read, the demo's document is the same to the last digit."""
    text = json.dumps(demo_measured.document)
    again = MeasurementDocument.model_validate_json(text)
    assert again.model_dump(by_alias=True) == demo_measured.document


@pytest.mark.long
def test_a_verdict_carries_the_pose_it_holds_in(stump_geometry: Geometry, stump: Stump) -> None:
    """Clearance is of intercuspation, or of the raised bite; what does not hang on the jaw carries none."""
    standard = choose("lithium-disilicate", "full-crown", None, ToothNumber("36"))
    options = facing(ToothNumber("36"), opening=Raise.parse("0.5@molar"))
    lifted = measure(stump.scans(clearance_mm=1.0), options)
    for geometry, pose in ((stump_geometry, "intercuspation"), (lifted, "raised")):
        rows = typed_document(geometry, judge(geometry, standard)).verdicts
        poses = {v.criterion: v.pose for v in rows if v.status != "not-measured"}
        assert poses["clearance"] == pose
        assert poses["undercut"] is None
        assert geometry.pose.name == pose


@pytest.mark.long
def test_raising_moves_the_opposing_teeth_away(stump_geometry: Geometry, stump: Stump) -> None:
    """By what the opening is at this tooth, within the tilt over the tooth's own width."""
    lifted = measure(stump.scans(clearance_mm=1.0), facing(ToothNumber("36"), opening=Raise.parse("0.5@molar")))
    assert stump_geometry.clearance is not None
    assert lifted.clearance is not None
    gained = np.median(lifted.clearance.value) - np.median(stump_geometry.clearance.value)
    assert gained == pytest.approx(0.5, abs=0.08)


def test_the_pages_made_from_the_models_are_current() -> None:
    """docs/contract.md and docs/openapi.json say what the models say; `make api` makes them."""
    page = (DOCS / "contract.md").read_text(encoding="utf-8")
    assert page == with_keys(page)
    assert (DOCS / "openapi.json").read_text(encoding="utf-8") == describe()


def test_every_key_of_the_document_stands_on_the_page(stump_geometry: Geometry) -> None:
    """Top level and inside verdicts and corrections."""
    d = document(stump_geometry, judge(stump_geometry, choose("zirconia", "full-crown", None, ToothNumber("36"))))
    page = keys()
    for key in (*d, *VerdictRow.model_fields, *d["finish_line"]["samples"][0], *d["undercut"]):
        assert f"{key}: " in page


def test_a_page_without_a_place_for_the_keys_is_refused() -> None:
    """Rather than overwritten."""
    with pytest.raises(ValueError, match="no place"):
        with_keys("# Nothing\n")
