"""The machine side: set up, touch off, run, measure and correct on whatever machine is connected."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from bastler.app.asking import OWN_DIALOG
from bastler.app.fields import NumberField
from bastler.app.jog_pad import JogPad
from bastler.app.labels import Label
from bastler.app.machine_desk import MachineDesk
from bastler.app.machine_guide import Guide
from bastler.app.machine_link import MachineLink
from bastler.app.machine_sheet import MachineSheet
from bastler.app.machine_solid import MachineSolid
from bastler.app.number_pad import NumberPad
from bastler.app.number_row import NumberRow
from bastler.app.panels import NARROW
from bastler.app.read_out import ReadOut
from bastler.app.restart_panel import RestartPanel
from bastler.app.run_bar import RunBar
from bastler.app.sent_keeper import SentKeeper
from bastler.app.session import Session
from bastler.app.setup_list import SetupList
from bastler.app.sizes_panel import SizesPanel
from bastler.app.theme import ROLES, dress
from bastler.app.tools_panel import ToolsPanel
from bastler.disk import reason_of, write_whole
from bastler.language import sayable, tr
from bastler.link import messages as m
from bastler.units import Kind

PAGES = sayable(("Set up", "Sizes", "Tools", "Restart"))
SIDE = 342
LARGEST_SEED = 999_999


class MachinePlace(QWidget):
    """On the left what to do, in the middle where the machine is and the part in it, on the right how it is done, or the
    sizes."""

    wants_strip = pyqtSignal()

    def __init__(self, session: Session, keeper: SentKeeper) -> None:
        super().__init__()
        self.session = session
        self.link = MachineLink()
        self.desk = MachineDesk(session, self.link, keeper)
        self.gloves = False
        self.whole = QStackedWidget()
        self.before = self._nothing()
        self.whole.addWidget(self.before)
        self.work: QWidget | None = None
        """Made when a machine comes: until then it would only make the window wait."""
        self.seed_pad: NumberPad | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.whole)
        self.desk.said.connect(self.say)
        self.desk.book.said.connect(self.say)
        self.desk.changed.connect(self.refresh)
        self.desk.moved.connect(self._follow)
        self._mode, self._line = "", 0
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._focus)

    # -- with no machine ----------------------------------------------------------------------------------------------

    def _nothing(self) -> QWidget:
        page = QWidget()
        page.setObjectName("paper")
        page.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box = QWidget()
        box.setObjectName("panel")
        box.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box.setFixedWidth(520)
        column = QVBoxLayout(box)
        column.setContentsMargins(28, 24, 28, 24)
        column.setSpacing(12)
        head = Label(tr("No machine is connected"))
        head.setStyleSheet("font-size: 20px; font-weight: bold;")
        words = Label(
            tr(
                "The stand-in is a simulated control of this job's machine. The stock does not lie quite "
                "where the job says, tools are not quite as long as in the crib: as at a real one that "
                "is found by touching and measuring."
            )
        )
        words.setWordWrap(True)
        self.seed = NumberRow(tr("Its number: the same is the same machine, 0 hides nothing"), "mm", Kind.COUNT, 7)
        self.seed.field.setAccessibleName(tr("Seed of the stand-in"))
        self.seed.entered.connect(self._start)
        self.start = QPushButton(tr("Start the stand-in"))
        self.start.setObjectName("main")
        self.start.clicked.connect(self._start)
        self.trouble = Label()
        self.trouble.setObjectName("why")
        self.trouble.setMinimumHeight(36)
        self.trouble.setWordWrap(True)
        for widget in (head, words, self.seed, self.start, self.trouble):
            column.addWidget(widget)
        outer = QVBoxLayout(page)
        outer.addStretch(2)
        middle = QHBoxLayout()  # and not aligned: the height of its words is then that of its own width
        middle.addStretch(1)
        middle.addWidget(box)
        middle.addStretch(1)
        outer.addLayout(middle)
        outer.addStretch(3)
        self._outer = outer
        return page

    def _start(self) -> None:
        seed = self.seed.value
        if seed is None or not 0 <= seed <= LARGEST_SEED:
            self.trouble.setText(tr("A whole number from 0 to {largest_seed}.", largest_seed=LARGEST_SEED))
            return
        self.trouble.setText("")
        self.desk.start(int(seed))

    # -- with one -----------------------------------------------------------------------------------------------------

    def _work(self) -> QWidget:
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(1)
        self.list = SetupList(self.desk)
        self.list.chosen.connect(self.choose)
        row.addWidget(self.list)
        middle = QWidget()
        middle.setObjectName("paper")
        middle.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 10, 0, 0)
        column.setSpacing(6)
        self.read_out = ReadOut(self.desk)
        self.read_out.wants_place.connect(self._ask_place)
        top = QHBoxLayout()
        top.setContentsMargins(16, 0, 16, 0)
        top.addWidget(self.read_out)
        column.addLayout(top)
        self.place_row = NumberRow("", "mm")
        self.place_row.entered.connect(self._to_place)
        self.place_row.field.dropped.connect(self.place_row.hide)
        self.place_row.hide()
        self._axis = "x"
        held = QHBoxLayout()
        held.setContentsMargins(20, 0, 20, 0)
        held.addWidget(self.place_row)
        column.addLayout(held)
        self.sheet, self.solid = MachineSheet(self.desk), MachineSolid(self.desk)
        self.seen = QStackedWidget()
        for view in (self.sheet, self.solid):
            self.seen.addWidget(view)
        self.as_solid = QPushButton(tr("Solid"))
        self.as_solid.setObjectName("view")
        self.as_solid.setCheckable(True)
        self.as_solid.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.as_solid.setToolTip(tr("The part in the machine as a solid, or as a drawing"))
        self.as_solid.toggled.connect(lambda on: self.seen.setCurrentIndex(int(on)))
        column.addWidget(self.seen, 1)
        self.words = Label()
        self.words.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.words.setWordWrap(True)
        under = QHBoxLayout()
        under.setContentsMargins(16, 0, 16, 0)
        under.addWidget(self.words, 1)
        under.addWidget(self.as_solid)
        column.addLayout(under)
        self.pad = JogPad(self.desk)
        column.addWidget(self.pad)
        self.bar = RunBar(self.desk)
        column.addWidget(self.bar)
        row.addWidget(middle, 1)
        row.addWidget(self._side())
        return page

    def _side(self) -> QWidget:
        side = QWidget()
        side.setObjectName("panel")
        side.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        side.setFixedWidth(SIDE)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 10, 0, 0)
        column.setSpacing(0)
        row = QHBoxLayout()
        row.setContentsMargins(14, 0, 14, 4)
        row.setSpacing(6)
        self.number_pad = NumberPad()
        self.number_pad.hide()
        self.pages = QStackedWidget()
        self.buttons = QButtonGroup(self)
        self.guide, self.sizes = Guide(self.desk), SizesPanel(self.desk)
        self.tools, self.restart = ToolsPanel(self.desk), RestartPanel(self.desk)
        self.sizes.wants_csv.connect(self._save_sizes)
        for k, (name, panel) in enumerate(zip(PAGES, (self.guide, self.sizes, self.tools, self.restart), strict=True)):
            button = QPushButton(tr(name))
            button.setObjectName("view")
            button.setStyleSheet(NARROW)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _, n=name: self.page(n))
            self.buttons.addButton(button, k)
            row.addWidget(button, 1)
            self.pages.addWidget(panel)
        column.addLayout(row)
        column.addWidget(self.pages, 1)
        column.addWidget(self.number_pad)
        self.buttons.buttons()[0].setChecked(True)
        return side

    # -- what is shown ------------------------------------------------------------------------------------------------

    def page(self, name: str) -> None:
        """Set up, sizes, tools or restart."""
        k = PAGES.index(name)
        self.buttons.buttons()[k].setChecked(True)
        self.pages.setCurrentIndex(k)
        self.pad.setVisible(name == "Set up")
        if name == "Restart":
            self.restart.show_near()
        self.wants_strip.emit()

    @property
    def shows_strip(self) -> bool:
        """Is there room for the strip: while nothing is set up?"""
        there = self.work is not None and self.link.there and self.session.has_job and self._fits()
        return there and self.pages.currentIndex() != PAGES.index("Set up")

    def choose(self, key: str) -> None:
        """One of the things to do."""
        self.page("Set up")
        self.list.choose(key)
        self.guide.show_item(key)

    def refresh(self) -> None:
        """What there is to see as things stand."""
        there = self.link.there and self.session.has_job and self._fits()
        if there and self.work is None:
            self.work = self._work()
            self.whole.addWidget(self.work)
        self.whole.setCurrentWidget(self.work if there and self.work is not None else self.before)
        self.start.setEnabled(not self.link.starting)
        self.start.setText(tr("It comes up …") if self.link.starting else tr("Start the stand-in"))
        if self.link.trouble:
            self.trouble.setText(self.link.trouble)
        elif self.link.there and not there and self.session.has_job:
            self.trouble.setText(
                tr("The stand-in that runs is {hello}: this job is for another machine.", hello=self.link.hello["machine"])
            )
        if there and not self.guide.key and self.session.plan.holdings:
            left = self.desk.open_items
            self.choose(left[0].key if left else "program")
        mode = self.desk.mode
        if mode != self._mode and self.work is not None:
            if mode == "running" and self.pages.currentIndex() in (0, 3):
                self.page("Sizes")
            if mode != "jogging" and self._mode != "jogging":
                self.words.setText("")
            self._mode = mode
        self.wants_strip.emit()

    def _fits(self) -> bool:
        """Is the machine that is connected that of the job?"""
        return self.link.hello.get("card") == self.session.job.card.id

    def say(self, kind: str, text: str) -> None:
        """A sentence under the drawing."""
        if self.work is None:
            self.trouble.setText(text)
            return
        self.words.setText(text)
        dress(self.words, f"color: {ROLES.stop if kind == 'wrong' else ROLES.ink};")

    def _follow(self) -> None:
        """The line in work, and the strip at it."""
        status, proof = self.desk.status, self.session.proof
        if self.work is None or status is None or proof is None or not status.line:
            return
        if status.mode not in ("running", "held", "stopped"):
            return
        lines = proof.program.lines
        if status.line <= len(lines):
            following = lines[status.line] if status.line < len(lines) else ""
            self.words.setStyleSheet("font-style: italic;")
            self.words.setText(
                tr(
                    "Line {line}  {lines}    then  {following}",
                    line=status.line,
                    lines=lines[status.line - 1],
                    following=following,
                )
            )
        rows = np.flatnonzero(proof.trace.line == status.line - 1)
        if len(rows) and status.line != self._line:
            self._line = status.line
            self.session.seek(float(proof.starts[rows[0]]))

    # -- hands --------------------------------------------------------------------------------------------------------

    def _ask_place(self, axis: str) -> None:
        """A place of an axis is typed, as the program counts."""
        if self.desk.mode != "ready":
            return
        self._axis = axis
        label = self.place_row.findChild(Label)
        if label is not None:
            label.setText(
                tr(
                    "{upper} goes to{turns}",
                    upper=axis.upper(),
                    turns=tr(" a diameter of") if self.desk.turns and axis == "x" else "",
                )
            )
        self.place_row.field.unit = self.desk.unit
        self.place_row.field.clear()
        self.place_row.value = None
        self.place_row.show()
        self.place_row.field.setFocus()

    def _to_place(self) -> None:
        value, status = self.place_row.value, self.desk.status
        if value is None or status is None:
            return
        k = "xyz".index(self._axis)
        where = value / 2 if self.desk.turns and k == 0 else value
        self.place_row.hide()
        self.desk.do(m.Jog(axis=self._axis, by=where - status.places[k], fast=True))  # type: ignore[arg-type]
        self.pad.setFocus()

    def send(self) -> None:
        """The program, where a machine is connected."""
        if self.link.there and self.work is not None:
            self.choose("program")
            self.desk.send()

    def _save_sizes(self) -> None:
        """What was measured, as a table in a file."""
        start = str(Path.home() / "sizes.csv")
        path, _ = QFileDialog.getSaveFileName(self, tr("Keep the sizes"), start, tr("Tables (*.csv)"), options=OWN_DIALOG)
        if path:
            try:
                write_whole(Path(path), self.desk.book.as_csv(self.desk.gauges, self.desk.unit).encode())
            except OSError as error:
                self.say("wrong", tr("The sizes were not kept: {error}.", error=reason_of(error)))
            else:
                self.say("", tr("Kept as {name}.", name=Path(path).name))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Space starts, holds and goes on."""
        if event is not None and event.key() == Qt.Key.Key_Space and self.link.there and self.work is not None:
            self.bar.start_or_hold()
        elif event is not None:
            super().keyPressEvent(event)

    def take_focus(self) -> None:
        """The keyboard goes to what comes first."""
        self.refresh()
        (self.pad if self.link.there and self.work is not None else self.seed.field).setFocus()

    def make_large(self, gloves: bool) -> None:
        """With gloves a number pad comes with each field."""
        self.gloves = gloves
        self._focus(None, QApplication.focusWidget())

    def _focus(self, _: QWidget | None, now: QWidget | None) -> None:
        """The number pad is there while a field has the keyboard: there is no room for it always."""
        types = self.gloves and isinstance(now, NumberField) and self.isAncestorOf(now)
        if self.work is not None:
            self.number_pad.setVisible(types)
            self.sizes.make_room(typing=types)
        if types and self.seed_pad is None:
            self.seed_pad = NumberPad()
            self._outer.insertWidget(2, self.seed_pad, 0, Qt.AlignmentFlag.AlignHCenter)
        if self.seed_pad is not None:
            self.seed_pad.setVisible(types)

    def close_down(self) -> None:
        """The machine is let go of."""
        self.link.leave()
        if self.work is not None:
            self.solid.close_scene()
