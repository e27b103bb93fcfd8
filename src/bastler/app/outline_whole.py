"""What can be done with all of an outline: its name, turned, mirrored, run the other way, saved as a drawing."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Protocol

from PyQt6.QtWidgets import QGridLayout, QWidget

from bastler.app import outline_commands as commands
from bastler.app.fields import NumberField, WordField
from bastler.app.labels import Label
from bastler.app.rows import PickButton
from bastler.app.session import Session
from bastler.ask import Question
from bastler.language import tr
from bastler.shapes import AnyOutline, PlanOutline, TurnedOutline
from bastler.shapes.fitted import CurveError
from bastler.units import ExpressionError, Kind, evaluate

FIELD = 77
"""Pixels that a number of an outline is wide."""


class Stops(Protocol):
    """The editor, as far as its places go that Enter stops at."""

    session: Session

    def stop(self, widget: QWidget) -> None: ...
    def go(self, widget: QWidget, by: int) -> None: ...
    def link(self, text: str, tip: str) -> PickButton: ...
    def say(self, text: str) -> None: ...


class WholePanel(QGridLayout):
    """The answers and links under *whole outline*."""

    def __init__(self, row: Stops, outline: AnyOutline) -> None:
        super().__init__()
        self.row, self.session = row, row.session
        self.setVerticalSpacing(3)
        name = WordField()
        name.setText(outline.name)
        name.setMaxLength(40)
        name.setAccessibleName(tr("Name of the outline"))
        name.textEdited.connect(partial(commands.renamed, self.session))
        name.entered.connect(partial(row.go, name))
        self._soft(0, tr("Name"))
        self.addWidget(name, 0, 1, 1, 2)
        row.stop(name)
        if isinstance(outline, PlanOutline):
            self._turning()
            self._action(2, 0, tr("Mirror left–right"), partial(commands.whole, self.session, "mirror-y"))
            self._action(2, 1, tr("Mirror front–back"), partial(commands.whole, self.session, "mirror-x"))
            self._action(3, 0, tr("Run it the other way"), partial(commands.whole, self.session, "reverse"))
        if isinstance(outline, TurnedOutline):
            self._curve()
            self._copy()
        self._action(6, 0, tr("Save as DXF …"), partial(self.session.wants_export.emit, outline.id, "dxf"))
        self._action(6, 1, tr("Save as SVG …"), partial(self.session.wants_export.emit, outline.id, "svg"))

    def _turning(self) -> None:
        self._soft(1, tr("Turn about zero by"))
        asked = Question(says=tr("Turn about zero by"), kind=Kind.ANGLE, propose=lambda s, c: None)
        turn = NumberField(asked, self.session.job.unit)
        turn.setFixedWidth(FIELD)
        turn.setProperty("compact", "true")
        turn.entered.connect(partial(self._turned, turn))
        turn.wrong.connect(self.row.say)
        self.addWidget(turn, 1, 1)
        self._soft(1, tr("° then Enter"), column=2)
        self.row.stop(turn)

    def _turned(self, field: NumberField, by: int) -> None:
        """The angle that was typed is carried out."""
        if field.reason or not field.text():
            self.row.go(field, by)
            return
        degrees = evaluate(field.text(), Kind.ANGLE, self.session.job.unit)
        field.clear()
        commands.turn_by(self.session, degrees)

    def _curve(self) -> None:
        """On by a curve: a formula of z, to where, and how near arcs come to it."""
        unit = self.session.job.unit
        self._soft(1, tr("On by Ø ="))
        self.formula = WordField()
        self.formula.setPlaceholderText("30+5*sin(z*9)")
        self.formula.setMaxLength(200)
        self.formula.setAccessibleName(tr("Diameter as a formula of z"))
        self.formula.entered.connect(partial(self.row.go, self.formula))
        self.addWidget(self.formula, 1, 1, 1, 2)
        self.row.stop(self.formula)
        self.to_z, self.within = (
            NumberField(Question(says=says, kind=Kind.LENGTH, propose=lambda s, c: None), unit)
            for says in (tr("To Z"), tr("Within"))
        )
        for column, (field, text) in enumerate(((self.to_z, tr("to Z, within")), (self.within, ""))):
            field.setFixedWidth(FIELD)
            field.setProperty("compact", "true")
            field.wrong.connect(self.row.say)
            if text:
                self._soft(2, text)
            self.addWidget(field, 2, 1 + column)
            self.row.stop(field)
        self.within.show_value(0.005 if unit == "mm" else 0.0002, "", None)
        self.to_z.entered.connect(partial(self.row.go, self.to_z))
        self.within.entered.connect(lambda by: self._curved())
        self._action(3, 0, tr("Add the curve"), self._curved)

    def _curved(self) -> None:
        """The curve that was typed goes on the outline; what is wrong with it is said."""
        unit = self.session.job.unit
        try:
            to_z, within = (evaluate(field.text(), Kind.LENGTH, unit) for field in (self.to_z, self.within))
            commands.curve_on(self.session, self.formula.text(), to_z, within)
        except (ExpressionError, CurveError) as error:
            self.row.say(str(error))

    def _copy(self) -> None:
        """A copy for the step alone: as it is, with an allowance, or the other side of a wall."""
        self._soft(4, tr("Copy off by"))
        self.off = NumberField(
            Question(says=tr("Copy off by"), kind=Kind.LENGTH, propose=lambda s, c: None), self.session.job.unit
        )
        self.off.setFixedWidth(FIELD)
        self.off.setProperty("compact", "true")
        self.off.wrong.connect(self.row.say)
        self.off.show_value(0.0, "", None)
        self.off.entered.connect(partial(self.row.go, self.off))
        self.addWidget(self.off, 4, 1)
        self.row.stop(self.off)
        self._action(5, 0, tr("Copy for this step"), partial(self._copied, other_side=False))
        self._action(5, 1, tr("As its other side"), partial(self._copied, other_side=True))

    def _copied(self, *, other_side: bool) -> None:
        """The step goes along the copy; why there is none is said."""
        try:
            off = evaluate(self.off.text() or "0", Kind.LENGTH, self.session.job.unit)
            commands.copied(self.session, off, other_side=other_side)
        except (ExpressionError, ValueError) as error:
            self.row.say(str(error))

    def _soft(self, row: int, text: str, column: int = 0) -> None:
        label = Label(text)
        label.setObjectName("soft")
        self.addWidget(label, row, column)

    def _action(self, row: int, column: int, text: str, act: Callable[[], object]) -> None:
        button = self.row.link(text, "")
        button.clicked.connect(lambda: act())
        self.addWidget(button, row, column, 1, 1 if not column else 2)
