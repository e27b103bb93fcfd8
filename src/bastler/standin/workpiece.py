"""The piece of stock in the machine as it really is: where it lies, what has been cut of it, where a tool meets it, how large it
came out. Everything in the job's unit; *part* places are seen from the part's true zero.

What has been cut is one long trace: all moves that were made on this piece so far, with the tools that really made them. Proving
it again is quick, as equal moves on an equal stock are remembered.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely
from scipy import optimize

from bastler.job import Job, Plan, plan
from bastler.language import tr
from bastler.nc import Control, Trace
from bastler.nc.trace import about_axis
from bastler.proof.gauge import GaugeEnd
from bastler.proof.mill.milled import MillProof
from bastler.proof.mill.scene import NOTHING, MillScene
from bastler.proof.mill.strokes import Sweep, paths_at
from bastler.proof.mill.walls import wanted_at
from bastler.proof.prover import Prover
from bastler.proof.result import AnyProof
from bastler.proof.scenes import scene_of
from bastler.proof.scrub import tip_at
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.sweep import body_of, edges_of
from bastler.proof.turn.turned import TurnProof
from bastler.shapes import Box
from bastler.shapes.kinds import Floats, Region
from bastler.shapes.united import united
from bastler.standin.hidden import Hidden, Lies, RealTool
from bastler.tools import AnyTool, Tool, TurnTool

Place = tuple[float, float, float]
NEAR_MM = 1e-4
"""Nearer than this a tool touches."""
STEPS = 400
NO_BANG = ("over-travel", "short-part", "not-parted", "torn")
"""What the proof stops at that a machine knows nothing of; travels the control looks at itself."""
SCRATCHES, SCRATCH_MM = ("rapid-in-stock", "holder-in-stock", "shank-in-stock"), 0.02
"""What is no more than a scratch while it is no deeper than that."""
LATEST = 0.98
"""The share of a move at which it is stopped at the latest."""
STIFF = ("tap", "drill", "reamer", "spot-drill", "parting", "threading")
"""Kinds of tools that do not give way."""
BALL_MM, FEELER_MM = 3.0, 80.0
"""Radius of the feeler's ball, and its length."""


class NotHere(ValueError):
    """Something that this machine cannot be made to do; the message is a whole sentence."""


@dataclass(frozen=True)
class Ball:
    """The feeler: a ball of a `radius` at the end of a shank; `length` from the spindle's nose to its lowest point."""

    radius: float
    length: float


@dataclass(frozen=True, eq=False)
class Mistake:
    """What must not happen in a move: at which share of it, and what it is."""

    move: int
    share: float
    code: str
    text: str


