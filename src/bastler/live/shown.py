"""Values to show: all that a window, or anybody else who only looks, gets of a plan and of a proof.

They hold no context, no stock and no way to work anything out; they are frozen, and what is large in them are arrays that lie in
memory shared with the process that made them. `live.showing` makes them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from bastler.ask import Trouble
from bastler.job import AnyHolding, AnyStock, BlockStock, Job, ViseHolding
from bastler.job.cutaway import Cutaway
from bastler.job.half_cut import HalfCut
from bastler.job.parts import PartAt
from bastler.machines import MachineCard
from bastler.nc import Trace
from bastler.post import Program
from bastler.proof.remark import HOLDING, ORDER, Remark
from bastler.proof.scrub import stage_of
from bastler.shapes import Box, Drawn, Removal, TurnedPart
from bastler.shapes.kinds import Floats, Ints, Region
from bastler.steps import AnyStep, Sketch, ThreadLines, TurnSketch
from bastler.steps.base import PlaneKind
from bastler.steps.place import END, Place
from bastler.tools import AnyTool
from bastler.units import Unit, scale

Verdict = Literal["proved", "left", "open", "stop"]


@dataclass(frozen=True)
class ShownStep:
    """A step's card: its answers filled, what is wrong with it, what it is in a line, the tools it uses, its stages by name; of
    one of driven tools its `place` on the part."""

    filled: AnyStep
    troubles: tuple[Trouble, ...]
    summary: str
    tools: tuple[AnyTool, ...]
    stages: tuple[str, ...]
    place: Place = END

    @property
    def id(self) -> str:
        return str(self.filled.id)


@dataclass(frozen=True)
class Flat:
    """What stands around the work on a flat plane: the stock's box, the jaws, the height for going across; on a part in a chuck
    its `place` there, and what turning has left as it is seen from there."""

    stock: Box
    jaws: tuple[Box, ...]
    safe: float
    place: Place = END
    turned: TurnedPart | None = None


@dataclass(frozen=True)
class Opposite:
    """The second chuck on the other side of turned work: its `regions` in half section with the face of its jaws at 0, where that
    face is with W at 0, and the W at which it works. `gripped` is the length of the part at which it takes hold, `step` the one
    by which it does; `seat` is how far behind the face its seat lies."""

    regions: tuple[tuple[str, Region], ...]
    w_zero: float
    home: float
    gripped: float
    step: str
    seat: float

    def face(self, w: float) -> float:
        """Where the face of its jaws is with W there."""
        return w + self.w_zero

    @property
    def w_gripped(self) -> float:
        """Where W is when it has hold of the part."""
        return self.gripped - self.w_zero


@dataclass(frozen=True)
class Turned:
    """What stands around turned work: the raw stock and what is kept out, in half section; the place for going across as
    (r, z); where the jaws' face is."""

    raw: Region
    keep_out: tuple[tuple[str, Region], ...]
    safe: tuple[float, float]
    jaws_at: float
    second: Opposite | None = None


@dataclass(frozen=True)
class ShownHolding:
    """A holding's card: stock and holding filled, the holding without its steps; what is wrong; the tools there are; the parts on
    the table of a mill; its place, the number of its first step and of its program; and its steps."""

    unit: Unit
    stock: AnyStock
    holding: AnyHolding
    troubles: tuple[Trouble, ...]
    tools: tuple[AnyTool, ...]
    parts: tuple[PartAt, ...]
    place: int
    first: int
    number: int
    around: Flat | Turned
    steps: tuple[ShownStep, ...] = ()

    @property
    def flat(self) -> Flat:
        """What is around it on a mill."""
        assert isinstance(self.around, Flat)
        return self.around

    @property
    def turned(self) -> Turned:
        """What is around it on a lathe."""
        assert isinstance(self.around, Turned)
        return self.around

    @property
    def vise(self) -> ViseHolding:
        """The holding of a milled part."""
        assert isinstance(self.holding, ViseHolding)
        return self.holding

    @property
    def block(self) -> BlockStock:
        """The stock of a milled part."""
        assert isinstance(self.stock, BlockStock)
        return self.stock

    def step(self, ident: str) -> ShownStep | None:
        """The step of that id."""
        return next((s for s in self.steps if s.id == ident), None)

    def mm(self, value: float) -> float:
        """A length given in millimetres, in the job's unit."""
        return value * scale("mm", self.unit)


@dataclass(frozen=True)
class ShownPlan:
    """The plan of a job, and what became of its outlines by their id."""

    job: Job
    holdings: tuple[ShownHolding, ...]
    drawn: Mapping[str, Drawn] = field(default_factory=dict)

    @property
    def first(self) -> ShownHolding:
        """The first holding."""
        return self.holdings[0]

    @property
    def steps(self) -> tuple[ShownStep, ...]:
        """The steps of all holdings."""
        return tuple(s for h in self.holdings for s in h.steps)

    @property
    def troubles(self) -> tuple[Trouble, ...]:
        """What is wrong besides the steps, each said once."""
        return tuple(dict.fromkeys(t for h in self.holdings for t in h.troubles))

    def step(self, ident: str) -> ShownStep | None:
        """The step of that id."""
        return next((found for h in self.holdings if (found := h.step(ident))), None)

    def holding(self, ident: str) -> ShownHolding:
        """The holding of that id, or that a step is in; the first for anything else."""
        found = (h for h in self.holdings if h.holding.id == ident or h.step(ident))
        return next(found, self.holdings[0])


