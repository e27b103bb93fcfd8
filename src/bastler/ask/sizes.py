"""Sizes that were typed with a tolerance, as they are kept beside their answers."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from bastler.ask.question import Question, questions_of
from bastler.language import tr
from bastler.units import ExpressionError, Kind, Unit, evaluate, limits_typed, printed
from bastler.units.limits import Off

SAME = 1e-6
"""An answer that is farther than this, as a share, from what was typed is none of it: somebody has moved it since."""


def limits_said(struct: Any, name: str, unit: Unit) -> Off | None:
    """Between which limits a length of a struct has to come out, where it was typed with a tolerance; smallest and largest size
    without their sign."""
    text, value = getattr(struct, "typed", {}).get(name, ""), getattr(struct, name, None)
    off = limits_typed(text, unit) if text and isinstance(value, int | float) else None
    if off is None or value is None:
        return None
    try:
        typed = evaluate(text, Kind.LENGTH, unit)
    except ExpressionError:
        return None
    if abs(typed - value) > SAME * max(abs(value), 1.0):
        return None
    low, high = sorted((abs(off.low), abs(off.high)))
    return Off(low, high) if off.low * off.high >= 0 else off


def size_typed(struct: Any, name: str, unit: Unit) -> str:
    """How a length was typed that has a tolerance, without its sign; empty for all others."""
    return str(struct.typed[name]).strip().lstrip("-− ") if limits_said(struct, name, unit) is not None else ""


def limits_in_words(struct: Any, name: str, unit: Unit) -> str:
    """Between which limits a length has to come out, and at which it is cut; empty for one without a tolerance."""
    off = limits_said(struct, name, unit)
    if off is None:
        return ""
    low, high, cut = (printed(v, Kind.LENGTH, unit) for v in (off.low, off.high, abs(getattr(struct, name))))
    return tr("{low} to {high}, cut at {cut}.", low=low, high=high, cut=cut)


def toleranced(struct: Any, unit: Unit) -> Iterator[Question]:
    """The questions of a struct that were answered with a tolerance."""
    for question in questions_of(type(struct)):
        if question.kind is Kind.LENGTH and limits_said(struct, question.name, unit) is not None:
            yield question
