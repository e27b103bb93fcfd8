"""Drawing the clearing of an area: in at the innermost rings, outward ring by ring, along the wall at last."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
import shapely

from bastler.motion.even import equal_parts
from bastler.motion.moves import Path
from bastler.motion.rings import AboutRings, Clearing, Rings, begun_at, facing, in_order, nearest_on, part_of
from bastler.shapes import Line, Segment
from bastler.shapes.chain import length_of, reversed_chain
from bastler.shapes.kernels import distances
from bastler.shapes.prepared import prepared
from bastler.shapes.region import Loop, polygon_of

Point = tuple[float, float]
Entry = Literal["helix", "ramp", "plunge", "hole"]
HELIX_SHARE = 0.45
"""Radius of the entry helix as a share of the tool's diameter: under one half, so that no core is left standing."""
LEAST_HELIX = 0.1
"""A helix with less than this share of the diameter as its radius is not worth the name."""
NEAR_SHARE = 0.1
"""So much of the way that rapids keep off is left when an entry begins: down to there the tool goes through air, in feed."""
NEAR_LAYER = 0.2
"""An entry into a thin layer begins no higher above it than this share of its thickness: most of a helix would be air."""
SHORTEST_RAMP = 0.5
"""The shortest ring, in diameters, that a ramp goes along."""


class Feeds(NamedTuple):
    """Feed along, feed for entries."""

    cut: float
    plunge: float


@dataclass(frozen=True)
class Manner:
    """How an area is cleared: `slope` is the tangent of the entry's angle, `clear` how far above a surface rapids end, `over`
    the height for going across; `hole` a place to go down in, and whether it is wide enough for rapids. `surface` is where the
    whole area begins, `beside` how far off what stands rapids go down past it; `core` the ends of the line that a long area
    shrinks to, opened before the innermost ring: less of that is then at full width."""

    diameter: float
    climb: bool
    entry: Entry
    slope: float
    feeds: Feeds
    clear: float
    over: float
    surface: float
    beside: float
    hole: tuple[float, float, bool] | None = None
    core: tuple[Point, ...] = ()


def follow(path: Path, chain: Sequence[Segment], feed: float) -> None:
    """Along a chain at the height where the tool is."""
    for s in chain:
        if isinstance(s, Line):
            path.cut(feed, *s.end)
        else:
            path.bow(feed, s.end, s.centre, ccw=s.ccw)


def way_round(ring: Loop, *, climb: bool) -> Loop:
    """A ring in the direction to cut it in. Regions lie on the left of their rings, so that a right-hand cutter climbs along
    them."""
    return ring if climb else reversed_chain(ring)


def clear_area(path: Path, rings: Rings, *, top: float, level: float, how: Manner) -> None:
    """One level: every patch from the inside out. `top` is the surface that the entry starts from."""
    for patch, ring, done in in_order(rings.patches):
        if not done:
            if enter(path, rings, patch, top, level, how, home=False) in ("helix", "hole"):
                for end in how.core:
                    path.cut(how.feeds.cut, *end)
        else:
            reach(path, rings, ring, done, level, how)
        loop = way_round(ring, climb=how.climb)
        loop = begun_at(loop, nearest_on(loop, (path.x, path.y)))
        path.cut(how.feeds.cut, *loop[0].start)
        follow(path, loop, how.feeds.cut)


def reach(path: Path, rings: Rings, ring: Loop, done: Sequence[Loop], level: float, how: Manner) -> None:
    """To the next ring: straight where that stays in the room, else up and over to a place that is already cut."""
    _, p = nearest_on(ring, (path.x, path.y))
    if path.z <= level + 1e-9 and straight(rings, (path.x, path.y), p):
        return
    ways = []
    for other in done:
        (_, p), q = facing(ring, other, p)
        ways.append((math.dist(p, q), not straight(rings, p, q), q))
    _, _, q = min(ways, key=lambda way: (way[1], way[0]))
    path.go(z=how.over).go(*q)
    sink(path, level + how.clear, how)
    path.cut(how.feeds.cut, z=level)  # it is open there


