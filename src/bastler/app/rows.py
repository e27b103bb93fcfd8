"""One row of the question column for each manner of answer."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QMenu,
    QPushButton,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from bastler.app.fields import NumberField, OnTheWay, WordField
from bastler.app.labels import Label, Marked, escape
from bastler.app.session import Session
from bastler.app.theme import ROLES, repolish
from bastler.ask import Question, Trouble, limits_in_words
from bastler.cutting.materials import said_material
from bastler.job import answering, edits
from bastler.job.crib_edits import edge_taken
from bastler.job.family import filled_in, known
from bastler.language import apart, as_inside, decimal, pointed, tr
from bastler.machines.card import said_of_machine
from bastler.shapes import TurnedOutline
from bastler.tools.naming import said_name
from bastler.units import Kind, Unit, number_text, whole_number
from bastler.units.kinds import suffix

FIELD_WIDTH = 98
UNIT_WIDTH = 50
WIDEST, AROUND = 156, 26
"""A field grows up to this for what is long, as a size with its tolerance; what stands around the text in it."""


class Row(QWidget):
    """A question with its answer, the reason when it is wrong, and what helps while it is in focus."""

    next = pyqtSignal(int)
    opened = pyqtSignal(str)

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__()
        self.session, self.question, self.address = session, question, address
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(3)
        self.line = QHBoxLayout()
        self.line.setSpacing(8)
        self.label = Marked(escape(question.says))
        self.label.setWordWrap(True)
        self.line.addWidget(self.label, 1)
        self.column.addLayout(self.line)
        self.helps = Label(question.helps)
        self.helps.setObjectName("helps")
        self.helps.setWordWrap(True)
        self.helps.hide()
        self.why = Label()
        self.why.setObjectName("why")
        self.why.setWordWrap(True)
        self.fix = QPushButton()
        self.fix.setObjectName("link")
        self.fix.clicked.connect(self._fix)
        trouble = QHBoxLayout()
        trouble.addWidget(self.why, 1)
        trouble.addWidget(self.fix)
        self.column.addLayout(trouble)
        self.column.addWidget(self.helps)
        self.trouble: Trouble | None = None
        self.does: QPushButton | None = None
        """Asks what the answer does, once the question was in focus."""
        self.say("")

    # the struct as the job has it, and as it is with everything worked out

    def given(self) -> tuple[Any, str]:
        """The answer in the job and what was typed for it."""
        struct, field = answering.at(self.session.job, self.address)
        named = answering.named_text(self.session.job, self.address)
        return getattr(struct, field), named or getattr(struct, "typed", {}).get(field, "")

    @property
    def unit(self) -> Unit:
        """The unit of the answer's owner: a tool keeps its own."""
        if self.address.partition(":")[0] not in answering.CRIB:
            return self.session.job.unit
        found: Unit = getattr(answering.at(self.session.job, self.address)[0], "unit", self.session.job.unit)
        return found

    def computed(self) -> Any:
        """The answer as filled in."""
        field = self.address.rpartition(".")[2]
        given = self.given()[0]
        if given is not None or not self.session.shown:
            return given
        if self.address.startswith("stock."):
            return getattr(self.session.held.stock, field)
        if self.address.startswith("holding:"):
            return getattr(self.session.held.holding, field)
        planned = self.session.plan.step(self.session.selected)
        if planned is not None and self.address.startswith("step:"):
            return getattr(planned.filled, field)
        return given

    def refresh(self, trouble: Trouble | None) -> None:
        self.trouble = trouble
        self.show_answer()
        if not self.reason():
            self.say(trouble.text if trouble else "", trouble.fits if trouble else None)

    def show_answer(self) -> None:
        raise NotImplementedError

    def reason(self) -> str:
        """Why what stands in the field now cannot be an answer."""
        return ""

    def say(self, text: str, fits: Any = None) -> None:
        """Puts a reason beside the answer, with a value that would do."""
        self.why.setText(text)
        self.why.setVisible(bool(text))
        self.fix.setVisible(bool(text) and fits is not None)
        if fits is not None:
            self.fix.setText(tr("Use {fit_text}", fit_text=self._fit_text(fits)))

    def _fit_text(self, fits: Any) -> str:
        if isinstance(fits, int | float):
            return number_text(float(fits), self.question.kind or Kind.LENGTH, self.unit)
        tool = next((t for t in self.session.held.tools if t.id == fits), None)
        return tool.says if tool else as_inside(dict(self.question.choices).get(fits, str(fits)))

    def _fix(self) -> None:
        if self.trouble is not None and self.trouble.fits is not None:
            self.session.history.settle()
            self.session.answer(self.address, self.trouble.fits)

    def light(self, lit: bool, source: str = "") -> None:
        """Marks the question in focus; it then says what helps, and where a computed value comes from."""
        computed = lit and bool(source) and self.given()[0] is None
        struct, field = answering.at(self.session.job, self.address)
        words = [self.question.helps, source if computed else "", limits_in_words(struct, field, self.unit)]
        self.helps.setText("\n".join(word for word in words if word))
        self.label.setObjectName("lit" if lit else "")
        repolish(self.label)
        self.helps.setVisible(lit and bool(self.helps.text()))
        self._offer(lit=lit)

    def _offer(self, *, lit: bool) -> None:
        """A way to what the answer does, made when it is first seen: most rows never are in focus."""
        if self.does is None and lit:
            self.does = QPushButton(tr("What it does  F1"))
            self.does.setObjectName("link")
            self.does.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self.does.setToolTip(tr("Explains the question, with a picture that moves"))
            self.does.clicked.connect(self.session.explanation_wanted)
            self.column.addWidget(self.does, 0, Qt.AlignmentFlag.AlignRight)
        if self.does is not None:
            self.does.setVisible(lit)

    def focus_in(self) -> None:
        self.session.set_focus(self.address)

    def take_focus(self) -> None:
        raise NotImplementedError

    def has_focus(self) -> bool:
        return False


