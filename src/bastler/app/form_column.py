"""A column of questions about one thing in the crib: a tool, a material, a machine card."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from bastler.app.labels import Label
from bastler.app.panels import group_head, panel_area
from bastler.app.row_making import make_row
from bastler.app.rows import Row
from bastler.app.session import Session
from bastler.ask import questions_of
from bastler.job.crib_edits import crib_owner, crib_troubles

WIDTH = 342
BODY = WIDTH - 10
"""What a column of questions has beside its scroll bar; as wide without one, for nothing to move when one comes."""
ON_A_TURRET = ("stands",)
"""Asked of a tool only where the machine drives tools."""
Part = tuple[str, str]


class FormColumn(QWidget):
    """Rows for every question of one or two owners, as `tool:T` and `holder:T`; built anew for another, else refreshed."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.setFixedWidth(WIDTH)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.owners: Sequence[Part] = ()
        self._drives = False
        self.rows: dict[str, Row] = {}
        self._groups: dict[str, tuple[QWidget, QWidget]] = {}
        self.title = Label()
        self.title.setStyleSheet("font-size: 17px; font-weight: bold;")
        self.title.setWordWrap(True)
        self.area = panel_area()
        self.head = QVBoxLayout()
        self.head.setContentsMargins(18, 14, 18, 0)
        self.head.addWidget(self.title)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(4)
        whole.addLayout(self.head)
        whole.addWidget(self.area, 1)
        session.focus_changed.connect(self._light)

    def show_owners(self, title: str, owners: Sequence[Part]) -> None:
        """Shows the questions of these owners, each (what, id)."""
        self.title.setText(title)
        drives = self.session.job.card.drive is not None
        if (owners, drives) != (self.owners, self._drives):
            self.owners, self._drives = owners, drives
            self._build()
        self.refresh()

    def _questions(self) -> list[tuple[str, Any, Any]]:
        """(address, question, owner) of everything that can be asked."""
        found = []
        for what, ident in self.owners:
            owner = crib_owner(self.session.job, what, ident)
            if owner is not None:
                asked = [q for q in questions_of(type(owner)) if self._drives or q.name not in ON_A_TURRET]
                found += [(f"{what}:{ident}.{q.name}", q, owner) for q in asked]
        groups = list(dict.fromkeys(q.group for _, q, _ in found))
        return sorted(found, key=lambda entry: groups.index(entry[1].group))

    def _build(self) -> None:
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(18, 0, 6, 14)
        body.setMaximumWidth(BODY)
        column.setSpacing(3)
        self.rows, self._groups = {}, {}
        asked = self._questions()
        for group in dict.fromkeys(q.group for _, q, _ in asked):
            label, line = group_head(group)
            column.addWidget(label)
            column.addWidget(line)
            self._groups[group] = (label, line)
            for address, question, _ in asked:
                if question.group == group:
                    row = make_row(self.session, question, address)
                    row.next.connect(partial(self._go, address))
                    self.rows[address] = row
                    column.addWidget(row)
        column.addStretch(1)
        old = self.area.takeWidget()
        self.area.setWidget(body)
        if old is not None:
            old.hide()
            old.setParent(None)
            old.deleteLater()

    def make_anew(self) -> None:
        """All rows are made again: the ones there are have another look."""
        self._build()
        self.refresh()

    def refresh(self) -> None:
        """The answers as the job has them."""
        asked = self._questions()
        if {address for address, _, _ in asked} != self.rows.keys():
            self._build()
        troubles = {
            f"{what}:{ident}.{t.field}": t for what, ident in self.owners for t in crib_troubles(self.session.job, what, ident)
        }
        troubles |= {f"holder:{key[5:].replace('.holder.', '.')}": t for key, t in troubles.items() if ".holder." in key}
        shown = set()
        for address, question, owner in asked:
            now = question.asked(owner)
            self.rows[address].setVisible(now)
            if now:
                shown.add(question.group)
                self.rows[address].refresh(troubles.get(address))
        for group, parts in self._groups.items():
            for part in parts:
                part.setVisible(group in shown)

    def _go(self, address: str, by: int) -> None:
        order = [name for name, row in self.rows.items() if not row.isHidden()]
        at = order.index(address) + by
        if 0 <= at < len(order):
            self.rows[order[at]].take_focus()

    def take_focus(self) -> None:
        """The keyboard goes to the first question."""
        row = next((row for row in self.rows.values() if not row.isHidden()), None)
        if row is not None:
            row.take_focus()

    def _light(self) -> None:
        for address, row in self.rows.items():
            if self.session.there(address):  # a job that was just opened may have no such tool: its rows come in a moment
                row.light(address == self.session.focus)
        lit = self.rows.get(self.session.focus)
        if lit is not None and not lit.isHidden():
            self.area.ensureWidgetVisible(lit, 0, 40)
