"""The print itself: seen nearer and farther off, its sizes to be ticked off, and to be dragged into the fields they are for."""

from __future__ import annotations

import math
from collections.abc import Sequence

from PyQt6.QtCore import QPoint, QPointF, QRectF, QSizeF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QApplication, QLabel

from bastler.app.drafting import painting
from bastler.app.print_pages import AnyPages
from bastler.app.theme import ROLES, sans
from bastler.app.zooming import NOTCH, Zoomable
from bastler.job.prints import Mark
from bastler.language import sayable, tr

FREE = 10.0
"""Pixels left free about the page."""
ROUND_IT = 3.0
"""Pixels of room about the words of a size."""
REACH = 16.0
"""Pixels from a mark within which a finger means it."""
LONG_PRESS = 600
"""Milliseconds after which a finger that rests means the menu."""
HERE = sayable(
    "A click puts a mark here, for a size that was not found by itself. Drag to move the print, turn the wheel to come nearer."
)
THERE = sayable("a click ticks it off, or not; drag it into the field it is for. More with a right click or a long press.")
SPOT = 11.0
"""Half the size of a mark without words, in pixels."""


class PrintView(Zoomable):
    """Emits `ticked` with the number of a mark that was clicked, `put` with a place on the page (shares of it) where there is
    none, `taken` with a mark and where on the screen it was let go, `menu_at` when its menu is wanted, `used` when it is to go
    into the question in focus."""

    LEAST, MOST = 0.8, 24.0
    ticked = pyqtSignal(int)
    put = pyqtSignal(float, float)
    taken = pyqtSignal(int, QPoint)
    menu_at = pyqtSignal(int, QPoint)
    used = pyqtSignal(int)
    chosen_changed = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.pages: AnyPages | None = None
        self.page = 0
        self.marks: Sequence[Mark] = ()
        self.chosen = -1
        self.lit = -1
        """The size that a lesson speaks of."""
        self.zoom, self.pan, self.scale = 1.0, QPointF(), 1.0
        self.trouble = ""
        self.setMinimumSize(200, 160)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("The print"))
        self._down: QPointF | None = None
        self._moved = False
        self._drags = -1
        self._bubble: QLabel | None = None
        self._long = QTimer(self)
        self._long.setSingleShot(True)
        self._long.setInterval(LONG_PRESS)
        self._long.timeout.connect(self._rests)
        self.watch_fingers()

    def show_pages(self, pages: AnyPages | None, trouble: str = "") -> None:
        """Another print, or the reason why there is none to see."""
        self.pages, self.trouble, self.page, self.chosen = pages, trouble, 0, -1
        if pages is not None:
            pages.changed.connect(self.update)
        self.show_all()

    def show_marks(self, marks: Sequence[Mark], lit: int) -> None:
        """The sizes as they are now."""
        if lit != self.lit and 0 <= lit < len(marks):
            self.page = marks[lit].page
        self.marks, self.lit = marks, lit
        if self.chosen >= len(marks):
            self.choose(-1)
        self.update()

    def turn_page(self, by: int) -> None:
        """To another page."""
        if self.pages is not None:
            self.page = min(max(self.page + by, 0), self.pages.count - 1)
            self.choose(-1)
            self.show_all()

    def choose(self, at: int) -> None:
        """The mark that the keyboard is at."""
        if at != self.chosen:
            self.chosen = at
            if 0 <= at < len(self.marks):
                self.page = self.marks[at].page
            self.chosen_changed.emit(at)
            self.update()

    # -- where things are -----------------------------------------------------------------------------------------

    def _size(self) -> QSizeF:
        return self.pages.size(self.page) if self.pages is not None else QSizeF(842.0, 595.0)

    def lay_out(self) -> None:
        size = self._size()
        room = min((self.width() - 2 * FREE) / size.width(), (self.height() - 2 * FREE) / size.height())
        self.scale = max(room, 0.01) * self.zoom

    @property
    def origin(self) -> QPointF:
        size = self._size() * self.scale
        return QPointF((self.width() - size.width()) / 2, (self.height() - size.height()) / 2) + self.pan

    def sheet_box(self) -> QRectF:
        """Of the page, in pixels."""
        self.lay_out()
        return QRectF(self.origin, self._size() * self.scale)

    def box_of(self, at: int) -> QRectF:
        """Of a mark, in pixels."""
        page, (left, top, wide, high) = self.sheet_box(), self.marks[at].box
        box = QRectF(
            page.left() + left * page.width(), page.top() + top * page.height(), wide * page.width(), high * page.height()
        )
        if not wide:
            return QRectF(box.x() - SPOT, box.y() - SPOT, 2 * SPOT, 2 * SPOT)
        return box.adjusted(-ROUND_IT, -ROUND_IT, ROUND_IT, ROUND_IT)

    def feature_box(self) -> QRectF | None:
        shown = self.lit if self.lit >= 0 else self.chosen
        if not 0 <= shown < len(self.marks):
            return None
        return self.box_of(shown).adjusted(-60, -60, 60, 60)

    def mark_at(self, at: QPointF) -> int:
        """The mark that is meant at a place; -1 for none."""
        nearest, best = -1, REACH
        for k, mark in enumerate(self.marks):
            if mark.page != self.page:
                continue
            box = self.box_of(k)
            dx = max(box.left() - at.x(), 0.0, at.x() - box.right())
            dy = max(box.top() - at.y(), 0.0, at.y() - box.bottom())
            if (far := math.hypot(dx, dy)) < best:
                nearest, best = k, far
        return nearest

    # -- painting -------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.fillRect(self.rect(), QColor(ROLES.paper))
            if self.pages is None:
                painter.setPen(QColor(ROLES.stop if self.trouble else ROLES.soft))
                painter.setFont(sans(14))
                words = self.trouble or tr("Open the print of the part: a PDF or a picture.")
                flags = int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap)
                painter.drawText(QRectF(self.rect()).adjusted(24, 24, -24, -24), flags, words)
                return
            box = self.sheet_box()
            self.pages.paint(painter, self.page, box)
            painter.setPen(QPen(QColor(ROLES.hairline), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            for k, mark in enumerate(self.marks):
                if mark.page == self.page:
                    self._paint_mark(painter, k, mark)
            if self.hasFocus():
                painter.setPen(QPen(QColor(ROLES.focus), 2))
                painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _paint_mark(self, painter: QPainter, at: int, mark: Mark) -> None:
        box = self.box_of(at)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if mark.state == "aside":
            painter.setPen(QPen(QColor(ROLES.soft), 1, Qt.PenStyle.DotLine))
            painter.drawLine(box.bottomLeft(), box.topRight())
        elif mark.state == "ticked":
            tint = QColor(ROLES.good)
            tint.setAlpha(38)
            painter.fillRect(box, tint)
            painter.setPen(QPen(QColor(ROLES.good), 2.4, cap=Qt.PenCapStyle.RoundCap, join=Qt.PenJoinStyle.RoundJoin))
            x, y = box.right() + 2, box.top() + 2
            painter.drawPolyline(QPolygonF([QPointF(x - 4, y), QPointF(x, y + 5), QPointF(x + 8, y - 6)]))
        else:
            tint = QColor(ROLES.blue)
            tint.setAlpha(110)
            painter.setPen(QPen(tint, 1.2))
            painter.drawRoundedRect(box, 3, 3)
        if at == self.lit:
            tint = QColor(ROLES.focus)
            tint.setAlpha(46)
            painter.fillRect(box, tint)
        if at in (self.lit, self.chosen):
            painter.setPen(QPen(QColor(ROLES.focus), 2.4))
            painter.drawRoundedRect(box.adjusted(-2, -2, 2, 2), 4, 4)

    # -- hands ----------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._down, self._moved = event.position(), False
        self._drags = self.mark_at(event.position())
        self._long.start()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if self._down is None:
            over = self.mark_at(at)
            self.setCursor(Qt.CursorShape.PointingHandCursor if over >= 0 else Qt.CursorShape.OpenHandCursor)
            self.setToolTip(self._says(over))
            return
        if not self._moved and (at - self._down).manhattanLength() < QApplication.startDragDistance():
            return
        self._long.stop()
        if not self._moved:
            self._moved = True
            if self._drags >= 0:
                self._lift()
        if self._drags < 0:
            self.pan += at - self._down
            self._down = at
            self.update()
        elif self._bubble is not None:
            self._bubble.move(self._held_at(event.globalPosition().toPoint()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._down is None or event.button() != Qt.MouseButton.LeftButton:
            return
        down, drags, moved = self._down, self._drags, self._moved
        self._down, self._drags = None, -1
        waited = not self._long.isActive() and not moved
        self._long.stop()
        if self._bubble is not None:
            self._bubble.deleteLater()
            self._bubble = None
        if moved:
            if drags >= 0 and not self.rect().contains(event.position().toPoint()):
                self.taken.emit(drags, event.globalPosition().toPoint())
        elif not waited and drags >= 0:
            self.choose(drags)
            self.ticked.emit(drags)
        elif not waited and self.pages is not None and self.sheet_box().contains(down):
            page = self.sheet_box()
            self.put.emit((down.x() - page.left()) / page.width(), (down.y() - page.top()) / page.height())

    def _says(self, at: int) -> str:
        if at < 0:
            return tr(HERE)
        mark = self.marks[at]
        return f"{mark.said}: {tr(THERE)}"

    def _rests(self) -> None:
        """A finger that does not move wants the menu."""
        if self._down is not None and self._drags >= 0 and not self._moved:
            self.choose(self._drags)
            self.menu_at.emit(self._drags, self.mapToGlobal(self._down.toPoint()))

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None:
            return
        at = self.mark_at(QPointF(event.pos())) if event.reason() == QContextMenuEvent.Reason.Mouse else self.chosen
        if at >= 0:
            self.choose(at)
            self.menu_at.emit(at, event.globalPos())

    def _lift(self) -> None:
        """The number goes with the finger."""
        window = self.window()
        if window is None:
            return
        self._bubble = QLabel(self.marks[self._drags].words or "?", window)
        self._bubble.setObjectName("bubble")
        self._bubble.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._bubble.adjustSize()
        self._bubble.show()

    def _held_at(self, place: QPoint) -> QPoint:
        window = self.window()
        return (window.mapFromGlobal(place) if window is not None else place) + QPoint(12, -30)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            self.zoom_at(event.position(), NOTCH ** (event.angleDelta().y() / 120))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows go from size to size, Space ticks, Enter puts it into the question in focus."""
        if event is None:
            return
        key = event.key()
        here = [k for k, mark in enumerate(self.marks) if mark.page == self.page] if self.marks else []
        steps = {Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1}
        if key in steps and here:
            at = here.index(self.chosen) + steps[Qt.Key(key)] if self.chosen in here else 0
            self.choose(here[at % len(here)])
        elif key == Qt.Key.Key_Space and self.chosen >= 0:
            self.ticked.emit(self.chosen)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen >= 0:
            self.used.emit(self.chosen)
        elif key in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp):
            self.turn_page(1 if key == Qt.Key.Key_PageDown else -1)
        else:
            super().keyPressEvent(event)
