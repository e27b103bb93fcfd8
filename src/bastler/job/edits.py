"""All the ways a job is changed besides its answers (`bastler.job.answering`): each makes a new job that shares what did not
change. Addresses are as there."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any, TypeVar

import msgspec

from bastler.ask import questions_of
from bastler.job.answering import answered, at
from bastler.job.arrive import beside, fresh_id, groove_outline, made_of, outline_added, outline_answer
from bastler.job.by_hand import HandEdit
from bastler.job.chuck import ChuckHolding, other_offset
from bastler.job.chuck import Follows as ChuckFollows
from bastler.job.document import AnyHolding, Job
from bastler.job.family import uses_copied
from bastler.job.planned import box_in, references, turned_to
from bastler.job.planning import plan
from bastler.job.promises import promises_of
from bastler.job.stock import BarStock, BlockStock
from bastler.job.vise import Follows, ViseHolding
from bastler.language import as_inside, sayable, tr
from bastler.shapes import (
    ArcPattern,
    CirclePattern,
    FramePattern,
    GridPattern,
    LinePattern,
    Pattern,
    PlanOutline,
    PointsPattern,
    RingsPattern,
)
from bastler.shapes.reliefs import THREADS as THREAD_RELIEFS
from bastler.steps import (
    STEPS,
    AnyStep,
    Arrival,
    CentreHole,
    Engraving,
    Facing,
    FreePocket,
    Groove,
    HandOver,
    NextPart,
    PartOff,
    Step,
    Threading,
    kind_of,
)
from bastler.tools import Tool
from bastler.units import scale

S = TypeVar("S", bound=msgspec.Struct)
PATTERN_KINDS: dict[str, tuple[str, type[Pattern]]] = sayable(
    {
        "points": ("Points", PointsPattern),
        "line": ("Line", LinePattern),
        "grid": ("Grid", GridPattern),
        "frame": ("Rectangle edge", FramePattern),
        "circle": ("Circle", CirclePattern),
        "rings": ("Several circles", RingsPattern),
        "arc": ("Arc", ArcPattern),
    }
)
replace = msgspec.structs.replace


def _steps(job: Job, steps: Sequence[AnyStep]) -> Job:
    """The job with its steps changed one for one, or some of them gone; each stays in its holding."""
    by_id = {s.id: s for s in steps}
    for holding in job.holdings:
        job = _held(job, holding, [by_id[s.id] for s in holding.steps if s.id in by_id])
    return job


def _held(job: Job, holding: AnyHolding, steps: Sequence[AnyStep]) -> Job:
    """The job with other steps in a holding."""
    made = replace(holding, steps=tuple(steps))
    return replace(job, holdings=tuple(made if h.id == holding.id else h for h in job.holdings))


def _step_id(job: Job) -> str:
    return fresh_id({s.id for s in job.steps}, "s")


def index_of(job: Job, ident: str) -> int:
    """The place of a step in the route, counted through all holdings; -1 when it is not there."""
    return next((k for k, s in enumerate(job.steps) if s.id == ident), -1)


def held_at(ident: str) -> str:
    """The id of a holding from the address of its card, `holding:ID`; anything else as it is."""
    return ident.removeprefix("holding:")


def route_of(job: Job) -> list[str]:
    """The route behind the first holding's card: ids of steps, and the cards of the other holdings where they begin."""
    return [entry for h in job.holdings for entry in (f"holding:{h.id}", *(s.id for s in h.steps))][1:]


def step_added(job: Job, kind: str, after: str) -> tuple[Job, str]:
    """A new step of that kind behind `after`, a step or the card of a holding (at the end when it is neither), filled from the
    job; and its id."""
    known = after if job.step(after) or job.holding(held_at(after)) else f"holding:{job.holdings[-1].id}"
    holding = job.holding_of(held_at(known))
    job, fresh = _arrive(job, kind, holding)
    steps: list[AnyStep] = list(holding.steps)
    at = next((k for k, s in enumerate(steps) if s.id == after), -1) + 1
    at = at if known == after else len(steps)
    if isinstance(fresh, NextPart):
        at = len(steps)
    if isinstance(fresh, HandOver):
        return _handed_over(job, holding, fresh, at), fresh.id
    steps.insert(at, fresh)
    return _held(job, holding, steps), fresh.id


