"""Drilling cycles written long-hand, for what a machine's canned cycles cannot do.

A *bite* is the depth gained between two retracts.
"""

from __future__ import annotations

from bastler.motion.moves import Cut, Cycle, Go, Move, Pause


def bites(cycle: Cycle) -> list[float]:
    """The heights the drill reaches one after the other, the last at `cycle.z`."""
    if cycle.peck <= 0.0:
        return [cycle.z]
    gained = bitten(cycle.r - cycle.z, cycle.peck, cycle.shrink, cycle.least)
    return [*(cycle.r - deep for deep in gained[:-1]), cycle.z]


def bitten(depth: float, first: float, shrink: float, least: float) -> list[float]:
    """How deep each bite gets, the last one to `depth`: each is `shrink` of the one before but not under `least`."""
    reached: list[float] = []
    bite, floor = first, max(least, 1e-6) if shrink < 1.0 else first
    while depth - (reached[-1] if reached else 0.0) > 1e-9:
        reached.append(min((reached[-1] if reached else 0.0) + bite, depth))
        bite = max(bite * shrink, floor)
    return reached


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
