"""The opposing teeth recorded twice: contacts before cutting come from the bite before, on the demo's 36."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.case import Geometry, measure
from vane_line.core.files import Measurement
from vane_line.core.measure.contacts import Contact
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.cases import MadeCase
from vane_line.errors import BadOption

OPEN_MM = 1.0  # so far that steep slopes come apart too


def measured(case: MadeCase, before: Surface | None) -> Geometry:
    scans = Scans(case.prep, case.preop, None, case.opposing, before)
    return measure(scans, Options(ToothNumber("36"), opposing_frame="preop"))


@pytest.fixture(scope="module")
def usual(demo_measured: Measurement) -> Geometry:
    """With the one bite there is."""
    return demo_measured.geometry


def others(geometry: Geometry) -> list[Contact]:
    assert geometry.meeting.contacts is not None
    return [c for c in geometry.meeting.contacts.rows if not c.own]


@pytest.mark.long
def test_the_same_bite_given_twice_changes_nothing(demo_case: MadeCase, usual: Geometry) -> None:
    """Told by the bite before or taken from the one there is: the same contacts, the same areas."""
    once, twice = ({c.tooth: c for c in others(g)} for g in (usual, measured(demo_case, demo_case.opposing)))
    assert {t: c.change for t, c in once.items()} == {t: c.change for t, c in twice.items()}
    for tooth, a in once.items():
        b = twice[tooth]
        assert a.before is not None
        assert b.before is not None
        assert b.before.mm2 == pytest.approx(a.before.mm2, abs=0.02)


def test_a_bite_that_was_open_before_makes_the_contacts_new(demo_case: MadeCase, usual: Geometry) -> None:
    """The opposing teeth stood off when the bite was first recorded: what meets now met nothing then."""
    assert demo_case.opposing is not None
    moved = np.eye(4)
    back = np.linalg.inv(usual.alignment["preop"].matrix)
    moved[:3, 3] = OPEN_MM * (back[:3, :3] @ usual.frame.occlusal)
    found = others(measured(demo_case, demo_case.opposing.moved(moved)))
    assert found
    sure = [c for c in found if c.after is not None and c.after.least_mm2 > 0]
    assert len(sure) >= 3
    assert {c.change for c in sure} == {"new"}
    assert {c.change for c in found} <= {"new", "kept"}  # what hardly meets may have met before as well


@pytest.mark.long
def test_a_bite_before_needs_the_scan_before(demo_case: MadeCase) -> None:
    with pytest.raises(BadOption, match="opposing_before: give the preop scan"):
        measure(Scans(demo_case.prep, None, None, demo_case.opposing, demo_case.opposing), Options(ToothNumber("36")))