def _handed_over(job: Job, holding: AnyHolding, fresh: HandOver, at: int) -> Job:
    """A hand-over in a holding, before what parts the work off there, and the holding in the second chuck behind it."""
    if isinstance(job.stock, BarStock) and job.stock.over_back == 0.0:
        job = _with_back(job, job.stock)
    off = next((k for k, s in enumerate(holding.steps) if isinstance(s, PartOff)), len(holding.steps))
    steps: list[AnyStep] = list(holding.steps)
    steps.insert(min(at, off), fresh)
    job = _held(job, holding, steps)
    if any(isinstance(h, ChuckHolding) and h.handed for h in job.holdings):
        return job
    return holding_added(job, "handed", f"holding:{holding.id}")[0]


def _arrive(job: Job, kind: str, holding: AnyHolding) -> tuple[Job, AnyStep]:
    """The new step with the last answers of its kind in the holding, or ones that fit the stock."""
    cls = STEPS[kind].cls
    ident = _step_id(job)
    last = next((s for s in reversed(holding.steps) if type(s) is cls), None)
    if last is not None and kind != "centre-hole":
        return job, beside(replace(last, id=ident, name="", on=True), box_in(job, holding), holding.steps)
    if job.turns and not STEPS[kind].driven:
        job, answers = outline_answer(job) if _asks_outline(cls) else (job, {})
        return job, made_of(cls, ident, cls.arrives(_arrival(job, holding)) | answers, job.unit)
    box = box_in(job, holding)
    answers = {}
    if isinstance(job.stock, BlockStock) and isinstance(holding, ViseHolding) and "finish_z" in cls.__struct_fields__:
        answers["finish_z"] = 0.0 if holding.zero_z == "top" else job.stock.thickness
    if _asks_outline(cls):
        job, answers["outline"] = _known_outline(job, holding)
        deep = round(box.size[2] * 0.2, 1 if job.unit == "mm" else 2)
        answers |= {"depth": deep} if "depth" in cls.__struct_fields__ else {}
        answers |= {"size": 0.02} if kind == "edge-break" and job.unit == "inch" else {}
        answers |= _pocket_before(job) if kind == "rest-machining" else {}
    answers |= cls.arrives(_arrival(job, holding, flat=True))
    if "pattern" in cls.__struct_fields__:
        job, pattern = (job, job.patterns[-1].id) if job.patterns else pattern_added(job, "circle", holding.id)
        answers |= {"pattern": pattern}
    return job, made_of(cls, ident, answers, job.unit)


def _asks_outline(cls: type) -> bool:
    """Does a step of this kind go along an outline, whatever else is answered?"""
    return any(q.name == "outline" and q.when is None for q in questions_of(cls))


def _known_outline(job: Job, holding: AnyHolding) -> tuple[Job, str]:
    """The outline used last, or a new one."""
    flat = [o.id for o in job.outlines if isinstance(o, PlanOutline)]
    known = next((o for s in reversed(job.steps) if (o := getattr(s, "outline", "")) in flat), None) or next(reversed(flat), None)
    return (job, known) if known else outline_added(job, inside=False, held=holding.id, flat=True)


def _pocket_before(job: Job) -> dict[str, Any]:
    """The last free pocket again: what is left of it is what rest machining is for."""
    last = next((s for s in reversed(job.steps) if type(s) is FreePocket), None)
    if last is None:
        return {}
    answers: dict[str, Any] = {"outline": last.outline, "islands": last.islands, "depth": last.depth, "top": last.top}
    planned = plan(job).step(last.id)
    tool = planned.filled.last_tool(planned.ctx) if planned is not None else None  # type: ignore[attr-defined]
    return answers | ({"larger": tool.diameter} if tool is not None else {})


