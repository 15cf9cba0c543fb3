"""Contacts in closed form: balls over a flat plane, before and after.

A ball of radius R that stands g over a plane is nearer than d to it over a disc of pi((R + d)^2 - (R + g)^2).
"""

from __future__ import annotations

import numpy as np
import pytest
from solids import plate, sphere, turned

from vane_line.core.measure.contacts import (
    CONTACT_MM,
    LOOKED_AT_MM,
    _may_touch,
    area_under,
    find_contacts,
    gaps_by_tooth,
    support_of,
)
from vane_line.core.mesh.surface import Surface, merge

UP = np.array([0.0, 0, 1])
BALL_MM = 3.0
PLACES = ((-8.0, -1.5), (0.0, 2.0), (8.0, -1.0))


def teeth(step: float = 0.2, noise_um: float = 0.0, seed: int = 1) -> Surface:
    """A flat row of teeth."""
    flat = plate(-13, 13, -5, 5, 0.0, step)
    noise = noise_um / 1000 * np.random.default_rng(seed).standard_normal(flat.n_vertices)
    return flat.with_vertices(flat.vertices + noise[:, None] * UP)


def balls(gaps: tuple[float, ...], places: tuple[tuple[float, float], ...] = PLACES) -> Surface:
    """Opposing cusps that stand `gaps` over the row."""
    return merge([sphere(BALL_MM, (x, y, BALL_MM + g), 0.12) for (x, y), g in zip(places, gaps, strict=True)])


def disc(gap: float) -> float:
    return float(np.pi * ((BALL_MM + CONTACT_MM) ** 2 - (BALL_MM + gap) ** 2))


def nobody(surface: Surface) -> np.ndarray:
    return np.zeros(surface.n_vertices, dtype=bool)


@pytest.mark.parametrize(("step", "noise_um"), [(0.2, 0.0), (0.13, 0.0), (0.2, 9.0)])
def test_place_gap_and_area_of_each_contact(step: float, noise_um: float) -> None:
    gaps = (0.0, 0.05, -0.03)
    row = teeth(step, noise_um)
    found = find_contacts(row, balls(gaps), nobody(row), UP)
    assert [c.change for c in found.rows] == ["alone"] * 3
    for (x, y), gap in zip(PLACES, gaps, strict=True):
        one = min(found.rows, key=lambda c: np.hypot(c.at[0] - x, c.at[1] - y))
        assert np.hypot(one.at[0] - x, one.at[1] - y) < 0.35
        assert one.gap_mm == pytest.approx(gap, abs=0.012)
        assert one.after.mm2 == pytest.approx(disc(gap), rel=0.06)
        assert one.before is None


def test_what_stands_off_is_no_contact() -> None:
    row = teeth()
    found = find_contacts(row, balls((0.0, 0.18, 0.4)), nobody(row), UP)
    assert len(found.rows) == 1
    assert found.support.places == 1
    assert not found.support.stands


def test_new_lost_heavier_and_lighter() -> None:
    row = teeth()
    before, after = balls((0.0, 0.3, 0.08)), balls((0.3, 0.0, -0.06))
    found = find_contacts(row, after, nobody(row), UP, row, nobody(row), before)
    told = {round(c.at[0] / 8): c for c in found.rows}
    assert told[-1].change == "lost"
    assert told[-1].after.mm2 == pytest.approx(0.0, abs=1e-9)
    assert told[0].change == "new"
    assert told[0].before.mm2 == pytest.approx(0.0, abs=1e-9)
    assert told[1].change == "heavier"
    assert (told[1].before.mm2, told[1].after.mm2) == (
        pytest.approx(disc(0.08), rel=0.1), pytest.approx(disc(-0.06), rel=0.05),
    )  # fmt: skip
    back = find_contacts(row, before, nobody(row), UP, row, nobody(row), after)
    assert {round(c.at[0] / 8): c.change for c in back.rows} == {-1: "new", 0: "lost", 1: "lighter"}
    assert found.changed() == {"lost": 1, "new": 1, "heavier": 1}


@pytest.mark.parametrize("gap", [0.02, 0.05, 0.08])
def test_what_the_bite_s_own_spread_explains_is_no_change(gap: float) -> None:
    """Recorded twice, 0.02 apart: less than twice the spread of such records."""
    row = teeth(noise_um=8)
    then, now = balls((gap,) * 3), balls((gap - 0.02,) * 3)
    found = find_contacts(row, now, nobody(row), UP, teeth(noise_um=8, seed=2), nobody(row), then)
    assert {c.change for c in found.rows} == {"kept"}
    assert found.changed() == {}


def test_a_tooth_that_has_moved_meanwhile() -> None:
    """Grown by 0.25 into the opposing cusp while it waited for its crown's neighbour."""
    flat = teeth()
    moved = flat.vertices + np.where(np.abs(flat.vertices[:, :1] - 8) < 3, 0.25, 0.0) * UP
    found = find_contacts(flat.with_vertices(moved), balls((0.0, 0.0, 0.25)), nobody(flat), UP, flat, nobody(flat))
    assert {round(c.at[0] / 8): c.change for c in found.rows} == {-1: "kept", 0: "kept", 1: "new"}


