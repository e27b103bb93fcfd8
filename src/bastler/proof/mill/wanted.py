"""The wanted shape as two height fields: the lowest and the highest that a correct part may have at a cell.

They differ only in a band of one cell along the walls, where the field cannot know better and polygons are compared instead.
"""

from __future__ import annotations

import functools
import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from bastler.job.promises import Promise
from bastler.proof.mill.field import Begins, Grid, Heights
from bastler.proof.mill.walls import WallFault
from bastler.shapes import Bevel, Flat, Furrow, Removal, Revolved
from bastler.shapes.compiling import kernel
from bastler.shapes.kinds import Region
from bastler.shapes.united import mitred

Pair = tuple[Heights, Heights]
COARSE = 0.02
"""Chords of regions that are drawn in a field, as a share of its cell."""


def both_fields(grid: Grid, removals: Sequence[Removal], old: Pair | None = None, free: Sequence[Flat] = ()) -> Pair:
    """The lowest and the highest that each cell may be when all removals are done; may be written over an `old` pair. What is
    `free` may go and need not."""
    low, high = (grid.renew(field) for field in old or (None, None))
    _draw((low, high), grid, grid, removals, free)
    return low, high


def changed_fields(
    grid: Grid, removals: Sequence[Removal], pair: Pair, before: Sequence[Removal], free: Sequence[Flat] = ()
) -> Pair:
    """The same, from the pair of what was wanted before: drawn anew only where removals came or went."""
    known, now = Counter(map(id, before)), Counter(map(id, removals))
    other = [r for r in (*before, *removals) if known[id(r)] != now[id(r)]]
    if grid.round or not other:
        return both_fields(grid, removals, pair, free) if other else pair
    reach = 3.0 * math.hypot(grid.dx, grid.dy)
    bounds = np.array([_bounds(r) for r in other])
    (x0, y0), (x1, y1) = bounds[:, :2].min(axis=0) - reach, bounds[:, 2:].max(axis=0) + reach
    (i0, i1), (j0, j1) = _cells(x0, x1, grid.x0, grid.dx, grid.nx), _cells(y0, y1, grid.y0, grid.dy, grid.ny)
    if i0 >= i1 or j0 >= j1:
        return pair
    part = replace(grid, x0=grid.x0 + i0 * grid.dx, y0=grid.y0 + j0 * grid.dy, nx=i1 - i0, ny=j1 - j0)
    views = pair[0][j0:j1, i0:i1], pair[1][j0:j1, i0:i1]
    for view in views:
        view.fill(grid.top)
    _draw(views, part, grid, [r for r in removals if _meets(r, x0, y0, x1, y1)], free)
    return pair


def _bounds(removal: Removal) -> tuple[float, float, float, float]:
    if isinstance(removal, Revolved):
        r = removal.radius
        return removal.x - r, removal.y - r, removal.x + r, removal.y + r
    x0, y0, x1, y1 = removal.region.bounds
    return float(x0), float(y0), float(x1), float(y1)


def _meets(removal: Removal, x0: float, y0: float, x1: float, y1: float) -> bool:
    """Does a removal come into a box, the band along its walls included, for which there is room in it?"""
    a, b, c, d = _bounds(removal)
    return a <= x1 and c >= x0 and b <= y1 and d >= y0


def _draw(pair: Pair, part: Grid, grid: Grid, removals: Sequence[Removal], free: Sequence[Flat]) -> None:
    """Lowers a pair of fields over `part` of a grid to what removals leave."""
    low, high = pair
    band = (1.0 + 2 * COARSE) * math.hypot(grid.dx, grid.dy)
    for flat in free:
        _fill(low, part, mitred(_coarse(flat.region, grid), band), max(flat.floor, grid.bottom))
    for removal in removals:
        if isinstance(removal, Flat):
            floor = max(removal.floor, grid.bottom)
            wide, narrow = _both_regions(removal.region, grid, band)
            _fill(low, part, wide, floor)
            _fill(high, part, narrow, floor)
        elif isinstance(removal, Bevel | Furrow):
            _slope(low, high, part, removal, band)
        else:
            _revolve(low, high, part, removal, band)


