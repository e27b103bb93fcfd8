"""Clearing an area so that the cutter is never in the material round more than a given angle.

The rings are those of plain clearing, their stepover small enough for the angle along a straight wall. Wherever the cutter would
be in deeper - in a corner, in a slot, on the way from one ring to the next - it goes on in *loops*: full circles that touch
the ring from the side that is open, each a little further on, so that every one takes a thin crescent.

How far a loop may go on: the cutter (radius r) at the front of a loop (radius ρ) is d = ρ + δ from the middle of the loop before,
which opened a disc of ρ + r. It is in the material round the angle φ with (ρ + r)² = d² + r² + 2 d r cos φ, the law of
cosines; the half behind the front was taken just before.

In a corner loops have to become smaller on the way in and larger on the way out, and the law does not hold between loops that
differ: there each way on is tried against the material that is left. What no way of going changes: standing in a corner where a
ring turns by φ, the cutter is in the material round φ.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely

from bastler.motion.areas import Manner, enter, follow, helix_place, reach, way_round
from bastler.motion.moves import Path
from bastler.motion.rings import Rings, at_share, begun_at, in_order, nearest_on, part_of
from bastler.shapes import Segment
from bastler.shapes.chain import length_of, points_on, tangent
from bastler.shapes.kernels import distances, winding
from bastler.shapes.kinds import Bools, Floats, Region
from bastler.shapes.prepared import prepare_for_now, prepared
from bastler.shapes.region import Loop, polygon_of, primitives

Point = tuple[float, float]
MARGIN = 0.9
"""The angle that is planned for, as a share of the limit: corners come a little over."""
SAFE = 0.85
"""Share of the longest way on that loops take: neighbours are not quite alike in curves."""
LOOP = 0.6
"""Radius of a loop, as a share of the cutter's."""
SMALLEST = 0.04
GROWTH = 1.2
"""A loop is larger than the one before by no more than this: out of a corner there is less and less wall in its way."""
RIM = 0.985
"""Where on the cutter it is looked for material, as a share of its radius: walls just touched do not count."""
STEPS = 12.0
"""Places looked at for each radius of way."""
SPOKES = np.radians(np.arange(-88.0, 90.0, 4.0))
FRONT = np.radians(np.arange(-20.0, 170.0, 15.0))
"""Where on a loop, from where it touches the ring on, it is looked how deep the cutter is in: at its back all is open."""
NEWEST = 24
SHORTER = (1.0, 0.7, 0.5, 0.35, 0.2)
"""Shares of the way on that are tried where a corner closes in."""


def way_on(radius: float, loop: float, limit: float) -> float:
    """δ: how far a loop may lie behind the next, for the cutter's radius, the loop's, and the angle (radians)."""
    open_ = loop + radius
    d = -radius * math.cos(limit) + math.sqrt(open_ * open_ - (radius * math.sin(limit)) ** 2)
    return SAFE * (d - loop)


def widest_step(radius: float, limit: float) -> float:
    """The stepover with which a straight wall is cut round that angle."""
    return radius * (1.0 - math.cos(min(limit, math.pi / 2 * 0.99)))


