"""Faces of milled parts that a dimension of the sheet is between: walls, floors, and those that a place is the middle of."""

from __future__ import annotations

import functools
import itertools
import math
from collections.abc import Iterator
from typing import Any

import numpy as np
import shapely

from bastler.job import PlannedStep
from bastler.live.gauged import SAME_MM, Ends
from bastler.proof import MillProof
from bastler.proof.gauge import GaugeEnd
from bastler.proof.mill.walls import wanted_at
from bastler.shapes import Flat, Removal, Revolved
from bastler.shapes.kinds import Region
from bastler.shapes.removal import heights_at
from bastler.shapes.united import united
from bastler.steps import Dim

GRID = 24
"""Places along each side of a block at which its top is looked for."""
AROUND = np.array([(math.cos(a), math.sin(a)) for a in np.linspace(0.0, 2 * math.pi, 8, endpoint=False)])
TALL_MM = 0.4
"""A wall lower than that is not felt."""
ALONG = {"along x": (1.0, 0.0), "along y": (0.0, 1.0)}
Place = tuple[float, float]
Grows = list[tuple[GaugeEnd, float]]
"""Faces, and how much a size grows where each stands further out."""


def ends_of(done: PlannedStep, proof: MillProof, dim: Dim, value: float) -> Ends | None:
    """Where a dimension ends; None where that is no size between faces."""
    if dim.how == "depth":
        return _depth(done, proof, dim, value)
    if dim.how in ("aligned", "along x", "along y", "diameter"):
        return _across(done, proof, dim, value) or (_placed(done, proof, dim, value) if dim.view == "plan" else None)
    return None


def forget() -> None:
    """Nothing is kept of a proof any more: they are large."""
    _opened.cache_clear()


def _flats(done: PlannedStep) -> Iterator[tuple[Removal, Place]]:
    """What a step takes, each with its middle."""
    for removal in done.removals:
        if isinstance(removal, Revolved):
            yield removal, (removal.x, removal.y)
        elif isinstance(removal, Flat) and not removal.region.is_empty:
            c = removal.region.centroid
            yield removal, (c.x, c.y)


def _gone(proof: MillProof) -> list[Removal]:
    return proof.scene.gone_of(0)


# -- across -------------------------------------------------------------------------------------------------------


def _across(done: PlannedStep, proof: MillProof, dim: Dim, value: float) -> Ends | None:
    """Between two walls: the chord of what is open, or of what stands, through the middle of what the step takes."""
    mm = proof.scene.mm
    way = np.array(dim.b) - np.array(dim.a)
    length = float(np.hypot(*way))
    if length < SAME_MM * mm or value < SAME_MM * mm:
        return None
    u = way / length if dim.view == "plan" else np.array((1.0, 0.0))
    for removal, middle in _flats(done):
        level = _inside(removal, value / 2) if isinstance(removal, Revolved) else _between(proof, removal)
        ends = _walls(proof, middle, u, level, 2.0 * value)
        if ends is None or abs(math.dist(ends[0].place, ends[1].place) - value) > SAME_MM * mm:
            continue
        out = math.copysign(1.0, _along(ends[1], u))
        return Ends(ends, (out, out), round=isinstance(removal, Revolved) or dim.how == "diameter")
    return None


def _walls(
    proof: MillProof, middle: Place, u: Any, level: float | None, reach: float
) -> tuple[GaugeEnd, GaugeEnd] | None:  # fmt: skip
    """The two walls that a place is in the middle of, along a direction at a height: those of what is open there, or of what
    stands; None where it is in the middle of none."""
    own = [h for r in _gone(proof) if np.isfinite(h := float(heights_at(r, np.array([middle]))[0]))]
    if level is None or not own:
        return None
    opened = _opened(proof, level)
    inner = opened.intersects(shapely.Point(*middle))
    there = opened if inner else proof.scene.stock.plan.difference(opened)
    chord = _chord(there, middle, u, reach)
    if chord is None:
        return None
    (x, y), (ux, uy), out = middle, (float(v) for v in u), -1.0 if inner else 1.0
    low, high = (
        GaugeEnd((x + side * ux * chord / 2, y + side * uy * chord / 2, level), (side * out * ux, side * out * uy, 0.0))
        for side in (-1.0, 1.0)
    )
    return low, high


