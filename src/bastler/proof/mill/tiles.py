"""What a run of moves depends on in the stock: the *tiles* it reaches, and all that has been done to them.

The field is seen as squares of cells. Each tile has a *state*, a number made of the runs that reached it, in their order. A run's
result is known by its moves and the states of its tiles, so that an edit of one pocket costs that pocket and what cuts near
it, and nothing on the other side of the part.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bastler.nc import Trace
from bastler.proof.mill.field import Grid
from bastler.proof.mill.segments import pieces
from bastler.shapes.compiling import kernel
from bastler.tools import Tool

SIDE = 32
"""Cells along a tile."""
AROUND = 1.5
"""So many cells farther than the tool itself a move may change the stock. Chords leave their arc by half a cell here, at worst
all of it inward, and by 0.4 where they are proved, two thirds of it outward; a rim weighs cells up to 0.71 away: 1.48 in all."""
Mask = NDArray[np.bool_]
_MIX = np.uint64(0x9E3779B97F4A7C15)


def tiled(ny: int, nx: int) -> tuple[int, int]:
    """How many tiles there are of so many rows and columns of cells, down and across."""
    return math.ceil(ny / SIDE), math.ceil(nx / SIDE)


class Tiles:
    """The states of all tiles while a program is proved, in the order of its runs."""

    def __init__(self, grid: Grid, begins: bytes = b"") -> None:
        """`begins` tells what the part is like before."""
        self.states = np.zeros(tiled(grid.ny, grid.nx), np.uint64)
        if begins:
            self.states[:] = np.frombuffer(begins[:8], np.uint64)[0]

    def under(self, mask: Mask) -> bytes:
        """The states of some tiles, as a part of a key."""
        return self.states[mask].tobytes()

    def cut(self, mask: Mask, run: bytes) -> None:
        """A run, known by its key, has been over them."""
        own = np.frombuffer(run[:8], np.uint64)[0]
        with np.errstate(over="ignore"):
            mixed = (self.states[mask] ^ own) * _MIX
        self.states[mask] = mixed ^ (mixed >> np.uint64(29))


def reached(trace: Trace, begin: int, end: int, tool: Tool, grid: Grid) -> tuple[Mask, Mask]:
    """The tiles that moves `begin` to before `end` may cut, and those where they may feel stock: the shank and the holder are
    wider than the cutter."""
    side = SIDE * grid.cell
    segments, _ = pieces(trace, begin, end, chord=0.5 * grid.cell, longest=side)
    low = np.minimum(segments[:, 2], segments[:, 5])
    cutter = np.where(low < grid.top, tool.diameter / 2, -math.inf)
    shank = np.where(low + tool.flute_length < grid.top, tool.body / 2 + grid.cell, -math.inf)
    holder = np.where(low + tool.stick_out < grid.top, tool.holder.diameter / 2, -math.inf)
    shape = tiled(grid.ny, grid.nx)
    cuts, feels = np.zeros(shape, np.bool_), np.zeros(shape, np.bool_)
    corner = np.array([grid.x0, grid.y0, grid.dx * SIDE, grid.dy * SIDE])
    _mark(cuts, corner, segments, cutter + AROUND * grid.cell)
    _mark(feels, corner, segments, np.maximum(np.maximum(cutter, shank), holder) + AROUND * grid.cell)
    return cuts, feels


@kernel()
def _mark(mask: Any, corner: Any, segments: Any, reach: Any) -> None:
    """Marks the tiles that lie within reach (n,) of segments (n, 6), those about their bounds. `corner`: x0, y0, tile's sides."""
    rows, columns = mask.shape
    for k in range(len(segments)):
        if reach[k] < 0.0:
            continue
        s = segments[k]
        i0 = max(0, int(math.floor((min(s[0], s[3]) - reach[k] - corner[0]) / corner[2])))
        i1 = min(columns - 1, int(math.floor((max(s[0], s[3]) + reach[k] - corner[0]) / corner[2])))
        j0 = max(0, int(math.floor((min(s[1], s[4]) - reach[k] - corner[1]) / corner[3])))
        j1 = min(rows - 1, int(math.floor((max(s[1], s[4]) + reach[k] - corner[1]) / corner[3])))
        for j in range(j0, j1 + 1):
            for i in range(i0, i1 + 1):
                mask[j, i] = True
