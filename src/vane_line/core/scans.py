"""The surfaces that one measurement is taken from."""

from __future__ import annotations

from dataclasses import dataclass, field

from vane_line.core.mesh.surface import Surface


@dataclass(frozen=True, eq=False)
class Scans:
    """The surfaces of one measurement in mm, by role, each in its own coordinates.

    opposing_before: the opposing teeth as the bite was recorded before cutting, in the preop scan's coordinates.
    """

    prep: Surface
    preop: Surface | None = None
    mockup: Surface | None = None
    opposing: Surface | None = None
    opposing_before: Surface | None = None
    names: dict[str, str] = field(default_factory=dict)
    warnings: tuple[str, ...] = ()