@functools.lru_cache(maxsize=64)
def _opened(proof: MillProof, level: float) -> Region:
    """What is open at a height when all is done; of the proof that is looked at just now."""
    return wanted_at(_gone(proof), level)


def _between(proof: MillProof, flat: Removal) -> float:
    """Half way up the walls over a floor."""
    hair = SAME_MM * proof.scene.mm
    floors = [r.floor for r in _gone(proof) if isinstance(r, Flat)]
    return (flat.floor + min((f for f in floors if f > flat.floor + hair), default=0.0)) / 2


def _inside(hole: Revolved, radius: float) -> float | None:
    """A height at which a hole is that wide, in the middle of them."""
    hair = 1e-6
    heights = [z for r, z in hole.profile if abs(r - radius) < hair]
    if not heights:
        return None
    low = min(heights)
    wider = [z for r, z in hole.profile if r > radius + hair]
    return (low + (min(wider) if wider else max(max(heights), 0.0))) / 2


def _bore(hole: Revolved, mm: float) -> float | None:
    """A height in the tallest cylinder of a hole."""
    tall = [(z1 - z0, z0, z1) for (r0, z0), (r1, z1) in _rising(hole) if abs(r1 - r0) < 1e-6 and z1 - z0 > TALL_MM * mm]
    long, low, high = max(tall, default=(0.0, 0.0, 0.0))
    return (low + high) / 2 if long else None


def _rising(hole: Revolved) -> Iterator[tuple[tuple[float, float], tuple[float, float]]]:
    """The edges of a hole's profile, each from its lower end."""
    profile = sorted(hole.profile, key=lambda p: (p[1], p[0]))
    yield from itertools.pairwise(profile)
    widest, highest = profile[-1]
    yield (widest, highest), (widest, max(highest, 0.0))


def _chord(region: Region, middle: Place, u: Any, reach: float) -> float | None:
    """How long the stretch of a region is that lies on a line through a place in its middle."""
    m = np.array(middle)
    at = shapely.Point(*middle)
    for a, b in _stretches(region, m, u, reach):
        if shapely.LineString([a, b]).distance(at) < 1e-6:
            even = abs(float(np.hypot(*(a - m))) - float(np.hypot(*(b - m))))
            return float(np.hypot(*(b - a))) if even < 0.02 * reach else None
    return None


def _stretches(region: Region, middle: Any, u: Any, reach: float) -> Iterator[tuple[Any, Any]]:
    """Where a line is in a region, from its low end to its high one."""
    line = shapely.LineString([middle - u * reach, middle + u * reach]).intersection(region)
    for piece in getattr(line, "geoms", [line]):
        if piece.geom_type == "LineString" and not piece.is_empty:
            a, b = (np.array(p) for p in (piece.coords[0], piece.coords[-1]))
            yield (a, b) if (b - a) @ u >= 0 else (b, a)


# -- places -------------------------------------------------------------------------------------------------------


def _placed(done: PlannedStep, proof: MillProof, dim: Dim, value: float) -> Ends | None:
    """How far the middle of what a step takes is from the faces that places are counted from, or from another middle."""
    hair = SAME_MM * proof.scene.mm
    a, b = np.array(dim.a), np.array(dim.b)
    along = dim.how in ("along x", "along y")
    u = np.array(ALONG[dim.how]) if along else (b - a) / max(float(np.hypot(*(b - a))), 1e-12)
    if abs(abs(float((b - a) @ u)) - value) > hair or (along and abs(float(a @ u)) > hair):
        return None
    found = _from_zero(done, proof, (float(b[0]), float(b[1])), u) if along else _from_to(done, proof, dim, u)
    if found is None:
        return None
    sense = math.copysign(1.0, float((b - a) @ u))
    return Ends(tuple(end for end, _ in found), tuple(sense * grows for _, grows in found), place=along)


