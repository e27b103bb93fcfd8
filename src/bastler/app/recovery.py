"""Nothing typed is lost: what is not in a job file is kept beside within two seconds, on a thread of its own, and offered at the
next start. See `bastler.job.kept` for what is kept where."""

from __future__ import annotations

import logging
import threading
from pathlib import Path

import platformdirs
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from bastler.app.session import Session
from bastler.disk import reason_of
from bastler.job import Job
from bastler.job.kept import Copy, KeptWork
from bastler.language import tr

log = logging.getLogger(__name__)
PAUSE_MS, LATEST_MS, AGAIN_MS = 400, 1500, 5000
"""Kept so long after a pause, so long after the first change at the latest, and tried again so long after the disk refused."""
UNKNOWN = object()
"""What is written of a job that was just opened."""
Wanted = tuple[Copy, Job | None, Path | None]


def kept_work() -> KeptWork:
    """The copies of this user."""
    return KeptWork(platformdirs.user_state_path("bastler") / "kept")


class Recovery(QObject):
    """Keeps the session's job while it differs from its file. `refused` says why it cannot, and empty when it can again."""

    refused = pyqtSignal(str)
    _done = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.trouble = ""
        self._copy: Copy | None = None
        self._written: object = UNKNOWN
        self._wake = threading.Condition()
        self._writing = threading.Lock()
        self._wanted: Wanted | None = None
        self._end = False
        self._pause, self._latest = QTimer(self), QTimer(self)
        for timer in (self._pause, self._latest):
            timer.setSingleShot(True)
            timer.timeout.connect(self._ask)
        session.job_changed.connect(self._changed)
        self._done.connect(self._told)
        self._thread = threading.Thread(target=self._run, name="keeping", daemon=True)
        self._thread.start()

    @property
    def ident(self) -> str:
        """That of the kept copy; empty where nothing is being kept."""
        return self._copy.ident if self._copy is not None else ""

    def begin(self, ident: str = "") -> None:
        """A job has been opened; `ident` is that of the kept copy it comes from."""
        self._written = self.session.job if ident else UNKNOWN
        try:
            self._copy = kept_work().begin(ident)
        except OSError as error:
            self._copy = None
            self._told(error)
        self._ask()

    def leave(self) -> None:
        """The job is left: what is in no file is kept now, and stays."""
        self.keep()
        if self._copy is not None:
            self._copy.let_go()
        self._copy, self._written = None, UNKNOWN

    def keep(self) -> None:
        """Writes what there is to keep, and waits for it."""
        self._pause.stop()
        self._latest.stop()
        with self._writing:  # what the thread writes now is written, what it has not taken up is ours
            with self._wake:
                waiting, self._wanted = self._wanted, None
            wanted = self._what() or waiting
            if wanted is not None:
                self._told(_write(*wanted))

    def close(self) -> None:
        """The window closes."""
        self.leave()
        with self._wake:
            self._end = True
            self._wake.notify()

    def _changed(self) -> None:
        self._pause.start(PAUSE_MS)
        if not self._latest.isActive():
            self._latest.start(LATEST_MS)

    def _ask(self) -> None:
        """Hands what there is to keep to the thread."""
        self._pause.stop()
        self._latest.stop()
        wanted = self._what()
        if wanted is not None:
            with self._wake:
                self._wanted = wanted
                self._wake.notify()

    def _what(self) -> Wanted | None:
        """What has to be written; without a job, that the copy goes; None where all is as it should be."""
        session = self.session
        if self._copy is None or not session.has_job:
            return None
        job = session.job if session.dirty and not session.untouched else None
        if job is self._written:
            return None
        self._written = job
        return self._copy, job, session.path

    def _run(self) -> None:
        while True:
            with self._wake:
                while self._wanted is None and not self._end:
                    self._wake.wait()
                if self._end:
                    return
            with self._writing:
                with self._wake:
                    wanted, self._wanted = self._wanted, None
                if wanted is not None:
                    error = _write(*wanted)
                    if not self._end:
                        self._done.emit(error)

    def _told(self, error: OSError | None) -> None:
        """The disk took it or refused it: a refusal is said, stays said, and is tried again."""
        text = (
            tr("What you type is not being kept: {error}. Save the job where there is room.", error=reason_of(error))
            if error
            else ""
        )
        if error is not None:
            log.info("The job could not be kept", exc_info=error)
            self._written = UNKNOWN
            QTimer.singleShot(AGAIN_MS, self._ask)
        if text != self.trouble:
            self.trouble = text
            self.refused.emit(text)


def _write(copy: Copy, job: Job | None, file: Path | None) -> OSError | None:
    """Keeps a job, or takes its copy away where there is nothing to keep; the error of a disk that refuses."""
    try:
        if job is None:
            copy.drop()
        else:
            copy.keep(job, file)
    except OSError as error:
        return error
    return None
