"""A round pocket cleared in one spiral: half circles, each a little larger than the last, and the wall's own circle at the end.

The halves are about two centres in turn, so that they meet without a corner; over a whole turn the way goes out by the stepover.
The cutter's load stays even, and nothing is gone over twice.
"""

from __future__ import annotations

import math

from bastler.motion.moves import Path

Point = tuple[float, float]


def spiral_out(path: Path, centre: Point, begin: float, room: float, stepover: float, feed: float, *, ccw: bool) -> None:
    """From `begin` (a radius that is open already) out to `room`, the radius of the last circle of the tool's centre; ends on
    it."""
    x, y = centre
    count = max(0, math.ceil((room - begin) / (stepover / 2) - 1e-9))
    side, r = 1.0, min(begin, room)
    path.cut(feed, x + r, y)
    for k in range(1, count + 1):
        after = begin + (room - begin) * k / count
        middle = (x + side * (r - after) / 2, y)
        path.bow(feed, (x - side * after, y), middle, ccw=ccw)
        side, r = -side, after
    at = (x + side * room, y)
    path.bow(feed, at, centre, ccw=ccw)
