"""Burs as rulers: sizes, sinking, and what they must not be sunk beyond."""

from __future__ import annotations

import pytest

from vane_line.core.burs import Bur, as_row, for_depth, for_ledge, generic, parse_bur
from vane_line.core.plan.sequence import BURS, DEPTHS, built_in, parse_sequence
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption

TRAY = generic()


def test_the_size_number_is_the_largest_diameter_in_tenths() -> None:
    """ISO 6360: 016 is 1.6 mm. Every bur of the set says its own."""
    assert next(b for b in TRAY if b.id == "round-end-taper-016").size == "016"
    assert all(b.id.replace("-fine", "").endswith(b.size) for b in TRAY)


def test_a_chamfer_is_as_deep_as_half_the_tip_at_most() -> None:
    """0.8 wants a tip of 1.6, sunk by half; deeper leaves a raised lip (common practice, no source)."""
    use = for_ledge(0.8, ("chamfer",), TRAY)
    assert use is not None
    assert use.bur.tip == "round"
    assert use.bur.tip_mm == 1.6
    assert use.words == "half the tip, 0.8 of 1.6"
    assert "0.8 mm, half its tip" in use.beyond
    assert for_ledge(1.6, ("chamfer",), TRAY) is None  # no tip of the set is 3.2


@pytest.mark.parametrize(("width", "tip"), [(0.8, 0.8), (1.0, 1.3), (1.2, 1.3), (1.5, 1.7)])
def test_a_rounded_shoulder_takes_the_narrowest_flat_end_that_covers_it(width: float, tip: float) -> None:
    """Never one that is narrower than the ledge."""
    use = for_ledge(width, ("rounded-shoulder", "heavy-chamfer"), TRAY)
    assert use is not None
    assert use.bur.tip == "flat-rounded"
    assert use.bur.tip_mm == tip


@pytest.mark.parametrize(
    ("depth", "bur", "words"),
    [
        (1.0, "ball-010", "its whole diameter, 1.0 of 1.0"),
        (1.5, "ball-014", "its whole diameter, 1.4 of 1.4, then 0.1 more by eye"),
        (2.0, "ball-018", "its whole diameter, 1.8 of 1.8, then 0.2 more by eye"),
        (0.7, "ball-014", "half its diameter, 0.7 of 1.4"),
    ],
)
def test_a_depth_is_measured_by_the_bur_that_comes_nearest_without_going_deeper(
    depth: float, bur: str, words: str
) -> None:
    """Worked by hand from the set's sizes."""
    use = for_depth(depth, TRAY)
    assert use is not None
    assert (use.bur.id, use.words) == (bur, words)
    assert use.sink_mm <= depth + 0.05


GOOD = as_row(TRAY[0])


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"tip_mm": 3.0}, "tip ≤ largest"), ({"diameter_mm": 16.0}, "mm"), ({"length_mm": 80}, "unit is mm"),
        ({"tip": "hook"}, "tip hook"), ({"grit": "rough"}, "grit rough"), ({"taper_deg": 60}, "taper"),
        ({"title": ""}, "title"), ({"tip_mm": "x"}, "needed"),
    ],
)  # fmt: skip
def test_a_bur_that_cannot_be_is_refused(change: dict[str, object], words: str) -> None:
    """With what is wrong."""
    with pytest.raises(BadOption, match=words):
        parse_bur({**GOOD, **change})
    assert isinstance(parse_bur(GOOD), Bur)


def test_sequences_are_whole_and_slips_in_them_are_named() -> None:
    """Every kind that is planned has orders of work for its teeth; every step knows its depth and bur."""
    for tooth, kind in (
        ("36", "full-crown"),
        ("11", "full-crown"),
        ("11", "veneer"),
        ("24", "veneer"),
        ("46", "onlay"),
        ("16", "overlay"),
        ("55", "child-crown"),
        ("51", "child-crown"),
        ("26", "partial-crown"),
    ):
        assert sum(s.serves(ToothNumber(tooth), kind) for s in built_in().values()) >= 2
    assert not built_in()["front-planes"].serves(ToothNumber("11"), "veneer")
    for sequence in built_in().values():
        assert all(s.depth in DEPTHS and s.bur in BURS and s.title for s in sequence.steps)
        told = {"inlay": "floor", "onlay": "floor", "child-crown": "occlusal", "pin-casting": "lingual"}
        own = next((told[kind] for kind in sequence.restorations if kind in told), "finish-line")
        assert any(s.depth == own for s in sequence.steps)
    one = {"id": "x", "title": "x", "teeth": "back", "step": [{"title": "a"}]}
    assert parse_sequence(one, "x").steps[0].title == "a"
    for slip, words in (
        ({"step": []}, "1 to 30"), ({"step": [{"title": ""}]}, "no title"), ({"teeth": "some"}, "back, front, all"),
        ({"restorations": []}, "name the restorations"), ({"restorations": ["hat"]}, "hat"),
        ({"step": [{"title": "a", "bur": "axe"}]}, "bur axe"), ({"step": [{"title": "a", "depth": "deep"}]}, "depth"),
    ):  # fmt: skip
        with pytest.raises(BadOption, match=words):
            parse_sequence({**one, **slip}, "mine")