@dataclass
class Even:
    """What is known while a level is cleared: where material still is, the rings in hand, which no loop may reach over, and the
    discs (x, y, radius) that were opened along the newest of them."""

    radius: float
    limit: float
    material: Region
    room: Region
    opened: list[tuple[float, float, float]] = field(default_factory=list)

    def without(self, region: Region) -> None:
        """The cutter has been there."""
        self.material = self.material.difference(region)
        prepare_for_now(self.material)
        self.opened.clear()

    def engaged(self, places: Floats, along: Floats) -> Floats:
        """Round how much of it, in radians, the cutter is in at places (n, 2), going along (n,) radians."""
        angles = along[:, None] + SPOKES[None, :]
        us = places[:, 0, None] + RIM * self.radius * np.cos(angles)
        vs = places[:, 1, None] + RIM * self.radius * np.sin(angles)
        inside = shapely.contains_xy(self.material, us.ravel(), vs.ravel()).reshape(us.shape)
        for x, y, r in self.opened[-NEWEST:]:
            inside &= np.hypot(us - x, vs - y) > r
        found: Floats = inside.sum(axis=1) * math.radians(4.0)
        return found

    def too_deep(self, places: Floats, along: Floats) -> Bools:
        """At which places it is in round more than the limit."""
        return self.engaged(places, along) > self.limit

    def bears(self, here: Point, heading: Point, loop: float, inward: Point) -> bool:
        """May the cutter come to a place of a ring and go round a loop there?"""
        middle = np.array([here[0] + inward[0] * loop, here[1] + inward[1] * loop])
        out = math.atan2(-inward[1], -inward[0])
        side = 1.0 if heading[0] * inward[1] - heading[1] * inward[0] > 0 else -1.0
        rim = out + side * FRONT
        places = np.vstack([here, middle + loop * np.column_stack([np.cos(rim), np.sin(rim)])])
        along = np.append(math.atan2(heading[1], heading[0]), rim + side * math.pi / 2)
        return float(self.engaged(places, along).max()) <= self.limit

    def fits(self, middles: Sequence[Point], loop: float) -> bool:
        """Do loops about these middles stay inside the rings?"""
        at = np.array(middles)
        return bool((distances(at, self.room) >= loop * (1 - 1e-6)).all() and (winding(at, self.room) >= 1).all())

    def loop_at(self, p: Point, inward: Point) -> float:
        """Radius of the largest loop that touches a ring there and stays inside of it; 0 where there is none."""
        most = LOOP * self.radius
        for share in (1.0, 0.75, 0.5, 0.35, 0.25, 0.15, 0.08):
            r = share * most
            centre = np.array([(p[0] + inward[0] * r, p[1] + inward[1] * r)])
            if r >= SMALLEST * self.radius and distances(centre, self.room)[0] >= r * (1 - 1e-6):
                return r
        return 0.0


def clear_evenly(path: Path, rings: Rings, area: Sequence[Loop], *, top: float, level: float, how: Manner, limit: float) -> None:
    """One level, as `clear_area` does, the cutter in the material round no more than `limit` (radians) wherever there is room
    for loops."""
    fine = 0.002 * how.diameter
    even = Even(how.diameter / 2, MARGIN * limit, prepared(polygon_of(area, fine)), primitives([]))
    for patch, ring, done in in_order(rings.patches):
        even.room = primitives([s for own in patch.rings for s in own])
        way = way_round(ring, climb=how.climb)
        if not done:
            enter(path, rings, patch, top, level, how)
            middle, loop = helix_place(rings, patch, how)
            if math.dist((path.x, path.y), middle) < 1e-9:
                even.without(shapely.Point(middle).buffer(loop + even.radius, quad_segs=64))
                _out_to(path, even, way, loop, how, centred=True)
        else:
            reach(path, rings, ring, done, level, how)
            _out_to(path, even, way, LOOP * even.radius, how)
        way = begun_at(way, nearest_on(way, (path.x, path.y)))
        path.cut(how.feeds.cut, *way[0].start)
        _along(path, even, way, how)
        even.without(shapely.LineString(points_on(way, fine)).buffer(even.radius, quad_segs=32))


def _out_to(path: Path, even: Even, way: Loop, loop: float, how: Manner, *, centred: bool = False) -> None:
    """From where the cutter is to the nearest place of a ring, loop by loop: straight on it would be in much too deep. `centred`:
    it stands in the middle of a hole that is a loop already, else at the edge of what is open."""
    here = (path.x, path.y)
    _, p = nearest_on(way, here)
    far = math.dist(here, p)
    if far < 1e-9:
        return
    u = ((p[0] - here[0]) / far, (p[1] - here[1]) / far)
    back = (-u[0], -u[1])
    loop = min(loop, even.loop_at(p, back))
    if loop <= 0:
        return
    # the way on is made at the back of the loops, where all is open: at their front the cutter would push straight in
    begin = loop if centred else 2 * loop
    far += begin - 2 * loop
    count = max(1, math.ceil(far / way_on(even.radius, loop, even.limit)))
    rears = [(here[0] + u[0] * by, here[1] + u[1] * by) for by in (far * k / count - begin for k in range(count + 1))]
    if not even.fits([(x + u[0] * loop, y + u[1] * loop) for x, y in rears], loop):
        return
    for rear in rears:
        path.cut(how.feeds.cut, *rear)
        _circle(path, rear, u, loop, how)
    path.bow(how.feeds.cut, p, (p[0] - u[0] * loop, p[1] - u[1] * loop), ccw=how.climb)


