"""A turned part seen from its side, as a step on it sees it: x along the axis, y across, heights outward from the axis.

Below the axis a height field knows nothing more: what stands there reaches down to the far side.
"""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
import shapely

from bastler.shapes.about_axis import AboutAxis, profile_of
from bastler.shapes.kinds import Floats, Region
from bastler.shapes.shoulders import lines_of

MOST = 96.0
"""No more chords than this for one stretch of the profile, however near the axis it is looked at."""
FINE = 48
"""Places along a line at which its height is looked at."""
NEAR = 3e-5
"""How near the end of what stands at a height is known, as a share of the radius: a micron at Ø60."""


class Barrel(AboutAxis, frozen=True):
    """What stands of a turned part, seen from its side. Beside it there is nothing."""

    @staticmethod
    def of(section: Region) -> Barrel:
        """That of a half section (z, r) that is not empty."""
        return Barrel(profile_of(section))

    @property
    def region(self) -> Region:
        """All of the part, seen from the side."""
        return self._body([(x, r) for x, r in self.profile])

    def heights(self, points: Floats) -> Floats:
        """Height at points (n, 2); infinite beside the part."""
        x, r = np.array(self.profile).T
        wide = np.interp(points[:, 0], x, r)
        inside = (points[:, 0] >= x[0]) & (points[:, 0] <= x[-1]) & (np.abs(points[:, 1]) <= wide)
        return np.where(inside, np.sqrt(np.maximum(wide * wide - points[:, 1] ** 2, 0.0)), np.inf)

    def highest(self, region: Region) -> float:
        """The highest place within a region; its floor where the region lies beside the part."""
        most = 0.0
        for (x0, r0), (x1, r1) in itertools.pairwise(self.profile):
            if x1 <= x0:
                continue
            own = region.intersection(shapely.box(x0, -max(r0, r1), x1, max(r0, r1)))
            points = shapely.get_coordinates(own)
            if not len(points):
                continue
            low, high = points[:, 0].min(), points[:, 0].max()
            middle = own.intersection(shapely.LineString([(low - 1.0, 0.0), (high + 1.0, 0.0)]))
            points = np.concatenate([points, shapely.get_coordinates(middle), _crests(own, (x0, r0), (x1, r1))])
            wide = r0 + (r1 - r0) * (points[:, 0] - x0) / (x1 - x0)
            most = max(most, float((wide * wide - points[:, 1] ** 2).max()))
        return math.sqrt(most)

    def open_at(self, z: float) -> Any:
        """Where nothing stands at a height, within the box around it."""
        r, x0, x1 = self.radius, self.profile[0][0], self.profile[-1][0]
        body = self._body(list(self._at_height(max(z, 0.0))))
        return shapely.box(x0, -r, x1, r).difference(body)

    def crossings(self, start: tuple[float, float], end: tuple[float, float]) -> list[float]:
        """How far along a line its height may bend: at edges, where the part ends, and so often that chords are fine."""
        length = math.dist(start, end)
        u = ((end[0] - start[0]) / length, (end[1] - start[1]) / length)
        found = [length * k / FINE for k in range(FINE + 1)] if abs(start[1]) + abs(end[1]) > 0.0 else []
        if abs(u[0]) > 1e-12:
            found += [(x - start[0]) / u[0] for x, _ in self.profile]
        if abs(u[1]) > 1e-12:
            rounds = [math.sin(math.pi * k / FINE) for k in range(-FINE // 2, FINE // 2 + 1)]
            found += [(r * s - start[1]) / u[1] for r in {r for _, r in self.profile} for s in rounds]
        hit = self.region.boundary.intersection(shapely.LineString([start, end]))
        found += [(x - start[0]) * u[0] + (y - start[1]) * u[1] for x, y in shapely.get_coordinates(hit)]
        return found

    def _at_height(self, z: float) -> Any:
        """Half the width of what stands at a height: (x, half width)."""
        for (x0, r0), (x1, r1) in itertools.pairwise(self.profile):
            w0, w1 = (math.sqrt(max(r * r - z * z, 0.0)) for r in (r0, r1))
            yield x0, w0
            if r0 != r1 and z > 0.0:  # r is a hyperbola over the width: evenly in that, chords leave it by no more than a share
                many = math.ceil(min(abs(w1 - w0) / math.sqrt(8 * z * NEAR * self.radius), MOST))
                grown = r1 - r0
                begin = x0 + (x1 - x0) * min(max((z - r0) / grown, 0.0), 1.0) if r0 < z else x0
                if begin > x0:
                    yield begin, 0.0
                for k in range(1, many):
                    w = w0 + (w1 - w0) * k / many
                    yield x0 + (x1 - x0) * (math.hypot(z, w) - r0) / grown, w
                if r1 < z <= r0:
                    yield x0 + (x1 - x0) * (z - r0) / grown, 0.0
            yield x1, w1

    @staticmethod
    def _body(half: list[tuple[float, float]]) -> Region:
        outline = half + [(x, -r) for x, r in reversed(half)]
        return shapely.make_valid(shapely.Polygon(outline)).buffer(0.0)


def _crests(region: Region, a: tuple[float, float], b: tuple[float, float]) -> Floats:
    """Where along the lines of a boundary a cone from (x, radius) to (x, radius) is highest, (m, 2)."""
    if a[1] == b[1]:
        return np.zeros((0, 2))
    p, ends = lines_of(region)
    way = ends - p
    rate = (b[1] - a[1]) / (b[0] - a[0])
    r, grows = a[1] + rate * (p[:, 0] - a[0]), rate * way[:, 0]
    bends = grows * grows - way[:, 1] ** 2
    share = np.divide(p[:, 1] * way[:, 1] - r * grows, bends, out=np.zeros(len(p)), where=bends < 0.0)
    found: Floats = p + way * np.clip(share, 0.0, 1.0)[:, None]
    return found
