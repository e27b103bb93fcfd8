"""Newton's method from many starts at once for blocks that have no closed form.

SciPy's root finders take half a millisecond a start; a block may need a hundred starts to find every shape, and a key press has
20 ms. The equations are therefore plain codes that one compiled kernel can read.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from bastler.shapes.compiling import kernel
from bastler.shapes.kinds import Floats
from bastler.shapes.solver.effort import STEP, spend
from bastler.shapes.solver.equations import Equation, System, Values, constants

MOST_STEPS = 60
TRIES = 8
STARTS, STARTS_EACH, MOST_STARTS = 24, 12, 96
DONE = 1e-13
SAME = 1e-6
FLAT, NUDGE = 1e-9, 0.01
PINS = 3
"""Values that an unknown is held at to see whether the others follow."""


def numeric(
    s: System, block: Sequence[Equation], unknown: Sequence[int], x: Values, turns: Sequence[int]
) -> list[tuple[float, ...]]:
    """Every solution that Newton's method finds, in the order of `unknown`."""
    codes, places, fixed, start, index, angle, radius = _as_arrays(s, block, unknown, x, turns)
    starts = _starts(len(unknown), angle, radius)
    spend(len(starts) * len(unknown) ** 2 // 8)
    found, good = _solve_all(codes, places, fixed, start, index, starts)
    return _distinct(found[good], angle, radius)


def _as_arrays(s: System, block: Sequence[Equation], unknown: Sequence[int], x: Values, turns: Sequence[int]) -> tuple[Any, ...]:
    """A block as the kernels read it: codes, places of the variables, constants, all values, the unknowns, and which of them
    are angles and radii."""
    codes = np.array([e.code for e in block])
    places = np.zeros((len(block), 7), dtype=np.int64)
    fixed = np.zeros((len(block), 3))
    for k, e in enumerate(block):
        places[k, : len(e.v)] = e.v
        c = constants(e, turns)
        fixed[k, : len(c)] = c
    start = np.array([0.0 if n is None else n for n in x])
    index = np.array(unknown)
    angle = np.array([s.is_angle(v) for v in unknown])
    radius = np.array([(v - 2 * (s.count + 1)) % 3 == 2 and v >= 2 * (s.count + 1) for v in unknown])
    return codes, places, fixed, start, index, angle, radius


def dependent(s: System, block: Sequence[Equation], unknown: Sequence[int], x: Values, turns: Sequence[int]) -> int | None:
    """The number of an equation of a block that follows from its others, where Newton's method finds nothing for that reason:
    the shape may still slide, though there are as many equations as unknowns. None when they do contradict each other.

    Gauss-Newton with the shortest step needs no full rank. Where the shape slides, a step along what is free goes on to another
    solution; what is missing of the rank then tells the equation.
    """
    arrays = _as_arrays(s, block, unknown, x, turns)
    angle, radius = arrays[-2:]
    given_ones = [bool(e.givens) for e in block]
    given_ones = given_ones if any(given_ones) else [True] * len(block)  # both ends of an arc as far from a centre between them
    starts = _starts(len(unknown), angle, radius)[:TRIES]
    for _, jac in _nudged(arrays, starts) or _pinned(arrays, starts):
        left, _, _ = np.linalg.svd(jac)
        weights = np.abs(left[:, -1]) * given_ones
        if weights.max() > SAME:
            return int(np.argmax(weights))
    return None


Slide = list[tuple[Any, Any]]
"""A solution that others lie beside, and the derivatives there; empty where there is none."""


def _nudged(arrays: tuple[Any, ...], starts: Floats) -> Slide:
    """A solution that a step aside leads away from, on to another."""
    free = np.ones(len(arrays[4]), bool)
    for begin in starts:
        found = _shortest_steps(arrays, begin, free)
        if found is None:
            continue
        _, _, right = np.linalg.svd(found[1])
        aside = _shortest_steps(arrays, found[0] + NUDGE * right[-1], free)
        if aside is not None and np.abs(aside[0] - found[0]).max() > NUDGE / 10:
            return [found]
    return []


def _pinned(arrays: tuple[Any, ...], starts: Floats) -> Slide:
    """The same where from everywhere the steps lead to a shape that has shrunk to nothing: one unknown is held, a radius first,
    and there is a solution whatever it is held at."""
    radius = arrays[-1]
    for pin in sorted(range(len(radius)), key=lambda k: not radius[k]):
        free = np.arange(len(radius)) != pin
        some = [f for begin in starts[:PINS] if (f := _shortest_steps(arrays, begin, free)) is not None]
        if len(some) == PINS and np.ptp([at[pin] for at, _ in some]) > NUDGE:
            return some[:1]
    return []


def _shortest_steps(arrays: tuple[Any, ...], begin: Any, free: Any) -> tuple[Any, Any] | None:
    """Gauss-Newton in the unknowns that are free: where it ends and the derivatives by all there, if that is a solution."""
    codes, places, fixed, start, index, _, radius = arrays
    at = start.copy()
    at[index] = begin
    for _ in range(MOST_STEPS):
        spend(STEP)
        f, jac = _system(codes, places, fixed, at, index)
        step = np.linalg.lstsq(jac[:, free], f, rcond=FLAT)[0]
        at[index[free]] -= step
        if np.abs(step).max() < SAME / 100:
            break
    f, jac = _system(codes, places, fixed, at, index)
    return (at[index], jac) if np.abs(f).max() < DONE * 100 and (at[index][radius] > SAME).all() else None


@kernel()
def _system(codes: Any, places: Any, fixed: Any, x: Any, index: Any) -> tuple[Any, Any]:
    """Values of all equations, and their derivatives by the unknowns."""
    f, jac, grad = np.empty(len(codes)), np.zeros((len(codes), len(index))), np.empty(7)
    slots = -np.ones(len(x), dtype=np.int64)
    for slot in range(len(index)):
        slots[index[slot]] = slot
    for k in range(len(codes)):
        f[k] = _row(codes[k], places[k], fixed[k], x, grad)
        for j in range(7):
            if grad[j] != 0.0 and slots[places[k, j]] >= 0:
                jac[k, slots[places[k, j]]] += grad[j]
    return f, jac


@functools.cache
def halton(n: int, count: int) -> Floats:
    """The first points of Halton's sequence in n dimensions, (count, n), without its zero: the digits of 1, 2, 3 … in the first
    primes as bases, mirrored at the point. (SciPy has it too, behind an import that takes as long as half the start.)"""
    points = np.zeros((count, n))
    for axis, base in enumerate(_primes(n)):
        left, share = np.arange(1, count + 1), 1.0 / base
        while left.any():
            left, digit = np.divmod(left, base)
            points[:, axis] += digit * share
            share /= base
    return points


def _primes(n: int) -> list[int]:
    found: list[int] = []
    number = 2
    while len(found) < n:
        if all(number % prime for prime in found):
            found.append(number)
        number += 1
    return found


def _starts(n: int, angle: Any, radius: Any) -> Floats:
    """Evenly spread starts, the same each time."""
    count = min(STARTS + STARTS_EACH * n, MOST_STARTS)
    spread = halton(n, count)
    return np.where(angle, spread * 2 * math.pi, np.where(radius, 0.02 + spread**2, 1.6 * spread - 0.8))


def _distinct(found: Any, angle: Any, radius: Any) -> list[tuple[float, ...]]:
    kept: list[Any] = []
    for row in found:
        if (row[radius] <= 1e-9).any() or np.abs(row[~angle]).max(initial=0.0) > 1e3:
            continue
        here = np.where(angle, np.mod(row, 2 * math.pi), row)
        off = [np.abs(here - other) for other in kept]
        if not any((np.where(angle, np.minimum(o, 2 * math.pi - o), o) < SAME).all() for o in off):
            kept.append(here)
    return [tuple(float(v) for v in row) for row in kept]


@kernel()
def _solve_all(codes: Any, places: Any, fixed: Any, x0: Any, index: Any, starts: Any) -> Any:
    count, n = starts.shape
    found = np.empty((count, n))
    good = np.zeros(count, dtype=np.bool_)
    slots = -np.ones(len(x0), dtype=np.int64)
    for j in range(n):
        slots[index[j]] = j
    x = x0.copy()
    jac = np.empty((n, n))
    f = np.empty(n)
    grad = np.empty(7)
    for trial in range(count):
        for j in range(n):
            x[index[j]] = starts[trial, j]
        nearly = False
        for _ in range(MOST_STEPS):
            jac[:] = 0.0
            worst = 0.0
            for k in range(n):
                f[k] = _row(codes[k], places[k], fixed[k], x, grad)
                worst = max(worst, abs(f[k]))
                for j in range(7):
                    slot = slots[places[k, j]]
                    if slot >= 0 and grad[j] != 0.0:
                        jac[k, slot] += grad[j]
            if not _eliminate(jac, f):
                nearly = False
                break
            step = 0.0
            for j in range(n):
                step = max(step, abs(f[j]))
            if not step < 1e6:
                break
            share = min(1.0, 0.7 / step) if step > 0 else 1.0
            for j in range(n):
                x[index[j]] -= share * f[j]
            if worst < DONE * 10 and step < DONE * 100:
                good[trial] = True
                break
            nearly = worst < DONE * 10 and step < SAME
        # at a double root the steps only halve, and end in the noise
        good[trial] |= nearly
        for j in range(n):
            found[trial, j] = x[index[j]]
    return found, good


@kernel()
def _eliminate(a: Any, b: Any) -> bool:
    """Gauss with row exchange; the solution is left in `b`. False when the matrix is singular."""
    n = len(b)
    for k in range(n):
        best = k
        for i in range(k + 1, n):
            if abs(a[i, k]) > abs(a[best, k]):
                best = i
        if abs(a[best, k]) < 1e-12:
            return False
        if best != k:
            for j in range(k, n):
                a[k, j], a[best, j] = a[best, j], a[k, j]
            b[k], b[best] = b[best], b[k]
        for i in range(k + 1, n):
            w = a[i, k] / a[k, k]
            if w != 0.0:
                for j in range(k, n):
                    a[i, j] -= w * a[k, j]
                b[i] -= w * b[k]
    for k in range(n - 1, -1, -1):
        for j in range(k + 1, n):
            b[k] -= a[k, j] * b[j]
        b[k] /= a[k, k]
    return True


@kernel()
def _row(code: int, v: Any, c: Any, x: Any, g: Any) -> float:
    """An equation's value; its derivatives by its variables go to `g`. The codes are those of `equations`."""
    g[:] = 0.0
    if code == 0:  # sum
        g[0], g[1] = c[0], c[1]
        return float(c[0] * x[v[0]] + c[1] * x[v[1]] - c[2])
    if code == 1:  # point on line
        sin, cos = math.sin(x[v[0]]), math.cos(x[v[0]])
        g[0], g[1], g[2], g[3] = -cos * x[v[2]] - sin * x[v[3]], -1.0, -sin, cos
        return float(-sin * x[v[2]] + cos * x[v[3]] - x[v[1]])
    if code == 2:  # point on arc
        du, dv, r = x[v[0]] - x[v[2]], x[v[1]] - x[v[3]], x[v[4]]
        g[0], g[1], g[2], g[3], g[4] = 2 * du, 2 * dv, -2 * du, -2 * dv, -2 * r
        return float(du * du + dv * dv - r * r)
    if code == 3:  # line touches arc
        sin, cos = math.sin(x[v[0]]), math.cos(x[v[0]])
        g[0], g[1], g[2], g[3], g[4] = -cos * x[v[2]] - sin * x[v[3]], -1.0, -sin, cos, -c[0]
        return float(-sin * x[v[2]] + cos * x[v[3]] - x[v[1]] - c[0] * x[v[4]])
    if code == 4:  # foot
        sin, cos = math.sin(x[v[0]]), math.cos(x[v[0]])
        du, dv = x[v[1]] - x[v[3]], x[v[2]] - x[v[4]]
        g[0], g[1], g[2], g[3], g[4] = -sin * du + cos * dv, cos, sin, -cos, -sin
        return float(cos * du + sin * dv)
    if code == 5:  # arcs touch
        du, dv, dr = x[v[0]] - x[v[3]], x[v[1]] - x[v[4]], x[v[2]] - c[0] * x[v[5]]
        g[0], g[1], g[2], g[3], g[4], g[5] = 2 * du, 2 * dv, -2 * dr, -2 * du, -2 * dv, 2 * dr * c[0]
        return float(du * du + dv * dv - dr * dr)
    if code == 6:  # point on the line of two centres
        pu, pv = x[v[0]] - x[v[2]], x[v[1]] - x[v[3]]
        du, dv = x[v[4]] - x[v[2]], x[v[5]] - x[v[3]]
        g[0], g[1], g[2], g[3], g[4], g[5] = dv, -du, -dv + pv, du - pu, -pv, pu
        return float(pu * dv - pv * du)
    if code == 7:  # length
        du, dv = x[v[0]] - x[v[2]], x[v[1]] - x[v[3]]
        g[0], g[1], g[2], g[3] = 2 * du, 2 * dv, -2 * du, -2 * dv
        return float(du * du + dv * dv - c[0] * c[0])
    if code == 8:  # so far from a point
        du, dv = x[v[0]] - c[0], x[v[1]] - c[1]
        g[0], g[1] = 2 * du, 2 * dv
        return float(du * du + dv * dv - c[2] * c[2])
    if code == 9:  # on a ray
        sin, cos = math.sin(c[2]), math.cos(c[2])
        g[0], g[1] = -sin, cos
        return float(-sin * (x[v[0]] - c[0]) + cos * (x[v[1]] - c[1]))
    if code == 10:  # line through a point
        sin, cos = math.sin(x[v[0]]), math.cos(x[v[0]])
        g[0], g[1] = -cos * c[0] - sin * c[1], -1.0
        return float(-sin * c[0] + cos * c[1] - x[v[1]])
    if code == 11:  # arc through a point
        du, dv, r = c[0] - x[v[0]], c[1] - x[v[1]], x[v[2]]
        g[0], g[1], g[2] = -2 * du, -2 * dv, -2 * r
        return float(du * du + dv * dv - r * r)
    sin, cos = math.sin(c[0]), math.cos(c[0])  # sweep
    au, av, bu, bv = x[v[0]] - x[v[2]], x[v[1]] - x[v[3]], x[v[4]] - x[v[2]], x[v[5]] - x[v[3]]
    ru, rv = cos * au - sin * av, sin * au + cos * av
    g[0], g[1] = cos * bv - sin * bu, -sin * bv - cos * bu
    g[4], g[5] = -rv, ru
    g[2], g[3] = -g[0] - g[4], -g[1] - g[5]
    return float(ru * bv - rv * bu)
