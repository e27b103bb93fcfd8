"""Operations on chains of lines and arcs that keep them lines and arcs: offsets, corners, what a slanted tool can see.

A chain runs from `chain[0].start` to `chain[-1].end`; each segment starts where the one before ends. Right and left are meant
looking along it.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import NamedTuple

from bastler.shapes.rounded import Arc, Line, Point, Segment

TINY = 1e-9


def tangent(segment: Segment, *, at_end: bool = False) -> Point:
    """Unit direction at a segment's start or end."""
    if isinstance(segment, Line):
        length = math.dist(segment.start, segment.end) or 1.0
        return ((segment.end[0] - segment.start[0]) / length, (segment.end[1] - segment.start[1]) / length)
    p = segment.end if at_end else segment.start
    r = math.dist(p, segment.centre)
    x, y = (p[0] - segment.centre[0]) / r, (p[1] - segment.centre[1]) / r
    return (-y, x) if segment.ccw else (y, -x)


def reversed_chain(chain: Sequence[Segment]) -> list[Segment]:
    """The same chain run the other way."""
    return [Line(s.end, s.start) if isinstance(s, Line) else Arc(s.end, s.start, s.centre, not s.ccw) for s in reversed(chain)]


def mirrored(chain: Sequence[Segment], *, u: bool = False, v: bool = False) -> list[Segment]:
    """The chain with its first and/or second coordinate negated; an odd number of mirrors turns arcs round."""
    su, sv = (-1.0 if u else 1.0), (-1.0 if v else 1.0)

    def put(p: Point) -> Point:
        return (p[0] * su, p[1] * sv)

    flip = u != v
    return [
        Line(put(s.start), put(s.end)) if isinstance(s, Line) else Arc(put(s.start), put(s.end), put(s.centre), s.ccw != flip)
        for s in chain
    ]


def one_arc(a: Arc, b: Arc) -> bool:
    """Does an arc go on along another one? Together they must not come round: what is left of that is the little by which they
    overlap."""
    return a.centre == b.centre and a.ccw == b.ccw and a.sweep() + b.sweep() < 2 * math.pi - 1e-6


def moved(chain: Sequence[Segment], du: float, dv: float) -> list[Segment]:
    """The chain shifted."""

    def put(p: Point) -> Point:
        return (p[0] + du, p[1] + dv)

    return [
        Line(put(s.start), put(s.end)) if isinstance(s, Line) else Arc(put(s.start), put(s.end), put(s.centre), s.ccw)
        for s in chain
    ]


def points_on(chain: Sequence[Segment], chord: float) -> list[Point]:
    """Points along a chain; chords leave arcs by no more than `chord`, in the chain's unit."""
    if not chain:
        return []
    points = [chain[0].start]
    for segment in chain:
        if isinstance(segment, Arc):
            points.extend(_arc_points(segment, chord))
        points.append(segment.end)
    return points


def _arc_points(arc: Arc, chord: float) -> list[Point]:
    r = math.dist(arc.start, arc.centre)
    turn = arc.sweep()
    step = 2 * math.acos(max(1 - chord / max(r, chord), 0.0))
    count = max(2, math.ceil(turn / step))
    a0 = math.atan2(arc.start[1] - arc.centre[1], arc.start[0] - arc.centre[0])
    sign = 1.0 if arc.ccw else -1.0
    angles = [a0 + sign * turn * k / count for k in range(1, count)]
    return [(arc.centre[0] + r * math.cos(a), arc.centre[1] + r * math.sin(a)) for a in angles]


def offset(chain: Sequence[Segment], distance: float) -> list[Segment]:
    """The chain moved to its right by `distance` (to its left when negative), corners rounded or trimmed.

    What would run backwards because there is no room for it is taken out and its neighbours are joined: a corner tighter than
    the distance disappears, as it does under a tool.
    """
    return [s for s, _ in offset_owned(chain, distance)]


def offset_owned(chain: Sequence[Segment], distance: float) -> list[tuple[Segment, Segment]]:
    """The same, each segment with the one of the chain it comes from; a rounded corner comes from the one before it."""
    if abs(distance) < TINY:
        return [(s, s) for s in chain]
    parts: list[_Part] = []
    for s in (s for s in chain if length_of(s) > TINY):
        now = shifted(s, distance)
        if now is None:
            continue
        last = parts[-1] if parts else None
        if last and math.dist(last.end, s.start) < 1e-7:
            parts += _rounding(last, now, s.start, distance)
        parts.append(_Part(now, s, s.start, s.end))
    return _joined(parts)


