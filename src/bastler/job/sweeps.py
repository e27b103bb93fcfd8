"""An answer taken through the values around it, so that people see what it does: which values, and the job with each.

Numbers go to either side of what they are now, within their bounds; choices and picks go through what there is to choose; what
is a list of lines grows line by line; words grow letter by letter, those that name something go through a few names.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import Any

import msgspec

from bastler.ask import Question
from bastler.job import answering
from bastler.job.document import Job
from bastler.language import tr
from bastler.steps.turn.groove_shape import distances
from bastler.units import ExpressionError, Kind, Unit, scale, with_unit

FRAMES = 7
SHARE = 0.4
"""A number goes so far to either side, as a share of itself."""
FROM_NOTHING: dict[Kind, float] = {
    Kind.LENGTH: 4.0,
    Kind.ANGLE: 20.0,
    Kind.COUNT: 3.0,
    Kind.PERCENT: 30.0,
    Kind.TIME: 1.0,
    Kind.CUTTING_SPEED: 60.0,
    Kind.SPINDLE_SPEED: 600.0,
    Kind.FEED_RATE: 200.0,
    Kind.FEED_PER_TOOTH: 0.06,
    Kind.ROUGHNESS: 1.6,
    Kind.POWER: 4.0,
    Kind.FORCE: 200.0,
    Kind.TORQUE: 20.0,
    Kind.STRESS: 600.0,
    Kind.ACCELERATION: 1.0,
    Kind.NUMBER: 1.0,
}
"""How far one that is nothing goes, in metric units."""
COUNTED = 4
MOST_LINES, MOST_LETTERS, MOST_PICKED = 6, 12, 6
NAMES: dict[str, tuple[str, ...]] = {
    "thread": ("M6", "M8", "M10", "M12"),
    "insert": ("CNMG 120404", "CNMG 120408", "CNMG 120412"),
    "drive_stations": ("2", "2 4", "2 4 6"),
}
"""Words that name something."""
SHARES = (0.6, 0.8, 1.0, 1.2, 1.4)
"""Of numbers one behind the other, from picture to picture."""
METRIC = (Kind.NUMBER, Kind.COUNT, Kind.PERCENT, Kind.TIME, Kind.ANGLE, Kind.ROUGHNESS)
"""Kinds that are the same in inch jobs."""


def values_around(question: Question, now: Any, unit: Unit, offered: Sequence[Any] = ()) -> tuple[Any, ...]:
    """The values that an answer is taken through, `now` among them where it may be; `offered` is what there is to pick from. One
    alone where there is nothing to see."""
    if question.choices:
        return tuple(value for value, _ in question.choices)
    if question.kind is not None:
        return _numbers(question, float(now) if isinstance(now, int | float) else 0.0, unit)
    if offered:
        return tuple(offered[:MOST_PICKED])
    if isinstance(now, tuple):
        return tuple(now[:count] for count in range(min(len(now), MOST_LINES) + 1))
    if question.picks == "numbers":
        return _lists(str(now), unit)
    if question.picks == "word" and question.name in NAMES:
        return NAMES[question.name]
    if isinstance(now, str) and now and question.picks in ("word", "name", "positions", "code"):
        return tuple(now[:count] for count in range(1, min(len(now), MOST_LETTERS) + 1))
    return (now,)


def _lists(now: str, unit: Unit) -> tuple[str, ...]:
    """Numbers one behind the other, all of them smaller and larger."""
    try:
        found = distances(now) or [10.0 if unit == "mm" else 0.4]
    except ExpressionError:
        return (now,)
    return tuple(", ".join(f"{value * share:.6g}" for value in found) for share in SHARES)


def _numbers(question: Question, now: float, unit: Unit) -> tuple[float, ...]:
    kind = question.kind
    assert kind is not None
    if kind is Kind.COUNT:
        least = question.least if question.least is not None else 0.0
        begin = max(round(now) - 1, math.ceil(least))
        return tuple(v for k in range(COUNTED + 1) if _allowed(question, v := float(begin + k))) or (now,)
    size = 1.0 if kind in METRIC or unit == "mm" else _inch(kind)
    reach = SHARE * abs(now) if now else FROM_NOTHING.get(kind, 1.0) * size
    spread = [now + reach * (2 * k / (FRAMES - 1) - 1) for k in range(FRAMES)]
    fitting = [v for v in spread if _allowed(question, v)]
    if len(fitting) < 3:  # against a bound: away from it
        fitting = [v for k in range(FRAMES) for v in (now + reach * k / (FRAMES - 1),) if _allowed(question, v)]
    return tuple(_plain(v, reach) for v in fitting) or (now,)


def _inch(kind: Kind) -> float:
    """What a metric number of a kind is in an inch job, roughly: nothing follows from it."""
    return scale("mm", "inch") if kind in (Kind.LENGTH, Kind.FEED_PER_TOOTH, Kind.FEED_RATE) else 1.0


def _plain(value: float, reach: float) -> float:
    """Rounded to a hundredth of the way that is gone: short numbers are read sooner."""
    digits = 0
    while reach * 10**digits < 10 and digits < 6:
        digits += 1
    return round(value, digits)


def _allowed(question: Question, value: float) -> bool:
    return not question.out_of_bounds(value)


def said(question: Question, value: Any, unit: Unit, named: Callable[[Any], str] = str) -> str:
    """A value as people read it."""
    if question.choices:
        return str(dict(question.choices).get(value, value))
    if question.kind is not None and isinstance(value, int | float):
        return with_unit(float(value), question.kind, unit)
    if isinstance(value, tuple):
        return tr("{value} of them", value=len(value))
    return named(value)


def up_to(job: Job, card: str) -> Job:
    """The job without what comes after a step: what that does is seen without. The whole job for any other card."""
    if job.step(card) is None:
        return job
    found = []
    for holding in job.holdings:
        order = [step.id for step in holding.steps]
        if card not in order:
            found.append(holding)
            continue
        found.append(msgspec.structs.replace(holding, steps=holding.steps[: order.index(card) + 1]))
        break
    return msgspec.structs.replace(job, holdings=tuple(found))


def jobs_with(job: Job, address: str, values: Sequence[Any]) -> Iterator[tuple[Any, Job]]:
    """Each value that the answer may have, and the job with it."""
    for value in values:
        try:
            yield value, answering.answered(job, address, value)
        except (answering.UnfitAnswer, KeyError, ValueError):
            continue
