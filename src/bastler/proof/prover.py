"""Proves programs, and again quickly after an edit: whatever follows from equal moves on equal stock is kept.

A run of moves with one tool is known by a digest of the moves and of what has been done to the stock where it reaches, never by
its text: a change in the header costs nothing, one in step 4 costs step 4 and what cuts there after it.
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cached_property, partial
from typing import Any

import numpy as np
import shapely

from bastler.job import Plan
from bastler.nc import Trace, read
from bastler.post import Program, post
from bastler.proof.checks import View, check
from bastler.proof.clockwork import timetable
from bastler.proof.compare import WALL_TOLERANCE_MM, Comparison, floors
from bastler.proof.differences import differences
from bastler.proof.field import Grid, Heights
from bastler.proof.result import Kept, Proof, Run, StageResult, digest, moves_key, runs
from bastler.proof.scene import Scene, scene_of
from bastler.proof.section import prove_section
from bastler.proof.tiles import Mask, Tiles, reached
from bastler.proof.verdict import all_remarks
from bastler.proof.walls import MOST_STROKES, Wall, WallFault, below, gouged_at, left_at, levels_of, steady, swept, wanted_at
from bastler.proof.wanted import Pair, both_fields, without_walls
from bastler.shapes import Flat, Removal
from bastler.tools import Tool


@dataclass(frozen=True, kw_only=True)
class MillProof(Proof):
    """The proof of a milled part: its field and how it compares with the wanted shape."""

    grid: Grid
    comparison: Comparison

    @cached_property
    def heights(self) -> Heights:
        """The finished part."""
        return self.after(len(self.stages) - 1)

    def before(self, stage: int) -> Heights:
        """The stock before a stage."""
        return self.after(stage - 1)

    def after(self, stage: int) -> Heights:
        """The stock after a stage, -1 for the uncut block; the caller's own."""
        field = self.grid.fresh()
        for done in self.stages[: stage + 1]:
            if done.proof.patch is not None:
                done.proof.patch.lay(field)
        return field


