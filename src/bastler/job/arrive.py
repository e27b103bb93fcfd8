"""What new outlines and steps begin with: answers from the stock and the steps there are, so that they prove at once."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import Any

import msgspec

from bastler.ask import questions_of
from bastler.job.document import Job
from bastler.job.planned import box_in
from bastler.job.stock import BarStock
from bastler.language import tr
from bastler.shapes import AnyOutline, Box, PlanOutline, PlanSegment, PointsPattern, TurnedOutline, TurnedSegment
from bastler.steps import AnyStep, CentreFinished, CentreHole, Groove
from bastler.units import MM_PER_INCH, Kind, Unit

SMALL_INCH = 0.2
ACROSS_CORNERS = 1.42
"""A polygon across its corners is no more than that times as wide as across its flats: a square is."""
HALF_OPEN = 0.9
"""An inside groove's outline begins and ends at so much of its floor's diameter; its walls are led on to the bore."""
GAP = 0.15
"""Between a step and the one that it arrives beside, as a share of how wide they are."""


def fresh_id(taken: set[str], stem: str) -> str:
    """The stem with the lowest number that is not taken."""
    number = 1
    while f"{stem}{number}" in taken:
        number += 1
    return f"{stem}{number}"


def made_of(cls: type[AnyStep], ident: str, answers: dict[str, Any], unit: Unit) -> AnyStep:
    """A new step of a kind with some answers. Lengths that nothing in the job gives are as its kind has them, which says them in
    millimetres."""
    if unit == "inch":
        defaults = {f.name: f.default for f in msgspec.structs.fields(cls)}
        lengths = [q.name for q in questions_of(cls) if q.kind is Kind.LENGTH and q.name not in answers]
        plain = {name: defaults[name] for name in lengths if isinstance(defaults[name], int | float)}
        answers = answers | {name: _said(value / MM_PER_INCH) for name, value in plain.items() if value}
    return cls(id=ident, **answers)


def _said(length: float) -> float:
    """A length in inches as one would say it: two decimals, three where it is small."""
    return round(length, 2 if abs(length) >= SMALL_INCH else 3)


def beside(step: AnyStep, box: Box, others: Sequence[AnyStep]) -> AnyStep:
    """A step that has a place and a size, where none of its kind is yet and where there is room in the stock: beside the last
    one, smaller where there is no room for one as large, else where it was."""
    if _footprint(step) is None or not hasattr(step, "x") or not hasattr(step, "y"):
        return step
    taken = [(s.x, s.y, *size) for s in others if type(s) is type(step) and (size := _footprint(s))]  # type: ignore[attr-defined]
    for share in (1.0, 0.5, 0.3):
        smaller = _smaller(step, share)
        own = _footprint(smaller)
        assert own is not None
        for x, y in _places(step, smaller):
            inside = all(lo + at / 2 <= c <= hi - at / 2 for c, at, lo, hi in zip((x, y), own, box.lo, box.hi, strict=False))
            free = all(abs(x - tx) >= (own[0] + tw) / 2 or abs(y - ty) >= (own[1] + th) / 2 for tx, ty, tw, th in taken)
            if inside and free:
                return msgspec.structs.replace(smaller, x=x, y=y)
    return step


SIZES = ("length", "width", "diameter", "flats", "corners", "corner_radius", "corner_leg")


def _smaller(step: AnyStep, share: float) -> AnyStep:
    """The same with all its sizes so much smaller."""
    sizes = {name: value for name in SIZES if isinstance(value := getattr(step, name, None), int | float)}
    return step if share == 1.0 else msgspec.structs.replace(step, **{name: round(v * share, 3) for name, v in sizes.items()})


def _places(step: Any, smaller: AnyStep) -> Iterator[tuple[float, float]]:
    """Places beside a step for a smaller one, or one as large."""
    own, there = _footprint(step) or (0.0, 0.0), _footprint(smaller) or (0.0, 0.0)
    along, across = ((a + b) / 2 + GAP * min(b for b in there) for a, b in zip(own, there, strict=True))
    for k in range(1, 4):
        for way in (1, -1):
            yield round(step.x + way * k * along, 3), step.y
            yield step.x, round(step.y + way * k * across, 3)


def _footprint(step: Any) -> tuple[float, float] | None:
    """How wide a step is along X and Y, as far as two numbers say that; a slanting one as wide as it is long."""
    length, width = getattr(step, "length", None), getattr(step, "width", None)
    if not isinstance(length, int | float) or not isinstance(width, int | float):
        across = [getattr(step, "flats", None), getattr(step, "corners", None)]
        flats, corners = (value if isinstance(value, int | float) else 0.0 for value in across)  # elsewhere they mean others
        length = width = getattr(step, "diameter", None) or max(flats * ACROSS_CORNERS, corners) or None
    if not isinstance(length, int | float) or not isinstance(width, int | float):
        return None
    if getattr(step, "angle", 0.0):
        length = width = math.hypot(length, width)
    return float(length), float(width)


def outline_answer(job: Job) -> tuple[Job, dict[str, Any]]:
    """The last outline of a turned part, as an answer; the first one is a plain shoulder, its edge broken."""
    turned = [o.id for o in job.outlines if isinstance(o, TurnedOutline)]
    used = [getattr(s, "outline", "") for s in job.steps]
    known = next((o for o in reversed(used) if o in turned), None) or (turned[-1] if turned else None)
    if known:
        return job, {"outline": known}
    job, ident = outline_added(job, inside=False)
    return job, {"outline": ident}


def outline_added(job: Job, *, inside: bool, held: str = "", flat: bool = False) -> tuple[Job, str]:
    """A new outline that fits the stock; and its id: of a bar a turned one, unless it is to lie `flat` on its end face. Flat ones
    with `inside` have only their start; the stock is as the holding `held` or that of the step of that id sees it."""
    stock = job.stock
    if flat or not isinstance(stock, BarStock):
        plan = _plan_outline(job, box_in(job, job.holding_of(held)), blank=inside)
        return msgspec.structs.replace(job, outlines=(*job.outlines, plan)), plan.id
    ident = fresh_id({o.id for o in job.outlines}, "o")
    name = fresh_id({o.name for o in job.outlines}, tr("bore ") if inside else tr("outside "))
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
        # to the part's back; where a bush guides the bar, not so far that it lets go of what is not turned yet
        far = stock.finished if job.card.bush is None else round(stock.finished * 0.9, digits)
        back = min(-far, end - small)
        wide = round(outer * 0.9, digits)
        way = (
            TurnedSegment(id="g1", z=end, angle=0.0),
            TurnedSegment(id="g2", d=wide, angle=90.0),
            TurnedSegment(id="g3", z=back, angle=0.0),
        )
        outline = TurnedOutline(id=ident, name=name, d=d, corner="edge", corner_size=small, segments=way)
    return msgspec.structs.replace(job, outlines=(*job.outlines, outline)), ident


def groove_outline(job: Job, groove: Groove) -> tuple[Job, str]:
    """A new outline with the shape that a groove with straight walls has, for it to be changed; and its id."""
    ident = fresh_id({o.id for o in job.outlines}, "o")
    name = fresh_id({o.name for o in job.outlines}, tr("groove "))
    outer = 2 * job.stock.outer() if isinstance(job.stock, BarStock) else groove.floor_d
    a, b = (math.tan(math.radians(angle)) for angle in (groove.right_angle, groove.left_angle))
    if groove.side == "face":
        d, deep = groove.outer_d, groove.depth
        ends = [(0.0, d + 2 * a * deep), (-deep, d), (-deep, d - 2 * groove.width), (0.0, d - 2 * groove.width - 2 * b * deep)]
    else:
        up = max(outer, groove.floor_d) if groove.side == "outside" else groove.floor_d * HALF_OPEN
        deep, z, floor = abs(up - groove.floor_d) / 2, groove.z, groove.floor_d
        ends = [(z + a * deep, up), (z, floor), (z - groove.width, floor), (z - groove.width - b * deep, up)]
    (z, d), *rest = [(round(z, 6), max(round(d, 6), 0.0)) for z, d in ends]
    segments = tuple(TurnedSegment(id=f"g{k}", z=z, d=d) for k, (z, d) in enumerate(rest, 1))
    outline = TurnedOutline(id=ident, name=name, inside=groove.side == "inside", z=z, d=d, segments=segments)
    return msgspec.structs.replace(job, outlines=(*job.outlines, outline)), ident


def come_to_side(job: Job, ident: str) -> Iterator[msgspec.Struct]:
    """What changes with a step that is on the side now: what was about the middle of the end face is in the middle of the
    finished length, and so are a pattern and an outline that it alone uses. A pattern becomes a single hole there."""
    step, stock = job.step(ident), job.stock
    if step is None or not isinstance(stock, BarStock):
        return
    along = -round(stock.finished / 2, 0 if job.unit == "mm" else 2)
    if _about_middle(step):
        yield msgspec.structs.replace(step, x=along)
    for name, every in (("pattern", job.patterns), ("outline", job.outlines)):
        used = [s for s in job.steps if getattr(s, name, "") == getattr(step, name, None)]
        own = next((one for one in every if one.id == getattr(step, name, "")), None)
        if own is None or len(used) > 1:
            continue
        if isinstance(own, PlanOutline) and own.x is not None:
            yield msgspec.structs.replace(own, x=own.x + along)
        elif name == "pattern" and _about_middle(own):
            yield PointsPattern(id=own.id, name=own.name, points=((along, 0.0),))


def _about_middle(struct: msgspec.Struct) -> bool:
    return getattr(struct, "x", None) == 0.0 and getattr(struct, "y", None) == 0.0


def _plan_outline(job: Job, box: Box, *, blank: bool) -> AnyOutline:
    """A rectangle well inside the stock, as a print would give it: sides that follow from each other, round corners."""
    digits = 0 if job.unit == "mm" else 2
    (x0, y0), (sx, sy) = box.lo[:2], box.size[:2]
    left, low = round(x0 + 0.25 * sx, digits), round(y0 + 0.25 * sy, digits)
    ident = fresh_id({o.id for o in job.outlines}, "o")
    name = fresh_id({o.name for o in job.outlines}, tr("outline "))
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


def _drilled(step: AnyStep) -> float:
    """How wide a hole a step makes on the centre line; 0 for none that one goes on with."""
    if isinstance(step, CentreFinished):
        return 0.0 if step.work == "tap" else step.diameter
    return step.diameter if isinstance(step, CentreHole) and step.work == "drill" else 0.0
