"""Axes by hand: steps by buttons, keys and a hand wheel; the feeler and the tools; home."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.labels import Label
from bastler.app.machine_desk import MachineDesk
from bastler.app.number_row import NumberRow
from bastler.app.theme import ROLES, sans
from bastler.language import tr
from bastler.link import messages as m
from bastler.units import number_text
from bastler.units.kinds import Kind

STEPS = {"mm": (10.0, 1.0, 0.1, 0.01, 0.001), "inch": (0.5, 0.05, 0.005, 0.0005, 0.0001)}
FAST_FROM = {"mm": 1.0, "inch": 0.05}
"""Steps from which on axes go in rapid."""
NOTCHES = 20
"""Of a turn of the wheel."""


class HandWheel(QWidget):
    """A wheel to be turned by mouse wheel, by dragging round, or by + and −. `turned` gives notches."""

    turned = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.axis = "x"
        self.angle = 0.0
        self._last: float | None = None
        self._rest = 0.0
        self.setFixedSize(112, 112)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Hand wheel"))
        self.setToolTip(tr("Turn it with the mouse wheel, by dragging, or with + and −"))

    def sizeHint(self) -> QSize:
        return QSize(112, 112)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            middle = QPointF(self.width() / 2, self.height() / 2)
            painter.setPen(QPen(QColor(ROLES.focus if self.hasFocus() else ROLES.ink), 2.0))
            painter.setBrush(QColor(ROLES.metal))
            painter.drawEllipse(middle, 52.0, 52.0)
            painter.setBrush(QColor(ROLES.panel))
            painter.drawEllipse(middle, 32.0, 32.0)
            painter.setPen(QPen(QColor(ROLES.soft), 1.4))
            for k in range(NOTCHES):
                a = self.angle + 2 * math.pi * k / NOTCHES
                way = QPointF(math.sin(a), -math.cos(a))
                painter.drawLine(middle + way * 42.0, middle + way * 50.0)
            way = QPointF(math.sin(self.angle), -math.cos(self.angle))
            painter.setBrush(QColor(ROLES.dark))
            painter.drawEllipse(middle + way * 42.0, 7.0, 7.0)
            painter.setFont(sans(26, bold=True))
            painter.setPen(QColor(ROLES.ink))
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, self.axis.upper())

    def _turn(self, notches: int) -> None:
        if notches:
            self.angle += 2 * math.pi * notches / NOTCHES
            self.update()
            self.turned.emit(notches)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            self._turn(1 if event.angleDelta().y() > 0 else -1)
            event.accept()

    def _angle_at(self, at: QPointF) -> float:
        return math.atan2(at.x() - self.width() / 2, self.height() / 2 - at.y())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._last, self._rest = self._angle_at(event.position()), 0.0
            self.setFocus()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._last is None:
            return
        now = self._angle_at(event.position())
        self._rest += math.remainder(now - self._last, 2 * math.pi) / (2 * math.pi) * NOTCHES
        self._last = now
        whole = int(self._rest)
        self._rest -= whole
        self._turn(whole)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._last = None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        by = {"+": 1, "-": -1}.get(event.text(), 0) if event is not None else 0
        if by:
            self._turn(by)
        else:
            super().keyPressEvent(event)


class JogPad(QWidget):
    """Buttons for every axis, the step, the wheel. Arrow keys move too while the pad has the keyboard."""

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__()
        self.desk = desk
        self.step = 1.0
        self._waiting: list[m.Jog] = []
        self._sent = self._heard = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Axes by hand"))
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 4)
        row.setSpacing(16)
        grid = QGridLayout()
        grid.setSpacing(6)
        self.buttons: dict[tuple[str, int], QPushButton] = {}
        for k, axis in enumerate("xyz"):
            for column, sense in enumerate((-1, 1)):
                button = QPushButton(f"{axis.upper()}{'−' if sense < 0 else '+'}")
                button.setObjectName("view")
                button.setMinimumWidth(58)
                button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
                button.clicked.connect(lambda _, a=axis, s=sense: self.jog(a, s))
                grid.addWidget(button, k, column)
                self.buttons[axis, sense] = button
        row.addLayout(grid)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        label = Label(tr("Step"))
        label.setObjectName("soft")
        steps = QHBoxLayout()
        steps.setSpacing(4)
        steps.addWidget(label)
        self.group = QButtonGroup(self)
        self.steps = [QPushButton() for _ in range(5)]
        for k, button in enumerate(self.steps):
            button.setObjectName("view")
            button.setCheckable(True)
            button.setStyleSheet("padding: 0 4px;")
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _, k=k: self._take_step(k))
            self.group.addButton(button, k)
            steps.addWidget(button)
        middle.addLayout(steps)
        ways = QHBoxLayout()
        ways.setSpacing(6)
        self.feeler = QPushButton(tr("Feeler in the spindle"))
        self.home = QPushButton(tr("All axes home"))
        for button, act in ((self.feeler, self._feeler), (self.home, self._home)):
            button.setObjectName("plain")
            button.clicked.connect(act)
            ways.addWidget(button)
        middle.addLayout(ways)
        spin = QHBoxLayout()
        spin.setSpacing(6)
        self.turns = NumberRow(tr("The spindle turns"), "mm", Kind.SPINDLE_SPEED, 500.0)
        self.turns.entered.connect(self._spindle)
        self.spindle = QPushButton(tr("Turn it"))
        self.spindle.setObjectName("plain")
        self.spindle.clicked.connect(self._spindle)
        spin.addWidget(self.turns, 1)
        spin.addWidget(self.spindle)
        middle.addLayout(spin)
        self.says = Label()
        self.says.setObjectName("soft")
        middle.addWidget(self.says)
        row.addLayout(middle, 1)
        self.wheel = HandWheel()
        self.wheel.turned.connect(lambda notches: self.jog(self.wheel.axis, notches))
        row.addWidget(self.wheel)
        desk.changed.connect(self.refresh)
        desk.moved.connect(self._heard_of)
        self._unit = ""

    def refresh(self) -> None:
        """The axes and steps of the machine."""
        if not self.desk.planned:
            return
        turns = self.desk.turns
        for sense in (-1, 1):
            self.buttons["y", sense].setVisible(not turns)
        self.feeler.setVisible(not turns)
        unit = self.desk.unit
        if unit != self._unit:
            self._unit = unit
            for button, step in zip(self.steps, STEPS[unit], strict=True):
                button.setText(number_text(step, Kind.LENGTH, unit))
            self._take_step(1)
        keys = "← → Z, ↑ ↓ X" if turns else "← → X, ↑ ↓ Y, + − Z"
        self.says.setText(tr("Keys: {keys}. Wheel: the axis of the last button.", keys=keys))

    def _take_step(self, k: int) -> None:
        self.step = STEPS[self.desk.unit][k]
        self.steps[k].setChecked(True)

    def jog(self, axis: str, notches: int) -> None:
        """An axis goes by so many steps; while axes move the rest waits."""
        self.wheel.axis = axis
        self.wheel.update()
        across = 0.5 if self.desk.turns and axis == "x" else 1.0  # diameters are counted
        by = self.step * notches * across
        fast = self.step >= FAST_FROM[self.desk.unit]
        self._waiting.append(m.Jog(axis=axis, by=by, fast=fast))  # type: ignore[arg-type]
        self._next()

    def _heard_of(self) -> None:
        """The spindle has begun to turn, or stands."""
        stands = self.desk.status is None or abs(self.desk.status.speed) < 1.0
        text = tr("Turn it") if stands else tr("Stop it")
        if self.spindle.text() != text:
            self.spindle.setText(text)
        self._next()

    def _next(self) -> None:
        """The next step, once the axes stand; fine steps along one axis that wait go in one."""
        mode = self.desk.mode
        if self._heard and mode == "ready":
            self._sent = self._heard = False
        if mode not in ("ready", "jogging"):
            self._waiting.clear()
        if not self._waiting or self._sent or mode != "ready":
            return
        first = self._waiting[0]
        same = [first] if first.fast else [j for j in self._waiting if (j.axis, j.fast) == (first.axis, False)]
        self._waiting = [j for j in self._waiting if all(j is not one for one in same)]
        self._sent, self._heard = True, False
        self.desk.link.ask(m.Jog(axis=first.axis, by=sum(j.by for j in same), fast=first.fast), self._answered)

    def _answered(self, answer: m.Answer) -> None:
        """What comes from now on was said by a control that knows of the step."""
        self._heard = True
        if not answer.ok:
            self._waiting.clear()
            self.desk.said.emit("wrong", answer.why)

    def _feeler(self) -> None:
        self.desk.do(m.TakeUp(station=0))

    def _spindle(self) -> None:
        """Turns the spindle, or stops it: by hand a turning tool cuts what it touches."""
        stands = self.desk.status is None or abs(self.desk.status.speed) < 1.0
        speed = self.turns.value if stands else 0.0
        if speed is not None:
            self.desk.do(m.Turn(speed=speed))

    def _home(self) -> None:
        self.desk.do(m.Home())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        turns = self.desk.turns
        keys = {
            Qt.Key.Key_Left: ("z" if turns else "x", -1), Qt.Key.Key_Right: ("z" if turns else "x", 1),
            Qt.Key.Key_Up: ("x" if turns else "y", 1), Qt.Key.Key_Down: ("x" if turns else "y", -1),
            Qt.Key.Key_Plus: ("x" if turns else "z", 1), Qt.Key.Key_Minus: ("x" if turns else "z", -1),
        }  # fmt: skip
        found = keys.get(Qt.Key(event.key()))
        if found is None:
            super().keyPressEvent(event)
        else:
            self.jog(*found)
