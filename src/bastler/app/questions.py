"""The question column: the answers of the selected card in words."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

import msgspec
from PyQt6.QtCore import QEvent, QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from bastler.app.fields import WordField
from bastler.app.form_column import BODY, WIDTH
from bastler.app.labels import Label
from bastler.app.outline_row import OutlineRow
from bastler.app.panels import group_head, panel_area
from bastler.app.row_making import make_row
from bastler.app.rows import Row
from bastler.app.session import STOCK, Session, is_step
from bastler.app.theme import ROLES, dress
from bastler.ask import Question, Trouble, questions_of
from bastler.job import edits
from bastler.job.chuck import ChuckHolding, said_of
from bastler.language import tr
from bastler.steps import Step
from bastler.steps.cut import PLACE, CuttingStep
from bastler.steps.place import Where, on_part

PICKED_FIRST = ("tool", "pattern", "outline")
"""What stands first in its group."""
PATTERN_LAST = {"left_out": 1, "order": 2, "name": 3}
"""What is asked of a pattern behind where it is."""


@dataclass(frozen=True)
class Asked:
    """A question of the card: the group it stands in, its address, and whether it is asked now."""

    group: str
    question: Question
    address: str
    now: bool


CARD_GROUPS = (
    "Machine",
    "Stock",
    "Length",
    "Holding",
    "Zero",
    "Parts",
    "Chuck",
    "Left for finishing",
    "Order",
    "Heights",
    "Ways",
    "On the table",
    "On the machine",
)


MOST_PAGES = 16
"""Cards whose rows are kept; those of the one that was not looked at for longest go."""
QUIET = 600
"""Milliseconds without a change after which the rows of other cards are made, one at a time."""


@dataclass(eq=False)
class Page:
    """The rows of a card, by address, and its groups with their heads and notes, in a widget."""

    body: QWidget
    rows: dict[str, Row] = field(default_factory=dict)
    groups: dict[str, tuple[Label, QFrame, Label]] = field(default_factory=dict)


Shape = tuple[Any, ...]
"""What makes two cards need rows of their own."""


class QuestionColumn(QWidget):
    """Title, then the groups of questions. The rows of a card are made once, when nothing else is to be done or it is looked at
    first, and kept; else they are only refreshed."""

    wants_tool = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.setAccessibleName(tr("Questions of the card"))
        self.setFixedWidth(WIDTH)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._shape: Shape = ()
        self.bodies = QWidget()
        """All pages, of which one is seen: to take a widget out of a window and put it back is to dress all of it anew."""
        self.bodies.setMaximumWidth(BODY)
        whole = QVBoxLayout(self.bodies)
        whole.setContentsMargins(0, 0, 0, 0)
        self._page = self._empty()
        self._pages: OrderedDict[Shape, Page] = OrderedDict()
        self._to_make: Iterator[None] | None = None
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.timeout.connect(self._prepare)
        self.title = WordField()
        self.title.setObjectName("title")
        self.title.setMaxLength(60)
        self.title.setAccessibleName(tr("Name"))
        self.title.textEdited.connect(self._renamed)
        self.title.entered.connect(lambda _: self.take_focus())
        self.switch = QPushButton()
        self.switch.setObjectName("link")
        self.switch.clicked.connect(self._switched)
        top = QHBoxLayout()
        top.setContentsMargins(12, 12, 18, 0)
        top.addWidget(self.title, 1)
        top.addWidget(self.switch)
        self.area = panel_area()
        self.area.setWidget(self.bodies)
        viewport = self.area.viewport()
        if viewport is not None:
            viewport.installEventFilter(self)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(4)
        whole.addLayout(top)
        whole.addWidget(self.area, 1)
        session.job_changed.connect(self.refresh)
        session.plan_changed.connect(self.refresh)
        session.look_changed.connect(self._say)
        session.selection_changed.connect(self.refresh)
        session.focus_changed.connect(self._light)

    def make_anew(self) -> None:
        """All rows are made again: the ones there are have another look."""
        self._shape, self._page = (), self._empty()
        while self._pages:
            self._drop()

    # -- what is asked ------------------------------------------------------------------------------------------

    def _step(self) -> Step | None:
        return self.session.job.step(self.session.selected)

    def _filled(self, card: str) -> Step | None:
        """A step with its answers worked out; as it is in the job where that is still to come."""
        own, planned = self.session.job.step(card), self.session.plan.step(card)
        return planned.filled if planned is not None and type(planned.filled) is type(own) else own

    def asked_of(self, card: str) -> list[Asked]:
        """All questions of a card, in order, each with whether it is asked now."""
        session = self.session
        if not is_step(card):
            ident = edits.held_at(card)
            held = session.plan.holding(ident) if session.shown else None
            own: Any = session.job.holding_of(ident) if held is None else held.holding
            if card == STOCK:
                own = session.job.stock if held is None else held.stock
            of_job = questions_of(type(session.job)) if card == STOCK else ()
            found = [Asked("Machine", q, f"job.{q.name}", True) for q in of_job]
            said = questions_of(own.__class__)
            if isinstance(own, ChuckHolding):
                said = tuple(said_of(q, session.job.card) for q in said)
            found += [Asked(q.group, q, f"{card}.{q.name}", _is_asked(q, own)) for q in said]
            return sorted(found, key=lambda entry: CARD_GROUPS.index(entry.group))
        step = self._filled(card)
        if step is None:
            return []
        fixed = step.FIXED if isinstance(step, CuttingStep) else frozenset()
        every = [q for q in questions_of(type(step)) if q.name not in fixed and (session.job.turns or not q.chucked)]
        found = [Asked(q.group, q, f"step:{step.id}.{q.name}", _is_asked(q, step)) for q in every]
        groups = type(step).all_groups()
        found.sort(key=lambda entry: (groups.index(entry.group), entry.question.late, _rank(entry.question)))
        own = session.job.step(card) or step  # what it picks is as it is now
        found = self._with_pattern(own, self._with_outline(own, found))
        where = _where(own)
        if not isinstance(step, CuttingStep) or where == "end":
            return found
        found = [replace(entry, now=False) if entry.question.name in step.derived else entry for entry in found]
        return [replace(e, question=_said_on_part(e.question, where)) if e.question.group != PLACE else e for e in found]

    def _with_outline(self, step: Step, found: list[Asked]) -> list[Asked]:
        """The table of the outline goes right behind the question that picks it."""
        place = next((k for k, entry in enumerate(found) if entry.question.picks == "outline"), None)
        ident = getattr(step, "outline", "")
        if place is None or self.session.job.outline(ident) is None:
            return found
        picked = found[place]
        table = Question(name="table", says=tr("Outline"), picks="table")
        return [*found[: place + 1], Asked(picked.group, table, f"outline:{ident}", picked.now), *found[place + 1 :]]

    def _with_pattern(self, step: Step, found: list[Asked]) -> list[Asked]:
        """The pattern's own questions go right behind the one that picks it, what is left out last."""
        pattern = self.session.job.pattern(getattr(step, "pattern", ""))
        if pattern is None:
            return found
        every = questions_of(type(pattern))
        own = [Asked(q.group, q, f"pattern:{pattern.id}.{q.name}", q.asked(pattern)) for q in every]
        own.sort(key=lambda entry: PATTERN_LAST.get(entry.question.name, 0))
        place = next((k for k, entry in enumerate(found) if entry.question.picks == "pattern"), 0) + 1
        return found[:place] + own + found[place:]

    @property
    def rows(self) -> dict[str, Row]:
        """The rows of what is asked now, by address."""
        return {address: row for address, row in self._page.rows.items() if not row.isHidden()}

    # -- showing ------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Shows the selected card. Rows come and go with what is asked; only another card builds them anew."""
        asked = self.asked_of(self.session.selected)
        shape = self._shape_of(self.session.selected, asked)
        if shape != self._shape:
            self._shape = shape
            self._turn_to(shape, asked)
            self._show_title()
        elif not self.title.hasFocus():
            self._show_title()
        troubles = self._troubles()
        for entry in asked:
            row = self._page.rows[entry.address]
            row.setVisible(entry.now)
            if entry.now:
                row.refresh(troubles.get(entry.address))
        for group, (label, line, _) in self._page.groups.items():
            for part in (label, line):
                part.setVisible(any(entry.now for entry in asked if entry.group == group))
        self._say()
        self._page.body.show()  # when all is in its place
        self._to_make = None
        self._quiet.start(QUIET)

    def _shape_of(self, card: str, asked: Sequence[Asked]) -> Shape:
        of = self.session.job.step(card)
        kind = type(of) if of is not None else type(self.session.job.stock)
        return (card, self.session.job.unit, kind, _where(of), tuple((entry.address, entry.question.says) for entry in asked))

    def _say(self) -> None:
        """What is said of the groups, and where the computed answer in focus comes from."""
        look = self.session.look
        if look is None or look.card != self.session.selected:
            return
        for group, (_, _, note) in self._page.groups.items():
            text = "\n".join(said for own, said in look.says if own == group)
            text = on_part(text, _where(self._step()))
            if note.text() != text:
                note.setText(text)
            note.setVisible(bool(text))
        focus = self.session.focus
        if focus in self._page.rows:
            self._page.rows[focus].light(True, self._source(focus))

    def _show_title(self) -> None:
        session = self.session
        step = self._step()
        name = session.job.name
        if step is not None:
            name = step.title
        elif session.selected != STOCK:
            name = session.job.holding_of(session.held_id).titled(session.job.card)
        self.title.setText(name)
        self.title.setCursorPosition(0)
        self.switch.setVisible(step is not None)
        on = step is None or step.on
        self.switch.setText(tr("on  ●") if on else tr("off  ○"))
        self.switch.setToolTip(tr("Switch the step on or off (Ctrl+E)"))
        dress(self.switch, f"color: {ROLES.good if on else ROLES.soft}; text-decoration: none;")

    def _troubles(self) -> dict[str, Trouble]:
        session = self.session
        if not session.on_step:
            return {t.field: t for t in session.plan.troubles}
        planned = session.plan.step(session.selected)
        return {session.address_of(t.field): t for t in planned.troubles} if planned else {}

    def _turn_to(self, shape: Shape, asked: Sequence[Asked]) -> None:
        """Shows the rows of another card."""
        had_focus = any(row.has_focus() for row in self._page.rows.values())
        if had_focus:
            self.setFocus()  # else Qt hands the keyboard on to the name when the row goes
        page = self._pages.get(shape)
        if page is None:
            page = self._empty()
            for _ in self._making(page, asked):
                pass
        old, self._page = self._page, page
        self._keep(shape, page)
        old.body.hide()
        if old not in self._pages.values():
            old.body.deleteLater()
        bar = self.area.verticalScrollBar()
        if bar is not None:
            bar.setValue(0)
        if had_focus:
            QTimer.singleShot(0, lambda: self.take_focus(self.session.focus))

    def _empty(self) -> Page:
        """A page without rows, not seen yet."""
        body = QWidget(self.bodies)
        body.hide()
        layout = self.bodies.layout()
        assert layout is not None
        layout.addWidget(body)
        return Page(body)

    def _making(self, page: Page, asked: Sequence[Asked]) -> Iterator[None]:
        """Makes the rows of a page, one at a time."""
        column = QVBoxLayout(page.body)
        column.setContentsMargins(18, 0, 6, 14)
        column.setSpacing(3)
        page.body.installEventFilter(self)
        for group in dict.fromkeys(entry.group for entry in asked):
            (label, line), note = group_head(group), Label()
            note.setObjectName("soft")
            note.setWordWrap(True)
            column.addWidget(label)
            column.addWidget(line)
            for entry in asked:
                if entry.group == group:
                    row = page.rows[entry.address] = self._row(entry.question, entry.address)
                    column.addWidget(row)
                    for part in (row, *row.findChildren(QWidget)):
                        part.ensurePolished()  # dressed now, and not all at once when the page is shown
                    yield
            column.addWidget(note)
            page.groups[group] = (label, line, note)
        column.addStretch(1)

    def _keep(self, shape: Shape, page: Page) -> None:
        self._pages[shape] = page
        self._pages.move_to_end(shape)
        while len(self._pages) > MOST_PAGES:
            self._drop()

    def _drop(self) -> None:
        """The page that was not looked at for longest goes; later, as a row that was typed into may still be on the stack."""
        _, old = self._pages.popitem(last=False)
        old.body.hide()
        old.body.deleteLater()

    def _prepare(self) -> None:
        """Makes the rows of the cards that were not looked at yet, a row whenever nothing else is to be done."""
        if self._to_make is None:
            self._to_make = self._others()
        if next(self._to_make, self) is None:
            self._quiet.start(0)

    def _others(self) -> Iterator[None]:
        cards = self.session.cards() if self.session.shown else []
        at = cards.index(self.session.selected) if self.session.selected in cards else 0
        for card in sorted(cards, key=lambda c: abs(cards.index(c) - at))[: MOST_PAGES - 1]:
            asked = self.asked_of(card)
            shape = self._shape_of(card, asked)
            if shape not in self._pages:
                page = self._empty()
                try:
                    yield from self._making(page, asked)
                except GeneratorExit:  # the job has changed meanwhile
                    page.body.deleteLater()
                    raise
                self._keep(shape, page)

    def _row(self, question: Question, address: str) -> Row:
        made = make_row(self.session, question, address)
        made.opened.connect(self.wants_tool)
        made.next.connect(partial(self._go, address))
        return made

    # -- moving about ---------------------------------------------------------------------------------------------

    def _go(self, address: str, by: int) -> None:
        order = list(self.rows)
        at = order.index(address) + by
        if 0 <= at < len(order):
            self.rows[order[at]].take_focus()
        elif by > 0 and self.session.selected == STOCK:  # what it is, then how it is held
            self.session.select_by(1)
            self.take_focus()

    def take_focus(self, address: str = "") -> None:
        """The keyboard goes to a question, to the first one when none is named."""
        table = self.rows.get(address.partition(".")[0]) if address.startswith("outline:") else None
        if isinstance(table, OutlineRow) and "." in address:
            table.take_focus_of(address)
            return
        row = self.rows.get(address) or next(iter(self.rows.values()), None)
        if row is not None:
            row.take_focus()

    def show_more(self) -> None:
        """All that can be given of the open segment of an outline."""
        for row in self.rows.values():
            if isinstance(row, OutlineRow):
                row.show_more()

    def _light(self) -> None:
        for address, row in self._page.rows.items():
            lit = address == self.session.focus
            row.light(lit, self._source(address) if lit else "")
        self.show_focus()

    def _source(self, address: str) -> str:
        """Where the value of a step's answer comes from, when it was worked out."""
        look = self.session.look
        if look is None or address.rpartition(".")[0] != f"step:{look.card}":
            return ""
        return look.sources.get(address.rpartition(".")[2], "")

    def row_of(self, address: str) -> Row | None:
        """The row an answer stands in; those of an outline all stand in its own."""
        return self._page.rows.get(address) or self._page.rows.get(address.partition(".")[0])

    def show_focus(self) -> None:
        """Brings the question in focus into view."""
        row = self.row_of(self.session.focus)
        if row is not None and not row.isHidden():
            self.area.ensureWidgetVisible(row, 0, 40)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Rows grow and the number pad takes room: the question in focus stays in view."""
        if event is not None and event.type() == QEvent.Type.Resize:
            QTimer.singleShot(0, self.show_focus)
        return super().eventFilter(watched, event)

    def _renamed(self, text: str) -> None:
        step = self._step()
        card = "job" if self.session.selected == STOCK else self.session.selected
        address = f"step:{step.id}.name" if step else f"{card}.name"
        self.session.answer(address, text.strip())

    def _switched(self) -> None:
        step = self._step()
        if step is not None:
            self.session.edit(edits.step_switched(self.session.job, step.id), tr("Switch the step on or off"))


def _said_on_part(question: Question, where: Where) -> Question:
    """A question in the words of where the plan lies."""
    return msgspec.structs.replace(question, says=on_part(question.says, where), helps=on_part(question.helps, where))


def _where(step: Any) -> Where:
    """Where on a turned part it is."""
    return step.where_on if isinstance(step, CuttingStep) else "end"


def _is_asked(question: Question, struct: Any) -> bool:
    """Is it asked now? While answers that this depends on are still being worked out, it is."""
    try:
        return question.asked(struct)
    except TypeError:
        return True


def _rank(question: Question) -> int:
    """Within a group: what is picked first, then how the cut is made, then the speeds it leads to."""
    if question.picks in PICKED_FIRST:
        return 0
    return {"ap": 1, "ae": 1, "fz": 3, "vc": 2, "n": 4, "vf": 5}.get(question.symbol, 1)
