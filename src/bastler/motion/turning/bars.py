"""Roughing in passes: even bites, each pass as far as the tip may go, entered only as steeply as it clears.

In a view: passes run from right to left, one below the other. A pass may be in several parts where the outline stands between.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from typing import Literal

import msgspec
import shapely
from shapely.geometry import LineString

from bastler.motion.even import equal_parts
from bastler.motion.turning.view import Pencil
from bastler.shapes.kinds import Region

Point = tuple[float, float]
Leave = Literal["45", "follow"]
TINY = 1e-6
SHORT = 3e-4
"""Stretches shorter than this share of a bite hold nothing."""
SAME = 1e-6
"""Heights closer together than this share of a bite are the same."""
NARROW = 0.05
"""Flats closer together than this share of a bite are one."""


class Bars(msgspec.Struct, frozen=True, kw_only=True):
    """What is roughed: `stock` there is, `keep` where the point must not go, between `low` and `high`, down to `least` in u.

    `flats` are heights of flats between them. `ap` is the greatest bite, `clear` how far off the stock rapids end, `pull` how
    far a pass leaves the wall.
    """

    stock: Region
    keep: Region
    low: float
    high: float
    least: float
    ap: float
    clear: float
    pull: float
    leave: Leave
    flats: tuple[float, ...] = ()
    front: float | None = None
    """Where passes begin, when that is not just off the stock: in a bore the bar needs its room."""

    def levels(self) -> list[float]:
        """Heights of the passes from the top down. One goes over every flat, so that none is left for an entry to fall through;
        between two flats the bites are even."""
        stops = [self.high]
        for height in sorted({*self.flats, self.low}, reverse=True):
            # the lowest counts however near it is, but what rounding has put beside it is no pass of its own
            last = height <= self.low + SAME * self.ap and stops[-1] > self.low + SAME * self.ap
            if last or self.low - TINY <= height < stops[-1] - NARROW * self.ap:
                stops.append(max(height, self.low) if last else height)
        found = []
        for above, below in itertools.pairwise(stops):
            count = equal_parts(above - below, self.ap, 1e-9)
            found += [above - (above - below) * k / count for k in range(1, count + 1)]
        return found


def draw_bars(pencil: Pencil, bars: Bars, feed: float, entering: float) -> None:
    """Draws all passes; the tool is over the front before and after. It enters each at the feed `entering`: into a recess, and
    the first bite of its way through the stock."""
    front = bars.stock.bounds[2] + bars.clear if bars.front is None else bars.front
    over = bars.high + bars.clear
    above = bars.high
    for level in bars.levels():
        for right, left in _parts(bars, level, front):
            free = right >= front - TINY
            if free:
                pencil.go(u=front)
                pencil.go(v=level)
            else:
                _enter(pencil, bars, (right, level), above, over, entering)
            if entering < feed and (met := _meets(bars, (right, left), level, above)) is not None and met - left > bars.ap + TINY:
                pencil.cut(entering, u=met - bars.ap)
            pencil.cut(feed, u=left)
            _leave(pencil, bars, feed, above)
            if free:
                pencil.go(u=front)
            else:
                pencil.go(v=over)
        above = level
    pencil.go(v=max(over, pencil.at[1]))


def _parts(bars: Bars, level: float, front: float) -> Iterator[Point]:
    """The stretches of a pass, right to left, where there is stock to take: (right, left)."""
    line = LineString([(bars.least, level), (front, level)])
    free = line.difference(bars.keep)
    for piece in sorted(getattr(free, "geoms", [free]), key=lambda g: -g.bounds[2] if not g.is_empty else 0.0):
        if piece.is_empty or piece.length < SHORT * bars.ap:
            continue
        left, right = piece.bounds[0], piece.bounds[2]
        there = bars.stock.intersection(shapely.box(left, level + TINY, right, bars.high + 1.0))
        if there.is_empty or there.area < (SHORT * bars.ap) ** 2:
            continue
        yield min(right, max(there.bounds[2] + bars.clear, left)), left


def _meets(bars: Bars, part: Point, level: float, above: float) -> float | None:
    """Where a part of a pass comes to what it takes; None where the passes above have taken that."""
    right, left = part
    there = bars.stock.intersection(shapely.box(left, level + TINY, right, max(above, level + 2 * TINY)))
    return None if there.is_empty else float(there.bounds[2])


def _enter(pencil: Pencil, bars: Bars, at: Point, above: float, over: float, feed: float) -> None:
    """Into a recess: down in rapid where the pass before has cleared, then along the edge of what must stay."""
    way = climb(bars.keep, at, above)
    begin = way[-1]
    pencil.go(v=max(over, pencil.at[1]))
    pencil.go(u=begin[0])
    pencil.go(v=min(above + bars.clear, over))
    for u, v in reversed(way):
        pencil.cut(feed, u, v)


def climb(keep: Region, at: Point, high: float) -> list[Point]:
    """From a point on the edge of `keep` up along that edge, to the right, until `high` is reached or it goes no higher; from
    there straight up. The first point is `at`."""
    rings = [g.exterior for g in getattr(keep, "geoms", [keep]) if g.geom_type == "Polygon"]
    here = shapely.Point(at)
    ring = min(rings, key=lambda g: g.distance(here), default=None)
    if ring is None or ring.distance(here) > max(SHORT * (high - at[1]), TINY):
        return [at, (at[0], high)]
    coords = list(ring.coords)[:-1]
    if not ring.is_ccw:
        coords.reverse()
    # counter-clockwise about what stays: the material's left is inside, so the edge runs from right to left along its top
    along = ring.project(here)
    start = _after(ring, coords, along)
    way = [at]
    for k in range(len(coords)):
        u, v = coords[(start - k) % len(coords)]
        last = way[-1]
        if v <= last[1] + TINY:
            break
        if v >= high:
            share = (high - last[1]) / (v - last[1])
            way.append((last[0] + (u - last[0]) * share, high))
            return way
        way.append((u, v))
    return [*way, (way[-1][0], high)] if way[-1][1] < high else way


def _after(ring: Region, coords: Sequence[Point], along: float) -> int:
    """Index of the corner behind a place on a ring, against its counter-clockwise sense."""
    p = ring.interpolate(along)
    best, at = math.inf, 0
    for k, (u, v) in enumerate(coords):
        nu, nv = coords[(k + 1) % len(coords)]
        gap = LineString([(u, v), (nu, nv)]).distance(p)
        if gap < best - 1e-12:
            best, at = gap, k
    return at


def _leave(pencil: Pencil, bars: Bars, feed: float, above: float) -> None:
    """Off the wall: at 45°, or along it up to the pass before."""
    u, v = pencil.at
    if bars.leave == "follow" and above > v + TINY:
        for pu, pv in climb_left(bars.keep, (u, v), above)[1:]:
            pencil.cut(feed, pu, pv)
        u, v = pencil.at
    pencil.cut(feed, u + bars.pull, v + bars.pull)


def climb_left(keep: Region, at: Point, high: float) -> list[Point]:
    """The same as `climb` on the other side: up along the wall a pass has run into."""
    turned = shapely.transform(keep, lambda p: p * (-1.0, 1.0))
    return [(-u, v) for u, v in climb(turned, (-at[0], at[1]), high)]
