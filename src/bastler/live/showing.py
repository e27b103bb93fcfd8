"""Makes values to show of plans and proofs. What did not change since the last one is the same value: it needs no sending."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator
from dataclasses import replace
from typing import Any

import shapely

from bastler.ask import filled, questions_of
from bastler.job import BlockStock, Job, Plan, PlannedHolding, PlannedStep, edits
from bastler.job.chuck import chuck_at
from bastler.job.cutaway import Cutaway, cutaway
from bastler.job.half_cut import half_cut
from bastler.job.planned import bare
from bastler.job.sketch import setup_sketch, turn_setup_sketch
from bastler.job.turn_planning import centre_behind
from bastler.live.shown import (
    Flat,
    Look,
    Opposite,
    PartLook,
    ShownFault,
    ShownHolding,
    ShownPlan,
    ShownProof,
    ShownRun,
    ShownStage,
    ShownStep,
    ShownWhole,
    ToolOffer,
    ToolOffers,
    Turned,
)
from bastler.proof import JobProof, TurnProof
from bastler.proof.result import AnyProof
from bastler.shapes import Bevel, Furrow, Removal, draw
from bastler.shapes import Flat as Opened
from bastler.shapes.kinds import Region
from bastler.shapes.united import united
from bastler.steps import FlatContext, HandOver, NextPart, Sketch, TailstockCentre, ThreadLines, TurnedContext, trouble_with
from bastler.units import in_a_sentence


class Showing:
    """Shows one plan after another, and one proof after another."""

    def __init__(self) -> None:
        self._steps: dict[str, tuple[PlannedStep, ShownStep]] = {}
        self._runs: dict[int, tuple[Any, ShownRun]] = {}

    def plan(self, plan: Plan) -> ShownPlan:
        """A plan; also outlines that no step follows are looked at."""
        holdings = tuple(self._holding(held, group[0].number) for group in plan.programs for held in group)
        self._steps = {done.step.id: self._steps[done.step.id] for done in plan.steps}
        return ShownPlan(plan.job, holdings, {outline.id: draw(outline) for outline in plan.job.outlines})

    def _holding(self, held: PlannedHolding, number: int) -> ShownHolding:
        return ShownHolding(
            held.job.unit,
            held.stock,
            bare(held.holding),
            held.troubles,
            tuple(held.ctx.tools),
            held.parts,
            held.place,
            held.first,
            number,
            around(held),
            tuple(self._step(done) for done in held.steps),
        )

    def _step(self, done: PlannedStep) -> ShownStep:
        """The same as before where it was only met on other stock that makes no difference to it."""
        was, shown = self._steps.get(done.step.id, (None, None))
        if shown is None or was is None or not _alike(was, done):
            tools = tuple(t for ident in done.filled.tools_used() if (t := done.ctx.tool(ident)))
            stages = tuple(s.name for s in done.stages)
            shown = ShownStep(done.filled, done.troubles, "" if done.troubles else done.summary, tools, stages, done.place)
        self._steps[done.step.id] = (done, shown)
        return shown

    def whole(self, proof: JobProof) -> ShownWhole:
        """A proof of a job."""
        proofs = tuple(self._proof(one) for one in proof.holdings)
        alive = {id(s.proof) for one in proof.holdings for s in one.stages}
        self._runs = {key: kept for key, kept in self._runs.items() if key in alive}
        idents = tuple(h.holding.id for h in proof.plan.holdings)
        return ShownWhole(proofs, idents, proof.verdict, proof.remarks)

    def _proof(self, proof: AnyProof) -> ShownProof:
        assert proof.held is not None
        faults: tuple[ShownFault, ...] = ()
        if isinstance(proof, TurnProof):
            faults = tuple(ShownFault(f.kind, f.region, f.step) for f in proof.comparison.faults)
        return ShownProof(
            proof.plane,
            proof.scene.unit,
            proof.scene.card,
            around(proof.held),
            max(len(proof.held.parts), 1),
            proof.program,
            proof.trace,
            proof.starts,
            proof.lasts,
            proof.total,
            proof.remarks,
            proof.verdict,
            proof.took,
            tuple(self._stage(stage) for stage in proof.stages),
            faults,
        )

    def _stage(self, stage: Any) -> ShownStage:
        key = id(stage.proof)
        if key not in self._runs:
            run = stage.proof
            self._runs[key] = (run, ShownRun(run.segments, run.owner, run.seconds, run.power, run.tool))
        return ShownStage(
            stage.step,
            stage.stage,
            stage.tool,
            stage.begin,
            stage.end,
            stage.t0,
            stage.t1,
            stage.part,
            stage.shift,
            stage.volume,
            stage.peak_power,
            self._runs[key][1],
        )


def _alike(was: PlannedStep, now: PlannedStep) -> bool:
    """Is it the same plan of the same step, and are its tools the same?"""
    if was is now:
        return True
    same = was.filled is now.filled and was.stages is now.stages and was.troubles is now.troubles and was.place == now.place
    return same and was.ctx.tools == now.ctx.tools


def around(held: PlannedHolding) -> Flat | Turned:
    """What stands around the work."""
    if isinstance(held.stock, BlockStock):
        ctx = held.flat
        return Flat(ctx.stock, tuple(ctx.jaws), ctx.safe)
    turned = held.turned
    return Turned(turned.raw, tuple(turned.keep_out), turned.safe, held.jaws_at, _opposite(held))


def _opposite(held: PlannedHolding) -> Opposite | None:
    """The second chuck, where the part is handed over to it."""
    hand, two = held.hand_over, held.turned.card.second
    if hand is None or hand.transfer is None or two is None or not isinstance(hand.filled, HandOver):
        return None
    ctx, grip = hand.turned, hand.transfer.grip
    inner = hand.filled.held_d(ctx) / 2
    turned_over = tuple(
        (f"second-{name}", shapely.transform(region, lambda places: places * (-1.0, 1.0)))
        for name, region in chuck_at(0.0, inner, held.turned.second_reach, ctx.mm(1.0))
    )
    return Opposite(turned_over, two.jaws_at(0.0) - ctx.zero_z, two.home, grip, hand.step.id, ctx.front - grip)


def look(plan: Plan, card: str, section: float | None = None) -> Look:
    """What there is to see of a card. A step whose answers leave nothing to draw shows the part as it is before it. A milled part
    is cut open at `section`, an X or a Y, in place of where the step lies."""
    planned = plan.step(card)
    if planned is None:
        return _look_at_card(plan, card, section)
    said = () if planned.troubles or not planned.step.on else tuple(planned.filled.says(planned.ctx))
    gone = () if planned.troubles else planned.removals
    sketch, open_, ctx = planned.sketch, planned.cutaway, planned.ctx
    if section is not None and isinstance(sketch, Sketch) and isinstance(ctx, FlatContext):
        sketch = _cut_at(sketch, section)
        open_ = cutaway(ctx.stock, ctx.before, gone, *sketch.section, ctx.under, ctx.turned)
    face = None
    half = planned.half_cut
    if planned.on is not None and isinstance(ctx, FlatContext):
        face = Flat(ctx.stock, (), ctx.safe, planned.place, ctx.turned)
        bar = plan.holding(card).turned.untouched
        half = half_cut(bar, planned.on, (), ctx.mm(1.0)) if not planned.on.is_empty else None
    return Look(
        card,
        sketch,
        _worked_out(open_),
        _seen(gone),
        half,
        face,
        _threads_before(plan, card),
        _threads_of(planned),
        said,
        planned.filled.sources(ctx),
        tuple(_beside(planned)),
    )


def _beside(planned: PlannedStep) -> Iterator[Region]:
    """What stands at the part for a step: the centre that an earlier one or it itself has brought in; a stop before the bar."""
    ctx, step = planned.ctx, planned.filled
    if not isinstance(ctx, TurnedContext) or planned.troubles:
        return
    yield from (region for name, region in ctx.keep_out if name == "tailstock")
    if (bush := ctx.card.bush) is not None and ctx.deepest is not None:
        out = next((region.bounds for name, region in ctx.keep_out if name == "bush"), None)
        at = ctx.deepest - bush.before
        if out is not None:
            yield shapely.box(at - bush.long, out[1], at, out[3])
    if isinstance(step, TailstockCentre) and (centre := centre_behind([planned])) is not None:
        yield centre
    if not isinstance(step, NextPart) or step.how == "feeder" or not planned.stages:
        return
    if (tool := ctx.turn_tool(step.tool)) is not None:
        at = step.held_at(ctx)
        face = shapely.Polygon([(z + at, r) for z, r in tool.cutting])
        yield face.intersection(shapely.box(at - 1e4, 0.0, at + 1e4, 1e4))


def _look_at_card(plan: Plan, card: str, section: float | None) -> Look:
    """Of the stock or of a holding."""
    held = plan.holding(edits.held_at(card))
    if not isinstance(held.stock, BlockStock):
        return Look(card, turn_setup_sketch(held), half_cut=held.half_cut)
    ctx, sketch = held.flat, setup_sketch(held, across=card.startswith("holding:"))
    sketch = _cut_at(sketch, section) if section is not None else sketch
    return Look(card, sketch, _worked_out(cutaway(ctx.stock, ctx.before, (), *sketch.section, ctx.under)))


def _seen(removals: Iterable[Removal]) -> tuple[Removal, ...]:
    """Removals as they are seen from above. The region of a bevel or a groove is worked out here: the window cannot."""
    return tuple(Opened(r.region, r.floor) if isinstance(r, Bevel | Furrow) else r for r in removals)


def _worked_out(cut: Cutaway | None) -> Cutaway | None:
    return replace(cut, floors=_seen(cut.floors), hidden=_seen(cut.hidden)) if cut is not None else None


def _cut_at(sketch: Sketch, at: float) -> Sketch:
    """A sketch with its section elsewhere; the dimensions in the section belong to where it was."""
    (ax, ay), (bx, by) = sketch.section
    if at == (ax if ax == bx else ay):
        return sketch
    moved = ((at, ay), (at, by)) if ax == bx else ((ax, at), (bx, at))
    return edits.replace(sketch, section=moved, dims=tuple(d for d in sketch.dims if d.view != "section"))


def _threads_before(plan: Plan, card: str) -> tuple[ThreadLines, ...]:
    """The threads that earlier steps of the same holding have made on the same plane."""
    steps, own = plan.holding(card).steps, plan.step(card)
    before = itertools.takewhile(lambda done: done.step.id != card, steps)
    return tuple(line for done in before for line in _threads_of(done) if own and done.place.shares(own.place))


def _threads_of(done: PlannedStep) -> tuple[ThreadLines, ...]:
    """The threads that a step makes, or a repetition of it."""
    if done.troubles or not done.step.on or not done.stages:
        return ()
    return tuple(line for one in (done.copies or (done,)) for line in one.filled.threads(one.ctx))


def tool_offers(plan: Plan, ident: str, field: str) -> ToolOffers | None:
    """The tools there are for an answer of a step: those that fit first; None where the step is gone."""
    planned = plan.step(ident)
    if planned is None:
        return None
    ctx = planned.ctx
    computed = filled(edits.replace(planned.step, **{field: None}), ctx)
    used = {ident for p in plan.steps for ident in p.filled.tools_used()}
    before = {(t.field, t.text) for t in trouble_with(planned.step, ctx)}
    names = {q.name: q.says for q in questions_of(type(planned.step))}
    found = []
    for tool in ctx.tools if plan.job.turns else sorted(ctx.tools, key=lambda t: t.station):
        tried = trouble_with(edits.replace(planned.step, **{field: tool.id}), ctx)
        why = next((t.text for t in tried if t.field == field), "")
        # What follows from it elsewhere is a reason too: a computed finishing tool, a bound of a feed.
        new = [t for t in tried if t.field in names and (t.field, t.text) not in before]
        why = why or next((f"{names[t.field]}: {in_a_sentence(t.text)}" for t in new), "")
        found.append(ToolOffer(tool, why, tool.id in used))
    return ToolOffers(ctx.tool(getattr(computed, field)), tuple(sorted(found, key=lambda offer: bool(offer.why_not))))


def part_look(plan: Plan) -> PartLook:
    """The part as its first holding leaves it."""
    held = plan.first
    if isinstance(held.stock, BlockStock):
        gone = sorted(held.removals, key=lambda r: -r.floor)
        return PartLook(held.flat.stock, tuple((r.floor, r.region) for r in gone))
    raw = held.turned.raw
    rings = [r for p in held.steps for r in p.rings]
    z0, r0, z1, r1 = raw.bounds
    return PartLook(None, section=raw.difference(united(rings)) if rings else raw, bounds=(max(z0, held.jaws_at), r0, z1, r1))


def shared(job: Job, old: Job | None) -> Job:
    """A job that came over the wire, with whatever it has in common with another one taken from that: planning tells what an edit
    touched by what is the very same."""
    if old is None:
        return job
    if job == old:
        return old
    steps = {s.id: s for s in old.steps}
    holdings = []
    for holding in job.holdings:
        own = tuple(steps[s.id] if s.id in steps and steps[s.id] == s else s for s in holding.steps)
        holdings.append(edits.replace(holding, steps=own))
    kept = {
        name: getattr(old, name)
        for name in job.__struct_fields__
        if name != "holdings" and getattr(job, name) == getattr(old, name)
    }
    return edits.replace(job, holdings=tuple(holdings), **kept)
