"""What is known of a tooth and its patient that no scan shows: each a tick, never a diagnosis, and what it changes.

Common practice, no source, unless a line says otherwise. The words go onto plan, sheet and record; figures stay those
of the standard.
"""

from __future__ import annotations

from dataclasses import dataclass

from vane_line.errors import BadOption


@dataclass(frozen=True)
class Fact:
    """title: as it is ticked. changes: what it asks for, in a sentence."""

    title: str
    changes: str


FACTS: dict[str, Fact] = {
    "grinding": Fact(
        "grinds or clenches",
        "Grinding: cut to the target, not to the minimum; prefer metal or zirconia where teeth meet, clear every "
        "movement, and plan a splint.",
    ),
    "deep-bite": Fact(
        "deep bite",
        "Deep bite: room behind upper front teeth is short; judge the clearance while the jaw moves, and decide on the "
        "bite's height before the first cut.",
    ),
    "acid-wear": Fact(
        "worn by acid",
        "Acid wear: the surface before cutting is not the tooth as it was; plan on a mock-up, cut as little as that "
        "asks, and bond; find the cause first.",
    ),
    "discoloured": Fact(
        "discoloured",
        "Discoloured: a translucent restoration needs 0.2 to 0.3 mm more to cover it, or an opaque core; tell the "
        "laboratory the colour of the stump.",
    ),
    "young-pulp": Fact(
        "young, a large pulp",
        "A large pulp: stay at the minimum on the walls, prefer the thinner material, cut under spray, and look at the "
        "radiograph before any groove or pin.",
    ),
    "opposing-ceramic": Fact(
        "ceramic opposite",
        "Ceramic opposite: the surfaces that meet are to be polished; where one is to be adjusted, plan which.",
    ),
    "short-tooth": Fact(
        "short crown",
        "Short crown: keep every millimetre of wall; bond, or use grooves and boxes, before anything is taken off "
        "the gingiva or the bone.",
    ),
}


def known(names: tuple[str, ...]) -> tuple[str, ...]:
    """The names, each once, in the order of FACTS. Raises BadOption for one that is none."""
    for name in names:
        if name not in FACTS:
            raise BadOption(f"fact {name}: use one of {', '.join(FACTS)}.")
    return tuple(name for name in FACTS if name in names)


def words(names: tuple[str, ...]) -> list[str]:
    """What they change, a sentence each."""
    return [FACTS[name].changes for name in names]
