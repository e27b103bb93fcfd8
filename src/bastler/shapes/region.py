"""Regions bounded by lines and arcs, and their exact offsets.

A region is a list of *loops*: closed chains with the region on their left, so that outer loops run counter-clockwise and islands
clockwise. An offset is made of the moved segments and of arcs about outer corners, cut where they cross; of the parts those stay
that are as far from the whole boundary as they should be. Lines stay lines, arcs keep their centres.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
import shapely

from bastler.shapes.chain import length_of, one_arc, points_on, reversed_chain, shifted, tangent
from bastler.shapes.kernels import CU, CV, EU, EV, KIND, SU, SV, SWEEP, TURN, WIDTH, R, clear_of, crossings_of, winding
from bastler.shapes.kinds import Floats, Ints, Region
from bastler.shapes.rounded import WHOLE, Arc, Line, Segment
from bastler.shapes.united import united

Loop = list[Segment]
NEAR = 1e-7
"""Share of the size: what is nearer than this is one point."""
ASIDE = 1e-6
"""Share of the size: how far beside a part one looks to tell whether it bounds the region."""
JOINT = 1e-5


def primitives(segments: Sequence[Segment]) -> Floats:
    """Segments as rows for the kernels; see there."""
    rows = np.zeros((len(segments), WIDTH))
    if not len(segments):
        return rows
    rows[:, 1:5] = [(*s.start, *s.end) for s in segments]
    arcs = [k for k, s in enumerate(segments) if isinstance(s, Arc)]
    if arcs:
        rows[arcs, 5:] = _bent([s for s in segments if isinstance(s, Arc)], rows[arcs, 1:5])
        rows[arcs, KIND] = 1.0
    return rows


def _bent(arcs: Sequence[Arc], ends: Floats) -> Any:
    """What the rows of arcs have over those of lines: centre, radius, turn, angle of the start, sweep."""
    centre = np.array([s.centre for s in arcs])
    turn = np.array([1.0 if s.ccw else -1.0 for s in arcs])
    start, end = ends[:, 0:2] - centre, ends[:, 2:4] - centre
    a0, a1 = np.arctan2(start[:, 1], start[:, 0]), np.arctan2(end[:, 1], end[:, 0])
    sweep = (a1 - a0) * turn % (2 * math.pi)
    sweep[sweep <= WHOLE] = 2 * math.pi
    return np.column_stack([centre, np.hypot(start[:, 0], start[:, 1]), turn, a0, sweep])


def size_of(loops: Sequence[Sequence[Segment]]) -> float:
    """The longer side of what loops bound; 1 for nothing."""
    points = np.array(
        [s.start for loop in loops for s in loop] + [s.centre for loop in loops for s in loop if isinstance(s, Arc)]
    )
    return float(np.ptp(points, axis=0).max()) or 1.0 if len(points) else 1.0


def area_of(loop: Sequence[Segment]) -> float:
    """Signed area inside a closed chain, counter-clockwise positive; exact."""
    total = 0.0
    for s in loop:
        total += (s.start[0] * s.end[1] - s.end[0] * s.start[1]) / 2
        if isinstance(s, Arc):
            r, a = math.dist(s.start, s.centre), s.sweep() if s.ccw else -s.sweep()
            total += r * r * (a - math.sin(a)) / 2
    return total


def oriented(loop: Sequence[Segment], *, ccw: bool) -> Loop:
    """The loop run that way round."""
    return list(loop) if (area_of(loop) > 0) == ccw else reversed_chain(loop)


Frozen = tuple[tuple[Segment, ...], ...]
KEPT = 256
"""How many results are remembered: a step asks for the same regions while it proposes, checks, plans and says what is gone."""


def _frozen(loops: Sequence[Sequence[Segment]]) -> Frozen:
    return tuple(map(tuple, loops))


def region_of(outer: Sequence[Segment], islands: Sequence[Sequence[Segment]] = ()) -> list[Loop]:
    """The region inside a loop less islands; islands may overlap each other and reach over the outer loop."""
    return [list(loop) for loop in _region(tuple(outer), _frozen(islands))]


@functools.lru_cache(maxsize=KEPT)
def _region(outer: tuple[Segment, ...], islands: Frozen) -> Frozen:
    return _frozen(cleaned([oriented(outer, ccw=True), *(oriented(island, ccw=False) for island in islands)]))


def cleaned(loops: Sequence[Sequence[Segment]]) -> list[Loop]:
    """The same region with loops that do not cross: bounded by what has inside on its left and outside on its right. A loop that
    is all smaller than what counts as one place bounds nothing."""
    size = size_of(loops)
    loops = [loop for loop in loops if max(map(_reach, loop), default=0.0) > NEAR * size]
    segments = [s for loop in loops for s in loop]
    prims = primitives(segments)
    aside = ASIDE * size
    if not len(crossings_of(prims, NEAR * size)):
        firsts = [max(loop, key=_reach) for loop in loops]
        _, middles, normals = _parts(firsts, size)
        kept = (winding(middles + normals * aside, prims) >= 1) & (winding(middles - normals * aside, prims) <= 0)
        return [list(loop) for loop, keep in zip(loops, kept, strict=True) if keep]
    parts, middles, normals = _parts(segments, size)
    kept = (winding(middles + normals * aside, prims) >= 1) & (winding(middles - normals * aside, prims) <= 0)
    return _chained(parts.taken(kept), size, closed=True)


def _reach(segment: Segment) -> float:
    """How far apart the ends of a segment are; of more than half a circle its diameter."""
    if isinstance(segment, Arc) and segment.sweep() > math.pi:
        return 2 * math.dist(segment.start, segment.centre)
    return math.dist(segment.start, segment.end)


def offset_region(loops: Sequence[Sequence[Segment]], distance: float) -> list[Loop]:
    """The region's loops moved inward by `distance`, outward when negative."""
    return [list(loop) for loop in _offset(_frozen(loops), distance)]


