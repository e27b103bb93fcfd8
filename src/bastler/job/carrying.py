"""Steps, patterns, outlines and tools carried from one job to another: over the clipboard, or out of a file.

What is carried is a job of its own with nothing but that in it, so that it is read and checked as any job file is. What the other
job has already it keeps: a pattern, an outline or a tool that is the same is used, not brought twice.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import msgspec

from bastler.ask import questions_of
from bastler.bounds import STEPS as MOST_STEPS
from bastler.job.arrive import fresh_id
from bastler.job.document import Job
from bastler.job.faults import unfounded
from bastler.job.planned import references
from bastler.language import countable, many, sayable, tr
from bastler.steps import AnyStep, HandOver, kind_of
from bastler.tools import AnyTool

replace = msgspec.structs.replace
COUNTED = (countable("pattern"), countable("outline"), countable("tool"))
OF_STEP = sayable({"pattern": "the pattern of this step", "outline": "the outline of this step"})
UNITS = sayable({"mm": "millimetres", "inch": "inches"})


class NotBrought(Exception):
    """What is carried does not go into this job; the text says why."""


@dataclass(frozen=True)
class Brought:
    """The job with what was brought, the ids of the steps among it, and what has come along with them."""

    job: Job
    steps: tuple[str, ...]
    words: str


def excerpt(job: Job, steps: Sequence[str] = (), others: Sequence[str] = ()) -> Job:
    """A job with nothing but these steps, in one holding, and what they use; `others` are the ids of patterns, outlines and
    tools besides."""
    chosen = tuple(step for step in job.steps if step.id in steps)
    held = job.holding_of(chosen[0].id) if chosen else job.holdings[0]
    wanted = {ident for step in chosen for ident in references(step)} | set(others)
    tools = {ident for step in chosen for ident in _tools_of(step).values()} | set(others)
    return replace(
        job,
        holdings=(replace(held, steps=chosen, follows="first"),),
        patterns=tuple(p for p in job.patterns if p.id in wanted),
        outlines=tuple(o for o in job.outlines if o.id in wanted or o.id in references(job.stock)),
        tools=tuple(t for t in job.tools if t.id in tools),
        by_hand=(),
        print=None,
        family=None,
    )


def _tools_of(step: AnyStep) -> dict[str, str]:
    """The tools that were picked for a step, by the answer that they are."""
    picked = [q.name for q in questions_of(type(step)) if q.picks == "tool"]
    return {name: ident for name in picked if (ident := getattr(step, name, None))}


def brought(job: Job, carried: Job, after: str) -> Brought:
    """The job with all that is carried, its steps behind the one with that id or at the end of its holding. NotBrought where it
    does not go in."""
    if carried.unit != job.unit:
        raise NotBrought(
            tr(
                "That was copied in {units}; this job is in {units_2}.",
                units=tr(UNITS[carried.unit]),
                units_2=tr(UNITS[job.unit]),
            )
        )
    if len(job.steps) + len(carried.steps) > MOST_STEPS.most:
        raise NotBrought(tr("A job has no more than {most} steps.", most=MOST_STEPS.most))
    for step in carried.steps:
        if isinstance(step, HandOver):
            raise NotBrought(tr("A hand-over begins a holding of its own: add it here as a step."))
        if not kind_of(step).possible(job.plane, job.card):
            raise NotBrought(tr("{name} cannot do “{title}”.", name=job.card.name, title=step.title))
    made, names = job, dict[str, str]()
    made, tools = _with_tools(made, carried.tools)
    used = {ident for step in carried.steps for ident in references(step)}
    patterns = [p for p in carried.patterns if p.id in used or not carried.steps]
    outlines = [o for o in carried.outlines if o.id in used or not carried.steps]
    made, own = _with_named(made, "patterns", patterns, "p")
    names |= own
    made, own = _with_named(made, "outlines", outlines, "o")
    names |= own
    fresh: list[AnyStep] = []
    for step in carried.steps:
        ident = fresh_id({s.id for s in (*job.steps, *fresh)}, "s")
        fresh.append(replace(_renamed(step, names, tools), id=ident))
    made = _behind(made, fresh, after)
    for trouble in unfounded(made):
        raise NotBrought(trouble.text)
    more = [(len(getattr(made, which)) - len(getattr(job, which)), which[:-1]) for which in ("patterns", "outlines", "tools")]
    said = [many(count, word) for count, word in ((len(fresh), countable("step")), *more) if count > 0]
    return Brought(made, tuple(step.id for step in fresh), ", ".join(said))


def taken_up(before: Job, found: Brought, carried: Job, ident: str) -> Brought:
    """A pattern or an outline that was brought alone becomes that of a step which has one of its kind."""
    step = before.step(ident)
    for which, things in (("pattern", carried.patterns), ("outline", carried.outlines)):
        now = getattr(before, which)(getattr(step, which, "")) if step is not None else None
        own = [t for t in getattr(found.job, f"{which}s") if t not in getattr(before, f"{which}s")]
        same = own or [t for t in getattr(before, f"{which}s") if any(replace(t, id=c.id) == c for c in things)]
        if step is not None and now is not None and len(things) == len(same) == 1 and _for_the_same(which, now, same[0]):
            changed = replace(step, **{which: same[0].id})
            steps = tuple(changed if s.id == ident else s for s in found.job.holding_of(ident).steps)
            held = found.job.holding_of(ident)
            holdings = tuple(replace(h, steps=steps) if h.id == held.id else h for h in found.job.holdings)
            return Brought(replace(found.job, holdings=holdings), found.steps, found.words or tr(OF_STEP[which]))
    return found


def _for_the_same(which: str, one: Any, other: Any) -> bool:
    """Can one stand where the other does? Any positions can; an outline seen from above is none to be turned."""
    return which == "pattern" or (type(one) is type(other) and getattr(one, "inside", None) == getattr(other, "inside", None))


def _with_tools(job: Job, tools: Sequence[AnyTool]) -> tuple[Job, dict[str, str]]:
    """The job with tools that it has not, and what each is called there. One whose station is taken comes into the crib."""
    own, called = list(job.tools), dict[str, str]()
    for tool in tools:
        same = next((t for t in own if _alike(t, tool)), None)
        if same is None:
            taken = {t.id for t in own}
            ident = fresh_id(taken, f"{tool.id}-") if tool.id in taken else tool.id
            free = tool.station and tool.station not in {t.station for t in own}
            same = replace(tool, id=ident, station=tool.station if free else 0)
            own.append(same)
        called[tool.id] = same.id
    return replace(job, tools=tuple(own)), called


def _alike(a: AnyTool, b: AnyTool) -> bool:
    """Is it the same tool, wherever it stands?"""
    return type(a) is type(b) and replace(a, id=b.id, station=b.station) == b


def _with_named(job: Job, which: str, things: Sequence[Any], stem: str) -> tuple[Job, dict[str, str]]:
    """The job with patterns or outlines that it has not, and what each is called there."""
    own, called = list(getattr(job, which)), dict[str, str]()
    for thing in things:
        same = next((t for t in own if type(t) is type(thing) and replace(t, id=thing.id) == thing), None)
        if same is None:
            same = replace(thing, id=fresh_id({t.id for t in own}, stem), name=_free_name(thing.name, {t.name for t in own}))
            own.append(same)
        called[thing.id] = same.id
    return replace(job, **{which: tuple(own)}), called


def _free_name(name: str, taken: set[str]) -> str:
    """The name, with a number behind it where something is called so already."""
    number, found = 2, name
    while found in taken:
        found, number = f"{name} {number}", number + 1
    return found


def _renamed(step: AnyStep, names: Mapping[str, str], tools: Mapping[str, str]) -> AnyStep:
    """A step that uses the things as they are called in the other job."""
    changed: dict[str, Any] = {name: tools[ident] for name, ident in _tools_of(step).items() if ident in tools}
    for name in ("pattern", "outline"):
        ident = str(getattr(step, name, ""))
        if ident in names:
            changed[name] = names[ident]
    islands = getattr(step, "islands", ())
    if islands:
        changed["islands"] = tuple(replace(i, outline=names.get(i.outline, i.outline)) for i in islands)
    return replace(step, **changed)


def _behind(job: Job, fresh: Sequence[AnyStep], after: str) -> Job:
    """The job with steps behind one of its own, or at the end of the holding."""
    holding = job.holding_of(after)
    place = next((k + 1 for k, step in enumerate(holding.steps) if step.id == after), len(holding.steps))
    steps = (*holding.steps[:place], *fresh, *holding.steps[place:])
    changed = replace(holding, steps=steps)
    return replace(job, holdings=tuple(changed if h.id == holding.id else h for h in job.holdings))
