"""Every format gives the same surface; every malformed file gives one clear sentence."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest
from solids import sphere

from vane_line.core.mesh.read import read_file, read_soup
from vane_line.core.mesh.weld import weld
from vane_line.core.mesh.write import ascii_stl_bytes, obj_bytes, ply_bytes, stl_bytes, write_surface
from vane_line.errors import InputError, ScanTooLarge, UnreadableScan

BALL = sphere(4.0, grid=0.4)
FORMATS = {"a.stl": stl_bytes, "b.stl": ascii_stl_bytes, "c.ply": ply_bytes, "d.obj": obj_bytes}


@pytest.mark.parametrize("name", FORMATS)
def test_every_format_gives_the_same_surface(name: str) -> None:
    """Area and vertex count survive writing and reading in STL (both kinds), PLY and OBJ."""
    surface = weld(read_soup(FORMATS[name](BALL), name), "mm", name).surface
    assert surface.n_vertices == BALL.n_vertices
    assert surface.n_faces == BALL.n_faces
    assert surface.face_areas.sum() == pytest.approx(BALL.face_areas.sum(), rel=1e-5)


def test_colours_of_a_ply_are_kept() -> None:
    """A PLY with vertex colours gives them back."""
    from vane_line.core.mesh.surface import Surface

    colours = np.tile(np.array([[200, 90, 80]], np.uint8), (BALL.n_vertices, 1))
    soup = read_soup(ply_bytes(Surface(BALL.vertices, BALL.faces, colours)), "c.ply")
    assert soup.colours is not None
    assert (soup.colours == [200, 90, 80]).all()


def test_content_decides_not_the_suffix() -> None:
    """A binary STL whose header begins with 'solid' and whose name lies is still read as one."""
    data = b"solid but binary".ljust(80, b" ") + stl_bytes(BALL)[80:]
    assert len(read_soup(data, "scan.obj").faces) == BALL.n_faces


def test_bytes_behind_the_last_triangle_are_left() -> None:
    """Exporters that append a trailer are forgiven."""
    assert len(read_soup(stl_bytes(BALL) + b"trailer", "scan.stl").faces) == BALL.n_faces


GOOD = stl_bytes(BALL)
BAD = {
    "empty": (b"", "a.stl", "empty"),
    "cut short": (GOOD[: len(GOOD) // 2], "a.stl", "cut short"),
    "cut in the header": (GOOD[:60], "a.stl", "too short"),
    "no triangles": (GOOD[:80] + struct.pack("<I", 0), "a.stl", "no triangles"),
    "text": (b"hello, this is a letter\n" * 40, "a.txt", "not an STL"),
    "ascii cut short": (ascii_stl_bytes(BALL)[:5000], "a.stl", "cut short"),
    "ascii nonsense": (ascii_stl_bytes(BALL).replace(b"vertex ", b"vertex x", 1), "a.stl", "not a number"),
    "ply header only": (ply_bytes(BALL)[:200], "a.ply", ""),
    "ply cut short": (ply_bytes(BALL)[:-500], "a.ply", ""),
    "points only": (b"\n".join(b"v 0 %d 1" % k for k in range(50)), "a.obj", "no triangles"),
    "obj beyond its points": (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "a.obj", ""),
    "image": (b"\x89PNG\r\n\x1a\n" + bytes(500), "a.png", "not an STL"),
}


@pytest.mark.parametrize("case", BAD)
def test_a_malformed_file_gives_one_sentence(case: str) -> None:
    """It names the file, says what is wrong, and is one line that ends in a full stop."""
    data, name, words = BAD[case]
    with pytest.raises(InputError) as caught:
        weld(read_soup(data, name), "mm", name)
    text = str(caught.value)
    assert text.startswith(f"{name}: ")
    assert words in text
    assert "\n" not in text
    assert text.endswith(".")


def test_limits_on_bytes_and_triangles_hold() -> None:
    """Both limits are refused before the work, in words."""
    with pytest.raises(ScanTooLarge, match="MB"):
        read_soup(GOOD, "a.stl", max_bytes=1000)
    with pytest.raises(ScanTooLarge, match="triangles"):
        read_soup(GOOD, "a.stl", max_triangles=10)


def test_a_missing_file_a_folder_and_an_unreadable_name(tmp_path: Path) -> None:
    """Paths that are no files are said; a name in a foreign encoding is a name."""
    with pytest.raises(UnreadableScan, match="no such file"):
        read_file(tmp_path / "none.stl")
    with pytest.raises(UnreadableScan, match="not a file"):
        read_file(tmp_path)
    odd = Path(str(tmp_path) + "/" + b"Z\xe4hne.stl".decode("utf-8", "surrogateescape"))
    write_surface(odd, BALL)
    assert len(read_file(odd).faces) == BALL.n_faces


def test_nan_and_doubled_triangles_are_dropped_up_to_one_percent() -> None:
    """Under 1 % damaged triangles are dropped and counted; more is refused."""
    soup = read_soup(GOOD, "a.stl")
    few = soup.corners.copy()
    few[:3, 0] = np.nan
    from dataclasses import replace

    welded = weld(replace(soup, corners=few), "mm", "a.stl")
    assert welded.bad_faces == 1
    many = soup.corners.copy()
    many[: len(many) // 20] = np.nan
    with pytest.raises(UnreadableScan, match="over 1 %"):
        weld(replace(soup, corners=many), "mm", "a.stl")


def ascii_ply(points: list[str], faces: list[str], colour: str = "uchar") -> bytes:
    head = ["ply", "format ascii 1.0", f"element vertex {len(points)}", "property float x", "property float y",
            "property float z", f"property {colour} red", f"element face {len(faces)}",
            "property list uchar int vertex_indices", "end_header"]  # fmt: skip
    return "\n".join([*head, *points, *faces, ""]).encode()


@pytest.mark.filterwarnings("error")
@pytest.mark.parametrize("odd", ["1e308", "nan", "-1", "1.5", "99999999999999999999", "inf"])
def test_a_number_of_a_point_that_is_none_is_refused_in_words(odd: str) -> None:
    """Found by coverage-guided fuzzing: no warning of a library, and no other point in its place."""
    points = ["0 0 0 9", "1 0 0 9", "0 1 0 9", "1 1 0 9"]
    with pytest.raises(UnreadableScan, match=r"point"):
        read_soup(ascii_ply(points, ["3 0 1 2", f"3 1 3 {odd}"]), "a.ply")


@pytest.mark.filterwarnings("error")
def test_a_colour_out_of_its_range_is_no_reason_to_refuse() -> None:
    """It is cut to what its type holds; a place too great for its type is refused in words."""
    points = ["0 0 0 300", "1 0 0 -5", "0 1 0 nan", "1 1 0 1e308"]
    assert len(read_soup(ascii_ply(points, ["3 0 1 2", "3 1 3 2"]), "a.ply").faces) == 2
    with pytest.raises(UnreadableScan):
        weld(read_soup(ascii_ply(["1e308 0 0 9", *points[1:]], ["3 0 1 2", "3 1 3 2"]), "a.ply"), "mm", "a.ply")
