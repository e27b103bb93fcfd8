"""Asking for files in a dialog of our own look. A name is completed before it is asked whether its file may be replaced; the
folder is the one where a file of that kind was last."""

from __future__ import annotations

import logging
from pathlib import Path

import msgspec
import platformdirs
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from bastler.disk import completed, read_bounded, write_whole
from bastler.language import tr

log = logging.getLogger(__name__)
LARGEST = 100_000
MOST_KINDS = 40
"""Kinds of files whose folders are remembered."""

OWN_DIALOG = QFileDialog.Option.DontUseNativeDialog
UNASKED = OWN_DIALOG | QFileDialog.Option.DontConfirmOverwrite
"""The dialog asks about the name as it was typed, before it is completed: so it does not ask, we do."""


def folders_path() -> Path:
    """Where the folders are remembered."""
    return platformdirs.user_state_path("bastler") / "folders.json"


def _folders() -> dict[str, str]:
    try:
        return msgspec.json.decode(read_bounded(folders_path(), LARGEST), type=dict[str, str])
    except (OSError, msgspec.DecodeError):
        return {}


def last_folder(kinds: str, usual: Path) -> Path:
    """Where a file of that kind was last; the usual folder where none was, or it is not there any more."""
    found = _folders().get(kinds, "")
    return Path(found) if found and Path(found).is_dir() else usual


def remember_folder(kinds: str, folder: Path) -> None:
    """A file of that kind was there; a disk that refuses does not stop the work."""
    known = {kind: where for kind, where in _folders().items() if kind != kinds}
    kept = dict([*known.items(), (kinds, str(folder))][-MOST_KINDS:])
    try:
        write_whole(folders_path(), msgspec.json.encode(kept))
    except OSError:
        log.info("The folder could not be remembered", exc_info=True)


def _at_home(folder: Path) -> bool:
    """Does the one who asks name no folder of its own?"""
    return folder in (Path.home(), Path())


def file_to_open(parent: QWidget, title: str, folder: str, kinds: str) -> Path | None:
    """A file that is there, or None."""
    if _at_home(Path(folder)):
        folder = str(last_folder(kinds, Path.home()))
    name, _ = QFileDialog.getOpenFileName(parent, title, folder, kinds, options=OWN_DIALOG)
    if not name:
        return None
    remember_folder(kinds, Path(name).parent)
    return Path(name)


def file_to_write(parent: QWidget, title: str, start: Path, kinds: str, *suffixes: str, replacing: bool = True) -> Path | None:
    """A file to write, its name with one of the suffixes; None when it was not to be. With `replacing` it is asked about one that
    is there already."""
    if _at_home(start.parent):
        start = last_folder(kinds, Path.home()) / start.name
    while True:
        name, _ = QFileDialog.getSaveFileName(parent, title, str(start), kinds, options=UNASKED)
        if not name:
            return None
        path = completed(Path(name), *suffixes)
        if not (replacing and path.exists()) or may_replace(parent, path):
            remember_folder(kinds, path.parent)
            return path
        start = path


def may_replace(parent: QWidget, path: Path) -> bool:
    """Whether a file that is there may be lost."""
    box = QMessageBox(parent)
    box.setWindowTitle(tr("Replace it?"))
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(tr("{name} is there already. What is in it would be lost.", name=path.name))
    yes = box.addButton(tr("Replace it"), QMessageBox.ButtonRole.DestructiveRole)
    box.setDefaultButton(box.addButton(tr("Another name"), QMessageBox.ButtonRole.RejectRole))
    box.exec()
    return box.clickedButton() is yes