def _from_zero(done: PlannedStep, proof: MillProof, place: Place, u: Any) -> Grows | None:
    middle = _middle(done, proof, place, u)
    zero = _zero(proof, middle[0][0].place, u) if middle else None
    return [*middle, *zero] if middle and zero else None


def _from_to(done: PlannedStep, proof: MillProof, dim: Dim, u: Any) -> Grows | None:
    """From one middle to another; of a pitch circle between two of its holes that are opposite, wherever these are."""
    pairs: Iterator[tuple[Place, Place]] = iter([(dim.a, dim.b)])
    if dim.how == "diameter":
        centre = ((dim.a[0] + dim.b[0]) / 2, (dim.a[1] + dim.b[1]) / 2)
        pairs = _opposite(done, centre, SAME_MM * proof.scene.mm)
    for p, q in pairs:
        long = math.dist(p, q)
        if abs(long - math.dist(dim.a, dim.b)) > SAME_MM * proof.scene.mm:
            continue
        v = (np.array(q) - np.array(p)) / long
        begin, end = (_middle(done, proof, place, v) for place in (p, q))
        if begin and end:
            return [*end, *((face, -grows) for face, grows in begin)]
    return None


def _opposite(done: PlannedStep, centre: Place, hair: float) -> Iterator[tuple[Place, Place]]:
    """Two middles each that have a place between them."""
    middles = [middle for _, middle in _flats(done)]
    for p, q in itertools.combinations(middles, 2):
        if abs(p[0] + q[0] - 2 * centre[0]) < hair and abs(p[1] + q[1] - 2 * centre[1]) < hair:
            yield p, q


def _middle(done: PlannedStep, proof: MillProof, place: Place, u: Any) -> Grows | None:
    """The walls that a place is in the middle of: of what a step takes there, or of two that it takes on both sides of it; or
    the wall that it is on."""
    hair = SAME_MM * proof.scene.mm
    for removal, middle in _flats(done):
        if math.dist(middle, place) < hair and (pair := _pair(proof, removal, middle, u, 0.5)):
            return pair
    for p, q in _opposite(done, place, hair):
        both = [next(filter(None, (_pair(proof, r, m, u, 0.25) for r, m in _flats(done) if m == one)), None) for one in (p, q)]
        if both[0] and both[1]:
            return [*both[0], *both[1]]
    return _on_wall(done, proof, place, u)


def _pair(proof: MillProof, removal: Removal, middle: Place, u: Any, share: float) -> Grows | None:
    mm = proof.scene.mm
    level = _bore(removal, mm) if isinstance(removal, Revolved) else _between(proof, removal)
    low, high = proof.scene.stock.lo, proof.scene.stock.hi
    ends = _walls(proof, middle, u, level, math.dist(low[:2], high[:2]))
    return [(end, share * _along(end, u)) for end in ends] if ends is not None else None


def _along(end: GaugeEnd, u: Any) -> float:
    """Which way a face stands out, along a direction."""
    return float(end.out[0] * u[0] + end.out[1] * u[1])


def _on_wall(done: PlannedStep, proof: MillProof, place: Place, u: Any) -> Grows | None:
    """The wall of what a step takes whose side, seen along a direction, a place is at: it was given by its corner."""
    hair, axis = SAME_MM * proof.scene.mm, int(abs(float(u[1])) > 0.5)
    for removal, middle in _flats(done):
        if not isinstance(removal, Flat):
            continue
        found = _pair(proof, removal, middle, u, 1.0)
        near = [one for one in found or () if abs(one[0].place[axis] - place[axis]) < hair]
        if near:
            return near
    return None


