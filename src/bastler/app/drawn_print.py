"""A print of our own, painted: the paper, its views with their dimensions, and the block with its title."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPainterPath, QPen, QPolygonF

from bastler.app.drafting import hatch
from bastler.app.theme import DAY, sans
from bastler.language import decimal, tr
from bastler.lessons.drawing import Dimension, Point, PrintDrawing, PrintView, pieces

POINT = 72.0 / 25.4
"""Points in a millimetre."""
INK, PAPER = DAY.ink, "#FFFFFF"
"""Paper is white by night too."""
LETTERS = 15
"""In points: the print is looked at beside the bench, half as large as its paper."""
ARROW = 8.0
GAP = 2.5
MARGIN = 6.0
"""Of the frame, in mm."""
BLOCK = (66.0, 22.0)
"""The title block, in mm."""


class DrawnPrint:
    """Paints a drawing in points of paper, and knows where its sizes stand."""

    def __init__(self, drawing: PrintDrawing) -> None:
        self.drawing = drawing
        self.size = QSizeF(drawing.size[0] * POINT, drawing.size[1] * POINT)

    def labels(self) -> list[tuple[str, QRectF]]:
        """The words of each size and the box in which they stand, in points from the upper left, in the order of the drawing."""
        return [(dim.words, self._lay(view, dim).label) for view in self.drawing.views for dim in view.dims]

    def paint(self, painter: QPainter, box: QRectF) -> None:
        """The whole sheet in a box."""
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        painter.translate(box.topLeft())
        painter.scale(box.width() / self.size.width(), box.height() / self.size.height())
        painter.fillRect(QRectF(QPointF(), self.size), QColor(PAPER))
        self._frame(painter)
        for view in self.drawing.views:
            self._view(painter, view)
        painter.restore()

    # -- the paper ------------------------------------------------------------------------------------------------

    def _frame(self, painter: QPainter) -> None:
        m = MARGIN * POINT
        frame = QRectF(m, m, self.size.width() - 2 * m, self.size.height() - 2 * m)
        painter.setPen(QPen(QColor(INK), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)
        wide, high = BLOCK[0] * POINT, BLOCK[1] * POINT
        block = QRectF(frame.right() - wide, frame.bottom() - high, wide, high)
        painter.drawRect(block)
        painter.setPen(QPen(QColor(INK), 0.6))
        third = high / 3
        for k in (1, 2):
            painter.drawLine(QPointF(block.left(), block.top() + k * third), QPointF(block.right(), block.top() + k * third))
        d = self.drawing
        rows = ((tr(d.title), d.number, True), (tr(d.material), "", False), (d.general, "mm", False))
        for k, (left, right, bold) in enumerate(rows):
            line = QRectF(block.left() + 6, block.top() + k * third, wide - 12, third)
            painter.setFont(sans(LETTERS, bold=bold))
            painter.drawText(line, int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft), left)
            painter.drawText(line, int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight), right)

    def _to(self, view: PrintView, point: Point) -> QPointF:
        x, y = view.placed(point)
        return QPointF(x * POINT, self.size.height() - y * POINT)

    def _path(self, view: PrintView, text: str) -> QPainterPath:
        path = QPainterPath()
        for piece in pieces(text):
            a, b = self._to(view, piece.a), self._to(view, piece.b)
            if path.elementCount() == 0 or (path.currentPosition() - a).manhattanLength() > 1e-3:
                path.moveTo(a)
            if piece.centre is None:
                path.lineTo(b)
            else:
                c, r = self._to(view, piece.centre), math.dist(piece.centre, piece.a) * view.scale * POINT
                begin = math.degrees(math.atan2(piece.a[1] - piece.centre[1], piece.a[0] - piece.centre[0]))
                path.arcTo(QRectF(c.x() - r, c.y() - r, 2 * r, 2 * r), begin, piece.sweep)
        return path

    def _view(self, painter: QPainter, view: PrintView) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for text in view.hatched:
            hatch(painter, self._path(view, text), DAY.soft, 6.0)
        pens = (
            (view.thin, _pen(0.7)),
            (view.chain, _pen(0.7, 9, 3, 2, 3)),
            (view.dashed, _pen(0.9, 5, 3)),
            (view.thick, _pen(1.6)),
        )
        for texts, pen in pens:
            painter.setPen(pen)
            for text in texts:
                painter.drawPath(self._path(view, text))
        for dim in view.dims:
            laid = self._lay(view, dim)
            painter.setPen(_pen(0.7))
            for a, b in laid.lines:
                painter.drawLine(a, b)
            painter.setBrush(QColor(INK))
            for tip, angle in laid.arrows:
                painter.drawPolygon(_arrow(tip, angle))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.fillRect(laid.label.adjusted(1, 1, -1, -1), QColor(PAPER))
            painter.setFont(sans(LETTERS))
            painter.drawText(laid.label, int(Qt.AlignmentFlag.AlignCenter), decimal(dim.words))

    # -- dimensions -------------------------------------------------------------------------------------------------

    def _lay(self, view: PrintView, dim: Dimension) -> _Laid:
        wide = QFontMetricsF(sans(LETTERS)).horizontalAdvance(decimal(dim.words)) + 6
        high = LETTERS * 1.35
        a, b = self._to(view, dim.a), self._to(view, dim.b)
        off = dim.off * POINT
        if dim.how in ("round", "radius", "note"):
            return self._pointed(dim, a, off, wide, high)
        if dim.how == "across":
            y = a.y() - off
            p, q = QPointF(a.x(), y), QPointF(b.x(), y)
            beyond = QPointF(0, -math.copysign(GAP, off))
            return _between(a, b, p, q, beyond, QPointF(0, -high / 2 - 0.5), wide, high, turned=False)
        x = a.x() + off
        p, q = QPointF(x, a.y()), QPointF(x, b.y())
        return _between(a, b, p, q, QPointF(math.copysign(GAP, off), 0), QPointF(0, 0), wide, high, turned=True)

    def _pointed(self, dim: Dimension, a: QPointF, off: float, wide: float, high: float) -> _Laid:
        """A line with an arrow to what is meant, and the words at its other end."""
        angle = math.radians(dim.angle)
        ux, uy = math.cos(angle), -math.sin(angle)
        end = QPointF(a.x() + ux * off, a.y() + uy * off)
        left = end.x() - wide if ux < 0 else end.x()
        label = QRectF(left, end.y() - high / 2, wide, high)
        return _Laid([(a, end)], [(a, math.atan2(-uy, -ux))], label)


class _Laid:
    """A dimension in its place: its lines, its arrows with the way they point, and the box of its words."""

    def __init__(self, lines: list[tuple[QPointF, QPointF]], arrows: list[tuple[QPointF, float]], label: QRectF) -> None:
        self.lines, self.arrows, self.label = lines, arrows, label


def _between(
    a: QPointF, b: QPointF, p: QPointF, q: QPointF, beyond: QPointF, lift: QPointF, wide: float, high: float, *, turned: bool
) -> _Laid:
    """A line from p to q between two extension lines; the words stand over it, or in it where it stands upright, or beside it
    where there is no room between the arrows."""
    way = math.atan2(q.y() - p.y(), q.x() - p.x())
    length = math.hypot(q.x() - p.x(), q.y() - p.y())
    middle = QPointF((p.x() + q.x()) / 2, (p.y() + q.y()) / 2)
    lines = [(a, p + beyond), (b, q + beyond)]
    label = QRectF(middle.x() - wide / 2 + lift.x(), middle.y() - high / 2 + lift.y(), wide, high)
    if length >= ((high + 2 * ARROW + 4) if turned else wide):
        return _Laid([*lines, (p, q)], [(p, way + math.pi), (q, way)], label)
    out = QPointF(math.cos(way) * 12, math.sin(way) * 12)
    if turned and length >= high:
        return _Laid([*lines, (p - out, q + out)], [(p, way), (q, way + math.pi)], label)
    end = q + out + (QPointF(0, 0) if turned else QPointF(math.copysign(wide, out.x()), 0))
    if turned:
        label = QRectF(q.x() + 4, q.y() + out.y() - high / 2 + math.copysign(high / 2, out.y()), wide, high)
    else:
        label = QRectF(min(q.x() + out.x(), end.x()), q.y() - high - 0.5, wide, high)
    return _Laid([*lines, (p - out, end)], [(p, way), (q, way + math.pi)], label)


def _arrow(tip: QPointF, angle: float) -> QPolygonF:
    """A filled arrow head that points along an angle."""
    back = QPointF(math.cos(angle) * ARROW, math.sin(angle) * ARROW)
    side = QPointF(-math.sin(angle) * ARROW * 0.18, math.cos(angle) * ARROW * 0.18)
    return QPolygonF([tip, tip - back + side, tip - back - side])


def _pen(width: float, *dashes: float) -> QPen:
    pen = QPen(QColor(INK), width, cap=Qt.PenCapStyle.FlatCap)
    if dashes:
        pen.setDashPattern([d / width for d in dashes])
    return pen
