"""The sizes of a part that can be measured between faces: where these are, and which tool makes each. Worked out of the sheets of
its steps and of its proof: the faces are those of the part as it is wanted."""

from __future__ import annotations

import functools
import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from bastler.cutting.fits import general_tolerance
from bastler.job import BlockStock, PlannedHolding, PlannedStep
from bastler.live.setting_up import NO_SIZES, dimensioned, size_says, sized
from bastler.proof import MillProof, TurnProof
from bastler.proof.gauge import Gauge, GaugeEnd, Maker
from bastler.proof.mill.touch import touched as touched_milled
from bastler.proof.mill.walls import wanted_at
from bastler.proof.result import AnyProof
from bastler.proof.scrub import moment_at
from bastler.proof.touch import Vector
from bastler.proof.turn.touch import touched as touched_turned
from bastler.shapes import Flat, Removal, Revolved
from bastler.shapes.kinds import Region
from bastler.shapes.removal import heights_at
from bastler.shapes.united import united
from bastler.steps import Dim
from bastler.steps.turn.cut import ThreadGauge
from bastler.tools import Tool, TurnTool
from bastler.units import Kind, printed, scale

SAME_MM = 0.003
"""A chord of a region that differs no more from an answer is that answer."""
GRID = 24
"""Places along each side of a block at which its top is looked for."""
AROUND = np.array([(math.cos(a), math.sin(a)) for a in np.linspace(0.0, 2 * math.pi, 8, endpoint=False)])
AS_IT_IS = ("drill", "reamer", "tap", "spot-drill")
"""Kinds of tools whose hole is as wide as they are: nothing corrects that but another one."""
COMPENSATED = ("G41", "G42")


@dataclass(frozen=True)
class _Ends:
    """The faces of a size, and how much it grows where each stands further out."""

    ends: tuple[GaugeEnd, ...]
    grows: tuple[float, ...]
    round: bool = False


def gauges(held: PlannedHolding, proof: AnyProof) -> list[Gauge]:
    """All sizes of a proved holding that can be measured, in the order of its steps, each once."""
    found: list[Gauge] = []
    seen: set[tuple[float, tuple[GaugeEnd, ...]]] = set()
    for gauge in (*_whole(held, proof), *_of_steps(held, proof)):
        key = (round(gauge.nominal, 6), gauge.ends)
        if key not in seen:
            seen.add(key)
            found.append(gauge)
    _opened.cache_clear()  # proofs are large
    return found


def _whole(held: PlannedHolding, proof: AnyProof) -> Iterator[Gauge]:
    """The length of a turned part."""
    if isinstance(held.stock, BlockStock) or not isinstance(proof, TurnProof) or held.place:
        return
    long = held.bar.finished
    ends = _length(proof, (0.0, 0.0), (-long, 0.0))
    if ends is not None:
        unit = held.job.unit
        text = printed(long, Kind.LENGTH, unit)
        yield _gauge(held, proof, "stock.finished", (0, "", "The whole part", "Length", text, long), None, ends)


def _of_steps(held: PlannedHolding, proof: AnyProof) -> Iterator[Gauge]:
    job, unit = held.job, held.job.unit
    for number, done in enumerate(held.steps, held.first):
        if done.troubles or not done.step.on or done.transfer is not None or done.sketch is None:
            continue
        limits = done.filled.limits(done.ctx)
        for dim in done.sketch.dims:
            known = dimensioned(job, done, dim.field)
            if known is None or known[1].name in NO_SIZES or known[1].kind is not Kind.LENGTH:
                continue
            struct, question = known
            value, text = getattr(struct, question.name), sized(question, getattr(struct, question.name), unit)
            ends = _ends(done, proof, dim, abs(value)) if text and isinstance(value, int | float) else None
            if ends is not None:
                about = (number, done.step.id, done.step.title, size_says(question, dim.field), text, abs(float(value)))
                yield _gauge(held, proof, f"{done.step.id}.{dim.field}", about, limits.get(dim.field), ends)


def _gauge(
    held: PlannedHolding,
    proof: AnyProof,
    ident: str,
    about: tuple[int, str, str, str, str, float],
    limits: tuple[float, float] | None,
    ends: _Ends,
) -> Gauge:
    number, step, title, says, text, nominal = about
    unit = held.job.unit
    mm = scale("mm", unit)
    general = limits is None
    if limits is None and (by := general_tolerance(nominal / mm)) is not None:
        limits = (nominal - by * mm, nominal + by * mm)
    makers = tuple(_maker(proof, end) for end in ends.ends)
    return Gauge(
        ident, number, step, title, says, text, nominal, limits, general, ends.ends, ends.grows, makers, ends.round
    )  # fmt: skip


# -- faces --------------------------------------------------------------------------------------------------------


