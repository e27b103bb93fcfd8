"""The setup sheet on paper: pages for each program with stock and zero drawn, what was answered, tools, steps, what was found and
which sizes to measure. The same pages go to a file and to a printer."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import segno
from PyQt6.QtCore import QIODevice, QMarginsF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QPagedPaintDevice, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen

from bastler.app.drafting import bytes_of
from bastler.app.pictures import draw_tool
from bastler.app.printed_drawing import PrintedDrawing
from bastler.app.route import draw_level
from bastler.app.theme import DAY, mono, sans, tool_hue, wearing
from bastler.job.faults import fault_of
from bastler.language import many, tr
from bastler.live.setup_sheet import HoldingSheet, ProgramSheet, SetupSheet, SizeLine, limits_text
from bastler.proof.remark import HOLDING, VERDICTS
from bastler.tools import Tool
from bastler.units import Kind, clock, printed
from bastler.units import scale as unit_scale
from bastler.units.kinds import suffix

DOTS = 96.0
"""Pages are laid out in pixels of the window, 96 to the inch."""
FINE_DOTS = 1200
"""How finely a file is written, to the inch."""
MARGIN = 42.0
ROW, TOOL_ROW, FACT_ROW, WRAPPED_ROW = 20.0, 46.0, 14.5, 16.0
DRAWN, DRAWN_WIDE = 372.0, 0.64
"""How high the drawing of a holding is at least, and how wide as a share of the page; what was answered stands beside it."""
QR = 92.0
SHOWN_DIGITS = 12
"""So much of a digest people compare."""
PAPERS = {"A4": QPageSize.PageSizeId.A4, "Letter": QPageSize.PageSizeId.Letter}


def usual_paper(sheet: SetupSheet) -> str:
    """Letter where people measure in inches."""
    return "Letter" if sheet.unit == "inch" else "A4"


def pdf_of(sheet: SetupSheet, when: str, paper: str = "") -> bytes:
    """The setup sheet as a PDF file, on A4 or Letter paper; `when` stands at its head."""

    def write(file: QIODevice) -> None:
        device = QPdfWriter(file)
        device.setResolution(FINE_DOTS)
        device.setTitle(tr("{name}, setup sheet", name=sheet.job.name))
        device.setCreator("Bastler")
        device.setPageLayout(page_layout(paper or usual_paper(sheet)))
        print_pages(device, sheet, when)

    return bytes_of(write)


def page_layout(paper: str) -> QPageLayout:
    """A4 or Letter, upright; the margins are in what is painted."""
    return QPageLayout(QPageSize(PAPERS[paper]), QPageLayout.Orientation.Portrait, QMarginsF())


def print_pages(device: QPagedPaintDevice, sheet: SetupSheet, when: str) -> int:
    """Paints all pages on a printer or into a file; gives how many there are."""
    painter = QPainter(device)
    with wearing(DAY):  # paper is white at night too
        return _painted_on(painter, device, sheet, when)


def _painted_on(painter: QPainter, device: QPagedPaintDevice, sheet: SetupSheet, when: str) -> int:
    try:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(device.logicalDpiX() / DOTS, device.logicalDpiY() / DOTS)
        wide, high = (
            of * DOTS / dpi for of, dpi in ((device.width(), device.logicalDpiX()), (device.height(), device.logicalDpiY()))
        )
        pages = _Pages(painter, device.newPage, wide, high, sheet, when)
        pages.all()
        return pages.number
    finally:
        painter.end()


@dataclass(frozen=True)
class _Column:
    """A column of a table: its heading, where it begins as a share of the width, and how its cells stand."""

    says: str
    at: float
    right: bool = False


class _Pages:
    """Goes down one page after another."""

    def __init__(
        self, painter: QPainter, next_page: Callable[[], object], wide: float, high: float, sheet: SetupSheet, when: str
    ) -> None:
        self.painter, self._next, self.sheet, self.when = painter, next_page, sheet, when
        self.left, self.wide = MARGIN, wide - 2 * MARGIN
        self.bottom = high - MARGIN - 18
        self.high = high
        self.y = MARGIN
        self.number = 1
        self.program = sheet.programs[0]

    def all(self) -> None:
        """Everything there is to say."""
        for k, program in enumerate(self.sheet.programs):
            if k:
                self._turn()
            self.program = program
            self._title(program)
            for holding in program.holdings:
                self._holding(holding, named=len(self.sheet.programs) > 1 or len(program.holdings) > 1)
            self._tools(program)
            self._steps(program)
            self._found(program)
        self._sizes(self.sheet.sizes)
        self._foot()

    # -- pages ---------------------------------------------------------------------------------------------------

    def _need(self, high: float) -> bool:
        """Goes to the next page where there is less room; was that needed?"""
        if self.y + high <= self.bottom:
            return False
        self._turn()
        return True

    def _turn(self) -> None:
        self._foot()
        self._next()
        self.number += 1
        self.y = MARGIN

    def _foot(self) -> None:
        job, program = self.sheet.job, self.program
        box = QRectF(self.left, self.high - MARGIN - 4, self.wide, 14)
        text = f"{job.name}, O{program.number:04d}, {program.digest[:SHOWN_DIGITS]}, {self.when}"
        self._text(box, text, sans(9), DAY.soft)
        self._text(box, str(self.number), sans(9), DAY.soft, Qt.AlignmentFlag.AlignRight)

    # -- words ---------------------------------------------------------------------------------------------------

    def _text(
        self,
        box: QRectF,
        text: str,
        font: QFont,
        tint: str = DAY.ink,
        align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft,
    ) -> None:
        """A line, cut off where it is too long."""
        self.painter.setFont(font)
        self.painter.setPen(QColor(tint))
        shown = self.painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
        self.painter.drawText(box, align | Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextSingleLine, shown)

    def _wrapped(self, text: str, font: QFont, left: float) -> None:
        """As many lines as it takes."""
        self.painter.setFont(font)
        metrics = self.painter.fontMetrics()
        lines = [""]
        for word in text.split():
            longer = f"{lines[-1]} {word}".strip()
            if lines[-1] and metrics.horizontalAdvance(longer) > self.left + self.wide - left:
                lines.append(word)
            else:
                lines[-1] = longer
        for line in lines:
            self._need(WRAPPED_ROW)
            self._text(QRectF(left, self.y, self.left + self.wide - left, WRAPPED_ROW), line, font)
            self.y += WRAPPED_ROW

    def _heading(self, text: str, below: float) -> None:
        """A heading, not parted from what is below it."""
        self._need(30 + below)
        self.y += 10
        self._text(QRectF(self.left, self.y, self.wide, 18), text, sans(13, bold=True))
        self.y += 19
        self.painter.setPen(QPen(QColor(DAY.ink), 1.2))
        self.painter.drawLine(self._at(0.0), self._at(1.0))
        self.y += 3

    def _at(self, share: float) -> QPointF:
        return QPointF(self.left + share * self.wide, self.y)

    # -- what it says --------------------------------------------------------------------------------------------

    def _title(self, program: ProgramSheet) -> None:
        sheet, top = self.sheet, self.y
        wide = self.wide - QR - 14
        self._text(QRectF(self.left, top, wide, 30), sheet.job.name, sans(24, bold=True))
        several = (
            tr(", program {index} of {programs}", index=self.sheet.programs.index(program) + 1, programs=len(sheet.programs))
            if len(sheet.programs) > 1
            else ""
        )
        self._text(
            QRectF(self.left, top + 30, wide, 18),
            tr("Setup sheet O{number:04d}{several}", number=program.number, several=several),
            sans(14),
        )
        self._text(
            QRectF(self.left, top + 50, wide, 16), f"{sheet.card.name}, {sheet.job.material.called}, {sheet.stock}", sans(12)
        )
        stops = sum(remark.level in HOLDING for remark in program.remarks)
        draw_level(self.painter, "good" if not stops else "stop", self.left + 6, top + 77, 12)
        said = (
            tr(VERDICTS[program.verdict])
            if not stops
            else tr("Not proved, {many}: it must not run as it is", many=many(stops, "stop remark"))
        )
        line = f"{said}.  {clock(program.seconds)}, {many(program.lines, 'line')}."
        self._text(
            QRectF(self.left + 18, top + 68, wide - 18, 18), line, sans(13, bold=True), DAY.good if not stops else DAY.stop
        )
        self._qr(program, QRectF(self.left + self.wide - QR, top, QR, QR))
        box = QRectF(self.left + self.wide - QR - 30, top + QR, QR + 30, 14)
        self._text(box, program.digest[:SHOWN_DIGITS], mono(10), DAY.soft, Qt.AlignmentFlag.AlignRight)
        self.y = top + QR + 18

    def _qr(self, program: ProgramSheet, box: QRectF) -> None:
        """Number and digest of the program, for a reader to compare with what the machine has."""
        code = segno.make(f"O{program.number:04d} {program.digest.upper()}", error="m", micro=False)
        rows = list(code.matrix)
        cell = box.width() / len(rows)
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(QColor(DAY.ink))
        for j, row in enumerate(rows):
            at = 0
            for dark, run in itertools.groupby(row):
                many_cells = len(list(run))
                if dark:
                    place = QRectF(box.left() + at * cell, box.top() + j * cell, many_cells * cell, cell)
                    self.painter.fillRect(place, QColor(DAY.ink))
                at += many_cells
        self.painter.setBrush(Qt.BrushStyle.NoBrush)

    def _holding(self, holding: HoldingSheet, *, named: bool) -> None:
        job, shown = self.sheet.job, holding.shown
        lines = _by_group(holding.facts)
        high = max(DRAWN, len(lines) * FACT_ROW)
        if named:
            self._heading(f"{shown.place + 1}  {shown.holding.titled(job.card)}", high)
            self.y += 5
        self._need(high)
        box = QRectF(self.left, self.y, DRAWN_WIDE * self.wide, high)
        PrintedDrawing(job, holding, box).paint(self.painter)
        self.painter.setPen(QPen(QColor(DAY.hairline), 1.0))
        self.painter.drawRect(box)
        left, wide = box.right() + 14, self.left + self.wide - box.right() - 14
        for k, (says, text) in enumerate(lines):
            place = QRectF(left, self.y + k * FACT_ROW, wide, FACT_ROW)
            self._text(place, says, sans(11, bold=not text), DAY.soft if text else DAY.ink)
            self._text(place.adjusted(wide * 0.3, 0, 0, 0), text, sans(11), align=Qt.AlignmentFlag.AlignRight)
        self.y += high + 4

    def _head(self, columns: Sequence[_Column]) -> None:
        for column, following in itertools.zip_longest(columns, columns[1:]):
            end = following.at if following is not None else 1.0
            box = QRectF(self.left + column.at * self.wide, self.y, (end - column.at) * self.wide - 8, 15)
            self._text(box, column.says, sans(10, italic=True), DAY.soft, _side(column))
        self.y += 16

    def _row(self, columns: Sequence[_Column], cells: Sequence[str], high: float, *, bold: bool = False) -> None:
        for column, following, cell in itertools.zip_longest(columns, columns[1:], cells, fillvalue=None):
            assert column is not None
            end = following.at if following is not None else 1.0
            box = QRectF(self.left + column.at * self.wide, self.y, (end - column.at) * self.wide - 8, high)
            self._text(box, cell or "", sans(12, bold=bold), align=_side(column))
        self.y += high
        self.painter.setPen(QPen(QColor(DAY.hairline), 0.8))
        self.painter.drawLine(self._at(0.0), self._at(1.0))

    def _tools(self, program: ProgramSheet) -> None:
        unit = self.sheet.unit
        columns = (
            _Column("", 0.0), _Column("T", 0.11), _Column("", 0.17), _Column(tr("sticks out"), 0.62, right=True),
            _Column(tr("steps"), 0.73), _Column(tr("runs"), 0.88, right=True),
        )  # fmt: skip
        self._heading(f"{many(len(program.tools), 'tool')}", TOOL_ROW)
        self._head(columns)
        tall = max((line.tool.stick_out for line in program.tools if isinstance(line.tool, Tool)), default=1.0)
        for line in program.tools:
            if self._need(TOOL_ROW):
                self._head(columns)
            tool = line.tool
            box = QRectF(self.left, self.y + 2, 0.1 * self.wide, TOOL_ROW - 4)
            one = unit_scale("mm", tool.unit)
            scale = min((TOOL_ROW - 6) / max(tall, 1e-9), 2.4 / one) if isinstance(tool, Tool) else 1.1 / one
            if not fault_of(tool):
                draw_tool(self.painter, tool, box, scale)
            self.painter.fillRect(
                QRectF(self.left + 0.11 * self.wide - 7, self.y + 4, 4, TOOL_ROW - 8), QColor(tool_hue(tool.station))
            )
            out = f"{printed(tool.in_unit(unit).stick_out, Kind.LENGTH, unit)} {suffix(Kind.LENGTH, unit)}"
            steps = ", ".join(map(str, line.steps))
            self._row(columns, ("", str(tool.station), tool.called, out, steps, clock(line.seconds)), TOOL_ROW)

    def _steps(self, program: ProgramSheet) -> None:
        columns = (
            _Column("", 0.0, right=True),
            _Column("", 0.06),
            _Column("", 0.32),
            _Column("T", 0.76),
            _Column(tr("takes"), 0.89, right=True),
        )
        lines = [line for holding in program.holdings for line in holding.steps]
        self._heading(many(len(lines), "step"), ROW * 2)
        self._head(columns)
        for line in lines:
            if self._need(ROW * (2 if line.stops else 1)):
                self._head(columns)
            stations = ", ".join(map(str, line.stations))
            self._row(columns, (str(line.number), line.title, line.summary, stations, clock(line.seconds)), ROW)
            if line.stops:
                box = QRectF(self.left + 0.06 * self.wide, self.y, 0.94 * self.wide, ROW)
                draw_level(self.painter, "stop", box.left() + 6, box.center().y(), 10)
                self._text(box.adjusted(18, 0, 0, 0), line.stops, sans(12, bold=True))
                self.y += ROW

    def _found(self, program: ProgramSheet) -> None:
        if not program.remarks:
            return
        self._heading(tr("What the proof says"), 24)
        for remark in program.remarks:
            at = tr("line {line}: ", line=remark.line) if remark.line else ""
            self._need(24)
            draw_level(self.painter, remark.level, self.left + 7, self.y + 8, 11)
            self._wrapped(f"{at}{remark.text}", sans(12), self.left + 20)

    def _sizes(self, sizes: Sequence[SizeLine]) -> None:
        columns = (
            _Column("", 0.0, right=True), _Column("", 0.06), _Column("", 0.29), _Column(tr("on the print"), 0.53, right=True),
            _Column(tr("from"), 0.68, right=True), _Column(tr("to"), 0.77, right=True), _Column(tr("measured"), 0.87),
        )  # fmt: skip
        self._heading(tr("Sizes to measure"), ROW * 2)
        self._head(columns)
        for size in sizes:
            if self._need(ROW):
                self._head(columns)
            least, most = limits_text(size, self.sheet.unit)
            number = str(size.number) if size.number else ""
            self._row(
                columns,
                (number, size.title, size.says, _united(size), least, most, ""),
                ROW,
                bold=bool(least),
            )


def _united(size: SizeLine) -> str:
    return f"{size.text}{'' if size.unit == '°' else ' '}{size.unit}".strip()


def _by_group(facts: Sequence[tuple[str, str, str]]) -> list[tuple[str, str]]:
    """Question and answer, and before those of a group its name alone."""
    lines: list[tuple[str, str]] = []
    for group, own in itertools.groupby(facts, key=lambda fact: fact[0]):
        lines += [(group, ""), *((says, text) for _, says, text in own)]
    return lines


def _side(column: _Column) -> Qt.AlignmentFlag:
    return Qt.AlignmentFlag.AlignRight if column.right else Qt.AlignmentFlag.AlignLeft
