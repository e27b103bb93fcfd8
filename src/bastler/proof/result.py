"""What every proof is made of: the program's moves in time, the stages, the remarks."""

from __future__ import annotations

import hashlib
import itertools
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Generic, Literal, TypeVar

import numpy as np

from bastler.job import PlannedHolding
from bastler.nc import Trace
from bastler.post import Program
from bastler.proof.found import Found
from bastler.proof.remark import HOLDING, LEFT_OVER, Remark
from bastler.proof.scene import Scene
from bastler.proof.scrub import stage_of
from bastler.proof.unkept import Unkept
from bastler.proof.view import RunProof
from bastler.shapes.kinds import Floats
from bastler.steps.base import PlaneKind

Run = tuple[int, int, str, str]
"""First move, the one after the last, step, stage."""


P_co = TypeVar("P_co", bound=RunProof, covariant=True)


@dataclass(frozen=True)
class StageResult(Generic[P_co]):
    """One run of moves with one tool: where it is in the trace and in time, and what it did. `part` is the one it works on, and
    `shift` how far its zero is from the first one's: `proof` and `found` are as that part sees them."""

    step: str
    stage: str
    tool: int
    begin: int
    end: int
    t0: float
    t1: float
    proof: P_co
    found: Sequence[Found]
    key: bytes
    part: int = 0
    shift: tuple[float, float, float] = (0.0, 0.0, 0.0)

    @property
    def volume(self) -> float:
        return float(self.proof.volume)

    @property
    def peak_power(self) -> float:
        return float(self.proof.power.max()) if len(self.proof.power) else 0.0


@dataclass(frozen=True, kw_only=True, eq=False)
class Proof(Generic[P_co]):
    """All that a proof knows. Times in seconds; `starts` (n,) and `lasts` (n,) of every move; `total` of the program."""

    scene: Scene
    program: Program
    trace: Trace
    stages: Sequence[StageResult[P_co]]
    starts: Floats
    lasts: Floats
    total: float
    remarks: tuple[Remark, ...] = ()
    took: float = 0.0
    held: PlannedHolding | None = field(default=None, repr=False)

    @property
    def plane(self) -> PlaneKind:
        """The kind of plane that its part is seen on."""
        raise NotImplementedError

    @property
    def unkept(self) -> Sequence[Unkept]:
        """What stands of the allowances that no step takes."""
        raise NotImplementedError

    @property
    def proved(self) -> bool:
        """Nothing found that must not run, and nothing left open."""
        return not any(r.level in HOLDING for r in self.remarks)

    @property
    def verdict(self) -> Literal["proved", "left", "open", "stop"]:
        """The proof in a word: *left* is proved, but something stays that nobody takes and nobody has said is to stay."""
        if not self.proved:
            return "stop" if any(r.level == "stop" for r in self.remarks) else "open"
        return "left" if any(r.code in LEFT_OVER for r in self.remarks) else "proved"

    def gouged(self, move: int, text: str, amount: float, place: tuple[float, float, float]) -> Remark:
        """A remark on a gouge by a move of the trace; -1 where none is known to have made it."""
        k = stage_of(self, move)
        stage = self.stages[k] if k >= 0 else None
        return Remark(
            level="stop",
            code="gouge",
            text=text,
            line=int(self.trace.line[move]) + 1 if move >= 0 else 0,
            step=stage.step if stage else "",
            stage=stage.stage if stage else "",
            amount=amount,
            move=move,
            place=place,
        )

    @property
    def removed(self) -> float:
        """Cubic units taken off."""
        return sum(s.volume for s in self.stages)


AnyStage = StageResult[RunProof]
AnyProof = Proof[RunProof]


def digest(*parts: Any) -> bytes:
    """A key for the contents of its parts."""
    made = hashlib.blake2b(digest_size=16)
    for part in parts:
        made.update(part if isinstance(part, bytes) else str(part).encode())
        made.update(b"|")
    return made.digest()


def moves_key(trace: Trace, begin: int, end: int) -> bytes:
    """A key for a run of moves."""
    part = slice(begin, end)
    made = hashlib.blake2b(digest_size=16)
    driven = ("stands", "polar", "held", "angle") if trace.stands[part].any() else ()
    for column in (
        *driven,
        "kind",
        "start",
        "end",
        "centre",
        "turn",
        "plane",
        "feed",
        "speed",
        "tool",
        "offset",
        "surface",
        "cap",
        "lead",
    ):
        made.update(np.ascontiguousarray(getattr(trace, column)[part]).tobytes())
    return made.digest()


def runs(program: Program, trace: Trace) -> list[Run]:
    """The trace in runs of one section and one tool: (begin, end, step, stage).

    In a program that came as text alone lines may be used by several places; there only tool and work offset part it.
    """
    if len(trace) == 0:
        return []
    lasts = np.array([s.last for s in program.sections])
    section = np.searchsorted(lasts, trace.line, side="right")
    named = any(s.step for s in program.sections)
    change = (trace.tool[1:] != trace.tool[:-1]) | (trace.stands[1:] != trace.stands[:-1])
    change = change | (trace.offset[1:] != trace.offset[:-1])
    if named:
        change = change | (section[1:] != section[:-1])
    edges = [0, *(np.flatnonzero(change) + 1).tolist(), len(trace)]
    found = []
    for a, b in itertools.pairwise(edges):
        own = program.sections[min(int(section[a]), len(program.sections) - 1)]
        found.append((a, b, own.step if named else "", own.stage if named else f"T{int(trace.tool[a])}"))
    return found


class Remembered:
    """Results by key; what the newest round did not use is let go."""

    def __init__(self) -> None:
        self._kept: dict[bytes, tuple[int, Any]] = {}
        self._round = 0

    def begin(self) -> None:
        self._round += 1

    def has(self, key: bytes) -> bool:
        return key in self._kept

    def keep(self, key: bytes, work: Any) -> Any:
        """The result of `work`, done only where it is not known; None is not kept."""
        known = self._kept.get(key)
        value = known[1] if known else work()
        if value is not None:
            self._kept[key] = (self._round, value)
        return value

    def forget(self) -> None:
        """Lets go of what this round did not use."""
        for key in [key for key, (used, _) in self._kept.items() if used < self._round]:
            del self._kept[key]
