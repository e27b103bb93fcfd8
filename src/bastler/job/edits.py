"""All the ways a job is changed: each makes a new job that shares what did not change.

An *address* names an answer: `setup.size_x`, `job.name`, `step:ID.depth`, `pattern:ID.diameter`, `outline:ID.d`, and of the
segments of an outline `outline:ID.segments.3.z`; in the crib `tool:ID.diameter`, `holder:ID.length`, `material:ID.kc11`,
`card:ID.power`, `dialect:ID.end`.
"""

from __future__ import annotations

import functools
import math
import re
from collections.abc import Sequence
from typing import Any, TypeVar, get_type_hints

import msgspec

from bastler.bounds import beyond_all
from bastler.job.arrive import fresh_id, outline_added, turning_answers
from bastler.job.crib_edits import crib_given, crib_owner
from bastler.job.document import Job, Setup, TurnSetup
from bastler.job.faults import unfounded
from bastler.job.planned import fill_setup, references
from bastler.job.promises import promises_of
from bastler.shapes import (
    AnyOutline,
    ArcPattern,
    CirclePattern,
    FramePattern,
    GridPattern,
    LinePattern,
    Pattern,
    PointsPattern,
    RingsPattern,
)
from bastler.steps import STEPS, Arrival, Engraving, Facing, FreePocket, Step
from bastler.tools import Tool

S = TypeVar("S", bound=msgspec.Struct)
PATTERN_KINDS: dict[str, tuple[str, type[Pattern]]] = {
    "points": ("Points", PointsPattern),
    "line": ("Line", LinePattern),
    "grid": ("Grid", GridPattern),
    "frame": ("Rectangle edge", FramePattern),
    "circle": ("Circle", CirclePattern),
    "rings": ("Several circles", RingsPattern),
    "arc": ("Arc", ArcPattern),
}
CRIB = ("tool", "holder", "material", "card", "dialect")
"""What addresses in the crib begin with."""
replace = msgspec.structs.replace


def at(job: Job, address: str) -> tuple[msgspec.Struct, str]:
    """The struct an address points into, and the field's name. KeyError when it points nowhere."""
    owner, _, field = address.rpartition(".")
    what, _, ident = owner.partition(":")
    found: msgspec.Struct | None
    found = {"job": job, "setup": job.setup}.get(what) if not ident else None
    if ident:
        found = _of(job, what, ident)
    if found is None or not hasattr(found, field):
        raise KeyError(address)
    return found, field


def _of(job: Job, what: str, ident: str) -> msgspec.Struct | None:
    if what == "step":
        return job.step(ident)
    if what == "pattern":
        return job.pattern(ident)
    if what in CRIB:
        return crib_owner(job, what, ident)
    name, _, place = ident.partition(".segments.")
    outline = job.outline(name) if what == "outline" else None
    if outline is None or not place:
        return outline
    return outline.segments[int(place)] if place.isdigit() and int(place) < len(outline.segments) else None


def answered(job: Job, address: str, value: Any, typed: str = "") -> Job:
    """The job with one answer given; None makes it computed again. `typed` is kept when it says more than the number. UnfitAnswer
    for what no file may hold either."""
    struct, field = at(job, address)
    value = _fitting(struct, field, value)
    changes: dict[str, Any] = {field: value}
    if hasattr(struct, "typed"):
        kept = {k: v for k, v in struct.typed.items() if k != field}
        changes["typed"] = kept | ({field: typed} if typed and value is not None and not _plain(typed) else {})
    changed = replace(struct, **changes)
    if address.startswith("outline:"):
        return _with_outline(job, address, changed)
    what, _, ident = address.rpartition(".")[0].partition(":")
    if what in CRIB:
        return crib_given(job, what, ident, changed)  # type: ignore[arg-type]
    made = _with(job, changed)
    for trouble in unfounded(made) if address in ("job.machine", "setup.material") else ():
        raise UnfitAnswer(trouble.text)
    return made


class UnfitAnswer(ValueError):
    """An answer that its field cannot hold, with the reason."""


@functools.cache
def _types(cls: type[msgspec.Struct]) -> dict[str, Any]:
    return get_type_hints(cls, include_extras=True)


def _fitting(struct: msgspec.Struct, field: str, value: Any) -> Any:
    """The value as the field holds it, by the same check as at reading; UnfitAnswer where it cannot."""
    if not isinstance(value, str | int | float | None):
        return value  # made by the program of its own parts
    if isinstance(value, float) and not math.isfinite(value):
        raise UnfitAnswer("Has to be a finite number.")
    if isinstance(value, int | float) and (why := beyond_all(value)):
        raise UnfitAnswer(why)
    try:
        if isinstance(value, str):
            value.encode()
        return msgspec.convert(value, _types(type(struct))[field])
    except UnicodeEncodeError:
        raise UnfitAnswer("There is a sign in it that is none.") from None
    except msgspec.ValidationError as error:
        raise UnfitAnswer(f"{error}.") from error


