"""The edge of an insert that was ground to a shape of its own: a chain from its left end to its right, as it lies in a groove."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Literal

import msgspec

from bastler.language import tr
from bastler.shapes import Arc, Line, Segment
from bastler.shapes.chain import points_on, reversed_chain

Point = tuple[float, float]
CHORD_MM = 0.0004
"""How far, in mm, a chord of an edge may leave its arc."""
SLIVER = 1e-9
"""Strips of an edge that are narrower, as a share of it, hold nothing."""


class EdgePiece(msgspec.Struct, frozen=True):
    """One line or arc of an edge, from where the one before it ended to (x, y); about (cx, cy), `turn` 1 counter-clockwise, -1
    clockwise, 0 for a line. x runs to the right from the edge's left end, y out of the material from its lowest place. The first
    of an edge is where that begins."""

    x: float
    y: float
    cx: float = 0.0
    cy: float = 0.0
    turn: Literal[-1, 0, 1] = 0


Edge = tuple[EdgePiece, ...]


def edge_of(chain: Sequence[Segment]) -> Edge:
    """The edge that cuts a groove of that shape, which is seen with its material below. ValueError for a shape that no insert
    could be drawn out of straight."""
    if not chain:
        raise ValueError(tr("The outline is not complete yet."))
    way = reversed_chain(chain) if chain[0].start[0] > chain[-1].end[0] else list(chain)
    points = points_on(way, CHORD_MM)
    long = max(u for u, _ in points) - min(u for u, _ in points)
    if any(b[0] < a[0] - 1e-9 * max(long, 1.0) for a, b in itertools.pairwise(points)):
        raise ValueError(tr("It goes back under itself: no insert of that shape would come out of its groove."))
    u0, v0 = min(u for u, _ in points), min(v for _, v in points)
    pieces = [EdgePiece(_clean(way[0].start[0] - u0), _clean(way[0].start[1] - v0))]
    for s in way:
        end = (_clean(s.end[0] - u0), _clean(s.end[1] - v0))
        if isinstance(s, Line):
            pieces.append(EdgePiece(*end))
        else:
            pieces.append(EdgePiece(*end, _clean(s.centre[0] - u0), _clean(s.centre[1] - v0), 1 if s.ccw else -1))
    return tuple(pieces)


def chain_of(edge: Edge) -> list[Segment]:
    """The edge as a chain from left to right."""
    found: list[Segment] = []
    for a, b in itertools.pairwise(edge):
        start, end = (a.x, a.y), (b.x, b.y)
        found.append(Arc(start, end, (b.cx, b.cy), b.turn > 0) if b.turn else Line(start, end))
    return [s for s in found if isinstance(s, Arc) or math.dist(s.start, s.end) > 0.0]


def scaled(edge: Edge, k: float) -> Edge:
    """The edge with its lengths in another unit."""
    return tuple(EdgePiece(p.x * k, p.y * k, p.cx * k, p.cy * k, p.turn) for p in edge)


def strips(edge: Edge, chord: float, high: float) -> list[list[Point]]:
    """The insert over its edge up to a height as convex strips side by side."""
    points = points_on(chain_of(edge), chord)
    wide = points[-1][0] - points[0][0]
    return [[a, b, (b[0], high), (a[0], high)] for a, b in itertools.pairwise(points) if b[0] - a[0] > SLIVER * wide]


def edge_fault(edge: Edge) -> str:
    """Why an edge is none; empty where it is one."""
    if len(edge) < 2 or len(edge) > MOST_PIECES:
        return tr("An edge has between 1 and {most_pieces} pieces.", most_pieces=MOST_PIECES - 1)
    numbers = [value for p in edge for value in (p.x, p.y, p.cx, p.cy)]
    if not all(math.isfinite(value) and abs(value) < FARTHEST for value in numbers):
        return tr("A length of its edge is none.")
    for a, b in itertools.pairwise(edge):
        if b.turn and abs(math.dist((a.x, a.y), (b.cx, b.cy)) - math.dist((b.x, b.y), (b.cx, b.cy))) > ROUND * max(
            1.0, abs(b.cx)
        ):
            return tr("An arc of its edge is not round.")
    try:
        again = edge_of(chain_of(edge))
    except ValueError as error:
        return str(error)
    return (
        ""
        if math.dist((again[0].x, again[0].y), (edge[0].x, edge[0].y)) < ROUND
        else tr("Its edge does not begin at its left end.")
    )


MOST_PIECES, FARTHEST, ROUND = 200, 1e4, 1e-4


def _clean(length: float) -> float:
    return round(length, 9) + 0.0
