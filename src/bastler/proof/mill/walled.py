"""How the walls of a milled part are, exactly: the strokes of all tools level by level against what is wanted there.

A level is looked at a little beside the floors that end it, by as much as floors may be off: a program says its heights rounded.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import NamedTuple

import numpy as np
import shapely

from bastler.job.part import FlatView
from bastler.nc import Trace
from bastler.proof.mill.compare import FLOOR_TOLERANCE_MM
from bastler.proof.mill.field import Grid
from bastler.proof.mill.scene import MillScene
from bastler.proof.mill.strokes import Sweep, below, paths_at, varies
from bastler.proof.mill.walls import (
    MOST_STROKES,
    Wall,
    WallFault,
    faults,
    gouged_at,
    left_at,
    levels_of,
    wanted_at,
)
from bastler.proof.result import Remembered, digest
from bastler.shapes import Removal
from bastler.shapes.kinds import Indices, Region, StopFlag
from bastler.shapes.united import united
from bastler.tools import Tool


class Moves(NamedTuple):
    """A run of moves `begin` to before `end` with one tool, and its key."""

    key: bytes
    begin: int
    end: int
    tool: Tool | None


def wall_faults(
    scene: MillScene,
    grid: Grid,
    trace: Trace,
    moves: Sequence[Moves],
    removals: list[Removal],
    kept: Remembered,
    stop: StopFlag,
) -> list[WallFault] | None:
    tiny, found = FLOOR_TOLERANCE_MM * scene.mm, []
    free: list[Removal] = [promise.flat for promise in scene.promised] + list(scene.later.before)
    for floor, upper in levels_of(removals, scene.stock.hi[2], 2 * tiny):
        if stop[0]:
            return None
        sweeps = _swept(scene, trace, moves, upper - tiny, kept)
        if sweeps is None:
            return []
        wanted, allowed = wanted_at(removals, floor + tiny), wanted_at([*removals, *free], upper - tiny)
        if scene.before.under or scene.before.before or scene.before.turned:
            wanted = wanted.difference(_open(scene.before, floor + tiny, upper - tiny))
            allowed = united([allowed, _open(scene.before, upper - tiny, upper - tiny)])
        wall = Wall(
            plan=scene.stock.plan,
            wanted=wanted,
            allowed=allowed,
            floor=floor,
            upper=upper,
            tolerance=scene.wall_tolerance,
            band=3 * grid.cell,
        )
        found += left_at(wall, sweeps)
        gouged = gouged_at(wall, sweeps)
        if scene.before.turned:
            low = _gouged_low(scene, trace, moves, removals, wall, kept)
            gouged = low + [fault for fault in gouged if not any(fault.region.intersects(known.region) for known in low)]
        found += gouged
    return found + _promised_walls(scene, grid, trace, moves, removals, kept)


def _gouged_low(
    scene: MillScene, trace: Trace, moves: Sequence[Moves], removals: list[Removal], wall: Wall, kept: Remembered
) -> list[WallFault]:
    """Where a tool went outside right over a floor: on a round part what stands there may end before the next floor above it."""
    level = wall.floor + FLOOR_TOLERANCE_MM * scene.mm
    sweeps = _swept(scene, trace, moves, level, kept)
    allowed = united([wanted_at(removals, level), _open(scene.before, level, level)])
    return gouged_at(replace(wall, allowed=allowed), sweeps) if sweeps else []


def _promised_walls(
    scene: MillScene, grid: Grid, trace: Trace, moves: Sequence[Moves], removals: list[Removal], kept: Remembered
) -> list[WallFault]:
    """What stands at the walls of the finished block, where no step has promised to take it."""
    found: list[WallFault] = []
    tiny, top = FLOOR_TOLERANCE_MM * scene.mm, scene.stock.hi[2]
    for promise in scene.promised:
        if promise.where != "sides":
            continue
        rest = promise.region.difference(wanted_at(removals, promise.floor + tiny))
        if scene.before.under or scene.before.before:
            rest = rest.difference(_open(scene.before, promise.floor + tiny, promise.floor + tiny))
        sweeps = _swept(scene, trace, moves, promise.floor + tiny, kept)
        if not sweeps or rest.is_empty:
            continue
        strokes = np.concatenate([sweep.regions for sweep in sweeps])
        gone = united(strokes[shapely.intersects(strokes, rest.buffer(2.5 * grid.cell))])
        near = rest.intersection(gone.buffer(2 * grid.cell))  # what no tool comes near the field sees
        left = near.buffer(-scene.wall_tolerance / 2).difference(gone)
        left = left.buffer(scene.wall_tolerance / 2)
        thin = left.difference(left.buffer(-3 * grid.cell).buffer(4 * grid.cell))
        found += faults(promise.where, thin, scene.wall_tolerance, promise.floor, top - promise.floor)
    return found


def _swept(scene: MillScene, trace: Trace, moves: Sequence[Moves], level: float, kept: Remembered) -> list[Sweep] | None:
    """The strokes of all runs at a level, each run's kept on its own; None where one has too many moves for it. How many moves
    come below a level tells which ones do."""
    every: list[Sweep] = []
    for own, begin, end, tool in moves:
        if tool is None:
            continue
        parts = below(trace, begin, end, level, scene.mm)
        if sum(map(len, parts)) > MOST_STROKES:
            return None
        changing = [varies(trace, rows, level, tool.profile) for rows in parts]
        where = repr(round(level, 9)) if any(changing) else ""
        key = digest("swept", own, repr(tool), scene.mm, *map(len, parts), where)
        every += kept.keep(key, partial(_sweeps, scene.mm, trace, parts, changing, tool, level, kept))
    return every


def _sweeps(
    mm: float, trace: Trace, parts: Sequence[Indices], changing: Sequence[bool], tool: Tool, level: float, kept: Remembered
) -> list[Sweep]:
    """Those of one run. What stays below the level is apart from what goes through it: however deep it is, it sweeps the same."""
    found = []
    for rows, changes in zip(parts, changing, strict=True):
        if len(rows):
            paths = paths_at(trace, rows, level, tool.profile)
            sweep: Sweep = kept.keep(digest("strokes", paths.key, mm), partial(Sweep.along, paths, mm))
            found.append(sweep._replace(varies=changes))
    return found


def _open(view: FlatView, low: float, high: float) -> Region:
    """Where between two heights nothing is left by the holdings before: open from above to the lower, or from below to the
    higher."""
    turned = [view.turned.open_at(low)] if view.turned else []
    return united([wanted_at(view.before, low), wanted_at(view.under, -high), *turned])


def standing(walls: Sequence[WallFault], scene: MillScene) -> list[WallFault]:
    """The faults of the walls but for what holdings behind this one take."""
    if not scene.later.before and not scene.later.under:
        return list(walls)
    tiny, found = FLOOR_TOLERANCE_MM * scene.mm, []
    for wall in walls:
        if wall.kind == "left":
            rest = wall.region.difference(_open(scene.later, wall.level + tiny, wall.level + wall.height - tiny))
            if rest.buffer(-scene.wall_tolerance / 4).is_empty:
                continue
        found.append(wall)
    return found
