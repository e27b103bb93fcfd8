"""Clearing an area of any shape in rings: exact offsets of its boundary, from the inside out.

The *room* of the tool's centre is the area moved in by its radius and what is left on the walls. Rings lie one stepover apart;
rings of one depth into the area that belong together are a *patch*, and the patches inside of it its children. A patch without
children is where the tool goes in.
"""

from __future__ import annotations

import functools
import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely

from bastler.shapes import Arc, Line, Segment
from bastler.shapes.chain import cut_at, length_of, one_arc, points_on
from bastler.shapes.kernels import nearest, winding
from bastler.shapes.kinds import Region
from bastler.shapes.prepared import prepare_for_now
from bastler.shapes.region import Loop, area_of, offset_region, opened, polygon_of, primitives
from bastler.shapes.united import united

Point = tuple[float, float]
SAFE_STEP = 0.97
"""A stepover of this share of the radius never leaves anything between two rings."""
SHRINK = 0.85
MOST_RINGS = 400


@dataclass
class Clearing:
    """Rings at one distance from the boundary: the outer one first, then those about islands; `children` lie inside of it."""

    rings: list[Loop]
    depth: float
    children: list[Clearing] = field(default_factory=list)
    helix: tuple[Point, float] | None = None
    """Where a helix would go down in it, and its radius, once it has been looked for."""


LINK_FINER = 20
"""By how much finer the area is drawn that ways across have to stay in."""


@dataclass
class Rings:
    """All that is needed to clear an area: the outermost patches, the room as loops and as a polygon a little larger, the
    stepover that was used."""

    patches: list[Clearing]
    room: list[Loop]
    inside: Region
    stepover: float

    @functools.cached_property
    def walls(self) -> Region:
        """The room's boundary as rows for the kernels."""
        return primitives([s for loop in self.room for s in loop])


def rings_of(area: Sequence[Loop], *, radius: float, leave: float, stepover: float, fine: float) -> Rings:
    """The rings of an area. The stepover is made smaller until nothing stays between them; `fine` is the chord to check it
    with."""
    step = stepover
    while True:
        levels = _levels(area, radius + leave, step)
        if not levels:
            return Rings([], [], shapely.Polygon(), step)
        if step <= SAFE_STEP * radius or _covered(levels, radius, fine):
            break
        step = max(step * SHRINK, SAFE_STEP * radius)
    close = fine / LINK_FINER  # a way across is as good as a wall: chords as coarse as those above would let it into an island
    inside = polygon_of(levels[0], close).buffer(2 * close)
    return Rings(_tree(levels, radius + leave, step), levels[0], inside, step)


def _levels(area: Sequence[Loop], first: float, step: float) -> list[list[Loop]]:
    levels: list[list[Loop]] = []
    while len(levels) < MOST_RINGS:
        loops = offset_region(area, first + step * len(levels))
        if not loops:
            break
        levels.append(loops)
    return levels


def _covered(levels: Sequence[Sequence[Loop]], radius: float, fine: float) -> bool:
    """Does a tool of that radius along all rings go over everything inside the outermost?"""
    strokes = [
        shapely.LineString(points_on(loop, fine)).buffer(radius - fine, quad_segs=24) for level in levels for loop in level
    ]
    return bool(polygon_of(levels[0], fine).difference(united(strokes)).buffer(-fine).is_empty)


def _tree(levels: Sequence[Sequence[Loop]], first: float, step: float) -> list[Clearing]:
    whole = [_patches(loops, first + step * k) for k, loops in enumerate(levels)]
    for outer, inner in itertools.pairwise(whole):
        homes = [primitives([s for ring in patch.rings for s in ring]) for patch in outer]
        for patch in inner:
            at = np.array([patch.rings[0][0].start])
            home = next((o for o, prims in zip(outer, homes, strict=True) if winding(at, prims)[0] >= 1), None)
            (home or outer[0]).children.append(patch)
    return whole[0]


def _patches(loops: Sequence[Loop], depth: float) -> list[Clearing]:
    """Outer loops with the islands that lie in them."""
    outer = sorted((loop for loop in loops if area_of(loop) > 0), key=area_of)
    made = [Clearing([loop], depth) for loop in outer]
    prims = [primitives(loop) for loop in outer]
    for island in (loop for loop in loops if area_of(loop) <= 0):
        at = np.array([island[0].start])
        home = next((patch for patch, own in zip(made, prims, strict=True) if winding(at, own)[0] != 0), None)
        if home is not None:
            home.rings.append(island)
    return made


def in_order(patches: Sequence[Clearing]) -> Iterator[tuple[Clearing, Loop, list[Loop]]]:
    """Every ring from the inside out, with its patch and the rings next to it that come before."""
    for patch in patches:
        yield from in_order(patch.children)
        done = [ring for child in patch.children for ring in child.rings]
        for ring in patch.rings:
            yield patch, ring, done
            done.append(ring)