class Workpiece:
    """One piece of stock in a holding of a job, the so many th that was clamped. NotHere where this machine cannot hold it."""

    def __init__(self, job: Job, holding: str, part: int, hidden: Hidden) -> None:
        self.plan: Plan = plan(job)
        self.place = next((h.place for h in self.plan.holdings if h.holding.id == holding), -1)
        if self.place < 0:
            raise NotHere(tr("The job has no such holding."))
        group = next(g for g in self.plan.programs if any(h.place == self.place for h in g))
        if len(group) > 1:
            raise NotHere(tr("The stand-in has one spindle: it does not hand a part over."))
        planned = scene_of(self.plan, self.place)
        self.number, self.hidden = part, hidden
        lies = hidden.lies(part, turned=planned.card.turns)
        # several parts stand each in its own place: how one is turned says nothing of the next
        self.lies: Lies = replace(lies, turn=0.0) if len(self.plan.holdings[self.place].parts) > 1 else lies
        self.scene = _as_it_is(planned, self.lies)
        self.zero: Place = _plus(planned.zero, self.lies.shift)
        self.turns = planned.card.turns
        self._prover = Prover()
        self._done: list[Trace] = []
        self._tools: dict[int, RealTool] = {}
        self._known: tuple[int, AnyProof] | None = None

    @property
    def mm(self) -> float:
        return self.scene.mm

    # -- places -------------------------------------------------------------------------------------------------

    def from_machine(self, places: Floats) -> Floats:
        """Places of a tip (n, 3) in the machine, as they are seen from the part's true zero."""
        return about_axis(np.asarray(places, float) - np.array(self.zero), -math.radians(self.lies.turn))

    def to_machine(self, places: Floats) -> Floats:
        """The other way."""
        found: Floats = about_axis(np.asarray(places, float), math.radians(self.lies.turn)) + np.array(self.zero)
        return found

    def seen(self, trace: Trace, tools: Mapping[int, RealTool]) -> Trace:
        """Moves of tips in the machine as they are on the part; tools give way to the cut."""
        columns: dict[str, Any] = {}
        for name in ("start", "end", "centre"):
            columns[name] = self._on_part(trace, getattr(trace, name))
        for station, real in tools.items():
            rows = (trace.tool == station) & ~trace.stands
            axis, by = self._gives(real)
            for name in ("start", "end", "centre"):
                columns[name][rows, axis] += by
        columns["centre"][trace.turn == 0.0] = 0.0
        return replace(trace, **columns)

    def _on_part(self, trace: Trace, places: Floats) -> Floats:
        """Where the work stands places are those of the part already, and it is not shifted across."""
        found = self.from_machine(places)
        if trace.stands.any():
            along = places - np.array((0.0, 0.0, self.zero[2]))
            found[trace.stands] = along[trace.stands]
        return found

    def _gives(self, real: RealTool) -> tuple[int, float]:
        """Along which axis a tool gives way, and by how much."""
        tool = real.tool
        if not isinstance(tool, TurnTool):
            return 2, 0.0 if self.turns or tool.kind in STIFF else real.gives
        if tool.kind in STIFF:
            return 0, 0.0
        if tool.side == "face":
            return 2, real.gives
        return 0, -real.gives if tool.side == "inside" else real.gives

    # -- what is cut --------------------------------------------------------------------------------------------

    def ahead(self, trace: Trace, tools: Mapping[int, RealTool]) -> tuple[AnyProof, list[Mistake]]:
        """What a run of moves of tips in the machine will do to the piece as it is now, and what must not happen in it, in
        order."""
        self._put_aside(tools)
        done = sum(map(len, self._done))
        proof = self._proved([*self._done, self.seen(trace, tools)], tools)
        found = []
        for stage in proof.stages:
            for one in stage.found:
                move = stage.begin + one.move - done
                scratch = one.code in SCRATCHES and one.amount < SCRATCH_MM * self.mm
                if one.level == "stop" and one.code not in NO_BANG and move >= 0 and not scratch:
                    found.append(Mistake(move, _share(proof, move + done, one.place), one.code, one.text))
        return proof, sorted(found, key=lambda m: (m.move, m.share))

    def cut(self, trace: Trace, tools: Mapping[int, RealTool]) -> None:
        """Moves of tips in the machine that were made."""
        if len(trace):
            self._put_aside(tools)
            self._done.append(self.seen(trace, tools))
            self._tools |= tools

    def _put_aside(self, tools: Mapping[int, RealTool]) -> None:
        """What another tool of the same station has cut before is its own: it gets the number that no other one has."""
        for station, real in tools.items():
            old = self._tools.get(station)
            if old is None or old.number == real.number:
                continue
            del self._tools[station]
            self._tools[old.number] = old
            self._done = [replace(t, tool=np.where(t.tool == station, old.number, t.tool)) for t in self._done]

    def _proved(self, parts: Sequence[Trace], tools: Mapping[int, RealTool]) -> AnyProof:
        own: Any = {number: real.tool for number, real in (self._tools | dict(tools)).items()}  # by station, or put aside
        scene: Any = replace(self.scene, tools=own, zero=self.zero, control=_control(self.scene.control, own))
        return self._prover.run_on(self.plan, self.place, Trace.joined(parts), scene)

    def now(self) -> AnyProof | None:
        """The piece as it is; None while nothing was cut."""
        if not self._done:
            return None
        if self._known is None or self._known[0] != len(self._done):
            self._known = (len(self._done), self._proved(self._done, {}))
        return self._known[1]

    # -- meeting it ---------------------------------------------------------------------------------------------

    def free_way(self, tool: AnyTool | Ball, tip: Place, way: Place) -> tuple[float, bool]:
        """How much of a straight `way` in the machine, as a share, a tip is free to go from a place in it, and whether it meets
        something then. What it starts in it meets at once."""
        begin, end = self.from_machine(np.array([tip, _plus(tip, way)]))
        length = float(np.linalg.norm(end - begin))
        if length <= 0.0:
            return 1.0, False
        gap = self._gap_turned(tool) if self.turns else self._gap_milled(tool, begin, end)
        gone, near = 0.0, NEAR_MM * self.mm
        for _ in range(STEPS):
            room = gap(begin + (end - begin) * (gone / length))
            if room <= near:
                return gone / length, True
            gone += room
            if gone >= length:
                return 1.0, False
        return gone / length, False

    def touches(self, tool: AnyTool | Ball, tip: Place) -> bool:
        """Does a tip in the machine touch the piece, or what holds it?"""
        place = self.from_machine(np.array([tip]))[0]
        gap = self._gap_turned(tool) if self.turns else self._gap_milled(tool, place, place)
        return bool(gap(place) <= 3 * NEAR_MM * self.mm)

    def _gap_turned(self, tool: AnyTool | Ball) -> Any:
        if isinstance(tool, Ball):
            raise NotHere(tr("A turret has no feeler: touch with the tools themselves."))
        assert isinstance(self.scene, TurnScene)
        there = united([self._section(), *(region for _, region in self.scene.keep_out)])
        shape = united([shapely.Polygon(part) for part in (*edges_of(tool), *body_of(tool))])

        def gap(tip: Floats) -> float:
            moved = shapely.transform(shape, lambda p: p + np.array((tip[2], tip[0])))
            return float(shapely.distance(moved, there))

        return gap

    def _gap_milled(self, tool: AnyTool | Ball, begin: Floats, end: Floats) -> Any:
        radius = tool.radius if isinstance(tool, Ball) else tool.diameter / 2 if isinstance(tool, Tool) else 0.0
        if np.allclose(begin[:2], end[:2], atol=1e-9):
            top = self._top_under(begin, radius)
            return lambda tip: float(tip[2] - top) if tip[2] > top - radius or end[2] < begin[2] else math.inf
        level = float(begin[2]) + (radius if isinstance(tool, Ball) else 0.0)
        low, high = np.minimum(begin, end)[:2] - 2 * radius, np.maximum(begin, end)[:2] + 2 * radius
        there = self._at_level(level, shapely.box(*low, *high), jaws=True)
        return lambda tip: math.inf if there.is_empty else float(there.distance(shapely.Point(*tip[:2]))) - radius

    def _top_under(self, place: Floats, radius: float) -> float:
        """The highest place under a disc."""
        scene = self.scene
        assert isinstance(scene, MillScene)
        disc = shapely.Point(*place[:2]).buffer(max(radius, 1e-6))
        tops, proof = [], self.now()
        for part, shift in enumerate(self.shifts):
            dx, dy, dz = shift
            own = shapely.transform(disc, lambda p, by=(dx, dy): p - np.array(by))
            tops += [box.hi[2] + dz for box in scene.jaws if own.intersects(box.plan)]
            if not isinstance(proof, MillProof):
                tops += [scene.stock.hi[2] + dz] if own.intersects(scene.stock.plan) else []
                continue
            grid, heights = proof.grid, proof.finished(part)
            x = grid.x0 + (np.arange(grid.nx) + 0.5) * grid.dx - (place[0] - dx)
            y = grid.y0 + (np.arange(grid.ny) + 0.5) * grid.dy - (place[1] - dy)
            under = np.hypot(x[None, :], y[:, None]) <= max(radius, grid.cell)
            tops += [float(heights[under].max()) + dz] if under.any() else []
        return max(tops, default=-math.inf)

    @property
    def shifts(self) -> Sequence[Place]:
        """Where the parts on the table stand, from the first one."""
        scene = self.scene
        return [p.shift for p in scene.parts] if isinstance(scene, MillScene) and scene.parts else [(0.0, 0.0, 0.0)]

    def ends_on(self, ends: Sequence[GaugeEnd], offset: int) -> list[GaugeEnd]:
        """The faces of a size on the part whose work offset that is, 0 for the first. NotHere where none has it."""
        scene = self.scene
        if not offset or not isinstance(scene, MillScene):
            return list(ends)
        shift = next((p.shift for p in scene.parts if p.index == offset), None)
        if shift is None:
            raise NotHere(tr("No part has that work offset."))
        return [GaugeEnd(_plus(end.place, shift), end.out) for end in ends]

    def _at_level(self, level: float, window: Region, *, jaws: bool = False) -> Region:
        """What is there at a height, within a window in the plan."""
        scene = self.scene
        assert isinstance(scene, MillScene)
        found, gone = [], list(self._swept(level, window))
        for dx, dy, dz in self.shifts:

            def placed(region: Region, by: tuple[float, float] = (dx, dy)) -> Region:
                return shapely.transform(region, lambda p: p + np.array(by)).intersection(window)

            own = level - dz
            there = placed(scene.stock.plan) if scene.stock.lo[2] < own < scene.stock.hi[2] else shapely.Polygon()
            if scene.before.before and not there.is_empty:
                there = there.difference(placed(wanted_at(list(scene.before.before), own)))
            found.append(there.difference(united(gone)) if gone and not there.is_empty else there)
            found += [placed(box.plan) for box in scene.jaws if jaws and box.lo[2] < own < box.hi[2]]
        return united(found) if len(found) > 1 else found[0]

    def _swept(self, level: float, window: Region) -> Iterator[Region]:
        """The strokes of all tools so far at a height that come into a window."""
        if not self._done:
            return
        trace = Trace.joined(self._done)
        low, high = trace.extremes
        x0, y0, x1, y1 = window.bounds
        for number, real in self._tools.items():
            tool = real.tool
            if not isinstance(tool, Tool):
                continue
            r = tool.diameter / 2
            near = (trace.tool == number) & (low[:, 2] < level) & (high[:, 0] > x0 - r) & (low[:, 0] < x1 + r)
            rows = np.flatnonzero(near & (high[:, 1] > y0 - r) & (low[:, 1] < y1 + r))
            if len(rows):
                yield from Sweep.along(paths_at(trace, rows, level, tool.profile), self.mm).regions

    def _section(self) -> Region:
        proof = self.now()
        assert isinstance(self.scene, TurnScene)
        return proof.part if isinstance(proof, TurnProof) else self.scene.raw

    # -- measuring ----------------------------------------------------------------------------------------------

    def offs(self, ends: Sequence[GaugeEnd], within: float, *, round_: bool = False) -> list[float]:
        """How far each face of a size stands out. What is round is measured across its middle, wherever that is: there both ends
        together stand out least in a hole, most on a boss. NotHere as for `off`."""
        if not round_ or self.turns or len(ends) != 2:
            return [self.off(end, within) for end in ends]
        (x0, y0, _), (x1, y1, _) = (end.place for end in ends)
        across = np.array((y0 - y1, x1 - x0, 0.0)) / max(math.hypot(x1 - x0, y1 - y0), 1e-12)
        hollow = (x1 - x0) * ends[0].out[0] + (y1 - y0) * ends[0].out[1] > 0.0

        def beside(by: float) -> list[float]:
            moved = [GaugeEnd(_plus(end.place, (across * by).tolist()), end.out) for end in ends]
            return [self.off(end, within) for end in moved]

        reach = 0.3 * within
        found = optimize.minimize_scalar(
            lambda by: sum(beside(by)) * (1.0 if hollow else -1.0), bounds=(-reach, reach), method="bounded",
            options={"xatol": 1e-4 * self.mm},
        )  # fmt: skip
        return beside(float(found.x))

    def off(self, end: GaugeEnd, within: float) -> float:
        """How far a face stands out beyond where it should be, negative where it is short of that. NotHere where there is none
        `within` that distance."""
        place, out = np.array(end.place), np.array(end.out)
        long = float(np.linalg.norm(out))
        if not 0.999 < long < 1.001:
            raise NotHere(tr("The direction of a face has a length of 1."))
        if self.turns:
            a, b = place - within * out, place + within * out
            found = _surface(self._section(), (a[2], a[0]), (b[2], b[0]))
        elif abs(out[2]) > 0.99:
            found = self._height(place, float(out[2]), within)
        else:
            a, b = (place + side * within * out for side in (-1.0, 1.0))
            low, high = np.minimum(a, b)[:2] - within, np.maximum(a, b)[:2] + within
            found = _surface(self._at_level(float(place[2]), shapely.box(*low, *high)), a[:2], b[:2])
        if found is None:
            raise NotHere(tr("There is no such face on the part."))
        return found - within

    def _height(self, place: Floats, out: float, within: float) -> float | None:
        """Of a floor, counted from `within` under it."""
        scene = self.scene
        assert isinstance(scene, MillScene)
        if out < 0:
            by = float(place[2]) - scene.stock.lo[2]
        else:
            by = self._top_under(place, 0.0) - float(place[2])
        return by + within if abs(by) <= within else None


