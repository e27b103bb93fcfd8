"""The surface of polar dexels as faces, compiled.

Slabs that are alike on all rays are one *layer*. Across the axis its outline follows from where material begins and ends on the
rays: ends of rays side by side are joined where their stretches overlap, and stand up as walls; what one layer has and the next
has not are faces across the axis. Steps as thin as slabs are lit as the slope that they stand for.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from bastler.proof.polar.sweeping import MOST
from bastler.shapes.compiling import kernel

BEND = 0.06
"""Radians by which an outline may turn within one face."""
ROUND = math.cos(math.radians(35.0))
"""Faces that meet at a blunter angle are one smooth surface."""
WIDTH = 14
"""Columns of a wall: x y z of its two lower and upper corners, of which the first has its lower length and the second its upper
one, the normals at both, and whether there is an edge."""
ACROSS = 13
"""Columns of a face across the axis: x y of its four corners, its length, its normal, and whether it ends at edges."""
TANGENT = 5.0
"""How much longer than it is wide a step of a slope may be on a ray that goes along with it."""
LONG = 16
"""Rays that one face across the axis goes over, where all is alike round the axis."""


@kernel()
def layers(lo: Any, hi: Any, count: Any) -> Any:
    """Where layers begin, and behind them the number of slabs."""
    rays, slabs = count.shape
    found = np.empty(slabs + 1, np.int64)
    found[0], n = 0, 1
    for k in range(1, slabs):
        alike = True
        for i in range(rays):
            if count[i, k] != count[i, k - 1]:
                alike = False
                break
            for j in range(count[i, k]):
                if lo[i, k, j] != lo[i, k - 1, j] or hi[i, k, j] != hi[i, k - 1, j]:
                    alike = False
                    break
            if not alike:
                break
        if not alike:
            found[n] = k
            n += 1
    found[n] = slabs
    return found[: n + 1]


@kernel()
def joined(a: Any, n: int, b: Any, m: int, on: Any, back: Any) -> None:
    """Which ends of one ray, (2n,) rising, go on in which of the next (2m,), and the other way: -1 for one that does not."""
    on[: 2 * n] = -1
    back[: 2 * m] = -1
    j, k = 0, 0
    while j < n and k < m:
        if a[2 * j + 1] <= b[2 * k]:
            j += 1
            continue
        if b[2 * k + 1] <= a[2 * j]:
            k += 1
            continue
        p, s = j, k  # what hangs together
        while True:
            if p + 1 < n and a[2 * (p + 1)] < b[2 * s + 1]:
                p += 1
            elif s + 1 < m and b[2 * (s + 1)] < a[2 * p + 1]:
                s += 1
            else:
                break
        on[2 * j], back[2 * k] = 2 * k, 2 * j
        on[2 * p + 1], back[2 * s + 1] = 2 * s + 1, 2 * p + 1
        if p - j == s - k:
            for g in range(p - j):
                on[2 * (j + g) + 1], back[2 * (k + g) + 1] = 2 * (k + g) + 1, 2 * (j + g) + 1
                on[2 * (j + g) + 2], back[2 * (k + g) + 2] = 2 * (k + g) + 2, 2 * (j + g) + 2
        j, k = p + 1, s + 1


@kernel()
def less(a: Any, n: int, b: Any, m: int, found: Any) -> int:
    """The stretches (2n,) of one ray less those of another (2m,); gives how many there are."""
    c = 0
    for j in range(n):
        at, end = a[2 * j], a[2 * j + 1]
        for k in range(m):
            if b[2 * k + 1] <= at or b[2 * k] >= end:
                continue
            if b[2 * k] > at and 2 * c + 1 < len(found):
                found[2 * c], found[2 * c + 1] = at, b[2 * k]
                c += 1
            at = max(at, b[2 * k + 1])
        if end > at and 2 * c + 1 < len(found):
            found[2 * c], found[2 * c + 1] = at, end
            c += 1
    return c


@kernel()
def ends_of(lo: Any, hi: Any, count: Any, ray: int, slab: int, found: Any) -> int:
    """The ends of a ray's stretches, rising; gives how many stretches there are."""
    n = count[ray, slab]
    for j in range(n):
        found[2 * j], found[2 * j + 1] = lo[ray, slab, j], hi[ray, slab, j]
    return int(n)