class _Part(NamedTuple):
    """A shifted segment, the one it comes from, and the points of the chain that its own ends belong to."""

    now: Segment
    owner: Segment
    start: Point
    end: Point


def _rounding(a: _Part, b: Segment, corner: Point, d: float) -> list[_Part]:
    """The arc round an outer corner. A part like any other: where its neighbour finds no room, it is met itself."""
    t1, t2 = tangent(a.now, at_end=True), tangent(b)
    if math.dist(a.now.end, b.start) < 1e-7 or (t1[0] * t2[1] - t1[1] * t2[0]) * d <= 0:
        return []
    return [_Part(Arc(a.now.end, b.start, corner, d > 0), a.owner, corner, corner)]


def length_of(s: Segment) -> float:
    """How long a segment is."""
    return math.dist(s.start, s.end) if isinstance(s, Line) else math.dist(s.start, s.centre) * s.sweep()


def shifted(s: Segment, d: float) -> Segment | None:
    """A segment moved to its right by `d`; None for an arc that has no radius left."""
    if isinstance(s, Line):
        tu, tv = tangent(s)
        return Line((s.start[0] + tv * d, s.start[1] - tu * d), (s.end[0] + tv * d, s.end[1] - tu * d))
    r = math.dist(s.start, s.centre)
    new = r + d if s.ccw else r - d
    if new < TINY:
        return None
    k = new / r

    def put(p: Point) -> Point:
        return (s.centre[0] + (p[0] - s.centre[0]) * k, s.centre[1] + (p[1] - s.centre[1]) * k)

    return Arc(put(s.start), put(s.end), s.centre, s.ccw)


def _joined(parts: list[_Part]) -> list[tuple[Segment, Segment]]:
    """Joins shifted segments where they meet, again and again until nothing runs backwards."""
    while parts:
        made, bad = _join_once(parts)
        if bad < 0:
            return made
        parts = parts[:bad] + parts[bad + 1 :]
    return []


def _join_once(parts: list[_Part]) -> tuple[list[tuple[Segment, Segment]], int]:
    """Parts trimmed or lengthened to where they meet, and the one that runs back the farthest, or -1."""
    cut = [p.now for p in parts]
    bridges: dict[int, Segment] = {}
    for k, (a, b) in enumerate(itertools.pairwise(parts)):
        if math.dist(a.now.end, b.now.start) < 1e-7:
            continue
        corner = ((a.end[0] + b.start[0]) / 2, (a.end[1] + b.start[1]) / 2)
        meet = meeting(a.now, b.now, corner)
        if meet is None:
            bridge = bridges[k] = Line(a.now.end, b.now.start)
            if _leads_back(bridge, a.now, b.now):  # no room for the shorter one, which is an arc too small to be met
                return [], k if length_of(a.now) < length_of(b.now) else k + 1
            continue
        cut[k] = _ended(cut[k], meet)
        cut[k + 1] = _started(cut[k + 1], meet)
    back = [_runs_back(now, part.now) for now, part in zip(cut, parts, strict=True)]
    bad = max(range(len(parts)), key=back.__getitem__)
    made: list[tuple[Segment, Segment]] = []
    for k, s in enumerate(cut):
        if length_of(s) > 1e-9:
            made.append((s, parts[k].owner))
        if k in bridges:
            made.append((bridges[k], parts[k].owner))
    return made, bad if back[bad] > 1e-9 else -1


def _leads_back(bridge: Line, a: Segment, b: Segment) -> bool:
    """Does a bridge run against both that it joins, and farther than the shorter of them is long? Then it would cut through what
    they are kept off. Shorter ones close what rounding has opened between two that only touch."""
    if length_of(bridge) < min(length_of(a), length_of(b)):
        return False
    t, before, behind = tangent(bridge), tangent(a, at_end=True), tangent(b)
    return t[0] * before[0] + t[1] * before[1] < 0 and t[0] * behind[0] + t[1] * behind[1] < 0


