"""Editing a program by hand: what is typed becomes hand edits of the job at once, and is proved like every answer; an answer that
changes meanwhile changes the text around them.

The text that is typed over belongs to a program with certain edits in it. As long as something typed is on its way, what comes is
not put in its place: it comes again, with the newer edits in it.
"""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from bastler.app.code_editor import CodeEditor
from bastler.app.session import Session
from bastler.app.theme import repolish
from bastler.job import edits
from bastler.job.by_hand import HandEdit
from bastler.language import tr, tr_as
from bastler.post import Program

PAUSE_MS = 120
"""So long after a key it is taken over: a word is typed in one go."""


class HandDesk(QObject):
    """Joins editor and job. `refused` says why something typed is not kept."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session, editor: CodeEditor) -> None:
        super().__init__()
        self.session, self.editor = session, editor
        self.on = False
        self._shown: tuple[str, Program, tuple[HandEdit, ...]] | None = None
        """The text in the editor: of which program, by its first holding, as it was proved, with which edits."""
        self._asked = 0
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE_MS)
        self._pause.timeout.connect(self.take_over)
        editor.typed.connect(self._pause.start)
        editor.moved.connect(self._moved)
        session.proof_changed.connect(self.refresh)
        session.job_changed.connect(self._other_job)

    @property
    def waiting(self) -> bool:
        """Is something typed on its way?"""
        return self._pause.isActive() or self._asked > 0

    def switch(self, on: bool) -> None:
        """Begins to edit, or ends it; what was typed is taken over."""
        if self._pause.isActive():
            self._pause.stop()
            self.take_over()
        self.on = on
        if on:
            self._shown = None
            self.refresh()

    def refresh(self) -> None:
        """What is proved is shown, where nothing typed is on its way."""
        session, proof = self.session, self.session.proof
        if proof is None:  # another job
            self._pause.stop()
            self._shown, self._asked = None, 0
        if not self.on or proof is None or session.stale:
            return
        program = self._program()
        if self.waiting and self._shown is not None and self._shown[0] == program:
            return
        if self.editor.lines != proof.program.lines:
            self.editor.show_lines(proof.program.lines)
        self._shown = (program, proof.program, session.job.hand_edits(program))
        self.editor.mark(proof.program.by_hand)

    def _program(self) -> str:
        """The first holding of the program that is looked at."""
        job = self.session.job
        return job.holdings[job.programs[self.session.program][0]].id

    def _other_job(self) -> None:
        """Somebody has undone, or left an edit out: what is still on its way is no more."""
        shown = self._shown
        if shown is None or not self.on:
            return
        if self.session.job.hand_edits(shown[0]) != shown[2]:
            self._pause.stop()

    def take_over(self) -> None:
        """What is typed becomes edits of the job."""
        if self._shown is None:
            return
        program, shown, own = self._shown
        line = self.editor.line
        self._asked += 1

        def came(found: tuple[HandEdit, ...] | None, trouble: str) -> None:
            if self._shown is None or self._shown[1] is not shown:
                return
            self._asked -= 1
            if found is None:  # what is not in the program is not to be seen as if it were
                self._pause.stop()
                self.refused.emit(trouble or tr("That could not be taken over."))
                self.editor.show_lines(shown.lines)
                return
            job = edits.changed_by_hand(self.session.job, program, found)
            if job == self.session.job:
                self.refresh()
                return
            self.session.edit(job, tr("Change the program by hand"), merge=f"hand:{program}:{line}")

        self.session.core.ask("by-hand", shown, own, program, self.editor.toPlainText(), then=came, slot=f"by-hand {self._asked}")

    def _moved(self, line: int) -> None:
        """The cursor is in another line: part and path show what it does."""
        if not self.session.stale and not self.waiting:
            self.session.stop()
            self.session.seek_line(line)


class EditBar(QWidget):
    """Above the program: to edit by hand or not, and while it is edited to find, to replace, and to a line."""

    def __init__(self, editor: CodeEditor, pages: QStackedWidget, desk: HandDesk) -> None:
        super().__init__()
        self.editor, self.pages, self.desk = editor, pages, desk
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 6, 8, 6)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.toggle = QPushButton(tr("Edit by hand"))
        self.toggle.setObjectName("view")
        self.toggle.setCheckable(True)
        self.toggle.setToolTip(tr("Type over the program; what is typed is kept and proved (Ctrl+Shift+E)"))
        self.toggle.toggled.connect(self._switch)
        row.addWidget(self.toggle)
        self.wanted, self.by, self.line = QLineEdit(), QLineEdit(), QLineEdit()
        self.found = QPushButton(tr("Next"))
        self.replace = QPushButton(tr("Replace"))
        self.every = QPushButton(tr("All"))
        for field, words in ((self.wanted, tr("Find")), (self.by, tr("Replace by")), (self.line, tr_as("of a program", "Line"))):
            field.setPlaceholderText(words)
            field.setAccessibleName(words)
            field.setProperty("compact", "true")
        self.line.setMaximumWidth(58)
        for button in (self.found, self.replace, self.every):
            button.setObjectName("view")
            button.setStyleSheet("padding: 0 8px;")
        self.tools = [self.wanted, self.found, self.by, self.replace, self.every, self.line]
        for tool in self.tools:
            row.addWidget(tool, 1 if tool in (self.wanted, self.by) else 0)
            tool.hide()
        row.addStretch(0)
        column.addLayout(row)
        self.wanted.returnPressed.connect(self._next)
        self.found.clicked.connect(self._next)
        self.by.returnPressed.connect(self._replace)
        self.replace.clicked.connect(self._replace)
        self.every.clicked.connect(self._replace_all)
        self.line.returnPressed.connect(self._go)

    def _switch(self, on: bool) -> None:
        self.desk.switch(on)
        self.pages.setCurrentIndex(1 if on else 0)
        for tool in self.tools:
            tool.setVisible(on)
        self.pages.currentWidget().setFocus()  # type: ignore[union-attr]

    def to_find(self) -> None:
        """Ready to type what to find."""
        self.toggle.setChecked(True)
        self.wanted.setFocus()
        self.wanted.selectAll()

    def to_line(self) -> None:
        """Ready to type the number of a line."""
        self.toggle.setChecked(True)
        self.line.setFocus()
        self.line.selectAll()

    def _next(self) -> None:
        self._wrong(self.wanted, not self.editor.find_next(self.wanted.text()))

    def _replace(self) -> None:
        self._wrong(self.wanted, not self.editor.replace_next(self.wanted.text(), self.by.text()))

    def _replace_all(self) -> None:
        self._wrong(self.wanted, not self.editor.replace_all(self.wanted.text(), self.by.text()))

    def _go(self) -> None:
        text = self.line.text().strip()
        good = text.isdecimal() and len(text) < 9 and 1 <= int(text) <= self.editor.blockCount()
        self._wrong(self.line, not good)
        if good:
            self.editor.go_to(int(text) - 1)
            self.editor.setFocus()

    def _wrong(self, field: QLineEdit, wrong: bool) -> None:
        """There is no such thing: the field says so."""
        field.setProperty("wrong", "true" if wrong and field.text() else "false")
        repolish(field)
