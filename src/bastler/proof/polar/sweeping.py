"""What driven tools take of polar dexels, compiled: from every ray, which begins at the axis, the stretch that a tool goes over.

A tool along the axis meets a ray in its disc, one across it in a rectangle; moved straight on both stay convex, so that a ray
loses one stretch. Shapes of tools are those of `Profile`: a flat, a corner arc or a cone, then the full radius.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from bastler.shapes.compiling import kernel

MOST = 6
"""Stretches of material that a ray can hold. A cut that would make one more is not made: what stands too much is met and seen."""
NOTHING = 1e30
VOLUME, DEEP, RAPID_IN = range(3)
"""What a segment took, how deep it stood in the material along the tool, how deep a rapid went in."""
CROSSINGS = 64
"""So often a boundary may cross a length."""
MANY = 16
"""So many times more often a region across the axis may be crossed by a ray, as lettering is."""
SLIVER = 5e-7
"""What is no thicker than so many radii is the rounding of a ray's ends, and not cut: a tool that stands still takes nothing."""
LAYERS = 24
"""Steps in which the rounded or pointed end of a tool across the axis is taken."""


@kernel()
def take(lo: Any, hi: Any, count: Any, i: int, k: int, a: float, b: float) -> float:
    """Takes the stretch from a to b off a ray; gives half the difference of the squares of what went, an area for each radian."""
    a = max(a, 0.0)
    if b <= a:
        return 0.0
    gone = 0.0
    n = count[i, k]
    j = 0
    while j < n:
        low, high = lo[i, k, j], hi[i, k, j]
        begin, end = max(a, low), min(b, high)
        if end - begin <= SLIVER * high:
            j += 1
            continue
        if begin > low and end < high:
            if n < MOST:
                gone += 0.5 * (end * end - begin * begin)
                for m in range(n, j + 1, -1):
                    lo[i, k, m], hi[i, k, m] = lo[i, k, m - 1], hi[i, k, m - 1]
                hi[i, k, j] = begin
                lo[i, k, j + 1], hi[i, k, j + 1] = end, high
                n += 1
            break
        gone += 0.5 * (end * end - begin * begin)
        if begin > low:
            hi[i, k, j] = begin
            j += 1
        elif end < high:
            lo[i, k, j] = end
            j += 1
        else:
            for m in range(j, n - 1):
                lo[i, k, m], hi[i, k, m] = lo[i, k, m + 1], hi[i, k, m + 1]
            n -= 1
    count[i, k] = n
    return gone


@kernel()
def meets(lo: Any, hi: Any, count: Any, i: int, k: int, a: float, b: float) -> float:
    """The longest stretch of material on a ray between a and b."""
    most = 0.0
    for j in range(count[i, k]):
        most = max(most, min(b, hi[i, k, j]) - max(a, lo[i, k, j]))
    return most


@kernel()
def within(ax: float, ay: float, bx: float, by: float, rho: float, c: float, s: float) -> tuple[float, float]:
    """From where to where a ray from the origin along (c, s) is no further than `rho` from the line from a to b."""
    low, high = NOTHING, -NOTHING
    for px, py in ((ax, ay), (bx, by)):
        t = px * c + py * s
        off = px * px + py * py - t * t
        if off <= rho * rho:
            half = math.sqrt(rho * rho - off)
            low, high = min(low, t - half), max(high, t + half)
    dx, dy = bx - ax, by - ay
    long = math.sqrt(dx * dx + dy * dy)
    if long > 1e-12:
        dx, dy = dx / long, dy / long
        t0, t1 = -NOTHING, NOTHING
        for rate, begin, least, most in (
            (c * dx + s * dy, ax * dx + ay * dy, 0.0, long),
            (s * dx - c * dy, ay * dx - ax * dy, -rho, rho),
        ):
            if abs(rate) < 1e-15:
                if not least <= -begin <= most:
                    t0, t1 = NOTHING, -NOTHING
            else:
                u, v = (begin + least) / rate, (begin + most) / rate
                t0, t1 = max(t0, min(u, v)), min(t1, max(u, v))
        if t1 >= t0:
            low, high = min(low, t0), max(high, t1)
    return low, high


@kernel()
def _fan(ax: float, ay: float, bx: float, by: float, rho: float) -> tuple[float, float]:
    """The angles between which rays may meet what is no further than `rho` from a line."""
    dx, dy = bx - ax, by - ay
    square = dx * dx + dy * dy
    t = 0.0 if square < 1e-24 else min(max(-(ax * dx + ay * dy) / square, 0.0), 1.0)
    if math.hypot(ax + t * dx, ay + t * dy) <= rho * 1.000001 + 1e-9:
        return -math.pi, math.pi
    begin = math.atan2(ay, ax)
    swing = math.atan2(ax * by - ay * bx, ax * bx + ay * by)
    first, last = math.asin(rho / math.hypot(ax, ay)), math.asin(rho / math.hypot(bx, by))
    return min(begin - first, begin + swing - last), max(begin + first, begin + swing + last)


