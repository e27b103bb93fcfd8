"""What planning gives: every step with its answers filled, what it does and takes away, or why it cannot."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import msgspec

from bastler.ask import Trouble, filled, questions_of
from bastler.cutting import Material
from bastler.job.chuck import ChuckHolding
from bastler.job.cutaway import Cutaway, cutaway
from bastler.job.document import AnyHolding, Job
from bastler.job.half_cut import HalfCut, half_cut
from bastler.job.parts import PartAt
from bastler.job.stock import AnyStock, BarStock, BlockStock
from bastler.job.vise import ViseHolding
from bastler.machines import MachineCard
from bastler.shapes import AS_FIRST, Box, Lie, Removal, TurnedOutline, Way
from bastler.shapes.kinds import Region
from bastler.steps import AnyStep, Between, Context, FlatContext, NextPart, Sketch, Stage, Transfer, TurnedContext, TurnSketch
from bastler.steps.place import END, Place
from bastler.steps.turn.outline_step import Allowance, OutlineStep
from bastler.units import MM_PER_INCH, Unit


class OnPlane:
    """Something with a context, which those ask for by its kind who work on that kind of plane alone."""

    ctx: Context

    @property
    def flat(self) -> FlatContext:
        """As it is on a flat plane."""
        assert isinstance(self.ctx, FlatContext)
        return self.ctx

    @property
    def turned(self) -> TurnedContext:
        """As it is on a turned plane."""
        assert isinstance(self.ctx, TurnedContext)
        return self.ctx


@dataclass(frozen=True)
class PlannedStep(OnPlane):
    """A step with its answers filled, what it does and takes away, or why it cannot.

    `removals` are what will be gone, as a flat plane sees it; `rings`, on a turned plane, are regions of the half section, and
    `wants` what should be gone there, whatever the tip can do about it.
    """

    step: AnyStep
    filled: AnyStep
    ctx: Context
    troubles: tuple[Trouble, ...] = ()
    stages: tuple[Stage | Between, ...] = ()
    removals: tuple[Removal, ...] = ()
    rings: tuple[Region, ...] = ()
    wants: tuple[Region, ...] = ()
    copies: tuple[PlannedStep, ...] = ()
    """Of a repetition the steps that it plans anew."""
    on: Region | None = None
    """Of a step of driven tools the half section of the part that it is done on."""
    place: Place = END
    """And where on that it is."""

    @property
    def transfer(self) -> Transfer | None:
        """Of a hand-over how it is done; None of others."""
        return next((stage for stage in self.stages if isinstance(stage, Transfer)), None)

    @property
    def nothing_left(self) -> bool:
        """Is there nothing left to cut before it?"""
        return isinstance(self.ctx, TurnedContext) and self.ctx.stock.is_empty

    @cached_property
    def summary(self) -> str:
        """The step in a line. Worked out once: cards ask at every paint, and what a sharper tip finds costs some reckoning."""
        return ", ".join(filter(None, (str(self.filled.summary(self.ctx)), self.place.says)))

    @property
    def unfilled(self) -> bool:
        """Do troubles leave nothing to draw: no positions, or an answer that nothing could be computed for?"""
        return any(t.field == "pattern" for t in self.troubles) or any(
            getattr(self.filled, q.name) is None for q in questions_of(type(self.filled)) if q.asked(self.filled)
        )

    @cached_property
    def allowance(self) -> Allowance | None:
        """What it leaves on its outline for a later step; None for most. Worked out once."""
        step, ctx = self.filled, self.ctx
        return step.allowance(ctx) if isinstance(step, OutlineStep) and isinstance(ctx, TurnedContext) else None

    @cached_property
    def sketch(self) -> Sketch | TurnSketch | None:
        """What the sheet draws of it; None where there is nothing to draw yet. Worked out once."""
        if self.unfilled or self.nothing_left:
            return None
        return self.filled.sketch(self.ctx)

    @cached_property
    def cutaway(self) -> Cutaway | None:
        """What the sheet shows of a milled step, in plan and section; None for one that is turned."""
        ctx = self.ctx
        if not isinstance(ctx, FlatContext):
            return None
        start, end = self.sketch.section if isinstance(self.sketch, Sketch) else ctx.stock.middle
        return cutaway(ctx.stock, ctx.before, () if self.troubles else self.removals, start, end, ctx.under, ctx.turned)

    @cached_property
    def half_cut(self) -> HalfCut | None:
        """What the sheet shows of a turned step; None where nothing stands any more, and for one that is milled."""
        ctx = self.ctx
        if not isinstance(ctx, TurnedContext) or ctx.stock.is_empty:
            return None
        return half_cut(ctx.untouched, ctx.stock, self.rings, ctx.mm(1.0))


def handing(steps: Sequence[PlannedStep]) -> PlannedStep | None:
    """That of some steps that hands the part over to the second chuck; None where none does."""
    return next((done for done in steps if done.transfer is not None), None)


def bringing(steps: Sequence[PlannedStep]) -> PlannedStep | None:
    """That of some steps that brings the bar on for the next part, behind the last one of a part; None where none does."""
    return next((done for done in steps if done.stages and isinstance(done.filled, NextPart)), None)


@dataclass(frozen=True)
class PlannedHolding(OnPlane):
    """A holding planned. `stock` and `holding` are filled; `troubles` are all that keep it from being cut, their fields
    addresses; `ctx` is what its first step sees; `parts` are those on the table of a mill. The part lies like `lie`;
    `first` is the number of its first step, counted through all holdings. Its program `begins` with a stage of a step, the ids of
    both, where what comes before is done; else with all."""

    job: Job
    stock: AnyStock
    holding: AnyHolding
    ctx: Context
    troubles: tuple[Trouble, ...]
    steps: tuple[PlannedStep, ...]
    parts: tuple[PartAt, ...] = ()
    place: int = 0
    first: int = 1
    lie: Lie = AS_FIRST
    begins: tuple[str, str] = ("", "")

    def way_to(self, other: PlannedHolding) -> Way:
        """The way of places of a milled part from this holding to another."""
        return Way.between(self.flat.stock, self.lie, other.flat.stock, other.lie)

    @property
    def vise(self) -> ViseHolding:
        """The holding of a milled part."""
        assert isinstance(self.holding, ViseHolding)
        return self.holding

    @property
    def chuck(self) -> ChuckHolding:
        """The holding of a turned part."""
        assert isinstance(self.holding, ChuckHolding)
        return self.holding

    @property
    def block(self) -> BlockStock:
        """The stock of a milled part."""
        assert isinstance(self.stock, BlockStock)
        return self.stock

    @property
    def bar(self) -> BarStock:
        """The stock of a turned part."""
        assert isinstance(self.stock, BarStock)
        return self.stock

    @cached_property
    def half_cut(self) -> HalfCut | None:
        """What the sheet shows of a turned part as it comes."""
        ctx = self.ctx
        return half_cut(ctx.untouched, ctx.raw, (), ctx.mm(1.0)) if isinstance(ctx, TurnedContext) else None

    @property
    def jaws_at(self) -> float:
        """The face of a chuck's jaws."""
        return self.chuck.jaws_at(self.bar)

    @property
    def hand_over(self) -> PlannedStep | None:
        """The step that hands its part over to the second chuck; None where none does."""
        return handing(self.steps)

    @property
    def from_bar(self) -> PlannedStep | None:
        """The step that brings the bar on for the next part; None where none does."""
        return bringing(self.steps)

    @property
    def number(self) -> int:
        """Of its program."""
        return int(getattr(self.holding, "program_number", None) or self.job.program_number)

    def step(self, ident: str) -> PlannedStep | None:
        """The planned step of that id."""
        return next((p for p in self.steps if p.step.id == ident), None)

    @property
    def removals(self) -> tuple[Removal, ...]:
        """What all its steps that are on take away together, as it sees it."""
        return tuple(r for p in self.steps for r in p.removals)


