"""Walls compared exactly: what the tools really swept at a level, as true discs and lines, against the wanted region.

At every floor of the wanted shape two questions are asked. *Left*: is there something inside the wanted region that no tool
went over at that depth? *Gouge*: up to the next floor, did a tool go outside of it?
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from bastler.nc import Trace
from bastler.shapes import Flat, Removal
from bastler.tools import Tool

QUARTER = 48
"""Chords for a quarter turn of a swept disc: leaves a radius of 10 mm by under 2 µm."""
CHORD_MM = 0.0005
SNAP_MM = 1e-5


@dataclass(frozen=True)
class WallFault:
    """A place on a wall: `level` is the height it was looked at, `by` about how thick it is, `area` its plan."""

    kind: str
    level: float
    by: float
    area: float
    height: float
    place: tuple[float, float]


def swept(trace: Trace, begin: int, end: int, tool: Tool, level: float, mm: float) -> Any:
    """What moves `begin` to before `end` took away at height `level`, in the plan."""
    shape = tool.profile
    low = np.minimum(trace.start[begin:end, 2], trace.end[begin:end, 2])
    parts: dict[float, list[Any]] = {}
    for k in np.flatnonzero(low < level - 1e-9 * mm):
        row = begin + int(k)
        for points, tip in _below(trace, row, level, mm):
            radius = round(shape.width(level - tip), 9)
            if radius > 0:
                parts.setdefault(radius, []).append(points)
    found = []
    for radius, lines in parts.items():
        found.append(_stroke(lines).buffer(radius, quad_segs=QUARTER))
    return shapely.union_all(found) if found else shapely.Polygon()


def _stroke(lines: list[Any]) -> Any:
    strokes = [shapely.LineString(p) if len(p) > 1 else shapely.Point(p[0]) for p in lines]
    return shapely.union_all(strokes) if len(strokes) > 1 else strokes[0]


def _below(trace: Trace, row: int, level: float, mm: float) -> list[tuple[list[tuple[float, float]], float]]:
    """The part of a move below `level` as points in the plan with the height of the tip there."""
    a, b = trace.start[row], trace.end[row]
    if trace.kind[row] >= 2 and trace.plane[row] == 17:
        points = _arc_points(trace, row, level, mm)
        return [(points, min(a[2], b[2]))] if points else []
    t0, t1 = 0.0, 1.0
    if a[2] >= level > b[2]:
        t0 = (a[2] - level) / (a[2] - b[2])
    elif b[2] >= level > a[2]:
        t1 = (level - a[2]) / (b[2] - a[2])
    p, q = a + (b - a) * t0, a + (b - a) * t1
    if math.hypot(q[0] - p[0], q[1] - p[1]) < 1e-9:
        return [([(p[0], p[1])], min(p[2], q[2]))]
    return [([(p[0], p[1]), (q[0], q[1])], min(p[2], q[2]))]


def _arc_points(trace: Trace, row: int, level: float, mm: float) -> list[tuple[float, float]]:
    a, b, c, turn = trace.start[row], trace.end[row], trace.centre[row], float(trace.turn[row])
    r = math.hypot(a[0] - c[0], a[1] - c[1])
    a0 = math.atan2(a[1] - c[1], a[0] - c[0])
    step = 2 * math.acos(max(1 - CHORD_MM * mm / max(r, 1e-9), 0.5))
    count = max(4, math.ceil(abs(turn) / step))
    points = []
    for k in range(count + 1):
        z = a[2] + (b[2] - a[2]) * k / count
        if z < level:
            angle = a0 + turn * k / count
            points.append((c[0] + r * math.cos(angle), c[1] + r * math.sin(angle)))
    if points and count and a[2] < level:
        points[0] = (a[0], a[1])
    return points


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
    for (r0, z0), (r1, z1) in zip(profile, profile[1:], strict=False):
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
        found.append(WallFault(kind, level, _thickness(whole, tolerance), whole.area, height, (spot.x, spot.y)))
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
