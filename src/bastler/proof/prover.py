"""Proves programs, and again quickly after an edit: whatever follows from equal moves on equal stock is kept.

A run of moves with one tool is known by a digest of the moves and of what has been done to the stock where it reaches, never by
its text: a change in the header costs nothing, one in step 4 costs step 4 and what cuts there after it.
"""

from __future__ import annotations

import itertools
import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np
import shapely

from bastler.job import Plan
from bastler.job.promises import Promise
from bastler.nc import RAPID, Stopped, Trace, read
from bastler.post import Program, post
from bastler.proof.checks import View, check, on_table
from bastler.proof.clockwork import timetable
from bastler.proof.compare import WALL_TOLERANCE_MM, Comparison, floors, unkept
from bastler.proof.differences import differences
from bastler.proof.field import Grid, Heights
from bastler.proof.leftovers import leftovers
from bastler.proof.milled import MillProof
from bastler.proof.result import Kept, Run, StageResult, digest, moves_key, runs
from bastler.proof.scene import Scene, scene_of
from bastler.proof.section import SectionProof, prove_section
from bastler.proof.tiles import Mask, Tiles, reached
from bastler.proof.verdict import all_remarks
from bastler.proof.walls import (
    MOST_STROKES,
    Wall,
    WallFault,
    below,
    faults,
    gouged_at,
    left_at,
    levels_of,
    steady,
    swept,
    wanted_at,
)
from bastler.proof.wanted import Pair, both_fields, promised_fields, without_walls
from bastler.shapes import Flat, Removal
from bastler.shapes.united import united
from bastler.tools import Tool


@dataclass(frozen=True)
class Sight:
    """The program as one of the parts sees it: the scene and the trace from its own zero."""

    scene: Scene
    trace: Trace
    shift: tuple[float, float, float]

    @staticmethod
    def of(scene: Scene, trace: Trace, part: int) -> Sight:
        """Places are rounded far below what is felt, so that equal moves on two parts are equal in every digit."""
        if len(scene.parts) < 2:
            return Sight(scene, trace, (0.0, 0.0, 0.0))
        shift = scene.parts[part].shift
        moved = {name: np.round(getattr(trace, name) - np.array(shift), 9) for name in ("start", "end", "centre")}
        moved["centre"][trace.turn == 0.0] = 0.0  # straight moves have none
        alike = np.where(trace.offset == scene.parts[part].index, scene.parts[0].index, trace.offset)
        return Sight(scene.at(part), replace(trace, offset=alike, **moved), shift)


@dataclass(frozen=True)
class Side:
    """What is wanted of a part: a key, the lowest and the highest it may be, opened where walls are known to be wrong, the
    highest as it was before that, and the faults of its walls: those of the steps, and what stands of the setup's promises."""

    key: bytes
    low: Heights
    high: Heights
    highest: Heights
    walls: list[WallFault]
    promised: list[WallFault]