@kernel()
def recedes(ends: Any, n: int, at: float, outer: bool, near: float) -> float:
    """How far the end nearest to a radius, of the same kind, stands back from it; 0 where there is none so near."""
    best, found = near, 0.0
    for j in range(n):
        off = at - ends[2 * j + 1] if outer else ends[2 * j] - at
        if abs(off) < best:
            best, found = abs(off), off
    return found


@kernel()
def grown(faces: Any, n: int) -> Any:
    """Room for one more."""
    if n < len(faces):
        return faces
    more = np.empty((2 * len(faces), faces.shape[1]))
    more[:n] = faces[:n]
    return more


@kernel()
def walls(lo: Any, hi: Any, count: Any, edges: Any, marks: Any, rays: int, closed: bool, near: float) -> Any:
    """The walls of all layers over the first `rays` rays, which come round again where they are `closed`: (n, WIDTH), x y and
    normal of both sides, both lengths, and the edges. Steps narrower than `near` are slopes."""
    step = 2 * math.pi / count.shape[0]
    faces, n = np.empty((4096, WIDTH)), 0
    ends = np.zeros((rays + 1, 2 * MOST))
    many = np.zeros(rays + 1, np.int64)
    on, back = np.zeros((rays + 1, 2 * MOST), np.int64), np.zeros((rays + 1, 2 * MOST), np.int64)
    over, under = np.zeros(2 * MOST), np.zeros(2 * MOST)
    begun = np.zeros((rays + 1, 2 * MOST), np.uint8)
    last = rays if closed else rays - 1
    for g in range(len(marks) - 1):
        slab, z0, z1 = marks[g], edges[marks[g]], edges[marks[g + 1]]
        for i in range(last + 1):
            many[i] = ends_of(lo, hi, count, i % count.shape[0], slab, ends[i])
        begun[:] = 0
        for i in range(last):
            joined(ends[i], many[i], ends[i + 1], many[i + 1], on[i], back[i + 1])
        for i in range(last + 1):
            c, s = math.cos((i + 0.5) * step), math.sin((i + 0.5) * step)
            for side in range(2):
                if (side == 0 and i == last) or (side == 1 and i == 0):
                    continue
                links, loose = on[i] if side == 0 else back[i], -1
                for j in range(2 * many[i]):  # ends that do not go on close, two by two, across the ray
                    if links[j] >= 0:
                        continue
                    if loose < 0:
                        loose = j
                        continue
                    faces = grown(faces, n)
                    # a stretch that ends here shows its side to what comes, a gap that ends here the other way
                    turn = 1.0 if (side == 0) == (loose % 2 == 0) else -1.0
                    _face(faces[n], ends[i, loose] * c, ends[i, loose] * s, ends[i, j] * c, ends[i, j] * s, z0, z1)
                    thin = z1 - z0 < near / 2  # a step of a slope, at the side of a hole
                    k = math.sqrt(0.5) if thin else 1.0
                    for corner in range(2):
                        faces[n, 6 + 3 * corner], faces[n, 7 + 3 * corner] = -s * turn * k, c * turn * k
                        faces[n, 8 + 3 * corner] = k if thin else 0.0
                    faces[n, 12] = faces[n, 13] = 0.0 if thin else 1.0
                    n += 1
                    loose = -1
        for i in range(last):
            for e in range(2 * many[i]):
                if on[i, e] < 0 or begun[i, e] or (ends[i, e] <= 0.0 and ends[i + 1, on[i, e]] <= 0.0):
                    continue  # at the axis there is no wall
                faces = grown(faces, n)
                _wall(
                    lo, hi, count, edges, marks, g, ends, on, back, begun, i, e, last, step, near, over, under, faces[n]
                )  # fmt: skip
                n += 1
    return faces[:n]


@kernel()
def _face(face: Any, ax: float, ay: float, bx: float, by: float, z0: float, z1: float) -> None:
    face[0], face[1], face[2] = ax, ay, z0
    face[3], face[4], face[5] = bx, by, z1
    face[12:] = 0.0


@kernel()
def _way(ends: Any, i: int, e: int, k: int, f: int, step: float) -> tuple[float, float]:
    """The direction from an end of a ray to one of another."""
    a, b = ends[i, e], ends[k, f]
    x = b * math.cos((k + 0.5) * step) - a * math.cos((i + 0.5) * step)
    y = b * math.sin((k + 0.5) * step) - a * math.sin((i + 0.5) * step)
    long = math.hypot(x, y)
    return (x / long, y / long) if long > 0.0 else (0.0, 0.0)


