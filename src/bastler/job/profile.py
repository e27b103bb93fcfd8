"""What of a drawn chain is the profile of a turned part: X along its axis, which lies at Y 0, the front to the right."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from bastler.shapes.chain import cut_by, length_of, middle_of, mirrored, reversed_chain
from bastler.shapes.rounded import Line, Segment

AXIS = Line((-1.0, 0.0), (1.0, 0.0))


def profile_of(chain: Sequence[Segment], near: float, *, closed: bool) -> list[Segment]:
    """The profile, from the front toward the chuck: of a part drawn whole its upper half, of one drawn below its axis that turned
    up, of a half section its outside; without its end faces, and what lies on the axis within `near`. Empty where nothing lies
    off the axis."""
    pieces = [part for segment in chain for part in cut_by(segment, AXIS, near)]
    above = [middle_of(piece)[1] for piece in pieces]
    if not any(v > near for v in above):
        pieces, above = mirrored(pieces, v=True), [-v for v in above]
    runs = _runs(pieces, [v > near for v in above], closed=closed)
    if not runs:
        return []
    own = max(runs, key=lambda run: sum(map(length_of, run)))
    if closed and len(own) == len(pieces):
        return _outside(own)
    own = own if own[0].start[0] >= own[-1].end[0] else reversed_chain(own)
    return _without_ends(own, near) if closed else own


def _without_ends(own: list[Segment], near: float) -> list[Segment]:
    """Without the faces at its ends, which go to the axis."""
    first = 1 if own[0].start[1] <= near and abs(own[0].start[0] - own[0].end[0]) <= near else 0
    last = len(own) - (1 if own[-1].end[1] <= near and abs(own[-1].start[0] - own[-1].end[0]) <= near else 0)
    return own[first:last] if first < last else own


def _runs(pieces: Sequence[Segment], kept: Sequence[bool], *, closed: bool) -> list[list[Segment]]:
    """The stretches of a chain that are kept; in a closed one the last may go on in the first."""
    if not all(kept) and closed:
        begin = next(k for k, keep in enumerate(kept) if not keep)
        pieces, kept = [*pieces[begin:], *pieces[:begin]], [*kept[begin:], *kept[:begin]]
    groups = itertools.groupby(zip(pieces, kept, strict=True), key=lambda entry: entry[1])
    return [[piece for piece, _ in group] for keep, group in groups if keep]


def _outside(ring: Sequence[Segment]) -> list[Segment]:
    """Of a closed half section that keeps off its axis, a bush, what lies between its two ends on the outside."""
    starts = [piece.start for piece in ring]
    front = max(range(len(ring)), key=lambda k: (starts[k][0], starts[k][1]))
    back = max(range(len(ring)), key=lambda k: (-starts[k][0], starts[k][1]))
    turned = [*ring[front:], *ring[:front]]
    split = (back - front) % len(ring)
    ways = [turned[:split], reversed_chain(turned[split:])]
    return max(ways, key=lambda way: max((middle_of(piece)[1] for piece in way), default=0.0))