def _arrival(job: Job, holding: AnyHolding, *, flat: bool = False) -> Arrival:
    """The stock as a new step in a holding sees it; a bar from its end, which may be a `flat` plane."""
    stock, centre, of_bar = job.stock, (0.0, 0.0), dict[str, Any]()
    if isinstance(stock, BarStock):
        size = (2 * stock.outer(), 2 * stock.outer(), stock.length)
        spotted = any(isinstance(s, CentreHole) for s in job.steps)
        of_bar = {
            "finished": stock.finished,
            "front": stock.front,
            "turned": turned_to(job, stock),
            "spotted": spotted,
        }
    if flat or not of_bar:
        box = box_in(job, holding)
        centre, size = box.centre, box.size
    tools = [t.in_unit(job.unit) for t in job.tools if isinstance(t, Tool)]
    mills = sorted(t.diameter for t in tools if t.kind == "end-mill")
    drills = tuple(t.diameter for t in tools if t.kind == "drill")
    return Arrival(centre, size, job.unit, tuple(mills), drills, job.card.dialect.cycles, job.card.has_y, **of_bar)


def cured(job: Job, address: str, value: Any) -> Job:
    """The job with a remark's way out taken: an answer given, or, for `add:facing`, `add:turn-facing` and `add:sides`, the step
    added that takes what the stock says has to come off; `add:facing:h2` at the head of that holding, `add:hand-over:h1` at its
    end; `add:relief:s3` a relief behind the thread of that step; `hand:e1` leaves that hand edit
    out; `sure:T3` says that a guess about a program from elsewhere is right."""
    what, _, kind = address.partition(":")
    if what == "hand":
        return hand_edit_removed(job, kind)
    if what == "sure" and job.elsewhere is not None:
        sure = (*job.elsewhere.sure, kind)
        return msgspec.structs.replace(job, elsewhere=msgspec.structs.replace(job.elsewhere, sure=sure))
    if what != "add":
        return answered(job, address, value)
    kind, _, place = kind.partition(":")
    if kind == "sides":
        return _sides_added(job)
    if kind == "relief":
        return _relief_added(job, place, value)
    holding = job.holding_of(place)
    at_end = kind == "hand-over" and holding.steps
    return step_added(job, kind, holding.steps[-1].id if at_end else f"holding:{holding.id}")[0]


def changed_by_hand(job: Job, program: str, found: Sequence[HandEdit]) -> Job:
    """The job with these hand edits in the place of all there are of a program, by its first holding."""
    others = tuple(edit for edit in job.by_hand if edit.program != program)
    return msgspec.structs.replace(job, by_hand=(*others, *found))


def hand_edit_removed(job: Job, ident: str) -> Job:
    """The job without a hand edit."""
    return msgspec.structs.replace(job, by_hand=tuple(edit for edit in job.by_hand if edit.id != ident))


def _sides_added(job: Job) -> Job:
    """The finished block or disc left standing, as deep as the last holding lets it be; behind the facing, where there is one."""
    planned = plan(job)
    held, holding = planned.holdings[-1], job.holdings[-1]
    sides = next(p for p in promises_of(planned, len(planned.holdings) - 1) if p.where == "sides")
    floor = max([sides.floor, *(jaw.hi[2] for jaw in held.flat.jaws)])
    box, over = held.flat.stock, held.block.over_sides
    first = holding.steps[0] if holding.steps else None
    faced = first is not None and first.on and isinstance(first, Facing)
    top = first.finish_z if faced else box.hi[2]  # type: ignore[union-attr]
    job, ident = step_added(job, "round-boss" if box.round else "rectangular-boss", "")
    answers: dict[str, Any] = {"x": box.centre[0], "y": box.centre[1], "depth": top - floor}
    if box.round:
        answers |= {"diameter": box.size[0] - 2 * over}
    else:
        answers |= {"angle": 0.0, "length": box.size[0] - 2 * over, "width": box.size[1] - 2 * over, "corner": "sharp"}
    for name, value in answers.items():
        job = answered(job, f"step:{ident}.{name}", round(value, 9) if isinstance(value, float) else value)
    begin = len(job.steps) - len(holding.steps) - 1
    return step_moved(job, ident, route_of(job).index(job.steps[begin].id) + (1 if faced else 0))


