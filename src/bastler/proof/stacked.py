"""The closed surface of upright prisms on each other, as triangles: every edge has exactly two of them.

Where two prisms meet, both and what shows between them are given each other's corners, so that nothing gapes. Points are the same
where they are on the same place of a grid.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.polygon import orient

from bastler.language import tr
from bastler.shapes.kinds import Floats, Indices, Ints, Region

ON_EDGE = 2.0
"""So many steps of the grid from an edge a corner lies on it: rounding moves both."""
TURNS = (0.0, 1.0, 2.0, 3.0, 4.0, 5.0)
"""Angles from which a face is looked at until it is filled."""
SEALED = 100.0
"""So many steps of the grid a gap is wide at most that is closed."""
Slab = tuple[float, float, Region]
"""A prism: from a height to another, a region."""


class NoSolid(ValueError):
    """A part that no closed solid is made of; the message is a whole sentence."""


@dataclass(frozen=True, eq=False)
class Solid:
    """`points` (m, 3) and `triangles` (t, 3) of them, counter-clockwise as they are seen from outside. Job's unit."""

    points: Floats
    triangles: Ints

    @staticmethod
    def of(corners: Sequence[Floats], grid: float) -> Solid:
        """Of the corners of triangles (t, 3, 3) in any number of heaps; those without an area are left out."""
        every = np.concatenate(corners).reshape(-1, 3)
        steps = np.round(every / grid).astype(np.int64)
        steps -= steps.min(axis=0)
        levels, level = np.unique(steps[:, 2], return_inverse=True)
        wide = steps.max(axis=0) + 1
        if float(wide[0]) * float(wide[1]) * len(levels) < 2.0**62:
            keys = (level * wide[0] + steps[:, 0]) * wide[1] + steps[:, 1]
            _, first, number = np.unique(keys, return_index=True, return_inverse=True)
        else:
            _, first, number = np.unique(steps, axis=0, return_index=True, return_inverse=True)
        t = number.reshape(-1, 3)
        sound = (t[:, 0] != t[:, 1]) & (t[:, 1] != t[:, 2]) & (t[:, 0] != t[:, 2])
        return Solid(every[first], t[sound].astype(np.int32))

    @property
    def volume(self) -> float:
        """By the divergence theorem."""
        a, b, c = (self.points[self.triangles[:, k]] for k in range(3))
        return float((a * np.cross(b, c)).sum() / 6.0)

    @property
    def open_edges(self) -> Ints:
        """Edges (n, 2) that no other one runs back along: none of a closed solid."""
        t = self.triangles.astype(np.int64)
        ends = np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]])
        low, high = ends.min(axis=1), ends.max(axis=1)
        sense = np.where(ends[:, 0] == low, 1, -1)
        keys, number = np.unique(low * len(self.points) + high, return_inverse=True)
        over = np.bincount(number, weights=sense, minlength=len(keys)).astype(np.int64)
        off = np.flatnonzero(over)
        pairs = np.stack([keys[off] // len(self.points), keys[off] % len(self.points)], axis=1)
        pairs[over[off] < 0] = pairs[over[off] < 0][:, ::-1]
        return np.repeat(pairs, np.abs(over[off]), axis=0)

    def sealed(self, hair: float) -> Solid:
        """With faces over gaps that are no wider than that: between corners that lie on a line. NoSolid where one is wider."""
        more: list[tuple[int, int, int]] = []
        for rim in _rims(self.open_edges):
            fan = [(rim[0], rim[k + 1], rim[k]) for k in range(1, len(rim) - 1)]
            corners = self.points[np.array(fan, np.int64).reshape(-1, 3)]
            sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
            long = float(np.linalg.norm(np.diff(self.points[[*rim, rim[0]]], axis=0), axis=1).sum())
            if float(np.linalg.norm(sides, axis=1).sum()) / 2 > hair * long:
                raise NoSolid(tr("A face of the part is too fine to be closed."))
            more += fan
        return Solid(self.points, np.concatenate([self.triangles, np.array(more, np.int32).reshape(-1, 3)]))


def _rims(edges: Ints) -> Iterator[list[int]]:
    """The rims of gaps that edges (n, 2) go round, each in their direction, none of them twice at one corner."""
    onward: dict[int, list[int]] = {}
    for a, b in edges.tolist():
        onward.setdefault(a, []).append(b)
    while onward:
        path = [next(iter(onward))]
        while path[-1] in onward:
            ways = onward[path[-1]]
            to = ways.pop()
            if not ways:
                del onward[path[-1]]
            if to in path:
                begin = path.index(to)
                yield path[begin:]
                del path[begin + 1 :]
            else:
                path.append(to)


def polygons(region: Region) -> list[Region]:
    """Those that a region is made of."""
    return [g for g in shapely.get_parts(region).tolist() if g.geom_type == "Polygon" and not g.is_empty]


def alike(a: Region, b: Region, hair: float) -> bool:
    """Do regions differ by strips no wider than that?"""
    off = a.symmetric_difference(b)
    return bool(off.is_empty or (off.area <= hair * (a.length + b.length) / 4 and off.buffer(-hair).is_empty))


def stacked(slabs: Sequence[Slab], grid: float, told: Callable[[float], None] = lambda share: None) -> Solid:
    """The surface of prisms on each other, none of them twice at one height. `told` hears how much of it is done."""
    made: list[Floats] = []
    below = {b: region for _, b, region in slabs}
    above = {a: region for a, _, region in slabs}
    nodes: dict[float, shapely.STRtree] = {}
    empty = shapely.Polygon()
    for done, z in enumerate(sorted({*below, *above})):
        told(0.5 * done / (len(slabs) + 1))
        under, over = below.get(z, empty), above.get(z, empty)
        up = shapely.difference(under, over, grid_size=grid)
        down = shapely.difference(over, under, grid_size=grid)
        every = shapely.get_coordinates([under, over, up, down])
        places = np.unique(np.round(every / grid), axis=0) * grid
        nodes[z] = tree = shapely.STRtree(shapely.points(places))
        for region, upward in ((up, True), (down, False)):
            made += [_flat(polygon, z, tree, grid, upward=upward) for polygon in polygons(region)]
    for done, (a, b, region) in enumerate(slabs):
        told(0.5 + 0.5 * done / len(slabs))
        for polygon in polygons(region):
            whole = orient(polygon, 1.0)
            for ring in (whole.exterior, *whole.interiors):
                made += _walls(np.asarray(ring.coords), (a, b), (nodes[a], nodes[b]), grid)
    return Solid.of(made, grid).sealed(SEALED * grid)


def _flat(polygon: Region, z: float, tree: shapely.STRtree, grid: float, *, upward: bool) -> Floats:
    """A level face, with all corners of its neighbours in its rim."""
    rings = [_noded(np.asarray(r.coords), tree, grid) for r in (polygon.exterior, *polygon.interiors)]
    whole = shapely.Polygon(rings[0], rings[1:])
    # where a hole is as near to its rim as a corner may lie beside it the corners are left out, and sealed afterwards
    pieces = _triangles(whole if whole.is_valid else polygon)
    sides = pieces[:, 1:] - pieces[:, :1]
    # all of them turn the same way, and so do those without an area, of which nothing else would say it
    left = (sides[:, 0, 0] * sides[:, 1, 1] - sides[:, 0, 1] * sides[:, 1, 0]).sum() > 0.0
    turned = pieces if left == upward else pieces[:, ::-1]
    return np.concatenate([turned, np.full((len(turned), 3, 1), z)], axis=2)


def _triangles(whole: Region) -> Floats:
    """A polygon in triangles (t, 3, 2). Where holes come near its rim the library may not find a way to them from one side: then
    from another. Corners on a line may be left out."""
    for turn in TURNS:
        c, s = math.cos(turn), math.sin(turn)
        by = np.array(((c, s), (-s, c)))
        seen = shapely.transform(whole, by.T.__rmatmul__) if turn else whole
        try:
            made = shapely.get_coordinates(shapely.constrained_delaunay_triangles(seen)).reshape(-1, 4, 2)[:, :3]
        except shapely.errors.GEOSException:
            continue
        found: Floats = made @ by if turn else made
        return found
    return np.zeros((0, 3, 2))  # as thin as the grid: its rim is sealed


def _noded(ring: Floats, tree: shapely.STRtree, grid: float) -> Floats:
    """A closed ring with the places of a tree that lie on it put in."""
    which, places = _between(ring, tree, grid)
    return np.insert(ring, which + 1, places, axis=0)


def _between(ring: Floats, tree: shapely.STRtree, grid: float) -> tuple[Indices, Floats]:
    """The places of a tree that lie on the edges of a ring, not at their ends, in their order: of which edge, and where."""
    lines = shapely.linestrings(np.stack([ring[:-1], ring[1:]], axis=1))
    which, hits = tree.query(lines, predicate="dwithin", distance=ON_EDGE * grid)
    own = shapely.get_coordinates(tree.geometries)[hits]
    p, q = ring[which], ring[which + 1]
    d = q - p
    share = ((own - p) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-300)
    far = (np.abs(own - p).max(axis=1, initial=0.0) > 0.5 * grid) & (np.abs(own - q).max(axis=1, initial=0.0) > 0.5 * grid)
    keep = np.flatnonzero(far & (share > 0.0) & (share < 1.0))
    keep = keep[np.lexsort((share[keep], which[keep]))]
    return which[keep], own[keep]


def _walls(ring: Floats, z: tuple[float, float], trees: tuple[shapely.STRtree, shapely.STRtree], grid: float) -> list[Floats]:
    """The walls of a ring with the material on its left, from a height to another: what lies on either rim is a corner there."""
    (which_low, low), (which_high, high) = (_between(ring, tree, grid) for tree in trees)
    noded = np.zeros(len(ring) - 1, np.bool_)
    noded[which_low] = noded[which_high] = True
    p, q = ring[:-1][~noded], ring[1:][~noded]
    a, b = np.full((len(p), 1), z[0]), np.full((len(p), 1), z[1])
    corners = [np.hstack(pair) for pair in ((p, a), (q, a), (p, b), (q, b))]
    found = [np.stack([corners[i] for i in face], axis=1) for face in ((0, 1, 2), (1, 3, 2))]
    for k in np.flatnonzero(noded).tolist():
        ends = ring[k], ring[k + 1]
        rows = [np.array([ends[0], *own[which == k], ends[1]]) for which, own in ((which_low, low), (which_high, high))]
        found.append(_strip(rows[0], rows[1], z))
    return found


def _strip(low: Floats, high: Floats, z: tuple[float, float]) -> Floats:
    """The triangles between two rows of corners over each other that begin and end alike."""
    d = low[-1] - low[0]
    along = [((row - low[0]) @ d).tolist() for row in (low, high)]
    bottom = [(x, y, z[0]) for x, y in low.tolist()]
    top = [(x, y, z[1]) for x, y in high.tolist()]
    i = j = 0
    found = []
    while i < len(bottom) - 1 or j < len(top) - 1:
        if j == len(top) - 1 or (i < len(bottom) - 1 and along[0][i + 1] <= along[1][j + 1]):
            found.append((bottom[i], bottom[i + 1], top[j]))
            i += 1
        else:
            found.append((bottom[i], top[j + 1], top[j]))
            j += 1
    return np.array(found)


def revolved(section: Region, grid: float, around: int) -> Solid:
    """One polygon of a half section (z, r) turned about the axis, with so many faces `around`."""
    whole = orient(section, 1.0)
    angles = 2 * np.pi * np.arange(around + 1) / around
    cos, sin = np.cos(angles), np.sin(angles)
    cos[-1], sin[-1] = cos[0], sin[0]
    made = []
    for ring in (whole.exterior, *whole.interiors):
        z, r = np.asarray(ring.coords).T
        turned = np.stack([r[:, None] * cos, r[:, None] * sin, np.broadcast_to(z[:, None], (len(z), around + 1))], axis=2)
        off = np.maximum(r[:-1], r[1:]) > grid  # not along the axis
        one, two = turned[:-1][off], turned[1:][off]
        for face in ((one[:, :-1], two[:, :-1], two[:, 1:]), (one[:, :-1], two[:, 1:], one[:, 1:])):
            made.append(np.stack(face, axis=2).reshape(-1, 3, 3))
    return Solid.of(made, grid)
