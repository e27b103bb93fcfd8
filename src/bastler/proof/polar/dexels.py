"""A turned part that driven tools cut: *polar dexels*. In slabs along the axis rays go outward from it, and of each is known
where there is material.

Slabs end where floors lie, so that floors, faces and volumes along the axis are exact; a ray knows its ends to the last digit,
and round the axis it stands for its share of the circle. Undercuts of any kind are seen. What is known to the width of a ray or a
slab only are walls that go along with them.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from bastler.proof.polar.sweeping import MOST, filled, prism, ring, side_prism, volume_of
from bastler.shapes.kinds import Floats, Region

CELL_MM = 0.15
"""How wide a ray stands for at the outside, and how thick slabs are at most."""
MOST_RAYS = 4_000_000
"""Rays of one part: what would be more is made coarser."""
THINNEST = 1e-6
"""Slabs thinner than this, in mm, are none."""


@dataclass(frozen=True, eq=False)
class Dexels:
    """`lo` and `hi` (rays round, slabs, MOST) are the ends of the material on each ray, `count` (rays, slabs) how many stretches
    there are; `edges` (slabs + 1) the lengths at which slabs begin and end, rising; `outer` is the radius of it all. The ray k
    stands at (k + ½) of its step."""

    lo: NDArray[np.float32]
    hi: NDArray[np.float32]
    count: NDArray[np.uint8]
    edges: Floats
    outer: float

    @staticmethod
    def of(section: Region, floors: Iterable[float], mm: float, cell: float = CELL_MM, rays: int = 0) -> Dexels:
        """The dexels of a half section; `floors` are lengths at which something along the axis will end. So many `rays` round, as
        many as it takes for none."""
        if section.is_empty:  # nothing is left to stand in the way
            nothing = np.zeros((64, 1, MOST), np.float32)
            return Dexels(nothing, nothing.copy(), np.zeros((64, 1), np.uint8), np.array([0.0, mm]), mm)
        z0, _, z1, outer = section.bounds
        wide = cell * mm
        area = 2 * math.pi * outer * (z1 - z0)
        wide = max(wide, math.sqrt(area / MOST_RAYS))
        rays = rays or 4 * max(16, math.ceil(math.pi / 2 * outer / wide))
        corners = shapely.get_coordinates(section)[:, 0]
        edges = _edges(z0, z1, wide, [*corners.tolist(), *floors], THINNEST * mm)
        shape = (rays, len(edges) - 1)
        ends = np.empty((2, *shape, MOST), np.float32)
        made = Dexels(ends[0], ends[1], np.zeros(shape, np.uint8), edges, float(outer))
        filled(made.lo, made.hi, made.count, made.edges, boundary(section))
        return made

    def like(self, section: Region) -> Dexels:
        """Another half section on the same rays."""
        ends = np.empty((2, *self.lo.shape), np.float32)
        made = Dexels(ends[0], ends[1], np.zeros_like(self.count), self.edges, self.outer)
        filled(made.lo, made.hi, made.count, made.edges, boundary(section))
        return made

    @property
    def volume(self) -> float:
        """Of all material."""
        return float(volume_of(self.lo, self.hi, self.count, self.edges))

    def turned(self, region: Region) -> float:
        """Takes what a region of the half section makes all round; gives its volume."""
        return float(ring(self.lo, self.hi, self.count, self.edges, boundary(region)))

    def open(self, region: Region, floor: float, side: float | None = None) -> None:
        """Takes all over a height within a region of the end face, or of the side at an angle in degrees."""
        arrays = (self.lo, self.hi, self.count, self.edges, boundary(region), floor)
        prism(*arrays) if side is None else side_prism(*arrays, math.radians(side))

    def slabs(self, low: float, high: float) -> tuple[int, int]:
        """The slabs from a length to another: the first, and the one behind the last."""
        return _slabs(self.edges, low, high)

    def the_other_way(self) -> Dexels:
        """With its rays the other way round: as in a mirror that y goes through."""
        return Dexels(self.lo[::-1].copy(), self.hi[::-1].copy(), self.count[::-1].copy(), self.edges, self.outer)

    def turned_round(self, by: float) -> Dexels:
        """Seen from the other end, turned over about the axis across on which the angle is 0: a length z lies at `by` - z."""
        ends = (self.lo[::-1, ::-1].copy(), self.hi[::-1, ::-1].copy(), self.count[::-1, ::-1].copy())
        return Dexels(*ends, np.ascontiguousarray(by - self.edges[::-1]), self.outer)

    def with_slabs_of(self, other: Dexels) -> None:
        """Takes over all that another one of as many rays knows: where this one's slabs lie within its."""
        middles = (self.edges[1:] + self.edges[:-1]) / 2
        own = np.searchsorted(other.edges, middles) - 1
        here = np.flatnonzero((own >= 0) & (own < other.count.shape[1]))
        for mine, theirs in ((self.lo, other.lo), (self.hi, other.hi), (self.count, other.count)):
            mine[:, here] = theirs[:, own[here]]

    def between(self, first: int, last: int) -> Dexels:
        """Some of the slabs by themselves."""
        here = slice(first, last)
        lo, hi = self.lo[:, here].copy(), self.hi[:, here].copy()
        return Dexels(lo, hi, self.count[:, here].copy(), self.edges[first : last + 1], self.outer)

    @property
    def thick(self) -> float:
        """How thick slabs are at most."""
        return float(np.diff(self.edges).max())

    @property
    def cell(self) -> float:
        """How wide a ray stands for at the outside."""
        return 2 * math.pi * self.outer / len(self.count)