@functools.lru_cache(maxsize=KEPT)
def _offset(loops: Frozen, distance: float) -> Frozen:
    if abs(distance) < 1e-12 or not loops:
        return loops
    if distance < 0:
        inward = _offset(_frozen([reversed_chain(loop) for loop in loops]), -distance)
        return _frozen([reversed_chain(loop) for loop in inward])
    size = size_of(loops)
    raw = [s for loop in loops for s in _moved(loop, distance, closed=True)]
    return _frozen(_valid(raw, [s for loop in loops for s in loop], distance, size, closed=True))


def opened(area: Sequence[Loop], radius: float) -> list[Loop]:
    """What a disc of that radius can reach of a region: moved in and out again."""
    return offset_region(offset_region(area, radius), -radius)


def offset_chain(chain: Sequence[Segment], distance: float) -> list[Loop]:
    """An open chain moved to its left by `distance` (right when negative), without what would come too near to any of it."""
    if distance < 0:
        return [reversed_chain(c) for c in reversed(offset_chain(reversed_chain(chain), -distance))]
    if distance < 1e-12:
        return [list(chain)]
    size = max(size_of([chain]), distance)
    return _valid(_moved(chain, distance, closed=False), list(chain), distance, size, closed=False)


def _moved(chain: Sequence[Segment], distance: float, *, closed: bool) -> list[Segment]:
    """Every segment moved to its left, and arcs about the corners where it turns right."""
    chain = [s for s in chain if isinstance(s, Arc) or math.dist(s.start, s.end) > 1e-9]
    made: list[Segment] = []
    for k, s in enumerate(chain):
        now = shifted(s, -distance)
        if now is not None:
            made.append(now)
        if k + 1 == len(chain) and not closed:
            break
        after = chain[(k + 1) % len(chain)]
        t1, t2 = tangent(s, at_end=True), tangent(after)
        cross, dot = t1[0] * t2[1] - t1[1] * t2[0], t1[0] * t2[0] + t1[1] * t2[1]
        if cross < -1e-9 or (dot < 0 and abs(cross) <= 1e-9):
            p, (cu, cv) = s.end, s.end
            made.append(
                Arc((cu - t1[1] * distance, cv + t1[0] * distance), (cu - t2[1] * distance, cv + t2[0] * distance), p, ccw=False)
            )
    return made