def _ends(done: PlannedStep, proof: AnyProof, dim: Dim, value: float) -> _Ends | None:
    """Where a dimension of a sheet ends on the part; None where that is no size between faces."""
    if isinstance(proof, TurnProof):
        if done.place.angles or dim.view != "half":
            return None
        if dim.how == "diameter":
            return _diameter(proof, value / 2, dim)
        return _length(proof, dim.a, dim.b) if dim.how == "length" else None
    if not isinstance(proof, MillProof):
        return None
    if dim.how == "depth":
        return _depth(done, proof, dim, value)
    if dim.how in ("aligned", "along x", "along y", "diameter"):
        return _across(done, proof, dim, value)
    return None


def _edges(region: Region) -> Iterator[tuple[tuple[float, float], tuple[float, float]]]:
    """The edges of a half section, from (z, r) to (z, r)."""
    for polygon in getattr(region, "geoms", [region]):
        if polygon.geom_type != "Polygon":
            continue
        for ring in (polygon.exterior, *polygon.interiors):
            yield from itertools.pairwise(ring.coords)


def _diameter(proof: TurnProof, r: float, dim: Dim) -> _Ends | None:
    """Of the cylinders of that radius the one nearest to where the sheet has the dimension, in its middle."""
    mm, wanted = proof.scene.mm, proof.comparison.wanted
    hair, at = SAME_MM * mm, dim.b[0]
    found: list[tuple[float, float, float]] = []
    for (z0, r0), (z1, r1) in _edges(wanted):
        if abs(r0 - r) < hair and abs(r1 - r) < hair and abs(z1 - z0) > mm:
            low, high = sorted((z0, z1))
            middle = (low + high) / 2
            found.append((max(low - at, at - high, 0.0), -(high - low), middle))
    threads = [w.gauge for w in proof.scene.wanted if w.gauge is not None]
    found = [f for f in found if not any(_threaded(t, f[2], r) for t in threads)]
    if not found:
        return None
    z = min(found)[2]
    inside = wanted.intersects(shapely.Point(z, r + 5 * hair))
    out = -1.0 if inside else 1.0
    return _Ends((GaugeEnd((r, 0.0, z), (out, 0.0, 0.0)),), (2.0 * out,), round=True)


def _threaded(thread: ThreadGauge, z: float, r: float) -> bool:
    """Is a cylinder the crests of a thread there?"""
    low, high = sorted((thread.begin, thread.end))
    return low <= z <= high and abs(r - thread.crest) < thread.pitch / 2


def _length(proof: TurnProof, a: tuple[float, float], b: tuple[float, float]) -> _Ends | None:
    """Between two shoulders, each that nearest to where the sheet has the end of the dimension."""
    if abs(a[0] - b[0]) < SAME_MM * proof.scene.mm:
        return None
    ends = [_shoulder(proof, *p) for p in (a, b)]
    if ends[0] is None or ends[1] is None:
        return None
    d = math.copysign(1.0, b[0] - a[0])
    return _Ends((ends[0], ends[1]), (-d * ends[0].out[2], d * ends[1].out[2]))


def _shoulder(proof: TurnProof, z: float, r: float) -> GaugeEnd | None:
    mm, wanted = proof.scene.mm, proof.comparison.wanted
    hair, found = SAME_MM * mm, []
    for (z0, r0), (z1, r1) in _edges(wanted):
        if abs(z0 - z) < hair and abs(z1 - z) < hair and abs(r1 - r0) > 0.2 * mm:
            low, high = sorted((r0, r1))
            found.append((max(low - r, r - high, 0.0), -(high - low), (low + high) / 2))
    if not found:
        return None
    middle = min(found)[2]
    out = -1.0 if wanted.intersects(shapely.Point(z + 5 * hair, middle)) else 1.0
    return GaugeEnd((middle, 0.0, z), (0.0, 0.0, out))


def _flats(done: PlannedStep) -> Iterator[tuple[Removal, tuple[float, float]]]:
    """What a step takes, each with its middle."""
    for removal in done.removals:
        if isinstance(removal, Revolved):
            yield removal, (removal.x, removal.y)
        elif isinstance(removal, Flat) and not removal.region.is_empty:
            c = removal.region.centroid
            yield removal, (c.x, c.y)


def _gone(proof: MillProof) -> list[Removal]:
    return proof.scene.gone_of(0)


def _across(done: PlannedStep, proof: MillProof, dim: Dim, value: float) -> _Ends | None:
    """Between two walls: the chord of what is open, or of what stands, through the middle of what the step takes."""
    mm = proof.scene.mm
    way = np.array(dim.b) - np.array(dim.a)
    length = float(np.hypot(*way))
    if length < SAME_MM * mm or value < SAME_MM * mm:
        return None
    u = way / length if dim.view == "plan" else np.array((1.0, 0.0))
    for removal, (x, y) in _flats(done):
        own = [h for r in _gone(proof) if np.isfinite(h := float(heights_at(r, np.array([(x, y)]))[0]))]
        top = min((f for f in _floors(proof) if f > removal.floor + SAME_MM * mm), default=0.0)
        level = (removal.floor + top) / 2 if not isinstance(removal, Revolved) else _inside(removal, value / 2)
        if level is None or not own:
            continue
        opened = _opened(proof, level)
        inner = opened.intersects(shapely.Point(x, y))
        there = opened if inner else proof.scene.stock.plan.difference(opened)
        chord = _chord(there, (x, y), u, 2.0 * value)
        if chord is None or abs(chord - value) > SAME_MM * mm:
            continue
        out = -1.0 if inner else 1.0
        ux, uy = (float(v) for v in u)
        ends = tuple(
            GaugeEnd((x + side * ux * value / 2, y + side * uy * value / 2, level), (side * out * ux, side * out * uy, 0.0))
            for side in (-1.0, 1.0)
        )
        return _Ends(ends, (out, out), round=isinstance(removal, Revolved) or dim.how == "diameter")
    return None


