"""The strip: the whole program along its time, with load, stages, remarks and the cursor."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.labels import Label, tip
from bastler.app.route import draw_level
from bastler.app.session import Session
from bastler.app.theme import ROLES, dress, icon, mono, sans, tool_hue
from bastler.language import decimal, tr
from bastler.live.shown import ShownProof, ShownRun, ShownStage, Turned
from bastler.nc.trace import about_axis
from bastler.proof.remark import Remark
from bastler.proof.scrub import Moment
from bastler.shapes.kinds import Floats
from bastler.units import Kind, number_text

HEIGHT = 150
LEFT, RIGHT = 118, 22
PINS, LOAD_TOP, LOAD_BOTTOM, BAR = 4, 34, 84, 9
SPEEDS = (1.0, 4.0, 8.0, 32.0, 128.0)
Loads = dict[tuple[int, int, bytes], tuple[ShownRun, Floats]]
"""What was worked out for runs, by their number, the columns they are seen in and when their moves start."""


class Timeline(QWidget):
    """The painted part: press or drag to move the cursor, press a pin to go to its remark."""

    picked = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(HEIGHT - 40)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Strip"))
        self._curves: list[tuple[ShownStage, QPolygonF]] = []
        self._loads: Loads = {}
        self.pins: list[tuple[float, Remark]] = []
        session.proof_changed.connect(self._rework)
        for signal in (session.cursor_changed, session.selection_changed, session.job_changed, session.pointed_changed):
            signal.connect(self.update)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._rework()

    def x_of(self, seconds: float) -> float:
        """Where a time lies."""
        proof = self.session.proof
        total = proof.total if proof else 0.0
        room = self.width() - LEFT - RIGHT
        return LEFT + (seconds / total * room if total > 0 else 0.0)

    def time_of(self, x: float) -> float:
        """The time under a place."""
        proof = self.session.proof
        total = proof.total if proof else 0.0
        return (x - LEFT) / max(self.width() - LEFT - RIGHT, 1) * total

    def _rework(self) -> None:
        """Curves and pins for the present width."""
        self._curves, self.pins = [], []
        proof = self.session.proof
        if proof is not None:
            before, self._loads = self._loads, {}
            ends = self.x_of(0.0), self.x_of(1.0)
            for stage in proof.stages:
                if stage.run.tool is not None and (stage.step or stage.volume > 0):
                    x0, x1 = (ends[0] + (ends[1] - ends[0]) * t for t in (stage.t0, stage.t1))
                    self._curves.append((stage, self._curve(proof, stage, x0, x1, before)))
            for remark in proof.remarks:
                at = float(proof.starts[remark.move]) if remark.move >= 0 else self._step_time(proof, remark)
                self.pins.append((self.x_of(at), remark))
        self.update()

    def _step_time(self, proof: ShownProof, remark: Remark) -> float:
        return next((s.t0 for s in proof.stages if s.step == remark.step and remark.step), 0.0)

    def _curve(self, proof: ShownProof, stage: ShownStage, x0: float, x1: float, before: Loads) -> QPolygonF:
        """The load as a polygon, the highest in each column of pixels. Most runs are as they were `before`."""
        starts = np.round(proof.starts[stage.begin : stage.end] - stage.t0, 6)
        columns = max(2, int((x1 - x0) / 2))
        key = (id(stage.run), columns, starts.tobytes())
        known = before.get(key)
        loads = known[1] if known else _loads(stage, starts, columns)
        self._loads[key] = (stage.run, loads)  # with the run: as long as it is kept nothing else has its number
        high = (np.minimum(loads / proof.card.power, 1.15) * (LOAD_BOTTOM - LOAD_TOP)).tolist()
        wide = (x1 - x0) / columns
        points = [QPointF(x0 + wide * (k + 0.5), LOAD_BOTTOM - up) for k, up in enumerate(high)]
        return QPolygonF([QPointF(x0, LOAD_BOTTOM), *points, QPointF(x1, LOAD_BOTTOM)])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.fillRect(self.rect(), QColor(ROLES.dark_raised))
            self._frame(painter)
            painter.setOpacity(0.5 if self.session.stale else 1.0)
            proof = self.session.proof
            if proof is not None and proof.total > 0:
                for stage, curve in self._curves:
                    self._stage(painter, stage, curve)
                painter.setOpacity(1.0)
                for x, remark in self.pins:
                    draw_level(painter, remark.level, x, PINS + 9, 13, dark=True)
                self._pin_text(painter)
                self._pointed(painter, proof)
                self._cursor(painter)

    def _frame(self, painter: QPainter) -> None:
        painter.setFont(sans(13, bold=True))
        painter.setPen(QColor(ROLES.on_dark))
        painter.drawText(QPointF(18, 20), tr("Strip"))
        painter.setFont(sans(11))
        painter.setPen(QColor(ROLES.on_dark_soft))
        painter.drawText(QPointF(18, LOAD_TOP + 6), tr("load"))
        if self.session.proof is not None:
            painter.setFont(sans(16))
            painter.setPen(QColor(ROLES.on_dark))
            painter.drawText(QPointF(18, LOAD_BOTTOM + 6), _clock(self.session.cursor))
        pen = QPen(QColor(ROLES.dark_hair), 1)
        pen.setDashPattern([3, 4])
        painter.setPen(pen)
        painter.drawLine(QPointF(LEFT, LOAD_TOP), QPointF(self.width() - RIGHT, LOAD_TOP))
        painter.setFont(sans(11))
        painter.setPen(QColor(ROLES.on_dark_soft))
        painter.drawText(QPointF(18, LOAD_TOP + 22), tr("up to limit"))

    def _stage(self, painter: QPainter, stage: ShownStage, curve: QPolygonF) -> None:
        hue = QColor(tool_hue(stage.tool))
        mine = stage.step == self.session.selected
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(hue.lighter(125) if mine else hue)
        painter.drawPolygon(curve)
        x0, x1 = self.x_of(stage.t0), self.x_of(stage.t1)
        painter.drawRect(QRectF(x0, LOAD_BOTTOM + 3, max(x1 - x0 - 1, 1), BAR))
        if x1 - x0 > 20:
            painter.setFont(sans(11))
            painter.setPen(QColor(ROLES.on_dark if mine else ROLES.on_dark_soft))
            painter.drawText(QPointF(x0 + 1, LOAD_BOTTOM + 24), f"T{stage.tool}")

    def _pin_text(self, painter: QPainter) -> None:
        """The worst remark in words, at whichever end of the row no pin stands."""
        if not self.pins or self.session.stale:
            return
        remark = self.pins[0][1]
        painter.setFont(sans(12))
        tints = {"stop": ROLES.stop_on_dark, "caution": ROLES.caution_on_dark, "open": ROLES.open_on_dark}
        painter.setPen(QColor(tints.get(remark.level, ROLES.on_dark_soft)))
        where = [x for x, _ in self.pins]
        left, right = min(where) - LEFT - 16, self.width() - RIGHT - max(where) - 16
        room = max(left, right)
        if room < 160:
            return
        text = painter.fontMetrics().elidedText(remark.text, Qt.TextElideMode.ElideRight, int(room))
        side = Qt.AlignmentFlag.AlignLeft if left >= right else Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(LEFT, PINS, self.width() - LEFT - RIGHT, 20), side | Qt.AlignmentFlag.AlignVCenter, text)

    def _pointed(self, painter: QPainter, proof: ShownProof) -> None:
        """When what was touched on the part was made."""
        move = self.session.pointed
        if 0 <= move < len(proof.starts):
            x = self.x_of(float(proof.starts[move] + proof.lasts[move]))
            painter.setPen(QPen(QColor(ROLES.on_dark), 1.6))
            painter.drawLine(QPointF(x, LOAD_TOP - 2), QPointF(x, LOAD_BOTTOM + BAR + 3))
            painter.setBrush(QColor(ROLES.focus))
            painter.drawEllipse(QPointF(x, LOAD_TOP - 2), 4.5, 4.5)

    def _cursor(self, painter: QPainter) -> None:
        x = self.x_of(self.session.cursor)
        painter.setPen(QPen(QColor("#FF9A6B"), 1.6))
        painter.drawLine(QPointF(x, LOAD_TOP - 8), QPointF(x, LOAD_BOTTOM + BAR + 6))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#FF9A6B"))
        painter.drawPolygon(QPolygonF([QPointF(x - 6, LOAD_TOP - 14), QPointF(x + 6, LOAD_TOP - 14), QPointF(x, LOAD_TOP - 5)]))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.session.proof is None:
            return
        x, y = event.position().x(), event.position().y()
        pin = next((r for px, r in self.pins if abs(px - x) < 9 and y < LOAD_TOP - 8), None)
        if pin is not None:
            self.picked.emit(pin)
            return
        self.session.stop()
        self.session.seek(self.time_of(x))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        x, y = event.position().x(), event.position().y()
        if event.buttons() & Qt.MouseButton.LeftButton and y >= LOAD_TOP - 8:
            self.session.seek(self.time_of(x))
            return
        pin = next((r for px, r in self.pins if abs(px - x) < 9 and y < LOAD_TOP - 8), None)
        self.setToolTip(tip(pin.text) if pin else "")


def _loads(stage: ShownStage, starts: Floats, columns: int) -> Floats:
    """The highest load of a stage in each of so many columns; `starts` (n,) of its moves, from its own."""
    begins = starts[stage.run.owner] + _within(stage)
    span = max(stage.t1 - stage.t0, 1e-9)
    first = np.clip((begins / span * columns).astype(int), 0, columns - 1)
    last = np.clip(((begins + stage.run.seconds) / span * columns).astype(int), 0, columns - 1)
    loads = np.zeros(columns)
    np.maximum.at(loads, first, stage.run.power)
    for k in np.flatnonzero(last > first).tolist():
        loads[first[k] : last[k] + 1] = np.maximum(loads[first[k] : last[k] + 1], stage.run.power[k])
    return loads


def _within(stage: ShownStage) -> Any:
    """Seconds from the start of its move to each segment."""
    seconds, owner = stage.run.seconds, stage.run.owner
    total = np.cumsum(seconds) - seconds
    first = np.searchsorted(owner, owner)
    return total - total[first] if len(total) else total


def _clock(seconds: float) -> str:
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"


class Strip(QWidget):
    """Timeline, the buttons to run it, the line of code and the position at the cursor."""

    picked = pyqtSignal(object)
    wants_line = pyqtSignal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(HEIGHT)
        self.setObjectName("header")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.timeline = Timeline(session)
        self.timeline.picked.connect(self.picked)
        dress(self, "QWidget#header { background: $dark_raised; }")
        self.code = QPushButton()
        self.code.setFlat(True)
        self.code.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.code.setToolTip(tr("Show this line in the program"))
        dress(self.code, "border: none; background: transparent; text-align: left; color: $on_dark; padding: 0;")
        self.code.setFont(mono(13))
        self.code.clicked.connect(self._to_line)
        self.where = Label()
        self.where.setFont(sans(14))
        dress(self.where, "color: $on_dark; font-size: 14px;")
        self.where.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row = QHBoxLayout()
        row.setContentsMargins(12, 0, 22, 6)
        row.setSpacing(2)
        self.run = self._button("play", tr("Run or stop (Space)"), session.run_or_stop)
        self.back = self._button("step-back", tr("One move back (,)"), lambda: session.step_moves(-1))
        self.on = self._button("step-forward", tr("One move on (.)"), lambda: session.step_moves(1))
        for button in (self.back, self.run, self.on):
            row.addWidget(button)
        self.pace = QPushButton("8×")
        self.pace.setFlat(True)
        self.pace.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.pace.setFixedWidth(44)
        self.pace.setToolTip(tr("How fast it runs, as many times as the machine"))
        dress(self.pace, "border: none; background: transparent; color: $on_dark_soft;")
        self.pace.clicked.connect(self._faster)
        row.addWidget(self.pace)
        row.addSpacing(6)
        row.addWidget(self.code, 1)
        row.addWidget(self.where)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.timeline)
        whole.addLayout(row, 1)
        session.cursor_changed.connect(self.refresh)
        session.proof_changed.connect(self.refresh)
        self._line = 0

    def _where_turned(self, proof: ShownProof, moment: Moment) -> None:
        """X as a diameter, feed per turn where it was given so, the speed at this very radius."""
        trace, move, unit = proof.trace, moment.move, proof.unit
        places = 3 if unit == "mm" else 4
        x, y, z = moment.tip
        to_go = float(trace.lengths()[move]) * (1.0 - moment.share)
        speed = float(trace.speed[move])
        if trace.surface[move] > 0:
            speed = min(float(trace.surface[move]) / (2 * math.pi * max(abs(x), 1e-6)), float(trace.cap[move]))
        feed = tr("rapid")
        if trace.lead[move] > 0:
            feed = tr("lead {lead:.4g}", lead=trace.lead[move])
        elif trace.kind[move] != 0:
            per_turn = trace.feed[move] / max(float(trace.speed[move]), 1e-9)
            feed = tr("F {per_turn:.3g}/rev", per_turn=per_turn) if trace.per_turn[move] else f"F {trace.feed[move]:.0f}"
        tool = f"T{int(trace.tool[move]):02d}{int(trace.edge[move]):02d}"
        where = f"X Ø{2 * x:.{places}f}  Z {z:.{places}f}"
        if trace.polar[move]:
            where = f"X {x:.{places}f}  Y {y:.{places}f}  Z {z:.{places}f}"
        elif trace.stands[move]:  # as the axes stand: places are those of the part, which turns with C
            first, last = trace.angle[move].tolist()
            c = first + (last - first) * moment.share
            (x, y, _), *_ = about_axis(np.array([moment.tip]), -math.radians(c)).tolist()
            y = round(y, places) + 0.0  # never -0.000
            where = f"X Ø{2 * x:.{places}f}  Y {y:.{places}f}  Z {z:.{places}f}  C {c % 360.0:.2f}°"
        self.where.setText(decimal(f"{where}   {tr('to go')} {to_go:.2f}   {feed}  S {speed:.0f}  {tool}"))

    def make_large(self, large: bool) -> None:
        """Room for buttons that gloves can press."""
        self.setFixedHeight(HEIGHT + (14 if large else 0))

    def _button(self, name: str, says: str, act: Any) -> QToolButton:
        button = QToolButton()
        button.setObjectName("dark")
        button.setIcon(icon(name, ROLES.on_dark))
        button.setIconSize(QSize(18, 18))
        button.setToolTip(says)
        button.setAccessibleName(says)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.clicked.connect(act)
        return button

    def _faster(self) -> None:
        at = SPEEDS.index(self.session.speed) if self.session.speed in SPEEDS else 0
        self.session.speed = SPEEDS[(at + 1) % len(SPEEDS)]
        self.pace.setText(decimal(f"{self.session.speed:g}×"))

    def _to_line(self) -> None:
        self.wants_line.emit(self._line)

    def refresh(self) -> None:
        """Code and position at the cursor."""
        self.run.setIcon(icon("pause" if self.session.playing else "play", ROLES.on_dark))
        proof, moment = self.session.proof, self.session.moment
        if proof is None or moment.move < 0:
            self.code.setText("")
            self.where.setText("")
            return
        trace, unit = proof.trace, proof.unit
        self._line = int(trace.line[moment.move])
        self.code.setText(f"{self._line + 1}  {proof.program.lines[self._line].strip()}".replace("&", "&&"))
        places = 3 if unit == "mm" else 4
        shift = proof.stages[moment.stage].shift if moment.stage >= 0 else (0.0, 0.0, 0.0)
        x, y, z = (a - b for a, b in zip(moment.tip, shift, strict=True))
        if isinstance(proof.around, Turned):
            self._where_turned(proof, moment)
            return
        to_go = float(trace.lengths()[moment.move]) * (1.0 - moment.share) if len(trace) < 20_000 else 0.0
        feed = (
            tr("rapid")
            if trace.kind[moment.move] == 0
            else "F " + number_text(float(trace.feed[moment.move]), Kind.FEED_RATE, unit)
        )
        self.where.setText(
            decimal(f"X {x:.{places}f}  Y {y:.{places}f}  Z {z:.{places}f}   {tr('to go')} {to_go:.2f}   {feed}")
            + f"  S {trace.speed[moment.move]:.0f}  T{int(trace.tool[moment.move])}"
        )