class NumberRow(Row):
    """A number with its unit beside it."""

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        unit = self.unit
        self.field = NumberField(question, unit)
        self.field.named = lambda: known(session.job, self.field.kind, unit)
        self.field.setFixedWidth(FIELD_WIDTH)
        self.field.textChanged.connect(self._widen)
        self.line.addWidget(self.field)
        after = Label(suffix(question.kind or Kind.LENGTH, unit))
        after.setObjectName("soft")
        after.setFixedWidth(UNIT_WIDTH)
        self.line.addWidget(after)
        if question.symbol:
            self.label.setText(f"{escape(question.says)}  <span style='color:{ROLES.soft}'><i>{question.symbol}</i></span>")
        self.field.given.connect(lambda value, typed: session.answer(address, value, typed))
        self.field.cleared.connect(lambda: session.answer(address, None))
        self.field.wrong.connect(self._wrong)
        self.field.focused.connect(lambda on: self.focus_in() if on else None)
        self.field.entered.connect(self._entered)
        self.field.dropped.connect(self._dropped)

    def _widen(self, text: str) -> None:
        """As wide as what stands in it, within bounds."""
        wide = self.field.fontMetrics().horizontalAdvance(text) + AROUND
        self.field.setFixedWidth(min(max(wide, FIELD_WIDTH), WIDEST))

    def show_answer(self) -> None:
        value, typed = self.given()
        self.field.show_value(value, typed, self.computed())

    def reason(self) -> str:
        return self.field.reason

    def _wrong(self, reason: str) -> None:
        if reason:
            self.say(reason)
        else:
            self.say(self.trouble.text if self.trouble else "", self.trouble.fits if self.trouble else None)

    def _entered(self, by: int) -> None:
        if not self.field.reason:
            self.session.history.settle()
            self.next.emit(by)

    def _dropped(self) -> None:
        self.show_answer()
        self.field.selectAll()

    def take_focus(self) -> None:
        self.field.setFocus(Qt.FocusReason.TabFocusReason)

    def has_focus(self) -> bool:
        return self.field.hasFocus()


class PickButton(OnTheWay, QPushButton):
    """A button on the way of the questions: Enter goes on, Space presses."""

    entered = pyqtSignal(int)
    focused = pyqtSignal()


class _Slide(OnTheWay, QSlider):
    """A slider on the way of the questions."""

    entered = pyqtSignal(int)
    focused = pyqtSignal()


class SliderRow(Row):
    """A number between two words."""

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.slide = _Slide(Qt.Orientation.Horizontal)
        self.slide.setRange(round(question.least or 0), round(question.most or 100))
        self.slide.setPageStep(10)
        self.slide.setSingleStep(5)
        self.slide.setMinimumHeight(28)
        self.slide.setAccessibleName(question.says)
        low, high = question.ends or ("", "")
        below = QHBoxLayout()
        for part in (Label(low), self.slide, Label(high)):
            below.addWidget(part, 1 if part is self.slide else 0)
            if part is not self.slide:
                part.setObjectName("soft")
        self.column.insertLayout(1, below)
        self.slide.valueChanged.connect(lambda value: session.answer(address, float(value)))
        self.slide.sliderReleased.connect(session.history.settle)
        self.slide.entered.connect(self.next)
        self.slide.focused.connect(self.focus_in)

    def show_answer(self) -> None:
        with QSignalBlocker(self.slide):
            self.slide.setValue(round(float(self.given()[0])))

    def take_focus(self) -> None:
        self.slide.setFocus(Qt.FocusReason.TabFocusReason)

    def has_focus(self) -> bool:
        return self.slide.hasFocus()


