"""Kernels that move a tool through a field along straight pieces of path. Sweeps are exact: a straight move of a flat tool is a
capsule, not a row of stamps.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from bastler.proof.mill.field import Grid
from bastler.shapes.compiling import kernel
from bastler.shapes.kinds import Floats
from bastler.tools import Tool

COLUMNS = 5
VOLUME, BITE, SHANK, HOLDER, MIDDLE = range(COLUMNS)
BLUNT = 0.9
"""Of the end that does not cut so much is felt for: a hole just as wide leaves nothing under it."""
UNDER = 0.25
"""How much of a cell a rim has taken that has not taken its middle: between nothing and a half."""
SURE = 1.0 - 1e-6
"""A depth less its rounding."""


def nowhere() -> Floats:
    """Where a tool has been that comes from elsewhere, as `run_segments` wants it."""
    return np.full(3, np.inf)


def tool_arrays(tool: Tool, grid: Grid) -> tuple[Floats, Floats]:
    """The tool as the kernels want it: cutting shape, and body (flute length, shank radius, stick-out, holder radius, radius of
    the middle of its end that does not cut).

    The shank is felt three quarters of a cell further out than it is, so that it is noticed rubbing at a wall.
    """
    p = tool.profile
    shank = tool.body / 2 + 0.75 * grid.cell
    return (
        np.array([p.radius, p.flat, p.corner, p.slope]),
        np.array([tool.flute_length, shank, tool.stick_out, tool.holder.diameter / 2, _blunt(tool)]),
    )


def _blunt(tool: Tool) -> float:
    """The radius at its end that does not cut: of a cone its flat, of a mill with inserts nearly all of it."""
    if tool.centre_cutting:
        return 0.0
    return BLUNT * (tool.tip_diameter / 2 if tool.kind in ("chamfer-mill", "spot-drill") else tool.profile.radius)


def grid_array(grid: Grid, rows: tuple[int, int] | None = None) -> Floats:
    """The grid as the kernels want it: origin, size of a cell, bottom, and the first and the last of the `rows` that are cut, by
    default all."""
    first, last = rows or (0, grid.ny - 1)
    return np.array([grid.x0, grid.y0, grid.dx, grid.dy, grid.bottom, first, last])


@kernel(inline=True)
def _span(ax: float, ay: float, bx: float, by: float, r: float, y: float) -> tuple[float, float]:
    """Where the row at `y` enters and leaves the capsule of radius `r` about a segment; empty when lo > hi."""
    lo, hi = 1e30, -1e30
    d = abs(y - ay)
    if d <= r:
        w = math.sqrt(r * r - d * d)
        lo, hi = ax - w, ax + w
    d = abs(y - by)
    if d <= r:
        w = math.sqrt(r * r - d * d)
        lo, hi = min(lo, bx - w), max(hi, bx + w)
    ux, uy = bx - ax, by - ay
    length = math.sqrt(ux * ux + uy * uy)
    if length > 1e-12:
        ux, uy = ux / length, uy / length
        s0, s1 = -1e30, 1e30
        if abs(ux) > 1e-12:
            a, b = -(y - ay) * uy / ux, (length - (y - ay) * uy) / ux
            s0, s1 = max(s0, min(a, b)), min(s1, max(a, b))
        elif (y - ay) * uy < 0.0 or (y - ay) * uy > length:
            return lo, hi
        if abs(uy) > 1e-12:
            a, b = ((y - ay) * ux - r) / uy, ((y - ay) * ux + r) / uy
            s0, s1 = max(s0, min(a, b)), min(s1, max(a, b))
        elif abs((y - ay) * ux) > r:
            return lo, hi
        if s0 <= s1:
            lo, hi = min(lo, ax + s0), max(hi, ax + s1)
    return lo, hi


@kernel(inline=True)
def _rise(d: float, flat: float, corner: float, slope: float) -> float:
    """Height of the tool's end over its tip at distance `d` from the axis."""
    if d <= flat:
        return 0.0
    if corner > 0.0:
        return corner - math.sqrt(max(corner * corner - (d - flat) * (d - flat), 0.0))
    return (d - flat) * slope


