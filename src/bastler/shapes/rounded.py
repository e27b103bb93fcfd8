"""Chains of lines and arcs that stay lines and arcs."""

from __future__ import annotations

import math

import msgspec
from shapely.geometry import Polygon

from bastler.shapes.frame import Frame

Point = tuple[float, float]
WHOLE = 1e-12
"""An arc that turns by less than this (radians) goes all round."""


class Line(msgspec.Struct, frozen=True):
    """From `start` to `end`."""

    start: Point
    end: Point


class Arc(msgspec.Struct, frozen=True):
    """From `start` to `end` about `centre`; counter-clockwise when `ccw`."""

    start: Point
    end: Point
    centre: Point
    ccw: bool = True

    def sweep(self) -> float:
        """Angle in radians, positive, in (0, 2π]."""
        a0 = math.atan2(self.start[1] - self.centre[1], self.start[0] - self.centre[0])
        a1 = math.atan2(self.end[1] - self.centre[1], self.end[0] - self.centre[0])
        turn = (a1 - a0) if self.ccw else (a0 - a1)
        turn %= 2 * math.pi
        return turn if turn > WHOLE else 2 * math.pi


Segment = Line | Arc


def rounded_rectangle(frame: Frame, length: float, width: float, radius: float, *, ccw: bool = True) -> list[Segment]:
    """A closed chain around the frame's origin, starting in the middle of the lower long side.

    `length` along the frame's first axis, `width` along its second, corner `radius` (0: sharp), all in the job's unit.
    A radius is cut to half the shorter side. Sides of no length are left out.
    """
    a, b = length / 2, width / 2
    r = min(radius, a, b)
    chain: list[Segment] = []
    corners = [(a - r, -b + r), (a - r, b - r), (-a + r, b - r), (-a + r, -b + r)]
    at: Point = (0.0, -b)
    for k, (cx, cy) in enumerate(corners):
        out, along = ((0, -1), (1, 0), (0, 1), (-1, 0))[k], ((1, 0), (0, 1), (-1, 0), (0, -1))[k]
        begin = (cx + out[0] * r, cy + out[1] * r)
        finish = (cx + along[0] * r, cy + along[1] * r)
        _line(chain, at, begin)
        if r > 0:
            chain.append(Arc(begin, finish, (cx, cy)))
        at = finish
    _line(chain, at, (0.0, -b))
    placed = [_placed(segment, frame) for segment in chain]
    return placed if ccw else [_reversed(segment) for segment in reversed(placed)]


def _line(chain: list[Segment], start: Point, end: Point) -> None:
    if math.dist(start, end) > 1e-12:
        chain.append(Line(start, end))


def _placed(segment: Segment, frame: Frame) -> Segment:
    if isinstance(segment, Line):
        return Line(frame.place(*segment.start), frame.place(*segment.end))
    return Arc(frame.place(*segment.start), frame.place(*segment.end), frame.place(*segment.centre), segment.ccw)


def _reversed(segment: Segment) -> Segment:
    if isinstance(segment, Line):
        return Line(segment.end, segment.start)
    return Arc(segment.end, segment.start, segment.centre, not segment.ccw)


def as_polygon(chain: list[Segment], steps: int = 64) -> Polygon:
    """The region inside a closed chain, arcs as `steps` chords a quarter turn (corners lie on the arc)."""
    points: list[Point] = []
    for segment in chain:
        points.append(segment.start)
        if isinstance(segment, Arc):
            points.extend(_between(segment, steps))
    return Polygon(points)


def _between(arc: Arc, steps: int) -> list[Point]:
    r = math.dist(arc.start, arc.centre)
    a0 = math.atan2(arc.start[1] - arc.centre[1], arc.start[0] - arc.centre[0])
    turn = arc.sweep() if arc.ccw else -arc.sweep()
    count = max(2, math.ceil(abs(turn) / (math.pi / 2) * steps))
    angles = [a0 + turn * k / count for k in range(1, count)]
    return [(arc.centre[0] + r * math.cos(a), arc.centre[1] + r * math.sin(a)) for a in angles]
