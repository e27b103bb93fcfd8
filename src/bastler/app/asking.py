"""Asking for files in a dialog of our own look. A name is completed before it is asked whether its file may be replaced."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from bastler.disk import completed

OWN_DIALOG = QFileDialog.Option.DontUseNativeDialog
UNASKED = OWN_DIALOG | QFileDialog.Option.DontConfirmOverwrite
"""The dialog asks about the name as it was typed, before it is completed: so it does not ask, we do."""


def file_to_open(parent: QWidget, title: str, folder: str, kinds: str) -> Path | None:
    """A file that is there, or None."""
    name, _ = QFileDialog.getOpenFileName(parent, title, folder, kinds, options=OWN_DIALOG)
    return Path(name) if name else None


def file_to_write(parent: QWidget, title: str, start: Path, kinds: str, *suffixes: str, replacing: bool = True) -> Path | None:
    """A file to write, its name with one of the suffixes; None when it was not to be. With `replacing` it is asked about one that
    is there already."""
    while True:
        name, _ = QFileDialog.getSaveFileName(parent, title, str(start), kinds, options=UNASKED)
        if not name:
            return None
        path = completed(Path(name), *suffixes)
        if not (replacing and path.exists()) or may_replace(parent, path):
            return path
        start = path


def may_replace(parent: QWidget, path: Path) -> bool:
    """Whether a file that is there may be lost."""
    box = QMessageBox(parent)
    box.setWindowTitle("Replace it?")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(f"{path.name} is there already. What is in it would be lost.")
    yes = box.addButton("Replace it", QMessageBox.ButtonRole.DestructiveRole)
    box.setDefaultButton(box.addButton("Another name", QMessageBox.ButtonRole.RejectRole))
    box.exec()
    return box.clickedButton() is yes