@kernel()
def _width(flat: float, corner: float, slope: float, radius: float, height: float) -> float:
    """The radius of a tool at a height over its tip."""
    if corner > 0.0 and height < corner:
        return min(radius, flat + math.sqrt(max(corner * corner - (corner - height) ** 2, 0.0)))
    if slope > 0.0:
        return min(radius, flat + height / slope)
    return radius


@kernel()
def axial_pieces(edges: Any, segments: Any, rapid: Any, shape: Any, long: float) -> tuple[Any, Any]:
    """What a tool along the axis goes through when its tip goes along segments (m, 6) and it cuts as long as `long`: pieces
    (n, 8), from x y z to x y z, how long of the tool is looked at, and whether it is a rapid; and the segment of each (n,). Of a
    rising one of a tool with a shaped end none rises by more than half a slab. Where a tool goes up and down at one place only
    what it has not gone over yet is looked at."""
    tall = max(shape[1], (shape[3] - shape[0]) * shape[2])
    fine = (edges[-1] - edges[0]) / (len(edges) - 1)
    found, owner = np.empty((2 * len(segments) + 16, 8)), np.empty(2 * len(segments) + 16, np.int64)
    n = 0
    x, y, floor, roof = NOTHING, NOTHING, NOTHING, -NOTHING
    for m in range(len(segments)):
        p = segments[m]
        low, high = min(p[2], p[5]), max(p[2], p[5])
        if low >= edges[-1]:  # over everything
            continue
        stands = math.hypot(p[3] - p[0], p[4] - p[1]) < 1e-9
        again = stands and abs(p[0] - x) < 1e-9 and abs(p[1] - y) < 1e-9
        reach = long
        if again and high + long <= roof + 1e-9:
            if low >= floor - 1e-9:
                continue
            reach = floor + tall - high
        rise = p[5] - p[2]
        slants = abs(rise) >= 1e-9 and not stands and (shape[1] > 0.0 or shape[2] > 0.0)
        begin, end = 0.0, 1.0
        if slants:  # only where there can be something at its tip or beside it
            t0, t1 = (edges[-1] - p[2]) / rise, (edges[0] - long - p[2]) / rise
            begin, end = max(min(t0, t1), 0.0), min(max(t0, t1), 1.0)
            if end <= begin:
                continue
        many = int(math.ceil(2 * abs(rise) * (end - begin) / fine)) if slants else 1
        if n + many > len(found):
            more, owners = np.empty((2 * (n + many), 8)), np.empty(2 * (n + many), np.int64)
            more[:n], owners[:n] = found[:n], owner[:n]
            found, owner = more, owners
        for j in range(many):
            a, b = begin + (end - begin) * j / many, begin + (end - begin) * (j + 1) / many
            for axis in range(2):
                found[n, axis] = p[axis] + (p[3 + axis] - p[axis]) * a
                found[n, 3 + axis] = p[axis] + (p[3 + axis] - p[axis]) * b
            found[n, 2], found[n, 5] = p[2], p[5]
            if slants:
                found[n, 2] = found[n, 5] = p[2] + rise * (a + b) / 2
            found[n, 6], found[n, 7], owner[n] = reach, 1.0 if rapid[m] else 0.0, m
            n += 1
        if again:
            floor, roof = min(floor, low), max(roof, high + long)
        elif stands:
            x, y, floor, roof = p[0], p[1], low, high + long
        else:
            x = NOTHING
    return found[:n], owner[:n]