@dataclass(frozen=True, eq=False)
class Packed:
    """Dexels as they were, with room for no more stretches than they have. Of those that only some slabs of changed, `first` and
    on, these alone are there, over what was `under` them."""

    lo: NDArray[np.float32]
    hi: NDArray[np.float32]
    count: NDArray[np.uint8]
    edges: Floats
    outer: float
    first: int = 0
    under: Packed | None = None

    @staticmethod
    def of(made: Dexels) -> Packed:
        return Packed(*_part(made, 0, made.count.shape[1]), made.edges, made.outer)

    def changed(self, made: Dexels, first: int, last: int) -> Packed:
        """The same, in slabs `first` to before `last` as they are now."""
        if last <= first:
            return self
        return Packed(*_part(made, first, last), made.edges, made.outer, first, self)

    def with_patch(self, changed: Packed, under: Packed) -> Packed:
        """What was `changed` of another one lies over this."""
        return self if changed is under else replace(changed, under=self)

    @property
    def last(self) -> int:
        """The slab behind those that it holds."""
        return self.first + int(self.count.shape[1])

    def slabs(self, low: float, high: float) -> tuple[int, int]:
        """As those of dexels."""
        return _slabs(self.edges, low, high)

    def dexels(self) -> Dexels:
        """The same to be cut, the caller's own."""
        slabs = len(self.edges) - 1
        layers = [self]
        while (under := layers[-1].under) is not None:
            layers.append(under)
        rays = len(self.count)
        ends = np.empty((2, rays, slabs, MOST), np.float32)
        count = np.empty((rays, slabs), np.uint8)
        for layer in reversed(layers):
            here = slice(layer.first, layer.last)
            most = layer.lo.shape[2]
            ends[0, :, here, :most], ends[1, :, here, :most], count[:, here] = layer.lo, layer.hi, layer.count
        return Dexels(ends[0], ends[1], count, self.edges, self.outer)


def _part(made: Dexels, first: int, last: int) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.uint8]]:
    """Some slabs, packed."""
    count = made.count[:, first:last].copy()
    most = int(count.max(initial=1))
    return made.lo[:, first:last, :most].copy(), made.hi[:, first:last, :most].copy(), count


def _slabs(edges: Floats, low: float, high: float) -> tuple[int, int]:
    if high < low:
        return 0, 0
    first, last = np.searchsorted(edges, [low, high])
    return max(int(first) - 1, 0), min(int(last), len(edges) - 1)


def boundary(region: Region) -> Floats:
    """The lines (m, 4) of a region's boundary, from point to point."""
    rings = shapely.get_rings(shapely.get_parts(region))
    points, owner = shapely.get_coordinates(rings, return_index=True)
    if len(points) < 2:
        return np.zeros((0, 4))
    same = owner[1:] == owner[:-1]
    return np.ascontiguousarray(np.column_stack([points[:-1], points[1:]])[same])


def _edges(z0: float, z1: float, thick: float, floors: Iterable[float], thin: float) -> Floats:
    """Where slabs end: at all floors within the part, and between them as often as it takes."""
    given = np.unique([z for z in floors if z0 < z < z1])
    marks = [z0]
    for z in given.tolist():
        if z - marks[-1] > thin and z1 - z > thin:
            marks.append(z)
    marks.append(z1)
    found = [np.linspace(a, b, max(1, math.ceil((b - a) / thick)) + 1)[:-1] for a, b in itertools.pairwise(marks)]
    return np.append(np.concatenate(found), z1)
