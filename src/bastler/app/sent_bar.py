"""What was sent of the program that is looked at: when, where to, and what has changed since."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from bastler.app.labels import Label, Marked, escape
from bastler.app.panels import emptied
from bastler.app.sent_keeper import SentKeeper
from bastler.app.session import Session
from bastler.app.theme import ROLES, dress
from bastler.language import many, sayable, tr
from bastler.live.sent import Made, Output
from bastler.post.compared import Change

SHOWN_LINES = 6
"""So many lines that are gone are shown of a stage; the rest is counted."""
KINDS = sayable({"fresh": "new", "gone": "gone", "moved": "cut at another time"})


class SentBar(QWidget):
    """`marks` tells the listing which lines are not as they were sent, none while that is not asked for."""

    marks = pyqtSignal(object)
    went = pyqtSignal(int)

    def __init__(self, session: Session, keeper: SentKeeper) -> None:
        super().__init__()
        self.session, self.keeper = session, keeper
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.says = Label()
        self.says.setWordWrap(True)
        self.show_changes = QPushButton(tr("Show what has changed"))
        self.show_changes.setObjectName("plain")
        self.show_changes.setCheckable(True)
        self.show_changes.toggled.connect(self._toggled)
        column.addWidget(self.says)
        column.addWidget(self.show_changes)
        self.boxes = QVBoxLayout()
        self.boxes.setSpacing(6)
        column.addLayout(self.boxes)
        self._there: tuple[Output, bool | None] | None = None
        keeper.changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        self.refresh()

    def look_again(self) -> None:
        """Is the file still there, and as it was sent? Asked when somebody comes to look."""
        self._there = None
        self.refresh()

    def refresh(self) -> None:
        """Says how the program is to what was sent."""
        last = self.keeper.last(self.session.program) if self.session.shown else None
        self.setVisible(last is not None)
        if last is None or self.session.stale:
            return
        how = self.keeper.how(self.session.program)
        sent = tr("sent {when} {where}", when=last.when, where=last.where)
        words, tint = {
            "same": (tr("As it was {sent}.", sent=sent), ROLES.good),
            "next": (tr("For the next part: its numbers have counted on since it was {sent}.", sent=sent), ROLES.soft),
        }.get(how, (tr("Changed since it was {sent}.", sent=sent), ROLES.caution_text))
        self.says.setText(words + self._file(last))
        dress(self.says, f"color: {tint};")
        self.show_changes.setVisible(how != "same")
        if how == "same" and self.show_changes.isChecked():
            self.show_changes.setChecked(False)
        elif self.show_changes.isChecked():
            self._ask()

    def _file(self, last: Output) -> str:
        """What has become of the file, where it is not what was sent any more."""
        if not self.isVisible():
            return ""
        if self._there is None or self._there[0] is not last:
            self._there = (last, last.is_there())
        return {True: "", False: tr(" The file there is another one now."), None: tr(" The file is not there any more.")}[
            self._there[1]
        ]

    def _toggled(self, on: bool) -> None:
        self.show_changes.setText(tr("Show the program alone") if on else tr("Show what has changed"))
        if on:
            self._ask()
        else:
            self._show(None, ())

    def _ask(self) -> None:
        made = self.keeper.made(self.session.program)
        if made is None:
            self.says.setText(tr("What was sent is not kept any more, so that nothing can be compared with it."))
            return

        def came(changes: Sequence[Change] | None, trouble: str) -> None:
            if changes is not None and self.show_changes.isChecked():
                self._show(made, changes)

        self.session.core.ask("compared", self.session.held_id, made.program, then=came)

    def _show(self, made: Made | None, changes: Sequence[Change]) -> None:
        emptied(self.boxes)
        titles = made.titles if made is not None else {}
        now = {step.id: f"{k} {step.title}" for k, step in enumerate(self.session.job.steps, 1)}
        for change in changes:
            title = now.get(change.step) or titles.get(change.step, "") or tr("Begin and end")
            box = _ChangeBox(title, change)
            box.went.connect(self.went)
            self.boxes.addWidget(box)
        self.marks.emit(frozenset(line for change in changes for line in change.lines))


class _ChangeBox(QFrame):
    """A stage that is not as it was sent, with what is gone of it; a press goes there."""

    went = pyqtSignal(int)

    def __init__(self, title: str, change: Change) -> None:
        super().__init__()
        self.change = change
        self.setObjectName("remark")
        dress(self, f"QFrame#remark {{ border: 1px solid {ROLES.hairline}; border-radius: 4px; background: {ROLES.field}; }}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 6, 10, 6)
        column.setSpacing(2)
        stage = f" · {escape(tr(change.stage))}" if change.stage else ""
        head = Marked(f"<b>{escape(title)}</b>{stage}")
        head.setWordWrap(True)
        column.addWidget(head)
        says = Label(self._says())
        says.setObjectName("soft")
        says.setWordWrap(True)
        column.addWidget(says)
        if change.was and change.kind != "gone":
            lines = [escape(line) for line in change.was[:SHOWN_LINES]]
            rest = len(change.was) - len(lines)
            lines += [tr("and {many}", many=many(rest, "more line"))] if rest else []
            was = Marked(f"<span style='font-family: B612 Mono; color:{ROLES.soft}'>− {'<br>− '.join(lines)}</span>")
            was.setWordWrap(True)
            column.addWidget(was)

    def _says(self) -> str:
        change = self.change
        if change.kind in KINDS:
            count = len(change.lines) or len(change.was)
            return tr(KINDS[change.kind]) + (f", {many(count, 'line')}" if count else "")
        parts = []
        if change.lines:
            parts.append(tr("{many} not as sent", many=many(len(change.lines), "line")))
        if change.was:
            parts.append(tr("{was} of those sent gone", was=len(change.was)))
        return ", ".join(parts) + (tr(", remarks only") if change.words else "")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.went.emit(min(self.change.lines, default=self.change.at))
