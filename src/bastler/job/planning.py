"""From the job to the stages of all its steps, in order, each knowing the stock as the ones before leave it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import msgspec

from bastler.ask import Trouble, problems
from bastler.bounds import POSITIONS, STEPS
from bastler.job.able import able_troubles
from bastler.job.document import Job, Setup, jaw_thickness
from bastler.job.faults import faulty_tools, job_faults
from bastler.job.forms import card_troubles
from bastler.job.parts import part_troubles, parts_of
from bastler.job.planned import Known, Plan, PlannedStep, beyond, fill_setup
from bastler.job.scaling import scaled_step
from bastler.job.turn_planning import plan_turning
from bastler.shapes import PlanOutline, Removal
from bastler.steps import Context, Repeat, Step, fill, troubles_of
from bastler.tools import Tool

LARGEST_BLOCK_MM = 3000.0


def setup_context(job: Job) -> Context:
    """The context that the first step sees."""
    setup = fill_setup(job)
    assert isinstance(setup, Setup)
    return Context(
        unit=job.unit,
        stock=setup.box(),
        material=job.material,
        card=job.card,
        pace=setup.pace / 100.0,
        tools=stationed(job),
        loaded=loaded(job),
        parts=_how_many(setup),
        patterns={p.id: p for p in job.patterns},
        outlines={o.id: o for o in job.outlines if isinstance(o, PlanOutline)},
        safe=setup.safe or 0.0,
        clear=setup.clear or 0.0,
        jaws=setup.jaws(jaw_thickness(job.unit)),
    )


def stationed(job: Job) -> tuple[Tool, ...]:
    """The job's milling tools in its unit; those that are not in the machine yet at the numbers behind the last one there."""
    bad = faulty_tools(job)
    own = [t.in_unit(job.unit) for t in job.tools if isinstance(t, Tool) and t.id not in bad]
    last = max((t.station for t in own), default=0)
    behind = {t.id: last + k for k, t in enumerate((t for t in own if not t.station), 1)}
    return tuple(msgspec.structs.replace(t, station=behind[t.id]) if t.id in behind else t for t in own)


def loaded(job: Job) -> frozenset[str] | None:
    """The ids of the tools in the machine; None when all are."""
    inside = frozenset(t.id for t in job.tools if t.station)
    return None if len(inside) == len(job.tools) else inside


def _how_many(setup: Setup) -> int:
    try:
        return len(parts_of(setup))
    except ValueError:
        return 1


def plan(job: Job, old: Plan | None = None) -> Plan:
    """Plans every step; one with troubles gets no stages, one switched off is passed over.

    With an `old` plan of the job before an edit, the steps are taken from it that would be planned alike.
    """
    if job.turns:
        return plan_turning(job, old)
    ctx = setup_context(job)
    setup = fill_setup(job)
    assert isinstance(setup, Setup)
    troubles = tuple(_setup_troubles(setup, ctx) or card_troubles(job.card)) or job_faults(job)
    known = Known(job, old)
    planned: list[PlannedStep] = []
    gone: tuple[Removal, ...] = ()
    for step in job.setup.steps[: STEPS.most]:
        if isinstance(step, Repeat):
            done = _plan_repeat(step, planned, ctx.behind(gone), sound=not troubles)
            gone += done.removals
            planned.append(done)
            continue
        done = _again(known.step(step), ctx.behind(gone)) or _plan_step(step, ctx.behind(gone), sound=not troubles)
        gone += done.removals
        planned.append(done)
    parts = parts_of(setup) if not troubles else parts_of(msgspec.structs.replace(setup, parts="one"))
    return Plan(job, setup, ctx, troubles, (*planned, *beyond(job, ctx)), parts)


def _again(done: PlannedStep | None, ctx: Context) -> PlannedStep | None:
    """A step as it was planned before, when all that it looked at is still the same."""
    if done is None or done.ctx == ctx:
        return done
    return replace(done, ctx=ctx) if done.ctx.agrees(ctx) else None


