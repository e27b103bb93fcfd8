"""What the end of a blade, its sides and its neck let it come to in a groove of any shape."""

from __future__ import annotations

import functools
from collections.abc import Sequence

import msgspec
import numpy as np
import shapely

from bastler.motion.turning.profile import forbidden, hulls
from bastler.shapes import Segment
from bastler.shapes.chain import points_on
from bastler.shapes.kinds import Region
from bastler.shapes.rounded import Point
from bastler.shapes.united import united

FILLET = 32
"""Chords of a quarter of the fillet that a corner leaves."""


class Blade(msgspec.Struct, frozen=True):
    """A blade in a groove's view about the point that is programmed: the convex shape that cuts, those that must not touch, and
    the radius of its corners."""

    cutting: tuple[Point, ...]
    body: tuple[tuple[Point, ...], ...]
    corner: float

    @property
    def span(self) -> tuple[float, float]:
        """How far it reaches to the left and to the right of its point."""
        us = [u for u, _ in self.cutting]
        return min(us), max(us)


@functools.lru_cache(maxsize=256)
def stays(walls: tuple[Segment, ...], blade: Blade, high: float, chord: float) -> float:
    """How thick what a blade cannot come to in a groove is at its thickest, the fillets of its corners left out. `walls` is the
    groove from right to left, open at `high`, over which nothing is in the way; the blade comes from there."""
    points = points_on(walls, chord)
    wide = blade.span[1] - blade.span[0]
    (right, left), deep = (points[0], points[-1]), min(v for _, v in points) - wide
    u0, u1 = min(u for u, _ in points) - 2 * wide, max(u for u, _ in points) + 2 * wide
    beside = [left, (u0, left[1]), (u0, deep), (u1, deep), (u1, right[1]), right]
    material = shapely.make_valid(shapely.Polygon([*points, *beside]))
    over = high + wide
    wanted = shapely.make_valid(shapely.Polygon([*points, (left[0], over), (right[0], over)]))
    keep = forbidden(material, [blade.cutting, *blade.body])
    free = shapely.box(u0, deep, u1, over + wide).difference(keep)
    there = [p for p in shapely.get_parts(free) if p.bounds[3] > over]
    if not there:
        return high - deep
    gone, c = _swept(max(there, key=lambda p: p.area), blade.cutting), blade.corner
    room = wanted.union(shapely.box(u0, high, u1, over + 2 * c))  # a corner may come over a lip
    rounded = room.buffer(-c, quad_segs=FILLET).buffer(c, quad_segs=FILLET) if c else wanted
    missed = shapely.get_parts(rounded.intersection(shapely.box(u0, deep, u1, high)).difference(gone))
    return max((float(shapely.maximum_inscribed_circle(p).length) * 2 for p in missed if p.area > chord * chord), default=0.0)


@functools.lru_cache(maxsize=256)
def rides(way: tuple[Segment, ...], walls: tuple[Segment, ...], corner: float, chord: float) -> float:
    """How far the way of a corner's centre comes nearer to a groove's walls than its radius: 0 where it rides on them."""
    if not way or not corner:
        return 0.0
    line, points = shapely.LineString(points_on(walls, chord)), shapely.points(points_on(way, chord))
    return max(corner - float(shapely.distance(line, points).min()), 0.0)


@functools.lru_cache(maxsize=256)
def passed(way: tuple[Segment, ...], walls: tuple[Segment, ...], corner: float, high: float, chord: float) -> float:
    """How thick what a way of a corner's centre passes by is at its thickest, below `high`: what the corner could come to, and
    its way does not lead to. All where the way does not come from over that."""
    lips, points = points_on(walls, chord), points_on(way, chord)
    low = min(v for _, v in lips)
    if not points or min(points[0][1], points[-1][1]) < high - chord:
        return high - low
    over = max(high, *(v for _, v in points)) + 2 * corner + chord
    room = shapely.make_valid(shapely.Polygon([*lips, (lips[-1][0], over), (lips[0][0], over)]))
    u0, u1 = min(u for u, _ in lips) - 2 * corner, max(u for u, _ in lips) + 2 * corner
    room = room.union(shapely.box(u0, high, u1, over))
    wanted = room.buffer(-corner, quad_segs=FILLET).buffer(corner, quad_segs=FILLET) if corner else room
    above = shapely.make_valid(shapely.Polygon([*points, (points[-1][0], over), (points[0][0], over)]))
    gone = above.buffer(corner, quad_segs=FILLET) if corner else above
    left = shapely.get_parts(wanted.intersection(shapely.box(u0, low - chord, u1, high)).difference(gone))
    return max((float(shapely.maximum_inscribed_circle(p).length) * 2 for p in left if p.area > chord * chord), default=0.0)


def _swept(places: Region, shape: Sequence[Point]) -> Region:
    """What a convex shape covers with its point all over a region: that moved by a point of the shape, and the shape all along
    its edge."""
    outline = np.asarray(shape)
    middle = outline.mean(axis=0)
    rings = [np.asarray(r.coords) for p in shapely.get_parts(places) for r in (p.exterior, *p.interiors)]
    inner = shapely.transform(places, lambda points: points + middle)
    return united([inner, *(hull for ring in rings for hull in hulls(outline, ring))])
