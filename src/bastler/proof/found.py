"""A finding of a check on a run of moves, and the lists that checks are kept in."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np

from bastler.nc import RAPID, Trace
from bastler.proof.remark import Level

MOST_A_CODE = 5
"""Places told of one code in one section."""
FEEDS_WITHOUT = "Feeds, and no tool is known: nothing is proved here."
POWER_STOP = 1.25
"""So many times the spindle's power stalls it; less is a caution."""


@dataclass(frozen=True)
class Found:
    """A remark before it has a line: `move` counts from the section's first."""

    level: Level
    code: str
    text: str
    move: int
    amount: float = 0.0
    place: tuple[float, float, float] | None = None


def feeds_over(trace: Trace, begin: int, end: int, most: float, says: Callable[[float], str]) -> Iterator[Found]:
    """A caution where feeds are over what the axes can; a stop where the move is tied to the spindle."""
    part = slice(begin, end)
    over = (trace.kind[part] != RAPID) & (trace.feed[part] > most * 1.0001)
    if over.any():
        feed = np.where(over, trace.feed[part], 0.0)
        move = int(np.argmax(feed))
        tied = trace.lead[begin + move] > 0
        text = f"Feeds at {says(float(feed[move]))} a minute; {says(most)} is the most of the axes."
        yield Found("stop" if tied else "caution", "over-feed", text, move, float(feed[move] - most))


V = TypeVar("V")


class Checks(Generic[V]):
    """The checks that look at one kind of view, under their codes.

    To add one, write a function and decorate it with `@check("its-code")`; tests walk all entries.
    """

    def __init__(self) -> None:
        self.by_code: dict[str, Callable[[V], Iterator[Found]]] = {}

    def __call__(self, code: str) -> Callable[[Callable[[V], Iterator[Found]]], Callable[[V], Iterator[Found]]]:
        """Registers a check; a code may be used once."""

        def register(function: Callable[[V], Iterator[Found]]) -> Callable[[V], Iterator[Found]]:
            if code in self.by_code:
                raise ValueError(f"A check called {code} is registered already.")
            self.by_code[code] = function
            return function

        return register

    def run(self, view: V) -> tuple[Found, ...]:
        """All findings of all checks."""
        return tuple(found for function in self.by_code.values() for found in function(view))
