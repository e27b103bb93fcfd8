"""Where the work is done: one lane plans and answers, another proves, a third answers what takes long and no edit waits for.

Whatever is newer takes the place of what is older; a proof that is running then is stopped, a plan runs to its end and is shown
where nothing newer is.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from bastler.job import Job, Plan, plan
from bastler.job.samples import sample
from bastler.language import tr
from bastler.live.messages import (
    Answered,
    Ask,
    Busy,
    Drop,
    Failed,
    Going,
    Idle,
    Leave,
    LookAt,
    Looked,
    Planned,
    Proved,
    Report,
    Work,
)
from bastler.live.showing import Showing, look, shared
from bastler.live.shown import ShownPlan, ShownRun, ShownStep, ShownWhole
from bastler.live.tasks import BESIDE, EXPECTED, TASKS, State, Unwanted
from bastler.live.wire import Shelf
from bastler.proof import Prover
from bastler.proof.mill.mesh import load
from bastler.shapes.compiling import compiled_within

log = logging.getLogger(__name__)
QUIET = 0.4
"""Seconds without anything to do after which what may be looked at next is made."""
TICK = 0.1
"""Seconds between two words on how far a job is."""
WARM = "winch-base"
"""The sample that is proved before there is a job."""
UNSEEN = 0
"""The number of what nobody has asked for."""
AFTER = 0.25
"""Seconds that nothing is said of how far it is."""


class Desk:
    """The lanes. `tell` hands a report on; it may be called from any."""

    def __init__(self, tell: Callable[[Report], None]) -> None:
        self._tell_on = tell
        self._telling = threading.Lock()
        self._wake = threading.Condition()
        self._work: Work | None = None
        self._look: LookAt | None = None
        self._asks: dict[str, Ask] = {}
        self._slow: dict[str, Ask] = {}
        self._to_prove: tuple[int, Plan] | None = None
        self._stop = np.zeros(1, np.uint8)
        self._newest = 0
        self._at: dict[str, tuple[int, float]] = {}
        self._share = 0.0
        self._besides_at = (-1, 0.0)
        """The token of the task that is worked at beside the others, and how much of it is done."""
        self._unwanted = -1
        self._left = False
        self._number = 0
        self._warmed = self._solids = False
        """Has what jobs need been loaded, and what solids need?"""
        self._state = State(told=self._going_on)
        self._job: Job | None = None
        self._showing = Showing()
        self._steps, self._runs = Shelf[ShownStep](), Shelf[ShownRun]()
        self._threads = [
            threading.Thread(target=lane, name=name, daemon=True)
            for name, lane in (("plan", self._plans), ("proof", self._proofs), ("beside", self._besides), ("word", self._words))
        ]

    def start(self) -> None:
        """Begins to work."""
        for thread in self._threads:
            thread.start()

    # -- what is wanted -----------------------------------------------------------------------------------------

    def take(self, request: Any) -> None:
        """Something to do."""
        with self._wake:
            unwanted = list(self._at.items())
            if isinstance(request, Work):
                self._work, self._newest = request, request.number
                self._look = None
                self._stop[0] = 1
            elif isinstance(request, LookAt):
                self._look = request
            elif isinstance(request, Ask):
                (self._slow if request.task in BESIDE else self._asks)[request.slot] = request
            elif isinstance(request, Leave):
                self._unwanted = request.token
                self._slow = {slot: ask for slot, ask in self._slow.items() if ask.token != request.token}
            else:
                self._work = None
                if self._to_prove is not None:
                    self._to_prove = None
                    self._at.pop("proof", None)
                self._newest = -1
                self._stop[0] = 1
            self._wake.notify_all()
        if isinstance(request, Drop):
            threading.Thread(target=self._when_ended, args=(unwanted,), daemon=True).start()

    def _when_ended(self, unwanted: list[tuple[str, tuple[int, float]]]) -> None:
        """Tells when all of that has ended, whatever has been begun since."""
        while any(self._at.get(what) == begun for what, begun in unwanted):
            time.sleep(0.005)
        self._tell(Idle())

    def leave(self) -> None:
        """Ends the lanes."""
        with self._wake:
            self._left = True
            self._stop[0] = 1
            self._wake.notify_all()

    def _tell(self, report: Report) -> None:
        with self._telling:
            if not self._left:
                self._tell_on(report)

    # -- the lane that plans and answers ------------------------------------------------------------------------

    def _plans(self) -> None:
        while True:
            with self._wake:
                quiet = False
                while not (self._left or self._work or self._look or self._asks or quiet):
                    cold = self._state.plan is None and not self._warmed  # loading waits for nothing: so does the window
                    quiet = cold or not self._wake.wait(QUIET)
                if self._left:
                    return
                work, self._work = self._work, None
                looked, ask = None, None
                if work is None:
                    looked, self._look = self._look, None
                if work is None and looked is None and self._asks:
                    ask = self._asks.pop(next(iter(self._asks)))
            if work is not None:
                self._plan(work)
            elif looked is not None:
                self._looked(looked)
            elif ask is not None:
                self._answer(ask)
            else:
                self._look_ahead()
                with self._wake:
                    while not (self._left or self._work or self._look or self._asks):
                        self._wake.wait()

    def _plan(self, asked: Work) -> None:
        self._at["plan"] = (asked.number, time.monotonic())
        try:
            job = shared(asked.job, self._job)
            old = self._state.plan
            planned = plan(job, old if old is not None and old.job.turns == job.turns else None)
            self._job, self._state.plan, self._number = job, planned, asked.number
            shown = self._showing.plan(planned)
            seen = look(planned, asked.card, asked.section)
            numbers, new = self._steps.pack(shown.steps)
            every = iter(numbers)
            by_holding = tuple(tuple(next(every) for _ in held.steps) for held in shown.holdings)
            self._tell(Planned(asked.number, _bare(shown), by_holding, new, seen))
        except Exception:
            log.exception("The plan failed")
            self._tell(Failed(asked.number, tr("This job could not be planned. The job is kept; undo the last change.")))
            return
        finally:
            self._at.pop("plan", None)
        with self._wake:
            if asked.number == self._newest:
                self._to_prove = (asked.number, planned)
                self._at["proof"] = (asked.number, time.monotonic())
                self._wake.notify_all()

    def _looked(self, asked: LookAt) -> None:
        if self._state.plan is None:
            return
        try:
            seen = look(self._state.plan, asked.card, asked.section)
        except Exception:
            log.exception("A card could not be drawn")
            return
        self._tell(Looked(self._number, seen))

    def _look_ahead(self) -> None:
        """What there is to see of the other steps; planning keeps it. Before the first job all that jobs need is loaded."""
        planned = self._state.plan
        if planned is None:
            self._warm()
        elif not self._solids:
            self._solids = True
            threading.Thread(target=load, daemon=True).start()  # beside the lanes: an edit does not wait for it
        for done in planned.steps if planned is not None else ():
            if self._work or self._look or self._asks or self._left:
                return
            try:
                look(planned, done.step.id) if planned is not None else None
            except Exception:
                log.exception("A step could not be drawn")

    def _warm(self) -> None:
        """Plans and proves a sample, that nobody gets to see: compiler and kernels are loaded by it."""
        self._warmed = True
        planned = plan(sample(WARM))
        with self._wake:
            if not self._work and not self._left:
                self._to_prove = (UNSEEN, planned)
                self._wake.notify_all()

    def _besides(self) -> None:
        while True:
            with self._wake:
                while not (self._left or self._slow):
                    self._wake.wait()
                if self._left:
                    return
                ask = self._slow.pop(next(iter(self._slow)))
                self._besides_at = (ask.token, 0.0)
            self._work_out(ask)
            self._besides_at = (-1, 0.0)

    def _going_on(self, share: float) -> None:
        token, _ = self._besides_at
        if token == self._unwanted or self._left:
            raise Unwanted
        self._besides_at = (token, share)

    def _answer(self, ask: Ask) -> None:
        self._at["task"] = (0, time.monotonic())
        try:
            self._work_out(ask)
        finally:
            self._at.pop("task", None)

    def _work_out(self, ask: Ask) -> None:
        try:
            value = TASKS[ask.task](self._state, *ask.given)
            self._tell(Answered(ask.token, value))
        except Unwanted:
            return
        except Exception as error:
            known = isinstance(error, EXPECTED)
            if not known:
                log.exception("A task failed: %s", ask.task)
            self._tell(Answered(ask.token, None, str(error) if known else tr("That could not be worked out.")))

    # -- the lane that proves -----------------------------------------------------------------------------------

    def _proofs(self) -> None:
        prover = Prover()
        while True:
            with self._wake:
                while not (self._left or self._to_prove):
                    self._wake.wait()
                if self._left or self._to_prove is None:
                    return
                (number, planned), self._to_prove = self._to_prove, None
                self._stop[0] = number not in (self._newest, UNSEEN)
                self._share = 0.0
            try:
                found = prover.prove(planned, stop=self._stop, told=self._how_far)
                if found is not None and number == self._newest != UNSEEN:
                    self._state.proof = found
                    shown = self._showing.whole(found)
                    runs, new = self._runs.pack(s.run for one in shown.holdings for s in one.stages)
                    self._tell(Proved(number, _without_runs(shown), runs, new))
            except Exception:
                log.exception("The proof failed")
                self._tell(Failed(number, tr("The proof of this job failed. The job is kept; undo the last change.")))
            finally:
                with self._wake:
                    if self._at.get("proof", (UNSEEN, 0.0))[0] == number:
                        self._at.pop("proof", None)

    def _how_far(self, share: float) -> None:
        self._share = share

    # -- how far it is ------------------------------------------------------------------------------------------

    def _words(self) -> None:
        while not self._left:
            time.sleep(TICK)
            token, share = self._besides_at
            if share > 0.0:
                self._tell(Going(token, share))
            waiting = self._work
            if waiting is not None and compiled_within(2 * TICK):  # behind what is loaded before there is a job
                self._tell(Busy(waiting.number, planning=True, share=0.0, compiling=True))
            for what, (number, since) in list(self._at.items()):
                if time.monotonic() - since > AFTER and number == self._newest:
                    self._tell(Busy(number, what == "plan", self._share if what == "proof" else 0.0, compiled_within(2 * TICK)))


def _bare(shown: ShownPlan) -> ShownPlan:
    """Without its steps, which go by number, and without its job, which who asked has."""
    nothing: Any = None
    return replace(shown, job=nothing, holdings=tuple(replace(h, steps=()) for h in shown.holdings))


def _without_runs(whole: ShownWhole) -> ShownWhole:
    """Without its runs, which go by number."""
    nothing: Any = None
    bare = [replace(one, stages=tuple(replace(s, run=nothing) for s in one.stages)) for one in whole.holdings]
    return replace(whole, holdings=tuple(bare))
