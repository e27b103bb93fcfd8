"""A field of heights that a milling program is cut out of, part by part, and how what is left compares with what is wanted.

Several parts may lie on the table: the program is looked at once for each, from that part's zero, so that what is known of one
is known of all.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

import numpy as np
import shapely

from bastler.job.promises import Promise
from bastler.nc import RAPID, Trace
from bastler.proof.mill.bands import Ground
from bastler.proof.mill.checks import MillView, check
from bastler.proof.mill.compare import Comparison, floors, unkept
from bastler.proof.mill.differences import differences
from bastler.proof.mill.field import FLAT_UNDER, Begins, Grid, Heights
from bastler.proof.mill.laid import Laid
from bastler.proof.mill.milled import MillProof
from bastler.proof.mill.scene import MillScene
from bastler.proof.mill.section import SectionProof, prove_section
from bastler.proof.mill.tiles import Mask, Tiles, reached, tiled
from bastler.proof.mill.walled import Moves, standing, wall_faults
from bastler.proof.mill.walls import WallFault
from bastler.proof.mill.wanted import Pair, both_fields, changed_fields, onto, promised_fields, without_walls
from bastler.proof.remark import Remark
from bastler.proof.result import Run, StageResult, digest, moves_key, runs
from bastler.proof.stock import Ran, Stock
from bastler.shapes import Flat, Removal
from bastler.shapes.kinds import Bools
from bastler.tools import Tool


@dataclass(frozen=True, eq=False)
class Sight:
    """The program as one of the parts sees it: the scene and the trace from its own zero."""

    scene: MillScene
    trace: Trace
    shift: tuple[float, float, float]
    keys: dict[tuple[int, int], bytes] = field(default_factory=dict)

    def key(self, begin: int, end: int) -> bytes:
        """A key for a run of moves."""
        if (begin, end) not in self.keys:
            self.keys[begin, end] = moves_key(self.trace, begin, end)
        return self.keys[begin, end]

    @staticmethod
    def of(scene: MillScene, trace: Trace, part: int) -> Sight:
        """Places are rounded far below what is felt, so that equal moves on two parts are equal in every digit."""
        if len(scene.parts) < 2:
            return Sight(scene, trace, (0.0, 0.0, 0.0))
        shift = scene.parts[part].shift
        moved = {name: np.round(getattr(trace, name) - np.array(shift), 9) for name in ("start", "end", "centre")}
        moved["centre"][trace.turn == 0.0] = 0.0  # straight moves have none
        alike = np.where(trace.offset == scene.parts[part].index, scene.parts[0].index, trace.offset)
        return Sight(scene.at(part), replace(trace, offset=alike, **moved), shift)


@dataclass(frozen=True, eq=False)
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


@dataclass(frozen=True)
class Wanted:
    """The fields of a wanted shape, a key for it, a key for all but its removals, and these."""

    key: bytes
    around: bytes
    removals: tuple[Removal, ...]
    pair: Pair


@dataclass(eq=False)
class Memory:
    """Fields of one holding, whose memory the next proof uses again."""

    laid: list[Laid] = field(default_factory=list)
    wanted: Wanted | None = None
    promises: tuple[bytes, list[tuple[Promise, Heights, Any, float]]] | None = None


class Fields:
    """What the fields of one proof after another share: their cell, their memory by the place of the holding, the other core."""

    def __init__(self, cell_mm: float | None) -> None:
        self.cell_mm = cell_mm
        self.beside = ThreadPoolExecutor(max_workers=1, thread_name_prefix="wanted")
        self._memory: dict[int, Memory] = {}

    def memory(self, place: int) -> Memory:
        """That of a holding."""
        return self._memory.setdefault(place, Memory())


class FieldStock:
    """The fields of all parts as the runs so far leave them."""

    def __init__(self, ran: Ran, scene: MillScene, fields: Fields, before: Stock | None) -> None:
        self.ran, self.scene = ran, scene
        trace, memory = ran.trace, fields.memory(ran.place)
        self.memory, self.grid = memory, Grid.over(scene.stock, fields.cell_mm, scene.mm)
        self.begins = before.carried(ran, self.grid) if isinstance(before, FieldStock) else None
        self.parts = [Sight.of(scene, trace, k) for k in range(max(len(scene.parts), 1))]
        self.runs: list[Run] = runs(ran.program, trace)
        if len(self.parts) > 1:
            self.runs = [piece for run in self.runs for piece in _without_ways(run, trace, scene)]
        # what is wanted and where the walls are does not wait for the cutting: both let the other core work
        self._wanted = fields.beside.submit(self._sides)
        self.sides: list[Side] = []
        self.stages: list[StageResult[SectionProof]] = []
        begins, count = self.begins, len(self.parts)
        old = [laid for laid in memory.laid[:count] if laid.grid == self.grid]
        memory.laid = [*old, *(Laid(self.grid, begins) for _ in range(count - len(old)))]
        for laid in memory.laid:
            laid.begin(begins)
        self._around = digest(repr(self.grid), repr(scene.jaws), repr(scene.card), repr(scene.material), scene.unit)
        self._tiles = [Tiles(self.grid, begins.key if begins else b"") for _ in range(count)]

    @property
    def wanted(self) -> bool:
        return bool(self.scene.wanted)

    @property
    def key(self) -> bytes:
        """For the first part as all runs leave it."""
        own = (s.key for s in self.stages if s.part == 0)
        return digest("cut", repr(self.grid), self.begins.key if self.begins else b"", *own)

    @property
    def now(self) -> Begins:
        """The first part behind all runs."""
        top = self.memory.laid[0].all_ready()
        under = self.begins.under if self.begins else np.full_like(top, self.grid.bottom)
        return Begins(top, under, self.key)

    def carried(self, ran: Ran, grid: Grid) -> Begins:
        """The first part as it comes into another holding."""
        way = self.ran.held.way_to(ran.held)
        return self.now.carried(way, grid, digest("carried", self.key, repr(way)))

    # -- stages -------------------------------------------------------------------------------------------------

    def cut(self, run: Run) -> bool:
        begin, end, *_ = run
        ran, scene, grid, trace = self.ran, self.scene, self.grid, self.ran.trace
        part = scene.part_of(int(trace.offset[begin]))
        laid, sight = self.memory.laid[part], self.parts[part]
        tool = scene.tools.get(int(trace.tool[begin]))
        moves = digest(self._around, sight.key(begin, end), repr(tool))
        cuts, feels = ran.kept.keep(digest("reached", moves), partial(_reached, sight.trace, begin, end, tool, grid))
        key = digest(moves, self._tiles[part].under(feels))
        known = ran.kept.has(key)

        def work() -> Any:
            laid.ready(cuts | feels)
            laid.begin_cut(cuts)
            under = self.begins.under if self.begins else FLAT_UNDER
            ground, highest = Ground(grid, laid.field, laid.edge, under), laid.highest(cuts | feels)
            proof = prove_section(
                scene, ground, highest, sight.trace, begin, end, ran.lasts, ran.stop, cuts, lambda k: ran.told(begin + k)
            )
            return proof and (proof, check.run(MillView(scene, sight.trace, begin, end, proof, grid), apart=False))

        made = ran.kept.keep(key, work)
        if made is None:
            return False
        proof, found = made
        if not known:
            laid.has_cut(proof.patch, cuts)
        elif proof.patch is not None:
            laid.left(proof.patch, cuts)
        self._tiles[part].cut(cuts, moves)
        found += check.run(MillView(sight.scene, sight.trace, begin, end, proof, grid), apart=True)
        self.stages.append(ran.result(run, proof, found, key, part, sight.shift))
        return True

    def ready(self) -> bool:
        sides = self._wanted.result()
        self.sides = sides or []
        return sides is not None

    # -- comparison ---------------------------------------------------------------------------------------------

    def _sides(self) -> list[Side] | None:
        """What is wanted of every part and how its walls are; None when stopped."""
        scene, grid, kept = self.scene, self.grid, self.ran.kept
        found = []
        for part, sight in enumerate(self.parts):
            wanted = scene.wanted_of(part)
            removals: list[Removal] = [r for w in wanted for r in w.removals]
            begins = self.begins.key if self.begins else b""
            around = (begins, removals_key(scene.later.before), removals_key(scene.later.under))
            key = digest("wanted", repr(grid), *(removals_key(w.removals) for w in wanted), _promises_key(scene), *around)
            low, high = self._both(key, removals)
            moves = self._moves_on(part)
            walls_key = digest("walls", key, *(move.key for move in moves), *(repr(move.tool) for move in moves))
            find = partial(wall_faults, scene, grid, sight.trace, moves, removals, kept, self.ran.stop)
            walls = kept.keep(walls_key, find)
            if walls is None or self.ran.stop[0]:
                return None
            steps = [w for w in walls if w.kind in ("left", "gouge")]
            rest = [w for w in walls if w.kind not in ("left", "gouge")]
            found.append(Side(walls_key, *without_walls(grid, low, high, steps), high, steps, rest))
        return found

    def _moves_on(self, part: int) -> list[Moves]:
        """The runs that work on a part, with their tools."""
        scene, trace, own = self.scene, self.ran.trace, self.parts[part]
        found = []
        for begin, end, _, _ in self.runs:
            if scene.part_of(int(trace.offset[begin])) != part:
                continue
            if len(self.parts) == 1 or not _high(begin, end, trace, scene).all():
                found.append(Moves(own.key(begin, end), begin, end, scene.tools.get(int(trace.tool[begin]))))
        return found

    def _both(self, key: bytes, removals: Sequence[Removal]) -> Pair:
        """The fields of the wanted shape. Where all parts are to be alike their memory is used again."""
        scene, memory = self.scene, self.memory
        if memory.wanted is None or memory.wanted.key != key:
            old, memory.wanted = memory.wanted if not scene.wanted_on else None, None
            free = [p.flat for p in scene.promised] + [r for r in scene.later.before if isinstance(r, Flat)]
            around = digest(repr(self.grid), removals_key(free))
            if old and old.around == around and not self.begins:
                pair = changed_fields(self.grid, removals, old.pair, old.removals, free)
            else:
                pair = both_fields(self.grid, removals, old.pair if old else None, free)
            pair = onto(self.begins, pair) if self.begins else pair
            memory.wanted = Wanted(key, around, tuple(removals), pair)
        return memory.wanted.pair

    def proof(self, last: Stock) -> MillProof:
        ran, ends = self.ran, None
        if isinstance(last, FieldStock) and last is not self:
            way = last.ran.held.way_to(ran.held)
            ends = last.now.carried(way, self.grid, digest("ends", last.key))
        return MillProof(
            scene=self.scene,
            program=ran.program,
            trace=ran.trace,
            stages=self.stages,
            starts=ran.starts,
            lasts=ran.lasts,
            total=ran.total,
            grid=self.grid,
            comparisons=tuple(self._compare(k, side, ends) for k, side in enumerate(self.sides)),
            begins=self.begins,
        )

    def differences(self, proof: MillProof) -> list[Remark]:
        return differences(proof)

    def _compare(self, part: int, side: Side, ends: Begins | None) -> Comparison:
        """What is left counts at the end of all holdings, what is gouged at the end of this one."""
        grid, mm = self.grid, self.scene.mm

        def work() -> Comparison:
            now = end = self.memory.laid[part].all_ready()
            wants = self._promised()
            if self.begins is not None or ends is not None:
                # how a part ends is known of the first one: of another that is not like it nothing is excused
                alike = ends is not None and (part == 0 or np.array_equal(now, self.now.top))
                end, under = (ends.top, ends.under) if ends is not None and alike else (now, self.now.under)
                wants = [(promise, np.maximum(want, under), sure, share) for promise, want, sure, share in wants]
                end = np.where(end > under, end, NOTHING_THERE)
            stands = unkept(grid, end, side.highest, wants, side.promised, mm)
            left, gouge = floors(grid, now, side.low, side.high, mm)
            if end is not now:
                left, _ = floors(grid, end, side.low, side.high, mm)
            return Comparison(left, gouge, tuple(standing(side.walls, self.scene)), stands)

        several = len(self.scene.parts) > 1
        own = [s.key for s in self.stages if s.part == part and (not several or s.proof.patch is not None)]
        around = (ends.key if ends else b"", self.begins.key if self.begins else b"")
        found: Comparison = self.ran.kept.keep(digest("compare", side.key, *own, *around), work)
        return found

    def _promised(self) -> list[tuple[Promise, Heights, Any, float]]:
        """The fields of what the stock promises; those of the last job are good for the next one with the same stock."""
        key = digest(repr(self.grid), _promises_key(self.scene))
        if self.memory.promises is None or self.memory.promises[0] != key:
            self.memory.promises = (key, promised_fields(self.grid, self.scene.promised))
        return self.memory.promises[1]


def _without_ways(run: Run, trace: Trace, scene: MillScene) -> list[Run]:
    """A run in three: the rapids over everything with which it comes, what it does, and those with which it goes. Where it comes
    from and goes to differs from part to part, what it does there does not."""
    begin, end, step, stage = run
    low = np.flatnonzero(~_high(begin, end, trace, scene))
    if not len(low):
        return [run]
    edges = sorted({begin, begin + int(low[0]), begin + int(low[-1]) + 1, end})
    return [(a, b, step, stage) for a, b in itertools.pairwise(edges)]


def _high(begin: int, end: int, trace: Trace, scene: MillScene) -> Bools:
    """Which moves are rapids over all parts."""
    top = scene.stock.hi[2] + max(p.shift[2] for p in scene.parts)
    lowest = np.minimum(trace.start[begin:end, 2], trace.end[begin:end, 2])
    high: Bools = (trace.kind[begin:end] == RAPID) & (lowest > top)
    return high


def _reached(trace: Trace, begin: int, end: int, tool: Tool | None, grid: Grid) -> tuple[Mask, Mask]:
    if tool is None:
        nothing = np.zeros(tiled(grid.ny, grid.nx), np.bool_)
        return nothing, nothing
    return reached(trace, begin, end, tool, grid)


def _promises_key(scene: MillScene) -> bytes:
    return digest(*(f"{p.where} {p.stays}".encode() + shapely.to_wkb(p.region) + repr(p.floor).encode() for p in scene.promised))


def removals_key(removals: Sequence[Removal]) -> bytes:
    return digest(*(shapely.to_wkb(r.region) + repr(r.floor).encode() if isinstance(r, Flat) else repr(r) for r in removals))
