"""How far an outline keeps from the opposing teeth's contacts, on a ball over a plate: circles of known radius."""

from __future__ import annotations

from types import SimpleNamespace

import numpy as np
import pytest
from solids import sphere

from vane_line.core.judge.criteria import space
from vane_line.core.judge.limits import Limits
from vane_line.core.measure.reduction import summarise
from vane_line.core.measure.zones import Zones
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.contacts import CONTACT_MM, SPREAD_MM, to_contacts

BALL_MM = 4.0


def plate(step: float = 0.05, half: float = 3.0) -> Surface:
    at = np.arange(-half, half + step, step)
    x, y = np.meshgrid(at, at, indexing="ij")
    n = len(at)
    index = np.arange(n * n).reshape(n, n)
    a, b, c, d = (index[s].ravel() for s in (np.s_[:-1, :-1], np.s_[1:, :-1], np.s_[1:, 1:], np.s_[:-1, 1:]))
    return Surface(np.stack([x.ravel(), y.ravel(), 0 * x.ravel()], axis=1),
                   np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)]))  # fmt: skip


def circle(gap: float, within: float) -> float:
    """Radius within which a ball stands nearer than `within` to a plate that it clears by `gap`."""
    return float(np.sqrt(2 * BALL_MM * (within - gap))) if within > gap else 0.0


@pytest.mark.parametrize("gap", [0.0, 0.02])
def test_distances_to_a_contact_of_known_size(gap: float) -> None:
    ball = sphere(BALL_MM, (0.0, 0.0, BALL_MM + gap), 0.1)
    outline = np.array([[2.5, 0.0, 0.0], [0.0, 2.0, 0.0]])
    found = to_contacts(outline, plate(), ball)
    assert found.away == pytest.approx([2.5 - circle(gap, CONTACT_MM), 2.0 - circle(gap, CONTACT_MM)], abs=0.06)
    assert found.least_mm == pytest.approx(2.0 - circle(gap, CONTACT_MM + SPREAD_MM), abs=0.06)
    assert found.most_mm == pytest.approx(2.0 - circle(gap, CONTACT_MM - SPREAD_MM), abs=0.06)


def test_what_hardly_meets_is_no_sure_contact() -> None:
    """A ball a little further than what surely meets: a contact, but only perhaps; further, none."""
    outline = np.array([[2.0, 0.0, 0.0]])
    perhaps = to_contacts(outline, plate(), sphere(BALL_MM, (0.0, 0.0, BALL_MM + 0.05), 0.1))
    assert np.isfinite(perhaps.away).all()
    assert np.isnan(perhaps.most_mm)
    none = to_contacts(outline, plate(), sphere(BALL_MM, (0.0, 0.0, BALL_MM + 0.2), 0.1))
    assert np.isnan(none.away).all()
    assert np.isnan(none.least_mm)


def test_a_zone_of_almost_no_area_is_not_judged() -> None:
    """One vertex of a zone is no place to cut: it is told as not measured, and the rest goes on."""
    surface = plate(0.1, 1.0)
    index = np.zeros(surface.n_vertices, dtype=np.int64)
    index[5] = 1
    value = np.full(surface.n_vertices, 1.3)
    rows, _ = summarise(surface, value, value, np.zeros(len(value), dtype=bool), Zones(["distal", "mesial"], index))
    held = SimpleNamespace(
        geometry=SimpleNamespace(
            bite=SimpleNamespace(gap_mm=0.0, note=""), reasons={}, pose=SimpleNamespace(name="mip"),
            options=SimpleNamespace(tooth=SimpleNamespace(front=False)),
            anatomy=SimpleNamespace(cusps={"distal": None, "mesial": None}),
        ),
        clearance=SimpleNamespace(zones=rows, u_low=lambda _zone: 0.0), side_unknown="", opposing_align_mm=0.0,
        limits_of=lambda _zone, clearance: Limits(1.0, 1.5, 2.0, "made up"),
        budget=SimpleNamespace(clearance=lambda _a, _b: 0.05), standard=SimpleNamespace(reason=""),
    )  # fmt: skip
    told = {v.zone: v.status for v in space._clearance(held)}  # type: ignore[arg-type]
    assert told == {"distal": "meets", "mesial": "not-measured"}
