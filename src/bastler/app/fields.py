"""The field a number is typed into: arithmetic, fractions, units, computed values, reasons."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

from bastler.app.claims import claimed
from bastler.app.theme import repolish
from bastler.ask import Question
from bastler.job.family import filled_in
from bastler.language import tr
from bastler.units import ExpressionError, Kind, Unit, evaluate, number_text


class CommandKeys:
    """Put before a text widget among the bases, it leaves the commands' keys to the commands."""

    def event(self, event: QEvent | None) -> bool:
        if event is not None and claimed(event):
            event.ignore()
            return False
        return bool(super().event(event))  # type: ignore[misc]


class OnTheWay:
    """Put before a widget among the bases that has the signals `entered` and `focused`: Enter goes on to the next question."""

    entered: Any
    focused: Any

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and (by := enter_by(event)):
            self.entered.emit(by)
            return
        super().keyPressEvent(event)  # type: ignore[misc]

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)  # type: ignore[misc]
        self.focused.emit()


class WordField(OnTheWay, CommandKeys, QLineEdit):
    """A line of text; Enter goes on."""

    entered = pyqtSignal(int)
    focused = pyqtSignal()


def enter_by(event: QKeyEvent) -> int:
    """1 for Enter, -1 with Shift; 0 for every other key and for Ctrl+Enter, which is a command."""
    if event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
        return 0
    if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
        return 0
    return -1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1


class NumberField(CommandKeys, QLineEdit):
    """Shows one answer and says what is typed: `given(value, typed)`, `cleared()` for computed again, `wrong(reason)`.

    Empty with a proposal means computed; the computed value then stands in it in grey italics.
    """

    given = pyqtSignal(object, str)
    cleared = pyqtSignal()
    wrong = pyqtSignal(str)
    focused = pyqtSignal(bool)
    entered = pyqtSignal(int)
    dropped = pyqtSignal()

    def __init__(self, question: Question, unit: Unit, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.question = question
        self.unit = unit
        self.reason = ""
        self.named: Callable[[], Mapping[str, float]] = dict
        """Sizes that have a name and may be typed here by it."""
        self.may_be_empty = question.propose is not None
        """Does an empty field mean something: worked out, or not given?"""
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setProperty("number", "true")
        self.setMaxLength(200)
        self.setToolTip(question.helps)
        self.setAccessibleName(question.says)
        self.textEdited.connect(self._typed)

    @property
    def kind(self) -> Kind:
        return self.question.kind or Kind.LENGTH

    def show_value(self, value: Any, typed: str, computed: Any) -> None:
        """Shows an answer, unless it is being typed here just now."""
        if self.hasFocus() and (self.isModified() or self.reason):
            self._placeholder(computed)
            return
        text = "" if value is None else (typed or number_text(float(value), self.kind, self.unit))
        if text != self.text():
            self.setText(text)
        self._mark("")
        self._placeholder(computed)

    def type_in(self, text: str) -> None:
        """As if it were typed in the place of what stands here."""
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        self.selectAll()
        self.insert(text)

    def _placeholder(self, computed: Any) -> None:
        has = self.question.propose is not None and isinstance(computed, int | float)
        self.setPlaceholderText(number_text(float(computed), self.kind, self.unit) if has else "")
        self._set("computed", "true" if not self.text() else "false")

    def _typed(self, text: str) -> None:
        self._set("computed", "true" if not text else "false")
        if not text.strip():
            if self.may_be_empty:
                self._mark("")
                self.cleared.emit()
            else:
                self._mark(tr("Type a number."))
            return
        try:
            value = evaluate(filled_in(text, self.named()), self.kind, self.unit)
        except ExpressionError as error:
            self._mark(error.reason)
            return
        why = self.question.out_of_bounds(value)
        if not why and self.kind is Kind.COUNT and value != int(value):
            why = tr("Has to be a whole number.")
        self._mark(why)
        if not why:
            self.given.emit(int(value) if self.kind is Kind.COUNT else value, text)

    def _mark(self, reason: str) -> None:
        self.reason = reason
        self._set("wrong", "true" if reason else "false")
        self.wrong.emit(reason)

    def _set(self, name: str, value: str) -> None:
        if self.property(name) != value:
            self.setProperty(name, value)
            repolish(self)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if by := enter_by(event):
            self.setModified(False)
            self.entered.emit(by)
        elif event.key() == Qt.Key.Key_Escape:
            self.setModified(False)
            self.reason = ""
            self.dropped.emit()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.setModified(False)
        self.selectAll()
        self.focused.emit(True)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.setModified(False)
        if self.reason:
            self._mark("")
            self.dropped.emit()
        self.focused.emit(False)
