"""The window's side of the process that computes: hands it jobs and questions, says by signals what comes back, and starts it
again when it dies or hangs. Nothing here waits."""

from __future__ import annotations

import logging
import math
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QObject, QSocketNotifier, QTimer, pyqtSignal

from bastler.job import Job
from bastler.language import tr
from bastler.live.child import PROGRAM, Child
from bastler.live.client import Process
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
    Ready,
    Report,
    Work,
)  # fmt: skip
from bastler.live.wire import Gone

log = logging.getLogger(__name__)
LET_GO = 500
"""Milliseconds in which what is not wanted any more has to end; else its process is ended."""
Then = Callable[[Any, str], None]
"""Takes what came of a task, or why nothing did."""


class Core(QObject):
    """`planned` brings number, plan and look; `looked` a number and a look; `proved` number and proof; `failed` a number and why;
    `busy` how far somebody is; `died` what became of the job when the process had to be started again."""

    planned = pyqtSignal(int, object, object)
    looked = pyqtSignal(int, object)
    proved = pyqtSignal(int, object)
    failed = pyqtSignal(int, str)
    busy = pyqtSignal(object)
    died = pyqtSignal(str)

    def __init__(self, program: Sequence[str] = PROGRAM, child: Child | None = None) -> None:
        """`child` is a process that was started already."""
        super().__init__()
        self._program = tuple(program)
        self._number = 0
        self._jobs: dict[int, Job] = {}
        self._wanted: Work | None = None
        self._dead_at = -1
        self._then: dict[int, tuple[str, Then]] = {}
        self._told: dict[int, Callable[[float], None]] = {}
        self._token = 0
        self._closed = False
        self.ready_at = math.inf
        """When the process came up (monotonic seconds): until it has, and it may take long beside others, nothing hangs."""
        self.fresh = True
        """Has it not proved anything yet? Then it is still loading what it works with."""
        self._let_go = QTimer(self)
        self._let_go.setSingleShot(True)
        self._let_go.setInterval(LET_GO)
        self._let_go.timeout.connect(self._hangs)
        self._start(child)

    def _start(self, child: Child | None = None) -> None:
        self.process = Process(child or Child(self._program))
        self.ready_at, self.fresh = math.inf, True
        self._bell = QSocketNotifier(self.process.handle, QSocketNotifier.Type.Read, self)  # type: ignore[call-overload]  # an int will do
        self._bell.activated.connect(self._came)

    # -- asking -------------------------------------------------------------------------------------------------

    def work(self, job: Job, card: str, section: float | None = None) -> int:
        """Has a job planned and proved, with what there is to see of a card, cut open at `section`; gives its number."""
        self._number += 1
        self._jobs[self._number] = job
        self._wanted = Work(self._number, job, card, section)
        self._send(self._wanted)
        return self._number

    def look_at(self, card: str, section: float | None = None) -> None:
        """Asks what there is to see of a card of the newest plan, cut open at `section`."""
        if self._wanted is not None:
            self._wanted = replace(self._wanted, card=card, section=section)
        self._send(LookAt(card, section))

    def ask(self, task: str, *given: Any, then: Then, slot: str = "", told: Callable[[float], None] | None = None) -> None:
        """Asks for a task; of those of one `slot`, by default all of the same task, only the newest is answered. `told` hears now
        and then how much of one is done that takes long."""
        slot = slot or task
        self._then = {token: entry for token, entry in self._then.items() if entry[0] != slot}
        self._token += 1
        self._then[self._token] = (slot, then)
        self._told = {token: hears for token, hears in self._told.items() if token in self._then}
        if told is not None:
            self._told[self._token] = told
        self._send(Ask(self._token, task, given, slot))

    def leave(self, slot: str) -> None:
        """What was asked for is not wanted any more."""
        for token in [token for token, entry in self._then.items() if entry[0] == slot]:
            del self._then[token]
            self._send(Leave(token))

    @property
    def asked(self) -> bool:
        """Is an answer to a task still to come?"""
        return bool(self._then)

    def drop(self) -> None:
        """Nothing that is being planned or proved is wanted any more; what does not let go is ended."""
        self._wanted = None
        self._let_go.start()
        self._send(Drop())

    def forget(self) -> None:
        """Nobody is there any more to hear what comes of tasks: those that take long are not worked at any longer."""
        for slot in {slot for slot, _ in self._then.values()}:
            self.leave(slot)

    def close(self) -> None:
        """Ends the process."""
        self._closed = True
        self._let_go.stop()
        self._bell.setEnabled(False)
        self.process.close()

    def _send(self, request: Any) -> None:
        if self._closed:
            return
        try:
            self.process.send(request)
        except Gone:
            self._dies()

    # -- hearing ------------------------------------------------------------------------------------------------

    def _came(self) -> None:
        if self._closed:
            return
        try:
            report = self.process.receive()
        except Gone:
            self._dies()
            return
        self._heard(report)

    def _heard(self, report: Report) -> None:
        match report:
            case Planned(number=number, plan=plan, look=look):
                self._dead_at = -1
                job = self._jobs.get(number)
                self._jobs = {n: j for n, j in self._jobs.items() if n >= number}
                if job is not None:
                    self.planned.emit(number, replace(plan, job=job), look)
            case Looked(number=number, look=look):
                self.looked.emit(number, look)
            case Proved(number=number, whole=whole):
                self._dead_at, self.fresh = -1, False
                self.proved.emit(number, whole)
            case Answered(token=token, value=value, trouble=trouble):
                if token in self._then:
                    self._then.pop(token)[1](value, trouble)
            case Going(token=token, share=share):
                if token in self._then and token in self._told:
                    self._told[token](share)
            case Failed(number=number, text=text):
                self.failed.emit(number, text)
            case Busy():
                self.busy.emit(report)
            case Idle():
                self._let_go.stop()
            case Ready():
                self.ready_at = time.monotonic()

    # -- when it dies -------------------------------------------------------------------------------------------

    def _hangs(self) -> None:
        log.warning("The computation does not let go; it is started again")
        self._again()

    def _dies(self) -> None:
        """Once it is begun again with the same job; if that kills it, somebody has to change the job."""
        log.error("The computation ended by itself; it is started again")
        wanted = self._wanted
        twice = wanted is not None and wanted.number == self._dead_at
        self._dead_at = wanted.number if wanted is not None else -1
        if twice:
            self._wanted = None
        self._again()
        if twice and wanted is not None:
            self.failed.emit(
                wanted.number, tr("The computation ended twice over this job. The job is kept; undo the last change.")
            )
        elif wanted is not None:
            self.died.emit(tr("The computation ended by itself and was started again. Nothing is lost."))

    def _again(self) -> None:
        self._let_go.stop()
        self._bell.setEnabled(False)
        self._bell.deleteLater()
        self.process.close()
        self._start()
        if self._wanted is not None:
            self._send(self._wanted)
        lost, self._then = self._then, {}
        for _, then in lost.values():
            then(None, tr("That could not be worked out."))
