"""A program as text to be typed over: numbers of lines, words by their kind, what was typed by hand marked in the margin."""

from __future__ import annotations

import re

from PyQt6.QtCore import QEvent, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QFont,
    QKeyEvent,
    QPainter,
    QPaintEvent,
    QPalette,
    QResizeEvent,
    QSyntaxHighlighter,
    QTextCharFormat,
    QTextCursor,
    QTextDocument,
    QTextFormat,
)
from PyQt6.QtWidgets import QPlainTextEdit, QTextEdit, QWidget

from bastler.app.claims import claimed
from bastler.app.drafting import painting
from bastler.app.theme import ROLES, mono, sans
from bastler.job.by_hand import REMARK
from bastler.language import tr

MARGIN = 66
WORDS = (
    (re.compile(r"[GM]\s*\d+(?:\.\d+)?", re.I), "ink", True),
    (re.compile(r"[XYZABCUVWIJKRQ]\s*[-+]?[\d.]+", re.I), "link", False),
    (re.compile(r"[FSTHD]\s*[-+]?[\d.]+", re.I), "letters", False),
    (re.compile(r"[NO]\s*\d+", re.I), "soft", False),
)
OWN_KEYS = (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Insert)
"""Words by their kind: what is done, where, how fast and with what; numbers of lines; remarks."""


class Colours(QSyntaxHighlighter):
    """What kind of word each is."""

    def __init__(self, document: QTextDocument) -> None:
        super().__init__(document)
        self._formats: list[tuple[re.Pattern[str], QTextCharFormat]] = []
        self._remark = QTextCharFormat()

    def take_colours(self) -> None:
        """Those that are worn now."""
        self._formats = [(pattern, _format(getattr(ROLES, role), bold=bold)) for pattern, role, bold in WORDS]
        self._remark = _format(ROLES.soft, italic=True)
        self.rehighlight()

    def highlightBlock(self, text: str | None) -> None:
        """Colours one line."""
        text = text or ""
        for pattern, how in self._formats:
            for found in pattern.finditer(text):
                self.setFormat(found.start(), found.end() - found.start(), how)
        for found in REMARK.finditer(text):
            self.setFormat(found.start(), found.end() - found.start(), self._remark)


def _format(tint: str, *, bold: bool = False, italic: bool = False) -> QTextCharFormat:
    how = QTextCharFormat()
    how.setForeground(QColor(tint))
    how.setFontWeight(QFont.Weight.Bold if bold else QFont.Weight.Normal)
    how.setFontItalic(italic)
    return how


class _Margin(QWidget):
    """Beside the text: numbers, and a bar where a line was typed by hand."""

    def __init__(self, editor: CodeEditor) -> None:
        super().__init__(editor)
        self.editor = editor

    def sizeHint(self) -> QSize:
        return QSize(MARGIN, 0)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self.editor.paint_margin(painter, self.rect())


