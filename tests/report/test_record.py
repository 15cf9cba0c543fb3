"""The record of a preparation: what it shows, that it is whole, safe and the same twice; pictures in closed form."""

from __future__ import annotations

import io
import re
from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from PIL import Image
from solids import Stump, facing, sphere

from vane_line.core.case import Geometry, measure
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.tooth.notation import ToothNumber
from vane_line.report.preparation import About, Record, as_html, as_pdf, record_of
from vane_line.report.sheet import PdfSheet, SvgSheet, clipped, text_mm, wrapped
from vane_line.report.views import HALF_MM, MM_PER_PIXEL, Judged, View, view
from vane_line.report.words import DECIDES, by_hand_of_options

TOOTH = ToothNumber("36")
SHORT = Stump(occlusal_mm=0.8, noise_um=6.0)
ABOUT = About("SM-<script>alert(1)</script>", "0.1.0", "2026-11-27 09:30",
              (("prep", "tooth & co.stl", "0123456789abcdef"),), ("axes confirmed",))  # fmt: skip


@cache
def measured() -> tuple[Geometry, Judgement]:
    geometry = measure(SHORT.scans(clearance_mm=0.8), facing(TOOTH))
    return geometry, judge(geometry, choose("zirconia", "full-crown", None, TOOTH))


@cache
def record() -> Record:
    geometry, judgement = measured()
    scans = SHORT.scans(clearance_mm=0.8)
    surfaces = {"prep": scans.prep, "preop": scans.preop, "opposing": scans.opposing}
    return record_of(document(geometry, judgement), geometry, judgement, surfaces, ABOUT)  # type: ignore[arg-type]


def shown(png: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(png)))


def test_the_page_says_what_was_found_and_who_decides() -> None:
    """Code, tooth both ways, answer, findings with value, U and limit, what was not measured, by hand, scans."""
    page = as_html(record()).decode()
    assert "tooth 36 (Universal 19)" in page
    assert "Not yet: " in page
    assert "reduction" in page
    assert "≥ 1.00" in page
    assert "Not measured: " in page
    assert "By hand: " in page
    assert "axes confirmed" in page
    assert "0123456789abcdef" in page
    assert "algorithm" in page
    assert DECIDES.split(".")[0] in page
    assert page.count("data:image/png") == 4


def test_names_from_outside_are_text_and_nothing_is_fetched() -> None:
    """No script runs in it, no address of elsewhere stands in it."""
    page = as_html(record()).decode()
    assert "<script" not in page
    assert "tooth &amp; co.stl" in page
    links = [a for a in re.findall(r'(?:href|src|url)[=(]"?([^")\s>]+)', page) if not a.startswith("data:")]
    assert links == []


def test_equal_records_give_equal_bytes() -> None:
    """Twice drawn, twice the same: PDF and HTML."""
    assert as_pdf(record()) == as_pdf(record())
    assert as_html(record()) == as_html(record())
    other = replace(record(), about=replace(ABOUT, made_at="2026-11-28"))
    assert as_pdf(other) != as_pdf(record())


def test_the_pdf_is_one_a4_page_with_its_fonts_inside() -> None:
    """ISO 216: 210 x 297 mm is 595.3 x 841.9 points; both faces embedded as TrueType, no other."""
    data = as_pdf(record())
    assert data.startswith(b"%PDF-1.")
    assert data.rstrip().endswith(b"%%EOF")
    assert len(re.findall(rb"/Type\s*/Page\b", data)) == 1
    box = [float(v) for v in re.search(rb"/MediaBox \[ ?([\d. ]+) ?\]", data).group(1).split()]  # type: ignore[union-attr]
    assert box[2:] == pytest.approx([210 * 72 / 25.4, 297 * 72 / 25.4], abs=0.1)
    assert data.count(b"/FontFile2") == 2
    assert len(data) < 1_000_000


def test_a_page_without_faults_says_so_and_a_full_one_says_how_many_more() -> None:
    """Neither an empty table nor rows over the foot."""
    d = record().document
    good = replace(record(), document=d | {"verdicts": [v | {"status": "meets"} for v in d["verdicts"]]})
    assert "Nothing is short, over, or too near a limit to say." in as_html(good).decode()
    many = [v | {"status": "short", "zone": f"wall/{k}", "where": f"place {k}"} for k in range(40)
            for v in d["verdicts"][:2]]  # fmt: skip
    page = as_html(replace(record(), document=d | {"verdicts": many})).decode()
    assert re.search(r"and \d+ more, on the screen and in the JSON", page)


