"""Nothing typed is lost: what is not in a job file is kept beside, within seconds, and offered at the next start."""

from __future__ import annotations

import logging
import os
import uuid
from pathlib import Path

import platformdirs
from PyQt6.QtCore import QObject, QTimer

from bastler.app.session import Session
from bastler.job import write_job

log = logging.getLogger(__name__)
AFTER_MS = 2500


def recovery_folder() -> Path:
    return platformdirs.user_state_path("bastler") / "kept"


def kept_jobs() -> list[Path]:
    """Jobs that a crash or a close left behind, newest first; those of a Bastler that still runs are left alone."""
    found = [p for p in recovery_folder().glob("*.bastler") if not _alive(p)]
    return sorted(found, key=lambda p: p.stat().st_mtime, reverse=True)


def _alive(path: Path) -> bool:
    try:
        number = int(path.name.split("-")[0])
        os.kill(number, 0)
    except (ValueError, ProcessLookupError):
        return False
    except PermissionError:
        return True
    return number != os.getpid()


class Recovery(QObject):
    """Keeps the session's job while it differs from its file."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._path = recovery_folder() / f"{os.getpid()}-{uuid.uuid4().hex[:8]}.bastler"
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(AFTER_MS)
        self._timer.timeout.connect(self.keep)
        session.job_changed.connect(self._changed)

    def _changed(self) -> None:
        if not self._timer.isActive():
            self._timer.start()

    def keep(self) -> None:
        """Writes the job beside, or takes the kept one away when the job's own file has it all."""
        self._timer.stop()
        try:
            if self.session.dirty and (self.session.job.steps or self.session.history.undo_says):
                write_job(self.session.job, self._path)
            else:
                self._path.unlink(missing_ok=True)
        except OSError:
            log.warning("The job could not be kept", exc_info=True)
