"""Where the cut tooth is looked for: an earlier scan of other teeth has no say in it."""

from __future__ import annotations

import numpy as np
import pytest
from long import first
from solids import Stump, facing

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface, merge
from vane_line.core.placed import Placed, place
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber

TOP = np.array([0.0, 0.0, 5.0])


def stranger(beside_mm: float) -> Surface:
    """Another mouth's teeth: smaller ones with wider gaps, drawn out of shape. A third of them fits by chance."""
    other = Stump(grid_mm=0.24, mesial_mm=3.4, facial_mm=4.4, top_mm=5.4, gap_mm=2.6, seed=3, beside_mm=beside_mm)
    return other.preop().with_vertices(other.preop().vertices * [1.15, 0.85, 0.75])


def placed(stump: Stump, earlier: Surface | None, near: Floats | None) -> Placed:
    return place(
        Scans(stump.prep(), earlier, None, None), facing(ToothNumber("36"), near=near), lambda _text, _share: None
    )


@pytest.mark.parametrize("pointed_at", [True, False])
@pytest.mark.parametrize(("beside_mm", "seed"), first(1, (7.0, 6), (5.0, 5), (5.0, 6), (5.0, 7), (7.0, 7)))
def test_an_earlier_scan_of_other_teeth_moves_no_tooth(beside_mm: float, seed: int, pointed_at: bool) -> None:
    """Where a person points, and without a point, it is the tooth that is found without that scan."""
    stump, near = Stump(grid_mm=0.22, noise_um=6, seed=seed, beside_mm=beside_mm), TOP if pointed_at else None
    found, alone = (placed(stump, earlier, near) for earlier in (stranger(beside_mm), None))
    assert not found.alignment["preop"].trusted
    assert found.base is None
    np.testing.assert_allclose(found.centre, alone.centre, atol=0.05)
    assert np.hypot(*found.centre[:2]) < 0.5


def test_the_prepared_jaw_is_no_opposing_one() -> None:
    """Given for it by mistake, alone or together with the other: its teeth lie on themselves. The other jaw's meet
    them, facing them, and are trusted."""
    stump = Stump(grid_mm=0.24, noise_um=6)
    other = stump.opposing(1.0)
    for opposing, trusted in ((stump.preop(), False), (merge([stump.preop(), other]), False), (other, True)):
        scans = Scans(stump.prep(), stump.preop(), None, opposing)
        found = place(scans, facing(ToothNumber("36")), lambda _text, _share: None).alignment["opposing"]
        assert found.trusted == trusted
        assert ("prepared jaw" in found.why) != trusted
