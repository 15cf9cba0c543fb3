"""Zones by anatomy and by template; names that never change."""

from __future__ import annotations

import re

import numpy as np
import pytest

from vane_line.core.case import Geometry
from vane_line.core.files import Measurement
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.measure.zones import is_functional, words
from vane_line.core.tooth.anatomy import TEMPLATES, size_of, template
from vane_line.core.tooth.crossbite import FunctionalSide
from vane_line.core.tooth.notation import ToothNumber

CUSPS = "mesiofacial|distofacial|mesiolingual|distolingual|distal|facial|lingual"
CONTRACT_ZONE = re.compile(
    rf"((non-)?functional-cusp/({CUSPS})|functional-cusp-bevel|central-groove|facial-groove|lingual-groove"
    r"|marginal-ridge/(mesial|distal)|wall/(facial|mesial|lingual|distal)/(cervical|middle|occlusal)"
    r"|finish-line-band|incisal-edge)"
)


def test_every_zone_has_a_contract_name(demo_measured: Measurement) -> None:
    """Names are fixed; a lower first molar has five cusps, three of them facial and working."""
    names = demo_measured.judgement.zones.names
    assert all(CONTRACT_ZONE.fullmatch(n) for n in names)
    cusps = {n for n in names if "cusp/" in n}
    assert cusps == {
        "functional-cusp/mesiofacial", "functional-cusp/distofacial", "functional-cusp/distal",
        "non-functional-cusp/mesiolingual", "non-functional-cusp/distolingual",
    }  # fmt: skip
    assert demo_measured.document["zone_source"] == "reference"


def test_every_inside_vertex_belongs_to_one_zone(demo_measured: Measurement) -> None:
    """Nothing inside the finish line is left unjudged."""
    zones = demo_measured.judgement.zones
    area = demo_measured.geometry.inside.vertex_areas
    assert area[zones.index < 0].sum() < 0.01 * area.sum()


def test_a_flat_tooth_gets_its_class_s_template_and_says_so(stump_geometry: Geometry) -> None:
    """No cusps on the earlier surface: the template is laid on the preparation, with a warning."""
    assert stump_geometry.anatomy.source == "template"
    assert any("template" in w for w in stump_geometry.warnings)
    names = judge(stump_geometry, choose("zirconia", "full-crown")).zones.names
    assert "functional-cusp/mesiofacial" in names


def test_wall_thirds_lie_on_their_sides(stump_geometry: Geometry) -> None:
    """Vertices of the facial wall stand facial, of the mesial wall mesial, and thirds rise."""
    zones = judge(stump_geometry, choose("zirconia", "full-crown")).zones
    points = stump_geometry.inside.vertices
    for side, axis, sign in (("facial", 1, 1), ("lingual", 1, -1), ("mesial", 0, 1), ("distal", 0, -1)):
        levels = [points[zones.mask(f"wall/{side}/{third}")] for third in ("cervical", "middle", "occlusal")]
        assert all((sign * level[:, axis] > 1.5).all() for level in levels)
        assert np.all(np.diff([level[:, 2].mean() for level in levels]) > 0.5)


def test_a_crossbite_swaps_the_functional_cusps(stump_geometry: Geometry) -> None:
    """With the switch set, the lingual cusps of a lower molar work."""
    assert is_functional("mesiolingual", "lingual")
    assert not is_functional("mesiofacial", "lingual")
    from dataclasses import replace

    crossed = replace(stump_geometry, functional=FunctionalSide("lingual", "given"))
    names = judge(crossed, choose("zirconia", "full-crown")).zones.names
    assert "functional-cusp/mesiolingual" in names
    assert "non-functional-cusp/mesiofacial" in names


@pytest.mark.parametrize("number", [f"{q}{p}" for q in (1, 2, 3, 4) for p in range(1, 9)])
def test_every_permanent_tooth_has_a_size_and_back_teeth_a_template(number: str) -> None:
    """Premolars two cusps, upper molars four, lower first molars five (Wheeler; from memory)."""
    tooth = ToothNumber(number)
    assert all(v > 3 for v in size_of(tooth))
    expected = 0 if tooth.front else {"4": 2, "5": 2, "6": 4 if tooth.upper else 5, "7": 4, "8": 4}[number[1]]
    assert len(template(tooth)) == expected
    assert sum(not name.startswith("primary") for _, name in TEMPLATES) == 8


@pytest.mark.parametrize(
    ("zone", "said"),
    [
        ("non-functional-cusp/distolingual", "distopalatal cusp"),
        ("wall/lingual/middle", "palatal wall, middle third"),
        ("marginal-ridge/mesial", "mesial marginal ridge"),
        ("finish-line-band", "finish line"),
        ("lingual-groove", "palatal groove"),
    ],
)
def test_places_are_named_as_a_dentist_says_them(zone: str, said: str) -> None:
    """Upper teeth say palatal."""
    assert words(zone, "palatal") == said
