"""A part as cut as one closed solid, for files: every edge has exactly two triangles.

A milled part is a stack of upright prisms. What is there at a height is the block less the strokes of all tools that came below
it, as regions of true lines and arcs; heights are taken where tools made floors, and between them more closely where the region
changes: tips, chamfers and rounded corners come in steps of `STEP_MM`. Where two prisms meet, both and what shows between them
are given each other's corners, so that nothing gapes.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely
from shapely.geometry.polygon import orient

from bastler.nc import Trace
from bastler.proof.mill.milled import MillProof
from bastler.proof.mill.strokes import Sweep, paths_at, varies
from bastler.proof.turn.turned import TurnProof
from bastler.proof.whole import JobProof
from bastler.shapes.kinds import Floats, Indices, Ints, Region
from bastler.shapes.lie import Way
from bastler.shapes.united import united
from bastler.tools import Profile

STEP_MM = 0.15
FINE_MM = 0.004
"""How far outlines may leave what tools swept."""
GRID_MM = 1e-5
ON_EDGE = 2.0
"""So many steps of the grid from an edge a corner lies on it: rounding moves both."""
SAME_MM = 0.004
"""Regions that differ by no wider strips are the same."""
AROUND = 180
"""Faces round turned work."""
Told = Callable[[float], None]


class NoSolid(ValueError):
    """A part that no closed solid is made of; the message is a whole sentence."""


@dataclass(frozen=True, eq=False)
class Solid:
    """`points` (m, 3) and `triangles` (t, 3) of them, counter-clockwise as they are seen from outside. Job's unit."""

    points: Floats
    triangles: Ints

    @property
    def volume(self) -> float:
        """By the divergence theorem."""
        a, b, c = (self.points[self.triangles[:, k]] for k in range(3))
        return float((a * np.cross(b, c)).sum() / 6.0)

    @property
    def gapes(self) -> int:
        """How many edges have no other one that runs back along them: none of a closed solid."""
        t = self.triangles.astype(np.int64)
        ends = np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]])
        keys, back = ends[:, 0] * len(self.points) + ends[:, 1], ends[:, 1] * len(self.points) + ends[:, 0]
        there, times = np.unique(keys, return_counts=True)
        known, back_times = np.unique(back, return_counts=True)
        if len(there) != len(known) or not np.array_equal(there, known):
            return int(len(np.setxor1d(there, known)))
        return int(np.abs(times - back_times).sum())


def closed(proof: JobProof, told: Told = lambda share: None) -> Solid:
    """The part as all programs leave it, as it lies in the last holding. NoSolid where nothing is left of it, and for parts that
    driven tools have cut. `told` hears now and then how much of it is done."""
    last = proof.holdings[-1]
    if isinstance(last, TurnProof):
        if any(isinstance(one, TurnProof) and one.driven for one in proof.holdings):
            raise NoSolid("Of parts that driven tools have cut no solid is written yet.")
        return _revolved(last)
    assert isinstance(last, MillProof)
    mm = last.scene.mm
    cuts = [cut for one in proof.holdings for cut in _cuts(proof, one)]
    slabs = _joined(_slabs(last, cuts, mm, told), SAME_MM * mm, GRID_MM * mm)
    if not slabs:
        raise NoSolid("Nothing is left of the part.")
    return _stacked(slabs, GRID_MM * mm)