@dataclass(frozen=True)
class Plan:
    """The whole job planned, holding by holding."""

    job: Job
    holdings: tuple[PlannedHolding, ...]

    @property
    def first(self) -> PlannedHolding:
        """The first holding."""
        return self.holdings[0]

    @property
    def steps(self) -> tuple[PlannedStep, ...]:
        """The steps of all holdings."""
        return tuple(p for h in self.holdings for p in h.steps)

    @property
    def programs(self) -> tuple[tuple[PlannedHolding, ...], ...]:
        """The holdings, those together whose steps are in one program."""
        return tuple(tuple(self.holdings[place] for place in group) for group in self.job.programs)

    @property
    def troubles(self) -> tuple[Trouble, ...]:
        """What is wrong besides the steps, each said once."""
        return tuple(dict.fromkeys(t for h in self.holdings for t in h.troubles))

    def step(self, ident: str) -> PlannedStep | None:
        """The planned step of that id."""
        return next((found for h in self.holdings if (found := h.step(ident))), None)

    def holding(self, ident: str) -> PlannedHolding:
        """The holding of that id, or that a step is in; the first for anything else."""
        found = (h for h in self.holdings if h.holding.id == ident or h.step(ident))
        return next(found, self.holdings[0])


@dataclass(frozen=True)
class StockView:
    """What the proposals of stock and holdings may look at; for a holding with the `stock` filled, how the part `lie`s there, and
    the holding's `place` in their order."""

    job: Job
    stock: Any = None
    lie: Lie = AS_FIRST
    place: int = 0

    @property
    def unit(self) -> Unit:
        return self.job.unit

    @property
    def card(self) -> MachineCard:
        return self.job.card

    @property
    def material(self) -> Material:
        return self.job.material

    @property
    def turned_over(self) -> bool:
        """Is the part ever turned over, or round?"""
        return (self.job.turns and len(self.job.holdings) > 1) or any(lie.upside_down for lie in lies_of(self.job))

    def box(self, holding: ViseHolding) -> Box:
        """The raw stock as a holding sees it."""
        return holding.box(self.stock, self.lie)

    def mm(self, value: float) -> float:
        return value if self.job.unit == "mm" else value / MM_PER_INCH


