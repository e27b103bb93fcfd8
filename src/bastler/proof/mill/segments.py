"""From moves to the straight pieces the field is cut with."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bastler.nc import Trace
from bastler.nc.trace import about_axis
from bastler.shapes.compiling import kernel
from bastler.shapes.kinds import Floats, Ints

CHORD_SHARE = 0.25
"""How far a chord may leave its arc, as a share of the cell. Floors do not care, and walls are compared as true arcs."""


MOST_PARTS = 1000
"""Of one straight move, however long: they tell the load along it and no more."""


def pieces(trace: Trace, begin: int, end: int, *, chord: float, longest: float, radius: float = 0.0) -> tuple[Floats, Ints]:
    """Moves `begin` to before `end` as segments (n, 6) and the move each belongs to (n,).

    Arcs become chords that leave them by no more than `chord`, their corners so far outside that a cutter of `radius` takes as
    much out of a round pocket as along the arc; feed moves longer than `longest` are parted, so that the load can be told along
    them.
    """
    counts = _counts(trace, begin, end, chord, longest)
    total = int(counts.sum())
    segments, owner = np.empty((total, 6)), np.empty(total, np.int32)
    start, stop, centre = (places[begin:end] for places in trace.as_axes)
    _part(start, stop, centre, trace.turn[begin:end], trace.plane[begin:end], counts, segments, owner, radius)
    tilt = trace.tilt[begin:end]
    if tilt.any():
        for side in (slice(0, 3), slice(3, 6)):
            segments[:, side] = about_axis(segments[:, side], tilt[owner])
    return segments, owner + begin


def _counts(trace: Trace, begin: int, end: int, chord: float, longest: float) -> NDArray[np.int64]:
    kind, turn = trace.kind[begin:end], np.abs(trace.turn[begin:end])
    radius = np.linalg.norm(trace.start[begin:end] - trace.centre[begin:end], axis=1)
    length = np.linalg.norm(trace.end[begin:end] - trace.start[begin:end], axis=1)
    counts = np.clip(np.ceil(length / longest - 1e-9), 1, MOST_PARTS)
    counts[kind == 0] = 1
    arcs = (kind >= 2) & (turn > 0)
    angle = 2 * np.arccos(np.clip(1 - chord / np.maximum(radius[arcs], 1e-9), -1.0, 1.0))
    counts[arcs] = np.maximum(4 * turn[arcs] / (2 * math.pi) + 1, np.ceil(turn[arcs] / np.maximum(angle, 1e-3)))
    found: NDArray[np.int64] = counts.astype(np.int64)
    return found


@kernel()
def _part(start: Any, end: Any, centre: Any, turn: Any, plane: Any, counts: Any, out: Any, owner: Any, radius: float) -> None:
    at = 0
    point = np.empty(3)
    for k in range(len(counts)):
        n = counts[k]
        u, v, w = (0, 1, 2) if plane[k] == 17 else ((2, 0, 1) if plane[k] == 18 else (1, 2, 0))
        ru, rv = start[k, u] - centre[k, u], start[k, v] - centre[k, v]
        r, a0 = math.sqrt(ru * ru + rv * rv), math.atan2(rv, ru)
        step = abs(turn[k]) / n
        if 0.0 < step < 1.0 and r > 0.0:  # π (r + ρ)² = area of the polygon + its perimeter times ρ + π ρ², to second order
            r *= 1.0 + step * step / 12.0 * (r + radius / 2.0) / (r + radius)
        for i in range(n):
            out[at, 0:3] = start[k] if i == 0 else point
            share = (i + 1) / n
            if i == n - 1:
                point[:] = end[k]
            elif turn[k] != 0.0:
                a = a0 + turn[k] * share
                point[u] = centre[k, u] + r * math.cos(a)
                point[v] = centre[k, v] + r * math.sin(a)
                point[w] = start[k, w] + (end[k, w] - start[k, w]) * share
            else:
                for axis in range(3):
                    point[axis] = start[k, axis] + (end[k, axis] - start[k, axis]) * share
            out[at, 3:6] = point
            owner[at] = k
            at += 1
