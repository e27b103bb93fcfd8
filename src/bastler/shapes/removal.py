"""What a step takes away, exactly and without its path.

A removal is everything above a floor inside a region. The wanted shape of a part is its stock less all removals; the sheet's
orange, the proof's truth and the surface that later steps start on are all read from here.
"""

from __future__ import annotations

import functools
import itertools
import math
from collections.abc import Sequence

import msgspec
import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon

from bastler.shapes.barrel import Barrel
from bastler.shapes.bevel import Bevel
from bastler.shapes.furrow import Furrow
from bastler.shapes.kinds import Floats
from bastler.shapes.shoulders import Shoulders
from bastler.shapes.united import united
from bastler.shapes.unrolled import Unrolled

HAIR = 1e-4
"""Regions that come so near to each other are drawn as one; job's units."""


class Flat(msgspec.Struct, frozen=True):
    """Everything above `floor` inside `region` (a shapely polygon, arcs as fine chords)."""

    region: Polygon
    floor: float

    def at(self, x: float, y: float) -> float:
        """Height of what is left at a point; infinite outside."""
        return self.floor if self.region.covers(Point(x, y)) else math.inf


class Revolved(msgspec.Struct, frozen=True):
    """A hole about the vertical through (x, y): `profile` holds (radius, height) from the centre outward, rising."""

    x: float
    y: float
    profile: tuple[tuple[float, float], ...]

    @property
    def radius(self) -> float:
        return self.profile[-1][0]

    @property
    def floor(self) -> float:
        return self.profile[0][1]

    @property
    def region(self) -> Polygon:
        return disc(self.x, self.y, self.radius)

    def at(self, x: float, y: float) -> float:
        """Height of what is left at a point; infinite outside."""
        return self.at_radius(math.hypot(x - self.x, y - self.y))

    def open_to(self, floor: float) -> float:
        """The radius that is open down to a height, 0 where nothing is."""
        return max((r for r, z in self.profile if z <= floor + 1e-9), default=0.0)

    def radius_at(self, z: float) -> float:
        """How wide it is open at a height; 0 where it is not."""
        best = 0.0
        for (r0, z0), (r1, z1) in itertools.pairwise(self.profile):
            if z >= z1:
                best = r1
            elif z > z0:
                best = r0 + (r1 - r0) * (z - z0) / (z1 - z0)
        return best

    def at_radius(self, r: float) -> float:
        """Height at a distance from the axis: linear between the profile's points, infinite beyond the last."""
        if r > self.radius:
            return math.inf
        for (r0, z0), (r1, z1) in zip(self.profile, self.profile[1:], strict=False):
            if r <= r1:
                return z1 if r1 == r0 else z0 + (z1 - z0) * (r - r0) / (r1 - r0)
        return self.profile[-1][1]


Removal = Flat | Revolved | Bevel | Furrow
TurnedPart = Shoulders | Barrel | Unrolled
"""What turning has left of a part, seen from its end, from its side, or unrolled."""
Seen = Removal | TurnedPart
"""All that is gone when a part is looked at: by steps, and by turning."""


def disc(x: float, y: float, radius: float) -> Polygon:
    """A round region, 64 chords a quarter."""
    return Point(x, y).buffer(radius, quad_segs=64)


def floors_joined(removals: Sequence[Removal]) -> list[Removal]:
    """The same with all that is open to one floor as one region: a drawing has no lines between what two steps took away
    there."""
    flats = sorted((r for r in removals if isinstance(r, Flat)), key=lambda r: round(r.floor, 9))
    rest: list[Removal] = [r for r in removals if not isinstance(r, Flat)]
    for _, own in itertools.groupby(flats, key=lambda r: round(r.floor, 9)):
        level = tuple(own)
        rest.append(Flat(_one_region(tuple(r.region for r in level)), level[0].floor))
    return rest