@kernel()
def axial(
    lo: Any, hi: Any, count: Any, edges: Any, pieces: Any, shape: Any, slim: float, from_ray: int, to_ray: int, out: Any
) -> None:
    """Tools along the axis on rays `from_ray` to before `to_ray`: what each piece (see `axial_pieces`) took, the lowest and the
    highest length at which it did, and how deep a rapid went in, felt with a tool that is slimmer by `slim`: `out` (n, 4).

    Rays do not ask each other. Each goes through all pieces, so that it stays at hand, its slabs of one kind together: there
    are as many kinds as there are floors, and not as slabs.
    """
    turns, slabs, step = lo.shape[0], len(edges) - 1, 2 * math.pi / lo.shape[0]
    middles = (edges[1:] + edges[:-1]) / 2
    begins, swing = np.empty(len(pieces), np.int64), np.empty(len(pieces), np.int64)
    reach = np.empty((len(pieces), 4), np.int64)
    radius, alike = shape[3], np.zeros(slabs + 1, np.int64)
    tall = max(shape[1], (radius - shape[0]) * shape[2])
    for m in range(len(pieces)):
        p = pieces[m]
        low, high = min(p[2], p[5]), max(p[2], p[5])
        reach[m, 0] = np.searchsorted(middles, low)
        reach[m, 1] = np.searchsorted(middles, high + p[6], "right")
        straight = abs(p[5] - p[2]) < 1e-9 or math.hypot(p[3] - p[0], p[4] - p[1]) < 1e-9
        reach[m, 2] = np.searchsorted(middles, low + tall if straight else high)
        reach[m, 3] = reach[m, 1] if straight else np.searchsorted(middles, low + p[6], "right")
        a, b = _fan(p[0], p[1], p[3], p[4], radius)
        begins[m], swing[m] = int(math.ceil(a / step - 0.5)), int(math.floor(b / step - 0.5)) - int(math.ceil(a / step - 0.5))
    under = int(reach[:, 0].min()) if len(pieces) else slabs  # what no tip comes down to is left alone
    for ray in range(from_ray, to_ray):
        c, s = math.cos((ray + 0.5) * step), math.sin((ray + 0.5) * step)
        _gathered(lo, hi, count, ray, alike, under)
        for m in range(len(pieces)):
            if (ray - begins[m]) % turns > swing[m]:
                continue
            near, far = within(pieces[m, 0], pieces[m, 1], pieces[m, 3], pieces[m, 4], radius, c, s)
            if far <= max(near, 0.0):
                continue
            if pieces[m, 7] > 0.0:
                _feel(lo, hi, count, middles, alike, pieces[m], shape, slim, ray, c, s, under, out[m])
            _axial_ray(lo, hi, count, edges, alike, pieces[m], shape, reach[m], ray, c, s, near, far, under, out[m])
        _spread(lo, hi, count, ray, alike, under)


@kernel()
def _gathered(lo: Any, hi: Any, count: Any, ray: int, alike: Any, under: int) -> None:
    """Of every first one of slabs of a ray that are alike, from `under` on, how many there are (slabs + 1,)."""
    slabs = count.shape[1]
    k = under
    while k < slabs:
        j = k + 1
        while j < slabs and _same(lo, hi, count, ray, k, j):
            j += 1
        alike[k] = j - k
        k = j


@kernel()
def _same(lo: Any, hi: Any, count: Any, ray: int, k: int, j: int) -> bool:
    alike = bool(count[ray, k] == count[ray, j])
    n = 0
    while alike and n < count[ray, k]:
        alike = bool(lo[ray, k, n] == lo[ray, j, n] and hi[ray, k, n] == hi[ray, j, n])
        n += 1
    return alike


@kernel()
def _spread(lo: Any, hi: Any, count: Any, ray: int, alike: Any, under: int) -> None:
    """All slabs of a ray from `under` on as their first one is."""
    k = under
    while k < count.shape[1]:
        for j in range(k + 1, k + alike[k]):
            _copied(lo, hi, count, ray, k, j)
        k += alike[k]


@kernel()
def _copied(lo: Any, hi: Any, count: Any, ray: int, k: int, j: int) -> None:
    count[ray, j] = count[ray, k]
    for n in range(count[ray, k]):
        lo[ray, j, n], hi[ray, j, n] = lo[ray, k, n], hi[ray, k, n]


@kernel()
def _parted(lo: Any, hi: Any, count: Any, ray: int, alike: Any, k: int, j: int) -> None:
    """The slabs that are alike from k on are so to before j, and again from there."""
    _copied(lo, hi, count, ray, k, j)
    alike[j] = alike[k] - (j - k)
    alike[k] = j - k


@kernel()
def _axial_ray(
    lo: Any, hi: Any, count: Any, edges: Any, alike: Any, p: Any, shape: Any, reach: Any, ray: int, c: float, s: float,
    full_near: float, full_far: float, under: int, told: Any,
) -> None:  # fmt: skip
    """What a piece takes of one ray: from slab `reach[0]` to before `reach[1]`, with its full width from `reach[2]` to before
    `reach[3]`."""
    step, first, last = 2 * math.pi / lo.shape[0], reach[0], reach[1]
    before, k = -1, under
    while k < last:
        end = k + alike[k]
        if end <= first or count[ray, k] == 0 or meets(lo, hi, count, ray, k, full_near, full_far) <= 0.0:
            before, k = k, end
            continue
        if k < first:
            _parted(lo, hi, count, ray, alike, k, first)
            before, k = k, first
            end = k + alike[k]
        narrow = k < reach[2] or k >= reach[3]
        until = k + 1 if narrow else min(last, reach[3])
        if end > until:
            end = until
            _parted(lo, hi, count, ray, alike, k, end)
        near, far = full_near, full_far
        if narrow:
            near, far = _span(p, shape, (edges[k] + edges[k + 1]) / 2, 0.0, c, s)
        gone = take(lo, hi, count, ray, k, near, far) if far > near else 0.0
        if gone > 0.0:
            told[0] += gone * step * (edges[end] - edges[k])
            told[1], told[2] = min(told[1], edges[k]), max(told[2], edges[end])
        if before >= 0 and _same(lo, hi, count, ray, before, k):
            alike[before] += alike[k]
        else:
            before = k
        k = end