def _plan_step(step: Step, ctx: Context, *, sound: bool) -> PlannedStep:
    """`sound` is false when the setup itself is wrong: then nothing is cut."""
    full = fill(step, ctx)
    troubles = tuple(_pattern_troubles(step, ctx) or troubles_of(full, ctx) or able_troubles(full, ctx))
    if troubles or not step.on or not sound:
        return PlannedStep(step, full, ctx, troubles if step.on else (), (), ())
    return PlannedStep(step, full, ctx, (), tuple(full.plan(ctx)), tuple(full.removes(ctx)))


def _plan_repeat(step: Repeat, planned: Sequence[PlannedStep], ctx: Context, *, sound: bool) -> PlannedStep:
    """The run before it again. It is planned anew each time: that costs next to nothing."""
    run = planned[-step.back :] if step.back > 0 else []
    troubles = tuple(problems(step) or step.run_troubles(run))
    if troubles or not step.on or not sound:
        return PlannedStep(step, step, ctx, troubles if step.on else (), (), ())
    if step.how == "scaled":
        return _plan_scaled(step, run, ctx)
    return PlannedStep(step, step, ctx, (), tuple(step.stages_of(run)), tuple(step.removes_of(run)))


def _plan_scaled(step: Repeat, run: Sequence[PlannedStep], ctx: Context) -> PlannedStep:
    """The steps of the run once more, of another size."""
    stages: list[Any] = []
    gone: list[Removal] = []
    for done in run:
        larger, around = scaled_step(done.step, ctx.behind((*ctx.before, *gone)), step.percent / 100.0, (step.x, step.y))
        planned = _plan_step(larger, around, sound=True)
        for trouble in planned.troubles:
            text = f"{done.step.title}, scaled: {trouble.text}"
            return PlannedStep(step, step, ctx, (Trouble("percent", text),), (), ())
        stages += planned.stages
        gone += planned.removals
    return PlannedStep(step, step, ctx, (), tuple(stages), tuple(gone))


def _pattern_troubles(step: Step, ctx: Context) -> list[Trouble]:
    pattern = ctx.patterns.get(getattr(step, "pattern", ""))
    if not isinstance(pattern, msgspec.Struct):
        return []
    found = [Trouble(f"pattern.{t.field}", t.text, t.fits) for t in problems(pattern)]
    over = POSITIONS.over(pattern.count_all())
    return found or ([Trouble("pattern.name", over)] if over else [])


def _setup_troubles(setup: Setup, ctx: Context) -> list[Trouble]:
    found = problems(setup)
    if found:
        return found
    across = ("diameter",) if setup.form == "disc" else ("size_x", "size_y")
    for name, over in (*((n, 2 * setup.over_sides) for n in across), ("size_z", setup.over_top + setup.over_bottom)):
        if getattr(setup, name) <= over:
            found.append(Trouble(name, "The allowances leave nothing of the stock."))
    for name, least in (*((n, 1.0) for n in across), ("size_z", 0.1)):
        size = getattr(setup, name)
        if not ctx.mm(least) <= size <= ctx.mm(LARGEST_BLOCK_MM):
            found.append(Trouble(name, f"A block is between {least:g} and {LARGEST_BLOCK_MM:g} mm here."))
    found += part_troubles(setup, ctx.card.dialect.extended_offsets)
    low = max(ctx.stock.hi[2], *(jaw.hi[2] for jaw in ctx.jaws), ctx.stock.lo[2]) + ctx.clear
    if ctx.safe < low - 1e-9:
        found.append(Trouble("safe", "Too low to go across the stock and the jaws.", round(low, 3)))
    if setup.grip is not None and setup.vise == "yes" and setup.grip > setup.size_z:
        found.append(Trouble("grip", "Higher than the stock."))
    return found