def _zero(proof: MillProof, place: tuple[float, float, float], u: Any) -> Grows | None:
    """The faces that a place is counted from: the side of the part at which its zero is, or both where that is in its middle."""
    stock, hair = proof.scene.stock, SAME_MM * proof.scene.mm
    there = stock.plan.difference(_opened(proof, place[2]))
    found = list(_stretches(there, np.array(place[:2]), u, math.dist(stock.lo[:2], stock.hi[:2])))
    if not found:
        return None
    low, high = min((a for a, _ in found), key=lambda p: p @ u), max((b for _, b in found), key=lambda p: p @ u)
    sides = [GaugeEnd((*p.tolist(), place[2]), (s * float(u[0]), s * float(u[1]), 0.0)) for p, s in ((low, -1.0), (high, 1.0))]
    for at, side in ((low, sides[0]), (high, sides[1])):
        if abs(float(at @ u)) < hair:
            return [(side, -_along(side, u))]
    return [(side, -0.5 * _along(side, u)) for side in sides] if abs(float((low + high) @ u)) < hair else None


# -- depths -------------------------------------------------------------------------------------------------------


def _depth(done: PlannedStep, proof: MillProof, dim: Dim, value: float) -> Ends | None:
    """Between a floor and what is over it."""
    mm, gone = proof.scene.mm, _gone(proof)
    top, floor = max(dim.a[1], dim.b[1]), min(dim.a[1], dim.b[1])
    if abs(top - floor - value) > SAME_MM * mm:
        return None
    bottom = next((p for p in _places(done, proof, floor) if _even(gone, proof, p, floor)), None)
    if bottom is None:
        return None
    near = next((p for p in _over(proof, bottom) if _even(gone, proof, p, top)), None)
    if near is None:
        return None
    up = (0.0, 0.0, 1.0)
    return Ends((GaugeEnd((*near, top), up), GaugeEnd((*bottom, floor), up)), (1.0, -1.0))


def _places(done: PlannedStep, proof: MillProof, floor: float) -> Iterator[tuple[float, float]]:
    """Places on a floor that a step makes in the block, away from its walls and from what goes deeper."""
    mm, block = proof.scene.mm, proof.scene.stock.plan
    deeper = [r.region for r in _gone(proof) if isinstance(r, Flat | Revolved) and r.floor < floor - SAME_MM * mm]
    for removal in done.removals:
        if isinstance(removal, Flat) and abs(removal.floor - floor) < SAME_MM * mm:
            there = removal.region.intersection(block)
            open_ = there.difference(united(deeper)) if deeper else there
            for by in (-2.0, -0.6):
                inner = open_.buffer(by * mm)
                if not inner.is_empty:
                    p = inner.representative_point()
                    yield p.x, p.y


def _over(proof: MillProof, place: tuple[float, float]) -> list[tuple[float, float]]:
    """Places all over the block, the nearest to one first."""
    (x0, y0, _), (x1, y1, _) = proof.scene.stock.lo, proof.scene.stock.hi
    shares = ((np.arange(GRID) + 0.5) / GRID).tolist()
    found = [(x0 + (x1 - x0) * sx, y0 + (y1 - y0) * sy) for sx in shares for sy in shares]
    return sorted(found, key=lambda p: math.dist(p, place))


def _even(gone: list[Removal], proof: MillProof, place: tuple[float, float], z: float) -> bool:
    """Is the finished part that high at a place and around it?"""
    mm = proof.scene.mm
    points = np.array([place, *(np.array(place) + 0.5 * mm * AROUND)])
    heights = np.full(len(points), proof.scene.stock.hi[2])
    for removal in gone:
        heights = np.minimum(heights, heights_at(removal, points))
    return bool((np.abs(heights - z) < SAME_MM * mm).all())
