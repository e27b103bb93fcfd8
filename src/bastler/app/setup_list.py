"""Before the first cut: what has to be done at the machine, as cards that are ticked off; and what happens next."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QFrame, QHBoxLayout, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.labels import Label
from bastler.app.machine_desk import Item, MachineDesk
from bastler.app.panels import emptied, panel_area
from bastler.app.theme import ROLES, dress, sans, tool_hue
from bastler.language import tr
from bastler.units import clock

WIDE = 282
HIGH = 50


class ItemCard(QAbstractButton):
    """One thing to do: ringed while it is open, ticked when it is done."""

    def __init__(self, item: Item) -> None:
        super().__init__()
        self.item = item
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.tell(item)

    def tell(self, item: Item) -> None:
        """The same thing, as it stands now."""
        self.item = item
        self.setText(item.title)
        self.setAccessibleName(f"{item.title}: {tr('done, ') if item.done else ''}{item.says}")
        self.setToolTip(item.says)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(WIDE - 24, HIGH)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        item = self.item
        with painting(self) as painter:
            box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
            lit = self.isChecked() or self.hasFocus()
            painter.setPen(QPen(QColor(ROLES.focus if lit else ROLES.hairline), 2.0 if lit else 1.0))
            painter.setBrush(QColor(ROLES.focus_tint if self.isChecked() else ROLES.field))
            painter.drawRoundedRect(box, 5, 5)
            middle = QPointF(24.0, self.height() / 2)
            if item.done:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(ROLES.good))
                painter.drawEllipse(middle, 11.0, 11.0)
                painter.setPen(QPen(QColor("white"), 2.4, cap=Qt.PenCapStyle.RoundCap, join=Qt.PenJoinStyle.RoundJoin))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                tick = ((-5.0, 0.5), (-1.5, 4.0), (5.0, -3.5))
                painter.drawPolyline(QPolygonF([middle + QPointF(x, y) for x, y in tick]))
            else:
                painter.setPen(QPen(QColor(ROLES.focus), 2.0))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(middle, 10.0, 10.0)
            left = 46.0
            if item.station:
                painter.fillRect(QRectF(self.width() - 14, 8, 5, self.height() - 16), QColor(tool_hue(item.station)))
            room = self.width() - left - 20
            for text, y, font, tint in (
                (item.title, self.height() / 2 - 4, sans(14, bold=True), ROLES.ink),
                (item.says, self.height() / 2 + 14, sans(12), ROLES.soft if item.done else ROLES.focus),
            ):
                painter.setFont(font)
                painter.setPen(QColor(tint))
                painter.drawText(QPointF(left, y), painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room)))


class SetupList(QWidget):
    """All cards, and under them what happens next. `chosen` gives the key of a card that was pressed."""

    chosen = pyqtSignal(str)

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__()
        self.desk = desk
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDE)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 12, 0, 12)
        column.setSpacing(8)
        row = QHBoxLayout()
        row.setContentsMargins(2, 0, 14, 0)
        head = Label(tr("Before the first cut"))
        head.setStyleSheet("font-size: 15px; font-weight: bold;")
        self.count = Label()
        self.count.setObjectName("soft")
        row.addWidget(head, 1)
        row.addWidget(self.count)
        column.addLayout(row)
        self.cards: dict[str, ItemCard] = {}
        self.area = panel_area()
        holder = QWidget()
        self.list = QVBoxLayout(holder)
        self.list.setContentsMargins(0, 0, 2, 0)
        holder.setMaximumWidth(WIDE - 22)
        self.list.setSpacing(6)
        self.area.setWidget(holder)
        column.addWidget(self.area, 1)
        row = QHBoxLayout()
        row.setContentsMargins(2, 0, 14, 0)
        head = Label(tr("What happens next"))
        head.setStyleSheet("font-size: 14px; font-weight: bold;")
        self.parts = Label()
        self.parts.setObjectName("soft")
        row.addWidget(head, 1)
        row.addWidget(self.parts)
        column.addLayout(row)
        box = QFrame()
        box.setObjectName("next")
        dress(box, f"QFrame#next {{ background: {ROLES.focus_tint}; border: 1px solid {ROLES.focus}; border-radius: 5px; }}")
        inner = QVBoxLayout(box)
        inner.setContentsMargins(12, 9, 12, 9)
        inner.setSpacing(3)
        self.next, self.then = Label(), Label()
        self.next.setStyleSheet("font-weight: bold;")
        for label in (self.next, self.then):
            label.setWordWrap(True)
            inner.addWidget(label)
        self.then.setObjectName("soft")
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 12, 0)
        row.addWidget(box)
        column.addLayout(row)
        desk.changed.connect(self.refresh)
        desk.moved.connect(self._say_next)

    def choose(self, key: str) -> None:
        """Marks a card."""
        for name, card in self.cards.items():
            card.setChecked(name == key)
        if key in self.cards:
            self.area.ensureWidgetVisible(self.cards[key], 0, 60)

    def refresh(self) -> None:
        """The cards as things stand."""
        if not self.desk.planned:
            return
        items = self.desk.items()
        if [item.key for item in items] != list(self.cards):
            chosen = next((key for key, card in self.cards.items() if card.isChecked()), "")
            emptied(self.list)
            self.cards = {}
            for item in items:
                card = ItemCard(item)
                card.clicked.connect(lambda _, key=item.key: self.chosen.emit(key))
                self.list.addWidget(card)
                self.cards[item.key] = card
            self.list.addStretch(1)
            self.choose(chosen)
        for item in items:
            self.cards[item.key].tell(item)
        done = sum(item.done for item in items)
        self.count.setText(tr("{at} of {count}", at=done, count=len(items)))
        status = self.desk.status
        self.parts.setText(
            tr("part {part}, {done} done", part=status.part, done=status.done) if status is not None and status.part else ""
        )
        self._say_next()

    def _say_next(self) -> None:
        """One sentence on what comes, and one on what then."""
        desk, status = self.desk, self.desk.status
        if status is None or not desk.planned:
            self.next.setText(tr("No machine is connected"))
            self.then.setText("")
            return
        if status.mode in ("running", "held", "stopped"):
            self._say_stage()
            return
        if status.mode == "alarm":
            self.next.setText(tr("Reset, once it is clear why"))
            self.then.setText(status.said)
        elif status.mode == "off":
            self.next.setText(tr("Switch the power on"))
            self.then.setText(tr("Then the axes go home, and the program can be taken up."))
        elif status.mode == "lost":
            self.next.setText(tr("Send the axes home"))
            self.then.setText(tr("X first, then Z.") if desk.turns else tr("Z first, then the rest."))
        else:
            left = desk.open_items
            self.next.setText(left[0].title if left else tr("Start"))
            self.then.setText(left[0].says if left else tr("The axes go home in rapid, then the program begins."))

    def _say_stage(self) -> None:
        desk, status = self.desk, self.desk.status
        assert status is not None
        proof = desk.session.proof
        stages = [s for s in proof.stages if s.step] if proof is not None else []
        at = next((k for k, s in enumerate(stages) if proof and int(proof.trace.line[s.end - 1]) + 1 >= status.line), None)
        if proof is None or at is None or not status.line:
            self.next.setText(tr("On the way in") if not status.line else tr("On the way out"))
            self.then.setText("" if status.line else tr("The axes go to where the program begins."))
            return
        stage = stages[at]
        step = desk.session.job.step(stage.step)
        self.next.setText(
            tr(
                "{title}: {stage} with T{tool}, {t1} long",
                title=step.title if step else "",
                stage=tr(stage.stage),
                tool=stage.tool,
                t1=clock(stage.t1 - stage.t0),
            )
        )
        if at + 1 < len(stages):
            after = stages[at + 1]
            comes = (
                tr("Then T{tool} comes", tool=after.tool)
                if after.tool != stage.tool
                else tr("Then T{tool} goes on", tool=after.tool)
            )
            self.then.setText(f"{comes}: {tr(after.stage)}.")
        else:
            self.then.setText(tr("Then the program ends."))
