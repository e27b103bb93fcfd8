"""Walls compared exactly: what the tools really swept at a level, as true discs and lines, against the wanted region.

For every floor of the wanted shape two questions are asked, just below the next floor above it, where a wall is at its top.
*Left*: is there something inside the wanted region that no tool went over? *Gouge*: did a tool go outside of it? What a tool
went over but not deep enough is a matter of floors, which the height field knows exactly.
"""

from __future__ import annotations

import functools
import hashlib
import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Generic, NamedTuple, TypeVar

import numpy as np
import shapely

from bastler.proof.measure import thickness
from bastler.proof.mill.strokes import Sweep
from bastler.shapes import Bevel, Flat, Furrow, Removal, Revolved
from bastler.shapes.kinds import Bools, Floats, Indices, Region, Regions
from bastler.shapes.prepared import prepare_for_now, prepared
from bastler.shapes.united import mitred, united

T = TypeVar("T")
MOST_STROKES = 6000
"""More moves of one stage than this are a free surface; there the field alone, one cell coarse at walls, has to do."""
QUARTER = 48
"""Chords for a quarter turn of a swept disc: leaves a radius of 10 mm by under 2 µm."""
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


def levels_of(removals: Sequence[Removal], top: float, least: float = 0.0) -> list[tuple[float, float]]:
    """Pairs (floor, height of the next floor above it, the stock's top last), of those that are more than `least` high."""
    floors = sorted({round(r.floor, 9) for r in removals if isinstance(r, Flat)})
    return [(low, high) for low, high in itertools.pairwise([*floors, top]) if high - low > least]


def wanted_at(removals: Sequence[Removal], z: float) -> Region:
    """The region that should be open at height `z`."""
    flats = sorted((r for r in removals if isinstance(r, Flat) and r.floor <= z + 1e-9), key=lambda r: r.floor)
    bevels = [r.open_at(z) for r in removals if isinstance(r, Bevel | Furrow) and r.floor < z]
    holes = [(r, r.radius_at(z)) for r in removals if isinstance(r, Revolved) and r.floor <= z]
    whole = shapely.Polygon()
    # the deepest first: higher up they are all there again, and what they make together is known
    for region in dict.fromkeys((*(r.region for r in flats), *bevels)):
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
        own = prepared(whole)
        inside = shapely.covers(own, discs)
        loose &= ~shapely.intersects(own, discs)
    meet = discs[~inside & ~loose]
    joined = united([whole, *meet]) if len(meet) else whole
    beside = discs[loose & ~inside]
    return shapely.MultiPolygon([*_polygons(joined), *beside]) if len(beside) else joined


def _either(whole: Region, more: Region) -> Region:
    """Two regions together. One that lies in the other takes no joining."""
    for inside, outside in ((more, whole), (whole, more)):
        (a, b, c, d), (e, f, g, h) = inside.bounds, outside.bounds
        if a >= e and b >= f and c <= g and d <= h:
            if prepared(outside).covers(inside):
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
def left_at(wall: Wall, sweeps: Sequence[Sweep]) -> list[WallFault]:
    """What stands at the walls.

    A ring along the walls is looked at first, against the strokes that touch it: the field knows the rest, and where the ring
    is clean nothing more has to be joined. Regions are shrunk by half the tolerance before anything is taken from them:
    outlines that nearly coincide make for slow and brittle differences.
    """
    half = wall.tolerance / 2
    parts = [part for polygon in _polygons(wall.wanted) for part in _rings(polygon, wall.plan, half, wall.band)]
    if all(_covered(part, sweeps) for part in parts):
        return []
    gone = united(np.concatenate([sweep.regions for sweep in sweeps])) if sweeps else shapely.Polygon()
    left = wall.wanted.intersection(wall.plan).buffer(-half).difference(gone).buffer(half)
    return faults("left", left, wall.tolerance, wall.floor, wall.upper - wall.floor)


def _polygons(region: Region) -> list[Region]:
    return [p for p in getattr(region, "geoms", [region]) if not p.is_empty]


@functools.lru_cache(maxsize=REMEMBERED)
def _rings(polygon: Region, plan: Region, half: float, band: float) -> list[_Keyed]:
    """The parts of a polygon along its walls; where it runs out of the stock it has none."""
    ring = polygon.intersection(plan).buffer(-half).difference(mitred(polygon.union(_outside(plan)), -band))
    return [_Keyed.of(part) for part in _polygons(ring)]


class _Keyed(NamedTuple):
    """A region with a key for it."""

    region: Region
    key: bytes

    @staticmethod
    def of(region: Region) -> _Keyed:
        return _Keyed(region, hashlib.blake2b(shapely.to_wkb(region), digest_size=16).digest())


class _Answers(Generic[T]):
    """What was found before by what it was asked of: the strokes themselves would be many megabytes to keep."""

    def __init__(self) -> None:
        self._known: dict[bytes, T] = {}

    def get(self, key: bytes, work: Callable[[], T]) -> T:
        if key not in self._known:
            if len(self._known) >= MOST_ANSWERS:
                self._known.clear()
            self._known[key] = work()
        return self._known[key]


_covered_before = _Answers[bool]()
_outside_before = _Answers[Indices]()


def _covered(part: _Keyed, sweeps: Sequence[Sweep]) -> bool:
    """Is this part of the ring covered by strokes? Those that are the same at all levels are asked first, and mostly known."""
    bounds = part.region.bounds
    near = [(sweep, strokes) for sweep in sweeps if (strokes := sweep.near(bounds)) is not None]
    steady = [(sweep, strokes) for sweep, strokes in near if not sweep.varies]
    return _covered_by(part, steady) or (len(steady) < len(near) and _covered_by(part, near))


def _covered_by(part: _Keyed, near: Sequence[tuple[Sweep, Bools]]) -> bool:
    made = hashlib.blake2b(part.key, digest_size=16)
    for sweep, strokes in near:
        made.update(sweep.made_of[strokes].tobytes())

    def work() -> bool:
        return bool(near) and _swept_over(part.region, np.concatenate([sweep.regions[strokes] for sweep, strokes in near]))

    return _covered_before.get(made.digest(), work)


def _swept_over(part: Region, strokes: Regions) -> bool:
    """It is looked at piece by piece: most lie in a single stroke."""
    tree = shapely.STRtree(strokes)
    for piece in _pieces(part):
        prepare_for_now(piece)
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
def gouged_at(wall: Wall, sweeps: Sequence[Sweep]) -> list[WallFault]:
    """Where a tool went outside; strokes that stay inside are not looked at further."""
    roomy = _roomy(wall.allowed, wall.plan, wall.tolerance / 2)
    out = [strokes for sweep in sweeps if len(strokes := _out_of(roomy, sweep))]
    if not out:
        return []
    over = united(np.concatenate(out)).intersection(wall.plan).difference(wall.allowed)
    return faults("gouge", over, wall.tolerance, wall.floor, wall.upper - wall.floor)


@functools.lru_cache(maxsize=REMEMBERED)
def _roomy(allowed: Region, plan: Region, by: float) -> _Keyed:
    """Where a tool may be: a little more than is allowed, and all round the stock."""
    roomy = allowed.union(_outside(plan)).buffer(by)
    return _Keyed.of(roomy)


def _out_of(roomy: _Keyed, sweep: Sweep) -> Regions:
    """The strokes that do not stay inside."""

    def work() -> Indices:
        return np.flatnonzero(~shapely.contains_properly(prepared(roomy.region), sweep.regions))

    return sweep.regions[_outside_before.get(roomy.key + sweep.key, work)]


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
