"""Planning a turned part: each step sees the stock as the ones before leave it, and its tools find a station in the turret.

Steps of driven tools are on the end face, X and Y about the axis from the finished front: they see what turning has left of it,
and what those before them took. Turning goes on as if nothing were milled: that is on the safe side.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

import msgspec
import shapely

from bastler.ask import Trouble, problems
from bastler.job.able import able_troubles
from bastler.job.chuck import ChuckHolding
from bastler.job.document import Job
from bastler.job.faults import faulty_tools
from bastler.job.planned import Known, PlannedStep
from bastler.job.positions import pattern_troubles
from bastler.job.stock import BarStock
from bastler.machines import MachineCard
from bastler.motion import Bend
from bastler.motion.placed import placed_moves
from bastler.shapes import Box, PlanOutline, Removal, Shoulders, TurnedOutline
from bastler.shapes.kinds import Region
from bastler.shapes.placing import shifted_by
from bastler.shapes.united import united
from bastler.steps import (
    AnyStep,
    Between,
    FlatContext,
    Repeat,
    RepeatAlong,
    Stage,
    TurnedContext,
    fill,
    kind_of,
    replaced,
    troubles_of,
)
from bastler.steps.base import Unfilled
from bastler.steps.cut import number
from bastler.steps.turn.cut import TurningStep
from bastler.tools import AnyTool, Tool, TurnTool
from bastler.units import in_a_sentence, scale

NEAR_MM = 2.0
"""At least so far before the face stages begin and end."""
FINEST = 1e-6
"""Grid of the stock's corners, in mm: fine enough for anyone, coarse enough that corners do not multiply."""


def turn_context(job: Job, stock: BarStock, holding: ChuckHolding) -> TurnedContext:
    """The context that the first step sees, from filled answers."""
    outlines = {o.id: o for o in job.outlines if isinstance(o, TurnedOutline)}
    mm = scale("mm", job.unit)
    raw, bad = stock.region(outlines, mm), faulty_tools(job)
    return TurnedContext(
        unit=job.unit,
        material=job.material,
        card=job.card,
        pace=stock.pace / 100.0,
        patterns={p.id: p for p in job.patterns},
        tools=tuple(t.in_unit(job.unit) for t in job.tools if t.id not in bad),
        outlines=outlines,
        raw=raw,
        stock=raw,
        safe=((holding.safe_d or 0.0) / 2, holding.safe_z or 0.0),
        clear=holding.clear or 0.0,
        length=stock.finished,
        back=stock.over_back,
        rating=holding.rating,
        leave_x=(holding.leave_d or 0.0) / 2,
        leave_z=holding.leave_z or 0.0,
        keep_out=tuple(holding.keep_out(stock, outlines, mm)),
    )


def plan_steps_turned(
    job: Job, steps: Sequence[AnyStep], ctx: TurnedContext, holding: ChuckHolding, known: Known, *, sound: bool
) -> tuple[TurnedContext, tuple[PlannedStep, ...]]:
    """The steps of a holding planned, and the context with the turret as it is for them. `sound`: is there nothing wrong besides
    the steps?"""
    outlines = {o.id: o for o in job.outlines if isinstance(o, PlanOutline)}
    planned = known.head(steps, holding)
    turret = Turret(ctx.card, ctx.tools)
    for done in planned:
        if done.step.on and not done.troubles:
            turret.take(done.filled.tools_used(), driven=kind_of(done.step).driven)
    for step in steps[len(planned) :]:
        turned = next((done for done in reversed(planned) if isinstance(done.ctx, TurnedContext)), None)
        stock, wanted = _behind(turned) if turned else (ctx.raw, ctx.raw)
        here = replace(ctx, stock=stock, wanted=wanted, tools=turret.tools())
        if kind_of(step).driven:
            gone = tuple(removal for done in planned for removal in done.removals)
            face = face_context(here, holding, outlines, gone, turret.tools(driven=True))
            if isinstance(step, Repeat):
                planned.append(_repeat_driven(step, planned, face, here, sound=sound))
            else:
                planned.append(_plan_driven(step, face, here, turret, sound=sound))
        elif isinstance(step, RepeatAlong):
            planned.append(_plan_again(step, planned, here, turret, sound=sound))
        else:
            planned.append(_plan_step(step, here, turret, sound=sound))
    return replace(ctx, tools=turret.tools()), tuple(planned)


