"""The stock as a height field: one height for each cell of a grid over the block.

Cells are sampled at their centres. Floors come out exact whatever the cell; a wall is known to one cell only, which is why
walls are compared as polygons elsewhere.

*Volumes* weigh the cells that a wall crosses. For each cell an *edge* is kept: what has been taken of it less what its height
says, in units of height; it is nothing but where a tool's rim has gone through. How much of such a cell a rim takes is its
distance from the cell's middle over the cell's width in that direction.
"""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bastler.shapes import Box, Way
from bastler.shapes.compiling import kernel

Heights = NDArray[np.float32]
MOST_CELLS = 800_000
"""About as many cells as can be cut while someone types."""
LIMIT = 32 * MOST_CELLS
"""No field has more, however fine it is wanted."""
FINEST = 0.02


@dataclass(frozen=True)
class Grid:
    """`nx` × `ny` cells of `dx` × `dy` from (x0, y0); `bottom` and `top` of the block. Arrays are indexed [row y, column x]."""

    x0: float
    y0: float
    dx: float
    dy: float
    nx: int
    ny: int
    bottom: float
    top: float
    round: bool = False
    """Is the stock a disc that fills the grid? Outside of it there is nothing."""

    @staticmethod
    def over(stock: Box, cell_mm: float | None, mm: float) -> Grid:
        """The grid over a block. `cell_mm` is the wanted cell, None to follow the part; `mm` is 1 mm in the job's unit."""
        sx, sy, _ = stock.size
        if cell_mm is None:
            free = math.sqrt(sx * sy / MOST_CELLS) / mm
            cell_mm = max(math.ceil(free * 50 - 0.05) / 50, FINEST)
        cell = max(cell_mm * mm, math.sqrt(abs(sx * sy) / LIMIT))
        nx, ny = max(1, round(sx / cell)), max(1, round(sy / cell))
        return Grid(stock.lo[0], stock.lo[1], sx / nx, sy / ny, nx, ny, stock.lo[2], stock.hi[2], stock.round)

    def fresh(self) -> Heights:
        """The uncut stock."""
        return self.renew(np.empty((self.ny, self.nx), dtype=np.float32))

    def renew(self, field: Heights | None) -> Heights:
        """The uncut block in the memory of an old field where it fits: fresh memory costs more than writing it."""
        if field is None or field.shape != (self.ny, self.nx):
            return self.fresh()
        field.fill(self.top)
        if self.round:
            field[_around(self)] = self.bottom
        return field

    def uncut(self, field: Heights, cells: NDArray[np.bool_]) -> None:
        """Makes some cells (ny, nx) of a field those of the uncut stock."""
        field[cells] = self.top
        if self.round:
            field[cells & _around(self)] = self.bottom

    @property
    def radius(self) -> float:
        """Of a disc; 0 for a block."""
        return self.nx * self.dx / 2 if self.round else 0.0

    @property
    def cell(self) -> float:
        """The longer side of a cell."""
        return max(self.dx, self.dy)

    @property
    def area(self) -> float:
        """Of one cell."""
        return self.dx * self.dy

    def centre(self, row: int, column: int) -> tuple[float, float]:
        """Where a cell is."""
        return (self.x0 + (column + 0.5) * self.dx, self.y0 + (row + 0.5) * self.dy)


@functools.lru_cache(maxsize=4)
def _around(grid: Grid) -> NDArray[np.bool_]:
    """The cells that lie beside a disc."""
    x = (np.arange(grid.nx) + 0.5) * grid.dx - grid.nx * grid.dx / 2
    y = (np.arange(grid.ny) + 0.5) * grid.dy - grid.ny * grid.dy / 2
    return np.asarray(np.hypot(x[None, :], y[:, None]) > grid.radius)


FLAT_UNDER: Heights = np.empty((0, 0), np.float32)
"""The underside of a block that nothing has been taken from below."""


@dataclass(frozen=True, eq=False)
class Begins:
    """The part as it comes into a holding: the heights of its top and of its underside, alike where there is nothing; `key` tells
    one from another."""

    top: Heights
    under: Heights
    key: bytes

    def carried(self, way: Way, there: Grid, key: bytes) -> Begins:
        """The part as another holding sees it, over the grid `there`."""
        rows, columns = slice(None, None, way.y), slice(None, None, way.x)
        top, under = self.top[rows, columns], self.under[rows, columns]
        if way.over:
            top, under = np.float32(way.rise) - under, np.float32(way.rise) - top
        else:
            top, under = top + np.float32(way.rise), under + np.float32(way.rise)
        nothing = top - under <= NOTHING * (there.top - there.bottom)
        top[nothing] = under[nothing] = there.bottom
        return Begins(np.ascontiguousarray(top), np.ascontiguousarray(under), key)


