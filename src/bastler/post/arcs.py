"""Arcs of flat planes as chords, for controls that cannot do them."""

from __future__ import annotations

import math
from collections.abc import Iterator

from bastler.motion import Bow

STEP = math.pi / 8
"""The most that an arc turns in one chord, in radians."""
Point = tuple[float, float, float]


def along_bow(at: Point, bow: Bow, chord: float) -> Iterator[Point]:
    """Places along an arc from where the tool is `at`, the ends of chords that leave it by no more than `chord`."""
    u, v, w = at
    r, a0 = math.hypot(u - bow.cu, v - bow.cv), math.atan2(v - bow.cv, u - bow.cu)
    sign = 1 if bow.ccw else -1
    turn = (math.atan2(bow.v - bow.cv, bow.u - bow.cu) - a0) * sign % (2 * math.pi)
    turn = turn if turn > 1e-9 else 2 * math.pi
    step = 2 * math.acos(1 - min(chord / max(r, chord), 1.0))
    count = max(4, math.ceil(turn / max(min(step, STEP), 1e-6)))
    for k in range(1, count + 1):
        a = a0 + sign * turn * k / count
        x, y = (bow.u, bow.v) if k == count else (bow.cu + r * math.cos(a), bow.cv + r * math.sin(a))
        yield x, y, w + (bow.w - w) * k / count
