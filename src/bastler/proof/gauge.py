"""A size of a part as it is measured: between faces, each where it is meant to be, and what moves them.

How large a size came out follows from how far its faces stand out, and so does what a correction will do to it: one
arithmetic for both, exact as long as faces stay what they are.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import msgspec

Place = tuple[float, float, float]
MakerBy = Literal["x", "z", "diameter", "tool", "zero x", "zero y"]
"""What moves a face: the wear of an offset along X, Z or in diameter; the tool itself; the zero that all is counted from."""
ZEROS = {"zero x": 0, "zero y": 1}
"""Its axis, of what moves a face with the zero."""


class GaugeEnd(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A face that a size ends at: a `place` on it as it is meant to be, from part zero, and the direction out of the material. Of
    turned work X is the radius."""

    place: Place
    out: Place


class Maker(msgspec.Struct, frozen=True):
    """What makes a face: the tool of a `station` under the offset of a `number`, in a stage of a step, whose first line of the
    program is `first` and the one behind its last `last` (from 0). `by` says what moves the face with that: its wear along x, z,
    or its diameter where the control goes beside the outline by it; by the `tool` alone where nothing does; of a place the zero
    of the work offset of that `number`; and so much `out` for one unit of it."""

    number: int
    station: int
    by: MakerBy
    out: float
    step: str = ""
    stage: str = ""
    first: int = 0
    last: int = 0


class Gauge(msgspec.Struct, frozen=True):
    """A size to be measured: of a `step` by number and title what it `says` and as it is on the print (`text`), its `nominal`
    value, and between which limits it has to come out; these are `general` where nobody gave any. Its ends, how much the size
    grows where each stands further out, and what makes them. Without ends it is read from a gauge: no caliper has two faces."""

    id: str
    number: int
    step: str
    title: str
    says: str
    text: str
    nominal: float
    limits: tuple[float, float] | None
    general: bool
    ends: tuple[GaugeEnd, ...]
    grows: tuple[float, ...]
    makers: tuple[Maker | None, ...]
    round: bool = False

    def size(self, offs: Sequence[float]) -> float:
        """How large it is where its ends stand out by so much."""
        return self.nominal + sum(grows * off for grows, off in zip(self.grows, offs, strict=True))

    @property
    def aim(self) -> float:
        """What is aimed at: the middle of the limits."""
        return self.nominal if self.limits is None else (self.limits[0] + self.limits[1]) / 2

    def moved(self, number: int, by: str, amount: float) -> float:
        """How much it grows where the wear of an offset is raised by an amount."""
        pairs = zip(self.grows, self.makers, strict=True)
        return sum(g * m.out * amount for g, m in pairs if m is not None and (m.number, m.by) == (number, by))


class Correction(msgspec.Struct, frozen=True):
    """A way out of a size that is off: the wear of an offset `by` its axis, raised by an `amount`; which other sizes that moves,
    by their ids, with the amounts; the lines of the program that have to be run again. Of a place it is the zero of a work offset
    that is raised. For a `tool` that no offset corrects
    `amount` is so much larger than it is taken for: the program has to follow."""

    number: int
    station: int
    by: MakerBy
    amount: float
    moves: tuple[tuple[str, float], ...] = ()
    first: int = 0
    last: int = 0


def correction(gauge: Gauge, size: float, others: Sequence[Gauge]) -> Correction | None:
    """What brings a size back to its aim; None where nothing that is known does. Of the ends the one that the size names last is
    corrected: the first is what others are measured from."""
    over = size - gauge.aim
    for maker in reversed([m for m in gauge.makers if m is not None]):
        per = gauge.moved(maker.number, maker.by, 1.0)
        if abs(per) < 1e-9:
            continue
        raised = -over / per
        amount = -raised if maker.by == "tool" else raised
        touched = [(g.id, g.moved(maker.number, maker.by, raised)) for g in others if g.id != gauge.id]
        moves = tuple((ident, by) for ident, by in touched if abs(by) > 1e-9)
        lines = (0, 0) if maker.by in ZEROS else (maker.first, maker.last)  # what stands in its wrong place stays there
        return Correction(maker.number, maker.station, maker.by, amount, moves, *lines)
    return None


def standing(gauge: Gauge, size: float) -> Literal["in", "over", "under", "open"]:
    """Is a size within its limits?"""
    if gauge.limits is None:
        return "open"
    if size > gauge.limits[1] + 1e-9:
        return "over"
    return "under" if size < gauge.limits[0] - 1e-9 else "in"
