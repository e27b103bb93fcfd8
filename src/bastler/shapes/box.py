"""A box along the axes: stock, vise jaws; or an upright cylinder in one: a disc of stock."""

from __future__ import annotations

import functools
import math

import msgspec
from shapely.geometry import Point, Polygon, box


class Box(msgspec.Struct, frozen=True):
    """From `lo` to `hi`, each (x, y, z) in the job's unit, seen from part zero; `round` is the cylinder that fills it, as wide as
    it is long."""

    lo: tuple[float, float, float]
    hi: tuple[float, float, float]
    round: bool = False

    @property
    def size(self) -> tuple[float, float, float]:
        return (self.hi[0] - self.lo[0], self.hi[1] - self.lo[1], self.hi[2] - self.lo[2])

    @property
    def volume(self) -> float:
        x, y, z = self.size
        return x * y * z * (math.pi / 4 if self.round else 1.0)

    @property
    def centre(self) -> tuple[float, float]:
        return ((self.lo[0] + self.hi[0]) / 2, (self.lo[1] + self.hi[1]) / 2)

    @property
    def middle(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """The line of a section through the middle, from the left to the right."""
        return (self.lo[0], self.centre[1]), (self.hi[0], self.centre[1])

    @property
    def plan(self) -> Polygon:
        """The outline seen from above, of a cylinder as fine chords."""
        if self.round:
            return _disc(*self.centre, self.size[0] / 2)
        return box(self.lo[0], self.lo[1], self.hi[0], self.hi[1])


@functools.lru_cache(maxsize=16)
def _disc(x: float, y: float, radius: float) -> Polygon:
    return Point(x, y).buffer(radius, quad_segs=90)