@kernel()
def _span(p: Any, shape: Any, z: float, slim: float, c: float, s: float) -> tuple[float, float]:
    """From where to where a piece of a tool, slimmer by `slim`, is on a ray at a length."""
    straight = abs(p[5] - p[2]) < 1e-9 or math.hypot(p[3] - p[0], p[4] - p[1]) < 1e-9
    if straight:
        wide = _width(shape[0], shape[1], shape[2], shape[3], z - min(p[2], p[5])) - slim
        return within(p[0], p[1], p[3], p[4], max(wide, 0.0), c, s)
    # on a slope it is at a height only while its tip is under it, and its end over it
    t0, t1 = (z - p[2]) / (p[5] - p[2]), (z - p[6] - p[2]) / (p[5] - p[2])
    t0, t1 = max(min(t0, t1), 0.0), min(max(t0, t1), 1.0)
    if t1 <= t0:
        return 0.0, 0.0
    dx, dy = p[3] - p[0], p[4] - p[1]
    return within(p[0] + dx * t0, p[1] + dy * t0, p[0] + dx * t1, p[1] + dy * t1, max(shape[3] - slim, 0.0), c, s)


@kernel()
def _feel(
    lo: Any, hi: Any, count: Any, middles: Any, alike: Any, p: Any, shape: Any, slim: float, ray: int, c: float, s: float,
    under: int, told: Any,
) -> None:  # fmt: skip
    """How deep a tool, slimmer by `slim`, comes into the material of one ray."""
    low, high = min(p[2], p[5]), max(p[2], p[5])
    k = under
    while k < len(middles):
        if count[ray, k] > 0:
            for j in range(k, k + alike[k]):
                if low + slim <= middles[j] <= high + p[6]:
                    near, far = _span(p, shape, middles[j], slim, c, s)
                    if far > near:
                        told[3] = max(told[3], meets(lo, hi, count, ray, k, near, far))
        k += alike[k]


@kernel()
def axial_body(
    lo: Any, hi: Any, count: Any, edges: Any, segments: Any, radius: float, begin: float, end: float, slim: float,
    from_ray: int, to_ray: int, out: Any,
) -> None:  # fmt: skip
    """How deep a shank or holder, round and along the axis between two heights over the tip, comes into the material of rays
    `from_ray` to before `to_ray`, (m,)."""
    turns, slabs, step = lo.shape[0], len(edges) - 1, 2 * math.pi / lo.shape[0]
    middles, alike = (edges[1:] + edges[:-1]) / 2, np.zeros(slabs + 1, np.int64)
    begins, swing = np.empty(len(segments), np.int64), np.empty(len(segments), np.int64)
    reach = np.empty((len(segments), 2), np.int64)
    widest = max(radius - slim, 0.0)
    for m in range(len(segments)):
        p = segments[m]
        reach[m, 0] = np.searchsorted(middles, min(p[2], p[5]) + begin + slim)
        reach[m, 1] = np.searchsorted(middles, max(p[2], p[5]) + end, "right")
        a, b = _fan(p[0], p[1], p[3], p[4], widest)
        begins[m], swing[m] = int(math.ceil(a / step - 0.5)), int(math.floor(b / step - 0.5)) - int(math.ceil(a / step - 0.5))
    under = int(reach[:, 0].min()) if len(segments) else slabs
    if under >= slabs:
        return
    for ray in range(from_ray, to_ray):
        c, s = math.cos((ray + 0.5) * step), math.sin((ray + 0.5) * step)
        _gathered(lo, hi, count, ray, alike, under)
        for m in range(len(segments)):
            if reach[m, 0] >= reach[m, 1] or (ray - begins[m]) % turns > swing[m]:
                continue
            p = segments[m]
            near, far = within(p[0], p[1], p[3], p[4], widest, c, s)
            if far <= max(near, 0.0):
                continue
            straight = abs(p[5] - p[2]) < 1e-9 or math.hypot(p[3] - p[0], p[4] - p[1]) < 1e-9
            k = under
            while k < reach[m, 1]:
                last = k + alike[k]
                if last > reach[m, 0] and count[ray, k] > 0:
                    deep = meets(lo, hi, count, ray, k, near, far)
                    if deep > out[m] and straight:
                        out[m] = deep
                    elif deep > out[m]:  # on a slope it is at a height only while its begin is under it, and its end over it
                        for j in range(max(k, reach[m, 0]), min(last, reach[m, 1])):
                            t0, t1 = (middles[j] - begin - p[2]) / (p[5] - p[2]), (middles[j] - end - p[2]) / (p[5] - p[2])
                            t0, t1 = max(min(t0, t1), 0.0), min(max(t0, t1), 1.0)
                            if t1 > t0:
                                dx, dy = p[3] - p[0], p[4] - p[1]
                                ax, ay, bx, by = p[0] + dx * t0, p[1] + dy * t0, p[0] + dx * t1, p[1] + dy * t1
                                low, high = within(ax, ay, bx, by, widest, c, s)
                                out[m] = max(out[m], meets(lo, hi, count, ray, k, low, high))
                k = last


