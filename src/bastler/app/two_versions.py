"""A file holds something else than was thought: both are shown, and the machinist says which holds."""

from __future__ import annotations

import contextlib
import time
from pathlib import Path

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.labels import Label
from bastler.app.part_pictures import PartPictures
from bastler.app.qt_words import day_of
from bastler.app.theme import sans
from bastler.job import Job
from bastler.job.files import job_text
from bastler.job.kept import between
from bastler.language import tr

MINE, THEIRS, NEITHER = "mine", "theirs", ""


class _Picture(QWidget):
    """The part of a job."""

    def __init__(self, job: Job | None, pictures: PartPictures) -> None:
        super().__init__()
        self.pictures = pictures
        self.job, self.text = job, job_text(job) if job else b""
        self.setFixedSize(300, 190)
        pictures.ready.connect(self.update)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            if self.job is not None:
                self.pictures.draw(painter, self.text, QRectF(self.rect()).adjusted(8, 8, -8, -8))


class TwoVersions(QDialog):
    """Mine and theirs side by side; `choice` is MINE, THEIRS or NEITHER."""

    def __init__(self, parent: QWidget, path: Path, mine: Job, theirs: Job | None, pictures: PartPictures, *, own: bool) -> None:
        """`own`: it is the job's own file, and somebody saved it meanwhile; else a file that is there already."""
        super().__init__(parent)
        self.setObjectName("paper")
        self.setWindowTitle(tr("Two versions"))
        self.choice = NEITHER
        what = tr("was saved elsewhere since it was opened here") if own else tr("is there already")
        head = Label(f"{path.name} {what}.")
        head.setFont(sans(18, bold=True))
        why = Label(tr("Only one of the two can stay in the file. Nothing has been written yet."))
        why.setObjectName("soft")
        changed = ""
        with contextlib.suppress(OSError):
            written = path.stat().st_mtime
            clock = time.strftime("%H:%M", time.localtime(written))
            changed = tr(" of {day}, {clock}", day=day_of(written), clock=clock)
        says = between(theirs, mine) if theirs else tr("It is no job that can be read.")
        self.keep_mine = QPushButton(tr("Save this one over it"))
        self.keep_mine.setObjectName("plain")
        self.keep_mine.clicked.connect(lambda: self._chosen(MINE))
        self.take_theirs = QPushButton(tr("Open that one instead"))
        self.take_theirs.setObjectName("plain")
        self.take_theirs.setEnabled(theirs is not None)
        self.take_theirs.clicked.connect(lambda: self._chosen(THEIRS))
        back = QPushButton(tr("Neither: go back"))
        back.setObjectName("main")
        back.clicked.connect(self.reject)
        row = QHBoxLayout()
        row.setSpacing(24)
        here = tr("Here it has {says}", says=says) if theirs and says else tr("As it is here")
        kept = (
            tr("What is open here is kept and offered at the start.")
            if own
            else tr("The job that is open here is kept all the same.")
        )
        row.addLayout(_side(tr("Here, as it is on the screen"), _Picture(mine, pictures), f"{here}.", self.keep_mine))
        row.addLayout(
            _side(
                tr("In the file{changed}", changed=changed),
                _Picture(theirs, pictures),
                kept if theirs else says,
                self.take_theirs,
            )
        )
        whole = QVBoxLayout(self)
        whole.setContentsMargins(26, 22, 26, 20)
        whole.setSpacing(14)
        whole.addWidget(head)
        whole.addWidget(why)
        whole.addLayout(row)
        whole.addWidget(back, 0, Qt.AlignmentFlag.AlignRight)
        back.setFocus()

    def _chosen(self, choice: str) -> None:
        self.choice = choice
        self.accept()


def _side(title: str, picture: QWidget, says: str, button: QPushButton) -> QVBoxLayout:
    column = QVBoxLayout()
    column.setSpacing(8)
    head = Label(title)
    head.setFont(sans(13, bold=True))
    column.addWidget(head)
    column.addWidget(picture)
    words = Label(says)
    words.setObjectName("soft")
    words.setWordWrap(True)
    column.addWidget(words)
    column.addStretch(1)
    column.addWidget(button)
    return column