def onto(begins: Begins, pair: Pair) -> Pair:
    """The same two for a part that is no raw block any more: no cell is to be higher than it comes, and below its underside there
    is nothing."""
    for field in pair:
        np.minimum(field, begins.top, out=field)
        np.maximum(field, begins.under, out=field)
    return pair


def _slope(low: Heights, high: Heights, grid: Grid, bevel: Bevel | Furrow, band: float) -> None:
    """A bevel: its height may be that of any place within the band. Its edge is a wall, which is looked at elsewhere."""
    rows, columns, lower, upper = _slope_cells(grid, bevel, band)
    for field, wanted in ((low, lower), (high, upper)):
        field[rows, columns] = np.minimum(field[rows, columns], wanted)


@functools.lru_cache(maxsize=8)
def _slope_cells(grid: Grid, bevel: Bevel | Furrow, band: float) -> tuple[Any, Any, Any, Any]:
    """The cells of a bevel, and the lowest and the highest that each may be."""
    region = mitred(_coarse(bevel.region, grid), band)
    mark = grid.fresh()
    _fill(mark, grid, region, grid.bottom)
    x0, y0, x1, y1 = region.bounds
    (i0, i1), (j0, j1) = _cells(x0, x1, grid.x0, grid.dx, grid.nx), _cells(y0, y1, grid.y0, grid.dy, grid.ny)
    rows, columns = np.nonzero(mark[j0:j1, i0:i1] < grid.top)
    rows, columns = rows + j0, columns + i0
    points = np.column_stack([grid.x0 + (columns + 0.5) * grid.dx, grid.y0 + (rows + 0.5) * grid.dy])
    heights = bevel.heights(points)
    lower, upper = heights - band * bevel.rise, heights + band * bevel.rise
    upper[upper > bevel.top] = np.inf
    return rows, columns, np.maximum(np.maximum(lower, bevel.floor), grid.bottom), np.maximum(upper, grid.bottom)


@functools.lru_cache(maxsize=128)
def _both_regions(region: Region, grid: Grid, band: float) -> tuple[Region, Region]:
    """A region with the band along its walls, and without it."""
    coarse = _coarse(region, grid)
    return mitred(coarse, band), _narrowed(coarse, grid, band)


def promised_fields(grid: Grid, promises: Sequence[Promise]) -> list[tuple[Promise, Heights, Any, float]]:
    """For every promise the height that each cell may have, infinite where it says nothing, which cells are off the walls, and
    how many times as large as its cells its region is."""
    band = (1.0 + 2 * COARSE) * math.hypot(grid.dx, grid.dy)
    found = []
    for promise in promises:
        region, floor = _coarse(promise.region, grid), max(promise.floor, grid.bottom)
        want, sure = np.full((grid.ny, grid.nx), np.inf, np.float32), np.full((grid.ny, grid.nx), np.inf, np.float32)
        _fill(want, grid, region, floor)
        _fill(sure, grid, _narrowed(region, grid, band), floor)
        cells = np.count_nonzero(np.isfinite(want)) * grid.area
        found.append((promise, want, np.isfinite(sure), float(promise.region.area) / cells if cells else 1.0))
    return found


def _coarse(region: Region, grid: Grid) -> Any:
    """A region with no more corners than a field can see."""
    return region.simplify(COARSE * grid.cell)


def _narrowed(region: Region, grid: Grid, band: float) -> Any:
    """The region less the band along its walls; where it runs out of the stock there is no wall."""
    block = shapely.box(grid.x0, grid.y0, grid.x0 + grid.nx * grid.dx, grid.y0 + grid.ny * grid.dy)
    if grid.round:
        block = block.centroid.buffer(grid.radius, quad_segs=90)
    grown = region.union(shapely.box(*block.buffer(4 * band).bounds).difference(block))
    return mitred(grown, -band).intersection(block)


def _fill(field: Heights, grid: Grid, region: Region, floor: float) -> None:
    for polygon in getattr(region, "geoms", [region]):
        if polygon.is_empty or polygon.geom_type != "Polygon":
            continue
        rings = [np.asarray(polygon.exterior.coords)] + [np.asarray(r.coords) for r in polygon.interiors]
        edges = np.concatenate([np.hstack([ring[:-1], ring[1:]]) for ring in rings])
        _fill_edges(field, edges, np.float32(floor), grid.x0, grid.y0, grid.dx, grid.dy)