@kernel()
def radial(
    lo: Any, hi: Any, count: Any, edges: Any, segments: Any, angles: Any, rapid: Any, shape: Any, long: float, slim: float,
    from_slab: int, to_slab: int, out: Any,
) -> None:  # fmt: skip
    """Tools across the axis in slabs `from_slab` to before `to_slab`, each segment (m, 6) with C at one angle: `out` (m, 3) as of
    `VOLUME`, `DEEP` and `RAPID_IN`, the last felt with a tool that is slimmer by `slim`."""
    slabs = (from_slab, to_slab)
    for m in range(len(segments)):
        if rapid[m]:
            _radial(lo, hi, count, edges, segments[m], angles[m], shape, 0.0, long, slim, False, slabs, out[m])
        _radial(lo, hi, count, edges, segments[m], angles[m], shape, 0.0, long, 0.0, True, slabs, out[m])


@kernel()
def radial_body(
    lo: Any, hi: Any, count: Any, edges: Any, segments: Any, angles: Any, radius: float, begin: float, end: float, slim: float,
    outer: float, from_slab: int, to_slab: int, out: Any,
) -> None:  # fmt: skip
    """How deep a shank or holder across the axis comes into the material, (m,)."""
    shape, told = np.array([radius, 0.0, 0.0, radius, outer]), np.zeros(3)
    for m in range(len(segments)):
        told[:] = 0.0
        _radial(lo, hi, count, edges, segments[m], angles[m], shape, begin, end, slim, False, (from_slab, to_slab), told)
        out[m] = told[RAPID_IN]


@kernel()
def _radial(
    lo: Any, hi: Any, count: Any, edges: Any, p: Any, angle: float, shape: Any, begin: float, end: float, slim: float, cuts: bool,
    slabs: tuple[int, int], told: Any,
) -> None:  # fmt: skip
    """One segment in the plane across the tool's axis: from (y, z) to (y, z), its tip `x` from the work's axis. One that goes
    deeper on its way in pieces."""
    c, s = math.cos(angle), math.sin(angle)
    ax, ay, bx, by = p[0] * c + p[1] * s, p[1] * c - p[0] * s, p[3] * c + p[4] * s, p[4] * c - p[3] * s
    level, stands = abs(bx - ax) < 1e-9, math.hypot(by - ay, p[5] - p[2]) < 1e-9
    pieces = 1 if level or stands else int(math.ceil(abs(bx - ax) / ((edges[-1] - edges[0]) / (len(edges) - 1)) * 2))
    for j in range(pieces):
        a, b = j / pieces, (j + 1) / pieces
        x = min(ax, bx) if stands else ax + (bx - ax) * (a + b) / 2
        most = max(ax, bx) if stands else x
        y0, y1 = ay + (by - ay) * a, ay + (by - ay) * b
        z0, z1 = p[2] + (p[5] - p[2]) * a, p[2] + (p[5] - p[2]) * b
        _radial_piece(lo, hi, count, edges, angle, x, most, y0, z0, y1, z1, shape, begin, end, slim, cuts, slabs, told)


