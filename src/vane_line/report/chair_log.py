"""The chair log of a case on paper: what was done when, what was timed and whether it was kept, what was written down.

Made from what is stored alone; equal logs give equal bytes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from vane_line.report.sheet import HEIGHT_MM, WIDTH_MM, PdfSheet, Sheet, SvgSheet, clipped, printed_page
from vane_line.report.words import DECIDES

LEFT, RIGHT = 14.0, WIDTH_MM - 14.0
LOW_MM, ROW_MM = HEIGHT_MM - 22.0, 5.2
COLUMNS_MM = (0.0, 17.0, 34.0, 54.0)  # begun, ended, how long, what
TICKS = {
    "allergies-asked": "allergies asked", "medicines-looked-at": "medicines and vasoconstrictor looked at",
    "isolation": "isolation on", "eye-shields": "eye shields on", "consent": "plan agreed",
}  # fmt: skip


@dataclass(frozen=True)
class Line:
    """A step or timer. began, ended: as the wall clock of the surgery had them, ended None while it runs; remark: what
    is to be said of it, '' where nothing is."""

    title: str
    began: datetime
    ended: datetime | None
    remark: str = ""


@dataclass(frozen=True)
class Written:
    """What was written down. materials: each with its lot, '' where none was given."""

    ticked: tuple[str, ...] = ()
    materials: tuple[tuple[str, str], ...] = ()
    shade: str = ""
    adjusted: str = ""
    agreed_by: str = ""


@dataclass(frozen=True)
class ChairLog:
    """All that the pages show. visits: steps and timers of each, oldest first; teeth: FDI."""

    code: str
    teeth: tuple[str, ...]
    version: str
    visits: tuple[tuple[tuple[Line, ...], tuple[Line, ...]], ...]
    written: Written


def as_pdf(log: ChairLog) -> bytes:
    """The pages as PDF."""
    return _drawn(PdfSheet(_title(log)), log)


def as_html(log: ChairLog) -> bytes:
    """The pages as HTML that fetches nothing."""
    return printed_page(_title(log), _drawn(SvgSheet(_title(log)), log))


def lasted_text(seconds: float) -> str:
    """Minutes and seconds, hours only where there are any."""
    whole = round(seconds)
    hours, rest = divmod(whole, 3600)
    return f"{hours}:{rest // 60:02d}:{rest % 60:02d}" if hours else f"{rest // 60}:{rest % 60:02d}"


def _title(log: ChairLog) -> str:
    return f"Chair log {log.code}"


class _Pages:
    """Where the next line goes, on as many pages as it takes."""

    def __init__(self, sheet: Sheet, log: ChairLog) -> None:
        self._sheet, self._log, self._number = sheet, log, 0
        self._begin()

    def _begin(self) -> None:
        self._number += 1
        if self._number > 1:
            self._sheet.turn()
        log, sheet = self._log, self._sheet
        teeth = f"{'tooth' if len(log.teeth) == 1 else 'teeth'} {', '.join(log.teeth)}"
        sheet.text(LEFT, 17, f"{log.code}", 15, bold=True)
        sheet.text(RIGHT, 17, clipped(f"chair log, {teeth}", 110, 11), 11, anchor="end")
        sheet.text(LEFT, 22, f"Vane Line {log.version}", 7.5, grey=0.25)
        sheet.text(RIGHT, 22, f"page {self._number}", 7.5, anchor="end")
        sheet.rule(LEFT, RIGHT, 24, 0.5)
        sheet.text(LEFT, HEIGHT_MM - 9, DECIDES, 6.6)
        sheet.text(LEFT, HEIGHT_MM - 14, "signed ____________________   date ______________", 8)
        self._y = 31.0

    def room(self, rows: float) -> float:
        """The next baseline, on a new page where so many rows have no room on this one."""
        if self._y + rows * ROW_MM > LOW_MM:
            self._begin()
        return self._y

    def on(self, mm: float = ROW_MM) -> None:
        """Go down."""
        self._y += mm

    def heading(self, text: str) -> None:
        """A line in bold, never the last on a page."""
        self._sheet.text(LEFT, self.room(2.5), text, 10.5, bold=True)
        self.on(ROW_MM + 0.6)

    def row(self, line: Line) -> None:
        """One step or timer."""
        y, sheet = self.room(1), self._sheet
        times = [line.began.strftime("%H:%M"), "runs" if line.ended is None else line.ended.strftime("%H:%M")]
        lasted = "" if line.ended is None else lasted_text((line.ended - line.began).total_seconds())
        for x, text in zip(COLUMNS_MM, (*times, lasted), strict=False):
            sheet.text(LEFT + x, y, text, 9)
        what = f"{line.title}: {line.remark}" if line.remark else line.title
        x = LEFT + COLUMNS_MM[-1]
        sheet.text(x, y, clipped(what, RIGHT - x, 9, bold=bool(line.remark)), 9, bold=bool(line.remark))
        self.on()

    def words(self, title: str, rows: Sequence[str]) -> None:
        """A titled list; nothing where there is none."""
        for k, row in enumerate(rows):
            y = self.room(1)
            if k == 0:
                self._sheet.text(LEFT, y, title, 9, grey=0.25)
            self._y = self._sheet.paragraph(LEFT + COLUMNS_MM[-1], y, row, RIGHT - LEFT - COLUMNS_MM[-1], 9) + 1.2


def _drawn(sheet: Sheet, log: ChairLog) -> bytes:
    pages = _Pages(sheet, log)
    if not any(steps or timed for steps, timed in log.visits):
        pages.heading("Nothing was started or timed in this case yet.")
    for steps, timed in log.visits:
        both = [*steps, *timed]
        if not both:
            continue
        first = min(line.began for line in both)
        last = max(line.ended or line.began for line in both)
        spent = lasted_text((last - first).total_seconds())
        pages.heading(f"{first:%Y-%m-%d}, {first:%H:%M} to {last:%H:%M} ({spent})")
        for line in steps:
            pages.row(line)
        if timed:
            pages.on(1.5)
            pages.heading("Timed")
            for line in timed:
                pages.row(line)
        pages.on(3.0)
    _written(pages, log.written)
    return sheet.bytes()


def _written(pages: _Pages, written: Written) -> None:
    rows = {
        "ticked": [", ".join(TICKS.get(t, t) for t in written.ticked)] if written.ticked else [],
        "materials": [f"{what}, lot {lot}" if lot else f"{what}, no lot written down"
                      for what, lot in written.materials],
        "shade": [written.shade] if written.shade else [],
        "opposing tooth": [written.adjusted + (f" (agreed by {written.agreed_by})" if written.agreed_by else "")]
        if written.adjusted else [],
    }  # fmt: skip
    pages.heading("Written down")
    for title, texts in rows.items():
        pages.words(title, texts)
    if not any(rows.values()):
        pages.words("", ["nothing"])
