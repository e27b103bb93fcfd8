"""The end face of a turned part, and its sides, compared as milled parts are: floors to the last digit, walls as regions of true
strokes.

What turning left of the part in the end is the stock that all cuts on a plane are made in, whatever came first: how a part ends
does not ask in which order it was cut. What other planes have lost is not looked at: there is no less of it then.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bastler.job.part import FlatView
from bastler.nc import RAPID, Trace
from bastler.proof.mill.bands import Ground, cut_in_bands
from bastler.proof.mill.compare import Comparison, floors
from bastler.proof.mill.field import FINEST, Begins, Grid, Heights
from bastler.proof.mill.scene import MillScene
from bastler.proof.mill.segments import CHORD_SHARE, pieces
from bastler.proof.mill.walled import Moves, wall_faults
from bastler.proof.mill.wanted import both_fields, onto, without_walls
from bastler.proof.polar.planes import CutPlane
from bastler.proof.result import Remembered
from bastler.proof.scene import WantedStep
from bastler.proof.turn.scene import TurnScene
from bastler.shapes import Removal, TurnedPart
from bastler.shapes.kinds import Region, StopFlag
from bastler.tools import Tool

ACROSS = 600
"""Cells over the longer side of a plane: floors and walls do not depend on them."""


@dataclass(frozen=True, eq=False)
class ComparedPlane:
    """A plane as cut: its heights on a grid, and how it compares."""

    plane: CutPlane
    grid: Grid
    heights: Heights
    comparison: Comparison
    wanted: Sequence[WantedStep]

    def volume(self, kind: str) -> float:
        return self.comparison.volume(kind)

    def greatest(self, kind: str) -> float:
        return self.comparison.greatest(kind)


def compared_plane(
    scene: TurnScene,
    plane: CutPlane,
    section: Region,
    wanted: Sequence[WantedStep],
    trace: Trace,
    moves: Sequence[Moves],
    kept: Remembered,
    stop: StopFlag,
) -> ComparedPlane | None:
    """How what tools leave of a half section on a plane compares with what is wanted there; `trace` is as the plane sees it. None
    when stopped."""
    removals = [r for w in wanted for r in w.removals]
    turned, box = plane.seen(section)
    grid = Grid.over(box, max(max(box.size[:2]) / ACROSS / scene.mm, FINEST), scene.mm)
    begins = _begins(grid, turned)
    heights = _cut(scene, grid, begins, trace, moves, stop)
    low, high = onto(begins, both_fields(grid, removals))
    flat = MillScene(
        unit=scene.unit,
        tools={number: tool for number, tool in scene.tools.items() if isinstance(tool, Tool)},
        card=scene.card,
        material=scene.material,
        control=scene.control,
        zero=scene.zero,
        stock=box,
        jaws=(),
        wanted=wanted,
        before=FlatView(turned=turned),
    )
    walls = wall_faults(flat, grid, trace, moves, removals, kept, stop)
    if walls is None or heights is None or stop[0]:
        return None
    left, gouge = floors(grid, heights, *without_walls(grid, low, high, walls), scene.mm)
    return ComparedPlane(plane, grid, heights, Comparison(left, gouge, tuple(walls)), wanted)


def _begins(grid: Grid, turned: TurnedPart) -> Begins:
    """The turned part on the grid."""
    x = grid.x0 + (np.arange(grid.nx) + 0.5) * grid.dx
    y = grid.y0 + (np.arange(grid.ny) + 0.5) * grid.dy
    places = np.column_stack([part.ravel() for part in np.meshgrid(x, y)])
    heights = turned.heights(places)
    top = np.where(np.isfinite(heights), heights, grid.bottom).astype(np.float32).reshape(grid.ny, grid.nx)
    np.minimum(top, grid.fresh(), out=top)
    return Begins(top, np.full_like(top, grid.bottom), b"")


def _cut(scene: TurnScene, grid: Grid, begins: Begins, trace: Trace, moves: Sequence[Moves], stop: StopFlag) -> Heights | None:
    """The heights behind all cuts on the plane."""
    ground = Ground(grid, begins.top.copy(), np.zeros_like(begins.top), begins.under)
    for _, begin, end, tool in moves:
        if tool is None:
            continue
        chord = CHORD_SHARE * grid.cell
        segments, owner = pieces(trace, begin, end, chord=chord, longest=np.inf, radius=tool.diameter / 2)
        done = cut_in_bands(ground, segments, trace.kind[owner] == RAPID, tool, np.float32(grid.top), stop, lambda count: None)
        if done is None:
            return None
    return ground.field


def opened(removals: Sequence[Removal], beside: float, under: float) -> list[tuple[Region, float]]:
    """All that removals may take, as regions with a floor: wider by `beside` and deeper by `under`, slopes as if they stood
    upright."""
    return [(removal.region.buffer(beside), removal.floor - under) for removal in removals]
