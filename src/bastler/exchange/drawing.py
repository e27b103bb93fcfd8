"""What a drawing from outside holds, and the one error of all that come from there."""

from __future__ import annotations

import math
from collections.abc import Iterator

import msgspec

from bastler.shapes import Segment


class DrawingError(Exception):
    """A drawing that cannot be used."""


class Piece(msgspec.Struct, frozen=True):
    """Segments that hang together as the drawing has them, on a layer."""

    layer: str
    segments: tuple[Segment, ...]


class Hole(msgspec.Struct, frozen=True):
    """A whole circle."""

    layer: str
    x: float
    y: float
    diameter: float


class Drawing(msgspec.Struct, frozen=True):
    """What a file holds, in the unit asked for: pieces, circles, layers, how many of what kind were passed over, and the unit the
    file says it is in (empty: it does not say)."""

    pieces: tuple[Piece, ...]
    holes: tuple[Hole, ...]
    layers: tuple[str, ...]
    passed: dict[str, int]
    unit: str


def hole_groups(holes: tuple[Hole, ...], slack: float) -> Iterator[tuple[float, list[tuple[float, float]]]]:
    """Circles by diameter, as (diameter, centres), the smallest first; one centre only once."""
    left = sorted(holes, key=lambda h: h.diameter)
    while left:
        first = left[0].diameter
        own = [h for h in left if h.diameter - first <= slack]
        left = left[len(own) :]
        centres: list[tuple[float, float]] = []
        for h in own:
            if all(math.dist(c, (h.x, h.y)) > slack for c in centres):
                centres.append((h.x, h.y))
        yield first, centres