def without_walls(grid: Grid, low: Heights, high: Heights, walls: Sequence[WallFault]) -> tuple[Heights, Heights]:
    """Both fields opened wide where walls are already known to be wrong, so that nothing is told twice."""
    if not walls:
        return low, high
    low, high = low.copy(), -high
    band = 1.5 * math.hypot(grid.dx, grid.dy)
    for wall in walls:
        field = low if wall.kind == "gouge" else high
        _fill(field, grid, wall.region.buffer(band), -math.inf)
    return low, -high


@kernel()
def _fill_edges(field: Any, edges: Any, floor: Any, x0: float, y0: float, dx: float, dy: float) -> None:
    """Lowers every cell whose centre is inside (even-odd) to `floor`. The crossings of all edges are sorted into rows first."""
    ny, nx = field.shape
    rows = np.empty((len(edges), 2), np.int64)  # an edge crosses the rows from the first to before the second
    many = np.zeros(ny + 1, np.int64)
    for k in range(len(edges)):
        a, b = _row(edges[k, 1], y0, dy, ny), _row(edges[k, 3], y0, dy, ny)
        rows[k, 0], rows[k, 1] = min(a, b), max(a, b)
        for j in range(rows[k, 0], rows[k, 1]):
            many[j + 1] += 1
    first = np.cumsum(many)
    crossings, filled = np.empty(first[ny]), first[:-1].copy()
    for k in range(len(edges)):
        xa, ya, xb, yb = edges[k, 0], edges[k, 1], edges[k, 2], edges[k, 3]
        for j in range(rows[k, 0], rows[k, 1]):
            crossings[filled[j]] = xa + (y0 + (j + 0.5) * dy - ya) / (yb - ya) * (xb - xa)
            filled[j] += 1
    for j in range(ny):
        found = np.sort(crossings[first[j] : first[j + 1]])
        for k in range(0, len(found) - 1, 2):
            i0 = max(0, int(math.ceil((found[k] - x0) / dx - 0.5)))
            i1 = min(nx - 1, int(math.floor((found[k + 1] - x0) / dx - 0.5)))
            for i in range(i0, i1 + 1):
                if field[j, i] > floor:
                    field[j, i] = floor


@kernel()
def _row(y: float, y0: float, dy: float, ny: int) -> int:
    """The first row whose middle is not below a height; alike for both edges that meet there."""
    return min(max(int(math.ceil((y - y0) / dy - 0.5)), 0), ny)


def _revolve(low: Heights, high: Heights, grid: Grid, hole: Revolved, band: float) -> None:
    """A hole: its height may be that of any radius within the band."""
    reach = hole.radius + band
    i0, i1 = _cells(hole.x - reach, hole.x + reach, grid.x0, grid.dx, grid.nx)
    j0, j1 = _cells(hole.y - reach, hole.y + reach, grid.y0, grid.dy, grid.ny)
    if i0 >= i1 or j0 >= j1:
        return
    x = grid.x0 + (np.arange(i0, i1) + 0.5) * grid.dx - hole.x
    y = grid.y0 + (np.arange(j0, j1) + 0.5) * grid.dy - hole.y
    r = np.hypot(x[None, :], y[:, None])
    radii = np.array([p[0] for p in hole.profile])
    heights = np.array([p[1] for p in hole.profile])
    inner = np.interp(np.maximum(r - band, 0.0), radii, heights)
    inner[r - band > hole.radius] = np.inf
    outer = np.interp(r + band, radii, heights)
    outer[r + band > hole.radius] = np.inf
    for field, wanted in ((low, inner), (high, outer)):
        view = field[j0:j1, i0:i1]
        np.minimum(view, np.maximum(wanted, grid.bottom), out=view, casting="unsafe")


def _cells(lo: float, hi: float, origin: float, step: float, count: int) -> tuple[int, int]:
    return max(0, int((lo - origin) / step)), min(count, int((hi - origin) / step) + 1)
