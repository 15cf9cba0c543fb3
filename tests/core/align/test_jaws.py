"""Where a scan cannot show the opposing teeth: turned away, elsewhere, beside the row, deep in uncut teeth."""

from __future__ import annotations

from functools import partial

import numpy as np
import pytest
from long import first
from scipy.spatial.transform import Rotation
from solids import Stump, facing, placed

from vane_line.core.align.crowns import Crowns
from vane_line.core.align.jaws import BESIDE, FAR_OFF, INTO, TURNED, why_not_opposing
from vane_line.core.arrays import Bools, Floats
from vane_line.core.options import Options
from vane_line.core.placed import place
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.cases import MadeCase

STUMP = Stump(grid_mm=0.24, noise_um=6)
UP = np.array([0.0, 0, 1])
CUT_MM = 7.0  # across, about the prepared tooth's middle


def motion(turned_deg: tuple[float, float, float] = (0, 0, 0), by_mm: tuple[float, float, float] = (0, 0, 0)) -> Floats:
    """(4, 4) turned about x, y and z, then moved."""
    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.from_euler("xyz", turned_deg, degrees=True).as_matrix()
    matrix[:3, 3] = by_mm
    return matrix


def of_stump(points: Floats) -> Bools:
    """(N,) whether points (N, 3) may be of the tooth that was cut."""
    return np.asarray(np.hypot(points[:, 0], points[:, 1]) < CUT_MM)


@pytest.mark.parametrize(
    ("matrix", "why"),
    [
        (motion(), ""),
        (motion(by_mm=(0, 0, 2.0)), ""),  # an open bite is told by the bite's own check
        (motion(by_mm=(0, 0, -0.4)), ""),  # and one that is a little too closed
        (motion((15, 0, 0), (0, 0, 3.0)), ""),
        (motion((0, 0, 180)), ""),  # plates know no right and left
        (motion((180, 0, 0), (0, 0, 18.0)), TURNED),
        (motion((0, 70, 0), (0, 0, 9.0)), TURNED),
        (motion(by_mm=(0, 0, 9.0)), FAR_OFF),
        (motion(by_mm=(60.0, 0, 0)), FAR_OFF),
        (motion(by_mm=(0, 14.0, 0)), BESIDE),
        (motion(by_mm=(0, 0, -1.6)), INTO),
    ],
)
def test_where_opposing_teeth_can_be(matrix: Floats, why: str) -> None:
    prep = STUMP.prep()
    told = why_not_opposing(prep, placed(STUMP.opposing(1.0), matrix), Crowns.of(prep, UP), of_stump)
    assert told == why


def test_teeth_that_reach_into_the_cut_one_alone_are_possible() -> None:
    """Its own opponent may have grown into the gap; that is a clearance below nought, not another place."""
    prep = STUMP.prep()
    stands_in = STUMP.opposing(-1.5)
    assert why_not_opposing(prep, stands_in, Crowns.of(prep, UP), of_stump) == ""
    assert why_not_opposing(prep, stands_in, Crowns.of(prep, UP)) == INTO  # as before cutting


@pytest.mark.parametrize("given", ["prep", "preop"])
def test_the_frame_that_it_came_in_is_named(given: str) -> None:
    """Exported with the other scan: the place it was declared to be in is refused, the one it fits in is named."""
    away = motion((20, 100, 35), (25, -18, 9))
    earlier, over = placed(STUMP.preop(), away), STUMP.opposing(1.0)
    fits = "preop" if given == "prep" else "prep"
    opposing = placed(over, away) if fits == "preop" else over
    for frame in (given, fits):
        options = facing(ToothNumber("36"), opposing_frame=frame)
        found = place(Scans(STUMP.prep(), earlier, None, opposing), options, lambda _text, _share: None)
        told = found.alignment["opposing"]
        assert told.trusted == (frame == fits)
        assert ("bite's position" in told.why and f"opposing-frame {fits}" in told.why) == (frame == given)


@pytest.mark.parametrize("case", first(2, "tipped_case", "incisor_case", "demo_case"))
def test_lifelike_scans_in_any_place(case: str, request: pytest.FixtureRequest) -> None:
    """In its place trusted. Anywhere else nearly never, and then the other teeth do not meet: nothing is proven."""
    made: MadeCase = request.getfixturevalue(case)
    prep, options = made.prep, Options(ToothNumber(made.recipe.tooth), opposing_frame="preop")
    there = place(Scans(prep, made.preop, None, made.opposing), options, lambda _text, _share: None)
    assert there.alignment["opposing"].trusted
    why_not = partial(why_not_opposing, prep, crowns=there.crowns, cut=partial(_about, there.centre, there.crowns.up))
    assert there.opposing is not None
    passed = []
    for seed in range(16):
        rng = np.random.default_rng(seed)
        matrix = np.eye(4)
        matrix[:3, :3] = Rotation.random(random_state=seed).as_matrix()
        matrix[:3, 3] = there.centre - matrix[:3, :3] @ there.centre + rng.normal(0, 5, 3)
        if not why_not(placed(there.opposing, matrix)):
            passed.append(seed)
    assert len(passed) <= 1, passed


def _about(centre: Floats, up: Floats, points: Floats) -> Bools:
    off = points - centre
    return np.asarray(np.linalg.norm(off - (off @ up)[:, None] * up, axis=1) < CUT_MM)
