"""Moves somewhere else on a flat plane."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from bastler.motion.moves import Bend, Bow, Cut, Cycle, Go, Move
from bastler.shapes.placing import Placing


def placed_moves(moves: Sequence[Move], to: Placing) -> tuple[Move, ...]:
    """The same moves shifted, turned or mirrored. Mirrored arcs go the other way round, and compensation changes its side."""
    return tuple(_placed(move, to) for move in moves)


def _placed(move: Move, to: Placing) -> Move:
    if isinstance(move, Go | Cut):
        u, v = to.at(move.u, move.v)
        return replace(move, u=u, v=v)
    if isinstance(move, Bow):
        (u, v), (cu, cv) = to.at(move.u, move.v), to.at(move.cu, move.cv)
        return replace(move, u=u, v=v, cu=cu, cv=cv, ccw=move.ccw != to.mirrors)
    if isinstance(move, Cycle):
        return replace(move, points=tuple(to.at(*p) for p in move.points))
    if isinstance(move, Bend) and to.mirrors and move.side != "off":
        return Bend("right" if move.side == "left" else "left")
    return move