def fill_stock(job: Job) -> AnyStock:
    """The stock with its computed answers worked out."""
    return filled(job.stock, StockView(job))


def fill_holding(job: Job, holding: AnyHolding, stock: AnyStock, lie: Lie = AS_FIRST, place: int = 0) -> AnyHolding:
    """A holding with its computed answers worked out."""
    return filled(holding, StockView(job, stock, lie, place))


def lies_of(job: Job) -> tuple[Lie, ...]:
    """How the part lies in each holding."""
    found = [AS_FIRST]
    for holding in job.holdings[1:]:
        found.append(holding.lies(found[-1]) if isinstance(holding, ViseHolding) else found[-1])
    return tuple(found)


def box_in(job: Job, holding: AnyHolding) -> Box:
    """The raw block as a holding of the job sees it; of a bar most likely its end face, no deeper than that is wide."""
    if isinstance(job.stock, BlockStock) and isinstance(holding, ViseHolding):
        return holding.box(job.stock, lies_of(job)[job.holdings.index(holding)])
    assert isinstance(job.stock, BarStock)
    r = surface_of(job, job.stock) / 2
    return Box((-r, -r, -min(job.stock.finished, r)), (r, r, 0.0), round=True)


def surface_of(job: Job, stock: BarStock) -> float:
    """The diameter that most is turned to: the outline's smallest, else the stock's."""
    return min(turned_to(job, stock))


def turned_to(job: Job, stock: BarStock) -> tuple[float, ...]:
    """The diameters that outlines name, and the stock's."""
    outside = [o for o in job.outlines if isinstance(o, TurnedOutline) and not o.inside]
    named = [d for o in outside for d in (o.d, *(s.d for s in o.segments)) if d]
    return tuple(sorted([*named, 2 * stock.outer()]))


def references(owner: AnyStock | AnyHolding | AnyStep) -> set[str]:
    """The ids of the patterns and outlines that a step or the stock uses."""
    own = {getattr(owner, name, None) for name in ("pattern", "outline", "forged")}
    return {ident for ident in own | {c.outline for c in getattr(owner, "islands", ())} if ident}


def beyond(steps: Sequence[AnyStep], ctx: Context) -> tuple[PlannedStep, ...]:
    """The steps beyond the bound of a job, as they are: the job has a fault, and nothing of it is cut."""
    return tuple(PlannedStep(step, step, ctx) for step in steps)


class Known:
    """What of an old plan is good for a job. Edits share what they do not change."""

    def __init__(self, job: Job, old: Plan | None) -> None:
        self._steps: dict[str, PlannedStep] = {}
        self._order: dict[str, tuple[PlannedStep, ...]] = {}
        """The steps of every holding in their order."""
        self._bare: dict[str, tuple[Any, Lie]] = {}
        self._touched: set[str] = set()
        if old is None:
            return
        was, now = ({x.id: x for x in (*j.patterns, *j.outlines)} for j in (old.job, job))
        self._touched = {ident for ident in was.keys() | now.keys() if was.get(ident) != now.get(ident)}
        if _around(old.job) == _around(job) and not references(job.stock) & self._touched:
            self._steps, self._order = {done.step.id: done for done in old.steps}, {h.holding.id: h.steps for h in old.holdings}
            self._bare = {done.step.id: (bare(h.holding), h.lie) for h in old.holdings for done in h.steps}

    def step(self, step: AnyStep, holding: AnyHolding, lie: Lie = AS_FIRST) -> PlannedStep | None:
        """The step as it was planned, when neither it nor what it uses nor its holding has changed. What comes before it may
        have. `holding` with its answers filled."""
        done = self._steps.get(step.id)
        if done is None or done.step is not step or references(step) & self._touched:
            return None
        return done if self._bare[step.id] == (bare(holding), lie) else None

    def head(self, steps: Sequence[AnyStep], holding: AnyHolding) -> list[PlannedStep]:
        """The planned steps at the head of the route that nothing has touched: the same steps in the same order, so that what is
        before each is the same as well."""
        own = self._order.get(holding.id, ())
        same = itertools.takewhile(lambda pair: self.step(pair[0], holding) is pair[1], zip(steps, own, strict=False))
        return [done for _, done in same]

    def whole(self, held: PlannedHolding) -> bool:
        """Is a holding planned as it was, all of it, so that it leaves the part as it did?"""
        was = self._order.get(held.holding.id)
        same = was is not None and len(was) == len(held.steps)
        return same and all(a is b for a, b in zip(was or (), held.steps, strict=True)) and self._was_at(held)

    def _was_at(self, held: PlannedHolding) -> bool:
        return list(self._order).index(held.holding.id) == held.place


def _around(job: Job) -> tuple[Any, ...]:
    opposite = tuple(h.jaw_d for h in job.holdings if isinstance(h, ChuckHolding) and h.handed)
    return job.unit, job.machine, job.tools, job.materials, job.cards, job.stock, opposite


def bare(holding: AnyHolding) -> AnyHolding:
    """A holding without its steps."""
    return msgspec.structs.replace(holding, steps=())
