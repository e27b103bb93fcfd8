"""Stages of one tool on a turned plane, one after the other: from the one straight to the next.

Each ends at the safe place in front of the work, where the next one begins. Between two of the same tool that way is left out
as far as the tool would go it back: what it goes then, it would have gone too, so that nothing new can be in its way.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from msgspec.structs import replace

from bastler.job import PlannedStep
from bastler.job.parts import PartAt
from bastler.motion import Go, Move
from bastler.post.said import Said
from bastler.steps import Between, Stage

Ordered = tuple[PartAt, int, PlannedStep, Stage | Between]
"""A stage with its part, and the number of its step and the step."""
Spot = tuple[float, float, float]


def joined(order: Iterable[Ordered], said: Said) -> list[Ordered]:
    """The stages in their order, those of one tool without the way to the safe place and back."""
    found: list[Ordered] = []
    for entry in order:
        before, after = found[-1][3] if found else None, entry[3]
        if isinstance(before, Stage) and isinstance(after, Stage) and _meet(before, after):
            before, after = said.joint(before, after, _joined)
            found[-1] = (*found[-1][:3], before)
        found.append((*entry[:3], after))
    return found


def _meet(before: Stage, after: Stage) -> bool:
    """Does one stage of turning end where the next one, of the same tool, begins?"""
    if before.parts or not after.moves:
        return False
    if before.tool.id != after.tool.id or (before.said_as, after.said_as) != ("turned", "turned") or not before.moves:
        return False
    last = before.moves[-1]
    return isinstance(last, Go) and (last.u, last.v, last.w) == after.start


def _joined(before: Stage, after: Stage) -> tuple[Stage, Stage]:
    """Both without what is gone there and back. The first rapid away from the work stays."""
    out = _rapids(before.moves[::-1])
    left = list(before.moves[len(before.moves) - out :])
    right = list(after.moves[: _rapids(after.moves)])
    while len(left) >= 3 and right:
        a, b, c = (_spot(move) for move in (left[-2], left[-1], right[0]))
        back = _back(a, b, c)
        if back == 0:
            break
        if back > 0:  # further back than to where it came from
            left.pop()
        else:
            left[-1] = right.pop(0)
        if left and right and _spot(left[-1]) == _spot(right[0]):
            right.pop(0)
    kept, cuts = before.moves[: len(before.moves) - out], after.moves[_rapids(after.moves) :]
    return replace(before, moves=(*kept, *left)), replace(after, start=_spot(left[-1]), moves=(*right, *cuts))


def _rapids(moves: Sequence[Move]) -> int:
    """How many rapids moves begin with."""
    return next((k for k, move in enumerate(moves) if not isinstance(move, Go)), len(moves))


def _spot(move: Move) -> Spot:
    assert isinstance(move, Go)
    return move.u, move.v, move.w


def _back(a: Spot, b: Spot, c: Spot) -> int:
    """From a to b and on to c along one axis: -1 where c lies on the way that was come, 1 where a lies on the way to c, 0 where
    it is another way."""
    moving = [k for k in range(3) if a[k] != b[k] or b[k] != c[k]]
    if len(moving) != 1:
        return 0
    k = moving[0]
    there, back = b[k] - a[k], c[k] - b[k]
    if there * back >= 0.0:
        return 0
    return 1 if abs(back) >= abs(there) else -1