@kernel(inline=True)
def _wide(tool: Any, height: float) -> float:
    """The radius of a tool's end so high over its tip: what is wider finds nothing where nothing is higher."""
    r, flat, corner, slope = tool[0], tool[1], tool[2], tool[3]
    if corner > height:
        return float(flat + math.sqrt(max(2.0 * corner * height - height * height, 0.0)))
    if corner == 0.0 and slope > 0.0:
        return float(flat + height / slope)
    return float(r)


@kernel(inline=True)
def _lowest_flat(px: float, py: float, ux: float, uy: float, az: float, uz: float, l2: float, r: float) -> float:
    """Lowest height of a flat end over a point while it moves on and up or down: where it comes to the point, or leaves it."""
    dot = px * ux + py * uy
    root = dot * dot - l2 * (px * px + py * py - r * r)
    if root < 0.0:
        return 1e30
    root = math.sqrt(root)
    t0, t1 = max((dot - root) / l2, 0.0), min((dot + root) / l2, 1.0)
    if t0 > t1:
        return 1e30
    return az + uz * (t1 if uz < 0.0 else t0)


@kernel(inline=True)
def _lowest_at(dot: float, apart: float, uz: float, l2: float, flat: float, corner: float, slope: float) -> float:
    """Where on a segment that goes up or down by `uz` a cone, or a ball, is lowest over a point, as a share of its length: where
    the end is as steep as the way. The point is `apart` (squared) from the segment's start, `dot` its product with the way."""
    steep, beside = abs(uz) / math.sqrt(l2), max(apart - dot * dot / l2, 0.0)
    if corner > 0.0:
        ahead = steep * math.sqrt(max(corner * corner - beside, 0.0) / (1.0 + steep * steep))
    elif steep < slope:
        ahead = max(steep * math.sqrt(beside / (slope * slope - steep * steep)), math.sqrt(max(flat * flat - beside, 0.0)))
    else:
        ahead = 1e30
    return (dot - math.copysign(ahead, uz) * math.sqrt(l2)) / l2


@kernel()
def _lowest(px: float, py: float, ux: float, uy: float, az: float, uz: float, l2: float, tool: Any) -> float:
    """Lowest height of the tool's end over a point while it moves; (px, py) is the point seen from the segment's start."""
    r = tool[0]
    flat, corner, slope = tool[1], tool[2], tool[3]
    if l2 < 1e-18:
        return az + min(uz, 0.0) + _rise(math.sqrt(px * px + py * py), flat, corner, slope)
    dot = px * ux + py * uy
    if uz == 0.0:
        t = min(max(dot / l2, 0.0), 1.0)
        d = math.sqrt((px - t * ux) ** 2 + (py - t * uy) ** 2)
        return az + _rise(d, flat, corner, slope)
    if flat >= r:
        return _lowest_flat(px, py, ux, uy, az, uz, l2, r)
    apart = px * px + py * py
    root = dot * dot - l2 * (apart - r * r)
    if root < 0.0:
        return 1e30
    root = math.sqrt(root)
    t0, t1 = max((dot - root) / l2, 0.0), min((dot + root) / l2, 1.0)
    if t0 > t1:
        return 1e30
    if flat > 0.0 and corner > 0.0:
        for _ in range(24):
            m0, m1 = t0 + (t1 - t0) / 3.0, t1 - (t1 - t0) / 3.0
            d0 = math.sqrt((px - m0 * ux) ** 2 + (py - m0 * uy) ** 2)
            d1 = math.sqrt((px - m1 * ux) ** 2 + (py - m1 * uy) ** 2)
            if az + uz * m0 + _rise(d0, flat, corner, slope) < az + uz * m1 + _rise(d1, flat, corner, slope):
                t1 = m1
            else:
                t0 = m0
        t = 0.5 * (t0 + t1)
    else:
        t = min(max(_lowest_at(dot, apart, uz, l2, flat, corner, slope), t0), t1)
    d = math.sqrt((px - t * ux) ** 2 + (py - t * uy) ** 2)
    return az + uz * t + _rise(d, flat, corner, slope)