class ChoiceButton(PickButton):
    """One word of a choice; arrows go to the next."""

    went = pyqtSignal(int)

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.setObjectName("choice")
        self.setCheckable(True)
        self.setAutoDefault(False)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.went.emit(1 if event.key() == Qt.Key.Key_Right else -1)
            return
        super().keyPressEvent(event)


class ChoiceRow(Row):
    """A few words to choose from; long ones go below the question, or what is `always_below` it, over all its width."""

    always_below = False

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.buttons: dict[Any, ChoiceButton] = {}
        words = sum(len(text) for _, text in question.choices) + 3 * len(question.choices)
        below = self.always_below or len(question.says) * 0.8 + words > 34
        lines = [QHBoxLayout()]
        width = 0
        for value, text in question.choices:
            button = self.make_button(value, text)
            if width + len(text) + 3 > 40:
                lines.append(QHBoxLayout())
                width = 0
            width += len(text) + 3
            lines[-1].addWidget(button)
            button.clicked.connect(lambda _, v=value: self._chosen(v))
            button.went.connect(self._went)
            button.entered.connect(self.next)
            button.focused.connect(self.focus_in)
            self.buttons[value] = button
        for k, line in enumerate(lines):
            line.setSpacing(8)
            if below:
                if not self.always_below:
                    line.addStretch(1)
                self.column.insertLayout(1 + k, line)
            else:
                self.line.addLayout(line)

    def make_button(self, value: object, text: str) -> ChoiceButton:
        """The button of a choice."""
        return ChoiceButton(text)

    def show_answer(self) -> None:
        value, computed = self.given()[0], self.computed()
        for name, button in self.buttons.items():
            button.setChecked(name == computed)
            button.setProperty("computed", "true" if value is None else "false")
            button.setFocusPolicy(Qt.FocusPolicy.StrongFocus if name == computed else Qt.FocusPolicy.ClickFocus)
            repolish(button)

    def _chosen(self, value: Any) -> None:
        self.session.history.settle()
        self.session.answer(self.address, value)
        self.show_answer()

    def _went(self, by: int) -> None:
        names = list(self.buttons)
        at = names.index(self.computed()) if self.computed() in self.buttons else 0
        value = names[(at + by) % len(names)]
        self.session.answer(self.address, value)
        if value in self.buttons:
            self.buttons[value].setFocus(Qt.FocusReason.TabFocusReason)

    def take_focus(self) -> None:
        button = self.buttons.get(self.computed()) or next(iter(self.buttons.values()))
        button.setFocus(Qt.FocusReason.TabFocusReason)

    def has_focus(self) -> bool:
        return any(button.hasFocus() for button in self.buttons.values())