class CodeEditor(QPlainTextEdit):
    """`typed` comes when somebody has typed, `moved` with the line when the cursor goes to another one. Undoing is the job's."""

    typed = pyqtSignal()
    moved = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(tr("Program, to be typed over"))
        self.setFont(mono(14))
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setUndoRedoEnabled(False)
        self.setTabChangesFocus(True)
        self.margin = _Margin(self)
        self.by_hand: frozenset[int] = frozenset()
        """Lines that were typed by hand, and those behind which some were taken away."""
        self._setting = False
        self._line = -1
        document = self.document()
        assert document is not None
        self._colours = Colours(document)
        self.take_colours()
        self.setViewportMargins(MARGIN, 0, 0, 0)
        self.textChanged.connect(self._changed)
        self.updateRequest.connect(self._scrolled)
        self.cursorPositionChanged.connect(self._cursor)

    def take_colours(self) -> None:
        """Those that are worn now."""
        palette = self.palette()
        palette.setColor(QPalette.ColorRole.Base, QColor(ROLES.panel))
        self.setPalette(palette)
        self._colours.take_colours()

    @property
    def lines(self) -> tuple[str, ...]:
        """What is in it."""
        return tuple(self.toPlainText().splitlines())

    @property
    def line(self) -> int:
        """The line that the cursor is in, from 0."""
        return self.textCursor().blockNumber()

    def show_lines(self, lines: tuple[str, ...]) -> None:
        """Another text; the cursor stays in its line and column, and what is seen stays in view."""
        cursor = self.textCursor()
        line, column = cursor.blockNumber(), cursor.positionInBlock()
        bar = self.verticalScrollBar()
        at = bar.value() if bar is not None else 0
        self._setting = True
        try:
            self.setPlainText("\n".join(lines))
            self._go(line, column)
            if bar is not None:
                bar.setValue(at)
        finally:
            self._setting = False

    def mark(self, lines: frozenset[int]) -> None:
        """Marks lines in the margin."""
        self.by_hand = lines
        self.margin.update()

    def go_to(self, line: int) -> None:
        """The cursor to the begin of a line, from 0, which comes into view."""
        self._go(line, 0)
        self.centerCursor()

    def _go(self, line: int, column: int) -> None:
        document = self.document()
        assert document is not None
        block = document.findBlockByNumber(min(max(line, 0), document.blockCount() - 1))
        cursor = QTextCursor(block)
        cursor.setPosition(block.position() + min(column, max(block.length() - 1, 0)))
        self.setTextCursor(cursor)

    # -- finding --------------------------------------------------------------------------------------------------

    def find_next(self, text: str, *, back: bool = False) -> bool:
        """To the next place of a text, round the end; is there one?"""
        if not text:
            return False
        flags = QTextDocument.FindFlag.FindBackward if back else QTextDocument.FindFlag(0)
        if self.find(text, flags):
            return True
        was = self.textCursor()
        self.moveCursor(QTextCursor.MoveOperation.End if back else QTextCursor.MoveOperation.Start)
        if self.find(text, flags):
            return True
        self.setTextCursor(was)
        return False

    def replace_next(self, text: str, by: str) -> bool:
        """What is found is replaced, and the next place is gone to; is there one?"""
        cursor = self.textCursor()
        if text and cursor.selectedText().lower() == text.lower():
            cursor.insertText(by)
        return self.find_next(text)

    def replace_all(self, text: str, by: str) -> int:
        """Replaces every place of a text; how many there were."""
        document = self.document()
        if not text or document is None:
            return 0
        cursor, count = QTextCursor(document), 0
        cursor.beginEditBlock()
        while True:
            cursor = document.find(text, cursor)
            if cursor.isNull():
                break
            cursor.insertText(by)
            count += 1
        QTextCursor(document).endEditBlock()
        return count

    # -- what Qt asks ---------------------------------------------------------------------------------------------

    def event(self, event: QEvent | None) -> bool:
        """Keys of commands are the window's, but for those that go about in a text."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and event.key() in OWN_KEYS:
            if not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier):
                event.accept()
                return True
        if claimed(event):
            return False
        return super().event(event)

    def _changed(self) -> None:
        if not self._setting:
            self.typed.emit()

    def _cursor(self) -> None:
        here = QTextEdit.ExtraSelection()
        here.format.setBackground(QColor(ROLES.focus_tint))
        here.format.setProperty(QTextFormat.Property.FullWidthSelection, True)
        here.cursor = self.textCursor()
        here.cursor.clearSelection()
        self.setExtraSelections([here])
        if self.line != self._line:
            self._line = self.line
            self.margin.update()
            if not self._setting:
                self.moved.emit(self._line)

    def _scrolled(self, rect: QRect, dy: int) -> None:
        if dy:
            self.margin.scroll(0, dy)
        else:
            self.margin.update(0, rect.y(), MARGIN, rect.height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        room = self.contentsRect()
        self.margin.setGeometry(QRect(room.left(), room.top(), MARGIN, room.height()))

    def paint_margin(self, painter: QPainter, room: QRect) -> None:
        """The numbers of the lines in view."""
        painter.fillRect(room, QColor(ROLES.paper))
        block = self.firstVisibleBlock()
        top = self.blockBoundingGeometry(block).translated(self.contentOffset()).top()
        while block.isValid() and top <= room.bottom():
            high, number = self.blockBoundingRect(block).height(), block.blockNumber()
            painter.setFont(sans(12, bold=number == self._line))
            painter.setPen(QColor(ROLES.ink if number == self._line else ROLES.soft))
            painter.drawText(
                QRect(0, round(top), MARGIN - 16, round(high)),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                str(number + 1),
            )
            if number in self.by_hand:
                painter.fillRect(QRect(MARGIN - 10, round(top) + 1, 4, round(high) - 2), QColor(ROLES.focus))
            top += high
            block = block.next()
