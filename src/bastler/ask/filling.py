"""Filling in what is computed and finding what is out of bounds."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any, TypeVar

import msgspec

from bastler.ask.question import Question, questions_of
from bastler.bounds import as_nothing, beyond_all
from bastler.language import tr

S = TypeVar("S", bound=msgspec.Struct)


class Trouble(msgspec.Struct, frozen=True):
    """A wrong or contradictory answer: which field, why, and a value that would do (`fits`) where there is one. `open`: nothing
    is wrong, something has not been said yet."""

    field: str
    text: str
    fits: Any = None
    open: bool = False


def filled(struct: S, context: Any) -> S:
    """The struct with every computed answer worked out, in the order of declaration. What is beyond its own bounds stays as it
    is, and nothing is worked out from it: in its place counts what would have been proposed. What a sum leaves over is 0."""
    struct = _without_leavings(struct)
    beyond = {question.name: getattr(struct, question.name) for question, _ in _beyond(struct)}
    sound = msgspec.structs.replace(struct, **{name: _default(struct, name) for name in beyond}) if beyond else struct
    for question in questions_of(type(struct)):
        if getattr(sound, question.name) is None and question.propose is not None and question.asked(sound):
            sound = msgspec.structs.replace(sound, **{question.name: question.propose(sound, context)})
    return msgspec.structs.replace(sound, **beyond) if beyond else sound


def _without_leavings(struct: S) -> S:
    """The struct with 0 for numbers that are next to nothing."""
    names = [q.name for q in questions_of(type(struct)) if isinstance(v := getattr(struct, q.name), float) and as_nothing(v)]
    return msgspec.structs.replace(struct, **dict.fromkeys(names, 0.0)) if names else struct


def _default(struct: msgspec.Struct, name: str) -> Any:
    """What a field is before anything was answered; what it is now where it always has to be."""
    field = next(f for f in msgspec.structs.fields(struct) if f.name == name)
    return getattr(struct, name) if field.required else field.default


def problems(struct: msgspec.Struct) -> list[Trouble]:
    """Answers outside the bounds their questions declare; what is not asked is not checked."""
    return [Trouble(question.name, why) for question, why in _beyond(_without_leavings(struct))]


def _beyond(struct: msgspec.Struct) -> Iterator[tuple[Question, str]]:
    """The questions whose answers are outside their bounds, and why."""
    for question in questions_of(type(struct)):
        value = getattr(struct, question.name)
        if not isinstance(value, int | float) or isinstance(value, bool):
            continue
        if why := beyond_all(value):
            yield question, why
        elif not math.isfinite(value):
            yield question, tr("Has to be a finite number.")
        elif question.asked(struct) and (why := question.out_of_bounds(value)):
            yield question, why