class MillProver:
    """Proves one job after another and remembers. Not for use by two threads at a time.

    `cell_mm` fixes the grid's cell; None lets it follow the part.
    """

    def __init__(self, cell_mm: float | None = None) -> None:
        self.cell_mm = cell_mm
        self._kept = Kept()
        self._field: Heights | None = None
        self._pair: tuple[bytes, Pair] | None = None
        self._side = ThreadPoolExecutor(max_workers=1, thread_name_prefix="wanted")

    def prove(self, plan: Plan, program: Program | None = None, stop: Any = None) -> MillProof | None:
        """The proof of a plan's own program, or of another text in its place. None when `stop[0]` was set meanwhile."""
        began = time.perf_counter()
        scene = scene_of(plan)
        own = program is None
        program = program or post(plan)
        trace = read(program.text, scene.control)
        stop = np.zeros(1, np.uint8) if stop is None else stop
        self._kept.begin()
        result = self._prove(scene, program, trace, stop)
        if result is None:
            return None
        remarks = all_remarks(result, plan if own else None, differences(result))
        self._kept.forget()
        return replace(result, remarks=remarks, took=time.perf_counter() - began, plan=plan)

    def _prove(self, scene: Scene, program: Program, trace: Trace, stop: Any) -> MillProof | None:
        grid = Grid.over(scene.stock, self.cell_mm, scene.mm)
        starts, seconds, total = timetable(trace, scene.card)
        parts = runs(program, trace)
        # what is wanted and where the walls are does not wait for the cutting: both let the other core work
        wanted = self._side.submit(self._wanted, scene, grid, trace, parts, stop)
        stages = self._stages(scene, grid, parts, trace, seconds, starts, stop)
        sides = wanted.result()
        if stages is None or sides is None:
            return None
        comparison = self._compare(scene, grid, stages, *sides)
        return MillProof(
            scene=scene,
            program=program,
            trace=trace,
            grid=grid,
            stages=stages,
            starts=starts,
            lasts=seconds,
            total=total,
            comparison=comparison,
        )

    # -- stages -------------------------------------------------------------------------------------------------

    def _stages(
        self, scene: Scene, grid: Grid, parts: Sequence[Run], trace: Trace, seconds: Any, starts: Any, stop: Any
    ) -> list[StageResult] | None:
        around = digest(repr(grid), repr(scene.jaws), repr(scene.card), repr(scene.material), scene.unit, repr(scene.zero))
        field = self._field = grid.renew(self._field)
        tiles = Tiles(grid)
        results: list[StageResult] = []
        for begin, end, step, stage in parts:
            tool = scene.tools.get(int(trace.tool[begin]))
            run = digest(around, moves_key(trace, begin, end), repr(tool))
            cuts, feels = self._kept.keep(digest("reached", run), partial(_reached, trace, begin, end, tool, grid))
            key = digest(run, tiles.under(feels))
            known = self._kept.has(key)

            def work(begin: int = begin, end: int = end, cuts: Mask = cuts) -> Any:
                proof = prove_section(scene, grid, field, trace, begin, end, seconds, stop, cuts)
                return proof and (proof, check.run(View(scene, grid, trace, begin, end, proof)))

            made = self._kept.keep(key, work)
            if made is None or stop[0]:
                return None
            proof, found = made
            if known and proof.patch is not None:
                proof.patch.lay(field)
            tiles.cut(cuts, run)
            t0 = float(starts[begin])
            t1 = float(starts[end - 1] + seconds[end - 1])
            results.append(StageResult(step, stage, int(trace.tool[begin]), begin, end, t0, t1, proof, found, key))
        return results

    # -- comparison ---------------------------------------------------------------------------------------------

    def _wanted(
        self, scene: Scene, grid: Grid, trace: Trace, parts: Sequence[Run], stop: Any
    ) -> tuple[bytes, Heights, Heights, list[WallFault]] | None:
        """A key, the lowest and the highest a correct part may be, and the faults of its walls; None when stopped."""
        removals: list[Removal] = [r for w in scene.wanted for r in w.removals]
        key = digest("wanted", repr(grid), *(_removals_key(w.removals) for w in scene.wanted))
        if self._pair is None or self._pair[0] != key:
            old, self._pair = self._pair, None
            self._pair = (key, both_fields(grid, removals, old[1] if old else None))
        low, high = self._pair[1]
        moves = [(moves_key(trace, begin, end), begin, end) for begin, end, _, _ in parts]
        walls_key = digest(
            "walls", key, *(own for own, _, _ in moves), *(repr(scene.tools.get(int(trace.tool[b]))) for _, b, _ in moves)
        )
        walls = self._kept.keep(walls_key, partial(self._walls, scene, grid, trace, moves, removals, stop))
        if walls is None or stop[0]:
            return None
        return walls_key, *without_walls(grid, low, high, walls), walls

    def _compare(
        self, scene: Scene, grid: Grid, stages: list[StageResult], key: bytes, low: Heights, high: Heights, walls: list[WallFault]
    ) -> Comparison:
        def work() -> Comparison:
            field = grid.fresh() if self._field is None else self._field
            return Comparison(*floors(grid, field, low, high, scene.mm), tuple(walls))

        found: Comparison = self._kept.keep(digest("compare", key, *(stage.key for stage in stages)), work)
        return found

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
        for floor, upper in levels_of(removals, scene.stock.hi[2]):
            if stop[0]:
                return None
            strokes = self._swept(scene, trace, moves, upper - tiny)
            if strokes is None:
                return []
            wall = Wall(
                plan=scene.stock.plan,
                wanted=wanted_at(removals, floor + tiny),
                allowed=wanted_at(removals, upper - tiny),
                floor=floor,
                upper=upper,
                tolerance=WALL_TOLERANCE_MM * scene.mm,
                band=3 * grid.cell,
            )
            found += left_at(wall, strokes) + gouged_at(wall, strokes)
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


def _reached(trace: Trace, begin: int, end: int, tool: Tool | None, grid: Grid) -> tuple[Mask, Mask]:
    if tool is None:
        nothing = np.zeros_like(Tiles(grid).states, np.bool_)
        return nothing, nothing
    return reached(trace, begin, end, tool, grid)


def _removals_key(removals: Sequence[Removal]) -> bytes:
    return digest(*(shapely.to_wkb(r.region) + repr(r.floor).encode() if isinstance(r, Flat) else repr(r) for r in removals))
