"""Single lines and arcs of a drawing joined to chains; small gaps are closed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import msgspec
import numpy as np

from bastler.exchange.drawing import Piece
from bastler.language import many, tr
from bastler.shapes import Arc, Line, Segment
from bastler.shapes.chain import cut_at, meeting, reversed_chain

Point = tuple[float, float]


class Joined(msgspec.Struct, frozen=True):
    """A chain on a layer; `gaps` are how many ends did not meet by themselves, the widest was `widest`."""

    layer: str
    segments: tuple[Segment, ...]
    closed: bool
    gaps: int = 0
    widest: float = 0.0

    @property
    def says(self) -> str:
        """What it is, in a few words."""
        return f"{tr('closed') if self.closed else tr('open')}, {many(len(self.segments), 'segment')}"


def joined(pieces: Sequence[Piece], gap: float) -> list[Joined]:
    """Chains of pieces of one layer whose ends lie within `gap` of each other; where more than two meet, the nearest goes on."""
    found = []
    for layer in dict.fromkeys(p.layer for p in pieces):
        found += _of_layer(layer, [list(p.segments) for p in pieces if p.layer == layer], gap)
    return found


def _of_layer(layer: str, chains: list[list[Segment]], gap: float) -> list[Joined]:
    from scipy.spatial import cKDTree  # half a second to load: not before a drawing is read

    ends = np.array([p for c in chains for p in (c[0].start, c[-1].end)])
    tree = cKDTree(ends)
    free = set(range(len(chains)))
    made = []
    for first in range(len(chains)):
        if first not in free:
            continue
        free.discard(first)
        way = list(chains[first])
        way = _grown(way, chains, tree, free, gap)
        if not _meets(way, gap):
            way = reversed_chain(_grown(reversed_chain(way), chains, tree, free, gap))
        made.append(_closed_up(layer, way, gap))
    return made


def _meets(way: Sequence[Segment], gap: float) -> bool:
    return math.dist(way[0].start, way[-1].end) <= gap and (len(way) > 1 or isinstance(way[0], Arc))


def _grown(way: list[Segment], chains: list[list[Segment]], tree: Any, free: set[int], gap: float) -> list[Segment]:
    """The chain with all that goes on from its end."""
    while not _meets(way, gap):
        end = way[-1].end
        near = sorted(tree.query_ball_point(end, gap + 1e-12), key=lambda k: math.dist(tree.data[k], end))
        k = next((k for k in near if k // 2 in free), None)
        if k is None:
            return way
        free.discard(k // 2)
        way = way + (chains[k // 2] if k % 2 == 0 else reversed_chain(chains[k // 2]))
    return way


def _closed_up(layer: str, way: list[Segment], gap: float) -> Joined:
    """The chain with its ends laid on each other."""
    closed = _meets(way, gap)
    made: list[Segment] = [way[0]]
    gaps, widest = 0, 0.0
    for s in way[1:]:
        off = math.dist(made[-1].end, s.start)
        if off > 1e-9:
            gaps, widest = gaps + 1, max(widest, off)
        made[-1:] = _bridged(made[-1], s, off)
    if closed and len(made) > 1:
        off = math.dist(made[-1].end, made[0].start)
        if off > 1e-9:
            gaps, widest = gaps + 1, max(widest, off)
        *front, first = _bridged(made[-1], made[0], off)
        made = [first, *made[1:-1], *front]
    return Joined(layer, tuple(made), closed, gaps, widest)


def _bridged(a: Segment, b: Segment, off: float) -> list[Segment]:
    """Two segments that should meet: trimmed to where they cross, moved on to each other, or with a short line between."""
    if off <= 1e-12:
        return [a, b]
    middle = ((a.end[0] + b.start[0]) / 2, (a.end[1] + b.start[1]) / 2)
    p = meeting(a, b, middle)
    if p is not None and math.dist(p, middle) <= 4 * off:
        return [cut_at(a, p)[0], cut_at(b, p)[1]]
    if isinstance(a, Line):
        return [Line(a.start, b.start), b]
    if isinstance(b, Line):
        return [a, Line(a.end, b.end)]
    return [a, Line(a.end, b.start), b]
