"""The log, and a report that the user can send: what ran where, what went wrong, and the job if that is wanted. Nothing is ever
sent by Bastler itself."""

from __future__ import annotations

import io
import logging
import os
import platform
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path

import platformdirs
from PyQt6.QtCore import PYQT_VERSION_STR, qVersion
from PyQt6.QtGui import QGuiApplication

from bastler import __version__
from bastler.disk import read_bounded
from bastler.job import Job
from bastler.job.files import job_text

LARGEST = 1_000_000
"""Bytes of a log; then it begins anew, and the one before is kept."""
KEPT = 1
FORMAT = "%(asctime)s %(levelname)s %(name)s: %(message)s"


def log_path() -> Path:
    """Where the log of the window is."""
    return platformdirs.user_state_path("bastler") / "bastler.log"


def keep_log() -> logging.Handler | None:
    """Warnings and worse are kept in a file besides; None where the disk does not take it: that is no reason not to start."""
    try:
        log_path().parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(log_path(), maxBytes=LARGEST, backupCount=KEPT, encoding="utf-8", delay=True)
    except OSError:
        return None
    handler.setLevel(logging.WARNING)
    handler.setFormatter(logging.Formatter(FORMAT))
    logging.getLogger().addHandler(handler)
    return handler


def report(job: Job | None = None) -> bytes:
    """A report as the bytes of a ZIP file: `about.txt`, the logs, and `job.bastler` where a job goes along. The user's home is
    written as ~ in all of it but the job."""
    import zipfile  # loaded when it is wanted: the log is kept from the start, a report hardly ever made

    found = io.BytesIO()
    with zipfile.ZipFile(found, "w", zipfile.ZIP_DEFLATED) as parts:
        parts.writestr("about.txt", about())
        for path in sorted(log_path().parent.glob(f"{log_path().name}*")):
            try:
                text = read_bounded(path, 2 * LARGEST).decode("utf-8", "replace")
            except OSError:
                continue
            parts.writestr(path.name, _at_home(text))
        if job is not None:
            parts.writestr("job.bastler", job_text(job))
    return found.getvalue()


def about() -> str:
    """What runs here, a line each."""
    screens = [f"{s.size().width()}x{s.size().height()} at {s.devicePixelRatio():g}" for s in QGuiApplication.screens()]
    lines = {
        "Bastler": __version__,
        "Python": platform.python_version(),
        "Qt": f"{qVersion()}, PyQt {PYQT_VERSION_STR}",
        "System": platform.platform(),
        "Distribution": _distribution(),
        "Processors": str(os.cpu_count()),
        "Window system": QGuiApplication.platformName(),
        "Desktop": os.environ.get("XDG_CURRENT_DESKTOP", "none"),
        "Screens": ", ".join(screens) or "none",
        "Language": os.environ.get("LANG", "none"),
        "Started as": _at_home(" ".join(sys.argv)),
    }
    return "".join(f"{name}: {value}\n" for name, value in lines.items())


def _distribution() -> str:
    try:
        return platform.freedesktop_os_release().get("PRETTY_NAME", "not known")
    except OSError:
        return "not known"


def _at_home(text: str) -> str:
    """Without the user's name as it stands in paths."""
    home = str(Path.home())
    return text.replace(home, "~") if len(home) > 1 else text
