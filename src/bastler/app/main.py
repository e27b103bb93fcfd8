"""Starting the window."""

from __future__ import annotations

import gc
import logging
import os
import sys
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication

from bastler.app.qt_words import speak_in_qt
from bastler.app.report import keep_log
from bastler.app.theme import icon, load_fonts, sans, style_sheet
from bastler.live.child import Child

log = logging.getLogger("bastler")


NAME = "Bastler"
SWITCH_SECONDS = 0.001
"""How long a thread may keep the interpreter: a kernel that comes back from its work waits at most this long for it."""


def make_application() -> QApplication:
    """The one QApplication, dressed."""
    sys.setswitchinterval(SWITCH_SECONDS)
    existing = QApplication.instance()
    if isinstance(existing, QApplication) and existing.applicationName() == NAME:
        return existing
    app = existing if isinstance(existing, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName(NAME)
    app.setDesktopFileName("bastler")
    load_fonts()
    app.setFont(sans(13))
    app.setStyle("Fusion")
    app.setStyleSheet(style_sheet())
    app.setWindowIcon(icon("drill", "#2F5D9B", 64))
    speak_in_qt()
    return app


def without_display() -> None:
    """Where there is no screen, for what only paints on paper."""
    if sys.platform.startswith("linux") and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def run(job_path: Path | None = None, sample_name: str | None = None, child: Child | None = None) -> int:
    """Opens the window and runs until it is closed; gives the exit code. `child` is the process that computes, where it was
    started already."""
    gc.disable()  # what is loaded now stays to the end
    logging.basicConfig(level=os.environ.get("BASTLER_LOG", "WARNING"))
    keep_log()
    if sys.platform.startswith("linux") and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        print("bastler: there is no display. `make demo` starts a virtual one.", file=sys.stderr)
        return 2
    app = make_application()
    sys.excepthook = _net
    from bastler.app.core import Core
    from bastler.app.main_window import MainWindow

    core = Core(child=child)
    window = MainWindow(core, own=True)
    if sample_name is not None:
        window.open_choice(f"sample:{sample_name}")
    elif job_path is not None:
        window.open_path(job_path)
    window.open_up()
    QTimer.singleShot(0, _collect_again)
    _when_asked(app.closeAllWindows)
    return app.exec()


def _collect_again() -> None:
    gc.freeze()
    gc.enable()


def _when_asked(close: Callable[[], object]) -> None:
    """For timing: BASTLER_QUIT_AFTER closes the window after so many milliseconds."""
    after = os.environ.get("BASTLER_QUIT_AFTER", "")
    if after.isdigit():
        QTimer.singleShot(int(after), lambda: close())


def _net(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    """The net beneath: what nobody expected is logged; the job is kept by the recovery and the window lives on."""
    log.error("Something unexpected happened", exc_info=(kind, error, trace))