def _surface(there: Region, inner: Iterable[float], outer: Iterable[float]) -> float | None:
    """How far along a line, from the side of the material, its face is: of several the one nearest to the middle. None where
    there is none."""
    a, b = np.array(tuple(inner)), np.array(tuple(outer))
    long = float(np.linalg.norm(b - a))
    inside = shapely.LineString([a, b]).intersection(there)
    ends = []
    for piece in getattr(inside, "geoms", [inside]):
        if piece.geom_type == "LineString" and not piece.is_empty:
            far = max(float(np.linalg.norm(np.array(p) - a)) for p in (piece.coords[0], piece.coords[-1]))
            ends += [far] if far < long - 1e-9 else []
    return min(ends, key=lambda far: abs(far - long / 2), default=None)


def _as_it_is(planned: MillScene | TurnScene, lies: Lies) -> MillScene | TurnScene:
    """The scene with the stock as it is, and nothing wanted of it."""
    by = lies.more / 2
    if isinstance(planned, TurnScene):
        raw = planned.raw.buffer(by, join_style="mitre").intersection(shapely.box(-1e6, 0.0, 1e6, 1e6)) if by else planned.raw
        return replace(planned, raw=raw, wanted=(), promised=(), planes={}, rounds=())
    (x0, y0, z0), (x1, y1, z1) = planned.stock.lo, planned.stock.hi
    stock = Box((x0 - by, y0 - by, z0), (x1 + by, y1 + by, z1 + lies.more), planned.stock.round)
    if planned.before.before or planned.before.under:  # it was cut before: what is there is known
        stock = planned.stock
    return replace(planned, stock=stock, wanted=(), wanted_on=(), promised=(), later=NOTHING)


