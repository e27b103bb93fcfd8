"""Planning beside the window: what is there within a moment is taken at once, what takes longer comes when it is there.

A plan cannot be stopped half-way. One that nobody wants any more runs to its end on its own thread, and is dropped.
"""

from __future__ import annotations

import logging
import threading
import time
from concurrent.futures import Future
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from bastler.job import Job, Plan, plan
from bastler.job.planned import PlannedStep
from bastler.shapes import draw

log = logging.getLogger(__name__)
PATIENCE = 0.12
"""Seconds that the window waits for a plan: as long as a key press may take."""
MOST_AT_ONCE = 4
"""Plans that are being made at the same time; a newer one waits for an older to end."""
QUIET = 0.5
"""Seconds without a newer plan after which what the sheet may be asked for next is made."""


class Planner(QObject):
    """Numbered requests, newest wins. `planned` comes for a plan that was not there within the patience, `failed` with the number
    and the reason where there will be none. Connect them queued: they may be there the very moment that the patience ends."""

    planned = pyqtSignal(int, object)
    failed = pyqtSignal(int, str)

    def __init__(self) -> None:
        super().__init__()
        self._room = threading.Semaphore(MOST_AT_ONCE)
        self._newest = 0

    def plan(self, number: int, job: Job, old: Plan | None, shown: str = "") -> Plan | None:
        """The plan of a job if it is there at once; None where it comes later, by the signal, or not at all. What the sheet draws
        of the step that is `shown` is made with it, and what it draws of the others behind it."""
        self._newest = number
        made: Future[Plan] = Future()
        # no pool: its threads would hold the end of the program until their plans are made
        threading.Thread(target=self._make, args=(number, job, old, shown, made), name="plan", daemon=True).start()
        try:
            return made.result(PATIENCE)
        except TimeoutError:
            made.add_done_callback(partial(self._late, number))
        except Exception as error:
            self._fail(number, error)
        return None

    def drop(self) -> None:
        """Nothing that is still being planned is wanted, and what comes next does not wait for it."""
        self._newest = -1
        self._room = threading.Semaphore(MOST_AT_ONCE)

    def _make(self, number: int, job: Job, old: Plan | None, shown: str, made: Future[Plan]) -> None:
        with self._room:
            if number != self._newest:
                return
            try:
                found = plan(job, old)
                for outline in job.outlines:  # also those that no step follows are looked at
                    draw(outline)
                _sketched(found.step(shown))
            except Exception as error:
                made.set_exception(error)
                return
            made.set_result(found)
        time.sleep(QUIET)  # what was asked for comes first
        for step in found.steps:
            if number == self._newest:
                _sketched(step)

    def _late(self, number: int, made: Future[Plan]) -> None:
        if number == self._newest:
            error = made.exception()
            self._fail(number, error) if error else self.planned.emit(number, made.result())

    def _fail(self, number: int, error: BaseException) -> None:
        log.error("The plan failed", exc_info=error)
        self.failed.emit(number, "This job could not be planned. The job is kept; undo the last change.")


def _sketched(step: PlannedStep | None) -> None:
    """Has what the sheet draws of a step made; the step keeps it. One that cannot be drawn is met again where it is painted."""
    try:
        _ = step and (step.sketch, step.cutaway, step.half_cut)
    except Exception:
        log.exception("A step could not be drawn")
