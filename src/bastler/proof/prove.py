"""Proving a job, milled or turned."""

from __future__ import annotations

from typing import Any

from bastler.job import Plan
from bastler.post import Program
from bastler.proof.prover import MillProver
from bastler.proof.result import AnyProof
from bastler.proof.turn.prover import TurnProver


class Prover:
    """Proves one job after another and remembers what did not change. Not for use by two threads at a time.

    `cell_mm` fixes the cell of a milled part's field; None lets it follow the part.
    """

    def __init__(self, cell_mm: float | None = None) -> None:
        self._mill = MillProver(cell_mm)
        self._turn = TurnProver()

    def prove(self, plan: Plan, program: Program | None = None, stop: Any = None) -> AnyProof | None:
        """The proof of a plan's own program, or of another text in its place. None when `stop[0]` was set meanwhile."""
        prover: Any = self._turn if plan.job.turns else self._mill
        found: AnyProof | None = prover.prove(plan, program, stop)
        return found


def prove_job(plan: Plan, program: Program | None = None, cell_mm: float | None = None) -> Any:
    """One proof from nothing."""
    proof = Prover(cell_mm).prove(plan, program)
    if proof is None:
        raise RuntimeError("A proof nobody stopped did not finish.")
    return proof
