"""Tooth numbers: ISO 3950 (FDI) inside, Universal accepted and shown on request."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from vane_line.errors import BadOption

UNIVERSAL = {
    **{str(n): f"1{9 - n}" for n in range(1, 9)},
    **{str(n): f"2{n - 8}" for n in range(9, 17)},
    **{str(n): f"3{25 - n}" for n in range(17, 25)},
    **{str(n): f"4{n - 24}" for n in range(25, 33)},
}
# A to T: the primary teeth, from the upper right second molar round to the lower right one.
UNIVERSAL |= {
    **{"ABCDE"[n]: f"5{5 - n}" for n in range(5)},
    **{"FGHIJ"[n]: f"6{n + 1}" for n in range(5)},
    **{"KLMNO"[n]: f"7{5 - n}" for n in range(5)},
    **{"PQRST"[n]: f"8{n + 1}" for n in range(5)},
}
CLASS_OF_PLACE = {
    "1": "central-incisor", "2": "lateral-incisor", "3": "canine", "4": "first-premolar",
    "5": "second-premolar", "6": "first-molar", "7": "second-molar", "8": "third-molar",
}  # fmt: skip
PRIMARY_CLASS_OF_PLACE = {
    "1": "primary-central-incisor", "2": "primary-lateral-incisor", "3": "primary-canine",
    "4": "primary-first-molar", "5": "primary-second-molar",
}  # fmt: skip
# Of each quadrant: which places its teeth have.
PLACES = {**dict.fromkeys("1234", "12345678"), **dict.fromkeys("5678", "12345")}


@dataclass(frozen=True)
class ToothNumber:
    """A tooth by its FDI number: permanent from 11 to 48, primary from 51 to 85."""

    fdi: str

    def __post_init__(self) -> None:
        """Raises BadOption."""
        text = self.fdi
        whole = isinstance(text, str) and len(text) == 2
        if not whole or text[1] not in (PLACES.get(text[0]) or ""):
            shown = text if isinstance(text, str) else repr(text)
            raise BadOption(
                f"tooth {shown}: FDI numbers run from 11 to 48 for permanent teeth (quadrant, then place), from 51 to "
                "85 for primary ones."
            )

    @classmethod
    def every(cls) -> list[ToothNumber]:
        """All teeth, quadrant by quadrant from the middle: permanent ones first."""
        return [cls(f"{quadrant}{place}") for quadrant, places in PLACES.items() for place in places]

    @classmethod
    def parse(cls, text: str, notation: str = "fdi") -> ToothNumber:
        """Read '36' (fdi) or '19' (universal). Raises BadOption."""
        if not isinstance(text, str):
            raise BadOption(f"tooth {text!r}: give the number as text, such as '36'.")
        text = text.strip().upper()
        if notation == "universal":
            if text not in UNIVERSAL:
                raise BadOption(f"tooth {text}: Universal numbers run from 1 to 32, letters from A to T.")
            return cls(UNIVERSAL[text])
        if notation != "fdi":
            raise BadOption(f"notation {notation}: use fdi or universal.")
        return cls(text)

    @cached_property
    def universal(self) -> str:
        return next(u for u, f in UNIVERSAL.items() if f == self.fdi)

    @property
    def upper(self) -> bool:
        return self.quadrant in (1, 2)

    @property
    def primary(self) -> bool:
        """A child's first tooth."""
        return self.fdi[0] in "5678"

    @property
    def quadrant(self) -> int:
        """1 to 4: upper right, upper left, lower left, lower right."""
        return (int(self.fdi[0]) - 1) % 4 + 1

    @property
    def tooth_class(self) -> str:
        return (PRIMARY_CLASS_OF_PLACE if self.primary else CLASS_OF_PLACE)[self.fdi[1]]

    @property
    def front(self) -> bool:
        return self.fdi[1] in "123"

    @property
    def molar(self) -> bool:
        return self.fdi[1] in ("45" if self.primary else "678")

    @property
    def right_handed(self) -> bool:
        """Whether (occlusal, facial, mesial) is right-handed: in quadrants 2 and 4."""
        return self.quadrant in (2, 4)

    @property
    def functional_side(self) -> str:
        """The cusps that bite into the opposing fossae: palatal above, buccal below (normal bite)."""
        return "lingual" if self.upper else "facial"

    @property
    def lingual_word(self) -> str:
        return "palatal" if self.upper else "lingual"
