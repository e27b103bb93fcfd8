"""A number pad for gloves: it types into whatever field has the keyboard."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QGridLayout, QPushButton, QWidget

from bastler.language import decimal, sayable, tr

KEYS = (
    ("7", "8", "9", "(", ")", "/"),
    ("4", "5", "6", "*", "mm", "⌫"),
    ("1", "2", "3", "-", "in", "clear"),
    ("0", ".", "space", "+", "=", "Enter"),
)
WORDS = sayable({"clear": "clear", "space": "space", "Enter": "Enter"})
SPECIAL = {"⌫": Qt.Key.Key_Backspace, "Enter": Qt.Key.Key_Return, "=": Qt.Key.Key_Return}


class NumberPad(QWidget):
    """Its buttons never take the keyboard; `=` and Enter go on to the next question."""

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(10, 6, 10, 8)
        grid.setSpacing(4)
        self.buttons: dict[str, QPushButton] = {}
        for row, keys in enumerate(KEYS):
            for column, key in enumerate(keys):
                button = QPushButton(decimal(".") if key == "." else tr(WORDS[key]) if key in WORDS else key)
                button.setObjectName("plain")
                button.setStyleSheet("padding: 0; min-width: 46px; font-size: 15px;")
                button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
                button.clicked.connect(partial(self.press, key))
                grid.addWidget(button, row, column)
                self.buttons[key] = button

    def press(self, key: str) -> None:
        """Types one key."""
        if key == "clear":
            self._send(Qt.Key.Key_A, "", Qt.KeyboardModifier.ControlModifier)
            self._send(Qt.Key.Key_Delete, "")
        elif key in SPECIAL:
            self._send(SPECIAL[key], "\r" if key != "⌫" else "")
        else:
            for letter in " " if key == "space" else decimal(key):
                self._send(Qt.Key.Key_unknown, letter)

    def _send(self, key: Qt.Key, text: str, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        target = QApplication.focusWidget()
        if target is not None:
            for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                QApplication.sendEvent(target, QKeyEvent(kind, key, modifier, text))