@functools.lru_cache(maxsize=64)
def _opened(proof: MillProof, level: float) -> Region:
    """What is open at a height when all is done; of the proof that is looked at just now."""
    return wanted_at(_gone(proof), level)


def _floors(proof: MillProof) -> list[float]:
    return [r.floor for r in _gone(proof) if isinstance(r, Flat)]


def _inside(hole: Revolved, radius: float) -> float | None:
    """A height at which a hole is that wide, in the middle of them."""
    hair = 1e-6
    heights = [z for r, z in hole.profile if abs(r - radius) < hair]
    if not heights:
        return None
    low = min(heights)
    wider = [z for r, z in hole.profile if r > radius + hair]
    return (low + (min(wider) if wider else max(max(heights), 0.0))) / 2


def _chord(region: Region, middle: tuple[float, float], u: Any, reach: float) -> float | None:
    """How long the stretch of a region is that lies on a line through a place in it."""
    m = np.array(middle)
    line = shapely.LineString([m - u * reach, m + u * reach]).intersection(region)
    at = shapely.Point(*middle)
    for piece in getattr(line, "geoms", [line]):
        if piece.geom_type == "LineString" and not piece.is_empty and piece.distance(at) < 1e-6:
            a, b = (np.array(p) for p in (piece.coords[0], piece.coords[-1]))
            even = abs(float(np.hypot(*(a - m))) - float(np.hypot(*(b - m))))
            return float(piece.length) if even < 0.02 * reach else None
    return None


def _depth(done: PlannedStep, proof: MillProof, dim: Dim, value: float) -> _Ends | None:
    """Between a floor and what is over it."""
    mm, gone = proof.scene.mm, _gone(proof)
    top, floor = max(dim.a[1], dim.b[1]), min(dim.a[1], dim.b[1])
    if abs(top - floor - value) > SAME_MM * mm:
        return None
    bottom = next((p for p in _places(done, gone, floor, mm) if _even(gone, proof, p, floor)), None)
    if bottom is None:
        return None
    near = next((p for p in _over(proof, bottom) if _even(gone, proof, p, top)), None)
    if near is None:
        return None
    up = (0.0, 0.0, 1.0)
    return _Ends((GaugeEnd((*near, top), up), GaugeEnd((*bottom, floor), up)), (1.0, -1.0))


def _places(done: PlannedStep, gone: list[Removal], floor: float, mm: float) -> Iterator[tuple[float, float]]:
    """Places on a floor that a step makes, away from its walls and from what goes deeper."""
    deeper = [r.region for r in gone if isinstance(r, Flat | Revolved) and r.floor < floor - SAME_MM * mm]
    for removal in done.removals:
        if isinstance(removal, Flat) and abs(removal.floor - floor) < SAME_MM * mm:
            open_ = removal.region.difference(united(deeper)) if deeper else removal.region
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


# -- makers -------------------------------------------------------------------------------------------------------


def _maker(proof: AnyProof, end: GaugeEnd) -> Maker | None:
    """The tool that leaves a face, and what moves the face with it."""
    moment = moment_at(proof, proof.total)
    x, y, z = end.place
    if isinstance(proof, TurnProof):
        move = touched_turned(proof, moment, z, x).move
    else:
        assert isinstance(proof, MillProof)
        place: Vector = (x, y, z)
        move = touched_milled(proof, moment, 0, place, end.out).move
    if move < 0:
        return None
    trace = proof.trace
    station = int(trace.tool[move])
    number = int(trace.edge[move]) or station
    section = proof.program.section_of(int(trace.line[move]))
    tool = proof.scene.tools.get(station)
    where: Any = {"step": section.step, "stage": section.stage, "first": section.first, "last": section.last}
    if isinstance(proof, TurnProof):
        if not isinstance(tool, TurnTool):
            return None
        across = abs(end.out[0]) > 0.5
        return Maker(number, station, "x" if across else "z", end.out[0 if across else 2], **where)
    if abs(end.out[2]) > 0.5:
        return Maker(number, station, "z", end.out[2], **where)
    if not isinstance(tool, Tool) or tool.kind in AS_IT_IS:
        return None
    lines = proof.program.lines[section.first : section.last]
    beside = any(word in line for line in lines for word in COMPENSATED)
    return Maker(number, station, "diameter", 0.5, **where) if beside else Maker(number, station, "tool", -0.5, **where)
