"""Putting things somewhere else in the plan: shifted, turned, mirrored."""

from __future__ import annotations

import math
from collections.abc import Sequence

import msgspec
from shapely import affinity

from bastler.shapes.bevel import Bevel
from bastler.shapes.furrow import Furrow
from bastler.shapes.removal import Flat, Removal, Revolved
from bastler.shapes.rounded import Arc, Line, Segment

Point = tuple[float, float]


class Placing(msgspec.Struct, frozen=True):
    """(x, y) becomes (a x + b y + u, c x + d y + v); lengths stay what they are."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 1.0
    u: float = 0.0
    v: float = 0.0

    def at(self, x: float, y: float) -> Point:
        """Where a point comes to."""
        return (self.a * x + self.b * y + self.u, self.c * x + self.d * y + self.v)

    @property
    def mirrors(self) -> bool:
        """Does it turn left into right?"""
        return self.a * self.d - self.b * self.c < 0

    @property
    def shifts(self) -> bool:
        """Does it nothing but shift?"""
        return (self.a, self.b, self.c, self.d) == (1.0, 0.0, 0.0, 1.0)


def shifted_by(u: float, v: float) -> Placing:
    """Along X and Y."""
    return Placing(u=u, v=v)


def turned_about(x: float, y: float, degrees: float) -> Placing:
    """Counter-clockwise about a point, exact at quarter turns."""
    quarter, rest = divmod(degrees, 90.0)
    cos, sin = ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[int(quarter) % 4]
    if rest:
        cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return Placing(cos, -sin, sin, cos, x - cos * x + sin * y, y - sin * x - cos * y)


def mirrored_at(*, x: float | None = None, y: float | None = None) -> Placing:
    """Left and right at an X, or front and back at a Y."""
    if x is not None:
        return Placing(a=-1.0, u=2 * x)
    assert y is not None
    return Placing(d=-1.0, v=2 * y)


def placed_segments(chain: Sequence[Segment], to: Placing) -> tuple[Segment, ...]:
    """A chain somewhere else; mirrored arcs go the other way round."""
    return tuple(
        Line(to.at(*s.start), to.at(*s.end))
        if isinstance(s, Line)
        else Arc(to.at(*s.start), to.at(*s.end), to.at(*s.centre), s.ccw != to.mirrors)
        for s in chain
    )


def placed_removal(removal: Removal, to: Placing) -> Removal:
    """What is taken away, somewhere else."""
    if isinstance(removal, Flat):
        return Flat(affinity.affine_transform(removal.region, (to.a, to.b, to.c, to.d, to.u, to.v)), removal.floor)
    if isinstance(removal, Revolved):
        return Revolved(*to.at(removal.x, removal.y), removal.profile)
    if isinstance(removal, Furrow):
        return msgspec.structs.replace(removal, strokes=tuple(placed_segments(chain, to) for chain in removal.strokes))
    return _placed_bevel(removal, to)


def _placed_bevel(bevel: Bevel, to: Placing) -> Bevel:
    """The material lies on the left of its loops: mirrored ones are run backward."""
    loops = [placed_segments(loop, to) for loop in bevel.body]
    if to.mirrors:
        loops = [tuple(_back(s) for s in reversed(loop)) for loop in loops]
    return msgspec.structs.replace(bevel, body=tuple(loops))


def _back(s: Segment) -> Segment:
    return Line(s.end, s.start) if isinstance(s, Line) else Arc(s.end, s.start, s.centre, not s.ccw)
