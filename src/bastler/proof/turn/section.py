"""Proving one run of moves of a turned part: what every move takes, and what it touches that it must not."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
import shapely.affinity

from bastler.nc import Trace
from bastler.proof.clockwork import shares
from bastler.proof.measure import thickness
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.sweep import body_along, edges_along, edges_at, extents_of, volume, way
from bastler.shapes.kinds import Floats, Ints, Region, StopFlag
from bastler.shapes.prepared import let_go, prepare_for_now
from bastler.tools import AnyTool, TurnTool

FEELS_MM = 0.002
"""Thinner than this is rounding of the text, not contact."""
VOLUME, AREA, RAPID_IN, BODY_IN, KEEP_IN, WIDE, THREAD_END = range(7)


@dataclass(frozen=True, eq=False)
class TurnSection:
    """What a run of moves did. Rows are counted from its first move.

    `cut` (n, 7): volume taken, area of it in the section, how deep a rapid, body or anything kept out of went in, how wide the
    cut was across its way, how much a thread's last turn took beyond the thread. `stocks` is the stock after every move;
    `fallen` are pieces that were parted off; `kept` names what was touched of the chuck and tailstock. `segments` (m, 6) and
    `owner` (m,) are the path.
    """

    cut: Floats
    stocks: tuple[Region, ...]
    fallen: tuple[Region, ...]
    touched: dict[int, str]
    segments: Floats
    owner: Ints
    seconds: Floats
    power: Floats
    move_seconds: Floats
    tool: AnyTool | None

    @property
    def volume(self) -> float:
        """Removed, in cubic units."""
        return float(self.cut[:, VOLUME].sum())

    @property
    def after(self) -> Region:
        """The stock at the end, without what fell off."""
        return self.stocks[-1]


def prove_section(
    scene: TurnScene, stock: Region, trace: Trace, begin: int, end: int, seconds: Floats, stop: StopFlag
) -> TurnSection | None:
    """Runs moves `begin` to before `end`, all with one tool, on `stock`; None when stopped half-way."""
    tool = scene.tools.get(int(trace.tool[begin]))
    count = end - begin
    cut = np.zeros((count, 7))
    stocks: list[Region] = []
    fallen: list[Region] = []
    touched: dict[int, str] = {}
    for k in range(count):
        row = begin + k
        if stop[0]:
            return None
        if tool is not None:
            stock = _move(scene, tool, stock, trace, row, cut[k], k, touched, fallen)
        stocks.append(stock)
    let_go(stocks)
    segments, owner = _path(trace, begin, end, scene.mm)
    times, power = _loads(scene, tool, trace, begin, end, cut, seconds, owner, segments)
    return TurnSection(cut, tuple(stocks), tuple(fallen), touched, segments, owner, times, power, seconds[begin:end].copy(), tool)


def _move(
    scene: TurnScene,
    tool: AnyTool,
    stock: Region,
    trace: Trace,
    row: int,
    cut: Floats,
    k: int,
    touched: dict[int, str],
    fallen: list[Region],
) -> Region:
    """One move: gives the stock behind it."""
    points = way(trace, row, scene.mm)
    feels = FEELS_MM * scene.mm
    lead = float(trace.lead[row])
    rapid = trace.kind[row] == 0
    ends = row + 1 >= len(trace) or trace.lead[row + 1] == 0.0  # else it goes on, as a thread that is pulled out does
    if isinstance(tool, TurnTool) and tool.holds:
        region = shapely.Polygon()  # a stop, or a puller: all of it is body
    else:
        region = _thread(tool, points, lead, cut, stock, ends=ends) if lead > 0 else edges_along(tool, points)
    for name, keep in _kept_out(scene, trace, row):
        for whole in (region, *(body_along(tool, k, points) for k in _near(tool, points, keep))):
            if whole.intersects(keep):
                deep = thickness(whole.intersection(keep))
                if deep > max(feels, cut[KEEP_IN]):
                    cut[KEEP_IN], touched[k] = deep, name
    after = stock
    if region.intersects(stock):
        taken = stock.intersection(region)
        if taken.area > (1e-4 * scene.mm) ** 2:
            cut[VOLUME], cut[AREA] = volume(taken), taken.area
            cut[WIDE] = _width(taken, points)
            deep = thickness(taken) if rapid else 0.0
            if deep > feels:
                cut[RAPID_IN] = deep
            after = _cleaned(stock.difference(region), scene.mm)
            after = _held(after, scene, fallen)
            prepare_for_now(after)
    for near in _near(tool, points, after):
        whole = body_along(tool, near, points)
        if whole.intersects(after):
            deep = thickness(whole.intersection(after))
            if deep > feels:
                cut[BODY_IN] = max(cut[BODY_IN], deep)
    return after


def _kept_out(scene: TurnScene, trace: Trace, row: int) -> Sequence[tuple[str, Any]]:
    """Jaws, chuck and tailstock, as they are to the part in a move; and the chuck from the other side, where it ever moves."""
    pulled, own = float(trace.pulled[row]), scene.keep_out
    if pulled:
        own = [(name, shapely.affinity.translate(region, -pulled)) for name, region in own]
    if scene.second is None or not trace.shoves.any():
        return own
    w0, w1 = trace.w[row].tolist()
    return [*own, *scene.second.regions(w0 - pulled, w1 - pulled)]


def _near(tool: AnyTool, points: Floats, region: Region) -> list[int]:
    """Which outlines of the tool's body may touch a region at all on their way, by their boxes alone."""
    if region.is_empty:
        return []
    (low_z, low_r), (high_z, high_r) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    z0, r0, z1, r1 = region.bounds
    found = []
    for k, (part_low_z, part_low_r, part_high_z, part_high_r) in enumerate(extents_of(tool)):
        lo, hi = low_r + part_low_r, high_r + part_high_r
        low, high = (lo, hi) if lo >= 0 else (0.0 if hi >= 0 else -hi, max(hi, -lo))
        if low_z + part_low_z <= z1 and high_z + part_high_z >= z0 and low <= r1 and high >= r0:
            found.append(k)
    return found