class PickRow(Row):
    """A tool, a pattern, a material or a machine, with a menu to change it."""

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.button = PickButton(tr("change"))
        self.button.setObjectName("link")
        self.button.setToolTip(tr("Space opens the list"))
        self.button.clicked.connect(self._open)
        self.button.entered.connect(self.next)
        self.button.focused.connect(self.focus_in)
        self.line.addWidget(self.button)

    def show_answer(self) -> None:
        value, computed = self.given()[0], self.computed()
        if self.question.picks == "edge":
            computed = f"{self.question.says}: {tr('drawn, {pieces} pieces', pieces=len(value) - 1) if value else tr('straight')}"
        text = self._name(str(computed)) if computed else tr("{says}: none fits", says=self.question.says)
        self.label.setText(f"<i>{text}</i>" if value is None else text)

    def _name(self, ident: str) -> str:
        """What is picked, as mark-up."""
        what, job = self.question.picks, self.session.job
        if what == "edge":
            return escape(ident)
        if what == "tool":
            planned = self.session.plan.step(self.session.selected) if self.session.shown else None
            used = planned.tools if planned is not None else ()  # in the station that the step has it in
            tool = next((t for t in (*used, *job.tools) if t.id == ident), None)
            return escape(f"T{tool.station} {tool.called}" if tool else ident)
        if what == "pattern":
            pattern = job.pattern(ident)
            users = sum(1 for s in job.steps if getattr(s, "pattern", None) == ident)
            shared = f"  <span style='color:{ROLES.soft}'>{tr('used by {users} steps', users=users)}</span>" if users > 1 else ""
            return tr("“{name}”", name=escape(pattern.name)) + shared if pattern else tr("Pick where the holes are")
        if what == "outline":
            outline = job.outline(ident)
            users = sum(1 for s in job.steps if getattr(s, "outline", None) == ident)
            shared = f"  <span style='color:{ROLES.soft}'>{tr('used by {users} steps', users=users)}</span>" if users > 1 else ""
            return tr("“{name}”", name=escape(outline.name)) + shared if outline else tr("Pick or begin an outline")
        if what == "material":
            work = job.all_materials()[ident]
            return f"{escape(work.called)}  <span style='color:{ROLES.soft}'>ISO {work.group}</span>"
        return escape(job.all_cards()[ident].name)

    def _open(self) -> None:
        if self.question.picks == "tool":
            self.opened.emit(self.address)
            return
        menu = QMenu(self)
        if self.question.picks == "pattern":
            self._pattern_menu(menu)
        elif self.question.picks == "outline":
            self._outline_menu(menu)
        elif self.question.picks == "edge":
            self._edge_menu(menu)
        else:
            job = self.session.job
            machines = [ident for ident, card in job.all_cards().items() if card.turns == job.turns]
            for ident in job.all_materials() if self.question.picks == "material" else machines:
                text = re.sub("<.*", "", self._name(ident)).strip()
                menu.addAction(text, lambda i=ident: self.session.answer(self.address, i))
        menu.exec(self.button.mapToGlobal(self.button.rect().bottomLeft()))

    def _pattern_menu(self, menu: QMenu) -> None:
        job = self.session.job
        for pattern in job.patterns:
            menu.addAction(tr("“{name}”", name=pattern.name), lambda i=pattern.id: self.session.answer(self.address, i))
        if job.patterns:
            menu.addSeparator()
        for kind, (says, _) in edits.PATTERN_KINDS.items():
            menu.addAction(tr("New: {lower}", lower=as_inside(tr(says))), lambda k=kind: self._new_pattern(k))
        menu.addAction(tr("From a DXF drawing …"), lambda: self.session.wants_drawing.emit(self.address))
        menu.addAction(tr("From a CSV list …"), lambda: self.session.wants_places.emit(self.address))
        users = sum(1 for s in job.steps if getattr(s, "pattern", None) == self.computed())
        if users > 1:
            menu.addSeparator()
            menu.addAction(tr("A copy for this step alone"), self._own_pattern)

    def _own_pattern(self) -> None:
        self.session.history.settle()
        self.session.edit(edits.pattern_copied(self.session.job, self.session.selected), tr("A pattern of its own"))

    def _outline_menu(self, menu: QMenu) -> None:
        for outline in self.session.job.outlines:
            menu.addAction(tr("“{name}”", name=outline.name), lambda i=outline.id: self.session.answer(self.address, i))
        if self.session.job.outlines:
            menu.addSeparator()
        if not self.session.job.turns:
            menu.addAction(tr("New: a rectangle to change"), lambda: self._new_outline(inside=False))
            menu.addAction(tr("New: from its first segment on"), lambda: self._new_outline(inside=True))
            menu.addAction(tr("From a DXF drawing …"), lambda: self.session.wants_drawing.emit(self.address))
            return
        menu.addAction(tr("New: outside"), lambda: self._new_outline(inside=False))
        menu.addAction(tr("New: in a bore"), lambda: self._new_outline(inside=True))
        menu.addAction(tr("From a DXF drawing …"), lambda: self.session.wants_drawing.emit(self.address))

    def _edge_menu(self, menu: QMenu) -> None:
        """A straight edge, or one as an outline of the job is drawn."""
        menu.addAction(tr("Straight"), lambda: self._take_edge(""))
        outlines = [o for o in self.session.job.outlines if isinstance(o, TurnedOutline)]
        for outline in outlines:
            menu.addAction(tr("As “{name}” is drawn", name=outline.name), lambda i=outline.id: self._take_edge(i))
        if not outlines:
            none = menu.addAction(tr("Draw an outline in a step first"))
            assert none is not None
            none.setEnabled(False)

    def _take_edge(self, outline: str) -> None:
        """The tool's edge from an outline; why it has none is said."""
        ident = self.address.partition(":")[2].rpartition(".")[0]
        try:
            job = edge_taken(self.session.job, ident, outline)
        except ValueError as error:
            self.session.said.emit("wrong", str(error))
            return
        self.session.history.settle()
        self.session.edit(job, tr("Take an edge"))

    def _new_outline(self, *, inside: bool) -> None:
        self.session.history.settle()
        self.session.edit(edits.outline_for(self.session.job, self.address, inside=inside), tr("New outline"))

    def _new_pattern(self, kind: str) -> None:
        if self.session.on_step:
            self.session.edit(edits.pattern_for(self.session.job, self.session.selected, kind), tr("New pattern"))

    def take_focus(self) -> None:
        self.button.setFocus(Qt.FocusReason.TabFocusReason)

    def has_focus(self) -> bool:
        return self.button.hasFocus()


