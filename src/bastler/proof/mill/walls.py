"""Walls compared exactly: what the tools really swept at a level, as true discs and lines, against the wanted region.

For every floor of the wanted shape two questions are asked, just below the next floor above it, where a wall is at its top.
*Left*: is there something inside the wanted region that no tool went over? *Gouge*: did a tool go outside of it? What a tool
went over but not deep enough is a matter of floors, which the height field knows exactly.
"""

from __future__ import annotations

import functools
import hashlib
import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from bastler.nc import Trace
from bastler.proof.measure import thickness
from bastler.shapes import Bevel, Flat, Furrow, Removal, Revolved
from bastler.shapes.kinds import Bools, Floats, Indices, Region, Regions
from bastler.shapes.united import mitred, united
from bastler.tools import Profile, Tool

MOST_STROKES = 6000
"""More moves of one stage than this are a free surface; there the field alone, one cell coarse at walls, has to do."""
QUARTER = 48
"""Chords for a quarter turn of a swept disc: leaves a radius of 10 mm by under 2 µm."""
CHORD_MM = 0.001
PIECES = 4
"""Rings along walls are looked at in so many strips across their longer side."""
MOST_ANSWERS = 4096
REMEMBERED = 512
"""What was found for the same regions before: an edit leaves most walls as they were."""


@dataclass(frozen=True)
class WallFault:
    """A place on a wall: `level` is the height it was looked at, `by` about how thick it is, `area` its held."""

    kind: str
    level: float
    by: float
    area: float
    height: float
    place: tuple[float, float]
    region: Region


def below(trace: Trace, begin: int, end: int, level: float, mm: float) -> tuple[Indices, Indices]:
    """Of moves `begin` to before `end` those that stay under a height, and those that go through it."""
    a, b = trace.start[begin:end, 2], trace.end[begin:end, 2]
    under = np.minimum(a, b) < level - 1e-9 * mm
    whole = under & (np.maximum(a, b) < level)
    return begin + np.flatnonzero(whole), begin + np.flatnonzero(under & ~whole)


def steady(tool: Tool) -> bool:
    """Is the tool as wide at all heights, so that what stays under a height takes the same away there wherever it is?"""
    return tool.profile.flat >= tool.profile.radius


def swept(trace: Trace, rows: Indices, tool: Tool, level: float, mm: float) -> Regions:
    """What some moves took away at height `level`, in the plan, as an array of regions, its *strokes*.

    The sweep of a disc along a line is a rectangle and two discs, along an arc a ring sector and two discs: built as such,
    each once however many passes lie over each other.
    """
    shape = tool.profile
    strokes = _Strokes(mm)
    arcs = (trace.kind[rows] >= 2) & (trace.plane[rows] == 17)
    whole = np.maximum(trace.start[rows, 2], trace.end[rows, 2]) < level
    easy = ~arcs & whole if steady(tool) else np.zeros(len(rows), bool)
    strokes.lines(trace.start[rows[easy], :2], trace.end[rows[easy], :2], shape.radius)
    for row in rows[~easy]:
        if trace.kind[row] >= 2 and trace.plane[row] == 17:
            _add_arc(strokes, trace, int(row), level, shape)
        else:
            _add_line(strokes, trace.start[row], trace.end[row], level, shape)
    return strokes.all()


