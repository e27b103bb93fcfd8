"""How much a solution may cost. Counted in equations looked at, not in seconds: the same outline is found, or not, on every
machine; one is worth about eight microseconds.

A key press waits for the outline. What is not found within its effort is said as not found yet.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from contextvars import ContextVar

WHOLE = 15_000
"""For an outline, and as much again for each look at what would have to go where numbers do not agree: about a tenth of a second,
a hundred times what the samples take."""
EACH = 250
"""And for every segment of a long one, where most follows straight from what is given."""
STEP = 12
"""One step of Gauss and Newton in a few unknowns."""


class OutOfEffort(Exception):
    """It would take too long."""


_left: ContextVar[list[int] | None] = ContextVar("effort", default=None)


@contextlib.contextmanager
def effort(most: int) -> Iterator[None]:
    """Within it `spend` raises OutOfEffort once more than `most` has been spent."""
    token = _left.set([most])
    try:
        yield
    finally:
        _left.reset(token)


def spend(much: int) -> None:
    """Something that costs so much is about to be done; OutOfEffort where that is more than there is."""
    left = _left.get()
    if left is not None:
        left[0] -= much
        if left[0] < 0:
            raise OutOfEffort