@kernel()
def _wall(
    lo: Any, hi: Any, count: Any, edges: Any, marks: Any, g: int, ends: Any, on: Any, back: Any, begun: Any, i: int, e: int,
    last: int, step: float, near: float, over: Any, under: Any, face: Any,
) -> None:  # fmt: skip
    """The face that begins at an end of a ray: on as long as it is straight enough."""
    k, f = i + 1, on[i, e]
    begun[i, e] = 1
    x0, y0 = _way(ends, i, e, k, f, step)
    x1, y1 = x0, y0
    while k < last and on[k, f] >= 0 and not begun[k, f]:
        x, y = _way(ends, k, f, k + 1, on[k, f], step)
        if abs(x0 * y - y0 * x) > BEND or x0 * x + y0 * y < 0.0:
            break
        begun[k, f] = 1
        x1, y1 = x, y
        k, f = k + 1, on[k, f]
    outer = e % 2 == 1
    sign = 1.0 if outer else -1.0
    a, b = ends[i, e], ends[k, f]
    c, s, p, q = math.cos((i + 0.5) * step), math.sin((i + 0.5) * step), math.cos((k + 0.5) * step), math.sin((k + 0.5) * step)
    _face(face, a * c, a * s, b * p, b * q, edges[marks[g]], edges[marks[g + 1]])
    for corner in range(2):
        ray, end = (i, e) if corner == 0 else (k, f)
        x, y = (x0, y0) if corner == 0 else (x1, y1)
        beside, there = x, y
        yonder, far = x, y  # one ray farther on: an edge that lies between two rays is one step that goes halfway
        if corner == 0 and ray > 0 and back[ray, end] >= 0:
            beside, there = yonder, far = _way(ends, ray - 1, back[ray, end], ray, end, step)
            if ray > 1 and back[ray - 1, back[ray, end]] >= 0:
                yonder, far = _way(ends, ray - 2, back[ray - 1, back[ray, end]], ray - 1, back[ray, end], step)
        elif corner == 1 and ray < last and on[ray, end] >= 0:
            beside, there = yonder, far = _way(ends, ray, end, ray + 1, on[ray, end], step)
            if ray + 1 < last and on[ray + 1, on[ray, end]] >= 0:
                yonder, far = _way(ends, ray + 1, on[ray, end], ray + 2, on[ray + 1, on[ray, end]], step)
        if min(beside * x + there * y, yonder * x + far * y) > ROUND:
            x, y = x + beside, y + there
        elif face[5] - face[2] >= near / 2:
            face[12 + corner] = 1.0
        long = max(math.hypot(x, y), 1e-12)
        nx, ny = y / long * sign, -x / long * sign
        nz = _tilt(lo, hi, count, edges, marks, g, ray % count.shape[0], ends[ray, end], outer, near, over, under)
        whole = math.sqrt(nx * nx + ny * ny + nz * nz)
        face[6 + 3 * corner], face[7 + 3 * corner], face[8 + 3 * corner] = nx / whole, ny / whole, nz / whole


@kernel()
def _tilt(
    lo: Any, hi: Any, count: Any, edges: Any, marks: Any, g: int, ray: int, at: float, outer: bool, near: float, over: Any,
    under: Any,
) -> float:  # fmt: skip
    """By how much a wall stands back a unit of length, from the layers over it and under it; 0 for one that is upright."""
    back, high = 0.0, 0.0
    thick = edges[marks[g + 1]] - edges[marks[g]]
    if thick > 1.5 * near:
        return 0.0
    if g + 2 < len(marks):
        n = ends_of(lo, hi, count, ray, marks[g + 1], over)
        off = recedes(over, n, at, outer, near)
        if off != 0.0:
            back, high = back + off, high + (thick + min(edges[marks[g + 2]] - edges[marks[g + 1]], near)) / 2
    if g > 0:
        n = ends_of(lo, hi, count, ray, marks[g - 1], under)
        off = recedes(under, n, at, outer, near)
        if off != 0.0:
            back, high = back - off, high + (thick + min(edges[marks[g]] - edges[marks[g - 1]], near)) / 2
    return back / high if high > 0.0 else 0.0


