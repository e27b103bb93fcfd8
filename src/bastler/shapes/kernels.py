"""Compiled kernels over many lines and arcs at once.

A *primitive* is a row: 0 for a line or 1 for an arc, start u v, end u v, centre u v, radius, turn (1 counter-clockwise, -1
clockwise), and for arcs the start angle and the sweep (radians, positive).
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from bastler.shapes.compiling import kernel

KIND, SU, SV, EU, EV, CU, CV, R, TURN, A0, SWEEP = range(11)
WIDTH = 11


@kernel()
def _boxes(prims: Any, slack: float) -> Any:
    """Bounds of every primitive, grown a little."""
    boxes = np.empty((len(prims), 4))
    for k in range(len(prims)):
        p = prims[k]
        lo_u, hi_u = min(p[1], p[3]), max(p[1], p[3])
        lo_v, hi_v = min(p[2], p[4]), max(p[2], p[4])
        if p[0] == 1:
            for q in range(4):
                angle = q * math.pi / 2
                turn = (angle - p[9]) * p[8] % (2 * math.pi)
                if turn <= p[10]:
                    u, v = p[5] + p[7] * math.cos(angle), p[6] + p[7] * math.sin(angle)
                    lo_u, hi_u, lo_v, hi_v = min(lo_u, u), max(hi_u, u), min(lo_v, v), max(hi_v, v)
        boxes[k, 0], boxes[k, 1], boxes[k, 2], boxes[k, 3] = lo_u - slack, lo_v - slack, hi_u + slack, hi_v + slack
    return boxes


@kernel()
def _share(p: Any, u: float, v: float) -> float:
    """Where on a primitive's line or circle a point lies: 0 at its start, 1 at its end."""
    if p[0] == 0:
        du, dv = p[3] - p[1], p[4] - p[2]
        return float(((u - p[1]) * du + (v - p[2]) * dv) / max(du * du + dv * dv, 1e-300))
    turn = (math.atan2(v - p[6], u - p[5]) - p[9]) * p[8] % (2 * math.pi)
    if turn > p[10] + (2 * math.pi - p[10]) / 2:
        turn -= 2 * math.pi
    return float(turn / p[10])


@kernel()
def _meet(a: Any, b: Any, out: Any) -> int:
    """Points common to the lines or circles of two primitives; how many."""
    if a[0] == 0 and b[0] == 0:
        au, av, bu, bv = a[3] - a[1], a[4] - a[2], b[3] - b[1], b[4] - b[2]
        det = au * bv - av * bu
        if abs(det) < 1e-12 * math.sqrt((au * au + av * av) * (bu * bu + bv * bv)):
            return 0
        t = ((b[1] - a[1]) * bv - (b[2] - a[2]) * bu) / det
        out[0, 0], out[0, 1] = a[1] + t * au, a[2] + t * av
        return 1
    if a[0] == 1 and b[0] == 1:
        du, dv = b[5] - a[5], b[6] - a[6]
        d = math.sqrt(du * du + dv * dv)
        slack = 1e-9 * (a[7] + b[7])
        if d < 1e-12 * (a[7] + b[7]) or d > a[7] + b[7] + slack or d < abs(a[7] - b[7]) - slack:
            return 0
        x = (d * d + a[7] * a[7] - b[7] * b[7]) / (2 * d)
        h = math.sqrt(max(a[7] * a[7] - x * x, 0.0))
        u, v = a[5] + du / d * x, a[6] + dv / d * x
        out[0, 0], out[0, 1] = u - dv / d * h, v + du / d * h
        out[1, 0], out[1, 1] = u + dv / d * h, v - du / d * h
        return 2
    line, arc = (a, b) if a[0] == 0 else (b, a)
    du, dv = line[3] - line[1], line[4] - line[2]
    long = math.sqrt(du * du + dv * dv)
    if long < 1e-300:
        return 0
    du, dv = du / long, dv / long
    along = (arc[5] - line[1]) * du + (arc[6] - line[2]) * dv
    off = (arc[5] - line[1]) * dv - (arc[6] - line[2]) * du
    under = arc[7] * arc[7] - off * off
    if under < -2e-9 * arc[7] * arc[7]:
        return 0
    half = math.sqrt(max(under, 0.0))
    out[0, 0], out[0, 1] = line[1] + (along - half) * du, line[2] + (along - half) * dv
    out[1, 0], out[1, 1] = line[1] + (along + half) * du, line[2] + (along + half) * dv
    return 2