class MillProver:
    """Proves one job after another and remembers. Not for use by two threads at a time.

    `cell_mm` fixes the grid's cell; None lets it follow the part.
    """

    def __init__(self, cell_mm: float | None = None) -> None:
        self.cell_mm = cell_mm
        self._kept = Kept()
        self._fields: list[Heights | None] = [None]
        self._edges: list[Heights | None] = [None]
        self._pair: tuple[bytes, Pair] | None = None
        self._promises: tuple[bytes, list[tuple[Promise, Heights, Any]]] | None = None
        self._side = ThreadPoolExecutor(max_workers=1, thread_name_prefix="wanted")

    def prove(self, plan: Plan, program: Program | None = None, stop: Any = None) -> MillProof | None:
        """The proof of a plan's own program, or of another text in its place. None when `stop[0]` was set meanwhile."""
        began = time.perf_counter()
        scene = scene_of(plan)
        own = program is None
        program = program or post(plan)
        stop = np.zeros(1, np.uint8) if stop is None else stop
        try:
            trace = read(program.text, scene.control, stop=stop)
        except Stopped:
            return None
        self._kept.begin()
        result = self._prove(scene, program, trace, stop)
        if result is None:
            return None
        unkept = [u for k, c in enumerate(result.comparisons) for u in c.unkept if c not in result.comparisons[:k]]
        said = differences(result) + (leftovers(result, plan if own else None, unkept) if scene.wanted or not own else [])
        remarks = all_remarks(result, plan if own else None, said)
        self._kept.forget()
        return replace(result, remarks=remarks, took=time.perf_counter() - began, plan=plan)

    def _prove(self, scene: Scene, program: Program, trace: Trace, stop: Any) -> MillProof | None:
        grid = Grid.over(scene.stock, self.cell_mm, scene.mm)
        starts, seconds, total = timetable(trace, scene.card)
        parts = [Sight.of(scene, trace, k) for k in range(max(len(scene.parts), 1))]
        every = runs(program, trace)
        if len(parts) > 1:
            every = [piece for run in every for piece in _without_ways(run, trace, scene)]
        by_part: list[list[Run]] = [[] for _ in parts]
        for run in every:
            if len(parts) == 1 or not _high(run[0], run[1], trace, scene).all():
                by_part[scene.part_of(int(trace.offset[run[0]]))].append(run)
        # what is wanted and where the walls are does not wait for the cutting: both let the other core work
        wanted = self._side.submit(self._wanted, scene, grid, parts, by_part, stop)
        stages = self._stages(grid, parts, every, trace, seconds, starts, stop)
        sides = wanted.result()
        if stages is None or sides is None:
            return None
        comparisons = tuple(self._compare(scene, grid, stages, k, side) for k, side in enumerate(sides))
        return MillProof(
            scene=scene,
            program=program,
            trace=trace,
            grid=grid,
            stages=stages,
            starts=starts,
            lasts=seconds,
            total=total,
            comparisons=comparisons,
        )

    # -- stages -------------------------------------------------------------------------------------------------

    def _stages(
        self, grid: Grid, parts: Sequence[Sight], every: Sequence[Run], trace: Trace, seconds: Any, starts: Any, stop: Any
    ) -> list[StageResult[SectionProof]] | None:
        scene = parts[0].scene
        around = digest(repr(grid), repr(scene.jaws), repr(scene.card), repr(scene.material), scene.unit)
        old = [*self._fields, *[None] * len(parts)]
        self._fields = [grid.renew(old[k]) for k in range(len(parts))]
        rims = [*self._edges, *[None] * len(parts)]
        self._edges = [_nothing(rims[k], grid) for k in range(len(parts))]
        tiles = [Tiles(grid) for _ in parts]
        results: list[StageResult[SectionProof]] = []
        for begin, end, step, stage in every:
            part = scene.part_of(int(trace.offset[begin]))
            field, edge, own, sight = self._fields[part], self._edges[part], parts[part].trace, parts[part]
            tool = scene.tools.get(int(trace.tool[begin]))
            run = digest(around, moves_key(own, begin, end), repr(tool))
            cuts, feels = self._kept.keep(digest("reached", run), partial(_reached, own, begin, end, tool, grid))
            key = digest(run, tiles[part].under(feels))
            known = self._kept.has(key)

            def work(
                begin: int = begin, end: int = end, cuts: Mask = cuts, field: Any = field, edge: Any = edge, sight: Sight = sight
            ) -> Any:
                proof = prove_section(scene, grid, field, edge, sight.trace, begin, end, seconds, stop, cuts)
                return proof and (proof, check.run(View(scene, grid, sight.trace, begin, end, proof)))

            made = self._kept.keep(key, work)
            if made is None or stop[0]:
                return None
            proof, found = made
            if known and proof.patch is not None:
                proof.patch.lay(field, edge)
            tiles[part].cut(cuts, run)
            found += on_table.run(View(sight.scene, grid, sight.trace, begin, end, proof))
            t0 = float(starts[begin])
            t1 = float(starts[end - 1] + seconds[end - 1])
            number = int(trace.tool[begin])
            results.append(StageResult(step, stage, number, begin, end, t0, t1, proof, found, key, part, sight.shift))
        return results

    # -- comparison ---------------------------------------------------------------------------------------------

    def _wanted(
        self, scene: Scene, grid: Grid, parts: Sequence[Sight], by_part: Sequence[Sequence[Run]], stop: Any
    ) -> list[Side] | None:
        """What is wanted of every part and how its walls are; None when stopped."""
        found = []
        for part, (sight, own) in enumerate(zip(parts, by_part, strict=True)):
            wanted = scene.wanted_of(part)
            removals: list[Removal] = [r for w in wanted for r in w.removals]
            key = digest("wanted", repr(grid), *(_removals_key(w.removals) for w in wanted), _promises_key(scene))
            low, high = self._both(key, grid, removals, scene.promised, own=not scene.wanted_on)
            moves = [(moves_key(sight.trace, begin, end), begin, end) for begin, end, _, _ in own]
            tools = [repr(scene.tools.get(int(sight.trace.tool[b]))) for _, b, _ in moves]
            walls_key = digest("walls", key, *(name for name, _, _ in moves), *tools)
            walls = self._kept.keep(walls_key, partial(self._walls, scene, grid, sight.trace, moves, removals, stop))
            if walls is None or stop[0]:
                return None
            steps = [w for w in walls if w.kind in ("left", "gouge")]
            rest = [w for w in walls if w.kind not in ("left", "gouge")]
            found.append(Side(walls_key, *without_walls(grid, low, high, steps), high, steps, rest))
        return found

    def _both(self, key: bytes, grid: Grid, removals: Sequence[Removal], promised: Sequence[Promise], *, own: bool) -> Pair:
        """The fields of the wanted shape. Where all parts are to be alike their memory is used again."""
        if self._pair is None or self._pair[0] != key:
            old, self._pair = self._pair if own else None, None
            self._pair = (key, both_fields(grid, removals, old[1] if old else None, [p.flat for p in promised]))
        return self._pair[1]

    def _compare(self, scene: Scene, grid: Grid, stages: list[StageResult[SectionProof]], part: int, side: Side) -> Comparison:
        def work() -> Comparison:
            field = self._fields[part]
            now = grid.fresh() if field is None else field
            stands = unkept(grid, now, side.highest, self._promised(grid, scene), side.promised, scene.mm)
            return Comparison(*floors(grid, now, side.low, side.high, scene.mm), tuple(side.walls), stands)

        own = [stage.key for stage in stages if stage.part == part and (len(scene.parts) < 2 or stage.proof.patch is not None)]
        found: Comparison = self._kept.keep(digest("compare", side.key, *own), work)
        return found

    def _promised(self, grid: Grid, scene: Scene) -> list[tuple[Promise, Heights, Any]]:
        """The fields of what the setup promises; those of the last job are good for the next one with the same stock."""
        key = digest(repr(grid), _promises_key(scene))
        if self._promises is None or self._promises[0] != key:
            self._promises = (key, promised_fields(grid, scene.promised))
        return self._promises[1]

    def _walls(
        self,
        scene: Scene,
        grid: Grid,
        trace: Trace,
        moves: Sequence[tuple[bytes, int, int]],
        removals: list[Removal],
        stop: Any,
    ) -> list[WallFault] | None:
        tiny, found = 1e-4 * scene.mm, []
        free = [promise.flat for promise in scene.promised]
        for floor, upper in levels_of(removals, scene.stock.hi[2]):
            if stop[0]:
                return None
            strokes = self._swept(scene, trace, moves, upper - tiny)
            if strokes is None:
                return []
            wall = Wall(
                plan=scene.stock.plan,
                wanted=wanted_at(removals, floor + tiny),
                allowed=wanted_at([*removals, *free], upper - tiny),
                floor=floor,
                upper=upper,
                tolerance=WALL_TOLERANCE_MM * scene.mm,
                band=3 * grid.cell,
            )
            found += left_at(wall, strokes) + gouged_at(wall, strokes)
        return found + self._promised_walls(scene, grid, trace, moves, removals)

    def _promised_walls(
        self, scene: Scene, grid: Grid, trace: Trace, moves: Sequence[tuple[bytes, int, int]], removals: list[Removal]
    ) -> list[WallFault]:
        """What stands at the walls of the finished block, where no step has promised to take it."""
        found: list[WallFault] = []
        tiny, top = 1e-4 * scene.mm, scene.stock.hi[2]
        for promise in scene.promised:
            if promise.where != "sides":
                continue
            rest = promise.region.difference(wanted_at(removals, promise.floor + tiny))
            strokes = self._swept(scene, trace, moves, promise.floor + tiny)
            if strokes is None or rest.is_empty or not len(strokes):
                continue
            gone = united(strokes)
            near = rest.intersection(gone.buffer(2 * grid.cell))  # what no tool comes near the field sees
            left = near.buffer(-WALL_TOLERANCE_MM * scene.mm / 2).difference(gone)
            left = left.buffer(WALL_TOLERANCE_MM * scene.mm / 2)
            thin = left.difference(left.buffer(-3 * grid.cell).buffer(4 * grid.cell))
            found += faults(promise.where, thin, WALL_TOLERANCE_MM * scene.mm, promise.floor, top - promise.floor)
        return found

    def _swept(self, scene: Scene, trace: Trace, moves: Sequence[tuple[bytes, int, int]], level: float) -> Any:
        """The strokes of all runs at a level, each run's kept on its own; None where one has too many moves for it."""
        every = []
        for own, begin, end in moves:
            tool = scene.tools.get(int(trace.tool[begin]))
            if tool is None:
                continue
            whole, through = below(trace, begin, end, level, scene.mm)
            if len(whole) + len(through) > MOST_STROKES:
                return None
            at = "" if steady(tool) else repr(round(level, 9))
            key = digest("swept", own, repr(tool), (whole - begin).tobytes(), at)
            every.append(self._kept.keep(key, partial(swept, trace, whole, tool, level, scene.mm)))
            every.append(swept(trace, through, tool, level, scene.mm))
        return np.concatenate(every) if every else np.zeros(0, dtype=object)


