"""Outlines that are roughed and finished by cycles: each is written once, where it is roughed, as the way of the tool that
finishes it. A tool with another nose roughs by it all the same: its larger nose leaves no less anywhere."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from bastler.motion import Go, Move
from bastler.motion.moves import OutlineCycle
from bastler.post.joined import Ordered
from bastler.steps import Stage


def shared(order: Sequence[Ordered]) -> list[Ordered]:
    """The stages with their outlines numbered: one that is roughed has that of what finishes it, where that is done by a cycle
    too."""
    found = list(order)
    number = 0
    for at, entry in enumerate(order):
        rough = _cycle(entry)
        if rough is None or rough.roughed is None:
            continue
        number += 1
        behind = next((k for k in range(at + 1, len(order)) if _finishes(found[k], rough)), None)
        fine = _cycle(found[behind]) if behind is not None else None
        if behind is not None and fine is not None:
            found[behind] = _with(found[behind], replace(fine, number=number))
            moves = (*fine.moves[:-1], rough.moves[-1])
            rough = replace(rough, start_z=fine.start_z, begin_r=fine.begin_r, moves=moves)
        found[at] = _with(found[at], replace(rough, number=number))
    return found


def _cycle(entry: Ordered) -> OutlineCycle | None:
    """The cycle of a stage along an outline."""
    stage = entry[3]
    return next((m for m in stage.moves if isinstance(m, OutlineCycle)), None) if isinstance(stage, Stage) else None


def _finishes(entry: Ordered, rough: OutlineCycle) -> bool:
    """Does a stage finish what is roughed, and no other one of it before? Both lead out of the stock along the same line: the one
    that roughs finds more of it."""
    fine = _cycle(entry)
    if fine is None or fine.roughed is not None or fine.number or fine.outline != rough.outline:
        return False
    return fine.moves[-1].u == rough.moves[-1].u


def _with(entry: Ordered, cycle: OutlineCycle) -> Ordered:
    """A stage with its cycle in another form, come to where that begins."""
    stage, was = entry[3], _cycle(entry)
    assert isinstance(stage, Stage)
    assert was is not None

    def there(move: Move) -> Move:
        if move is was:
            return cycle
        return replace(move, u=cycle.start_z) if isinstance(move, Go) and move.u == was.start_z else move

    return (*entry[:3], replace(stage, moves=tuple(map(there, stage.moves))))
