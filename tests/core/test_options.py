"""What cannot be meant is refused in a sentence, before anything is read or measured."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from vane_line import BadOption, Options, ToothNumber, measure_files

TOOTH = ToothNumber("36")
NONSENSE: dict[str, dict[str, Any]] = {
    "tooth": {"tooth": "36"},
    "opposing-frame": {"opposing_frame": "preOp"},
    "earlier surface": {"earlier": "worn"},
    "functional": {"functional_side": "buccal"},
    "occlusal": {"occlusal": [0.0, 0.0]},
    "path": {"path": np.zeros(3)},
    "facial: it points": {"occlusal": [0.0, 0, 1], "facial": [0.0, 0.01, 1]},
    "near: give finite": {"near": [np.nan, 0, 0]},
    "near: give numbers": {"near": ["a", "b", "c"]},
    "gingiva": {"gingiva": np.zeros((2, 3))},
    "bur radius": {"bur_radius_mm": "0.5"},
}


@pytest.mark.parametrize("words", NONSENSE)
def test_nonsense_is_a_named_error_at_once(words: str) -> None:
    """It names the option and says what to give."""
    with pytest.raises(BadOption, match=words):
        Options(**({"tooth": TOOTH} | NONSENSE[words]))


@pytest.mark.parametrize("number", ["99", "", "3", "19", "3 6", 36, None])
def test_a_number_that_is_no_tooth_cannot_be_made(number: Any) -> None:
    """By its constructor as by parsing."""
    with pytest.raises(BadOption, match=r"tooth"):
        ToothNumber(number)


def test_lists_become_vectors() -> None:
    """Whatever holds three numbers is a vector."""
    options = Options(TOOTH, occlusal=[0, 0, 1], near=(1, 2, 3))  # type: ignore[arg-type]
    np.testing.assert_array_equal(options.occlusal, [0.0, 0, 1])
    assert options.near is not None
    assert options.near.dtype == np.float64


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"files": {"prep": "a.stl", "after": "b.stl"}}, "files: give prep"),
        ({"files": {"preop": "a.stl"}}, "files: give prep"),
        ({"files": {"prep": 7}}, "path of a file"),
        ({"options": "36"}, "options: give an Options"),
        ({"material": 7}, "material: give it as a word"),
        ({"units": "feet"}, "units feet"),
        ({"material": "cheese"}, "cheese"),
        ({"files": {"prep": "a", "opposing": "b"}, "options": Options(TOOTH, opposing_frame="preop")}, "preop scan"),
    ],
)  # fmt: skip
def test_a_request_is_checked_before_a_file_is_read(more: dict[str, Any], words: str) -> None:
    """None of these files exists, and none is asked for."""
    asked: dict[str, Any] = {"files": {"prep": "a.stl"}, "options": Options(TOOTH), "material": "zirconia"} | more
    with pytest.raises(BadOption, match=words):
        measure_files(asked.pop("files"), asked.pop("options"), **asked)
