"""Planning beside the window: what is there within a moment is taken at once, what takes longer comes when it is there.

A plan cannot be stopped half-way. One that nobody wants any more runs to its end on its own thread, and is dropped.
"""

from __future__ import annotations

import logging
import threading
from concurrent.futures import Future
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from bastler.job import Job, Plan, plan

log = logging.getLogger(__name__)
PATIENCE = 0.12
"""Seconds that the window waits for a plan: as long as a key press may take."""
MOST_AT_ONCE = 4
"""Plans that are being made at the same time; a newer one waits for an older to end."""


class Planner(QObject):
    """Numbered requests, newest wins. `planned` comes for a plan that was not there within the patience. Connect it queued: it
    may be there the very moment that the patience ends."""

    planned = pyqtSignal(int, object)
    failed = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._room = threading.Semaphore(MOST_AT_ONCE)
        self._newest = 0

    def plan(self, number: int, job: Job, old: Plan | None) -> Plan | None:
        """The plan of a job if it is there at once; None where it comes later, by the signal, or not at all."""
        self._newest = number
        made: Future[Plan] = Future()
        # no pool: its threads would hold the end of the program until their plans are made
        threading.Thread(target=self._make, args=(number, job, old, made), name="plan", daemon=True).start()
        try:
            return made.result(PATIENCE)
        except TimeoutError:
            made.add_done_callback(partial(self._late, number))
        except Exception as error:
            self._fail(error)
        return None

    def close(self) -> None:
        """Nothing that is still being planned is wanted."""
        self._newest = -1

    def _make(self, number: int, job: Job, old: Plan | None, made: Future[Plan]) -> None:
        with self._room:
            if number != self._newest:
                return
            try:
                made.set_result(plan(job, old))
            except Exception as error:
                made.set_exception(error)

    def _late(self, number: int, made: Future[Plan]) -> None:
        if number == self._newest:
            error = made.exception()
            self._fail(error) if error else self.planned.emit(number, made.result())

    def _fail(self, error: BaseException) -> None:
        log.error("The plan failed", exc_info=error)
        self.failed.emit("This job could not be planned. The job is kept; undo the last change.")