@kernel(inline=True)
def _share(
    px: float, py: float, ux: float, uy: float, l2: float, r: float, dx: float, dy: float
) -> tuple[float, float, float, float]:
    """How much of a cell lies in the capsule of radius `r` about a segment from the origin by (ux, uy), its middle at (px, py);
    the distance of the middle, and the direction from the segment to it."""
    t = min(max((px * ux + py * uy) / l2, 0.0), 1.0) if l2 > 1e-18 else 0.0
    nx, ny = px - t * ux, py - t * uy
    d = math.sqrt(nx * nx + ny * ny)
    if d < 1e-12:
        return 1.0, d, 1.0, 0.0
    nx, ny = nx / d, ny / d
    wide = dx * abs(nx) + dy * abs(ny)
    return min(max(0.5 + (r - d) / wide, 0.0), 1.0), d, nx, ny


@kernel(inline=True)
def _take(h: Any, edge: Any, grid: Any, j: int, i: int, z: float, share: float, inside: bool) -> float:
    """Takes a share of a cell down to a height, all of it or some: how much is new, as a height. Its edge follows; of the cells
    beside it only those count that are in the rows being cut."""
    now, kept = h[j, i], edge[j, i]
    if z >= now:
        if share >= 1.0 and kept < 0.0 and z <= now + 1e-6:  # what a rim had left of it at this height
            edge[j, i] = 0.0
            return float(-kept)
        if share >= 1.0 and kept < 0.0:  # what stands of it beside a wall, as high as the highest cell there, comes down to z
            nx, j0, j1 = h.shape[1], int(grid[5]), int(grid[6])
            top = max(max(h[max(j - 1, j0), i], h[min(j + 1, j1), i]), max(h[j, max(i - 1, 0)], h[j, min(i + 1, nx - 1)]))
            if top > z:
                gain = -kept * (top - z) / (top - now)
                edge[j, i] = kept + gain
                return float(gain)
        return 0.0
    if share >= 1.0:
        h[j, i] = z
        if kept > now - z:  # a rim has gone deeper there than this does, as deep as the lowest cell beside it
            nx, j0, j1 = h.shape[1], int(grid[5]), int(grid[6])
            low = min(min(h[max(j - 1, j0), i], h[min(j + 1, j1), i]), min(h[j, max(i - 1, 0)], h[j, min(i + 1, nx - 1)]))
            gone = min(kept / max(now - low, 1e-9), 0.5)
            edge[j, i] = kept - gone * (now - z)
            return float((1.0 - gone) * (now - z))
        edge[j, i] = 0.0
        return float((now - z) - kept)
    more = share * (now - z)
    gain = more if kept < 0.0 else max(more - kept, 0.0)
    if inside:
        h[j, i] = z
        edge[j, i] = kept + gain - (now - z)
    else:
        edge[j, i] = kept + gain
    return float(gain)


@kernel(inline=True)
def _along(seg: Any) -> tuple[float, float, float, float]:
    """The way of a segment, and the square of its length in the plan."""
    ux, uy, uz = seg[3] - seg[0], seg[4] - seg[1], seg[5] - seg[2]
    if abs(uz) < 1e-9:
        uz = 0.0
    return ux, uy, uz, ux * ux + uy * uy


@kernel(inline=True)
def _rows(grid: Any, seg: Any, r: float) -> tuple[int, int]:
    """First and last row, of those that are cut, whose middle lies within `r` of a segment's ends; first > last for none."""
    low, high = min(seg[1], seg[4]) - r, max(seg[1], seg[4]) + r
    first = max(int(grid[5]), int(math.ceil((low - grid[1]) / grid[3] - 0.5 - 1e-9)))
    return first, min(int(grid[6]), int(math.floor((high - grid[1]) / grid[3] - 0.5 + 1e-9)))