def _ended(s: Segment, p: Point) -> Segment:
    return Line(s.start, p) if isinstance(s, Line) else Arc(s.start, p, s.centre, s.ccw)


def _started(s: Segment, p: Point) -> Segment:
    return Line(p, s.end) if isinstance(s, Line) else Arc(p, s.end, s.centre, s.ccw)


def _runs_back(now: Segment, was: Segment) -> float:
    """How far a trimmed segment runs against its own direction; an arc that should be short but goes all the way round."""
    if isinstance(now, Line):
        tu, tv = tangent(was)
        return -((now.end[0] - now.start[0]) * tu + (now.end[1] - now.start[1]) * tv)
    assert isinstance(was, Arc)
    r = math.dist(now.start, now.centre)
    extra = now.sweep() - was.sweep()
    if math.dist(now.start, now.end) < 1e-9:
        return 0.0
    return extra * r if extra > math.pi else 0.0


def meeting(a: Segment, b: Segment, near: Point) -> Point | None:
    """Where two segments cross; else where their lines and circles do, nearest to a point; None when they do not."""
    found = crossings(a, b)
    both = [p for p in found if on_segment(a, p) and on_segment(b, p)]
    return min(both or found, key=lambda p: math.dist(p, near), default=None)


def crossings(a: Segment, b: Segment) -> list[Point]:
    """Where the lines or circles of two segments cross."""
    if isinstance(a, Line) and isinstance(b, Line):
        return _line_line(a, b)
    if isinstance(a, Line) and isinstance(b, Arc):
        return _line_circle(a, b)
    if isinstance(a, Arc) and isinstance(b, Line):
        return _line_circle(b, a)
    assert isinstance(a, Arc)
    assert isinstance(b, Arc)
    return _circle_circle(a, b)


def _line_line(a: Line, b: Line) -> list[Point]:
    (au, av), (bu, bv) = tangent(a), tangent(b)
    det = au * bv - av * bu
    if abs(det) < 1e-12:
        return []
    du, dv = b.start[0] - a.start[0], b.start[1] - a.start[1]
    s = (du * bv - dv * bu) / det
    return [(a.start[0] + au * s, a.start[1] + av * s)]


def _line_circle(a: Line, b: Arc) -> list[Point]:
    tu, tv = tangent(a)
    du, dv = b.centre[0] - a.start[0], b.centre[1] - a.start[1]
    along, off = du * tu + dv * tv, du * tv - dv * tu
    r = math.dist(b.start, b.centre)
    under = r * r - off * off
    if under < -1e-9 * max(r * r, 1.0):
        return []
    half = math.sqrt(max(under, 0.0))
    return [(a.start[0] + tu * s, a.start[1] + tv * s) for s in (along - half, along + half)]


def _circle_circle(a: Arc, b: Arc) -> list[Point]:
    ra, rb = math.dist(a.start, a.centre), math.dist(b.start, b.centre)
    d = math.dist(a.centre, b.centre)
    if d < TINY or d > ra + rb + 1e-9 or d < abs(ra - rb) - 1e-9:
        return []
    x = (d * d + ra * ra - rb * rb) / (2 * d)
    h = math.sqrt(max(ra * ra - x * x, 0.0))
    eu, ev = (b.centre[0] - a.centre[0]) / d, (b.centre[1] - a.centre[1]) / d
    cu, cv = a.centre[0] + eu * x, a.centre[1] + ev * x
    return [(cu - ev * h, cv + eu * h), (cu + ev * h, cv - eu * h)]


def cut_at(segment: Segment, p: Point) -> tuple[Segment, Segment]:
    """The parts of a segment before and behind a point on it."""
    return _ended(segment, p), _started(segment, p)


def cut_by(segment: Segment, line: Line, near: float = 1e-7) -> list[Segment]:
    """The parts of a segment between its crossings with a line without ends; what comes `near` to an end cuts nothing off."""
    ends = segment.start, segment.end
    within = [p for p in crossings(segment, line) if on_segment(segment, p) and min(math.dist(p, e) for e in ends) > near]
    found, rest = [], segment
    for p in sorted(within, key=lambda p: length_of(_ended(segment, p))):
        first, rest = cut_at(rest, p)
        found.append(first)
    return [*found, rest]


