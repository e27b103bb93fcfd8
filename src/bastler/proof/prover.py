"""Proves programs, and again quickly after an edit: whatever follows from equal moves on equal stock is kept.

A run of moves with one tool is known by a digest of the moves and of what has been done to the stock where it reaches, never by
its text: a change in the header costs nothing, one in step 4 costs step 4 and what cuts there after it.
"""

from __future__ import annotations

import itertools
import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

import numpy as np
import shapely

from bastler.job import Plan
from bastler.job.part import FlatView
from bastler.job.promises import Promise
from bastler.nc import RAPID, Stopped, Trace, read
from bastler.post import Program, post
from bastler.proof.checks import MillView, check, on_table
from bastler.proof.clockwork import timetable
from bastler.proof.compare import WALL_TOLERANCE_MM, Comparison, floors, unkept
from bastler.proof.differences import differences
from bastler.proof.field import FLAT_UNDER, Begins, Grid, Heights
from bastler.proof.leftovers import leftovers
from bastler.proof.milled import MillProof
from bastler.proof.result import Remembered, Run, StageResult, digest, moves_key, runs
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
from bastler.proof.wanted import Pair, both_fields, onto, promised_fields, without_walls
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
    highest as it was before that, and the faults of its walls: those of the steps, and what stands of the promises."""

    key: bytes
    low: Heights
    high: Heights
    highest: Heights
    walls: list[WallFault]
    promised: list[WallFault]


NOTHING_THERE = np.float32(-np.inf)


@dataclass
class Memory:
    """Fields of one holding, whose memory the next proof uses again."""

    fields: list[Heights | None] = field(default_factory=list)
    edges: list[Heights | None] = field(default_factory=list)
    pair: tuple[bytes, Pair] | None = None
    promises: tuple[bytes, list[tuple[Promise, Heights, Any]]] | None = None


@dataclass(frozen=True)
class HoldingCut:
    """A holding run through: what it began with, what its program did, and what is wanted of every part."""

    scene: Scene
    program: Program
    trace: Trace
    grid: Grid
    begins: Begins | None
    stages: list[StageResult[SectionProof]]
    clock: tuple[Any, Any, float]
    sides: list[Side]
    memory: Memory
    key: bytes

    @property
    def now(self) -> Begins:
        """The first part behind it."""
        top = self.memory.fields[0]
        assert top is not None
        under = self.begins.under if self.begins else np.full_like(top, self.grid.bottom)
        return Begins(top, under, self.key)


class MillProver:
    """Proves one job after another and remembers. Not for use by two threads at a time.

    `cell_mm` fixes the grid's cell; None lets it follow the part.
    """

    def __init__(self, cell_mm: float | None = None) -> None:
        self.cell_mm = cell_mm
        self._kept = Remembered()
        self._memory: list[Memory] = []
        self._side = ThreadPoolExecutor(max_workers=1, thread_name_prefix="wanted")

    def prove(self, plan: Plan, programs: Sequence[Program | None], stop: Any = None) -> list[MillProof] | None:
        """The proofs of all holdings, each with the plan's own program or another text in its place. None when `stop[0]` was set
        meanwhile."""
        stop = np.zeros(1, np.uint8) if stop is None else stop
        self._kept.begin()
        self._memory += [Memory() for _ in plan.holdings[len(self._memory) :]]
        cuts: list[HoldingCut] = []
        took: list[float] = []
        for place, program in enumerate(programs):
            began = time.perf_counter()
            try:
                cut = self._cut(plan, place, program, cuts[-1] if cuts else None, stop)
            except Stopped:
                return None
            if cut is None:
                return None
            cuts.append(cut)
            took.append(time.perf_counter() - began)
        found = [self._told(plan, k, cuts, own=programs[k] is None, took=took[k]) for k in range(len(cuts))]
        self._kept.forget()
        return found

    def _told(self, plan: Plan, place: int, cuts: Sequence[HoldingCut], *, own: bool, took: float) -> MillProof:
        """The proof of a holding, with all there is to say."""
        began = time.perf_counter()
        cut, held = cuts[place], plan.holdings[place]
        ends = _ends(plan, place, cuts)
        comparisons = tuple(self._compare(cut, k, side, ends) for k, side in enumerate(cut.sides))
        result = MillProof(
            scene=cut.scene,
            program=cut.program,
            trace=cut.trace,
            grid=cut.grid,
            stages=cut.stages,
            starts=cut.clock[0],
            lasts=cut.clock[1],
            total=cut.clock[2],
            comparisons=comparisons,
            begins=cut.begins,
        )
        unkept = [u for k, c in enumerate(comparisons) for u in c.unkept if c not in comparisons[:k]]
        said = differences(result) + (
            leftovers(result, held if own else None, unkept) if any(c.scene.wanted for c in cuts) or not own else []
        )
        remarks = all_remarks(result, held if own else None, said)
        return replace(result, remarks=remarks, took=took + time.perf_counter() - began, held=held)

    def _cut(self, plan: Plan, place: int, program: Program | None, before: HoldingCut | None, stop: Any) -> HoldingCut | None:
        """Runs a holding's program on the part as the one before left it; None when stopped. Stopped is raised while reading."""
        scene, memory = scene_of(plan, place), self._memory[place]
        program = program or post(plan.holdings[place])
        trace = read(program.text, scene.control, stop=stop)
        grid = Grid.over(scene.stock, self.cell_mm, scene.mm)
        begins = None
        if before is not None:
            way = plan.holdings[place - 1].way_to(plan.holdings[place])
            begins = before.now.carried(way, grid, digest("carried", before.key, repr(way)))
        clock = timetable(trace, scene.card)
        parts = [Sight.of(scene, trace, k) for k in range(max(len(scene.parts), 1))]
        every = runs(program, trace)
        if len(parts) > 1:
            every = [piece for run in every for piece in _without_ways(run, trace, scene)]
        by_part: list[list[Run]] = [[] for _ in parts]
        for run in every:
            if len(parts) == 1 or not _high(run[0], run[1], trace, scene).all():
                by_part[scene.part_of(int(trace.offset[run[0]]))].append(run)
        # what is wanted and where the walls are does not wait for the cutting: both let the other core work
        wanted = self._side.submit(self._wanted, scene, grid, begins, memory, parts, by_part, stop)
        stages = self._stages(grid, begins, memory, parts, every, trace, clock, stop)
        sides = wanted.result()
        if stages is None or sides is None:
            return None
        own = (s.key for s in stages if s.part == 0)
        key = digest("cut", repr(grid), begins.key if begins else b"", *own)
        return HoldingCut(scene, program, trace, grid, begins, stages, clock, sides, memory, key)

    # -- stages -------------------------------------------------------------------------------------------------

    def _stages(
        self,
        grid: Grid,
        begins: Begins | None,
        memory: Memory,
        parts: Sequence[Sight],
        every: Sequence[Run],
        trace: Trace,
        clock: tuple[Any, Any, float],
        stop: Any,
    ) -> list[StageResult[SectionProof]] | None:
        scene, (starts, seconds, _) = parts[0].scene, clock
        around = digest(repr(grid), repr(scene.jaws), repr(scene.card), repr(scene.material), scene.unit)
        old = [*memory.fields, *[None] * len(parts)]
        memory.fields = [begins.onto(old[k]) if begins else grid.renew(old[k]) for k in range(len(parts))]
        rims = [*memory.edges, *[None] * len(parts)]
        memory.edges = [_nothing(rims[k], grid) for k in range(len(parts))]
        under = begins.under if begins else FLAT_UNDER
        tiles = [Tiles(grid, begins.key if begins else b"") for _ in parts]
        results: list[StageResult[SectionProof]] = []
        for begin, end, step, stage in every:
            part = scene.part_of(int(trace.offset[begin]))
            field, edge, own, sight = memory.fields[part], memory.edges[part], parts[part].trace, parts[part]
            tool = scene.tools.get(int(trace.tool[begin]))
            run = digest(around, moves_key(own, begin, end), repr(tool))
            cuts, feels = self._kept.keep(digest("reached", run), partial(_reached, own, begin, end, tool, grid))
            key = digest(run, tiles[part].under(feels))
            known = self._kept.has(key)

            def work(
                begin: int = begin, end: int = end, cuts: Mask = cuts, field: Any = field, edge: Any = edge, sight: Sight = sight
            ) -> Any:
                proof = prove_section(scene, grid, field, edge, under, sight.trace, begin, end, seconds, stop, cuts)
                return proof and (proof, check.run(MillView(scene, grid, sight.trace, begin, end, proof)))

            made = self._kept.keep(key, work)
            if made is None or stop[0]:
                return None
            proof, found = made
            if known and proof.patch is not None:
                proof.patch.lay(field, edge)
            tiles[part].cut(cuts, run)
            found += on_table.run(MillView(sight.scene, grid, sight.trace, begin, end, proof))
            t0 = float(starts[begin])
            t1 = float(starts[end - 1] + seconds[end - 1])
            number = int(trace.tool[begin])
            results.append(StageResult(step, stage, number, begin, end, t0, t1, proof, found, key, part, sight.shift))
        return results

    # -- comparison ---------------------------------------------------------------------------------------------

    def _wanted(
        self,
        scene: Scene,
        grid: Grid,
        begins: Begins | None,
        memory: Memory,
        parts: Sequence[Sight],
        by_part: Sequence[Sequence[Run]],
        stop: Any,
    ) -> list[Side] | None:
        """What is wanted of every part and how its walls are; None when stopped."""
        found = []
        for part, (sight, own) in enumerate(zip(parts, by_part, strict=True)):
            wanted = scene.wanted_of(part)
            removals: list[Removal] = [r for w in wanted for r in w.removals]
            around = (begins.key if begins else b"", _removals_key(scene.later.before), _removals_key(scene.later.under))
            key = digest("wanted", repr(grid), *(_removals_key(w.removals) for w in wanted), _promises_key(scene), *around)
            low, high = self._both(key, scene, grid, begins, memory, removals)
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

    def _both(
        self, key: bytes, scene: Scene, grid: Grid, begins: Begins | None, memory: Memory, removals: Sequence[Removal]
    ) -> Pair:
        """The fields of the wanted shape. Where all parts are to be alike their memory is used again."""
        if memory.pair is None or memory.pair[0] != key:
            old, memory.pair = memory.pair if not scene.wanted_on else None, None
            free = [p.flat for p in scene.promised] + [r for r in scene.later.before if isinstance(r, Flat)]
            pair = both_fields(grid, removals, old[1] if old else None, free)
            memory.pair = (key, onto(begins, pair) if begins else pair)
        return memory.pair[1]

    def _compare(self, cut: HoldingCut, part: int, side: Side, ends: Begins | None) -> Comparison:
        """What is left counts at the end of all holdings, what is gouged at the end of this one."""
        grid, mm = cut.grid, cut.scene.mm

        def work() -> Comparison:
            field = cut.memory.fields[part]
            now = end = grid.fresh() if field is None else field
            wants = self._promised(cut)
            if cut.begins is not None or ends is not None:
                # how a part ends is known of the first one: of another that is not like it nothing is excused
                alike = ends is not None and (part == 0 or np.array_equal(now, cut.now.top))
                end, under = (ends.top, ends.under) if ends is not None and alike else (now, cut.now.under)
                wants = [(promise, np.maximum(want, under), sure) for promise, want, sure in wants]
                end = np.where(end > under, end, NOTHING_THERE)
            stands = unkept(grid, end, side.highest, wants, side.promised, mm)
            left, gouge = floors(grid, now, side.low, side.high, mm)
            if end is not now:
                left, _ = floors(grid, end, side.low, side.high, mm)
            return Comparison(left, gouge, tuple(_standing(side.walls, cut.scene)), stands)

        own = [s.key for s in cut.stages if s.part == part and (len(cut.scene.parts) < 2 or s.proof.patch is not None)]
        around = (ends.key if ends else b"", cut.begins.key if cut.begins else b"")
        found: Comparison = self._kept.keep(digest("compare", side.key, *own, *around), work)
        return found

    def _promised(self, cut: HoldingCut) -> list[tuple[Promise, Heights, Any]]:
        """The fields of what the stock promises; those of the last job are good for the next one with the same stock."""
        key = digest(repr(cut.grid), _promises_key(cut.scene))
        if cut.memory.promises is None or cut.memory.promises[0] != key:
            cut.memory.promises = (key, promised_fields(cut.grid, cut.scene.promised))
        return cut.memory.promises[1]

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
        free: list[Removal] = [promise.flat for promise in scene.promised] + list(scene.later.before)
        for floor, upper in levels_of(removals, scene.stock.hi[2]):
            if stop[0]:
                return None
            strokes = self._swept(scene, trace, moves, upper - tiny)
            if strokes is None:
                return []
            wanted, allowed = wanted_at(removals, floor + tiny), wanted_at([*removals, *free], upper - tiny)
            if scene.before.under or scene.before.before:
                wanted = wanted.difference(_open(scene.before, floor + tiny, upper - tiny))
                allowed = united([allowed, _open(scene.before, upper - tiny, upper - tiny)])
            wall = Wall(
                plan=scene.stock.plan,
                wanted=wanted,
                allowed=allowed,
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
            if scene.before.under or scene.before.before:
                rest = rest.difference(_open(scene.before, promise.floor + tiny, promise.floor + tiny))
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


def _open(view: FlatView, low: float, high: float) -> Any:
    """Where between two heights nothing is left by the holdings before: open from above to the lower, or from below to the
    higher."""
    return united([wanted_at(view.before, low), wanted_at(view.under, -high)])


def _standing(walls: Sequence[WallFault], scene: Scene) -> list[WallFault]:
    """The faults of the walls but for what holdings behind this one take."""
    if not scene.later.before and not scene.later.under:
        return list(walls)
    tiny, found = 1e-4 * scene.mm, []
    for wall in walls:
        if wall.kind == "left":
            rest = wall.region.difference(_open(scene.later, wall.level + tiny, wall.level + wall.height - tiny))
            if rest.buffer(-WALL_TOLERANCE_MM * scene.mm / 4).is_empty:
                continue
        found.append(wall)
    return found


def _ends(plan: Plan, place: int, cuts: Sequence[HoldingCut]) -> Begins | None:
    """The part at the end of all holdings, as one of them sees it; None for the last, which it is the end of."""
    if place == len(cuts) - 1:
        return None
    way = plan.holdings[-1].way_to(plan.holdings[place])
    return cuts[-1].now.carried(way, cuts[place].grid, digest("ends", cuts[-1].key))


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
