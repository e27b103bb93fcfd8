"""What was changed in the program by hand, place by place, each to be taken back."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bastler.app.labels import Label, Marked, escape
from bastler.app.panels import emptied
from bastler.app.session import Session
from bastler.app.theme import ROLES, dress
from bastler.job import edits
from bastler.job.by_hand import HandEdit
from bastler.language import many, tr
from bastler.post import Program

SHOWN = 4
"""So many lines are shown of a place; the rest is counted."""


class HandBar(QWidget):
    """The hand edits of the program that is looked at, in their order; those that do not fit are among the remarks."""

    went = pyqtSignal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(6)
        self._shown: Program | None = None
        session.proof_changed.connect(self.refresh)
        self.hide()

    def refresh(self) -> None:
        """The places of what is proved."""
        proof = self.session.proof
        if proof is None:
            self.hide()
            return
        if self.session.stale or self._shown is proof.program:
            return
        self._shown = proof.program
        emptied(self.column)
        known = {edit.id: edit for edit in self.session.job.by_hand}
        places = [place for place in proof.program.typed if place.edit in known]
        if places:
            head = Label(tr("{many} changed by hand", many=many(len(places), "place")))
            dress(head, "color: $focus; font-weight: bold;")
            self.column.addWidget(head)
        for place in places:
            edit = known[place.edit]
            box = _Place(self._title(edit), edit, place.first)
            box.went.connect(self.went)
            box.back.clicked.connect(partial(self.take_back, edit.id))
            self.column.addWidget(box)
        self.setVisible(bool(places))

    def _title(self, edit: HandEdit) -> str:
        steps = self.session.job.steps
        number = next((k for k, step in enumerate(steps, 1) if step.id == edit.step), 0)
        return f"{number} {steps[number - 1].title} · {tr(edit.stage)}" if number else tr("Begin and end")

    def take_back(self, ident: str) -> None:
        """There stands again what the steps make."""
        self.session.history.settle()
        self.session.edit(edits.hand_edit_removed(self.session.job, ident), tr("Take a hand edit back"))


class _Place(QFrame):
    """One place; a press goes there."""

    went = pyqtSignal(int)

    def __init__(self, title: str, edit: HandEdit, line: int) -> None:
        super().__init__()
        self.line = line
        self.setObjectName("remark")
        dress(self, f"QFrame#remark {{ border: 1px solid {ROLES.focus}; border-radius: 4px; background: {ROLES.focus_tint}; }}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 6, 10, 6)
        lines = [*(f"− {line}" for line in edit.was[:SHOWN]), *(f"+ {line}" for line in edit.now[:SHOWN])]
        rest = max(len(edit.was) - SHOWN, 0) + max(len(edit.now) - SHOWN, 0)
        lines += [tr("and {many}", many=many(rest, "more line"))] if rest else []
        body = "<br>".join(escape(line) for line in lines)
        text = Marked(
            f"<b>{escape(title)}</b><span style='color:{ROLES.soft}'>{tr('  line {line}', line=line + 1)}</span><br>"
            f"<span style='font-family: B612 Mono'>{body}</span>"
        )
        text.setWordWrap(True)
        row.addWidget(text, 1)
        self.back = QPushButton(tr("Take back"))
        self.back.setObjectName("plain")
        self.back.setStyleSheet("min-height: 26px; padding: 0 8px;")
        row.addWidget(self.back, 0, Qt.AlignmentFlag.AlignTop)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.went.emit(self.line)
