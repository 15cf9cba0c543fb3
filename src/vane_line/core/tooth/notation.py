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
CLASS_OF_PLACE = {
    "1": "central-incisor", "2": "lateral-incisor", "3": "canine", "4": "first-premolar",
    "5": "second-premolar", "6": "first-molar", "7": "second-molar", "8": "third-molar",
}  # fmt: skip


@dataclass(frozen=True)
class ToothNumber:
    """A permanent tooth by its FDI number."""

    fdi: str

    def __post_init__(self) -> None:
        """Raises BadOption."""
        text = self.fdi
        if not isinstance(text, str) or len(text) != 2 or text[0] not in "1234" or text[1] not in "12345678":
            shown = text if isinstance(text, str) else repr(text)
            raise BadOption(f"tooth {shown}: FDI numbers of permanent teeth run from 11 to 48 (quadrant, then place).")

    @classmethod
    def every(cls) -> list[ToothNumber]:
        """All permanent teeth, quadrant by quadrant from the middle."""
        return [cls(f"{quadrant}{place}") for quadrant in "1234" for place in "12345678"]

    @classmethod
    def parse(cls, text: str, notation: str = "fdi") -> ToothNumber:
        """Read '36' (fdi) or '19' (universal). Raises BadOption."""
        if not isinstance(text, str):
            raise BadOption(f"tooth {text!r}: give the number as text, such as '36'.")
        text = text.strip()
        if notation == "universal":
            if text not in UNIVERSAL:
                raise BadOption(f"tooth {text}: Universal numbers run from 1 to 32.")
            return cls(UNIVERSAL[text])
        if notation != "fdi":
            raise BadOption(f"notation {notation}: use fdi or universal.")
        return cls(text)

    @cached_property
    def universal(self) -> str:
        return next(u for u, f in UNIVERSAL.items() if f == self.fdi)

    @property
    def upper(self) -> bool:
        return self.fdi[0] in "12"

    @property
    def tooth_class(self) -> str:
        return CLASS_OF_PLACE[self.fdi[1]]

    @property
    def front(self) -> bool:
        return self.fdi[1] in "123"

    @property
    def molar(self) -> bool:
        return self.fdi[1] in "678"

    @property
    def right_handed(self) -> bool:
        """Whether (occlusal, facial, mesial) is right-handed: in quadrants 2 and 4."""
        return self.fdi[0] in "24"

    @property
    def functional_side(self) -> str:
        """The cusps that bite into the opposing fossae: palatal above, buccal below (normal bite)."""
        return "lingual" if self.upper else "facial"

    @property
    def lingual_word(self) -> str:
        return "palatal" if self.upper else "lingual"
