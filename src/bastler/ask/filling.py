"""Filling in what is computed and finding what is out of bounds."""

from __future__ import annotations

import math
from typing import Any, TypeVar

import msgspec

from bastler.ask.question import questions_of
from bastler.bounds import beyond_all

S = TypeVar("S", bound=msgspec.Struct)


class Trouble(msgspec.Struct, frozen=True):
    """A wrong or contradictory answer: which field, why, and a value that would do (`fits`) where there is one. `open`: nothing
    is wrong, something has not been said yet."""

    field: str
    text: str
    fits: Any = None
    open: bool = False


def filled(struct: S, context: Any) -> S:
    """The struct with every computed answer worked out, in the order of declaration."""
    for question in questions_of(type(struct)):
        if getattr(struct, question.name) is None and question.propose is not None and question.asked(struct):
            struct = msgspec.structs.replace(struct, **{question.name: question.propose(struct, context)})
    return struct


def problems(struct: msgspec.Struct) -> list[Trouble]:
    """Answers outside the bounds their questions declare; what is not asked is not checked."""
    found = []
    for question in questions_of(type(struct)):
        value = getattr(struct, question.name)
        if not isinstance(value, int | float) or isinstance(value, bool):
            continue
        if why := beyond_all(value):
            found.append(Trouble(question.name, why))
        elif not math.isfinite(value):
            found.append(Trouble(question.name, "Has to be a finite number."))
        elif question.asked(struct) and (why := question.out_of_bounds(value)):
            found.append(Trouble(question.name, why))
    return found
