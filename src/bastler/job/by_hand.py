"""Lines of a program that somebody has typed in the place of those that the steps make. `post.by_hand` lays them over it."""

from __future__ import annotations

from typing import Annotated

import msgspec

from bastler.bounds import HAND_EDITS

Lines = tuple[str, ...]


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
