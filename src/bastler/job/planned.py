"""What planning gives: every step with its answers filled, what it does and takes away, or why it cannot."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import msgspec

from bastler.ask import Trouble, filled, questions_of
from bastler.bounds import STEPS
from bastler.job.cutaway import Cutaway, cutaway
from bastler.job.document import AnySetup, Job
from bastler.job.parts import PartAt
from bastler.shapes import Box
from bastler.steps import Step
from bastler.units import MM_PER_INCH


@dataclass(frozen=True)
class PlannedStep:
    """A step with its answers filled, what it does and takes away, or why it cannot.

    `removals` are what will be gone; `wants`, in turning, what should be, whatever the tip can do about it.
    """

    step: Step
    filled: Step
    ctx: Any
    troubles: tuple[Trouble, ...]
    stages: tuple[Any, ...]
    removals: tuple[Any, ...]
    wants: tuple[Any, ...] = ()

    @cached_property
    def summary(self) -> str:
        """The step in a line. Worked out once: cards ask at every paint, and what a sharper tip finds costs some reckoning."""
        return str(self.filled.summary(self.ctx))

    @property
    def unfilled(self) -> bool:
        """Do troubles leave nothing to draw: no positions, or an answer that nothing could be computed for?"""
        return any(t.field == "pattern" for t in self.troubles) or any(
            getattr(self.filled, q.name) is None for q in questions_of(type(self.filled)) if q.asked(self.filled)
        )

    @cached_property
    def sketch(self) -> Any:
        """What the sheet draws of it, a Sketch or a TurnSketch; None where there is nothing to draw yet. Worked out once."""
        if self.unfilled or getattr(self.ctx.stock, "is_empty", False):
            return None
        return self.filled.sketch(self.ctx)

    @cached_property
    def cutaway(self) -> Cutaway | None:
        """What the sheet shows of a milled step, in plan and section; None for one that is turned."""
        stock = self.ctx.stock
        if not isinstance(stock, Box):
            return None
        start, end = self.sketch.section if self.sketch else stock.middle
        return cutaway(stock, self.ctx.before, () if self.troubles else self.removals, start, end)


def setup_address(field: str) -> str:
    """The address of an answer of the setup card: the machine is the job's; a fault elsewhere has its own."""
    if ":" in field or field.startswith("job."):
        return field
    return f"job.{field}" if field == "machine" else f"setup.{field}"


@dataclass(frozen=True)
class Plan:
    """The whole job planned. `setup` is filled; `troubles` are those of the setup itself; `ctx` a Context or a TurnContext;
    `parts` are those on the table of a mill."""

    job: Job
    setup: Any
    ctx: Any
    troubles: tuple[Trouble, ...]
    steps: tuple[PlannedStep, ...]
    parts: tuple[PartAt, ...] = ()

    def step(self, ident: str) -> PlannedStep | None:
        """The planned step of that id."""
        return next((p for p in self.steps if p.step.id == ident), None)

    @property
    def removals(self) -> tuple[Any, ...]:
        """What all steps that are on take away together."""
        return tuple(r for p in self.steps for r in p.removals)


@dataclass(frozen=True)
class SetupView:
    """What the setup's proposals may look at."""

    job: Job

    @property
    def unit(self) -> str:
        return self.job.unit

    @property
    def card(self) -> object:
        return self.job.card

    @property
    def material(self) -> object:
        return self.job.material

    def mm(self, value: float) -> float:
        return value if self.job.unit == "mm" else value / MM_PER_INCH


def fill_setup(job: Job) -> AnySetup:
    """The setup with its computed answers worked out."""
    return filled(job.setup, SetupView(job))


def references(owner: AnySetup | Step) -> set[str]:
    """The ids of the patterns and outlines that a step or a setup uses."""
    own = {getattr(owner, name, None) for name in ("pattern", "outline", "forged")}
    return {ident for ident in own | {c.outline for c in getattr(owner, "islands", ())} if ident}


def beyond(job: Job, ctx: Any) -> tuple[PlannedStep, ...]:
    """The steps beyond the bound of a holding, as they are: the job has a fault, and nothing of it is cut."""
    return tuple(PlannedStep(step, step, ctx, (), (), ()) for step in job.steps[STEPS.most :])


class Known:
    """What of an old plan is good for a job. Edits share what they do not change."""

    def __init__(self, job: Job, old: Plan | None) -> None:
        self._steps: dict[str, PlannedStep] = {}
        self._order: tuple[PlannedStep, ...] = ()
        self._touched: set[str] = set()
        if old is None:
            return
        was, now = ({x.id: x for x in (*j.patterns, *j.outlines)} for j in (old.job, job))
        self._touched = {ident for ident in was.keys() | now.keys() if was.get(ident) != now.get(ident)}
        if _around(old.job) == _around(job) and not references(job.setup) & self._touched:
            self._steps, self._order = {done.step.id: done for done in old.steps}, old.steps

    def step(self, step: Step) -> PlannedStep | None:
        """The step as it was planned, when neither it nor what it uses has changed. What comes before it may have."""
        done = self._steps.get(step.id)
        return done if done and done.step is step and not references(step) & self._touched else None

    def head(self, steps: Sequence[Step]) -> list[PlannedStep]:
        """The planned steps at the head of the route that nothing has touched: the same steps in the same order, so that what is
        before each is the same as well."""
        same = itertools.takewhile(lambda pair: self.step(pair[0]) is pair[1], zip(steps, self._order, strict=False))
        return [done for _, done in same]


def _around(job: Job) -> tuple[Any, ...]:
    return job.unit, job.machine, job.tools, job.materials, job.cards, msgspec.structs.replace(job.setup, steps=())
