"""Proving a job: all its holdings, each on the part as the one before leaves it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from bastler.job import Plan
from bastler.post import Program
from bastler.proof.prover import MillProver
from bastler.proof.result import AnyProof
from bastler.proof.turn.prover import TurnProver
from bastler.proof.whole import JobProof


class Prover:
    """Proves one job after another and remembers what did not change. Not for use by two threads at a time.

    `cell_mm` fixes the cell of a milled part's field; None lets it follow the part.
    """

    def __init__(self, cell_mm: float | None = None) -> None:
        self._mill = MillProver(cell_mm)
        self._turn = TurnProver()

    def prove(self, plan: Plan, texts: Mapping[int, Program] | None = None, stop: Any = None) -> JobProof | None:
        """The proof of a plan's own programs, or of other `texts` in the place of some, by the place of their holding. None when
        `stop[0]` was set meanwhile."""
        programs = [(texts or {}).get(place) for place in range(len(plan.holdings))]
        found: Any
        if plan.job.turns:
            one = self._turn.prove(plan.first, programs[0], stop)
            found = one and [one]
        else:
            found = self._mill.prove(plan, programs, stop)
        return JobProof(plan, tuple(found)) if found else None


def prove_whole(plan: Plan, texts: Mapping[int, Program] | None = None, cell_mm: float | None = None) -> JobProof:
    """One proof of a job from nothing."""
    proof = Prover(cell_mm).prove(plan, texts)
    if proof is None:
        raise RuntimeError("A proof nobody stopped did not finish.")
    return proof


def prove_job(plan: Plan, program: Program | None = None, cell_mm: float | None = None, place: int = 0) -> Any:
    """One proof of a holding from nothing, with its own program or another text in its place; the other holdings have their
    own."""
    found: AnyProof = prove_whole(plan, {place: program} if program else None, cell_mm).holdings[place]
    return found
