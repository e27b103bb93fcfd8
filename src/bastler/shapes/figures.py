"""Closed chains of figures that have a name: circles, polygons, slots, bands along an arc. All run counter-clockwise."""

from __future__ import annotations

import math
from collections.abc import Sequence

from bastler.shapes.chain import reversed_chain
from bastler.shapes.corners import Corner, with_corners
from bastler.shapes.frame import Frame
from bastler.shapes.rounded import Arc, Line, Point, Segment

Loop = list[Segment]


def circle(x: float, y: float, radius: float) -> Loop:
    """A whole turn, from 3 o'clock."""
    at = (x + radius, y)
    return [Arc(at, at, (x, y))]


def polygon(points: Sequence[Point], corner: Corner | None = None) -> tuple[Loop, str]:
    """A chain through points, each corner alike; and what is wrong, where a corner is larger than its sides."""
    n = len(points)
    chain: Loop = [Line(points[k], points[(k + 1) % n]) for k in range(n)]
    if corner is None or corner.size <= 0:
        return chain, ""
    placed, wrong = with_corners(chain, dict.fromkeys(range(n), corner), closed=True)
    return [p.segment for p in placed], wrong[0][1] if wrong else ""


def rectangle(frame: Frame, length: float, width: float) -> list[Point]:
    """Corners about the frame's origin."""
    a, b = length / 2, width / 2
    return [frame.place(u, v) for u, v in ((-a, -b), (a, -b), (a, b), (-a, b))]


def regular(frame: Frame, sides: int, across: float) -> list[Point]:
    """Corners of a regular polygon of that size across its flats (for an odd number of sides: twice the distance of a side from
    the centre). A side lies square to the frame's first axis."""
    far = across / 2 / math.cos(math.pi / sides)
    angles = (math.pi * (2 * k + 1) / sides for k in range(-1, sides - 1))
    return [frame.place(far * math.cos(a), far * math.sin(a)) for a in angles]


def across_corners(sides: int, across: float) -> float:
    """Diameter of the circle through the corners of a regular polygon."""
    return across / math.cos(math.pi / sides)


def slot(frame: Frame, length: float, width: float) -> Loop:
    """A straight slot with round ends; `length` over all."""
    r, half = width / 2, (length - width) / 2
    if half <= 0:
        return circle(frame.x, frame.y, r)
    a, b, c, d = (frame.place(u, v) for u, v in ((-half, -r), (half, -r), (half, r), (-half, r)))
    return [Line(a, b), Arc(b, c, frame.place(half, 0.0)), Line(c, d), Arc(d, a, frame.place(-half, 0.0))]


def arc_band(x: float, y: float, radius: float, width: float, start: float, sweep: float) -> Loop:
    """A slot along an arc, with round ends: from `start` degrees counter-clockwise through `sweep` to the middles of the ends."""
    r = width / 2

    def at(far: float, degrees: float) -> Point:
        return (x + far * math.cos(math.radians(degrees)), y + far * math.sin(math.radians(degrees)))

    end = start + sweep
    return [
        Arc(at(radius + r, start), at(radius + r, end), (x, y)),
        Arc(at(radius + r, end), at(radius - r, end), at(radius, end)),
        Arc(at(radius - r, end), at(radius - r, start), (x, y), ccw=False),
        Arc(at(radius - r, start), at(radius + r, start), at(radius, start)),
    ]


def ring(x: float, y: float, radius: float, width: float) -> list[Loop]:
    """A groove all round: the outer loop, and the inner one that stays."""
    return [circle(x, y, radius + width / 2), reversed_chain(circle(x, y, radius - width / 2))]