def _plan_again(
    step: RepeatAlong, planned: Sequence[PlannedStep], ctx: TurnedContext, turret: Turret, *, sound: bool
) -> PlannedStep:
    """The run before it again, every step planned anew at all its places before the next one comes."""
    run = planned[-step.back :]
    troubles = tuple(problems(step) or step.run_troubles(run))
    if troubles or not step.on or not sound:
        return PlannedStep(step, step, ctx, troubles if step.on else ())
    copies: list[PlannedStep] = []
    for done in run:
        for by in step.places():
            moved = done.step.farther(by) if isinstance(done.step, TurningStep) and done.stages else None
            if moved is None:
                continue
            stock, wanted = _behind(copies[-1]) if copies else (ctx.stock, ctx.wanted)
            copies.append(_plan_step(moved, replace(ctx, stock=stock, wanted=wanted), turret, sound=True))
            for trouble in copies[-1].troubles:
                text = f"{done.step.title}, farther by {number(by, ctx)}: {in_a_sentence(trouble.text)}"
                return PlannedStep(step, step, ctx, (Trouble("pitch", text),))
    stages = tuple(stage for copy in copies for stage in copy.stages)
    rings, wants = (tuple(region for copy in copies for region in getattr(copy, what)) for what in ("rings", "wants"))
    return PlannedStep(step, step, ctx, (), stages, rings=rings, wants=wants, copies=tuple(copies))


def _behind(done: PlannedStep) -> tuple[Region, Region]:
    """The stock behind a planned step, and as the steps up to it want it."""
    ctx = done.turned
    mm = ctx.mm(1.0)
    return _less(ctx.stock, done.rings, mm), _less(ctx.wanted, done.wants or done.rings, mm)


def _less(stock: Region, removals: Sequence[Region], mm: float) -> Region:
    """The stock without what was taken; the piece at the chuck falls away with what is not held any more only in the proof."""
    if not removals:
        return stock
    gone = united(removals)
    return shapely.set_precision(stock.difference(gone), FINEST * mm)


class Turret:
    """Which tool stands in which station. A tool keeps its own number where it can; else it gets the lowest that is free: one
    that is driven a station that drives, one that is not rather another."""

    def __init__(self, card: MachineCard, tools: Sequence[AnyTool]) -> None:
        self.stations = card.stations
        self.driving = frozenset(card.drive.stations) if card.drive else frozenset[int]()
        self._tools = tuple(tools)
        self._at: dict[str, int] = {}

    def take(self, idents: Sequence[str | None], *, driven: bool = False) -> list[str]:
        """Gives tools a place; the ids of those for which there is none."""
        without = []
        for ident in idents:
            if ident is None:
                continue
            place = self._at.get(ident) or self._place(ident, driven=driven)
            if place > self.stations or (driven and place not in self.driving):
                without.append(ident)
            else:
                self._at[ident] = place
        return without

    def _place(self, ident: str, *, driven: bool) -> int:
        own = next((t.station for t in self._tools if t.id == ident), 0)
        free = [k for k in range(1, self.stations + 1) if k not in self._at.values()]
        if driven:
            free = [k for k in free if k in self.driving]
        elif self.driving:
            free.sort(key=lambda k: k in self.driving)
        return own if own in free else next(iter(free), self.stations + 1)

    def tools(self, *, driven: bool = False) -> tuple[AnyTool, ...]:
        """All tools, those in use with their stations, the others with the one they would get."""
        return tuple(self._standing(t, self._at.get(t.id) or self._place(t.id, driven=driven)) for t in self._tools)

    def why_not_driven(self, ident: str) -> str:
        """Why a tool cannot be driven, for which `take` found no place."""
        if ident in self._at:
            name = next(t.name for t in self._tools if t.id == ident)
            return f"{name} stands still in station {self._at[ident]}, which drives nothing: a second one is needed."
        many = ", ".join(map(str, sorted(self.driving)))
        return f"Tools are driven in stations {many} of the turret, and all of these are taken."

    def _standing(self, tool: AnyTool, station: int) -> AnyTool:
        if isinstance(tool, TurnTool):
            return tool.standing(station, self.stations)
        return msgspec.structs.replace(tool, station=station)


def face_context(
    ctx: TurnedContext,
    holding: ChuckHolding,
    outlines: Mapping[str, PlanOutline],
    gone: Sequence[Removal],
    tools: Sequence[AnyTool],
) -> FlatContext:
    """The end face as a step sees it: the part as far as it is to be, what turning has left of it and what of it is `gone`."""
    back, stock = -ctx.length - ctx.back, ctx.stock
    turned = Shoulders.of(ctx.raw if stock.is_empty else stock, back)
    r, front = turned.radius, max(z for _, z in turned.profile)
    safe = max(holding.safe_z or 0.0, front + min(ctx.clear, ctx.mm(NEAR_MM)))
    return FlatContext(
        unit=ctx.unit,
        material=ctx.material,
        card=ctx.card.driven,
        tools=tuple(t for t in tools if isinstance(t, Tool) and t.stands == "axial"),
        patterns=ctx.patterns,
        outlines=outlines,
        clear=min(ctx.clear, safe - front),
        pace=ctx.pace,
        stock=Box((-r, -r, min(back, front - ctx.mm(1.0))), (r, r, front), round=True),
        safe=safe,
        before=tuple(gone),
        turned=turned,
    )