def middle_of(segment: Segment) -> Point:
    """The point half way along a segment."""
    if isinstance(segment, Line):
        return ((segment.start[0] + segment.end[0]) / 2, (segment.start[1] + segment.end[1]) / 2)
    (u, v), (cu, cv) = segment.start, segment.centre
    turn = segment.sweep() / 2 * (1.0 if segment.ccw else -1.0)
    cos, sin = math.cos(turn), math.sin(turn)
    return (cu + (u - cu) * cos - (v - cv) * sin, cv + (u - cu) * sin + (v - cv) * cos)


def on_segment(s: Segment, p: Point, slack: float = 1e-7) -> bool:
    """Does a point of the segment's line or circle lie on the segment itself?"""
    if isinstance(s, Line):
        tu, tv = tangent(s)
        along = (p[0] - s.start[0]) * tu + (p[1] - s.start[1]) * tv
        return -slack <= along <= math.dist(s.start, s.end) + slack
    if math.dist(p, s.start) < slack or math.dist(p, s.end) < slack:
        return True
    return Arc(s.start, p, s.centre, s.ccw).sweep() <= s.sweep() + 1e-9


def seen(chain: Sequence[Segment], steepest: float) -> list[Segment]:
    """The chain as far as a tool coming from the right (+u) can follow it downwards: where it falls (to -v, going to -u) more
    steeply than `steepest` degrees, a line at that angle takes its place until the chain is met again."""
    if steepest >= 90.0:
        return list(chain)
    beta = math.radians(steepest)
    ray = (-math.cos(beta), -math.sin(beta))
    rest = [piece for s in chain for piece in _parted(s, ray)]
    made: list[Segment] = []
    while rest:
        s = rest.pop(0)
        if not _too_steep(s, ray):
            made.append(s)
            continue
        start = s.start
        far = Line(start, (start[0] + ray[0] * 1e5, start[1] + ray[1] * 1e5))
        landed = _landing(far, rest, start)
        if landed is None:
            lowest = min([s.end[1], *(q.end[1] for q in rest)])
            reach = (start[1] - lowest) / -ray[1] if ray[1] else 0.0
            made.append(Line(start, (start[0] + ray[0] * reach, lowest)))
            return made
        k, p = landed
        if math.dist(start, p) > 1e-9:
            made.append(Line(start, p))
        rest = [_started(rest[k], p), *rest[k + 1 :]]
    return made


def _parted(s: Segment, ray: Point) -> list[Segment]:
    """An arc parted where its tangent is the ray's direction; lines as they are."""
    if isinstance(s, Line):
        return [s]
    r = math.dist(s.start, s.centre)
    normals = [(ray[1], -ray[0]), (-ray[1], ray[0])]
    return _split(s, [(s.centre[0] + nu * r, s.centre[1] + nv * r) for nu, nv in normals])


def _split(arc: Arc, marks: Sequence[Point]) -> list[Segment]:
    """An arc parted at those of the marks that lie within it, in its order."""
    inner = [p for p in marks if on_segment(arc, p) and math.dist(p, arc.start) > 1e-7 and math.dist(p, arc.end) > 1e-7]
    inner.sort(key=lambda p: Arc(arc.start, p, arc.centre, arc.ccw).sweep())
    parts: list[Segment] = []
    rest: Segment = arc
    for p in inner:
        before, rest = cut_at(rest, p)
        parts.append(before)
    return [*parts, rest]


def _too_steep(s: Segment, ray: Point) -> bool:
    """Does a segment fall away under the ray? Measured at its middle."""
    if isinstance(s, Line):
        t = tangent(s)
    else:
        a, b = tangent(s), tangent(s, at_end=True)
        t = (a[0] + b[0], a[1] + b[1])
    return ray[0] * t[1] - ray[1] * t[0] > 1e-7 and t[1] < 0


def _landing(ray: Line, rest: Sequence[Segment], start: Point) -> tuple[int, Point] | None:
    """The first segment of the rest that a ray meets, and where."""
    best: tuple[float, int, Point] | None = None
    for k, s in enumerate(rest):
        for p in crossings(ray, s):
            far = math.dist(start, p)
            if far > 1e-7 and on_segment(s, p) and on_segment(ray, p) and (best is None or far < best[0]):
                best = (far, k, p)
    return (best[1], best[2]) if best else None