@kernel()
def floors(lo: Any, hi: Any, count: Any, edges: Any, marks: Any, rays: int, closed: bool, near: float) -> Any:
    """The faces across the axis over the first `rays` rays, (n, ACROSS). What is narrower than `near` is lit as a slope."""
    turns = count.shape[0]
    faces, n = np.empty((4096, ACROSS)), 0
    a, b = np.zeros(2 * MOST), np.zeros(2 * MOST)
    seen, many = np.zeros((rays + 1, 8 * MOST)), np.zeros(rays + 1, np.int64)
    on, back = np.zeros(8 * MOST, np.int64), np.zeros(8 * MOST, np.int64)
    last = rays if closed else rays - 1
    for g in range(len(marks) - 1):
        slab, above = marks[g], marks[g + 1]
        z, thick, top = edges[above], edges[above] - edges[slab], above >= count.shape[1]
        for front in (1.0, -1.0):
            if top and front < 0.0:
                continue
            for i in range(last + 1):
                p = ends_of(lo, hi, count, i % turns, slab, a)
                q = 0 if top else ends_of(lo, hi, count, i % turns, above, b)
                many[i] = less(a, p, b, q, seen[i]) if front > 0.0 else less(b, q, a, p, seen[i])
            i = 0
            while i < last:
                k = i + 1
                while k < last and k - i < LONG and _same(seen[i], many[i], seen[k], many[k]):
                    k += 1
                if not _same(seen[i], many[i], seen[k], many[k]):
                    k = max(k - 1, i + 1)
                joined(seen[i], many[i], seen[k], many[k], on, back)
                for j in range(many[i]):
                    f = on[2 * j]
                    goes_on = f >= 0 and on[2 * j + 1] == f + 1
                    faces = grown(faces, n)
                    own, other = seen[i, 2 * j : 2 * j + 2], seen[k, f : f + 2] if goes_on else seen[i, 2 * j : 2 * j + 2]
                    _across(lo, hi, count, faces[n], i, i, k if goes_on else i + 0.5, own, other, z, thick, front, slab, near, a)
                    n += 1
                for j in range(many[k]):
                    f = back[2 * j]
                    if f < 0 or back[2 * j + 1] != f + 1:
                        faces = grown(faces, n)
                        own = seen[k, 2 * j : 2 * j + 2]
                        _across(lo, hi, count, faces[n], k, k - 0.5, k, own, own, z, thick, front, slab, near, a)
                        n += 1
                i = k
    return faces[:n]


@kernel()
def _same(a: Any, n: int, b: Any, m: int) -> bool:
    alike = n == m
    j = 0
    while alike and j < 2 * n:
        alike = abs(a[j] - b[j]) < 1e-4 * max(a[j], 1e-3)
        j += 1
    return bool(alike)


@kernel()
def _across(
    lo: Any, hi: Any, count: Any, face: Any, ray: int, i: float, k: float, own: Any, other: Any, z: float, thick: float,
    front: float, slab: int, near: float, ends: Any,
) -> None:  # fmt: skip
    """From one ray to another, with the normal of the slope that it is a step of."""
    step = 2 * math.pi / count.shape[0]
    c, s, p, q = math.cos((i + 0.5) * step), math.sin((i + 0.5) * step), math.cos((k + 0.5) * step), math.sin((k + 0.5) * step)
    face[0], face[1], face[2], face[3] = own[0] * c, own[0] * s, own[1] * c, own[1] * s
    face[4], face[5], face[6], face[7] = other[1] * p, other[1] * q, other[0] * p, other[0] * q
    wide = max(own[1] - own[0], other[1] - other[0])
    if thick < near / 2:  # at the side of a hole a ray goes along a step of its slope
        near *= TANGENT
    face[8], face[9], face[10], face[11], face[12] = z, 0.0, 0.0, front, 1.0 if wide >= near else 0.0
    if wide >= near or thick > 1.5 * near:
        return
    n = ends_of(lo, hi, count, ray % count.shape[0], slab if front > 0.0 else slab + 1, ends)
    out = 0.0
    for j in range(n):
        if abs(ends[2 * j + 1] - own[1]) < 1e-6:
            out = 1.0
        elif abs(ends[2 * j] - own[0]) < 1e-6:
            out = -1.0
    long = math.hypot(thick * out, wide)
    if out != 0.0 and long > 0.0:
        angle = (ray + 0.5) * step
        face[9], face[10] = math.cos(angle) * thick * out / long, math.sin(angle) * thick * out / long
        face[11] = front * wide / long