def _thread(tool: AnyTool, points: Floats, lead: float, cut: Floats, stock: Region, *, ends: bool) -> Region:
    """Tied to the spindle the tool meets the section once a turn: its shape stands there, a lead apart, and once at the end.
    Where the thread `ends` there it is told how deep in the material that is."""
    if not isinstance(tool, TurnTool):
        return edges_at(tool, points[-1:])
    start, end = points[0], points[-1]
    long = float(np.hypot(*(end - start)))
    turns = int(long / lead) if lead > 0 else 0
    places = start + (end - start) * (np.arange(turns + 1) * lead / max(long, 1e-12))[:, None]
    region = edges_at(tool, places)
    last = edges_at(tool, end[None, :])
    beyond = last.difference(region).intersection(stock) if ends and last.intersects(stock) else None
    if beyond is not None and not beyond.is_empty:
        cut[THREAD_END] = thickness(beyond)
    return region.union(last)


def _width(taken: Region, points: Floats) -> float:
    """How wide what was taken is, across the way of the tool."""
    d = points[-1] - points[0]
    length = float(np.hypot(*d))
    if length < 1e-9:
        x0, y0, x1, y1 = taken.bounds
        return float(max(x1 - x0, y1 - y0))
    across = np.array([-d[1], d[0]]) / length
    along = shapely.get_coordinates(taken) @ across
    return float(along.max() - along.min())


def _cleaned(stock: Region, mm: float) -> Region:
    """Without slivers, and without corners that rounding has made."""
    polygons = [g for g in getattr(stock, "geoms", [stock]) if g.geom_type == "Polygon" and g.area > 1e-7 * mm * mm]
    if not polygons:
        return shapely.Polygon()
    return polygons[0] if len(polygons) == 1 else shapely.MultiPolygon(polygons)


def _held(stock: Region, scene: TurnScene, fallen: list[Region]) -> Region:
    """What the chuck still holds; the rest has fallen."""
    polygons = list(getattr(stock, "geoms", [stock]))
    if len(polygons) <= 1:
        return stock
    held = min(polygons, key=lambda g: g.bounds[0])
    fallen += [g for g in polygons if g is not held]
    return held


def _path(trace: Trace, begin: int, end: int, mm: float) -> tuple[Floats, Ints]:
    """The path as straight pieces (x, y, z) to (x, y, z), x the radius, arcs with chords the eye does not see."""
    segments, owner = [], []
    for k, row in enumerate(range(begin, end)):
        points = way(trace, row, 40 * mm)
        for a, b in itertools.pairwise(points):
            segments.append((a[1], 0.0, a[0], b[1], 0.0, b[0]))
            owner.append(k)
    return np.array(segments).reshape(-1, 6), np.array(owner, dtype=np.int32)


def _loads(
    scene: TurnScene,
    tool: AnyTool | None,
    trace: Trace,
    begin: int,
    end: int,
    cut: Floats,
    seconds: Floats,
    owner: Ints,
    segments: Floats,
) -> tuple[Floats, Floats]:
    """Seconds and motor power of every piece of path: from the volume its move took, by Kienzle's law."""
    moves = seconds[begin:end]
    lengths = np.hypot(segments[:, 3] - segments[:, 0], segments[:, 5] - segments[:, 2]) if len(segments) else np.zeros(0)
    times = shares(lengths, owner, end - begin) * moves[owner] if len(owner) else np.zeros(0)
    if tool is None:
        return times, np.zeros(len(owner))
    k = 1.0 / scene.mm
    speed = np.maximum(trace.speed[begin:end], 1e-9)
    h = np.maximum(trace.feed[begin:end] / speed * k, 0.001)
    if not isinstance(tool, TurnTool):
        h = np.maximum(h / max(tool.flutes, 1), 0.001)
    kc = scene.material.kc11 * h**-scene.material.mc
    rate = cut[:, VOLUME] * k**3 / 1000.0 / np.maximum(moves / 60.0, 1e-9)
    feeding = trace.kind[begin:end] != 0
    power = np.where(feeding & (cut[:, VOLUME] > 0), rate * kc / (60_000.0 * scene.card.efficiency), 0.0)
    return times, power[owner] if len(owner) else np.zeros(0)