@kernel()
def _radial_piece(
    lo: Any, hi: Any, count: Any, edges: Any, angle: float, x: float, most: float, y0: float, z0: float, y1: float, z1: float,
    shape: Any, begin: float, end: float, slim: float, cuts: bool, slabs: tuple[int, int], told: Any,
) -> None:  # fmt: skip
    flat, corner, slope, radius = shape[0], shape[1], shape[2], shape[3]
    tall = max(corner, (radius - flat) * slope) if begin == 0.0 else 0.0
    layers = LAYERS if tall > 1e-9 else 0
    turns = lo.shape[0]
    step = 2 * math.pi / turns
    widest = max(radius - slim, 0.0)
    first = max(int(np.searchsorted(edges, min(z0, z1) - widest, "right")) - 1, slabs[0])
    last = min(int(np.searchsorted(edges, max(z0, z1) + widest, "left")), slabs[1])
    side = max(abs(y0), abs(y1)) + widest
    near_axis = x + begin + slim
    if near_axis >= shape[4] or last <= first:
        return
    half = math.pi if near_axis <= 0.0 else min(math.atan2(side, near_axis), math.pi / 2)
    i0, i1 = int(math.ceil((angle - half) / step - 0.5)), int(math.floor((angle + half) / step - 0.5))
    i1 = min(i1, i0 + turns - 1)
    heights, wides = np.empty((layers + 1, 2)), np.empty(layers + 1)
    for layer in range(layers):
        heights[layer, 0], heights[layer, 1] = tall * layer / layers + slim, tall * (layer + 1) / layers + slim
        wides[layer] = _width(flat, corner, slope, radius, tall * (layer + 0.5) / layers) - slim
    heights[layers, 0], heights[layers, 1], wides[layers] = begin + tall + slim, end + (most - x), widest
    spans = np.empty((last - first, layers + 1, 2))
    for k in range(first, last):
        z = (edges[k] + edges[k + 1]) / 2
        for layer in range(layers + 1):
            span = spans[k - first, layer]
            span[0], span[1] = NOTHING, -NOTHING
            if wides[layer] > 0.0:
                span[0], span[1] = within(y0, z0 - z, y1, z1 - z, wides[layer], 1.0, 0.0)
    lowest = x + heights[0, 0]
    for i in range(i0, i1 + 1):
        ray = i % turns
        off = (i + 0.5) * step - angle
        c, s = math.cos(off), math.sin(off)
        for k in range(first, last):
            n = count[ray, k]
            # over the tip nothing stands on most rays that a tool goes over again
            if n == 0 or (c > 0.0 and hi[ray, k, n - 1] * c <= lowest):
                continue
            span = spans[k - first]
            if span[layers, 1] <= span[layers, 0]:
                continue
            if layers == 0 and c > 1e-12:  # a plain cylinder, as most are
                near, far = (x + heights[0, 0]) / c, (x + heights[0, 1]) / c
                if abs(s) > 1e-12:
                    near, far = max(near, min(span[0, 0] / s, span[0, 1] / s)), min(far, max(span[0, 0] / s, span[0, 1] / s))
                elif not span[0, 0] <= 0.0 <= span[0, 1]:
                    continue
                near = max(near, 0.0)
            else:
                near, far = _across(c, s, x, heights, span)
            if far <= near:
                continue
            if not cuts:
                told[RAPID_IN] = max(told[RAPID_IN], meets(lo, hi, count, ray, k, near, far))
                continue
            deep = meets(lo, hi, count, ray, k, near, far)
            if deep > 0.0:
                told[DEEP] = max(told[DEEP], deep)
                told[VOLUME] += take(lo, hi, count, ray, k, near, far) * step * (edges[k + 1] - edges[k])


@kernel()
def _across(c: float, s: float, x: float, heights: Any, spans: Any) -> tuple[float, float]:
    """From where to where a ray goes through a tool across the axis: its layers together are convex, so it is one stretch."""
    near, far = NOTHING, -NOTHING
    for layer in range(len(spans)):
        left, right = spans[layer]
        if right <= left:
            continue
        a, b = 0.0, NOTHING
        if abs(s) < 1e-12:
            if not left <= 0.0 <= right:
                continue
        else:
            u, v = left / s, right / s
            a, b = max(a, min(u, v)), min(b, max(u, v))
        if abs(c) < 1e-12:
            if x + heights[layer, 0] > 0.0:
                continue
        else:
            u, v = (x + heights[layer, 0]) / c, (x + heights[layer, 1]) / c
            a, b = max(a, min(u, v)), min(b, max(u, v))
        if b > a:
            near, far = min(near, a), max(far, b)
    return near, far


@kernel()
def ring(lo: Any, hi: Any, count: Any, edges: Any, lines: Any) -> float:
    """Takes what a region of the half section, its boundary as lines (m, 4) from (z, r) to (z, r), makes turning about the axis;
    gives its volume."""
    ends, many = _by_slab(edges, lines)
    volume, step = 0.0, 2 * math.pi / lo.shape[0]
    for i in range(lo.shape[0]):
        for k in range(len(edges) - 1):
            for j in range(0, many[k] - 1, 2):
                volume += take(lo, hi, count, i, k, ends[k, j], ends[k, j + 1]) * step * (edges[k + 1] - edges[k])
    return volume