def nearest_on(chain: Sequence[Segment], to: Point) -> tuple[int, Point]:
    """The segment of a chain that comes nearest to a point, and where it does."""
    k, u, v, _ = nearest(_rows(tuple(chain)), to[0], to[1])
    return k, (u, v)


def facing(chain: Sequence[Segment], other: Sequence[Segment], at: Point) -> tuple[tuple[int, Point], Point]:
    """Where two chains come nearest to each other, looked for from a point on: the place on the first, as `nearest_on` gives it,
    and the point on the other."""
    rows, beside = _rows(tuple(chain)), _rows(tuple(other))
    _, u, v, _ = nearest(beside, *at)
    for _ in range(4):
        k, pu, pv, _ = nearest(rows, u, v)
        _, u, v, _ = nearest(beside, pu, pv)
    return (k, (pu, pv)), (u, v)


@functools.lru_cache(maxsize=512)
def _rows(chain: tuple[Segment, ...]) -> Region:
    return primitives(chain)


def from_longest(chain: Sequence[Segment]) -> Loop:
    """A closed chain that begins in the middle of its longest segment, where a lead finds most room."""
    k = longest(chain)
    return begun_at(chain, (k, at_share(chain[k], 0.5)))


def longest(chain: Sequence[Segment]) -> int:
    """The number of a chain's longest segment; of several as long the first, which rounding must not choose."""
    lengths = [length_of(s) for s in chain]
    return next(k for k, long in enumerate(lengths) if long >= max(lengths) * (1 - 1e-6))


def begun_at(loop: Sequence[Segment], at: tuple[int, Point]) -> Loop:
    """A closed chain that begins at a point on one of its segments."""
    k, p = at
    s = loop[k]
    rest = [*loop[k + 1 :], *loop[:k]]
    if math.dist(p, s.start) < 1e-9:
        return [s, *rest]
    if math.dist(p, s.end) < 1e-9:
        return [*rest, s]
    before, after = cut_at(s, p)
    return [after, *rest, before]


def part_of(s: Segment, t0: float, t1: float) -> Segment:
    """The part of a segment between two shares of its length."""
    a, b = at_share(s, t0), at_share(s, t1)
    return Line(a, b) if isinstance(s, Line) else Arc(a, b, s.centre, s.ccw)


def at_share(s: Segment, t: float) -> Point:
    """The point at a share of a segment's length."""
    if t <= 0.0:
        return s.start
    if t >= 1.0:
        return s.end
    if isinstance(s, Line):
        return (s.start[0] + (s.end[0] - s.start[0]) * t, s.start[1] + (s.end[1] - s.start[1]) * t)
    r = math.dist(s.start, s.centre)
    a = math.atan2(s.start[1] - s.centre[1], s.start[0] - s.centre[0]) + (1 if s.ccw else -1) * s.sweep() * t
    return (s.centre[0] + r * math.cos(a), s.centre[1] + r * math.sin(a))


def clipped(chain: Sequence[Segment], zone: Region, step: float) -> list[Loop]:
    """The runs of a chain that lie in a zone (a shapely region), cut to about `step`; a closed chain that lies in it wholly is
    one run from its start. Runs reach up to a step further at either end."""
    pieces = [piece for s in chain for piece in _pieces(s, zone, step)]
    if all(inside for _, inside in pieces):
        return [list(chain)]
    closed = math.dist(chain[0].start, chain[-1].end) < 1e-6
    if closed:  # begin outside of the zone
        first = next(k for k, (_, inside) in enumerate(pieces) if not inside)
        pieces = [*pieces[first:], *pieces[:first], pieces[first]]
    inside = [k for k, (_, within) in enumerate(pieces) if within]
    runs: list[Loop] = []
    last = -9
    for k in inside:
        before = pieces[last + 1 : k]
        if runs and sum(length_of(s) for s, _ in before) <= 2 * step:
            runs[-1] += [s for s, _ in before]
        else:
            if runs:
                runs[-1] += _end_of(pieces[last + 1][0], step, at_start=True)
            runs.append(_end_of(pieces[k - 1][0], step, at_start=False) if k else [])
        runs[-1].append(pieces[k][0])
        last = k
    if runs and last + 1 < len(pieces):
        runs[-1] += _end_of(pieces[last + 1][0], step, at_start=True)
    return [_together(run) for run in runs]


def _pieces(s: Segment, zone: Region, step: float) -> list[tuple[Segment, bool]]:
    """A segment and whether it lies in a zone; cut up where it lies in it only in part."""
    line = shapely.LineString(points_on([s], step / 20))
    if zone.contains(line):
        return [(s, True)]
    if not zone.intersects(line):
        return [(s, False)]
    count = max(1, math.ceil(length_of(s) / step))
    parts = [part_of(s, k / count, (k + 1) / count) for k in range(count)]
    middles = np.array([at_share(p, 0.5) for p in parts])
    return list(zip(parts, shapely.contains_xy(zone, middles[:, 0], middles[:, 1]).tolist(), strict=True))


