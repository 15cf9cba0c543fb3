"""Tooth numbers by ISO 3950, and the Universal system's 1 to 32."""

from __future__ import annotations

import pytest

from vane_line.core.tooth.notation import UNIVERSAL, ToothNumber
from vane_line.errors import BadOption

# ISO 3950: quadrants 1 upper right, 2 upper left, 3 lower left, 4 lower right. Universal: 1 is the upper right third
# molar, counted along the upper jaw to 16, then from the lower left third molar, 17, to 32 (common practice,
# no source).
PAIRS = {"1": "18", "8": "11", "9": "21", "16": "28", "17": "38", "19": "36", "24": "31", "25": "41", "32": "48"}


@pytest.mark.parametrize(("universal", "fdi"), PAIRS.items())
def test_both_notations_name_the_same_tooth(universal: str, fdi: str) -> None:
    """Read in one, shown in the other."""
    assert ToothNumber.parse(universal, "universal").fdi == fdi
    assert ToothNumber.parse(fdi).universal == universal


def test_all_are_different() -> None:
    """Thirty-two permanent teeth, twenty primary ones; no number is taken twice."""
    assert len(set(UNIVERSAL.values())) == len(UNIVERSAL) == 52


@pytest.mark.parametrize("text", ["", "0", "19", "39", "56", "3", "366", "ab", "36 5"])
def test_what_is_no_fdi_number_is_said(text: str) -> None:
    """Universal numbers and nonsense are refused with the range."""
    with pytest.raises(BadOption, match="11 to 48"):
        ToothNumber.parse(text)


def test_facts_of_jaw_and_class() -> None:
    """Palatal above, lingual below; buccal cusps work below, palatal above (common practice, no source)."""
    assert ToothNumber("16").functional_side == "lingual"
    assert ToothNumber("46").functional_side == "facial"
    assert ToothNumber("16").lingual_word == "palatal"
    assert ToothNumber("32").front
    assert ToothNumber("47").molar
    assert [ToothNumber(f"{q}6").right_handed for q in (1, 2, 3, 4)] == [False, True, False, True]