def _with_outline(job: Job, address: str, changed: Any) -> Job:
    name, _, place = address.partition(":")[2].partition(".")
    outline = job.outline(name)
    if outline is None:
        raise KeyError(address)
    if place.startswith("segments."):
        at = int(place.split(".")[1])
        changed = replace(outline, segments=(*outline.segments[:at], changed, *outline.segments[at + 1 :]))
    return outline_given(job, changed)


def outline_given(job: Job, outline: AnyOutline) -> Job:
    """The job with an outline in the place of the one of the same id."""
    return replace(job, outlines=tuple(outline if o.id == outline.id else o for o in job.outlines))


def _plain(text: str) -> bool:
    return re.fullmatch(r"\s*-?\d*\.?\d+\s*", text) is not None


def _with(job: Job, struct: msgspec.Struct) -> Job:
    if isinstance(struct, Job):
        return struct
    if isinstance(struct, Setup | TurnSetup):
        return replace(job, setup=struct)
    if isinstance(struct, Step):
        return _steps(job, [struct if s.id == struct.id else s for s in job.steps])
    patterns = [struct if p.id == struct.id else p for p in job.patterns]  # type: ignore[attr-defined]
    return replace(job, patterns=tuple(patterns))


def _steps(job: Job, steps: list[Step]) -> Job:
    return replace(job, setup=replace(job.setup, steps=tuple(steps)))


def _step_id(job: Job) -> str:
    return fresh_id({s.id for s in job.steps}, "s")


def index_of(job: Job, ident: str) -> int:
    """The place of a step in the route; -1 when it is not there."""
    return next((k for k, s in enumerate(job.steps) if s.id == ident), -1)


def step_added(job: Job, kind: str, after: str) -> tuple[Job, str]:
    """A new step of that kind behind `after` (at the end when that is no step), filled from the job; and its id."""
    job, fresh = _arrive(job, kind)
    place = index_of(job, after) + 1 or len(job.steps)
    steps = list(job.steps)
    steps.insert(place, fresh)
    return _steps(job, steps), fresh.id


def _arrive(job: Job, kind: str) -> tuple[Job, Step]:
    """The new step with the last answers of its kind, or ones that fit the stock."""
    cls = STEPS[kind].cls
    ident = _step_id(job)
    last = next((s for s in reversed(job.steps) if type(s) is cls), None)
    if last is not None and kind != "centre-hole":
        return job, replace(last, id=ident, name="", on=True)
    if isinstance(job.setup, TurnSetup):
        job, answers = turning_answers(job, kind)
        return job, cls(id=ident, **(cls.arrives(_arrival(job)) | answers))
    setup = job.setup
    answers = {}
    if "finish_z" in cls.__struct_fields__:
        answers["finish_z"] = 0.0 if setup.zero_z == "top" else _top_of_part(job)
    if "outline" in cls.__struct_fields__:
        job, answers["outline"] = _known_outline(job)
        answers |= {"depth": round(setup.size_z * 0.2, 1 if job.unit == "mm" else 2)} if "depth" in cls.__struct_fields__ else {}
        answers |= {"size": 0.02} if kind == "edge-break" and job.unit == "inch" else {}
        answers |= _pocket_before(job) if kind == "rest-machining" else {}
    answers |= cls.arrives(_arrival(job))
    if "pattern" in cls.__struct_fields__:
        job, pattern = (job, job.patterns[-1].id) if job.patterns else pattern_added(job, "circle")
        answers |= {"pattern": pattern}
    return job, cls(id=ident, **answers)


def _known_outline(job: Job) -> tuple[Job, str]:
    """The outline used last, or a new one."""
    known = next((o for s in reversed(job.steps) if job.outline(o := getattr(s, "outline", ""))), None)
    if known is None and job.outlines:
        known = job.outlines[-1].id
    return (job, known) if known else outline_added(job, inside=False)


def _pocket_before(job: Job) -> dict[str, Any]:
    """The last free pocket again: what is left of it is what rest machining is for."""
    last = next((s for s in reversed(job.steps) if type(s) is FreePocket), None)
    if last is None:
        return {}
    return {"outline": last.outline, "islands": last.islands, "depth": last.depth, "top": last.top}


def _top_of_part(job: Job) -> float:
    assert isinstance(job.setup, Setup)
    return job.setup.box().hi[2] - job.setup.over_top


def _arrival(job: Job) -> Arrival:
    """The stock as a new step sees it; a bar from its end."""
    setup = job.setup
    if isinstance(setup, Setup):
        centre, size = setup.box().centre, setup.box().size
    else:
        centre, size = (0.0, 0.0), (2 * setup.outer(), 2 * setup.outer(), setup.length)
    tools = [t.in_unit(job.unit) for t in job.tools if isinstance(t, Tool)]
    mills = sorted(t.diameter for t in tools if t.kind == "end-mill")
    drills = tuple(t.diameter for t in tools if t.kind == "drill")
    return Arrival(centre, size, job.unit, tuple(mills), drills, job.card.dialect.cycles)


