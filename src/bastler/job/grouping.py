"""What has to stay before what: steps that cut where another one cuts, and what stands where it stands. Whatever is free of that
may change places, steps as a whole or what one tool does within them."""

from __future__ import annotations

import bisect
import functools
from collections.abc import Sequence
from typing import Generic, TypeVar

from shapely import unary_union

from bastler.job.planned import PlannedHolding, PlannedStep
from bastler.motion import Cycle
from bastler.shapes import disc
from bastler.shapes.kinds import Region
from bastler.steps import Again, Between, Stage, TurnedContext
from bastler.tools import Tool

T = TypeVar("T")
NEAR_MM = 0.5
"""Regions that come so near to each other count as meeting."""


def stages_in_order(held: PlannedHolding) -> list[tuple[int, PlannedStep, Stage | Between]]:
    """The stages of a holding's program, each with the number of its step: step by step, or a tool at a time as far as nothing is
    put before what it needs."""
    found = _in_order(_Itself(held))
    step, name = held.begins
    first = (k for k, (_, done, stage) in enumerate(found) if (done.step.id, stage.name) == (step, name))
    return found[next(first) :] if step else [*found]


class _Itself(Generic[T]):
    """Something planned as a key: as long as it is kept nothing else is it."""

    def __init__(self, of: T) -> None:
        self.of = of

    def __hash__(self) -> int:
        return id(self.of)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Itself) and other.of is self.of


@functools.lru_cache(maxsize=4)
def _in_order(planned: _Itself[PlannedHolding]) -> list[tuple[int, PlannedStep, Stage | Between]]:
    held = planned.of
    every = [(k, done, stage) for k, done in enumerate(held.steps, held.first) for stage in done.stages]
    if held.job.plane != "flat" or held.vise.stage_order == "steps":
        return every
    return [every[k] for k in _tool_by_tool(held, every)]


def _tool_by_tool(held: PlannedHolding, every: Sequence[tuple[int, PlannedStep, Stage | Between]]) -> list[int]:
    before = needs(held.steps, held, copies_free=True)
    of = [k - held.first for k, _, _ in every]
    waits = [{j for j in range(k) if of[j] == step or of[j] in before[step]} for k, step in enumerate(of)]
    return by_tool(waits, [[stage.tool.id] if isinstance(stage, Stage) else [] for _, _, stage in every])


def by_tool(waits: Sequence[set[int]], tools: Sequence[Sequence[str]]) -> list[int]:
    """Always the first that may come, as all that it waits for is done, and begins with the tool in the spindle; else the first
    one that may come. `tools` are those of each, in their order."""
    left = [len(own) for own in waits]
    behind: list[list[int]] = [[] for _ in waits]
    for k, own in enumerate(waits):
        for j in own:
            behind[j].append(k)
    ready = [k for k, count in enumerate(left) if not count]
    order: list[int] = []
    tool = ""
    while ready:
        following = next((k for k in ready if list(tools[k][:1]) == [tool]), ready[0])
        ready.remove(following)
        order.append(following)
        tool = (tools[following] or [tool])[-1]
        for k in behind[following]:
            left[k] -= 1
            if not left[k]:
                bisect.insort(ready, k)
    return order


def needs(steps: Sequence[PlannedStep], of: PlannedHolding, *, copies_free: bool = False) -> list[set[int]]:
    """For every step those before it that have to stay before it. A repetition stands where it stands, as what it repeats is what
    is before it; its stages are `copies_free` to go with others."""
    near = of.ctx.mm(NEAR_MM)
    works = [_works_of(_Itself(done), near) for done in steps]
    fixed = [_fixed(done, copies_free=copies_free) for done in steps]
    return [
        {j for j in range(k) if fixed[k] or fixed[j] or not _beside(done, steps[j]) or works[k].intersects(works[j])}
        for k, done in enumerate(steps)
    ]


def _fixed(done: PlannedStep, *, copies_free: bool) -> bool:
    """A step that stands where it stands: what it is about is what is before it."""
    return (
        (isinstance(done.step, Again) and not copies_free)
        or not done.stages
        or any(not isinstance(s, Stage) or s.parts for s in done.stages)
        or (isinstance(done.ctx, TurnedContext) and not done.rings)
    )


def _beside(one: PlannedStep, other: PlannedStep) -> bool:
    """Can be seen on one plane whether what two steps take away meets? Round about a part it may meet behind the angle where it
    was begun."""
    return type(one.ctx) is type(other.ctx) and one.place == other.place and one.place.around == 0.0


@functools.lru_cache(maxsize=256)
def _works_of(step: _Itself[PlannedStep], near: float) -> Region:
    return _works(step.of).buffer(near)


def _works(done: PlannedStep) -> Region:
    """Where a step works, as its plane sees it."""
    parts = [*done.rings, *done.wants, *(removal.region for removal in done.removals)]
    for stage in done.stages:
        if isinstance(stage, Stage) and isinstance(stage.tool, Tool) and stage.plane == "flat":
            places = [place for move in stage.moves if isinstance(move, Cycle) for place in move.points]
            parts += [disc(x, y, stage.tool.diameter / 2) for x, y in places]
    return unary_union(parts)