def _valid(raw: list[Segment], source: list[Segment], distance: float, size: float, *, closed: bool) -> list[Loop]:
    if not raw:
        return []
    parts, middles, normals = _parts(raw, size)
    aside = ASIDE * size
    good = clear_of(middles + normals * aside, primitives(source), distance + aside / 4)
    return _chained(parts.taken(good), size, closed=closed)


class _Parts(NamedTuple):
    """Parts of segments: the number of the segment each belongs to, and its ends."""

    segments: Sequence[Segment]
    owner: Ints
    starts: Floats
    ends: Floats

    def taken(self, keep: Any) -> list[Segment]:
        """Some of the parts, as segments."""
        made: list[Segment] = []
        for k in np.flatnonzero(keep):
            a, b = tuple(self.starts[k].tolist()), tuple(self.ends[k].tolist())
            s = self.segments[self.owner[k]]
            made.append(Line(a, b) if isinstance(s, Line) else Arc(a, b, s.centre, s.ccw))
        return made


def _parts(segments: Sequence[Segment], size: float) -> tuple[_Parts, Any, Any]:
    """Segments taken apart where they cross, with the middle of each part and the direction to its left."""
    prims = primitives(segments)
    rows = crossings_of(prims, NEAR * size)
    count = np.arange(len(prims))
    marks = np.concatenate([np.column_stack([count, 0 * count, prims[:, [SU, SV]]]), rows])
    marks = marks[np.lexsort((marks[:, 1], marks[:, 0]))]
    owner = marks[:, 0].astype(np.int64)
    last = np.append(owner[1:] != owner[:-1], True)
    ends = np.where(last[:, None], prims[owner][:, [EU, EV]], np.roll(marks[:, 2:], -1, axis=0))
    apart = np.linalg.norm(ends - marks[:, 2:], axis=1) > NEAR * size
    whole = (prims[owner, KIND] == 1) & (prims[owner, SWEEP] > math.pi)
    keep = apart | (whole & last & np.append(True, last[:-1]))
    owner, starts, ends = owner[keep], marks[keep, 2:], ends[keep]
    own = prims[owner]
    a0 = np.arctan2(starts[:, 1] - own[:, CV], starts[:, 0] - own[:, CU])
    a1 = np.arctan2(ends[:, 1] - own[:, CV], ends[:, 0] - own[:, CU])
    sweep = np.mod((a1 - a0) * own[:, TURN], 2 * math.pi)
    half = a0 + own[:, TURN] * np.where(sweep > 1e-12, sweep, 2 * math.pi) / 2
    straight = (own[:, KIND] == 0)[:, None]
    out = np.column_stack([np.cos(half), np.sin(half)])
    middles = np.where(straight, (starts + ends) / 2, own[:, [CU, CV]] + out * own[:, [R]])
    along = ends - starts
    left = np.column_stack([-along[:, 1], along[:, 0]]) / np.maximum(np.linalg.norm(along, axis=1), 1e-300)[:, None]
    return _Parts(segments, owner, starts, ends), middles, np.where(straight, left, -out * own[:, [TURN]])


