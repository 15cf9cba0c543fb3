"""All criteria, in the order in which they are judged. Another one is registered, and nothing else is touched."""

from __future__ import annotations

from vane_line.core.judge.criteria import (
    cavity,
    channels,
    child,
    fit,
    form,
    line,
    margin,
    movement,
    others,
    space,
    veneer,
    walls,
)
from vane_line.core.judge.record import Criterion, Held
from vane_line.core.measure import zones

_ALL: dict[str, Criterion] = {}
# Read zone by zone of the surface.
BY_ZONE = ("reduction", "tooth-removed", "clearance", "milled-fit", *map(movement.name_of, movement.TITLES))


def register(criterion: Criterion) -> None:
    """Add a criterion. Raises ValueError where the name is taken."""
    if criterion.name in _ALL:
        raise ValueError(f"there is a criterion {criterion.name} already")
    _ALL[criterion.name] = criterion


def withdraw(name: str) -> None:
    """Take a criterion out again."""
    _ALL.pop(name)


def every() -> list[Criterion]:
    """In the order of judging."""
    return list(_ALL.values())


def of_kind(restoration: str) -> list[Criterion]:
    """Those that a kind of restoration is judged by."""
    return [c for c in _ALL.values() if restoration in c.kinds]


def of(name: str) -> Criterion | None:
    """A criterion by its name; None for one that this version does not know."""
    return _ALL.get(name)


def title(name: str) -> str:
    """A criterion's name in the words of a dentist; its plain name where this version does not know it."""
    known = of(name)
    return known.title if known else name.replace("-", " ")


def where(criterion: str, zone: str, lingual_word: str = "lingual") -> str:
    """A verdict's place in the words a dentist uses."""
    known = of(criterion)
    place = known.place if known else ""
    if criterion in BY_ZONE and zone in zones.CUSPS:  # a cavity's covered cusp is named plainly
        place = "cusp"
    return zones.where(zone, place, lingual_word)


for _module in (others, space, movement, cavity, veneer, channels, child, walls, line, margin, fit, form):
    for _criterion in _module.CRITERIA:
        register(_criterion)

__all__ = ["Criterion", "Held", "every", "of", "of_kind", "register", "title", "where", "withdraw"]
