"""A bevel along an edge, as something that is taken away."""

from __future__ import annotations

import functools
import math
from typing import Any

import msgspec
import numpy as np
import shapely

from bastler.shapes.kernels import distances
from bastler.shapes.kinds import Floats, Region
from bastler.shapes.region import even_odd, offset_region, primitives
from bastler.shapes.rounded import Segment


class Bevel(msgspec.Struct, frozen=True):
    """The edges of what stays, bevelled: `body` are the loops of the material seen from above (material on their left), `width`
    how far the bevel goes in, `rise` its height per unit of width; its upper side ends at `top`. `chord` is how fine `region`
    is."""

    body: tuple[tuple[Segment, ...], ...]
    top: float
    width: float
    rise: float
    chord: float

    @property
    def floor(self) -> float:
        return self.top - self.width * self.rise

    @property
    def region(self) -> Region:
        """The band it lies in, seen from above."""
        return _band(self, self.width)

    def open_at(self, z: float) -> Any:
        """The band that is open at a height."""
        return _band(self, min(self.width, max(0.0, (z - self.floor) / self.rise)))

    def heights(self, points: Floats) -> Floats:
        """Height of the bevel at points (n, 2) of the band, and beyond it as far as it would go on."""
        prims = primitives([s for loop in self.body for s in loop])
        found: Floats = self.floor + distances(points, prims) * self.rise
        return found

    def at(self, x: float, y: float) -> float:
        """Height of what is left at a point; infinite outside."""
        if not self.region.covers(shapely.Point(x, y)):
            return math.inf
        return float(self.heights(np.array([(x, y)]))[0])


@functools.lru_cache(maxsize=32)
def _band(bevel: Bevel, width: float) -> Region:
    loops = [list(loop) for loop in bevel.body]
    if width <= 0:
        return shapely.Polygon()
    return even_odd(loops, bevel.chord).symmetric_difference(even_odd(offset_region(loops, width), bevel.chord))