@kernel()
def _probe(h: Any, under: Any, grid: Any, seg: Any, tool: Any) -> float:
    """The greatest depth at one cell along a segment; nothing is cut.

    `under` and `grid` as in `run_segments`. `tool`: radius, flat, corner, slope.
    """
    ax, ay, az, bx, by, bz = seg[0], seg[1], seg[2], seg[3], seg[4], seg[5]
    x0, y0, dx, dy, bottom = grid[0], grid[1], grid[2], grid[3], grid[4]
    r = tool[0]
    nx = h.shape[1]
    ux, uy, uz, l2 = _along(seg)
    plain = tool[1] >= r and (uz == 0.0 or l2 < 1e-18)
    level = np.float32(max(min(az, bz), bottom))
    two = len(under) > 0
    j0, j1 = _rows(grid, seg, r)
    most = 0.0
    for j in range(j0, j1 + 1):
        y = y0 + (j + 0.5) * dy
        i0, i1 = _columns(_span(ax, ay, bx, by, r, y), x0, dx, nx)
        if i0 > i1:
            continue
        deepest = float(_highest(h[j], i0, i1) - level)
        if deepest <= most:
            continue
        if plain and not two:
            most = deepest
            continue
        for i in range(i0, i1 + 1):
            z = float(level) if plain else max(_lowest(x0 + (i + 0.5) * dx - ax, y - ay, ux, uy, az, uz, l2, tool), bottom)
            if two:
                z = max(z, under[j, i])
            most = max(most, h[j, i] - z)
    return most