# -- milled -------------------------------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False)
class _Cut:
    """The moves of a run as its own holding sees them, with the tool's shape, and the way to the last holding."""

    trace: Trace
    rows: Indices
    low: Floats
    shape: Profile
    way: Way
    last: list[Any] = field(default_factory=lambda: [b"", None])
    """What it took at the height that was asked for last, with what that depends on."""

    def swept(self, z: float, mm: float) -> Region:
        """What it takes at a height of the last holding, as that sees it. Mostly that is what it takes a little lower too."""
        own = (z - self.way.rise) * self.way.z
        rows = self.rows[self.low < own - 1e-9]
        if not len(rows):
            return None
        key = b"" if varies(self.trace, rows, own, self.shape) else rows.tobytes()
        if key and key == self.last[0]:
            return self.last[1]
        found = united(Sweep.along(paths_at(self.trace, rows, own, self.shape), FINE_MM * 1000 * mm).regions)
        found = found if self._stays else shapely.transform(found, self._placed)
        self.last[:] = [key, found]
        return found

    @property
    def _stays(self) -> bool:
        """Is the plan the same in both holdings?"""
        return self.way.x == self.way.y == 1 and self.way.here.centre == self.way.there.centre

    def _placed(self, places: Floats) -> Floats:
        """Places of the plan (n, 2) as the last holding sees them."""
        signs = np.array((self.way.x, self.way.y), float)
        found: Floats = (places - np.array(self.way.here.centre)) * signs + np.array(self.way.there.centre)
        return found

    @property
    def floors(self) -> Iterator[float]:
        """The heights at which it has made floors, as the last holding counts them."""
        start, end = self.trace.start[self.rows], self.trace.end[self.rows]
        level = np.abs(start[:, 2] - end[:, 2]) < 1e-7
        down = np.flatnonzero((end[:, 2] < start[:, 2]) & (np.abs(end[:, :2] - start[:, :2]).max(axis=1, initial=0.0) < 1e-7))
        deepest: dict[tuple[float, float], float] = {}  # of a hole that is pecked only its end is a floor
        for x, y, z in end[down].tolist():
            where = (round(x, 6), round(y, 6))
            deepest[where] = min(z, deepest.get(where, z))
        ends = np.array([*end[level, 2].tolist(), *deepest.values()])
        for z in np.unique(np.round(ends, 6)).tolist():
            yield self.way.z * z + self.way.rise
            if self.shape.tall > 0:
                yield self.way.z * (z + self.shape.tall) + self.way.rise


def _cuts(proof: JobProof, one: object) -> Iterator[_Cut]:
    """What the program of a holding does to the first part."""
    last = proof.holdings[-1]
    if not isinstance(one, MillProof) or one.held is None or last.held is None:
        return
    way = one.held.way_to(last.held)
    for stage in one.stages:
        tool = stage.proof.tool
        if tool is None or stage.part:
            continue
        trace = one.trace.between(stage.begin, stage.end)
        low = np.minimum(trace.start[:, 2], trace.end[:, 2])
        yield _Cut(trace, np.arange(len(trace)), low, tool.profile, way)


def _slabs(last: MillProof, cuts: Sequence[_Cut], mm: float, told: Told) -> Iterator[tuple[float, float, Region]]:
    """The prisms from below: (from, to, region)."""
    stock = last.scene.stock
    low, high = stock.lo[2], stock.hi[2]
    floors = {round(z, 6) for cut in cuts for z in cut.floors}
    levels = sorted({low, high, *(z for z in floors if low + 1e-6 < z < high - 1e-6)})
    known: dict[float, Region] = {}

    def at(z: float) -> Region:
        if z not in known:
            gone = [region for cut in cuts if (region := cut.swept(z, mm)) is not None]
            there = stock.plan.difference(united(gone)) if gone else stock.plan
            known[z] = shapely.set_precision(shapely.simplify(there, FINE_MM * mm), GRID_MM * mm)
        return known[z]

    def parted(a: float, b: float) -> Iterator[tuple[float, float, Region]]:
        hair = min(1e-3 * mm, (b - a) / 4)
        if b - a <= STEP_MM * mm or _alike(at(a + hair), at(b - hair), SAME_MM * mm):
            yield a, b, at((a + b) / 2)
            return
        middle = (a + b) / 2
        yield from parted(a, middle)
        yield from parted(middle, b)

    for a, b in itertools.pairwise(levels):
        if b - a < 1e-5 * mm:
            continue
        for slab in parted(a, b):
            if not slab[2].is_empty:
                yield slab
        known.clear()
        told((b - low) / (high - low))