NOTHING = 1e-6
"""A skin as thin as this share of the block is rounding."""


@dataclass(frozen=True, eq=False)
class Patch:
    """What a run of moves left of the cells it could reach: `cells` from row `row` and column `column` on, of which those count
    that are `own`.

    The stock at any stage is the fresh block with the patches up to there laid over it in order. Whole fields for every stage
    would take several times the memory, and the time to copy it.
    """

    row: int
    column: int
    cells: Heights
    own: NDArray[np.bool_]
    side: int
    rims: NDArray[np.int32]
    """The cells that a rim has gone through, (n, 2) row and column of the field, and their edges (n,)."""
    edges: NDArray[np.float32]

    @staticmethod
    def of(field: Heights, edge: Heights, tiles: NDArray[np.bool_], side: int) -> Patch:
        """The cells of a field and its edges in the tiles, squares of `side` cells, that are marked; some at least are."""
        down, across = np.flatnonzero(tiles.any(axis=1)), np.flatnonzero(tiles.any(axis=0))
        j0, j1, i0, i1 = int(down[0]), int(down[-1]) + 1, int(across[0]), int(across[-1]) + 1
        cells = field[j0 * side : j1 * side, i0 * side : i1 * side].copy()
        own = tiles[j0:j1, i0:i1].copy()
        rims, edges = _rims_of(edge[j0 * side : j1 * side, i0 * side : i1 * side], own, side)
        rims += np.array([j0 * side, i0 * side], np.int32)
        return Patch(j0 * side, i0 * side, cells, own, side, rims, edges)

    def lay(self, field: Heights, edge: Heights | None = None, tiles: NDArray[np.bool_] | None = None) -> None:
        """Puts the cells where they belong, and their edges where those are wanted; in some `tiles` of the field alone."""
        rows, columns = self.cells.shape
        place = slice(self.row, self.row + rows), slice(self.column, self.column + columns)
        own = self.own if tiles is None else self.own & self._tiles_of(tiles)
        if edge is None:
            _lay(field[place], _NO_EDGE, self.cells, own, self.side)
            return
        _lay(field[place], edge[place], self.cells, own, self.side)
        rims, edges = self.rims, self.edges
        if tiles is not None:
            here = tiles[rims[:, 0] // self.side, rims[:, 1] // self.side]
            rims, edges = rims[here], edges[here]
        edge[rims[:, 0], rims[:, 1]] = edges

    def mark(self, tiles: NDArray[Any], value: int) -> None:
        """Gives the tiles whose cells count a value."""
        self._tiles_of(tiles)[self.own] = value

    def _tiles_of(self, tiles: NDArray[Any]) -> NDArray[Any]:
        """The part of an array of all tiles that it lies over."""
        j, i = self.row // self.side, self.column // self.side
        return tiles[j : j + self.own.shape[0], i : i + self.own.shape[1]]

    def at(self, row: int, column: int) -> float | None:
        """The height of a cell, None outside of the patch."""
        j, i = row - self.row, column - self.column
        inside = 0 <= j < self.cells.shape[0] and 0 <= i < self.cells.shape[1] and self.own[j // self.side, i // self.side]
        return float(self.cells[j, i]) if inside else None


_NO_EDGE: Heights = np.empty((0, 0), np.float32)


@kernel()
def _lay(field: Any, edge: Any, cells: Any, own: Any, side: int) -> None:
    """Puts the cells of the tiles that are marked into a field, where they have no edges any more; `edge` may be empty."""
    ny, nx = cells.shape
    edges = len(edge) > 0
    for j in range(ny):
        for k in range(own.shape[1]):
            if own[j // side, k]:
                i0, i1 = k * side, min((k + 1) * side, nx)
                field[j, i0:i1] = cells[j, i0:i1]
                if edges:
                    edge[j, i0:i1] = np.float32(0.0)


@kernel()
def _rims_of(edge: Any, own: Any, side: int) -> tuple[Any, Any]:
    """The cells with an edge in the tiles that are marked, (n, 2), and their edges (n,)."""
    ny, nx = edge.shape
    count = 0
    for j in range(ny):
        for i in range(nx):
            if edge[j, i] != 0.0 and own[j // side, i // side]:
                count += 1
    rims, edges = np.empty((count, 2), np.int32), np.empty(count, np.float32)
    count = 0
    for j in range(ny):
        for i in range(nx):
            if edge[j, i] != 0.0 and own[j // side, i // side]:
                rims[count, 0], rims[count, 1], edges[count] = j, i, edge[j, i]
                count += 1
    return rims, edges
