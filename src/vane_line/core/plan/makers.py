"""Which maker makes a kind's target, by the name that the kind gives."""

from __future__ import annotations

from collections.abc import Callable

from vane_line.core import kinds
from vane_line.core.plan.planner import Plan, make_plan
from vane_line.errors import BadOption

MAKERS: dict[str, Callable[..., Plan]] = {"die": make_plan}


def maker_of(restoration: str) -> Callable[..., Plan]:
    """The maker of a restoration's target; takes and gives what `make_plan` does. Raises BadOption for a kind that is
    not known."""
    kind = kinds.of(restoration)
    if kind.plan is None:
        raise BadOption(f"{kind.title}: no plan before cutting is made for this kind yet; check and correct it.")
    return MAKERS[kind.plan]
