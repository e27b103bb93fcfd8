"""Words on the screen. What comes from a job, a file or a tool is text and nothing else: no mark-up in a name is ever followed.

Qt takes whatever looks like mark-up for it, loads pictures that it names, and would wait for a pipe. So every label is plain
unless it is a `Marked` one, whose mark-up is ours and whose data has gone through `escape`.
"""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QLabel

__all__ = ["Elided", "Label", "Marked", "escape", "tip"]


class Label(QLabel):
    """A label of plain text."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class Elided(Label):
    """A line of plain text that ends in dots where there is no room for all of it; its tooltip has the whole."""

    def minimumSizeHint(self) -> QSize:
        """It takes what it gets."""
        return QSize(40, super().minimumSizeHint().height())

    def setText(self, text: str | None) -> None:
        super().setText(text)
        self.setToolTip(tip(text or ""))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setFont(self.font())
        painter.setPen(self.palette().color(self.foregroundRole()))
        shown = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), int(self.alignment()), shown)
        painter.end()


class Marked(QLabel):
    """A label with mark-up of our own; data in it has been escaped."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setText(text)


def tip(text: str) -> str:
    """A text as a tooltip that is shown as it stands."""
    return f"<span>{escape(text)}</span>" if "<" in text else text
