"""From the job to the stages of all its steps, in order, each knowing the stock as the ones before leave it."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import msgspec

from bastler.ask import Trouble, problems
from bastler.bounds import STEPS
from bastler.job.able import able_troubles
from bastler.job.chuck import ChuckHolding
from bastler.job.document import AnyHolding, Job
from bastler.job.faults import faulty_tools, job_faults
from bastler.job.forms import card_troubles
from bastler.job.gripping import gripped
from bastler.job.lathe_planning import Lathe
from bastler.job.part import UNCUT, FlatView
from bastler.job.parts import only_part, part_troubles, parts_of
from bastler.job.planned import Known, Plan, PlannedHolding, PlannedStep, beyond, fill_holding, fill_stock, lies_of
from bastler.job.positions import pattern_troubles
from bastler.job.scaling import scaled_step
from bastler.job.stock import AnyStock, BarStock, BlockStock
from bastler.job.vise import ViseHolding, jaw_thickness
from bastler.language import tr
from bastler.shapes import Lie, PlanOutline, Removal, TurnedOutline
from bastler.steps import AnyStep, Context, FlatContext, Repeat, fill, troubles_of
from bastler.steps.base import Stage, Unfilled
from bastler.tools import Tool
from bastler.units import scale

LARGEST_BLOCK_MM = 3000.0


def mill_context(job: Job, stock: BlockStock, holding: ViseHolding, lie: Lie, view: FlatView) -> FlatContext:
    """The context that the first step sees, from filled answers: the part as it comes into the holding."""
    box = holding.box(stock, lie)
    return FlatContext(
        unit=job.unit,
        stock=box,
        material=job.material,
        card=job.card,
        pace=stock.pace / 100.0,
        tools=stationed(job),
        loaded=loaded(job),
        parts=_how_many(holding),
        patterns={p.id: p for p in job.patterns},
        outlines={o.id: o for o in job.outlines if isinstance(o, PlanOutline)},
        safe=holding.safe or 0.0,
        clear=holding.clear or 0.0,
        jaws=holding.jaws(box.centre[0], gripped(box, view, holding), jaw_thickness(job.unit)),
        before=view.before,
        under=view.under,
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


def _how_many(holding: ViseHolding) -> int:
    try:
        return len(parts_of(holding))
    except ValueError:
        return 1


def plan(job: Job, old: Plan | None = None) -> Plan:
    """Plans every step of every holding; one with troubles gets no stages, one switched off is passed over.

    With an `old` plan of the job before an edit, the steps are taken from it that would be planned alike.
    """
    stock, known = fill_stock(job), Known(job, old)
    outlines = {o.id: o for o in job.outlines if isinstance(o, TurnedOutline)}
    of_stock = problems(stock) or (stock.troubles(outlines) if isinstance(stock, BarStock) else _block_troubles(stock, job))
    common = tuple(_at("stock", of_stock) or _of_card(job)) or job_faults(job)
    part, lies, found = UNCUT, lies_of(job), list[PlannedHolding]()
    lathe = Lathe(job, known) if isinstance(stock, BarStock) else None
    room, first = STEPS.most, 1
    for place, (holding, lie) in enumerate(zip(job.holdings, lies, strict=True)):
        steps, over = holding.steps[:room], holding.steps[room:]
        ctx: Context
        full: AnyHolding
        stock_here: AnyStock = stock
        if isinstance(holding, ViseHolding) and isinstance(stock, BlockStock):
            full = fill_holding(job, holding, stock, lie, place)
            assert isinstance(full, ViseHolding)
            ctx = mill_context(job, stock, full, lie, part.seen(full.box(stock, lie), lie))
            own = problems(full) or _vise_troubles(full, stock, ctx) or _number_troubles(full, [h.number for h in found])
            troubles = common or _at(f"holding:{full.id}", own)
            planned = _plan_steps(steps, ctx, known, full, lie, sound=not troubles)
            parts = parts_of(full if not troubles else msgspec.structs.replace(full, parts="one"))
        else:
            assert isinstance(holding, ChuckHolding)
            assert lathe is not None
            came = lathe.comes(holding, place, found)
            full, ctx = came.holding, came.ctx
            troubles = common or _at(f"holding:{full.id}", problems(full) or came.troubles)
            ctx, planned = lathe.plan(steps, came, sound=not troubles)
            parts = (only_part(full.work_offset),)
            stock_here = came.stock
        done = (*planned, *beyond(over, ctx))
        held = PlannedHolding(job, stock_here, full, ctx, troubles, done, parts, place, first, lie)
        found.append(held)
        room, first = room - len(steps), first + len(done)
        part = part.without(ctx.stock, lie, held.removals) if isinstance(stock, BlockStock) else part
    return Plan(job, tuple(found))


def _number_troubles(holding: ViseHolding, taken: Sequence[int]) -> list[Trouble]:
    """Two programs of one number: the control would have the second one in the place of the first."""
    if holding.program_number not in taken:
        return []
    free = next(n for n in itertools.count(max(taken) % 9990 + 1) if n not in taken)
    return [
        Trouble(
            "program_number",
            tr("O{program_number:04d} is the program of another holding.", program_number=holding.program_number),
            free,
        )
    ]


def _at(owner: str, troubles: Sequence[Trouble]) -> tuple[Trouble, ...]:
    """Troubles with their fields as addresses."""
    return tuple(msgspec.structs.replace(t, field=f"{owner}.{t.field}") for t in troubles)


def _of_card(job: Job) -> tuple[Trouble, ...]:
    """What is wrong with the machine card; the field of its picking is the job's."""
    return tuple(t if ":" in t.field else msgspec.structs.replace(t, field=f"job.{t.field}") for t in card_troubles(job.card))