def _chained(parts: list[Segment], size: float, *, closed: bool) -> list[Loop]:
    """Parts joined end to start."""
    parts = _without_stubs(parts, size)
    if not parts:
        return []
    parts, following = _following(parts, JOINT * size, closed=closed)
    if not parts:
        return []
    free = set(range(len(parts)))
    begun = set(range(len(parts)))
    if not closed:
        begun -= {int(k) for row in following for k in row[:1] if k < len(parts)}
    made: list[Loop] = []
    for first in [*sorted(begun), *sorted(free - begun)]:
        if first not in free:
            continue
        loop, at = [], first
        while at in free:
            free.discard(at)
            loop.append(parts[at])
            at = _next(following[at], free, first, len(parts))
        if _whole(loop, closed=closed, gap=JOINT * size):
            made.append(_merged(loop, closed=closed))
    return made


def _without_stubs(parts: list[Segment], size: float) -> list[Segment]:
    """Parts without what two segments that cross at hardly an angle have behind their crossing: it is as far from the boundary as
    it should be, within what is felt, and begins or ends where a longer part does. The way on is that one's."""
    long = np.array([length_of(p) for p in parts])
    short = np.flatnonzero(long < JOINT * size)
    if not len(short):
        return parts
    stub = np.zeros(len(parts), dtype=bool)
    for places in (np.array([p.start for p in parts]), np.array([p.end for p in parts])):
        tree = shapely.STRtree(shapely.points(places))
        own, other = tree.query(shapely.points(places[short]), predicate="dwithin", distance=2 * NEAR * size)
        stub[short[own[long[other] > long[short[own]]]]] = True
    return [p for p, drop in zip(parts, stub, strict=True) if not drop]


class _Following(NamedTuple):
    """Parts, and for each the numbers of those that may go on from it, nearest first (too large a number for none)."""

    parts: list[Segment]
    rows: Ints


def _following(parts: list[Segment], gap: float, *, closed: bool) -> _Following:
    """Of a closed outline's parts those that lead on and are led to: where two lines nearly lie on each other a stub may be
    left."""
    while True:
        rows = _nearest(np.array([p.end for p in parts]), np.array([p.start for p in parts]), gap)
        if not closed:
            return _Following(parts, rows)
        led = np.zeros(len(parts) + 1, dtype=bool)
        led[rows.ravel()] = True
        good = led[:-1] & (rows[:, 0] < len(parts))
        if good.all():
            return _Following(parts, rows)
        parts = [p for p, keep in zip(parts, good, strict=True) if keep]
        if not parts:
            return _Following([], rows)


def _nearest(points: Floats, others: Floats, within: float, most: int = 4) -> Ints:
    """For each of the points (n, 2) the numbers of up to so many others (m, 2) that lie within a distance, the nearest first;
    m where there are no more."""
    ends = shapely.points(points)
    own, other = shapely.STRtree(shapely.points(others)).query(ends, predicate="dwithin", distance=within)
    far = np.linalg.norm(points[own] - others[other], axis=1)
    order = np.lexsort((other, far, own))
    own, other = own[order], other[order]
    rank = np.arange(len(own)) - np.searchsorted(own, own)
    found = np.full((len(points), min(most, len(others))), len(others), np.int32)
    near = rank < found.shape[1]
    found[own[near], rank[near]] = other[near]
    return found


def _next(row: Ints, free: set[int], first: int, count: int) -> int:
    """The nearest part that goes on from here; the first one when the loop comes back to it."""
    for k in row:
        if k < count and (int(k) in free or int(k) == first):
            return int(k)
    return -1


def _whole(loop: Loop, *, closed: bool, gap: float) -> bool:
    long = sum(map(length_of, loop))
    if long < 10 * gap:
        return False
    return not closed or math.dist(loop[-1].end, loop[0].start) <= gap


def _merged(loop: Loop, *, closed: bool) -> Loop:
    """Parts of one line or arc put together again, ends laid on each other."""
    made: Loop = []
    for s in loop:
        last = made[-1] if made else None
        if last is not None and _one_curve(last, s):
            made[-1] = _joined(last, s)
        else:
            made.append(s)
    if closed and len(made) > 1 and _one_curve(made[-1], made[0]):
        made[0] = _joined(made.pop(), made[0])
    ends = [made[(k + 1) % len(made)].start for k in range(len(made))]
    if not closed or len(made) == 1:
        ends[-1] = made[-1].end
    return [
        Line(s.start, e) if isinstance(s, Line) else Arc(s.start, e, s.centre, s.ccw) for s, e in zip(made, ends, strict=True)
    ]


