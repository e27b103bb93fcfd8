"""Drilling cycles written long-hand, for what a machine's canned cycles cannot do.

A *bite* is the depth gained between two retracts.
"""

from __future__ import annotations

from bastler.motion.moves import Cut, Cycle, Go, Move, Pause


def bites(cycle: Cycle) -> list[float]:
    """The heights the drill reaches one after the other, the last at `cycle.z`."""
    depth = cycle.r - cycle.z
    if cycle.peck <= 0.0:
        return [cycle.z]
    levels, bite, reached = [], cycle.peck, 0.0
    floor = max(cycle.least, 1e-6) if cycle.shrink < 1.0 else cycle.peck
    while depth - reached > 1e-9:
        reached = min(reached + bite, depth)
        levels.append(cycle.r - reached)
        bite = max(bite * cycle.shrink, floor)
    return [*levels[:-1], cycle.z]


def long_hand(cycle: Cycle, before: float) -> list[Move]:
    """The cycle as plain moves; `before` is the height the tool comes from, never under `cycle.r`."""
    moves: list[Move] = []
    height = before
    for x, y in cycle.points:
        moves += [Go(x, y, height), Go(x, y, cycle.r)]
        moves += _hole(cycle, x, y)
        moves.append(Go(x, y, cycle.back))
        height = cycle.back
    return moves


def _hole(cycle: Cycle, x: float, y: float) -> list[Move]:
    moves: list[Move] = []
    levels = bites(cycle)
    for k, level in enumerate(levels):
        if k and cycle.full:
            moves += [Go(x, y, cycle.r), Go(x, y, min(levels[k - 1] + cycle.clearance, cycle.r))]
        elif k:
            moves.append(Go(x, y, min(levels[k - 1] + cycle.pull, cycle.r)))
        moves.append(Cut(x, y, level, cycle.feed))
    if cycle.dwell > 0.0:
        moves.append(Pause(cycle.dwell))
    if cycle.slow:
        moves.append(Cut(x, y, cycle.r, cycle.feed))
    return moves
