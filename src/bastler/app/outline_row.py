"""An outline as a table in the question column: its start, then a line for every segment.

Enter goes from number to number; Space on a segment's word opens what can be done with it.
"""

from __future__ import annotations

from functools import partial
from typing import Any

import msgspec
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from bastler.app.fields import NumberField
from bastler.app.rows import PickButton, Row
from bastler.app.session import Session
from bastler.app.theme import DAY, sans
from bastler.ask import Question, questions_of
from bastler.job import edits
from bastler.shapes import PIECES, Blend, Curve, Edge, Outline, Piece, Slant, Up

WORDS = {"along": "along", "up": "up", "slant": "slant", "curve": "arc", "edge": "edge", "blend": "blend"}
SAYS = {
    "along": "Along the axis",
    "up": "Up or down, square",
    "slant": "Slanted",
    "curve": "Arc",
    "edge": "Edge break",
    "blend": "Radius between two",
}
FIELD = 60


class OutlineRow(Row):
    """The whole outline of a step. Its address is `outline:ID`."""

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.label.hide()
        self.body = QVBoxLayout()
        self.body.setSpacing(3)
        self.column.insertLayout(1, self.body)
        self.fields: dict[str, NumberField] = {}
        self.words: list[PickButton] = []
        self._shape: tuple[Any, ...] = ()
        self._lines: list[QWidget] = []
        self.show_answer()

    @property
    def outline(self) -> Outline | None:
        return self.session.job.outline(self.address.partition(":")[2])

    def given(self) -> tuple[Any, str]:
        return self.outline, ""

    # -- showing --------------------------------------------------------------------------------------------------

    def show_answer(self) -> None:
        outline = self.outline
        if outline is None:
            return
        shape = (self.session.job.unit, tuple(type(p) for p in outline.pieces))
        if shape != self._shape:
            self._shape = shape
            self._build(outline)
        for address, field in self.fields.items():
            struct, name = edits.at(self.session.job, address)
            value = getattr(struct, name)
            field.show_value(value, "", value)

    def refresh(self, trouble: Any) -> None:
        self.show_answer()
        planned = self.session.plan.step(self.session.selected)
        wrong = [t for t in planned.troubles if t.field.startswith("outline.")] if planned else []
        if wrong:
            place = wrong[0].field.split(".")
            number = f"Segment {int(place[2]) + 1}: " if len(place) > 2 and place[2].isdigit() else ""
            self.say(f"{number}{wrong[0].text}")
        else:
            self.say("")

    def _build(self, outline: Outline) -> None:
        focus = self.session.focus if any(f.hasFocus() for f in self.fields.values()) else ""
        for line in self._lines:
            self.body.removeWidget(line)
            line.hide()
            line.deleteLater()
        self._lines, self.fields, self.words = [], {}, []
        first = self._line("0", None, "begins")
        for question in questions_of(Outline):
            self._number(first, question, f"{self.address}.{question.name}", "Ø" if question.name == "d" else "Z")
        for k, piece in enumerate(outline.pieces):
            self._piece(k, piece)
        self._line("+", len(outline.pieces), "segment")
        if focus:
            QTimer.singleShot(0, lambda: self.take_focus_of(focus))

    def _line(self, number: str, at: int | None, word: str) -> QHBoxLayout:
        frame = QFrame()
        frame.setObjectName("segment")
        frame.setStyleSheet(
            f"QFrame#segment {{ background: {DAY.field}; border: 1px solid {DAY.hairline}; border-radius: 3px; }}"
        )
        row = QHBoxLayout(frame)
        row.setContentsMargins(5, 2, 4, 2)
        row.setSpacing(3)
        count = QLabel(number)
        count.setObjectName("soft")
        count.setFixedWidth(14)
        row.addWidget(count)
        if at is None:
            label = QLabel(word)
            label.setFont(sans(13))
            row.addWidget(label, 1)
        else:
            button = PickButton(word)
            button.setObjectName("link")
            button.setStyleSheet("text-align: left;")
            button.setToolTip("Space opens what can be done here")
            button.setAccessibleName(f"Segment {number}")
            button.clicked.connect(partial(self._menu, at))
            button.entered.connect(partial(self._from_word, len(self.words)))
            self.words.append(button)
            row.addWidget(button, 1)
        self.body.addWidget(frame)
        self._lines.append(frame)
        return row

    def _piece(self, k: int, piece: Piece) -> None:
        row = self._line(str(k + 1), k, WORDS[_tag(piece)])
        for question in questions_of(type(piece)):
            address = f"{self.address}.pieces.{k}.{question.name}"
            if question.choices:
                self._choice(row, question, address)
            else:
                self._number(row, question, address, _sign(question.name))

    def _number(self, row: QHBoxLayout, question: Question, address: str, sign: str) -> None:
        mark = QLabel(sign)
        mark.setObjectName("soft")
        row.addWidget(mark)
        field = NumberField(question, self.session.job.unit)
        field.setFixedWidth(FIELD if question.name in ("d", "z") else FIELD - 14)
        field.setProperty("compact", "true")
        field.given.connect(lambda value, typed, a=address: self.session.answer(a, value, typed))
        field.may_be_empty = isinstance(edits.at(self.session.job, address)[0], Slant)
        field.cleared.connect(lambda a=address: self.session.answer(a, None))
        field.wrong.connect(lambda reason: self.say(reason))
        field.focused.connect(lambda on, a=address: self.session.set_focus(a) if on else None)
        field.entered.connect(lambda by, a=address: self._go(a, by))
        self.fields[address] = field
        row.addWidget(field)

    def _choice(self, row: QHBoxLayout, question: Question, address: str) -> None:
        struct, name = edits.at(self.session.job, address)
        words = dict(question.choices)
        button = PickButton(words[getattr(struct, name)].split()[0])
        button.setObjectName("link")
        button.setToolTip(f"{question.says} {words[getattr(struct, name)]}; Space changes it")
        button.clicked.connect(lambda: self._next_choice(question, address, button))
        button.entered.connect(lambda by: self.next.emit(by))
        row.addWidget(button)

    def _next_choice(self, question: Question, address: str, button: PickButton) -> None:
        struct, name = edits.at(self.session.job, address)
        values = [value for value, _ in question.choices]
        value = values[(values.index(getattr(struct, name)) + 1) % len(values)]
        self.session.history.settle()
        self.session.answer(address, value)
        button.setText(dict(question.choices)[value].split()[0])

    # -- changing -------------------------------------------------------------------------------------------------

    def _menu(self, at: int) -> None:
        outline = self.outline
        if outline is None:
            return
        menu = QMenu(self)
        adding = at >= len(outline.pieces)
        for tag, cls in PIECES.items():
            act = partial(self._insert, at, cls) if adding else partial(self._become, at, cls)
            menu.addAction(SAYS[tag], act)
        if not adding:
            menu.addSeparator()
            before = menu.addMenu("Insert before")
            if before is not None:
                for tag, cls in PIECES.items():
                    before.addAction(SAYS[tag], partial(self._insert, at, cls))
            menu.addAction("Remove", partial(self._remove, at))
        button = self.words[at]
        menu.exec(button.mapToGlobal(button.rect().bottomLeft()))

    def _changed(self, pieces: tuple[Piece, ...], says: str) -> None:
        outline = self.outline
        if outline is not None:
            self.session.history.settle()
            fresh = msgspec.structs.replace(outline, pieces=pieces)
            self.session.edit(edits.outline_given(self.session.job, fresh), says)

    def _insert(self, at: int, cls: type[Piece]) -> None:
        outline = self.outline
        if outline is None:
            return
        piece = proposed(outline, at, cls, self.session.job.unit == "mm")
        self._changed((*outline.pieces[:at], piece, *outline.pieces[at:]), "Add a segment")
        first = next((a for a in self.fields if a.startswith(f"{self.address}.pieces.{at}.")), "")
        QTimer.singleShot(0, lambda: self.take_focus_of(first))

    def _become(self, at: int, cls: type[Piece]) -> None:
        outline = self.outline
        if outline is not None:
            piece = proposed(outline, at, cls, self.session.job.unit == "mm")
            self._changed((*outline.pieces[:at], piece, *outline.pieces[at + 1 :]), "Change the segment")

    def _remove(self, at: int) -> None:
        outline = self.outline
        if outline is not None:
            self._changed((*outline.pieces[:at], *outline.pieces[at + 1 :]), "Remove the segment")

    # -- moving about ---------------------------------------------------------------------------------------------

    def _go(self, address: str, by: int) -> None:
        self.session.history.settle()
        order = list(self.fields)
        at = order.index(address) + by
        if 0 <= at < len(order):
            self.fields[order[at]].setFocus(Qt.FocusReason.TabFocusReason)
        elif at >= len(order) and self.words:
            self.words[-1].setFocus(Qt.FocusReason.TabFocusReason)
        else:
            self.next.emit(by)

    def _from_word(self, at: int, by: int) -> None:
        if at == len(self.words) - 1 and by > 0:
            self.next.emit(by)
            return
        addresses = [a for a in self.fields if a.startswith(f"{self.address}.pieces.{at if by > 0 else at - 1}.")]
        if addresses:
            self.fields[addresses[0]].setFocus(Qt.FocusReason.TabFocusReason)
        else:
            self.next.emit(by)

    def take_focus(self) -> None:
        field = next(iter(self.fields.values()), None)
        if field is not None:
            field.setFocus(Qt.FocusReason.TabFocusReason)

    def take_focus_of(self, address: str) -> None:
        """The keyboard goes to one number of the outline."""
        field = self.fields.get(address)
        if field is not None:
            field.setFocus(Qt.FocusReason.TabFocusReason)
            field.selectAll()

    def has_focus(self) -> bool:
        return any(f.hasFocus() for f in self.fields.values()) or any(w.hasFocus() for w in self.words)

    def light(self, lit: bool) -> None:
        """Its numbers light up by themselves."""


def _tag(piece: Piece) -> str:
    return str(piece.__struct_config__.tag)


def _sign(name: str) -> str:
    return {"d": "Ø", "z": "Z", "angle": "∠", "radius": "R", "leg": ""}.get(name, "")


def proposed(outline: Outline, at: int, cls: type[Piece], mm: bool) -> Piece:
    """A segment of that kind that goes on a little from where the outline is."""
    z, d = outline.z, outline.d
    for piece in outline.pieces[:at]:
        z = z if getattr(piece, "z", None) is None else float(getattr(piece, "z", z))
        d = d if getattr(piece, "d", None) is None else float(getattr(piece, "d", d))
    step = 5.0 if mm else 0.2
    grow = -step if outline.inside else step
    if cls is Up:
        return Up(max(d + grow, 0.0))
    if cls is Slant:
        return Slant(d=max(d + grow, 0.0), angle=30.0)
    if cls is Curve:
        return Curve(d=max(d + 2 * step, 0.0), z=z - step, radius=step, bulge="in")
    if cls is Edge:
        return Edge(step / 5)
    if cls is Blend:
        return Blend(step / 5)
    return PIECES["along"](z=z - 2 * step)  # type: ignore[call-arg]