@kernel()
def _sweep(h: Any, edge: Any, under: Any, grid: Any, seg: Any, tool: Any, begun: bool) -> tuple[float, float]:
    """Cuts along one segment. Gives what is taken, summed over all cells as heights, and the greatest depth at one cell. `begun`:
    where it starts the tool has been before, as low as it is now; what it took there it finds no more."""
    ax, ay, az, bx, by, bz = seg[0], seg[1], seg[2], seg[3], seg[4], seg[5]
    x0, y0, dx, dy, bottom = grid[0], grid[1], grid[2], grid[3], grid[4]
    r = tool[0]
    nx = h.shape[1]
    ux, uy, uz, l2 = _along(seg)
    flat = tool[1] >= r
    plain = flat and (uz == 0.0 or l2 < 1e-18)
    level = np.float32(max(min(az, bz), bottom))
    two = len(under) > 0
    ex, ey = (bx, by) if bz < az else (ax, ay)
    rim = 0.5 * math.sqrt(dx * dx + dy * dy)
    still = l2 < 1e-18
    begun = begun and uz >= 0.0 and not still
    j0, j1 = _rows(grid, seg, r + rim)
    total, most = 0.0, 0.0
    for j in range(j0, j1 + 1):
        y = y0 + (j + 0.5) * dy
        i0, i1 = _columns(_span(ax, ay, bx, by, r + rim, y), x0, dx, nx)
        if begun:
            i0, i1 = _ahead(ax, ux, uy, y - ay, x0, dx, i0, i1)
        if i0 > i1:
            continue
        if h[j, (i0 + i1) // 2] <= level and _is_down(h[j], edge[j], i0, i1, level):
            continue
        # the cells that lie wholly inside: first those that come down to the level, but for those that are there already
        k0, k1 = i1 + 1, i1
        if r > rim and (flat or still):
            k0, k1 = _columns(_span(ax, ay, bx, by, r - rim, y), x0, dx, nx)
            k0, k1 = max(k0, i0), min(k1, i1)
        if k0 > k1:
            k0, k1 = i1 + 1, i1
        else:
            e0, e1, m0, m1 = k0, k0 - 1, k0, k0 - 1
            if plain:
                e0, e1 = k0, k1
                if begun:
                    m0, m1 = _columns(_span(ax, ay, ax, ay, r - rim, y), x0, dx, nx)
            elif flat:
                e0, e1 = _columns(_span(ex, ey, ex, ey, r - rim, y), x0, dx, nx)
                if begun:
                    m0, m1 = e0, e1
            e0, e1 = (max(e0, k0), min(e1, k1)) if e0 <= e1 else (k0, k0 - 1)
            m0, m1 = (max(m0, k0), min(m1, k1)) if m0 <= m1 else (k0, k0 - 1)
            if m0 > m1:
                m0, m1 = e1 + 1, e1
            for c0, c1 in ((e0, m0 - 1), (m1 + 1, e1)):
                if c0 > c1:
                    continue
                if two:
                    depth, deep = _lower_over(h[j], edge[j], under[j], c0, c1, level)
                else:
                    depth, deep = _lower(h[j], edge[j], c0, c1, level, most)
                total, most = total + depth, max(most, deep)
            if not plain:
                for c0, c1 in ((k0, e0 - 1), (e1 + 1, k1)):
                    if c0 > c1:
                        continue
                    depth, deep = _lower_each(h, edge, under, grid, j, c0, c1, x0 - ax, y - ay, ux, uy, az, uz, l2, tool)
                    total, most = total + depth, max(most, deep)
        depth, deep = _rims(h, edge, under, j, i0, k0, k1, i1, seg, tool, grid, level)
        total, most = total + depth, max(most, deep)
    return total, most


@kernel()
def _rims(
    h: Any, edge: Any, under: Any, j: int, i0: int, k0: int, k1: int, i1: int, seg: Any, tool: Any, grid: Any, level: Any
) -> tuple[float, float]:
    """Cuts the cells `i0` to `i1` of a row one by one, but for those from `k0` to `k1`."""
    ax, ay, az = seg[0], seg[1], seg[2]
    x0, y0, dx, dy, bottom = grid[0], grid[1], grid[2], grid[3], grid[4]
    r, y = tool[0], y0 + (j + 0.5) * dy
    ux, uy, uz, l2 = _along(seg)
    flat, still, two = tool[1] >= r, l2 < 1e-18, len(under) > 0
    plain = flat and (uz == 0.0 or still)
    total, most = 0.0, 0.0
    i = i0
    while i <= i1:
        if i == k0:
            i = k1 + 1
            continue
        if level >= h[j, i] and (edge[j, i] >= 0.0 or (plain and level > h[j, i])):
            i += 1  # there is nothing left of it down to there
            continue
        px, py = x0 + (i + 0.5) * dx - ax, y - ay
        share, d, mx, my = _share(px, py, ux, uy, l2, r, dx, dy)
        if share > 0.0:
            inside = d <= r
            z = float(level)
            if not plain:
                if not inside:  # the rim's own height, at the place of it that is nearest
                    px, py = px - mx * (d - r * 0.999999), py - my * (d - r * 0.999999)
                if flat and not still:
                    z = max(_lowest_flat(px, py, ux, uy, az, uz, l2, r), bottom)
                else:
                    z = max(_lowest(px, py, ux, uy, az, uz, l2, tool), bottom)
            if z < 1e29:
                if two:
                    z = max(z, under[j, i])
                if inside and h[j, i] - z > most:
                    most = h[j, i] - z
                total += _take(h, edge, grid, j, i, z, share, inside)
        i += 1
    return total, most


@kernel(inline=True)
def _columns(span: Any, x0: float, dx: float, nx: int) -> tuple[int, int]:
    """First and last column whose centre lies in a span; first > last for none."""
    lo, hi = span
    if lo > hi:
        return 1, 0
    first = max(0, int(math.ceil((lo - x0) / dx - 0.5 - 1e-9)))
    return first, min(nx - 1, int(math.floor((hi - x0) / dx - 0.5 + 1e-9)))


@kernel(inline=True)
def _ahead(ax: float, ux: float, uy: float, py: float, x0: float, dx: float, i0: int, i1: int) -> tuple[int, int]:
    """Of a run of cells `py` beside the start of a segment by (ux, uy) those that do not lie behind the start."""
    if abs(ux) < 1e-9 * abs(uy):
        return (i0, i1) if py * uy > 0.0 else (1, 0)
    column = (ax - py * uy / ux - x0) / dx - 0.5
    column = min(max(column, i0 - 2.0), i1 + 2.0)
    return (max(i0, int(column)), i1) if ux > 0.0 else (i0, min(i1, int(column) + 1))


@kernel(fast=True)
def _is_down(row: Any, edge: Any, i0: int, i1: int, level: Any) -> bool:
    """Does nothing of a run of cells stand over a level, nor has a rim left anything of one? A sum runs in lanes, the highest of
    many numbers does not."""
    part, rim = row[i0 : i1 + 1], edge[i0 : i1 + 1]
    over = np.float32(0.0)
    for i in range(len(part)):
        z, kept = part[i] - level, rim[i]
        over += z if z > np.float32(0.0) else np.float32(0.0)
        over -= kept if kept < np.float32(0.0) else np.float32(0.0)
    return bool(over == np.float32(0.0))


@kernel(fast=True)
def _lower(row: Any, edge: Any, i0: int, i1: int, level: Any, most: float) -> tuple[float, float]:
    """Lowers a run of cells to `level`: what is taken, as heights, and the greatest depth, or `most` where that is more.

    Its loops are such as run in lanes: they add up, and count from nought, as an index that might be negative is looked at one by
    one.
    """
    part, rim, known = row[i0 : i1 + 1], edge[i0 : i1 + 1], np.float32(most * SURE)
    total, rims, deeper = np.float32(0.0), np.float32(0.0), np.float32(0.0)
    for i in range(len(part)):
        depth = part[i] - level
        total += depth if depth > np.float32(0.0) else np.float32(0.0)
        deeper += depth - known if depth > known else np.float32(0.0)
        rims += abs(rim[i])
    if total == np.float32(0.0) and rims == np.float32(0.0):
        return 0.0, most
    if deeper > np.float32(0.0):
        most = max(most, float(_highest(row, i0, i1) - level))
    if rims > np.float32(0.0):  # what rims had taken of a cell beforehand, or left of it, is made good
        for i in range(len(part)):
            depth, taken = part[i] - level, rim[i]
            taken = np.float32(UNDER) * depth if taken > depth else taken
            taken = taken if depth >= np.float32(0.0) else np.float32(0.0)
            total -= taken
            rim[i] -= taken
    for i in range(len(part)):
        z = part[i]
        part[i] = level if z > level else z
    return float(total), most


@kernel()
def _lower_each(
    h: Any,
    edge: Any,
    under: Any,
    grid: Any,
    j: int,
    i0: int,
    i1: int,
    x0: float,
    py: float,
    ux: float,
    uy: float,
    az: float,
    uz: float,
    l2: float,
    tool: Any,
) -> tuple[float, float]:
    """Lowers a run of cells that are wholly under the tool, each to its own height: under an end that goes straight down or up,
    or under a flat one on a slope, whose middle `x0` and `py` are seen from. What is taken, and the greatest depth."""
    r, flat, corner, slope = tool[0], tool[1], tool[2], tool[3]
    dx, bottom = grid[2], grid[4]
    still, two = l2 < 1e-18, len(under) > 0
    low = az + min(uz, 0.0)
    sign, share = 1.0 if uz < 0.0 else -1.0, 0.0 if still else 1.0 / l2
    total, most = 0.0, 0.0
    for i in range(i0, i1 + 1):
        px = x0 + (i + 0.5) * dx
        if still:
            z = low + _rise(math.sqrt(px * px + py * py), flat, corner, slope)
        else:
            dot = px * ux + py * uy
            root = dot * dot - l2 * (px * px + py * py - r * r)
            t = (dot + sign * math.sqrt(root if root > 0.0 else 0.0)) * share
            t = t if t > 0.0 else 0.0
            z = az + uz * (t if t < 1.0 else 1.0)
        z = z if z > bottom else bottom
        if two and under[j, i] > z:
            z = under[j, i]
        now = h[j, i]
        if edge[j, i] != 0.0:
            most = max(most, now - z)
            total += _take(h, edge, grid, j, i, z, 1.0, True)
        elif now > z:
            total += now - z
            most = max(most, now - z)
            h[j, i] = z
    return total, most


@kernel()
def _lower_over(row: Any, edge: Any, under: Any, i0: int, i1: int, level: Any) -> tuple[float, float]:
    """The same where there is an underside: below it there is nothing to take."""
    total, most = 0.0, 0.0
    for i in range(i0, i1 + 1):
        z = max(level, under[i])
        depth = row[i] - z
        if depth < 0.0 or (depth == 0.0 and edge[i] == 0.0):
            continue
        most = max(most, depth)
        total += depth
        if edge[i] > depth:
            total -= UNDER * depth
            edge[i] -= np.float32(UNDER) * depth
        else:
            total -= edge[i]
            edge[i] = np.float32(0.0)
        row[i] = z
    return float(total), float(most)


@kernel(fast=True)
def _highest(row: Any, i0: int, i1: int) -> Any:
    """The highest of a run of cells."""
    part = row[i0 : i1 + 1]
    highest = part[0]
    for i in range(len(part)):
        z = part[i]
        highest = z if z > highest else highest
    return highest


@kernel()
def run_segments(
    h: Any,
    edge: Any,
    under: Any,
    grid: Any,
    segments: Any,
    rapid: Any,
    tool: Any,
    body: Any,
    begin: int,
    end: int,
    out: Any,
    highest: Any,
    been: Any,
    stop: Any,
) -> int:
    """Cuts segments `begin` to before `end` out of the heights `h` and their edges; stops early when `stop[0]` is set. Gives the
    first one not done.

    `under` are the heights of the underside, which no cell comes below, or empty where it is the block's.
    `grid` is that of `grid_array`, with the first and the last row to be cut: others are not looked at. `segments` (n, 6);
    `rapid` (n,) which are rapids; `tool`: radius, flat, corner, slope; `body`: flute length, shank radius,
    stick-out, holder radius, radius of the middle of its end that does not cut. `out` (n, 5) gets volume, greatest bite over the
    tip, depth of the shank and of the holder in stock, and how deep that middle goes straight down into stock;
    the bite of a rapid is judged with a tool half a cell slimmer, as a cell at a wall may stand for what a chord of an arc did
    not reach. `highest` is what nothing in the field stands over: moves above it are passed over. `been` (3,) is how low the tool
    has been, moving on without a break, at the very place where it is: x, y and that height; it is carried on.
    """
    area = grid[2] * grid[3]
    shy = 0.5 * max(grid[2], grid[3])
    slim = np.array([max(tool[0] - shy, 0.2 * tool[0]), max(tool[1] - shy, 0.0), tool[2], tool[3]])
    if tool[1] >= tool[0]:
        slim[1] = slim[0]
    narrow, margin = tool.copy(), 2.0 * math.sqrt(grid[2] ** 2 + grid[3] ** 2)
    shank = np.array([body[1], body[1], 0.0, 0.0])
    holder = np.array([body[3], body[3], 0.0, 0.0])
    middle = np.array([body[4], body[4], 0.0, 0.0])
    raised = np.empty(6)
    for k in range(begin, end):
        if stop[0]:
            return k
        seg = segments[k]
        low = min(seg[2], seg[5])
        follows, still = seg[0] == been[0] and seg[1] == been[1], seg[0] == seg[3] and seg[1] == seg[4]
        before = been[2] if follows else np.inf
        been[0], been[1], been[2] = seg[3], seg[4], min(before, low) if still else seg[5]
        if low >= highest:
            continue
        if highest > low + body[0]:
            raised[:] = seg
            raised[2] += body[0]
            raised[5] += body[0]
            out[k, 2] = _probe(h, under, grid, raised, shank)
        if body[4] > 0.0 and seg[5] < seg[2] and seg[0] == seg[3] and seg[1] == seg[4]:
            out[k, 4] = _probe(h, under, grid, seg, middle)
        if not still or low < before:
            bite = _probe(h, under, grid, seg, slim) if rapid[k] else 0.0
            narrow[0] = min(tool[0], _wide(tool, highest - low) + margin)
            total, most = _sweep(h, edge, under, grid, seg, narrow, before <= low)
            out[k, 0], out[k, 1] = total * area, bite if rapid[k] else most
        if highest > low + body[2]:
            raised[:] = seg
            raised[2] += body[2]
            raised[5] += body[2]
            out[k, 3] = _probe(h, under, grid, raised, holder)
    return end
