"""A box along the axes: stock, vise jaws."""

from __future__ import annotations

import msgspec
from shapely.geometry import Polygon, box


class Box(msgspec.Struct, frozen=True):
    """From `lo` to `hi`, each (x, y, z) in the job's unit, seen from part zero."""

    lo: tuple[float, float, float]
    hi: tuple[float, float, float]

    @property
    def size(self) -> tuple[float, float, float]:
        return (self.hi[0] - self.lo[0], self.hi[1] - self.lo[1], self.hi[2] - self.lo[2])

    @property
    def volume(self) -> float:
        x, y, z = self.size
        return x * y * z

    @property
    def centre(self) -> tuple[float, float]:
        return ((self.lo[0] + self.hi[0]) / 2, (self.lo[1] + self.hi[1]) / 2)

    @property
    def plan(self) -> Polygon:
        """The outline seen from above."""
        return box(self.lo[0], self.lo[1], self.hi[0], self.hi[1])