def _control(control: Control, tools: Mapping[int, AnyTool]) -> Control:
    """The reaches of tools as they are, for the travels."""
    return replace(control, reaches={number: reach_of(tool) for number, tool in tools.items()})


def reach_of(tool: AnyTool) -> Place:
    """From a tool's tip to what the machine knows as its place."""
    if isinstance(tool, TurnTool):
        return (tool.length_x, 0.0, tool.length_z)
    return (tool.length, 0.0, 0.0) if tool.stands == "radial" else (0.0, 0.0, tool.length)


def _share(proof: AnyProof, move: int, place: Place | None) -> float:
    """At which share of a move a place is, before its end: there the move would be over."""
    trace = proof.trace
    if place is None or move >= len(trace):
        return 0.0
    a, d = trace.start[move], trace.end[move] - trace.start[move]
    long = float(d @ d)
    return min(max(float((np.array(place) - a) @ d) / long, 0.0), LATEST) if long > 0 and trace.turn[move] == 0.0 else 0.5


def made(trace: Trace, moves: int, share: float) -> Trace:
    """The first moves of a trace, and a share of the one behind them."""
    whole = trace.between(0, moves + (1 if share > 0.0 else 0))
    if share <= 0.0 or moves >= len(trace):
        return _with_events(whole, moves)
    end, turn, w = whole.end.copy(), whole.turn.copy(), whole.w.copy()
    end[-1] = tip_at(trace, moves, share)
    turn[-1] *= share
    w[-1, 1] = whole.w_at(moves, share)
    return _with_events(replace(whole, end=end, turn=turn, w=w), moves)


def _with_events(trace: Trace, moves: int) -> Trace:
    return replace(trace, events=tuple(e for e in trace.events if e.at <= moves))


def moved_by(trace: Trace, by: Place) -> Trace:
    """All moves shifted."""
    shift = np.array(by)
    centre = np.where((trace.turn != 0.0)[:, None], trace.centre + shift, trace.centre)
    return replace(trace, start=trace.start + shift, end=trace.end + shift, centre=centre)


def _plus(a: Sequence[float], b: Sequence[float]) -> Place:
    return (a[0] + b[0], a[1] + b[1], a[2] + b[2])
