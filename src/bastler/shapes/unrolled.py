"""What is round unrolled, as a step that goes round a part sees it: x along the axis, y along the round, heights outward from the
axis."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
import shapely

from bastler.shapes.about_axis import AboutAxis, profile_of
from bastler.shapes.kinds import Floats, Region


class Unrolled(AboutAxis, frozen=True):
    """What stands of a turned part unrolled at a radius `around`, the same all round. A turn is from -π to π times the radius,
    and goes on behind that."""

    around: float

    @staticmethod
    def of(section: Region, around: float) -> Unrolled:
        """That of a half section (z, r) that is not empty."""
        return Unrolled(profile_of(section), around)

    @property
    def half(self) -> float:
        """Half a turn."""
        return math.pi * self.around

    @property
    def region(self) -> Region:
        """One turn of the part."""
        return shapely.box(self.profile[0][0], -self.half, self.profile[-1][0], self.half)

    def heights(self, points: Floats) -> Floats:
        """Height at points (n, 2); infinite beyond its ends."""
        x, r = np.array(self.profile).T
        inside = (points[:, 0] >= x[0]) & (points[:, 0] <= x[-1])
        return np.where(inside, np.interp(points[:, 0], x, r), np.inf)

    def highest(self, region: Region) -> float:
        """The highest place within a region; its floor where the region lies beyond the part."""
        if region.is_empty:
            return self.floor
        low, high = float(region.bounds[0]), float(region.bounds[2])
        found = [r for x, r in self.profile if low <= x <= high]
        for (x0, r0), (x1, r1) in itertools.pairwise(self.profile):
            found += [r0 + (r1 - r0) * (x - x0) / (x1 - x0) for x in (low, high) if x0 < x < x1]
        return max(found, default=self.floor)

    def open_at(self, z: float) -> Any:
        """Where nothing stands at a height, within a turn."""
        found = []
        for (x0, r0), (x1, r1) in itertools.pairwise(self.profile):
            if x1 <= x0 or min(r0, r1) > z:
                continue
            cross = x0 + (x1 - x0) * (z - r0) / (r1 - r0) if r0 != r1 else x1
            a, b = (x0 if r0 <= z else cross), (x1 if r1 <= z else cross)
            found.append(shapely.box(a, -self.half, b, self.half))
        return shapely.union_all(found)

    def edges(self) -> list[tuple[float, float]]:
        """Where a line goes across it: (x, half its length)."""
        return [(x, self.half) for x, _ in super().edges()]

    def crossings(self, start: tuple[float, float], end: tuple[float, float]) -> list[float]:
        """How far along a line its height may bend."""
        length = math.dist(start, end)
        along = (end[0] - start[0]) / length
        return [(x - start[0]) / along for x, _ in self.profile] if abs(along) > 1e-12 else []
