"""The program place: the listing with the step of each line, findings in the margin, and where it goes."""

from __future__ import annotations

import bisect
from functools import partial

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractScrollArea,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from bastler.app.code_editor import CodeEditor
from bastler.app.drafting import painting
from bastler.app.hand_bar import HandBar
from bastler.app.hand_desk import EditBar, HandDesk
from bastler.app.labels import Label
from bastler.app.output import OutputPanel
from bastler.app.panels import emptied
from bastler.app.path_view import PathView
from bastler.app.remark_bar import RemarkBox
from bastler.app.route import draw_level
from bastler.app.sent_bar import SentBar
from bastler.app.sent_keeper import SentKeeper
from bastler.app.session import STOCK, Session
from bastler.app.sheet_panel import SheetPanel
from bastler.app.theme import ROLES, dress, mono, sans, tool_hue
from bastler.language import tr
from bastler.machines.card import said_of_machine
from bastler.proof.remark import ORDER
from bastler.units import clock

LINE = 21
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
STEP_LEFT, STEP_WIDE, STEP_NARROW, ROOMY = 18, 190, 110, 700
"""Where the name of the step begins, how wide it is, and how wide where the listing is less than so many pixels."""
NUMBER_WIDE, CODE_BEHIND = 60, 32


class Listing(QAbstractScrollArea):
    """The lines of the program, only the visible ones painted. A click moves the cursor, a double click goes to the step."""

    wants_step = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName(tr("Program listing"))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.line = 0
        self.marks: dict[int, str] = {}
        self.changed: frozenset[int] = frozenset()
        self.by_hand: frozenset[int] = frozenset()
        """Lines that were typed by hand."""
        self._firsts: list[int] = []
        session.proof_changed.connect(self.refresh)
        session.cursor_changed.connect(self._follow)
        session.pointed_changed.connect(self._to_pointed)

    def _to_pointed(self) -> None:
        """To the line of what was touched on the part."""
        proof, move = self.session.proof, self.session.pointed
        if proof is not None and 0 <= move < len(proof.trace):
            self.go_to(int(proof.trace.line[move]))

    def refresh(self) -> None:
        """Another program."""
        proof = self.session.proof
        count = len(proof.program.lines) if proof else 0
        self.marks = {}
        self.by_hand = proof.program.by_hand if proof else frozenset()
        self._firsts = [s.first for s in proof.program.sections] if proof else []
        for remark in reversed(proof.remarks if proof else ()):
            if remark.line:
                known = self.marks.get(remark.line - 1, remark.level)
                self.marks[remark.line - 1] = min(known, remark.level, key=lambda level: ORDER[level])
        self._range(count)
        self._view().update()

    def mark_changed(self, lines: frozenset[int]) -> None:
        """Marks lines that are not as they were sent."""
        self.changed = lines
        self._view().update()

    def _view(self) -> QWidget:
        view = self.viewport()
        assert view is not None
        return view

    def _range(self, count: int) -> None:
        bar = self.verticalScrollBar()
        if bar is not None:
            shown = max(1, self._view().height() // LINE)
            bar.setRange(0, max(0, count - shown + 1))
            bar.setPageStep(shown)

    def resizeEvent(self, event: object) -> None:
        self._range(len(self.session.proof.program.lines) if self.session.proof else 0)

    def _follow(self) -> None:
        proof, moment = self.session.proof, self.session.moment
        if proof is not None and moment.move >= 0 and not self.hasFocus():
            self.go_to(int(proof.trace.line[moment.move]))

    def go_to(self, line: int) -> None:
        """Makes a line the current one and brings it into view."""
        self.line = line
        bar = self.verticalScrollBar()
        shown = max(1, self._view().height() // LINE)
        if bar is not None and not bar.value() + 1 <= line < bar.value() + shown - 2:
            bar.setValue(max(0, line - shown // 3))
        self._view().update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self._view()) as painter:
            painter.fillRect(self._view().rect(), QColor(ROLES.panel))
            proof = self.session.proof
            bar = self.verticalScrollBar()
            if proof is None or bar is None:
                return
            first = bar.value()
            for k in range(first, min(first + self._view().height() // LINE + 2, len(proof.program.lines))):
                self._line(painter, k, (k - first) * LINE)

    def _columns(self) -> tuple[int, int, int]:
        """How wide the name of a step is, where its number ends, where the code begins."""
        wide = STEP_WIDE if self._view().width() >= ROOMY else STEP_NARROW
        number = STEP_LEFT + wide + NUMBER_WIDE
        return wide, number, number + CODE_BEHIND

    def _line(self, painter: QPainter, k: int, y: float) -> None:
        proof = self.session.proof
        assert proof is not None
        section = proof.program.sections[max(0, bisect.bisect_right(self._firsts, k) - 1)]
        width = self._view().width()
        title_wide, number_right, code_left = self._columns()
        if k == self.line:
            painter.fillRect(QRectF(0, y, width, LINE), QColor(ROLES.focus_tint))
            painter.fillRect(QRectF(0, y, 4, LINE), QColor(ROLES.focus))
        step = self.session.job.step(section.step)
        if section.step:
            stage = next((s for s in proof.stages if s.step == section.step and s.stage == section.stage), None)
            if stage is not None:
                painter.fillRect(QRectF(8, y, 5, LINE), QColor(tool_hue(stage.tool)))
        if step is not None and (k == section.first or y == 0):
            painter.setFont(sans(12, bold=True))
            painter.setPen(QColor(ROLES.ink))
            title = step.title
            number = 1 + next(n for n, s in enumerate(self.session.job.steps) if s.id == step.id)
            shown = painter.fontMetrics().elidedText(
                f"{number} {title} · {tr(section.stage)}", Qt.TextElideMode.ElideRight, title_wide
            )
            painter.drawText(QPointF(STEP_LEFT + 4, y + 15), shown)
        painter.setFont(mono(12))
        painter.setPen(QColor(ROLES.soft))
        painter.drawText(
            QRectF(number_right - 60, y, 54, LINE), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(k + 1)
        )
        if k in self.by_hand:
            painter.fillRect(QRectF(number_right - 4, y + 1, 4, LINE - 2), QColor(ROLES.focus))
        if k in self.changed:
            painter.fillRect(QRectF(number_right - 4, y + 1, 3, LINE - 2), QColor(ROLES.caution))
            painter.drawText(QRectF(number_right - 60, y, 14, LINE), RIGHT, "±")
        if k in self.marks:
            draw_level(painter, self.marks[k], code_left - 16, y + LINE / 2, 12)
        text = proof.program.lines[k]
        painter.setFont(mono(14))
        painter.setPen(QColor(ROLES.soft if text.lstrip().startswith(("(", ";")) else ROLES.ink))
        painter.drawText(QPointF(code_left, y + 15), text)

    def _line_at(self, y: float) -> int:
        bar = self.verticalScrollBar()
        return int(y // LINE) + (bar.value() if bar is not None else 0)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event and self.session.proof:
            self._to(self._line_at(event.position().y()))

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event and self.session.proof:
            section = self.session.proof.program.section_of(self._line_at(event.position().y()))
            if section.step:
                self.wants_step.emit(section.step)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        by = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if by:
            self._to(self.line + by)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.session.proof:
            section = self.session.proof.program.section_of(self.line)
            if section.step:
                self.wants_step.emit(section.step)
        else:
            super().keyPressEvent(event)

    def _to(self, line: int) -> None:
        count = len(self.session.proof.program.lines) if self.session.proof else 0
        if 0 <= line < count:
            self.go_to(line)
            self.session.stop()
            self.session.seek_line(line)


class ProgramPlace(QWidget):
    """The listing, the path with the tool where the cursor is, and on the right what the proof says and the button that saves."""

    wants_step = pyqtSignal(str)

    def __init__(self, session: Session, keeper: SentKeeper, output_folder: str) -> None:
        super().__init__()
        self.session = session
        self.listing = Listing(session)
        self.listing.wants_step.connect(self.wants_step)
        side = QWidget()
        side.setObjectName("panel")
        side.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        side.setFixedWidth(342)
        column = QVBoxLayout(side)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        self.head = Label()
        self.head.setStyleSheet("font-size: 17px; font-weight: bold;")
        self.sub = Label()
        self.sub.setObjectName("soft")
        self.sub.setWordWrap(True)
        self.choice = QVBoxLayout()
        self.choice.setSpacing(4)
        self.choices: list[QPushButton] = []
        column.addLayout(self.choice)
        column.addWidget(self.head)
        column.addWidget(self.sub)
        self.sent = SentBar(session, keeper)
        self.sent.marks.connect(self.listing.mark_changed)
        self.sent.went.connect(self._to_line)
        self.remarks = QVBoxLayout()
        self.remarks.setSpacing(8)
        holder = QWidget()
        holder_column = QVBoxLayout(holder)
        holder_column.setContentsMargins(0, 0, 0, 0)
        holder_column.addWidget(self.sent)
        self.by_hand = HandBar(session)
        self.by_hand.went.connect(self._to_line)
        holder_column.addWidget(self.by_hand)
        holder_column.addLayout(self.remarks)
        holder_column.addStretch(1)
        area = QScrollArea()
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setObjectName("panel")
        area.setWidgetResizable(True)
        area.setWidget(holder)
        area.setMinimumHeight(36)  # a line at least, where gloves need the room
        column.addWidget(area, 1)
        self.to_step = QPushButton(tr("Go to the step of this line"))
        self.to_step.setObjectName("plain")
        self.to_step.setToolTip(tr("Double click or Enter on the line does the same"))
        self.to_step.clicked.connect(self._to_step)
        column.addWidget(self.to_step)
        self.output = OutputPanel(session, keeper, output_folder)
        column.addWidget(self.output)
        self.papers = SheetPanel(session, self.output)
        column.addWidget(self.papers)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(1)
        self.path = PathView(session)
        self.pages = QStackedWidget()
        self.editor = CodeEditor()
        for page in (self.listing, self.editor):
            self.pages.addWidget(page)
        self.hand = HandDesk(session, self.editor)
        self.hand.refused.connect(lambda text: self.output.say(text, ROLES.stop))
        self.edit_bar = EditBar(self.editor, self.pages, self.hand)
        left = QWidget()
        left.setObjectName("panel")
        left.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        left_column = QVBoxLayout(left)
        left_column.setContentsMargins(0, 0, 0, 0)
        left_column.setSpacing(0)
        left_column.addWidget(self.edit_bar)
        left_column.addWidget(self.pages, 1)
        row.addWidget(left, 8)
        row.addWidget(self.path, 5)
        row.addWidget(side)
        session.proof_changed.connect(self.refresh)

    def _offer_holdings(self) -> None:
        """A button for the program of every holding, where there are several."""
        holdings = self.session.job.holdings if len(self.session.job.holdings) > 1 else ()
        while len(self.choices) > len(holdings):
            self.choices.pop().deleteLater()
        while len(self.choices) < len(holdings):
            button = QPushButton()
            button.setObjectName("view")
            button.setCheckable(True)
            button.clicked.connect(partial(self._choose, len(self.choices)))
            self.choice.addWidget(button)
            self.choices.append(button)
        for k, (button, holding) in enumerate(zip(self.choices, holdings, strict=True)):
            button.setText(f"{k + 1}  {holding.titled(self.session.job.card)}")
            button.setChecked(holding.id == self.session.held_id)

    def _choose(self, place: int) -> None:
        if place < len(self.session.job.holdings):
            self.session.select(f"holding:{self.session.job.holdings[place].id}")
        self._offer_holdings()

    def _to_step(self) -> None:
        proof = self.session.proof
        section = proof.program.section_of(self.listing.line) if proof else None
        self.wants_step.emit(section.step if section and section.step else STOCK)

    def refresh(self) -> None:
        """The proof's words."""
        self._offer_holdings()
        proof = self.session.proof
        emptied(self.remarks)
        if proof is None:
            self.head.setText("")
            self.sub.setText("")
            return
        self.head.setText(f"O{self.session.held.number:04d}")
        card = proof.card
        self.sub.setText(
            tr(
                "{lines} lines for {name}, {total}. {says}.",
                lines=len(proof.program.lines),
                name=card.name,
                total=clock(proof.total),
                says=said_of_machine(card.says),
            )
        )
        for remark in proof.remarks[:40]:
            box = RemarkBox(self.session, remark)
            box.went.connect(self._to_remark)
            self.remarks.addWidget(box)
        if not proof.remarks:
            good = Label(tr("Proved: the text does what the sheet shows. Nothing left, nothing gouged, nothing hit."))
            good.setWordWrap(True)
            dress(good, "color: $good;")
            self.remarks.addWidget(good)

    def showEvent(self, event: QShowEvent | None) -> None:
        self.sent.look_again()

    def take_focus(self) -> None:
        """The keyboard goes to the program, to be read or typed over."""
        (self.editor if self.hand.on else self.listing).setFocus()

    def _to_line(self, line: int) -> None:
        self.listing.go_to(line)
        if self.hand.on:
            self.editor.go_to(line)
        self.session.seek_line(line)

    def _to_remark(self, remark: object) -> None:
        line = getattr(remark, "line", 0)
        if line:
            self._to_line(line - 1)
