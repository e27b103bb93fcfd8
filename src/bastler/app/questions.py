"""The question column: the answers of the selected card in words."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from bastler.app.rows import ChoiceRow, NumberRow, PickRow, PointsRow, Row, TextRow
from bastler.app.session import SETUP, Session
from bastler.app.theme import DAY
from bastler.ask import Question, Trouble, questions_of
from bastler.job import edits
from bastler.shapes import Pattern
from bastler.steps import STEPS, Step

WIDTH = 342
SETUP_GROUPS = ("Machine", "Stock", "Zero", "Holding", "Heights", "On the table")


class QuestionColumn(QWidget):
    """Title, then the groups of questions. Rebuilt when other questions are asked, else only refreshed."""

    wants_tool = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.setFixedWidth(WIDTH)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._shape: tuple[Any, ...] = ()
        self.rows: dict[str, Row] = {}
        self._notes: list[tuple[str, QLabel]] = []
        self.title = QLineEdit()
        self.title.setObjectName("title")
        self.title.setMaxLength(60)
        self.title.setAccessibleName("Name")
        self.title.textEdited.connect(self._renamed)
        self.switch = QPushButton()
        self.switch.setObjectName("link")
        self.switch.clicked.connect(self._switched)
        top = QHBoxLayout()
        top.setContentsMargins(12, 12, 18, 0)
        top.addWidget(self.title, 1)
        top.addWidget(self.switch)
        self.area = QScrollArea()
        self.area.setObjectName("panel")
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(4)
        whole.addLayout(top)
        whole.addWidget(self.area, 1)
        session.job_changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        session.focus_changed.connect(self._light)

    # -- what is asked ------------------------------------------------------------------------------------------

    def _step(self) -> Step | None:
        return self.session.job.step(self.session.selected)

    def _pattern(self) -> Pattern | None:
        return self.session.job.pattern(getattr(self._step(), "pattern", ""))

    def _asked(self) -> list[tuple[str, Question, str]]:
        """(group, question, address) of everything that is asked now, in order."""
        session = self.session
        if session.selected == SETUP:
            setup = session.plan.setup
            found = [("Machine", q, f"job.{q.name}") for q in questions_of(type(session.job))]
            found += [(q.group, q, f"setup.{q.name}") for q in questions_of(type(setup)) if q.asked(setup)]
            return sorted(found, key=lambda entry: SETUP_GROUPS.index(entry[0]))
        planned = session.plan.step(session.selected)
        if planned is None:
            return []
        step = planned.filled
        found = [(q.group, q, f"step:{step.id}.{q.name}") for q in questions_of(type(step)) if q.asked(step)]
        groups = type(step).groups
        found.sort(key=lambda entry: (groups.index(entry[0]), _rank(entry[1])))
        pattern = self._pattern()
        if pattern is not None:
            place = next((k for k, (_, q, _) in enumerate(found) if q.picks == "pattern"), 0) + 1
            own = [(q.group, q, f"pattern:{pattern.id}.{q.name}") for q in questions_of(type(pattern)) if q.name != "left_out"]
            own += [(q.group, q, f"pattern:{pattern.id}.{q.name}") for q in questions_of(type(pattern)) if q.name == "left_out"]
            found[place:place] = own
        return found

    # -- showing ------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Shows the selected card; keeps the field that is being typed in."""
        asked = self._asked()
        notes = self._says()
        shape = (
            self.session.selected,
            self.session.job.unit,
            tuple((a, q.says) for _, q, a in asked),
            tuple(g for g, _ in notes),
        )
        if shape != self._shape:
            self._shape = shape
            self._build(asked, [g for g, _ in notes])
        self._show_title()
        troubles = self._troubles()
        for address, row in self.rows.items():
            row.refresh(troubles.get(address))
        for (_, label), (_, text) in zip(self._notes, notes, strict=False):
            label.setText(text)

    def _show_title(self) -> None:
        session = self.session
        step = self._step()
        name = session.job.name
        if step is not None:
            name = step.name or STEPS[str(step.__struct_config__.tag)].title
        if not self.title.hasFocus():
            self.title.setText(name)
            self.title.setCursorPosition(0)
        self.switch.setVisible(step is not None)
        on = step is None or step.on
        self.switch.setText("on  ●" if on else "off  ○")
        self.switch.setToolTip("Switch the step on or off (Ctrl+E)")
        self.switch.setStyleSheet(f"color: {DAY.good if on else DAY.soft}; text-decoration: none;")

    def _says(self) -> list[tuple[str, str]]:
        planned = self.session.plan.step(self.session.selected)
        if planned is None or planned.troubles or not planned.step.on:
            return []
        return planned.filled.says(planned.ctx)

    def _troubles(self) -> dict[str, Trouble]:
        session = self.session
        if session.selected == SETUP:
            return {f"setup.{t.field}": t for t in session.plan.troubles}
        planned = session.plan.step(session.selected)
        return {session.address_of(t.field): t for t in planned.troubles} if planned else {}

    def _build(self, asked: Sequence[tuple[str, Question, str]], note_groups: Sequence[str]) -> None:
        focus = self.session.focus
        had_focus = any(row.has_focus() for row in self.rows.values())
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(18, 0, 18, 14)
        column.setSpacing(3)
        self.rows, self._notes = {}, []
        groups = list(dict.fromkeys(group for group, _, _ in asked))
        for group in groups:
            label = QLabel(group.upper())
            label.setObjectName("group")
            label.setIndent(0)
            column.addWidget(label)
            for own, question, address in asked:
                if own == group:
                    row = self._row(question, address)
                    self.rows[address] = row
                    column.addWidget(row)
            for note_group in note_groups:
                if note_group == group:
                    note = QLabel()
                    note.setObjectName("soft")
                    note.setWordWrap(True)
                    column.addWidget(note)
                    self._notes.append((group, note))
        column.addStretch(1)
        order = {group: k for k, group in enumerate(groups)}
        self._notes.sort(key=lambda entry: note_groups.index(entry[0]) if entry[0] in note_groups else order[entry[0]])
        self.area.setWidget(body)
        if had_focus and focus in self.rows:
            self.rows[focus].take_focus()

    def _row(self, question: Question, address: str) -> Row:
        made: Row
        if question.picks in ("positions", ""):
            if question.choices:
                made = ChoiceRow(self.session, question, address)
            elif question.kind is None:
                made = TextRow(self.session, question, address)
            else:
                made = NumberRow(self.session, question, address)
        elif question.picks == "points":
            made = PointsRow(self.session, question, address)
        else:
            made = PickRow(self.session, question, address)
            made.opened.connect(self.wants_tool)
        made.next.connect(lambda by, a=address: self._go(a, by))
        return made

    # -- moving about ---------------------------------------------------------------------------------------------

    def _go(self, address: str, by: int) -> None:
        order = list(self.rows)
        at = order.index(address) + by
        if 0 <= at < len(order):
            self.rows[order[at]].take_focus()

    def take_focus(self, address: str = "") -> None:
        """The keyboard goes to a question, to the first one when none is named."""
        row = self.rows.get(address) or next(iter(self.rows.values()), None)
        if row is not None:
            row.take_focus()

    def _light(self) -> None:
        for address, row in self.rows.items():
            lit = address == self.session.focus
            row.light(lit)
            if lit:
                self.area.ensureWidgetVisible(row, 0, 40)

    def _renamed(self, text: str) -> None:
        step = self._step()
        address = f"step:{step.id}.name" if step else "job.name"
        self.session.answer(address, text.strip())

    def _switched(self) -> None:
        step = self._step()
        if step is not None:
            self.session.edit(edits.step_switched(self.session.job, step.id), "Switch the step on or off")


def _rank(question: Question) -> int:
    """Within a group: what is picked first, then how the cut is made, then the speeds it leads to."""
    if question.picks:
        return 0
    return {"ap": 1, "ae": 1, "fz": 3, "vc": 2, "n": 4, "vf": 5}.get(question.symbol, 1)
