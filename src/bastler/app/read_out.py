"""The position read-out: where the axes are, as large as there is room; how far to go; feed, rapid, spindle and load as bars."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from bastler.app.drafting import painting
from bastler.app.machine_desk import MachineDesk
from bastler.app.theme import ROLES, sans, tool_hue
from bastler.language import decimal, sayable, tr
from bastler.link.messages import Status
from bastler.units import Kind, clock, number_text

HEIGHT, HEAD, MARGIN = 156, 34, 18
BARS, BAR_HIGH, BARS_WIDE = ("feed", "rapid", "spindle", "load"), 7, 176
MOST = {"feed": 2.0, "rapid": 1.0, "spindle": 1.2}
LEAST = {"feed": 0.0, "rapid": 0.0, "spindle": 0.5}
STEP = 0.05
BARS = sayable(("feed", "rapid", "spindle", "load"))
MODES = sayable({
    "ready": "Ready", "jogging": "Moving by hand", "running": "Running", "held": "Held", "stopped": "Stopped", "alarm": "Alarm",
    "off": "No power", "lost": "Not at home yet",
})  # fmt: skip
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter


class ReadOut(QWidget):
    """A press on an axis asks to go to a place of it (`wants_place`); a press on a bar, or the wheel over it, sets the share."""

    wants_place = pyqtSignal(str)

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__()
        self.desk = desk
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName(tr("Position"))
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        for signal in (desk.moved, desk.changed):
            signal.connect(self.update)

    @property
    def axes(self) -> tuple[tuple[str, int], ...]:
        """The axes that are shown, each with its number."""
        return (("X", 0), ("Z", 2)) if self.desk.turns else (("X", 0), ("Y", 1), ("Z", 2))

    def _row(self, k: int) -> QRectF:
        high = (self.height() - HEAD - 8) / len(self.axes)
        return QRectF(MARGIN, HEAD + k * high, self.width() - BARS_WIDE - 2 * MARGIN, high)

    def bar(self, name: str) -> QRectF:
        """Where a bar is."""
        k = BARS.index(name)
        high = (self.height() - HEAD - 8) / len(BARS)
        left = self.width() - BARS_WIDE - 8
        return QRectF(left + 62, HEAD + (k + 1) * high - BAR_HIGH - 6, BARS_WIDE - 72, BAR_HIGH)

    # -- painting ---------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(ROLES.dark))
            painter.drawRoundedRect(QRectF(self.rect()), 6, 6)
            status = self.desk.status
            if status is None:
                return
            self._head(painter, status)
            for k, (name, axis) in enumerate(self.axes):
                self._axis(painter, status, name, axis, self._row(k))
            for name in BARS:
                self._bar(painter, status, name)

    def _head(self, painter: QPainter, status: Status) -> None:
        tint = {"alarm": ROLES.stop_on_dark, "off": ROLES.stop_on_dark, "running": ROLES.good_on_dark}.get(
            status.mode, ROLES.caution_on_dark
        )
        tint = ROLES.on_dark if status.mode in ("ready", "jogging") else tint
        painter.setFont(sans(15, bold=True))
        painter.setPen(QColor(tint))
        word = tr(MODES[status.mode])
        if status.mode in ("running", "held", "stopped"):
            word += tr(", {left} to go", left=clock(status.left))
        painter.drawText(QPointF(MARGIN, 21), word)
        x = MARGIN + painter.fontMetrics().horizontalAdvance(word) + 12
        painter.setFont(sans(13))
        painter.setPen(QColor(ROLES.on_dark))
        right = self.width() - MARGIN
        if status.tool:
            painter.setPen(QColor(ROLES.on_dark))
            painter.fillRect(QRectF(right - 46, 11, 10, 10), QColor(tool_hue(status.tool)))
            painter.drawText(QRectF(right - 34, 6, 34, 20), RIGHT, f"T{status.tool}")
        else:
            painter.drawText(QRectF(right - 60, 6, 60, 20), RIGHT, tr("no tool") if self.desk.turns else tr("feeler"))
        offset = f"G{53 + status.offset}" if status.offset <= 6 else tr("offset {offset}", offset=status.offset)
        painter.setPen(QColor(ROLES.on_dark_soft))
        painter.drawText(QRectF(right - 140, 6, 80, 20), RIGHT, offset)
        said = tr("touches") if status.touching else "" if status.said in (word, tr(MODES[status.mode])) else status.said
        painter.setPen(QColor(ROLES.focus if status.touching else tint))
        room = right - 150 - x
        painter.setFont(sans(13, bold=status.touching))
        painter.drawText(QPointF(x, 21), painter.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, int(room)))

    def _axis(self, painter: QPainter, status: Status, name: str, axis: int, row: QRectF) -> None:
        high = row.height()
        painter.setFont(sans(min(high * 0.66, 34), bold=True))
        painter.setPen(QColor(ROLES.on_dark))
        painter.drawText(row, LEFT, tr(name))
        twice = 2.0 if self.desk.turns and axis == 0 else 1.0
        if twice > 1:
            painter.setFont(sans(min(high * 0.5, 24)))
            painter.drawText(row.adjusted(28, 0, 0, 0), LEFT, "Ø")
        text = self._number(status.places[axis] * twice)
        big = QRectF(row.left() + 52, row.top(), row.width() * 0.57 - 52, high)
        size = min(high * 0.86, 44.0)
        painter.setFont(sans(size))
        if (wide := painter.fontMetrics().horizontalAdvance(text)) > big.width():
            painter.setFont(sans(size * big.width() / wide))
        painter.drawText(big, RIGHT, text)
        small = max(min(high * 0.42, 17.0), 13.0)
        for k, (word, value, tint) in enumerate(
            ((tr("to go"), status.to_go[axis] * twice, "#F2A98A"), (tr("machine"), status.machine[axis], ROLES.on_dark_soft))
        ):
            box = QRectF(row.left() + row.width() * (0.59 + 0.205 * k), row.top(), row.width() * 0.195, high)
            painter.setFont(sans(small))
            painter.setPen(QColor(tint if k or abs(value) > 5e-4 else ROLES.on_dark_soft))
            painter.drawText(box, RIGHT, self._number(value))
            if axis == 0:
                painter.setFont(sans(11))
                painter.setPen(QColor(ROLES.on_dark_soft))
                painter.drawText(QRectF(box.left(), HEAD - 7, box.width(), 13), RIGHT, word)

    def _number(self, value: float) -> str:
        return decimal(f"{value + 0.0:.{3 if self.desk.unit == 'mm' else 4}f}").replace("-", "−")

    def _bar(self, painter: QPainter, status: Status, name: str) -> None:
        box = self.bar(name)
        share, text = self._share(status, name)
        most = MOST.get(name, 1.0)
        painter.setFont(sans(12))
        painter.setPen(QColor(ROLES.on_dark_soft))
        painter.drawText(QRectF(box.left() - 62, box.top() - 9, 58, 24), LEFT, tr(name))
        painter.setPen(QColor(ROLES.on_dark))
        painter.drawText(QRectF(box.left(), box.top() - 19, box.width(), 17), RIGHT, text)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(ROLES.dark_hair))
        painter.drawRoundedRect(box, 3, 3)
        full = QRectF(box.left(), box.top(), box.width() * min(share / most, 1.0), box.height())
        tint = "#F2A073" if name == "load" else "#7FA9DB"
        painter.setBrush(QColor(ROLES.stop_on_dark if name == "load" and share > 1.0 else tint))
        painter.drawRoundedRect(full, 3, 3)
        if name in ("feed", "spindle"):  # where all of it is
            painter.setBrush(QColor(ROLES.on_dark))
            painter.drawRect(QRectF(box.left() + box.width() / most - 0.5, box.top() - 2, 1, box.height() + 4))

    def _share(self, status: Status, name: str) -> tuple[float, str]:
        if name == "load":
            return status.load, f"{status.load:.0%}"
        share: float = getattr(status, f"{name}_share")
        if name == "rapid":
            return share, f"{share:.0%}"
        if name == "spindle":
            return share, f"{abs(status.speed):.0f} · {share:.0%}"
        if status.per_turn and abs(status.speed) > 1.0:
            feed = f"{number_text(status.feed / abs(status.speed), Kind.FEED_PER_TOOTH, self.desk.unit)}{tr('/rev')}"
        else:
            feed = f"{status.feed:.0f}" if self.desk.unit == "mm" else decimal(f"{status.feed:.1f}")
        return share, f"{feed} · {share:.0%}"

    # -- hands ------------------------------------------------------------------------------------------------------

    def _bar_at(self, at: QPointF) -> str:
        for name in MOST:
            if self.bar(name).adjusted(-62, -16, 8, 8).contains(at):
                return name
        return ""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.desk.status is None:
            return
        at = event.position()
        if name := self._bar_at(at):
            box = self.bar(name)
            self._give(name, (at.x() - box.left()) / box.width() * MOST[name])
            return
        for k, (axis, _) in enumerate(self.axes):
            if self._row(k).contains(at):
                self.wants_place.emit(axis.lower())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and (name := self._bar_at(event.position())):
            box = self.bar(name)
            self._give(name, (event.position().x() - box.left()) / box.width() * MOST[name])

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        status = self.desk.status
        if event is not None and status is not None and (name := self._bar_at(event.position())):
            self._give(name, getattr(status, f"{name}_share") + STEP * (1 if event.angleDelta().y() > 0 else -1))

    def _give(self, name: str, share: float) -> None:
        share = min(max(round(share / STEP) * STEP, LEAST[name]), MOST[name])
        self.desk.switch(**{name: share})