def _plan_steps(
    steps: Sequence[AnyStep], ctx: FlatContext, known: Known, holding: ViseHolding, lie: Lie, *, sound: bool
) -> tuple[PlannedStep, ...]:
    """The steps of a holding on a mill, planned. `sound`: is there nothing wrong besides the steps?"""
    planned: list[PlannedStep] = []
    gone = tuple(ctx.before)
    for step in steps:
        here = ctx.behind(gone)
        if isinstance(step, Repeat):
            done = _plan_repeat(step, planned, here, sound=sound)
        else:
            done = _again(known.step(step, holding, lie), here) or _plan_step(step, here, sound=sound)
        gone += done.removals
        planned.append(done)
    return tuple(planned)


def _again(done: PlannedStep | None, ctx: FlatContext) -> PlannedStep | None:
    """A step as it was planned before, when all that it looked at is still the same."""
    if done is None or done.ctx == ctx:
        return done
    same = done.flat.jaws == ctx.jaws and done.flat.agrees(ctx)
    return replace(done, ctx=ctx) if same else None


def _plan_step(step: AnyStep, ctx: FlatContext, *, sound: bool) -> PlannedStep:
    """`sound` is false when stock, holding or crib are wrong: then nothing is cut."""
    full = fill(step, ctx)
    troubles = tuple(pattern_troubles(step, ctx) or troubles_of(full, ctx) or able_troubles(full, ctx))
    if troubles or not step.on or not sound:
        return PlannedStep(step, full, ctx, troubles if step.on else ())
    try:
        stages = tuple(stage.straight_in() if isinstance(stage, Stage) else stage for stage in full.plan(ctx))
        return PlannedStep(step, full, ctx, (), stages, tuple(full.removes(ctx)))
    except Unfilled as error:
        return PlannedStep(step, full, ctx, (error.trouble,))


def _plan_repeat(step: Repeat, planned: Sequence[PlannedStep], ctx: FlatContext, *, sound: bool) -> PlannedStep:
    """The run before it again. It is planned anew each time: that costs next to nothing."""
    run = planned[-step.back :] if step.back > 0 else []
    troubles = tuple(problems(step) or step.run_troubles(run))
    if troubles or not step.on or not sound:
        return PlannedStep(step, step, ctx, troubles if step.on else ())
    if step.how == "scaled":
        return _plan_scaled(step, run, ctx)
    return PlannedStep(step, step, ctx, (), tuple(step.stages_of(run)), tuple(step.removes_of(run)))


def _plan_scaled(step: Repeat, run: Sequence[PlannedStep], ctx: FlatContext) -> PlannedStep:
    """The steps of the run once more, of another size."""
    stages: list[Any] = []
    gone: list[Removal] = []
    for done in run:
        larger, around = scaled_step(done.step, ctx.behind((*ctx.before, *gone)), step.percent / 100.0, (step.x, step.y))
        planned = _plan_step(larger, around, sound=True)
        for trouble in planned.troubles:
            text = tr("{title}, scaled: {text}", title=done.step.title, text=trouble.text)
            return PlannedStep(step, step, ctx, (Trouble("percent", text),))
        stages += planned.stages
        gone += planned.removals
    return PlannedStep(step, step, ctx, (), tuple(stages), tuple(gone))


def _block_troubles(stock: BlockStock, job: Job) -> list[Trouble]:
    """What does not go together in a block."""
    found, mm = [], scale("mm", job.unit)
    across = ("diameter",) if stock.round else ("size_x", "size_y")
    for name, over in (*((n, 2 * stock.over_sides) for n in across), ("size_z", stock.over_top + stock.over_bottom)):
        if getattr(stock, name) <= over:
            found.append(Trouble(name, tr("The allowances leave nothing of the stock.")))
    for name, least in (*((n, 1.0) for n in across), ("size_z", 0.1)):
        size = getattr(stock, name)
        if not least * mm <= size <= LARGEST_BLOCK_MM * mm:
            found.append(
                Trouble(
                    name,
                    tr(
                        "A block is between {least:g} and {largest_block_mm:g} mm here.",
                        least=least,
                        largest_block_mm=LARGEST_BLOCK_MM,
                    ),
                )
            )
    return found


def _vise_troubles(holding: ViseHolding, stock: BlockStock, ctx: FlatContext) -> list[Trouble]:
    """What does not go together in a holding."""
    found = part_troubles(holding, ctx.stock, ctx.card.dialect.extended_offsets)
    low = max(ctx.stock.hi[2], *(jaw.hi[2] for jaw in ctx.jaws), ctx.stock.lo[2]) + ctx.clear
    if ctx.safe < low - 1e-9:
        found.append(Trouble("safe", tr("Too low to go across the stock and the jaws."), round(low, 3)))
    if holding.grip is not None and holding.vise == "yes" and holding.grip > stock.size_z:
        found.append(Trouble("grip", tr("Higher than the stock.")))
    return found
