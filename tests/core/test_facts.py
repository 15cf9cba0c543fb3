"""What is known and no scan shows: said in the document, in one order, unknown ones refused."""

from __future__ import annotations

from dataclasses import replace

import pytest
from solids import facing

from vane_line.core.case import Geometry
from vane_line.core.facts import FACTS, known, words
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption


def test_each_is_told_once_in_one_order() -> None:
    assert known(("young-pulp", "grinding", "grinding")) == ("grinding", "young-pulp")
    assert words(("grinding",)) == [FACTS["grinding"].changes]
    with pytest.raises(BadOption, match=r"sleepy.*grinding"):
        facing(ToothNumber("36"), facts=("sleepy",))


def test_they_stand_in_the_document_and_change_no_figure(stump_geometry: Geometry) -> None:
    standard = choose("zirconia", "full-crown")
    plain = document(stump_geometry, judge(stump_geometry, standard))
    told = replace(stump_geometry, options=replace(stump_geometry.options, facts=("deep-bite",)))
    said = document(told, judge(told, standard))
    assert FACTS["deep-bite"].changes in said["warnings"]
    assert said["verdicts"] == plain["verdicts"]
