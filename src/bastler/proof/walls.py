"""Walls compared exactly: what the tools really swept at a level, as true discs and lines, against the wanted region.

For every floor of the wanted shape two questions are asked, just below the next floor above it, where a wall is at its top.
*Left*: is there something inside the wanted region that no tool went over? *Gouge*: did a tool go outside of it? What a tool
went over but not deep enough is a matter of floors, which the height field knows exactly.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from bastler.nc import Trace
from bastler.shapes import Bevel, Flat, Removal
from bastler.shapes.united import united
from bastler.tools import Profile, Tool

MOST_STROKES = 6000
"""More moves of one stage than this are a free surface; there the field alone, one cell coarse at walls, has to do."""
QUARTER = 48
"""Chords for a quarter turn of a swept disc: leaves a radius of 10 mm by under 2 µm."""
CHORD_MM = 0.001


@dataclass(frozen=True)
class WallFault:
    """A place on a wall: `level` is the height it was looked at, `by` about how thick it is, `area` its plan."""

    kind: str
    level: float
    by: float
    area: float
    height: float
    place: tuple[float, float]
    region: Any


def swept(trace: Trace, begin: int, end: int, tool: Tool, level: float, mm: float) -> Any:
    """What moves `begin` to before `end` took away at height `level`, in the plan, as an array of regions, its *strokes*.

    The sweep of a disc along a line is a rectangle and two discs, along an arc a ring sector and two discs: built as such,
    each once however many passes lie over each other. None for so many moves that they are not worth it.
    """
    shape = tool.profile
    low = np.minimum(trace.start[begin:end, 2], trace.end[begin:end, 2])
    below = begin + np.flatnonzero(low < level - 1e-9 * mm)
    if len(below) > MOST_STROKES:
        return None
    strokes = _Strokes(mm)
    arcs = (trace.kind[below] >= 2) & (trace.plane[below] == 17)
    whole = np.maximum(trace.start[below, 2], trace.end[below, 2]) < level
    easy = ~arcs & whole if shape.flat >= shape.radius else np.zeros(len(below), bool)
    strokes.lines(trace.start[below[easy], :2], trace.end[below[easy], :2], shape.radius)
    for row in below[~easy]:
        if trace.kind[row] >= 2 and trace.plane[row] == 17:
            _add_arc(strokes, trace, int(row), level, shape)
        else:
            _add_line(strokes, trace.start[row], trace.end[row], level, shape)
    return strokes.all()


class _Strokes:
    """Discs, rectangles and ring sectors, each kept once."""

    def __init__(self, mm: float) -> None:
        self.chord = CHORD_MM * mm
        self.shapes: dict[tuple[float, ...], Any] = {}
        self.many: list[Any] = []

    def disc(self, x: float, y: float, radius: float) -> None:
        key = _key(x, y, radius)
        if radius > 0 and key not in self.shapes:
            count = 4 * math.ceil(math.pi / 2 / _step(self.chord, radius))
            self.shapes[key] = shapely.polygons(_around(x, y, radius, 0.0, 2 * math.pi, count)[:-1])

    def line(self, ax: float, ay: float, bx: float, by: float, radius: float) -> None:
        self.disc(ax, ay, radius)
        self.disc(bx, by, radius)
        length = math.hypot(bx - ax, by - ay)
        key = _key(*min((ax, ay, bx, by), (bx, by, ax, ay)), radius)
        if length < 1e-9 or radius <= 0 or key in self.shapes:
            return
        nx, ny = -(by - ay) / length * radius, (bx - ax) / length * radius
        corners = [(ax + nx, ay + ny), (bx + nx, by + ny), (bx - nx, by - ny), (ax - nx, ay - ny)]
        self.shapes[key] = shapely.polygons(corners)

    def sector(self, centre: tuple[float, float], r: float, a0: float, turn: float, radius: float) -> None:
        key = _key(*centre, r, a0 if abs(turn) < 2 * math.pi - 1e-9 else 0.0, turn, radius)
        if radius <= 0 or key in self.shapes:
            return
        count = max(4, math.ceil(abs(turn) / _step(self.chord, r + radius)))
        outer = _around(*centre, r + radius, a0, turn, count)
        inner = np.array([centre]) if r <= radius else _around(*centre, r - radius, a0, turn, count)[::-1]
        if abs(turn) >= 2 * math.pi - 1e-9:
            holes = [] if r <= radius else [inner[:-1]]
            self.shapes[key] = shapely.Polygon(outer[:-1], holes)
        else:
            self.shapes[key] = shapely.polygons(np.concatenate([outer, inner]))

    def lines(self, starts: Any, ends: Any, radius: float) -> None:
        """Many straight sweeps of one radius at once; points and lines that lie over each other count once."""
        if not len(starts):
            return
        points = np.unique(np.round(np.concatenate([starts, ends]), 6), axis=0)
        count = 4 * math.ceil(math.pi / 2 / _step(self.chord, radius))
        rim = _around(0.0, 0.0, radius, 0.0, 2 * math.pi, count)[:-1]
        self.many.append(shapely.polygons(points[:, None, :] + rim[None, :, :]))
        ordered = np.where((starts[:, :1] <= ends[:, :1]), np.hstack([starts, ends]), np.hstack([ends, starts]))
        pairs = np.unique(np.round(ordered, 6), axis=0)
        a, b = pairs[:, :2], pairs[:, 2:]
        length = np.linalg.norm(b - a, axis=1)
        a, b, length = a[length > 1e-6], b[length > 1e-6], length[length > 1e-6]
        if len(a):
            side = np.column_stack([a[:, 1] - b[:, 1], b[:, 0] - a[:, 0]]) / length[:, None] * radius
            self.many.append(shapely.polygons(np.stack([a + side, b + side, b - side, a - side], axis=1)))

    def all(self) -> Any:
        return np.concatenate([np.array(list(self.shapes.values()), dtype=object), *self.many])


def _key(*values: float) -> tuple[float, ...]:
    return tuple(round(v, 6) for v in values)


def _step(chord: float, radius: float) -> float:
    """The angle of a chord that leaves its circle by `chord`."""
    return min(2 * math.acos(max(1 - chord / max(radius, 1e-9), 0.5)), math.pi / 8)


def _around(x: float, y: float, r: float, a0: float, turn: float, count: int) -> Any:
    angles = a0 + turn * np.arange(count + 1) / count
    return np.column_stack([x + r * np.cos(angles), y + r * np.sin(angles)])


def _add_line(strokes: _Strokes, a: Any, b: Any, level: float, shape: Profile) -> None:
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
    for angle in (start, start + part):
        strokes.disc(float(c[0] + r * math.cos(angle)), float(c[1] + r * math.sin(angle)), radius)
    strokes.sector((float(c[0]), float(c[1])), r, start, part, radius)


def levels_of(removals: Sequence[Removal], top: float) -> list[tuple[float, float]]:
    """Pairs (floor, height of the next floor above it, the stock's top last)."""
    floors = sorted({round(r.floor, 9) for r in removals if isinstance(r, Flat)})
    return list(zip(floors, [*floors[1:], top], strict=True)) if floors else []


def wanted_at(removals: Sequence[Removal], z: float) -> Any:
    """The region that should be open at height `z`."""
    regions = []
    for removal in removals:
        if isinstance(removal, Flat):
            if removal.floor <= z + 1e-9:
                regions.append(removal.region)
        elif isinstance(removal, Bevel):
            if removal.floor < z:
                regions.append(removal.open_at(z))
        elif removal.floor <= z:
            radius = _radius_at(removal.profile, z)
            if radius > 0:
                regions.append(shapely.Point(removal.x, removal.y).buffer(radius, quad_segs=QUARTER))
    return united(regions) if regions else shapely.Polygon()


def _radius_at(profile: Sequence[tuple[float, float]], z: float) -> float:
    best = 0.0
    for (r0, z0), (r1, z1) in itertools.pairwise(profile):
        if z >= z1:
            best = r1
        elif z > z0:
            best = r0 + (r1 - r0) * (z - z0) / (z1 - z0)
    return best


@dataclass(frozen=True)
class Wall:
    """One stretch of height, `floor` to `upper`: the region `wanted` open there, all that is `allowed` to be, the stock's `plan`.

    `tolerance` is how thick a fault has to be to count, `band` how wide the field is blind along a wall.
    """

    plan: Any
    wanted: Any
    allowed: Any
    floor: float
    upper: float
    tolerance: float
    band: float


quiet = np.errstate(divide="ignore", invalid="ignore")
"""Where edges nearly coincide, GEOS divides by nothing on its way to a sound answer."""


@quiet
def left_at(wall: Wall, strokes: Any) -> list[WallFault]:
    """What stands at the walls.

    A ring along the walls is looked at first, against the strokes that touch it: the field knows the rest, and where the ring
    is clean nothing more has to be joined. Regions are shrunk by half the tolerance before anything is taken from them:
    outlines that nearly coincide make for slow and brittle differences.
    """
    half = wall.tolerance / 2
    wanted = wall.wanted.intersection(wall.plan).buffer(-half)
    ring = wanted.difference(wall.wanted.union(_outside(wall.plan)).buffer(-wall.band, join_style="mitre"))
    if all(_swept_over(part, strokes) for part in getattr(ring, "geoms", [ring])):
        return []
    left = wanted.difference(united(strokes)).buffer(half)
    return faults("left", left, wall.tolerance, wall.floor, wall.upper - wall.floor)


def _swept_over(part: Any, strokes: Any) -> bool:
    """Is this part of the ring covered by the strokes that touch it? A hole's mostly is by a single one."""
    if part.is_empty:
        return True
    shapely.prepare(part)
    near = strokes[shapely.intersects(part, strokes)] if len(strokes) else strokes
    if not len(near):
        return False
    return bool(shapely.covers(near, part).any()) or bool(part.difference(united(near)).is_empty)


@quiet
def gouged_at(wall: Wall, strokes: Any) -> list[WallFault]:
    """Where a tool went outside; strokes that stay inside are not looked at further."""
    roomy = wall.allowed.union(_outside(wall.plan)).buffer(wall.tolerance / 2)
    shapely.prepare(roomy)
    out = strokes[~shapely.contains_properly(roomy, strokes)] if len(strokes) else strokes
    if not len(out):
        return []
    over = united(out).intersection(wall.plan).difference(wall.allowed)
    return faults("gouge", over, wall.tolerance, wall.floor, wall.upper - wall.floor)


def _outside(plan: Any) -> Any:
    """Everything around the stock, as far as any tool goes."""
    return shapely.box(*plan.buffer(plan.length).bounds).difference(plan)


def faults(kind: str, region: Any, tolerance: float, level: float, height: float) -> list[WallFault]:
    """The pieces of `region` that are thicker than `tolerance`."""
    core = region.buffer(-tolerance / 2, join_style="mitre")
    found = []
    for piece in getattr(core, "geoms", [core]):
        if piece.is_empty or piece.geom_type != "Polygon":
            continue
        whole = piece.buffer(tolerance / 2, join_style="mitre")
        spot = piece.representative_point()
        found.append(WallFault(kind, level, _thickness(whole, tolerance), whole.area, height, (spot.x, spot.y), whole))
    return found


def _thickness(piece: Any, least: float) -> float:
    """About the diameter of the largest disc inside, to a tenth."""
    lo, hi = least / 2, max(least, math.sqrt(piece.area))
    while hi - lo > 0.1 * lo:
        middle = math.sqrt(lo * hi)
        if piece.buffer(-middle).is_empty:
            hi = middle
        else:
            lo = middle
    return 2 * lo