def _joined(slabs: Iterator[tuple[float, float, Region]], hair: float, grid: float) -> list[tuple[float, float, Region]]:
    """Prisms on each other that are alike are one."""
    found: list[tuple[float, float, Region]] = []
    for a, b, region in slabs:
        if found and found[-1][1] == a and _alike(found[-1][2], region, hair):
            found[-1] = (found[-1][0], b, found[-1][2])
            continue
        if found:  # what nearly lies on the outline below lies on it
            region = shapely.set_precision(shapely.snap(region, found[-1][2], hair), grid)
        found.append((a, b, region))
    return found


def _alike(a: Region, b: Region, hair: float) -> bool:
    """Do regions differ by strips no wider than that?"""
    off = a.symmetric_difference(b)
    return bool(off.is_empty or (off.area <= hair * (a.length + b.length) / 4 and off.buffer(-hair).is_empty))


def _polygons(region: Region) -> list[Region]:
    return [g for g in shapely.get_parts(region).tolist() if g.geom_type == "Polygon" and not g.is_empty]


class _Gathered:
    """Points by their place on the grid, each once, and triangles of them."""

    def __init__(self, grid: float) -> None:
        self.grid = grid
        self.numbers: dict[tuple[int, int, int], int] = {}
        self.points: list[tuple[float, float, float]] = []
        self.triangles: list[tuple[int, int, int]] = []

    def number(self, x: float, y: float, z: float) -> int:
        key = (round(x / self.grid), round(y / self.grid), round(z / self.grid))
        found = self.numbers.get(key)
        if found is None:
            found = self.numbers[key] = len(self.points)
            self.points.append((x, y, z))
        return found

    def triangle(self, a: int, b: int, c: int) -> None:
        if a != b and b != c and a != c:
            self.triangles.append((a, b, c))

    def solid(self) -> Solid:
        return Solid(np.array(self.points).reshape(-1, 3), np.array(self.triangles, np.int32).reshape(-1, 3))


def _stacked(slabs: Sequence[tuple[float, float, Region]], grid: float) -> Solid:
    """The surface of prisms on each other."""
    made = _Gathered(grid)
    edges = sorted({z for a, b, _ in slabs for z in (a, b)})
    below = {b: region for _, b, region in slabs}
    above = {a: region for a, _, region in slabs}
    nodes: dict[float, shapely.STRtree] = {}
    empty = shapely.Polygon()
    for z in edges:
        under, over = below.get(z, empty), above.get(z, empty)
        up = shapely.difference(under, over, grid_size=grid)
        down = shapely.difference(over, under, grid_size=grid)
        every = shapely.get_coordinates([under, over, up, down])
        places = np.unique(np.round(every / grid), axis=0) * grid
        nodes[z] = tree = shapely.STRtree(shapely.points(places))
        for region, upward in ((up, True), (down, False)):
            for polygon in _polygons(region):
                _flat(made, polygon, z, tree, upward=upward)
    for a, b, region in slabs:
        for polygon in _polygons(region):
            whole = orient(polygon, 1.0)
            for ring in (whole.exterior, *whole.interiors):
                _walls(made, np.asarray(ring.coords), a, b, nodes[a], nodes[b])
    return made.solid()


def _flat(made: _Gathered, polygon: Region, z: float, tree: shapely.STRtree, *, upward: bool) -> None:
    """A level face, with all corners of its neighbours in its rim."""
    rings = [_noded(np.asarray(r.coords), tree, made.grid) for r in (polygon.exterior, *polygon.interiors)]
    whole = shapely.Polygon(rings[0], rings[1:])
    try:
        pieces = [
            orient(piece, 1.0).exterior.coords[:3] for piece in shapely.get_parts(shapely.constrained_delaunay_triangles(whole))
        ]
    except shapely.errors.GEOSException:
        if len(rings) > 1:
            raise
        rim = orient(whole, 1.0).exterior.coords[:-1]  # as thin as the grid: its corners lie on a line, and any fan closes it
        pieces = [[rim[0], rim[k], rim[k + 1]] for k in range(1, len(rim) - 1)]
    for piece in pieces:
        a, b, c = (made.number(x, y, z) for x, y in piece)
        made.triangle(*((a, b, c) if upward else (a, c, b)))


