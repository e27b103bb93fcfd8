"""What grows with an answer or a file ends here. One table, each bound with its sentence; who needs more is told, and nothing
runs away with the machine's time or memory."""

from __future__ import annotations

import msgspec

from bastler.language import sayable, tr
from bastler.units import grouped


class Bound(msgspec.Struct, frozen=True):
    """The most of something, and what it is called."""

    most: int
    what: str

    def over(self, count: float) -> str:
        """What is said where there are more; empty where there are not."""
        if count <= self.most:
            return ""
        made = grouped(count) if count < 1e15 else tr("endlessly many")
        return tr("That makes {made} {what}; {most} is the most.", made=made, what=tr(self.what), most=grouped(self.most))


POSITIONS = Bound(10_000, sayable("positions"))
"""Of one pattern: some hours of drilling."""
SIGNS = Bound(80, sayable("signs"))
"""Of a text to engrave."""
SEGMENTS = Bound(600, sayable("segments"))
"""Of one outline: its equations are solved together."""
STEPS = Bound(400, sayable("steps"))
"""Of one job."""
HOLDINGS = Bound(12, sayable("holdings"))
"""Of one job: each has a stock of its own in the proof."""
MARKS = Bound(2_000, sayable("sizes on a print"))
"""Of one job."""
NAMED_SIZES = Bound(100, sayable("named sizes"))
VARIANTS = Bound(500, sayable("variants"))
"""Of one job; each is proved."""
HAND_EDITS = Bound(500, sayable("places changed by hand"))
"""Of one job."""
HAND_LINES = Bound(10_000, sayable("lines changed by hand"))
MOVES = Bound(2_000_000, sayable("moves"))
"""Of one program."""
BLOCKS = Bound(50_000, sayable("lines with words other than motion"))
"""Run one by one, subprograms and repeats counted each time."""
IN_A_BLOCK = Bound(20_000, sayable("moves in one cycle"))
"""Pecks, passes and rows that one line of a program makes."""
BAR_PARTS = Bound(200, sayable("parts of one bar"))
"""Each is read, and held against the first."""
BITES = Bound(500, sayable("passes of a thread"))
TURNS = Bound(5_000, sayable("turns of the work in one pass of a thread"))
LARGEST_NUMBER = 1e9
"""Of any answer, in whatever unit: beyond it sums lose what machines can hold."""

SMALLEST_NUMBER = 1e-9
"""Of any answer, in whatever unit, that is not nothing: what is nearer to nothing is what a sum leaves over, as 0.3-3*0.1."""


def as_nothing(value: float) -> bool:
    """Is a number that is not 0 so small that nothing is meant by it?"""
    return 0.0 < abs(value) < SMALLEST_NUMBER


def beyond_all(value: float) -> str:
    """What is said of a number that is none for any answer; empty for others. Asked first: a whole number may be larger than any
    float."""
    return tr("No machine takes a number as large as that.") if abs(value) > LARGEST_NUMBER else ""
