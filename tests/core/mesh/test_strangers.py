"""Files from elsewhere: legal ones are read whatever their dress, damaged ones are refused in a sentence, at once."""

from __future__ import annotations

import gzip
import io
import zipfile
from pathlib import Path

import numpy as np
import pytest
from solids import Stump, sphere, turned

from vane_line.core.mesh.read import read_file, read_soup
from vane_line.core.mesh.soup import Soup
from vane_line.core.mesh.surface import Surface, merge
from vane_line.core.mesh.weld import Welded, weld
from vane_line.core.mesh.write import ascii_stl_bytes, obj_bytes, ply_bytes, stl_bytes
from vane_line.errors import InputError, ScanTooLarge, UnreadableScan

BALL = sphere(5.0, grid=0.35)
STL, ASCII, OBJ, PLY = stl_bytes(BALL), ascii_stl_bytes(BALL), obj_bytes(BALL), ply_bytes(BALL)
POINTS, TRIANGLES = BALL.n_vertices, BALL.n_faces


def text_ply(faces: str = "uchar int") -> bytes:
    head = (
        f"ply\nformat ascii 1.0\ncomment made here\nelement vertex {POINTS}\nproperty float x\nproperty float y\n"
        f"property float z\nelement face {TRIANGLES}\nproperty list {faces} vertex_indices\nend_header\n"
    )
    rows = ["{:.7g} {:.7g} {:.7g}".format(*v) for v in BALL.vertices] + ["3 {} {} {}".format(*f) for f in BALL.faces]
    return (head + "\n".join(rows) + "\n").encode()


def relative_obj() -> bytes:
    """Tabs, a comment in another encoding, an object a triangle, and numbers counted back from their own line."""
    rows = [b"# caf\xe9"]
    for n, face in enumerate(BALL.faces):
        rows.append(b"o part%d\nusemtl m%d" % (n, n))
        rows += [b"v\t%f\t%f\t%f" % tuple(v) for v in BALL.vertices[face]]
        rows.append(b"f -3 -2 -1")
    return b"\n".join(rows) + b"\n"


def zipped(*files: tuple[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files:
            archive.writestr(name, data)
    return out.getvalue()


def quads_ply() -> bytes:
    """Binary, big-endian, four-sided faces with a colour each."""
    head = b"ply\nformat binary_big_endian 1.0\nelement vertex 4\n" + b"".join(
        b"property double %s\n" % a for a in (b"x", b"y", b"z")
    )
    head += b"element face 2\nproperty list uchar uint vertex_index\nproperty uchar red\nend_header\n"
    body = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], dtype=">f8").tobytes()
    for corners in ([0, 1, 2, 3], [3, 2, 1]):
        body += bytes([len(corners)]) + np.array(corners, dtype=">u4").tobytes() + b"\x07"
    return head + body


def strips_ply() -> bytes:
    head = b"ply\nformat ascii 1.0\nelement vertex 5\nproperty float x\nproperty float y\nproperty float z\n"
    head += b"element tristrips 1\nproperty list int int vertex_indices\nend_header\n"
    return head + b"0 0 0\n1 0 0\n0 1 0\n1 1 0\n0 2 0\n8 0 1 2 3 -1 2 3 4\n"


LEGAL = {
    "binary that begins like ASCII": (b"solid facet normal".ljust(80) + STL[80:], "a.stl"),
    "streamed, number nought": (STL[:80] + b"\0\0\0\0" + STL[84:], "a.stl"),
    "streamed, number all ones": (STL[:80] + b"\xff\xff\xff\xff" + STL[84:], "a.stl"),
    "a few bytes behind": (STL + b"made here", "a.stl"),
    "capitals": (ASCII.upper(), "a.stl"),
    "a name full of keywords": (b"solid vertex 1 facet endsolid\n" + ASCII.split(b"\n", 1)[1], "a.stl"),
    "carriage returns": (ASCII.replace(b"\n", b"\r\n"), "a.stl"),
    "byte order mark": (b"\xef\xbb\xbf" + OBJ, "a.obj"),
    "sixteen bits": (OBJ.decode().encode("utf-16"), "a.obj"),
    "text ply": (text_ply(), "a.ply"),
    "text ply with carriage returns": (text_ply("uint8 int32").replace(b"\n", b"\r\n"), "a.ply"),
    "relative numbers, objects, tabs, cp1252": (relative_obj(), "a.obj"),
    "packed": (gzip.compress(STL), "a.stl.gz"),
    "in an archive": (zipped(("notes/read me.txt", b"hello"), ("scan/upper.ply", PLY)), "scan.zip"),
}  # fmt: skip


