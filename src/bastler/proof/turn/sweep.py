"""What a turning tool sweeps: its convex outlines moved along the path, in the half section, both sides of the centre line.

The work turns, so what a tool takes below the axis it takes above as well: outlines are folded up over it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np
import shapely

from bastler.motion.turning import hulls
from bastler.nc import Trace
from bastler.shapes.kinds import Floats, Region
from bastler.shapes.united import united
from bastler.tools import AnyTool, Tool, TurnTool

CHORD_MM = 0.0005
"""How far, in mm, a chord of the path may leave its arc."""
Points = Any


@lru_cache(maxsize=128)
def edges_of(tool: AnyTool) -> tuple[Points, ...]:
    """The convex outlines that cut, (n, 2) arrays of (z, r) about the point."""
    if isinstance(tool, TurnTool):
        return tuple(np.array(piece) for piece in tool.cutting_pieces)
    r = tool.diameter / 2
    if tool.kind == "tap":
        return _teeth(tool.diameter / 2, tool.pitch, tool.lead, tool.flute_length)
    p = tool.profile
    tip = p.height(r)
    side = [(0.0, p.flat), (tip, r), (max(tool.flute_length, tip), r)]
    return (_as_it_stands(tool, np.array([*side, *[(z, -q) for z, q in reversed(side)]])),)


def _as_it_stands(tool: Tool, outline: Points) -> Points:
    """An outline of a tool along the axis; one that stands along X points to the axis with its tip."""
    return outline[:, ::-1].copy() if tool.stands == "radial" else outline


def _teeth(r: float, pitch: float, lead: float, length: float) -> tuple[Points, ...]:
    """A tap as the grooves of its teeth; those of the lead are not full."""
    root = r - 0.541266 * pitch
    made = []
    for k in range(max(int(length / pitch), 1)):
        high = root + (r - root) * min((k + 0.5) / max(lead, 0.5), 1.0)
        z = (k + 0.5) * pitch
        half = (high - root) * math.tan(math.radians(30.0))
        made.append(np.array([(z - half, root), (z + half, root), (z, high)]))
    return tuple(made)


@lru_cache(maxsize=128)
def body_of(tool: AnyTool) -> tuple[Points, ...]:
    """The convex outlines that must not touch anything."""
    if isinstance(tool, TurnTool):
        return tuple(np.array(part) for part in tool.body)
    s, h = tool.shank_diameter / 2, tool.holder.diameter / 2
    f, out, top = tool.flute_length, tool.stick_out, tool.stick_out + tool.holder.length
    shank = np.array([(f, -s), (f, s), (out, s), (out, -s)])
    holder = np.array([(out, -h), (out, h), (top, h), (top, -h)])
    shank, holder = _as_it_stands(tool, shank), _as_it_stands(tool, holder)
    if tool.kind != "tap":
        return (shank, holder)
    core = tool.diameter / 2 - 0.6 * tool.pitch
    return (_as_it_stands(tool, np.array([(0.0, -core), (0.0, core), (f, core), (f, -core)])), shank, holder)


def way(trace: Trace, row: int, mm: float) -> Floats:
    """The points (n, 2) of (z, r) that a move goes through; arcs as fine chords."""
    start, end = trace.start[row, [2, 0]], trace.end[row, [2, 0]]
    turn = float(trace.turn[row])
    if turn == 0.0 or trace.plane[row] != 18:
        return np.array([start, end])
    centre = trace.centre[row, [2, 0]]
    radius = float(np.hypot(*(start - centre)))
    step = 2 * math.acos(max(1 - CHORD_MM * mm / max(radius, CHORD_MM * mm), 0.0))
    count = max(2, math.ceil(abs(turn) / step))
    a0 = math.atan2(start[1] - centre[1], start[0] - centre[0])
    angles = a0 + turn * np.arange(count + 1) / count
    points = centre + radius * np.column_stack([np.cos(angles), np.sin(angles)])
    points[0], points[-1] = start, end
    return points


def swept(shapes: Sequence[Points], points: Floats) -> Region:
    """The region that convex shapes sweep along points, folded up over the axis."""
    pieces = [piece for shape in shapes for piece in hulls(shape, points)]
    return folded(pieces[0] if len(pieces) == 1 else united(pieces))


MOST_SWEPT = 4096
"""Sweeps that are remembered: an edit leaves most moves as they were."""


def edges_along(tool: AnyTool, points: Floats) -> Region:
    """What the cutting outlines of a tool sweep along points."""
    return _edges_along(tool, points.tobytes())


@lru_cache(maxsize=MOST_SWEPT)
def _edges_along(tool: AnyTool, points: bytes) -> Region:
    return swept(edges_of(tool), np.frombuffer(points).reshape(-1, 2))


def body_along(tool: AnyTool, part: int, points: Floats) -> Region:
    """What one outline of a tool's body sweeps along points."""
    return _body_along(tool, part, points.tobytes())


@lru_cache(maxsize=MOST_SWEPT)
def _body_along(tool: AnyTool, part: int, points: bytes) -> Region:
    return swept([body_of(tool)[part]], np.frombuffer(points).reshape(-1, 2))


@lru_cache(maxsize=128)
def extents_of(tool: AnyTool) -> tuple[tuple[float, float, float, float], ...]:
    """The box of every outline of a tool's body, about its point: lowest z and r, highest z and r."""
    return tuple((*part.min(axis=0).tolist(), *part.max(axis=0).tolist()) for part in body_of(tool))


def edges_at(tool: AnyTool, places: Floats) -> Region:
    """The region of a tool's cutting outlines standing at places (n, 2), folded up over the axis."""
    return _edges_at(tool, places.tobytes())


@lru_cache(maxsize=MOST_SWEPT)
def _edges_at(tool: AnyTool, places: bytes) -> Region:
    return placed(edges_of(tool), np.frombuffer(places).reshape(-1, 2))


def placed(shapes: Sequence[Points], places: Floats) -> Region:
    """The region of convex shapes standing at places (n, 2), folded up over the axis."""
    return folded(united(np.concatenate([shapely.polygons(shape[None] + places[:, None]) for shape in shapes])))


def folded(region: Region) -> Region:
    """The region with what lies below the axis turned up."""
    x0, y0, x1, y1 = region.bounds
    if y0 >= 0.0:
        return region
    low = shapely.transform(region.intersection(shapely.box(x0 - 1, y0 - 1, x1 + 1, 0.0)), lambda p: p * (1.0, -1.0))
    if y1 <= 0.0:
        return low
    return region.intersection(shapely.box(x0 - 1, 0.0, x1 + 1, y1 + 1)).union(low)


def volume(region: Region) -> float:
    """Volume of a region turned about the axis, exact for its corners: π/3 Σ dz (a² + ab + b²) (Guldin)."""
    rings, owner = shapely.get_rings(shapely.get_parts(region), return_index=True)
    if not len(rings):
        return 0.0
    p, ring = shapely.get_coordinates(rings, return_index=True)
    a, b = p[:-1, 1], p[1:, 1]
    steps = np.where(ring[1:] == ring[:-1], (p[1:, 0] - p[:-1, 0]) * (a * a + a * b + b * b), 0.0)
    parts = np.abs(np.bincount(ring[1:], weights=steps, minlength=len(rings))) * math.pi / 3
    outer = np.diff(owner, prepend=-1) != 0
    return float(parts[outer].sum() - parts[~outer].sum())
