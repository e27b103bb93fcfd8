"""What turning has taken, seen along the axis from the front, as something that is taken away."""

from __future__ import annotations

import itertools
import math
from typing import Any

import msgspec
import numpy as np
import shapely
from shapely.geometry import Point

from bastler.shapes.kinds import Floats, Region

QUARTER = 180
"""Chords for a quarter turn of its regions."""


class Shoulders(msgspec.Struct, frozen=True):
    """What stands of a turned part about the origin: `profile` holds (radius, height) from the axis to the outside, straight from
    each to the next, a step as two at one radius. Beyond the last there is nothing."""

    profile: tuple[tuple[float, float], ...]

    @staticmethod
    def of(section: Region, back: float) -> Shoulders:
        """Those of a half section (z, r) that is not empty, no lower than `back`: of every radius the foremost place. An undercut
        is not seen from the front."""
        a, b = lines_of(section)
        marks = np.unique(np.concatenate([[0.0], np.maximum(a[:, 1], 0.0)]))
        profile = envelope(a[:, ::-1], b[:, ::-1], marks, back)
        return Shoulders(tuple((r, max(z, back)) for r, z in profile))

    @property
    def radius(self) -> float:
        """Where the part ends."""
        return self.profile[-1][0]

    @property
    def floor(self) -> float:
        """Of the deepest place."""
        return min(z for _, z in self.profile)

    @property
    def region(self) -> Region:
        """All of the part, seen from the front."""
        return _ring(0.0, self.radius)

    def heights(self, points: Floats) -> Floats:
        """Height at points (n, 2); infinite beyond the part."""
        r = np.hypot(points[:, 0], points[:, 1])
        radii, heights = np.array(self.profile).T
        return np.where(r <= self.radius, np.interp(r, radii, heights), np.inf)

    def at(self, x: float, y: float) -> float:
        """Height of what is left at a point; infinite beyond the part."""
        return float(self.heights(np.array([(x, y)]))[0])

    def highest(self, region: Region) -> float:
        """The highest place within a region; its floor where the region lies beyond the part."""
        if region.is_empty:
            return self.floor
        near = float(region.distance(Point(0.0, 0.0)))
        far = float(np.hypot(*shapely.get_coordinates(region).T).max())
        return max((z for r, z in self._between(near, far)), default=self.floor)

    def _between(self, near: float, far: float) -> list[tuple[float, float]]:
        """The profile between two radii, with its ends there."""
        found = [(r, z) for r, z in self.profile if near <= r <= far]
        for (r0, z0), (r1, z1) in itertools.pairwise(self.profile):
            found += [(r, z0 + (z1 - z0) * (r - r0) / (r1 - r0)) for r in (near, far) if r0 < r < r1]
        return found

    def open_at(self, z: float) -> Any:
        """Where nothing stands at a height, within the part."""
        rings: list[tuple[float, float]] = []
        for (r0, z0), (r1, z1) in itertools.pairwise(self.profile):
            if r1 == r0 or min(z0, z1) > z:
                continue
            cross = r0 + (r1 - r0) * (z - z0) / (z1 - z0) if z0 != z1 else r1
            a, b = (r0 if z0 <= z else cross), (r1 if z1 <= z else cross)
            if rings and rings[-1][1] == a:
                rings[-1] = (rings[-1][0], b)
            elif b > a:
                rings.append((a, b))
        return shapely.MultiPolygon([_ring(a, b) for a, b in rings])

    def steps(self) -> list[tuple[Region, float]]:
        """Its rings as they are drawn, each with the height of its lowest place: (region, height)."""
        found: list[tuple[float, float, float, bool]] = []
        for (r0, z0), (r1, z1) in itertools.pairwise(self.profile):
            sloped = z0 != z1
            if r1 > r0 and sloped and found and found[-1][3] and found[-1][1] == r0:  # a rounding is one ring
                found[-1] = (found[-1][0], r1, min(found[-1][2], z0, z1), True)
            elif r1 > r0:
                found.append((r0, r1, min(z0, z1), sloped))
        return [(_ring(r0, r1), z) for r0, r1, z, _ in found]


def lines_of(region: Region) -> tuple[Floats, Floats]:
    """Where the lines of a region's boundary begin and end, (m, 2) each."""
    rings = shapely.get_rings(shapely.get_parts(region))
    points, owner = shapely.get_coordinates(rings, return_index=True)
    same = owner[1:] == owner[:-1]
    return points[:-1][same], points[1:][same]


def envelope(a: Floats, b: Floats, marks: Floats, nothing: float) -> tuple[tuple[float, float], ...]:
    """The highest of many lines from (place, height) to (place, height), (m, 2) each, between `marks`, rising, among which are
    all their ends: (place, height) pairs, `nothing` where there is no line."""
    low, high = np.minimum(a[:, 0], b[:, 0]), np.maximum(a[:, 0], b[:, 0])
    found: list[tuple[float, float]] = []
    for s0, s1 in itertools.pairwise(marks.tolist()):
        if s1 - s0 < 1e-12:
            continue
        over = np.flatnonzero((low < s1) & (high > s0) & (high > low))
        h0 = h1 = nothing
        if len(over):
            heights = _heights(a[over], b[over], s0, s1)
            h0, h1 = heights[np.argmax(heights.sum(axis=1))].tolist()
        found += [(s0, h0), (s1, h1)]
    return _plain(found)


def _heights(a: Floats, b: Floats, s0: float, s1: float) -> Floats:
    """Heights (n, 2) of lines from a to b at two places."""
    way = b[:, 0] - a[:, 0]
    return np.column_stack([a[:, 1] + (b[:, 1] - a[:, 1]) * (s - a[:, 0]) / way for s in (s0, s1)])


def _plain(points: list[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """Without places that lie straight between their neighbours."""
    found: list[tuple[float, float]] = []
    for point in points:
        if found and point == found[-1]:
            continue
        if len(found) > 1:
            (r0, z0), (r1, z1) = found[-2:]
            if abs((z1 - z0) * (point[0] - r1) - (point[1] - z1) * (r1 - r0)) <= 1e-12 * max(abs(point[0]), 1.0):
                found.pop()
        found.append(point)
    return tuple(found)


def _ring(inner: float, outer: float) -> Region:
    if inner <= 0.0:
        return Point(0.0, 0.0).buffer(outer, quad_segs=QUARTER)
    whole = [
        [(r * math.cos(a), r * math.sin(a)) for a in np.arange(4 * QUARTER) * (math.pi / 2 / QUARTER)] for r in (inner, outer)
    ]
    return shapely.Polygon(whole[1], [whole[0]])