def _relief_added(job: Job, ident: str, width: float | None) -> Job:
    """A groove after ISO 4755 where the full length of a thread ends, cut before it, of another width than the standard's where
    there is no room for that. The job as it is where that is no thread."""
    thread = job.step(ident)
    spec = thread.thread_or_none() if isinstance(thread, Threading) else None
    if not isinstance(thread, Threading) or spec is None:
        return job
    mm = scale("mm", job.unit)
    less, wide, _ = THREAD_RELIEFS[min(THREAD_RELIEFS, key=lambda pitch: abs(pitch - spec.pitch))]
    # a sharp tip goes deeper than the standard's one: 0.8 of the pitch is more than any does
    floor = spec.major - max(less, 1.6 * spec.pitch) if thread.side == "outside" else spec.nut_major + max(0.5, 0.3 * spec.pitch)
    places = 3 if job.unit == "mm" else 4
    groove = Groove(
        id=_step_id(job),
        name=tr("Thread relief"),
        side=thread.side,
        z=thread.z - thread.length,
        width=round(wide * mm, places) if width is None else width,
        floor_d=round(floor * mm, places),
    )
    holding = job.holding_of(ident)
    at = holding.steps.index(thread)
    return _held(job, holding, [*holding.steps[:at], groove, *holding.steps[at:]])


def _with_back(job: Job, stock: BarStock) -> Job:
    """Something is left at the back to be faced, where the bar is long enough."""
    left = 1.0 if job.unit == "mm" else 0.04
    if stock.over_front + stock.finished + left > stock.length:
        return job
    return replace(job, stock=replace(stock, over_back=left))


def step_copied(job: Job, ident: str) -> tuple[Job, str]:
    """A copy right behind the step; and its id."""
    holding, place = job.holding_of(ident), index_of(job, ident)
    fresh = replace(job.steps[place], id=_step_id(job))
    job = uses_copied(job, f"step:{ident}.", f"step:{fresh.id}.")
    steps: list[AnyStep] = list(holding.steps)
    steps.insert(steps.index(job.steps[place]) + 1, fresh)
    return _held(job, holding, steps), fresh.id


def step_removed(job: Job, ident: str) -> Job:
    """The job without the step; patterns and outlines that it used alone go with it, and with a hand-over the holding behind it
    in which nothing is done yet."""
    after = job.holdings.index(job.holding_of(ident)) + 1
    made = _tidy(job, _steps(job, [s for s in job.steps if s.id != ident]))
    behind = made.holdings[after] if after < len(made.holdings) else None
    if isinstance(job.step(ident), HandOver) and isinstance(behind, ChuckHolding) and behind.handed and not behind.steps:
        return holding_removed(made, behind.id)
    return made


def _used(job: Job) -> set[str]:
    """The ids of patterns and outlines that something uses."""
    return {ident for owner in (job.stock, *job.steps) for ident in references(owner)}


def _tidy(before: Job, job: Job) -> Job:
    """The job without what was used before and is not any more; what was never used waits to be."""
    gone = _used(before) - _used(job)
    return replace(
        job,
        patterns=tuple(p for p in job.patterns if p.id not in gone),
        outlines=tuple(o for o in job.outlines if o.id not in gone),
    )


