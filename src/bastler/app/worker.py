"""Proving and scrubbing off the interface thread: numbered requests, newest wins, late answers are known and dropped."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from bastler.job import Plan
from bastler.proof import MillProof, Proof, Prover, TurnProof
from bastler.proof.mesh import Mesh, Others, mesh
from bastler.proof.scrub import Moment, Scrubber
from bastler.proof.turn.mesh import turn_mesh
from bastler.proof.turn.scrub import stock_at

log = logging.getLogger(__name__)


OTHER_CELLS = 60_000
"""Cells of the parts that are not worked on: they stand around, nobody measures them."""


@dataclass(frozen=True)
class ProofRequest:
    """One job to prove."""

    number: int
    plan: Plan


@dataclass(frozen=True)
class MeshRequest:
    """The solid at one moment, with a section plane or without; turned parts are cut open by a quarter or not at all."""

    number: int
    proof: Proof
    moment: Moment
    section_y: float | None


class Worker(QObject):
    """One thread with two places to put work: a proof goes before a picture, a newer request over an older one."""

    proved = pyqtSignal(int, object)
    meshed = pyqtSignal(int, object, object)
    failed = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._wake = threading.Condition()
        self._proof: ProofRequest | None = None
        self._mesh: MeshRequest | None = None
        self._stop = np.zeros(1, np.uint8)
        self._end = False
        self._thread = threading.Thread(target=self._run, name="proof", daemon=True)
        self._thread.start()

    def prove(self, request: ProofRequest) -> None:
        """Takes the place of whatever proof is waiting or running."""
        with self._wake:
            self._proof = request
            self._stop[0] = 1
            self._wake.notify()

    def make_mesh(self, request: MeshRequest) -> None:
        """Takes the place of whatever picture is waiting."""
        with self._wake:
            self._mesh = request
            self._wake.notify()

    def close(self) -> None:
        """Ends the thread."""
        with self._wake:
            self._end = True
            self._stop[0] = 1
            self._wake.notify()
        self._thread.join(timeout=5)

    def _run(self) -> None:
        prover, scrubber = Prover(), Scrubber()
        while True:
            with self._wake:
                while not (self._end or self._proof or self._mesh):
                    self._wake.wait()
                if self._end:
                    return
                proof, self._proof = self._proof, None
                picture = None
                if proof is None:
                    picture, self._mesh = self._mesh, None
                self._stop[0] = 0
            if proof is not None:
                self._guard(lambda p=proof: self._prove(prover, p))  # type: ignore[misc]
            elif picture is not None:
                self._guard(lambda m=picture: self._picture(scrubber, m))  # type: ignore[misc]

    def _guard(self, work: Callable[[], None]) -> None:
        """The net beneath: whatever went wrong is logged and said, the thread lives on."""
        try:
            work()
        except Exception:
            log.exception("The proof failed")
            self._tell(self.failed, "The proof of this job failed. The job is kept; undo the last change.")

    def _tell(self, signal: Any, *what: Any) -> None:
        if not self._end:
            signal.emit(*what)

    def _prove(self, prover: Prover, request: ProofRequest) -> None:
        found = prover.prove(request.plan, stop=self._stop)
        if found is not None:
            self._tell(self.proved, request.number, found)

    def _picture(self, scrubber: Scrubber, request: MeshRequest) -> None:
        proof = request.proof
        made: Mesh
        others = Others()
        if isinstance(proof, TurnProof):
            made = turn_mesh(stock_at(proof, request.moment), proof.scene.raw, proof.scene.mm, whole=request.section_y is None)
        else:
            assert isinstance(proof, MillProof)
            made = mesh(proof.grid, scrubber.stock(proof, request.moment), section_y=request.section_y)
            others = _others(proof, request)
        self._tell(self.meshed, request.number, made, others)


def _others(proof: MillProof, request: MeshRequest) -> Others:
    """The other parts at the moment: those that are alike share their faces."""
    parts, at = proof.scene.parts, request.moment.stage
    if len(parts) < 2:
        return Others()
    here = proof.stages[at].part if at >= 0 else 0
    last = at if at >= 0 else (len(proof.stages) - 1 if request.moment.move > 0 else -1)
    known: dict[bytes, Mesh] = {}
    found = []
    for part, place in enumerate(parts):
        if part != here:
            key = proof.done_by(last, part)
            if key not in known:
                known[key] = mesh(proof.grid, proof.after(last, part), cells=OTHER_CELLS, section_y=request.section_y)
            found.append((place.shift, known[key]))
    return Others(tuple(found), parts[here].shift)
