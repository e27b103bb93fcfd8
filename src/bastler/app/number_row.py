"""A label with a number field beside it, for what is no answer of the job: arithmetic, fractions and units as everywhere."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from bastler.app.fields import NumberField
from bastler.app.labels import Label
from bastler.ask import Question
from bastler.units import Kind, Unit, number_text
from bastler.units.kinds import suffix


class NumberRow(QWidget):
    """`given` says the value that was typed; `entered` that Enter was pressed in it."""

    given = pyqtSignal(float)
    entered = pyqtSignal()

    def __init__(self, says: str, unit: Unit, kind: Kind = Kind.LENGTH, value: float | None = None) -> None:
        super().__init__()
        self.value = value
        self.unit, self.kind = unit, kind
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        row = QHBoxLayout()
        row.setSpacing(8)
        label = Label(says)
        label.setWordWrap(True)
        self.field = NumberField(Question(says=says, kind=kind), unit)
        self.field.setFixedWidth(104)
        label.setMinimumHeight(20)
        self.field.may_be_empty = True
        of = Label(suffix(kind, unit))
        of.setObjectName("soft")
        of.setFixedWidth(38 if of.text() else 0)
        row.addWidget(label, 1)
        row.addWidget(self.field)
        row.addWidget(of)
        column.addLayout(row)
        self.why = Label()
        self.why.setObjectName("why")
        self.why.hide()
        column.addWidget(self.why)
        self.field.given.connect(self._given)
        self.field.cleared.connect(self._cleared)
        self.field.wrong.connect(self._wrong)
        self.field.entered.connect(lambda _: self.entered.emit())
        if value is not None:
            self.show_value(value)

    def show_value(self, value: float | None) -> None:
        """Another value, unless it is being typed just now."""
        if not self.field.hasFocus():
            self.value = value
            self.field.setText("" if value is None else number_text(value, self.kind, self.unit))

    def _given(self, value: float, typed: str) -> None:
        self.value = value
        self.given.emit(value)

    def _cleared(self) -> None:
        self.value = None

    def _wrong(self, reason: str) -> None:
        self.why.setText(reason)
        self.why.setVisible(bool(reason))
