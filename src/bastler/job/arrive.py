"""What a new turning step begins with: answers worked out from the stock and the steps there are, so that it proves at once."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Any

import msgspec

from bastler.job.document import Job
from bastler.job.planned import box_in
from bastler.job.stock import BarStock
from bastler.shapes import AnyOutline, Box, PlanOutline, PlanSegment, TurnedOutline, TurnedSegment
from bastler.steps import CentreHole, FreeMove, Step
from bastler.tools import Tool


def fresh_id(taken: set[str], stem: str) -> str:
    """The stem with the lowest number that is not taken."""
    number = 1
    while f"{stem}{number}" in taken:
        number += 1
    return f"{stem}{number}"


def turning_answers(job: Job, kind: str) -> tuple[Job, dict[str, Any]]:
    """The job, with an outline where one is needed, and the answers of a new step of that kind."""
    stock = job.stock
    assert isinstance(stock, BarStock)
    if kind in ("turn-roughing", "turn-finishing", "turn-rest"):
        return _with_outline(job)
    digits = 1 if job.unit == "mm" else 3
    surface = _smallest(job)
    small = 1.0 if job.unit == "mm" else 0.04
    if kind == "groove":
        deep = round(2 * small, digits)
        return job, {"z": round(-stock.finished * 0.3, digits), "width": 4 * small, "floor_d": round(surface - 2 * deep, digits)}
    if kind == "thread":
        return job, _thread(job, surface)
    if kind == "centre-hole":
        return job, _hole(job)
    if kind == "free-moves":
        return job, {"moves": (_free(2 * stock.outer() + 10 * small, 5 * small + stock.front),)}
    if kind == "part-off":
        return job, {"edge_break": 0.5 * small}
    return job, {}


def _free(d: float, z: float) -> FreeMove:
    return FreeMove("rapid", round(d, 3), round(z, 3))


def _with_outline(job: Job) -> tuple[Job, dict[str, Any]]:
    """The last outline; the first one is a plain shoulder, its edge broken."""
    used = [getattr(s, "outline", "") for s in job.steps]
    known = next((o for o in reversed(used) if job.outline(o)), None) or (job.outlines[-1].id if job.outlines else None)
    if known:
        return job, {"outline": known}
    job, ident = outline_added(job, inside=False)
    return job, {"outline": ident}


def outline_added(job: Job, *, inside: bool, held: str = "") -> tuple[Job, str]:
    """A new outline that fits the stock; and its id. On a mill `inside` means one that has only its start; the stock is as the
    holding `held` or that of the step of that id sees it."""
    stock = job.stock
    if not isinstance(stock, BarStock):
        plan = _plan_outline(job, box_in(job, job.holding_of(held)), blank=inside)
        return msgspec.structs.replace(job, outlines=(*job.outlines, plan)), plan.id
    ident = fresh_id({o.id for o in job.outlines}, "o")
    name = fresh_id({o.name for o in job.outlines}, "bore " if inside else "outside ")
    digits = 0 if job.unit == "mm" else 2
    outer, small = 2 * stock.outer(), 1.0 if job.unit == "mm" else 0.04
    hole = max([_drilled(s) for s in job.steps] + [stock.bore if stock.form == "tube" else 0.0])
    if inside:
        d = round(max(hole * 1.15, hole + 2 * small), digits + 1)
        along = TurnedSegment(id="g1", z=round(-stock.finished * 0.4, digits), angle=0.0)
        outline = TurnedOutline(id=ident, name=name, inside=True, d=d, corner="edge", corner_size=small / 2, segments=(along,))
    else:
        d = round(outer * 0.7, digits) if job.unit == "mm" else math.floor(outer * 0.7 * 8) / 8
        end = round(-stock.finished * 0.6, digits)
        back = min(round(-stock.finished * 0.9, digits), end - small)
        wide = round(outer * 0.9, digits)
        way = (
            TurnedSegment(id="g1", z=end, angle=0.0),
            TurnedSegment(id="g2", d=wide, angle=90.0),
            TurnedSegment(id="g3", z=back, angle=0.0),
        )
        outline = TurnedOutline(id=ident, name=name, d=d, corner="edge", corner_size=small, segments=way)
    return msgspec.structs.replace(job, outlines=(*job.outlines, outline)), ident


def _plan_outline(job: Job, box: Box, *, blank: bool) -> AnyOutline:
    """A rectangle well inside the stock, as a print would give it: sides that follow from each other, round corners."""
    digits = 0 if job.unit == "mm" else 2
    (x0, y0), (sx, sy) = box.lo[:2], box.size[:2]
    left, low = round(x0 + 0.25 * sx, digits), round(y0 + 0.25 * sy, digits)
    ident = fresh_id({o.id for o in job.outlines}, "o")
    name = fresh_id({o.name for o in job.outlines}, "outline ")
    if blank:
        return PlanOutline(id=ident, name=name, x=left, y=low)
    radius = round(min(sx, sy) * 0.08, digits) or round(min(sx, sy) * 0.08, 3)
    corner: dict[str, Any] = {"corner": "radius", "corner_size": radius}
    way = (
        PlanSegment(id="g1", angle=0.0, length=round(sx * 0.5, digits), **corner),
        PlanSegment(id="g2", angle=90.0, length=round(sy * 0.5, digits), **corner),
        PlanSegment(id="g3", angle=180.0, **corner),
        PlanSegment(id="g4", angle=-90.0, **corner),
    )
    return PlanOutline(id=ident, name=name, x=left, y=low, segments=way)


def _drilled(step: Step) -> float:
    return step.diameter if isinstance(step, CentreHole) and step.work == "drill" else 0.0


def _smallest(job: Job) -> float:
    """The diameter a groove is most likely in: the outline's smallest, else the stock's."""
    stock = job.stock
    assert isinstance(stock, BarStock)
    outside = [o for o in job.outlines if isinstance(o, TurnedOutline) and not o.inside]
    found = [s.d for o in outside for s in o.segments if s.d]
    begins = [o.d for o in outside if o.d]
    return min([*found, *begins, 2 * stock.outer()])


def _thread(job: Job, surface: float) -> dict[str, Any]:
    if job.unit == "mm":
        return {"thread": f"M{surface:g}x1.5", "length": 12.0}
    whole, sixteenths = divmod(max(math.floor(surface * 16 + 1e-6), 4), 16)
    part = str(Fraction(sixteenths, 16)) if sixteenths else ""
    return {"thread": f"{f'{whole} ' if whole and part else whole or ''}{part}-12", "length": 0.5}


def _hole(job: Job) -> dict[str, Any]:
    """A spot first, then a drill, then what fits the hole."""
    done = [s for s in job.steps if isinstance(s, CentreHole)]
    if not done:
        return {"work": "spot", "depth": 2.0 if job.unit == "mm" else 0.08}
    drills = [t.in_unit(job.unit).diameter for t in job.tools if isinstance(t, Tool) and t.kind == "drill"]
    return {"work": "drill", "diameter": drills[len(drills) // 2] if drills else 8.5, "depth": 20.0 if job.unit == "mm" else 0.8}
