"""Planning a turned part: each step sees the stock as the ones before leave it, and its tools find a station in the turret."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import msgspec
import shapely
import shapely.affinity

from bastler.ask import Trouble, problems, questions_of
from bastler.job.able import able_troubles
from bastler.job.chuck import ChuckHolding, centre_at
from bastler.job.document import Job
from bastler.job.driven_planning import Chucked, plan_driven
from bastler.job.faults import faulty_tools
from bastler.job.planned import PlannedStep, bringing, handing
from bastler.job.stock import BarStock
from bastler.job.turret import Turret
from bastler.language import tr
from bastler.shapes import PlanOutline, TurnedOutline
from bastler.shapes.kinds import Region
from bastler.shapes.united import united
from bastler.steps import (
    AnyStep,
    FreeMoves,
    RepeatAlong,
    TailstockCentre,
    TurnedContext,
    fill,
    kind_of,
    troubles_of,
)
from bastler.steps.base import Unfilled
from bastler.steps.cut import number
from bastler.steps.turn.cut import TurningStep
from bastler.units import in_a_sentence, scale

SKIN_MM = 0.01
"""What has been turned off a bar by less than that, on the radius, still guides it."""
FINEST = 1e-6
"""Grid of the stock's corners, in mm: fine enough for anyone, coarse enough that corners do not multiply."""


def turn_context(job: Job, stock: BarStock, holding: ChuckHolding, raw: Region) -> TurnedContext:
    """The context that the first step sees, from filled answers: `raw` is the part as it comes into the holding."""
    outlines = {o.id: o for o in job.outlines if isinstance(o, TurnedOutline)}
    mm, bad = scale("mm", job.unit), faulty_tools(job)
    raw = raw if raw.area > 0.0 else shapely.box(-mm, 0.0, 0.0, mm)  # a stock of nothing is said to be none
    return TurnedContext(
        unit=job.unit,
        material=job.material,
        card=job.card.from_second if holding.handed else job.card,
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
        keep_out=tuple(holding.keep_out(stock, raw, mm, job.card.bush)),
        zero_z=holding.offset_z or 0.0,
        at_second=holding.handed,
    )


def turret_of(job: Job) -> Turret:
    """The turret before any tool is in it."""
    bad = faulty_tools(job)
    return Turret(job.card, tuple(t.in_unit(job.unit) for t in job.tools if t.id not in bad))


def left_by(steps: Sequence[PlannedStep], ctx: TurnedContext) -> Region:
    """The part behind the steps of a holding, as a half section: of several pieces that in front, which was parted off."""
    turned = next((done for done in reversed(steps) if isinstance(done.ctx, TurnedContext)), None)
    stock = _behind(turned)[0] if turned is not None else ctx.raw
    return foremost(stock)


def foremost(*regions: Region) -> Region:
    """Of all pieces of some half sections that which comes farthest to the front; nothing where there are none."""
    pieces = [piece for piece in shapely.get_parts(regions) if not piece.is_empty]
    return max(pieces, key=lambda piece: float(piece.bounds[2]), default=shapely.Polygon())


def turned_round(part: Region, length: float, front: float = 0.0) -> Region:
    """A half section seen from the other end: its zero is on the finished face there, a `length` behind its `front`."""
    return shapely.transform(part, lambda places: (places * (-1.0, 1.0)) + (front - length, 0.0)).normalize()


def stock_turned_round(stock: BarStock, raw: Region, *, back: bool) -> BarStock:
    """The stock as a holding finds it in which the part is turned round: too much at its front is what was left at its `back`, or
    where it is turned round again, at its front."""
    if raw.is_empty:
        return stock
    z0, _, z1, _ = raw.bounds
    digits = 9
    front, behind = round(max(z1, 0.0), digits), round(max(-z0 - stock.finished, 0.0), digits)
    comes = (stock.back_comes or "off") if back else stock.front_comes
    return msgspec.structs.replace(
        stock, over_front=front, front_comes=comes, over_back=behind, length=round(z1 - z0, digits), typed={}
    )


def plan_steps_turned(
    job: Job,
    steps: Sequence[AnyStep],
    ctx: TurnedContext,
    holding: ChuckHolding,
    turret: Turret,
    head: Sequence[PlannedStep],
    *,
    sound: bool,
) -> tuple[TurnedContext, tuple[PlannedStep, ...]]:
    """The steps of a holding planned, and the context with the `turret` as it is for them. `head` are those of the first ones
    that are known from before; `sound`: is there nothing wrong besides the steps?"""
    outlines = {o.id: o for o in job.outlines if isinstance(o, PlanOutline)}
    planned = list(head)
    for done in planned:
        if done.step.on and not done.troubles:
            turret.take(done.filled.tools_used(), done.place.stands if kind_of(done.step).driven else None)
    for step in steps[len(planned) :]:
        turned = next((done for done in reversed(planned) if isinstance(done.ctx, TurnedContext)), None)
        stock, wanted = _behind(turned) if turned else (ctx.raw, ctx.raw)
        here = replace(
            _with_centre(_beside_second(ctx, planned), planned),
            stock=stock,
            wanted=wanted,
            tools=turret.tools(),
            brought=bringing(planned) is not None,
        )
        if kind_of(step).driven:
            planned.append(plan_driven(step, Chucked(here, holding, outlines, tuple(planned), turret, sound)))
        elif isinstance(step, RepeatAlong):
            planned.append(_plan_again(step, planned, here, turret, sound=sound))
        else:
            planned.append(_plan_step(step, here, turret, sound=sound))
    return replace(ctx, tools=turret.tools()), tuple(planned)


