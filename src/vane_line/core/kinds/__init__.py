"""Kinds of restoration: a kind is one record here, and nothing else asks which it is by name."""

from __future__ import annotations

from vane_line.core.kinds.cast import CASTINGS
from vane_line.core.kinds.cavity import CAVITIES
from vane_line.core.kinds.child import CHILD_CROWN
from vane_line.core.kinds.full_crown import FULL_CROWN
from vane_line.core.kinds.kind import Kind, Reader
from vane_line.core.kinds.window import VENEER
from vane_line.errors import BadOption

_ALL: dict[str, Kind] = {kind.name: kind for kind in (FULL_CROWN, VENEER, *CAVITIES, *CASTINGS, CHILD_CROWN)}


def of(restoration: str) -> Kind:
    """The kind of a restoration by its name in the contract. Raises BadOption for one that is not known."""
    found = _ALL.get(restoration)
    if found is None:
        raise BadOption(f"restoration {restoration}: it cannot be judged yet; use one of {', '.join(_ALL)}.")
    return found


def every() -> list[Kind]:
    """In the order in which they are offered."""
    return list(_ALL.values())


def register(kind: Kind) -> None:
    """Add a kind. Raises ValueError where the name is taken."""
    if kind.name in _ALL:
        raise ValueError(f"there is a kind {kind.name} already")
    _ALL[kind.name] = kind


def withdraw(name: str) -> None:
    """Take a kind out again."""
    _ALL.pop(name)


__all__ = ["Kind", "Reader", "every", "of", "register", "withdraw"]