def _noded(ring: Floats, tree: shapely.STRtree, grid: float) -> Floats:
    """A closed ring with the places of a tree that lie on it put in."""
    found = [ring[:1]]
    for p, q, between in _with_nodes(ring, tree, grid):
        found += [between, q[None]]
        del p
    return np.concatenate(found)


def _with_nodes(ring: Floats, tree: shapely.STRtree, grid: float) -> Iterator[tuple[Floats, Floats, Floats]]:
    """Every edge of a ring with the places on it, in their order."""
    lines = shapely.linestrings(np.stack([ring[:-1], ring[1:]], axis=1))
    which, hits = tree.query(lines, predicate="dwithin", distance=ON_EDGE * grid)
    order = np.argsort(which, kind="stable")
    which, hits = which[order], hits[order]
    first = np.searchsorted(which, np.arange(len(lines) + 1))
    places = shapely.get_coordinates(tree.geometries)
    for k in range(len(lines)):
        p, q = ring[k], ring[k + 1]
        own = places[hits[first[k] : first[k + 1]]]
        d = q - p
        share = (own - p) @ d / max(float(d @ d), 1e-300)
        far = (np.abs(own - p).max(axis=1) > 0.5 * grid) & (np.abs(own - q).max(axis=1) > 0.5 * grid)
        inside = far & (share > 0.0) & (share < 1.0)
        yield p, q, own[inside][np.argsort(share[inside])]


def _walls(made: _Gathered, ring: Floats, a: float, b: float, low: shapely.STRtree, high: shapely.STRtree) -> None:
    """The walls of a ring with the material on its left, from a height to another: what lies on either rim is a corner there."""
    for (p, q, under), (_, _, over) in zip(_with_nodes(ring, low, made.grid), _with_nodes(ring, high, made.grid), strict=True):
        bottom = [made.number(x, y, a) for x, y in (p, *under, q)]
        top = [made.number(x, y, b) for x, y in (p, *over, q)]
        d = q - p
        along = [[float((np.array(place) - p) @ d) for place in row] for row in ((p, *under, q), (p, *over, q))]
        i = j = 0
        while i < len(bottom) - 1 or j < len(top) - 1:
            if j == len(top) - 1 or (i < len(bottom) - 1 and along[0][i + 1] <= along[1][j + 1]):
                made.triangle(bottom[i], bottom[i + 1], top[j])
                i += 1
            else:
                made.triangle(bottom[i], top[j + 1], top[j])
                j += 1


# -- turned -------------------------------------------------------------------------------------------------------


def _revolved(proof: TurnProof) -> Solid:
    """A half section turned about the axis; of several pieces the one in front, which is the part."""
    mm = proof.scene.mm
    pieces = _polygons(shapely.set_precision(shapely.simplify(proof.part, FINE_MM * mm / 2), GRID_MM * mm))
    if not pieces:
        raise NoSolid("Nothing is left of the part.")
    part = max(pieces, key=lambda g: g.bounds[2])
    made = _Gathered(GRID_MM * mm)
    angles = 2 * math.pi * np.arange(AROUND) / AROUND
    whole = orient(part, 1.0)
    for ring in (whole.exterior, *whole.interiors):
        coords = np.asarray(ring.coords)
        turned = [[made.number(r * math.cos(t), r * math.sin(t), z) for t in angles.tolist()] for z, r in coords.tolist()]
        for (_, r0), (_, r1), one, two in zip(coords[:-1], coords[1:], turned[:-1], turned[1:], strict=True):
            if max(r0, r1) <= made.grid:
                continue  # along the axis
            for k in range(AROUND):
                n = (k + 1) % AROUND
                made.triangle(one[k], two[k], two[n])
                made.triangle(one[k], two[n], one[n])
    return made.solid()