class _Strokes:
    """Discs, rectangles and ring sectors, each kept once."""

    def __init__(self, mm: float) -> None:
        self.chord = CHORD_MM * mm
        self.discs: set[tuple[float, float, float]] = set()
        self.boxes: set[tuple[float, float, float, float, float]] = set()
        self.sectors: dict[tuple[float, ...], Region] = {}

    def line(self, ax: float, ay: float, bx: float, by: float, radius: float) -> None:
        if radius > 0:
            self.discs |= {(ax, ay, radius), (bx, by, radius)}
            self.boxes.add((*min((ax, ay, bx, by), (bx, by, ax, ay)), radius))

    def lines(self, starts: Floats, ends: Floats, radius: float) -> None:
        """Many straight sweeps of one radius."""
        for (ax, ay), (bx, by) in zip(starts.tolist(), ends.tolist(), strict=True):
            self.line(ax, ay, bx, by, radius)

    def sector(self, centre: tuple[float, float], r: float, a0: float, turn: float, radius: float) -> None:
        whole = abs(turn) >= 2 * math.pi - 1e-9
        key = tuple(round(v, 6) for v in (*centre, r, 0.0 if whole else a0, turn, radius))
        if radius <= 0 or key in self.sectors:
            return
        count = max(4, math.ceil(abs(turn) / _step(self.chord, r + radius)))
        outer = _around(*centre, r + radius, a0, turn, count)
        inner = np.array([centre]) if r <= radius else _around(*centre, r - radius, a0, turn, count)[::-1]
        if whole:
            holes = [] if r <= radius else [inner[:-1]]
            self.sectors[key] = shapely.Polygon(outer[:-1], holes)
        else:
            self.sectors[key] = shapely.polygons(np.concatenate([outer, inner]))

    def all(self) -> Regions:
        sectors = np.array(list(self.sectors.values()), dtype=object)
        return np.concatenate([sectors, *self._all_discs(), self._all_boxes()])

    def _all_discs(self) -> list[Region]:
        made = []
        for radius in sorted({r for _, _, r in self.discs}):
            points = np.array(sorted((x, y) for x, y, r in self.discs if r == radius))
            count = 4 * math.ceil(math.pi / 2 / _step(self.chord, radius))
            rim = _around(0.0, 0.0, radius, 0.0, 2 * math.pi, count)[:-1]
            made.append(shapely.polygons(points[:, None, :] + rim[None, :, :]))
        return made

    def _all_boxes(self) -> Regions:
        rows = np.array(sorted(self.boxes)).reshape(-1, 5)
        a, b, radius = rows[:, 0:2], rows[:, 2:4], rows[:, 4:5]
        length = np.linalg.norm(b - a, axis=1)
        a, b, radius, length = (v[length > 1e-6] for v in (a, b, radius, length))
        side = np.column_stack([a[:, 1] - b[:, 1], b[:, 0] - a[:, 0]]) / length[:, None] * radius
        found: Regions = shapely.polygons(np.stack([a + side, b + side, b - side, a - side], axis=1))
        return found


def _step(chord: float, radius: float) -> float:
    """The angle of a chord that leaves its circle by `chord`."""
    return min(2 * math.acos(max(1 - chord / max(radius, 1e-9), 0.5)), math.pi / 8)


def _around(x: float, y: float, r: float, a0: float, turn: float, count: int) -> Region:
    angles = a0 + turn * np.arange(count + 1) / count
    return np.column_stack([x + r * np.cos(angles), y + r * np.sin(angles)])


def _add_line(strokes: _Strokes, a: Floats, b: Floats, level: float, shape: Profile) -> None:
    """The part of a straight move below `level`, as wide as the tool is there at its lowest point."""
    t0, t1 = 0.0, 1.0
    if a[2] >= level > b[2]:
        t0 = (a[2] - level) / (a[2] - b[2])
    elif b[2] >= level > a[2]:
        t1 = (level - a[2]) / (b[2] - a[2])
    p, q = a + (b - a) * t0, a + (b - a) * t1
    radius = shape.width(level - min(p[2], q[2]))
    strokes.line(float(p[0]), float(p[1]), float(q[0]), float(q[1]), radius)


def _add_arc(strokes: _Strokes, trace: Trace, row: int, level: float, shape: Profile) -> None:
    """The part of an arc or helix below `level`."""
    a, b, c, turn = trace.start[row], trace.end[row], trace.centre[row], float(trace.turn[row])
    t0, t1 = 0.0, 1.0
    if a[2] >= level > b[2]:
        t0 = float((a[2] - level) / (a[2] - b[2]))
    elif b[2] >= level > a[2]:
        t1 = float((level - a[2]) / (b[2] - a[2]))
    r = math.hypot(a[0] - c[0], a[1] - c[1])
    start = math.atan2(a[1] - c[1], a[0] - c[0]) + turn * t0
    part = turn * (t1 - t0)
    radius = shape.width(level - float(min(a[2] + (b[2] - a[2]) * t0, a[2] + (b[2] - a[2]) * t1)))
    first = a if t0 == 0.0 else c[:2] + r * np.array([math.cos(start), math.sin(start)])
    last = b if t1 == 1.0 else c[:2] + r * np.array([math.cos(start + part), math.sin(start + part)])
    strokes.line(float(first[0]), float(first[1]), float(first[0]), float(first[1]), radius)
    strokes.line(float(last[0]), float(last[1]), float(last[0]), float(last[1]), radius)
    strokes.sector((float(c[0]), float(c[1])), r, start, part, radius)


def levels_of(removals: Sequence[Removal], top: float) -> list[tuple[float, float]]:
    """Pairs (floor, height of the next floor above it, the stock's top last)."""
    floors = sorted({round(r.floor, 9) for r in removals if isinstance(r, Flat)})
    return list(zip(floors, [*floors[1:], top], strict=True)) if floors else []


