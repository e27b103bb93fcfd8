"""Where on a turned part a step is: pictures of the part to click, one for each place."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF

from bastler.app.drafting import painting
from bastler.app.rows import ChoiceButton, ChoiceRow
from bastler.app.theme import ROLES, sans
from bastler.steps.place import Where

TALL = 92
TILT = 0.36
"""How wide a circle of the lying part is seen, as a share of its height."""


class WhereRow(ChoiceRow):
    """A choice whose buttons are pictures, side by side."""

    always_below = True

    def make_button(self, value: object, text: str) -> ChoiceButton:
        return _Picture(text, "round" if value == "round" else "side" if value == "side" else "end")


class _Picture(ChoiceButton):
    """The part lying, what is meant in orange, and what it is called."""

    def __init__(self, text: str, where: Where) -> None:
        super().__init__(text)
        self.where = where
        self.setMinimumSize(60, TALL)

    def sizeHint(self) -> QSize:
        return QSize(92, TALL)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            chosen = self.isChecked()
            box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
            painter.setPen(
                QPen(QColor(ROLES.focus if self.hasFocus() or chosen else ROLES.hairline), 2.4 if self.hasFocus() else 1.6)
            )
            painter.setBrush(QColor(ROLES.field if chosen else ROLES.panel))
            painter.drawRoundedRect(box, 6, 6)
            _lying(painter, QRectF(box.left() + 14, box.top() + 10, box.width() - 28, box.height() - 42), self.where, lit=chosen)
            painter.setPen(QColor(ROLES.ink if chosen else ROLES.soft))
            painter.setFont(sans(13, bold=chosen))
            under = QRectF(box.left(), box.bottom() - 26, box.width(), 20)
            painter.drawText(under, Qt.AlignmentFlag.AlignCenter, self.text())


def _lying(painter: QPainter, box: QRectF, where: Where, *, lit: bool) -> None:
    """A shaft that lies with its end to the right, as it does in the chuck."""
    high = box.height()
    wide = high * TILT
    left, right = box.left() + wide / 2, box.right() - wide / 2
    ink = QPen(QColor(ROLES.ink), 1.2)
    orange, plain = QColor(ROLES.focus if lit else ROLES.removal), QColor(ROLES.metal)
    body = QPainterPath()
    body.addRect(QRectF(left, box.top(), right - left, high))
    back = QPainterPath()
    back.addEllipse(QPointF(left, box.center().y()), wide / 2, high / 2)
    painter.setPen(ink)
    painter.setBrush(plain)
    painter.drawPath(body.united(back))
    painter.setBrush(orange if where == "end" else plain)
    painter.drawEllipse(QPointF(right, box.center().y()), wide / 2, high / 2)
    if where == "side":
        slot = QPolygonF(
            [
                QPointF(left + (right - left) * share, box.top() + high * height)
                for share, height in ((0.22, 0.16), (0.72, 0.16), (0.72, 0.4), (0.22, 0.4))
            ]
        )
        painter.setBrush(orange)
        painter.drawPolygon(slot)
    if where == "round":  # a band round it, seen as a circle is
        a, b = left + (right - left) * 0.36, left + (right - left) * 0.6
        band = QPainterPath()
        band.moveTo(a, box.top())
        band.lineTo(b, box.top())
        band.arcTo(QRectF(b - wide / 2, box.top(), wide, high), 90.0, -180.0)
        band.lineTo(a, box.bottom())
        band.arcTo(QRectF(a - wide / 2, box.top(), wide, high), -90.0, 180.0)
        painter.setBrush(orange)
        painter.drawPath(band)
    painter.setBrush(Qt.BrushStyle.NoBrush)
