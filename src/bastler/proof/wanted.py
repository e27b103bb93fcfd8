"""The wanted shape as two height fields: the lowest and the highest that a correct part may have at a cell.

They differ only in a band of one cell along the walls, where the field cannot know better and polygons are compared instead.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from numba import njit

from bastler.proof.field import Grid, Heights
from bastler.proof.walls import WallFault
from bastler.shapes import Bevel, Flat, Removal, Revolved

Pair = tuple[Heights, Heights]


def both_fields(grid: Grid, removals: Sequence[Removal], old: Pair | None = None) -> Pair:
    """The lowest and the highest that each cell may be when all removals are done; may be written over an `old` pair."""
    low, high = (grid.renew(field) for field in old or (None, None))
    band = 1.01 * math.hypot(grid.dx, grid.dy)
    for removal in removals:
        if isinstance(removal, Flat):
            floor = max(removal.floor, grid.bottom)
            _fill(low, grid, removal.region.buffer(band, join_style="mitre"), floor)
            _fill(high, grid, _narrowed(removal, grid, band), floor)
        elif isinstance(removal, Bevel):
            _slope(low, high, grid, removal, band)
        else:
            _revolve(low, high, grid, removal, band)
    return low, high


def _slope(low: Heights, high: Heights, grid: Grid, bevel: Bevel, band: float) -> None:
    """A bevel: its height may be that of any place within the band. Its edge is a wall, which is looked at elsewhere."""
    mark = np.zeros_like(low)
    _fill(mark, grid, bevel.region.buffer(band, join_style="mitre"), -1.0)
    rows, columns = np.nonzero(mark)
    points = np.column_stack([grid.x0 + (columns + 0.5) * grid.dx, grid.y0 + (rows + 0.5) * grid.dy])
    heights = bevel.heights(points)
    lower, upper = heights - band * bevel.rise, heights + band * bevel.rise
    upper[upper > bevel.top] = np.inf
    for field, wanted in ((low, np.maximum(lower, bevel.floor)), (high, upper)):
        field[rows, columns] = np.minimum(field[rows, columns], np.maximum(wanted, grid.bottom))


def _narrowed(removal: Flat, grid: Grid, band: float) -> Any:
    """The region less the band along its walls; where it runs out of the stock there is no wall."""
    block = shapely.box(grid.x0, grid.y0, grid.x0 + grid.nx * grid.dx, grid.y0 + grid.ny * grid.dy)
    grown = removal.region.union(shapely.box(*block.buffer(4 * band).bounds).difference(block))
    return grown.buffer(-band, join_style="mitre").intersection(block)


def _fill(field: Heights, grid: Grid, region: Any, floor: float) -> None:
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


@njit(cache=True, nogil=True)
def _fill_edges(field: Any, edges: Any, floor: Any, x0: float, y0: float, dx: float, dy: float) -> None:
    """Lowers every cell whose centre is inside (even-odd) to `floor`."""
    ny, nx = field.shape
    crossings = np.empty(len(edges))
    y_lo, y_hi = edges[:, 1].min(), edges[:, 1].max()
    j0, j1 = max(0, int((y_lo - y0) / dy - 1)), min(ny - 1, int((y_hi - y0) / dy + 1))
    for j in range(j0, j1 + 1):
        y = y0 + (j + 0.5) * dy
        count = 0
        for k in range(len(edges)):
            ya, yb = edges[k, 1], edges[k, 3]
            if (ya <= y) != (yb <= y):
                crossings[count] = edges[k, 0] + (y - ya) / (yb - ya) * (edges[k, 2] - edges[k, 0])
                count += 1
        found = np.sort(crossings[:count])
        for k in range(0, count - 1, 2):
            i0 = max(0, int(math.ceil((found[k] - x0) / dx - 0.5)))
            i1 = min(nx - 1, int(math.floor((found[k + 1] - x0) / dx - 0.5)))
            for i in range(i0, i1 + 1):
                if field[j, i] > floor:
                    field[j, i] = floor


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
