"""Feeds that are interrupted, so that a stringy chip breaks: so many turns of feed, then a rest for some turns, or a little back.

Only what cuts is interrupted, by its feed: ways through air have another one. A way back is straight; along arcs the tool rests.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import NamedTuple

from bastler.motion.moves import Bow, Cut, Go, Move, Pause, Spot, Sync
from bastler.motion.rings import at_share
from bastler.shapes import Arc

SAME = 1e-9
HUNDREDTHS = 100.0
"""A rest is rounded up to so many parts of a second."""


class Broken(NamedTuple):
    """After so many turns of a feed, `rest` turns without any, or the way `back`; one of both is 0."""

    turns: float
    rest: float
    back: float


def interrupted(
    start: Spot, moves: Sequence[Move], feed: float, how: Broken, seconds: Callable[[float], float]
) -> tuple[Move, ...]:
    """Moves of a turned plane from a place on, those in that `feed` a turn interrupted; `seconds` are those of a turn at a
    radius."""
    found: list[Move] = []
    here = start
    for move in moves:
        if isinstance(move, Cut | Bow) and abs(move.feed - feed) <= SAME * feed:
            found += _parted(here, move, feed * how.turns, how, seconds)
        else:
            found.append(move)
        if isinstance(move, Go | Cut | Bow | Sync):
            here = (move.u, move.v, 0.0)
    return tuple(found)


def _parted(here: Spot, move: Cut | Bow, piece: float, how: Broken, seconds: Callable[[float], float]) -> list[Move]:
    """A move in equal pieces no longer than that, with what comes between them."""
    found: list[Move] = []
    last = here
    back = how if isinstance(move, Cut) or not how.back else Broken(how.turns, 1.0, 0.0)
    for k, (end, part) in enumerate(_pieces(here, move, piece)):
        if k:
            found += _between(last, here, back, seconds)
        found.append(part)
        last, here = here, end
    return found


def _pieces(here: Spot, move: Cut | Bow, piece: float) -> list[tuple[Spot, Cut | Bow]]:
    target = (move.u, move.v, move.w)
    if isinstance(move, Cut):
        count = max(math.ceil(math.dist(here, target) / piece - 1e-6), 1)
        ends = [tuple(a + (b - a) * k / count for a, b in zip(here, target, strict=True)) for k in range(1, count)]
        spots: list[Spot] = [*((u, v, w) for u, v, w in ends), target]
        return [(spot, Cut(*spot, move.feed)) for spot in spots]
    arc = Arc(here[:2], target[:2], (move.cu, move.cv), move.ccw)
    radius = math.dist(arc.start, arc.centre)
    count = max(math.ceil(radius * arc.sweep() / piece - 1e-6), 1)
    points = [*(at_share(arc, k / count) for k in range(1, count)), target[:2]]
    return [((u, v, move.w), Bow(u, v, move.w, move.cu, move.cv, move.ccw, move.feed)) for u, v in points]


def _between(before: Spot, here: Spot, how: Broken, seconds: Callable[[float], float]) -> list[Move]:
    """What stands between two pieces, the one that was cut having come from `before`."""
    if how.back > 0.0:
        long = math.dist(before, here)
        share = min(how.back / long, 1.0) if long > 0.0 else 0.0
        u, v, w = (b + (a - b) * share for a, b in zip(before, here, strict=True))
        return [Go(u, v, w)]
    return [Pause(math.ceil(how.rest * seconds(max(here[1], 0.0)) * HUNDREDTHS - SAME) / HUNDREDTHS)]