class WordRow(Row):
    """Words as they are typed: the name of a thread, a message."""

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.field = WordField()
        self.field.setFixedWidth(FIELD_WIDTH + UNIT_WIDTH + 8)
        self.field.setMaxLength(60)
        self.field.setAccessibleName(question.says)
        self.field.textEdited.connect(self.give)
        self.field.entered.connect(self.next)
        self.field.focused.connect(self.focus_in)
        self.line.addWidget(self.field)

    def give(self, text: str) -> None:
        """Answers with what was typed."""
        self.session.answer(self.address, text.strip())

    def shown(self, kept: str) -> str:
        """The other way round."""
        return kept

    def show_answer(self) -> None:
        if not self.field.hasFocus():
            value, named = self.given()
            self.field.setText(self.shown(named or str(value)))
            self.field.setCursorPosition(0)

    def take_focus(self) -> None:
        self.field.setFocus(Qt.FocusReason.TabFocusReason)
        self.field.selectAll()

    def has_focus(self) -> bool:
        return self.field.hasFocus()


class NameRow(WordRow):
    """What a tool or a material is called, or a machine is: one that comes with Bastler as it is said here, until it is given
    other words."""

    SAID: Mapping[str, Callable[[str], str]] = {"tool": said_name, "material": said_material, "card": said_of_machine}

    def shown(self, kept: str) -> str:
        return self.SAID[self.address.partition(":")[0]](kept)


class NumbersRow(WordRow):
    """Numbers one behind the other, in which sizes of the family may be named. In the job they stand alike whoever typed them:
    else a comma would part two of them for one reader, and be the decimal sign of one for the next."""

    def give(self, text: str) -> None:
        kept = pointed(text.strip()).replace(";", ",")
        if re.search("[A-Za-z]", kept):
            kept = re.sub(r",\s*", ", ", kept)  # a comma right beside a name is taken for its decimal sign
        self.session.answer(self.address, filled_in(kept, known(self.session.job)), kept)

    def shown(self, kept: str) -> str:
        return decimal(apart(pointed(kept).replace(";", ",")))


class TextRow(Row):
    """Numbers of positions to leave out, as a list."""

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.field = WordField()
        self.field.setFixedWidth(FIELD_WIDTH)
        self.field.setProperty("number", "true")
        self.field.setPlaceholderText(tr("none"))
        self.field.setAccessibleName(question.says)
        self.field.textEdited.connect(self._typed)
        self.field.entered.connect(self.next)
        self.field.focused.connect(self.focus_in)
        self.line.addWidget(self.field)
        self.line.addSpacing(UNIT_WIDTH + 8)
        self._reason = ""

    def show_answer(self) -> None:
        if not self.field.hasFocus():
            self.field.setText(", ".join(str(v) for v in self.given()[0]))

    def reason(self) -> str:
        return self._reason

    def _typed(self, text: str) -> None:
        words = [w for w in re.split(r"[\s,;]+", text.strip()) if w]
        struct, _ = answering.at(self.session.job, self.address)
        count = len(struct.all())  # type: ignore[attr-defined]
        numbers = [whole_number(w) for w in words]
        wrong = next((w for w, n in zip(words, numbers, strict=True) if n is None or not 1 <= n <= count), None)
        self._reason = "" if wrong is None else tr("“{wrong}” is not one of the {count} positions.", wrong=wrong, count=count)
        self.say(self._reason)
        if wrong is None:
            self.session.answer(self.address, tuple(sorted({n for n in numbers if n is not None})))

    def take_focus(self) -> None:
        self.field.setFocus(Qt.FocusReason.TabFocusReason)

    def has_focus(self) -> bool:
        return self.field.hasFocus()