def _end_of(s: Segment, step: float, *, at_start: bool) -> Loop:
    """As much as a step of a segment, from one of its ends."""
    share = min(1.0, step / max(length_of(s), 1e-12))
    return [part_of(s, 0.0, share) if at_start else part_of(s, 1.0 - share, 1.0)]


def _together(run: Loop) -> Loop:
    """Pieces of one segment put together again."""
    made: Loop = []
    for s in run:
        last = made[-1] if made else None
        if isinstance(last, Arc) and isinstance(s, Arc) and one_arc(last, s):
            made[-1] = Arc(last.start, s.end, s.centre, s.ccw)
        elif isinstance(last, Line) and isinstance(s, Line) and _straight_on(last, s):
            made[-1] = Line(last.start, s.end)
        else:
            made.append(s)
    return made


def _straight_on(a: Line, b: Line) -> bool:
    au, av, bu, bv = a.end[0] - a.start[0], a.end[1] - a.start[1], b.end[0] - b.start[0], b.end[1] - b.start[1]
    return abs(au * bv - av * bu) < 1e-9 * math.hypot(au, av) * math.hypot(bu, bv) and au * bu + av * bv > 0


@dataclass
class RestRun:
    """A run along one ring: `depth` is how far the ring lies from the boundary; the deepest comes first. `closed` runs go all
    round."""

    chain: Loop
    depth: float
    closed: bool


def rest_runs(
    area: Sequence[Loop], done: Region, *, radius: float, stepover: float, fine: float, thin: float, limit: Region = None
) -> Sequence[RestRun]:
    """The runs of a tool that take what stands of an area where `done` (a shapely region) is open already, rings farthest from
    the boundary first. What is thinner than `thin` is left alone, and what lies outside of `limit`. Asked for by what is cut as
    by what is gone then: the last answers are remembered."""
    return _rest_runs(tuple(tuple(loop) for loop in area), done, radius, min(stepover, SAFE_STEP * radius), fine, thin, limit)


@functools.lru_cache(maxsize=16)
def _rest_runs(
    area: Sequence[Sequence[Segment]], done: Region, radius: float, step: float, fine: float, thin: float, limit: Region
) -> Sequence[RestRun]:
    reach = polygon_of(opened([list(loop) for loop in area], radius), fine)
    reach = reach if limit is None else reach.intersection(limit)
    rest = reach.difference(done).buffer(-thin / 2).buffer(thin / 2)
    if rest.is_empty:
        return ()
    piece = radius / 16
    zone = rest.buffer(radius + piece / 2)  # a piece counts by its middle; of a small rest it may be an end that comes to it
    prepare_for_now(zone)
    found: list[RestRun] = []
    depth = radius
    while rest is not None and len(found) < MOST_RINGS:
        loops = offset_region(area, depth)
        runs = [run for loop in loops for run in clipped(loop, zone, piece)]
        if not runs:
            break
        closed = [math.dist(run[0].start, run[-1].end) < 1e-6 and sum(map(length_of, run)) > radius / 2 for run in runs]
        found += [RestRun(run, depth, whole) for run, whole in zip(runs, closed, strict=True)]
        depth += step
        if depth > radius + step:
            swept = united([shapely.LineString(points_on(r.chain, fine)).buffer(radius - fine) for r in found])
            if rest.difference(swept).buffer(-thin / 2).is_empty:
                break
    return tuple(sorted(found, key=lambda run: -run.depth))


@dataclass
class AboutRings:
    """Rings about something that stays, the farthest first: runs that lie in the stock or touch it, each with the ring outside
    of it (where there is one), and the room for entries."""

    runs: list[tuple[RestRun, list[Loop]]]
    rings: Rings


def rings_about(area: Sequence[Loop], stock: Region, *, radius: float, leave: float, stepover: float, off: float) -> AboutRings:
    """The rings that clear the stock around what is left standing of it. The area goes far beyond the stock; runs that begin
    beside it begin so far `off` it."""
    zone = stock.buffer(radius + off)
    prepare_for_now(zone)
    levels: list[tuple[list[Loop], list[Loop]]] = []
    while len(levels) < MOST_RINGS:
        loops = offset_region(area, radius + leave + stepover * len(levels))
        runs = [run for loop in loops for run in clipped(loop, zone, radius / 8)]
        levels.append((loops, runs))
        if not runs:
            break
    found: list[tuple[RestRun, list[Loop]]] = []
    for k in range(len(levels) - 2, -1, -1):
        depth = radius + leave + stepover * k
        for run in levels[k][1]:
            whole = math.dist(run[0].start, run[-1].end) < 1e-6
            found.append((RestRun(run, depth, whole), levels[k + 1][0]))
    return AboutRings(found, Rings([], levels[0][0], shapely.Polygon(), stepover))