def _one_curve(a: Segment, b: Segment) -> bool:
    if isinstance(a, Line) and isinstance(b, Line):
        return math.dist(tangent(a), tangent(b)) < 1e-9
    if isinstance(a, Arc) and isinstance(b, Arc):
        return one_arc(a, b)
    return False


def _joined(a: Segment, b: Segment) -> Segment:
    return Line(a.start, b.end) if isinstance(a, Line) else Arc(a.start, b.end, a.centre, a.ccw)


def polygon_of(loops: Sequence[Sequence[Segment]], chord: float = 0.001) -> Region:
    """A region as a shapely geometry; arcs as chords that leave them by no more than `chord`, on either side alike."""
    return _polygon(_frozen(loops), chord)


@functools.lru_cache(maxsize=KEPT)
def _polygon(loops: Frozen, chord: float) -> Region:
    made = shapely.Polygon()
    sized = sorted(((area_of(loop), points_on(loop, chord)) for loop in loops), key=lambda entry: -abs(entry[0]))
    for area, points in sized:
        if len(points) > 3:
            inside = shapely.make_valid(shapely.Polygon(points))
            made = made.union(inside) if area > 0 else made.difference(inside)
    return made


def even_odd(loops: Sequence[Sequence[Segment]], chord: float) -> Region:
    """What an odd number of loops goes round, whichever way they run."""
    made = shapely.Polygon()
    for loop in loops:
        points = points_on(loop, chord)
        if len(points) > 3:
            made = made.symmetric_difference(shapely.make_valid(shapely.Polygon(points)))
    return made


def swept(chain: Sequence[Segment], radius: float, chord: float) -> Any:
    """What a disc goes over along a chain, as a shapely region. Made of rectangles, ring sectors and discs: a buffer of the
    whole chain would round its inner corners."""
    step = 2 * math.acos(max(1 - chord / max(radius, chord), 0.0))
    quarter = max(8, math.ceil(math.pi / 2 / step))
    ends = {tuple(round(c, 9) for c in p) for s in chain for p in (s.start, s.end)}
    parts = [shapely.Point(p).buffer(radius, quad_segs=quarter) for p in ends]
    return united(parts + [part for s in chain if (part := _beside(s, radius, chord)) is not None])


def _beside(s: Segment, radius: float, chord: float) -> Any:
    """What lies beside a segment within a radius, without its ends."""
    if isinstance(s, Line):
        if math.dist(s.start, s.end) < 1e-9:
            return None
        tu, tv = tangent(s)
        nu, nv = -tv * radius, tu * radius
        (au, av), (bu, bv) = s.start, s.end
        return shapely.Polygon([(au + nu, av + nv), (bu + nu, bv + nv), (bu - nu, bv - nv), (au - nu, av - nv)])
    r = math.dist(s.start, s.centre)
    a0 = math.atan2(s.start[1] - s.centre[1], s.start[0] - s.centre[0])
    turn = s.sweep() if s.ccw else -s.sweep()
    count = max(4, math.ceil(abs(turn) / (2 * math.acos(max(1 - chord / (r + radius), 0.0)))))
    angles = a0 + turn * np.arange(count + 1) / count
    rim = np.column_stack([np.cos(angles), np.sin(angles)])
    outer, inner = np.array(s.centre) + rim * (r + radius), np.array(s.centre) + rim * max(r - radius, 0.0)
    if abs(turn) > 2 * math.pi - 1e-9:
        return shapely.Polygon(outer).difference(shapely.Polygon(inner)) if r > radius else shapely.Polygon(outer)
    return shapely.Polygon(np.concatenate([outer, inner[::-1]])).buffer(0)