def _without_ways(run: Run, trace: Trace, scene: Scene) -> list[Run]:
    """A run in three: the rapids over everything with which it comes, what it does, and those with which it goes. Where it comes
    from and goes to differs from part to part, what it does there does not."""
    begin, end, step, stage = run
    low = np.flatnonzero(~_high(begin, end, trace, scene))
    if not len(low):
        return [run]
    edges = sorted({begin, begin + int(low[0]), begin + int(low[-1]) + 1, end})
    return [(a, b, step, stage) for a, b in itertools.pairwise(edges)]


def _high(begin: int, end: int, trace: Trace, scene: Scene) -> Any:
    """Which moves are rapids over all parts."""
    top = scene.stock.hi[2] + max(p.shift[2] for p in scene.parts)
    lowest = np.minimum(trace.start[begin:end, 2], trace.end[begin:end, 2])
    return (trace.kind[begin:end] == RAPID) & (lowest > top)


def _reached(trace: Trace, begin: int, end: int, tool: Tool | None, grid: Grid) -> tuple[Mask, Mask]:
    if tool is None:
        nothing = np.zeros_like(Tiles(grid).states, np.bool_)
        return nothing, nothing
    return reached(trace, begin, end, tool, grid)


def _nothing(old: Heights | None, grid: Grid) -> Heights:
    """Edges of uncut stock, in the memory of old ones where it fits."""
    if old is None or old.shape != (grid.ny, grid.nx):
        return np.zeros((grid.ny, grid.nx), np.float32)
    old.fill(0.0)
    return old


def _promises_key(scene: Scene) -> bytes:
    return digest(*(f"{p.where} {p.stays}".encode() + shapely.to_wkb(p.region) + repr(p.floor).encode() for p in scene.promised))


def _removals_key(removals: Sequence[Removal]) -> bytes:
    return digest(*(shapely.to_wkb(r.region) + repr(r.floor).encode() if isinstance(r, Flat) else repr(r) for r in removals))
