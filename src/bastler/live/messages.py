"""What the window and the process that computes say to each other."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from bastler.job import Job
from bastler.live.shown import Look, ShownPlan, ShownRun, ShownStep, ShownWhole


@dataclass(frozen=True)
class Work:
    """Plan and prove this job; `number` grows with every one. `card` is looked at, cut open at `section`, see `showing.look`."""

    number: int
    job: Job
    card: str
    section: float | None = None


@dataclass(frozen=True)
class LookAt:
    """What there is to see of a card of the newest plan, cut open at `section`, see `showing.look`."""

    card: str
    section: float | None = None


@dataclass(frozen=True)
class Ask:
    """A task by its name; the newest of a `slot` takes the place of those before it that were not begun."""

    token: int
    task: str
    given: tuple[Any, ...]
    slot: str


@dataclass(frozen=True)
class Drop:
    """Nothing that is being worked at is wanted any more."""


@dataclass(frozen=True)
class Leave:
    """A task is not wanted any more."""

    token: int


@dataclass(frozen=True)
class Ready:
    """The process is there, and everything in it loaded."""


@dataclass(frozen=True)
class Planned:
    """A plan, its steps by number, and what there is to see of the card that is looked at."""

    number: int
    plan: ShownPlan
    steps: tuple[tuple[int, ...], ...]
    new: dict[int, ShownStep]
    look: Look


@dataclass(frozen=True)
class Looked:
    """What there is to see of a card of a plan."""

    number: int
    look: Look


@dataclass(frozen=True, eq=False)
class Proved:
    """A proof, its runs by number."""

    number: int
    whole: ShownWhole
    runs: tuple[int, ...]
    new: dict[int, ShownRun]


@dataclass(frozen=True)
class Answered:
    """What came of a task; `trouble` says in words why nothing did."""

    token: int
    value: Any
    trouble: str = ""


@dataclass(frozen=True)
class Going:
    """A task takes long: so much of it is done, 0 to 1."""

    token: int
    share: float


@dataclass(frozen=True)
class Failed:
    """There will be no plan or no proof of a job."""

    number: int
    text: str


@dataclass(frozen=True)
class Busy:
    """Somebody is at a job still: at its plan or its proof, how far, 0 to 1, and whether kernels are being compiled."""

    number: int
    planning: bool
    share: float
    compiling: bool


@dataclass(frozen=True)
class Idle:
    """Nobody is at anything, after a Drop."""


Request = Work | LookAt | Ask | Leave | Drop
Report = Ready | Planned | Looked | Proved | Answered | Going | Failed | Busy | Idle