@pytest.mark.parametrize("case", LEGAL)
def test_a_legal_file_gives_the_same_surface(case: str) -> None:
    """As many triangles, the same area and the same middle as the surface that was written."""
    data, name = LEGAL[case]
    surface = weld(read_soup(data, name), "mm", name).surface
    assert surface.n_faces == TRIANGLES
    assert surface.face_areas.sum() == pytest.approx(BALL.face_areas.sum(), rel=1e-5)
    np.testing.assert_allclose(surface.home[0], BALL.home[0], atol=1e-4)


def test_polygons_and_strips_are_cut_into_triangles_that_face_alike() -> None:
    """A square and a triangle, big-endian; a strip of four triangles with a break: all normals point one way."""
    soup = read_soup(quads_ply(), "q.ply")
    assert soup.faces.tolist() == [[0, 1, 2], [0, 2, 3], [3, 2, 1]]
    strip = read_soup(strips_ply(), "s.ply")
    assert len(strip.faces) == 3
    assert (Surface(strip.corners, strip.faces).face_normals[:, 2] > 0.9).all()


CUT = {
    "binary stl": (STL[:-500], "a.stl"), "binary stl, blank header": (b" " * 80 + STL[80:-500], "a.stl"),
    "blanks and letters": (b" " * 60 + b"a" * 5000, "a.stl"), "ascii stl": (ASCII[: len(ASCII) // 2], "a.stl"),
    "ascii stl between facets": (ASCII[: ASCII.find(b"endfacet", len(ASCII) // 2) + 9], "a.stl"),
    "obj": (OBJ[: int(0.7 * len(OBJ))], "a.obj"), "obj among its points": (OBJ[: int(0.3 * len(OBJ))], "a.obj"),
    "binary ply": (PLY[:-100], "a.ply"), "text ply": (text_ply()[: int(0.8 * len(text_ply()))], "a.ply"),
    "text ply among its points": (text_ply()[: int(0.3 * len(text_ply()))], "a.ply"),
    "packed": (gzip.compress(STL)[:-2000], "a.stl.gz"),
    "more triangles than told": (STL[:80] + np.uint32(100).tobytes() + STL[84:], "a.stl"),
    "more lines than told": (text_ply() + b"3 0 1 2\n" * 9, "a.ply"),
}  # fmt: skip


@pytest.mark.parametrize("case", CUT)
def test_a_file_cut_short_is_never_measured(case: str) -> None:
    """What is missing would be measured as if it were the tooth: refused in one sentence that names the file."""
    data, name = CUT[case]
    with pytest.raises(UnreadableScan) as caught:
        read_soup(data, name)
    text = str(caught.value)
    assert text.startswith(f"{name}: ")
    assert "\n" not in text
    assert not any(word in text for word in ("Error", "Exception", "struct", "numpy"))


OTHERS = {
    "glTF": (b"glTF" + bytes(40), "a.glb"), "OFF": (b"OFF\n3 1 0\n", "a.off"), "PDF": (b"%PDF-1.7 ...", "a.stl"),
    "3MF": (zipped(("3D/3dmodel.model", b"<model/>")), "a.3mf"), "picture": (b"\x89PNG\r\n\x1a\n" + bytes(90), "a.png"),
    "scans": (zipped(("a.stl", STL), ("b.stl", STL)), "two.zip"),
}  # fmt: skip


@pytest.mark.parametrize("word", OTHERS)
def test_another_kind_of_file_is_named(word: str) -> None:
    """It says what it is and what to export instead."""
    data, name = OTHERS[word]
    with pytest.raises(UnreadableScan, match=word):
        read_soup(data, name)


def test_a_packed_file_may_not_swell_without_bound() -> None:
    """200 MB of noughts packed into a few hundred kB, with 10 MB allowed."""
    with pytest.raises(ScanTooLarge):
        read_soup(gzip.compress(bytes(200_000_000)), "a.stl.gz", max_bytes=10_000_000)
    with pytest.raises(ScanTooLarge):
        read_soup(zipped(("a.stl", bytes(200_000_000))), "a.zip", max_bytes=10_000_000)


def test_the_file_is_named_as_the_person_named_it(tmp_path: Path) -> None:
    """With its folder; control characters and endless names do not reach the terminal."""
    path = tmp_path / "a\nb\x1b[31m.stl"
    path.write_bytes(b"")
    with pytest.raises(InputError) as caught:
        read_file(path)
    assert "ab[31m.stl" in str(caught.value)
    with pytest.raises(InputError, match=r"cannot be read|no such file"):
        read_file(tmp_path / ("x" * 300))


def soup(vertices: np.ndarray, faces: np.ndarray) -> Soup:
    return Soup(vertices, faces.astype(np.int64), None, "made")


def welded(vertices: np.ndarray, faces: np.ndarray, unit: str = "mm") -> Welded:
    return weld(soup(vertices, faces), unit, "a.stl")


@pytest.mark.parametrize(("unit", "factor"), [("in", 25.4), ("m", 1000.0), ("mm", 1000.0), ("mm", 0.01)])
def test_a_scan_of_no_mouth_s_size_is_refused(unit: str, factor: float) -> None:
    """A given unit is checked as a guessed one is: 250 m, 10 m or a tenth of a millimetre across is no mouth."""
    scale = factor if unit == "mm" else 1.0
    with pytest.raises(UnreadableScan, match="no mouth"):
        welded(BALL.vertices * scale, BALL.faces, unit)


@pytest.mark.parametrize("away", [30.0, 900.0, 5000.0, 900_000.0])
def test_a_vertex_flung_off_is_damage(away: float) -> None:
    """The triangles round it are dropped and counted; the rest is measured, on its own scale."""
    vertices = BALL.vertices.copy()
    vertices[100, 0] += away
    found = welded(vertices, BALL.faces)
    assert 3 <= found.bad_faces <= 12
    assert np.ptp(found.surface.vertices, axis=0).max() < 10.1


def test_a_heap_of_triangles_is_no_surface() -> None:
    """Corners that do not meet by a micrometre."""
    corners = BALL.vertices[BALL.faces].reshape(-1, 3)
    corners = corners + 1e-3 * np.random.default_rng(1).standard_normal(corners.shape)
    with pytest.raises(UnreadableScan, match="hang together"):
        welded(corners, np.arange(len(corners)).reshape(-1, 3))


@pytest.mark.parametrize("which", ["third", "patch", "one", "most"])
def test_triangles_the_wrong_way_round_are_turned_and_said(which: str) -> None:
    """As most of the surface lies; then it faces outward, whatever was turned."""
    random = np.random.default_rng(2)
    mask = {
        "third": random.random(TRIANGLES) < 0.33, "one": np.arange(TRIANGLES) == 7,
        "most": random.random(TRIANGLES) < 0.8,
        "patch": np.linalg.norm(BALL.face_centres - BALL.face_centres[50], axis=1) < 2,
    }[which]  # fmt: skip
    faces = np.where(mask[:, None], BALL.faces[:, ::-1], BALL.faces)
    found = welded(BALL.vertices, faces)
    assert found.turned == min(mask.sum(), TRIANGLES - mask.sum())
    assert ((found.surface.face_normals * found.surface.face_centres).sum(axis=1) > 0).all()
    assert found.flipped == (which == "most")


def test_a_surface_that_lies_twice_is_refused() -> None:
    """Two shells 87 µm apart, as after a bad stitch."""
    outer = BALL.with_vertices(BALL.vertices * (1 + 0.087 / 5))
    both = merge([BALL, outer])
    with pytest.raises(UnreadableScan, match=r"lies twice, 8\d µm apart"):
        welded(both.vertices, both.faces)


def test_both_jaws_in_one_file_are_refused() -> None:
    """Facing each other as they bite, wherever they lie; two stretches of one jaw beside each other are read."""
    jaw = Stump(grid_mm=0.3).preop()
    other = jaw.moved(turned((1, 0, 0), 180.0, (0.5, 0.3, 14.2)))
    for places in ((1, 0, 0), (0.2, -1, 0.5)):
        both = merge([jaw, other]).moved(turned(places, 67.0, (11.0, -3.0, 40.0)))
        with pytest.raises(UnreadableScan, match="both jaws"):
            welded(both.vertices, both.faces)
    beside = merge([jaw, jaw.moved(turned((0, 0, 1), 40.0, (30.0, 6.0, 0.5)))])
    assert welded(beside.vertices, beside.faces).surface.n_vertices > 1.9 * jaw.n_vertices


def test_triangles_on_a_line_count_as_damaged() -> None:
    """Over one in a hundred with three corners on a line."""
    ends = BALL.faces[: TRIANGLES // 20, :2]
    middles = BALL.vertices[ends].mean(axis=1)
    faces = np.concatenate([BALL.faces, np.c_[ends, POINTS + np.arange(len(ends))]])
    with pytest.raises(UnreadableScan, match="damaged"):
        welded(np.concatenate([BALL.vertices, middles]), faces)


def test_a_polygon_of_sixty_thousand_corners_is_no_scan() -> None:
    """Refused by its count, before anything is made of it."""
    turn = np.linspace(0, 6.28, 60_000)
    rows = b"".join(b"v %f %f 0\n" % (np.cos(a), np.sin(a)) for a in turn)
    face = b"f " + b" ".join(b"%d" % (k + 1) for k in range(60_000)) + b"\n"
    with pytest.raises(UnreadableScan, match="60000 corners"):
        read_soup(rows + face, "a.obj")