def test_what_is_short_is_hatched_and_all_is_grey() -> None:
    """Strokes over the top that lacks room, none where nothing is short."""
    geometry, _ = measured()
    inside = geometry.inside
    nothing = np.zeros(inside.n_vertices, dtype=bool)
    depth = np.zeros(inside.n_vertices)
    up, face = np.array([0.0, 0, 1]), np.array([0.0, 1, 0])
    top = inside.vertices[:, 2] > 5
    plain, hatched, dotted = (
        shown(view(SHORT.prep(), Judged(inside, depth, short, over), geometry.line.points, up, face).png)
        for short, over in ((nothing, nothing), (top, nothing), (nothing, top))
    )
    assert plain.ndim == 2
    assert ((hatched == 40) & (plain > 120)).sum() > 500
    assert ((dotted == 40) & (plain > 120)).sum() > 300
    assert not (plain == 40).any()


def ball(step_mm: float = 0.5) -> View:
    """A ball of 3 mm whose depth is its height, seen from the side."""
    surface = sphere(3.0, grid=0.15)
    nothing = np.zeros(surface.n_vertices, dtype=bool)
    turn = np.radians(np.arange(0, 360, 2))
    line = np.stack([3 * np.cos(turn), 3 * np.sin(turn), 0 * turn], axis=1)
    judged = Judged(surface, surface.vertices[:, 2], nothing, nothing)
    return view(surface, judged, line, np.array([0.0, 1, 0]), np.array([0.0, 0, 1]), step_mm)


def test_contours_lie_where_the_depth_is_a_whole_step() -> None:
    """At heights of 0.5, 1.0 …: within a hundredth of a millimetre, on the side that is seen."""
    heights = np.array([HALF_MM - y for chain in ball().contours for _, y in chain])
    assert len(heights) > 100
    assert np.abs(heights / 0.5 - np.round(heights / 0.5)).max() * 0.5 < 0.01


def test_a_line_behind_the_tooth_is_hidden() -> None:
    """Of the equator just the half towards the viewer is drawn: 6 mm wide, level."""
    points = np.array([p for chain in ball().finish_line for p in chain])
    assert np.ptp(points[:, 0]) == pytest.approx(6.0, abs=0.1)
    assert points[:, 1] == pytest.approx(np.full(len(points), HALF_MM), abs=0.01)
    assert len(points) < 0.65 * 180


def test_a_ball_is_drawn_to_scale_and_lit_from_the_upper_left() -> None:
    """3 mm of radius on a picture of known scale; its upper left brighter than its lower right."""
    picture = shown(ball().png)
    dark = picture < 250
    wide = np.ptp(np.flatnonzero(dark.any(axis=0))) * MM_PER_PIXEL
    assert wide == pytest.approx(6.0, abs=0.15)
    middle = len(picture) // 2
    off = round(1.5 / MM_PER_PIXEL)
    assert picture[middle - off, middle - off] > picture[middle + off, middle + off] + 20


def test_text_is_broken_and_cut_to_its_width() -> None:
    """No line is wider than asked; what is cut ends in an ellipsis; both sheets draw the same words."""
    lines = wrapped("the quick brown fox jumps over the lazy dog again and again and once more", 30, 8, most=3)
    assert len(lines) == 3
    assert all(text_mm(line, 8) <= 31 for line in lines)
    assert lines[-1].endswith("…")
    assert clipped("distolingual", 8, 8).endswith("…")
    assert clipped("x", 8, 8) == "x"
    svg, pdf = SvgSheet("t"), PdfSheet("t")
    for sheet in (svg, pdf):
        assert sheet.paragraph(10, 10, "one two three", 12, 8) > 10
        sheet.area([(0, 0), (1, 0), (1, 1)], 0.5, 0.1)
    assert svg.bytes().decode().count("<text") >= 2
    assert pdf.bytes().startswith(b"%PDF")


def test_what_a_hand_gave_is_said_in_words() -> None:
    options = facing(TOOTH, earlier="old-crown", path=np.array([0.0, 0, 1]), functional_side="lingual")
    said = " ".join(by_hand_of_options(options))
    for words in ("occlusal direction", "path of insertion", "lingual cusps"):
        assert words in said
    assert by_hand_of_options(type(options)(TOOTH)) == []
