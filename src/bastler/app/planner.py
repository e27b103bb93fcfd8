"""Planning beside the window: what is there within a moment is taken at once, what takes longer comes when it is there.

A plan cannot be stopped half-way. One that nobody wants any more runs to its end on its own thread, and is dropped.
"""

from __future__ import annotations

import logging
import threading

from PyQt6.QtCore import QObject, pyqtSignal

from bastler.job import Job, Plan, plan

log = logging.getLogger(__name__)
PATIENCE = 0.12
"""Seconds that the window waits for a plan: as long as a key press may take."""
MOST_AT_ONCE = 4
"""Plans that are being made at the same time; a newer one waits for an older to end."""


class Planner(QObject):
    """Numbered requests, newest wins. `planned` comes for a plan that was not there within the patience."""

    planned = pyqtSignal(int, object)
    failed = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._room = threading.Semaphore(MOST_AT_ONCE)
        self._newest = 0
        self._closed = False

    def plan(self, number: int, job: Job, old: Plan | None) -> Plan | None:
        """The plan of a job if it is there at once; None where it comes later, by the signal."""
        self._newest = number
        done, waited = threading.Event(), threading.Event()
        found: list[Plan] = []
        lock = threading.Lock()

        def work() -> None:
            with self._room:
                if number != self._newest or self._closed:
                    return
                try:
                    made = plan(job, old)
                except Exception:
                    log.exception("The plan failed")
                    if not self._closed:
                        self.failed.emit("This job could not be planned. The job is kept; undo the last change.")
                    return
            with lock:
                late = waited.is_set()
                found.append(made)
                done.set()
            if late and number == self._newest and not self._closed:
                self.planned.emit(number, made)

        threading.Thread(target=work, name="plan", daemon=True).start()
        done.wait(PATIENCE)
        with lock:
            waited.set()
            return found[0] if found else None

    def close(self) -> None:
        """Nothing that is still being planned is wanted."""
        self._closed = True
