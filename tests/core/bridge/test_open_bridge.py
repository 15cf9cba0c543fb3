"""Abutments whose walls have no one slope leave the bridge's path, and the angle between them, as much less sure."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
from solids import Stump
from spans import PONTIC, Span

from vane_line.core.arrays import Floats
from vane_line.core.bridge.common_path import Abutment, common_path
from vane_line.core.bridge.whole import Bridge, measure_bridge
from vane_line.core.judge.bridge import U_ANGLE_DEG, U_DRAFT_DEG, judge_bridge

BACK = Stump(facial_mm=4.8, mesial_mm=4.8)


class Leaning(Stump):
    """Its mesial wall stands for 1.0 as the others do and leans in by 14 degrees more above: either may be its own."""

    def cut(self, p: Floats) -> Floats:
        more = np.tan(np.radians(14.0)) * np.clip(p[:, 2] - 2.6, 0, None)
        return super().cut(p + np.stack([np.where(p[:, 0] > 0, more, 0.0), 0 * more, 0 * more], axis=1))


@cache
def measured(back: Stump) -> Bridge:
    span = Span(back=back, grid_mm=0.28, tip_deg=10.0)
    return measure_bridge(span.scans(False), span.options(), [PONTIC])


def u_of(bridge: Bridge, criterion: str) -> float:
    (row,) = {v.U for v in judge_bridge(bridge, "zirconia") if v.criterion == criterion}
    assert row is not None
    return row


@pytest.mark.long
def test_a_wall_of_two_planes_leaves_path_and_angle_less_sure() -> None:
    plain, broken = measured(BACK), measured(Leaning(facial_mm=4.8, mesial_mm=4.8))
    assert u_of(plain, "common-path") < 1.3 * U_DRAFT_DEG
    assert u_of(plain, "abutment-angle") < 1.5 * U_ANGLE_DEG
    for criterion in ("common-path", "abutment-angle"):
        assert u_of(broken, criterion) > 1.5 * u_of(plain, criterion), criterion


def cone(tooth: str, tip_deg: float, taper_deg: float = 6.0) -> Abutment:
    """Walls all round that lean in by a taper, tipped towards mesial."""
    azimuth, taper, tip = np.radians(np.arange(0, 360, 3.0)), np.radians(taper_deg), np.radians(tip_deg)
    normals = np.stack([np.cos(azimuth) * np.cos(taper), np.sin(azimuth) * np.cos(taper),
                        np.full(len(azimuth), np.sin(taper))], axis=1)  # fmt: skip
    turn = np.array([[np.cos(tip), 0, np.sin(tip)], [0, 1, 0], [-np.sin(tip), 0, np.cos(tip)]])
    return Abutment(tooth, normals @ turn.T, np.ones(len(azimuth)), np.array([0.0, 1, 0]), turn[:, 0], turn[:, 2])


def test_told_otherwise_the_draft_is_open_by_what_it_would_be() -> None:
    """Two cones 10 degrees apart, one of which may as well stand 4 degrees further: half of that is open."""
    path, other = (common_path([cone("35", 0.0), cone("37", tip)]) for tip in (10.0, 14.0))
    assert path.or_else([path, other]).open_deg == pytest.approx(2.0, abs=0.3)
    assert path.or_else([]).open_deg == path.open_deg == 0.0