def wanted_at(removals: Sequence[Removal], z: float) -> Region:
    """The region that should be open at height `z`."""
    flats = sorted((r for r in removals if isinstance(r, Flat) and r.floor <= z + 1e-9), key=lambda r: r.floor)
    bevels = [r.open_at(z) for r in removals if isinstance(r, Bevel | Furrow) and r.floor < z]
    holes = [(r, r.radius_at(z)) for r in removals if isinstance(r, Revolved) and r.floor <= z]
    whole = shapely.Polygon()
    # the deepest first: higher up they are all there again, and what they make together is known
    for region in (*(r.region for r in flats), *bevels):
        whole = region if whole.is_empty else _either(whole, region)
    return _with_discs(whole, [(r.x, r.y, radius) for r, radius in holes if radius > 0])


def _with_discs(whole: Region, holes: Sequence[tuple[float, float, float]]) -> Region:
    """A region and discs (x, y, radius). Most lie in it or beside all else, which takes no joining."""
    if not holes:
        return whole
    places = _outermost(np.array(sorted(set(holes), key=lambda hole: -hole[2])))
    discs = np.array([_disc(*hole) for hole in places.tolist()], dtype=object)
    apart = _between(places) > places[:, None, 2] + places[None, :, 2]
    np.fill_diagonal(apart, val=True)
    loose = apart.all(axis=1)
    inside = np.zeros(len(discs), bool)
    if not whole.is_empty:
        shapely.prepare(whole)
        inside = shapely.covers(whole, discs)
        loose &= ~shapely.intersects(whole, discs)
    meet = discs[~inside & ~loose]
    joined = united([whole, *meet]) if len(meet) else whole
    beside = discs[loose & ~inside]
    return shapely.MultiPolygon([*_polygons(joined), *beside]) if len(beside) else joined


def _either(whole: Region, more: Region) -> Region:
    """Two regions together. One that lies in the other takes no joining."""
    for inside, outside in ((more, whole), (whole, more)):
        (a, b, c, d), (e, f, g, h) = inside.bounds, outside.bounds
        if a >= e and b >= f and c <= g and d <= h:
            shapely.prepare(outside)
            if outside.covers(inside):
                return outside
    return _joined((whole, more))


def _between(places: Floats) -> Floats:
    """How far the middles of discs (n, 3) are from each other, (n, n)."""
    found: Floats = np.linalg.norm(places[:, None, :2] - places[None, :, :2], axis=2)
    return found


def _outermost(places: Floats) -> Floats:
    """Discs (x, y, radius), the largest first, without those that lie in a larger one: a hole that is spotted, drilled and
    countersunk is three of them."""
    within = _between(places) + places[:, None, 2] <= places[None, :, 2]
    return places[~np.tril(within, -1).any(axis=1)]


@functools.lru_cache(maxsize=2 * REMEMBERED)
def _joined(regions: tuple[Region, ...]) -> Region:
    return united(regions)


@functools.lru_cache(maxsize=256)
def _disc(x: float, y: float, radius: float) -> Region:
    return shapely.Point(x, y).buffer(radius, quad_segs=QUARTER)


@dataclass(frozen=True)
class Wall:
    """One stretch of height, `floor` to `upper`: the region `wanted` open there, all that is `allowed` to be, the stock's `plan`.

    `tolerance` is how thick a fault has to be to count, `band` how wide the field is blind along a wall.
    """

    plan: Region
    wanted: Region
    allowed: Region
    floor: float
    upper: float
    tolerance: float
    band: float


quiet = np.errstate(divide="ignore", invalid="ignore")
"""Where edges nearly coincide, GEOS divides by nothing on its way to a sound answer."""


@quiet
def left_at(wall: Wall, strokes: Regions) -> list[WallFault]:
    """What stands at the walls.

    A ring along the walls is looked at first, against the strokes that touch it: the field knows the rest, and where the ring
    is clean nothing more has to be joined. Regions are shrunk by half the tolerance before anything is taken from them:
    outlines that nearly coincide make for slow and brittle differences.
    """
    half = wall.tolerance / 2
    bounds = shapely.bounds(strokes) if len(strokes) else np.zeros((0, 4))
    parts = [part for polygon in _polygons(wall.wanted) for part in _rings(polygon, wall.plan, half, wall.band)]
    if all(_covered(part, strokes[_meet(bounds, part.bounds)]) for part in parts):
        return []
    left = wall.wanted.intersection(wall.plan).buffer(-half).difference(united(strokes)).buffer(half)
    return faults("left", left, wall.tolerance, wall.floor, wall.upper - wall.floor)


