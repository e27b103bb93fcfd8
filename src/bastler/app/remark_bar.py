"""Remarks as boxes: what, where, how much, and the press that cures it."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPaintEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.labels import Marked, escape
from bastler.app.panels import emptied
from bastler.app.route import draw_level
from bastler.app.session import Session
from bastler.app.theme import ROLES, dress
from bastler.language import tr
from bastler.proof.remark import Remark

MOST = 2


class _Mark(QWidget):
    def __init__(self, level: str) -> None:
        super().__init__()
        self.level = level
        self.setFixedSize(18, 18)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            draw_level(painter, self.level, 9, 9, 13)


class RemarkBox(QFrame):
    """One remark; a press on it goes there, the button takes its cure."""

    went = pyqtSignal(object)

    def __init__(self, session: Session, remark: Remark) -> None:
        super().__init__()
        self.remark = remark
        plain = {"open": (ROLES.focus, ROLES.panel), "note": (ROLES.soft, ROLES.panel)}
        tints = plain | {"stop": (ROLES.stop, ROLES.stop_tint), "caution": (ROLES.caution, ROLES.caution_tint)}
        edge, fill = tints[remark.level]
        self.setObjectName("remark")
        dress(self, f"QFrame#remark {{ border: 1px solid {edge}; border-radius: 4px; background: {fill}; }}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 6, 10, 6)
        row.addWidget(_Mark(remark.level), 0, Qt.AlignmentFlag.AlignTop)
        line = tr("  line {line}", line=remark.line) if remark.line else ""
        text = Marked(f"{escape(remark.text)}<span style='color:{ROLES.soft}'>{line}</span>")
        text.setWordWrap(True)
        row.addWidget(text, 1)
        for way in remark.cures:
            button = QPushButton(way.says)
            button.setObjectName("plain")
            button.setStyleSheet("min-height: 26px;")
            button.clicked.connect(lambda _, way=way: session.cure(way))
            row.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.went.emit(self.remark)


class RemarkBar(QWidget):
    """The first remarks on the selected card, below the sheet. Gone when there are none."""

    went = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 4, 14, 8)
        self.column.setSpacing(5)
        self._shown: list[Remark] = []
        session.proof_changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        self.hide()

    def refresh(self) -> None:
        """Shows the remarks of the selected step, or those of no step when another card is."""
        remarks = [r for r in self.session.remarks_of(self.session.selected) if r.level != "note"][:MOST]
        if remarks == self._shown:
            return
        self._shown = remarks
        emptied(self.column)
        for remark in remarks:
            box = RemarkBox(self.session, remark)
            box.went.connect(self.went)
            self.column.addWidget(box)
        self.setVisible(bool(remarks))
