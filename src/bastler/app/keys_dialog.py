"""The list of all commands with their keys: press a row, then the key that it is to have."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from bastler.app.commands import COMMANDS, Command
from bastler.app.keyring import ALONE, KeyTaken, changed, key_text, returned, shown
from bastler.app.labels import Label
from bastler.language import sayable, tr
from bastler.units import in_a_sentence

HOW = sayable("Choose a command, press “Another key”, then the key. Yours are kept; all others stay as they come.")
WAITING = sayable("Press the key that it is to have. Esc leaves it as it is.")


class KeysDialog(QDialog):
    """`picked` has all own keys, whenever one has changed."""

    picked = pyqtSignal(dict)

    def __init__(self, parent: QWidget, own: Mapping[str, str]) -> None:
        super().__init__(parent)
        self.own = dict(own)
        self.setObjectName("paper")
        self.setWindowTitle(tr("Keys"))
        self.resize(620, 560)
        self.waiting = False
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("type to find"))
        self.search.setAccessibleName(tr("Find a command"))
        self.search.textChanged.connect(self._show)
        self.list = QListWidget()
        self.list.setObjectName("picks")
        self.list.setAccessibleName(tr("Commands and their keys"))
        self.list.currentRowChanged.connect(lambda _: self._stop())
        self.says = Label(tr(HOW))
        self.says.setWordWrap(True)
        self.other = self._button(tr("Another key"), self._wait)
        self.none = self._button(tr("No key"), lambda: self._give(""))
        self.back = self._button(tr("As it comes"), self._as_it_comes)
        self.all_back = self._button(tr("All as they come"), self._all_as_they_come)
        self.close_button = self._button(tr("Close"), self.accept)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 16, 18, 14)
        column.setSpacing(10)
        for widget in (self.search, self.list, self.says):
            column.addWidget(widget)
        row = QHBoxLayout()
        for button in (self.other, self.none, self.back, self.all_back):
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(self.close_button)
        column.addLayout(row)
        self._shown: list[Command] = []
        self._show()

    def _button(self, words: str, act) -> QPushButton:  # type: ignore[no-untyped-def]
        button = QPushButton(words)
        button.setObjectName("plain")
        button.setAutoDefault(False)
        button.clicked.connect(lambda _: act())
        return button

    @property
    def chosen(self) -> Command | None:
        """The command that is lit."""
        row = self.list.currentRow()
        return self._shown[row] if 0 <= row < len(self._shown) else None

    def _show(self, _: str = "") -> None:
        lit = self.chosen
        words = self.search.text().casefold().split()
        self._shown = [
            e for e in COMMANDS.values() if all(w in f"{tr(e.says)} {tr(e.menu)} {shown(e, self.own)}".casefold() for w in words)
        ]
        self.list.clear()
        for entry in self._shown:
            key = key_text(shown(entry, self.own)) or tr("no key")
            self.list.addItem(
                QListWidgetItem(f"{tr(entry.menu)}:  {tr(entry.says)}   {key}{tr('  (yours)') if entry.name in self.own else ''}")
            )
        if self._shown:
            self.list.setCurrentRow(self._shown.index(lit) if lit in self._shown else 0)

    def _wait(self) -> None:
        if self.chosen is not None:
            self.waiting = True
            self.says.setText(f"{tr(self.chosen.says)}: {in_a_sentence(tr(WAITING))}")
            self.setFocus()
            self.grabKeyboard()

    def _stop(self) -> None:
        if self.waiting:
            self.waiting = False
            self.releaseKeyboard()
            self.says.setText(tr(HOW))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """The key that was waited for."""
        if event is None or not self.waiting:
            super().keyPressEvent(event)
            return
        if Qt.Key(event.key()) in ALONE:
            return
        if event.key() == Qt.Key.Key_Escape:
            self._stop()
            return
        key = QKeySequence(event.keyCombination()).toString()
        self._stop()
        self._give(key)

    def _give(self, key: str) -> None:
        entry = self.chosen
        if entry is None:
            return
        try:
            own = changed(self.own, entry.name, key)
        except KeyTaken as error:
            self.says.setText(str(error))
            return
        self._take(own)
        self.says.setText(f"{tr(entry.says)}: {key_text(shown(entry, self.own)) or tr('no key')}.")

    def _as_it_comes(self) -> None:
        entry = self.chosen
        if entry is None:
            return
        try:
            self._take(returned(self.own, entry.name))
        except KeyTaken as error:
            self.says.setText(str(error))

    def _all_as_they_come(self) -> None:
        self._take({})

    def _take(self, own: dict[str, str]) -> None:
        """Other keys, from now on."""
        self.own = own
        self._show()
        self.picked.emit(own)

    def done(self, how: int) -> None:
        """The keyboard goes back whatever ends it."""
        self._stop()
        super().done(how)
