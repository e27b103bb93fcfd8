"""A groove along strokes, cut by a pointed tool, as something that is taken away."""

from __future__ import annotations

import functools
import math
from typing import Any

import msgspec
import numpy as np
import shapely

from bastler.shapes.kernels import distances
from bastler.shapes.kinds import Floats, Region
from bastler.shapes.region import primitives, swept
from bastler.shapes.rounded import Segment
from bastler.shapes.united import united


class Furrow(msgspec.Struct, frozen=True):
    """Strokes (chains of lines and arcs seen from above) as deep as `floor`: flat to a distance `flat` beside them, then rising
    by `rise` per unit of distance up to `top`. `chord` is how fine `region` is."""

    strokes: tuple[tuple[Segment, ...], ...]
    top: float
    floor: float
    flat: float
    rise: float
    chord: float

    @property
    def region(self) -> Region:
        """What is open at the top, seen from above."""
        return self.open_at(self.top)

    def open_at(self, z: float) -> Any:
        """What is open at a height."""
        if z < self.floor:
            return shapely.Polygon()
        return _open(self, self.flat + (min(z, self.top) - self.floor) / self.rise)

    def heights(self, points: Floats) -> Floats:
        """Height at points (n, 2) near the strokes, and beyond the groove as far as its sides would go on."""
        prims = primitives([s for chain in self.strokes for s in chain])
        found: Floats = self.floor + np.maximum(distances(points, prims) - self.flat, 0.0) * self.rise
        return found

    def at(self, x: float, y: float) -> float:
        """Height of what is left at a point; infinite outside."""
        z = float(self.heights(np.array([(x, y)]))[0])
        return z if z <= self.top else math.inf


@functools.lru_cache(maxsize=32)
def _open(groove: Furrow, half: float) -> Region:
    if half <= 0:
        return shapely.Polygon()
    return united([swept(chain, half, groove.chord) for chain in groove.strokes])
