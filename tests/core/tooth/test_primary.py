"""Primary teeth by their numbers: ISO 3950 (FDI) and Universal letters, as handbooks print them."""

from __future__ import annotations

import pytest

from vane_line.core.tooth.anatomy import size_of, template
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption

# ISO 3950: quadrants 5 to 8 from the upper right clockwise; letters from the upper right second molar round (ADA's
# universal system; common practice, no source).
LETTERS = {
    "A": "55", "B": "54", "C": "53", "D": "52", "E": "51", "F": "61", "G": "62", "H": "63", "I": "64", "J": "65",
    "K": "75", "L": "74", "M": "73", "N": "72", "O": "71", "P": "81", "Q": "82", "R": "83", "S": "84", "T": "85",
}  # fmt: skip


@pytest.mark.parametrize(("letter", "fdi"), LETTERS.items())
def test_letters_and_numbers_name_the_same_tooth(letter: str, fdi: str) -> None:
    tooth = ToothNumber.parse(letter.lower(), "universal")
    assert tooth == ToothNumber(fdi)
    assert tooth.universal == letter
    assert tooth.primary


def test_jaw_side_and_class() -> None:
    """55 stands as 15's like: upper right; only the fourth and fifth are molars."""
    assert ToothNumber("55").upper
    assert not ToothNumber("75").upper
    assert ToothNumber("55").right_handed == ToothNumber("15").right_handed
    assert [p for p in "12345" if ToothNumber(f"8{p}").molar] == ["4", "5"]
    assert ToothNumber("85").quadrant == 4
    assert ToothNumber("51").front
    assert len([t for t in ToothNumber.every() if t.primary]) == 20
    assert len(ToothNumber.every()) == 52


def test_sizes_are_a_child_s() -> None:
    """Second primary molars are wider than the premolars that follow them, by 1 to 3 mm (leeway; Wheeler, from
    memory); their lower ones have five cusps."""
    for first, then in (("55", "15"), ("75", "35")):
        assert 1.0 < size_of(ToothNumber(first))[1] - size_of(ToothNumber(then))[1] < 3.0
    assert len(template(ToothNumber("75"))) == 5
    assert len(template(ToothNumber("55"))) == 4


@pytest.mark.parametrize("number", ["56", "86", "91", "50", "5", "A"])
def test_numbers_that_no_tooth_has(number: str) -> None:
    with pytest.raises(BadOption, match="51 to 85"):
        ToothNumber(number)