def sink(path: Path, z: float, how: Manner, *, room: float = 0.0) -> None:
    """Down to a height where the tool has room: in rapid where nothing stands nearer beside it than rapids may go, else from the
    surface on in feed."""
    if room < how.beside:
        path.go(z=max(min(path.z, how.surface + how.clear), z))
        path.cut(how.feeds.cut, z=min(z, path.z))
    else:
        path.go(z=min(path.z, z))


def straight(rings: Rings, p: Point, q: Point) -> bool:
    """Does the straight way between two points stay in the room?"""
    return math.dist(p, q) < 1e-9 or bool(prepared(rings.inside).covers(shapely.LineString([p, q])))


def helix_place(rings: Rings, patch: Clearing, how: Manner) -> tuple[Point, float]:
    """Where in a patch there is most room for a helix, and its radius."""
    if patch.helix is None:
        at = _middle(patch, how.diameter)
        room = float(distances(np.array([at]), rings.walls)[0])
        patch.helix = at, min(HELIX_SHARE * how.diameter, room * 0.999)
    return patch.helix


def _middle(patch: Clearing, diameter: float) -> Point:
    """A place within a patch, its middle where that lies in it."""
    shape = polygon_of(patch.rings, 0.01 * diameter)
    if shape.is_empty:
        return patch.rings[0][0].start
    largest = max(getattr(shape, "geoms", [shape]), key=lambda g: g.area)
    middle = largest.centroid if largest.covers(largest.centroid) else largest.representative_point()
    return middle.x, middle.y


def entry_of(rings: Rings, patch: Clearing, how: Manner) -> Entry:
    """The wanted entry where it fits, else a ramp along the ring, else straight down."""
    if how.entry == "hole" and how.hole:
        at = how.hole[:2]
        if straight(rings, at, nearest_on(patch.rings[0], at)[1]):
            return "hole"
    if how.entry in ("helix", "hole") and helix_place(rings, patch, how)[1] >= LEAST_HELIX * how.diameter:
        return "helix"
    if how.entry != "plunge" and sum(map(length_of, patch.rings[0])) >= SHORTEST_RAMP * how.diameter:
        return "ramp"
    return "plunge"


def enter(path: Path, rings: Rings, patch: Clearing, top: float, level: float, how: Manner, *, home: bool = True) -> Entry:
    """From above the surface down to the level, in a patch where nothing is cut yet; the way in that it was. Behind a helix the
    tool goes `home` to its middle, or stays on it, where the way goes on."""
    path.go(z=how.over)
    entry = entry_of(rings, patch, how)
    near = top + min(NEAR_SHARE * how.clear, NEAR_LAYER * max(top - level, 0.0))
    if entry == "hole" and how.hole:
        x, y, wide = how.hole
        path.go(x, y)
        sink(path, (level if wide else top) + how.clear, how, room=how.beside if wide else 0.0)
        path.cut(how.feeds.plunge, z=level)
        return entry
    if entry == "helix":
        at, r = helix_place(rings, patch, how)
        begin = _helix_begin(at, r, how.core)
        down = begin if _room(rings, begin) >= how.beside else at
        path.go(*down)
        sink(path, top + how.clear, how, room=_room(rings, down))
        helix_down(path, at, r, near, level, how, home=home, toward=how.core)
        return entry
    ring = way_round(patch.rings[0], climb=how.climb)
    ring = begun_at(ring, nearest_on(ring, (path.x, path.y)))
    path.go(*ring[0].start)
    sink(path, top + how.clear, how, room=_room(rings, ring[0].start))
    path.cut(how.feeds.cut, z=near)
    if entry == "ramp":
        ramp_along(path, ring, level, how.slope, how.feeds.plunge)
    else:
        path.cut(how.feeds.plunge, z=level)
    return entry


def _room(rings: Rings, at: Point) -> float:
    """How far the tool may go aside before it meets what stands."""
    return float(distances(np.array([at]), rings.walls)[0]) if len(rings.walls) else 0.0


