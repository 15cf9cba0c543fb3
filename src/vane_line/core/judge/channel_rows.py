"""The contract's rows for grooves and pins."""

from __future__ import annotations

from vane_line.core.case import Geometry
from vane_line.core.channels.channel import Channel
from vane_line.core.contract.kind_rows import BudgetRow, ChannelRow
from vane_line.core.judge.criteria.channels import GROOVED
from vane_line.core.kinds.cast import CastCut


def channel_rows(geometry: Geometry) -> list[ChannelRow] | None:
    """Grooves, holes and pins that were found; None of a kind that has none."""
    if geometry.options.restoration not in GROOVED:
        return None
    return [_row(c) for c in geometry.cut.channels]


def _row(c: Channel) -> ChannelRow:
    floor = c.floor
    return ChannelRow(
        kind=c.kind, side=c.side, direction=c.direction, to_path_deg=c.to_path_deg, diameter_mm=c.diameter_mm,
        depth_mm=c.depth_mm, depth_is_least=c.depth_is_least, length_mm=c.length_mm, above_line_mm=c.above_line_mm,
        cover_mm=c.cover_mm, way_out=c.way_out, ledge_mm=floor.width_mm if floor else None,
        ledge_slope_deg=floor.slope_deg if floor else None, at=c.at,
    )  # fmt: skip


def budget_row(geometry: Geometry) -> BudgetRow | None:
    """The tooth left where it is least beside a pin."""
    found = geometry.cut.budget if isinstance(geometry.cut, CastCut) else None
    return None if found is None else BudgetRow(thickness_mm=found.thickness_mm, left_mm=found.left_mm, at=found.at)
