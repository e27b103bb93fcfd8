"""Dimension lines on the sheet (ISO 129 manner): where they lie, how they are drawn, where they are clicked."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen, QPolygonF

from bastler.app.theme import ROLES, sans
from bastler.language import tr
from bastler.steps import Dim

Map = Callable[[float, float], QPointF]
FIRST, NEXT = 30.0, 27.0
ARROW = 6.0
LABEL_HEIGHT = 22.0
BEYOND = 10.0
"""How far the line of a bore's diameter goes on beyond the axis, in pixels."""


@dataclass
class DimLabel:
    """A dimension's box on the sheet."""

    field: str
    text: str
    box: QRectF


@dataclass
class Drafter:
    """Draws dimensions one after the other and keeps them from lying on each other.

    `plan` and `section` map to pixels; `frame` is the part's outline in the plan, in pixels, and `cut` in the section. That may
    be `lying`: its heights go to the right.
    """

    painter: QPainter
    plan: Map
    section: Map
    frame: QRectF
    cut: QRectF
    bounds: QRectF
    lit: str = ""
    lying: bool = False
    labels: list[DimLabel] = field(default_factory=list)
    _lanes: dict[str, int] = field(default_factory=dict)

    def draw(self, dim: Dim, text: str) -> None:
        """One dimension with its text."""
        where = self.plan if dim.view == "plan" else self.section
        a, b = where(*dim.a), where(*dim.b)
        lit = dim.field == self.lit
        self.painter.setPen(QPen(QColor(ROLES.focus if lit else ROLES.ink), 1.6 if lit else 1.0))
        ways = {
            "along x": self._along_x,
            "along y": self._along_y,
            "aligned": self._aligned,
            "diameter": self._diameter,
            "radius": self._radius,
            "angle": self._angle,
            "depth": self._depth,
        }
        if self.lying and dim.view == "section":
            ways |= {"along x": self._upright, "depth": self._lengthwise}
        ways[dim.how](dim, a, b, text)

    def _lane(self, name: str) -> float:
        number = self._lanes.get(name, 0)
        self._lanes[name] = number + 1
        return FIRST + NEXT * number

    def _along_x(self, dim: Dim, a: QPointF, b: QPointF, text: str) -> None:
        box = self.frame if dim.view == "plan" else self.cut
        below = dim.side < 0 and dim.view == "plan"
        y = box.bottom() + self._lane("bottom") if below else box.top() - self._lane(tr("{view} top", view=dim.view))
        self._extension(a, QPointF(a.x(), y))
        self._extension(b, QPointF(b.x(), y))
        self._line(QPointF(a.x(), y), QPointF(b.x(), y))
        self._label(dim, QPointF((a.x() + b.x()) / 2, y), text, shift=(1, 0))

    def _along_y(self, dim: Dim, a: QPointF, b: QPointF, text: str) -> None:
        left = dim.side < 0
        x = self.frame.left() - self._lane("left") if left else self.frame.right() + self._lane("right")
        self._extension(a, QPointF(x, a.y()))
        self._extension(b, QPointF(x, b.y()))
        self._line(QPointF(x, a.y()), QPointF(x, b.y()))
        self._label(dim, QPointF(x, (a.y() + b.y()) / 2), text, shift=(0, 1))

    def _aligned(self, dim: Dim, a: QPointF, b: QPointF, text: str) -> None:
        length = math.hypot(b.x() - a.x(), b.y() - a.y()) or 1.0
        nx, ny = (b.y() - a.y()) / length, -(b.x() - a.x()) / length
        off = 24.0
        p, q = QPointF(a.x() + nx * off, a.y() + ny * off), QPointF(b.x() + nx * off, b.y() + ny * off)
        self._extension(a, p)
        self._extension(b, q)
        self._line(p, q)
        self._label(dim, QPointF((p.x() + q.x()) / 2, (p.y() + q.y()) / 2), text, shift=(nx, ny))

    def _diameter(self, dim: Dim, a: QPointF, b: QPointF, text: str) -> None:
        self._line(a, b)
        length = math.hypot(b.x() - a.x(), b.y() - a.y()) or 1.0
        ux, uy = (b.x() - a.x()) / length, (b.y() - a.y()) / length
        end = QPointF(b.x() + ux * 30, b.y() + uy * 30)
        self.painter.drawLine(b, end)
        self._label(dim, end, "Ø" + text.removeprefix("Ø"), shift=(ux, uy))

    def _radius(self, dim: Dim, a: QPointF, b: QPointF, text: str) -> None:
        length = math.hypot(b.x() - a.x(), b.y() - a.y()) or 1.0
        ux, uy = (b.x() - a.x()) / length, (b.y() - a.y()) / length
        end = QPointF(b.x() + ux * 34, b.y() + uy * 34)
        self.painter.drawLine(a, end)
        self._arrow(b, ux, uy)
        self._label(dim, end, f"R{text}", shift=(ux, uy))

    def _angle(self, dim: Dim, a: QPointF, b: QPointF, text: str) -> None:
        r = min(math.hypot(b.x() - a.x(), b.y() - a.y()) * 0.62, 74.0)
        angle = math.degrees(math.atan2(-(b.y() - a.y()), b.x() - a.x()))
        self.painter.drawLine(a, QPointF(a.x() + r + 8, a.y()))
        self.painter.drawArc(QRectF(a.x() - r, a.y() - r, 2 * r, 2 * r), 0, round(angle * 16))
        half = math.radians(angle / 2)
        self._label(dim, QPointF(a.x() + r * math.cos(half), a.y() - r * math.sin(half)), f"{text}°", shift=(1, 0))

    def _depth(self, dim: Dim, a: QPointF, b: QPointF, text: str) -> None:
        x = a.x() + dim.side * self._lane(tr("depth {x} {side}", x=round(a.x() / 60), side=dim.side))
        self._extension(a, QPointF(x, a.y()))
        self._extension(b, QPointF(x, b.y()))
        short = abs(b.y() - a.y()) < 34
        if short:
            self.painter.drawLine(QPointF(x, min(a.y(), b.y()) - 14), QPointF(x, max(a.y(), b.y()) + 14))
            self._arrow(QPointF(x, min(a.y(), b.y())), 0, 1)
            self._arrow(QPointF(x, max(a.y(), b.y())), 0, -1)
        else:
            self._line(QPointF(x, a.y()), QPointF(x, b.y()))
        beside = 26.0 if short else 0.0
        self._label(dim, QPointF(x + dim.side * beside, (a.y() + b.y()) / 2), text, shift=(dim.side, 0))

    def _upright(self, dim: Dim, a: QPointF, b: QPointF, text: str) -> None:
        """A width in a section that lies: beside it, at the end of the part."""
        x = self.cut.right() + self._lane("upright")
        self._extension(a, QPointF(x, a.y()))
        self._extension(b, QPointF(x, b.y()))
        self._line(QPointF(x, a.y()), QPointF(x, b.y()))
        self._label(dim, QPointF(x + BEYOND, (a.y() + b.y()) / 2), text, shift=(1, 0))

    def _lengthwise(self, dim: Dim, a: QPointF, b: QPointF, text: str) -> None:
        """A depth in a section that lies: under it."""
        y = self.cut.bottom() + self._lane("lengthwise") - FIRST / 3
        self._extension(a, QPointF(a.x(), y))
        self._extension(b, QPointF(b.x(), y))
        left, right = min(a.x(), b.x()), max(a.x(), b.x())
        if right - left < 34:
            self.painter.drawLine(QPointF(left - 14, y), QPointF(right + 14, y))
            self._arrow(QPointF(left, y), 1, 0)
            self._arrow(QPointF(right, y), -1, 0)
        else:
            self._line(QPointF(left, y), QPointF(right, y))
        self._label(dim, QPointF(right + 34, y), text, shift=(1, 0))

    def length(self, dim: Dim, y: float, text: str) -> None:
        """A length along the axis, its line at the height `y`."""
        a, b = self.plan(*dim.a), self.plan(*dim.b)
        self._extension(a, QPointF(a.x(), y))
        self._extension(b, QPointF(b.x(), y))
        self._line(QPointF(a.x(), y), QPointF(b.x(), y))
        self._label(dim, QPointF((a.x() + b.x()) / 2, y), text, shift=(1, 0))

    def half_diameter(self, dim: Dim, z: float, r: float, text: str) -> None:
        """A bore's diameter in a half section: from its edge to a little beyond the axis, one arrow (ISO 129-1)."""
        edge, axis = self.plan(z, r), self.plan(z, 0.0)
        end = QPointF(axis.x(), axis.y() + BEYOND)
        self._label(dim, QPointF(edge.x(), (edge.y() + axis.y()) / 2), text, shift=(-1, 0))
        box = self.labels[-1].box
        if not box.left() - 2 <= edge.x() <= box.right() + 2:
            self.painter.drawLine(QPointF(box.center().x(), box.center().y()), QPointF(edge.x(), box.center().y()))
        self.painter.drawLine(end, edge)
        self._arrow(edge, 0.0, -1.0)

    def leader(self, dim: Dim, at: QPointF, to: QPointF, text: str) -> None:
        """A label beside a place, with a line to it."""
        self._label(dim, to, text, shift=(0, 1))
        self.painter.drawLine(at, self.labels[-1].box.center())

    # -- parts --------------------------------------------------------------------------------------------------

    def _extension(self, start: QPointF, end: QPointF) -> None:
        pen = self.painter.pen()
        self.painter.setPen(QPen(pen.color(), 0.8))
        dx, dy = end.x() - start.x(), end.y() - start.y()
        length = math.hypot(dx, dy)
        if length > 3:
            k = 3 / length
            self.painter.drawLine(QPointF(start.x() + dx * k, start.y() + dy * k), QPointF(end.x() + dx * k, end.y() + dy * k))
        self.painter.setPen(pen)

    def _line(self, a: QPointF, b: QPointF) -> None:
        self.painter.drawLine(a, b)
        length = math.hypot(b.x() - a.x(), b.y() - a.y())
        if length > 4 * ARROW:
            ux, uy = (b.x() - a.x()) / length, (b.y() - a.y()) / length
            self._arrow(a, -ux, -uy)
            self._arrow(b, ux, uy)

    def _arrow(self, tip: QPointF, ux: float, uy: float) -> None:
        back = QPointF(tip.x() - ux * ARROW, tip.y() - uy * ARROW)
        half = ARROW * 0.3
        points = [tip, QPointF(back.x() - uy * half, back.y() + ux * half), QPointF(back.x() + uy * half, back.y() - ux * half)]
        self.painter.setBrush(self.painter.pen().color())
        self.painter.drawPolygon(QPolygonF(points))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)

    def _label(self, dim: Dim, at: QPointF, text: str, shift: tuple[float, float]) -> None:
        width = QFontMetricsF(sans(15, bold=True)).horizontalAdvance(text) + 14
        box = QRectF(at.x() - width / 2, at.y() - LABEL_HEIGHT / 2, width, LABEL_HEIGHT)
        for _ in range(12):
            if not any(box.intersects(other.box) for other in self.labels):
                break
            box.translate(shift[0] * 10, shift[1] * 10)
        box.moveLeft(min(max(box.left(), self.bounds.left()), self.bounds.right() - width))
        box.moveTop(min(max(box.top(), self.bounds.top()), self.bounds.bottom() - LABEL_HEIGHT))
        self.labels.append(DimLabel(dim.field, text, box))

    def finish(self) -> None:
        """Draws the boxes over all lines."""
        painter = self.painter
        for label in self.labels:
            lit = label.field == self.lit
            painter.setPen(QPen(QColor(ROLES.focus if lit else ROLES.hairline), 2 if lit else 1))
            painter.setBrush(QColor(ROLES.focus_tint if lit else ROLES.field))
            painter.drawRoundedRect(label.box, 3, 3)
            painter.setPen(QColor(ROLES.focus if lit else ROLES.ink))
            painter.setFont(sans(15, bold=lit))
            painter.drawText(label.box, Qt.AlignmentFlag.AlignCenter, label.text)
        painter.setBrush(Qt.BrushStyle.NoBrush)