def cured(job: Job, address: str, value: Any) -> Job:
    """The job with a remark's way out taken: an answer given, or, for `add:facing`, `add:turn-facing` and `add:sides`, the step
    added that takes what the setup says has to come off."""
    what, _, kind = address.partition(":")
    if what != "add":
        return answered(job, address, value)
    if kind == "sides":
        return _sides_added(job)
    job, ident = step_added(job, kind, "")
    return step_moved(job, ident, 0)


def _sides_added(job: Job) -> Job:
    """The finished block or disc left standing, as deep as the holding lets it be; behind the facing, where there is one."""
    setup = fill_setup(job)
    assert isinstance(setup, Setup)
    sides = next(p for p in promises_of(setup) if p.where == "sides")
    box, over = setup.box(), setup.over_sides
    first = job.steps[0] if job.steps else None
    faced = first is not None and first.on and isinstance(first, Facing)
    top = first.finish_z if faced else box.hi[2]  # type: ignore[union-attr]
    round_ = setup.form == "disc"
    job, ident = step_added(job, "round-boss" if round_ else "rectangular-boss", "")
    answers: dict[str, Any] = {"x": box.centre[0], "y": box.centre[1], "depth": top - sides.floor}
    if round_:
        answers |= {"diameter": box.size[0] - 2 * over}
    else:
        answers |= {"angle": 0.0, "length": box.size[0] - 2 * over, "width": box.size[1] - 2 * over, "corner": "sharp"}
    for name, value in answers.items():
        job = answered(job, f"step:{ident}.{name}", round(value, 9) if isinstance(value, float) else value)
    return step_moved(job, ident, 1 if faced else 0)


def step_copied(job: Job, ident: str) -> tuple[Job, str]:
    """A copy right behind the step; and its id."""
    place = index_of(job, ident)
    fresh = replace(job.steps[place], id=_step_id(job))
    steps = list(job.steps)
    steps.insert(place + 1, fresh)
    return _steps(job, steps), fresh.id


def step_removed(job: Job, ident: str) -> Job:
    """The job without the step; patterns and outlines that it used alone go with it."""
    return _tidy(job, _steps(job, [s for s in job.steps if s.id != ident]))


def _used(job: Job) -> set[str]:
    """The ids of patterns and outlines that something uses."""
    return {ident for owner in (job.setup, *job.steps) for ident in references(owner)}


def _tidy(before: Job, job: Job) -> Job:
    """The job without what was used before and is not any more; what was never used waits to be."""
    gone = _used(before) - _used(job)
    return replace(
        job,
        patterns=tuple(p for p in job.patterns if p.id not in gone),
        outlines=tuple(o for o in job.outlines if o.id not in gone),
    )


def step_moved(job: Job, ident: str, place: int) -> Job:
    """The step at another place of the route, counted from 0 after it has been taken out."""
    steps = list(job.steps)
    moved = steps.pop(index_of(job, ident))
    steps.insert(max(0, min(place, len(steps))), moved)
    return _steps(job, steps)


def step_switched(job: Job, ident: str) -> Job:
    """The step on or off."""
    return _steps(job, [replace(s, on=not s.on) if s.id == ident else s for s in job.steps])


def pattern_added(job: Job, kind: str) -> tuple[Job, str]:
    """A new pattern that fits the stock; and its id."""
    ident = fresh_id({p.id for p in job.patterns}, "p")
    says, cls = PATTERN_KINDS[kind]
    pattern = cls(id=ident, name=_name(job, says), **_placed(job, kind))
    return replace(job, patterns=(*job.patterns, pattern)), ident


def _name(job: Job, says: str) -> str:
    return fresh_id({p.name for p in job.patterns}, f"{says.lower()} ")


def _placed(job: Job, kind: str) -> dict[str, Any]:
    """Positions well inside the stock."""
    assert isinstance(job.setup, Setup)
    box = job.setup.box()
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
    more, ident = outline_added(job, inside=inside)
    return _tidy(job, answered(more, address, ident))


def pattern_for(job: Job, step_id: str, kind: str) -> Job:
    """The step gets a pattern of its own of that kind; one it used alone is replaced."""
    step = job.step(step_id)
    if step is None:
        raise KeyError(step_id)
    more, ident = pattern_added(job, kind)
    return _tidy(job, answered(more, f"step:{step_id}.pattern", ident))


def pattern_copied(job: Job, step_id: str) -> Job:
    """The step gets a copy of its pattern, so that it can be changed without the other steps that use it."""
    step = job.step(step_id)
    pattern = job.pattern(getattr(step, "pattern", ""))
    if pattern is None:
        raise KeyError(step_id)
    ident = fresh_id({p.id for p in job.patterns}, "p")
    copy = replace(pattern, id=ident, name=fresh_id({p.name for p in job.patterns}, f"{pattern.name} "))
    return answered(replace(job, patterns=(*job.patterns, copy)), f"step:{step_id}.pattern", ident)


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
    """The steps in another order. KeyError unless it names every step once."""
    by_id = {s.id: s for s in job.steps}
    if sorted(idents) != sorted(by_id):
        raise KeyError(", ".join(idents))
    return _steps(job, [by_id[ident] for ident in idents])