@kernel()
def crossings_of(prims: Any, near: float) -> Any:
    """Where primitives cross or touch: rows of (number, share along it, u, v), two rows for each meeting. Meetings nearer than
    `near` to an end of the primitive are left out for that one."""
    boxes = _boxes(prims, near)
    n = len(prims)
    room = 64 + 8 * n
    rows = np.empty((room, 4))
    count = 0
    out = np.empty((2, 2))
    order = np.argsort(boxes[:, 0])
    for place in range(n):
        i = order[place]
        for other in range(place + 1, n):
            j = order[other]
            if boxes[j, 0] > boxes[i, 2]:
                break
            if boxes[i, 1] > boxes[j, 3] or boxes[j, 1] > boxes[i, 3]:
                continue
            found = _meet(prims[i], prims[j], out)
            for m in range(found):
                ti, tj = _share(prims[i], out[m, 0], out[m, 1]), _share(prims[j], out[m, 0], out[m, 1])
                li, lj = _length(prims[i]), _length(prims[j])
                if ti * li < -near or (ti - 1) * li > near or tj * lj < -near or (tj - 1) * lj > near:
                    continue
                if count + 2 > room:
                    room *= 2
                    more = np.empty((room, 4))
                    more[:count] = rows[:count]
                    rows = more
                if near < ti * li < li - near:
                    rows[count, 0], rows[count, 1], rows[count, 2], rows[count, 3] = i, ti, out[m, 0], out[m, 1]
                    count += 1
                if near < tj * lj < lj - near:
                    rows[count, 0], rows[count, 1], rows[count, 2], rows[count, 3] = j, tj, out[m, 0], out[m, 1]
                    count += 1
    return rows[:count]


@kernel()
def _length(p: Any) -> float:
    if p[0] == 1:
        return float(p[7] * p[10])
    return float(math.sqrt((p[3] - p[1]) ** 2 + (p[4] - p[2]) ** 2))


@kernel()
def _distance(p: Any, u: float, v: float) -> float:
    """From a point to a primitive."""
    if p[0] == 0:
        du, dv = p[3] - p[1], p[4] - p[2]
        t = ((u - p[1]) * du + (v - p[2]) * dv) / max(du * du + dv * dv, 1e-300)
        t = min(max(t, 0.0), 1.0)
        return float(math.sqrt((u - p[1] - t * du) ** 2 + (v - p[2] - t * dv) ** 2))
    far = math.sqrt((u - p[5]) ** 2 + (v - p[6]) ** 2)
    turn = (math.atan2(v - p[6], u - p[5]) - p[9]) * p[8] % (2 * math.pi)
    if turn <= p[10]:
        return float(abs(far - p[7]))
    a = math.sqrt((u - p[1]) ** 2 + (v - p[2]) ** 2)
    b = math.sqrt((u - p[3]) ** 2 + (v - p[4]) ** 2)
    return float(min(a, b))


@kernel()
def clear_of(points: Any, prims: Any, least: float) -> Any:
    """Which points are at least that far from all primitives."""
    good = np.ones(len(points), dtype=np.bool_)
    last = 0  # what was in the way of one point is likely to be in the way of the next
    for k in range(len(points)):
        for step in range(len(prims)):
            j = last + step
            if j >= len(prims):
                j -= len(prims)
            if _closer(prims[j], points[k, 0], points[k, 1], least):
                good[k] = False
                last = j
                break
    return good