def step_moved(job: Job, ident: str, place: int) -> Job:
    """The step at another place of the route (see `route_of`), counted from 0 after it has been taken out. Past the card of a
    holding it is in that holding. KeyError for a step that is not there."""
    moved = job.step(ident)
    if moved is None:
        raise KeyError(ident)
    rest = [entry for entry in route_of(job) if entry != ident]
    rest.insert(max(0, min(place, len(rest))), ident)
    cards = [-1, *(k for k, entry in enumerate(rest) if entry.startswith("holding:")), len(rest)]
    by_id = {s.id: s for s in job.steps}
    for holding, (begin, end) in zip(job.holdings, itertools.pairwise(cards), strict=True):
        job = _held(job, holding, [by_id[entry] for entry in rest[begin + 1 : end]])
    return job


def step_switched(job: Job, ident: str) -> Job:
    """The step on or off."""
    return _steps(job, [replace(s, on=not s.on) if s.id == ident else s for s in job.steps])


def pattern_added(job: Job, kind: str, held: str = "") -> tuple[Job, str]:
    """A new pattern that fits the stock, as the holding `held` or that of the step of that id sees it; and its id."""
    ident = fresh_id({p.id for p in job.patterns}, "p")
    says, cls = PATTERN_KINDS[kind]
    pattern = cls(id=ident, name=_name(job, says), **_placed(job, kind, held))
    return replace(job, patterns=(*job.patterns, pattern)), ident


def _name(job: Job, says: str) -> str:
    return fresh_id({p.name for p in job.patterns}, f"{as_inside(tr(says))} ")


def _placed(job: Job, kind: str, held: str) -> dict[str, Any]:
    """Positions well inside the stock."""
    box = box_in(job, job.holding_of(held))
    (cx, cy), (sx, sy, _) = box.centre, box.size
    digits = 0 if job.unit == "mm" else 2
    if kind == "points":
        return {"points": ((round(cx, 3), round(cy, 3)),)}
    if kind == "rings":
        small = round(min(sx, sy) * 0.25, digits)
        return {"x": round(cx, 3), "y": round(cy, 3), "diameter": small, "wider": small}
    if kind in ("circle", "arc"):
        return {"x": round(cx, 3), "y": round(cy, 3), "diameter": round(min(sx, sy) * 0.6, digits)}
    place = {"x": round(box.lo[0] + sx * 0.2, digits + 1), "y": round(box.lo[1] + sy * 0.25, digits + 1)}
    if kind == "frame":
        return place | {"length": round(sx * 0.6, digits), "width": round(sy * 0.5, digits)}
    if kind == "line":
        return place | {"pitch": round(sx * 0.3, digits)}
    return place | {"column_pitch": round(sx * 0.3, digits), "row_pitch": round(sy * 0.5, digits)}


def outline_for(job: Job, address: str, *, inside: bool) -> Job:
    """A new outline for the answer at that address; one that nothing uses any more goes."""
    owner, _ = at(job, address)
    flat = isinstance(owner, Step) and kind_of(owner).driven
    if isinstance(owner, Groove):
        more, ident = groove_outline(job, owner)
        return _tidy(job, answered(more, address, ident))
    more, ident = outline_added(job, inside=inside, held=address.partition(":")[2].partition(".")[0], flat=flat)
    return _tidy(job, answered(more, address, ident))


def pattern_for(job: Job, step_id: str, kind: str) -> Job:
    """The step gets a pattern of its own of that kind; one it used alone is replaced. KeyError for a step that is not there."""
    step = job.step(step_id)
    if step is None:
        raise KeyError(step_id)
    more, ident = pattern_added(job, kind, step_id)
    return _tidy(job, answered(more, f"step:{step_id}.pattern", ident))


