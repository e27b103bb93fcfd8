"""An outline of turned work parted at a length: what lies in front of that, and what lies behind it, from the other end."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import NamedTuple

import msgspec

from bastler.shapes.chain import cut_by, middle_of, mirrored, moved, reversed_chain
from bastler.shapes.drawn import Drawn
from bastler.shapes.rounded import Line, Segment

NEAR = 1e-7
"""So near to the line a point lies on it."""


class Piece(NamedTuple):
    """A piece of a chain: the segment it is of, whether it is a corner, and on which side of the line it lies: 1 in front, -1
    behind, 0 on it."""

    segment: Segment
    owner: int
    corner: bool
    side: int


def in_front(drawn: Drawn, at: float) -> Drawn:
    """What of a drawn outline lies in front of a length, from its begin to where it first comes there."""
    return _made(drawn, list(itertools.takewhile(lambda piece: piece.side > 0, _pieces(drawn, at))))


def within(drawn: Drawn, right: float, left: float) -> Drawn:
    """What of a drawn outline lies between two lengths, `right` in front of `left`: from where it first comes there; a wall on
    the line in front belongs to it."""
    return _made(drawn, [*itertools.dropwhile(lambda piece: piece.side > 0, _pieces(in_front(drawn, left), right))])


def from_behind(drawn: Drawn, at: float, length: float) -> Drawn:
    """What lies behind a length, from the end of the outline to there, as it is seen from the other end of a part so long: there
    the part's back is at zero. A wall on the line that falls toward the back belongs to it."""
    pieces = _pieces(drawn, at)
    ahead = next((k for k in range(len(pieces), 0, -1) if pieces[k - 1].side > 0), 0)
    own = pieces[ahead:]
    rising = itertools.takewhile(lambda piece: piece.side == 0 and piece.segment.end[1] >= piece.segment.start[1], own)
    own = own[len(list(rising)) :]
    chain = moved(mirrored(reversed_chain([piece.segment for piece in own]), u=True), -length, 0.0)
    turned = [piece._replace(segment=segment) for piece, segment in zip(reversed(own), chain, strict=True)]
    return _made(drawn, turned)


def crosses_once(drawn: Drawn, at: float) -> bool:
    """Does an outline come from in front of a length behind it, and never back?"""
    sides = [piece.side for piece in _pieces(drawn, at) if piece.side]
    return sides == sorted(sides, reverse=True)


def widest(drawn: Drawn) -> float | None:
    """The middle of where an outline is largest, along the axis: there it is best parted; None for an outline without a chain."""
    ends = [(p[0], p[1]) for segment in drawn.chain for p in (segment.start, segment.end)]
    top = max((r for _, r in ends), default=None)
    if top is None:
        return None
    along = [z for z, r in ends if abs(r - top) <= NEAR]
    return (min(along) + max(along)) / 2


def _made(drawn: Drawn, pieces: Sequence[Piece]) -> Drawn:
    """An outline of these pieces."""
    return msgspec.structs.replace(
        drawn,
        chain=tuple(piece.segment for piece in pieces),
        owners=tuple(piece.owner for piece in pieces),
        corners=tuple(piece.corner for piece in pieces),
    )


def _pieces(drawn: Drawn, at: float) -> list[Piece]:
    """The chain parted wherever it crosses a length."""
    line = Line((at, -1.0), (at, 1.0))
    return [
        Piece(part, owner, corner, _side(part, at))
        for segment, owner, corner in zip(drawn.chain, drawn.owners, drawn.corners, strict=True)
        for part in cut_by(segment, line, NEAR)
    ]


def _side(segment: Segment, at: float) -> int:
    """On which side of a length a piece lies that does not cross it."""
    ahead = middle_of(segment)[0] - at
    return 0 if abs(ahead) <= NEAR else 1 if ahead > 0 else -1