@kernel()
def _closer(p: Any, u: float, v: float, least: float) -> bool:
    """Is a point nearer to a primitive than `least`?"""
    if p[0] == 0:
        du, dv, wu, wv = p[3] - p[1], p[4] - p[2], u - p[1], v - p[2]
        long = max(du * du + dv * dv, 1e-300)
        cross = du * wv - dv * wu
        if cross * cross >= least * least * long:
            return False
        t = min(max((wu * du + wv * dv) / long, 0.0), 1.0)
        wu, wv = wu - t * du, wv - t * dv
        return bool(wu * wu + wv * wv < least * least)
    du, dv = u - p[5], v - p[6]
    if abs(math.sqrt(du * du + dv * dv) - p[7]) >= least:
        return False
    return bool(_distance(p, u, v) < least)


@kernel()
def distances(points: Any, prims: Any) -> Any:
    """From each point to the nearest primitive."""
    far = np.empty(len(points))
    for k in range(len(points)):
        best = math.inf
        for j in range(len(prims)):
            best = min(best, _distance(prims[j], points[k, 0], points[k, 1]))
        far[k] = best
    return far


@kernel()
def nearest(prims: Any, u: float, v: float) -> tuple[int, float, float, float]:
    """The primitive that comes nearest to a point, where it does, and how far that is."""
    best, found, fu, fv = math.inf, 0, prims[0, 1], prims[0, 2]
    for k in range(len(prims)):
        p = prims[k]
        if p[0] == 0:
            du, dv = p[3] - p[1], p[4] - p[2]
            t = ((u - p[1]) * du + (v - p[2]) * dv) / max(du * du + dv * dv, 1e-300)
            t = min(max(t, 0.0), 1.0)
            qu, qv = p[1] + t * du, p[2] + t * dv
        else:
            far = math.sqrt((u - p[5]) ** 2 + (v - p[6]) ** 2)
            turn = (math.atan2(v - p[6], u - p[5]) - p[9]) * p[8] % (2 * math.pi)
            if far > 1e-12 and turn <= p[10]:
                qu, qv = p[5] + (u - p[5]) * p[7] / far, p[6] + (v - p[6]) * p[7] / far
            elif (u - p[1]) ** 2 + (v - p[2]) ** 2 <= (u - p[3]) ** 2 + (v - p[4]) ** 2:
                qu, qv = p[1], p[2]
            else:
                qu, qv = p[3], p[4]
        far = math.sqrt((u - qu) ** 2 + (v - qv) ** 2)
        if far < best - 1e-12:
            best, found, fu, fv = far, k, qu, qv
    return found, fu, fv, best


@kernel()
def winding(points: Any, prims: Any) -> Any:
    """How often closed chains go round each point, counter-clockwise positive. Arcs are taken apart at their highest and lowest
    point, so that a level meets each part once."""
    count = np.zeros(len(points), dtype=np.int64)
    for j in range(len(prims)):
        p = prims[j]
        if p[0] == 0:
            for k in range(len(points)):
                u, v = points[k, 0], points[k, 1]
                if (p[2] <= v) != (p[4] <= v):
                    if p[1] + (v - p[2]) * (p[3] - p[1]) / (p[4] - p[2]) > u:
                        count[k] += 1 if p[4] > p[2] else -1
            continue
        first, sweep, turn = p[9], p[10], p[8]
        at, v0 = 0.0, p[2]
        while at < sweep:
            angle = first + turn * at
            ahead = (math.pi / 2 - angle * turn) % math.pi
            if ahead < 1e-12:
                ahead = math.pi
            nxt = min(at + ahead, sweep)
            if nxt >= sweep:
                v1 = p[4]
            else:
                v1 = p[6] + p[7] * math.sin(first + turn * nxt)
            right = math.cos(first + turn * (at + nxt) / 2) > 0
            for k in range(len(points)):
                u, v = points[k, 0], points[k, 1]
                if (v0 <= v) != (v1 <= v):
                    half = math.sqrt(max(p[7] * p[7] - (v - p[6]) ** 2, 0.0))
                    if (p[5] + half if right else p[5] - half) > u:
                        count[k] += 1 if v1 > v0 else -1
            at, v0 = nxt, v1
    return count
