"""What is in a program besides what steps make: lines that somebody has typed in the place of others, which `post.by_hand` lays
over it, or a whole program that comes from elsewhere."""

from __future__ import annotations

import re
from typing import Annotated

import msgspec

from bastler.bounds import HAND_EDITS
from bastler.units import Unit

Lines = tuple[str, ...]
UNIT_WORD = re.compile(r"G\s*0*2([01])(?![\d.])", re.IGNORECASE)
REMARK = re.compile(r"\([^)]*\)?|;.*")


class HandEdit(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A place in the program of a holding, or of several from that `program` on: within a `stage` of a `step`, both empty for
    what frames the program, in the stretch of that number where there are several. There stand the lines `now` in the place of
    those that `was`; either may be none. `before` and `after` are the lines around them as the steps make them, up to three,
    fewer where the stretch begins or ends. What was in that place stood so and so often in the stretch: `near` is which of how
    many with the line before and the line after, `far` with all that are kept."""

    id: str
    program: str
    step: str = ""
    stage: str = ""
    stretch: int = 1
    before: Lines = ()
    was: Lines = ()
    now: Lines = ()
    after: Lines = ()
    near: tuple[int, int] = (1, 1)
    far: tuple[int, int] = (1, 1)


HandEdits = Annotated[tuple[HandEdit, ...], msgspec.Meta(max_length=HAND_EDITS.most)]


class Elsewhere(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A program that comes from elsewhere, in the place of what steps would make: its `lines`. What it does not say was guessed:
    which stock, which tools, perhaps which unit. `sure` are those that somebody has looked at: `stock`, `unit`, `T3`."""

    lines: Lines
    sure: Lines = ()

    @property
    def unit(self) -> Unit | None:
        """The unit that it says first, by G20 or G21; None where it says none."""
        for line in self.lines:
            found = UNIT_WORD.search(without_remarks(line))
            if found:
                return "inch" if found[1] == "0" else "mm"
        return None


def without_remarks(line: str) -> str:
    """A line without what stands in brackets or behind a semicolon."""
    return REMARK.sub(" ", line)