def _circle(path: Path, p: Point, inward: Point, loop: float, how: Manner) -> None:
    path.bow(how.feeds.cut, p, (p[0] + inward[0] * loop, p[1] + inward[1] * loop), ccw=how.climb)


def _along(path: Path, even: Even, way: Loop, how: Manner) -> None:
    """Along a ring, in loops where the cutter would be in too deep."""
    last = LOOP * even.radius
    for s, deep in _stretches(even, way):
        if not deep:
            follow(path, [s], how.feeds.cut)
            last = LOOP * even.radius
            continue
        long, at = length_of(s), 0.0
        while at < long - 1e-9:
            loop = min(_loop_on(even, s, at / long, how), last * GROWTH)
            last = max(loop, SMALLEST * even.radius)
            here, _, inward = _side(s, at / long, how)
            if loop > 0:
                _circle(path, here, inward, loop, how)
                even.opened.append((here[0] + inward[0] * loop, here[1] + inward[1] * loop, loop + even.radius))
            after = _next(even, s, at, long, loop, how)
            follow(path, [part_of(s, at / long, after / long)], how.feeds.cut)
            even.opened.append((*at_share(s, after / long), even.radius))
            at = after


def _side(s: Segment, share: float, how: Manner) -> tuple[Point, Point, Point]:
    """A place of a ring, the direction there, and the one to the side that is open."""
    heading = tangent(part_of(s, min(share, 1.0 - 1e-6), 1.0)) if share > 0.0 else tangent(s)
    return at_share(s, share), heading, ((-heading[1], heading[0]) if how.climb else (heading[1], -heading[0]))


def _loop_on(even: Even, s: Segment, share: float, how: Manner) -> float:
    here, _, inward = _side(s, share, how)
    return even.loop_at(here, inward)


def _next(even: Even, s: Segment, at: float, long: float, loop: float, how: Manner) -> float:
    """How far along a segment the next loop lies. Where all loops are as large as they may be, their own law says it; in a corner
    it is looked at what material the cutter would meet."""
    step = way_on(even.radius, loop, even.limit) if loop > 0 else even.radius / STEPS
    least = even.radius / STEPS / 4
    if loop >= LOOP * even.radius or loop <= 0:
        return at + step if at + step < long - least else long
    after = long
    for share in SHORTER:
        after = at + step * share if at + step * share < long - least else long
        here, heading, inward = _side(s, after / long, how)
        if even.bears(here, heading, min(even.loop_at(here, inward), loop * GROWTH), inward):
            break
    return after


def _stretches(even: Even, way: Loop) -> Iterator[tuple[Segment, bool]]:
    """The segments of a ring parted where the cutter begins or ends to be in too deep. Loops begin as far before that as the
    front of one lies ahead of where it touches the ring."""
    counts = [max(2, math.ceil(length_of(s) / even.radius * STEPS)) for s in way]
    shares = [(np.arange(count) + 0.5) / count for count in counts]
    pieces = [(s, float(t)) for s, own in zip(way, shares, strict=True) for t in own]
    places = np.array([at_share(s, t) for s, t in pieces])
    headings = np.array([math.atan2(*reversed(tangent(part_of(s, t, 1.0)))) for s, t in pieces])
    deep = even.too_deep(places, headings)
    ahead = math.ceil(LOOP * STEPS) + 1
    wide = deep | np.append(False, deep[:-1])
    for k in range(1, ahead + 1):
        wide[:-k] |= deep[k:]
    first = 0
    for s, count in zip(way, counts, strict=True):
        own = wide[first : first + count]
        first += count
        marks = [0, *(np.flatnonzero(own[1:] != own[:-1]) + 1).tolist(), count]
        for a, b in itertools.pairwise(marks):
            yield part_of(s, a / count, b / count), bool(own[a])