@kernel()
def _by_slab(edges: Any, lines: Any) -> tuple[Any, Any]:
    """The radii at which a region's boundary crosses the middle of every slab, and how many there are of each."""
    ends, many = np.zeros((len(edges) - 1, CROSSINGS)), np.zeros(len(edges) - 1, np.int64)
    for k in range(len(edges) - 1):
        many[k] = crossings(lines, (edges[k] + edges[k + 1]) / 2, ends[k])
    return ends, many


@kernel()
def crossings(lines: Any, z: float, found: Any) -> int:
    """The radii at which a region's boundary crosses a length, rising; gives how many."""
    n = 0
    for m in range(len(lines)):
        z0, r0, z1, r1 = lines[m]
        if (z0 <= z) != (z1 <= z) and n < len(found):
            put_in(found, n, r0 + (r1 - r0) * (z - z0) / (z1 - z0))
            n += 1
    return n


@kernel()
def put_in(found: Any, n: int, r: float) -> None:
    """One more number among the first `n`, which rise."""
    j = n
    while j > 0 and found[j - 1] > r:
        found[j] = found[j - 1]
        j -= 1
    found[j] = r


@kernel()
def filled(lo: Any, hi: Any, count: Any, edges: Any, lines: Any) -> None:
    """The material of a half section, on every ray."""
    ends, many = _by_slab(edges, lines)
    for i in range(lo.shape[0]):
        for k in range(len(edges) - 1):
            n = min(many[k] // 2, MOST)
            count[i, k] = n
            for j in range(n):
                lo[i, k, j], hi[i, k, j] = max(ends[k, 2 * j], 0.0), ends[k, 2 * j + 1]


@kernel()
def volume_of(lo: Any, hi: Any, count: Any, edges: Any) -> float:
    """The volume of all material."""
    total = 0.0
    step = 2 * math.pi / lo.shape[0]
    for i in range(lo.shape[0]):
        for k in range(len(edges) - 1):
            for j in range(count[i, k]):
                total += 0.5 * (hi[i, k, j] ** 2 - lo[i, k, j] ** 2) * step * (edges[k + 1] - edges[k])
    return total


@kernel()
def missing(
    lo: Any, hi: Any, count: Any, lo2: Any, hi2: Any, count2: Any, edges: Any, least: float
) -> tuple[float, float, int, int, float]:
    """What the second of two materials on the same rays has not of the first: its volume, the longest stretch along a ray, and
    that ray, its slab, and the radius of its middle. Stretches shorter than `least` do not count."""
    volume, most, ray, slab, radius = 0.0, 0.0, 0, 0, 0.0
    step = 2 * math.pi / lo.shape[0]
    for i in range(lo.shape[0]):
        for k in range(len(edges) - 1):
            for j in range(count[i, k]):
                at, end = float(lo[i, k, j]), float(hi[i, k, j])
                for m in range(count2[i, k] + 1):
                    begin = float(lo2[i, k, m]) if m < count2[i, k] else end
                    gap = min(begin, end) - at
                    if gap > least:
                        volume += 0.5 * (min(begin, end) ** 2 - at * at) * step * (edges[k + 1] - edges[k])
                        if gap > most:
                            most, ray, slab, radius = gap, i, k, at + gap / 2
                    if m < count2[i, k]:
                        at = max(at, float(hi2[i, k, m]))
                    if at >= end:
                        break
    return volume, most, ray, slab, radius


@kernel()
def prism(lo: Any, hi: Any, count: Any, edges: Any, lines: Any, floor: float) -> None:
    """Takes all over `floor` within a region across the axis, its boundary as lines (m, 4) from (x, y) to (x, y)."""
    found = np.zeros(MANY * CROSSINGS)
    for i in range(lo.shape[0]):
        angle = (i + 0.5) * 2 * math.pi / lo.shape[0]
        n = _outward(lines, math.cos(angle), math.sin(angle), found)
        if n == len(found):  # nothing is taken of a ray that nobody knows all of: what is missing there is told
            continue
        # from outside inward every second stretch is within; what is left over begins at the axis
        for j in range(n - 1, -1, -2):
            begin = found[j - 1] if j > 0 else 0.0
            for k in range(len(edges) - 1):
                if (edges[k] + edges[k + 1]) / 2 > floor:
                    take(lo, hi, count, i, k, begin, found[j])


@kernel()
def _outward(lines: Any, c: float, s: float, found: Any) -> int:
    """The radii at which a ray from the axis along (c, s) crosses a boundary, rising; gives how many."""
    n = 0
    for m in range(len(lines)):
        ax, ay, bx, by = lines[m]
        off0, off1 = ay * c - ax * s, by * c - bx * s
        if (off0 <= 0.0) != (off1 <= 0.0) and n < len(found):
            t = off0 / (off0 - off1)
            r = (ax + (bx - ax) * t) * c + (ay + (by - ay) * t) * s
            if r > 0.0:
                put_in(found, n, r)
                n += 1
    return n


@kernel()
def side_prism(lo: Any, hi: Any, count: Any, edges: Any, lines: Any, floor: float, angle: float) -> None:
    """Takes all over `floor` within a region of the side at an angle, its boundary as lines (m, 4) from (u, v) to (u, v), u along
    the axis."""
    found = np.zeros(MANY * CROSSINGS)
    step = 2 * math.pi / lo.shape[0]
    for k in range(len(edges) - 1):
        n = crossings(lines, (edges[k] + edges[k + 1]) / 2, found)
        if n == len(found):  # as in `prism`
            continue
        for j in range(0, n - 1, 2):
            for i in range(lo.shape[0]):
                off = angle - (i + 0.5) * step
                c, s = math.cos(off), math.sin(off)
                a, b = 0.0, NOTHING
                if abs(s) > 1e-12:
                    p, q = found[j] / s, found[j + 1] / s
                    a, b = max(a, min(p, q)), max(p, q)
                elif not found[j] <= 0.0 <= found[j + 1]:
                    continue
                if c > 1e-12:
                    a = max(a, floor / c)
                elif c < -1e-12:
                    b = min(b, floor / c)
                elif floor > 0.0:
                    continue
                take(lo, hi, count, i, k, a, b)


@kernel()
def _beyond(theta: float, a: float, b: float) -> float:
    """By which angle a ray lies beside those from `a` to `b`, a turn or more apart as well; 0 within."""
    turn = 2 * math.pi
    ahead = (theta - a) % turn
    if b - a >= turn or ahead <= b - a:
        return 0.0
    return min(ahead - (b - a), turn - ahead)


@kernel()
def round_prism(
    lo: Any, hi: Any, count: Any, edges: Any, lines: Any, floor: float, around: float, begin: float, wide: float
) -> None:
    """Takes all over `floor` within a region of the round, unrolled at a radius, its boundary as lines (m, 4) from (z, y) to
    (z, y), y from an angle on; beside it what a tool of a radius `wide` takes whose walls are parallel."""
    found, step = np.zeros(MANY * CROSSINGS), 2 * math.pi / lo.shape[0]
    for k in range(len(edges) - 1):
        n = crossings(lines, (edges[k] + edges[k + 1]) / 2, found)
        if n == len(found):  # as in `prism`
            continue
        for j in range(0, n - 1, 2):
            a, b = begin - found[j + 1] / around, begin - found[j] / around
            for i in range(lo.shape[0]):
                off = _beyond((i + 0.5) * step, a, b)
                if off == 0.0:
                    take(lo, hi, count, i, k, floor, NOTHING)
                elif off + wide / around < math.pi / 2:
                    take(lo, hi, count, i, k, floor, wide / math.sin(off + wide / around))


@kernel()
def standing(
    lo: Any, hi: Any, count: Any, edges: Any, lines: Any, floor: float, around: float, begin: float, least: float
) -> tuple[float, float, int, int, float]:
    """What stands over `floor` within such a region: its volume, the longest stretch along a ray, and that ray, its slab, and the
    radius of its middle. Stretches shorter than `least` do not count."""
    volume, most, ray, slab, radius = 0.0, 0.0, 0, 0, 0.0
    found, step = np.zeros(MANY * CROSSINGS), 2 * math.pi / lo.shape[0]
    for k in range(len(edges) - 1):
        n = crossings(lines, (edges[k] + edges[k + 1]) / 2, found)
        for j in range(0, n - 1, 2):
            a, b = begin - found[j + 1] / around, begin - found[j] / around
            for i in range(lo.shape[0]):
                if _beyond((i + 0.5) * step, a, b) > 0.0:
                    continue
                for m in range(count[i, k]):
                    low, high = max(float(lo[i, k, m]), floor), float(hi[i, k, m])
                    if high - low > least:
                        volume += 0.5 * (high * high - low * low) * step * (edges[k + 1] - edges[k])
                        if high - low > most:
                            most, ray, slab, radius = high - low, i, k, (low + high) / 2
    return volume, most, ray, slab, radius