def _beside_second(ctx: TurnedContext, planned: Sequence[PlannedStep]) -> TurnedContext:
    """What steps see while the second chuck holds the work too: their ways go in and out between both chucks, over their jaws.
    Where it has pulled the bar out the main one is as much farther back, seen from the part."""
    hand, two = handing(planned), ctx.card.second
    transfer = hand.transfer if hand is not None else None
    if transfer is None or two is None:
        return ctx
    at, together = transfer.grip, transfer.together
    kept = tuple((name, shapely.affinity.translate(region, -transfer.pull)) for name, region in ctx.keep_out)
    jaws = max((float(region.bounds[2]) for name, region in kept if name == "jaws"), default=at)
    reach = max(ctx.second_reach, *(float(region.bounds[3]) for _, region in ctx.keep_out))
    return replace(
        ctx,
        safe=(max(ctx.safe[0], reach + ctx.clear), (jaws + at) / 2),
        keep_out=kept,
        rating=min(ctx.rating, two.speed[1]),
        handed_over="in step" if together else "apart",
    )


def _with_centre(ctx: TurnedContext, planned: Sequence[PlannedStep]) -> TurnedContext:
    """What steps see behind those that bring the tailstock's centre in or take it out."""
    centre = centre_behind(planned)
    return ctx if centre is None else replace(ctx, keep_out=(*ctx.keep_out, ("tailstock", centre)))


def centre_behind(planned: Sequence[PlannedStep]) -> Region | None:
    """The centre that a step has brought in and none has taken out since, as a half section."""
    found = ((p.turned, p.filled) for p in reversed(planned) if p.stages and isinstance(p.filled, TailstockCentre))
    ctx, step = next(found, (None, None))
    if ctx is None or step is None or step.way == "out":
        return None
    return centre_at(ctx.front, step.hole(ctx), (step.body_d or 0.0) / 2, ctx.mm(1.0))


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
                text = tr(
                    "{title}, farther by {by}: {text}",
                    title=done.step.title,
                    by=number(by, ctx),
                    text=in_a_sentence(trouble.text),
                )
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


def _plan_step(step: AnyStep, ctx: TurnedContext, turret: Turret, *, sound: bool) -> PlannedStep:
    ctx = replace(ctx, tools=turret.tools())
    full = fill(step, ctx)
    troubles = (
        _one_alone(step, ctx)
        or _outline_troubles(step, ctx)
        or _tools_turned_away(step, ctx, turret)
        or ([] if ctx.stock.is_empty else troubles_of(full, ctx) or able_troubles(full, ctx))
    )
    if ctx.stock.is_empty:
        troubles = [Trouble("tool", tr("The steps before leave nothing to cut."))]
    if not troubles and step.on:
        missing = turret.take(full.tools_used())
        if missing:
            troubles = [Trouble("tool", turret.why_not(missing[0]))]
        ctx = replace(ctx, tools=turret.tools())
    if troubles or not step.on or not sound:
        return PlannedStep(step, full, ctx, tuple(troubles) if step.on else ())
    try:
        rings, wants = tuple(full.removes(ctx)), tuple(full.wants(ctx))
        ctx = _held_by_bush(ctx, rings)
        return PlannedStep(step, full, ctx, (), tuple(full.plan(ctx)), rings=rings, wants=wants)
    except Unfilled as error:
        return PlannedStep(step, full, ctx, (error.trouble,))


def _held_by_bush(ctx: TurnedContext, rings: Sequence[Region]) -> TurnedContext:
    """What a step sees of which a bar slides through a guide bush: it begins and ends no farther in front of the deepest place
    that was turned, by itself too, than the bush has hold of the bar."""
    bush = ctx.card.bush
    if bush is None:
        return ctx
    _, _, front, outer = ctx.untouched.bounds
    skin = shapely.box(-1e5, outer - ctx.mm(SKIN_MM), 1e5, outer + 1.0)
    gone = united([ctx.untouched.difference(ctx.stock), *rings]).intersection(skin)
    deepest = float(front) if gone.is_empty else min(float(gone.bounds[0]), float(front))
    return replace(ctx, safe=(ctx.safe[0], min(ctx.safe[1], deepest + bush.back)), deepest=deepest)


def _one_alone(step: AnyStep, ctx: TurnedContext) -> list[Trouble]:
    """Behind the step that brings the bar on; or turning while both chucks hold the work, and nothing keeps them in step."""
    if ctx.brought:
        return [Trouble("name", tr("It stands behind the step that brings the bar: with that the part is done."))]
    if ctx.handed_over != "apart" or not isinstance(step, TurningStep | FreeMoves):
        return []
    return [Trouble("name", tr("Both chucks hold the work, and the hand-over does not have them turn in step."))]


def _tools_turned_away(step: AnyStep, ctx: TurnedContext, turret: Turret) -> list[Trouble]:
    """Tools that are given and point at the other chuck."""
    able = {t.id for t in ctx.tools}
    given = [(q.name, getattr(step, q.name)) for q in questions_of(type(step)) if q.picks == "tool"]
    return [Trouble(name, turret.why_not(ident)) for name, ident in given if ident and ident not in able and turret.has(ident)]


def _outline_troubles(step: AnyStep, ctx: TurnedContext) -> list[Trouble]:
    shape = ctx.outlines.get(getattr(step, "outline", ""))
    if not isinstance(shape, TurnedOutline):
        return []
    found = [Trouble(f"outline.{t.field}", t.text, t.fits) for t in problems(shape)]
    for k, segment in enumerate(shape.segments):
        found += [Trouble(f"outline.segments.{k}.{t.field}", t.text, t.fits) for t in problems(segment)]
    return found
