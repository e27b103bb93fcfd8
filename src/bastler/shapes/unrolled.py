"""What is round unrolled, as a step that goes round a part sees it: x along the axis, y along the round, heights outward from the
axis."""

from __future__ import annotations

import itertools
import math
from typing import Any

import msgspec
import numpy as np
import shapely

from bastler.shapes.barrel import Barrel
from bastler.shapes.kinds import Floats, Region


class Unrolled(msgspec.Struct, frozen=True):
    """What stands of a turned part unrolled at a radius `around`: `profile` holds (x, radius) as that of a `Barrel`, the same all
    round. Beyond its ends there is nothing; a turn is from -π to π times the radius, and goes on behind that."""

    profile: tuple[tuple[float, float], ...]
    around: float

    @staticmethod
    def of(section: Region, around: float) -> Unrolled:
        """That of a half section (z, r) that is not empty."""
        return Unrolled(Barrel.of(section).profile, around)

    @property
    def radius(self) -> float:
        """Where it is widest."""
        return max(r for _, r in self.profile)

    @property
    def floor(self) -> float:
        """Of the deepest place: the axis."""
        return 0.0

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

    def at(self, x: float, y: float) -> float:
        """Height of what is left at a point; infinite beyond its ends."""
        return float(self.heights(np.array([(x, y)]))[0])

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

    def steps(self) -> list[tuple[Region, float]]:
        """Nothing is drawn of it but its edges."""
        return []

    def edges(self) -> list[tuple[float, float]]:
        """Where a line goes across it: (x, half its length)."""
        return [(x, self.half) for x, _ in Barrel(self.profile).edges()]

    def crossings(self, start: tuple[float, float], end: tuple[float, float]) -> list[float]:
        """How far along a line its height may bend."""
        length = math.dist(start, end)
        along = (end[0] - start[0]) / length
        return [(x - start[0]) / along for x, _ in self.profile] if abs(along) > 1e-12 else []
