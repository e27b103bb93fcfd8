"""What planning gives: every step with its answers filled, what it does and takes away, or why it cannot."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import msgspec

from bastler.ask import Trouble, filled
from bastler.job.document import AnySetup, Job
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


@dataclass(frozen=True)
class Plan:
    """The whole job planned. `setup` is filled; `troubles` are those of the setup itself; `ctx` a Context or a TurnContext."""

    job: Job
    setup: Any
    ctx: Any
    troubles: tuple[Trouble, ...]
    steps: tuple[PlannedStep, ...]

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

    def mm(self, value: float) -> float:
        return value if self.job.unit == "mm" else value / MM_PER_INCH


def fill_setup(job: Job) -> AnySetup:
    """The setup with its computed answers worked out."""
    return filled(job.setup, SetupView(job))


def unchanged(job: Job, old: Plan) -> list[PlannedStep]:
    """The planned steps at the head of the route that nothing has touched; edits share what they do not change."""
    was = old.job
    around = (was.unit, was.machine, was.tools, was.patterns, was.outlines, msgspec.structs.replace(was.setup, steps=()))
    now = (job.unit, job.machine, job.tools, job.patterns, job.outlines, msgspec.structs.replace(job.setup, steps=()))
    if around != now:
        return []
    kept = []
    for step, done in zip(job.setup.steps, old.steps, strict=False):
        if step is not done.step:
            break
        kept.append(done)
    return kept
