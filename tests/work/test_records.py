"""What is kept of a measurement: an open container, read back to the last digit, and nothing that runs."""

from __future__ import annotations

import io
import json
import pickle
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import array_shapes, arrays

from vane_line.core.case import Geometry, measure
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.options import Options
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.cases import MadeCase
from vane_line.errors import StoreError
from vane_line.work.container import pack, unpack
from vane_line.work.records import FORMAT, geometry_bytes, read_geometry

LEAF = st.one_of(st.none(), st.booleans(), st.integers(-(2**50), 2**50), st.floats(), st.text(max_size=8))
TREE = st.recursive(
    LEAF, lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=5), inner, max_size=4)
)


@settings(max_examples=60)
@given(TREE, arrays(np.float64, array_shapes(max_dims=3, max_side=4)))
def test_what_is_packed_comes_back(tree: object, array: np.ndarray) -> None:
    """Plain data of any shape, nan and infinity too, and arrays with their type; equal data gives equal bytes."""
    data = pack({"tree": tree, "array": array, "flags": array > 0})
    again = unpack(data)
    assert repr(again["tree"]) == repr(tree)
    np.testing.assert_array_equal(again["array"], array)
    assert again["flags"].dtype == bool
    assert pack(again) == data


@pytest.mark.parametrize("value", [object(), {1: 2}, np.array([object()], dtype=object), {"a": b"bytes"}])
def test_what_is_no_plain_data_is_refused(value: object) -> None:
    """A mistake of ours is seen when it is written."""
    with pytest.raises(TypeError):
        pack(value)


def test_the_container_is_open() -> None:
    """Any program reads it: a zip with JSON and NumPy's own array files, without pickles."""
    with zipfile.ZipFile(io.BytesIO(pack({"a": np.arange(3.0), "b": "x"}))) as file:
        assert file.namelist() == ["tree.json", "0.npy"]
        assert json.loads(file.read("tree.json"))["dict"][1] == ["b", "x"]
        np.testing.assert_array_equal(np.load(io.BytesIO(file.read("0.npy")), allow_pickle=False), [0, 1, 2])


def test_a_measurement_comes_back_to_the_last_digit(stump_geometry: Geometry) -> None:
    """Judged after storing as before, the areas that were taken from an eased surface included."""
    standard = choose("zirconia", "full-crown", None, ToothNumber("36"))

    def said(geometry: Geometry) -> str:
        return json.dumps(document(geometry, judge(geometry, standard)), sort_keys=True)

    data = geometry_bytes(stump_geometry)
    again = read_geometry(data)
    assert said(again) == said(stump_geometry)
    assert geometry_bytes(again) == data


def test_every_part_of_a_front_tooth_s_measurement_can_be_kept(incisor_case: MadeCase) -> None:
    """Steps, lips, front form, old crown: the records that a molar's measurement does not hold."""
    from vane_line.core.scans import Scans

    scans = Scans(incisor_case.prep, incisor_case.preop, opposing=incisor_case.opposing)
    options = Options(ToothNumber("32"), opposing_frame="preop", earlier="old-crown")
    geometry = measure(scans, options)
    assert geometry.ring.front is not None
    assert geometry_bytes(read_geometry(geometry_bytes(geometry))) == geometry_bytes(geometry)


def changed(data: bytes, old: bytes, new: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as source, zipfile.ZipFile(out, "w") as target:
        for name in source.namelist():
            target.writestr(name, source.read(name).replace(old, new))
    return out.getvalue()


def test_anything_else_is_refused_in_words(stump_geometry: Geometry) -> None:
    """A pickle, half a file, another version, a record that is not known, one that lacks a part."""
    data = geometry_bytes(stump_geometry)
    for bad, words in (
        (pickle.dumps({"a": 1}), "cannot be read"),
        (data[: len(data) // 2], "cannot be read"),
        (changed(data, FORMAT.encode(), b"vane-line/geometry/0"), "another version"),
        (changed(data, b'"Frame"', b'"Popen"'), "not known"),
        (changed(data, b'"noise_um"', b'"noisy_um"'), "lacks a part"),
        (pack({"format": FORMAT, "geometry": 3}), "not one"),
    ):
        with pytest.raises(StoreError, match=words):
            read_geometry(bad)
