"""Proving and scrubbing off the interface thread: numbered requests, newest wins, late answers are known and dropped."""

from __future__ import annotations

import logging
import threading
from dataclasses import dataclass
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from bastler.job import Plan
from bastler.proof import MillProof, Proof, Prover, TurnProof
from bastler.proof.mill.mesh import Mesh, Others, mesh
from bastler.proof.mill.scrub import Scrubber
from bastler.proof.scrub import Moment
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
    """Proofs and pictures beside the window; a newer request takes the place of an older one. `proved` and `meshed` bring what
    was asked for, `failed` the number of a proof that came to nothing and the reason in words."""

    proved = pyqtSignal(int, object)
    meshed = pyqtSignal(int, object, object)
    failed = pyqtSignal(int, str)

    def __init__(self) -> None:
        super().__init__()
        self._lane = _Lane(self)

    def prove(self, request: ProofRequest) -> None:
        """Takes the place of whatever proof is waiting or running."""
        self._lane.put(proof=request)

    def make_mesh(self, request: MeshRequest) -> None:
        """Takes the place of whatever picture is waiting."""
        self._lane.put(mesh=request)

    def drop(self) -> None:
        """Nobody waits any longer for what is running, and what comes next does not wait for it either: a proof that hangs
        where it does not look whether it is wanted ends on its own thread, unheard."""
        old, self._lane = self._lane, _Lane(self)
        old.leave()

    def close(self) -> None:
        """Ends the thread."""
        self._lane.leave()
        self._lane.thread.join(timeout=5)


class _Lane:
    """One thread with two places to put work: a proof goes before a picture."""

    def __init__(self, worker: Worker) -> None:
        self._worker = worker
        self._wake = threading.Condition()
        self._proof: ProofRequest | None = None
        self._mesh: MeshRequest | None = None
        self._stop = np.zeros(1, np.uint8)
        self._left = False
        self.thread = threading.Thread(target=self._run, name="proof", daemon=True)
        self.thread.start()

    def put(self, *, proof: ProofRequest | None = None, mesh: MeshRequest | None = None) -> None:
        with self._wake:
            if proof is not None:
                self._proof = proof
                self._stop[0] = 1
            if mesh is not None:
                self._mesh = mesh
            self._wake.notify()

    def leave(self) -> None:
        with self._wake:
            self._left = True
            self._stop[0] = 1
            self._wake.notify()

    def _run(self) -> None:
        prover, scrubber = Prover(), Scrubber()
        while True:
            with self._wake:
                while not (self._left or self._proof or self._mesh):
                    self._wake.wait()
                if self._left:
                    return
                proof, self._proof = self._proof, None
                picture = None
                if proof is None:
                    picture, self._mesh = self._mesh, None
                self._stop[0] = 0
            number = proof.number if proof is not None else -1
            try:
                if proof is not None:
                    self._prove(prover, proof)
                elif picture is not None:
                    self._picture(scrubber, picture)
            except Exception:  # the net beneath: whatever went wrong is logged and said, the thread lives on
                log.exception("The proof failed")
                self._tell(self._worker.failed, number, "The proof of this job failed. The job is kept; undo the last change.")

    def _tell(self, signal: Any, *what: Any) -> None:
        if not self._left:
            signal.emit(*what)

    def _prove(self, prover: Prover, request: ProofRequest) -> None:
        found = prover.prove(request.plan, stop=self._stop)
        if found is not None:
            self._tell(self._worker.proved, request.number, found)

    def _picture(self, scrubber: Scrubber, request: MeshRequest) -> None:
        proof = request.proof
        made: Mesh
        others = Others()
        if isinstance(proof, TurnProof):
            made = turn_mesh(stock_at(proof, request.moment), proof.scene.raw, proof.scene.mm, whole=request.section_y is None)
        else:
            assert isinstance(proof, MillProof)
            made = mesh(proof.grid, scrubber.stock(proof, request.moment), proof.under, section_y=request.section_y)
            others = _others(proof, request)
        self._tell(self._worker.meshed, request.number, made, others)


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
                known[key] = mesh(
                    proof.grid, proof.after(last, part), proof.under, cells=OTHER_CELLS, section_y=request.section_y
                )
            found.append((place.shift, known[key]))
    return Others(tuple(found), parts[here].shift)
