"""The outline's editor in the question column: a line for every segment, the selected one opened with all that can be given of
it.

What is not given stands in its field in grey as it was worked out; nothing has to be typed in an order. Enter goes from answer
to answer and on into the next segment; Space on a segment's word opens what can be done with it, and so do the keys of the
Outline menu.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

import msgspec
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QMenu, QVBoxLayout, QWidget

from bastler.app import outline_commands as commands
from bastler.app.fields import NumberField
from bastler.app.labels import Label, Marked
from bastler.app.outline_drawing import selected_segment
from bastler.app.outline_whole import FIELD, WholePanel
from bastler.app.outline_words import PAIRS, SHORT, choice_text, sign, summary, worked_out
from bastler.app.rows import PickButton, Row
from bastler.app.session import Session
from bastler.app.theme import ROLES, dress, sans
from bastler.ask import Question, question_of
from bastler.job import answering
from bastler.job.family import known
from bastler.language import sayable, tr
from bastler.shapes import AnyOutline, AnySegment, PlanOutline, TurnedOutline
from bastler.shapes.outline import field_name
from bastler.shapes.solver.report import Worked

BEGIN = -1
"""The number of what stands before the first segment."""


class OutlineRow(Row):
    """The whole outline of a step. Its address is `outline:ID`."""

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.label.hide()
        self.body = QVBoxLayout()
        self.body.setSpacing(3)
        self.column.insertLayout(1, self.body)
        self.fields: dict[str, NumberField] = {}
        self.choices: dict[str, PickButton] = {}
        self.words: list[PickButton] = []
        self.summaries: list[Marked] = []
        self.shapes: PickButton | None = None
        self.open_at = 0
        self.more = False
        self.whole = False
        self._moving = False
        self._shape: tuple[Any, ...] = ()
        self._lines: list[QWidget] = []
        self._order: list[tuple[int, QWidget]] = []
        self.show_answer()

    @property
    def outline(self) -> AnyOutline | None:
        return self.session.job.outline(self.address.partition(":")[2])

    def given(self) -> tuple[Any, str]:
        return self.outline, ""

    # -- showing --------------------------------------------------------------------------------------------------

    def show_answer(self) -> None:
        outline = self.outline
        if outline is None:
            return
        wanted = selected_segment(self.session.focus, outline.id)
        if wanted >= 0:
            self.open_at = wanted
        self.open_at = min(self.open_at, max(len(outline.segments) - 1, 0))
        solution = self.session.drawn(outline).solution
        kinds = tuple((s.kind, s.corner) for s in outline.segments)
        start = (getattr(outline, "corner", ""), getattr(outline, "closed", ""))
        many = len(solution.candidates) + len(solution.others)
        shape = (self.session.job.unit, kinds, start, self.open_at, self.more, self.whole, many > 1)
        if shape != self._shape:
            self._shape = shape
            self._build(outline)
        self._fill(outline)

    def _fill(self, outline: AnyOutline) -> None:
        """Puts the numbers in: given ones in ink, worked-out ones in grey."""
        drawn = self.session.drawn(outline)
        worked = drawn.solution.worked
        for address, field in self.fields.items():
            struct, name = answering.at(self.session.job, address)
            value = getattr(struct, name)
            typed = answering.named_text(self.session.job, address) or getattr(struct, "typed", {}).get(name, "")
            field.show_value(value, typed, worked_out(address, outline.id, worked))
        for address, button in self.choices.items():
            struct, _ = answering.at(self.session.job, address)
            button.setText(choice_text(outline, worked, address, struct))
        wrong = {int(t.field.split(".")[1]) for t in drawn.troubles if t.field.startswith("segments.") and not t.open}
        for k, label in enumerate(self.summaries):
            label.setText(
                summary(self.session.job.unit, outline.segments[k], worked[k] if k < len(worked) else Worked(), bad=k in wrong)
            )
        if self.shapes is not None:
            count = len(drawn.solution.candidates)
            what = tr("{count} shapes are possible", count=count) if count > 1 else tr("Another shape is possible too")
            self.shapes.setText(tr("{what}: take the next", what=what))

    def refresh(self, trouble: Any) -> None:
        self.show_answer()
        planned = self.session.plan.step(self.session.selected)
        wrong = [t for t in planned.troubles if t.field.startswith("outline.")] if planned else []
        self.trouble = wrong[0] if wrong else None
        if any(f.reason for f in self.fields.values()):
            return
        if wrong:
            place = wrong[0].field.split(".")
            number = tr("Segment {int}: ", int=int(place[2]) + 1) if len(place) > 2 and place[2].isdigit() else ""
            text = wrong[0].text
            dress(self.why, f"color: {ROLES.focus if wrong[0].open else ROLES.stop};")
            self.say(f"{number}{text[0].lower() + text[1:] if number and not text[1].isupper() else text}", wrong[0].fits)
        else:
            self.say("")

    def _fix(self) -> None:
        if self.trouble is not None and self.trouble.fits is not None:
            self.session.history.settle()
            self.session.answer(self.session.address_of(self.trouble.field), self.trouble.fits)

    # -- building -------------------------------------------------------------------------------------------------

    def _build(self, outline: AnyOutline) -> None:
        focus = "" if self._moving else self._focused()
        self._at = BEGIN
        if self.has_focus():
            self.setFocus()  # else hiding the field hands the keyboard on to the next word, which would open
        for line in self._lines:
            self.body.removeWidget(line)
            line.hide()
            line.deleteLater()
        self._lines, self.fields, self.choices, self.words, self.summaries, self._order = [], {}, {}, [], [], []
        self.shapes = None
        self._begin(outline)
        segments: tuple[AnySegment, ...] = outline.segments
        for k, segment in enumerate(segments):
            self._segment(k, segment)
        self._at = len(outline.segments)
        self._end(outline)
        if focus:
            QTimer.singleShot(0, lambda: self.take_focus_of(focus))

    def _focused(self) -> str:
        """The address that has the keyboard; `word:K` for the word of a segment."""
        for address, widget in (*self.fields.items(), *self.choices.items()):
            if widget.hasFocus():
                # an edit may have moved on already
                return self.session.focus if self.session.focus.startswith(self.address) else address
        return next((f"word:{k}" for k, word in enumerate(self.words) if word.hasFocus()), "")

    def stop(self, widget: QWidget) -> None:
        """One more place where Enter stops."""
        self._order.append((self._at, widget))

    def _frame(self, *, opened: bool) -> QFrame:
        frame = QFrame()
        frame.setObjectName("segment")
        edge = ROLES.focus if opened else ROLES.hairline
        dress(frame, f"QFrame#segment {{ background: $field; border: 1px solid {edge}; border-radius: 3px; }}")
        self.body.addWidget(frame)
        self._lines.append(frame)
        return frame

    def _begin(self, outline: AnyOutline) -> None:
        """Where the outline starts, and whether it is closed."""
        frame = self._frame(opened=False)
        grid = QGridLayout(frame)
        grid.setContentsMargins(7, 4, 6, 4)
        grid.setVerticalSpacing(3)
        grid.setHorizontalSpacing(4)
        names = ("x", "y") if isinstance(outline, PlanOutline) else ("z", "d")
        head = Label(tr("begins at"))
        head.setObjectName("soft")
        grid.addWidget(head, 0, 0)
        for column, name in enumerate(names):
            self._number(grid, 0, 1 + 2 * column, type(outline), f"{self.address}.{name}", {"d": "Ø"}.get(name, name.upper()))
        row = 1
        for name, words in (("closed", tr("it is")), ("corner", tr("edge at the face")), ("ends", tr("at its end"))):
            if hasattr(outline, name):
                self._choice(grid, row, type(outline), f"{self.address}.{name}", words)
                row += 1
            if name == "corner" and isinstance(outline, TurnedOutline) and outline.corner != "sharp":
                self._number(grid, row, 1, type(outline), f"{self.address}.corner_size", "size")
                if outline.corner == "edge":
                    self._number(grid, row, 3, type(outline), f"{self.address}.corner_angle", tr("at °"))
                row += 1
        grid.setColumnStretch(0, 1)

    def _segment(self, k: int, segment: AnySegment) -> None:
        opened = k == self.open_at
        self._at = k
        frame = self._frame(opened=opened)
        column = QVBoxLayout(frame)
        column.setContentsMargins(7, 2, 6, 4 if opened else 2)
        column.setSpacing(2)
        head = QHBoxLayout()
        head.setSpacing(6)
        word = self._word(f"{k + 1}  {tr(segment.kind)}", tr("Segment {k}", k=k + 1), partial(self._menu, k))
        word.focused.connect(partial(self._opened, k))
        word.entered.connect(partial(self._into, k))
        head.addWidget(word)
        summary = Marked()
        summary.setFont(sans(13))
        summary.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        summary.mousePressEvent = lambda event, at=k: self._clicked(at)  # type: ignore[method-assign,misc]
        self.summaries.append(summary)
        head.addWidget(summary, 1)
        column.addLayout(head)
        if opened:
            self._panel(column, k, segment)

    def _word(self, text: str, says: str, act: Callable[[], None]) -> PickButton:
        button = PickButton(text)
        button.setObjectName("link")
        button.setStyleSheet("text-align: left; font-weight: bold;")
        button.setToolTip(tr("Space opens what can be done here"))
        button.setAccessibleName(says)
        button.clicked.connect(act)
        self.words.append(button)
        return button

    def _panel(self, column: QVBoxLayout, k: int, segment: AnySegment) -> None:
        """All that can be given of a segment."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(4)
        grid.setVerticalSpacing(3)
        rows = list(PAIRS[segment.kind])
        extra = PAIRS[f"more {segment.kind}"]
        if self.more or any(getattr(segment, field_name(segment, key)) for pair in extra for key in pair):
            rows += extra
        base = f"{self.address}.segments.{k}"
        at = 0
        for pair in rows:
            for place, key in enumerate(pair):
                name = field_name(segment, key)
                if key in ("tangent", "turn", "parallel", "square"):
                    if k or key != "tangent" or getattr(self.outline, "is_closed", False):
                        self._choice(grid, at, type(segment), f"{base}.{name}", tr(SHORT[name]))
                else:
                    self._number(grid, at, 2 * place, type(segment), f"{base}.{name}", sign(name))
            at += 1
        self._choice(grid, at, type(segment), f"{base}.corner", tr(SHORT["corner"]))
        sizes = {"sharp": (), "edge": ("corner_size", "corner_angle"), "relief-e": ("corner_size", "corner_depth"),
                 "relief-f": ("corner_size", "corner_depth")}.get(segment.corner, ("corner_size",))  # fmt: skip
        for place, name in enumerate(sizes):
            words = tr({"edge": sayable("Leg"), "thread-relief": sayable("Pitch")}.get(segment.corner, "Radius"))
            self._number(grid, at + 1, 2 * place, type(segment), f"{base}.{name}", words if not place else tr(SHORT[name]))
        if not self.more and len(rows) == len(PAIRS[segment.kind]):
            more = PickButton(tr("more that a print may give"))
            more.setObjectName("link")
            more.setToolTip(tr("Polar ends, points it goes through, parallel and right-angled (Alt+M)"))
            more.clicked.connect(self.show_more)
            grid.addWidget(more, at + 2, 0, 1, 4)
        for place in (0, 2):
            grid.setColumnStretch(place, 1)
        column.addLayout(grid)

    def _number(self, grid: QGridLayout, row: int, column: int, owner: type, address: str, sign: str) -> None:
        name = address.rpartition(".")[2]
        question = question_of(owner, name)
        mark = Label(sign)
        mark.setObjectName("soft")
        mark.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        grid.addWidget(mark, row, column)
        optional = not name.startswith("corner") and not name.startswith("pole")
        shown = msgspec.structs.replace(question, propose=(lambda s, c: None) if optional else None)
        field = NumberField(shown, self.session.job.unit)
        field.named = lambda: known(self.session.job)
        field.setFixedWidth(FIELD)
        field.setProperty("compact", "true")
        field.given.connect(lambda value, typed, a=address: self.session.answer(a, value, typed))
        field.cleared.connect(lambda a=address: self.session.answer(a, None))
        field.wrong.connect(lambda reason: self.say(reason))
        field.focused.connect(lambda on, a=address: self.session.set_focus(a) if on else None)
        field.entered.connect(partial(self.go, field))
        field.dropped.connect(self.show_answer)
        self.fields[address] = field
        self.stop(field)
        grid.addWidget(field, row, column + 1)

    def _choice(self, grid: QGridLayout, row: int, owner: type, address: str, words: str) -> None:
        name = address.rpartition(".")[2]
        question = question_of(owner, name)
        mark = Label(words or question.says)
        mark.setObjectName("soft")
        grid.addWidget(mark, row, 0, 1, 2)
        button = PickButton("")
        button.setObjectName("link")
        button.setToolTip(tr("Space changes it"))
        button.setAccessibleName(question.says)
        button.clicked.connect(partial(commands.next_choice, self.session, address))
        button.entered.connect(partial(self.go, button))
        button.focused.connect(partial(self.session.set_focus, address))
        self.choices[address] = button
        self.stop(button)
        grid.addWidget(button, row, 2, 1, 3)

    def _end(self, outline: AnyOutline) -> None:
        """What goes on at the end, and the other shapes there may be."""
        frame = self._frame(opened=False)
        column = QVBoxLayout(frame)
        column.setContentsMargins(7, 2, 6, 2)
        column.setSpacing(2)
        row = QHBoxLayout()
        row.setSpacing(16)
        for text, kind, key in ((tr("+ line"), "line", "Alt+L"), (tr("+ arc"), "arc", "Alt+A")):
            button = self.link(text, tr("At the end ({key}: behind the selected segment)", key=key))
            button.clicked.connect(partial(self._append, kind))
            row.addWidget(button)
        row.addStretch(1)
        button = self.link(tr("whole outline"), tr("Its name, the other way, mirror, turn, save as a drawing"))
        button.clicked.connect(self._show_whole)
        row.addWidget(button)
        column.addLayout(row)
        if self.whole:
            column.addLayout(WholePanel(self, outline))
        solution = self.session.drawn(outline).solution
        if len(solution.candidates) + len(solution.others) > 1:
            self.shapes = self.link("", tr("Or click one in the drawing (Alt+N)"))
            self.shapes.clicked.connect(partial(commands.next_shape, self.session))
            self.body.addWidget(self.shapes)
            self._lines.append(self.shapes)

    def link(self, text: str, tip: str) -> PickButton:
        """Something to be done, on the way of Enter."""
        button = PickButton(text)
        button.setObjectName("link")
        button.setStyleSheet("text-align: left; font-weight: bold;")
        button.setToolTip(tip)
        button.entered.connect(partial(self.go, button))
        self.stop(button)
        return button

    def _show_whole(self) -> None:
        self.whole = not self.whole
        self.show_answer()

    # -- changing -------------------------------------------------------------------------------------------------

    def _append(self, kind: Any) -> None:
        outline = self.outline
        if outline is not None:
            commands.insert(self.session, kind, len(outline.segments))

    def _menu(self, k: int) -> None:
        outline = self.outline
        if outline is None:
            return
        session = self.session
        session.focus = commands.address_of(outline, k)
        segment = outline.segments[k]
        menu = QMenu(self)
        menu.addAction(tr("Insert a line before"), partial(commands.insert, session, "line", k))
        menu.addAction(tr("Insert an arc before"), partial(commands.insert, session, "arc", k))
        menu.addAction(
            tr("Make it an arc") if segment.kind == "line" else tr("Make it a line"), partial(commands.become, session)
        )
        if isinstance(outline, PlanOutline) and outline.is_closed and k:
            menu.addAction(tr("Begin the outline here"), partial(commands.whole, session, "begin"))
        menu.addSeparator()
        menu.addAction(tr("Remove"), partial(commands.remove, session))
        word = self.words[k]
        menu.exec(word.mapToGlobal(QPoint(0, word.height())))

    def show_more(self) -> None:
        """All that a print may give of the open segment."""
        self.more = True
        self.show_answer()
        keys = [a for a in self.fields if a.rpartition(".")[2] == "far"]
        if keys:
            self.take_focus_of(keys[0])

    # -- moving about ---------------------------------------------------------------------------------------------

    def _opened(self, k: int) -> None:
        """A segment's word has the keyboard: it is the selected one, and opens."""
        self.session.set_focus(f"{self.address}.segments.{k}")
        if k != self.open_at:
            self.open_at = k
            QTimer.singleShot(0, lambda: self._open_word(k))

    def _open_word(self, k: int) -> None:
        self.show_answer()
        if k < len(self.words):
            self.words[k].setFocus(Qt.FocusReason.TabFocusReason)

    def _clicked(self, k: int) -> None:
        self._into(k, 1)

    def _into(self, k: int, by: int) -> None:
        """Opens a segment and goes to its first answer, or going back to its last."""
        outline = self.outline
        if outline is not None:
            self.take_focus_of(commands.address_of(outline, k, commands.first_field(outline) if by > 0 else "corner"))

    def go(self, widget: QWidget, by: int) -> None:
        """To the next answer; from the last of a segment into the next one."""
        outline = self.outline
        if outline is None or (isinstance(widget, NumberField) and widget.reason):
            return
        self.session.history.settle()
        at = next((j for j, (_, own) in enumerate(self._order) if own is widget), -1)
        here = self._order[at][0] if at >= 0 else BEGIN
        at += by
        inside = 0 <= at < len(self._order)
        there = self._order[at][0] if inside else here + by
        count = len(outline.segments)
        if there != here and 0 <= here + by < count:
            self._into(here + by, by)
        elif inside:
            self._order[at][1].setFocus(Qt.FocusReason.TabFocusReason)
        else:
            self.next.emit(by)

    def take_focus(self) -> None:
        if self._order:
            self._order[0][1].setFocus(Qt.FocusReason.TabFocusReason)

    def take_focus_of(self, address: str) -> None:
        """The keyboard goes to one answer of the outline; its segment opens."""
        if address.startswith("word:"):
            self._open_word(int(address.partition(":")[2]))
            return
        ident = self.address.partition(":")[2]
        k = selected_segment(address, ident)
        if k >= 0 and k != self.open_at:
            self.open_at = k
            self.session.focus = address
            self._moving = True
            self.show_answer()
            self._moving = False
        widget: QWidget | None = self.fields.get(address) or self.choices.get(address)
        if widget is None and k >= 0:
            widget = next((f for a, f in self.fields.items() if a.startswith(f"{self.address}.segments.{k}.")), None)
        if widget is None:
            self.take_focus()
        else:
            widget.setFocus(Qt.FocusReason.TabFocusReason)
            if isinstance(widget, NumberField):
                widget.selectAll()

    def has_focus(self) -> bool:
        return any(w.hasFocus() for _, w in self._order) or any(w.hasFocus() for w in self.words)

    def light(self, lit: bool, source: str = "") -> None:
        """Its numbers light up by themselves."""