def test_the_tooth_s_own_contacts_are_those_before_cutting() -> None:
    row = teeth()
    own = np.abs(row.vertices[:, 0]) < 4
    cut = row.with_vertices(row.vertices - np.where(own, 1.5, 0.0)[:, None] * UP)
    found = find_contacts(cut, balls((0.0,) * 3), own, UP, row, own)
    assert sorted((c.own, c.change) for c in found.rows) == [(False, "kept"), (False, "kept"), (True, "cut")]
    assert found.rows[-1].before.mm2 == pytest.approx(disc(0.0), rel=0.06)
    assert found.rows[-1].after is None


def test_in_any_position_and_order() -> None:
    row, over = teeth(), balls((0.0, 0.05, -0.03))
    there = turned((0.3, 1, 0.2), 130, (40.0, -7, 12))
    random = np.random.default_rng(3)
    order, mixed = random.permutation(row.n_vertices), random.permutation(row.n_faces)
    shuffled = Surface(row.vertices[order], np.argsort(order)[row.faces][mixed]).moved(there)
    a = find_contacts(row, over, nobody(row), UP)
    b = find_contacts(shuffled, over.moved(there), nobody(row), there[:3, :3] @ UP)
    assert len(a.rows) == 3
    for one, other in zip(a.rows, b.rows, strict=True):  # in the same order, told by place and not by vertex
        assert np.array(other.at) == pytest.approx((there @ [*one.at, 1])[:3], abs=1e-6)
        assert one.after is not None
        assert other.after is not None
        assert one.after.mm2 == pytest.approx(other.after.mm2, abs=1e-6)
        assert one.gap_mm == pytest.approx(other.gap_mm, abs=1e-6)


def test_area_under_a_level_of_a_plane_field() -> None:
    """A field x over the unit square is below t on t of it."""
    square = plate(0, 1, 0, 1, 0.0, 0.1)
    x = square.vertices[:, 0]
    for level in (-0.1, 0.0, 0.13, 0.5, 0.97, 1.0, 1.2):
        below = area_under(x[square.faces], square.face_areas, level).sum()
        assert below == pytest.approx(np.clip(level, 0, 1), abs=1e-12)


def test_whether_a_bite_stands() -> None:
    stands = support_of(np.array([[-8.0, -1.5, 0], [0, 2.0, 0], [8, -1.0, 0]]))
    assert stands.places == 3
    assert stands.stands
    assert stands.span_mm == pytest.approx(np.hypot(16, 0.5))
    assert not support_of(np.array([[-8.0, 0, 0], [0, 0.2, 0], [8, 0, 0]])).stands  # on one line
    assert not support_of(np.array([[0.0, 0, 0], [2, 2, 0], [3, 0, 0]])).stands  # on one tooth
    assert support_of(np.zeros((0, 3))).places == 0


def test_nothing_near() -> None:
    row = teeth()
    found = find_contacts(row, balls((30.0,) * 3), nobody(row), UP, row, nobody(row))
    assert found.rows == ()
    assert found.support.places == 0


def test_by_how_much_each_tooth_would_be_built_up() -> None:
    """Opened by 1.2, a cusp that met is 1.2 short along the way that it is built up, wherever it met."""
    row = teeth()
    over = balls((0.0, 0.3, 0.0))
    opened = over.with_vertices(over.vertices + 1.2 * UP)

    def named(place: np.ndarray) -> str:
        return "35" if place[0] > 4 else "36" if place[0] > -4 else "37"

    own = np.abs(row.vertices[:, 0]) < 4
    found = gaps_by_tooth(row, own, opened, UP, named)
    assert [(g.tooth, g.gap_mm) for g in found] == [
        ("35", pytest.approx(1.2, abs=0.03)), ("37", pytest.approx(1.2, abs=0.03)),
    ]  # fmt: skip
    steep = row.with_vertices(row.vertices + (0.7 * row.vertices[:, :1]) * UP)
    lower = Surface(steep.vertices + 0.9 * UP, steep.faces[:, ::-1].copy())
    assert gaps_by_tooth(steep, nobody(row), lower, UP, lambda _p: "36")[0].gap_mm == pytest.approx(0.9, abs=1e-6)


@pytest.mark.parametrize("step", [0.2, 0.5])
def test_what_is_looked_at_holds_all_that_touches(step: float) -> None:
    """By corners alone no place near the opposing teeth, or behind them, is passed over; most of what is far is."""
    random = np.random.default_rng(3)
    points = random.uniform((-8, -4, -1.5), (8, 4, 4.0), (4000, 3))
    opposing = merge([teeth(step), balls((0.4, 0.5, 0.6))])
    gap, looked = opposing.gap(points), _may_touch(opposing, points)
    assert looked[gap < LOOKED_AT_MM].all()
    assert (gap < LOOKED_AT_MM).sum() > 400
    far = gap > LOOKED_AT_MM + step
    assert looked[far].mean() < 0.25
    assert far.sum() > 400