def _plan_driven(step: AnyStep, ctx: FlatContext, turned: TurnedContext, turret: Turret, *, sound: bool) -> PlannedStep:
    """A step with driven tools on the end face."""
    full = fill(step, ctx)
    troubles = _cannot(turned) or pattern_troubles(step, ctx) or troubles_of(full, ctx) or able_troubles(full, ctx)
    if not troubles and step.on:
        missing = turret.take(full.tools_used(), driven=True)
        if missing:
            troubles = [Trouble("tool", turret.why_not_driven(missing[0]))]
        ctx = replace(ctx, tools=tuple(t for t in turret.tools(driven=True) if isinstance(t, Tool) and t.stands == "axial"))
    if troubles or not step.on or not sound:
        return PlannedStep(step, full, ctx, tuple(troubles) if step.on else (), on=turned.stock)
    try:
        stages, removals = tuple(full.plan(ctx)), tuple(full.removes(ctx))
    except Unfilled as error:
        return PlannedStep(step, full, ctx, (error.trouble,), on=turned.stock)
    if any(isinstance(move, Bend) for stage in stages if not isinstance(stage, Between) for move in stage.moves):
        text = "The control does not run a tool beside an outline while its spindle is an axis."
        return PlannedStep(step, full, ctx, (Trouble("compensation", text, "computed"),), on=turned.stock)
    return PlannedStep(step, full, ctx, (), stages, removals, on=turned.stock)


def _repeat_driven(
    step: Repeat, planned: Sequence[PlannedStep], ctx: FlatContext, turned: TurnedContext, *, sound: bool
) -> PlannedStep:
    """The run of steps on the end face before it again; what is turned among them is not."""
    run = planned[-step.back :] if step.back > 0 else []
    troubles = _cannot(turned) or problems(step)
    if not troubles and any(not kind_of(done.step).driven for done in run):
        troubles = [Trouble("back", "What is turned is among them: it is repeated along Z, or not at all.")]
    if not troubles and step.how == "scaled":
        troubles = [Trouble("how", "On an end face nothing is repeated in another size.", "turned")]
    troubles = troubles or step.run_troubles(run)
    if troubles or not step.on or not sound:
        return PlannedStep(step, step, ctx, tuple(troubles) if step.on else (), on=turned.stock)
    stages = tuple(one for stage in step.stages_of(run) for one in _apart(stage))
    return PlannedStep(step, step, ctx, (), stages, tuple(step.removes_of(run)), on=turned.stock)


def _apart(stage: Stage | Between) -> Iterator[Stage | Between]:
    """A stage that is made at several places as so many: a turret has no local shift."""
    if not isinstance(stage, Stage) or not stage.copies:
        yield stage
        return
    x, y, z = stage.start
    for u, v in stage.copies:
        moves = tuple(placed_moves(stage.moves, shifted_by(u, v)))
        yield replaced(stage, start=(x + u, y + v, z), moves=moves, copies=())


def _cannot(ctx: TurnedContext) -> list[Trouble]:
    """Why nothing is done with driven tools here."""
    if not ctx.card.drives_axially:
        return [Trouble("name", f"{ctx.card.name} drives no tools along its axis.")]
    if ctx.stock.is_empty:
        return [Trouble("name", "The steps before leave nothing to cut.")]
    return []


def _plan_step(step: AnyStep, ctx: TurnedContext, turret: Turret, *, sound: bool) -> PlannedStep:
    ctx = replace(ctx, tools=turret.tools())
    full = fill(step, ctx)
    troubles = _outline_troubles(step, ctx) or ([] if ctx.stock.is_empty else troubles_of(full, ctx) or able_troubles(full, ctx))
    if ctx.stock.is_empty:
        troubles = [Trouble("tool", "The steps before leave nothing to cut.")]
    if not troubles and step.on:
        missing = turret.take(full.tools_used())
        if missing:
            troubles = [Trouble("tool", f"The turret has {turret.stations} stations, and all are taken.")]
        ctx = replace(ctx, tools=turret.tools())
    if troubles or not step.on or not sound:
        return PlannedStep(step, full, ctx, tuple(troubles) if step.on else ())
    try:
        rings, wants = tuple(full.removes(ctx)), tuple(full.wants(ctx))
        return PlannedStep(step, full, ctx, (), tuple(full.plan(ctx)), rings=rings, wants=wants)
    except Unfilled as error:
        return PlannedStep(step, full, ctx, (error.trouble,))


def _outline_troubles(step: AnyStep, ctx: TurnedContext) -> list[Trouble]:
    shape = ctx.outlines.get(getattr(step, "outline", ""))
    if not isinstance(shape, TurnedOutline):
        return []
    found = [Trouble(f"outline.{t.field}", t.text, t.fits) for t in problems(shape)]
    for k, segment in enumerate(shape.segments):
        found += [Trouble(f"outline.segments.{k}.{t.field}", t.text, t.fits) for t in problems(segment)]
    return found
