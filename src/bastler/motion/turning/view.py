"""One way of looking at all turning: from the right, material below.

Strategies are written once, for a tool that comes from the right (+u), cuts toward -u and has the material below (-v). A *view*
maps the plane of the work (z, r) to that: boring turns r over, a left-hand tool turns z over, passes along X swap the two.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import msgspec
import numpy as np
import shapely

from bastler.motion.moves import TurnPath
from bastler.shapes import Arc, Line, Segment
from bastler.shapes.kinds import Floats, Region
from bastler.tools import TurnTool

Point = tuple[float, float]
SLOWEST = 0.3
"""However tight an inner corner is, its feed is no smaller share of that along the outline."""


class View(msgspec.Struct, frozen=True):
    """`inside`: material lies outward; `left`: cuts away from the chuck; `across`: passes run along X."""

    inside: bool = False
    left: bool = False
    across: bool = False

    def to(self, z: float, r: float) -> Point:
        """From (z, r) to (u, v)."""
        z, r = (-z if self.left else z), (-r if self.inside else r)
        return (r, z) if self.across else (z, r)

    def back(self, u: float, v: float) -> Point:
        """From (u, v) to (z, r)."""
        z, r = (v, u) if self.across else (u, v)
        return (-z if self.left else z, -r if self.inside else r)

    @property
    def flips(self) -> bool:
        """Does a turn change its sense?"""
        return (self.inside != self.left) != self.across

    def chain(self, chain: Sequence[Segment]) -> list[Segment]:
        """A chain of (z, r), in this view."""
        return [self._segment(s, self.to) for s in chain]

    def chain_back(self, chain: Sequence[Segment]) -> list[Segment]:
        """A chain of this view, in (z, r)."""
        return [self._segment(s, self.back) for s in chain]

    def _segment(self, s: Segment, put: Any) -> Segment:
        if isinstance(s, Line):
            return Line(put(*s.start), put(*s.end))
        return Arc(put(*s.start), put(*s.end), put(*s.centre), s.ccw != self.flips)

    def region(self, region: Region) -> Region:
        """A shapely region of (z, r), in this view."""
        return shapely.transform(region, self._many)

    def _many(self, points: Floats) -> Floats:
        z = -points[:, 0] if self.left else points[:, 0]
        r = -points[:, 1] if self.inside else points[:, 1]
        return np.column_stack([r, z] if self.across else [z, r])

    def outline(self, points: Sequence[Point]) -> list[Point]:
        """An outline about the tool's point, in this view."""
        return [self.to(*p) for p in points]


class Pencil:
    """Draws in a view on a path of the work's plane."""

    def __init__(self, path: TurnPath, view: View) -> None:
        self.path, self.view = path, view

    @property
    def at(self) -> Point:
        """Where the point is, (u, v)."""
        return self.view.to(self.path.z, self.path.r)

    def go(self, u: float | None = None, v: float | None = None) -> Pencil:
        z, r = self.view.back(*self._whole(u, v))
        self.path.go(r, z)
        return self

    def cut(self, feed: float, u: float | None = None, v: float | None = None) -> Pencil:
        z, r = self.view.back(*self._whole(u, v))
        self.path.cut(feed, r, z)
        return self

    def _whole(self, u: float | None, v: float | None) -> Point:
        now = self.at
        return (now[0] if u is None else u, now[1] if v is None else v)

    def follow(self, feed: float, chain: Sequence[Segment], nose: float = 0.0) -> Pencil:
        """Feed along a chain of the view, from where it begins. Where it is the way of a `nose` round an inner corner the feed is
        less: the corner that is cut is longer than that way, and so would the chip be thicker."""
        for own, s in zip(chain, self.view.chain_back(chain), strict=True):
            if isinstance(s, Line):
                self.path.cut(feed, s.end[1], s.end[0])
            else:
                self.path.sweep(feed * held(own, nose), s.end[1], s.end[0], s.centre[1], s.centre[0], ccw=s.ccw)
        return self


def held(way: Segment, nose: float) -> float:
    """The share of the feed with which a chip stays as thick as on a cylinder, on a piece of the way of a round nose with the
    material on its left: round an inner corner of radius R the way's is R - r, and the feed along the corner R / (R - r) of that
    along the way. No less than SLOWEST."""
    if isinstance(way, Line) or way.ccw or nose <= 0:
        return 1.0
    own = math.dist(way.start, way.centre)
    return max(own / (own + nose), SLOWEST)


def view_of(tool: TurnTool, *, across: bool = False) -> View:
    """The view that suits a tool."""
    return View(inside=tool.inside, left=tool.hand == "left", across=across)
