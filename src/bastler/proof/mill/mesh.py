"""A height field as flat faces for the solid view: cells of equal height merged to rectangles, walls merged to runs.

Walls carry the normal of the smooth wall they stand for, estimated from the cells around, so that a round corner is shaded
round although its faces are steps.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from bastler.proof.mill.field import FLAT_UNDER, Grid, Heights
from bastler.shapes.compiling import kernel
from bastler.shapes.kinds import Floats

UNTOUCHED, CUT, SECTION = 0, 1, 2
MOST_CELLS = 260_000
WALLS = {"none": 0, "inner": 1, "all": 2}
MOST_FACES = 200_000
"""Room that is made for faces at first."""
REACH = 5
EDGE_SHARE = 0.02
"""Walls lower than this share of the stock's height are a slope's steps and get no edge line."""


@dataclass(frozen=True)
class Mesh:
    """`points` (4n, 3), four a face in order; `normals` (n, 3); `colour` (n,) UNTOUCHED, CUT or SECTION.

    `depth` (n,) is how deep below the stock's top a face lies, as a share of its height; `edges` (2m, 3) are lines where
    walls begin and end, two points each.
    """

    points: Floats
    normals: Floats
    colour: Any
    depth: Floats
    edges: Any


@dataclass(frozen=True)
class Others:
    """The parts on the table besides the one that is worked on: what each is like, and how far it lies from the first."""

    meshes: tuple[tuple[tuple[float, float, float], Mesh], ...] = ()
    shift: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """Of the part that is worked on itself."""


def mesh(
    grid: Grid, heights: Heights, under: Heights = FLAT_UNDER, *, cells: int = MOST_CELLS, section_y: float | None = None
) -> Mesh:
    """The faces of the part, of its underside too; `under` are the heights of that, empty where it is the block's. With
    `section_y` everything in front of that plane is left away and the plane shown as cut."""
    stride = max(1, math.ceil(math.sqrt(heights.size / cells)))
    every = slice(stride // 2, None, stride)
    h = heights[every, every].copy()
    u = under[every, every].copy() if len(under) else FLAT_UNDER
    ny = len(h)
    rows_cut = 0
    if section_y is not None:
        rows_cut = min(max(int((section_y - grid.y0) / (grid.ny * grid.dy / ny) + 0.5), 0), ny)
        h[:rows_cut] = grid.bottom
        u[:rows_cut] = grid.bottom
    above = _side(grid, h, u, rows_cut, grid.bottom, grid.top, "all")
    floor = u if len(u) else np.full_like(h, grid.bottom)
    below = _side(grid, -floor, -h, 0, -grid.top, -grid.bottom, "inner" if len(u) else "none")
    below[0][:, 2::3] *= -1.0
    below[0][:] = below[0].reshape(-1, 4, 3)[:, ::-1].reshape(-1, 12)  # round the other way, as they are seen from the other side
    below[1][:, 2] *= -1.0
    faces, normals, colour = (np.concatenate(both) for both in zip(above, below, strict=True))
    depth = np.concatenate([grid.top - above[0][:, 8], below[0][:, 8] - grid.bottom]) / max(grid.top - grid.bottom, 1e-9)
    walls = (normals[:, 2] == 0.0) & (np.abs(faces[:, 8] - faces[:, 2]) > EDGE_SHARE * (grid.top - grid.bottom))
    edges = np.concatenate([faces[walls, 0:6], faces[walls, 6:12]]).reshape(-1, 3)
    return Mesh(faces.reshape(-1, 3), normals, colour, depth, edges)


def _side(
    grid: Grid, h: Heights, u: Heights, rows_cut: int, bottom: float, top: float, walls: Literal["all", "inner", "none"]
) -> tuple[Any, Any, Any]:
    """The faces that look up, and the walls between cells of unlike height: (n, 12), their normals and colours. The underside is
    the same with all heights turned about. `walls`: all, all but the sides of the block, or none, as a flat underside has."""
    ny, nx = h.shape
    dx, dy = grid.nx * grid.dx / nx, grid.ny * grid.dy / ny
    size = MOST_FACES if walls == "all" else MOST_FACES // 10
    while True:
        faces, normals = np.empty((size, 12), np.float32), np.empty((size, 3), np.float32)
        colour = np.empty(size, np.uint8)
        low, high = np.float32(bottom), np.float32(top)
        count = _mesh(h, u, grid.x0, grid.y0, dx, dy, low, high, rows_cut, grid.radius, WALLS[walls], faces, normals, colour)
        if count <= size:
            return faces[:count], normals[:count], colour[:count]
        size = count + 16


@kernel()
def _mesh(
    h: Any,
    u: Any,
    x0: float,
    y0: float,
    dx: float,
    dy: float,
    bottom: Any,
    top: Any,
    rows_cut: int,
    radius: float,
    walls: int,
    faces: Any,
    normals: Any,
    colour: Any,
) -> int:
    ny, nx = h.shape
    two = len(u) > 0
    done = np.zeros((ny, nx), np.bool_)
    count, room = 0, len(faces)
    for j in range(ny):
        i = 0
        while i < nx:
            z = h[j, i]
            if done[j, i] or z <= (u[j, i] if two else bottom):
                i += 1
                continue
            i1 = i + 1
            while i1 < nx and not done[j, i1] and h[j, i1] == z and (not two or u[j, i1] < z):
                i1 += 1
            j1 = j + 1
            while j1 < ny:
                same = True
                for k in range(i, i1):
                    if done[j1, k] or h[j1, k] != z or (two and u[j1, k] >= z):
                        same = False
                        break
                if not same:
                    break
                j1 += 1
            done[j:j1, i:i1] = True
            if count < room:
                a, b, c, d = x0 + i * dx, x0 + i1 * dx, y0 + j * dy, y0 + j1 * dy
                _face(faces[count], a, c, z, b, c, z, b, d, z, a, d, z)
                normals[count, 0], normals[count, 1], normals[count, 2] = 0.0, 0.0, 1.0
                colour[count] = UNTOUCHED if z >= top else CUT
            count += 1
            i = i1
    for across in range(2 if walls > 0 else 0):
        lanes, steps = (ny + 1, nx) if across == 0 else (nx + 1, ny)
        for lane in range(0 if walls > 1 else 1, lanes if walls > 1 else lanes - 1):
            k = 0
            while k < steps:
                lo, hi = _pair(h, u, across, lane, k, bottom)
                if lo == hi:
                    k += 1
                    continue
                k1 = k + 1
                while k1 < steps:
                    lo1, hi1 = _pair(h, u, across, lane, k1, bottom)
                    if lo1 != lo or hi1 != hi:
                        break
                    k1 += 1
                if count < room:
                    z0, z1 = min(lo, hi), max(lo, hi)
                    edge = lane == 0 or lane == lanes - 1
                    if radius > 0.0 and not edge:  # beside a disc lies nothing: what faces it is its own side
                        low = lane - 1 if lo < hi else lane
                        i0, j0 = (low, (k + k1) // 2) if across == 1 else ((k + k1) // 2, low)
                        away = math.hypot((i0 + 0.5 - 0.5 * nx) * dx, (j0 + 0.5 - 0.5 * ny) * dy)
                        side = away > radius
                    else:
                        side = edge
                    if across == 0:
                        y = y0 + lane * dy
                        a, b = x0 + k * dx, x0 + k1 * dx
                        if lo > hi:  # round as it is seen from outside
                            a, b = b, a
                        _face(faces[count], a, y, z0, b, y, z0, b, y, z1, a, y, z1)
                    else:
                        x = x0 + lane * dx
                        a, b = y0 + k * dy, y0 + k1 * dy
                        if lo < hi:
                            a, b = b, a
                        _face(faces[count], x, a, z0, x, b, z0, x, b, z1, x, a, z1)
                    _wall_normal(h, across, lane, (k + k1) // 2, lo > hi, edge, 0.5 * (z0 + z1), normals[count])
                    colour[count] = UNTOUCHED if side else CUT
                    if rows_cut > 0 and across == 0 and lane == rows_cut and hi > lo:
                        colour[count] = SECTION
                count += 1
                k = k1
    return count


@kernel(inline=True)
def _pair(h: Any, u: Any, across: int, lane: int, k: int, bottom: Any) -> Any:
    """Heights on the lower and on the upper side of a lane at step `k`; outside is the bottom. Where there is an underside the
    lower of the two is no lower than that of the other: there the wall between them ends."""
    if across == 0:
        low = h[lane - 1, k] if lane > 0 else bottom
        high = h[lane, k] if lane < h.shape[0] else bottom
    else:
        low = h[k, lane - 1] if lane > 0 else bottom
        high = h[k, lane] if lane < h.shape[1] else bottom
    if low == high or len(u) == 0:
        return low, high
    at = lane if low < high else lane - 1
    under = u[at, k] if across == 0 else u[k, at]
    return (max(low, under), high) if low < high else (low, max(high, under))


@kernel()
def _wall_normal(h: Any, across: int, lane: int, k: int, falls: bool, edge: bool, z: float, out: Any) -> None:
    """Away from the material: from the cells around that stand over the wall's middle."""
    out[:] = 0.0
    sign = 1.0 if falls else -1.0
    plain_x, plain_y = (0.0, sign) if across == 0 else (sign, 0.0)
    gx, gy = 0.0, 0.0
    if not edge:
        j0, i0 = (lane, k) if across == 0 else (k, lane)
        y0, x0 = (lane + 0.0, k + 0.5) if across == 0 else (k + 0.5, lane + 0.0)
        ny, nx = h.shape
        for j in range(max(0, j0 - REACH), min(ny, j0 + REACH)):
            for i in range(max(0, i0 - REACH), min(nx, i0 + REACH)):
                if h[j, i] > z:
                    gx -= (i + 0.5) - x0
                    gy -= (j + 0.5) - y0
    length = math.sqrt(gx * gx + gy * gy)
    if length < 1e-6:
        gx, gy, length = plain_x, plain_y, 1.0
    out[0], out[1] = gx / length, gy / length


@kernel(inline=True)
def _face(
    row: Any,
    ax: float,
    ay: float,
    az: float,
    bx: float,
    by: float,
    bz: float,
    cx: float,
    cy: float,
    cz: float,
    dx: float,
    dy: float,
    dz: float,
) -> None:
    row[0], row[1], row[2] = ax, ay, az
    row[3], row[4], row[5] = bx, by, bz
    row[6], row[7], row[8] = cx, cy, cz
    row[9], row[10], row[11] = dx, dy, dz