def boxed(chain: Sequence[Segment], du: float, dv: float) -> list[Segment]:
    """The chain moved to its right by an allowance that differs along the axes: `du` on faces across u, `dv` along it.

    Every piece is shifted by the corner of the box its normal points to; arcs are parted at their quadrants first.
    """
    if abs(du) < TINY and abs(dv) < TINY:
        return list(chain)
    parts: list[tuple[Segment, Segment, Point]] = []
    for s in (piece for whole in chain for piece in quadrants(whole)):
        t = tangent(s) if isinstance(s, Line) else _middle_tangent(s)
        shift = (_sign(t[1]) * du, _sign(-t[0]) * dv)
        parts.append((moved([s], *shift)[0], s, shift))
    made: list[_Part] = []
    for k, (now, was, shift) in enumerate(parts):
        if k:
            made += [_Part(line, line, line.start, line.end) for line in _box_corner(parts[k - 1], (now, was, shift))]
        made.append(_Part(now, was, was.start, was.end))
    return _merged([s for s, _ in _joined(made)])


def _box_corner(a: tuple[Segment, Segment, Point], b: tuple[Segment, Segment, Point]) -> list[Line]:
    """The way round an outer corner of two shifted pieces, along the sides of the box; nothing where they overlap."""
    start, end, corner = a[0].end, b[0].start, b[1].start
    if math.dist(start, end) < 1e-9:
        return []
    t1, t2 = tangent(a[0], at_end=True), tangent(b[0])
    ahead = (end[0] - start[0]) * t1[0] + (end[1] - start[1]) * t1[1]
    if t1[0] * t2[1] - t1[1] * t2[0] < -1e-9 or ahead < -1e-9:
        return []
    middle = (corner[0] + (a[2][0] or b[2][0]), corner[1] + (a[2][1] or b[2][1]))
    way = [start, *([middle] if min(math.dist(middle, start), math.dist(middle, end)) > 1e-9 else []), end]
    return [Line(p, q) for p, q in itertools.pairwise(way)]


def _merged(chain: list[Segment]) -> list[Segment]:
    """Lines in one line become one."""
    made: list[Segment] = []
    for s in chain:
        last = made[-1] if made else None
        if isinstance(last, Line) and isinstance(s, Line) and math.dist(tangent(last), tangent(s)) < 1e-9:
            made[-1] = Line(last.start, s.end)
        else:
            made.append(s)
    return made


def _sign(v: float) -> float:
    return 0.0 if abs(v) < 1e-9 else math.copysign(1.0, v)


def _middle_tangent(arc: Arc) -> Point:
    a, b = tangent(arc), tangent(arc, at_end=True)
    return (a[0] + b[0], a[1] + b[1])


def quadrants(s: Segment) -> list[Segment]:
    """An arc parted where it runs along an axis; lines as they are."""
    if isinstance(s, Line):
        return [s]
    r = math.dist(s.start, s.centre)
    return _split(s, [(s.centre[0] + r * c, s.centre[1] + r * d) for c, d in ((1, 0), (0, 1), (-1, 0), (0, -1))])


def between(chain: Sequence[Segment], right: float, left: float) -> list[Segment]:
    """The part of a chain that lies between two lengths of its first coordinate; it runs from right to left."""
    found: list[Segment] = []
    for s in chain:
        rest: Segment | None = s
        for edge, keep_after in ((right, True), (left, False)):
            if rest is None:
                break
            rest = _clipped(rest, edge, after=keep_after)
        if rest is not None:
            found.append(rest)
    return found


def _clipped(s: Segment, u: float, *, after: bool) -> Segment | None:
    """The part of a segment left of `u` (after) or right of it."""
    sign = 1.0 if after else -1.0
    begins, ends = ((x - u) * sign <= 1e-9 for x in (s.start[0], s.end[0]))
    if begins and ends:
        return s
    if not begins and not ends:
        return None
    p = meeting(Line((u, -1e5), (u, 1e5)), s, s.start if begins else s.end)
    if p is None or not on_segment(s, p):
        return None
    before, behind = cut_at(s, p)
    return before if begins else behind