@functools.lru_cache(maxsize=64)
def _one_region(regions: tuple[Polygon, ...]) -> Polygon:
    return regions[0] if len(regions) == 1 else united(regions).buffer(HAIR).buffer(-HAIR)


def height_at(removals: Sequence[Removal], top: float, x: float, y: float) -> float:
    """Height of what is left at a point when all `removals` are gone from stock as high as `top`."""
    return min([top, *(r.at(x, y) for r in removals)])


def depth_profile(
    removals: Sequence[Seen], top: float, start: tuple[float, float], end: tuple[float, float]
) -> list[tuple[float, float]]:
    """The section of what is left along a line: (distance from start, height) pairs, steps as two at one distance."""
    length = math.dist(start, end)
    if length == 0:
        return []
    line = LineString([start, end])
    met = [r for r in removals if _near(r, line)]
    ux, uy = (end[0] - start[0]) / length, (end[1] - start[1]) / length
    cuts = {0.0, length}
    for removal in met:
        cuts.update(_crossings(removal, start, end, (ux, uy), length))
    edges = np.array(sorted(cuts))
    a, b = edges[:-1], edges[1:]
    wide = b - a >= 1e-9
    a, b = a[wide], b[wide]
    inside = np.column_stack([a + (b - a) * 1e-6, b - (b - a) * 1e-6]).ravel()
    points = np.column_stack([start[0] + ux * inside, start[1] + uy * inside])
    heights = np.full(len(points), top)
    for removal in met:
        heights = np.minimum(heights, heights_at(removal, points))
    return list(zip(np.column_stack([a, b]).ravel().tolist(), heights.tolist(), strict=True))


def heights_at(removal: Seen, points: Floats) -> Floats:
    """Heights (n,) of what a removal leaves at points (n, 2); infinite outside it."""
    if isinstance(removal, Shoulders | Barrel | Unrolled):
        return removal.heights(points)
    if isinstance(removal, Revolved):
        r = np.hypot(points[:, 0] - removal.x, points[:, 1] - removal.y)
        radii, heights = np.array(removal.profile).T
        return np.where(r <= removal.radius, np.interp(r, radii, heights), np.inf)
    if isinstance(removal, Furrow):
        z = removal.heights(points)
        return np.where(z <= removal.top, z, np.inf)
    inside = shapely.intersects_xy(removal.region, points[:, 0], points[:, 1])
    return np.where(inside, removal.floor if isinstance(removal, Flat) else removal.heights(points), np.inf)


def _near(removal: Seen, line: LineString) -> bool:
    """Can a line meet a removal?"""
    if isinstance(removal, Revolved):
        return bool(line.distance(Point(removal.x, removal.y)) <= removal.radius)
    return bool(shapely.box(*removal.region.bounds).intersects(line)) if not removal.region.is_empty else False


def _crossings(
    removal: Seen, start: tuple[float, float], end: tuple[float, float], u: tuple[float, float], length: float
) -> list[float]:
    if isinstance(removal, Flat | Bevel | Furrow):
        hit = removal.region.boundary.intersection(LineString([start, end]))
        points = [c for part in getattr(hit, "geoms", [hit]) for c in part.coords]
        return [(px - start[0]) * u[0] + (py - start[1]) * u[1] for px, py in points]
    if isinstance(removal, Barrel | Unrolled):
        return [s for s in removal.crossings(start, end) if 0 < s < length]
    x, y = (removal.x, removal.y) if isinstance(removal, Revolved) else (0.0, 0.0)
    middle = (x - start[0]) * u[0] + (y - start[1]) * u[1]
    off = abs(-(x - start[0]) * u[1] + (y - start[1]) * u[0])
    found = []
    radii = {r for r, _ in removal.profile} | {removal.radius * k / 12 for k in range(13)}
    for r in radii:
        if r >= off:
            half = math.sqrt(r * r - off * off)
            found += [middle - half, middle + half]
    return [s for s in found if 0 < s < length]