def pattern_copied(job: Job, step_id: str) -> Job:
    """The step gets a copy of its pattern, so that it can be changed without the other steps that use it. KeyError for a step
    that is not there or uses none."""
    step = job.step(step_id)
    pattern = job.pattern(getattr(step, "pattern", ""))
    if pattern is None:
        raise KeyError(step_id)
    ident = fresh_id({p.id for p in job.patterns}, "p")
    copy = replace(pattern, id=ident, name=fresh_id({p.name for p in job.patterns}, f"{pattern.name} "))
    made = uses_copied(replace(job, patterns=(*job.patterns, copy)), f"pattern:{pattern.id}.", f"pattern:{ident}.")
    return answered(made, f"step:{step_id}.pattern", ident)


def pattern_of_places(job: Job, step_id: str, places: tuple[tuple[float, float], ...], name: str) -> Job:
    """The step gets a pattern of places one by one; one it used alone is replaced."""
    ident = fresh_id({p.id for p in job.patterns}, "p")
    pattern = PointsPattern(id=ident, name=name, points=places)
    more = replace(job, patterns=(*job.patterns, pattern))
    return _tidy(job, answered(more, f"step:{step_id}.pattern", ident))


def position_switched(job: Job, ident: str, number: int) -> Job:
    """One position of a pattern left out, or back in; counted from 1. KeyError when it is not there."""
    pattern = job.pattern(ident)
    if pattern is None or not 1 <= number <= len(pattern.all()):
        raise KeyError(f"pattern:{ident} {number}")
    left_out = tuple(sorted({*pattern.left_out} ^ {number}))
    return answered(job, f"pattern:{ident}.left_out", left_out)


def numbers_counted(job: Job, parts: int) -> Job:
    """The job behind a program that went out for so many parts: running numbers go on from there."""
    return _steps(job, [s.counted(parts) if isinstance(s, Engraving) else s for s in job.steps])


def steps_ordered(job: Job, idents: Sequence[str]) -> Job:
    """The steps in another order, each in its holding. KeyError unless it names every step once."""
    by_id = {s.id: s for s in job.steps}
    if sorted(idents) != sorted(by_id):
        raise KeyError(", ".join(idents))
    for holding in job.holdings:
        own = {s.id for s in holding.steps}
        job = _held(job, holding, [by_id[ident] for ident in idents if ident in own])
    return job


def holding_added(job: Job, follows: Follows | ChuckFollows, after: str = "") -> tuple[Job, str]:
    """A new holding behind the one that `after`, a step or the card of a holding, belongs to, at the end for anything else; and
    its id. It is held as that one is."""
    ident = fresh_id({h.id for h in job.holdings} | {s.id for s in job.steps}, "h")
    at = job.holding_of(held_at(after)) if after else job.holdings[-1]
    fresh: AnyHolding
    if isinstance(at, ChuckHolding):
        fresh = _next_chuck(job, at, follows, ident)
    else:
        assert follows != "over"
        assert follows != "handed"
        fresh = ViseHolding(id=ident, follows=follows, vise=at.vise, jaw_width=at.jaw_width, tool_change=at.tool_change)
    place = job.holdings.index(at) + 1
    return replace(job, holdings=(*job.holdings[:place], fresh, *job.holdings[place:])), ident


def _next_chuck(job: Job, at: ChuckHolding, follows: Any, ident: str) -> ChuckHolding:
    """The holding of a turned part behind another one: by hand two thirds of it stick out, in the second chuck it has another
    zero."""
    assert isinstance(job.stock, BarStock)
    offset = other_offset(at.work_offset) if follows == "handed" else at.work_offset
    out = round(job.stock.finished * 2 / 3, 0 if job.unit == "mm" else 1)
    return ChuckHolding(
        id=ident, follows=follows, stick_out=out, rating=at.rating, change=at.change, change_d=at.change_d, change_z=at.change_z,
        work_offset=offset,
    )  # fmt: skip


def holding_removed(job: Job, ident: str) -> Job:
    """The job without a holding and its steps. KeyError for the first one, which stays, and where there is none of that id."""
    if ident not in {h.id for h in job.holdings[1:]}:
        raise KeyError(ident)
    return _tidy(job, replace(job, holdings=tuple(h for h in job.holdings if h.id != ident)))
