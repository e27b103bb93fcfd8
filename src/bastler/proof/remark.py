"""A remark is a finding of the proof, and an offer."""

from __future__ import annotations

from typing import Any, Literal

import msgspec

from bastler.language import sayable

Level = Literal["stop", "open", "caution", "note"]
"""*open*: nothing is wrong, but something has not been said yet and so is not in the program."""
ORDER: dict[str, int] = {"stop": 0, "open": 1, "caution": 2, "note": 3}
SEVERITIES = sayable({"stop": "stop", "open": "still open", "caution": "caution", "note": "note"})
"""How a level is said before a remark."""
HOLDING = ("stop", "open")
"""Levels with which a program does not go out unasked."""
LEFT_OVER = ("raw-left", "land", "corners", "narrow")
"""Codes of what nobody takes and nobody has said is to stay: proved, but something is left."""


VERDICTS = sayable({"proved": "Proved", "left": "Proved, something is left", "open": "Open", "stop": "Stop"})
"""How a proof's verdict is said."""


class Cure(msgspec.Struct, frozen=True):
    """A way out with one press: what it says, and the answer it gives (an address of `bastler.job.edits` and a value). An address
    that begins with `add:` adds a step, see `bastler.job.edits.cured`."""

    says: str
    address: str
    value: Any


class Remark(msgspec.Struct, frozen=True, kw_only=True):
    """What was found, where, how much, and what would cure it.

    `line` counts from 1, 0 for the program as a whole; `amount` is in the job's unit, kW or 1/min as `text` says; `move` is the
    row of the trace, -1 for none; `place` is (x, y, z) where it is. Where a remark can be read in two ways `other` is the second
    way out.
    """

    level: Level
    code: str
    text: str
    line: int = 0
    step: str = ""
    stage: str = ""
    field: str = ""
    amount: float = 0.0
    move: int = -1
    place: tuple[float, float, float] | None = None
    cure: Cure | None = None
    other: Cure | None = None

    @property
    def cures(self) -> tuple[Cure, ...]:
        """The ways out there are."""
        return tuple(cure for cure in (self.cure, self.other) if cure is not None)


def sorted_remarks(remarks: list[Remark]) -> tuple[Remark, ...]:
    """Stops first, then in the order of the program."""
    return tuple(sorted(remarks, key=lambda r: (ORDER[r.level], r.line)))
