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
from bastler.shapes import Flat, Removal
from bastler.tools import Profile, Tool

QUARTER = 48
"""Chords for a quarter turn of a swept disc: leaves a radius of 10 mm by under 2 µm."""
CHORD_MM = 0.0005


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
    """What moves `begin` to before `end` took away at height `level`, in the plan.

    The sweep of a disc along a line is a rectangle and two discs, along an arc a ring sector and two discs: built as such,
    each once however many passes lie over each other, and joined.
    """
    shape = tool.profile
    low = np.minimum(trace.start[begin:end, 2], trace.end[begin:end, 2])
    strokes = _Strokes(mm)
    for k in np.flatnonzero(low < level - 1e-9 * mm):
        row = begin + int(k)
        if trace.kind[row] >= 2 and trace.plane[row] == 17:
            _add_arc(strokes, trace, row, level, shape, mm)
        else:
            _add_line(strokes, trace.start[row], trace.end[row], level, shape)
    return strokes.joined()


class _Strokes:
    """Discs, rectangles and ring sectors, each kept once."""

    def __init__(self, mm: float) -> None:
        self.chord = CHORD_MM * mm
        self.shapes: dict[tuple[float, ...], Any] = {}

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
        inner = [centre] if r <= radius else _around(*centre, r - radius, a0, turn, count)[::-1]
        if abs(turn) >= 2 * math.pi - 1e-9:
            holes = [] if r <= radius else [inner[:-1]]
            self.shapes[key] = shapely.Polygon(outer[:-1], holes)
        else:
            self.shapes[key] = shapely.polygons([*outer, *inner])

    def joined(self) -> Any:
        return shapely.union_all(list(self.shapes.values())) if self.shapes else shapely.Polygon()


def _key(*values: float) -> tuple[float, ...]:
    return tuple(round(v, 6) for v in values)


def _step(chord: float, radius: float) -> float:
    """The angle of a chord that leaves its circle by `chord`."""
    return min(2 * math.acos(max(1 - chord / max(radius, 1e-9), 0.5)), math.pi / 8)


def _around(x: float, y: float, r: float, a0: float, turn: float, count: int) -> list[tuple[float, float]]:
    angles = a0 + turn * np.arange(count + 1) / count
    return list(zip((x + r * np.cos(angles)).tolist(), (y + r * np.sin(angles)).tolist(), strict=True))


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


def _add_arc(strokes: _Strokes, trace: Trace, row: int, level: float, shape: Profile, mm: float) -> None:
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
        elif removal.floor <= z:
            radius = _radius_at(removal.profile, z)
            if radius > 0:
                regions.append(shapely.Point(removal.x, removal.y).buffer(radius, quad_segs=QUARTER))
    return shapely.union_all(regions) if regions else shapely.Polygon()


def _radius_at(profile: Sequence[tuple[float, float]], z: float) -> float:
    best = 0.0
    for (r0, z0), (r1, z1) in itertools.pairwise(profile):
        if z >= z1:
            best = r1
        elif z > z0:
            best = r0 + (r1 - r0) * (z - z0) / (z1 - z0)
    return best


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
