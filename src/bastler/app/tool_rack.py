"""The tools of the crib as they stand in the machine, to scale; dragging one to another station changes their places."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from bastler.app.drafting import painting
from bastler.app.labels import tip
from bastler.app.pictures import draw_tool
from bastler.app.theme import ROLES, sans
from bastler.language import tr
from bastler.tools import AnyTool, TurnTool

WIDE, HIGH, GAP = 112.0, 152.0, 10.0
DRAG = 8
"""Pixels that the mouse has to go before a click is a drag."""


@dataclass(frozen=True)
class Berth:
    """A place in the rack: its station (0: in the crib), the tool there, what to say about it, and whether it is the job's."""

    station: int
    tool: AnyTool | None
    warns: str = ""
    own: bool = True


class ToolRack(QWidget):
    """Emits `chosen` with a tool's id, and `moved` with a tool's id and the station it is dragged to."""

    chosen = pyqtSignal(str)
    moved = pyqtSignal(str, int)

    def __init__(self) -> None:
        super().__init__()
        self.slots: Sequence[Berth] = ()
        self.boxes: list[QRectF] = []
        self.selected = ""
        self.scale = 1.0
        self._pressed: tuple[int, QPointF] | None = None
        self._at: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Tools"))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Minimum)
        self.setToolTip("")

    def show_slots(self, slots: Sequence[Berth], selected: str) -> None:
        """Shows these places, one tool of them selected."""
        self.slots, self.selected = slots, selected
        longest = max((s.tool.stick_out for s in slots if s.tool and not isinstance(s.tool, TurnTool)), default=1.0)
        turning = next((s.tool for s in slots if isinstance(s.tool, TurnTool)), None)
        self.scale = (HIGH - 62) / (46.0 * turning.mm if turning else longest * 1.25)
        self._lay()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._lay()

    def _lay(self) -> None:
        columns = max(1, int((self.width() + GAP) // (WIDE + GAP)))
        self.boxes = [
            QRectF((k % columns) * (WIDE + GAP) + 2, (k // columns) * (HIGH + GAP) + 2, WIDE, HIGH)
            for k in range(len(self.slots))
        ]
        self.setMinimumHeight(int(self.boxes[-1].bottom() + 8) if self.boxes else 40)
        self.update()

    # -- painting ---------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.fillRect(self.rect(), QColor(ROLES.paper))
            target = self._slot_at(self._at) if self._dragging else None
            for k, (slot, box) in enumerate(zip(self.slots, self.boxes, strict=True)):
                self._slot(painter, slot, box, target=k == target)
            if self._dragging and self._pressed and self._at is not None:
                tool = self.slots[self._pressed[0]].tool
                if tool is not None:
                    painter.setOpacity(0.75)
                    ghost = QRectF(self._at.x() - WIDE / 2, self._at.y() - HIGH / 2, WIDE, HIGH - 44)
                    draw_tool(painter, tool, ghost, self.scale)

    def _slot(self, painter: QPainter, slot: Berth, box: QRectF, *, target: bool) -> None:
        lit = slot.tool is not None and slot.tool.id == self.selected
        painter.setPen(QPen(QColor(ROLES.focus if lit or target else ROLES.hairline), 2 if lit or target else 1))
        if slot.tool is None:
            painter.setPen(QPen(QColor(ROLES.focus if target else ROLES.hairline), 2 if target else 1, Qt.PenStyle.DashLine))
        painter.setBrush(QColor(ROLES.field if slot.tool else ROLES.paper))
        painter.drawRoundedRect(box, 4, 4)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(sans(12, bold=True))
        painter.setPen(QColor(ROLES.ink if slot.tool else ROLES.soft))
        place = f"T{slot.station}" if slot.station else tr("crib")
        painter.drawText(QRectF(box.left() + 7, box.top() + 4, 60, 18), Qt.AlignmentFlag.AlignLeft, place)
        if slot.tool is None:
            return
        painter.save()
        painter.setOpacity(1.0 if slot.own else 0.45)
        draw_tool(painter, slot.tool, QRectF(box.left() + 4, box.top() + 20, WIDE - 8, HIGH - 62), self.scale)
        painter.restore()
        painter.setPen(QColor(ROLES.ink if slot.own else ROLES.soft))
        painter.setFont(sans(13, bold=True))
        metrics = painter.fontMetrics()
        size = metrics.elidedText(slot.tool.size, Qt.TextElideMode.ElideRight, int(WIDE - 12))
        painter.drawText(QRectF(box.left() + 6, box.bottom() - 40, WIDE - 12, 16), Qt.AlignmentFlag.AlignLeft, size)
        painter.setFont(sans(11))
        painter.setPen(QColor(ROLES.caution_text if slot.warns else ROLES.soft))
        says = painter.fontMetrics().elidedText(slot.warns or slot.tool.called, Qt.TextElideMode.ElideRight, int(WIDE - 12))
        painter.drawText(QRectF(box.left() + 6, box.bottom() - 22, WIDE - 12, 16), Qt.AlignmentFlag.AlignLeft, says)

    # -- hands --------------------------------------------------------------------------------------------------------

    @property
    def _dragging(self) -> bool:
        if self._pressed is None or self._at is None:
            return False
        slot = self.slots[self._pressed[0]]
        away = self._at - self._pressed[1]
        return slot.tool is not None and slot.own and abs(away.x()) + abs(away.y()) > DRAG

    def _slot_at(self, at: QPointF | None) -> int | None:
        return next((k for k, box in enumerate(self.boxes) if at is not None and box.contains(at)), None)

    def box_of(self, ident: str) -> QRectF:
        """Where a tool is shown."""
        return next(box for slot, box in zip(self.slots, self.boxes, strict=True) if slot.tool and slot.tool.id == ident)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        over = self._slot_at(event.position())
        if over is not None and (tool := self.slots[over].tool) is not None:
            self._pressed, self._at = (over, event.position()), event.position()
            self.chosen.emit(tool.id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._pressed is not None:
            self._at = event.position()
            self.update()
            return
        over = self._slot_at(event.position())
        slot = self.slots[over] if over is not None else None
        self.setToolTip(
            tip(tr("{warns}. Drag it to another station.", warns=slot.warns or slot.tool.called)) if slot and slot.tool else ""
        )

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        dragging, pressed, at = self._dragging, self._pressed, self._at
        self._pressed = self._at = None
        target = self._slot_at(at) if dragging else None
        if target is not None and pressed is not None and target != pressed[0]:
            tool = self.slots[pressed[0]].tool
            if tool is not None:
                self.moved.emit(tool.id, self.slots[target].station)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows go from tool to tool."""
        if event is None:
            return
        columns = max(1, int((self.width() + GAP) // (WIDE + GAP)))
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -columns, Qt.Key.Key_Down: columns}.get(
            Qt.Key(event.key())
        )
        if by is None:
            super().keyPressEvent(event)
            return
        at = next((k for k, s in enumerate(self.slots) if s.tool and s.tool.id == self.selected), 0)
        step = 1 if by > 0 else -1
        goal = at + by
        while 0 <= goal < len(self.slots) and self.slots[goal].tool is None:
            goal += step
        if 0 <= goal < len(self.slots) and (tool := self.slots[goal].tool) is not None:
            self.chosen.emit(tool.id)