@dataclass(frozen=True)
class Look:
    """What the sheet and the questions show of a card: a step's id, `stock`, or that of a holding. `cutaway` and `gone` are of a
    flat plane, `half_cut` of a turned one; of a step of driven tools on a turned part, which is as `face` says, there are both.
    `says` are sentences by group, `sources` where computed answers come from."""

    card: str
    sketch: Sketch | TurnSketch | None = None
    cutaway: Cutaway | None = None
    gone: tuple[Removal, ...] = ()
    half_cut: HalfCut | None = None
    face: Flat | None = None
    threads: tuple[ThreadLines, ...] = ()
    makes: tuple[ThreadLines, ...] = ()
    """Threads that there are before the step, and those that it makes."""
    says: tuple[tuple[str, str], ...] = ()
    sources: Mapping[str, str] = field(default_factory=dict)
    beside: tuple[Region, ...] = ()
    """What stands at a turned part for a step besides what always does, in half section: a centre, what a bar comes out to."""


@dataclass(frozen=True, eq=False)
class ShownRun:
    """A run of moves with one tool: `segments` (m, 6) of its path, the move of each as `owner` (m,) counted from the run's first,
    `seconds` and `power` (m,) along them."""

    segments: Floats
    owner: Ints
    seconds: Floats
    power: Floats
    tool: AnyTool | None


@dataclass(frozen=True, eq=False)
class ShownStage:
    """A run in its place: which moves of the trace, when, by which step, with which tool number, on which part and how far that
    part's zero is from the first one's."""

    step: str
    stage: str
    tool: int
    begin: int
    end: int
    t0: float
    t1: float
    part: int
    shift: tuple[float, float, float]
    volume: float
    peak_power: float
    run: ShownRun


@dataclass(frozen=True)
class ShownFault:
    """A piece of a half section that is left or gouged, and the step it belongs to."""

    kind: str
    region: Region
    step: str


@dataclass(frozen=True, eq=False)
class ShownProof:
    """The proof of a holding. Times in seconds; `starts` (n,) and `lasts` (n,) of every move; `total` of the program."""

    plane: PlaneKind
    unit: Unit
    card: MachineCard
    around: Flat | Turned
    parts: int
    program: Program
    trace: Trace
    starts: Floats
    lasts: Floats
    total: float
    remarks: tuple[Remark, ...]
    verdict: Verdict
    took: float
    stages: tuple[ShownStage, ...] = ()
    faults: tuple[ShownFault, ...] = ()

    @property
    def proved(self) -> bool:
        """Nothing found that must not run, and nothing left open."""
        return not any(r.level in HOLDING for r in self.remarks)

    def stage_of(self, move: int) -> ShownStage | None:
        """The run that a move of the trace belongs to; None for no move."""
        k = stage_of(self, move)
        return self.stages[k] if k >= 0 else None


@dataclass(frozen=True, eq=False)
class ShownWhole:
    """The proofs of all holdings in order, each by the id of its holding."""

    holdings: tuple[ShownProof, ...]
    idents: tuple[str, ...]
    verdict: Verdict
    remarks: tuple[Remark, ...]

    def get(self, ident: str) -> ShownProof | None:
        """The proof of the holding of that id."""
        return next((p for own, p in zip(self.idents, self.holdings, strict=True) if own == ident), None)

    @property
    def proved(self) -> bool:
        """Nothing found in any holding that must not run, and nothing left open."""
        return all(proof.proved for proof in self.holdings)

    @property
    def total(self) -> float:
        """Seconds that all programs take."""
        return sum(proof.total for proof in self.holdings)

    @property
    def took(self) -> float:
        """Seconds that the proof took."""
        return sum(proof.took for proof in self.holdings)

    def worst_of(self, step: str) -> str:
        """The worst level that is said of a step, empty for none."""
        levels = {r.level for r in self.remarks if r.step == step}
        return next((level for level in ORDER if level in levels), "")


@dataclass(frozen=True)
class ToolOffer:
    """A tool that could be taken for an answer, and why not, empty where it does."""

    tool: AnyTool
    why_not: str
    used: bool


@dataclass(frozen=True)
class ToolOffers:
    """The tools there are for an answer of a step: which one is proposed, and all of them."""

    proposed: AnyTool | None
    tools: tuple[ToolOffer, ...]


@dataclass(frozen=True)
class PartLook:
    """A whole part for a small picture. Milled: the box and what is gone, the highest first; turned: its half section and where
    the jaws are."""

    stock: Box | None
    gone: Sequence[tuple[float, Region]] = ()
    section: Region | None = None
    bounds: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
