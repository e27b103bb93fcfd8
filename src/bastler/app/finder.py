"""The field that finds anything (Ctrl+K): a few words, a list, Enter goes there."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from bastler.app.commands import COMMANDS
from bastler.app.finding import Entry, found
from bastler.app.keyring import key_text, shown
from bastler.app.labels import Label
from bastler.app.session import STOCK
from bastler.app.window import Window
from bastler.ask import Question
from bastler.explained import explained
from bastler.job import answering, edits
from bastler.job.samples import sample_names
from bastler.job.sweeps import said
from bastler.language import many, sayable, tr
from bastler.machines.card import said_of_machine
from bastler.proof.remark import SEVERITIES
from bastler.steps import kind_of

WIDTH, HIGH, TOP = 620, 420, 64
NOTHING = sayable("Nothing has all of these words.")
HOW = sayable("Commands, steps, questions, tools, remarks, lines of the program: type a few letters of each word.")


class Finder(QFrame):
    """Stands over the window while something is looked for."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self.window_, self.session = window, window.session
        self.setObjectName("explain")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(tr("Find anything"))
        self.field = QLineEdit()
        self.field.setPlaceholderText(tr("Find anything"))
        self.field.setAccessibleName(tr("Find anything"))
        self.field.setMaxLength(80)
        self.field.setProperty("number", "true")
        self.list = QListWidget()
        self.list.setObjectName("picks")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setAccessibleName(tr("What was found"))
        self.note = Label(tr(HOW))
        self.note.setObjectName("soft")
        self.note.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 14, 14, 12)
        column.setSpacing(8)
        for widget in (self.field, self.list, self.note):
            column.addWidget(widget)
        self.entries: list[Entry] = []
        self.seen: list[Entry] = []
        self._before: QWidget | None = None
        self.field.textEdited.connect(self._look)
        self.field.installEventFilter(self)
        self.list.itemClicked.connect(lambda item: self._take(self.list.row(item)))
        self.hide()

    def open(self) -> None:
        """Begins to look; once more, and it is closed."""
        if self.isVisible():
            self.leave()
            return
        self._before = self.window_.focusWidget()
        self.entries = list(self._all())
        self.field.clear()
        self._look("")
        wide = min(WIDTH, self.window_.width() - 40)
        self.setGeometry((self.window_.width() - wide) // 2, TOP, wide, min(HIGH, self.window_.height() - TOP - 20))
        self.show()
        self.raise_()
        self.field.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def leave(self) -> None:
        """Back to where the keyboard was."""
        self.hide()
        if self._before is not None and self._before.isVisible():
            self._before.setFocus(Qt.FocusReason.OtherFocusReason)
        self._before = None

    # -- hands ------------------------------------------------------------------------------------------------------

    def eventFilter(self, of: QObject | None, event: QEvent | None) -> bool:
        """Up and down go through the list while one types on; a press elsewhere closes it."""
        if of is self.field and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            by = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 8, Qt.Key.Key_PageUp: -8}.get(Qt.Key(event.key()))
            if by is not None:
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + by)))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take(self.list.currentRow())
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.leave()
                return True
        if of is self.field and event is not None and event.type() == QEvent.Type.FocusOut and self.isVisible():
            QTimer.singleShot(0, self._left)
        return super().eventFilter(of, event)

    def _left(self) -> None:
        """Who presses elsewhere is done looking; rows that come meanwhile, as planning ends, do not take the keyboard."""
        if QApplication.mouseButtons() != Qt.MouseButton.NoButton or not self.window_.isActiveWindow():
            self.hide()
        elif self.isVisible():
            self.field.setFocus(Qt.FocusReason.OtherFocusReason)

    def _look(self, typed: str) -> None:
        self.seen = found(self.entries, typed)
        self.list.clear()
        for entry in self.seen:
            beside = f"   {entry.beside}" if entry.beside else ""
            self.list.addItem(QListWidgetItem(f"{tr(entry.kind)}:  {entry.says}{beside}"))
        if self.seen:
            self.list.setCurrentRow(0)
        self.note.setText(
            tr(HOW)
            if not typed.strip()
            else tr("{many} found.", many=many(len(self.seen), "place"))
            if self.seen
            else tr(NOTHING)
        )

    def _take(self, row: int) -> None:
        if 0 <= row < len(self.seen):
            self._before = None
            self.hide()
            self.seen[row].take()

    # -- what there is --------------------------------------------------------------------------------------------------

    def _all(self) -> Iterator[Entry]:
        has_job = self.session.has_job
        for command in COMMANDS.values():
            if (has_job or not command.job) and command.name != "find.anything":
                key = key_text(shown(command, self.window_.own_keys))
                yield Entry("Command", tr(command.says), partial(self.window_.run, command.name), key, tr(command.menu))
        for name in sample_names():
            yield Entry("Sample", name.replace("-", " ").capitalize(), partial(self.window_.open_choice, f"sample:{name}"))
        if has_job:
            yield from self._of_route()
            yield from self._of_crib()
            yield from self._of_proof()

    def _of_route(self) -> Iterator[Entry]:
        session = self.session
        for card in session.cards():
            step = session.job.step(card)
            if step is not None:
                title = f"{edits.index_of(session.job, card) + 1} {step.title}"
                shown = session.plan.step(card) if session.shown else None
                summary = shown.summary if shown is not None else ""
                yield Entry("Step", title, partial(self._to_card, card), tr(kind_of(step).title), summary)
            else:
                title = tr("Stock") if card == STOCK else session.job.holding_of(card.partition(":")[2]).titled(session.job.card)
                yield Entry("Step", title, partial(self._to_card, card))
            for asked in self.window_.questions.asked_of(card):
                if asked.now:
                    yield self._of_question(card, title, asked.question, asked.address)

    def _of_question(self, card: str, title: str, question: Question, address: str) -> Entry:
        kind = "Pattern or outline" if address.startswith(("pattern:", "outline:")) else "Question"
        text, value = "", ""
        if self.session.there(address) and "." in address:
            struct, field = answering.at(self.session.job, address)
            text, value = explained(type(struct), field), self._value(question, getattr(struct, field))
        beside = f"{title}{': ' + value if value else ''}"
        return Entry(kind, question.says, partial(self._to_question, card, address), beside, text)

    def _value(self, question: Question, value: Any) -> str:
        """An answer that was given, as people read it; empty for what is picked from the job, or listed."""
        plain = question.choices or question.kind is not None or question.picks in ("word", "name", "numbers")
        return said(question, value, self.session.job.unit) if plain and value is not None else ""

    def _of_crib(self) -> Iterator[Entry]:
        job = self.session.job
        for tool in job.tools:
            yield Entry("Tool", f"T{tool.station} {tool.called}", partial(self._to_crib, "tools", tool.id), "", tool.says)
        for material in job.all_materials().values():
            yield Entry("Material", material.called, partial(self._to_crib, "materials", material.id))
        for card in job.all_cards().values():
            yield Entry("Machine", card.name, partial(self._to_crib, "machines", card.id), said_of_machine(card.says))

    def _of_proof(self) -> Iterator[Entry]:
        whole, proof = self.session.whole, self.session.proof
        for remark in whole.remarks if whole is not None else ():
            level = tr(SEVERITIES[remark.level])
            yield Entry("Remark", remark.text, partial(self.window_.show_remark, remark), level, remark.code)
        for number, line in enumerate(proof.program.text.splitlines() if proof is not None else (), 1):
            yield Entry("Program line", line, partial(self.window_.to_line, number), tr("line {number}", number=number))

    # -- going there ------------------------------------------------------------------------------------------------------

    def _to_card(self, card: str) -> None:
        self.session.select(card)
        self.window_.go_to("bench")

    def _to_question(self, card: str, address: str) -> None:
        self._to_card(card)
        self.window_.questions.take_focus(address)

    def _to_crib(self, tab: str, ident: str) -> None:
        self.window_.go_to("crib")
        if tab == "tools":
            self.window_.crib.show_filter("all")
        self.window_.crib.show_tab(tab)
        self.window_.crib.select(tab, ident)
