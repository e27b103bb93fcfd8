"""What tools sweep at one height, in the plan, as true discs, rectangles and ring sectors: *strokes*.

The sweep of a disc along a line is a rectangle and two discs, along an arc a ring sector and two discs: built as such, each once
however many passes lie over each other. How deep a move runs matters only where the tool is not as wide at that height.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely

from bastler.nc import Trace
from bastler.shapes.kinds import Bools, Floats, Indices, Region, Regions
from bastler.tools import Profile

CHORD_MM = 0.001
DISC, BOX, SECTOR = 0.0, 1.0, 2.0


def below(trace: Trace, begin: int, end: int, level: float, mm: float) -> tuple[Indices, Indices]:
    """Of moves `begin` to before `end` those that stay under a height, and those that go through it."""
    a, b = trace.start[begin:end, 2], trace.end[begin:end, 2]
    under = np.minimum(a, b) < level - 1e-9 * mm
    whole = under & (np.maximum(a, b) < level)
    return begin + np.flatnonzero(whole), begin + np.flatnonzero(under & ~whole)


def varies(trace: Trace, rows: Indices, level: float, shape: Profile) -> bool:
    """Does what some moves below a level sweep there depend on how high it is? That of a slanting one that goes through it does,
    and that of a tool that is not yet as wide as it gets."""
    a, b = trace.start[rows], trace.end[rows]
    through = np.maximum(a[:, 2], b[:, 2]) >= level
    slants = (trace.kind[rows] >= 2) | (a[:, 0] != b[:, 0]) | (a[:, 1] != b[:, 1])
    return bool((through & slants | (level - np.minimum(a[:, 2], b[:, 2]) < shape.tall)).any())


class Paths(NamedTuple):
    """Where the middle of a tool runs below a height, and how wide it is there: `lines` (n, 5) from x y to x y with a radius,
    `arcs` (m, 6) about x y with radius, first angle and turn, and that of the tool; `ends` (2m, 3) of the arcs."""

    lines: Floats
    arcs: Floats
    ends: Floats

    @property
    def key(self) -> bytes:
        """A key for all that is swept along them."""
        made = hashlib.blake2b(digest_size=16)
        for part in self:
            made.update(part.tobytes() + b"|")
        return made.digest()


def paths_at(trace: Trace, rows: Indices, level: float, shape: Profile) -> Paths:
    """The part of some moves below a height, as wide as the tool is there at the lowest point of each."""
    a, b = trace.start[rows], trace.end[rows]
    low, high = np.minimum(a[:, 2], b[:, 2]), np.maximum(a[:, 2], b[:, 2])
    through = (low < level) & (high >= level)
    share = np.where(through, np.abs(a[:, 2] - level) / np.where(through, high - low, 1.0), 0.0)
    down = a[:, 2] > b[:, 2]
    t0, t1 = np.where(through & down, share, 0.0), np.where(through & ~down, share, 1.0)
    radius = _widths(shape, level - low)
    arcs = (trace.kind[rows] >= 2) & (trace.plane[rows] == 17)
    flat = ~arcs
    first = np.where(t0[:, None] == 0.0, a, a + (b - a) * t0[:, None])[:, :2]
    last = np.where(t1[:, None] == 1.0, b, a + (b - a) * t1[:, None])[:, :2]
    lines = np.column_stack([first, last, radius])[flat]
    centre, turn = trace.centre[rows][arcs, :2], trace.turn[rows][arcs]
    spoke = a[arcs, :2] - centre
    r = np.hypot(spoke[:, 0], spoke[:, 1])
    begins = np.arctan2(spoke[:, 1], spoke[:, 0]) + turn * t0[arcs]
    part, wide = turn * (t1 - t0)[arcs], radius[arcs]
    ends = []
    for angle, own, known in ((begins, a[arcs, :2], t0[arcs] == 0.0), (begins + part, b[arcs, :2], t1[arcs] == 1.0)):
        there = centre + r[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])
        ends.append(np.column_stack([np.where(known[:, None], own, there), wide]))
    return Paths(lines, np.column_stack([centre, r, begins, part, wide]), np.concatenate(ends))


def _widths(shape: Profile, heights: Floats) -> Floats:
    """`Profile.width` of many heights."""
    if shape.flat >= shape.radius:
        return np.full(len(heights), shape.radius)
    return np.array([shape.width(float(height)) for height in heights])


class Sweep(NamedTuple):
    """Strokes of some moves: a key for all, the regions (n,), what each is made of (n, 8) and its bounds (n, 4), those of all
    (4,), and whether they are others at another level."""

    key: bytes
    regions: Regions
    made_of: Floats
    bounds: Floats
    box: tuple[float, float, float, float]
    varies: bool = False

    @staticmethod
    def along(paths: Paths, mm: float) -> Sweep:
        """Of paths; their chords leave a circle by a thousandth of a millimetre."""
        chord = CHORD_MM * mm
        lines = _once(paths.lines[paths.lines[:, 4] > 0])
        arcs = _once(paths.arcs[paths.arcs[:, 5] > 0])
        ends = paths.ends[paths.ends[:, 2] > 0]
        discs = _once(np.concatenate([lines[:, [0, 1, 4]], lines[:, [2, 3, 4]], ends]))
        boxes = _once(_one_way(lines[np.hypot(lines[:, 2] - lines[:, 0], lines[:, 3] - lines[:, 1]) > 1e-6]))
        sectors = [_sector(arc, chord) for arc in arcs.tolist()]
        regions = [np.array(sectors, dtype=object), *_discs(discs, chord), _boxes(boxes)]
        by_radius = discs[np.argsort(discs[:, 2], kind="stable")]
        made_of = np.concatenate([_kind(kind, rows, chord) for kind, rows in ((SECTOR, arcs), (DISC, by_radius), (BOX, boxes))])
        return Sweep.of(paths.key + np.float64(chord).tobytes(), np.concatenate(regions), made_of)

    @staticmethod
    def of(key: bytes, regions: Regions, made_of: Floats) -> Sweep:
        """Of regions and what they are made of."""
        bounds = shapely.bounds(regions) if len(regions) else np.zeros((0, 4))
        if not len(bounds):
            return Sweep(key, regions, made_of, bounds, (math.inf, math.inf, -math.inf, -math.inf))
        (ax, ay), (bx, by) = bounds[:, :2].min(axis=0).tolist(), bounds[:, 2:].max(axis=0).tolist()
        return Sweep(key, regions, made_of, bounds, (ax, ay, bx, by))

    def near(self, other: Sequence[float]) -> Bools | None:
        """Which strokes have bounds that overlap others; None where none has."""
        (ax, ay, bx, by), (cx, cy, dx, dy) = self.box, other
        if ax > dx or bx < cx or ay > dy or by < cy:
            return None
        b = self.bounds
        found: Bools = (b[:, 0] <= dx) & (b[:, 2] >= cx) & (b[:, 1] <= dy) & (b[:, 3] >= cy)
        return found if found.any() else None


def _once(rows: Floats) -> Floats:
    """Rows in order, each once."""
    return np.unique(rows, axis=0) if len(rows) > 1 else rows


def _one_way(lines: Floats) -> Floats:
    """Lines there and back are the same box."""
    turned = (lines[:, 0] > lines[:, 2]) | ((lines[:, 0] == lines[:, 2]) & (lines[:, 1] > lines[:, 3]))
    return np.where(turned[:, None], lines[:, [2, 3, 0, 1, 4]], lines)


def _kind(kind: float, rows: Floats, chord: float) -> Floats:
    """Rows with what they are and how fine in front, filled up to eight columns: the same numbers in another unit are others."""
    made = np.zeros((len(rows), 8))
    made[:, 0], made[:, 1], made[:, 2 : 2 + rows.shape[1]] = kind, chord, rows
    return made


def _sector(arc: Sequence[float], chord: float) -> Region:
    """What a disc sweeps along an arc, but for its ends."""
    x, y, r, a0, turn, radius = arc
    count = max(4, math.ceil(abs(turn) / _step(chord, r + radius)))
    outer = _around(x, y, r + radius, a0, turn, count)
    inner = np.array([(x, y)]) if r <= radius else _around(x, y, r - radius, a0, turn, count)[::-1]
    if abs(turn) >= 2 * math.pi - 1e-9:
        return shapely.Polygon(outer[:-1], [] if r <= radius else [inner[:-1]])
    return shapely.polygons(np.concatenate([outer, inner]))


def _discs(discs: Floats, chord: float) -> list[Regions]:
    """By their radius."""
    made = []
    for radius in np.unique(discs[:, 2]).tolist():
        points = discs[discs[:, 2] == radius, :2]
        count = 4 * math.ceil(math.pi / 2 / _step(chord, radius))
        rim = _around(0.0, 0.0, radius, 0.0, 2 * math.pi, count)[:-1]
        made.append(shapely.polygons(points[:, None, :] + rim[None, :, :]))
    return made


def _boxes(lines: Floats) -> Regions:
    a, b = lines[:, 0:2], lines[:, 2:4]
    length = np.linalg.norm(b - a, axis=1)
    side = np.column_stack([a[:, 1] - b[:, 1], b[:, 0] - a[:, 0]]) / length[:, None] * lines[:, 4:5]
    found: Regions = shapely.polygons(np.stack([a + side, b + side, b - side, a - side], axis=1))
    return found


def _step(chord: float, radius: float) -> float:
    """The angle of a chord that leaves its circle by `chord`."""
    return min(2 * math.acos(max(1 - chord / max(radius, 1e-9), 0.5)), math.pi / 8)


def _around(x: float, y: float, r: float, a0: float, turn: float, count: int) -> Floats:
    angles = a0 + turn * np.arange(count + 1) / count
    return np.column_stack([x + r * np.cos(angles), y + r * np.sin(angles)])
