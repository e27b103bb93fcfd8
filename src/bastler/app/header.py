"""The header: which job, which place, what the proof says, how long it takes, and the way out to the machine."""

from __future__ import annotations

import time

from PyQt6.QtCore import QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QToolButton, QVBoxLayout, QWidget

from bastler.app.labels import Elided, Label, Marked
from bastler.app.sent_keeper import SentKeeper
from bastler.app.session import Session
from bastler.app.theme import ROLES, icon, repolish
from bastler.language import countable, decimal, many, sayable, tr
from bastler.proof.remark import ORDER, VERDICTS
from bastler.steps import NextPart
from bastler.units import clock

HEIGHT = 52
SLOW, LONG = 0.3, 1.0
"""Seconds after which it is said that the proof is at work, and after which it can be stopped."""
LEVELS = tuple(ORDER)
COUNTED = {"stop": countable("stop"), "caution": countable("caution"), "note": countable("note")}
DOES = sayable({"running": ", runs", "held": ", held", "stopped": ", stopped", "alarm": ", alarm", "off": ", no power"})
"""What is told of the machine behind the name of its place."""


class Header(QWidget):
    """Emits `went` with the name of a place, and `output`."""

    went = pyqtSignal(str)
    output = pyqtSignal()

    def __init__(self, session: Session, keeper: SentKeeper, menu: QMenu) -> None:
        super().__init__()
        self.session, self.keeper = session, keeper
        self.setObjectName("header")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(HEIGHT)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 0, 16, 0)
        row.setSpacing(6)
        burger = QToolButton()
        burger.setObjectName("dark")
        burger.setIcon(icon("menu", ROLES.on_dark))
        burger.setIconSize(QSize(22, 22))
        burger.setMenu(menu)
        burger.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        burger.setToolTip(tr("All commands (F10)"))
        burger.setAccessibleName(tr("Menu"))
        burger.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.burger = burger
        row.addWidget(burger)
        self.name, self.sub = Label(), Elided()
        self.name.setStyleSheet("font-size: 18px; font-weight: bold;")
        self.sub.setObjectName("soft")
        row.addWidget(self.name)
        row.addSpacing(6)
        row.addWidget(self.sub)
        row.addStretch(1)
        self.places: dict[str, QPushButton] = {}
        for place, words, key in (
            ("bench", tr("Bench"), "Alt+1"),
            ("crib", tr("Crib"), "Alt+2"),
            ("program", tr("Program"), "Alt+3"),
            ("machine", tr("Machine side"), "Alt+4"),
        ):
            button = QPushButton(words)
            button.setObjectName("place")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setToolTip(f"{words} ({key})")
            button.clicked.connect(lambda _, p=place: self.went.emit(p))
            self.places[place] = button
            row.addWidget(button)
        row.addStretch(1)
        self.verdict, self.counts = Marked(), Marked()
        self.halt = QPushButton(tr("Stop"))
        self.halt.setObjectName("halt")
        self.halt.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.halt.clicked.connect(self.stop_or_prove)
        self.halt.hide()
        self.time, self.tools = Label(), Label()
        self.time.setStyleSheet("font-size: 14px; font-weight: bold;")
        for pair in ((self.verdict, self.counts), (self.time, self.tools)):
            column = QVBoxLayout()
            column.setSpacing(1)
            column.addStretch(1)
            for label in pair:
                column.addWidget(label)
            column.addStretch(1)
            row.addLayout(column)
            if pair[0] is self.verdict:
                row.addWidget(self.halt)
            row.addSpacing(12)
        self.tools.setObjectName("soft")
        self.button = QPushButton(tr("Output"))
        self.button.setObjectName("output")
        self.button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.button.setToolTip(tr("To the program and out (Ctrl+P)"))
        self.button.clicked.connect(self.output)
        row.addWidget(self.button)
        self._slow = QTimer(self)
        self._slow.setInterval(200)
        self._slow.timeout.connect(self._waiting)
        for signal in (session.job_changed, session.proof_changed, keeper.changed):
            signal.connect(self.refresh)

    def show_machine(self, mode: str) -> None:
        """What the machine does, wherever one looks."""
        self.places["machine"].setText(tr("Machine side{does}", does=tr(DOES.get(mode, ""))))

    def show_place(self, place: str) -> None:
        """Marks the place that is shown."""
        for name, button in self.places.items():
            button.setChecked(name == place)
            button.setVisible(self.session.has_job)
        self.button.setVisible(self.session.has_job)
        self.refresh()

    def refresh(self) -> None:
        """Says what there is to say."""
        session = self.session
        if not session.has_job:
            self.name.setText("Bastler")
            for label in (self.sub, self.verdict, self.counts, self.time, self.tools):
                label.setText("")
            self._slow.stop()
            self.halt.hide()
            return
        job = session.job
        metrics = self.name.fontMetrics()
        self.name.setText(metrics.elidedText(job.name or tr("Unnamed"), Qt.TextElideMode.ElideRight, 210))
        kept = "" if not session.dirty else tr(" · not in a file yet") if session.path is None else tr(" · changed")
        sent = tr(" · changed since it was sent") if not session.stale and self.keeper.differs else ""
        self.sub.setText(f"{job.card.name}, {job.unit}{kept}{sent}")
        if not session.stale:
            self._slow.stop()
            self.halt.hide()
            self._proof()
        elif session.halted:
            self._slow.stop()
            self._halted()
        else:
            self._slow.start()
            self.counts.setToolTip("")

    def _proof(self) -> None:
        proof = self.session.whole
        if proof is None:
            return
        count = {level: sum(r.level == level for r in proof.remarks) for level in LEVELS}
        good = proof.proved
        bad = ROLES.stop_on_dark if count["stop"] else ROLES.open_on_dark
        tint = bad if not good else ROLES.caution_on_dark if proof.verdict == "left" else ROLES.good_on_dark
        word = tr(VERDICTS[proof.verdict])
        if any(r.code == "nothing" for r in proof.remarks):
            word, tint = tr("Nothing is cut yet"), ROLES.on_dark_soft
        self.verdict.setText(
            f"<b style='color:{tint}'>{word}</b> <span style='color:{ROLES.on_dark_soft}'>"
            f"{tr('in {seconds:.2f} s', seconds=proof.took)}</span>"
        )
        parts = [
            many(count[level], COUNTED[level]) if level != "open" else tr("{count} open", count=count[level])
            for level in LEVELS
            if count[level]
        ]
        tint = bad if not good else ROLES.caution_on_dark if count["caution"] else ROLES.on_dark_soft
        self.counts.setText(f"<span style='color:{tint}'>{', '.join(parts) or tr('no remarks')}</span>")
        used = {s.tool for one in proof.holdings for s in one.stages if s.tool}
        self.time.setText(clock(proof.total))
        pieces = proof.holdings[0].parts
        bar = next((s.filled for s in self.session.plan.steps if isinstance(s.filled, NextPart) and s.stages), None)
        of_one = tr("each of {parts}", parts=bar.parts) if bar is not None else tr("one part")
        self.tools.setText(f"{many(pieces, 'part') if pieces > 1 else of_one}, {many(len(used), 'tool')}")
        self._hold(held=not good)

    def _hold(self, *, held: bool) -> None:
        """Whether what goes out is held back, seen at the button."""
        value = "true" if held else "false"
        if self.button.property("held") != value:
            self.button.setProperty("held", value)
            repolish(self.button)

    def _waiting(self) -> None:
        if not self.session.stale:
            self._slow.stop()
            return
        since = time.monotonic() - self.session.asked_at
        if since > LONG:
            self._offer(tr("Stop"), tr("Do not wait for this proof (Alt+P)"))
        if since > SLOW:
            compiling = self.session.compiling
            doing = tr("getting ready") if compiling else tr("proving")
            self.verdict.setText(f"<span style='color:{ROLES.on_dark_soft}'>{doing} … {decimal(f'{since:.1f}')} s</span>")
            if compiling:
                self.counts.setText(f"<span style='color:{ROLES.on_dark_soft}'>{tr('once on this machine')}</span>")

    def _halted(self) -> None:
        """There is no proof, and nobody works at one."""
        self.verdict.setText(f"<b style='color:{ROLES.stop_on_dark}'>{tr('Not proved')}</b>")
        self.counts.setText(f"<span style='color:{ROLES.stop_on_dark}'>{tr('stopped')}</span>")
        self.counts.setToolTip(self.session.halted)
        self._offer(tr("Prove"), tr("{halted} Prove it once more, however long it takes (Alt+P)", halted=self.session.halted))
        self._hold(held=True)

    def _offer(self, says: str, tip: str) -> None:
        self.halt.setText(says)
        self.halt.setToolTip(tip)
        self.halt.show()

    def stop_or_prove(self) -> None:
        """Stops what is being proved, or begins again where it was stopped."""
        if self.session.halted:
            self.session.prove_on()
        else:
            self.session.halt()
