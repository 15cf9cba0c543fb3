"""One sheet of paper, drawn once and written twice: as SVG for a page, as PDF for a file.

Lengths in mm from the upper left corner, sizes of type in points. What is drawn is the same in both; equal drawings
give equal bytes.
"""

from __future__ import annotations

import base64
import io
from abc import ABC, abstractmethod
from collections.abc import Sequence
from functools import cache
from html import escape
from pathlib import Path

from reportlab.lib.utils import ImageReader
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen import canvas

WIDTH_MM, HEIGHT_MM = 210.0, 297.0
MM = 72 / 25.4  # points
FONTS = Path(__file__).resolve().parent / "fonts"
PLAIN, BOLD = "VaneSans", "VaneSans-Bold"
FILES = {PLAIN: "DejaVuSans.ttf", BOLD: "DejaVuSans-Bold.ttf"}

Points = Sequence[tuple[float, float]]


@cache
def _fonts() -> None:
    for name, file in FILES.items():
        pdfmetrics.registerFont(TTFont(name, str(FONTS / file)))


def text_mm(text: str, size: float, bold: bool = False) -> float:
    """Width of a line of text in mm."""
    _fonts()
    return float(pdfmetrics.stringWidth(text, BOLD if bold else PLAIN, size)) / MM


def wrapped(text: str, width_mm: float, size: float, most: int = 99) -> list[str]:
    """Lines no wider than `width_mm`, broken at blanks; more than `most` end in an ellipsis."""
    lines: list[str] = []
    for word in text.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and text_mm(longer, size) <= width_mm:
            lines[-1] = longer
        else:
            lines.append(clipped(word, width_mm, size))
    if len(lines) > most:
        lines = [*lines[: most - 1], clipped(f"{lines[most - 1]} …", width_mm, size)]
        if not lines[-1].endswith("…"):
            lines[-1] += "…"
    return lines


def clipped(text: str, width_mm: float, size: float, bold: bool = False) -> str:
    """The text, cut with an ellipsis where it is too wide."""
    if text_mm(text, size, bold) <= width_mm:
        return text
    while text and text_mm(f"{text}…", size, bold) > width_mm:
        text = text[:-1]
    return f"{text.rstrip()}…"


class Sheet(ABC):
    """What can be drawn. grey: 0 black to 1 white; dash: mm on, mm off."""

    @abstractmethod
    def line(self, points: Points, width: float = 0.2, grey: float = 0.0, dash: Points | None = None) -> None:
        """An open polyline."""

    @abstractmethod
    def area(self, points: Points, fill: float, edge: float = 0.0) -> None:
        """A closed polygon, its edge `edge` mm wide or none."""

    @abstractmethod
    def text(
        self,
        x: float,
        y: float,
        text: str,
        size: float = 8,
        bold: bool = False,
        anchor: str = "start",
        grey: float = 0.0,
    ) -> None:
        """One line of text on its baseline; anchor: start, middle, end."""

    @abstractmethod
    def image(self, x: float, y: float, width: float, height: float, png: bytes) -> None:
        """A picture."""

    @abstractmethod
    def turn(self) -> None:
        """Go on on a new page."""

    @abstractmethod
    def bytes(self) -> bytes:
        """What was drawn."""

    # --- made of those ---------------------------------------------------------------------------------------------

    def rule(self, x1: float, x2: float, y: float, width: float = 0.2, grey: float = 0.0) -> None:
        """A level line."""
        self.line([(x1, y), (x2, y)], width, grey)

    def paragraph(self, x: float, y: float, text: str, width_mm: float, size: float = 8, most: int = 99) -> float:
        """Lines below each other; the next baseline."""
        for line in wrapped(text, width_mm, size, most):
            self.text(x, y, line, size)
            y += size * 0.43
        return y