def _helix_begin(centre: Point, r: float, toward: Sequence[Point]) -> Point:
    """Where a helix begins: on the side toward the first of some places that lies outside of it, else at 3 o'clock."""
    far = next((p for p in toward if math.dist(p, centre) > r), (centre[0] + 1.0, centre[1]))
    long = math.dist(far, centre)
    return (centre[0] + r * (far[0] - centre[0]) / long, centre[1] + r * (far[1] - centre[1]) / long)


def helix_down(
    path: Path, centre: Point, r: float, top: float, level: float, how: Manner, *, home: bool = True, toward: Sequence[Point] = ()
) -> None:
    """To where it begins at a height, on the side `toward` a place, down a helix to a level, once round there, and `home` to the
    middle."""
    start = _helix_begin(centre, r, toward)
    path.cut(how.feeds.cut, *start, z=top)
    turns = equal_parts(top - level, 2 * math.pi * r * how.slope, 1e-9)
    for k in range(1, turns + 1):
        depth = level if k == turns else top + (level - top) * k / turns
        path.bow(how.feeds.plunge, start, centre, ccw=how.climb, z=depth)
    path.bow(how.feeds.cut, start, centre, ccw=how.climb)
    if home:
        path.cut(how.feeds.cut, *centre)


def ramp_along(
    path: Path, chain: Sequence[Segment], level: float, slope: float, feed: float, *, whole_rounds: bool = False
) -> None:
    """Down to a level along a closed chain from its start, round again where it is short; ends where the level is reached, with
    `whole_rounds` at the start, the slope being less for it."""
    whole = sum(map(length_of, chain))
    left = (path.z - level) / slope
    rounds = math.ceil(left / whole) if left > whole else 1
    # so that no level is gone over twice: whole rounds for what is longer than one
    slope = (path.z - level) / (rounds * whole) if left > whole or whole_rounds else slope
    while path.z > level + 1e-9:
        for s in chain:
            long = length_of(s)
            need = (path.z - level) / slope
            share = min(1.0, need / long) if long > 0 else 1.0
            piece = s if share >= 1.0 - 1e-9 else part_of(s, 0.0, share)
            z = level if share < 1.0 or need <= long * (1 + 1e-9) else path.z - long * slope
            if isinstance(piece, Line):
                path.cut(feed, *piece.end, z=z)
            else:
                path.bow(feed, piece.end, piece.centre, ccw=piece.ccw, z=z)
            if path.z <= level + 1e-9:
                path.z = level
                return


def clear_about(path: Path, about: AboutRings, *, top: float, level: float, how: Manner) -> None:
    """One level around what stays, from the outside in: every run begins in the air or where the run before has been."""
    for run, outside in about.runs:
        chain = way_round(run.chain, climb=how.climb)
        path.go(z=how.over)
        if not run.closed:
            path.go(*chain[0].start).go(z=level + how.clear)
            path.cut(how.feeds.cut, z=level)  # beside the stock, or where the run before has been
        else:
            chain = _from_outside(path, about, chain, outside, top, level, how)
        follow(path, chain, how.feeds.cut)


def _from_outside(
    path: Path, about: AboutRings, chain: Loop, outside: Sequence[Loop], top: float, level: float, how: Manner
) -> Loop:
    """Down beside a ring that goes all round, and on to it; into the material where nothing outside of it is open."""
    ways = []
    for other in outside:
        at, q = facing(chain, other, chain[0].start)
        ways.append((math.dist(at[1], q), at, q))
    if not ways or min(ways)[0] > 1.5 * about.rings.stepover:
        enter(path, about.rings, Clearing([chain], 0.0), top, level, how)
        return begun_at(chain, nearest_on(chain, (path.x, path.y)))
    _, at, q = min(ways)
    path.go(*q)
    sink(path, level + how.clear, how)
    path.cut(how.feeds.cut, z=level)
    path.cut(how.feeds.cut, *at[1])
    return begun_at(chain, at)
