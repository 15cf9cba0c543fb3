"""The laboratory's package: whole, as its manifest says, and opened safely."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from xml.etree import ElementTree

import numpy as np
import pytest
from solids import sphere

from vane_line.core.mesh.read import read_soup
from vane_line.errors import BadOption
from vane_line.report.package import line_ply, made, opened
from vane_line.report.zips import MANIFEST

LINE = np.array([[0.0, 0, 0], [1, 0, 0], [1, 1, 0.5], [0, 1, 0.25]])
DOCUMENT = {
    "tooth": "36", "path": {"direction": [0.0, 0.6, 0.8]},
    "finish_line": {"points": LINE.tolist(), "closed": True, "doubtful": [False, True, False, False]},
    "verdicts": [{"criterion": "reduction", "zone": "overall", "bound": "min", "value": 0.9, "unit": "mm", "U": 0.03,
                  "limit": 1.0, "target": None, "status": "short", "missing": 0.1, "where": "overall",
                  "why": "thin, \"so\""}],
}  # fmt: skip


def package() -> bytes:
    return made(DOCUMENT, {"prep": sphere(2.0, grid=0.5)}, b"ply", {"record.pdf": b"%PDF"}, {"case": "SM-1"})


def test_everything_is_in_it_once_and_as_it_was_packed() -> None:
    """Scans, line three ways, document, prescription, record; every one hashed; the same bytes twice."""
    files = opened(package())
    assert set(files) == {
        "scans/prep.stl", "preparation_depth.ply", "finish_line.csv", "finish_line.ply", "finish_line.xml",
        "measurement.json", "prescription.json", "verdicts.csv", "record.pdf",
    }  # fmt: skip
    assert json.loads(files["measurement.json"]) == DOCUMENT
    assert len(read_soup(files["scans/prep.stl"], "prep.stl").faces) == sphere(2.0, grid=0.5).n_faces
    assert package() == package()


def test_tables_and_xml_are_read_by_others() -> None:
    """By the standard library's readers of CSV (RFC 4180) and XML."""
    files = opened(package())
    rows = list(csv.DictReader(io.StringIO(files["finish_line.csv"].decode())))
    assert [r["clearly_seen"] for r in rows] == ["yes", "no", "yes", "yes"]
    assert [float(r["z_mm"]) for r in rows] == pytest.approx([0, 0, 0.5, 0.25])
    (verdict,) = csv.DictReader(io.StringIO(files["verdicts.csv"].decode()))
    assert verdict["why"] == 'thin, "so"'
    assert verdict["target"] == ""
    root = ElementTree.fromstring(files["finish_line.xml"])
    assert root.attrib["tooth"] == "36"
    assert [float(p.attrib["x"]) for p in root.iter("point")] == pytest.approx(LINE[:, 0].tolist())
    path = root.find("pathOfInsertion")
    assert path is not None
    assert [float(v) for v in path.attrib["direction"].split()] == pytest.approx([0, 0.6, 0.8])


def test_the_line_closes_as_ply_edges() -> None:
    """As many edges as points, the last one back to the first."""
    text = line_ply(LINE).decode().splitlines()
    assert "element edge 4" in text
    assert text[-1] == "3 0"


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in files.items():
            file.writestr(name, data)
    return out.getvalue()


def manifest(*names: str) -> bytes:
    return json.dumps({"files": [{"name": n, "sha256": "0"} for n in names]}).encode()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"not a zip", "no zip"),
        (package()[: len(package()) // 2], "no zip"),
        (zipped({"a": b"1"}), "has no manifest"),
        (zipped({MANIFEST: b"{"}), "cannot be read"),
        (zipped({MANIFEST: manifest("a")}), "not those of its manifest"),
        (zipped({MANIFEST: manifest("a"), "a": b"1"}), "not as it was packed"),
        (zipped({MANIFEST: manifest("../a"), "../a": b"1"}), "leads out"),
        (zipped({MANIFEST: manifest("/etc/a"), "/etc/a": b"1"}), "leads out"),
        (zipped({MANIFEST: manifest("c:a"), "c:a": b"1"}), "leads out"),
        (zipped({MANIFEST: manifest("a"), "a": b"0" * 20_000_000}), "packed far too tightly"),
        (zipped({MANIFEST: b"{}", **{str(k): b"" for k in range(70)}}), "more than 64 files"),
    ],
)  # fmt: skip
def test_what_is_no_package_is_refused_with_a_sentence(data: bytes, words: str) -> None:
    with pytest.raises(BadOption, match=words):
        opened(data)


def test_one_changed_byte_is_noticed() -> None:
    """The manifest of the one, a file of the other."""
    with zipfile.ZipFile(io.BytesIO(package())) as file:
        inside = {name: file.read(name) for name in file.namelist()}
    assert opened(zipped(inside)) == opened(package())
    with pytest.raises(BadOption, match=r"finish_line\.csv is not as it was packed"):
        opened(zipped(inside | {"finish_line.csv": inside["finish_line.csv"].replace(b"yes", b"yeS", 1)}))