class PdfSheet(Sheet):
    """The sheet as a PDF with its fonts embedded."""

    def __init__(self, title: str) -> None:
        _fonts()
        self._out = io.BytesIO()
        self._c = canvas.Canvas(self._out, pagesize=(WIDTH_MM * MM, HEIGHT_MM * MM), invariant=1, pageCompression=1)
        self._c.setTitle(title)
        self._c.setCreator("Vane Line")
        self._c.setLineJoin(1)

    def _at(self, x: float, y: float) -> tuple[float, float]:
        return x * MM, (HEIGHT_MM - y) * MM

    def _path(self, points: Points):  # type: ignore[no-untyped-def]
        path = self._c.beginPath()
        for k, (x, y) in enumerate(points):
            (path.lineTo if k else path.moveTo)(*self._at(x, y))
        return path

    def line(self, points: Points, width: float = 0.2, grey: float = 0.0, dash: Points | None = None) -> None:
        self._c.setStrokeGray(grey)
        self._c.setLineWidth(width * MM)
        self._c.setDash(*([v * MM for v in dash[0]], 0) if dash else ())
        self._c.drawPath(self._path(points), stroke=1, fill=0)

    def area(self, points: Points, fill: float, edge: float = 0.0) -> None:
        path = self._path(points)
        path.close()
        self._c.setFillGray(fill)
        self._c.setStrokeGray(0)
        self._c.setLineWidth(edge * MM)
        self._c.setDash()
        self._c.drawPath(path, stroke=1 if edge else 0, fill=1)

    def text(
        self,
        x: float,
        y: float,
        text: str,
        size: float = 8,
        bold: bool = False,
        anchor: str = "start",
        grey: float = 0.0,
    ) -> None:
        self._c.setFont(BOLD if bold else PLAIN, size)
        self._c.setFillGray(grey)
        draw = {"start": self._c.drawString, "middle": self._c.drawCentredString, "end": self._c.drawRightString}
        draw[anchor](*self._at(x, y), text)

    def image(self, x: float, y: float, width: float, height: float, png: bytes) -> None:
        left, bottom = self._at(x, y + height)
        self._c.drawImage(ImageReader(io.BytesIO(png)), left, bottom, width * MM, height * MM)

    def turn(self) -> None:
        self._c.showPage()
        self._c.setLineJoin(1)

    def bytes(self) -> bytes:
        self._c.showPage()
        self._c.save()
        return self._out.getvalue()


class SvgSheet(Sheet):
    """The sheet as SVG, with text that can be read and marked."""

    def __init__(self, title: str) -> None:
        self._begins = (
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH_MM:g} {HEIGHT_MM:g}" role="img" '
            f'aria-label="{escape(title, quote=True)}"><rect width="{WIDTH_MM:g}" height="{HEIGHT_MM:g}" fill="#fff"/>'
        )
        self._parts = [self._begins]

    def line(self, points: Points, width: float = 0.2, grey: float = 0.0, dash: Points | None = None) -> None:
        dashed = f' stroke-dasharray="{dash[0][0]:g} {dash[0][1]:g}"' if dash else ""
        self._parts.append(
            f'<path d="{_d(points)}" fill="none" stroke="{_grey(grey)}" stroke-width="{width:g}" '
            f'stroke-linejoin="round"{dashed}/>'
        )

    def area(self, points: Points, fill: float, edge: float = 0.0) -> None:
        stroke = f' stroke="#000" stroke-width="{edge:g}"' if edge else ""
        self._parts.append(f'<path d="{_d(points)}Z" fill="{_grey(fill)}"{stroke}/>')

    def text(
        self,
        x: float,
        y: float,
        text: str,
        size: float = 8,
        bold: bool = False,
        anchor: str = "start",
        grey: float = 0.0,
    ) -> None:
        weight = ' font-weight="700"' if bold else ""
        self._parts.append(
            f'<text x="{x:.2f}" y="{y:.2f}" font-size="{size / MM:.3f}" text-anchor="{anchor}" '
            f'fill="{_grey(grey)}"{weight}>{escape(text)}</text>'
        )

    def image(self, x: float, y: float, width: float, height: float, png: bytes) -> None:
        data = base64.b64encode(png).decode("ascii")
        self._parts.append(
            f'<image x="{x:g}" y="{y:g}" width="{width:g}" height="{height:g}" href="data:image/png;base64,{data}"/>'
        )

    def turn(self) -> None:
        self._parts += ["</svg>", self._begins]

    def bytes(self) -> bytes:
        return "\n".join([*self._parts, "</svg>"]).encode()


def printed_page(title: str, drawn: bytes) -> bytes:
    """HTML round sheets that were drawn as SVG: it fetches nothing and prints a sheet to a page."""
    style = (
        f"{font_face()}@page{{size:A4;margin:0}}body{{margin:0;background:#e8e6e0}}svg{{display:block;margin:0 auto;"
        'width:210mm;max-width:100%;font-family:"VaneSans","DejaVu Sans",sans-serif}@media print{body{background:#fff}}'
    )
    head = f'<meta charset="utf-8"><title>{escape(title)}</title><style>{style}</style>'
    shown = drawn.decode()
    return f'<!doctype html>\n<html lang="en"><head>{head}</head><body>\n{shown}\n</body></html>\n'.encode()


def font_face() -> str:
    """CSS that brings the sheet's own type along: nothing is fetched, and lines are as wide as they were told."""
    rules = []
    for weight, name in ((400, PLAIN), (700, BOLD)):
        data = base64.b64encode((FONTS / FILES[name]).read_bytes()).decode("ascii")
        rules.append(
            f'@font-face{{font-family:"{PLAIN}";font-weight:{weight};src:url(data:font/ttf;base64,{data}) '
            'format("truetype")}'
        )
    return "".join(rules)


def _grey(value: float) -> str:
    return "#" + 3 * f"{round(255 * value):02x}"


def _d(points: Points) -> str:
    return "".join(f"{'L' if k else 'M'}{x:.3f} {y:.3f}" for k, (x, y) in enumerate(points))
