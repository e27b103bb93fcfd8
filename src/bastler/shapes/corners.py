"""What is put where two segments of an outline meet: radii, edge breaks, reliefs."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import msgspec

from bastler.language import tr
from bastler.shapes.chain import crossings, cut_at, on_segment, reversed_chain, shifted, tangent
from bastler.shapes.reliefs import face_relief, shaft_relief, thread_relief
from bastler.shapes.rounded import Arc, Line, Point, Segment

CornerKind = Literal["radius", "edge", "relief-e", "relief-f", "thread-relief"]
SQUARE = 1e-6


class Corner(msgspec.Struct, frozen=True):
    """`size` is the radius, the leg of an edge break along the segment before, the radius of a relief, the pitch of a thread
    relief; `angle` of an edge break in degrees from the segment before; `depth` of a relief."""

    kind: CornerKind
    size: float
    angle: float = 45.0
    depth: float = 0.0


class Placed(msgspec.Struct, frozen=True):
    """A piece of the finished chain: the number of the segment it comes from, and whether it is that segment's corner."""

    segment: Segment
    owner: int
    corner: bool = False


Joined = tuple[Segment, list[Segment], Segment]


def with_corners(
    chain: Sequence[Segment], corners: dict[int, Corner], *, closed: bool
) -> tuple[list[Placed], list[tuple[int, str]]]:
    """The chain with the corners put in; corner `k` lies between segments k and k + 1. Also what does not fit, by number."""
    placed: list[list[Placed]] = [[Placed(s, k)] for k, s in enumerate(chain)]
    troubles: list[tuple[int, str]] = []
    for k, corner in sorted(corners.items()):
        after = (k + 1) % len(chain)
        if k + 1 == len(chain) and not closed:
            troubles.append((k, tr("A segment has to follow its corner.")))
            continue
        a, b = placed[k][-1] if not placed[k][-1].corner else placed[k][0], placed[after][0]
        joined = join(a.segment, b.segment, corner)
        if isinstance(joined, str):
            troubles.append((k, joined))
            continue
        first, middle, last = joined
        placed[k] = [Placed(first, k), *(Placed(s, k, corner=True) for s in middle)]
        placed[after] = [Placed(last, after), *placed[after][1:]] if after != k else placed[after]
    return [p for own in placed for p in own if _long(p.segment)], troubles


def _long(s: Segment) -> bool:
    return isinstance(s, Arc) or math.dist(s.start, s.end) > 1e-9


def join(a: Segment, b: Segment, corner: Corner) -> Joined | str:
    """Two segments that meet, shortened, with what is between them; or why that does not go."""
    if corner.kind == "radius":
        return _rounded(a, b, corner.size)
    if corner.kind == "edge":
        return _broken(a, b, corner.size, corner.size * math.tan(math.radians(corner.angle)))
    return _relieved(a, b, corner)


def _rounded(a: Segment, b: Segment, radius: float) -> Joined | str:
    """A radius touching both: its centre is as far from one as from the other."""
    t1, t2 = tangent(a, at_end=True), tangent(b)
    cross = t1[0] * t2[1] - t1[1] * t2[0]
    if abs(cross) < 1e-9:
        return tr("Its neighbours already run into one another.")
    side = -radius if cross > 0 else radius
    one, two = shifted(a, side), shifted(b, side)
    if one is None or two is None:
        return tr("R{radius:.4g} is too big for its neighbours: an arc there is smaller.", radius=radius)
    centres = crossings(one, two)
    if not centres:
        return tr("R{radius:.4g} is too big: it touches only one of its neighbours.", radius=radius)
    centre = min(centres, key=lambda c: math.dist(c, a.end))
    p, q = _foot(a, centre), _foot(b, centre)
    over = max(_beyond(a, p, at_start=True), _beyond(b, q, at_start=False))
    if over > 1e-9:
        return tr("Too big for its neighbours by {over:.4g}.", over=over)
    return cut_at(a, p)[0], [Arc(p, q, centre, cross > 0)], cut_at(b, q)[1]