def _polygons(region: Region) -> list[Region]:
    return [p for p in getattr(region, "geoms", [region]) if not p.is_empty]


def _meet(bounds: Floats, other: Sequence[float]) -> Bools:
    """Which bounds (n, 4) overlap others."""
    return (bounds[:, 0] <= other[2]) & (bounds[:, 2] >= other[0]) & (bounds[:, 1] <= other[3]) & (bounds[:, 3] >= other[1])


@functools.lru_cache(maxsize=REMEMBERED)
def _rings(polygon: Region, plan: Region, half: float, band: float) -> list[Region]:
    """The parts of a polygon along its walls; where it runs out of the stock it has none."""
    ring = polygon.intersection(plan).buffer(-half).difference(mitred(polygon.union(_outside(plan)), -band))
    return _polygons(ring)


_COVERED: dict[bytes, bool] = {}
"""Answers of `_covered` by what they were asked of: the strokes themselves would be many megabytes to keep."""


def _covered(part: Region, strokes: Regions) -> bool:
    """Is this part of the ring covered by strokes? What was found for the same before is remembered."""
    key = hashlib.blake2b(shapely.get_coordinates([part, *strokes]).tobytes(), digest_size=16).digest()
    if key not in _COVERED:
        if len(_COVERED) >= MOST_ANSWERS:
            _COVERED.clear()
        _COVERED[key] = _swept_over(part, strokes)
    return _COVERED[key]


def _swept_over(part: Region, strokes: Regions) -> bool:
    """It is looked at piece by piece: most lie in a single stroke."""
    tree = shapely.STRtree(strokes)
    for piece in _pieces(part):
        shapely.prepare(piece)
        # those of the last runs first: they finish walls, what roughing swept ends short of them
        near = strokes[np.sort(tree.query(piece, predicate="intersects"))[::-1]]
        if not shapely.covers(near, piece).any() and not _gone(piece, near):
            return False
    return True


def _gone(piece: Region, strokes: Regions) -> bool:
    """Is nothing left of a thin piece after some strokes?"""
    for stroke in strokes:
        piece = piece.difference(stroke)
        if piece.is_empty:
            return True
    return False


def _pieces(part: Region) -> list[Region]:
    """A region cut across into strips, and what of it lies in each."""
    x0, y0, x1, y1 = part.bounds
    marks = itertools.pairwise(np.linspace(0.0, 1.0, PIECES + 1).tolist())
    if x1 - x0 > y1 - y0:
        strips = [(x0 + (x1 - x0) * a, y0, x0 + (x1 - x0) * b, y1) for a, b in marks]
    else:
        strips = [(x0, y0 + (y1 - y0) * a, x1, y0 + (y1 - y0) * b) for a, b in marks]
    return [p for strip in strips for p in _polygons(shapely.clip_by_rect(part, *strip))]


@quiet
def gouged_at(wall: Wall, strokes: Regions) -> list[WallFault]:
    """Where a tool went outside; strokes that stay inside are not looked at further."""
    roomy = _roomy(wall.allowed, wall.plan, wall.tolerance / 2)
    out = strokes[~shapely.contains_properly(roomy, strokes)] if len(strokes) else strokes
    if not len(out):
        return []
    over = united(out).intersection(wall.plan).difference(wall.allowed)
    return faults("gouge", over, wall.tolerance, wall.floor, wall.upper - wall.floor)


@functools.lru_cache(maxsize=REMEMBERED)
def _roomy(allowed: Region, plan: Region, by: float) -> Region:
    """Where a tool may be: a little more than is allowed, and all round the stock."""
    roomy = allowed.union(_outside(plan)).buffer(by)
    shapely.prepare(roomy)
    return roomy


def _outside(plan: Region) -> Region:
    """Everything around the stock, as far as any tool goes."""
    return shapely.box(*plan.buffer(plan.length).bounds).difference(plan)


def faults(kind: str, region: Region, tolerance: float, level: float, height: float) -> list[WallFault]:
    """The pieces of `region` that are thicker than `tolerance`."""
    core = mitred(region, -tolerance / 2)
    found = []
    for piece in getattr(core, "geoms", [core]):
        if piece.is_empty or piece.geom_type != "Polygon":
            continue
        whole = mitred(piece, tolerance / 2)
        spot = piece.representative_point()
        found.append(WallFault(kind, level, thickness(whole), whole.area, height, (spot.x, spot.y), whole))
    return found
