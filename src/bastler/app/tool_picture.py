"""A tool lying on its side with its dimensions, for the crib: which number means what."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from bastler.app.drafting import painting
from bastler.app.pictures import draw_tool
from bastler.app.session import Session
from bastler.app.theme import ROLES, sans, tool_hue
from bastler.app.tool_outline import tool_outline
from bastler.job.faults import fault_of
from bastler.tools import AnyTool, Tool, TurnTool
from bastler.units import Kind, number_text

HEIGHT = 160


class ToolPicture(QWidget):
    """Emits `picked` with the address of a dimension that is clicked."""

    picked = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(HEIGHT)
        self.tool: AnyTool | None = None
        self.boxes: dict[str, QRectF] = {}
        session.focus_changed.connect(self.update)

    def show_tool(self, tool: AnyTool | None) -> None:
        self.tool = tool
        self.setVisible(tool is not None)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self.boxes = {}
            if isinstance(self.tool, Tool) and not fault_of(self.tool):
                self._paint(painter, self.tool)
            elif self.tool is not None:
                one = self.tool.mm if isinstance(self.tool, TurnTool) else 1.0
                draw_tool(painter, self.tool, QRectF(self.rect()).adjusted(40, 8, -40, -8), 2.4 / one)

    def _paint(self, painter: QPainter, tool: Tool) -> None:
        shown = tool.stick_out + 0.5 * tool.holder.length
        wide = max(tool.diameter, tool.shank_diameter, tool.holder.diameter)
        scale = min((self.width() - 74) / shown, 74.0 / wide)
        x0, y0 = 58.0, 46.0

        def to(x: float, z: float) -> QPointF:
            """From the tool's own picture, x across and z up from the tip, to the pixels."""
            return QPointF(x0 + z * scale, y0 + x * scale)

        painter.save()
        painter.setClipRect(QRectF(0, 0, x0 + shown * scale, HEIGHT))
        for points, what in tool_outline(tool):
            painter.setPen(QPen(QColor(ROLES.ink), 1.0))
            fills = {"edge": tool_hue(max(tool.station, 1)), "shank": ROLES.metal, "holder": ROLES.jaw}
            painter.setBrush(QColor(fills[what]))
            painter.drawPolygon(QPolygonF([to(x, z) for x, z in points]))
        painter.restore()
        r = max(tool.diameter / 2, tool.shank_diameter / 2) * scale
        base = y0 + max(r, tool.holder.diameter / 2 * scale) + 6
        self._along(painter, f"tool:{tool.id}.flute_length", x0, x0 + tool.flute_length * scale, base + 14, tool)
        self._along(painter, f"tool:{tool.id}.stick_out", x0, x0 + tool.stick_out * scale, base + 36, tool)
        self._across(painter, f"tool:{tool.id}.diameter", x0 - 12, y0, tool.diameter * scale, tool)

    def _ink(self, painter: QPainter, address: str) -> None:
        lit = address == self.session.focus
        painter.setPen(QPen(QColor(ROLES.focus if lit else ROLES.ink), 1.4 if lit else 1.0))
        painter.setFont(sans(13, bold=lit))

    def _text(self, address: str, tool: Tool) -> str:
        value = getattr(tool, address.rpartition(".")[2])
        return number_text(float(value), Kind.LENGTH, tool.unit)

    def _along(self, painter: QPainter, address: str, a: float, b: float, y: float, tool: Tool) -> None:
        self._ink(painter, address)
        painter.drawLine(QPointF(a, y), QPointF(b, y))
        for x in (a, b):
            painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        text = self._text(address, tool)
        width = painter.fontMetrics().horizontalAdvance(text) + 8
        inside = b - a > width + 12
        left = (a + b - width) / 2 if inside else b + 6
        box = QRectF(left, y - 9, width, 18)
        if inside:
            painter.fillRect(box, QColor(ROLES.panel))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        self.boxes[address] = box

    def _across(self, painter: QPainter, address: str, x: float, y: float, size: float, tool: Tool) -> None:
        self._ink(painter, address)
        painter.drawLine(QPointF(x, y - size / 2), QPointF(x, y + size / 2))
        for end in (y - size / 2, y + size / 2):
            painter.drawLine(QPointF(x - 5, end), QPointF(x + 5, end))
        text = f"Ø{self._text(address, tool)}"
        box = QRectF(0, y - size / 2 - 22, 62, 18) if size < 40 else QRectF(0, y - 9, x - 2, 18)
        if size >= 40 and painter.fontMetrics().horizontalAdvance(text) > x - 4:
            box = QRectF(0, y - size / 2 - 22, 62, 18)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        self.boxes[address] = box

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        over = next((a for a, box in self.boxes.items() if box.adjusted(-6, -6, 6, 6).contains(event.position())), None)
        if over is not None:
            self.picked.emit(over)
