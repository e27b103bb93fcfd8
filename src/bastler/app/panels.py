"""What the columns beside the picture share: an area that scrolls up and down, and the heads of its groups."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QLayout, QPushButton, QScrollArea

from bastler.app.labels import Label
from bastler.language import tr


def add_step_button() -> QPushButton:
    """The button that opens the board, wherever it stands."""
    button = QPushButton(tr("+ Add a step here"))
    button.setObjectName("add")
    button.setToolTip(tr("Add a step behind the selected one (Insert)"))
    return button


def panel_area() -> QScrollArea:
    """Scrolls up and down only, without a frame; the keyboard passes it by."""
    area = QScrollArea()
    area.setObjectName("panel")
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area


NARROW = "padding: 0 8px;"
"""Of buttons in a row that has much to say: words differ in length from language to language."""


def emptied(layout: QLayout) -> None:
    """Takes all widgets out of a layout, and away."""
    while layout.count():
        item = layout.takeAt(0)
        widget = item.widget() if item else None
        if widget is not None:
            widget.hide()
            widget.deleteLater()


def group_head(group: str) -> tuple[Label, QFrame]:
    """The name of a group of questions, and the line under it."""
    label, line = Label(tr(group).upper()), QFrame()
    label.setObjectName("group")
    label.setIndent(0)
    line.setObjectName("hair")
    line.setFixedHeight(1)
    return label, line
