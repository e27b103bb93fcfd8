"""Where one is in a lesson, and what is wrong with an answer."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator
from typing import Any, NamedTuple

from bastler.ask import Question, question_of
from bastler.job import Job, answering, edits
from bastler.job.prints import parted_mark
from bastler.language import tr
from bastler.lessons.lesson import Item, Lesson
from bastler.shapes import Pattern
from bastler.steps import AnyStep, kind_of
from bastler.units import ExpressionError, Kind, evaluate, limits_typed, number_text

CLOSE = 1e-6
"""Answers are the same where they differ by less, as a share."""


class Seen(NamedTuple):
    """What is known beside the job: where one has gone, whether the job as it is is proved, and whether it was saved as a
    program."""

    gone: Collection[str] = ()
    proved: bool = False
    saved: bool = False


def step_of(job: Job, spec: str) -> AnyStep | None:
    """The step that a lesson means by `drilling`, or `drilling#2` for the second of its kind."""
    tag, _, number = spec.partition("#")
    own = [step for step in job.steps if kind_of(step).tag == tag]
    at = int(number or 1) - 1
    return own[at] if at < len(own) else None


def resolved(job: Job, spec: str) -> str:
    """The address of an answer in a job: `stock.size_x`, `holding.grip`, `holding#2.grip`, `drilling.pattern.diameter`,
    `outline-milling.outline.segments.2.x`. Empty where it is not there yet."""
    owner, _, rest = spec.partition(".")
    if owner in ("stock", "job"):
        return spec
    if owner.startswith("holding"):
        at = int(owner.partition("#")[2] or 1) - 1
        return f"holding:{job.holdings[at].id}.{rest}" if at < len(job.holdings) else ""
    step = step_of(job, owner)
    if step is None:
        return ""
    what, _, field = rest.partition(".")
    if field and what in ("pattern", "outline"):
        ident = getattr(step, what, "")
        return f"{what}:{ident}.{field}" if ident else ""
    return f"step:{step.id}.{rest}"


def _answer(job: Job, item: Item) -> tuple[Question, Any, str] | None:
    """The question of an item, its answer, and how that was typed; None where there is no such answer yet."""
    address = resolved(job, item.at)
    try:
        struct, field = answering.at(job, address)
    except KeyError:
        return None
    return question_of(type(struct), field), getattr(struct, field), str(getattr(struct, "typed", {}).get(field, ""))


def _wanted(question: Question, item: Item, job: Job) -> float | str:
    """What an answer has to be: a number where one is asked for, whatever it is written as."""
    if question.kind is None:
        return item.wants
    return evaluate(str(item.wants), question.kind, job.unit)


def _same(value: Any, wanted: float | str) -> bool:
    if isinstance(wanted, str) or not isinstance(value, int | float):
        return bool(value == wanted)
    return math.isclose(float(value), wanted, rel_tol=CLOSE, abs_tol=CLOSE)


def _limited(item: Item, typed: str, job: Job) -> bool:
    """Has the answer the tolerance that it is to have?"""
    wanted = limits_typed(str(item.wants), job.unit)
    return wanted is None or limits_typed(typed, job.unit) == wanted


def done(job: Job, item: Item, seen: Seen) -> bool:
    """Does the job show that an item is done?"""
    if item.adds:
        return len(job.holdings) > 1 if item.adds == "turned-over" else step_of(job, item.adds) is not None
    if item.goes:
        return item.goes in seen.gone
    if item.ends:
        ticked = job.print is not None and all(mark.state != "open" for mark in job.print.marks)
        return {"proved": seen.proved, "saved": seen.saved, "ticked": ticked}[item.ends]
    if item.at.endswith(".pattern") and isinstance(item.wants, str):
        pattern = _pattern(job, item)
        return pattern is not None and edits.PATTERN_KINDS[item.wants][1] is type(pattern)
    found = _answer(job, item)
    if found is None or found[1] is None or item.empty:
        return found is not None and item.empty and found[1] is None
    question, value, typed = found
    return _same(value, _wanted(question, item, job)) and (question.kind is None or _limited(item, typed, job))


def _pattern(job: Job, item: Item) -> Pattern | None:
    step = step_of(job, item.at.partition(".")[0])
    return job.pattern(getattr(step, "pattern", "")) if step is not None else None


def at_item(job: Job, lesson: Lesson, seen: Seen) -> int:
    """The place of the first item that is not done; how many there are where all are. What one had to look at is behind one as
    soon as something after it is done."""
    made = [done(job, item, seen) for item in lesson.items]
    lasting = [k for k, item in enumerate(lesson.items) if made[k] and not item.goes and not item.ends]
    last = max(lasting, default=-1)
    for k, item in enumerate(lesson.items):
        if not made[k] and not (item.goes and k < last):
            return k
    return len(lesson.items)


def typed_items(lesson: Lesson, job: Job) -> Iterator[Item]:
    """The items of a lesson that are answered by typing, in the finished job: choices are pressed, not typed."""
    for item in lesson.items:
        found = _answer(job, item) if item.at and not item.at.endswith(".pattern") else None
        if found is not None and not found[0].choices and not found[0].picks:
            yield item


def what_is_wrong(job: Job, lesson: Lesson, item: Item) -> str:
    """Why the answer that is there is not the one of the print, in words; empty while there is none."""
    found = _answer(job, item) if item.at else None
    if found is None or found[1] is None or item.empty:
        return ""
    question, value, typed = found
    wanted = _wanted(question, item, job)
    if isinstance(wanted, str) or not isinstance(value, int | float):
        if question.choices:
            words = dict(question.choices)
            return tr(
                "It is {words} that is wanted; you have {words_2}.",
                words=words.get(wanted, wanted),
                words_2=words.get(value, value),
            )
        return tr("The print says {wants}; you have {value}.", wants=item.wants, value=value) if value else ""
    if _same(value, wanted):
        return (
            ""
            if _limited(item, typed, job)
            else tr("The tolerance is missing: type {wants}, so that it is measured later.", wants=item.wants)
        )
    return _off(job, lesson, item, question, float(value), float(wanted))


def answer_to(job: Job, item: Item) -> Any:
    """The answer that an item is about, as it is now; None where there is none."""
    found = _answer(job, item) if item.at else None
    return found[1] if found is not None else None


def _off(job: Job, lesson: Lesson, item: Item, question: Question, value: float, wanted: float) -> str:
    """In which way a number is not the one of the print."""
    text = number_text(value, question.kind or Kind.LENGTH, job.unit)
    says = tr("{text} is not it.", text=text)
    if wanted and _same(-value, wanted):
        return tr("{says} The sign is the other way: depths are counted into the material, without a minus.", says=says)
    ratio = value / wanted if wanted else 0.0
    ways = {10.0: tr("ten times as much"), 100.0: tr("a hundred times as much"), 0.1: tr("a tenth"), 0.01: tr("a hundredth")}
    for k, words in ways.items():
        if math.isclose(ratio, k, rel_tol=1e-3):
            return tr("{says} That is {words}: look where the point is.", says=says, words=words)
    if math.isclose(ratio, 1 / 25.4, rel_tol=1e-3) or math.isclose(ratio, 25.4, rel_tol=1e-3):
        return tr(
            "{says} That is the other unit: the print is in {unit}.",
            says=says,
            unit=tr("millimetres") if job.unit == "mm" else tr("inches"),
        )
    if math.isclose(ratio, 0.5, rel_tol=1e-3):
        return tr("{says} That is half of it: a radius where a diameter is asked for, or the half of a length?", says=says)
    if math.isclose(ratio, 2.0, rel_tol=1e-3):
        return tr("{says} That is twice as much: a diameter where a radius is asked for?", says=says)
    if any(_number(dim.words, job) == value for dim in lesson.print.dims if dim.id != item.size):
        return tr("{text} stands on the print too, but for another size. The one that is meant is lit there.", text=text)
    meant = number_text(wanted, question.kind or Kind.LENGTH, job.unit)
    return tr("{says} It is {meant}.", says=says, meant=meant)


def _number(words: str, job: Job) -> float | None:
    taken = parted_mark(words)
    try:
        return evaluate(taken.size, Kind.LENGTH, job.unit) if taken is not None else None
    except ExpressionError:
        return None
