"""A better order of the steps: fewer tool changes, without putting anything before what it needs.

Two steps keep their order where what they take away meets, seen from above or in the half section, or where one of them is a
stop, a repetition, lines by hand, a thread, what parts off or hands over. On a lathe nothing that driven tools do goes past what
is turned, nor past what they do elsewhere on the part. Everything else may change places. The offer is worked out to the end:
planned, with every answer as it was, written and timed; on a lathe, where what is cut later may be what carries the work or what
is in the way, proved too.
"""

from __future__ import annotations

import itertools
from collections import Counter
from dataclasses import dataclass

from bastler.job import Job, Plan, PlannedHolding, PlannedStep, answering, edits, plan
from bastler.job.grouping import by_tool, needs
from bastler.nc import read
from bastler.post import post
from bastler.post.writer import in_order
from bastler.proof.clockwork import timetable
from bastler.proof.prover import prove_whole
from bastler.proof.scenes import scene_of
from bastler.proof.whole import JobProof
from bastler.steps import Stage


@dataclass(frozen=True)
class BetterOrder:
    """The job in the order that is offered, how many tool changes it saves, and how many seconds; with the stages of different
    steps `mixed` or not."""

    job: Job
    changes: int
    seconds: float
    mixed: bool = False


def better_orders(now: Plan, proved: JobProof | None = None) -> tuple[BetterOrder, ...]:
    """All that is worth offering, each saving more than the one before it: other orders of the steps, and on a mill a tool at a
    time through the stages of several steps, proved to leave nothing else to remark. `proved` as for `better_order`."""
    steps = better_order(now, proved)
    found = [steps] if steps is not None else []
    if now.troubles or any(done.troubles for done in now.steps) or now.job.plane != "flat":
        return tuple(found)
    was = proved if proved and proved.plan is now else prove_whole(now)
    for job in [now.job, *([steps.job] if steps is not None else [])]:
        better = _mixed(now, was, job)
        if better is not None and better.seconds > max((one.seconds for one in found), default=0.0):
            found.append(better)
    return tuple(found)


def _mixed(now: Plan, was: JobProof, job: Job) -> BetterOrder | None:
    """A job with a tool at a time in all its holdings; None where that saves nothing, or leaves something to remark."""
    for holding in job.holdings:
        job = answering.answered(job, f"holding:{holding.id}.stage_order", "tools")
    then = plan(job)
    saved = tool_changes(now) - tool_changes(then)
    if job == now.job or saved <= 0 or then.troubles or not _stands(now, then):
        return None
    will = prove_whole(then)
    return BetterOrder(job, saved, was.total - will.total, mixed=True) if _no_worse(was, will) else None


def better_order(now: Plan, proved: JobProof | None = None) -> BetterOrder | None:
    """An order of the steps with fewer tool changes; None where there is none, or where steps are not planned yet. `proved` is
    the plan's proof, where there is one already."""
    if now.troubles or any(done.troubles for done in now.steps):
        return None
    ordered = [
        [held.steps[k].step.id for k in by_tool(needs(held.steps, held), [*map(_tools, held.steps)])] for held in now.holdings
    ]
    idents = [ident for own in ordered for ident in own]
    if idents == [done.step.id for done in now.steps]:
        return None
    job = edits.steps_ordered(now.job, idents)
    then = plan(job)
    saved = tool_changes(now) - tool_changes(then)
    if saved <= 0 or then.troubles or not _stands(now, then):
        return None
    if job.turns:
        was, will = proved if proved and proved.plan is now else prove_whole(now), prove_whole(then)
        seconds = was.total - will.total if _no_worse(was, will) else 0.0
    else:
        seconds = _lasts(now) - _lasts(then)
    return BetterOrder(job, saved, seconds) if seconds > 0 else None


def _stands(now: Plan, then: Plan) -> bool:
    """Can every step still be done, with the answers that it had, those too that were proposed?"""
    filled = {done.step.id: done.filled for done in now.steps}
    return all(not done.troubles and done.filled == filled[done.step.id] for done in then.steps)


def _no_worse(was: JobProof, will: JobProof) -> bool:
    """Is nothing found that was not found before?"""
    before, after = (Counter((r.level, r.code) for r in proof.remarks if r.level != "note") for proof in (was, will))
    return not after - before


def tool_changes(of: Plan) -> int:
    """How often the tool is changed in the programs."""
    return sum(_changes(held) for held in of.holdings)


def _changes(held: PlannedHolding) -> int:
    tools = [stage.tool.id for _, _, _, stage in in_order(held) if isinstance(stage, Stage)]
    return sum(a != b for a, b in itertools.pairwise(tools))


def _lasts(of: Plan) -> float:
    """How long the programs of a plan take, in seconds."""
    scenes = [(scene_of(of, place), held) for place, held in enumerate(of.holdings)]
    return sum(timetable(read(post(held).text, scene.control), scene.card)[2] for scene, held in scenes)


def _tools(done: PlannedStep) -> list[str]:
    return [stage.tool.id for stage in done.stages if isinstance(stage, Stage)]
