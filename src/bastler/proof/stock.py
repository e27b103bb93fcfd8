"""What a program is cut out of, whatever it is made of: a field of heights, a half section. One prover works on all of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar

from bastler.job import Plan, PlannedHolding
from bastler.nc import Trace
from bastler.post import Program
from bastler.proof.found import Found
from bastler.proof.remark import Remark
from bastler.proof.result import AnyProof, Remembered, Run, StageResult
from bastler.proof.view import Place, RunProof
from bastler.shapes.kinds import Floats, StopFlag

P = TypeVar("P", bound=RunProof)


@dataclass(frozen=True)
class BarRun:
    """A whole bar as its program runs it: so many `parts` in so many `seconds`, the bar drawn out by `pulled` for the last of
    them; the line (from 0) and number of the first part that `differs` from the first one, -1 and 0 where none does."""

    parts: int
    seconds: float
    pulled: float
    differs: tuple[int, int] = (-1, 0)


@dataclass(frozen=True, eq=False)
class Ran:
    """A holding's program read: what cuts a stock. `own` when it is the plan's own program. `starts` (n,) and `lasts` (n,) of
    every move and the `total` are in seconds; `kept` remembers between proofs; once `stop[0]` is set nobody wants the rest;
    `told` hears now and then how many moves are done."""

    plan: Plan
    place: int
    program: Program
    own: bool
    trace: Trace
    starts: Floats
    lasts: Floats
    total: float
    kept: Remembered
    stop: StopFlag
    told: Callable[[int], None] = lambda moves: None
    bar: BarRun | None = None
    """What becomes of the rest of a bar, where this is the first part of one."""

    @property
    def held(self) -> PlannedHolding:
        return self.plan.holdings[self.place]

    @property
    def asked(self) -> PlannedHolding | None:
        """The holding as remarks may speak of its steps: not of those of another text."""
        return self.held if self.own else None

    def result(
        self, run: Run, proof: P, found: Sequence[Found], key: bytes, part: int = 0, shift: Place = (0.0, 0.0, 0.0)
    ) -> StageResult[P]:
        """What a run did, with its tool and its place in time."""
        begin, end, step, stage = run
        t0, t1 = float(self.starts[begin]), float(self.starts[end - 1] + self.lasts[end - 1])
        return StageResult(step, stage, int(self.trace.tool[begin]), begin, end, t0, t1, proof, found, key, part, shift)


class Stock(Protocol):
    """A holding's stock while its program is cut out of it."""

    @property
    def ran(self) -> Ran:
        """What cuts it."""

    @property
    def runs(self) -> Sequence[Run]:
        """The runs of the program in their order."""

    @property
    def wanted(self) -> bool:
        """Does any step want something gone of it?"""

    def cut(self, run: Run) -> bool:
        """Cuts a run; false when nobody wants it any more."""

    def ready(self) -> bool:
        """All is cut: waits for what was worked out beside. False when nobody wants it any more."""

    def proof(self, last: Stock) -> AnyProof:
        """The proof but for its remarks: the part compared with what is wanted. `last` is the stock of the last holding: what is
        left counts at the end of all."""

    def differences(self, proof: Any) -> list[Remark]:
        """How the part differs from the wanted one, in words."""