def _foot(s: Segment, centre: Point) -> Point:
    """The point of a segment's line or circle nearest to a point."""
    if isinstance(s, Line):
        tu, tv = tangent(s)
        along = (centre[0] - s.start[0]) * tu + (centre[1] - s.start[1]) * tv
        return (s.start[0] + tu * along, s.start[1] + tv * along)
    r, d = math.dist(s.start, s.centre), math.dist(centre, s.centre)
    if d < 1e-12:
        return s.start
    return (s.centre[0] + (centre[0] - s.centre[0]) * r / d, s.centre[1] + (centre[1] - s.centre[1]) * r / d)


def _beyond(s: Segment, p: Point, *, at_start: bool) -> float:
    """How far a point of a segment's line or circle lies outside of it, over its start or over its end."""
    if isinstance(s, Line):
        tu, tv = tangent(s)
        along = (p[0] - s.start[0]) * tu + (p[1] - s.start[1]) * tv
        return -along if at_start else along - math.dist(s.start, s.end)
    if on_segment(s, p):
        return 0.0
    r = math.dist(s.start, s.centre)
    outer = Arc(p, s.start, s.centre, s.ccw) if at_start else Arc(s.end, p, s.centre, s.ccw)
    return outer.sweep() * r


def _broken(a: Segment, b: Segment, one: float, two: float) -> Joined | str:
    p, q = _at_leg(reversed_chain([a])[0], one), _at_leg(b, two)
    over = max(_too_short(a, one), _too_short(b, two))
    if p is None or q is None or over > 1e-9:
        return tr("Too big for its neighbours by {over:.4g}.", over=over)
    return cut_at(a, p)[0], [Line(p, q)], cut_at(b, q)[1]


def _at_leg(s: Segment, leg: float) -> Point | None:
    """The point of a segment as far from its start as a leg is long."""
    if isinstance(s, Line):
        tu, tv = tangent(s)
        return (s.start[0] + tu * leg, s.start[1] + tv * leg)
    (x, y) = s.start
    ring = Arc((x + leg, y), (x + leg, y), s.start)
    found = [p for p in crossings(s, ring) if on_segment(s, p)]
    return min(found, key=lambda p: Arc(s.start, p, s.centre, s.ccw).sweep(), default=None)


def _too_short(s: Segment, leg: float) -> float:
    return leg - math.dist(s.start, s.end) if isinstance(s, Line) or s.sweep() < math.pi else 0.0


def _relieved(a: Segment, b: Segment, corner: Corner) -> Joined | str:
    """A relief in the corner of a cylinder and a shoulder, whichever comes first."""
    t1, t2 = tangent(a, at_end=True), tangent(b)
    if not isinstance(a, Line) or not isinstance(b, Line) or abs(t1[0] * t2[0] + t1[1] * t2[1]) > SQUARE:
        return tr("A relief goes between a cylinder and a square shoulder.")
    shaft_first = abs(t1[1]) < SQUARE
    if not shaft_first and abs(t2[1]) > SQUARE:
        return tr("A relief goes between a cylinder and a square shoulder.")
    shape = {
        "relief-e": lambda: shaft_relief(corner.size, corner.depth),
        "relief-f": lambda: face_relief(corner.size, corner.depth),
        "thread-relief": lambda: thread_relief(corner.size),
    }[corner.kind]()
    back, up = ((-t1[0], -t1[1]), t2) if shaft_first else (t2, (-t1[0], -t1[1]))

    def put(p: Point) -> Point:
        return (a.end[0] + back[0] * p[0] + up[0] * p[1], a.end[1] + back[1] * p[0] + up[1] * p[1])

    flip = back[0] * up[1] - back[1] * up[0] < 0
    chain = [
        Line(put(s.start), put(s.end)) if isinstance(s, Line) else Arc(put(s.start), put(s.end), put(s.centre), s.ccw != flip)
        for s in shape
    ]
    if not shaft_first:
        chain = reversed_chain(chain)
    over = max(_beyond(a, chain[0].start, at_start=True), _beyond(b, chain[-1].end, at_start=False))
    if over > 1e-9:
        return tr("The relief is too long for its neighbours by {over:.4g}.", over=over)
    return Line(a.start, chain[0].start), chain, Line(chain[-1].end, b.end)
