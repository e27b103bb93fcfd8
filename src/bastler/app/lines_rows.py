"""Rows for lists whose entries are typed one by one, each on a line of its own; `bastler.job.lists` says how."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent
from PyQt6.QtWidgets import QPlainTextEdit

from bastler.app.fields import CommandKeys
from bastler.app.rows import Row
from bastler.app.session import Session
from bastler.ask import Question
from bastler.job import answering
from bastler.job.lists import Listed, ListError
from bastler.language import apart, tr


class _PointsEdit(CommandKeys, QPlainTextEdit):
    focused = pyqtSignal()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.focused.emit()


class _TextRow(Row):
    """Lines of text; a subclass says what they are of an answer."""

    HEIGHT = 92

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.text = _PointsEdit()
        self.text.setFixedHeight(self.HEIGHT)
        self.text.setTabChangesFocus(True)
        self.text.setAccessibleName(question.says)
        self.text.textChanged.connect(self._typed)
        self.text.focused.connect(self.focus_in)
        self.column.insertWidget(1, self.text)
        self._showing, self._reason = False, ""

    def lines(self) -> str:
        """The answer as it is typed."""
        raise NotImplementedError

    def meant(self, text: str) -> tuple[tuple[Any, ...], Mapping[str, str]]:
        """The answer that was typed, and what was typed for its numbers with names in it. ListError."""
        raise NotImplementedError

    def show_answer(self) -> None:
        if self.text.hasFocus():
            return
        self._showing = True
        self.text.setPlainText(self.lines())
        self._showing = False

    def _typed(self) -> None:
        if self._showing:
            return
        self._reason = ""
        try:
            entries, typed = self.meant(self.text.toPlainText())
        except ListError as error:
            self._reason = str(error)
        self.say(self._reason)
        if not self._reason:
            self.session.answer(self.address, entries, typed)

    def reason(self) -> str:
        return self._reason

    def take_focus(self) -> None:
        self.text.setFocus(Qt.FocusReason.TabFocusReason)

    def has_focus(self) -> bool:
        return self.text.hasFocus()


class LinesRow(_TextRow):
    """A list, an entry on each line."""

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        listed = self.listed
        self.text.setPlaceholderText(apart(tr(listed.example)))
        if listed.helps:
            self.helps.setText(tr(listed.helps, hint=tr(listed.hint)))

    @property
    def listed(self) -> Listed[Any]:
        """How the list is typed, in the job as it is now."""
        found = answering.listed(self.session.job, self.address)
        assert found is not None
        return found

    def lines(self) -> str:
        return answering.lines_of(self.session.job, self.address)

    def meant(self, text: str) -> tuple[tuple[Any, ...], Mapping[str, str]]:
        return self.listed.read(text)


class CodeRow(_TextRow):
    """Lines of G-code as they are written."""

    HEIGHT = 190

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.text.setPlaceholderText("G0 Z5\nM8")

    def lines(self) -> str:
        return "\n".join(self.given()[0])

    def meant(self, text: str) -> tuple[tuple[Any, ...], Mapping[str, str]]:
        return tuple(line.rstrip() for line in text.splitlines() if line.strip()), {}
